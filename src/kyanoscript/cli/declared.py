"""Options of the command line made from what is declared, and the values that were said with them."""

from __future__ import annotations

import argparse
import math
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

from kyanoscript.core.quoting import cut
from kyanoscript.translation import tr

if TYPE_CHECKING:  # loaded with what is declared, and only for the command that is said
    from kyanoscript.core.params import Declared, Param
    from kyanoscript.core.params.kinds import Toggle


def whole(text: str) -> int:
    """A whole number, for argparse."""
    try:
        return int(text)
    except ValueError:  # a word, or of more digits than Python takes
        raise argparse.ArgumentTypeError(tr("{text!r} is no whole number", text=cut(text))) from None


def number(text: str) -> float:
    """A number that is one: neither a word nor without end."""
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise argparse.ArgumentTypeError(tr("{text!r} is no number", text=cut(text)))
    return value


def add_values(
    command: argparse.ArgumentParser,
    model: type[Declared],
    *names: str,
    called: Mapping[str, str] = {},
    types: Mapping[str, Callable[[str], Any]] = {},
) -> None:
    """An option for each of some values. ``called``: those whose option has a name of its own; ``types``: how another
    way of writing a value is read."""
    from kyanoscript.core.params.kinds import Choice, Number, Toggle

    for name in names:
        spec, default = model.params()[name], model.model_fields[name].default
        if isinstance(spec, Toggle):
            word = called.get(name, f"--{'no-' * bool(default)}{_dashed(name)}")
            command.add_argument(
                word, dest=_place(model, name), action="store_const", const=not default, help=_switched(spec, default)
            )
            continue
        words: dict[str, Any] = {"help": _help(spec, default)}
        if isinstance(spec, Choice):
            words["choices"] = [value for value, _ in spec.choices]
            if all(isinstance(value, int) for value in words["choices"]):
                words["type"] = whole
        elif isinstance(spec, Number):
            words["type"] = types.get(name) or (whole if spec.whole else number)
            words["metavar"] = spec.unit.upper() if spec.unit.isalpha() else "NUMBER"
        words.setdefault("metavar", None if "choices" in words else name.upper())
        command.add_argument(called.get(name, f"--{_dashed(name)}"), dest=_place(model, name), **words)


def given(options: argparse.Namespace, model: type[Declared]) -> dict[str, Any]:
    """The values of a model that were said; the others are as they are."""
    said = {name: getattr(options, _place(model, name), None) for name in model.model_fields}
    return {name: value for name, value in said.items() if value is not None}


def _place(model: type[Declared], name: str) -> str:
    """Where a value is put down: another option of its name is something else."""
    return f"{model.__name__}.{name}"


def _switched(spec: Toggle, default: bool) -> str:
    return tr("{label}: off", label=_small(spec.label)) if default else f"{_small(spec.label)}: {_small(spec.help)}"


def _help(spec: Param, default: Any) -> str:
    from kyanoscript.core.params.kinds import Choice, Number, Text

    words = _small(spec.help)
    if isinstance(spec, Text):
        words = f"{_small(spec.label)}: {words}"
    if isinstance(spec, Number):
        words += f", {spec.range_text()}"
    if default in ("", None) and not (isinstance(spec, Number) and spec.nothing):
        return words.replace("%", "%%")
    return tr(
        "{words} (default {spec})", words=words, spec=default if isinstance(spec, Choice | Text) else spec.says(default)
    ).replace("%", "%%")


def _dashed(name: str) -> str:
    return name.replace("_", "-")


def _small(words: str) -> str:
    """The beginning of a sentence within another; an abbreviation stays."""
    return words if words[1:2].isupper() else f"{words[:1].lower()}{words[1:]}"
