"""Reading a chart from a scan or photograph of its dried print.

Markers (see `chart`) → homography → the inner half of each patch → trimmed mean in light → L*a*b*. The light that
fell on it is evened by the paper around the patches. A single search finds all four markers of a poor scan on about
half of the scans only, so it is searched at several sizes and thresholds, and three of four are enough.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import Space
from kyanoscript.core.late import cv2
from kyanoscript.core.paper.layout import Box
from kyanoscript.core.picture import Planes
from kyanoscript.core.process.aims import lightness_from_y, y_from
from kyanoscript.core.process.chart import DICTIONARY, GUTTER, Chart, Patch, numbered
from kyanoscript.core.watching import breathe
from kyanoscript.translation import tr

_FINE = 8.0  # pixels to the millimetre of what patches are read from: about 200 ppi
_SIDES = (1400, 700, 1000, 2000, 2800)  # pixels of the longer side that is searched, the likeliest first
_FIRST = 2  # of them, after which a picture with no two markers of a chart is taken for something else
_SMALLEST = 100  # pixels of a side
_ENOUGH = 3  # markers of the four
_ASTRAY = 1.2  # mm: markers further from where they should be are none of this chart's
_TRIM = 0.15  # of a patch's pixels, darkest and lightest each, that do not count
_SPECKLED, _FAR = 0.2, 8.0  # a patch of which this share differs by so much of L* is damaged
_APART, _TIMES_APART = 3.0, 6.0  # L*, and standard deviations, from others of its value: a damaged one

_RIM, _COARSE = 8.0, 2.0  # mm round the chart that are looked at for bare paper, and pixels to the millimetre there
_ONE_TONE, _LIGHTER, _OTHER_HUE = 1.5, 1.0, 25.0  # L*, L*, and a*b*: how alike it is, and how unlike the film's ground

_LIGHT = colour.to_light(np.linspace(0, 1, 65536)).astype(np.float32)

Lab = tuple[float, float, float]


@dataclass(frozen=True)
class Read:
    """What was read of one patch."""

    patch: Patch
    lab: Lab
    damage: str = ""  # what is wrong with it; empty: it counts
    corners: tuple[tuple[float, float], ...] = ()  # of its inner half in the scan, pixels


@dataclass(frozen=True)
class Scan:
    """A chart that was found in a picture, and read."""

    chart: Chart
    patches: tuple[Read, ...]
    white: Lab  # of the paper
    turned: float  # degrees with the clock, −180…180
    uneven: float  # how much less light fell on the darkest place than on the lightest, per cent
    mirrored: bool  # the picture had to be turned over
    markers: int  # how many of the four were found
    ground: Lab | None = None  # of the paper under the film where it is densest, if that is not the paper's white
    taped: bool = False  # white is that of the paper under tape, and not that outside the film

    @property
    def good(self) -> tuple[Read, ...]:
        """The patches that count."""
        return tuple(read for read in self.patches if not read.damage)

    def enlarged(self, times: float) -> Scan:
        """The same, of a picture with so many more pixels each way."""
        patches = tuple(
            replace(one, corners=tuple((x * times, y * times) for x, y in one.corners)) for one in self.patches
        )
        return replace(self, patches=patches)

    def said(self) -> list[str]:
        """What was found, in words, the most important first."""
        words = [tr("{count} of {count2} patches read", count=len(self.good), count2=len(self.patches))]
        words.append(
            tr("turned by {turned:.1f}°, light evened by {uneven:.0f} %", turned=abs(self.turned), uneven=self.uneven)
        )
        if self.ground is not None:
            under, outside = self.ground[0], self.white[0]
            place = "under the tape" if self.taped else "outside it"
            words.append(
                tr(
                    "the film lets light through: paper under it is L* {under:.1f}; {place} "
                    "{outside:.1f}, which is taken for white",
                    under=under,
                    place=place,
                    outside=outside,
                )
            )
        if self.mirrored:
            words.append("the picture was turned over, left for right")
        if self.markers < 4:
            words.append(tr("{markers} of 4 markers found", markers=self.markers))
        left = [read for read in self.patches if read.damage]
        for read in left[:4]:
            words.append(tr("a patch of {value:g} % left out: {damage}", value=read.patch.value, damage=read.damage))
        if len(left) > 4:
            words.append(tr("and {count} more left out", count=len(left) - 4))
        return words


def read_chart(planes: Planes, space: Space, white: float | None = None) -> Scan:
    """Find a chart and read it.

    Parameters
    ----------
    planes : the picture, encoded ``(1 or 3, h, w)``.
    space : of its colours.
    white : L* of the paper, as measured; None: what the picture has at its lightest.

    Raises ValueError, in words, where there is no chart, or too little of one.
    """
    gray = np.clip(colour.gray_of(planes, space)[0] * 255, 0, 255).astype(np.uint8)
    if min(gray.shape) < _SMALLEST:
        raise ValueError(
            tr(
                "a picture of {shape} × {shape2} pixels is too small for a chart",
                shape=gray.shape[1],
                shape2=gray.shape[0],
            )
        )
    found, mirrored = _search(gray), False
    if len(found) < _ENOUGH:
        other = _search(np.ascontiguousarray(gray[:, ::-1]))
        if len(other) > len(found):
            found, mirrored = other, True
    if not found:
        inverse = 255 - gray
        if max(len(_search(side, _SIDES[:1], 1)) for side in (inverse, inverse[:, ::-1].copy())) >= _ENOUGH:
            raise ValueError(tr("this is the film itself, or its lights and darks are exchanged; scan the dried print"))
    if mirrored:
        planes, gray = np.ascontiguousarray(planes[:, :, ::-1]), np.ascontiguousarray(gray[:, ::-1])
    chart, to_scan, count = _placed(found)
    patches, paper, uneven, ground, taped = _sampled(planes, space, chart, to_scan, white)
    width = planes.shape[2]
    if mirrored:
        patches = [replace(one, corners=tuple((width - x, y) for x, y in one.corners)) for one in patches]
    ends = cv2.perspectiveTransform(np.array([[[0.0, chart.height / 2], [chart.width, chart.height / 2]]]), to_scan)[0]
    turned = math.degrees(math.atan2(ends[1, 1] - ends[0, 1], ends[1, 0] - ends[0, 0]))
    return Scan(chart, tuple(_judged(patches)), paper, turned, uneven, mirrored, count, ground, taped)


# Markers

Corners = NDArray[np.float32]  # (4, 2)


def _search(gray: NDArray[np.uint8], sides: tuple[int, ...] = _SIDES, ways: int = 2) -> dict[int, Corners]:
    """Markers by their number: those of the chart of which most are found, looked for until all four are."""
    known: dict[int, Corners] = {}
    for place, picture, scale in _sizes(gray, sides):
        if place == _FIRST and len(_of_one(known)) < 2:
            break  # noise has thousands of edges, and looking through them all would take half a minute
        for detector in _detectors()[:ways]:
            breathe()
            corners, numbers, _ = detector.detectMarkers(picture)
            for number, found in zip([] if numbers is None else numbers.ravel(), corners, strict=True):
                known.setdefault(int(number), (found[0] + 0.5) / scale - 0.5)
            best = _of_one(known)
            if len(best) == 4:
                return _refined(gray, best)
    return _refined(gray, _of_one(known))


def _of_one(known: dict[int, Corners]) -> dict[int, Corners]:
    if not known:
        return {}
    numbers = [number // 4 for number in known]
    chart = max(set(numbers), key=numbers.count)
    return {number: corners for number, corners in known.items() if number // 4 == chart}


def _sizes(gray: NDArray[np.uint8], sides: tuple[int, ...]) -> Iterator[tuple[int, NDArray[np.uint8], float]]:
    """Which of the sizes it is, the picture at it, as it is and softened, and its scale."""
    longer, seen = max(gray.shape), set()
    for place, side in enumerate(sides):
        scale = min(2.0, side / longer)
        if round(scale, 2) in seen:
            continue
        seen.add(round(scale, 2))
        how = cv2.INTER_AREA if scale < 1 else cv2.INTER_CUBIC
        small = gray if scale == 1 else cv2.resize(gray, None, fx=scale, fy=scale, interpolation=how)
        yield place, np.asarray(small, np.uint8), scale
        yield place, np.asarray(cv2.GaussianBlur(small, (0, 0), 1.2), np.uint8), scale


def _detectors() -> list[cv2.aruco.ArucoDetector]:
    made = []
    book = cv2.aruco.getPredefinedDictionary(DICTIONARY)
    for least, most, step, constant in ((5, 45, 10, 7), (15, 95, 20, 3)):
        how = cv2.aruco.DetectorParameters()
        how.adaptiveThreshWinSizeMin, how.adaptiveThreshWinSizeMax = least, most
        how.adaptiveThreshWinSizeStep, how.adaptiveThreshConstant = step, constant
        how.minMarkerPerimeterRate, how.maxMarkerPerimeterRate = 0.05, 2.0
        how.polygonalApproxAccuracyRate = 0.05
        how.perspectiveRemovePixelPerCell, how.errorCorrectionRate = 8, 0.8
        made.append(cv2.aruco.ArucoDetector(book, how))
    return made


def _refined(gray: NDArray[np.uint8], found: dict[int, Corners]) -> dict[int, Corners]:
    """Corners to parts of a pixel; one that wanders stays."""
    refined = {}
    for number, corners in found.items():
        side = float(np.mean(np.linalg.norm(corners - np.roll(corners, 1, axis=0), axis=1)))
        reach = max(2, int(side / 14))
        criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_COUNT, 40, 0.01)
        better = cv2.cornerSubPix(gray, corners.reshape(-1, 1, 2).copy(), (reach, reach), (-1, -1), criteria)[:, 0]
        near = np.linalg.norm(better - corners, axis=1, keepdims=True) < reach
        refined[number] = np.where(near, better, corners).astype(np.float32)
    return refined


def _placed(found: dict[int, Corners]) -> tuple[Chart, NDArray[np.float64], int]:
    """The chart, the way from its millimetres to the pixels of the scan, and how many markers say so."""
    if not found:
        raise ValueError(
            tr("there is no chart in this picture; its four square markers must be in it, whole and not covered")
        )
    chart = numbered(next(iter(found)) // 4)
    if chart is None:
        raise ValueError(tr("the markers in this picture are those of no chart of this program"))
    if len(found) < _ENOUGH:
        raise ValueError(
            tr(
                "only {count} of the four markers of a chart can be made out; three are needed: scan "
                "it whole, and sharp, at 100 pixels per inch or more",
                count=len(found),
            )
        )
    best: tuple[Chart, NDArray[np.float64], int] | None = None
    for count in range(len(found), _ENOUGH - 1, -1):
        for chosen in itertools.combinations(sorted(found), count):
            mm = np.concatenate([_corners(chart.markers[number % 4]) for number in chosen])
            pixels = np.concatenate([found[number] for number in chosen])
            way, _ = cv2.findHomography(mm, pixels, 0)
            if way is None or abs(np.linalg.det(way)) < 1e-9:
                continue
            back = cv2.perspectiveTransform(pixels[None].astype(np.float64), np.linalg.inv(way))[0]
            if float(np.abs(back - mm).max()) < _ASTRAY:
                best = chart, np.asarray(way, np.float64), count
                break
        if best is not None:
            return best
    raise ValueError(
        tr("the markers in this picture do not lie as those of a chart do; is the print bent, or cut apart?")
    )


def _corners(box: Box) -> NDArray[np.float64]:
    return np.array([[box.x, box.y], [box.right, box.y], [box.right, box.bottom], [box.x, box.bottom]])


# Patches


def _sampled(
    planes: Planes, space: Space, chart: Chart, to_scan: NDArray[np.float64], white: float | None
) -> tuple[list[Read], Lab, float, Lab | None, bool]:
    """Every patch, the paper's white, how uneven the light was, the paper under the film if that is darker, and whether
    white was read under tape."""
    light = [_LIGHT[np.clip(plane * 65535 + 0.5, 0, 65535).astype(np.uint16)] for plane in colour.in_colour(planes)]
    fine = math.sqrt(abs(np.linalg.det(to_scan[:2, :2])))  # pixels of the scan to the millimetre, about
    times = max(1, round(fine / (1.5 * _FINE)))
    reduced = np.diag([1 / times, 1 / times, 1.0]) @ _shifted(0.5) @ to_scan if times > 1 else _shifted(0.5) @ to_scan
    wide, high = round(chart.width * _FINE), round(chart.height * _FINE)
    flat = np.empty((3, high, wide), np.float32)
    way = _shifted(-0.5) @ reduced @ np.diag([1 / _FINE, 1 / _FINE, 1.0]) @ _shifted(0.5)
    outside = []
    for k, plane in enumerate(light):
        if times > 1:
            height, width = plane.shape
            plane = cv2.resize(plane[: height // times * times, : width // times * times],
                               (width // times, height // times), interpolation=cv2.INTER_AREA)  # fmt: skip
        flat[k] = cv2.warpPerspective(plane, way, (wide, high), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                                      borderMode=cv2.BORDER_REPLICATE)  # fmt: skip
        outside.append(_around(plane, reduced, chart))
    luminance = np.tensordot(space.luminance, flat, 1)
    field = _field(luminance, chart)
    lit = field / field.max()
    ground = np.median(np.stack([(flat[:, y, x] / lit[y, x]) for y, x in _paper(chart)]), axis=0)
    taped = _taped(flat, lit, chart, space, ground)
    bare = _bare(np.stack(outside), lit, space, ground) if taped is None else taped
    lightest = float(field.max()) if bare is None else float(space.luminance @ bare)
    level = 1.0 if white is None else float(y_from(white)) / lightest
    paper = (ground if bare is None else bare) * level
    reads = []
    for patch in chart.patches:
        inner = Box(patch.box.x + patch.box.width / 4, patch.box.y + patch.box.height / 4,
                    patch.box.width / 2, patch.box.height / 2)  # fmt: skip
        rows = slice(round(inner.y * _FINE), round(inner.bottom * _FINE))
        columns = slice(round(inner.x * _FINE), round(inner.right * _FINE))
        part = flat[:, rows, columns].reshape(3, -1) / lit[rows, columns].reshape(1, -1) * level
        middle = _trimmed(part)
        off = (
            np.abs(
                lightness_from_y(np.tensordot(space.luminance, part, 1)) - lightness_from_y(space.luminance @ middle)
            )
            > _FAR
        )
        damage = tr("{off:.0f} % of it is spotted", off=100 * off.mean()) if off.mean() > _SPECKLED else ""
        corners = cv2.perspectiveTransform(_corners(inner)[None], to_scan)[0]
        reads.append(Read(patch, _lab(middle, space), damage, tuple((float(x), float(y)) for x, y in corners)))
    under = None if bare is None else _lab(ground * level, space)
    return reads, _lab(paper, space), 100 * float(1 - lit.min()), under, taped is not None


def _around(plane: NDArray[np.float32], to_scan: NDArray[np.float64], chart: Chart) -> NDArray[np.float32]:
    """The flattened chart with what lies round it, coarse; below 0 where the picture ends."""
    wide, high = (round((side + 2 * _RIM) * _COARSE) for side in (chart.width, chart.height))
    to_chart = np.array([[1 / _COARSE, 0, -_RIM], [0, 1 / _COARSE, -_RIM], [0, 0, 1.0]])
    way = _shifted(-0.5) @ to_scan @ to_chart @ _shifted(0.5)
    return np.asarray(cv2.warpPerspective(plane, way, (wide, high), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                                          borderMode=cv2.BORDER_CONSTANT, borderValue=-10.0), np.float32)  # fmt: skip


def _bare(
    outside: NDArray[np.float32], lit: NDArray[np.float64], space: Space, ground: NDArray[np.float64]
) -> NDArray[np.float64] | None:
    """Light of the paper outside the film: most of what lies there is one tone, lighter than under the film by more
    than 1 L*, and of about its hue. None if not: then it was in the light, too, or is not in the picture.
    """
    high, wide = outside.shape[1:]
    ys, xs = np.mgrid[0:high, 0:wide]
    depth = np.minimum(np.minimum(xs, wide - 1 - xs), np.minimum(ys, high - 1 - ys)) / _COARSE
    there = (depth < _RIM - 2) & (outside.min(axis=0) >= 0)  # 2 mm and more from the chart
    if there.mean() < 0.25 * (depth < _RIM - 2).mean():
        return None
    ly = np.clip(((ys / _COARSE - _RIM) * _FINE).astype(int), 0, lit.shape[0] - 1)
    lx = np.clip(((xs / _COARSE - _RIM) * _FINE).astype(int), 0, lit.shape[1] - 1)
    return _lighter(outside[:, there] / lit[ly, lx][there], space, ground)


def _taped(
    flat: NDArray[np.float32], lit: NDArray[np.float64], chart: Chart, space: Space, ground: NDArray[np.float64]
) -> NDArray[np.float64] | None:
    """Light of the paper where tape may have lain on the film; None if none did."""
    assert chart.tape is not None
    box = chart.tape
    rows = slice(round((box.y + box.height / 4) * _FINE), round((box.bottom - box.height / 4) * _FINE))
    columns = slice(round((box.x + box.width / 8) * _FINE), round((box.right - box.width / 8) * _FINE))
    return _lighter((flat[:, rows, columns] / lit[rows, columns]).reshape(3, -1), space, ground)


def _lighter(light: NDArray[Any], space: Space, ground: NDArray[np.float64]) -> NDArray[np.float64] | None:
    """Of light ``(3, n)`` what most is, if it is one tone, lighter than the film's ground, and of about its hue."""
    tone = lightness_from_y(np.tensordot(space.luminance, light, 1))
    alike = np.abs(tone - np.median(tone)) < _ONE_TONE
    if alike.mean() < 0.5:
        return None
    found = np.asarray(np.median(light[:, alike], axis=1), np.float64)
    one, other = _lab(found, space), _lab(ground, space)
    lighter, hue = one[0] - other[0], math.hypot(one[1] - other[1], one[2] - other[2])
    return found if lighter > _LIGHTER and hue < _OTHER_HUE else None


