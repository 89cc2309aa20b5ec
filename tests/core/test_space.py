"""Colour spaces against colour-science, and what passes make of a photograph in a wide one."""

import itertools
import warnings

import numpy as np
import pytest
from skimage.color import deltaE_ciede2000

from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, DISPLAY_P3, OPRGB, ROMM, SPACES, SRGB
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Reading, Rect, read
from kyanoscript.core.render.analysis import spot
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.stencil import Hues, Stencil, Tones
from tests.conftest import make_colourful
from tests.strategies import PASSES

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour as science

P = load_all()
THEIRS = {
    SRGB: "sRGB",
    DISPLAY_P3: "Display P3",
    OPRGB: "Adobe RGB (1998)",  # the primaries of IEC 61966-2-5
    BT2020: "ITU-R BT.2020",
    ROMM: "ROMM RGB",
}
each = pytest.mark.parametrize("space", SPACES, ids=lambda space: space.name)
wide = pytest.mark.parametrize("space", SPACES[1:], ids=lambda space: space.name)


@each
def test_matrices_are_those_of_colour_science(space):
    theirs = science.RGB_COLOURSPACES[THEIRS[space]]
    wanted = science.normalised_primary_matrix(theirs.primaries, theirs.whitepoint)
    assert np.abs(np.reshape(space.matrix, (3, 3)) - wanted).max() < 1e-6
    assert np.abs(np.array(space.luminance) - wanted[1]).max() < (1e-4 if space == SRGB else 1e-6)  # BT.709 rounds
    assert np.abs(space.to_d50 @ np.ones(3) - colour.D50).max() < 1e-9


@pytest.mark.parametrize(("one", "other"), [*itertools.permutations(SPACES, 2)], ids=lambda space: space.name)
def test_from_space_to_space_as_colour_science_goes(one, other):
    theirs = [science.RGB_COLOURSPACES[THEIRS[space]] for space in (one, other)]
    matrices = [science.normalised_primary_matrix(t.primaries, t.whitepoint) for t in theirs]
    whites = [science.xy_to_XYZ(t.whitepoint) for t in theirs]
    adapted = science.adaptation.matrix_chromatic_adaptation_VonKries(*whites, "Bradford")
    wanted = np.linalg.inv(matrices[1]) @ adapted @ matrices[0]
    assert np.abs(one.linear_to(other) - wanted).max() < 1e-6


def test_the_red_of_display_p3():
    """Check values of the trade's calculators: in linear sRGB and linear BT.2020 (four decimals)."""
    red = np.array([1.0, 0, 0])
    assert np.abs(DISPLAY_P3.linear_to(SRGB) @ red - [1.2249, -0.0421, -0.0196]).max() < 1e-4
    assert np.abs(DISPLAY_P3.linear_to(BT2020) @ red - [0.7538, 0.0457, -0.0012]).max() < 1e-4


@wide
def test_there_and_back_is_half_a_step_of_sixteen_bits_at_most(space):
    planes = np.random.default_rng(3).random((3, 60, 70)).astype(np.float32)
    there = colour.moved(planes, SRGB, space)
    assert np.abs(there - planes).max() > 0.02
    assert np.abs(colour.moved(there, space, SRGB) - planes).max() < 0.5 / 65535
    exact = colour.to_encoded(np.tensordot(SRGB.linear_to(space), colour.to_light(planes), 1))
    assert np.abs(there - exact).max() < 0.5 / 65535


@pytest.mark.parametrize(("rgb", "lightness"), [((1, 0, 0), 61.4), ((1, 0, 1), 67.5), ((0, 1, 0), 83.3)])
def test_grays_of_a_wide_space_are_as_bright_as_its_colours(rgb, lightness):
    """CIE L* of Y by the space's own row. In sRGB, cut off, they came out at 53.2, 60.3 and 87.7."""
    source = ArraySource(np.full((4, 4, 3), rgb, np.float32), OPRGB)
    gray = Renderer(source, Script((P["gray-weights"](auto=True, aim="eye", basis="light"),)))
    assert spot(gray, 1, 1).lightness == pytest.approx(lightness, abs=0.1)
    mapped = Renderer(source, Script((P["gradient-map"](stops=((0.0, "#000000"), (100.0, "#ffffff"))),)))
    assert spot(mapped, 1, 1).lightness == pytest.approx(lightness, abs=0.1)


