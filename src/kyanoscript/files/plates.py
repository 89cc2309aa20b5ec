"""Ink plates: each ink of an *Inks* pass as a gray picture of its own, black where the ink is full.

Values are coverage itself, without a profile: half covered is 127.5 of 255. One page a plate in a TIFF, with its ink as
PageName; one file a plate in a folder; or, of four inks, one *Separated* TIFF with InkNames (TIFF 6.0, section 16).
Plates may lie on a sheet, marks and all: every plate has them at the very same pixels.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB, Space
from kyanoscript.core.paper.page import Sheet
from kyanoscript.core.passes.toning.inks import Inks, coverage
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.errors import Cancelled, FileError
from kyanoscript.files.leaf import Leaf, pixels, rendered
from kyanoscript.files.photo import Photo
from kyanoscript.files.pictures import Pictures
from kyanoscript.files.replace import replacing
from kyanoscript.files.sheets import whole_source

_ROWS = 256  # of a strip in the file, and rendered in one go
_PAGE_NAME, _INK_SET, _INK_NAMES, _INKS = 285, 332, 333, 334  # TIFF 6.0


@dataclass(frozen=True)
class Plate:
    """One ink of a print."""

    name: str  # ink 1, …, and its colour
    colour: str  # at full coverage on white paper
    most: float  # the largest coverage that it can have in this print, per cent


@dataclass(frozen=True)
class Plates:
    """What is to be written."""

    photo: Photo
    script: Script
    pictures: Pictures
    sheet: Sheet | None = None  # what they lie on; None: each is the print alone, at the photograph's pixels
    bits: int = 16  # eight linear bits are too few in the darks: the plates together are 3/255 off there
    ppi: float = 300.0  # told in the files, where there is no sheet


def pass_of(script: Script) -> tuple[int, Inks]:
    """The last pass that prints in inks, and where it stands. Raises ValueError, in words, without one."""
    found = [(k, step) for k, step in enumerate(script.passes) if isinstance(step, Inks) and step.acts]
    if not found:
        raise ValueError("there is no Inks pass in this script; add one, and each of its inks is a plate")
    return found[-1]


def plates_of(script: Script) -> tuple[Plate, ...]:
    """The plates of a script, in the order in which they are printed. Raises ValueError without an Inks pass."""
    _, step = pass_of(script)
    gray = np.linspace(0, 1, 256)
    return tuple(
        Plate(f"ink {k + 1} {tint}", tint, round(float(100 * coverage(points, gray).max()), 1))
        for k, (tint, points) in enumerate(step.inks())
    )


def left_out(script: Script) -> list[str]:
    """What the print has and no plate: passes after the inks, and a strength, mode or stencil of their own."""
    at, inks = pass_of(script)
    said = [f"{step.title} comes after the inks, and is on no plate" for step in script.passes[at + 1 :] if step.acts]
    if inks.strength < 100 or inks.blend != "normal" or inks.stencil is not None:
        said.insert(0, "plates are of the inks at full strength everywhere; the print mixes them with what is below")
    return said


class _One:
    """A renderer of one plate: what comes out is coverage turned round, 1 where there is no ink."""

    planes = 1

    def __init__(self, of: Renderer) -> None:
        self._of = of

    @property
    def space(self) -> Space:
        return SRGB

    def size(self, scale: float) -> tuple[int, int]:
        return self._of.size(scale)

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        return colour.to_light(self._of.region(rect, scale)[:1]).astype(np.float32)


def renderers(job: Plates, watch: Callable[[], bool] = lambda: False) -> list[_One | Leaf]:
    """One for each plate, all of the same size. Raises ValueError, FileError."""
    at, step = pass_of(job.script)
    job.pictures.check(job.script)

    def heard(what: str, share: float) -> None:
        if watch():
            raise Cancelled

    made: list[_One | Leaf] = []
    source = whole_source(job.photo)
    for k in range(step.count):
        alone = step.model_copy(update={"shown": str(k + 1), "strength": 100.0, "blend": "normal", "stencil": None})
        script = Script((*job.script.passes[:at], alone), job.script.frame, job.script.stencils,
                        develop=job.script.develop)  # fmt: skip
        if job.sheet is None:
            made.append(_One(Renderer(source, script, library=job.pictures, watch=heard)))
            continue
        across = pixels(job.sheet.across, job.sheet.resolution)
        large = rendered(source, script, job.pictures, across, heard)
        bare = job.sheet.model_copy(update={"sharpen": 0.0})
        made.append(Leaf(bare, _One(large)))  # type: ignore[arg-type]  # all that a leaf asks of a renderer
    return made


def write_plates(
    job: Plates,
    target: Path,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
    separated: bool = False,
) -> tuple[Path, ...]:
    """Write every plate: into a TIFF of as many pages, or into a folder, one file each; returns what was written.

    ``separated``: one picture with a channel an ink, of four inks. Raises FileError, Cancelled, ValueError.
    """
    import tifffile

    plates, made = plates_of(job.script), renderers(job, cancelled)
    width, height = made[0].size(1.0)
    dtype: type[Any] = {8: np.uint8, 16: np.uint16}[job.bits]
    ppi = job.sheet.resolution if job.sheet is not None else job.ppi
    never = (job.photo.path, *job.pictures.files(job.script))
    done = 0

    def strips(those: list[_One | Leaf]) -> Iterator[NDArray[Any]]:
        nonlocal done
        for y in range(0, height, _ROWS):
            if cancelled():
                raise Cancelled
            rect = Rect(0, y, width, min(_ROWS, height - y))
            rows = np.stack([one.region(rect)[0] for one in those], axis=-1)
            if separated:  # there a full ink is the largest number
                rows = 1 - rows
            rows = np.rint(np.clip(rows, 0, 1) * np.iinfo(dtype).max).astype(dtype)
            yield rows[..., 0] if len(those) == 1 else rows
            done += 1
            progress(min(1.0, done * _ROWS / (height * (1 if separated else len(made)))))

    def page(tiff: tifffile.TiffWriter, those: list[_One | Leaf], extra: list[tuple[Any, ...]]) -> None:
        one = len(those) == 1
        tiff.write(
            strips(those), shape=(height, width) if one else (height, width, len(those)), dtype=dtype,
            photometric="minisblack" if one else "separated", planarconfig=None if one else "contig",
            rowsperstrip=_ROWS, resolution=(ppi, ppi), resolutionunit="INCH", software="Kyanoscript", metadata=None,
            extratags=extra,
        )  # fmt: skip

    if separated:
        if len(plates) != 4:
            raise ValueError(f"a separated TIFF has four inks, and this print {len(plates)}; write pages or a folder")
        names = "\0".join(plate.name for plate in plates) + "\0"
        tags = [(_INK_SET, "H", 1, 2, True), (_INKS, "H", 1, 4, True), (_INK_NAMES, "s", 0, names, True)]
        with replacing(target, never) as file, tifffile.TiffWriter(file) as tiff:
            page(tiff, made, tags)
        return (target,)
    if target.suffix.lower() in (".tif", ".tiff"):
        with replacing(target, never) as file, tifffile.TiffWriter(file) as tiff:
            for plate, one in zip(plates, made, strict=True):
                page(tiff, [one], [(_PAGE_NAME, "s", 0, plate.name, True)])
        return (target,)
    if target.suffix:
        raise FileError(target, "plates are not written as that", "Name a folder, or end the name in .tif")
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(target, "the folder cannot be made", "Look at who may write there") from error
    written = []
    for plate, one in zip(plates, made, strict=True):
        file_name = re.sub(r"[^\w-]+", "-", f"{job.photo.path.stem}-{plate.name}")
        path = target / f"{file_name}.tif"
        with replacing(path, never) as file, tifffile.TiffWriter(file) as tiff:
            page(tiff, [one], [(_PAGE_NAME, "s", 0, plate.name, True)])
        written.append(path)
    return tuple(written)


def together(plates: NDArray[np.floating[Any]], step: Inks, space: Space = SRGB) -> Planes:
    """The print that plates ``(inks, h, w)``, 1 where there is no ink, come to; encoded ``(3, h, w)``."""
    light = colour.to_light(np.array(colour.ink_of(step.paper, space))).reshape(3, 1, 1)
    for plate, (tint, _) in zip(plates, step.inks(), strict=True):
        passed = colour.to_light(np.array(colour.ink_of(tint, space))).reshape(3, 1, 1)
        light = light * (1 - (1 - plate) * (1 - passed))
    return np.clip(colour.to_encoded(light), 0, 1).astype(np.float32)