def _shifted(by: float) -> NDArray[np.float64]:
    """Between pixels by their middles and pixels by their corners."""
    return np.array([[1.0, 0, by], [0, 1.0, by], [0, 0, 1.0]])


def _paper(chart: Chart) -> Iterator[tuple[int, int]]:
    """Places of bare paper in the flattened picture: where gutters cross, and round the patches."""
    for patch in chart.patches:
        box, half = patch.box, GUTTER / 2
        for x in (box.x - half, box.right + half):
            for y in (box.y - half, box.y + box.height / 2, box.bottom + half):
                yield round(y * _FINE), round(x * _FINE)


def _field(luminance: NDArray[np.float64], chart: Chart) -> NDArray[np.float64]:
    """How light the paper would be everywhere: a cubic of its logarithm, fitted so that dust does not count."""
    high, wide = luminance.shape
    smooth = cv2.medianBlur(luminance.astype(np.float32), 5)
    places = sorted(set(_paper(chart)))
    ys, xs = np.array([y for y, _ in places]), np.array([x for _, x in places])
    values = np.log(np.maximum(smooth[ys, xs], 1e-3))
    terms = _terms(xs / wide * 2 - 1, ys / high * 2 - 1)
    weights = np.ones(len(values))
    for _ in range(12):
        found, *_ = np.linalg.lstsq(terms * weights[:, None], values * weights, rcond=None)
        off = values - terms @ found
        spread = 1.4826 * float(np.median(np.abs(off))) + 1e-4
        weights = np.clip(1 - (off / (4 * spread)) ** 2, 0, None)
    cubic = np.zeros((4, 4))
    cubic[tuple(zip(*_POWERS, strict=True))] = found
    across, down = (np.vander(np.arange(n) / n * 2 - 1, 4, increasing=True) for n in (wide, high))
    return np.asarray(np.exp(down @ cubic.T @ across.T))


