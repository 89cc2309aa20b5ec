"""Each pass against its published formula or a reference library."""

import cv2
import numpy as np
import pytest
import skimage.color
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from kyanoscript.core import colour
from kyanoscript.core.passes.gray.gray_weights import REACH, GrayWeights, lift_table
from kyanoscript.core.passes.tone.levels import Levels
from kyanoscript.core.passes.toning.gradient_map import GradientMap
from kyanoscript.core.picture import Rect
from kyanoscript.core.site import Place
from tests.conftest import make_colourful, planes_of

RGB = np.random.default_rng(11).random((3, 32, 48), dtype=np.float32)
RAMP = np.linspace(0, 1, 256, dtype=np.float32).reshape(1, 1, 256)


def run(step, planes):
    _, height, width = planes.shape
    return step.apply(planes, Place(Rect(0, 0, width, height), 1.0, float(max(width, height))))


# Gray weights


def test_bt_601_weights_are_the_standards():
    """ITU-R BT.601-7, 2.5.1: E'Y = 0.299 E'R + 0.587 E'G + 0.114 E'B."""
    start = GrayWeights.starts["as the eye sees (BT.601)"]
    wanted = 0.299 * RGB[0] + 0.587 * RGB[1] + 0.114 * RGB[2]
    assert np.abs(run(GrayWeights(**start), RGB)[0] - wanted).max() < 1e-6


def test_bt_709_weights_agree_with_scikit_image():
    """ITU-R BT.709-6, 3.2: 0.2126, 0.7152, 0.0722; skimage.color.rgb2gray weighs with 0.2125, 0.7154, 0.0721."""
    gray = run(GrayWeights(**GrayWeights.starts["as the eye sees (BT.709)"]), RGB)[0]
    assert np.abs(gray - skimage.color.rgb2gray(np.moveaxis(RGB, 0, -1))).max() < 3e-4
    assert np.abs(gray - np.tensordot(colour.BT709, RGB, 1)).max() < 1e-6


def test_bt_601_agrees_with_opencv():
    gray = run(GrayWeights(), RGB)[0]
    wanted = cv2.cvtColor(np.ascontiguousarray(np.moveaxis(RGB, 0, -1)), cv2.COLOR_RGB2GRAY)
    assert np.abs(gray - wanted).max() < 1e-6


def test_weights_in_light_are_luminance():
    """BT.709 weights on linear light give relative luminance, encoded again by the sRGB curve."""
    start = GrayWeights.starts["as the eye sees (BT.709)"] | {"basis": "light"}
    wanted = colour.to_encoded(colour.luminance(RGB, colour.SRGB))
    assert np.abs(run(GrayWeights(**start), RGB)[0] - wanted).max() < 3e-6


@pytest.mark.parametrize("name", list(GrayWeights.starts))
@pytest.mark.parametrize("basis", ["encoded", "light"])
def test_a_neutral_gray_stays_the_same_from_every_start_point(name, basis):
    step = GrayWeights(**(GrayWeights.starts[name] | {"basis": basis}))
    assert np.abs(run(step, np.repeat(RAMP, 3, axis=0)) - RAMP).max() < 3e-6
    assert np.abs(run(step, RAMP) - RAMP).max() < 3e-6


@given(st.tuples(*[st.floats(-200, 300)] * 3).filter(lambda w: sum(w) > 15))
@settings(max_examples=40, deadline=None)
def test_holding_brightness_keeps_neutrals_for_any_weights(shares):
    step = GrayWeights(red=shares[0], green=shares[1], blue=shares[2], hold=True)
    assert np.abs(run(step, np.repeat(RAMP, 3, axis=0)) - RAMP).max() < 2e-4


def test_without_holding_a_sum_of_two_hundred_doubles_brightness():
    out = run(GrayWeights(red=100, green=50, blue=50, hold=False), np.repeat(RAMP, 3, axis=0))
    assert np.allclose(out, np.minimum(RAMP * 2, 1), atol=1e-6)


def test_contrast_glasses_lighten_their_own_colour_and_darken_the_opposite():
    """Common practice, no source."""
    inks = {
        "red glass": ("#c03020", "#30a0c0"),
        "green glass": ("#30a030", "#b030b0"),
        "blue glass": ("#3050c0", "#c0a030"),
    }
    plain = GrayWeights()
    for name, (own, opposite) in inks.items():
        glass = GrayWeights(**GrayWeights.starts[name])
        for ink, lighter in ((own, True), (opposite, False)):
            spot = np.array(colour.parse_hex(ink), np.float32).reshape(3, 1, 1)
            assert (run(glass, spot) > run(plain, spot)) == lighter, (name, ink)


