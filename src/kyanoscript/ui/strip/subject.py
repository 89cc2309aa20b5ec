"""What a test strip is of: one value, or two, of the print or of a recipe that is tried."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from kyanoscript.core.params import Number
from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import FIELD, LEAST, MOST, Dial, around, bands, told

_BANDS, _FIELD = 7, 5  # at first


@dataclass(frozen=True)
class Subject:
    """A value that can be tried."""

    words: str
    spec: Number
    value: float  # as it is now
    put: Callable[[Script, float], Script]  # another value, into a script
    key: object = None  # the Dial, if it is one of the script


def of_dial(script: Script, dial: Dial) -> Subject | None:
    """A number of a script; None if it is not there."""
    spec = dial.spec(script)
    return Subject(dial.words(script), spec, dial.value(script), dial.put, dial) if spec is not None else None


@dataclass(frozen=True)
class Axis:
    """A value in steps."""

    subject: Subject
    low: float
    high: float
    count: int
    eye: bool  # steps even to the eye

    @property
    def values(self) -> tuple[float, ...]:
        """The bands, in order; the present value is one of them."""
        return bands(self.subject.spec, self.subject.value, self.low, self.high, self.count, self.eye)

    def text(self, value: float) -> str:
        """A value as it stands on its band."""
        return told(self.subject.spec, value, self.values)


def axis(subject: Subject, field: bool = False) -> Axis:
    """The first strip of a value: in steps round what it is now."""
    count = _FIELD if field else _BANDS
    low, high = around(subject.spec, subject.value, count)
    return Axis(subject, low, high, count, eye=subject.spec.ratio)


@dataclass(frozen=True)
class Strip:
    """All of it: one axis, or two for a field."""

    base: Script
    first: Axis
    second: Axis | None = None
    down: bool = False  # bands lie down the print instead of across
    same: bool = False  # every band shows the same part

    @property
    def cells(self) -> list[tuple[float, ...]]:
        """The values of every cell; of a field row by row, the second value down."""
        if self.second is None:
            return [(value,) for value in self.first.values]
        return [(a, b) for b in self.second.values for a in self.first.values]

    @property
    def grid(self) -> tuple[int, int]:
        """Columns and rows."""
        if self.second is not None:
            return len(self.first.values), len(self.second.values)
        count = len(self.first.values)
        return (1, count) if self.down else (count, 1)

    @property
    def present(self) -> int:
        """The cell of the present values."""
        own = (self.first.subject.value, *((self.second.subject.value,) if self.second is not None else ()))
        return self.cells.index(own)

    def script(self, cell: int) -> Script:
        """What a cell shows."""
        values = self.cells[cell]
        script = self.first.subject.put(self.base, values[0])
        return script if self.second is None else self.second.subject.put(script, values[1])

    def text(self, cell: int) -> str:
        """The values of a cell."""
        values = self.cells[cell]
        told = self.first.text(values[0])
        return told if self.second is None else f"{told}, {self.second.text(values[1])}"


def counts(field: bool) -> tuple[int, int]:
    """How many bands there can be each way."""
    return LEAST, FIELD if field else MOST
