"""Details, softness, grain and fall-off of a print against a photograph's own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, uniform_filter
from scipy.optimize import minimize

from kyanoscript.core.after.picture import Array
from kyanoscript.core.after.scene import left
from kyanoscript.core.colour import to_encoded, to_light
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
_SEEN = 0.004  # encoded gray: what is left that is worth explaining
_WORTH = 0.85  # and to what share of it it must fall
_FAINT = 1.5  # % of grain that nobody sees
_HALVED = 400  # pixels: details are as well seen in half as many
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
    return Grain(amount=round(amount, 1), size=round(size, 2)) if amount > _FAINT else None


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


def drawn_out(gray: Array, wanted: Array, both: NDArray[np.bool_], across: int = 3) -> Pass | None:
    """Local contrast of the gray that the print of the same scene was made of, if it explains what no curve does.

    ``both``: where the photograph and the print are; ``across``: pixels that are compared as one.
    """
    if across > 1 and max(gray.shape) > _HALVED:
        gray, wanted, both = calm(gray, 2)[::2, ::2], calm(wanted, 2)[::2, ::2], both[::2, ::2]
    target = calm(wanted, across)[both]
    least = left(calm(gray, across)[both], target)
    if least < _SEEN:
        return None

    def off(values: Array) -> float:
        fine, broad = np.clip(values, -100, 100)
        return left(calm(laid(gray, LocalContrast(fine=fine, broad=broad)), across)[both], target)

    simplex = np.array([[0.0, 0.0], [40.0, 0.0], [0.0, 40.0]])
    found = minimize(
        off, simplex[0], method="Nelder-Mead",
        options={"initial_simplex": simplex, "xatol": 2.0, "fatol": 1e-5, "maxfev": 24},
    )  # fmt: skip
    fine, broad = (int(v) for v in np.clip(np.rint(found.x), -100, 100))
    if found.fun > _WORTH * least or not (fine or broad):
        return None
    return LocalContrast(fine=fine, broad=broad)


def fallen_off(print_: Array, photo: Array | None, both: NDArray[np.bool_] | None = None) -> Pass | None:
    """The fall-off of light towards the corners, from the photograph laid over the print or, without it, from the print
    alone: there it must explain most of what its broad light does. ``both``: where the photograph and the print are."""
    here = np.ones(print_.shape) if both is None else both.astype(float)
    share = gaussian_filter(here, max(print_.shape) / 40)

    def broad(gray: Array) -> Array:
        calm = gaussian_filter(gray * here, max(print_.shape) / 40) / np.maximum(share, 1e-6)
        return np.asarray(np.log2(np.maximum(to_light(calm), 1e-3))[here > 0])

    light = broad(print_) - broad(photo) if photo is not None else broad(print_)
    each = np.log2(_kept(print_.shape, Vignette(amount=-1, **_OVAL)))[here > 0]
    each, light = each - each.mean(), light - light.mean()
    amount = -float((each * light).sum() / max(float((each * each).sum()), 1e-9))
    told = 1 - float(((light + amount * each) ** 2).sum() / max(float((light * light).sum()), 1e-9))
    if abs(amount) < _FALL or told < (0.15 if photo is not None else 0.5):
        return None
    return Vignette(amount=round(float(np.clip(amount, -4, 4)), 2), **_OVAL)


def without_fall_off(print_: Array, fall: Pass) -> Array:
    """The encoded gray of a print as it was before its corners fell off."""
    kept = np.maximum(_kept(print_.shape, fall), 1e-3)
    return np.asarray(to_encoded(np.clip(to_light(print_) / kept, 0, 1)), float)


def _kept(shape: tuple[int, ...], fall: Pass) -> Array:
    """The share of light that a fall-off leaves."""
    flat = np.full(shape, 0.5)
    return np.asarray(to_light(laid(flat, fall)) / to_light(flat))


def laid(gray: Array, *steps: Pass) -> Array:
    """A gray with passes on it."""
    source = ArraySource(np.ascontiguousarray(gray, np.float32))
    return Renderer(source, Script(steps)).region(Rect(0, 0, gray.shape[1], gray.shape[0]))[0].astype(float)


def calm(gray: Array, across: int = 3) -> Array:
    """Without grain and dust: for what is compared pixel by pixel."""
    return np.asarray(uniform_filter(gray, across))
