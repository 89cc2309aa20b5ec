"""Hand-tint: colour laid over a gray picture whose lightness stays as it is.

Dabs that spread colour everything that looks alike (`kyanoscript.core.tint.spline`); dabs that stay keep to their own
outline: their weight falls as ``exp(−d²)`` with the way d from the dab, on which every step of lightness counts as a
detour (geodesic distance, as in Yatziv and Sapiro 2006). Chroma is Oklab's; where a colour lies outside sRGB its
chroma is lowered until it fits, so that the lightness is kept.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any, ClassVar

import cv2
import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour import encoded_of
from kyanoscript.core.geometry import Affine
from kyanoscript.core.native import helper, kernel
from kyanoscript.core.params import listed, number
from kyanoscript.core.passes.base import Pass, Place
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.stencil.raster import Ground
from kyanoscript.core.tint import field, stay
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.field import lightness_at
from kyanoscript.core.tint.spline import SMALL, Field

f = np.float32
_AXES = (("red", (0.0, 29.2)), ("green", (0.0, 142.5)), ("yellow", (0.0, 109.8)))
_SHIFT = 0.05  # Oklab chroma that a full turn of an axis adds to a colour that is plainly there


class HandTint(Pass):
    """Colour by dabs."""

    kind: ClassVar[str] = "hand-tint"
    label: ClassVar[str] = "Hand-tint"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "A gray picture coloured by dabs"
    pointwise: ClassVar[bool] = False
    draws: ClassVar[str] = "dabs"
    samples: ClassVar[dict[str, Any]] = {"dabs": (Dab(points=((50.0, 50.0),)),)}

    dabs: tuple[Dab, ...] = listed("dabs", (Dab,), "Dabs", "Places and strokes of colour", most=2000)
    amount: float = number(100, 0, 200, "%", "Amount", "Less or more colour, everywhere")
    red: float = number(0, -100, 100, "", "Cyan to red", "Where there is colour: towards cyan or red")
    green: float = number(0, -100, 100, "", "Magenta to green", "Where there is colour: towards magenta or green")
    yellow: float = number(0, -100, 100, "", "Blue to yellow", "Where there is colour: towards blue or yellow")
    edges: float = number(50, 0, 100, "%", "Keep to edges", "Colour that has bled over an outline goes back behind it")

    def apply(self, planes: Planes, place: Place) -> Planes:
        if not self.dabs:
            return planes
        ground = place.ground
        assert ground is not None
        gray = colour.gray_of(planes)
        small = ground.memo(("tint picture", place.chain), lambda: _small(ground))
        made = ground.memo(("tint", place.chain, self.dabs, self.edges), lambda: self._solved(small, ground))
        out = np.empty((3, *gray.shape[1:]), np.float32)
        sampled = _sampled(made, place.rect, ground)
        shifts = self._shift()
        for patch in stay.patches(self.dabs, place, ground):
            sampled = patch.laid(sampled, place.rect, ground.framing.size(ground.scale))
        paint(gray, sampled, out, gray.size, self.amount / 100, *shifts)
        return out

    def colours(self) -> bool:
        return bool(self.dabs)

    def _shift(self) -> tuple[float, float]:
        """What the three axes add to Oklab a and b."""
        total = [0.0, 0.0]
        for name, (_, hue) in _AXES:
            by = getattr(self, name) / 100 * _SHIFT
            total[0] += by * math.cos(math.radians(hue))
            total[1] += by * math.sin(math.radians(hue))
        return total[0], total[1]

    def _solved(self, small: field.Small, ground: Ground) -> Field:
        """Gains and offsets ``(4, h, w)`` on the small picture, for what spreads."""
        marks = [_mark(dab, small, ground) for dab in self.dabs if dab.acts == "spreads"]
        chroma = field.spread(small, marks)
        return field.along_edges(small.lightness, chroma, 12.0 ** (1 - self.edges / 50))


def _small(ground: Ground) -> field.Small:
    """The small picture of what comes into the pass."""
    scale = _small_scale(ground)
    gray = colour.gray_of(ground.inputs("print", Rect(0, 0, *ground.framing.size(scale)), scale))
    return field.small_picture(field.lightness_of(gray[0]))


def _small_scale(ground: Ground) -> float:
    return min(1.0, math.sqrt(SMALL / (ground.framing.width * ground.framing.height)))


def _mark(dab: Dab, small: field.Small, ground: Ground) -> field.Mark:
    """A dab on the small picture."""
    here = replace(ground, scale=_small_scale(ground))
    to_print = here.to_photo.inverse()
    across, down = here.framing.photo
    places = tuple(to_print(p[0] / 100 * across, p[1] / 100 * down) for p in dab.points)
    return field.Mark(places, dab.size / 2000 * here.longer, field.chroma_of(dab.colour))


def _sampled(made: Field, rect: Rect, ground: Ground) -> Planes:
    """The small gains and offsets at every pixel of a region ``(4, h, w)``."""
    width, height = ground.framing.size(ground.scale)
    across, down = made.shape[2] / width, made.shape[1] / height
    where = Affine(a=across, e=down, c=(rect.x + 0.5) * across - 0.5, f=(rect.y + 0.5) * down - 0.5)
    return enlarged(made, where, rect.width, rect.height)


def enlarged(planes: Field, where: Affine, width: int, height: int) -> Planes:
    """Planes looked up between their pixels: ``where`` maps a pixel to theirs."""
    matrix = np.array([[where.a, where.b, where.c], [where.d, where.e, where.f]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    out = np.empty((len(planes), height, width), np.float32)
    for k, plane in enumerate(planes):
        cv2.warpAffine(plane, matrix, (width, height), out[k], flags, cv2.BORDER_REPLICATE)
    return out


@helper
def fits(light, a, b):
    """Whether an Oklab colour lies within sRGB, by a hair."""
    cl = light + f(0.3963377774) * a + f(0.2158037573) * b
    cm = light - f(0.1055613458) * a - f(0.0638541728) * b
    cs = light - f(0.0894841775) * a - f(1.2914855480) * b
    cl, cm, cs = cl * cl * cl, cm * cm * cm, cs * cs * cs
    r = f(4.0767416621) * cl - f(3.3077115913) * cm + f(0.2309699292) * cs
    g = f(-1.2684380046) * cl + f(2.6097574011) * cm - f(0.3413193965) * cs
    bl = f(-0.0041960863) * cl - f(0.7034186147) * cm + f(1.7076147010) * cs
    least, most = min(min(r, g), bl), max(max(r, g), bl)
    return least >= f(-1e-4) and most <= f(1.0001)


@kernel("f4* gray, f4* field, f4* out, i8 n, f4 amount, f4 shift_a, f4 shift_b")
def paint(gray, field, out, n, amount, shift_a, shift_b):
    for k in range(n):
        v = min(max(gray[k], f(0.0)), f(1.0))
        light = lightness_at(v)
        a = field[k] * light * f(100.0) + field[n + k]
        b = field[n + n + k] * light * f(100.0) + field[3 * n + k]
        chroma = np.sqrt(a * a + b * b)
        there = chroma / (chroma + f(0.02))
        a = amount * (a + there * shift_a)
        b = amount * (b + there * shift_b)
        if not fits(light, a, b):
            low, high = f(0.0), f(1.0)
            for _ in range(6):
                half = f(0.5) * (low + high)
                if fits(light, a * half, b * half):
                    low = half
                else:
                    high = half
            a, b = a * low, b * low
        cl = light + f(0.3963377774) * a + f(0.2158037573) * b
        cm = light - f(0.1055613458) * a - f(0.0638541728) * b
        cs = light - f(0.0894841775) * a - f(1.2914855480) * b
        cl, cm, cs = cl * cl * cl, cm * cm * cm, cs * cs * cs
        r = f(4.0767416621) * cl - f(3.3077115913) * cm + f(0.2309699292) * cs
        g = f(-1.2684380046) * cl + f(2.6097574011) * cm - f(0.3413193965) * cs
        bl = f(-0.0041960863) * cl - f(0.7034186147) * cm + f(1.7076147010) * cs
        out[k] = encoded_of(min(max(r, f(0.0)), f(1.0)))
        out[n + k] = encoded_of(min(max(g, f(0.0)), f(1.0)))
        out[n + n + k] = encoded_of(min(max(bl, f(0.0)), f(1.0)))
