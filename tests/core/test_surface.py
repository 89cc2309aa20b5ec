"""Grain, lines, bloom, found detail and edges, vignette: numbers, and published or other people's implementations.

Longer than most: the checks of twelve passes, pass after pass.
"""

import cv2
import numpy as np
import pytest
import scipy.ndimage
import scipy.stats
import skimage.filters
import skimage.measure
from PIL import Image

from kyanoscript.core import colour
from kyanoscript.core.colour import in_colour
from kyanoscript.core.frame import Frame
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.surface.lettering import shining
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.textures import BUNDLED, bundled
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.photos.pictures import Pictures
from tests.conftest import make_colourful

P = load_all()
FLAT = ArraySource(np.full((400, 600), 128, np.uint8))
LARGE = ArraySource(np.full((1200, 1600), 128, np.uint8))
MID = 128 / 255


def render(source, *run, scale=1.0, rect=None):
    renderer = Renderer(source, Script(tuple(run)))
    return renderer.region(rect or Rect(0, 0, *renderer.size(scale)), scale)


def pixels(length):
    """A length in thousandths that is so many pixels of the 600 of FLAT."""
    return length / 600 * 1000


# Grain


@pytest.mark.parametrize("spread", ["gaussian", "uniform", "clumped"])
@pytest.mark.parametrize("size", [1.0, 2.0, 3.7])
@pytest.mark.parametrize("softness", [0.0, 100.0])
def test_sigma_of_a_flat_gray_is_the_amount_and_its_mean_stays(spread, size, softness):
    step = P["grain"](of=1, amount=6.0, size=pixels(size), softness=softness, spread=spread, tones="even")
    out = render(FLAT, step)[0]
    assert out.std() == pytest.approx(0.06, rel=0.05)
    assert out.mean() == pytest.approx(MID, abs=0.002 * max(1, size / 2))  # fewer grains: a mean less sure


def test_gaussian_grain_is_gaussian_uniform_is_uniform_and_clumped_has_heavier_ends():
    found = {}
    for spread in ("gaussian", "uniform", "clumped"):
        step = P["grain"](of=1, amount=6.0, size=pixels(1), softness=0.0, spread=spread, tones="even")
        found[spread] = scipy.stats.kurtosis((render(FLAT, step)[0] - MID).ravel())
    # Excess kurtosis: Gaussian 0 (the sum of four even bytes −0.3), uniform −1.2 (tables of distributions).
    assert found["gaussian"] == pytest.approx(-0.3, abs=0.12)
    assert found["uniform"] < -0.9
    assert found["clumped"] > 0.3


def test_grains_have_the_size_they_are_given():
    """The autocorrelation falls to a half within about half a grain, whatever the size."""
    for size in (2.5, 4.0, 6.0):
        grain = render(FLAT, P["grain"](of=1, size=pixels(size), tones="even"))[0] - MID
        along = [float((grain[:, :-k] * grain[:, k:]).mean() / grain.var()) for k in range(1, 20)]
        half = next(k for k, v in enumerate(along, 1) if v < 0.5)
        assert 0.3 * size <= half <= 1.1 * size


def test_grain_is_white_where_each_pixel_has_its_own():
    grain = render(FLAT, P["grain"](of=1, size=pixels(1), softness=0.0, tones="even"))[0] - MID
    power = np.abs(np.fft.fft2(grain)) ** 2
    fine, coarse = power[100:300, 150:450].mean(), np.r_[power[:50, :75].ravel(), power[-50:, -75:].ravel()].mean()
    assert fine == pytest.approx(coarse, rel=0.1)


def test_a_preview_has_less_grain_as_averaged_pixels_have():
    step = P["grain"](of=1, amount=20.0, size=pixels(1), softness=0.0, tones="even")
    small = render(FLAT, step, scale=0.25)[0]
    full = render(FLAT, step)[0].reshape(100, 4, 150, 4).mean(axis=(1, 3))
    assert small.std() == pytest.approx(full.std(), rel=0.1)


