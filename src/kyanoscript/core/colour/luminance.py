"""How bright a colour is: the space's luminance on light, BT.601 on encoded values. Planes come first."""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.core.colour.inloops import encoded_of, light_of, luminance_of
from kyanoscript.core.colour.space import Space
from kyanoscript.core.colour.transfer import to_light
from kyanoscript.core.kernel import kernel

BT601 = (0.299, 0.587, 0.114)
BT709 = (0.2126, 0.7152, 0.0722)

f = np.float32
F = TypeVar("F", bound=np.floating)


def luminance(planes: ArrayLike, space: Space) -> NDArray[np.float64]:
    """Relative luminance Y (0…1; of sRGB by the weights of BT.709, on light) of encoded planes ``(1 or 3, …)``."""
    light = to_light(planes)
    return light[0] if len(light) == 1 else np.tensordot(space.luminance, light, 1)


def in_colour(planes: NDArray[F]) -> NDArray[F]:
    """Three planes ``(3, …)`` from one, each the gray (or the three as they are)."""
    return planes if len(planes) == 3 else np.repeat(planes, 3, axis=0)


def luma(planes: NDArray[np.float32]) -> NDArray[np.float32]:
    """A gray ``(1, h, w)`` by BT.601 weights on encoded values: quick, for passes that look for edges and regions."""
    if len(planes) == 1:
        return planes
    out = np.empty((1, *planes.shape[1:]), np.float32)
    weighed(planes, out, out.size)
    return out


@kernel("f4* rgb, f4* out, i8 n")
def weighed(rgb, out, n):
    for k in range(n):
        out[k] = f(0.299) * rgb[k] + f(0.587) * rgb[n + k] + f(0.114) * rgb[n + n + k]


def gray_of(planes: NDArray[np.float32], space: Space) -> NDArray[np.float32]:
    """One encoded plane ``(1, h, w)`` as bright as the given planes of a space: luminance taken in light."""
    if len(planes) == 1:
        return planes
    out = np.empty((1, *planes.shape[1:]), np.float32)
    encoded_luminance(planes, out, out.size, space.numbers)
    return out


@kernel("f4* rgb, f4* out, i8 n, f4* m")
def encoded_luminance(rgb, out, n, m):
    """Luminance of three encoded planes, encoded again: the gray that is as bright as the colour."""
    for k in range(n):
        out[k] = encoded_of(luminance_of(light_of(rgb[k]), light_of(rgb[n + k]), light_of(rgb[n + n + k]), m))
