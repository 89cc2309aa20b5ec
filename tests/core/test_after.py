"""After a print: what is found of one, against what it was made with."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter
from skimage import color, data

from kyanoscript.core.after import surface
from kyanoscript.core.after.flat import two_tones
from kyanoscript.core.after.following import Known, follow
from kyanoscript.core.after.picture import Ladder, colours_along, gray_of_light, inside, ladder, light_of_gray
from kyanoscript.core.after.scene import curve_of, fitted, left, same_scene
from kyanoscript.core.after.tint import ladders_apart, rgb_of_lab, toned
from kyanoscript.core.colour import SRGB, in_colour, to_lab
from kyanoscript.core.colour.difference import ciede2000
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.tones import curve_at
from tests.test_docs import ROOT, load

PASSES = load_all()
SEPIA = ((0.0, "#140c07"), (38.0, "#5e4128"), (72.0, "#b89466"), (100.0, "#f6ead2"))


def photograph(name="coffee"):
    pixels = getattr(data, name)()
    return np.ascontiguousarray(np.moveaxis(pixels, -1, 0), np.float32) / 255


def laid(planes, *steps):
    renderer = Renderer(ArraySource(np.ascontiguousarray(np.moveaxis(planes, 0, -1))), Script(steps))
    return np.clip(in_colour(renderer.region(Rect(0, 0, *renderer.size(1.0)))), 0, 1)


def off(one, other):
    return float(ciede2000(*(to_lab(planes, SRGB).reshape(3, -1).T for planes in (one, other))).mean())


@pytest.fixture(scope="module")
def coffee():
    return photograph()


@pytest.fixture(scope="module")
def sepia(coffee):
    return laid(coffee, PASSES["gray-weights"](), PASSES["gradient-map"](stops=SEPIA))


# The print itself


def test_lightness_and_gray_are_each_other_s_way_back():
    """Against scikit-image's rgb2lab."""
    gray = np.linspace(0, 1, 50)
    assert gray_of_light(light_of_gray(gray)) == pytest.approx(gray, abs=2e-4)
    assert light_of_gray(gray) == pytest.approx(color.rgb2lab(np.repeat(gray[:, None], 3, 1))[:, 0], abs=0.02)


def test_colours_of_lab_are_those_of_scikit_image():
    lab = np.array([[20.0, 50, 80], [5.0, 10, 3], [8.0, 20, 12]])
    assert pytest.approx(color.lab2rgb(lab.T), abs=0.003) == rgb_of_lab(lab).T


