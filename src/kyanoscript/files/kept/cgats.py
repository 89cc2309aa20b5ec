"""Readings as text: CGATS.17 (ISO 28178) both ways, and what was typed or pasted.

Of CGATS as much as tables of readings use: fields between BEGIN_DATA_FORMAT and END_DATA_FORMAT, rows between
BEGIN_DATA and END_DATA. The wedge's value is looked for in GRAY, GRAY_STEP or CMYK_K, what was read in LAB_L, D_VIS,
D_BLACK or XYZ_Y, in this order.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from pathlib import Path

from kyanoscript.core.process.aims import density_from, lightness_from, lightness_from_y
from kyanoscript.core.process.process import Process, Reading
from kyanoscript.core.quoting import cut
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.base.replace import replacing
from kyanoscript.translation import tr

_MOST = 4 << 20  # bytes
_VALUES = ("GRAY", "GRAY_STEP", "CMYK_K")
_READ = ("LAB_L", "D_VIS", "D_BLACK", "XYZ_Y")
KINDS = ("lightness", "density", "reflectance")


def read_readings(path: Path) -> tuple[Reading, ...]:
    """The readings of a file: CGATS, or values as they would be pasted. Raises FileError."""
    raw = read_plain(path, _MOST)
    if len(raw) > _MOST or b"\0" in raw:
        raise FileError(path, "this is no list of readings", "Choose a CGATS or a plain text file")
    try:
        return parsed(raw.decode("utf-8-sig", "replace"))
    except ValueError as error:
        raise FileError(path, str(error), "Put it right in the file, or read the print again") from error


def pasted(text: str, kind: str = "") -> tuple[Reading, ...]:
    """The same of text that was typed or pasted; of no more of it than a file may hold. Raises ValueError, in words."""
    if len(text) > _MOST:
        raise ValueError(tr("this is no list of readings: it has {count} million letters", count=len(text) >> 20))
    return parsed(text, kind)


def parsed(text: str, kind: str = "") -> tuple[Reading, ...]:
    """Readings from text, CGATS or values. Raises ValueError, in words."""
    return _of_cgats(text) if "BEGIN_DATA" in text else typed(text, kind)


def typed(text: str, kind: str = "") -> tuple[Reading, ...]:
    """Readings from values typed or pasted: a number a line, evenly from 0 to 100 %; or two, value and reading.

    ``kind``: lightness, density or reflectance (in per cent); empty: what the numbers look like, from paper to the
    deepest: rising numbers of which none is over 5 are densities, all others L*. Raises ValueError, in words.
    """
    rows = []
    for number, line in enumerate(text.splitlines(), 1):
        words = re.split(r"[;\t ]+", line.partition("#")[0].replace("\N{MINUS SIGN}", "-").strip())
        if words == [""]:
            continue
        try:
            rows.append([float(word.rstrip("%").replace(",", ".")) for word in words])
        except ValueError:
            raise ValueError(
                tr(
                    "line {number} is {cut!r}; it must be a number, or a value and a number",
                    number=number,
                    cut=cut(line.strip()),
                )
            ) from None
    if len(rows) == 1 and len(rows[0]) > 2:
        rows = [[value] for value in rows[0]]
    if not rows or any(len(row) != len(rows[0]) or len(row) > 2 for row in rows):
        raise ValueError(tr("there must be one number in every line, or a value and a number in every line"))
    if len(rows[0]) == 1:
        if len(rows) < 2:
            raise ValueError(tr("one number alone is no wedge"))
        rows = [[100 * k / (len(rows) - 1), row[0]] for k, row in enumerate(rows)]
    return _readings([row[0] for row in rows], [row[1] for row in rows], kind)


def _readings(values: Sequence[float], numbers: Sequence[float], kind: str) -> tuple[Reading, ...]:
    if any(not 0 <= value <= 100 for value in values):
        raise ValueError(
            tr(
                "a value of the wedge is {next:g}; it must be 0…100 %",
                next=next(v for v in values if not 0 <= v <= 100),
            )
        )
    if not kind:
        order = sorted(range(len(values)), key=lambda k: values[k])
        kind = "density" if max(numbers) <= 5 and numbers[order[-1]] > numbers[order[0]] else "lightness"
    if kind == "density":
        light = [float(lightness_from(number)) for number in numbers]
    elif kind == "reflectance":
        light = [float(lightness_from_y(number / 100)) for number in numbers]
    else:
        light = list(numbers)
    wrong = next((number for number, one in zip(numbers, light, strict=True) if not 0 <= one <= 110), None)
    if wrong is not None:
        raise ValueError(tr("a reading is {wrong:g}; as {kind} that cannot be", wrong=wrong, kind=kind))
    return tuple(Reading(value=value, lightness=round(one, 4)) for value, one in zip(values, light, strict=True))


def _of_cgats(text: str) -> tuple[Reading, ...]:
    lines = [line.strip() for line in text.splitlines()]
    first, last = _between(lines, "BEGIN_DATA_FORMAT", "END_DATA_FORMAT")
    if last < 0:
        raise ValueError(tr("it names no fields: BEGIN_DATA_FORMAT … END_DATA_FORMAT is missing"))
    names = [name.strip('"').upper() for line in lines[first:last] for name in line.split()]
    first, last = _between(lines, "BEGIN_DATA", "END_DATA")
    if last < 0:
        raise ValueError(tr("it is cut short: BEGIN_DATA … END_DATA is missing"))
    rows = [_words(line) for line in lines[first:last] if line]
    said = next((line.split() for line in lines if line.startswith("NUMBER_OF_SETS")), [])
    if len(said) > 1 and said[1].isdigit() and said[1].lstrip("0") != str(len(rows)):
        raise ValueError(
            tr("it is cut short: {cut} rows are told, and {count} are there", cut=cut(said[1], 20), count=len(rows))
        )
    value = next((name for name in _VALUES if name in names), None)
    read = next((name for name in _READ if name in names), None)
    if value is None or read is None:
        missing = (
            "the wedge's value (GRAY or CMYK_K)"
            if value is None
            else tr("what was read ({read})", read=", ".join(_READ))
        )
        raise ValueError(
            tr("a field is missing: {missing}; there are {cut}", missing=missing, cut=cut(", ".join(names), 200))
        )
    found = []
    for number, row in enumerate(rows, 1):
        if len(row) != len(names):
            raise ValueError(
                tr(
                    "row {number} has {count} fields, and {count2} are named",
                    number=number,
                    count=len(row),
                    count2=len(names),
                )
            )
        try:
            found.append((_share(float(row[names.index(value)]), value), float(row[names.index(read)]), row))
        except ValueError:
            raise ValueError(tr("row {number} has a word where a number belongs", number=number)) from None
    kind = {"LAB_L": "lightness", "XYZ_Y": "reflectance"}.get(read, "density")
    readings = _readings([row[0] for row in found], [row[1] for row in found], kind)
    if not {"LAB_A", "LAB_B"} <= set(names):
        return readings
    a, b = names.index("LAB_A"), names.index("LAB_B")
    made = []
    for number, (one, (_, _, row)) in enumerate(zip(readings, found, strict=True), 1):
        try:
            tint = float(row[a]), float(row[b])
        except ValueError:
            raise ValueError(tr("row {number} has a word where a number belongs", number=number)) from None
        if not all(-128 <= part <= 128 for part in tint):
            raise ValueError(
                tr(
                    "row {number} has a* or b* of {tint:g}, {tint2:g}; they must be -128…128",
                    number=number,
                    tint=tint[0],
                    tint2=tint[1],
                )
            )
        made.append(one.model_copy(update={"a": tint[0], "b": tint[1]}))
    return tuple(made)


def _between(lines: Sequence[str], begin: str, end: str) -> tuple[int, int]:
    """The lines behind one word and before another, each alone on its line; the second is -1 if one is missing."""
    try:
        first = lines.index(begin) + 1
        return first, lines.index(end, first)
    except ValueError:
        return 0, -1


def _share(value: float, field: str) -> float:
    """GRAY counts light, 100 paper; the others ink."""
    return 100 - value if field == "GRAY" else value


def _words(line: str) -> list[str]:
    return [quoted or plain for quoted, plain in re.findall(r'"([^"]*)"|(\S+)', line)]


def written(process: Process, readings: Iterable[Reading] | None = None) -> str:
    """A process's readings as CGATS.17."""
    rows = list(process.readings if readings is None else readings)
    name, date = (cut(words.replace('"', "'"), 200) for words in (process.name, process.date))
    lines = [
        "CGATS.17", 'ORIGINATOR "Kyanoscript"', f'DESCRIPTOR "{name}"', f'CREATED "{date}"', "",
        "NUMBER_OF_FIELDS 6", "BEGIN_DATA_FORMAT", "SAMPLE_ID CMYK_K LAB_L LAB_A LAB_B D_VIS", "END_DATA_FORMAT", "",
        f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA",
    ]  # fmt: skip
    for number, one in enumerate(rows, 1):
        density = float(density_from(one.lightness))
        lines.append(f"{number} {one.value:.4f} {one.lightness:.4f} {one.a:.4f} {one.b:.4f} {density:.4f}")
    return "\n".join([*lines, "END_DATA", ""])


def write_readings(path: Path, process: Process) -> None:
    """Write a process's readings as CGATS.17. Raises FileError, writing nothing, where it could not be read again."""
    text = written(process)
    try:
        _of_cgats(text)
    except ValueError as error:
        raise FileError(
            path, tr("the readings could not be read again: {error}", error=error), "Nothing was written"
        ) from error
    with replacing(path, ()) as file:
        file.write(text.encode())
