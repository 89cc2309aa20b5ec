"""Ink plates: each ink of a print as a gray picture of its own, 1 where there is no ink.

Coverage itself, without a profile. Plates may lie on a sheet, marks and all: each has them at the very same pixels.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.late import cv2
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.paper.screens import Screen, angles_for, too_near
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.paper.tabled import through
from kyanoscript.core.passes.apart import Apart, taken_apart
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.inks import Inks
from kyanoscript.core.passes.toning.quad_tone import QuadTone
from kyanoscript.core.picture import Planes, Rect, Source
from kyanoscript.core.print import dots
from kyanoscript.core.print.leaf import Leaf, pixels, rendered
from kyanoscript.core.print.over import Over
from kyanoscript.core.print.reckoned import PLAIN, Press, off_on, press_of, reckoned, usual
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import Watch, unwatched
from kyanoscript.translation import tr

TRAP = (0.0, 0.5)  # mm


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
        return tr(
            "{name}; plate {place} of {count}; {most:g} % at most; dots at {angle:g} degrees",
            name=self.name,
            place=self.place,
            count=self.count,
            most=self.most,
            angle=self.angle,
        )


@dataclass(frozen=True)
class Making:
    """How plates are made."""

    sheet: Sheet | None = None  # what they lie on; None: each is the print alone, at the photograph's pixels
    ppi: float = 300.0  # pixels of the photograph to the inch, where there is no sheet: how large plates are
    trap: float = 0.0  # mm: how far lighter inks spread beneath darker ones
    knock_out: bool = False  # lighter inks are left out where darker ones lie
    screen: Screen | None = None  # as dots, at the device's resolution; each at its own angle
    angles: tuple[float, ...] = ()  # one for each ink; none: as its darkness has it, from the screen's own on
    press: Press = PLAIN  # that they are reckoned for

    @property
    def first(self) -> float:
        """The angle of the darkest ink's dots."""
        return self.screen.angle if self.screen is not None else 45.0

    def check(self) -> None:
        """Raise ValueError, in words, for what cannot be."""
        if not TRAP[0] <= self.trap <= TRAP[1]:
            raise ValueError(
                tr(
                    "a trap of {trap:g} mm cannot be; {trap2:g}…{trap3:g} mm can",
                    trap=self.trap,
                    trap2=TRAP[0],
                    trap3=TRAP[1],
                )
            )


def screen_of(sheet: Sheet) -> Screen | None:
    """The dots of a sheet's plates; None for grays."""
    if sheet.plates.screen == "none":
        return None
    return Screen(sheet.plates.screen, sheet.plates.ruling, sheet.plates.angle, sheet.plates.grain, sheet.plates.device)


def making_of(sheet: Sheet) -> Making:
    """As a sheet has it: its trap, screen and the rest."""
    return Making(sheet, trap=sheet.plates.trap, knock_out=sheet.plates.knock_out, screen=screen_of(sheet),
                  press=press_of(sheet))  # fmt: skip


def pass_of(script: Script) -> tuple[int, Inks | QuadTone]:
    """The last pass that prints in inks, and where it stands. Raises ValueError, in words, without one."""
    found = [(k, step) for k, step in enumerate(script.passes) if isinstance(step, Inks | QuadTone) and step.acts]
    if not found:
        raise ValueError(
            tr("there is no pass in this script that prints in inks; add Inks or Quad-tone, and each ink is a plate")
        )
    return found[-1]


def apart_of(script: Script) -> Apart:
    """The inks of a script's print. Raises ValueError; takes seconds for a quad-tone."""
    found = taken_apart(pass_of(script)[1])
    assert found is not None
    return found


def inks_of(script: Script, press: Press) -> Apart:
    """The inks of a script's print, and what they cover on a press. Raises ValueError."""
    return reckoned(apart_of(script), press).apart


def plates_of(script: Script, making: Making | None = None) -> tuple[Plate, ...]:
    """The plates of a script, in the order in which they are printed. Raises ValueError without a pass of inks."""
    making = making or Making()
    apart = inks_of(script, making.press)
    given = making.angles or angles_for([1 - lightness_of(tint) / 100 for tint in apart.inks], making.first)
    if len(given) != len(apart.inks):
        raise ValueError(
            tr("{count} angles were given, and there are {count2} inks", count=len(given), count2=len(apart.inks))
        )
    return tuple(
        Plate(
            tr("ink {k} {tint}", k=k + 1, tint=tint),
            tint,
            round(float(100 * covers.max()), 1),
            angle,
            k + 1,
            len(apart.inks),
        )
        for k, (tint, covers, angle) in enumerate(zip(apart.inks, apart.coverage, given, strict=True))
    )


def lightness_of(tint: str) -> float:
    """L* of a colour."""
    return float(colour.lightness(np.array(colour.parse_hex(tint)).reshape(3, 1), SRGB)[0])


