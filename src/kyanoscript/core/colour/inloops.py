"""Colour within kernels: the same formulas in single precision, a value at a time.

Sources: IEC 61966-2-1 (sRGB curve), B. Ottosson, "A perceptual color space for image processing" (2020) (Oklab).
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np

from kyanoscript.core.kernel import helper
from kyanoscript.core.kernel.fastmath import arctan2, power

f = np.float32


@helper
def light_of(v):
    """sRGB curve, single precision, v of 0 or more."""
    return v * f(0.0773993808) if v <= f(0.04045) else power((v + f(0.055)) * f(0.9478672986), f(2.4))


@helper
def encoded_of(v):
    """Inverse sRGB curve, single precision, v of 0 or more."""
    return v * f(12.92) if v <= f(0.0031308) else f(1.055) * power(v, f(0.4166666667)) - f(0.055)


@helper
def oklab_of(r, g, b):
    """Oklab (Ottosson 2020) of an encoded colour, single precision."""
    lr, lg, lb = light_of(r), light_of(g), light_of(b)
    third = f(0.3333333333)
    cl = power(f(0.4122214708) * lr + f(0.5363325363) * lg + f(0.0514459929) * lb, third)
    cm = power(f(0.2119034982) * lr + f(0.6806995451) * lg + f(0.1073969566) * lb, third)
    cs = power(f(0.0883024619) * lr + f(0.2817188376) * lg + f(0.6299787005) * lb, third)
    light = f(0.2104542553) * cl + f(0.7936177850) * cm - f(0.0040720468) * cs
    a = f(1.9779984951) * cl - f(2.4285922050) * cm + f(0.4505937099) * cs
    b_ = f(0.0259040371) * cl + f(0.7827717662) * cm - f(0.8086757660) * cs
    return light, a, b_


@helper
def shown_of(v):
    """Encoded level 0…1 of light that may lie outside what a display can show."""
    return encoded_of(min(max(v, f(0.0)), f(1.0)))


@helper
def rgb_of(light, a, b):
    """Encoded colour 0…1 of Oklab, single precision; outside sRGB each channel is held at its end."""
    r, g, b_ = light_rgb_of(light, a, b)
    return shown_of(r), shown_of(g), shown_of(b_)


@helper
def light_rgb_of(light, a, b):
    """Light of Oklab, single precision; outside sRGB below 0 or above 1."""
    cl = light + f(0.3963377774) * a + f(0.2158037573) * b
    cm = light - f(0.1055613458) * a - f(0.0638541728) * b
    cs = light - f(0.0894841775) * a - f(1.2914855480) * b
    cl, cm, cs = cl * cl * cl, cm * cm * cm, cs * cs * cs
    return (
        f(4.0767416621) * cl - f(3.3077115913) * cm + f(0.2309699292) * cs,
        f(-1.2684380046) * cl + f(2.6097574011) * cm - f(0.3413193965) * cs,
        f(-0.0041960863) * cl - f(0.7034186147) * cm + f(1.7076147010) * cs,
    )


@helper
def chroma_kept(light, a, b, before):
    """How much of its chroma, 0…1, an Oklab colour keeps so that it fits into sRGB; hue and lightness stay.

    By bisection from ``before``, the share that fitted before the colour was strengthened: the gamut has hollows, and
    a colour beyond one is not to be drawn back through it. As many steps for every colour, so that the processor
    takes several at once (with ten in place of nine it does not: 325 ms a megapixel in place of 48); each channel
    of light is a cubic of the share.
    """
    gray = light * light * light
    r, g, b_ = light_rgb_of(light, a, b)
    rr, gg, bb = light_rgb_of(light, -a, -b)
    rrr, ggg, bbb = light_rgb_of(light, a + a, b + b)
    r1, r2, r3 = cubic_of(r - gray, rr - gray, rrr - gray)
    g1, g2, g3 = cubic_of(g - gray, gg - gray, ggg - gray)
    b1, b2, b3 = cubic_of(b_ - gray, bb - gray, bbb - gray)
    whole = min(r, min(g, b_)) >= f(-1e-5) and max(r, max(g, b_)) <= f(1.0001)
    low, step = f(0.0), before
    for k in range(9):
        t = low + step
        r = gray + t * (r1 + t * (r2 + t * r3))
        g = gray + t * (g1 + t * (g2 + t * g3))
        b_ = gray + t * (b1 + t * (b2 + t * b3))
        fits = min(r, min(g, b_)) >= f(-1e-5) and max(r, max(g, b_)) <= f(1.0001)
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
def hue_of(r, g, b):
    """Oklab hue in turns, 0…1, of an encoded colour."""
    _, a, b_ = oklab_of(r, g, b)
    turn = arctan2(b_, a) * f(0.1591549431)
    return turn + f(1.0) if turn < f(0.0) else turn
