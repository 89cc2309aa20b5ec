"""The passes of the stages colour, gray and tone against formulas, standards and reference libraries.

Longer than most: the checks of a dozen passes, pass after pass.
"""

import warnings

import cv2
import numpy as np
import pytest
import skimage.exposure
import skimage.filters
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from kyanoscript import demo
from kyanoscript.core import colour, tones
from kyanoscript.core.frame import Frame
from kyanoscript.core.geometry import framing
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.gray.gray_weights import contrast_preserving
from kyanoscript.core.passes.tone.dodge_burn import Exposing
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # the library warns about optional packages while it is imported
    import colour as reference

P = load_all()
RAMP = np.linspace(0, 1, 1024, dtype=np.float32).reshape(1, 1024)
RGB = np.random.default_rng(4).random((40, 60, 3), dtype=np.float32)


def run(picture, *passes, scale=1.0):
    """Planes of a picture ``(h, w)`` or ``(h, w, 3)`` after passes."""
    renderer = Renderer(ArraySource(np.asarray(picture, np.float32)), Script(passes))
    return renderer.region(Rect(0, 0, *renderer.size(scale)), scale)


def picture(name="ferry-landing", width=900):
    pixels = cv2.imread(str(demo.photo(name)))[..., ::-1]
    height = round(pixels.shape[0] * width / pixels.shape[1])
    return cv2.resize(pixels, (width, height), interpolation=cv2.INTER_AREA).astype(np.float32) / 255


# Exposure and contrast


@pytest.mark.parametrize("stops", [-2, -1, 1, 2])
def test_one_stop_more_is_twice_the_light(stops):
    """IEC 61966-2-1 between encoded values and light."""
    light = colour.to_light(RAMP)
    out = colour.to_light(run(RAMP, P["exposure"](exposure=stops))[0])
    below = light * 2.0**stops < 1
    assert np.abs(out - light * 2.0**stops)[below].max() < 2e-4


@given(st.tuples(*[st.integers(-100, 100)] * 5), st.floats(-4, 4))
@settings(max_examples=80, deadline=None)
def test_exposure_never_lets_two_tones_change_places(values, stops):
    names = ("contrast", "highlights", "shadows", "whites", "blacks")
    step = P["exposure"](exposure=round(stops, 2), **{n: float(v) for n, v in zip(names, values, strict=True)})
    assert np.diff(run(RAMP, step)[0, 0]).min() >= -1e-6


def test_shadows_and_highlights_act_at_their_ends():
    opened, held = (run(RAMP, P["exposure"](**v))[0, 0] - RAMP[0] for v in ({"shadows": 80.0}, {"highlights": -80.0}))
    assert 100 < np.argmax(opened) < 400
    assert 600 < np.argmin(held) < 950
    assert np.abs(opened[[0, -1]]).max() < 1e-6


# Hue and chroma


def oklch(planes):
    """By colour-science: Oklab of sRGB, then polar."""
    rgb = np.moveaxis(np.asarray(planes, np.float64), 0, -1)
    lab = reference.XYZ_to_Oklab(reference.sRGB_to_XYZ(rgb))
    return lab[..., 0], np.hypot(lab[..., 1], lab[..., 2]), np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360


def test_hue_turns_in_oklab_as_colour_science_has_it():
    soft = 0.45 + 0.12 * RGB  # stays within the display's range
    before, after = oklch(np.moveaxis(soft, 2, 0)), oklch(run(soft, P["hue-chroma"](hue=40)))
    away = (after[2] - before[2] - 40 + 180) % 360 - 180
    seen = before[1] > 0.01
    assert np.abs(away[seen]).max() < 0.5
    assert np.abs(after[0] - before[0]).max() < 2e-3
    assert np.abs(after[1] - before[1]).max() < 2e-3


def test_chroma_at_minus_100_leaves_grays_of_the_same_lightness():
    out = run(RGB, P["hue-chroma"](chroma=-100))
    assert np.ptp(out, axis=0).max() < 2e-3
    assert np.abs(oklch(out)[0] - oklch(np.moveaxis(RGB, 2, 0))[0]).max() < 3e-3


