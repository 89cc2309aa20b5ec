"""What is worked out of a process for the screen, in another thread."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kyanoscript.core.process.aims import Array, aimed, density_from
from kyanoscript.core.process.process import POINTS, Process
from kyanoscript.core.process.response import Left, Response, summed
from kyanoscript.translation import decimal, tr


@dataclass(frozen=True, eq=False)
class Worked:
    """A process with everything that follows from its readings."""

    process: Process
    response: Response | None = None
    curve: Array | None = None  # the value of the film for tones 0…100, `POINTS` of them
    left: tuple[Left, ...] = ()
    wrong: str = ""  # why there is no curve
    said: tuple[str, ...] = ()  # what should be known

    def facts(self) -> list[tuple[str, str]]:
        """Names and values, as they stand on the page."""
        process, found = self.process, self.response
        if found is None:
            return [("Read", "not yet")]
        white, deepest = process.end(False), process.end(True)
        assert white is not None
        assert deepest is not None
        values = {one.value for one in process.readings if one.used}
        count = len([one for one in process.readings if one.used])
        each = count / max(1, len(values))
        plural = (
            tr("{count} steps, {each:.0f} of each", count=len(values), each=each)
            if each > 1.5
            else tr("{count} steps", count=len(values))
        )
        rows = [
            ("White", decimal(f"L* {white[0]:.1f}  {_signed(white[1])}  {_signed(white[2])}")),
            ("Deepest", decimal(f"L* {deepest[0]:.1f}  D {float(density_from(deepest[0])):.2f}")),
        ]
        scale = process.scale()
        missing = "the strip begins too late" if process.times else "no strip of exposures yet"
        rows.append(("Its scale", missing if math.isnan(scale) else tr("{scale:.2f} log exposure", scale=scale)))
        rows.append(("Read", tr("{plural}, ± {noise:.2f} L*", plural=plural, noise=found.noise)))
        rows.append(
            ("Left after it", tr("{left:.2f} L* at 95 %", left=summed(self.left)[1]) if self.left else "not proved yet")
        )
        return rows

    def words(self) -> list[str]:
        """What is known at each step."""
        process = self.process
        count, total = sum(one.used for one in process.readings), len(process.readings)
        found = tr("{count} of {total}", count=count, total=total) if total else "not yet"
        even = "no curve yet" if self.response is None else tr("even in {aim}", aim=process.aim)
        left = tr("{left:.2f} L* at 95 %", left=summed(self.left)[1]) if self.left else "not yet"
        return [
            tr("{steps} steps", steps=process.steps),
            tr("{minutes:g} min", minutes=process.minutes),
            found,
            even,
            left,
        ]

    def wanted(self, tone: float, proving: bool) -> str:
        """What a patch of the wedge was to be, in words that go on."""
        if self.response is None or self.curve is None:
            return ""
        found = self.response
        aim = float(aimed(self.process.aim, np.array([tone]), found.white, found.deepest)[0])
        film = float(np.interp(tone, np.linspace(0, 100, POINTS), self.curve))
        return tr(", wanted {aim:.1f}", aim=aim) + ("" if proving else tr(" · the film gets {film:.0f} %", film=film))

    def at(self, tone: float) -> str:
        """What happens to a tone, in words."""
        if self.response is None or self.curve is None:
            return ""
        return tr(
            "Tone {tone:.0f} %: L* {float:.1f}{tone2}",
            tone=tone,
            float=float(self.response.at(tone)),
            tone2=self.wanted(tone, False),
        )


def work_out(process: Process) -> Worked:
    """Everything; what is wrong with its readings is said and not raised."""
    try:
        found = process.response()
        if found is None:
            return Worked(process)
        wanted = process.close_wanted()
        said = (*process.stale(), *found.said(), *([wanted] if wanted else []))
        return Worked(process, found, process.curve(), tuple(process.left()), "", said)
    except ValueError as error:
        return Worked(process, wrong=str(error))


def _signed(value: float) -> str:
    return f"{value:.1f}".replace("-", "\N{MINUS SIGN}")