def left_out(script: Script, making: Making | None = None) -> list[str]:
    """What the print has and no plate, and what should be known before they are printed."""
    at, inks = pass_of(script)
    said = [
        tr("{title} comes after the inks, and is on no plate", title=step.title)
        for step in script.passes[at + 1 :]
        if step.acts
    ]
    if inks.strength < 100 or inks.blend != "normal" or inks.stencil is not None:
        said.insert(0, "plates are of the inks at full strength everywhere; the print mixes them with what is below")
    if isinstance(inks, QuadTone) and inks.keep > 0:
        said.append("the colour that the pass keeps is on no plate")
    if getattr(inks, "by", "tone") == "colour":
        said.append("the print parts its colours by the inks that are nearest; plates are of its tones")
    apart = apart_of(script)
    if apart.left > 1:
        said.append(tr("the four inks come within {left:.1f}/255 of the print, and no nearer", left=apart.left))
    if making is not None:
        short = reckoned(apart, making.press).short
        said += [short] if short else []
    if making is not None and (making.knock_out or making.trap):
        said.append("knocked out or trapped, the plates together are another print than the one on the screen")
    if making is not None and making.screen is not None and making.screen.dots:
        light = max(range(len(apart.inks)), key=lambda k: lightness_of(apart.inks[k])) if len(apart.inks) > 3 else None
        said += too_near([plate.angle for plate in plates_of(script, making)], light)
    return said


def printing(script: Script, making: Making) -> str:
    """What plates are reckoned for, and how far off they would print otherwise. Raises ValueError."""
    if not making.press.plain:
        return reckoned(apart_of(script), making.press).gained
    label, press = usual(making.sheet.paper.stock if making.sheet is not None else "")
    off = off_on(apart_of(script), press)[1]
    return tr("for ink that does not spread; {label} they print up to {off:.0f} L* off", label=label, off=off)


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
    making = making_of(sheet)
    screen, apart = making.screen, inks_of(script, making.press)
    if screen is None:
        raise ValueError(tr("these plates print no dots"))
    print_ = renderer(below_inks(script))
    width = print_.size(1.0)[0]
    each = width / (sheet.placing.across / INCH * screen.ppi)  # pixels of the photograph to one of the device
    scale = min(1.0, 1 / each)
    wide, high = print_.size(scale)
    across, down = (max(2, round(side * each * scale)) for side in size)
    part = Rect((wide - across) // 2, (high - down) // 2, across, down).clipped(wide, high)
    reach = round(sheet.plates.trap * scale * width / sheet.placing.across)
    angles = [plate.angle for plate in plates_of(script, making)]
    light = colour.to_light(np.array(colour.parse_hex(apart.paper))).reshape(3, 1, 1)
    for one, tint, angle in zip(_plates(print_, apart, reach, sheet.plates.knock_out), apart.inks, angles, strict=True):
        coverage = cv2.resize(1 - one.region(part, scale)[0], size, interpolation=cv2.INTER_LINEAR)
        ink = dots.dotted(coverage, replace(screen, angle=angle))
        passed = colour.to_light(np.array(colour.parse_hex(tint))).reshape(3, 1, 1)
        light = light * np.where(ink, passed, 1.0)
    return np.asarray(colour.to_encoded(light), np.float32)


Made = _One | _Trapped | Leaf


def below_inks(script: Script) -> Script:
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


def plate_of(renderer: Callable[[Script], Renderer], script: Script, which: int, making: Making) -> _One | _Trapped:
    """One plate, to be looked at; ``renderer``: makes one of what lies below the inks. Raises ValueError."""
    return _plates(renderer(below_inks(script)), inks_of(script, making.press), 0, making.knock_out)[which]


def made_plates(
    source: Source, script: Script, library: Library | None, making: Making, watch: Watch = unwatched
) -> list[Made]:
    """A picture for each plate, all of the same size. Raises ValueError."""
    making.check()
    apart, below = inks_of(script, making.press), below_inks(script)
    times = dots.times_finer(making.screen.ppi) if making.screen is not None else 1
    ppi = making.ppi if making.sheet is None else making.sheet.output.resolution
    print_ = Renderer(source, below, library=library, watch=watch)
    if making.sheet is not None or making.screen is not None:
        across = making.sheet.placing.across if making.sheet is not None else print_.size(1.0)[0] / ppi * INCH
        if making.screen is not None:
            ppi = making.screen.ppi / times  # the print is rendered at a part of the device's resolution
        print_ = rendered(source, below, library, pixels(across, ppi), watch)
    made: list[Made] = []
    for one in _plates(print_, apart, round(making.trap * ppi / INCH), making.knock_out):
        plate: Any = one
        if times > 1:
            plate = dots.Finer(plate, times)
        if making.sheet is not None:
            bare = making.sheet.with_values(sharpen=0.0)
            screen = making.screen
            plate = Leaf(bare, plate, None if screen is None else screen.ppi, hard=screen is not None)
        made.append(plate)
    return made


def together(plates: NDArray[np.floating[Any]], step: Pass, press: Press = PLAIN) -> Planes:
    """The print that plates ``(inks, h, w)``, 1 where there is no ink, come to on a press; sRGB ``(3, h, w)``."""
    apart = taken_apart(step)
    assert apart is not None
    covers = 1 - np.asarray(plates, np.float64).reshape(len(plates), -1)
    made = press.model(apart).printed(covers.T).T.reshape(3, *plates.shape[1:])
    return np.clip(made, 0, 1).astype(np.float32)
