"""``wedge``, ``read``, ``negative``, ``darkroom`` and ``processes``: from a chart to a print by light."""

from __future__ import annotations

import argparse
import json
from datetime import datetime

from kyanoscript.cli.declared import given
from kyanoscript.cli.sheets import asked_on_paper, sheet_with
from kyanoscript.core.paper.layout import remarks
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.chart import film_of
from kyanoscript.core.process import chart as charts
from kyanoscript.core.process.baths import Bath
from kyanoscript.core.process.darkroom import Scanner
from kyanoscript.core.process.process import Process, Reading
from kyanoscript.core.process.response import summed
from kyanoscript.core.process.taken import proved, strip_of, taken
from kyanoscript.core.script import ScriptError
from kyanoscript.core.script.complaint import read as read_values
from kyanoscript.files.kept import cgats, processfile
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints import chartfiles
from kyanoscript.files.prints.negatives import AsNegative, remarks_before
from kyanoscript.files.prints.out import Out, shape_of, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.standins import darkroom
from kyanoscript.terminal import DASH, OK, complain, spooled
from kyanoscript.translation import tr


def wedge(options: argparse.Namespace) -> int:
    """Write a chart. Raises FileError."""
    try:
        process = _process(options.process, options)
        chart = charts.called(options.chart or str(process.steps))
        if options.prove and not process.readings:
            return complain(tr("{name} has no readings yet, so there is no curve to prove", name=process.name))
        width, height = chartfiles.write_chart(options.output, chart, process, options.ppi, options.prove)
    except ValueError as error:
        return complain(str(error))
    words = tr(
        "{name}, {width:g} × {height:g} mm at {ppi:g} ppi",
        name=chart.name,
        width=chart.width,
        height=chart.height,
        ppi=options.ppi,
    )
    if options.json:
        facts = {"file": str(options.output), "pixels": [width, height], "mm": [chart.width, chart.height],
                 "patches": len(chart.patches)}  # fmt: skip
        print(json.dumps(facts, indent=2))
        return OK
    print(f"{options.output.name}: {words}")
    return OK


def _process(word: str | None, options: argparse.Namespace) -> Process:
    """One by its name, with what the options say of it. Raises FileError, ValueError."""
    found = processfile.named(word) if word else Process(name="New process")
    return read_values(Process, {**found.plain(), **given(options, Process)}, "process")


def read(options: argparse.Namespace) -> int:
    """Read a scan or a list of readings into a process. Raises FileError."""
    try:
        process = _process(options.process, options).with_(date=datetime.now().strftime("%Y-%m-%d"))
        if options.source.suffix.lower() in (".txt", ".csv", ".cgats", ".ti3", ".tsv") or options.list:
            process, said = _listed(process, options)
        else:
            process, said = _scanned(process, options)
        found = process.response()
        if found is not None:
            said += [*found.said(), _summary(process), *process.stale()]
        if process.proof:
            rms, most = summed(process.left())
            said += [
                tr(
                    "tone {tone:g} %: L* {read:.1f}, wanted {wanted:.1f}",
                    tone=one.tone,
                    read=one.read,
                    wanted=one.wanted,
                )
                for one in process.left()
            ]
            said.append(tr("left after the curve: {most:.1f} L* at 95 %, {rms:.2f} rms", most=most, rms=rms))
    except ValueError as error:
        return complain(f"{options.source.name}: {error}")
    if options.output is not None:
        processfile.write_process(options.output, process)
    if options.cgats is not None:
        cgats.write_readings(options.cgats, process)
    if options.json:
        print(json.dumps(process.plain(unusual=True) | {"said": said}, indent=1,
                         ensure_ascii=False))  # fmt: skip
        return OK
    for line in said:
        print(line)
    return OK


def _summary(process: Process) -> str:
    found = process.response()
    assert found is not None
    return tr(
        "white L* {white:.1f}, deepest L* {deepest:.1f}, readings ± {noise:.2f} L*",
        white=found.white,
        deepest=found.deepest,
        noise=found.noise,
    )


def _listed(process: Process, options: argparse.Namespace) -> tuple[Process, list[str]]:
    """From a text file: CGATS, or typed values."""
    if options.list:
        text = spooled(options.source, "list").read_text("utf-8", "replace")
        readings = cgats.parsed(text, options.list)
    else:
        readings = cgats.read_readings(options.source)
    return _with(process, readings, options), [tr("{count} readings", count=len(readings))]


def _with(process: Process, readings: tuple[Reading, ...], options: argparse.Namespace) -> Process:
    return proved(process, readings) if options.prove else process.read(readings, options.add)


def _scanned(process: Process, options: argparse.Namespace) -> tuple[Process, list[str]]:
    scan = chartfiles.read_scan(spooled(options.source, "scan"), process.white or None)
    process, said = taken(process, scan, options.prove, options.add, strip_of(options.times or ""))
    return process, [*scan.said(), *said]


