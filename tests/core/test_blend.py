"""Blend modes against the formulas of W3C Compositing and Blending Level 1, evaluated in double precision.

https://www.w3.org/TR/compositing-1/, sections 10.1 (separable) and 10.2 (non-separable), as published in 2024.
"""

import numpy as np
import pytest

from kyanoscript.core.blend import MODES, blend

TOLERANCE = 3e-6
rng = np.random.default_rng(20)
LEVELS = np.array([0, 0.1, 0.25, 0.5, 0.75, 0.9, 1.0])
_grid = np.stack(np.meshgrid(LEVELS, LEVELS, indexing="ij")).reshape(2, -1)
BASE = np.concatenate([np.stack([_grid[0], _grid[1], _grid[0][::-1]]), rng.random((3, 4000))], 1)
TOP = np.concatenate([np.stack([_grid[1], _grid[0], _grid[1][::-1]]), rng.random((3, 4000))], 1)


def hard_light(cb, cs):
    return np.where(cs <= 0.5, cb * 2 * cs, cb + (2 * cs - 1) - cb * (2 * cs - 1))


def soft_light(cb, cs):
    d = np.where(cb <= 0.25, ((16 * cb - 12) * cb + 4) * cb, np.sqrt(cb))
    return np.where(cs <= 0.5, cb - (1 - 2 * cs) * cb * (1 - cb), cb + (2 * cs - 1) * (d - cb))


def color_dodge(cb, cs):
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(cb == 0, 0, np.where(cs == 1, 1, np.minimum(1, cb / (1 - cs))))


def color_burn(cb, cs):
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(cb == 1, 1, np.where(cs == 0, 0, 1 - np.minimum(1, (1 - cb) / cs)))


def lum(c):
    return 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]


def clip_color(c):
    level, low, high = lum(c), c.min(0), c.max(0)
    with np.errstate(divide="ignore", invalid="ignore"):
        c = np.where(low < 0, level + (c - level) * level / (level - low), c)
        return np.where(high > 1, level + (c - level) * (1 - level) / (high - level), c)


def set_lum(c, level):
    return clip_color(c + (level - lum(c)))


def sat(c):
    return c.max(0) - c.min(0)


def set_sat(c, saturation):
    """The specification sorts the channels; scaling between the extremes is the same."""
    low, high = c.min(0), c.max(0)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(high > low, (c - low) * saturation / (high - low), 0)


SPEC = {
    "normal": lambda cb, cs: cs,
    "multiply": lambda cb, cs: cb * cs,
    "screen": lambda cb, cs: cb + cs - cb * cs,
    "overlay": lambda cb, cs: hard_light(cs, cb),
    "darken": np.minimum,
    "lighten": np.maximum,
    "color-dodge": color_dodge,
    "color-burn": color_burn,
    "hard-light": hard_light,
    "soft-light": soft_light,
    "difference": lambda cb, cs: np.abs(cb - cs),
    "exclusion": lambda cb, cs: cb + cs - 2 * cb * cs,
    "hue": lambda cb, cs: set_lum(set_sat(cs, sat(cb)), lum(cb)),
    "saturation": lambda cb, cs: set_lum(set_sat(cb, sat(cs)), lum(cb)),
    "color": lambda cb, cs: set_lum(cs, lum(cb)),
    "luminosity": lambda cb, cs: set_lum(cb, lum(cs)),
}


def planes(values):
    return np.ascontiguousarray(values.reshape(len(values), 1, -1), np.float32)


def run(base, top, mode, strength=1.0):
    return blend(planes(base), planes(top), mode, strength)[:, 0]


def test_all_sixteen_modes_of_the_specification_are_there():
    assert set(MODES) - {"glint"} == set(SPEC)
    assert len(SPEC) == 16


@pytest.mark.parametrize("mode", list(SPEC))
@pytest.mark.parametrize("strength", [1.0, 0.63])
def test_formula_and_compositing_of_the_specification(mode, strength):
    base, top = (planes(v).astype(np.float64)[:, 0] for v in (BASE, TOP))
    # The quotients of these two magnify the rounding of values next to the pole.
    tolerance = 2e-5 if mode in ("color-dodge", "color-burn") else TOLERANCE
    wanted = base + strength * (SPEC[mode](base, top) - base)
    assert np.abs(run(BASE, TOP, mode, strength) - wanted).max() < tolerance


@pytest.mark.parametrize("mode", MODES)
def test_grays_blend_as_three_equal_channels_do(mode):
    base, top = BASE[:1], TOP[:1]
    alone = run(base, top, mode, 0.7)
    threefold = run(np.repeat(base, 3, 0), np.repeat(top, 3, 0), mode, 0.7)
    assert np.abs(threefold - alone).max() < TOLERANCE


@pytest.mark.parametrize("mode", MODES)
def test_strength_zero_gives_back_the_very_base(mode):
    base = planes(BASE)
    assert blend(base, planes(TOP), mode, 0.0) is base


@pytest.mark.parametrize("mode", MODES)
def test_result_stays_within_black_and_white(mode):
    out = run(BASE, TOP, mode, 0.5)
    assert np.isfinite(out).all()
    assert out.min() >= -1e-6
    assert out.max() <= 1 + 1e-6


def test_multiply_by_white_and_screen_with_black_change_nothing():
    assert np.allclose(run(BASE, np.ones_like(BASE), "multiply"), BASE, atol=1e-7)
    assert np.allclose(run(BASE, np.zeros_like(BASE), "screen"), BASE, atol=1e-7)


def test_overlay_is_hard_light_with_the_layers_swapped():
    assert np.allclose(run(BASE, TOP, "overlay"), run(TOP, BASE, "hard-light"), atol=3e-7)  # base + (B − base) rounds


def test_glint_is_our_own_formula():
    """base² / (1 − top), clipped; black stays black even under white."""
    base, top = (planes(v).astype(np.float64)[:, 0] for v in (BASE, TOP))
    wanted = np.where(base > 0, np.minimum(1, base**2 / np.maximum(1 - top, 1e-6)), 0)
    assert np.abs(run(BASE, TOP, "glint", 0.63) - (base + 0.63 * (wanted - base))).max() < 2e-5


def test_gray_under_colour_comes_out_in_colour():
    assert blend(planes(BASE[:1]), planes(TOP), "soft-light", 0.5).shape[0] == 3


def test_an_unknown_mode_is_named():
    with pytest.raises(ValueError, match="sof-light"):
        blend(planes(BASE), planes(TOP), "sof-light", 0.5)


@pytest.mark.parametrize("mode", MODES)
def test_colours_a_hair_outside_black_and_white_stay_finite(mode):
    """What rounding in earlier passes leaves: grays a hair beyond, channels that hardly differ."""
    near = np.array([-1e-9, 0.0, 1e-40, 1e-12, 1.0 - 6e-8, 1.0, 1.0 + 1.2e-7], np.float32)
    grid = np.stack(np.meshgrid(near, near, near, near, near, near)).reshape(6, 1, -1)
    out = blend(np.ascontiguousarray(grid[:3]), np.ascontiguousarray(grid[3:]), mode, 0.7)
    assert np.isfinite(out).all()
    assert out.min() >= -1e-5
    assert out.max() <= 1 + 1e-5