def test_what_is_colourful_already_can_be_spared():
    """Two colours that stay within the display's range when they are strengthened by 30 %."""
    dull, strong = np.full((4, 4, 3), (0.5, 0.45, 0.42)), np.full((4, 4, 3), (0.75, 0.38, 0.34))

    def gain(inks, spare):
        after = oklch(run(inks, P["hue-chroma"](chroma=30, spare=spare)))[1]
        return float((after / oklch(np.moveaxis(inks, 2, 0))[1]).mean())

    assert gain(dull, 0) == pytest.approx(1.3, abs=0.01)
    assert gain(strong, 0) == pytest.approx(1.3, abs=0.01)
    for inks in (dull, strong):  # less by as much as the colour is of a chroma of 0.25
        chroma = float(oklch(np.moveaxis(inks, 2, 0))[1].mean())
        assert gain(inks, 100) == pytest.approx(1 + 0.3 * (1 - chroma / 0.25), abs=0.01)
    assert gain(strong, 100) < gain(dull, 100)


def test_colours_out_of_range_keep_their_hue():
    before, after = oklch(np.moveaxis(RGB, 2, 0)), oklch(run(RGB, P["hue-chroma"](chroma=100)))
    seen = before[1] > 0.05
    away = (after[2] - before[2] + 180) % 360 - 180
    assert np.percentile(np.abs(away[seen]), 95) < 0.5
    assert np.abs(after[0] - before[0])[seen].max() < 1e-3


def test_strengthening_takes_no_colour_away():
    """The corners of sRGB and what lies near: where there is no more room, the chroma stays what it was."""
    steps = np.linspace(0, 1, 9)
    inks = np.stack(np.meshgrid(steps, steps, steps), -1).reshape(27, 27, 3)
    before = oklch(np.moveaxis(inks, 2, 0))
    for more in (10, 50, 100):
        after = oklch(run(inks, P["hue-chroma"](chroma=more)))
        assert (after[1] - before[1]).min() > -2e-3
    blue = oklch(run(np.full((4, 4, 3), (0.0, 0.0, 1.0)), P["hue-chroma"](chroma=100)))
    assert blue[1] == pytest.approx(0.313, abs=1e-3)


def test_as_much_chroma_is_kept_as_there_is_room_for():
    """Against colour-science's Oklab: a hair more than what is kept lies outside of sRGB."""
    ink = np.full((4, 4, 3), (0.75, 0.38, 0.34))
    lightness, chroma, hue = (float(v.mean()) for v in oklch(run(ink, P["hue-chroma"](chroma=100))))

    def rgb(chroma):
        a, b = chroma * np.cos(np.radians(hue)), chroma * np.sin(np.radians(hue))
        return reference.XYZ_to_RGB(reference.Oklab_to_XYZ([lightness, a, b]), "sRGB")  # light

    assert rgb(chroma).min() > -1e-3
    assert rgb(chroma).max() < 1 + 1e-3
    assert min(rgb(chroma * 1.02).min(), 1 - rgb(chroma * 1.02).max()) < 0


# Colour balance


@given(st.lists(st.integers(-60, 60), min_size=9, max_size=9))
@settings(max_examples=60, deadline=None)
def test_held_brightness_is_within_half_a_per_cent(values):
    names = [f"{r}_{a}" for r in ("shadows", "mids", "highlights") for a in ("red", "green", "blue")]
    soft = 0.3 + 0.25 * RGB
    out = run(soft, P["colour-balance"](**dict(zip(names, map(float, values), strict=True))))
    free = (out < 0.999).all(0) & (out > 0.001).all(0)  # before clipping
    was, now = colour.luminance(np.moveaxis(soft, 2, 0), colour.SRGB), colour.luminance(out, colour.SRGB)
    assert np.abs(now / was - 1)[free].max() < 5e-3


