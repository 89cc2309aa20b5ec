"""The bench darkroom with files: film in, a scan of the dried print out. A stand-in; see `core.process.darkroom`."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.paper.layout import laid
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.picture import Planes, Rect, read
from kyanoscript.core.print.chart import film_of
from kyanoscript.core.process.aims import density_from, lightness_from_y
from kyanoscript.core.process.baths import BATHS, Bath
from kyanoscript.core.process.chart import Chart, tape_place, times
from kyanoscript.core.process.darkroom import Scanner, coated, paper_light, printed, scanned
from kyanoscript.core.process.process import Process
from kyanoscript.core.process.reading import Scan, read_chart
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script.complaint import nearest
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.progress import UNTOLD, Progress
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.negatives import AsNegative
from kyanoscript.files.prints.out import Out, shape_of
from kyanoscript.translation import tr

_SMALL_PPI = 110.0  # of the print that is shown in the window
FINE = 300.0  # pixels per inch of film that are exposed
_NO_LIGHT = -9.0  # log₁₀ of what comes through tape
_WITHOUT = 360.0  # where a film's file tells no resolution
KINDS = (".jpg", ".jpeg", ".png", ".tif", ".tiff")


def bath_of(word: str) -> Bath:
    """A process of the bench darkroom by its word. Raises ValueError."""
    if word not in BATHS:
        raise ValueError(tr("the bench darkroom has no {word}{word2}", word=quoted(word), word2=nearest(word, BATHS)))
    return BATHS[word]


def exposed(
    film: Path,
    bath: Bath,
    minutes: float | None = None,
    strip: Sequence[float] = (),
    mirrored: bool = True,
    seed: int | None = 1,
    tape: bool = False,
) -> tuple[NDArray[np.float64], float]:
    """The dried print in light ``(3, h, w)``, and its pixels per inch.

    ``strip``: minutes of each patch of a strip of exposures that the film is of; ``mirrored``: the film lies with its
    ink on the paper, so that what it shows is turned over; ``seed``: of the coating, None: it is even; ``tape``: lies
    on the film of a chart where it has a place for it, and holds all light back.

    Raises FileError, ValueError.
    """
    if minutes is not None and not 0 < minutes <= 100_000:
        raise ValueError(tr("{minutes:g} minutes cannot be exposed", minutes=minutes))
    photo = open_photo(film, hold=False)
    ppi = photo.ppi or _WITHOUT
    scale = min(1.0, FINE / ppi)
    size = max(1, round(photo.width * scale)), max(1, round(photo.height * scale))
    planes: Planes = np.ascontiguousarray(read(photo.source, Rect(0, 0, *size), scale))
    if mirrored:
        planes = np.ascontiguousarray(planes[:, :, ::-1])
    ppi *= scale
    if not strip:
        speed = np.zeros(planes.shape[1:]) if seed is None else coated(planes.shape[1:], ppi, seed)
        if tape:
            place = tape_place(planes.shape[2] / ppi * INCH)
            speed[_pixels(place.y, place.bottom, ppi), _pixels(place.x, place.right, ppi)] = _NO_LIGHT
        return printed(bath, planes, minutes, speed), ppi
    return _strip_printed(bath, planes, ppi, strip), ppi


def _strip_printed(bath: Bath, planes: Planes, ppi: float, strip: Sequence[float]) -> NDArray[np.float64]:
    """A strip of exposures, right reading: each patch has a time of its own."""
    chart = times()
    if len(strip) != len(chart.patches):
        raise ValueError(
            tr("{count} times were given; the strip has {count2} patches", count=len(strip), count2=len(chart.patches))
        )
    light = printed(bath, planes, max(strip))
    for patch, time in zip(chart.patches, strip, strict=True):
        rows, columns = _pixels(patch.box.y, patch.box.bottom, ppi), _pixels(patch.box.x, patch.box.right, ppi)
        light[:, rows, columns] = printed(bath, planes[:, rows, columns], time)
    return light


def _pixels(start: float, end: float, ppi: float) -> slice:
    return slice(round(start * ppi / INCH), round(end * ppi / INCH))


def write_scan(target: Path, light: NDArray[np.float64], ppi: float, bath: Bath, scanner: Scanner) -> None:
    """Scan a print, and write that: JPEG, PNG or TIFF by the name's ending. Raises FileError."""
    ending = target.suffix.lower()
    if ending not in KINDS:
        raise FileError(target, "a scan is not written as that", "End the name in .jpg, .png or .tif")
    from PIL import Image

    picture = scanned(light, ppi, scanner, paper_light(bath))
    kind = {".jpg": "JPEG", ".jpeg": "JPEG", ".png": "PNG"}.get(ending, "TIFF")
    more = {"quality": 90} if kind == "JPEG" else {}
    with replacing(target, ()) as file:
        Image.fromarray(picture).save(file, kind, dpi=(scanner.ppi, scanner.ppi), **more)