_POWERS = [(i, j) for i in range(4) for j in range(4 - i)]  # of x and of y, in a cubic of both


def _terms(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.stack([x**i * y**j for i, j in _POWERS], axis=-1)


def _trimmed(part: NDArray[np.floating]) -> NDArray[np.float64]:
    """The mean of pixels ``(3, n)`` without the darkest and the lightest."""
    order = np.argsort(part.sum(axis=0))
    cut = int(_TRIM * len(order))
    return np.asarray(part[:, order[cut : len(order) - cut]].mean(axis=1), np.float64)


def _judged(reads: list[Read]) -> list[Read]:
    """Those that lie far from others of their value are damaged too."""
    repeats = len(reads) / len({(read.patch.value, read.patch.colour) for read in reads})
    if repeats < 2:
        return reads
    by: dict[float, list[float]] = {}
    for read in reads:
        by.setdefault(read.patch.value, []).append(read.lab[0])
    values = sorted(by)
    near = {v: by[v] if repeats >= 3 else [light for w in values[max(0, k - 2) : k + 3] for light in by[w]]
            for k, v in enumerate(values)}  # fmt: skip
    middle = {value: float(np.median(lights)) for value, lights in near.items()}
    spread = 1.4826 * float(np.median([abs(read.lab[0] - middle[read.patch.value]) for read in reads]))
    judged = []
    for read in reads:
        off = read.lab[0] - middle[read.patch.value]
        damage = read.damage
        if not damage and abs(off) > max(_APART, _TIMES_APART * spread):
            damage = tr("{off:.0f} of L* {off2} than its like", off=abs(off), off2="lighter" if off > 0 else "darker")
        judged.append(replace(read, damage=damage))
    return judged


def _lab(light: NDArray[np.float64], space: Space) -> Lab:
    found = colour.to_lab(colour.to_encoded(np.maximum(light, 0)).reshape(3, 1), space)[:, 0]
    return float(found[0]), float(found[1]), float(found[2])