def negative(options: argparse.Namespace) -> int:
    """Write a contact negative, or one for each ink. Raises FileError, ScriptError."""
    if options.output == DASH:
        return complain(tr("a negative goes into a file; name one with -o"))
    asked, mine = asked_on_paper(options)
    photo = open_photo(spooled(options.photos[0], "photo"), hold=False)
    asked = asked.of(photo)
    across, shape = shape_of(photo, asked.script)
    sheet = sheet_with(options.sheet, asked.script, mine, shape)
    try:
        processes = tuple(processfile.named(word) for word in options.process)
        wanted = Out(
            photo, asked.script, asked.pictures(photo.path), options.output,
            AsNegative(sheet, processes, not options.no_rim), Settings(bits=options.bits), threads=options.threads,
        )  # fmt: skip
        said = remarks_before(wanted)
        made = write(wanted)
    except ValueError as error:
        if isinstance(error, ScriptError):
            raise
        return complain(str(error))
    said += remarks(sheet, shape, across)
    if options.json:
        files = [str(path) for path in made.files]
        facts = {"files": files, "pixels": [made.width, made.height], "remarks": said}
        print(json.dumps(facts, indent=2, ensure_ascii=False))
        return OK
    for path in made.files:
        print(
            tr(
                "{name}: {width} × {height} px, {width2:g} × {height2:g} mm",
                name=path.name,
                width=made.width,
                height=made.height,
                width2=sheet.paper.width,
                height2=sheet.paper.height,
            )
        )
    for line in said:
        print(line)
    return OK


def expose(options: argparse.Namespace) -> int:
    """Expose film in the bench darkroom, and write a scan of the dried print. Raises FileError."""
    try:
        bath = darkroom.bath_of(options.bath)
        if options.densitometer:
            return _measured(options, bath)
        if options.film is None:
            return complain(tr("name the film that is to be exposed"))
        strip = strip_of(options.times or "")
        light, ppi = darkroom.exposed(options.film, bath, options.minutes, strip, not options.right_reading,
                                      None if options.still else options.seed, options.tape)  # fmt: skip
        scanner = Scanner(ppi=options.ppi, seed=options.seed)
        if not 50 <= options.ppi <= 1200:
            return complain(tr("{ppi:g} pixels per inch cannot be scanned; 50…1200 can", ppi=options.ppi))
        darkroom.write_scan(options.output, light, ppi, bath, scanner.still() if options.still else scanner)
    except ValueError as error:
        return complain(str(error))
    minutes = max(strip) if strip else options.minutes or bath.minutes
    print(
        tr(
            "{name}: {label}, {minutes:g} min, scanned at {ppi:g} ppi",
            name=options.output.name,
            label=bath.label,
            minutes=minutes,
            ppi=options.ppi,
        )
    )
    return OK


def _measured(options: argparse.Namespace, bath: Bath) -> int:
    """The bench densitometer, patch after patch, as CGATS."""
    chart = charts.called(options.chart)
    film = film_of(chart, Process(mirrored=False), darkroom.FINE)
    planes = film.region(Rect(0, 0, *film.size(1.0)))
    rows = list(darkroom.densitometer(bath, chart, planes, darkroom.FINE, options.minutes, options.seed))
    readings = cgats.typed("\n".join(f"{value} {density}" for value, density in rows), "density")
    cgats.write_readings(options.output, Process(name=bath.label, readings=readings))
    print(tr("{name}: {count} patches measured, ± 0.01 D", name=options.output.name, count=len(rows)))
    return OK


def processes(options: argparse.Namespace) -> int:
    """List the processes, or say what one is. Raises FileError."""
    if options.name:
        process = processfile.named(options.name)
        if options.json:
            print(json.dumps(process.plain(), indent=1, ensure_ascii=False))
            return OK
        print(process.name)
        for words in described(process):
            print(f"  {words}")
        return OK
    kept, broken = processfile.kept()
    every = [*kept, *processfile.demos()]
    if options.json:
        print(json.dumps([process.plain(include={"name", "paper", "minutes", "date", "ink", "aim"})
                          for process in every], indent=1, ensure_ascii=False))  # fmt: skip
        return OK
    for process in every:
        print(
            tr(
                "{name}: {paper}, {minutes:g} min, {count} readings",
                name=process.name,
                paper=process.paper or "any paper",
                minutes=process.minutes,
                count=len(process.readings),
            )
        )
    for line in broken:
        print(line)
    return OK


def described(process: Process) -> list[str]:
    """What is known of a process, in lines."""
    facts = [
        ("paper", process.paper),
        ("chemistry", process.chemistry),
        ("light", process.light),
        ("time", tr("{minutes:g} min", minutes=process.minutes)),
        ("filter ink", process.ink),
        ("notes", process.notes),
    ]
    lines = [f"{name}: {value}" for name, value in facts if value]
    try:
        if process.readings:
            lines.append(_summary(process))
        if process.proof:
            rms, most = summed(process.left())
            lines.append(tr("left after the curve: {most:.1f} L* at 95 %, {rms:.2f} rms", most=most, rms=rms))
    except ValueError as error:
        lines.append(str(error))
    return lines
