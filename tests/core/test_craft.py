"""What a printmaker means by a pass, measured: no halo, grain in density, silver beneath the paper, lines of a width.

Each measure stands beside where it is published. What a pass was before is its first form, and has to print as it did.
"""

import warnings

import cv2
import numpy as np
import pytest

from kyanoscript import demo
from kyanoscript.core import colour, script
from kyanoscript.core.colour.zones import BORDERS, middle_of, zone, zone_index
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, ScriptError
from kyanoscript.files.kept.recipes import bundled
from kyanoscript.files.kept.scriptfile import read_script
from tests.conftest import make_colourful
from tests.core import glasses

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # the library warns about optional packages while it is imported
    import colour as reference

P = load_all()
FORMED = [model for model in P.values() if model.newest() > 1]


def run(picture, *passes, scale=1.0):
    renderer = Renderer(ArraySource(np.asarray(picture)), Script(passes))
    return renderer.region(Rect(0, 0, *renderer.size(scale)), scale)


def flat(value, height=256, width=256):
    return np.full((height, width), value, np.float32)


def light(planes):
    return colour.to_light(np.asarray(planes, np.float64))


def lightness(mean_light):
    return float(np.asarray(reference.XYZ_to_Lab([mean_light * 0.95047, mean_light, mean_light * 1.08883]))[0])


# Forms


@pytest.mark.parametrize("model", FORMED, ids=lambda model: model.kind)
def test_a_script_that_tells_no_form_is_of_the_first(model):
    """So a script of before prints as it did; a pass that is added now is of the last."""
    assert model().which_form == model.newest()
    before = script.from_json({"kyanoscript": 2, "passes": [{"pass": model.kind}]})
    assert before.passes[0].which_form == 1
    told = script.to_json(before)
    assert "of" not in told["passes"][0]
    assert told["kyanoscript"] == 2  # an older program opens it
    now = script.to_json(Script((model(),)))
    assert (now["passes"][0]["of"], now["kyanoscript"]) == (model.newest(), script.VERSION)


@pytest.mark.parametrize("model", FORMED, ids=lambda model: model.kind)
def test_an_older_form_says_what_the_newest_does(model):
    assert model(of=1).renewed() == model.params()["of"].says(model.newest())
    assert model().renewed() == ""
    assert len(model(of=1).renewed()) > 10


def test_a_form_that_there_is_not_is_refused():
    with pytest.raises(ScriptError, match=r"grain.of is 3; it must be one of 1, 2"):
        script.from_json({"kyanoscript": 7, "passes": [{"pass": "grain", "of": 3}]})


def test_forms_within_plates_and_states_count_for_the_version():
    plate = P["plate"](run=(P["grain"](),))
    assert script.to_json(Script((plate,)))["kyanoscript"] == script.VERSION
    state = script.State(Script((P["grain"](),)), number=1)
    assert script.to_json(Script((), states=(state,)))["kyanoscript"] == script.VERSION
    assert script.to_json(Script((P["plate"](run=(P["grain"](of=1),)),)))["kyanoscript"] == 2


STRONG_FORMS = {
    "motion": [{"length": 60, "angle": angle} for angle in (33, 45, 130)]
    + [{"length": 60, "angle": -20, "trail": True}],
    "local-exposure": [{"open": 90, "hold": 60}, {"regions": 64}],
    "local-contrast": [{"fine": 90, "broad": 60}, {"fine": -70}],
    "grain": [{"amount": 20, "size": 4}, {"spread": "clumped", "colour": 60}],
    "edge-lines": [{"thickness": 10}],
    "toner-bath": [{"toner": "gold", "time": 300}],
    "inks": [{"by": "colour", "gain_1": 20, "spreading": 1.7}],
    "paper-tone": [{"dmax": 1.4}],
}


