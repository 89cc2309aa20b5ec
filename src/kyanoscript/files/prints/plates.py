"""Ink plates: each ink of a print as a gray picture of its own, black where the ink is full; or as dots.

Values are coverage itself, without a profile: half covered is 127.5 of 255. One page a plate in a TIFF, with its ink as
PageName, or in a PDF; one file a plate in a folder, or as PNG; or, of four inks, one *Separated* TIFF with InkNames
(TIFF 6.0, section 16). Plates may lie on a sheet, marks and all: every plate has them at the very same pixels.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB, Space
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.paper.over import Over
from kyanoscript.core.paper.page import Sheet
from kyanoscript.core.paper.screens import Screen, angles_for, too_near
from kyanoscript.core.paper.tabled import through
from kyanoscript.core.passes.apart import Apart, taken_apart
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.inks import Inks
from kyanoscript.core.passes.toning.quad_tone import QuadTone
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.print.leaf import Leaf, pixels, rendered
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.photos.photo import Photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints import screens
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.settings import DEVICE, Settings
from kyanoscript.files.prints.sheets import whole_source
from kyanoscript.files.prints.writers import add_page, save_pdf

_ROWS = 256  # of a strip in the file, and rendered in one go
_PAGE_NAME, _INK_SET, _INK_NAMES, _INKS = 285, 332, 333, 334  # TIFF 6.0
TRAP = (0.0, 0.5)  # mm
KINDS = (".tif", ".tiff", ".pdf")  # of one file for all; of a PNG there is one for each; other names are folders


@dataclass(frozen=True)
class Plate:
    """One ink of a print."""

    name: str  # ink 1, …, and its colour
    colour: str  # at full coverage on white paper
    most: float  # the largest coverage that it can have in this print, per cent
    angle: float  # of its dots, if it is screened
    place: int = 1  # when it is printed
    count: int = 1  # of how many

    @property
    def about(self) -> str:
        """What goes along in its file."""
        return (
            f"{self.name}; plate {self.place} of {self.count}; {self.most:g} % at most; dots at {self.angle:g} degrees"
        )


@dataclass(frozen=True)
class Plates:
    """What is to be written."""

    photo: Photo
    script: Script
    pictures: Pictures
    sheet: Sheet | None = None  # what they lie on; None: each is the print alone, at the photograph's pixels
    bits: int = 16  # eight linear bits are too few in the darks: the plates together are 3/255 off there
    ppi: float = 300.0  # told in the files, where there is no sheet
    trap: float = 0.0  # mm: how far lighter inks spread beneath darker ones
    knock_out: bool = False  # lighter inks are left out where darker ones lie
    screen: Screen | None = None  # as dots, at the device's resolution; each at its own angle
    angles: tuple[float, ...] = ()  # one for each ink; none: as its darkness has it, from the screen's own on
    gain: str = ""  # a tone value increase that the dots hold back, A…E


def screen_of(sheet: Sheet) -> Screen | None:
    """The dots of a sheet's plates; None for grays."""
    if sheet.screen == "none":
        return None
    return Screen(sheet.screen, sheet.ruling, sheet.angle, sheet.grain, sheet.device)


def plates_on(sheet: Sheet, photo: Photo, script: Script, pictures: Pictures, bits: int = 16) -> Plates:
    """What is to be written of a sheet, with the sheet's own trap, screen and the rest."""
    screen = screen_of(sheet)
    return Plates(
        photo, script, pictures, sheet, bits, trap=sheet.trap, knock_out=sheet.knock_out, screen=screen,
        gain="" if sheet.gain == "none" else sheet.gain,
    )  # fmt: skip


def pass_of(script: Script) -> tuple[int, Inks | QuadTone]:
    """The last pass that prints in inks, and where it stands. Raises ValueError, in words, without one."""
    found = [(k, step) for k, step in enumerate(script.passes) if isinstance(step, Inks | QuadTone) and step.acts]
    if not found:
        raise ValueError(
            "there is no pass in this script that prints in inks; add Inks or Quad-tone, and each ink is a plate"
        )
    return found[-1]