def test_what_is_said_of_the_shares():
    def said(red, green, blue, **more):
        return GrayWeights(red=red, green=green, blue=blue, **more).remarks()

    assert said(50, 40, 30) == "Sum 120 %, brightness held"
    assert said(5, 4, -8) == "Sum 1 %, too low to hold brightness"
    assert said(50, 40, 30, hold=False) == "Sum 120 %, brighter"
    assert said(-50, 20, 10, hold=False) == "Sum −20 %, darker"
    assert said(30, 60, 10, hold=False) == "Sum 100 %"
    assert GrayWeights(auto=True).remarks() == "Shares are taken from the picture"


def test_ring_lifts_its_hue_and_leaves_neutrals_alone():
    """Lifting orange lightens a skin tone, lowering blue darkens a sky (common practice, no source)."""
    step = GrayWeights(ring=((55.0, 40.0), (255.0, -40.0)))
    plain = GrayWeights()
    skin, sky, gray = (
        np.array(colour.parse_hex(ink), np.float32).reshape(3, 1, 1) for ink in ("#d8a184", "#5b86bd", "#8a8a8a")
    )
    assert run(step, skin) > run(plain, skin) + 0.02
    assert run(step, sky) < run(plain, sky) - 0.02
    assert abs(run(step, gray) - run(plain, gray)) < 1e-6


@given(st.lists(st.tuples(st.floats(0, 359.9), st.floats(-100, 100)), max_size=8, unique_by=lambda h: round(h[0])))
@settings(max_examples=60, deadline=None)
def test_ring_curve_passes_through_every_handle_and_overshoots_none(handles):
    lifts = lift_table(tuple(handles)) * 100
    hues = np.linspace(0, 360, len(lifts))
    for hue, lift in handles:
        crowd = [h for h, _ in handles if 0 < abs((h - hue + 180) % 360 - 180) < 4]
        if not crowd:  # between handles nearer than the table's steps the curve is steeper than it can show
            assert np.interp(hue, hues, lifts) == pytest.approx(lift, abs=3.5)
    values = [lift for _, lift in handles] + [0.0]
    together = sum(abs(v) for v in values)
    assert np.abs(lifts).max() <= together + 1e-3
    assert lifts[0] == pytest.approx(lifts[-1], abs=1e-5)


def test_between_its_handles_the_ring_follows_half_a_cosine_at_every_hue():
    """Its own formula in double precision, over the hue of Oklab (Ottosson 2020)."""
    gray = colour.luma(RGB)[0].astype(np.float64)
    away = np.abs((colour.to_oklch(RGB, colour.SRGB)[2] - 60 + 180) % 360 - 180)
    lift = np.where(away < REACH, 0.5 + 0.5 * np.cos(np.pi * away / REACH), 0) * (1 - (1 - np.ptp(RGB, axis=0)) ** 2)
    out = run(GrayWeights(ring=((60.0, 100.0),)), RGB)[0]
    assert np.abs(out - (gray + lift * (1 - gray))).max() < 1e-3


def test_extreme_weights_and_lifts_stay_within_black_and_white():
    step = GrayWeights(red=300, green=-200, blue=-200, hold=True, ring=((0.0, 100.0), (90.0, -100.0)), ring_amount=200)
    out = run(step, planes_of(make_colourful(48, 64)))
    assert np.isfinite(out).all()
    assert 0 <= out.min() <= out.max() <= 1


# Levels


@given(
    st.integers(0, 200),
    st.integers(5, 55),
    st.floats(0.2, 5),
    st.integers(0, 255),
    st.integers(0, 255),
)
@settings(max_examples=60, deadline=None)
def test_levels_formula(ib, span, gamma, ob, ow):
    """out = ob + (ow − ob) · ((v − ib) / (iw − ib))^(1/γ), the bracket held within 0…1."""
    iw = ib + span
    out = run(Levels(in_black=ib, in_white=iw, gamma=gamma, out_black=ob, out_white=ow), RAMP).astype(np.float64)
    v = RAMP.astype(np.float64) * 255
    wanted = (ob + (ow - ob) * np.clip((v - ib) / (iw - ib), 0, 1) ** (1 / gamma)) / 255
    # Rounding (v − ib) in single precision is magnified by the span and, next to black, by the root.
    near_black = (v - ib) / (iw - ib) < 0.002
    assert np.abs(out - wanted)[~near_black].max() < 4e-5
    assert np.abs(out - wanted).max() < 0.08


def test_the_trades_three_levels():
    """Needs list, common practice: input 71…230; output 103…176 for lith; red blacks at 27 over 25."""
    assert run(Levels(in_black=71, in_white=230), np.float32([[[71, 150.5, 230]]]) / 255).ravel() == pytest.approx(
        [0, 0.5, 1], abs=1e-6
    )
    lith = run(Levels(**Levels.starts["flat mid-tones, a base for lith"]), RAMP) * 255
    assert (lith.min(), lith.max()) == (pytest.approx(103), pytest.approx(176))
    aged = run(Levels(**Levels.starts["aged, reddish blacks"]), np.zeros((1, 1, 1), np.float32)).ravel() * 255
    assert aged[0] > aged[1] == aged[2] == pytest.approx(25)