def test_without_holding_each_channel_moves_by_its_share_of_the_three_ranges():
    """Its own formula: (1 − y)², y² and what is left of 1, with BT.601's luma as y; 100 moves by 35 % of the scale."""
    names = [f"{r}_{a}" for r in ("shadows", "mids", "highlights") for a in ("red", "green", "blue")]
    moves = np.array([[30.0, -20.0, 10.0], [-15.0, 25.0, 5.0], [20.0, -10.0, -35.0]])
    soft = 0.3 + 0.4 * RGB
    out = run(soft, P["colour-balance"](hold=False, **dict(zip(names, moves.ravel(), strict=True))))
    y = soft @ np.array(colour.BT601)
    shares = np.stack([(1 - y) ** 2, 1 - (1 - y) ** 2 - y**2, y**2])
    wanted = np.moveaxis(soft, 2, 0) + np.einsum("rhw,rc->chw", shares, moves) / 100 * 0.35
    assert np.abs(out - wanted).max() < 1e-4


def test_the_trades_lith_setting_warms_the_lights():
    """Shadows 7, 2, 15; mids 22, 0, −24; highlights 5, −20, −30 (common practice, no source)."""
    out = run(RAMP, P["colour-balance"](**P["colour-balance"].starts["lith"]))[:, 0]
    r, g, b = out[:, 700]
    assert r > g > b
    assert out[2, 60] >= out[1, 60]  # a breath of blue in the shadows


def test_balance_of_nothing_leaves_a_gray_gray():
    assert len(run(RAMP, P["colour-balance"]())) == 1


# Gray weights, automatic


def keeps_contrast(rgb, gray):
    """Share of pixel pairs that differ by more than 10 in Lab and still do in gray (CCPR, Lu et al. 2012)."""
    lab = reference.XYZ_to_Lab(reference.sRGB_to_XYZ(rgb.reshape(-1, 3).astype(np.float64)))
    order = np.random.default_rng(1).permutation(len(lab))
    apart = np.linalg.norm(lab - lab[order], axis=1)
    steps = np.abs(gray.ravel() - gray.ravel()[order]) * 100
    return (steps[apart >= 10] >= 10).mean()


@pytest.mark.parametrize("name", demo.NAMES)
def test_automatic_shares_keep_contrast_about_as_well_as_opencv(name):
    """cv2.decolor (Lu, Xu, Jia 2012, a polynomial of nine terms); ours is linear and may be 5 % behind, not more."""
    rgb = picture(name, 240)
    gray, _ = cv2.decolor(np.ascontiguousarray(np.rint(rgb[..., ::-1] * 255).astype(np.uint8)))
    ours = run(rgb, P["gray-weights"](auto=True))[0]
    assert keeps_contrast(rgb, ours) >= 0.95 * keeps_contrast(rgb, gray / 255.0)


def test_automatic_shares_part_red_and_green_of_one_lightness():
    """The two apples that a plain gray loses: equal BT.601 gray, hues apart."""
    halves = np.zeros((40, 80, 3), np.float32)
    halves[:, :40], halves[:, 40:] = (0.70, 0.20, 0.20), (0.20, 0.455, 0.20)
    plain, auto = run(halves, P["gray-weights"]()), run(halves, P["gray-weights"](auto=True))
    assert abs(plain[0, 0, 0] - plain[0, 0, -1]) < 0.01
    assert abs(auto[0, 0, 0] - auto[0, 0, -1]) > 0.1
    assert sum(contrast_preserving(np.moveaxis(halves, 2, 0), colour.SRGB)) == pytest.approx(100)


# Levels, automatic; curves


def test_automatic_levels_reach_from_end_to_end():
    """As skimage.exposure.rescale_intensity between percentiles."""
    gray = 0.2 + 0.5 * np.random.default_rng(2).random((80, 100), dtype=np.float32)
    out = run(gray, P["levels"](auto=True, clip=1))[0]
    low, high = np.percentile(gray, (1, 99))
    wanted = skimage.exposure.rescale_intensity(gray, (low, high), (0, 1))
    assert np.abs(out - wanted).max() < 2e-3