def apart_of(script: Script) -> Apart:
    """The inks of a script's print. Raises ValueError; takes seconds for a quad-tone."""
    found = taken_apart(pass_of(script)[1])
    assert found is not None
    return found


def plates_of(script: Script, angles: tuple[float, ...] = (), first: float = 45.0) -> tuple[Plate, ...]:
    """The plates of a script, in the order in which they are printed; ``first``: the angle of the darkest.

    Raises ValueError without a pass of inks.
    """
    apart = apart_of(script)
    given = angles or angles_for([1 - lightness_of(tint) / 100 for tint in apart.inks], first)
    if len(given) != len(apart.inks):
        raise ValueError(f"{len(given)} angles were given, and there are {len(apart.inks)} inks")
    return tuple(
        Plate(f"ink {k + 1} {tint}", tint, round(float(100 * covers.max()), 1), angle, k + 1, len(apart.inks))
        for k, (tint, covers, angle) in enumerate(zip(apart.inks, apart.coverage, given, strict=True))
    )


def lightness_of(tint: str) -> float:
    """L* of a colour."""
    return float(colour.lightness(np.array(colour.parse_hex(tint)).reshape(3, 1), SRGB)[0])


def left_out(script: Script, job: Plates | None = None) -> list[str]:
    """What the print has and no plate, and what should be known before they are printed."""
    at, inks = pass_of(script)
    said = [f"{step.title} comes after the inks, and is on no plate" for step in script.passes[at + 1 :] if step.acts]
    if inks.strength < 100 or inks.blend != "normal" or inks.stencil is not None:
        said.insert(0, "plates are of the inks at full strength everywhere; the print mixes them with what is below")
    if isinstance(inks, QuadTone) and inks.keep > 0:
        said.append("the colour that the pass keeps is on no plate")
    apart = apart_of(script)
    if apart.left > 1:
        said.append(f"the four inks come within {apart.left:.1f}/255 of the print, and no nearer")
    if job is not None and (job.knock_out or job.trap):
        said.append("knocked out or trapped, the plates together are another print than the one on the screen")
    if job is not None and job.screen is not None and job.screen.dots:
        light = max(range(len(apart.inks)), key=lambda k: lightness_of(apart.inks[k])) if len(apart.inks) > 3 else None
        said += too_near([plate.angle for plate in plates_of(script, job.angles, job.screen.angle)], light)
    return said


class _One(Over):
    """A renderer of one plate from the print below the inks: what comes out is 1 where there is no ink."""

    def __init__(self, of: Renderer, covers: NDArray[np.float64]) -> None:
        super().__init__(of)
        self._of = of
        self._table = (1 - covers).astype(np.float32)

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        gray = colour.gray_of(self._of.region(rect, scale), self._of.space)
        return through(gray, self._table)


class _Trapped(Over):
    """A plate that gives way to darker ones, or spreads a little beneath them."""

    def __init__(self, of: _One, darker: Sequence[_One], reach: int, knock_out: bool) -> None:
        super().__init__(of)
        self._of, self._darker, self._reach, self._knock_out = of, darker, reach, knock_out

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        reach = self._reach
        width, height = self.size(scale)
        x0, y0 = max(0, rect.x - reach), max(0, rect.y - reach)
        wide = Rect(x0, y0, min(width, rect.right + reach) - x0, min(height, rect.bottom + reach) - y0)
        own = 1 - self._of.region(wide, scale)[0]
        over = 1 - np.prod([one.region(wide, scale)[0] for one in self._darker], axis=0)
        if self._knock_out:
            own = own * (1 - over)
        if reach:
            disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
            own = np.maximum(own, np.minimum(cv2.dilate(own.astype(np.float32), disc), over))
        part = own[rect.y - y0 : rect.bottom - y0, rect.x - x0 : rect.right - x0]
        return np.ascontiguousarray(1 - part[None], np.float32)


