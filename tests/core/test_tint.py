"""Hand-tint: against true colours of photographs that packages ship, and what dabs must and must not do.

The photographs lie in scikit-image and scikit-learn; they are read from there. Limits are those that were found by
measuring, with a margin: docs/decisions/0012-hand-tint.md. Longer than most: one thing is checked from many sides.
"""

from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage
import sklearn.datasets
from skimage.color import deltaE_ciede2000, rgb2lab

from kyanoscript import demo
from kyanoscript.core import colour
from kyanoscript.core.frame import Frame
from kyanoscript.core.geometry import framing
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, dumps, loads
from kyanoscript.core.site import Place
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.tint import clean, field, offers, reading, reference, spline, stay, waiting
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.tints import TINTS

P = load_all()
_SKIMAGE, _SKLEARN = (Path(m.__file__).parent for m in (skimage, sklearn.datasets))
PHOTOS = [
    *(_SKIMAGE / "data" / name for name in ("astronaut.png", "chelsea.png", "coffee.png", "rocket.jpg")),
    *(_SKLEARN / "images" / name for name in ("china.jpg", "flower.jpg")),
]
each_photo = pytest.mark.parametrize("path", PHOTOS, ids=lambda p: p.stem)


def true(path):
    """A photograph at a quarter megapixel, encoded ``(h, w, 3)``."""
    pixels = cv2.imread(str(path))[..., ::-1]
    scale = min(1.0, (250_000 / (pixels.shape[0] * pixels.shape[1])) ** 0.5)
    return cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float64) / 255


def score(made, photo):
    """PSNR in dB and mean CIEDE2000."""
    error = np.mean((made - photo) ** 2)
    return 10 * np.log10(1 / error), deltaE_ciede2000(rgb2lab(made), rgb2lab(photo)).mean()


def gray_source(lightness):
    """A gray picture of an Oklab lightness 0…1."""
    nothing = np.zeros_like(lightness)
    gray = np.clip(colour.from_oklab(np.stack([lightness, nothing, nothing]), colour.SRGB)[0], 0, 1)
    return ArraySource(np.rint(gray * 65535).astype(np.uint16))


def tinted(source, **values):
    out = Renderer(source, Script((P["hand-tint"](**values),)), TileCache()).region(
        Rect(0, 0, source.width, source.height)
    )
    return out.astype(np.float64)


def true_dabs(oklab, count, seed):
    """Dabs of 7 pixels with the colours that are there, at random places."""
    height, width = oklab.shape[1:]
    rng = np.random.default_rng(seed)
    disc = cv2.circle(np.zeros((7, 7), np.uint8), (3, 3), 3, 1, -1).astype(bool)
    dabs = []
    for y, x in zip(rng.integers(3, height - 3, count), rng.integers(3, width - 3, count), strict=True):
        mean = [oklab[c][y - 3 : y + 4, x - 3 : x + 4][disc].mean() for c in range(3)]
        ink = colour.hex_of(np.clip(colour.from_oklab(np.array(mean).reshape(3, 1), colour.SRGB), 0, 1)[:, 0])
        place = (100 * (x + 0.5) / width, 100 * (y + 0.5) / height)
        dabs.append(Dab(points=(place,), colour=ink, size=7000 / max(height, width)))
    return tuple(dabs)


@pytest.mark.parametrize(
    ("count", "decibels", "difference", "worst"), [(10, 23.5, 7.9, 0), (30, 26.3, 5.4, 20.5), (100, 28.2, 4.3, 20.5)]
)
def test_true_dabs_bring_the_colours_back(count, decibels, difference, worst):
    found = []
    for path in PHOTOS:
        photo = true(path)
        oklab = colour.to_oklab(np.moveaxis(photo, -1, 0), colour.SRGB)
        made = tinted(gray_source(oklab[0]), dabs=true_dabs(oklab, count, 0))
        found.append(score(np.moveaxis(made, 0, -1), photo))
    mean = np.mean(found, axis=0)
    assert mean[0] >= decibels
    assert mean[1] <= difference
    assert min(f[0] for f in found) >= worst


