"""A process as data: what was used, what was read, and what the print is to be. The curve follows from it."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import ClassVar

import numpy as np

from kyanoscript.core.params import Colour, Declared, choice, ink, listed, number, text, toggle
from kyanoscript.core.process.aims import Array
from kyanoscript.core.process.response import (
    Left,
    Response,
    curve_of,
    left_over,
    respond,
    scale_of,
    shortest_time,
)
from kyanoscript.core.process.wanted import AIMS
from kyanoscript.translation import tr

POINTS = 4097  # of the curve as a table
_SHORT, _WELL_READ = 50.0, 15  # per cent of the wedge in which tones move, and steps there that are enough


class Reading(Declared):
    """One patch of a wedge."""

    value: float = number(0, 0, 100, "%", "Value", "Of the wedge as it was on the film")
    lightness: float = number(0, 0, 110, "", "L*", "Of the dried print")
    a: float = number(0, -128, 128, "", "a*", "Of the dried print")
    b: float = number(0, -128, 128, "", "b*", "Of the dried print")
    used: bool = toggle(True, "Counts", "Left out by hand, or damaged, it does not")


class Proved(Declared):
    """One patch of a wedge that went through the curve."""

    tone: float = number(0, 0, 100, "%", "Tone", "That was wanted")
    lightness: float = number(0, 0, 110, "", "L*", "That was read")


class Exposure(Declared):
    """One patch of a strip of exposures."""

    minutes: float = number(1, 0.001, 100_000, "min", "Time", "For which light fell on it")
    lightness: float = number(0, 0, 110, "", "L*", "Of the dried print")


class Process(Declared):
    """How a print is made by light, and how that answers."""

    wrong: ClassVar[dict[str, str]] = {
        "minutes": "Other times need another process, or a strip of exposures",
        "humidity": "Dry coating is slower and its blacks are weaker",
        "ink": "An ink that lets the light through gives gray where white is wanted",
        "white": "Typed too high, the whole curve is too dark",
        "aim": "Even in density is not even to the eye",
        "smoothing": "Too much hides what the paper really does",
        "negative": "Off, the wedge is printed as a positive",
        "mirrored": "Off, the film's thickness lies between ink and paper, and edges are soft",
    }

    name: str = text("New process", "Name", "What it is called")
    paper: str = text("", "Paper", "And how it was sized")
    chemistry: str = text("", "Chemistry", "What it was coated with")
    light: str = text("", "Light", "Lamp, sun, and how far away")
    minutes: float = number(10, 0.01, 10_000, "min", "Time", "Of the exposure", decimals=2, ratio=True)
    humidity: float = number(50, 0, 100, "%", "Humidity", "Of the air, when it was coated", whole=True)
    notes: str = text("", "Notes", "Anything that is to be known the next time")
    date: str = text("", "Date", "Of the last reading")
    steps: int = number(21, 11, 101, "", "Steps", "Of its wedge", whole=True)
    negative: bool = toggle(True, "Negative", "On film for light; off: printed in ink as it is")
    mirrored: bool = toggle(True, "Mirrored, emulsion to emulsion", "The film lies with its ink on the paper")
    read_ink: Colour = ink("#000000", "Ink of the readings", "That the wedge was printed in when it was read")
    read_minutes: float = number(0, 0, 10_000, "min", "Time of the readings", "0: not known", decimals=1)
    ink: Colour = ink("#000000", "Filter ink", "The colour of ink that holds the light back")
    white: float = number(0, 0, 100, "", "Paper's L*", "As measured; 0: what its scan has at the lightest", decimals=1)
    aim: str = choice("lightness", tuple(AIMS.items()), "Even in", "What the print is to be even in")
    smoothing: float = number(
        1, 0.01, 100, "×", "Smoothed", "How much more than the noise of the readings asks for", decimals=2, ratio=True
    )
    close_from: float = number(0, 0, 100, "%", "Tones move from", "Value of the wedge; the close wedge begins there")
    close_to: float = number(100, 0, 100, "%", "Tones move to", "Value of the wedge; the close wedge ends there")
    readings: tuple[Reading, ...] = listed("readings", (Reading,), "Readings", "Of the wedge")
    proof: tuple[Proved, ...] = listed("proofs", (Proved,), "Proved", "Of the wedge through the curve")
    times_white: float = number(0, 0, 110, "", "White of the strip", "L* of the paper beside the exposures")
    times: tuple[Exposure, ...] = listed("exposures", (Exposure,), "Exposures", "Of a strip of them")

    def read(self, readings: tuple[Reading, ...], more: bool = False) -> Process:
        """With other readings, or with ``more`` of them, made as the process is now."""
        every = (*self.readings, *readings) if more else readings
        made = self.with_(readings=every, proof=(), read_ink=self.ink, read_minutes=self.minutes)
        if more and self.readings:
            return made
        try:  # a wedge that was printed for another range is of no use any more
            found = made.response()
            first, last = found.moving() if found is not None else (0.0, 100.0)
        except ValueError:
            first, last = 0.0, 100.0
        return made.with_(close_from=first, close_to=last)

    def close_values(self, shares: Iterable[float]) -> dict[float, float]:
        """The value of the film for each share of the range in which its tones move. Raises ValueError without one."""
        if not self.readings:
            raise ValueError(
                tr(
                    "{name} has no readings yet, so it is not known where its tones move; read a wedge first",
                    name=self.name,
                )
            )
        if not 0 < self.close_to - self.close_from < 100:
            raise ValueError(
                tr(
                    "the tones of {name} move over the whole wedge, as far as is known; a close one tells nothing more",
                    name=self.name,
                )
            )
        return {share: round(self.close_from + share / 100 * (self.close_to - self.close_from), 4) for share in shares}

    def close_wanted(self) -> str:
        """That a close wedge would tell more, in words; empty where it would not, or was read."""
        wide = self.close_to - self.close_from
        inside = {one.value for one in self.readings if self.close_from <= one.value <= self.close_to}
        if not self.readings or wide > _SHORT or len(inside) >= _WELL_READ:
            return ""
        return tr(
            "its tones move between {close_from:g} and {close_to:g} % of the wedge only, which are "
            "{count} steps; a close wedge over these tells more",
            close_from=self.close_from,
            close_to=self.close_to,
            count=len(inside),
        )

    def stale(self) -> list[str]:
        """What has changed since the wedge was read, so that its curve is another's, in words."""
        if not self.readings:
            return []
        said = []
        if self.ink != self.read_ink:
            said.append(
                tr(
                    "the wedge was read in the ink {read_ink}, and not in {ink}; read it again",
                    read_ink=self.read_ink,
                    ink=self.ink,
                )
            )
        if self.read_minutes and abs(self.minutes / self.read_minutes - 1) > 0.05:
            said.append(
                tr(
                    "the wedge was read at {read_minutes:g} min, and not at {minutes:g}; read it again",
                    read_minutes=self.read_minutes,
                    minutes=self.minutes,
                )
            )
        return said

    def pairs(self) -> list[tuple[float, float]]:
        """Values and L* of the readings that count."""
        return [(one.value, one.lightness) for one in self.readings if one.used]

    def response(self) -> Response | None:
        """How it answers; None before it was read. Raises ValueError, in words."""
        return respond(self.pairs(), self.smoothing) if self.readings else None

    def curve(self, aim: str = "") -> Array:
        """The value of the film, 0…100, for `POINTS` tones wanted from paper white to black; without readings as it is.

        Raises ValueError, in words.
        """
        tones, found = np.linspace(0, 100, POINTS), self.response()
        return tones if found is None else curve_of(found, aim or self.aim, tones)

    def film_values(self, tones: Iterable[float]) -> dict[float, float]:
        """The value of the film for each tone of a wedge through the curve."""
        table = self.curve()
        return {tone: float(np.interp(tone, np.linspace(0, 100, POINTS), table)) for tone in tones}

    def left(self) -> list[Left]:
        """What the last proof was off by, tone by tone."""
        found = self.response()
        if found is None or not self.proof:
            return []
        return left_over(found, self.aim, [(one.tone, one.lightness) for one in self.proof])

    def shortest(self) -> float:
        """The shortest time for full black, minutes; not a number without a strip of exposures.

        Raises ValueError, in words.
        """
        if not self.times:
            return math.nan
        strip = sorted(self.times, key=lambda one: one.minutes)
        return shortest_time([one.minutes for one in strip], [one.lightness for one in strip], self.times_white)

    def scale(self) -> float:
        """Its exposure scale, log₁₀; not a number where no strip of exposures tells."""
        strip = sorted(self.times, key=lambda one: one.minutes)
        if not strip:
            return math.nan
        return scale_of([one.minutes for one in strip], [one.lightness for one in strip], self.times_white)

    def end(self, deepest: bool) -> tuple[float, float, float] | None:
        """Mean L*a*b* of paper, or of the deepest tone, as read."""
        counts = [one for one in self.readings if one.used]
        if not counts:
            return None
        values = [one.value for one in counts]
        at = max(values) if deepest else min(values)
        ends = [(one.lightness, one.a, one.b) for one in counts if one.value == at]
        found = np.mean(ends, axis=0)
        return float(found[0]), float(found[1]), float(found[2])

    def proved(self) -> Process:
        """With the proof's readings among its readings, so that the next curve knows better. Raises ValueError."""
        values = self.film_values({one.tone for one in self.proof})
        more = tuple(Reading(value=round(values[one.tone], 4), lightness=one.lightness) for one in self.proof)
        return self.with_(readings=(*self.readings, *more), proof=())


AS_IT_IS = Process(name="As it is", notes="No curve: what is wanted is what the film gets")
