"""The bench darkroom: a stand-in for a darkroom, in formulas that anybody can read.

Light passes the film, the paper answers to its logarithm with an S from paper white to the deepest tone, the dried
print is scanned crooked, unevenly lit, grainy and dusty. Largest densities, exposure scales and colours are common
practice, without a source; how much each ink holds back of a lamp's near-ultraviolet is invented.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.late import cv2
from kyanoscript.core.paper import press
from kyanoscript.core.picture import Planes
from kyanoscript.core.process.baths import Bath

# Density of each ink, full, in the light of the lamp: yellow holds back most, cyan least
_HOLDS = np.array([0.35, 0.55, 1.30, 0.95])  # cyan, magenta, yellow, black
BASE = 0.05  # of the film
_STEEP = 5.2  # of the S over one exposure scale
_BRUSH, _UNEVEN = 9.0, 0.008  # mm from brush to brush, and how much faster the coating is there, log₁₀
_SPECK = 0.25  # mm: radius of a grain of dust, at most


def film_density(film: Planes) -> NDArray[np.float64]:
    """Density ``(h, w)`` in the light of the lamp of film as the printer was told it, ``(1 or 3, h, w)``, encoded."""
    flat = colour.in_colour(film).reshape(3, -1).T.astype(np.float64)
    return (BASE + press.inks_of(flat) @ _HOLDS).reshape(film.shape[1:])


def developed(bath: Bath, exposure: NDArray[np.float64]) -> NDArray[np.float64]:
    """Density above the paper's for log₁₀ of an exposure, 0 at the deepest tone's."""
    at = 1 + exposure / bath.scale  # 0 the first tone, 1 the deepest
    ends = 1 / (1 + np.exp(_STEEP / 2)), 1 / (1 + np.exp(-_STEEP / 2))
    shape = (1 / (1 + np.exp(-_STEEP * (at - 0.5))) - ends[0]) / (ends[1] - ends[0])
    return np.asarray(bath.density * np.clip(shape, 0, 1.04) ** bath.toe)


def printed(
    bath: Bath, film: Planes, minutes: float | None = None, coating: NDArray[np.float64] | float = 0.0
) -> NDArray[np.float64]:
    """The dry print in linear sRGB light ``(3, h, w)`` that a film gives; without a time the process's own.

    ``coating``: log₁₀ of how much faster the paper is, by place (see `coated`).
    """
    if minutes is None:
        minutes = bath.minutes
    exposure = math.log10(max(minutes, 1e-6) / bath.minutes) - (film_density(film) - BASE) + coating
    return toned(bath, developed(bath, exposure))


def coated(shape: tuple[int, int], ppi: float, seed: int) -> NDArray[np.float64]:
    """Paper coated by hand ``(h, w)``: log₁₀ of how much faster it is here than on the mean, from brush to brush."""
    rng = np.random.default_rng(seed)
    cells = [max(2, math.ceil(side / (_BRUSH * ppi / 25.4)) + 1) for side in shape]
    field = rng.normal(0, _UNEVEN, cells)
    return np.asarray(cv2.resize(field, shape[::-1], interpolation=cv2.INTER_CUBIC), np.float64)


def toned(bath: Bath, density: NDArray[np.float64]) -> NDArray[np.float64]:
    """Linear sRGB light ``(3, …)`` of densities above the paper's."""
    paper = paper_light(bath)
    weights = np.array(bath.hue)
    # So that what is called a density is one: of the deepest, in luminance.
    low, high = 0.5, 2.0
    for _ in range(40):
        middle = (low + high) / 2
        y = SRGB.luminance @ (paper * 10 ** (-bath.density * middle * weights)) / (SRGB.luminance @ paper)
        low, high = (middle, high) if -math.log10(y) < bath.density else (low, middle)
    shape = (3, *[1] * density.ndim)
    return np.asarray(paper.reshape(shape) * 10 ** (-density[None] * low * weights.reshape(shape)))


def paper_light(bath: Bath) -> NDArray[np.float64]:
    """Linear sRGB light of the bare paper."""
    lightness, a, b = bath.paper
    fy = (lightness + 16) / 116
    t = np.array([fy + a / 500, fy, fy - b / 200])
    xyz = np.where(t > 6 / 29, t**3, 3 * (6 / 29) ** 2 * (t - 4 / 29)) * SRGB.to_xyz.sum(1)
    return np.asarray(np.linalg.solve(SRGB.to_xyz, xyz))


