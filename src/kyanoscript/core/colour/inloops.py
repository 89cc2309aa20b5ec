"""Colour within kernels: the same formulas in single precision, a value at a time.

``m`` is what a kernel is handed of the space (`Space.numbers`): 3 numbers of luminance, 9 to the cones, 9 back.

Sources: IEC 61966-2-1 (sRGB curve), B. Ottosson, "A perceptual color space for image processing" (2020) (Oklab).
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from kyanoscript.core.colour.space import SRGB
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.kernel.fastmath import arctan2, power

f = np.float32
_SRGB = tuple(SRGB.numbers)


class InSpaces:
    """A kernel that is made twice: for sRGB with its numbers fixed, and for any other space, whose it is handed.

    Numbers that a compiler knows are summed in another order; so a print of an sRGB photograph is the same to the bit
    as before there were spaces, and as quick. Called with the space in place of the kernel's last argument.
    """

    def __init__(self, make: Callable[..., Callable[..., None]], signature: str) -> None:
        name = make.__name__
        self.fixed = kernel(signature, f"{name}_srgb")(make(numbers_of_srgb))
        self.any = kernel(signature, name)(make(numbers_of))

    def __call__(self, *args: Any) -> None:
        *others, space = args
        (self.fixed if space == SRGB else self.any)(*others, space.numbers)


def in_spaces(signature: str) -> Callable[..., InSpaces]:
    """Mark what makes a kernel, given the helper that finds a space's numbers ``m``; its last argument is the space."""
    return lambda make: InSpaces(make, signature)


@helper
def numbers_of(space):
    return space


@helper
def numbers_of_srgb(space):
    return _SRGB


@helper
def light_of(v):
    """sRGB curve, single precision, v of 0 or more."""
    return v * f(0.0773993808) if v <= f(0.04045) else power((v + f(0.055)) * f(0.9478672986), f(2.4))


@helper
def encoded_of(v):
    """Inverse sRGB curve, single precision, v of 0 or more."""
    return v * f(12.92) if v <= f(0.0031308) else f(1.055) * power(v, f(0.4166666667)) - f(0.055)


@helper
def luminance_of(r, g, b, m):
    """Relative luminance of light."""
    return m[0] * r + m[1] * g + m[2] * b


@helper
def oklab_of(r, g, b, m):
    """Oklab (Ottosson 2020) of an encoded colour, single precision."""
    return oklab_of_light(light_of(r), light_of(g), light_of(b), m)


@helper
def oklab_of_light(lr, lg, lb, m):
    """The same of light."""
    third = f(0.3333333333)
    cl = power(m[3] * lr + m[4] * lg + m[5] * lb, third)
    cm = power(m[6] * lr + m[7] * lg + m[8] * lb, third)
    cs = power(m[9] * lr + m[10] * lg + m[11] * lb, third)
    return oklab_by(cl, cm, cs)


@helper
def oklab_beyond(r, g, b, m):
    """The same of a colour that may be none: what its cones see may lie below nothing."""
    lr, lg, lb = light_of(r), light_of(g), light_of(b)
    cl = root_of(m[3] * lr + m[4] * lg + m[5] * lb)
    cm = root_of(m[6] * lr + m[7] * lg + m[8] * lb)
    cs = root_of(m[9] * lr + m[10] * lg + m[11] * lb)
    return oklab_by(cl, cm, cs)


@helper
def root_of(v):
    """Its cube root, below nothing as above it."""
    size = power(abs(v), f(0.3333333333))
    return size if v >= f(0.0) else -size


@helper
def oklab_by(cl, cm, cs):
    """Oklab of the cube roots of what cones see."""
    light = f(0.2104542553) * cl + f(0.7936177850) * cm - f(0.0040720468) * cs
    a = f(1.9779984951) * cl - f(2.4285922050) * cm + f(0.4505937099) * cs
    b_ = f(0.0259040371) * cl + f(0.7827717662) * cm - f(0.8086757660) * cs
    return light, a, b_


@helper
def shown_of(v):
    """Encoded level 0…1 of light that may lie outside what a display can show."""
    return encoded_of(min(max(v, f(0.0)), f(1.0)))


@helper
def rgb_of(light, a, b, m):
    """Encoded colour 0…1 of Oklab, single precision; outside the space each channel is held at its end."""
    r, g, b_ = light_rgb_of(light, a, b, m)
    return shown_of(r), shown_of(g), shown_of(b_)


@helper
def light_rgb_of(light, a, b, m):
    """Light of Oklab, single precision; outside the space below 0 or above 1."""
    cl = light + f(0.3963377774) * a + f(0.2158037573) * b
    cm = light - f(0.1055613458) * a - f(0.0638541728) * b
    cs = light - f(0.0894841775) * a - f(1.2914855480) * b
    cl, cm, cs = cl * cl * cl, cm * cm * cm, cs * cs * cs
    return (
        m[12] * cl - m[13] * cm + m[14] * cs,
        m[15] * cl + m[16] * cm - m[17] * cs,
        m[18] * cl - m[19] * cm + m[20] * cs,
    )


@helper
def chroma_kept(light, a, b, before, most, steps, m):
    """How much of its chroma, 0…1, an Oklab colour keeps so that it fits into the space; hue and lightness stay.

    ``most``: of a channel's light, held at 1 afterwards. By bisection in so many ``steps`` from ``before``, the share
    that fitted before the colour was strengthened: the gamut has hollows, and a colour beyond one is not to be drawn
    back through it. As many steps for every colour, so that the processor takes several at once (with ten in place of
    nine it does not: 325 ms a megapixel in place of 48); each channel of light is a cubic of the share.
    """
    gray = light * light * light
    r, g, b_ = light_rgb_of(light, a, b, m)
    rr, gg, bb = light_rgb_of(light, -a, -b, m)
    rrr, ggg, bbb = light_rgb_of(light, a + a, b + b, m)
    r1, r2, r3 = cubic_of(r - gray, rr - gray, rrr - gray)
    g1, g2, g3 = cubic_of(g - gray, gg - gray, ggg - gray)
    b1, b2, b3 = cubic_of(b_ - gray, bb - gray, bbb - gray)
    whole = min(r, min(g, b_)) >= f(-1e-5) and max(r, max(g, b_)) <= most
    low, step = f(0.0), before
    for k in range(steps):
        t = low + step
        r = gray + t * (r1 + t * (r2 + t * r3))
        g = gray + t * (g1 + t * (g2 + t * g3))
        b_ = gray + t * (b1 + t * (b2 + t * b3))
        fits = min(r, min(g, b_)) >= f(-1e-5) and max(r, max(g, b_)) <= most
        # The first step asks for ``before``: above it lies what is left to 1, below it itself.
        left = (f(1.0) - before if fits else before) if k == 0 else step
        low = t if fits else low
        step = f(0.5) * left
    return f(1.0) if whole else low


@helper
def cubic_of(one, back, two):
    """A cubic through 0, of its values at 1, −1 and 2: its three coefficients."""
    second = f(0.5) * (one + back)
    odd = f(0.5) * (one - back)
    third = (two - f(4.0) * second - odd - odd) * f(0.1666666667)
    return odd - third, second, third


@helper
def hue_of(r, g, b, m):
    """Oklab hue in turns, 0…1, of an encoded colour."""
    _, a, b_ = oklab_of(r, g, b, m)
    turn = arctan2(b_, a) * f(0.1591549431)
    return turn + f(1.0) if turn < f(0.0) else turn