def dots_of(renderer: Callable[[Script], Renderer], script: Script, sheet: Sheet, size: tuple[int, int]) -> Planes:
    """The dots of all plates on one another, from the print's middle, a pixel of the device each: ``(3, h, w)``, sRGB.

    ``renderer``: makes one of what lies below the inks. Raises ValueError.
    """
    screen, apart = screen_of(sheet), apart_of(script)
    if screen is None:
        raise ValueError("these plates print no dots")
    print_ = renderer(_below(script))
    width = print_.size(1.0)[0]
    each = width / (sheet.across / INCH * screen.ppi)  # pixels of the photograph to one of the device
    scale = min(1.0, 1 / each)
    wide, high = print_.size(scale)
    across, down = (max(2, round(side * each * scale)) for side in size)
    part = Rect((wide - across) // 2, (high - down) // 2, across, down).clipped(wide, high)
    reach = round(sheet.trap * scale * width / sheet.across)
    angles = [plate.angle for plate in plates_of(script, first=sheet.angle)]
    light = colour.to_light(np.array(colour.parse_hex(apart.paper))).reshape(3, 1, 1)
    for one, tint, angle in zip(_plates(print_, apart, reach, sheet.knock_out), apart.inks, angles, strict=True):
        coverage = cv2.resize(1 - one.region(part, scale)[0], size, interpolation=cv2.INTER_LINEAR)
        ink = screens.dotted(coverage, replace(screen, angle=angle), "" if sheet.gain == "none" else sheet.gain)
        passed = colour.to_light(np.array(colour.parse_hex(tint))).reshape(3, 1, 1)
        light = light * np.where(ink, passed, 1.0)
    return np.asarray(colour.to_encoded(light), np.float32)


Made = _One | _Trapped | Leaf


def _below(script: Script) -> Script:
    """Everything that comes before the inks."""
    at, _ = pass_of(script)
    return Script(script.passes[:at], script.frame, script.stencils, develop=script.develop)


def _plates(print_: Renderer, apart: Apart, reach: int, knock_out: bool) -> list[_One | _Trapped]:
    """Every plate of a print below its inks; ``reach``: pixels that lighter inks spread."""
    alone = [_One(print_, covers) for covers in apart.coverage]
    dark = [lightness_of(tint) for tint in apart.inks]
    made: list[_One | _Trapped] = []
    for k, one in enumerate(alone):
        darker = [other for other, light in zip(alone, dark, strict=True) if light < dark[k]]
        made.append(_Trapped(one, darker, reach, knock_out) if darker and (reach or knock_out) else one)
    return made


def plate_of(renderer: Callable[[Script], Renderer], script: Script, which: int, knock_out: bool) -> _One | _Trapped:
    """One plate, to be looked at; ``renderer``: makes one of what lies below the inks. Raises ValueError."""
    return _plates(renderer(_below(script)), apart_of(script), 0, knock_out)[which]


def renderers(job: Plates, watch: Callable[[], bool] = lambda: False) -> list[Made]:
    """One for each plate, all of the same size. Raises ValueError, FileError."""
    if not TRAP[0] <= job.trap <= TRAP[1]:
        raise ValueError(f"a trap of {job.trap:g} mm cannot be; {TRAP[0]:g}…{TRAP[1]:g} mm can")
    job.pictures.check(job.script)
    apart = apart_of(job.script)

    def heard(what: str, share: float) -> None:
        if watch():
            raise Cancelled

    below = _below(job.script)
    source = whole_source(job.photo)
    times = screens.times_finer(job.screen.ppi) if job.screen is not None else 1
    ppi = job.ppi if job.sheet is None else job.sheet.resolution
    if job.screen is not None and job.sheet is not None:
        ppi = job.screen.ppi / times  # the print is rendered at a part of the device's resolution
    if job.sheet is None:
        print_ = Renderer(source, below, library=job.pictures, watch=heard)
    else:
        print_ = rendered(source, below, job.pictures, pixels(job.sheet.across, ppi), heard)
    made: list[Made] = []
    for one in _plates(print_, apart, round(job.trap * ppi / INCH), job.knock_out):
        plate: Any = one
        if job.screen is not None and times > 1 and job.sheet is not None:
            plate = screens.Finer(plate, times)
        if job.sheet is not None:
            bare = job.sheet.model_copy(update={"sharpen": 0.0})
            dotted = job.screen
            plate = Leaf(bare, plate, None if dotted is None else dotted.ppi, hard=dotted is not None)
        made.append(plate)
    return made


def write_plates(
    job: Plates,
    target: Path,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
    separated: bool = False,
) -> tuple[Path, ...]:
    """Write every plate: into a TIFF or PDF of as many pages, or into a folder, a file each; returns what was written.

    ``separated``: one picture with a channel an ink, of four inks. Raises FileError, Cancelled, ValueError.
    """
    first = job.screen.angle if job.screen is not None else 45.0
    plates, made = plates_of(job.script, job.angles, first), renderers(job, cancelled)
    ending = target.suffix.lower()
    never = (job.photo.path, *job.pictures.files(job.script))
    out = _Writing(job, plates, made, progress, cancelled)
    if separated and (len(plates) != 4 or job.screen is not None):
        what = "dots" if job.screen is not None else f"{len(plates)} inks"
        raise ValueError(f"a separated TIFF has four inks, and not {what}; write pages or a folder")
    if separated and ending not in (".tif", ".tiff"):
        raise FileError(target, "a separated picture is a TIFF", "End the name in .tif")
    if ending == ".png":
        return out.pngs(target, never)
    if ending in KINDS:
        with replacing(target, never) as file:
            if ending == ".pdf":
                out.pdf(file)
            elif job.screen is not None:
                tiff = screens.Tiff(file)
                for k in range(len(plates)):
                    out.dots(tiff, k)
            else:
                out.tiff(file, range(len(plates)), separated)
        return (target,)
    if ending:
        raise FileError(
            target, "plates are not written as that", "Name a folder, or end the name in .tif, .pdf or .png"
        )
    try:
        target.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(target, "the folder cannot be made", "Look at who may write there") from error
    written = []
    for k, plate in enumerate(plates):
        path = target / (re.sub(r"[^\w-]+", "-", f"{job.photo.path.stem}-{plate.name}") + ".tif")
        with replacing(path, never) as file:
            if job.screen is not None:
                out.dots(screens.Tiff(file), k)
            else:
                out.tiff(file, [k])
        written.append(path)
    return tuple(written)


class _Writing:
    """Plates into files, with progress over all of them."""

    def __init__(
        self, job: Plates, plates: Sequence[Plate], made: list[Made], progress: Callable[[float], None],
        cancelled: Callable[[], bool],
    ) -> None:  # fmt: skip
        self.job, self.plates, self.made, self.progress, self.cancelled = job, plates, made, progress, cancelled
        self.size = made[0].size(1.0)
        self.dtype: type[Any] = {8: np.uint8, 16: np.uint16}[job.bits]
        self.ppi = job.ppi if job.sheet is None else job.sheet.resolution
        self._done = 0.0

    def _strips(self, those: Sequence[int], full_is_most: bool = False) -> Iterator[NDArray[Any]]:
        width, height = self.size
        most = np.iinfo(self.dtype).max
        for y in range(0, height, _ROWS):
            if self.cancelled():
                raise Cancelled
            rect = Rect(0, y, width, min(_ROWS, height - y))
            rows = np.stack([self.made[k].region(rect)[0] for k in those], axis=-1)
            rows = np.rint(np.clip(1 - rows if full_is_most else rows, 0, 1) * most).astype(self.dtype)
            yield rows[..., 0] if len(those) == 1 else rows
            self._done += len(those) * rect.height / height
            self.progress(min(1.0, self._done / len(self.made)))

    def tiff(self, file: Any, those: Sequence[int], separated: bool = False) -> None:
        import tifffile

        width, height = self.size
        names = "\0".join(self.plates[k].name for k in those) + "\0"
        with tifffile.TiffWriter(file) as tiff:
            for page in [tuple(those)] if separated else [(k,) for k in those]:
                extra = ([(_INK_SET, "H", 1, 2, True), (_INKS, "H", 1, 4, True), (_INK_NAMES, "s", 0, names, True)]
                         if separated else [(_PAGE_NAME, "s", 0, self.plates[page[0]].name, True)])  # fmt: skip
                tiff.write(
                    self._strips(page, separated),  # in a separated picture a full ink is the largest number
                    shape=(height, width, 4) if separated else (height, width), dtype=self.dtype,
                    photometric="separated" if separated else "minisblack",
                    planarconfig="contig" if separated else None, rowsperstrip=_ROWS,
                    resolution=(self.ppi, self.ppi), resolutionunit="INCH", software="Kyanoscript", metadata=None,
                    description="\n".join(self.plates[k].about for k in page),
                    extratags=extra,
                )  # fmt: skip

    def _dotted(self, k: int) -> Iterator[screens.Bits]:
        screen = self.job.screen
        assert screen is not None
        own = replace(screen, angle=self.plates[k].angle)
        return screens.strips(self.made[k], own, self.job.gain,
                              lambda share: self.progress((k + share) / len(self.made)), self.cancelled)  # fmt: skip

    def dots(self, tiff: screens.Tiff, k: int) -> None:
        assert self.job.screen is not None
        plate = self.plates[k]
        tiff.page(self._dotted(k), self.size, self.job.screen.ppi, plate.name, plate.about)

    def pngs(self, target: Path, never: Sequence[Path]) -> tuple[Path, ...]:
        """A PNG for each plate, by the ink's number."""
        written, screen = [], self.job.screen
        for k in range(len(self.plates)):
            path = target.with_name(f"{target.stem}-ink-{k + 1}.png")
            if screen is not None:
                with replacing(path, never) as file:
                    screens.write_png(file, self._dotted(k), self.size, screen.ppi)
            else:
                plain = Settings(self.job.bits, DEVICE, self.ppi, dither=False, carried="none")

                def share(of: float, k: int = k) -> None:
                    self.progress((k + of) / len(self.plates))

                export(self.made[k], path, plain, never, share, self.cancelled)
            written.append(path)
        return tuple(written)

    def pdf(self, file: Any) -> None:
        """A page a plate, at its exact size, in gray; each page has its ink's name as its label."""
        import pikepdf
        from pikepdf import Array, Dictionary, Name, String

        screen = self.job.screen
        with pikepdf.new() as pdf:
            labels = []
            for k, plate in enumerate(self.plates):
                if screen is not None:
                    bands: Iterator[bytes] = (np.invert(bits).tobytes() for bits in self._dotted(k))
                    add_page(pdf, bands, self.size, 1, screen.ppi, Name.DeviceGray)
                else:
                    bands = (rows.astype(rows.dtype.newbyteorder(">")).tobytes() for rows in self._strips([k]))
                    add_page(pdf, bands, self.size, self.job.bits, self.ppi, Name.DeviceGray)
                labels += [k, Dictionary(P=String(plate.name))]
            pdf.Root.PageLabels = Dictionary(Nums=Array(labels))
            save_pdf(pdf, file)


def together(plates: NDArray[np.floating[Any]], step: Pass, space: Space = SRGB) -> Planes:
    """The print that plates ``(inks, h, w)``, 1 where there is no ink, come to; encoded ``(3, h, w)``."""
    apart = taken_apart(step)
    assert apart is not None
    light = colour.to_light(np.array(colour.ink_of(apart.paper, space))).reshape(3, 1, 1)
    for plate, tint in zip(plates, apart.inks, strict=True):
        passed = colour.to_light(np.array(colour.ink_of(tint, space))).reshape(3, 1, 1)
        light = light * (1 - (1 - plate) * (1 - passed))
    return np.clip(colour.to_encoded(light), 0, 1).astype(np.float32)
