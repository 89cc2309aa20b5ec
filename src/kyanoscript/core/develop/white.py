"""White balance: from the temperature and tint of a light to the gains of a camera's channels, and back.

Temperature lies along the locus of black bodies in the CIE 1960 diagram (M. Krystek, "An algorithm to calculate
correlated colour temperature", Color Research & Application 10, 1985, for 1000 to 15 000 K; beyond, the locus is
carried on towards its end). Tint is the distance from it, in 1/3000 of the diagram's unit (our own scale).
"""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import BT2020, SRGB
from kyanoscript.core.develop.values import COOLEST, WARMEST

_TINT = 3000.0
Matrix = NDArray[np.float64]


@dataclass(frozen=True)
class Camera:
    """What is known of a camera's channels.

    ``from_xyz``: nine numbers, row by row, from CIE XYZ under D65 to its red, green, blue. ``shot``: the gains that it
    gave its channels for the light that it took for white.
    """

    from_xyz: tuple[float, ...]
    shot: tuple[float, float, float]

    @functools.cached_property
    def matrix(self) -> Matrix:
        """From XYZ to its channels, ``(3, 3)``."""
        return np.array(self.from_xyz, np.float64).reshape(3, 3)

    @functools.cached_property
    def to_working(self) -> Matrix:
        """From its channels, white being equal in all, to linear BT.2020, ``(3, 3)``."""
        there = self.matrix @ SRGB.to_xyz @ BT2020.linear_to(SRGB)
        return np.asarray(np.linalg.inv(there / there.sum(axis=1, keepdims=True)), np.float64)


@dataclass(frozen=True)
class White:
    """A light: temperature in kelvin, tint."""

    kelvin: float
    tint: float


def gains_for(camera: Camera, white: White) -> tuple[float, float, float]:
    """What the camera's channels have to be multiplied with for a light to be white; green is 1."""
    u, v = _locus(np.array([white.kelvin]))
    across = _across(white.kelvin)
    u, v = u + across[0] * white.tint / _TINT, v + across[1] * white.tint / _TINT
    x, y = 3 * u[0] / (2 * u[0] - 8 * v[0] + 4), 2 * v[0] / (2 * u[0] - 8 * v[0] + 4)
    seen = camera.matrix @ np.array([x / y, 1.0, (1 - x - y) / y])
    seen = np.maximum(seen, 1e-4)
    r, g, b = (float(value) for value in seen[1] / seen)
    return r, g, b


def seen_white(camera: Camera, gains: tuple[float, float, float]) -> White:
    """The light that some gains make white: the way back. Held within what can be set."""
    xyz = np.linalg.solve(camera.matrix, 1 / np.maximum(np.array(gains, np.float64), 1e-4))
    x, y = xyz[0] / xyz.sum(), xyz[1] / xyz.sum()
    u, v = 4 * x / (-2 * x + 12 * y + 3), 6 * y / (-2 * x + 12 * y + 3)
    low, high = 1e6 / COOLEST, 1e6 / WARMEST
    for _ in range(6):  # evenly in mired, closer and closer
        mired = np.linspace(low, high, 201)
        at_u, at_v = _locus(1e6 / mired)
        best = int(np.argmin((at_u - u) ** 2 + (at_v - v) ** 2))
        step = (high - low) / 200
        low, high = max(1e6 / COOLEST, mired[best] - step), min(1e6 / WARMEST, mired[best] + step)
    kelvin = float(1e6 / mired[best])
    across = _across(kelvin)
    tint = float((u - at_u[best]) * across[0] + (v - at_v[best]) * across[1]) * _TINT
    return White(min(max(kelvin, WARMEST), COOLEST), min(max(tint, -150.0), 150.0))


def white_of(camera: Camera, own: bool, white: White) -> tuple[float, float, float]:
    """The gains to develop with, green 1: as shot, or for a light of one's own."""
    if own:
        return gains_for(camera, white)
    r, g, b = camera.shot
    return r / g, 1.0, b / g


def _locus(kelvin: Matrix) -> tuple[Matrix, Matrix]:
    """u, v of black bodies (Krystek 1985)."""
    t = np.asarray(kelvin, np.float64)
    u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t**2) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t**2)
    v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t**2) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t**2)
    return u, v


def _across(kelvin: float) -> Matrix:
    """The direction straight away from the locus, towards pink; of length 1."""
    u, v = _locus(np.array([kelvin * 0.999, kelvin * 1.001]))
    along = np.array([u[1] - u[0], v[1] - v[0]])
    along /= np.hypot(*along)
    return np.array([along[1], -along[0]]) if along[0] > 0 else np.array([-along[1], along[0]])