def test_a_ladder_has_the_tint_of_each_tone_whatever_dust_lies_on_it(sepia):
    clean = ladder(to_lab(sepia, SRGB).reshape(3, -1))
    dusty = sepia.copy()
    places = np.random.default_rng(1).integers(0, dusty[0].size, dusty[0].size // 12)
    dusty.reshape(3, -1)[:, places[::2]] = 0.97
    dusty.reshape(3, -1)[:, places[1::2]] = np.array([[0.75], [0.1], [0.1]])  # a red pen's marks
    found = ladder(to_lab(dusty, SRGB).reshape(3, -1))
    assert clean.tinted
    assert clean.one_tint
    assert found.one_tint
    assert ladders_apart(clean, found) < 0.6
    wanted = to_lab(np.array([[0x5E], [0x41], [0x28]], np.float32) / 255, SRGB)[:, 0]
    assert np.hypot(*(v - w for v, w in zip(clean.at(wanted[0]), wanted[1:], strict=True))) < 1.5


def test_a_colour_photograph_has_no_one_tint_and_a_gray_one_has_none(coffee):
    assert not ladder(to_lab(coffee, SRGB).reshape(3, -1)).one_tint
    assert not ladder(to_lab(laid(coffee, PASSES["gray-weights"]()), SRGB).reshape(3, -1)).tinted


def test_a_mount_is_left_out_and_a_sky_is_not(sepia):
    mounted = np.pad(sepia, ((0, 0), (40, 40), (50, 50)), constant_values=0.96)
    part, bordered = inside(mounted)
    assert bordered
    assert part.x >= 50
    assert part.y >= 40
    assert part.right <= 50 + sepia.shape[2]
    assert part.bottom <= 40 + sepia.shape[1]
    assert part.width * part.height > 0.85 * sepia[0].size
    assert not inside(sepia)[1]
    sky = sepia.copy()
    sky[:, :60] = 0.8
    assert not inside(sky)[1]


# What it becomes


def test_the_tint_becomes_the_fewest_stops_that_give_it_back(sepia, coffee):
    step = toned(ladder(to_lab(sepia, SRGB).reshape(3, -1)))
    assert step.kind == "gradient-map"
    assert 3 <= len(step.stops) <= 6
    gray = laid(coffee, PASSES["gray-weights"]())
    made, wanted = (to_lab(planes, SRGB) for planes in (laid(gray, step), sepia))
    assert ladders_apart(ladder(made.reshape(3, -1)), ladder(wanted.reshape(3, -1))) < 1.2


def test_no_more_stops_than_a_ladder_needs(coffee):
    gray = laid(coffee, PASSES["gray-weights"]())
    for stops in (((0.0, "#101418"), (50.0, "#8a7a64"), (100.0, "#f7efe0")), SEPIA):
        step = toned(ladder(to_lab(laid(gray, PASSES["gradient-map"](stops=stops)), SRGB).reshape(3, -1)))
        assert len(step.stops) <= len(stops) + 2  # and the ends, which the print has no tones for


def test_ladders_are_held_against_each_other_where_both_have_tones():
    lights = np.linspace(0, 100, 21)
    whole = Ladder(lights, np.where(lights < 50, 30.0, 2.0), np.zeros(21), 0.0)
    lighter, darker = (Ladder(lights[part], whole.a[part], whole.b[part], 0.0) for part in (lights > 50, lights < 50))
    assert ladders_apart(whole, lighter) < 0.01
    assert ladders_apart(darker, whole) < 0.01
    assert ladders_apart(lighter, darker) == float("inf")


def test_a_ladder_of_colours_is_not_taken_for_paper_and_tone(coffee):
    blue = laid(coffee, PASSES["gray-weights"](), PASSES["gradient-map"](stops=((0.0, "#000428"), (100.0, "#e8f0ff"))))
    tints = ladder(to_lab(blue, SRGB).reshape(3, -1))
    step = toned(tints)
    made = laid(laid(coffee, PASSES["gray-weights"]()), step)
    assert ladders_apart(ladder(to_lab(made, SRGB).reshape(3, -1)), tints) < 1.5


def test_paper_and_tone_stand_for_a_ladder_that_is_theirs(coffee):
    model = PASSES["paper-tone"]
    print_ = laid(coffee, PASSES["gray-weights"](), model(paper="#fdfcfa", dmax=3.0, tone=60))
    step = toned(ladder(to_lab(print_, SRGB).reshape(3, -1)))
    assert step.kind == "paper-tone"
    assert step.tone == pytest.approx(60, abs=25)
    made = laid(laid(coffee, PASSES["gray-weights"]()), step)
    assert ladders_apart(*(ladder(to_lab(planes, SRGB).reshape(3, -1)) for planes in (made, print_))) < 0.8


def test_a_curve_has_five_points_at_most_and_comes_near():
    gray = np.linspace(0, 1, 4000)
    points = ((0.0, 30.0), (70.0, 60.0), (128.0, 140.0), (200.0, 215.0), (255.0, 240.0))
    wanted = curve_at(points, gray)
    found = curve_of(gray, wanted)
    assert len(found) <= 5
    assert np.abs(curve_at(found, gray) - wanted).mean() < 0.012


def test_tones_of_another_scene_are_gentle():
    gray = np.linspace(0, 1, 2000)
    found = curve_of(gray, (gray > 0.5).astype(float), 0.4, 2.5)
    x, y = (np.array(v) for v in zip(*found, strict=True))
    slopes = np.diff(y) / np.diff(x)
    assert slopes.min() >= 0.39
    assert slopes.max() <= 2.52


@pytest.mark.parametrize("shares", [(70.0, 25.0, 5.0), (10.0, 40.0, 50.0)])
def test_weights_are_found_where_both_show_the_same(coffee, shares):
    red, green, blue = shares
    print_ = laid(coffee, PASSES["gray-weights"](red=red, green=green, blue=blue), PASSES["levels"](gamma=1.3))
    rgb, wanted = coffee.reshape(3, -1)[:, ::37].astype(float), print_[0].ravel()[::37].astype(float)
    fit = fitted(rgb, wanted)
    assert fit.off < 0.01
    assert [100 * share for share in fit.shares] == pytest.approx(shares, abs=8)


def test_weights_stay_such_as_can_be_set_whatever_the_print_is(coffee):
    """Of noise, of one tone, of two."""
    rgb = coffee.reshape(3, -1)[:, ::97].astype(float)
    dice = np.random.default_rng(5)
    rgb = 0.4 + 0.2 * rgb  # nothing is cut off
    steep = 3.5 * rgb[2] - 2.5 * rgb[1]  # −250 % of green and 350 % of blue
    for wanted in (dice.random(rgb.shape[1]), np.full(rgb.shape[1], 0.4), steep):
        fit = fitted(rgb, wanted)
        PASSES["gray-weights"](**dict(zip(("red", "green", "blue"), (100 * v for v in fit.shares), strict=True)))
        assert max(map(abs, fit.shares)) < 1.9
        assert fit.shares[0] + fit.shares[1] + fit.shares[2] == pytest.approx(1)


def test_the_same_scene_is_found_turned_and_smaller_and_another_is_not(coffee, sepia):
    load_ = load(ROOT / "bench/after.py")
    tilted = load_.tilted(sepia)[:, ::2, ::2]
    same = same_scene(np.ascontiguousarray(tilted), coffee)
    assert same is not None
    assert same.both.mean() > 0.9
    assert same_scene(sepia, photograph("chelsea")) is None
    gray = color.rgb2gray(np.moveaxis(same.photo, 0, -1))
    assert np.corrcoef(gray[same.both], light_of_gray(tilted[1])[same.both])[0, 1] > 0.95  # they lie over one another


def test_grain_is_told_from_the_flattest_parts():
    """White noise of a known σ on a slow slope."""
    dice = np.random.default_rng(2)
    slope = np.linspace(0.3, 0.7, 600)[None] * np.ones((400, 1))
    noisy = slope + dice.normal(0, 0.03, slope.shape)
    assert surface.grain(noisy).sigma == pytest.approx(0.03, rel=0.12)
    assert surface.grain(slope).sigma < 0.002
    busy = noisy.copy()
    busy[:, :450] += 0.2 * ((np.indices((400, 450)) // 8).sum(0) % 2 - 0.5)  # most of it is full of details
    assert surface.grain(busy).sigma == pytest.approx(0.03, rel=0.2)
    coarse = slope + 0.03 * (lambda n: n / n.std())(gaussian_filter(dice.normal(0, 1, slope.shape), 1.0))
    assert surface.grain(coarse).reach > surface.grain(noisy).reach + 0.5
    for nothing in (np.full((4, 5), 0.5), np.full((90, 90), 0.01), np.ones((90, 90))):  # tiny; all black; all white
        assert surface.grain(nothing).sigma == 0
    step = surface.grained(surface.grain(noisy), surface.grain(slope), 600)
    made = surface.laid(slope, step)
    assert surface.grain(made).sigma == pytest.approx(0.03, rel=0.35)


def test_a_few_stray_pixels_are_no_tone_of_their_own():
    gray = np.concatenate([np.linspace(0.1, 0.5, 4000), [0.9, 0.95]])
    lab = np.stack([100 * gray, 10 * gray, np.where(gray > 0.6, 90.0, 20 * gray)])
    found = colours_along(gray, lab)
    assert found.grays.max() < 0.6
    assert found.b == pytest.approx(20 * found.grays, abs=0.3)


def test_colours_lifted_one_by_one_are_found_where_both_show_the_same(coffee):
    """The ring: one hue of the photograph printed lighter, another darker."""
    ring = ((29.0, 70.0), (70.0, -40.0))
    print_ = laid(coffee, PASSES["gray-weights"](ring=ring))
    rgb, wanted = coffee.reshape(3, -1)[:, ::37].astype(float), print_[0].ravel()[::37].astype(float)
    fit = fitted(rgb, wanted)
    lifts = dict(fit.ring)
    assert lifts[29.0] > 25 > 0 > lifts[70.0]
    assert fit.off < 0.4 * left(rgb.T @ (0.299, 0.587, 0.114), wanted)


def test_softness_is_that_of_the_gaussian():
    gray = color.rgb2gray(data.coffee())
    soft = surface.laid(gray, PASSES["soften"](radius=3.0))
    assert surface.softened(soft, gray).radius == pytest.approx(3.0, rel=0.25)
    assert surface.softened(gray, gray) is None


def test_fall_off_is_told_in_stops_and_nothing_is_nothing():
    gray = color.rgb2gray(data.coffee())
    dark = surface.laid(gray, PASSES["vignette"](amount=-1.2, width=1000, height=700, soft=90))
    assert surface.fallen_off(dark, gray).amount == pytest.approx(-1.2, abs=0.15)
    assert surface.fallen_off(gray, gray) is None


def test_details_that_were_drawn_out_are_measured():
    gray = color.rgb2gray(data.coffee())
    drawn = surface.laid(gray, PASSES["local-contrast"](fine=0, broad=60))
    step = surface.detailed(drawn, gray)
    assert step.broad > 25
    assert surface.bands(surface.laid(gray, step))[2] == pytest.approx(surface.bands(drawn)[2], rel=0.12)
    assert surface.detailed(gray, gray) is None


# Two flat tones


@pytest.fixture(scope="module")
def poster(coffee):
    """Charcoal on ochre, on rough paper."""
    inks = PASSES["gradient-map"](stops=((0.0, "#2b2a2d"), (100.0, "#f0b84a")))
    threshold, texture = PASSES["threshold"](level=100, softness=4), PASSES["texture"](surface="plaster", strength=16)
    return laid(coffee, PASSES["gray-weights"](red=60, green=30, blue=10), threshold, inks, texture)


def test_two_flat_tones_are_told_from_prints_that_have_others(poster, coffee, sepia):
    after = load(ROOT / "bench/after.py")
    for print_ in (poster, after.jpeg(poster), after.uneven(poster)):
        found = two_tones(to_lab(print_, SRGB))
        assert found.light == pytest.approx([17.5, 78], abs=3)
        assert found.b[1] - found.b[0] == pytest.approx(62, abs=8)
    steep = laid(coffee, PASSES["gray-weights"](), PASSES["levels"](in_black=90, in_white=150))
    lines = np.repeat((np.indices(coffee.shape[1:]).sum(0) % 6 < 3).astype(np.float32)[None], 3, 0)
    hues = np.where(poster > 0.5, coffee[::-1] * 0.2 + poster * 0.8, poster)  # lights of many colours
    speck = np.full((3, 200, 300), 0.1, np.float32)
    speck[:, 90:100, 140:160] = 0.9
    for other in (coffee, sepia, steep, lines, hues, speck, np.full((3, 60, 90), 0.4, np.float32)):
        assert two_tones(to_lab(np.ascontiguousarray(other), SRGB)) is None


def test_of_the_same_scene_two_tones_part_where_they_did(poster, coffee):
    found = follow(poster, coffee)
    assert [one.key for one in found.found] == ["weights", "tones", "tint"]
    weights, threshold, inks = found.script(Script()).passes
    assert threshold.kind == "threshold"
    assert weights.red > 45
    assert [place for place, _ in inks.stops] == [0, 100]
    assert off(laid(coffee, weights, threshold, inks), poster) < 2.5  # its rough paper is not copied
    dark = laid(coffee, PASSES["gray-weights"](), PASSES["threshold"](level=180))
    made = laid(coffee, *follow(dark, coffee).script(Script()).passes)
    assert (abs(made - dark) < 0.5).mean() > 0.98


def test_specks_of_two_flat_tones_are_no_grain(coffee):
    specked = laid(coffee, PASSES["gray-weights"](), PASSES["threshold"](level=60))
    assert "grain" not in {one.key for one in follow(specked, coffee).found}


def test_of_another_they_part_where_its_own_part_best(poster):
    cat = photograph("chelsea")
    found = follow(poster, cat)
    assert not found.same
    assert all(one.on for one in found.found)
    run = found.script(Script()).passes
    assert [step.kind for step in run] == ["gray-weights", "threshold", "gradient-map"]
    assert run[1].auto
    made = to_lab(laid(cat, *run), SRGB)[0]
    assert ((made < 25) | (made > 70)).mean() > 0.98
    assert 0.2 < (made > 50).mean() < 0.8


def test_a_recipe_of_two_tones_is_known_by_its_colours(poster):
    cat = photograph("chelsea")
    inks = PASSES["gradient-map"](stops=((0.0, "#2b2a2d"), (100.0, "#f0b84a")))
    smooth = (PASSES["gray-weights"](), inks)
    flat = (PASSES["gray-weights"](), PASSES["threshold"](auto=True), inks)
    found = follow(poster, cat, [Known("Ochre wash", smooth), Known("Ochre block", flat)])
    assert "Ochre block" in found.found[0].words
    assert follow(poster, cat, [Known("Ochre wash", smooth)]).found[0].key != "recipe"


# All of it


def test_the_same_scene_comes_back_as_it_was_printed(coffee, sepia):
    found = follow(sepia, coffee)
    assert found.same
    assert {one.key for one in found.found} >= {"weights", "tint"}
    made = laid(coffee, *found.script(Script()).passes)
    assert off(made, sepia) < 1.5 < off(coffee, sepia)


def test_another_scene_takes_the_tint_and_says_what_it_cannot_tell(sepia):
    cat = photograph("chelsea")
    found = follow(sepia, cat)
    assert not found.same
    on = {one.key: one.on for one in found.found}
    assert on["tint"]
    assert not on["tones"]
    assert any("Another scene" in words for words in found.left)
    wanted = laid(cat, PASSES["gray-weights"](), PASSES["gradient-map"](stops=SEPIA))
    made = laid(cat, *found.script(Script()).passes)
    assert ladders_apart(*(ladder(to_lab(planes, SRGB).reshape(3, -1)) for planes in (made, wanted))) < 1.5
    assert off(made, wanted) < off(cat, wanted)
    stronger = found.script(Script(), {"tones": (True, 50.0), "tint": (False, 100.0)})
    assert [step.kind for step in stronger.passes] == ["gray-weights", "curves"]
    assert stronger.passes[1].strength == 50


def test_a_recipe_whose_ladder_it_is_stands_for_all_the_rest(sepia):
    cat = photograph("chelsea")
    run = (PASSES["gray-weights"](red=90, green=5, blue=5), PASSES["gradient-map"](stops=SEPIA))
    blue = (PASSES["gray-weights"](), PASSES["gradient-map"](stops=((0.0, "#07101f"), (100.0, "#f2f4ee"))))
    found = follow(sepia, cat, [Known("Iron", blue), Known("Old river", run)])
    first = found.found[0]
    assert first.key == "recipe"
    assert "Old river" in first.words
    assert [step.kind for step in found.script(Script()).passes] == ["gray-weights", "gradient-map"]
    assert found.script(Script()).passes[0].red == 90
    without = found.script(Script(), {"recipe": (False, 100.0)})
    assert without.passes[0].red != 90
    assert follow(sepia, cat, [Known("Iron", blue)]).found[0].key != "recipe"


def test_of_recipes_that_tint_alike_both_are_named(sepia):
    cat = photograph("chelsea")
    tint = PASSES["gradient-map"](stops=SEPIA)
    one, other = (PASSES["gray-weights"](), tint), (PASSES["gray-weights"](red=90, green=5, blue=5), tint)
    blue = (PASSES["gray-weights"](), PASSES["gradient-map"](stops=((0.0, "#07101f"), (100.0, "#f2f4ee"))))
    known = [Known("Old river", one), Known("Old ferry", other), Known("Iron", blue)]
    first = follow(sepia, cat, known).found[0]
    assert first.key == "recipe"
    assert "Old river" in first.words
    assert "Old ferry" in first.words
    assert "Iron" not in follow(sepia, cat, known[::2]).found[0].words  # it is far off


def test_a_colour_photograph_as_the_print_is_told(coffee):
    cat = photograph("chelsea")
    found = follow(coffee, cat)
    assert [one.key for one in found.found] == ["tones"]
    assert not found.found[0].on
    (curve,) = found.found[0].steps
    gray, wanted = (color.rgb2gray(np.moveaxis(planes, 0, -1)) for planes in (cat, coffee))
    before, after = (np.abs(np.percentile(g, range(5, 100, 10)) - np.percentile(wanted, range(5, 100, 10))).mean()
                     for g in (gray, curve_at(curve.every, gray)))  # fmt: skip
    assert after < 0.6 * before  # the photograph's tones become the print's, not the other way
    assert found.left[-1].startswith("This one has no one tint for each tone")
    base = Script((PASSES["levels"](),))
    assert found.script(base) == base  # nothing is proposed, and nothing is taken away


def test_a_border_is_told_and_not_copied(coffee, sepia):
    mounted = np.pad(sepia, ((0, 0), (40, 40), (50, 50)), constant_values=0.96)
    found = follow(mounted, coffee)
    assert found.left[0].startswith("Its border is not copied")
    assert found.same
    assert off(laid(coffee, *found.script(Script()).passes), sepia) < 1.5


def test_two_tints_of_one_lightness_are_followed_where_both_show_the_same(coffee):
    stops = (
        (0.0, "#0a0602"),
        (22.0, "#5e4310"),
        (40.0, "#e9c75a"),
        (60.0, "#2f5a6e"),
        (84.0, "#f6e3a0"),
        (100.0, "#fffaf0"),
    )
    print_ = laid(coffee, PASSES["gray-weights"](), PASSES["gradient-map"](stops=stops))
    assert not ladder(to_lab(print_, SRGB).reshape(3, -1)).one_tint
    found = follow(print_, coffee)
    assert not found.left  # it is no colour photograph
    assert off(laid(coffee, *found.script(Script()).passes), print_) < 3


def test_tones_that_turn_become_a_map(coffee):
    stops = ((0.0, "#120c04"), (28.0, "#6b4a12"), (55.0, "#c9a23a"), (78.0, "#8f6a1c"), (100.0, "#fff6d8"))
    print_ = laid(coffee, PASSES["gray-weights"](), PASSES["gradient-map"](stops=stops))
    found = follow(print_, coffee)
    assert found.same
    assert {one.key for one in found.found} >= {"weights", "tint"}
    assert "tones" not in {one.key for one in found.found}
    assert not found.left  # two tints of one lightness are followed here
    assert off(laid(coffee, *found.script(Script()).passes), print_) < 3.5


def test_details_drawn_out_before_tones_turn_are_found_before_them(coffee):
    stops = (
        (0.0, "#0a0602"),
        (22.0, "#5e4310"),
        (46.0, "#e9c75a"),
        (64.0, "#8f6a1e"),
        (84.0, "#f6e3a0"),
        (100.0, "#fffaf0"),
    )
    drawn = PASSES["local-contrast"](fine=40, broad=20)
    print_ = laid(coffee, PASSES["gray-weights"](), drawn, PASSES["gradient-map"](stops=stops))
    found = follow(print_, coffee)
    assert [one.key for one in found.found] == ["weights", "details", "tint"]
    assert found.found[1].steps[0].fine == pytest.approx(40, abs=12)
    assert off(laid(coffee, *found.script(Script()).passes), print_) < 2


def test_details_drawn_out_are_found_before_the_tones(coffee):
    drawn = PASSES["local-contrast"](fine=45, broad=25)
    print_ = laid(coffee, PASSES["gray-weights"](), drawn, PASSES["levels"](in_black=20, gamma=1.4))
    found = follow(print_, coffee)
    assert [one.key for one in found.found] == ["weights", "details", "tones"]
    step = found.found[1].steps[0]
    assert (step.fine, step.broad) == (pytest.approx(45, abs=12), pytest.approx(25, abs=12))
    assert off(laid(coffee, *found.script(Script()).passes), print_) < 0.8


def test_softness_and_details_of_another_scene_are_offered(sepia):
    cat = photograph("chelsea")
    soft = follow(laid(sepia, PASSES["soften"](radius=6.0)), cat)
    (softness,) = (one for one in soft.found if one.key == "softness")
    assert not softness.on
    assert softness.steps[0].radius > 2
    drawn = follow(laid(sepia, PASSES["local-contrast"](fine=90, broad=60)), laid(cat, PASSES["soften"](radius=3.0)))
    assert not next(one for one in drawn.found if one.key == "details").on
    assert "softness" not in {one.key for one in drawn.found}


def test_tones_are_those_before_the_corners_fell_off(coffee):
    """A vignette takes light from all of the print; its tones are not that much darker."""
    run = (
        PASSES["gray-weights"](),
        PASSES["levels"](gamma=0.8),
        PASSES["vignette"](amount=-1.0, width=1000, height=700, soft=90),
    )
    print_ = laid(coffee, *run)
    found = follow(print_, coffee)
    assert found.found[-1].key == "fall-off"
    assert found.found[-1].steps[0].amount == pytest.approx(-1.0, abs=0.3)
    assert off(laid(coffee, *found.script(Script()).passes), print_) < 0.8
    tilted = load(ROOT / "bench/after.py").tilted(print_)
    assert off(laid(coffee, *follow(tilted, coffee).script(Script()).passes), print_) < 1.5  # the lid does not count


def test_what_is_alike_everywhere_is_no_scene():
    """Grain and darkness without stars: every feature of the one found the same feature of the other."""
    after = load(ROOT / "bench/after.py")
    cup, stars = (after.photographs(400)[k] for k in (0, 5))
    for word in ("ortho", "gelatin-neutral"):
        recipe = next(recipe for recipe in after.recipes() if recipe.word == word)
        assert same_scene(after.laid(cup, recipe.on(Script())), stars) is None


def test_a_flat_picture_and_a_tiny_one_are_no_fault(coffee, sepia):
    for planes in (np.full((3, 80, 120), 0.5, np.float32), np.random.default_rng(1).random((1, 9, 7), np.float32)):
        found = follow(planes, coffee)
        assert not found.same
        laid(coffee, *found.script(Script()).passes)
        for print_ in (coffee, sepia):
            on_it = follow(print_, planes)
            assert "tones" not in {one.key for one in on_it.found} or planes.std() > 0  # a flat one has none to turn


def test_proposals_come_near_the_recipe_that_was_used():
    """As in bench/after.py: eight pairs, of the same scene; all of them, and what scans do to it, stand in
    docs/decisions/0037."""
    after = load(ROOT / "bench/after.py")
    made, nothing = after.table(after.pairs(8, seed=3), 320, same=True, book=False, way="JPEG 80")
    assert np.median(made) < 1.5
    assert np.median(nothing) > 10
    other, untouched = after.table(after.pairs(8, seed=3), 320, same=False, book=False, way="as it is")
    assert (other < untouched).mean() >= 7 / 8
