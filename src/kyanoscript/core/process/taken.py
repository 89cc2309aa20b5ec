"""What becomes of a process when a chart of it was read."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

from kyanoscript.core.process.chart import TIMES
from kyanoscript.core.process.process import Exposure, Process, Proved, Reading
from kyanoscript.core.process.reading import Scan
from kyanoscript.core.process.response import filter_ink
from kyanoscript.core.quoting import cut
from kyanoscript.translation import tr


def taken(
    process: Process, scan: Scan, proving: bool = False, more: bool = False, strip: Sequence[float] = ()
) -> tuple[Process, list[str]]:
    """The process with what was read, and what that says, in words.

    ``proving``: the wedge went through the curve; ``more``: beside the readings there are; ``strip``: minutes of each
    patch of a strip of exposures. Raises ValueError, in words.
    """
    if scan.chart.covered:
        return _timed(process, scan, strip)
    if scan.chart.coloured:
        holding = filter_ink([(one.patch.colour, one.lab[0]) for one in scan.good], scan.white[0])
        words = tr(
            "filter ink {colour}: it leaves L* {lightness:.1f} of {white:.1f}",
            colour=holding.colour,
            lightness=holding.lightness,
            white=scan.white[0],
        )
        return process.with_(ink=holding.colour), [words]
    if scan.chart.close:
        return _close(process, scan, proving)
    readings = readings_of(scan)
    if proving:
        return proved(process, readings), []
    made = process.read(readings, more).with_(steps=len(scan.chart.values))
    wanted = made.close_wanted()
    return made, [wanted] if wanted else []


def proved(process: Process, readings: Sequence[Reading]) -> Process:
    """With the readings of a wedge through its curve. Raises ValueError where there is no curve."""
    if not process.readings:
        raise ValueError(tr("{name} has no readings yet; read its wedge first", name=process.name))
    return process.with_(proof=tuple(Proved(tone=one.value, lightness=one.lightness) for one in readings if one.used))


def _close(process: Process, scan: Scan, proving: bool) -> tuple[Process, list[str]]:
    """A second wedge joins the first."""
    if proving:
        raise ValueError(tr("this is a close wedge, and not one that went through the curve"))
    values = process.close_values(scan.chart.values)
    readings = tuple(one.with_(value=values[one.value]) for one in readings_of(scan))
    return process.read(readings, more=True), [
        tr(
            "joined to the others, from {close_from:g} to {close_to:g} %",
            close_from=process.close_from,
            close_to=process.close_to,
        )
    ]


def _timed(process: Process, scan: Scan, strip: Sequence[float]) -> tuple[Process, list[str]]:
    if len(strip) != len(scan.patches):
        raise ValueError(
            tr(
                "this is a strip of exposures; the times of its {count} patches are wanted, as 1..45",
                count=len(scan.patches),
            )
        )
    process = process.with_(
        times=tuple(
            Exposure(minutes=time, lightness=max(0.0, one.lab[0]))
            for time, one in zip(strip, scan.patches, strict=True)
            if not one.damage
        ),
        times_white=round(scan.white[0], 3),
    )
    shortest = process.shortest()
    said = [tr("shortest time for full black: {shortest:.1f} min", shortest=shortest)]
    if not math.isnan(process.scale()):
        said.append(tr("exposure scale {process:.2f}", process=process.scale()))
    return process.with_(minutes=round(shortest, 2)), said


def readings_of(scan: Scan) -> tuple[Reading, ...]:
    """The readings of a scanned wedge."""
    return tuple(
        Reading(value=one.patch.value, lightness=round(max(0.0, one.lab[0]), 3), a=round(one.lab[1], 3),
                b=round(one.lab[2], 3), used=not one.damage)
        for one in scan.patches
    )  # fmt: skip


def strip_of(text: str) -> tuple[float, ...]:
    """Times of a strip of exposures: each of them, or the first and the last of twelve even steps, as 1..45.

    Raises ValueError, in words.
    """
    if not text:
        return ()
    try:
        ends = re.fullmatch(r"\s*([\d.]+)\s*\.\.\s*([\d.]+)\s*", text)
        if ends:
            first, last = float(ends[1]), float(ends[2])
            if not 0 < first < last:
                raise ValueError
            count = TIMES
            return tuple(round(first * (last / first) ** (k / (count - 1)), 4) for k in range(count))
        return tuple(float(word) for word in text.split(","))
    except ValueError:
        raise ValueError(tr("times are {text!r}; write them as 1,2,4 or as 1..45", text=cut(text))) from None
