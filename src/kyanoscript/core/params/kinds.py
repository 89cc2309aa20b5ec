"""Kinds of parameters: what is known of one besides its value, and all that can be said and done with its values.

Whoever needs to know something of a parameter asks its kind: messages and the reference (`range_text`), the JSON Schema
(`schema`), words for a value (`says`) and for two of them (`difference`), values to try side by side (`steps`), and
which control it has (`widget`).

Longer than most: one short class a kind, which are read side by side.
"""

from __future__ import annotations

import math
from abc import abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from kyanoscript.translation import decimal, spoken, tr, trn

LENGTH = "\N{PER MILLE SIGN}"  # the unit of lengths: thousandths of the photograph's longer side
Schema = dict[str, Any]
Refer = Callable[[Any], Schema]  # the schema of a declared model, or by its name of one that is defined elsewhere
_ARROW, _TO = "\N{RIGHTWARDS ARROW}", "\N{HORIZONTAL ELLIPSIS}"
_TOLD = 3  # differences within one value that are told one by one


@dataclass(frozen=True, kw_only=True)
class Param:
    """What is known of one parameter besides its value."""

    kind: ClassVar[str]  # its name in the list of passes
    widget: ClassVar[str]  # the control it has on the slip
    large: ClassVar[bool] = False  # the control is a picture to work in, and stands before the others

    label: str
    help: str = ""
    wrong: str = ""  # what goes wrong with it; of a pass's parameters without one: what goes wrong with the pass
    group: str = ""  # parameters of one group are shown together; several groups are shown one at a time
    shown: bool = True  # on the slip as a control of its own
    when: tuple[Any, ...] = ()  # another parameter and the values of it with which this one means anything

    def means(self, values: object) -> bool:
        """Whether the parameter has any effect beside the others of ``values``."""
        return not self.when or getattr(values, self.when[0]) in self.when[1:]

    @abstractmethod
    def range_text(self) -> str:
        """The legal range in words, for messages and the reference."""

    @abstractmethod
    def schema(self, refer: Refer) -> Schema:
        """JSON Schema of its values."""

    @abstractmethod
    def says(self, value: Any) -> str:
        """A value in words, with its unit."""

    def difference(self, before: Any, after: Any) -> str:
        """What has become of a value, in words that name the parameter; empty if nothing has."""
        if before == after:
            return ""
        return f"{spoken(self._named())} {self._differ(before, after)}"

    def moved(self, before: Any, after: Any) -> str:
        """The same without the name: ``1.08 → 1.25``; empty if nothing has become of it."""
        return self._differ(before, after) if before != after else ""

    def _named(self) -> str:
        return f"{self.label[:1].lower()}{self.label[1:]}"

    def _differ(self, before: Any, after: Any) -> str:
        return f"{self.says(before)} {_ARROW} {self.says(after)}"

    def steps(self, value: Any, count: int) -> tuple[Any, ...]:
        """About ``count`` values round a present one, which is among them, in order: for test strips and keys.

        () where values do not lie in any order.
        """
        return ()

    def described(self) -> dict[str, Any]:
        """What there is to say of it besides name, label, help and range, as plain data."""
        return {}

    def meant(self) -> Sequence[str]:
        """Words among which a wrong one may have been meant."""
        return ()

    def entries_of(self) -> tuple[type[Any], ...]:
        """What its values are made of, if they are declared themselves."""
        return ()

    def pictures(self, value: Any) -> list[str]:
        """Files of pictures that a value names."""
        return []


