"""Blend modes: how a pass is laid over what came in.

Sixteen modes and the compositing are those of W3C *Compositing and Blending Level 1* (section 10, and section 5 for
simple alpha compositing over an opaque backdrop): ``out = base + alpha · (B(base, top) − base)`` with the pass's
strength as alpha. They work on encoded values, as the trade's habits do. ``glint`` is our own, for metal:
``base² / (1 − top)``, clipped.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import in_colour
from kyanoscript.core.kernel import Kernel, helper, kernel
from kyanoscript.core.quoting import quoted
from kyanoscript.translation import tr

BlendMode = Literal[
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
    "hue",
    "saturation",
    "color",
    "luminosity",
    "glint",
]
MODES: tuple[str, ...] = get_args(BlendMode)
COLOUR_MODES = ("hue", "saturation", "color", "luminosity")

f = np.float32


def blend(base: NDArray[np.float32], top: NDArray[np.float32], mode: str, strength: float) -> NDArray[np.float32]:
    """Lay ``top`` over ``base`` with a blend mode at a strength of 0…1.

    Both are encoded planes ``(1 or 3, h, w)``, contiguous float32; the result has three planes if either has.
    Strength 0 gives back ``base`` itself; raises ValueError for an unknown mode.
    """
    if mode not in MODES:
        raise ValueError(tr("no blend mode {mode}; there are {modes}", mode=quoted(mode), modes=", ".join(MODES)))
    if strength == 0:
        return base
    if mode == "normal" and strength == 1:
        return top
    if mode in COLOUR_MODES:
        if len(base) == len(top) == 1:
            # On grays the colour modes have closed forms: no saturation to take, so only luminosity changes anything.
            if mode != "luminosity":
                return base
            mode = "normal"
        else:
            base, top = in_colour(base), in_colour(top)
    out = np.empty((max(len(base), len(top)), *base.shape[1:]), np.float32)
    if len(base) != len(top):  # a gray against each plane of a colour
        for k in range(3):
            b, s = base[min(k, len(base) - 1)], top[min(k, len(top) - 1)]
            _KERNELS[mode](b, s, out[k], out[k].size, strength)
        return out
    size = out.size // 3 if mode in COLOUR_MODES else out.size
    _KERNELS[mode](base, top, out, size, strength)
    return out


# B(base, top) of each mode, with the specification's names in the order of its section 10


@helper
def _hard_light(b, s):
    twice = s + s
    screen = twice - f(1.0)
    return b * twice if s <= f(0.5) else b + screen - b * screen


@helper
def _soft_light(b, s):
    d = ((f(16.0) * b - f(12.0)) * b + f(4.0)) * b if b <= f(0.25) else np.sqrt(b)
    w = s + s - f(1.0)
    return b + w * b * (f(1.0) - b) if s <= f(0.5) else b + w * (d - b)


@helper
def _lum(r, g, b):
    return f(0.3) * r + f(0.59) * g + f(0.11) * b


@helper
def _fit(v, lum, low, high):
    """ClipColor of one channel, given the colour's luminosity and its extremes.

    A gray that rounding has put a hair outside 0…1 has no spread to divide by: the divisor stays above a millionth.
    """
    if low < f(0.0):
        v = lum + (v - lum) * lum / max(lum - low, f(1e-6))
    if high > f(1.0):
        v = lum + (v - lum) * (f(1.0) - lum) / max(high - lum, f(1e-6))
    return v


@helper
def _spread(v, low, high, sat):
    """SetSat of one channel, given the colour's extremes."""
    return (v - low) * sat / (high - low) if high - low > f(1e-12) else f(0.0)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def normal(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (s - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def multiply(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (b * s - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def screen(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (b + s - b * s - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def overlay(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (_hard_light(s, b) - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def darken(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (min(b, s) - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def lighten(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (max(b, s) - b)


@helper
def _color_dodge(b, s):
    return f(0.0) if b <= f(0.0) else (f(1.0) if s >= f(1.0) else min(f(1.0), b / (f(1.0) - s)))


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def color_dodge(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (_color_dodge(b, s) - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def glint(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        shine = min(f(1.0), b * b / max(f(1.0) - s, f(1e-6))) if b > f(0.0) else f(0.0)
        out[k] = b + a * (shine - b)


@helper
def _color_burn(b, s):
    return f(1.0) if b >= f(1.0) else (f(0.0) if s <= f(1e-12) else f(1.0) - min(f(1.0), (f(1.0) - b) / s))


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def color_burn(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (_color_burn(b, s) - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def hard_light(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (_hard_light(b, s) - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def soft_light(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (_soft_light(b, s) - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def difference(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (abs(b - s) - b)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def exclusion(base, top, out, n, a):
    for k in range(n):
        b, s = base[k], top[k]
        out[k] = b + a * (b + s - f(2.0) * b * s - b)


@helper
def _set_lum(r, g, b, lum):
    """SetLum: the colour brought to a luminosity, and into what can be shown."""
    move = lum - _lum(r, g, b)
    r, g, b = r + move, g + move, b + move
    lum = _lum(r, g, b)
    low, high = min(r, min(g, b)), max(r, max(g, b))
    return _fit(r, lum, low, high), _fit(g, lum, low, high), _fit(b, lum, low, high)


@helper
def _set_sat(r, g, b, sat):
    """SetSat: the colour with another saturation."""
    low, high = min(r, min(g, b)), max(r, max(g, b))
    return _spread(r, low, high, sat), _spread(g, low, high, sat), _spread(b, low, high, sat)


@helper
def _sat(r, g, b):
    return max(r, max(g, b)) - min(r, min(g, b))


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def hue(base, top, out, n, a):
    for k in range(n):
        br, bg, bb = base[k], base[n + k], base[n + n + k]
        sr, sg, sb = top[k], top[n + k], top[n + n + k]
        r, g, b = _set_sat(sr, sg, sb, _sat(br, bg, bb))
        r, g, b = _set_lum(r, g, b, _lum(br, bg, bb))
        out[k], out[n + k], out[n + n + k] = br + a * (r - br), bg + a * (g - bg), bb + a * (b - bb)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def saturation(base, top, out, n, a):
    for k in range(n):
        br, bg, bb = base[k], base[n + k], base[n + n + k]
        sr, sg, sb = top[k], top[n + k], top[n + n + k]
        r, g, b = _set_sat(br, bg, bb, _sat(sr, sg, sb))
        r, g, b = _set_lum(r, g, b, _lum(br, bg, bb))
        out[k], out[n + k], out[n + n + k] = br + a * (r - br), bg + a * (g - bg), bb + a * (b - bb)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def color(base, top, out, n, a):
    for k in range(n):
        br, bg, bb = base[k], base[n + k], base[n + n + k]
        sr, sg, sb = top[k], top[n + k], top[n + n + k]
        r, g, b = _set_lum(sr, sg, sb, _lum(br, bg, bb))
        out[k], out[n + k], out[n + n + k] = br + a * (r - br), bg + a * (g - bg), bb + a * (b - bb)


@kernel("f4* base, f4* top, f4* out, i8 n, f4 a")
def luminosity(base, top, out, n, a):
    for k in range(n):
        br, bg, bb = base[k], base[n + k], base[n + n + k]
        sr, sg, sb = top[k], top[n + k], top[n + n + k]
        r, g, b = _set_lum(br, bg, bb, _lum(sr, sg, sb))
        out[k], out[n + k], out[n + n + k] = br + a * (r - br), bg + a * (g - bg), bb + a * (b - bb)


_KERNELS: dict[str, Kernel] = {
    "normal": normal,
    "multiply": multiply,
    "screen": screen,
    "overlay": overlay,
    "darken": darken,
    "lighten": lighten,
    "color-dodge": color_dodge,
    "color-burn": color_burn,
    "hard-light": hard_light,
    "soft-light": soft_light,
    "difference": difference,
    "exclusion": exclusion,
    "hue": hue,
    "saturation": saturation,
    "color": color,
    "luminosity": luminosity,
    "glint": glint,
}


def through(base: NDArray[np.float32], over: NDArray[np.float32], mask: NDArray[np.float32]) -> NDArray[np.float32]:
    """``over`` where the mask ``(h, w)`` is 1, ``base`` where it is 0; planes as in `blend`."""
    if len(base) != len(over):
        base, over = in_colour(base), in_colour(over)
    out = np.empty_like(over)
    for k in range(len(out)):
        mix(base[k], over[k], mask, out[k], mask.size)
    return out


@kernel("f4* base, f4* over, f4* mask, f4* out, i8 n")
def mix(base, over, mask, out, n):
    for k in range(n):
        out[k] = base[k] + mask[k] * (over[k] - base[k])