def test_grain_by_tone_by_seed_and_by_channel():
    dark, light = (ArraySource(np.full((200, 200), v, np.uint8)) for v in (40, 215))
    for tones, more in (("even", 1.0), ("mids", 1.0), ("darks", 3.0)):
        step = P["grain"](of=1, amount=4.0, tones=tones)
        assert render(dark, step)[0].std() / render(light, step)[0].std() == pytest.approx(more, rel=0.35)
    first, again, other = (render(FLAT, P["grain"](of=1, seed=s)) for s in (1, 1, 2))
    assert np.array_equal(first, again)
    assert abs(np.corrcoef(first.ravel(), other.ravel())[0, 1]) < 0.02
    mono = in_colour(render(FLAT, P["grain"](of=1, colour=0.0)))
    assert np.array_equal(mono[0], mono[1])
    own = render(FLAT, P["grain"](of=1, colour=100.0))
    assert abs(np.corrcoef(own[0].ravel(), own[1].ravel())[0, 1]) < 0.02


# Lines


def test_eight_pixels_half_dark_is_half_black_half_white():
    out = render(FLAT, P["lines"](pitch=pixels(8), duty=50.0, blend="normal", strength=100.0))[0]
    assert set(np.unique(np.round(out, 4))) == {0.0, 1.0}
    assert out.mean() == pytest.approx(0.5)
    assert np.all(out == out[:, :1])
    spectrum = np.abs(np.fft.rfft(out[:, 0] - out.mean()))
    assert np.argmax(spectrum) == 400 // 8


@pytest.mark.parametrize("angle", [0.0, 30.0, -45.0, 90.0])
@pytest.mark.parametrize("duty", [20.0, 50.0, 85.0])
def test_the_share_of_white_is_what_is_asked_at_any_angle_and_scale(angle, duty):
    step = P["lines"](pitch=pixels(8), duty=duty, angle=angle, blend="normal", strength=100.0)
    for scale in (1.0, 0.5, 0.1):
        assert render(FLAT, step, scale=scale).mean() == pytest.approx(1 - duty / 100, abs=0.012)
    soft = render(FLAT, step.model_copy(update={"soft": 100.0}))
    assert soft.mean() == pytest.approx(1 - duty / 100, abs=0.012)


# Bloom, detail, edges


def test_bloom_is_a_gaussian_in_light():
    source = ArraySource(make_colourful(300, 400))
    sigma = 4.0
    step = P["bloom"](radius=sigma / 400 * 1000, blend="normal", strength=100.0)
    light = colour.to_light(render(source))
    wanted = np.stack([scipy.ndimage.gaussian_filter(p, sigma, mode="nearest", truncate=5) for p in light])
    assert np.abs(colour.to_light(render(source, step)) - wanted).max() < 0.004


def test_bloom_of_lights_alone_leaves_darks_out():
    source = ArraySource(make_colourful(300, 400))
    everything, lights = (
        render(source, P["bloom"](lights=share, blend="normal", strength=100.0)) for share in (0.0, 100.0)
    )
    assert np.all(lights <= everything + 1e-5)
    assert lights.mean() < everything.mean() - 0.05


def test_fine_detail_is_the_print_less_its_blur():
    source = ArraySource(make_colourful(300, 400)[..., 1])
    sigma = 3.0
    gray = render(source)[0].astype(np.float64)
    wanted = 0.5 + gray - scipy.ndimage.gaussian_filter(gray, sigma, mode="nearest", truncate=5)
    out = render(source, P["fine-detail"](radius=sigma / 400 * 1000, blend="normal"))[0]
    assert np.abs(out - np.clip(wanted, 0, 1)).max() < 0.004
    assert np.abs(render(FLAT, P["fine-detail"](blend="normal")) - 0.5).max() < 1e-5


def test_edges_are_those_of_scikit_image():
    """The same steepness as `skimage.filters.sobel`, and lines exactly where it is high."""
    source = ArraySource(make_colourful(300, 400)[..., 1])
    gray = render(source)[0].astype(np.float64)
    steep = skimage.filters.sobel(gray)
    step = P["edge-lines"](of=1, thickness=1 / 400 * 1000, sensitivity=30.0, blend="normal")
    blurred = skimage.filters.sobel(scipy.ndimage.gaussian_filter(gray, 0.5, mode="nearest", truncate=6))
    least = 0.5 * 10**-0.6
    wanted = 1 - np.clip(blurred / least - 0.5, 0, 1)
    out = render(source, step)[0]
    inner = (slice(4, -4), slice(4, -4))
    assert np.abs(out - wanted)[inner].max() < 0.02
    assert out[steep > 0.4].max() < 0.1
    assert out[inner][blurred[inner] < 0.05].min() == 1