def test_gamma_one_is_a_straight_line_and_gamma_above_one_lightens():
    assert np.allclose(run(Levels(), RAMP), RAMP)
    lighter = run(Levels(gamma=1.5), RAMP)
    assert np.all(lighter[..., 1:-1] > RAMP[..., 1:-1])


def test_crossed_black_and_white_are_a_hard_edge_and_no_error():
    out = run(Levels(in_black=128, in_white=128), RAMP)
    assert set(np.unique(out)) <= {0.0, 1.0}


def test_a_channels_own_levels_colour_a_gray():
    step = Levels(red_out_black=27)
    assert step.colours()
    assert run(step, RAMP).shape[0] == 3
    assert not Levels(out_black=27).colours()
    assert run(Levels(out_black=27), RAMP).shape[0] == 1


# Gradient map


def test_black_to_white_is_the_gray_itself():
    out = run(GradientMap(stops=((0.0, "#000000"), (100.0, "#ffffff"))), RAMP)
    assert np.abs(out - RAMP).max() < 1e-6


@given(
    st.lists(
        st.tuples(st.integers(0, 100).map(float), st.from_regex("#[0-9a-f]{6}", fullmatch=True)),
        min_size=1,
        max_size=6,
        unique_by=lambda s: s[0],
    )
)
@settings(max_examples=40, deadline=None)
def test_gradient_agrees_with_numpy_interp(stops):
    stops = tuple(sorted(stops))
    out = run(GradientMap(stops=stops), RAMP)[:, 0].astype(np.float64)
    gray = RAMP[0, 0].astype(np.float64)
    tones = [t / 100 for t, _ in stops]
    wanted = np.stack([np.interp(gray, tones, [colour.parse_hex(c)[k] for _, c in stops]) for k in range(3)])
    # The table bends within one of its 4096 steps at a stop: steep neighbours show that as half a step's difference.
    assert np.abs(out - wanted).max() < 0.02
    assert np.mean(np.abs(out - wanted)) < 2e-4


def test_full_smoothness_is_a_monotone_cubic_through_the_stops():
    """Fritsch and Carlson 1980, as implemented by scipy.interpolate.PchipInterpolator."""
    stops = ((0.0, "#102030"), (30.0, "#607080"), (60.0, "#708090"), (100.0, "#f0f0e0"))
    out = run(GradientMap(stops=stops, smoothness=100), RAMP)[:, 0]
    curve = PchipInterpolator([t / 100 for t, _ in stops], [colour.parse_hex(c) for _, c in stops])
    assert np.abs(out.T - curve(RAMP[0, 0].astype(np.float64))).max() < 2e-4


def test_half_smoothness_lies_half_way():
    stops = ((0.0, "#102030"), (30.0, "#607080"), (60.0, "#708090"), (100.0, "#f0f0e0"))
    none, half, full = (run(GradientMap(stops=stops, smoothness=s), RAMP) for s in (0, 50, 100))
    assert np.abs(half - (none + full) / 2).max() < 1e-5
    assert np.abs(full - none).max() > 0.005


def test_mixing_in_oklab_keeps_the_way_between_two_colours_even():
    step = GradientMap(stops=((0.0, "#203a8f"), (100.0, "#f0d060")), mix="oklab")
    lightness = colour.to_oklab(run(step, RAMP)[:, 0], colour.SRGB)[0]
    assert np.abs(np.diff(lightness, 2)).max() < 2e-3
    assert colour.hex_of(run(step, RAMP)[:, 0, 0]) == "#203a8f"
    assert colour.hex_of(run(step, RAMP)[:, 0, -1]) == "#f0d060"


def test_colour_is_mapped_by_its_luminance():
    """Two colours of one luminance become one colour."""
    gray = colour.gray_of(RGB, colour.SRGB)
    step = GradientMap()
    assert np.abs(run(step, RGB) - run(step, gray)).max() < 1e-6


def test_stops_come_in_order_whatever_order_they_are_given_in():
    assert GradientMap(stops=((100.0, "#ffffff"), (0.0, "#000000"))).stops[0] == (0.0, "#000000")


def test_stops_on_one_tone_are_a_hard_edge():
    out = run(GradientMap(stops=((0.0, "#000000"), (50.0, "#000000"), (50.0, "#ffffff"), (100.0, "#ffffff"))), RAMP)
    assert np.all((out < 0.01) | (out > 0.99))