@dataclass(frozen=True)
class Scanner:
    """How badly it is scanned."""

    ppi: float = 200.0
    turn: float = 1.4  # degrees with the clock
    perspective: float = 0.0  # how far corners stray, share of the side
    uneven: float = 0.06  # how much less light there is where there is least
    blur: float = 0.5  # pixels
    dust: int = 6  # grains to the square decimetre
    noise: float = 0.006  # of the light, each pixel; of paper and grain
    seed: int = 1

    def still(self) -> Scanner:
        """The same without its faults."""
        return replace(self, turn=0.0, perspective=0.0, uneven=0.0, blur=0.0, dust=0, noise=0.0)


def scanned(light: NDArray[np.float64], ppi: float, scanner: Scanner, paper: NDArray[np.float64]) -> NDArray[np.uint8]:
    """A scan ``(h, w, 3)``, sRGB, of a print in light ``(3, h, w)`` that has so many pixels to the inch.

    ``paper``: light of the bare paper, which lies round the print.
    """
    rng = np.random.default_rng(scanner.seed)
    scale = scanner.ppi / ppi
    picture: NDArray[Any] = np.ascontiguousarray(light.transpose(1, 2, 0), np.float32)
    high, wide = picture.shape[0] * scale, picture.shape[1] * scale
    angle = math.radians(scanner.turn)
    cos, sin = abs(math.cos(angle)), abs(math.sin(angle))
    rim = 0.04 * max(wide, high) + 4
    out_w, out_h = int(wide * cos + high * sin + 2 * rim), int(wide * sin + high * cos + 2 * rim)
    corners = np.array([[0, 0], [wide, 0], [wide, high], [0, high]]) - [wide / 2, high / 2]
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    placed = corners @ turn.T + [out_w / 2, out_h / 2]
    placed += rng.uniform(-1, 1, (4, 2)) * scanner.perspective * min(wide, high)
    if scale < 1:  # reduced by areas first, or the warp would skip pixels
        size = max(1, round(picture.shape[1] * scale)), max(1, round(picture.shape[0] * scale))
        picture = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    across, down = picture.shape[1], picture.shape[0]
    source = np.array([[0, 0], [across, 0], [across, down], [0, down]], np.float32) - np.float32(0.5)
    way = cv2.getPerspectiveTransform(source, (placed - 0.5).astype(np.float32))
    sheet: NDArray[Any] = np.empty((out_h, out_w, 3), np.float32)
    sheet[:] = paper.astype(np.float32)
    cv2.warpPerspective(picture, way, (out_w, out_h), dst=sheet, flags=cv2.INTER_LINEAR,
                        borderMode=cv2.BORDER_TRANSPARENT)  # fmt: skip
    _dust(sheet, scanner, rng)
    if scanner.blur:
        sheet = cv2.GaussianBlur(sheet, (0, 0), scanner.blur)
    sheet *= _lamp(out_w, out_h, scanner.uneven, rng)[..., None]
    if scanner.noise:
        grain = rng.standard_normal((out_h, out_w, 1)).astype(np.float32)
        sheet *= 1 + scanner.noise * grain
        sheet += rng.normal(0, 0.0006, sheet.shape).astype(np.float32)
    encoded = colour.to_encoded(np.clip(sheet, 0, 1))
    return np.asarray(np.rint(encoded * 255), np.uint8)


def _dust(sheet: NDArray[np.float32], scanner: Scanner, rng: np.random.Generator) -> None:
    height, width = sheet.shape[:2]
    decimetres = height * width / (scanner.ppi / 0.254) ** 2
    for _ in range(rng.poisson(scanner.dust * decimetres)):
        place = int(rng.uniform(0, width)), int(rng.uniform(0, height))
        radius = max(1, round(rng.uniform(0.3, 1) * _SPECK * scanner.ppi / 25.4))
        cv2.circle(sheet, place, radius, [float(rng.choice((0.03, 0.85)))] * 3, -1)


def _lamp(width: int, height: int, uneven: float, rng: np.random.Generator) -> NDArray[np.float32]:
    """Light over the bed: falling off to one side and to the rim, from 1 down to 1 − uneven."""
    xs, ys = np.linspace(-1, 1, width)[None], np.linspace(-1, 1, height)[:, None]
    angle, bow = rng.uniform(0, 2 * math.pi), rng.uniform(0.2, 0.8)
    fall = (1 - bow) * (xs * math.cos(angle) + ys * math.sin(angle)) + bow * ((xs - 0.2) ** 2 + (ys + 0.1) ** 2)
    fall = (fall - fall.min()) / (fall.max() - fall.min())
    return np.asarray(1 - uneven * fall, np.float32)