def test_a_fainter_edge_is_drawn_when_it_is_more_sensitive():
    step = np.full((100, 300), 120, np.uint8)
    step[:, 150:] = 132
    found = [
        render(ArraySource(step), P["edge-lines"](thickness=10, sensitivity=s, blend="normal")).min()
        for s in (0, 30, 60, 100)
    ]
    assert found == sorted(found, reverse=True)
    assert found[0] == 1
    assert found[-1] < 0.05


# Vignette


def test_a_vignette_darkens_by_stops_outside_and_not_at_all_inside():
    flat = render(FLAT)[0, 0, 0]
    out = render(FLAT, P["vignette"](amount=-1.0, width=600.0, height=400.0, soft=50.0))[0]
    assert out[200, 300] == flat
    assert out[200, 300 + 85] == pytest.approx(flat, abs=1e-3)  # within the inner half of the radius
    corner = colour.to_light(np.array([out[0, 0]]))[0]
    assert corner == pytest.approx(colour.to_light(np.array([flat]))[0] / 2, rel=2e-3)
    across = out[200, 300:]
    assert np.all(np.diff(across) <= 1e-6)
    light = render(FLAT, P["vignette"](amount=1.0, width=600.0, height=400.0))[0]
    assert light[0, 0] > flat


def test_it_says_when_the_oval_can_be_seen():
    assert P["vignette"]().remarks() == ""
    assert "seen" in P["vignette"](amount=-3.0, soft=10.0).remarks()
    assert P["vignette"]().placed() == "oval"


# Motion, mist, border


@pytest.mark.parametrize("pixels_", [1, 8, 30, 86])
@pytest.mark.parametrize(("angle", "trail"), [(0.0, False), (0.0, True), (90.0, False), (30.0, True)])
def test_an_impulse_becomes_a_line_of_that_length(pixels_, angle, trail):
    spot = np.zeros((401, 401), np.uint8)
    spot[200, 200] = 255
    step = P["motion"](length=pixels_ / 401 * 1000, angle=angle, trail=trail)
    light = colour.to_light(render(ArraySource(spot), step))[0]
    assert light.sum() == pytest.approx(1, rel=0.02)  # light is spread, none is lost
    ys, xs = np.mgrid[:401, :401] - 200
    a = np.radians(angle)
    along, across = xs * np.cos(a) + ys * np.sin(a), -xs * np.sin(a) + ys * np.cos(a)
    mean = float((light * along).sum() / light.sum())
    spread = float(np.sqrt((light * (along - mean) ** 2).sum() / light.sum()))
    assert mean == pytest.approx(pixels_ / 2 * (1 - 1 / 2 ** np.ceil(np.log2(pixels_ or 1))) if trail else 0, abs=0.6)
    # σ of an even line of length L is L/√12; bilinear shifts add at most half a pixel or so.
    assert spread == pytest.approx(pixels_ / np.sqrt(12), abs=0.9)
    assert float(np.sqrt((light * across**2).sum())) < 1.2


def test_mist_thickens_with_distance_from_its_edge():
    for part, way in (("upper", -1), ("lower", 1)):
        step = P["mist"](part=part, edge=50.0, transition=40.0, uneven=0.0, amount=100.0, tint="#ffffff")
        column = render(FLAT, step)[0, :, 300]
        assert np.all(way * np.diff(column) >= -1e-6)
        clear, thick = (column[-1], column[0]) if part == "upper" else (column[0], column[-1])
        assert clear == pytest.approx(MID, abs=1e-4)
        assert thick == pytest.approx(1, abs=1e-3)
        assert column[200] == pytest.approx(MID, abs=2e-3)  # the edge lies where it is asked
    even = render(FLAT, P["mist"](part="all", uneven=0.0, amount=30.0, tint="#ffffff"))
    assert even == pytest.approx(MID + 0.3 * (1 - MID), abs=1e-4)
    patchy = render(FLAT, P["mist"](part="all", uneven=100.0, amount=60.0))[0]
    assert patchy.std() > 0.02