@pytest.mark.parametrize("scale", [1.0, 0.6])
@pytest.mark.parametrize(("kind", "values"), [(k, v) for k, every in STRONG_FORMS.items() for v in every])
def test_of_the_newest_forms_a_region_is_the_same_part_of_the_whole(kind, values, scale):
    """The first law with strong values, which random ones seldom are."""
    step, picture = P[kind](**values), ArraySource(make_colourful(400, 500))
    whole = Renderer(picture, Script((step,)))
    width, height = whole.size(scale)
    wanted = whole.region(Rect(0, 0, width, height), scale)
    for x, y in ((0, 0), (width - 90, height - 80), (100, 60), (width // 2, 0)):
        found = Renderer(picture, Script((step,))).region(Rect(x, y, 90, 80), scale)
        assert np.abs(found - wanted[:, y : y + 80, x : x + 90]).max() < 1e-5


def test_every_form_is_tried_with_strong_values():
    assert set(STRONG_FORMS) == {model.kind for model in FORMED}


# Local exposure and local contrast: no halo, no slope turned round (what is measured: Paris, Hasinoff and Kautz, "Local
# Laplacian filters", ACM Transactions on Graphics 30, 2011)

STRONG = [
    P["local-exposure"](),
    P["local-exposure"](open=100, hold=60),
    P["local-exposure"](open=100, hold=100, regions=64),
    P["local-contrast"](fine=100),
    P["local-contrast"](fine=0, broad=100),
    P["local-contrast"](fine=60, broad=60),
    P["local-contrast"](fine=100, broad=100),
]
_NAMES = ["usual", "strong", "most, small regions", "fine", "broad", "both", "all of both"]


def edge(width, ramp, dark=85, bright=145):
    """A dark side, a ramp of so many pixels, a bright side; in 16 bits."""
    x = np.arange(width) - width / 2 + 0.5
    share = np.clip(x / ramp + 0.5, 0, 1) if ramp else (x > 0).astype(float)
    return np.repeat(np.rint((dark + (bright - dark) * share) * 257).astype(np.uint16)[None], 48, 0)


@pytest.mark.parametrize("width", [1200, 6000])
@pytest.mark.parametrize("step", STRONG, ids=_NAMES)
def test_no_halo_beside_an_edge_of_sixty_levels(step, width):
    """At most three levels beyond what is far from the edge; the first forms: up to 24."""
    row = run(edge(width, 0), step)[0, 24] * 255
    far_dark, far_bright = np.median(row[20:80]), np.median(row[-80:-20])
    assert far_dark - row[20 : width // 2].min() < 3
    assert row[width // 2 : -20].max() - far_bright < 3


@pytest.mark.parametrize("ramp", [5, 20, 60, 200])
@pytest.mark.parametrize("step", STRONG, ids=_NAMES)
def test_no_slope_turns_round(step, ramp):
    """Where the picture rises the print rises: a tenth of a level from pixel to pixel is what rounding may take."""
    for width in (1200, 6000):
        picture = edge(width, ramp)
        row = run(picture, step)[0, 24] * 255
        rising = np.diff(picture[24].astype(int)) > 0
        assert np.diff(row)[rising].min() > -0.1


def test_the_first_forms_have_the_halo_that_the_measure_finds():
    row = run(edge(1200, 0), P["local-exposure"](of=1, open=100, hold=60))[0, 24] * 255
    assert np.median(row[20:80]) - row[20:600].min() > 10


def test_detail_of_shadows_is_as_strong_as_it_was_in_the_first_form():
    """What is not beside an edge is not paid for what is: in the darkest tenth of each demo photograph."""
    shares = []
    for name in ("carved-head", "ferry-landing", "jetty", "marsh-at-dusk", "table-by-the-window"):
        pixels = cv2.imread(str(demo.photo(name)), cv2.IMREAD_GRAYSCALE).astype(np.float32) / 255
        dark = pixels <= np.quantile(pixels, 0.1)
        outs = [run(pixels, P["local-exposure"](of=form, open=100, hold=40))[0] for form in (1, 2)]
        before, now = ((out - cv2.GaussianBlur(out, (0, 0), 3))[dark].std() for out in outs)
        shares.append(now / before)
    assert np.mean(shares) > 1
    assert min(shares) > 0.95


# Grain


@pytest.mark.parametrize("tones", ["even", "mids", "darks"])
@pytest.mark.parametrize("spread", ["gaussian", "uniform", "clumped"])
def test_grain_keeps_the_mean_light_of_every_tone(tones, spread):
    """Within half of L*, at every tone and amount; the first form lightens by up to 15."""
    for amount in (6, 16, 30, 60):
        for tone in (0.05, 0.1, 0.25, 0.5, 0.75, 0.9, 0.98):
            out = run(flat(tone), P["grain"](amount=amount, tones=tones, spread=spread, size=2))
            assert lightness(light(out).mean()) == pytest.approx(lightness(light(np.array(tone))), abs=0.5)


@pytest.mark.parametrize(("size", "pixels"), [(0.6, 1000), (2.0, 1000), (4.0, 1000)])
def test_grain_follows_selwyns_law(size, pixels):
    """σ of the density times the root of the area stays, within a tenth, once it is larger than two grains.

    E. W. H. Selwyn, "A theory of graininess", The Photographic Journal 75, 1935.
    """
    out = run(flat(0.5, 1000, pixels), P["grain"](amount=8, size=size, tones="even"))
    given = light(out[0])
    found = []
    for aperture in (2, 4, 8, 16, 32, 64):
        if aperture <= 2 * size:
            continue
        n = 1000 // aperture
        means = given[: n * aperture, : n * aperture].reshape(n, aperture, n, aperture).mean((1, 3))
        found.append(np.std(-np.log10(means)) * aperture)
    assert len(found) >= 3
    assert max(found) / min(found) < 1.2  # a tenth to either side


def test_grain_lies_in_density():
    """The same change of density at two tones, where it is told to be even."""
    spreads = [np.std(np.log10(light(run(flat(t), P["grain"](amount=4, tones="even", size=2))))) for t in (0.3, 0.6)]
    assert spreads[0] == pytest.approx(spreads[1], rel=0.05)


def test_the_amount_of_grain_is_told_on_a_mid_gray():
    out = run(flat(0.5, 500, 500), P["grain"](amount=5, tones="even", size=2))
    assert out.std() == pytest.approx(0.05, rel=0.06)


def test_lith_grain_gathers_in_clumps():
    """There is silver, or there is none: more of the print lies at the two ends than with grain as usual."""
    plain, clumped = (run(flat(0.5), P["grain"](amount=20, spread=s, size=2))[0] for s in ("gaussian", "clumped"))

    def middle(out):
        return np.mean(np.abs(out - np.median(out)) < 0.3 * out.std())

    assert middle(clumped) < 0.7 * middle(plain)


def test_black_and_white_stay_without_grain():
    for tone in (0.0, 1.0):
        for size in (0.6, 8.0):
            assert np.abs(run(flat(tone), P["grain"](amount=40, tones="even", size=size)) - tone).max() < 1 / 255


# Paper and toner


def test_the_deepest_black_is_measured_from_the_perfect_white():
    """Reflection density is the logarithm of the perfect white's light over the print's (ISO 5-4)."""
    for paper in ("#ffffff", "#f7f0e1", "#d8c8a0"):
        out = run(flat(0.0), P["paper-tone"](paper=paper, dmax=2.1, tone=0))
        luminance = np.dot(colour.BT709, light(out).mean((1, 2)))
        assert -np.log10(luminance) == pytest.approx(2.1, abs=0.02)


def test_paper_tone_tells_both_densities():
    own = -np.log10(np.dot(colour.BT709, light(np.array(colour.parse_hex("#f7f0e1")))))
    said = P["paper-tone"](paper="#f7f0e1", dmax=2.1).remarks()
    assert f"{own:.2f}" in said
    assert f"{2.1 - own:.2f}" in said
    assert f"{2.1 + own:.2f}" in P["paper-tone"](of=1, paper="#f7f0e1", dmax=2.1).remarks()


PAPER = P["paper-tone"](paper="#efe2c6", dmax=2.1, tone=0)


@pytest.mark.parametrize("toner", ["sepia", "selenium", "gold", "iron-blue", "copper"])
def test_a_bath_leaves_bare_tinted_paper_as_it_is(toner):
    bare = run(flat(1.0), PAPER)
    assert np.abs(run(flat(1.0), PAPER, P["toner-bath"](toner=toner, time=400)) - bare).max() < 0.5 / 255
    first = run(flat(1.0), PAPER, P["toner-bath"](of=1, toner="iron-blue", time=400))
    assert np.abs(first - bare).max() > 2 / 255


def test_the_paper_shows_through_what_is_toned():
    """A print on cream paper, toned, is the toned print on white seen through the cream."""
    tone = flat(0.5)
    bath = P["toner-bath"](toner="selenium")
    white = P["paper-tone"](paper="#ffffff", dmax=2.1, tone=0)
    on_white, on_cream = light(run(tone, white, bath)), light(run(tone, PAPER, bath))
    cream = light(np.array(colour.parse_hex("#efe2c6")))[:, None, None]
    assert np.abs(on_cream / cream - on_white).mean() < 0.02


def hue(planes):
    lab = colour.to_oklab(np.asarray(planes, np.float64).mean((1, 2))[:, None], colour.SRGB)[:, 0]
    return np.degrees(np.arctan2(lab[2], lab[1])) % 360, np.hypot(lab[1], lab[2])


def test_gold_on_sepia_is_orange_red():
    """Silver sulphide takes gold in orange and red, silver itself in blue (common practice, no source)."""
    sepia, gold = P["toner-bath"](toner="sepia", time=200), P["toner-bath"](toner="gold", time=200)
    both, alone = hue(run(flat(0.45), sepia, gold)), hue(run(flat(0.45), gold))
    brown = hue(run(flat(0.45), sepia))
    assert 30 < both[0] < 55
    assert both[0] < brown[0] - 8
    assert both[1] > 0.03
    assert 230 < alone[0] < 290


def test_a_second_bath_finds_what_the_first_has_left():
    """Selenium takes the darks, iron blue after it the lights; the longer the first, the less is left."""
    blue = P["toner-bath"](toner="iron-blue")

    def blues(time):
        """How much bluer the second bath makes darks that lay in the first so long."""
        first = P["toner-bath"](toner="selenium", time=time)
        before, after = (run(flat(0.15), *baths).astype(float).mean((1, 2)) for baths in ((first,), (first, blue)))
        return (colour.to_oklab(np.stack([before, after], 1), colour.SRGB) @ [1, -1])[2]

    whole, half, hardly = blues(0.0), blues(30.0), blues(300.0)
    assert whole > half > hardly
    assert half < 0.8 * whole
    assert hardly < 0.1 * whole
    lights = hue(run(flat(0.75), P["toner-bath"](toner="selenium"), blue))
    assert 230 < lights[0] < 280


def test_selenium_deepens_the_black_as_it_did():
    """Dmax 2.01 to 2.24: the value that the first form was judged by."""
    for form in (1, 2):
        out = run(flat(colour.to_encoded(np.array(10**-2.01))), P["toner-bath"](of=form, toner="selenium"))
        luminance = np.dot(colour.BT709, light(out).mean((1, 2)))
        assert -np.log10(luminance) == pytest.approx(2.24, abs=0.05)


# Zones


def test_a_gray_of_eighteen_per_cent_lies_in_the_middle_of_zone_five():
    """18 % and a stop for each zone below it: common practice, no source. L* of 18 % is 49.5 (CIE 1976)."""
    gray = float(colour.to_encoded(np.array(0.18)))
    assert zone(gray) == "V"
    begins, ends = (float(colour.to_light(np.array(b))) for b in BORDERS[4:6])
    assert np.sqrt(begins * ends) == pytest.approx(0.18, rel=1e-3)
    assert ends / begins == pytest.approx(2, rel=1e-3)


def test_below_five_every_zone_is_half_the_light_of_the_one_above():
    below = colour.to_light(np.array(BORDERS[:5]))
    assert below[1:] / below[:-1] == pytest.approx([2] * 4, rel=1e-3)
    assert [zone(float(colour.to_encoded(np.array(0.18 / 2**k)))) for k in range(6)] == [
        "V",
        "IV",
        "III",
        "II",
        "I",
        "0",
    ]


def test_above_five_zones_share_what_is_left_evenly_to_the_eye():
    light_ = colour.to_light(np.array((*BORDERS[5:], 1.0)))
    steps = np.diff([lightness(v) for v in light_])
    assert steps == pytest.approx([steps.mean()] * 5, abs=0.05)
    assert zone(1.0) == "X"
    assert all(zone_index(middle_of(k)) == k for k in range(11))


# Edge lines: width within a fifth, however high the edge (the measure of ridge and stroke: Kang, Lee and Chui,
# "Coherent line drawing", NPAR 2007)


@pytest.mark.parametrize("angle", [0, 30, 90])
@pytest.mark.parametrize("wide", [1.0, 2.0, 4.0, 10.0])
@pytest.mark.parametrize(("dark", "bright"), [(0.0, 1.0), (0.3, 0.7), (0.4, 0.55)])
def test_a_line_is_as_wide_as_is_asked_for(wide, dark, bright, angle):
    y, x = np.mgrid[0:200, 0:1000] + 0.5
    a = np.radians(angle)
    far = (x - 500) * np.cos(a) + (y - 100) * np.sin(a)
    picture = (dark + (bright - dark) * np.clip(far + 0.5, 0, 1)).astype(np.float32)
    step = P["edge-lines"](thickness=wide, sensitivity=80, blend="normal")
    drawn = 1 - run(picture, step)[0]
    across = drawn[60:140].sum(1).mean() * np.cos(a) if angle < 60 else drawn[:, 200:800].sum(0).mean()
    assert across == pytest.approx(wide, rel=0.2)


def test_a_soft_edge_is_drawn_where_it_is():
    x = np.arange(1000)
    for soft in (1.0, 3.0, 6.0):
        row = 0.2 + 0.6 / (1 + np.exp(-(x - 499.5) / soft))
        picture = np.repeat(row[None].astype(np.float32), 60, 0)
        drawn = 1 - run(picture, P["edge-lines"](thickness=2, sensitivity=80, blend="normal"))[0, 30]
        assert np.sum(drawn * x) / np.sum(drawn) == pytest.approx(499.5, abs=0.3)
        assert drawn.sum() == pytest.approx(2, rel=0.35)


def test_nothing_is_drawn_where_there_is_no_edge():
    noise = 0.5 + 0.004 * np.random.default_rng(1).standard_normal((200, 300))
    assert run(noise.astype(np.float32), P["edge-lines"](sensitivity=30, blend="normal")).min() > 0.95
    assert run(flat(0.4), P["edge-lines"](sensitivity=100, blend="normal")).min() == 1


# Motion


@pytest.mark.parametrize("angle", [0, 17, 45, 60, 90, -30, 135])
@pytest.mark.parametrize("length", [7.3, 40.0])
def test_motion_is_even_along_the_line(angle, length):
    """A point of light becomes a line as even as a box: within two per cent of its mean but for both ends."""
    picture = np.zeros((301, 1001), np.float32)
    picture[150, 500] = 1
    out = light(run(picture, P["motion"](length=length, angle=angle))[0])
    steep = abs(np.sin(np.radians(angle))) > abs(np.cos(np.radians(angle)))
    along = out.sum(1 if steep else 0)
    lit = np.flatnonzero(along > 0.5 * along.max())[1:-1]
    assert along[lit].max() / along[lit].min() < 1.02
    reach = length * 1.001 * max(abs(np.sin(np.radians(angle))), abs(np.cos(np.radians(angle))))
    assert along.sum() / along[lit].mean() == pytest.approx(reach, rel=0.03)
    assert out.sum() == pytest.approx(1, rel=0.01)


def test_a_trail_goes_to_one_side_as_it_did():
    picture = np.zeros((61, 1000), np.float32)
    picture[30, 500] = 1
    for angle in (0, 180):
        before, now = (light(run(picture, P["motion"](of=f, length=40, angle=angle, trail=True))[0]) for f in (1, 2))
        x = np.arange(1000)
        places = [np.sum(one.sum(0) * x) / one.sum() for one in (before, now)]
        assert places[0] == pytest.approx(places[1], abs=1.0)


# Inks


def density(planes):
    return -np.log10(light(planes).mean((1, 2)).mean())


def inked(tone, **values):
    start = {"count": 1, "ink_1": "#000000", "paper": "#ffffff", "deepest": 3.0}
    return run(flat(float(colour.to_encoded(np.array(tone)))), P["inks"](**{**start, **values}))


def test_four_full_inks_are_as_dark_as_the_paper_lets_them_be():
    """Largest densities of papers: 1.8 uncoated to 2.2 glossy (common practice, no source); the first form: 4.1."""
    four = {f"ink_{k}": "#141414" for k in range(1, 5)}
    for deepest in (1.8, 2.0, 2.2):
        out = run(flat(0.0), P["inks"](count=4, paper="#ffffff", deepest=deepest, **four))
        assert density(out) == pytest.approx(deepest, abs=0.01)
    assert density(run(flat(0.0), P["inks"](of=1, count=4, paper="#ffffff", **four))) > 3.5


@pytest.mark.parametrize(("gain", "wanted"), [(0, 0.301), (22, 0.553)])
def test_half_a_tone_prints_with_its_gain(gain, wanted):
    """Murray and Davies: half covered, D .301; ISO 12647-2:2013, curve C: 22 % more, so 72 % covered, D .553."""
    assert density(inked(0.5, gain_1=gain)) == pytest.approx(wanted, abs=0.004)


@pytest.mark.parametrize(("n", "covers"), [(1.0, 0.5151), (2.0, 0.3552)])
def test_light_spreads_in_the_paper_as_yule_and_nielsen_say(n, covers):
    """A tint of D .30 in an ink of D 1.50: 51.51 % by Murray and Davies (n = 1), 35.52 % with n = 2.

    J. A. C. Yule and W. J. Nielsen, "The penetration of light into paper and its effect on halftone reproduction",
    TAGA Proceedings, 1951; the numbers are those of their formula.
    """
    ink = colour.hex_of(np.full(3, colour.to_encoded(np.array(10**-1.5))))
    out = inked(1 - covers, ink_1=ink, spreading=n)
    assert density(out) == pytest.approx(0.30, abs=0.004)


def test_a_photograph_in_colours_chooses_its_inks():
    """Red goes to the red ink, blue to the blue one, gray to black; by tone all three would print everything."""
    inks = {"count": 3, "ink_1": "#161616", "ink_2": "#b8402c", "ink_3": "#2c4fa0", "paper": "#ffffff"}
    colours = {"red": (0.75, 0.3, 0.22), "blue": (0.22, 0.33, 0.68), "gray": (0.45, 0.45, 0.45)}
    for name, rgb in colours.items():
        picture = np.broadcast_to(np.float32(rgb), (32, 32, 3))
        found, much = hue(run(picture, P["inks"](by="colour", **inks)))
        if name == "gray":
            assert much < 0.02
        else:
            wanted = hue(np.array(colour.parse_hex(inks["ink_2" if name == "red" else "ink_3"]))[:, None, None])
            assert abs((found - wanted[0] + 180) % 360 - 180) < 15
            assert much > 0.05
        plate = run(picture, P["inks"](by="colour", shown="2", **inks))
        assert (plate.mean() < 0.9) == (name == "red")
    gray = run(flat(0.45, 32, 32), P["inks"](by="colour", **inks))
    assert np.abs(gray - run(flat(0.45, 32, 32), P["inks"](**inks))).max() == 0  # a gray has only tones


@pytest.mark.parametrize("kind", ["quad-tone", "split-tone"])
def test_a_photograph_in_colours_chooses_its_anchors(kind):
    """Each pixel goes to the anchor nearest to its colour, and keeps its lightness."""
    step = P[kind](stops=((20.0, "#2d343b"), (60.0, "#a0523a"), (90.0, "#d8c070")), by="colour")
    picture = np.broadcast_to(np.float32((0.7, 0.35, 0.25)), (32, 32, 3))
    out = run(picture, step)
    wanted = hue(np.array(colour.parse_hex("#a0523a"))[:, None, None])
    assert abs(hue(out)[0] - wanted[0]) < 10
    before, after = (
        colour.to_oklab(np.asarray(p, float).mean((1, 2))[:, None], colour.SRGB)[0]
        for p in (np.moveaxis(picture, 2, 0), out)
    )
    assert after == pytest.approx(before, abs=0.01)


# Contrast glasses and emulsions


@pytest.mark.parametrize("name", [*glasses.GLASSES, *glasses.EMULSIONS])
def test_glasses_and_emulsions_are_reckoned_from_spectra(name):
    """Mallett and Yuksel 2019: within a tenth of a per cent of what `glasses` reckons; in light."""
    start = P["gray-weights"].starts[name]
    assert start["basis"] == "light"
    assert [start[channel] for channel in ("red", "green", "blue")] == pytest.approx(glasses.shares(name), abs=0.1)


@pytest.mark.parametrize("name", [*glasses.GLASSES, *glasses.EMULSIONS])
def test_the_grays_of_24_patches_are_those_that_the_curves_give(name):
    """Within one L* of the spectra that the patches' colours become, summed wavelength by wavelength."""
    chart = next(iter(reference.CCS_COLOURCHECKERS.values()))
    linear = [reference.XYZ_to_sRGB(reference.xyY_to_XYZ(v), apply_cctf_encoding=False) for v in chart.data.values()]
    patches = np.clip(linear, 0, 1)
    picture = colour.to_encoded(patches).astype(np.float32)[None]
    out = light(run(picture, P["gray-weights"](**P["gray-weights"].starts[name]))[0, 0])
    basis = np.stack([np.interp(glasses.NM, glasses.BASIS.wavelengths, p) for p in np.asarray(glasses.BASIS.values).T])
    seen = glasses.seen(name)
    wanted = (patches @ basis) @ seen / seen.sum()
    away = [abs(lightness(a) - lightness(b)) for a, b in zip(out, wanted, strict=True)]
    assert max(away) < 1


def test_the_eyes_choice_is_kept_as_gentle():
    starts = P["gray-weights"].starts
    for name in (*glasses.GLASSES, *glasses.EMULSIONS):
        assert starts[f"{name}, gentle"]["basis"] == "encoded"
    assert [starts["red glass, gentle"][c] for c in ("red", "green", "blue")] == [105, 10, -15]


def test_what_ships_is_of_the_newest_forms():
    """Whoever uses a recipe or takes a demo print apart is not told that there is something newer."""
    shipped = [(recipe.word, recipe.script) for recipe in bundled()]
    shipped += [(entry.script.name, read_script(entry.script).script) for entry in demo.PRINTS]
    for name, each in shipped:
        assert [step.kind for step in script.walk(each.passes) if step.renewed()] == [], name
