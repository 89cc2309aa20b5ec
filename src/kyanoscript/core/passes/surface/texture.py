"""Texture: a surface repeated over the print: bundled, or any picture of one's own.

It is as light as mid gray on the whole, so that in overlay or soft light it changes the print's tones as little as it
can, and every surface stands out alike: at a contrast of 100 % its standard deviation is 12 % of the way to white.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.blend import BlendMode
from kyanoscript.core.geometry import moving, scaling, turning
from kyanoscript.core.kernel import kernel
from kyanoscript.core.late import cv2
from kyanoscript.core.params import choice, length, number, text
from kyanoscript.core.passes.base import Pass, by_strength, laid_over
from kyanoscript.core.picture import Planes, Rect, read, size_at
from kyanoscript.core.site import Place
from kyanoscript.core.textures import bundled

f = np.float32
_STANDS_OUT = 0.12  # standard deviation of every surface at full contrast
_LARGEST = 2048  # pixels of the longer side that are kept of a picture of one's own


class Texture(Pass):
    """A surface laid over the print."""

    kind: ClassVar[str] = "texture"
    label: ClassVar[str] = "Texture"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Paper, plaster, linen, rust or a picture"
    use: ClassVar[str] = "To put the print on plaster, linen, laid paper"
    beware: ClassVar[str] = "Over 20 % one sees the texture before the picture"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "laid paper": {"surface": "laid-paper", "size": 430.0, "contrast": 100.0, "blend": "overlay", "strength": 20.0},
        "old plaster": {"surface": "plaster", "size": 800.0, "contrast": 120.0, "blend": "multiply", "strength": 22.0},
        "fine linen": {"surface": "linen", "size": 300.0, "contrast": 90.0, "blend": "soft-light", "strength": 28.0},
        "rust": {"surface": "rust", "size": 900.0, "contrast": 140.0, "blend": "overlay", "strength": 30.0},
    }
    pointwise: ClassVar[bool] = False

    surface: Literal["laid-paper", "plaster", "linen", "rust", "own"] = choice(
        "laid-paper",
        (
            ("laid-paper", "laid paper"),
            ("plaster", "plaster"),
            ("linen", "linen"),
            ("rust", "rust"),
            ("own", "own picture"),
        ),
        "Surface",
    )
    picture: str = text("", "Picture", "File of a picture that repeats", names="file", when=("surface", "own"))
    size: float = length(430, 10, 4000, "Size", "Of one repeat, its longer side", step=5)
    angle: float = number(0, -180, 180, "°", "Angle", "Clockwise", decimals=1)
    contrast: float = number(100, 0, 400, "%", "Contrast", "How far it stands out from mid gray")
    strength: float = by_strength(20)
    blend: BlendMode = laid_over("overlay")

    def placed(self) -> str:
        return "angle"

    def apply(self, planes: Planes, place: Place) -> Planes:
        ground = place.ground
        assert ground is not None
        tile = self._tile(place)
        if tile is None:
            return planes
        longer = max(ground.framing.photo)
        to_tile = self.size / 1000 * longer / max(tile.shape)  # the photograph's pixels to one of the tile's
        to_photo = ground.to_photo
        # Where pixels are larger than the tile's, its reduced copies are looked at.
        level = max(0, math.floor(math.log2(max(to_photo.size / to_tile, 1))))
        level = min(level, int(math.log2(min(tile.shape))))
        key = ("texture", self.surface, self.picture, id(tile) if self.surface == "own" else 0, level)
        small = ground.memo(key, lambda: _reduced(tile, level))
        h, w = small.shape
        width, height = ground.framing.photo
        m = (
            scaling(w / tile.shape[1], h / tile.shape[0])
            .after(scaling(1 / to_tile, 1 / to_tile))
            .after(turning(-self.angle))
            .after(moving(-width / 2, -height / 2))
            .after(to_photo)
        )
        rect = place.rect
        out = np.empty((1, rect.height, rect.width), np.float32)
        mean, spread = float(tile.mean()), max(float(tile.std()), 1 / 255)
        repeat(
            small, out, rect.width, rect.height, rect.x, rect.y, w, h, m.a, m.b, m.c, m.d, m.e, m.f, mean,
            self.contrast / 100 * _STANDS_OUT / spread,
        )  # fmt: skip
        return out

    def _tile(self, place: Place) -> NDArray[np.float32] | None:
        """What repeats, in gray; None if a picture of one's own is not there."""
        if self.surface != "own":
            return bundled(self.surface)
        found = place.picture(self.picture) if place.picture is not None and self.picture else None
        if found is None:
            return None
        assert place.ground is not None
        source = found.colours

        def gray() -> NDArray[np.float32]:
            scale = min(1.0, _LARGEST / max(source.width, source.height))
            planes = read(source, Rect(0, 0, *size_at(source, scale)), scale)
            return np.ascontiguousarray(colour.gray_of(planes, source.space)[0])

        kept: NDArray[np.float32] = place.ground.memo(("tile", self.picture, id(found)), gray)
        return kept

    def grays(self) -> bool:
        return True

    def pictures(self) -> list[str]:
        return [self.picture] if self.surface == "own" and self.acts else []


def _reduced(tile: NDArray[np.float32], level: int) -> NDArray[np.float32]:
    """The tile 2^level times smaller, each pixel the mean of those it stands for."""
    if level == 0:
        return np.ascontiguousarray(tile)
    size = (max(1, round(tile.shape[1] / 2**level)), max(1, round(tile.shape[0] / 2**level)))
    return np.asarray(cv2.resize(tile, size, interpolation=cv2.INTER_AREA), np.float32)


@kernel(
    "f4* tile, f4* out, i8 w, i8 h, i8 x0, i8 y0, i8 tw, i8 th, f8 a, f8 b, f8 c, f8 d, f8 e, f8 g, f4 mean, "
    "f4 contrast"
)
def repeat(tile, out, w, h, x0, y0, tw, th, a, b, c, d, e, g, mean, contrast):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            tx, ty = a * u + b * v + c - 0.5, d * u + e * v + g - 0.5
            fx, fy = np.floor(tx), np.floor(ty)
            px, py = f(tx - fx), f(ty - fy)
            ix, iy = np.int64(fx) % tw, np.int64(fy) % th
            jx, jy = (ix + 1) % tw, (iy + 1) % th
            top = tile[iy * tw + ix] + px * (tile[iy * tw + jx] - tile[iy * tw + ix])
            low = tile[jy * tw + ix] + px * (tile[jy * tw + jx] - tile[jy * tw + ix])
            level = f(0.5) + contrast * (top + py * (low - top) - mean)
            out[y * w + x] = min(max(level, f(0.0)), f(1.0))