def test_borders_keep_the_picture_within_and_have_their_width():
    width = 30.0
    plain = render(FLAT, P["border"](form="plain", width=pixels(width), paper="#ffffff"))[0]
    assert np.all(plain[:30] == 1)
    assert np.all(plain[:, -30:] == 1)
    assert np.all(plain[31:-31, 31:-31] == np.float32(MID))
    lined = render(
        FLAT, P["border"](form="keyline", width=pixels(width), thin=pixels(3), paper="#ffffff", line="#000000")
    )[0]
    across = lined[200, :60]
    assert int((across < 0.02).sum()) in (2, 3)
    assert abs(int(np.argmin(across)) - 30) <= 2
    ink = []
    for thin in (1.0, 0.5, 0.25):  # thinner than a pixel: fainter
        step = P["border"](form="keyline", width=pixels(width), thin=pixels(thin), paper="#ffffff", line="#000000")
        column = render(FLAT, step)[0, 100:300, 22:38].astype(np.float64)
        bare = render(FLAT, step.model_copy(update={"line": "#ffffff"}))[0, 100:300, 22:38]
        ink.append(float((bare - column)[:, :8].sum()))
    assert ink[0] > 1.5 * ink[1] > 2.25 * ink[2] > 0
    for form in ("rough", "brushed"):
        step = P["border"](form=form, width=pixels(width), uneven=60.0, paper="#ffffff")
        torn = render(FLAT, step)[0]
        assert torn[150:250, 250:350].max() == np.float32(MID)
        assert torn[200, 0] == 1
        rims = [int(np.argmax(row < 0.9)) for row in torn[60:340]]
        assert np.std(rims) > 2, form
        other = render(FLAT, step.model_copy(update={"seed": 2}))[0]
        assert not np.array_equal(torn, other)
    assert np.array_equal(render(FLAT, P["border"](width=0.0))[0], render(FLAT)[0])


# Flare, weather


def test_a_glow_is_brightest_at_its_point_and_falls_off_all_round():
    out = render(FLAT, P["flare"](x=50.0, y=50.0, size=100.0, tint="#ffffff"))[0]
    y, x = np.unravel_index(np.argmax(out), out.shape)
    assert abs(int(y) - 200) <= 1
    assert abs(int(x) - 300) <= 1
    assert np.all(np.diff(out[200, 301:]) <= 0)
    assert out[200, 360] == pytest.approx(out[260, 300], abs=2e-3)
    # Screen after W3C Compositing and Blending Level 1: 1 − (1 − backdrop)(1 − source).
    assert out[200, 300] == pytest.approx(1 - (1 - MID) * (1 - 0.7), abs=5e-3)
    assert np.array_equal(render(FLAT, P["flare"](brightness=0.0, tint="#ffffff"))[0], render(FLAT)[0])
    assert P["flare"]().placed() == "point"


def test_a_glow_stays_on_its_place_of_the_photograph_however_it_is_framed():
    step = P["flare"](x=20.0, y=70.0, size=100.0, tint="#ffffff")
    upright = render(FLAT, step)[0]
    turned = Renderer(FLAT, Script((step,), Frame(turns=1))).region(Rect(0, 0, 400, 600))[0]
    assert np.abs(turned - np.rot90(upright, -1)).max() < 1e-5
    tilted = Renderer(FLAT, Script((step,), Frame(tilt=20.0)))
    width, height = tilted.size(1.0)
    y, x = np.unravel_index(np.argmax(tilted.region(Rect(0, 0, width, height))[0]), (height, width))
    assert tilted.framing.at(1.0)(x + 0.5, y + 0.5) == pytest.approx((120, 280), abs=1)


def test_ghosts_lie_on_the_line_through_the_middle():
    step = P["flare"](x=20.0, y=20.0, brightness=0.0, ghosts=100.0, size=200.0, tint="#ffffff")
    added = render(FLAT, step)[0] - np.float32(MID)
    ys, xs = np.nonzero(added > 0.02)
    slope = (200 - 80) / (300 - 120)
    off = np.abs((ys - 80) - slope * (xs - 120)) / np.hypot(slope, 1)
    assert len(ys) > 200
    assert off.max() < 0.3 * 200 / 1000 * 600 + 1  # no farther off than the largest ghost's radius
    assert abs(float(np.average(off))) < 20


