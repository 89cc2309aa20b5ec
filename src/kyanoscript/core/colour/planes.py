"""Whole planes to linear light and back, quickly: the curve of `transfer`, in 32 bits."""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour.inloops import encoded_of, light_of
from kyanoscript.core.kernel import kernel

f = np.float32
Planes = NDArray[np.float32]


def to_light_planes(planes: Planes) -> Planes:
    """Linear light of encoded planes, as a copy."""
    out = np.empty_like(planes)
    light(np.ascontiguousarray(planes), out, out.size)
    return out


def to_encoded_planes(planes: Planes) -> Planes:
    """Encoded values of planes in linear light (below 0 taken as 0), as a copy."""
    out = np.empty_like(planes)
    encode(np.ascontiguousarray(planes), out, out.size)
    return out


@kernel("f4* values, f4* out, i8 n")
def light(values, out, n):
    for k in range(n):
        out[k] = light_of(max(values[k], f(0.0)))


@kernel("f4* values, f4* out, i8 n")
def encode(values, out, n):
    for k in range(n):
        out[k] = encoded_of(max(values[k], f(0.0)))