def test_the_start_for_the_eye_takes_the_row_of_the_space():
    script = Script((P["gray-weights"](**P["gray-weights"].starts["as the eye sees"]),))
    for space in SPACES:
        settled = Renderer(ArraySource(make_colourful(20, 30), space), script).settled(0)
        shares = np.array([settled.red, settled.green, settled.blue]) / 100
        assert np.allclose(shares, space.luminance, atol=1e-9)
    for name in ("as the eye sees (BT.601)", "as the eye sees (BT.709)"):  # numbers that stay what they are
        start = P["gray-weights"].starts[name]
        assert not start["auto"]


def test_a_colour_written_in_a_script_means_srgb():
    """In any space it is the colour that it is in sRGB; one that a space does not hold keeps its hue."""
    for space, text in itertools.product(SPACES, ("#c03a2b", "#00ff00", "#808080", "#0000ff")):
        inside = np.array(colour.ink_of(text, space)).reshape(3, 1)
        lab = colour.to_oklab(inside, space)[:, 0]
        wanted = colour.to_oklab(np.array(colour.parse_hex(text)).reshape(3, 1), SRGB)[:, 0]
        assert np.abs(lab - wanted).max() < 2e-4
        assert colour.written_of(inside, space) == text
    narrow = colour.space_of("narrow", [(0.5, 0.33), (0.32, 0.5), (0.22, 0.18)], SRGB.white)
    lab = colour.to_oklch(np.array(colour.ink_of("#00ff00", narrow)).reshape(3, 1), narrow)[:, 0]
    wanted = colour.to_oklch(np.array([[0.0], [1], [0]]), SRGB)[:, 0]
    assert lab[2] == pytest.approx(wanted[2], abs=1.1)
    assert lab[1] < wanted[1] - 0.05


def wide_colours(count=4000):
    """Colours of BT.2020 that sRGB does not hold, ``(3, n)``, even as encoded; and what cutting makes of them."""
    rgb = np.random.default_rng(5).random((3, 3 * count))
    straight = np.tensordot(BT2020.linear_to(SRGB), colour.to_light(rgb), 1)
    outside = ((straight < -1e-6) | (straight > 1 + 1e-6)).any(0)
    return rgb[:, outside], np.clip(colour.to_encoded(straight[:, outside]), 0, 1)


def away(rgb, held):
    """ΔE2000 by scikit-image, and how far hue has turned in Oklab, in degrees, where there is colour to see."""
    one, other = (np.moveaxis(colour.to_lab(x, space), 0, -1) for x, space in ((rgb, BT2020), (held, SRGB)))
    before, after = colour.to_oklch(rgb, BT2020), colour.to_oklch(held, SRGB)
    turned = np.abs((after[2] - before[2] + 180) % 360 - 180)
    return deltaE_ciede2000(one, other), turned[after[1] > 0.03]


def test_what_a_space_cannot_hold_keeps_its_hue_and_comes_near():
    """Within a degree (two in corners); ΔE2000 of 6.34 on average: cutting channels 5.90, and turns hue by up to 23°;
    keeping lightness 6.89. The best there is within a degree is 6.05."""
    rgb, cut = wide_colours()
    for held in (colour.within(rgb, BT2020, SRGB), one_row(colour.held(in_rows(rgb), BT2020, SRGB))):
        off, turned = away(rgb, held)
        assert off.mean() < 6.45
        assert np.percentile(turned, 95) < 1.2
        assert turned.max() < 2.1
        assert held.min() >= 0
        assert held.max() <= 1
    off, turned = away(rgb, cut)
    assert off.mean() == pytest.approx(5.9, abs=0.1)
    assert turned.max() > 20
    assert away(rgb, colour.fitted(colour.to_oklab(rgb, BT2020), SRGB))[0].mean() > 6.65


def in_rows(rgb):
    return np.ascontiguousarray(rgb.astype(np.float32)[:, None])