@pytest.mark.parametrize("falls", ["snow", "rain"])
def test_more_of_it_covers_more_and_wind_and_seed_move_it(falls):
    covered = [float((render(FLAT, P["weather"](falls=falls, density=d))[0] > MID + 0.05).mean()) for d in (0, 30, 100)]
    assert covered[0] == 0
    assert 0 < covered[1] < covered[2] < 0.5
    step = P["weather"](falls=falls, density=100.0)
    first = render(FLAT, step)[0]
    for change in ({"wind": -40.0}, {"seed": 2}):
        assert not np.array_equal(first, render(FLAT, step.model_copy(update=change))[0])
    assert first.min() >= np.float32(MID)


def test_rain_is_as_dense_as_its_drops_and_their_rooms_make_it():
    """Area of a drop over that of its room, against the flakes': (0.16 · 10) / (0.6 · 5) against 1."""
    mean = {
        falls: float((render(LARGE, P["weather"](falls=falls, density=50.0, size=20.0, wind=0.0))[0] - MID).mean())
        for falls in ("snow", "rain")
    }
    assert mean["rain"] / mean["snow"] == pytest.approx(1.6 / 3, rel=0.1)


def test_rain_falls_along_the_wind():
    """The steepest changes of a streak lie across it: the structure tensor's main direction is square to the fall."""
    for wind in (0.0, 35.0):
        rain = render(LARGE, P["weather"](falls="rain", density=100.0, wind=wind, size=40.0))[0]
        down, across = np.gradient(rain)
        angle = 0.5 * np.degrees(np.arctan2(2 * (down * across).mean(), (across**2 - down**2).mean()))
        assert angle == pytest.approx(-wind, abs=4)  # falling to the right, a streak leans so


def test_drops_have_the_same_shape_whatever_the_wind():
    found = []
    for wind in (0.0, 55.0):
        step = P["weather"](falls="rain", density=15.0, depth=0.0, wind=wind, size=25.0)
        labels = skimage.measure.label(render(LARGE, step)[0] > MID + 0.1)
        drops = [drop for drop in skimage.measure.regionprops(labels) if drop.area > 30]
        found.append(np.median([(drop.axis_major_length, drop.axis_minor_length) for drop in drops], axis=0))
    assert found[0] == pytest.approx(found[1], rel=0.2)
    assert found[0][0] > 5 * found[0][1]


def test_nearer_flakes_are_larger():
    far, near = (render(LARGE, P["weather"](depth=d, size=8.0, density=60.0))[0] for d in (0.0, 100.0))
    sizes = []
    for picture in (far, near):
        labels, count = scipy.ndimage.label(picture > MID + 0.1)
        sizes.append(float(np.max(scipy.ndimage.sum(labels > 0, labels, range(1, count + 1)))))
    assert sizes[1] > 2 * sizes[0]
    labels = skimage.measure.label(render(LARGE, P["weather"](depth=0.0, size=20.0, density=10.0))[0] > MID + 0.1)
    flakes = [flake for flake in skimage.measure.regionprops(labels) if flake.area > 30]
    assert np.median([flake.axis_major_length / flake.axis_minor_length for flake in flakes]) < 1.2  # and round


# Texture


@pytest.mark.parametrize("name", BUNDLED)
def test_every_bundled_surface_repeats_without_a_seam_and_stands_out_alike(name):
    tile = bundled(name)
    for a, b, inner in (
        (tile[:, -1], tile[:, 0], np.abs(np.diff(tile, axis=1)).mean()),
        (tile[-1], tile[0], np.abs(np.diff(tile, axis=0)).mean()),
    ):
        assert np.abs(a - b).mean() < 2 * inner + 0.01
    out = render(LARGE, P["texture"](surface=name, blend="normal", strength=100.0, size=640.0))[0]
    assert out.mean() == pytest.approx(0.5, abs=0.02)
    assert out.std() == pytest.approx(0.12, abs=0.03)


