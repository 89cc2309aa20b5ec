"""Parameters of passes: each is declared once, with unit, range, label and help.

The control on the slip, validation and its messages, the JSON Schema, `kyanoscript passes` and the reference page all
read this declaration.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from kyanoscript.core.colour import hex_of, parse_hex

Kind = Literal["number", "choice", "toggle", "ring", "stops", "curve", "colour", "text", "list", "run", "stencil"]
LENGTH = "\N{PER MILLE SIGN}"  # the unit of lengths: thousandths of the photograph's longer side


@dataclass(frozen=True)
class Param:
    """What is known of one parameter besides its value."""

    kind: Kind
    label: str
    help: str = ""
    unit: str = ""
    low: float = 0.0
    high: float = 1.0
    step: float = 1.0  # of one key press
    decimals: int = 0
    group: str = ""  # parameters of one group are shown together; several groups are shown one at a time
    choices: tuple[tuple[str, str], ...] = ()  # value, label
    mark: Literal["", "in", "mid", "out"] = ""  # drawn as a mark on the histogram of what comes in (or goes out)
    entries: tuple[type[Declared], ...] = ()  # what the entries of a list may be
    shown: bool = True  # on the slip as a control of its own
    when: tuple[str, ...] = ()  # another parameter and the values of it with which this one means anything

    def means(self, values: object) -> bool:
        """Whether the parameter has any effect beside the others of ``values``."""
        return not self.when or getattr(values, self.when[0]) in self.when[1:]

    def text(self, value: float) -> str:
        """The number with its unit, as people read it."""
        number_ = f"{value:.{self.decimals}f}".replace("-", "\N{MINUS SIGN}")
        if self.decimals and "." in number_:
            number_ = number_.rstrip("0").rstrip(".")
        return f"{number_} {self.unit}".rstrip()

    def range_text(self) -> str:
        """The legal range in words, for messages and the reference."""
        if self.kind == "number":
            low, high = (self.text(v).split(" ")[0] for v in (self.low, self.high))
            return f"{low}\N{HORIZONTAL ELLIPSIS}{high} {self.unit}".rstrip()
        return {
            "choice": "one of " + ", ".join(value for value, _ in self.choices),
            "toggle": "true or false",
            "ring": "pairs of hue 0\N{HORIZONTAL ELLIPSIS}360\N{DEGREE SIGN} and lift "
            "\N{MINUS SIGN}100\N{HORIZONTAL ELLIPSIS}100",
            "stops": "1 to 64 pairs of tone 0\N{HORIZONTAL ELLIPSIS}100 % and colour #rrggbb",
            "curve": "up to 32 pairs of tone in and tone out, 0\N{HORIZONTAL ELLIPSIS}255",
            "colour": "a colour #rrggbb",
            "text": "text",
            "list": "a list" + (f" of {self.unit}" if self.unit else ""),
            "run": "a list of passes",
            "stencil": "a stencil, the name of one of the script's stencils, or null",
        }[self.kind]


class Declared(BaseModel):
    """Frozen data whose fields are declared with the functions below: passes, the frame, shapes of a stencil."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, defer_build=True)

    @classmethod
    def params(cls) -> dict[str, Param]:
        """The declarations by parameter name."""
        found = {}
        for name, field in cls.model_fields.items():
            extra = field.json_schema_extra
            if isinstance(extra, dict):
                found[name] = extra["kyano"]
            else:  # the word that tells kinds of entries apart is no parameter
                assert field.is_required() or name in cls.tags, f"{cls.__name__}.{name} is not declared"
        return found  # type: ignore[return-value]

    tags: ClassVar[tuple[str, ...]] = ()  # names of such words


def number(
    default: float,
    low: float,
    high: float,
    unit: str,
    label: str,
    help: str = "",
    **more: Any,
) -> Any:
    """A number in the people's unit, within low…high."""
    spec = Param("number", label, help, unit, low, high, **more)
    return Field(default, ge=low, le=high, allow_inf_nan=False, json_schema_extra={"kyano": spec})  # type: ignore[dict-item]


def choice(default: str, choices: tuple[tuple[str, str], ...], label: str, help: str = "", group: str = "") -> Any:
    """One of a few named values."""
    spec = Param("choice", label, help, choices=choices, group=group)
    return Field(default, json_schema_extra={"kyano": spec})  # type: ignore[dict-item]


def toggle(default: bool, label: str, help: str = "", **more: Any) -> Any:
    """On or off."""
    return Field(default, json_schema_extra={"kyano": Param("toggle", label, help, **more)})  # type: ignore[dict-item]


def length(default: float, low: float, high: float, label: str, help: str = "", **more: Any) -> Any:
    """A length in thousandths of the photograph's longer side, so that it carries over to any resolution."""
    return number(default, low, high, LENGTH, label, help, **{"decimals": 2, "step": 0.1, **more})


def _colour(text: str) -> str:
    return hex_of(parse_hex(text))


Colour = Annotated[str, AfterValidator(_colour)]

Handle = tuple[
    Annotated[float, Field(ge=0, le=360, allow_inf_nan=False)],
    Annotated[float, Field(ge=-100, le=100, allow_inf_nan=False)],
]
Ring = Annotated[tuple[Handle, ...], Field(max_length=64)]

Stop = tuple[Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)], Colour]


def _in_order(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    return tuple(sorted(stops, key=lambda stop: stop[0]))


Stops = Annotated[tuple[Stop, ...], Field(min_length=1, max_length=64), AfterValidator(_in_order)]


def ring(label: str, help: str = "") -> Any:
    """Handles on a circle of hue: (hue in degrees of Oklch, lift −100…100)."""
    return Field((), json_schema_extra={"kyano": Param("ring", label, help)})  # type: ignore[dict-item]


def stops(default: tuple[tuple[float, str], ...], label: str, help: str = "") -> Any:
    """Colours on the scale of tones: (tone in per cent, colour)."""
    return Field(default, json_schema_extra={"kyano": Param("stops", label, help)})  # type: ignore[dict-item]


Point = tuple[
    Annotated[float, Field(ge=0, le=255, allow_inf_nan=False)],
    Annotated[float, Field(ge=0, le=255, allow_inf_nan=False)],
]


def _rising(points: tuple[Point, ...]) -> tuple[Point, ...]:
    """In the order of the tones that come in; of two points on one tone the later one counts."""
    return tuple(sorted({x: (x, y) for x, y in points}.values()))


Curve = Annotated[tuple[Point, ...], Field(max_length=32), AfterValidator(_rising)]


def curve(label: str, help: str = "", group: str = "") -> Any:
    """Points of a curve, tone in and tone out, 0…255; none: a straight line."""
    return Field((), json_schema_extra={"kyano": Param("curve", label, help, group=group)})  # type: ignore[dict-item]


def ink(default: str, label: str, help: str = "", **more: Any) -> Any:
    """One colour."""
    return Field(default, json_schema_extra={"kyano": Param("colour", label, help, **more)})  # type: ignore[dict-item]


def text(default: str, label: str, help: str = "", **more: Any) -> Any:
    """Words; at most 1000 characters."""
    spec = Param("text", label, help, **more)
    return Field(default, max_length=1000, json_schema_extra={"kyano": spec})  # type: ignore[dict-item]


def listed(what: str, entries: tuple[type[Declared], ...], label: str, help: str = "", most: int = 4096) -> Any:
    """A list of declared entries; of several kinds they are told apart by a word."""
    spec = Param("list", label, help, what, entries=entries)
    return Field((), max_length=most, json_schema_extra={"kyano": spec})  # type: ignore[dict-item]