def one_row(planes):
    return planes[:, 0].astype(np.float64)


def test_ramps_that_leave_a_space_stay_smoother_than_before():
    """The largest step of a ramp against its mean one, in L*a*b*. Of nine ramps in ten it is below 2; where lightness
    was kept 3.4, as hue leaves the space at a corner and comes back. Round the deepest blue it still does."""
    steps, before = [], []
    for seed, k in itertools.product((3, 4, 5), range(120)):
        rng = np.random.default_rng((seed, k))
        start, end = rng.random(3), rng.random(3)
        if k % 3 == 0:
            start = np.full(3, start[0])
        elif k % 3 == 1:
            end = np.rint(end)
        ramp = start[:, None] + (end - start)[:, None] * np.linspace(0, 1, 500)
        own = np.linalg.norm(np.diff(colour.to_lab(ramp, BT2020), axis=1), axis=0).mean()
        for held, found in ((one_row(colour.held(in_rows(ramp), BT2020, SRGB)), steps),
                            (colour.fitted(colour.to_oklab(ramp, BT2020), SRGB), before)):  # fmt: skip
            found.append(np.linalg.norm(np.diff(colour.to_lab(held, SRGB), axis=1), axis=0).max() / own)
    assert np.median(steps) < 1.3
    assert np.percentile(steps, 90) < 2.2
    assert np.percentile(before, 90) > 1.1 * np.percentile(steps, 90)
    assert np.mean(np.array(steps) > 5) < 0.8 * np.mean(np.array(before) > 5)


def test_a_profile_close_to_a_known_space_is_that_space():
    for space in SPACES:
        assert colour.space_near(space.to_d50 + 2e-4, space.white) is space
    own = colour.space_of("x", [(0.67, 0.33), (0.21, 0.71), (0.14, 0.08)], SRGB.white)
    found = colour.space_near(own.to_d50, SRGB.white)
    assert found not in SPACES
    assert np.abs(found.to_d50 - own.to_d50).max() < 1e-12


@pytest.mark.parametrize("wrong", [np.zeros((3, 3)), np.full((3, 3), np.nan), np.ones((3, 3))])
def test_a_matrix_that_spans_nothing_is_refused(wrong):
    with pytest.raises(ValueError, match="span no colours"):
        colour.space_near(wrong, SRGB.white)
    with pytest.raises(ValueError, match="span no colours"):
        colour.space_of("flat", [(0.3, 0.3), (0.3, 0.3), (0.3, 0.3)], SRGB.white)


# Passes in a wide space

WHOLE = Rect(0, 0, 96, 64)
SMALL = make_colourful(64, 96, np.uint16)
STENCIL = Stencil(shapes=(Hues(hue=30.0, width=120.0), Tones(low=30.0, high=200.0)), feather=4)


def sample(model):
    return model(**model.samples) if model.samples else model()


@pytest.mark.parametrize("model", PASSES, ids=lambda model: model.kind)
def test_a_gray_photograph_prints_the_same_in_any_space(model):
    """Equal channels are neutral in all of them, and colours that a pass brings mean sRGB."""
    gray = np.repeat(SMALL[..., 1:2], 3, axis=2)
    prints = {
        space: Renderer(ArraySource(gray, space), Script((sample(model),))).region(WHOLE) for space in (SRGB, BT2020)
    }
    if len(prints[SRGB]) == 1:
        assert np.abs(prints[BT2020] - prints[SRGB]).max() < 1e-5
        return
    away = np.abs(colour.to_oklab(prints[BT2020], BT2020) - colour.to_oklab(prints[SRGB], SRGB)).mean(axis=(1, 2))
    # Where light is taken away or laid over channel by channel, other primaries give a slightly other colour.
    assert away.max() < 0.02