def test_a_texture_repeats_at_its_size_turns_and_keeps_the_tones():
    step = P["texture"](surface="plaster", blend="normal", strength=100.0, size=pixels(200))
    out = render(FLAT, step)[0]
    assert np.abs(out[:, :380] - out[:, 200:580]).max() < 2e-3  # the next repeat is the same
    assert np.abs(out[:200] - out[200:]).max() < 2e-3
    turned = render(FLAT, step.model_copy(update={"angle": 90.0}))[0]
    assert not np.allclose(out, turned, atol=0.05)
    laid = render(FLAT, P["texture"](surface="linen"))[0]
    assert laid.mean() == pytest.approx(MID, abs=0.01)
    assert 0.001 < laid.std() < 0.06


def test_a_picture_of_ones_own_repeats_and_one_that_is_missing_does_nothing(tmp_path):
    checks = np.zeros((20, 20), np.uint8)
    checks[:10, :10] = checks[10:, 10:] = 255
    Image.fromarray(checks).save(tmp_path / "checks.png")
    Image.fromarray(np.full((400, 600), 128, np.uint8)).save(tmp_path / "flat.png")
    library = Pictures(tmp_path / "flat.png")
    step = P["texture"](surface="own", picture="checks.png", size=pixels(20), blend="normal", strength=100.0)
    script = Script((step,))
    out = Renderer(FLAT, script, library=library).region(Rect(0, 0, 600, 400))[0]
    assert np.abs(out[:, :560] - out[:, 20:580]).max() < 1e-3
    assert out.std() > 0.1
    # Turned by nothing and a pixel to a pixel, every pixel is that of the picture: its middle on the print's.
    wanted = np.roll(np.tile(checks, (20, 30)), (10 * 20 % 20, 300 % 20), axis=(0, 1))
    assert np.array_equal(out > out.mean(), wanted > 0)
    # Enlarged to a tile of 30 pixels it is what OpenCV's bilinear enlarging of the repeated picture makes of it.
    larger = Script((step.model_copy(update={"size": pixels(30)}),))
    out = Renderer(FLAT, larger, library=library).region(Rect(0, 0, 600, 400))[0]
    tiled = np.tile(checks.astype(np.float32) / 255, (15, 21))
    enlarged = cv2.resize(tiled, (630, 450), interpolation=cv2.INTER_LINEAR)
    x, y = (300 - 10 * 30) % 30 + 30, (200 - 6 * 30) % 30  # a tile's corner lies on the print's middle
    wanted = np.roll(enlarged, (y, x), axis=(0, 1))[30:370, 60:540]
    spread = (out.max() - out.min()) * (wanted - 0.5) + 0.5
    assert np.abs(out[30:370, 60:540] - spread).max() < 0.02
    library.check(script)
    lost = Script((step.model_copy(update={"picture": "nothing.png"}),))
    assert np.all(Renderer(FLAT, lost, library=library).region(Rect(0, 0, 600, 400)) == np.float32(MID))
    with pytest.raises(FileError, match=r"nothing\.png"):
        library.check(lost)


# Lettering


def test_words_stand_where_they_are_put_in_their_colour_and_size():
    step = P["lettering"](words="H", font="medium", size=pixels(200), x=50.0, y=50.0, ink="#ffffff")
    out = render(FLAT, step)[0]
    ys, xs = np.nonzero(out > 0.98)
    assert (xs.min() + xs.max()) / 2 == pytest.approx(300, abs=2)
    assert (ys.min() + ys.max()) / 2 == pytest.approx(200, abs=2)
    assert 0.6 * 200 < np.ptp(ys) < 0.8 * 200  # capitals are about seven tenths of the letters' square
    assert out[20, 20] == np.float32(MID)
    half = render(FLAT, step, scale=0.5)[0]
    assert np.abs(half - out.reshape(200, 2, 300, 2).mean(axis=(1, 3))).mean() < 0.01
    turned = render(FLAT, step.model_copy(update={"turn": 90.0, "words": "II"}))[0]
    level = render(FLAT, step.model_copy(update={"words": "II"}))[0]
    ys, xs = np.nonzero(turned > 0.98)
    ly, lx = np.nonzero(level > 0.98)
    assert np.ptp(ys) == pytest.approx(np.ptp(lx), abs=3)
    assert np.ptp(xs) == pytest.approx(np.ptp(ly), abs=3)


