"""Declaring parameters: each once, with unit, range, label and help.

The control on the slip, validation and its messages, the JSON Schema, `kyanoscript passes` and the reference page all
read this declaration (see `kinds`).
"""

from __future__ import annotations

import inspect
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Self

from kyanoscript.core.colour import hex_of, parse_hex
from kyanoscript.core.params import kinds
from kyanoscript.core.params.checks import After, Limits
from kyanoscript.core.params.kinds import LENGTH, Param
from kyanoscript.core.params.model import MISSING, Field, Model


class Declared(Model):
    """Frozen data whose fields are declared with the functions below: passes, the frame, shapes of a stencil."""

    tags: ClassVar[tuple[str, ...]] = ()  # fields that tell kinds of entries apart, and are no parameters
    bare: ClassVar[tuple[str, ...]] = ()  # fields that this class has without declaring them
    wrong: ClassVar[dict[str, str]] = {}  # what goes wrong with some of its parameters, by their names
    _params: ClassVar[dict[str, Param]]

    def with_(self, **values: Any) -> Self:
        """Another with values changed. Raises Invalid, a ValueError."""
        return type(self)(**{**dict(self), **values})

    @classmethod
    def params(cls) -> dict[str, Param]:
        """The declarations by parameter name."""
        found: dict[str, Param] | None = cls.__dict__.get("_params")
        if found is None:
            found = cls._params = _params(cls)
        return found

    @classmethod
    def number(cls, name: str) -> kinds.Number:
        """The declaration of a number."""
        spec = cls.params()[name]
        assert isinstance(spec, kinds.Number), f"{cls.__name__}.{name} is no number"
        return spec


def _params(model: type[Declared]) -> dict[str, Param]:
    found: dict[str, Param] = {}
    for owner in reversed(model.__mro__):  # in the order in which they are declared
        for name in inspect.get_annotations(owner):
            field = model.model_fields.get(name)
            if field is None or name in found or name in owner.__dict__.get("bare", ()):
                continue
            spec = field.spec
            if spec is not None:
                spec = replace(spec, wrong=owner.__dict__.get("wrong", {}).get(name, ""))
                whole = isinstance(spec, kinds.Number) and field.said in ("int", int)
                found[name] = replace(spec, whole=True) if whole else spec
            else:
                assert field.is_required() or name in model.tags, f"{model.__name__}.{name} is not declared"
    return found


def declared(spec: Param, default: Any = MISSING, **limits: Any) -> Any:
    """A field of a parameter; without a default it must be given."""
    return Field(default, spec=spec, **limits)


def number(default: float | None, low: float, high: float, unit: str, label: str, help: str = "", **more: Any) -> Any:
    """A number in the people's unit, within low…high."""
    spec = kinds.Number(label=label, help=help, unit=unit, low=low, high=high, **more)
    return declared(spec, default, low=low, high=high)


def choice(default: Any, choices: tuple[tuple[Any, str], ...], label: str, help: str = "", **more: Any) -> Any:
    """One of a few named values."""
    return declared(kinds.Choice(label=label, help=help, choices=choices, **more), default)


def toggle(default: bool, label: str, help: str = "", **more: Any) -> Any:
    """On or off."""
    return declared(kinds.Toggle(label=label, help=help, **more), default)


def length(default: float, low: float, high: float, label: str, help: str = "", **more: Any) -> Any:
    """A length in thousandths of the photograph's longer side, so that it carries over to any resolution."""
    return number(default, low, high, LENGTH, label, help, **{"decimals": 2, "step": 0.1, "ratio": low >= 0, **more})


def _colour(text: str) -> str:
    return hex_of(parse_hex(text))


Colour = Annotated[str, After(_colour)]


Handle = tuple[Annotated[float, Limits(low=0, high=360)], Annotated[float, Limits(low=-100, high=100)]]
Ring = tuple[Handle, ...]
Stop = tuple[Annotated[float, Limits(low=0, high=100)], Colour]


def _in_order(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    return tuple(sorted(stops, key=lambda stop: stop[0]))


Stops = Annotated[tuple[Stop, ...], After(_in_order)]
_Tone = Annotated[float, Limits(low=0, high=255)]
Point = tuple[_Tone, _Tone]


def _rising(points: tuple[Point, ...]) -> tuple[Point, ...]:
    """In the order of the tones that come in; of two points on one tone the later one counts."""
    return tuple(sorted({x: (x, y) for x, y in points}.values()))


Curve = Annotated[tuple[Point, ...], After(_rising)]


def ring(label: str, help: str = "") -> Any:
    """Handles on a circle of hue: (hue in degrees of Oklch, lift −100…100)."""
    return declared(kinds.Ring(label=label, help=help), (), longest=64)


def stops(default: tuple[tuple[float, str], ...], label: str, help: str = "") -> Any:
    """Colours on the scale of tones: (tone in per cent, colour)."""
    return declared(kinds.Stops(label=label, help=help), default, shortest=1, longest=64)


def curve(label: str, help: str = "", group: str = "") -> Any:
    """Points of a curve, tone in and tone out, 0…255; none: a straight line."""
    return declared(kinds.Curve(label=label, help=help, group=group), (), longest=32)


def ink(default: str, label: str, help: str = "", **more: Any) -> Any:
    """One colour."""
    return declared(kinds.Ink(label=label, help=help, **more), default)


def text(default: str, label: str, help: str = "", **more: Any) -> Any:
    """Words; at most 1000 characters."""
    return declared(kinds.Text(label=label, help=help, **more), default, longest=1000)


def listed(what: str, entries: tuple[type[Declared], ...], label: str, help: str = "", most: int = 16384) -> Any:
    """A list of declared entries; of several kinds they are told apart by a word."""
    return declared(kinds.Listed(label=label, help=help, what=what, entries=entries), (), longest=most)


def names(what: str, label: str, help: str = "", most: int = 64) -> Any:
    """Words in a row, each the name of one of ``what``."""
    return declared(kinds.Names(label=label, help=help, what=what), (), longest=most)


def part(model: type[Declared], label: str, help: str = "") -> Any:
    """Values under a name of their own; where they are not given they are as the part's own declarations have them."""
    # Made when it is first asked for: what is not used costs no time at the start.
    return Field(factory=model, spec=kinds.Nested(label=label, help=help, model=model))