def welsh(lightness, model_lightness, model_chroma, rng):
    """Welsh, Ashikhmin and Mueller, "Transferring color to greyscale images" (SIGGRAPH 2002), as the paper has it."""
    matched = (model_lightness - model_lightness.mean()) * lightness.std() / model_lightness.std() + lightness.mean()

    def told(plane):
        mean = cv2.blur(plane, (5, 5))
        return np.stack([plane, np.sqrt(np.maximum(cv2.blur(plane * plane, (5, 5)) - mean * mean, 0))], -1) / 2

    height, width = matched.shape
    rows, columns = (np.linspace(0, n - 1, 15).astype(int) for n in (height, width))
    ys = np.clip(rows[:, None] + rng.integers(-8, 9, (15, 15)), 0, height - 1).ravel()
    xs = np.clip(columns[None] + rng.integers(-8, 9, (15, 15)), 0, width - 1).ravel()
    samples, chroma = told(matched)[ys, xs], model_chroma[:, ys, xs]
    places = told(lightness).reshape(-1, 2)
    nearest = np.abs(places[:, None] - samples[None]).sum(-1).argmin(axis=1)
    return chroma[:, nearest].reshape(2, *lightness.shape)


def test_a_half_colours_the_other_half_better_than_welsh():
    ours, theirs = [], []
    for path in PHOTOS:
        whole = true(path)
        middle = whole.shape[1] // 2
        for photo, model in ((whole[:, :middle], whole[:, middle:]), (whole[:, middle:], whole[:, :middle])):
            target, other = (colour.to_oklab(np.moveaxis(p, -1, 0), colour.SRGB) for p in (photo, model))
            small = [
                cv2.resize(p.astype(np.float32), None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
                for p in (target[0] * 100, other[0] * 100, other[1], other[2])
            ]
            for found, chroma in (
                (ours, reference.lent(small[0], small[1], np.stack(small[2:]))),
                (theirs, welsh(small[0], small[1], np.stack(small[2:]), np.random.default_rng(0))),
            ):
                size = (photo.shape[1], photo.shape[0])
                large = [cv2.resize(p.astype(np.float32), size) for p in chroma]
                made = np.clip(colour.from_oklab(np.stack([target[0], *large]), colour.SRGB), 0, 1)
                found.append(score(np.moveaxis(made, 0, -1), photo))
    (mine, difference), (others, _) = np.mean(ours, axis=0), np.mean(theirs, axis=0)
    assert mine >= 25.3
    assert difference <= 7.0
    assert mine >= others + 2


def test_where_the_model_is_of_one_mind_counts_for_more():
    """A dark tone that has every colour in the model, and a light one that is always of one: at the border it wins."""
    rng = np.random.default_rng(3)
    halves = np.where(np.arange(200) < 100, 30.0, 70.0).astype(np.float32)[None].repeat(120, axis=0)
    chroma = np.zeros((2, 120, 200), np.float32)
    chroma[:, :, :100] = rng.choice([-0.1, 0.1], (2, 120, 100))
    chroma[0, :, 100:] = 0.1
    found = reference.lent(halves, halves, chroma)[0]
    assert found[:, 190].mean() == pytest.approx(0.1, abs=0.01)
    assert found[:, 96:104].mean() > 0.07


# What dabs must do


def wedge(width=300, height=200):
    """Four flat fields of gray, encoded 0…1."""
    gray = np.full((height, width), 0.35)
    gray[: height // 2, width // 2 :] = 0.55
    gray[height // 2 :, : width // 2] = 0.75
    gray[height // 2 :, width // 2 :] = 0.2
    return gray


def source(gray):
    return ArraySource(np.rint(gray * 65535).astype(np.uint16))


def oklch(planes):
    return colour.to_oklch(planes, colour.SRGB)


@pytest.mark.parametrize("ink", ["#a84a43", "#6f93bf", "#5f7c45"])
def test_the_lightness_stays_as_it_is(ink):
    gray = np.linspace(0, 1, 300 * 200).reshape(200, 300)
    dabs = (Dab(points=((20.0, 30.0),), colour=ink), Dab(points=((70.0, 60.0),), colour="#40ff10", acts="stays"))
    out = tinted(source(gray), dabs=dabs, amount=200.0)
    before, after = colour.to_oklab(np.stack([gray] * 3), colour.SRGB)[0], colour.to_oklab(out, colour.SRGB)[0]
    assert np.abs(before - after).max() < 4e-3  # a level of 255 near black is 0.011


def test_one_dab_colours_all_that_is_there_in_its_hue():
    out = oklch(tinted(source(wedge()), dabs=(Dab(points=((25.0, 25.0),), colour="#b06c4d"),)))
    wanted = oklch(np.array(colour.parse_hex("#b06c4d")).reshape(3, 1))
    assert np.allclose(out[2][out[1] > 0.01], wanted[2], atol=1.5)
    assert (out[1] > 0.02).all()


def test_two_dabs_on_one_spot_do_not_break_anything():
    same = Dab(points=((25.0, 25.0),), colour="#b06c4d")
    out = tinted(source(wedge()), dabs=(same, same, same.model_copy(update={"colour": "#6f93bf"})))
    assert np.isfinite(out).all()
    assert oklch(out)[1].max() < 0.2


def test_each_dab_has_its_own_colour_where_it_lies():
    inks = {(25.0, 25.0): "#b06c4d", (75.0, 25.0): "#5f7c45", (25.0, 75.0): "#6f93bf", (75.0, 75.0): "#7c628c"}
    dabs = tuple(Dab(points=(at,), colour=ink) for at, ink in inks.items())
    out = tinted(source(wedge()), dabs=dabs)
    for (x, y), ink in inks.items():
        here = oklch(out[:, int(y * 2) - 1 : int(y * 2) + 1, int(x * 3) - 1 : int(x * 3) + 1].reshape(3, -1))
        wanted = oklch(np.array(colour.parse_hex(ink)).reshape(3, 1))
        assert np.allclose(here[2], wanted[2], atol=9), ink


def test_a_dab_that_stays_keeps_to_its_field_and_lets_the_rest_be():
    plain = (Dab(points=((25.0, 25.0),), colour="#b06c4d"),)
    stays = Dab(points=((70.0, 40.0),), colour="#4060c0", acts="stays", size=80)
    without, with_it = tinted(source(wedge()), dabs=plain), tinted(source(wedge()), dabs=(*plain, stays))
    changed = np.abs(with_it - without).max(axis=0)
    assert changed[80, 210] > 0.1  # where it lies
    assert changed[70:90, 170:200].min() > 0.02  # in the same field
    assert changed[104:, :].max() < 0.03  # beyond the edge below
    assert changed[:, :100].max() == 0  # far away nothing at all


def test_a_long_stroke_that_stays_has_a_picture_of_bounded_size():
    asked = []

    def inputs(of, rect, at):
        asked.append((rect.width, rect.height))
        return np.full((1, rect.height, rect.width), 0.5, np.float32)

    ground = Ground(framing(Frame(), 6000, 4000), 1.0, inputs, lambda key, make: make())
    for ends in (((2.0, 50.0), (98.0, 52.0)), ((50.0, 2.0), (51.0, 98.0)), ((5.0, 5.0), (95.0, 95.0))):
        dab = Dab(points=ends, colour="#4060c0", acts="stays", size=6.0)
        (patch,) = stay.patches([dab], Place(Rect(0, 0, 6000, 4000), 1.0, 6000.0), ground)
        assert 100 < max(patch.weight.shape) < 400
        assert patch.weight.max() > 0.9
        rim = np.concatenate([patch.weight[[0, -1]].ravel(), patch.weight[:, [0, -1]].ravel()])
        assert rim.max() < 0.05  # it ends within
    assert max(max(size) for size in asked) < 400


def test_grain_is_no_outline_to_a_dab_that_stays():
    def weight(noise):
        def inputs(of, rect, at):
            shape = (1, rect.height, rect.width)
            return (0.5 + noise * np.random.default_rng(1).standard_normal(shape)).astype(np.float32)

        ground = Ground(framing(Frame(), 300, 200), 1.0, inputs, lambda key, make: make())
        dab = Dab(points=((50.0, 50.0),), colour="#4060c0", acts="stays", size=80.0)
        return stay.patches([dab], Place(Rect(0, 0, 300, 200), 1.0, 300.0), ground)[0].weight.sum()

    assert weight(0.03) > 0.75 * weight(0.0)


def test_a_stroke_is_as_good_as_the_dabs_along_it():
    way = tuple((20.0 + k, 25.0) for k in range(12))
    stroke = tinted(source(wedge()), dabs=(Dab(points=way, colour="#5f7c45"),))
    single = tinted(source(wedge()), dabs=tuple(Dab(points=(p,), colour="#5f7c45") for p in way))
    assert np.abs(stroke - single).max() < 1e-3


def test_amount_and_axes():
    dabs = (Dab(points=((25.0, 25.0),), colour="#9a8066"),)
    chroma = [oklch(tinted(source(wedge()), dabs=dabs, amount=a))[1].mean() for a in (0.0, 50.0, 100.0, 150.0)]
    assert chroma[0] < 1e-4
    assert np.allclose(np.diff(chroma), chroma[1], rtol=0.05)
    base = colour.to_oklab(tinted(source(wedge()), dabs=dabs), colour.SRGB)
    for name, sign in (("red", 1), ("green", -1)):
        moved = colour.to_oklab(tinted(source(wedge()), dabs=dabs, **{name: 60.0}), colour.SRGB)
        assert sign * (moved[1] - base[1]).mean() > 0.01, name
    moved = colour.to_oklab(tinted(source(wedge()), dabs=dabs, yellow=-60.0), colour.SRGB)
    assert (moved[2] - base[2]).mean() < -0.01
    nothing = tinted(source(wedge()), dabs=(Dab(points=((25.0, 25.0),), colour="#909090"),), red=100.0)
    assert np.ptp(nothing, axis=0).max() < 0.02  # where there is no colour, none comes


def test_a_script_with_dabs_survives_a_file():
    step = Script((P["hand-tint"](dabs=(Dab(points=((1.0, 2.0), (3.0, 4.0)), colour="#123456", acts="stays"),)),))
    assert loads(dumps(step)) == step


def test_the_same_at_another_resolution():
    gray = wedge(900, 600)
    dabs = (Dab(points=((25.0, 25.0),), colour="#b06c4d"), Dab(points=((75.0, 30.0),), colour="#5f7c45"))
    large = source(cv2.GaussianBlur(gray, (0, 0), 3))
    out = tinted(large, dabs=dabs)
    small = Renderer(large, Script((P["hand-tint"](dabs=dabs),))).region(Rect(0, 0, 300, 200), 1 / 3)
    shrunk = np.stack([cv2.resize(p, (300, 200), interpolation=cv2.INTER_AREA) for p in out])
    assert np.abs(shrunk - small).mean() < 0.004


# Clean-up


def test_chroma_noise_is_calmed_along_edges():
    found = []
    rng = np.random.default_rng(0)
    for path in PHOTOS:
        photo = true(path)
        oklab = colour.to_oklab(np.moveaxis(photo, -1, 0), colour.SRGB)
        noisy = (oklab[1:] + rng.normal(0, 0.08 / 3.2, oklab[1:].shape)).astype(np.float32)  # 8 of Lab's a and b
        lightness = (oklab[0] * 100).astype(np.float32)
        calmed = clean.calm_chroma(lightness, noisy)
        scores = [
            score(np.moveaxis(np.clip(colour.from_oklab(np.stack([oklab[0], *c]), colour.SRGB), 0, 1), 0, -1), photo)[1]
            for c in (noisy, calmed)
        ]
        found.append(scores)
    before, after = np.mean(found, axis=0)
    assert before > 5
    assert after <= 2.0


def test_gray_noise_of_twelve_levels_is_calmed_by_six_and_a_half_decibels():
    rng, gains = np.random.default_rng(0), []
    for path in PHOTOS:
        gray = (true(path) @ [0.299, 0.587, 0.114]).astype(np.float32)
        noisy = (gray + rng.normal(0, 12 / 255, gray.shape)).astype(np.float32)
        calmed = clean.calm_gray(noisy[None], 12)[0]
        gains.append(10 * np.log10(np.mean((noisy - gray) ** 2) / np.mean((calmed - gray) ** 2)))
    assert np.mean(gains) >= 6.5


def test_calming_takes_no_steps_into_a_fine_gradient():
    ramp = np.tile(np.linspace(0.3, 0.35, 400, dtype=np.float32), (60, 1))[None]
    out = clean.calm_gray(ramp, 4)[0]
    assert np.unique(np.round(out[30], 6)).size > 200


# The spline itself


def test_the_spline_goes_through_its_dabs():
    rng = np.random.default_rng(0)
    anchors, values = rng.uniform(0, 3, (40, 5)), rng.normal(0, 0.05, (40, 2))
    space = np.ascontiguousarray(anchors.T.reshape(5, 5, 8), np.float32)
    out = spline.spread(space, anchors, values).reshape(2, -1).T
    assert np.abs(out - values).max() < 0.01  # smoothed a little


def test_the_kernel_is_the_formula():
    rng = np.random.default_rng(1)
    space = rng.uniform(0, 3, (5, 30, 40)).astype(np.float32)
    anchors, values = rng.uniform(0, 3, (17, 5)), rng.normal(0, 0.05, (17, 2))
    weights = spline.solved(anchors, values)
    apart = np.linalg.norm(space.reshape(5, -1).T[:, None] - anchors[None], axis=2)
    wanted = (weights[-1] - apart @ weights[:-1]).T.reshape(2, 30, 40)
    assert np.abs(spline.spread(space, anchors, values) - wanted).max() < 1e-5


def test_lightness_is_oklabs():
    gray = np.linspace(0, 1, 1001).astype(np.float32).reshape(1, -1)
    wanted = colour.to_oklab(np.stack([gray] * 3), colour.SRGB)[0] * 100
    assert np.abs(field.lightness_of(gray) - wanted).max() < 2e-3


def test_every_tint_is_a_colour_that_can_be_seen_on_a_middle_tone():
    for group in TINTS.values():
        assert len({name for name, _ in group}) == len(group)
        for name, ink in group:
            lightness, chroma, _ = oklch(np.array(colour.parse_hex(ink)).reshape(3, 1))[:, 0]
            assert 0.3 < lightness < 0.85, name
            assert chroma < 0.16, name


# The first colouring


def scene():
    """A smooth bright sky over dark rough leaves over even ground: Oklab lightness 0…1."""
    rng = np.random.default_rng(0)
    light = np.full((220, 320), 0.8)
    leaves = 0.35 + 0.12 * cv2.GaussianBlur(rng.standard_normal((70, 320)), (0, 0), 1.2) / 0.25
    light[90:160] = leaves
    light[160:] = 0.55 + 0.01 * rng.standard_normal((60, 320))
    return np.clip(cv2.GaussianBlur(light, (0, 0), 0.7), 0.02, 0.98)


def test_a_dab_of_the_hand_outweighs_the_guesses_around_it():
    light = np.linspace(0.35, 0.65, 200, dtype=np.float32)[None].repeat(150, axis=0)
    guesses = tuple(
        Dab(points=((x, y),), colour="#a08a60", guess=True, sure=80.0) for x in (10, 35, 65, 90) for y in (20, 50, 80)
    )
    hand = Dab(points=((50.0, 50.0),), colour="#6a8ac0")
    beside = hand.model_copy(update={"guess": True, "sure": 80.0})

    def blue(dabs):
        out = Renderer(ArraySource(light), Script((P["hand-tint"](dabs=dabs),))).region(Rect(0, 0, 200, 150))
        return (out[2] - out[0])[60:90, 85:115].mean(), (out[2] - out[0])[60:90, 60:80].mean()

    alone, (there, near), (guessed, _) = blue(guesses), blue((*guesses, hand)), blue((*guesses, beside))
    assert there > alone[0] + 0.15  # it has turned blue where it was laid
    assert there > guessed + 0.05  # which one more guess would hardly have done
    assert near > alone[1] + 0.05  # and what lies beside it has followed


def test_one_dab_over_a_base_changes_what_looks_like_its_place_and_leaves_the_rest():
    light = np.full((120, 200), 75, np.float32)
    light[60:] = 35
    small = field.small_picture(light)
    base = np.stack([np.full(light.shape, 0.0, np.float32), np.where(light > 50, -0.06, 0.04).astype(np.float32)])
    made = field.spread(small, [field.Mark(((100.0, 90.0),), 3.0, (0.08, 0.05))], base)
    moved = np.hypot(*(made - base))
    assert moved[90, 100] > 0.06  # of 0.081: it has come where it was laid
    assert moved[80:110, 60:140].mean() > 0.03  # and around it
    assert moved[:40].mean() < 0.2 * moved[90, 100]  # the other half stays nearly as it was lent


def test_what_is_told_of_a_place_knows_which_way_its_lines_run():
    """Orientation of the structure tensor, as its doubled angle: upright lines 1, level ones −1, aslant 0 and 1."""
    down, across = np.mgrid[:120, :160].astype(np.float32)
    found = [
        reading.told(50 + 40 * np.sin(along / 6))[30:90, 40:120, 15:17].mean(axis=(0, 1))
        for along in (across, down, across + down, across - down)
    ]
    assert np.abs(found - np.array([[1, 0], [-1, 0], [0, 1], [0, -1]])).max() < 0.02


def test_the_reading_sees_the_sky_over_the_ferry_landing():
    photo = true(demo.photo("ferry-landing"))
    lightness = colour.to_oklab(np.moveaxis(photo, -1, 0), colour.SRGB)[0]
    small = cv2.resize(lightness, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    chroma, sure = reading.read((small * 100).astype(np.float32))
    hue = np.degrees(np.arctan2(chroma[1], chroma[0])) % 360
    assert 200 < np.median(hue[: len(hue) // 4]) < 290
    assert ((sure >= 0) & (sure <= 1)).all()


def test_one_press_lays_dabs_that_can_be_seen_changed_and_counted():
    source_ = gray_source(scene())
    step = P["hand-tint"](auto=True)
    renderer = Renderer(source_, Script((step,)), TileCache())
    laid = renderer.settled(0)
    assert not laid.auto
    assert 5 <= len({dab.name for dab in laid.dabs}) <= 12
    assert all(dab.guess and 0 <= dab.sure <= 100 for dab in laid.dabs)
    assert all(len(set(dab.tints.split())) == 6 for dab in laid.dabs)
    auto = renderer.region(Rect(0, 0, 320, 220))
    own = Renderer(source_, Script((laid,)), TileCache()).region(Rect(0, 0, 320, 220))
    assert np.abs(auto - own).max() < 1e-5  # made one's own, nothing changes
    surest = max(dab.sure for dab in laid.dabs)
    assert surest > 45  # something is read surely in a scene with a sky
    strict = laid.model_copy(update={"least": surest})
    counts = [sum(p.counts(d) for d in p.dabs) for p in (laid, strict)]
    assert 1 <= counts[1] < counts[0]


def test_little_is_held_of_a_scene_that_is_read_as_of_one_hue():
    """Of two hues 0.9 of the chroma; of one all over a fifth of that; in between the less the more alike they are."""

    def read_as(share):  # so much of the picture warm, the rest blue
        chroma = np.zeros((2, 50, 100), np.float32)
        chroma[1, :, : round(100 * share)] = 0.04
        chroma[1, :, round(100 * share) :] = -0.04
        return reading.held(chroma)

    assert read_as(0.5) == read_as(0.9) == pytest.approx(0.9)
    assert read_as(1.0) == pytest.approx(0.18)
    assert 0.18 < read_as(0.99) < read_as(0.97) < 0.9
    assert reading.held(np.zeros((2, 10, 10), np.float32)) == pytest.approx(0.9)


def test_a_part_is_as_sure_as_the_reading_there_and_what_is_not_sure_waits():
    lightness = (100 * scene()).astype(np.float32)
    found = offers.looked_over(lightness)
    for region in offers.regions(found):
        mask = np.zeros(lightness.shape, np.uint8)
        for line in region.outlines:
            corners = np.array(line.corners) * lightness.shape[::-1]
            cv2.fillPoly(mask, [np.rint(corners - 0.5).astype(np.int32)], 1)
        assert region.sure == pytest.approx(100 * float(found.sure[mask > 0].mean()), abs=6)  # holes are filled here
        (dab, *_) = waiting.laid([region], lambda x, y: (100 * x, 100 * y))
        assert dab.offered == (region.sure < offers.SURE)
        assert dab.colour == region.tints[0]


def test_guesses_lie_on_the_photograph_whatever_the_frame():
    source_ = gray_source(scene())
    framed = Script((P["hand-tint"](auto=True),), Frame(x=50.0, y=30.0, width=60.0, height=50.0))
    for dab in Renderer(source_, framed, TileCache()).settled(0).dabs:
        (x, y) = dab.points[0]
        assert 20 <= x <= 80
        assert 5 <= y <= 55