def test_letters_shine_around_when_they_glow_and_nothing_written_is_nothing():
    plain, glowing = (
        render(FLAT, P["lettering"](words="II", size=pixels(120), y=50.0, glow=g, ink="#ffffff"))[0]
        for g in (0.0, 80.0)
    )
    around = (plain == np.float32(MID)) & (glowing > MID + 0.02)
    assert around.sum() > 300
    assert np.all(glowing >= plain - 1e-6)
    assert np.array_equal(render(FLAT, P["lettering"](words="", ink="#ffffff", glow=50.0))[0], render(FLAT)[0])
    coloured = render(FLAT, P["lettering"](words="II", y=50.0, size=pixels(120), ink="#25bf21"))
    assert coloured[:, 200, :].max(axis=1)[1] == pytest.approx(0xBF / 255, abs=2e-3)


@pytest.mark.parametrize("font", ["serif", "italic", "sans", "medium"])
def test_every_font_is_there_and_differs(font):
    others = [name for name in ("serif", "italic", "sans", "medium") if name != font]
    mine = render(FLAT, P["lettering"](font=font, size=pixels(60), y=50.0))
    for name in others:
        assert not np.array_equal(mine, render(FLAT, P["lettering"](font=name, size=pixels(60), y=50.0)))


@pytest.mark.parametrize("reach", [20.0, 70.0, 140.0])
def test_a_wide_glow_is_a_gaussian_and_takes_no_longer_than_a_narrow_one(reach):
    """On a coarser picture from 48 pixels on; small letters that shine far once took a minute."""
    mask = np.zeros((1300, 1400), np.float32)
    mask[630:670, 650:750] = 1
    wanted = scipy.ndimage.gaussian_filter(mask.astype(np.float64), reach, mode="constant")
    assert np.abs(shining(mask, reach) - wanted).max() < 0.004 * wanted.max()


@pytest.mark.parametrize("shape", [1.5, 2 / 3, 4 / 3, 1.0, 3.0, 1 / 3])
def test_the_oval_of_a_vignette_stands_as_its_print_does(shape):
    """As far beyond the middles of the sides as on a print of 3 to 2; corners are alike, sides are lighter."""
    step = P["vignette"]().suited(shape)
    long = max(step.width, step.height) / 1000
    short = min(step.width, step.height) / 1000 * max(shape, 1 / shape)
    assert (step.width > step.height) == (shape > 1) or shape == 1
    assert 1.19 < long < 1.28
    assert 1.27 < short < 1.36
    width, height = (300, round(300 / shape)) if shape >= 1 else (round(300 * shape), 300)
    source = ArraySource(np.full((height, width, 3), 180, np.uint8))
    print_ = Renderer(source, Script((step,))).region(Rect(0, 0, width, height))[1]
    corners = [print_[y, x] for y in (0, -1) for x in (0, -1)]
    assert np.ptp(corners) < 0.01
    sides = [print_[height // 2, 0], print_[height // 2, -1], print_[0, width // 2], print_[-1, width // 2]]
    assert min(sides) > max(corners) + 0.02
    assert P["vignette"]().suited(1.5) == P["vignette"]()  # what it is declared for
    assert P["lettering"]().suited(1.5) == P["lettering"]()
    inner = P["plate"](run=(P["vignette"](),)).suited(shape)
    assert inner.run[0] == step


@pytest.mark.parametrize(("width", "height"), [(200, 300), (240, 240), (300, 200), (390, 130)])
def test_lettering_has_room_on_a_print_of_any_shape(width, height):
    """Two thirds of its width, or of what is as wide as 3 to 2; an upright one would cut the words off else."""
    step = P["lettering"](words="Marrow Quay", size=120.0, y=50.0, ink="#ffffff").suited(width / height)
    source = ArraySource(np.zeros((height, width), np.uint8))
    out = Renderer(source, Script((step,))).region(Rect(0, 0, width, height))[0]
    columns, rows = np.flatnonzero(out.max(0) > 0.3), np.flatnonzero(out.max(1) > 0.3)
    assert columns[0] > 0
    assert columns[-1] < width - 1
    assert rows[0] > 0
    assert rows[-1] < height - 1
    share = (columns[-1] - columns[0]) / min(width, 1.5 * height)
    assert share == pytest.approx(0.65, abs=0.05)
