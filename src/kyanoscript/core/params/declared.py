"""Declaring parameters: each once, with unit, range, label and help.

The control on the slip, validation and its messages, the JSON Schema, `kyanoscript passes` and the reference page all
read this declaration (see `kinds`).
"""

from __future__ import annotations

import functools
import inspect
import threading
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from kyanoscript.core.colour import hex_of, parse_hex
from kyanoscript.core.params import kinds
from kyanoscript.core.params.kinds import LENGTH, Param

_completing = threading.RLock()


class Declared(BaseModel):
    """Frozen data whose fields are declared with the functions below: passes, the frame, shapes of a stencil."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, defer_build=True)

    tags: ClassVar[tuple[str, ...]] = ()  # fields that tell kinds of entries apart, and are no parameters
    bare: ClassVar[tuple[str, ...]] = ()  # fields that this class has without declaring them

    def __new__(cls, *args: Any, **kwargs: Any) -> Self:
        cls.complete()
        return super().__new__(cls)

    @classmethod
    def complete(cls) -> None:
        """Have its validator, which is made when it is first used: by one thread. Two at once would take it away from a
        third for a moment, which then finds that of the class above, and is refused its own fields (pydantic to 2.13).
        """
        if not cls.__pydantic_complete__:
            with _completing:
                if not cls.__pydantic_complete__:
                    cls.model_rebuild()

    def with_(self, **values: Any) -> Self:
        """Another with values changed. Raises pydantic's ValidationError, a ValueError."""
        return type(self)(**{**dict(self), **values})

    @classmethod
    def params(cls) -> dict[str, Param]:
        """The declarations by parameter name."""
        return _params(cls)

    @classmethod
    def number(cls, name: str) -> kinds.Number:
        """The declaration of a number."""
        spec = _params(cls)[name]
        assert isinstance(spec, kinds.Number), f"{cls.__name__}.{name} is no number"
        return spec


@functools.cache
def _params(model: type[Declared]) -> dict[str, Param]:
    found: dict[str, Param] = {}
    for owner in reversed(model.__mro__):  # in the order in which they are declared
        for name in inspect.get_annotations(owner):
            field = model.model_fields.get(name)
            if field is None or name in found or name in owner.__dict__.get("bare", ()):
                continue
            extra = field.json_schema_extra
            if isinstance(extra, dict):
                spec: Any = extra["kyano"]
                whole = isinstance(spec, kinds.Number) and field.annotation is int
                found[name] = replace(spec, whole=True) if whole else spec
            else:
                assert field.is_required() or name in model.tags, f"{model.__name__}.{name} is not declared"
    return found


def declared(spec: Param, default: Any = ..., **limits: Any) -> Any:
    """A field of a parameter; without a default it must be given."""
    # The declaration rides along as an extra of the schema, which pydantic would have be plain JSON.
    extra: Any = {"kyano": spec}
    return Field(default, json_schema_extra=extra, **limits)


def number(default: float | None, low: float, high: float, unit: str, label: str, help: str = "", **more: Any) -> Any:
    """A number in the people's unit, within low…high."""
    spec = kinds.Number(label=label, help=help, unit=unit, low=low, high=high, **more)
    return declared(spec, default, ge=low, le=high, allow_inf_nan=False)


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


Colour = Annotated[str, AfterValidator(_colour)]


def _span(low: float, high: float) -> Any:
    return Field(ge=low, le=high, allow_inf_nan=False)


Handle = tuple[Annotated[float, _span(0, 360)], Annotated[float, _span(-100, 100)]]
Ring = Annotated[tuple[Handle, ...], Field(max_length=64)]
Stop = tuple[Annotated[float, _span(0, 100)], Colour]


def _in_order(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    return tuple(sorted(stops, key=lambda stop: stop[0]))


Stops = Annotated[tuple[Stop, ...], Field(min_length=1, max_length=64), AfterValidator(_in_order)]
Point = tuple[Annotated[float, _span(0, 255)], Annotated[float, _span(0, 255)]]


def _rising(points: tuple[Point, ...]) -> tuple[Point, ...]:
    """In the order of the tones that come in; of two points on one tone the later one counts."""
    return tuple(sorted({x: (x, y) for x, y in points}.values()))


Curve = Annotated[tuple[Point, ...], Field(max_length=32), AfterValidator(_rising)]


def ring(label: str, help: str = "") -> Any:
    """Handles on a circle of hue: (hue in degrees of Oklch, lift −100…100)."""
    return declared(kinds.Ring(label=label, help=help), ())


def stops(default: tuple[tuple[float, str], ...], label: str, help: str = "") -> Any:
    """Colours on the scale of tones: (tone in per cent, colour)."""
    return declared(kinds.Stops(label=label, help=help), default)


def curve(label: str, help: str = "", group: str = "") -> Any:
    """Points of a curve, tone in and tone out, 0…255; none: a straight line."""
    return declared(kinds.Curve(label=label, help=help, group=group), ())


def ink(default: str, label: str, help: str = "", **more: Any) -> Any:
    """One colour."""
    return declared(kinds.Ink(label=label, help=help, **more), default)


def text(default: str, label: str, help: str = "", **more: Any) -> Any:
    """Words; at most 1000 characters."""
    return declared(kinds.Text(label=label, help=help, **more), default, max_length=1000)


def listed(what: str, entries: tuple[type[Declared], ...], label: str, help: str = "", most: int = 16384) -> Any:
    """A list of declared entries; of several kinds they are told apart by a word."""
    return declared(kinds.Listed(label=label, help=help, what=what, entries=entries), (), max_length=most)


def names(what: str, label: str, help: str = "", most: int = 64) -> Any:
    """Words in a row, each the name of one of ``what``."""
    return declared(kinds.Names(label=label, help=help, what=what), (), max_length=most)


def part(model: type[Declared], label: str, help: str = "") -> Any:
    """Values under a name of their own; where they are not given they are as the part's own declarations have them."""
    # Made when it is first asked for: what is not used costs no time at the start.
    extra: Any = {"kyano": kinds.Nested(label=label, help=help, model=model)}
    return Field(default_factory=model, json_schema_extra=extra)