def densitometer(bath: Bath, chart: Chart, film: Planes, ppi: float, minutes: float | None = None, seed: int = 1
                 ) -> Iterator[tuple[float, float]]:  # fmt: skip
    """The bench densitometer: patch after patch, the wedge's value and the density read, ± 0.01.

    ``film``: of the chart, right reading, encoded. Densities are absolute, paper and all.
    """
    rng = np.random.default_rng(seed)
    light = printed(bath, film, minutes)
    y = np.tensordot(SRGB.luminance, light, 1)
    for patch in chart.patches:
        rows, columns = _pixels(patch.box.y, patch.box.bottom, ppi), _pixels(patch.box.x, patch.box.right, ppi)
        inner = y[rows, columns]
        high, wide = inner.shape
        middle = float(inner[high // 4 : -high // 4, wide // 4 : -wide // 4].mean())
        density = float(density_from(lightness_from_y(middle))) + float(rng.normal(0, 0.01))
        yield patch.value, round(max(0.0, density), 2)


def practised(
    process: Process, bath: Bath, chart: Chart, proving: bool, strip: Sequence[float] = (), seed: int = 1
) -> tuple[NDArray[np.uint8], Scan]:
    """A chart of a process exposed, scanned and read: the scan ``(h, w, 3)``, and what was read. Raises ValueError."""
    film = film_of(chart, process.with_(mirrored=False), FINE, proving)
    planes = film.region(Rect(0, 0, *film.size(1.0)))
    coat = coated(planes.shape[1:], FINE, seed)
    light = _strip_printed(bath, planes, FINE, strip) if strip else printed(bath, planes, process.minutes, coat)
    scan = scanned(light, FINE, Scanner(seed=seed), paper_light(bath))
    found = read_chart(np.ascontiguousarray(scan.transpose(2, 0, 1), np.float32) / np.float32(255), SRGB,
                       process.white or None)  # fmt: skip
    return scan, found


def printed_small(
    out: Out[AsNegative], process: Process, bath: Bath, progress: Progress = UNTOLD
) -> NDArray[np.float32]:
    """The dried print of a negative, without its rim, small: encoded sRGB ``(3, h, w)``.

    Raises FileError, Cancelled, ValueError.
    """
    sheet = out.what.sheet
    coarse = sheet.with_values(resolution=max(72.0, min(sheet.output.resolution, _SMALL_PPI)), sharpen=0.0)
    (film, *_), *_more = replace(out, what=replace(out.what, sheet=coarse)).pages(progress)
    whole = film.region(Rect(0, 0, *film.size(1.0)))
    if process.mirrored and process.negative:
        whole = np.ascontiguousarray(whole[:, :, ::-1])
    place = laid(coarse, shape_of(out.photo, out.script)[1]).prints[0]
    rows, columns = (
        _pixels(place.y, place.bottom, coarse.output.resolution),
        _pixels(place.x, place.right, coarse.output.resolution),
    )
    part = np.ascontiguousarray(whole[:, rows, columns])
    light = printed(bath, part, process.minutes) if process.negative else colour.to_light(colour.in_colour(part))
    return np.clip(colour.to_encoded(np.clip(light, 0, 1)), 0, 1).astype(np.float32)
