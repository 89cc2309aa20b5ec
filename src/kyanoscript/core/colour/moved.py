"""Colours brought from one space to another. What does not fit is not cut: it lies below 0 or above 1.

Where it has to fit, it becomes as light as it would be if its channels were cut, and keeps its hue in Oklab within a
degree, which leans to the hue that cutting gives; its chroma is what then fits. Of the ways that keep hue this comes
nearest to the colour that was meant: see docs/decisions, 27.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.core.colour.hex import hex_of, parse_hex
from kyanoscript.core.colour.inloops import chroma_kept, encoded_of, light_of, oklab_beyond, oklab_of, rgb_of, shown_of
from kyanoscript.core.colour.oklab import fitted, to_oklab
from kyanoscript.core.colour.space import SRGB, Space
from kyanoscript.core.colour.transfer import to_encoded, to_light
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.kernel.fastmath import power

f = np.float32
_HAIR = 1e-6  # beyond black or white, by rounding alone
_LEANING = np.radians(1.0)  # how far hue may turn
_MOST = 1.005  # of a channel's light: at corners of the space hue leaves it and comes back, and colours would jump
_COS, _SIN = float(np.cos(_LEANING)), float(np.sin(_LEANING))


def moved(planes: NDArray[np.float32], source: Space, to: Space) -> NDArray[np.float32]:
    """Encoded planes ``(1 or 3, h, w)`` of one space in another; grays are the same in all of them."""
    if source == to or len(planes) == 1:
        return planes
    planes = np.ascontiguousarray(planes, np.float32)
    out = np.empty_like(planes)
    carry(planes, out, out[0].size, np.ascontiguousarray(source.linear_to(to), np.float32))
    return out


@kernel("f4* rgb, f4* out, i8 n, f4* by")
def carry(rgb, out, n, by):
    for k in range(n):
        r, g, b = light_of(rgb[k]), light_of(rgb[n + k]), light_of(rgb[n + n + k])
        out[k] = encoded_of(by[0] * r + by[1] * g + by[2] * b)
        out[n + k] = encoded_of(by[3] * r + by[4] * g + by[5] * b)
        out[n + n + k] = encoded_of(by[6] * r + by[7] * g + by[8] * b)


def held(planes: NDArray[np.float32], source: Space, to: Space) -> NDArray[np.float32]:
    """Encoded planes ``(1 or 3, h, w)`` of one space in another, within 0…1.

    What fits is left as it is; of what does not, hue stays within a degree, and chroma is lowered (`chroma_kept`).
    """
    if len(planes) == 1:
        return np.clip(planes, 0, 1)
    if source == to and planes.size and planes.min() >= 0 and planes.max() <= 1:
        return planes
    planes = np.ascontiguousarray(planes, np.float32)
    out = np.empty_like(planes)
    by = np.ascontiguousarray(source.linear_to(to), np.float32)
    hold(planes, out, out[0].size, by, float(source == to), source.numbers, to.numbers)
    return out


@helper
def leant(u, v, to_u, to_v):
    """A place of chroma, turned towards another by a degree at most."""
    far, near = np.sqrt(u * u + v * v), np.sqrt(to_u * to_u + to_v * to_v)
    size = far * near + f(1e-12)
    cosine, sine = (u * to_u + v * to_v) / size, (u * to_v - v * to_u) / size
    side = f(1.0) if sine >= f(0.0) else f(-1.0)
    whole = cosine >= f(_COS) or near < f(1e-5)
    cosine, sine = (f(1.0) if near < f(1e-5) else cosine) if whole else f(_COS), sine if whole else side * f(_SIN)
    return cosine * u - sine * v, sine * u + cosine * v


@kernel("f4* rgb, f4* out, i8 n, f4* by, f4 same, f4* m, f4* other")
def hold(rgb, out, n, by, same, m, other):
    for k in range(n):
        r, g, b = rgb[k], rgb[n + k], rgb[n + n + k]
        lr, lg, lb = light_of(r), light_of(g), light_of(b)
        nr = by[0] * lr + by[1] * lg + by[2] * lb
        ng = by[3] * lr + by[4] * lg + by[5] * lb
        nb = by[6] * lr + by[7] * lg + by[8] * lb
        least, most = min(nr, min(ng, nb)), max(nr, max(ng, nb))
        if least >= f(-1e-5) and most <= f(1.00001):
            plain = same > f(0.0)
            out[k] = r if plain else shown_of(nr)
            out[n + k] = g if plain else shown_of(ng)
            out[n + n + k] = b if plain else shown_of(nb)
        else:
            _, u, v = oklab_beyond(r, g, b, m)
            light, cut_u, cut_v = oklab_of(shown_of(nr), shown_of(ng), shown_of(nb), other)
            u, v = leant(u, v, cut_u, cut_v)
            kept = chroma_kept(light, u, v, f(0.0), f(_MOST), 16, other)
            out[k], out[n + k], out[n + n + k] = rgb_of(light, kept * u, kept * v, other)


@kernel("f4* planes, f4* out, i8 n, f4 exponent")
def to_power(planes, out, n, exponent):
    """From the sRGB curve to a power of light."""
    for k in range(n):
        light = light_of(planes[k])
        made = power(abs(light), exponent)
        out[k] = made if light >= f(0.0) else -made


def ink_of(text: str, space: Space) -> tuple[float, float, float]:
    """Encoded RGB 0…1, in a space, of a colour written as #rrggbb, which means sRGB.

    One that the space does not hold gives up chroma; hue stays within a degree. Raises ValueError as `parse_hex` does.
    """
    rgb = parse_hex(text)
    if space == SRGB or len(set(rgb)) == 1:
        return rgb
    r, g, b = (float(v) for v in within(np.array(rgb).reshape(3, 1), SRGB, space)[:, 0])
    return r, g, b


def written_of(rgb: ArrayLike, space: Space) -> str:
    """``#rrggbb``, which means sRGB, of one encoded colour of a space."""
    return hex_of(within(np.reshape(np.asarray(rgb, np.float64), (3, 1)), space, SRGB)[:, 0])


def within(planes: ArrayLike, source: Space, to: Space) -> NDArray[np.float64]:
    """Encoded planes ``(3, …)``, 0…1, of one space in another; where they do not fit, hue stays within a degree."""
    planes = np.asarray(planes, np.float64)
    if source == to:
        return np.clip(planes, 0, 1)
    straight = to_encoded(np.tensordot(source.linear_to(to), to_light(planes), 1))
    outside = np.any((straight < -_HAIR) | (straight > 1 + _HAIR), axis=0)
    if outside.any():
        cut = to_oklab(np.clip(straight[:, outside], 0, 1), to)
        straight[:, outside] = fitted(_leaning(to_oklab(planes[:, outside], source), cut), to, _MOST)
    return np.clip(straight, 0, 1)


def _leaning(lab: NDArray[np.float64], cut: NDArray[np.float64]) -> NDArray[np.float64]:
    """Oklab colours ``(3, n)``, as light as others and turned towards their hue by a degree at most."""
    meant, gone = lab[1] + 1j * lab[2], cut[1] + 1j * cut[2]
    turn = np.where(np.abs(gone) < 1e-5, 0.0, np.angle(gone * meant.conj()))
    made = meant * np.exp(1j * np.clip(turn, -_LEANING, _LEANING))
    return np.stack([cut[0], made.real, made.imag])