@pytest.mark.parametrize(("middle", "power"), [(168, 1.4), (74, 1.0), (128, 0.6)])
def test_automatic_levels_bring_half_of_the_picture_below_a_tone(middle, power):
    gray = np.linspace(0, 1, 90 * 90).reshape(90, 90) ** power * 0.8 + 0.1
    step = P["levels"](auto=True, clip=0, middle=middle)
    assert np.median(run(gray, step)[0]) * 255 == pytest.approx(middle, abs=1.5)
    assert step.suggested() == ("in_black", "in_white", "gamma")
    assert P["levels"](auto=True).suggested() == ("in_black", "in_white")


def test_automatic_levels_never_tear_the_tones_of_an_extreme_picture_apart():
    gray = np.full((60, 60), 0.01)
    gray[0] = 1.0
    assert (
        P["levels"](auto=True, middle=200).suggest(
            gray[None].astype(np.float32), framing(Frame(), 60, 60), colour.SRGB
        )["gamma"]
        <= 2.5
    )


def test_automatic_levels_of_one_tone_change_nothing():
    assert np.allclose(run(np.full((9, 9), 0.4), P["levels"](auto=True)), 0.4, atol=1e-6)


points = st.lists(st.tuples(st.integers(0, 255), st.integers(0, 255)), min_size=3, max_size=8)


def test_a_level_piece_of_a_curve_stays_level_as_scipys():
    assert tones.monotone(np.array([0.2, 0.7]), np.array([[0.1, 0.9]]), np.array([0.2, 0.45, 0.7])) == pytest.approx(
        np.array([[0.1, 0.5, 0.9]])
    )
    for y in ([0.1, 0.5, 0.5, 0.9], [0.2, 0.2, 0.2, 0.7], [0.3, 0.8, 0.8, 0.1]):
        x, inside = np.array([0.0, 0.3, 0.6, 1.0]), np.linspace(0, 1, 300)
        found = tones.monotone(x, np.array([y]), inside)[0]
        assert np.abs(found - PchipInterpolator(x, y)(inside)).max() < 1e-12


@given(points)
@settings(max_examples=100, deadline=None)
def test_curves_are_scipys_monotone_cubics(pairs):
    """scipy.interpolate.PchipInterpolator through the same points."""
    curve = tuple(sorted({float(x): (float(x), float(y)) for x, y in pairs}.values()))
    if len(curve) < 3:
        return
    x, y = np.array(curve).T / 255
    inside = np.linspace(x[0], x[-1], 500)
    assert np.abs(tones.curve_at(curve, inside) - np.clip(PchipInterpolator(x, y)(inside), 0, 1)).max() < 1e-9
    if (np.diff(y) >= 0).all():
        assert np.diff(run(RAMP, P["curves"](every=curve))[0, 0]).min() >= -1e-6


def test_two_points_are_a_straight_line_and_none_change_nothing():
    assert np.abs(run(RAMP, P["curves"](every=((0.0, 255.0), (255.0, 0.0))))[0] - (1 - RAMP)).max() < 1e-6
    assert np.abs(run(RAMP, P["curves"]())[0] - RAMP).max() < 1e-6


def test_crossed_curves_warm_the_lights_and_cool_the_darks():
    start = P["curves"].starts["crossed: warm lights, cool darks"]
    out = run(RAMP, P["curves"](**start))[:, 0]
    assert out[0, 800] > out[2, 800]
    assert out[0, 200] < out[2, 200]


# Local exposure, local contrast, sharpen


