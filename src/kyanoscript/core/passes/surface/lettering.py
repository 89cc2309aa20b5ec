"""Lettering: a line of words on the print, with a glow if it is to shine.

Words are drawn with the fonts that ship with the program, at a size at or above that of the print's pixels, and laid
onto the print from there, wherever they stand and however they are turned.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.geometry import moving, scaling, turning
from kyanoscript.core.kernel import kernel
from kyanoscript.core.late import cv2
from kyanoscript.core.params import Colour, choice, ink, length, number, text
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
_FONTS = {
    "serif": "EBGaramond-Regular.ttf",
    "italic": "EBGaramond-Italic.ttf",
    "sans": "Figtree-Regular.ttf",
    "medium": "Figtree-Medium.ttf",
}
_FINE = 24.0  # pixels: Gaussians of twice that and more are worked out on coarser pictures
_MOST = 512  # pixels of a letter's height as drawn; larger letters are enlarged from there


class Lettering(Pass):
    """Words on the print."""

    kind: ClassVar[str] = "lettering"
    label: ClassVar[str] = "Lettering"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "A line of words on the print"
    use: ClassVar[str] = "For a title, a date, a read-out on the print"
    beware: ClassVar[str] = "Small letters vanish in texture; look at them at the size of the print"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "small caption below": {"font": "italic", "size": 24.0, "x": 50.0, "y": 94.0, "glow": 0.0},
        "large title": {"font": "serif", "size": 90.0, "x": 50.0, "y": 14.0, "glow": 0.0},
        "read-out, green": {"font": "medium", "size": 22.0, "x": 12.0, "y": 8.0, "ink": "#7dff8a", "glow": 60.0},
        "poster, black": {"font": "medium", "size": 70.0, "x": 50.0, "y": 90.0, "ink": "#141414", "glow": 0.0},
    }
    pointwise: ClassVar[bool] = False
    samples: ClassVar[dict[str, Any]] = {"size": 130.0}

    words: str = text("Marrow Quay", "Words", "What is written")
    font: Literal["serif", "italic", "sans", "medium"] = choice(
        "serif",
        (("serif", "book serif"), ("italic", "italic"), ("sans", "plain"), ("medium", "plain, stronger")),
        "Font",
    )
    size: float = length(40, 2, 1000, "Size", "Height of the letters' square", step=1)
    x: float = number(50, -1000, 1000, "%", "Across", "Middle of the words", decimals=2)
    y: float = number(90, -1000, 1000, "%", "Down", "Middle of the words", decimals=2)
    turn: float = number(0, -180, 180, "°", "Turn", "Clockwise", decimals=1)
    ink: Colour = ink("#f6f1e6", "Colour", "Of the letters")
    glow: float = number(0, 0, 100, "%", "Glow", "How brightly they shine around")
    reach: float = length(12, 1, 200, "Glow's reach", "How far it shines", step=1)

    def placed(self) -> str:
        return "point"

    def suited(self, shape: float) -> Self:
        """As large in the width as on a print of 3 to 2; of a wider one in its height."""
        part = min(shape, 1.5) / max(shape, 1.0)  # what is across, or is as wide as 3 to 2, of the longer side
        return self.with_(size=round(self.size * part, 1), reach=round(max(1.0, self.reach * part), 1))

    def apply(self, planes: Planes, place: Place) -> Planes:
        ground = place.ground
        assert ground is not None
        em = place.pixels(self.size)
        drawn = float(min(max(2 ** math.ceil(math.log2(max(em, 1))), 8), _MOST))  # pixels of a letter as it is drawn
        reach = self.reach / self.size * drawn if self.glow > 0 else 0.0
        key = ("letters", self.words, self.font, drawn, reach)
        mask, shine = ground.memo(key, lambda: _drawn(self.words, self.font, int(drawn), reach))
        tint = colour.ink_of(self.ink, place.space)
        grays = len(planes) == 1 and not self.colours()
        source = planes if grays else colour.in_colour(planes)
        out = np.empty_like(source)
        h, w = mask.shape
        width, height = ground.framing.photo
        each = self.size / 1000 * max(width, height) / drawn  # the photograph's pixels to one of the drawn words'
        m = (
            moving(w / 2, h / 2)
            .after(scaling(1 / each, 1 / each))
            .after(turning(-self.turn))
            .after(moving(-self.x / 100 * width, -self.y / 100 * height))
            .after(ground.to_photo)
        )
        rect = place.rect
        letter(
            source, out, len(source), rect.width, rect.height, rect.x, rect.y, mask, shine, w, h, m.a, m.b, m.c, m.d,
            m.e, m.f, self.glow / 100, np.array(tint, np.float32),
        )  # fmt: skip
        return out

    def colours(self) -> bool:
        return len(set(colour.parse_hex(self.ink))) > 1


def _drawn(words: str, font: str, em: int, reach: float) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Where letters are ``(h, w)``, 0…1, and how far they shine; with nothing to write both are empty of light."""
    from kyanoscript.core.lettering import drawn  # loads a library of its own

    mask = drawn(words, _FONTS[font], em, math.ceil(3 * reach) + 2)
    shine = shining(mask, reach) if reach > 0.2 else np.zeros_like(mask)
    most = float(shine.max())
    return np.ascontiguousarray(mask), np.ascontiguousarray(shine / most if most > 0 else shine, np.float32)


def shining(mask: NDArray[np.float32], reach: float) -> NDArray[np.float32]:
    """The mask under a Gaussian; a wide one on a coarser picture: small letters that shine far took a minute else."""
    factor = 2 ** max(0, math.floor(math.log2(reach / _FINE))) if reach > 2 * _FINE else 1
    if factor == 1:
        return np.asarray(cv2.GaussianBlur(mask, (0, 0), reach), np.float32)
    height, width = mask.shape
    coarse = cv2.resize(mask, (-(-width // factor), -(-height // factor)), interpolation=cv2.INTER_AREA)
    blurred = cv2.GaussianBlur(coarse, (0, 0), reach / factor)
    return np.asarray(cv2.resize(blurred, (width, height), interpolation=cv2.INTER_CUBIC), np.float32)


@kernel(
    "f4* src, f4* out, i8 c, i8 w, i8 h, i8 x0, i8 y0, f4* mask, f4* shine, i8 mw, i8 mh, f8 a, f8 b, f8 c0, f8 d, "
    "f8 e, f8 g, f4 glow, f4* tint"
)
def letter(src, out, c, w, h, x0, y0, mask, shine, mw, mh, a, b, c0, d, e, g, glow, tint):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            tx, ty = a * u + b * v + c0 - 0.5, d * u + e * v + g - 0.5
            fx, fy = np.floor(tx), np.floor(ty)
            ix, iy = np.int64(fx), np.int64(fy)
            px, py = f(tx - fx), f(ty - fy)
            covered, light = f(0.0), f(0.0)
            for j in range(2):
                for i in range(2):
                    mx, my = ix + i, iy + j
                    if mx >= 0 and my >= 0 and mx < mw and my < mh:
                        share = (px if i else f(1.0) - px) * (py if j else f(1.0) - py)
                        covered += share * mask[my * mw + mx]
                        light += share * shine[my * mw + mx]
            light *= glow
            for k in range(c):
                at = k * w * h + y * w + x
                level = f(1.0) - (f(1.0) - src[at]) * (f(1.0) - light * tint[k])
                out[at] = min(max(level + covered * (tint[k] - level), f(0.0)), f(1.0))
