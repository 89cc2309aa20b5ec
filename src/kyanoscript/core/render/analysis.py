"""What can be said of a print, a part or a place of it: shared by the window and the command line.

Functions take planes ``(1 or 3, h, w)``, encoded 0…1, or a renderer that gives them.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import Space, in_colour
from kyanoscript.core.develop import CameraSource, White, seen_white
from kyanoscript.core.picture import Planes, Rect, Source, read, size_at
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

HUES = 72  # parts of the circle that a rose has
_DULL = 0.015  # Oklch chroma below which a colour counts for no hue


@dataclass(frozen=True)
class Spot:
    """Values at one place, after one of the passes."""

    rgb: tuple[float, float, float]  # encoded, 0…1
    gray: float  # encoded, 0…1, as bright as the colour
    lightness: float  # CIE L*, 0…100

    @property
    def levels(self) -> tuple[int, int, int]:
        """In whole steps, 0…255."""
        r, g, b = (round(v * 255) for v in self.rgb)
        return r, g, b


@dataclass(frozen=True)
class Touched:
    """What there is on a small disc."""

    hue: float  # degrees of Oklch
    chroma: float  # Oklch
    gray: float  # 0…1
    colour: str  # #rrggbb


def overview(renderer: Renderer, longest: int) -> tuple[Rect, float]:
    """The whole print as a region, at a scale at which its longer side has at most so many pixels."""
    scale = min(1.0, longest / max(renderer.size(1.0)))
    return Rect(0, 0, *renderer.size(scale)), scale


def opened(source: Source, longest: int) -> Planes:
    """The whole photograph as opened, small."""
    scale = min(1.0, longest / max(source.width, source.height))
    return read(source, Rect(0, 0, *size_at(source, scale)), scale)


def histogram(plane: NDArray[np.float32]) -> NDArray[np.int64]:
    """How many pixels have each of 256 levels."""
    steps = np.clip(plane * 255 + 0.5, 0, 255).astype(np.uint8)
    return np.bincount(steps.ravel(), minlength=256)


def histograms(planes: Planes) -> NDArray[np.int64]:
    """The same of red, green and blue: ``(3, 256)``."""
    return np.stack([histogram(plane) for plane in in_colour(planes)])


def clipped(planes: Planes, space: Space) -> tuple[float, float]:
    """Which share is pure black, and which pure white."""
    gray = colour.gray_of(planes, space)
    return float(np.mean(gray <= 0.5 / 255)), float(np.mean(gray >= 254.5 / 255))


def wedge(renderer: Renderer, start: int) -> NDArray[np.uint8]:
    """What each of 256 grays that enter pass ``start`` becomes in the print: ``(256, 3)``."""
    found = in_colour(renderer.wedge(start))[:, 0]
    return np.ascontiguousarray(np.rint(np.clip(found, 0, 1) * 255).astype(np.uint8).T)


def rose(planes: Planes, space: Space) -> NDArray[np.float64]:
    """How much colour lies at each 5° of hue, strongest 1; all 0 for a gray picture."""
    if len(planes) == 1:
        return np.zeros(HUES)
    _, chroma, hue = colour.to_oklch(planes[:, ::3, ::3], space)
    at = (hue.ravel() / (360 / HUES)).astype(int) % HUES
    found = np.bincount(at, np.where(chroma > _DULL, chroma, 0).ravel(), HUES)
    most = found.max()
    return np.sqrt(found / most) if most > 0 else np.zeros(HUES)


def taken(renderer: Renderer, script: Script, selected: int) -> dict[str, Any]:
    """The values that a pass takes from the picture; none if it takes none."""
    if not 0 <= selected < len(script.passes):
        return {}
    step = script.passes[selected]
    if not (step.auto and step.acts):
        return {}
    settled = renderer.settled(selected)
    return {name: getattr(settled, name) for name in step.suggested()}


def aspect(script: Script, selected: int, library: Library | None) -> float:
    """Width to height of the picture that a pass lays on the print; 1 without one."""
    name = getattr(script.passes[selected], "picture", "") if 0 <= selected < len(script.passes) else ""
    found = library.find(name) if name and library is not None else None
    return found.colours.width / found.colours.height if found is not None else 1.0


def spot(renderer: Renderer, x: int, y: int, scale: float = 1.0, upto: int | None = None) -> Spot:
    """The values of a pixel of the print at a scale, after so many passes."""
    space = renderer.space
    planes = np.clip(in_colour(renderer.region(Rect(x, y, 1, 1), scale, upto)), 0, 1)
    gray = float(colour.gray_of(np.ascontiguousarray(planes), space)[0, 0, 0])
    r, g, b = (float(v) for v in planes[:, 0, 0])
    return Spot((r, g, b), gray, float(colour.lightness(planes, space)[0, 0]))


def trace(renderer: Renderer, x: int, y: int, scale: float = 1.0, places: Iterable[int] | None = None) -> list[Spot]:
    """The same after each pass, that of the framed photograph first; or after those given."""
    every = range(len(renderer.script.passes) + 1) if places is None else places
    return [spot(renderer, x, y, scale, upto) for upto in every]


def gray_under(renderer: Renderer, raw: CameraSource, x: float, y: float, radius: float) -> White:
    """The light that makes a place of the print (0…1 across and down) gray; ``radius`` in the photograph's pixels."""
    framing = renderer.framing
    px, py = framing.to_photo(x * framing.width, y * framing.height)
    side = max(1, round(radius))
    rect = Rect(int(px) - side, int(py) - side, 2 * side + 1, 2 * side + 1).clipped(raw.width, raw.height)
    r, g, b = raw.seen(rect)
    return seen_white(raw.camera, (g / max(r, 1e-6), 1.0, g / max(b, 1e-6)))


def touched(renderer: Renderer, x: int, y: int, radius: int, scale: float, upto: int) -> Touched:
    """What lies on a disc round a pixel, averaged in light."""
    rect = Rect(x - radius, y - radius, 2 * radius + 1, 2 * radius + 1).clipped(*renderer.size(scale))
    planes = renderer.region(rect, scale, upto)
    ys, xs = np.mgrid[rect.y : rect.bottom, rect.x : rect.right]
    disc = (xs - x) ** 2 + (ys - y) ** 2 <= radius**2
    mean = colour.to_encoded(colour.to_light(in_colour(planes))[:, disc].mean(axis=1)).reshape(3, 1)
    _, chroma, hue = (float(v) for v in colour.to_oklch(mean, renderer.space)[:, 0])
    gray = float(colour.gray_of(np.ascontiguousarray(mean.reshape(3, 1, 1), np.float32), renderer.space)[0, 0, 0])
    return Touched(hue, chroma if len(planes) == 3 else 0.0, gray, colour.written_of(mean[:, 0], renderer.space))
