"""Details, softness, grain and fall-off of a print against a photograph's own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.ndimage import gaussian_filter, uniform_filter

from kyanoscript.core.after.picture import Array
from kyanoscript.core.colour import to_light
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.edge.vignette import Vignette
from kyanoscript.core.passes.surface.grain import Grain
from kyanoscript.core.passes.surface.soften import Soften
from kyanoscript.core.passes.tone.local_contrast import LocalContrast
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

_BANDS = ((1.0, 2.0), (2.0, 8.0), (8.0, 30.0))  # thousandths of the longer side: fine, middle, broad
_BLOCK = 8  # pixels of a part that grain is looked for in
_FLATTEST = 0.1  # of the parts
_GRAIN = 0.006  # encoded gray: less is a scanner's own
_FALL = 0.12  # stops in the corners: less is nothing
_OVAL: dict[str, Any] = {"width": 1000.0, "height": 700.0, "soft": 90.0}


@dataclass(frozen=True)
class Grained:
    """Grain of a picture: σ of the encoded gray, and how far it reaches, in pixels."""

    sigma: float
    reach: float


def bands(gray: Array) -> Array:
    """Strength of fine, middle and broad details of an encoded gray ``(h, w)``."""
    longer = max(gray.shape) / 1000
    found = []
    for low, high in _BANDS:
        fine = gaussian_filter(gray, low * longer) if low * longer > 0.3 else gray
        found.append(float((fine - gaussian_filter(gray, high * longer)).std()))
    return np.array(found)


def grain(gray: Array) -> Grained:
    """Of the flattest tenth of a picture: what is left when the larger forms are taken off."""
    fine = gray - gaussian_filter(gray, 2.0)
    form = gaussian_filter(gray, 3.0)
    steep = np.hypot(*np.gradient(form))
    rows, columns = (side // _BLOCK * _BLOCK for side in gray.shape)

    def parts(of: Array) -> Array:
        cut = of[:rows, :columns].reshape(rows // _BLOCK, _BLOCK, columns // _BLOCK, _BLOCK)
        return cut.transpose(0, 2, 1, 3).reshape(-1, _BLOCK * _BLOCK)

    if not rows or not columns:
        return Grained(0.0, 1.0)
    slope, tone = parts(steep).mean(1), parts(form).mean(1)
    usable = (tone > 0.06) & (tone < 0.96)  # where nothing is cut off
    if usable.sum() < 8:
        return Grained(0.0, 1.0)
    limit = np.quantile(slope[usable], _FLATTEST)
    flat = usable & (slope <= limit)
    sigma = float(np.median(parts(fine)[flat].std(1)))
    beside = float(
        np.median(
            (
                parts(fine)[flat].reshape(-1, _BLOCK, _BLOCK)[:, :, 1:]
                * parts(fine)[flat].reshape(-1, _BLOCK, _BLOCK)[:, :, :-1]
            ).mean((1, 2))
        )
    )
    alike = min(max(beside / max(sigma**2, 1e-12), 0.0), 0.95)
    return Grained(sigma, 1.0 + 2.0 * alike)


def grained(print_: Grained, photo: Grained, longer: int) -> Pass | None:
    """The grain that the print has and the photograph has not; ``longer``: pixels of the print's longer side."""
    more = print_.sigma**2 - photo.sigma**2
    if more <= _GRAIN**2 or print_.sigma < 1.3 * photo.sigma:
        return None
    size = min(max(1000 * print_.reach / longer, 0.1), 10.0)
    told = min(100 * float(np.sqrt(more)), 60.0)
    made = grain(laid(np.full((64, longer), 0.5), Grain(amount=told, size=size))).sigma  # as large as it is seen
    amount = min(told * float(np.sqrt(more)) / max(made, 1e-4), 60.0)
    return Grain(amount=round(amount, 1), size=round(size, 2))


def softened(print_: Array, photo: Array) -> Pass | None:
    """The softness of a print: of the Gaussian that takes as much of the photograph's fine details."""
    wanted = bands(print_)[0]
    if wanted > 0.75 * bands(photo)[0]:
        return None
    longer, low, high = max(photo.shape), 0.0, 12.0
    for _ in range(12):
        middle = (low + high) / 2
        soft = gaussian_filter(photo, middle * longer / 1000)
        low, high = (middle, high) if bands(soft)[0] > wanted else (low, middle)
    return Soften(radius=round(high, 2))


def detailed(print_: Array, photo: Array) -> Pass | None:
    """Local contrast that gives the photograph the print's middle and broad details: measured on what the pass does."""
    wanted, own = bands(print_), bands(photo)
    more = wanted / np.maximum(own, 1e-6)
    if more[1] < 1.12 and more[2] < 1.12:
        return None

    def amount(values: dict[str, Any], band: int) -> float:
        made = bands(laid(photo, LocalContrast(**values)))[band] / max(own[band], 1e-6)
        return float(np.clip(50 * (more[band] - 1) / max(made - 1, 0.02), 0, 100)) if more[band] > 1.05 else 0.0

    fine, broad = amount({"fine": 50, "broad": 0}, 1), amount({"fine": 0, "broad": 50}, 2)
    return LocalContrast(fine=round(fine), broad=round(broad)) if fine > 4 or broad > 4 else None


def fallen_off(print_: Array, photo: Array | None) -> Pass | None:
    """The fall-off of light towards the corners, from the photograph laid over the print or, without it, from the print
    alone: there it must explain most of what its broad light does."""
    light = np.log2(np.maximum(to_light(gaussian_filter(print_, max(print_.shape) / 40)), 1e-3))
    if photo is not None:
        light = light - np.log2(np.maximum(to_light(gaussian_filter(photo, max(print_.shape) / 40)), 1e-3))
    flat = np.full(print_.shape, 0.5)
    each = np.log2(to_light(laid(flat, Vignette(amount=-1, **_OVAL))) / to_light(flat))
    each, light = each - each.mean(), light - light.mean()
    amount = -float((each * light).sum() / max(float((each * each).sum()), 1e-9))
    told = 1 - float(((light + amount * each) ** 2).sum() / max(float((light * light).sum()), 1e-9))
    if abs(amount) < _FALL or told < (0.15 if photo is not None else 0.5):
        return None
    return Vignette(amount=round(float(np.clip(amount, -4, 4)), 2), **_OVAL)


def laid(gray: Array, *steps: Pass) -> Array:
    """A gray with passes on it."""
    source = ArraySource(np.ascontiguousarray(gray, np.float32))
    return Renderer(source, Script(steps)).region(Rect(0, 0, gray.shape[1], gray.shape[0]))[0].astype(float)


def calm(gray: Array, across: int = 3) -> Array:
    """Without grain and dust: for what is compared pixel by pixel."""
    return np.asarray(uniform_filter(gray, across))
