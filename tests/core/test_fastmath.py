"""The elementary functions inside kernels against NumPy in double precision.

The functions are reached through the kernels that use them, since they are only ever run as machine code.
"""

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.passes.gray.gray_weights import GrayWeights
from kyanoscript.core.passes.tone.levels import Levels, levels
from kyanoscript.core.picture import Rect
from kyanoscript.core.site import Place


def power(values, exponent):
    values = np.ascontiguousarray(values, np.float32)
    out = np.empty_like(values)
    levels(values, out, values.size, 0.0, 1.0, exponent, 0.0, 1.0)
    return out


def test_power_holds_two_parts_in_a_million_over_all_exponents_of_levels():
    values = np.concatenate([np.geomspace(1e-6, 1, 20001), np.linspace(0.001, 1, 20001)]).astype(np.float32)
    for gamma in (0.1, 0.45, 0.999, 1.001, 2.2, 2.4, 9.99):
        wanted = values.astype(np.float64) ** np.float64(np.float32(1 / gamma))
        relative = np.abs(power(values, 1 / gamma) - wanted) / np.maximum(wanted, 1e-30)
        assert relative[wanted > 1e-30].max() < 6e-6 * max(1, 1 / gamma / 2)


def test_power_of_zero_is_zero_and_of_one_is_one():
    assert power(np.array([0.0, 1.0]), 0.4).tolist() == [0.0, 1.0]


def test_hue_follows_oklab_all_round_the_circle():
    """A ring handle moves exactly the hue it stands on: the kernel's arctangent agrees with NumPy's."""
    hues = np.arange(0, 360, 3.0)
    inks = np.array([colour.from_oklch(0.7, 0.09, h) for h in hues], np.float32)
    planes = np.ascontiguousarray(inks.T.reshape(3, 1, -1))
    exact = colour.to_oklch(inks.T.astype(np.float64), colour.SRGB)[2]
    place = Place(Rect(0, 0, len(hues), 1), 1.0, len(hues))
    neutral = GrayWeights().apply(planes, place)[0, 0]
    for target in (0.0, 90.0, 181.0, 359.0):
        lifted = GrayWeights(ring=((target, 50.0),)).apply(planes, place)[0, 0]
        away = np.abs((exact - target + 180) % 360 - 180)
        assert np.all(lifted[away > 61] == neutral[away > 61])
        assert np.all(lifted[away < 55] > neutral[away < 55])
        assert abs(float(exact[np.argmax((lifted - neutral) / (1 - neutral))]) - target + 180) % 360 - 180 < 20


def test_levels_untouched_returns_the_very_planes():
    planes = np.random.default_rng(1).random((3, 5, 7), dtype=np.float32)
    assert Levels().apply(planes, Place(Rect(0, 0, 7, 5), 1.0, 7)) is planes