def test_deep_shadows_come_up_at_least_as_far_as_with_clahe():
    """Detail (local spread) in the darkest tenth against skimage.exposure.equalize_adapthist at its default limit."""
    dark = picture("table-by-the-window", 600) ** 1.8
    gray = colour.luma(np.ascontiguousarray(np.moveaxis(dark, 2, 0)))[0]
    out = run(gray, P["local-exposure"](open=100, hold=40))[0]
    clahe = skimage.exposure.equalize_adapthist(gray)
    deep = cv2.blur(gray, (25, 25)) < np.quantile(cv2.blur(gray, (25, 25)), 0.1)

    def detail(g):
        return np.abs(g - cv2.blur(np.asarray(g, np.float32), (9, 9)))[deep].mean()

    assert detail(out) >= detail(clahe)
    assert detail(out) > 2 * detail(gray)
    bright = gray > 0.8
    assert out[bright].mean() < gray[bright].mean()


def test_local_exposure_has_no_halo_and_no_blocks():
    """Beside a hard border the two sides stay level: at most 2 % of white more or less than far from it."""
    step = np.where(np.arange(900) < 450, 0.12, 0.75).astype(np.float32)
    out = run(np.repeat(step[None], 600, 0), P["local-exposure"](open=80, hold=50))[0]
    for side in (out[300, 20:445], out[300, 455:880]):
        assert np.ptp(side) < 0.02


def test_local_exposure_at_nothing_is_the_input():
    gray = picture(width=300)
    assert np.abs(run(gray, P["local-exposure"](open=0, hold=0)) - np.moveaxis(gray, 2, 0)).max() < 2e-5


def test_detail_on_its_own_can_be_left_as_it_was():
    gray = np.clip(0.2 + 0.03 * np.random.default_rng(1).standard_normal((300, 400)), 0, 1).astype(np.float32)
    tied, apart = (run(gray, P["local-exposure"](open=80, hold=0, tie=t))[0] for t in ("tied", "separate"))
    assert tied.std() > 1.4 * gray.std()
    assert apart.std() == pytest.approx(gray.std(), rel=0.25)


@pytest.mark.parametrize(("form", "much"), [(1, 1.4), (2, 1.3)])  # the second leaves edges as they are
def test_local_contrast_brings_out_texture_and_smooths_it(form, much):
    gray = picture(width=600)
    plain = np.moveaxis(gray, 2, 0)

    def texture(planes):
        return np.abs(planes[1] - cv2.GaussianBlur(planes[1], (0, 0), 2)).mean()

    more, less = run(gray, P["local-contrast"](of=form, fine=60)), run(gray, P["local-contrast"](of=form, fine=-100))
    assert texture(more) > much * texture(plain)
    assert texture(less) < 0.8 * texture(plain)
    assert abs(more.mean() - plain.mean()) < 0.01


def test_broad_contrast_alone_sets_large_parts_apart():
    gray = np.clip(picture(width=600) @ np.float32(colour.BT709), 0, 1)
    more, less = (run(gray, P["local-contrast"](fine=0, broad=by))[0] for by in (60, -60))
    large = [cv2.GaussianBlur(out, (0, 0), 10) for out in (less, gray, more)]
    assert large[0].std() < large[1].std() < large[2].std()
    assert abs(more.mean() - gray.mean()) < 0.02
    both = run(gray, P["local-contrast"](fine=0.001, broad=60))[0]
    assert np.abs(both - more).max() < 1e-4  # either alone is what both are where the other comes to nothing
    fine, hardly_broad = (run(gray, P["local-contrast"](fine=60, broad=by))[0] for by in (0, 0.001))
    assert np.abs(hardly_broad - fine).max() < 1e-4


def test_local_contrast_leaves_no_halo_at_a_hard_edge():
    step = np.repeat(np.where(np.arange(800) < 400, 0.2, 0.8).astype(np.float32)[None], 300, 0)
    out = run(step, P["local-contrast"](fine=100, broad=100))[0, 150]
    assert out.max() < 0.8 + 0.06
    assert out.min() > 0.2 - 0.06


@pytest.mark.parametrize("radius", [1.0, 2.5])
def test_sharpening_a_gray_is_scikit_images_unsharp_mask(radius):
    """skimage.filters.unsharp_mask; it cuts its bell off at 4 sigma, ours at 3."""
    gray = 0.25 + 0.5 * colour.luma(np.ascontiguousarray(np.moveaxis(picture(width=500), 2, 0)))[0]
    out = run(gray, P["sharpen"](amount=150, radius=radius / 500 * 1000))[0]
    wanted = skimage.filters.unsharp_mask(gray, radius, 1.5)
    assert np.abs(out - wanted)[8:-8, 8:-8].max() < 6e-3