@dataclass(frozen=True, kw_only=True)
class Number(Param):
    """A number in the people's unit."""

    kind = "number"
    widget = "slider"

    unit: str = ""
    low: float = 0.0
    high: float = 1.0
    step: float = 1.0  # of one key press
    decimals: int = 0
    whole: bool = False  # only whole numbers
    nothing: str = ""  # what it means if there is none; empty: there is always one
    ratio: bool = False  # the eye sees ratios of it as equal steps, not differences
    mark: Literal["", "in", "mid", "out"] = ""  # drawn as a mark on the histogram of what comes in (or goes out)

    def text(self, value: float) -> str:
        """The number with its unit, as people read it."""
        return f"{self._bare(value)} {spoken(self.unit)}".rstrip()

    def _bare(self, value: float) -> str:
        shown = f"{value:.{self.decimals}f}".replace("-", "\N{MINUS SIGN}")
        return decimal(shown.rstrip("0").rstrip(".") if self.decimals and "." in shown else shown)

    def says(self, value: Any) -> str:
        return self.nothing if value is None else self.text(value)

    def _differ(self, before: Any, after: Any) -> str:
        return f"{self._bare(before)} {_ARROW} {self.text(after)}"

    def range_text(self) -> str:
        return f"{self._bare(self.low)}{_TO}{self._bare(self.high)} {spoken(self.unit)}".rstrip()

    def schema(self, refer: Refer) -> Schema:
        return {"type": "integer" if self.whole else "number", "minimum": self.low, "maximum": self.high}

    def described(self) -> dict[str, Any]:
        return {"unit": self.unit, "min": self.low, "max": self.high}

    def share(self, value: float) -> float:
        """Where a value lies between the lowest, 0, and the highest, 1: evenly, or for ratios evenly to the eye."""
        return self._bent(value) if self.ratio else (value - self.low) / (self.high - self.low)

    def at(self, share: float) -> float:
        """The value that lies there."""
        if not self.ratio:
            return self.low + share * (self.high - self.low)
        if self.low > 0:
            return self.low * (self.high / self.low) ** share
        return 2 * self.step * math.sinh(share * math.asinh(self.high / (2 * self.step)))

    def _bent(self, value: float) -> float:
        """By its logarithm; where the lowest is 0, straight at the foot."""
        if self.low > 0:
            return math.log(max(value, self.low) / self.low) / math.log(self.high / self.low)
        return math.asinh(value / (2 * self.step)) / math.asinh(self.high / (2 * self.step))

    def held(self, value: float) -> float:
        """The nearest legal number."""
        value = min(max(value, self.low), self.high)
        return round(value) if self.whole else value

    def steps(self, value: Any, count: int) -> tuple[Any, ...]:
        """In equal steps of ten key presses, or in ratios of √2; closer together where there is not so much room."""
        ratio = self.ratio and value > 0
        forth, back = (math.log, math.exp) if ratio else (float, float)
        each = math.log(2) / 2 if ratio else 10 * self.step
        finest = 10.0**-self.decimals
        low, high = forth(max(self.low, finest) if ratio else self.low), forth(self.high)
        here = min(max(forth(value), low), high)
        each = min(each, (high - low) / max(1, count - 1))
        if not ratio:
            each = max(finest, math.floor(round(each / finest, 6)) * finest)  # in values that can be typed
        below = min(count // 2, math.floor((here - low) / each + 1e-9))
        below = max(below, count - 1 - math.floor((high - here) / each + 1e-9))
        found = [round(back(here + (k - below) * each), self.decimals) for k in range(count)]
        found[below : below + 1] = [value]
        legal = (min(max(at, self.low), self.high) for at in found if self.low - finest < at < self.high + finest)
        return tuple(dict.fromkeys(round(at) if self.whole else at for at in legal))


@dataclass(frozen=True, kw_only=True)
class Choice(Param):
    """One of a few named values."""

    kind = "choice"
    widget = "list"

    choices: tuple[tuple[Any, str], ...] = ()  # value, label

    def range_text(self) -> str:
        return "one of " + ", ".join(str(value) for value, _ in self.choices)

    def schema(self, refer: Refer) -> Schema:
        return {"enum": [value for value, _ in self.choices]}

    def says(self, value: Any) -> str:
        return dict(self.choices).get(value, str(value))

    def steps(self, value: Any, count: int) -> tuple[Any, ...]:
        return tuple(value for value, _ in self.choices)

    def described(self) -> dict[str, Any]:
        return {"choices": [value for value, _ in self.choices]}

    def meant(self) -> Sequence[str]:
        return [str(value) for value, _ in self.choices]


@dataclass(frozen=True, kw_only=True)
class Toggle(Param):
    """On or off."""

    kind = "toggle"
    widget = "tick"

    def range_text(self) -> str:
        return "true or false"

    def schema(self, refer: Refer) -> Schema:
        return {"type": "boolean"}

    def says(self, value: Any) -> str:
        return "on" if value else "off"

    def steps(self, value: Any, count: int) -> tuple[Any, ...]:
        return (False, True)


def _pairs(first: Schema, second: Schema, least: int, most: int) -> Schema:
    pair = {"type": "array", "prefixItems": [first, second], "minItems": 2, "maxItems": 2}
    return {"type": "array", "items": pair, "minItems": least, "maxItems": most}


def _span(low: float, high: float) -> Schema:
    return {"type": "number", "minimum": low, "maximum": high}


_COLOUR: Schema = {"type": "string", "pattern": "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$"}


@dataclass(frozen=True, kw_only=True)
class Pairs(Param):
    """Points that have a place on some scale, and a value there."""

    large = True

    noun: ClassVar[str]  # what one is called
    low: ClassVar[float] = 0.0  # of the value
    high: ClassVar[float] = 0.0

    @abstractmethod
    def place(self, point: Any) -> str:
        """Where a point lies, in words."""

    @abstractmethod
    def value(self, point: Any) -> str:
        """What it has there, in words."""

    def says(self, value: Any) -> str:
        many = len(value)
        return f"{many or 'no'} {self.noun}{'' if many == 1 else 's'}"

    def _differ(self, before: Any, after: Any) -> str:
        old, new = dict(before), dict(after)
        moved = [
            f"{self.place(at)} {self.value(old[at])} {_ARROW} {self.value(new[at])}"
            for at in sorted(old.keys() & new.keys())
            if old[at] != new[at]
        ]
        words = moved[:_TOLD]
        if len(moved) > _TOLD:
            words.append(tr("{count} more", count=len(moved) - _TOLD))
        for points, what in ((new.keys() - old.keys(), "new"), (old.keys() - new.keys(), "gone")):
            if points:
                words.append(
                    tr("{what} at {join}", what=what, join=", ".join(self.place(at) for at in sorted(points)[:_TOLD]))
                )
        return ": " + ", ".join(words)

    def difference(self, before: Any, after: Any) -> str:
        return super().difference(before, after).replace(" : ", ": ", 1)

    def _scaled(self, value: Any, count: int, rest: Callable[[float], float]) -> tuple[Any, ...]:
        """The same shape from nothing to twice as strong, held within its limits."""
        if not value:
            return ()
        half = max(1, count // 2)

        def lies(x: float, y: float, share: float) -> float:
            return min(max(round(rest(x) + (y - rest(x)) * share, 2), self.low), self.high)

        def at(share: float) -> Any:
            return tuple((x, lies(x, y, share)) for x, y in value)

        return tuple(dict.fromkeys(value if k == half else at(k / half) for k in range(2 * half + 1)))


@dataclass(frozen=True, kw_only=True)
class Ring(Pairs):
    """Handles on a circle of hue: hue in degrees of Oklch, lift."""

    kind = "ring"
    widget = "ring"
    noun = "handle"
    low, high = -100.0, 100.0

    def range_text(self) -> str:
        return tr("pairs of hue 0{to}360° and lift −100{to}100", to=_TO)

    def schema(self, refer: Refer) -> Schema:
        return _pairs(_span(0, 360), _span(-100, 100), 0, 64)

    def place(self, point: Any) -> str:
        return f"{point:g}\N{DEGREE SIGN}"

    def value(self, point: Any) -> str:
        return f"{point:g}".replace("-", "\N{MINUS SIGN}")

    def steps(self, value: Any, count: int) -> tuple[Any, ...]:
        return self._scaled(value, count, lambda hue: 0.0)


@dataclass(frozen=True, kw_only=True)
class Curve(Pairs):
    """Points of a curve: tone in, tone out."""

    kind = "curve"
    widget = "curve"
    noun = "point"
    low, high = 0.0, 255.0

    def range_text(self) -> str:
        return tr("up to 32 pairs of tone in and tone out, 0{to}255", to=_TO)

    def schema(self, refer: Refer) -> Schema:
        return _pairs(_span(0, 255), _span(0, 255), 0, 32)

    def place(self, point: Any) -> str:
        return f"{point:g}"

    def value(self, point: Any) -> str:
        return f"{point:g}"

    def steps(self, value: Any, count: int) -> tuple[Any, ...]:
        return self._scaled(value, count, lambda tone: tone)


@dataclass(frozen=True, kw_only=True)
class Stops(Pairs):
    """Colours on the scale of tones: tone in per cent, colour."""

    kind = "stops"
    widget = "stops"
    noun = "stop"

    def range_text(self) -> str:
        return tr("1 to 64 pairs of tone 0{to}100 % and colour #rrggbb", to=_TO)

    def schema(self, refer: Refer) -> Schema:
        return _pairs(_span(0, 100), _COLOUR, 1, 64)

    def place(self, point: Any) -> str:
        return f"{point:g} %"

    def value(self, point: Any) -> str:
        return str(point)


@dataclass(frozen=True, kw_only=True)
class Ink(Param):
    """One colour."""

    kind = "colour"
    widget = "colour"

    def range_text(self) -> str:
        return "a colour #rrggbb"

    def schema(self, refer: Refer) -> Schema:
        return _COLOUR

    def says(self, value: Any) -> str:
        return str(value)


@dataclass(frozen=True, kw_only=True)
class Text(Param):
    """Words."""

    kind = "text"
    widget = "entry"

    names: Literal["", "file", "model"] = ""  # of a picture: a plate's, or one that lends its colours
    live: bool = False  # taken letter by letter
    example: str = ""

    def range_text(self) -> str:
        return "text"

    def schema(self, refer: Refer) -> Schema:
        return {"type": "string", "maxLength": 1000}

    def says(self, value: Any) -> str:
        return f"“{value}”" if value else "nothing"

    def pictures(self, value: Any) -> list[str]:
        return [value] if self.names and value else []


@dataclass(frozen=True, kw_only=True)
class Listed(Param):
    """Things in a row, that are declared themselves; or places."""

    kind = "list"
    widget = "entries"

    what: str = ""  # they are called
    entries: tuple[type[Any], ...] = ()  # what they may be; of several kinds they are told apart by a word

    def range_text(self) -> str:
        return "a list" + (tr(" of {what}", what=self.what) if self.what else "")

    def schema(self, refer: Refer) -> Schema:
        if self.entries:
            return {"type": "array", "items": {"oneOf": [refer(entry) for entry in self.entries]}}
        place = {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 3}
        return {"type": "array", "items": place}

    def says(self, value: Any) -> str:
        return f"{len(value) or 'no'} {self.what or 'entries'}"

    def _differ(self, before: Any, after: Any) -> str:
        return _counted(before, after)

    def entries_of(self) -> tuple[type[Any], ...]:
        return self.entries


@dataclass(frozen=True, kw_only=True)
class Names(Param):
    """Words in a row, each the name of something."""

    kind = "names"
    widget = ""  # what there is to name, only its own page knows

    what: str  # they are names of

    def range_text(self) -> str:
        return tr("a list of names of {what}", what=self.what)

    def schema(self, refer: Refer) -> Schema:
        return {"type": "array", "items": {"type": "string", "maxLength": 1000}}

    def says(self, value: Any) -> str:
        return ", ".join(f"“{name}”" for name in value) or "none"


@dataclass(frozen=True, kw_only=True)
class Nested(Param):
    """Values that are declared themselves, under a name of their own."""

    kind = "part"
    widget = ""  # its values have controls of their own

    model: type[Any]

    def range_text(self) -> str:
        return "names with their values"

    def schema(self, refer: Refer) -> Schema:
        return refer(self.model)

    def says(self, value: Any) -> str:
        told = (
            spec.difference(getattr(self.model(), name), getattr(value, name)) for name, spec in value.params().items()
        )
        return ", ".join(filter(None, told)) or "as on any"

    def _differ(self, before: Any, after: Any) -> str:
        told = (spec.difference(getattr(before, name), getattr(after, name)) for name, spec in after.params().items())
        return ": " + ", ".join(filter(None, told))

    def difference(self, before: Any, after: Any) -> str:
        return super().difference(before, after).replace(" : ", ": ", 1)

    def entries_of(self) -> tuple[type[Any], ...]:
        return (self.model,)


def _counted(before: Sequence[Any], after: Sequence[Any]) -> str:
    """How many there are more or fewer; of as many, how many differ."""
    by = len(after) - len(before)
    if by:
        return f"{len(before)} {_ARROW} {len(after)}"
    return tr(
        "{sum} of {count} otherwise", sum=sum((a != b for a, b in zip(before, after, strict=True))), count=len(after)
    )


@dataclass(frozen=True, kw_only=True)
class Run(Param):
    """Passes that prepare a plate."""

    kind = "run"
    widget = "run"

    def range_text(self) -> str:
        return "a list of passes"

    def schema(self, refer: Refer) -> Schema:
        return {"type": "array", "items": refer("pass")}

    def says(self, value: Any) -> str:
        return trn("{count} pass", "{count} passes", len(value), count=len(value) or "no")

    def _differ(self, before: Any, after: Any) -> str:
        return _counted(before, after)


@dataclass(frozen=True, kw_only=True)
class Where(Param):
    """A stencil, or the name of one of the script's."""

    kind = "stencil"
    widget = ""  # it is drawn on the picture

    model: type[Any]  # what a stencil is

    def range_text(self) -> str:
        return "a stencil, the name of one of the script's stencils, or null"

    def schema(self, refer: Refer) -> Schema:
        return {"oneOf": [refer("stencil"), {"type": "string"}, {"type": "null"}]}

    def says(self, value: Any) -> str:
        if value is None:
            return "everywhere"
        if isinstance(value, str):
            return f"“{value}”"
        many = len(value.shapes)
        return trn("{many} part", "{many} parts", many, many=many)

    def _differ(self, before: Any, after: Any) -> str:
        told = self.says(before), self.says(after)
        return "otherwise" if told[0] == told[1] else f"{told[0]} {_ARROW} {told[1]}"

    def entries_of(self) -> tuple[type[Any], ...]:
        return (self.model,)