@pytest.mark.parametrize("model", PASSES, ids=lambda model: model.kind)
def test_in_a_wide_space_a_region_is_the_same_part_of_the_whole(model):
    source, script = ArraySource(SMALL, BT2020), Script((sample(model).model_copy(update={"stencil": STENCIL}),))
    whole = colour.in_colour(Renderer(source, script).region(WHOLE))
    part = colour.in_colour(Renderer(source, script).region(Rect(30, 20, 40, 30)))
    hard = model.kind == "threshold"
    assert np.mean(np.abs(part - whole[:, 20:50, 30:70]) > 1e-5) <= (0.02 if hard else 0)
    assert np.isfinite(whole).all()


@wide
def test_strengthened_colours_fit_into_the_photographs_own_space(space):
    """Hue and lightness hold to the rim of the wide space, which is further out than that of sRGB."""
    colours = np.zeros((1, 3, 3), np.float32)
    colours[0] = np.eye(3) * 0.6 + 0.35  # ROMM's own blue is no colour that anybody sees
    made = Renderer(ArraySource(colours, space), Script((P["hue-chroma"](chroma=100.0),))).region(Rect(0, 0, 3, 1))
    before = colour.to_oklch(np.moveaxis(colours, 2, 0), space)[:, 0]
    after = colour.to_oklch(made, space)[:, 0]
    assert (made.min(), made.max()) >= (0, 0.9)
    assert np.abs(after[0] - before[0]).max() < 5e-3
    assert np.abs((after[2] - before[2] + 180) % 360 - 180).max() < 1
    assert (after[1] >= before[1] - 1e-3).all()


def test_another_picture_comes_into_the_photographs_space():
    """A plate of a P3 picture on a BT.2020 photograph is the colour that it is in its file."""
    from kyanoscript.core.render.bases import Picture

    class One:
        def find(self, name):
            return Picture(ArraySource(np.full((8, 8, 3), (0.9, 0.2, 0.1), np.float32), DISPLAY_P3))

    plate = P["plate"](source="picture", picture="x", size=400.0)
    made = Renderer(ArraySource(SMALL, BT2020), Script((plate,)), library=One()).region(Rect(40, 30, 2, 2))
    wanted = colour.to_oklab(np.array([[0.9], [0.2], [0.1]]), DISPLAY_P3)[:, 0]
    assert np.abs(colour.to_oklab(made, BT2020)[:, 0, 0] - wanted).max() < 1e-3


# Beyond black and white


def exposed(value, **values):
    source = ArraySource(np.full((6, 9, 3), value, np.float32))
    return float(Renderer(source, Script((P["exposure"](**values),))).region(Rect(0, 0, 9, 6))[0, 2, 3])


def test_light_beyond_white_comes_back_when_it_is_exposed_down():
    """2.5 times white brought down two stops is 0.625 of it; it once came out as white itself would."""
    beyond = float(colour.to_encoded(2.5))
    assert exposed(beyond, exposure=-2.0) == pytest.approx(float(colour.to_encoded(0.625)), abs=2e-4)
    assert exposed(1.0, exposure=-2.0) == pytest.approx(float(colour.to_encoded(0.25)), abs=2e-4)
    assert exposed(beyond) == 1


def test_floats_beyond_white_are_averaged_as_the_light_that_they_are():
    """A small lamp of ten times white leaves more than white when the picture is reduced."""
    lamp = np.zeros((40, 40, 1), np.float32)
    lamp[18:22, 18:22] = colour.to_encoded(10.0)
    for how in Reading:
        small = read(ArraySource(lamp), Rect(0, 0, 20, 20), 0.5, how=how)
        assert colour.to_light(small).mean() * 400 == pytest.approx(10 * 4, rel=1e-3)
        assert colour.to_light(small[0, 9:11, 9:11]).max() > 8


def test_curves_and_levels_act_on_what_lies_beyond():
    beyond = float(colour.to_encoded(1.2))
    source = ArraySource(np.full((4, 4, 3), beyond, np.float32))
    halved = Renderer(source, Script((P["curves"](every=((0.0, 0.0), (255.0, 128.0))),))).region(Rect(0, 0, 4, 4))
    assert halved[0, 1, 1] == pytest.approx(beyond * 128 / 255, abs=1e-3)
    assert Renderer(source, Script((P["levels"](out_white=200.0),))).region(Rect(0, 0, 4, 4)).max() <= 200.1 / 255