def test_differences_below_the_threshold_are_left_alone():
    gray = np.full((60, 60), 0.5, np.float32)
    gray[:, 30:] = 0.52
    assert np.array_equal(run(gray, P["sharpen"](radius=20, threshold=10))[0], gray)
    assert not np.array_equal(run(gray, P["sharpen"](radius=20, threshold=0))[0], gray)


# Threshold, negative, dodge and burn


def test_the_level_itself_and_lighter_is_white():
    tones_ = (np.arange(256) / 255).astype(np.float32)[None]
    out = run(tones_, P["threshold"](level=72))[0, 0]
    assert np.array_equal(out, (np.arange(256) >= 72).astype(np.float32))


def test_the_automatic_level_is_otsus():
    """skimage.filters.threshold_otsu on the same 256 tones."""
    rng = np.random.default_rng(5)
    gray = np.clip(np.concatenate([rng.normal(60, 15, 6000), rng.normal(170, 20, 4000)]), 0, 255).round()
    level = P["threshold"]().suggest(
        (gray / 255).astype(np.float32).reshape(1, 100, 100), framing(Frame(), 100, 100), colour.SRGB
    )["level"]
    assert level == pytest.approx(skimage.filters.threshold_otsu(gray.astype(np.uint8)) + 1, abs=1)


def test_negative_twice_is_the_picture():
    out = run(RGB, P["negative"](), P["negative"]())
    assert np.abs(out - np.moveaxis(RGB, 2, 0)).max() < 1e-6


def stroke(exposure, tones_="mids", **more):
    return Exposing(points=((30.0, 50.0), (70.0, 50.0)), exposure=float(exposure), tones=tones_, size=200.0, **more)


def test_dodging_lightens_burning_darkens_and_strokes_add_up():
    gray = np.full((200, 300), 0.4, np.float32)
    once, twice, burnt = (
        run(gray, P["dodge-burn"](strokes=s))[0] for s in ((stroke(30),), (stroke(30), stroke(30)), (stroke(-30),))
    )
    assert burnt[100, 150] < 0.4 < once[100, 150] < twice[100, 150]
    assert once[5, 5] == pytest.approx(0.4)
    both = run(gray, P["dodge-burn"](strokes=(stroke(30), stroke(-30))))[0]
    assert np.abs(both - 0.4).max() < 1e-4


def test_black_and_white_stay_however_often_one_goes_over_them():
    ends = np.zeros((100, 150), np.float32)
    ends[:, 75:] = 1
    out = run(ends, P["dodge-burn"](strokes=(stroke(100), stroke(100), stroke(-100, "highlights"))))[0]
    assert np.array_equal(out, ends)


def test_ranges_act_most_on_their_own_tones():
    ramp = np.repeat(np.linspace(0.02, 0.98, 300, dtype=np.float32)[None], 40, 0)
    wide = {name: Exposing(points=((0.0, 50.0), (100.0, 50.0)), exposure=40.0, tones=name, size=900.0, hardness=90.0)
            for name in ("shadows", "mids", "highlights")}  # fmt: skip
    lifts = {name: run(ramp, P["dodge-burn"](strokes=(s,)))[0, 20] - ramp[20] for name, s in wide.items()}
    assert np.argmax(lifts["shadows"]) < np.argmax(lifts["mids"]) < np.argmax(lifts["highlights"])


def test_colour_keeps_its_hue_under_the_brush():
    rgb = np.full((60, 90, 3), (0.5, 0.3, 0.2), np.float32)
    out = run(rgb, P["dodge-burn"](strokes=(stroke(50),)))[:, 30, 45]
    assert out[0] / out[1] == pytest.approx(0.5 / 0.3, rel=0.06)
