"""Inks, anchors, baths: what makes each of them what it is."""

import itertools
import warnings

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kyanoscript.core import colour
from kyanoscript.core.colour import in_colour
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.toning.inks import coverage
from kyanoscript.core.passes.toning.quad_tone import shares
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # the library warns about optional packages while it is imported
    import colour as reference

P = load_all()
WEDGE = ArraySource(np.repeat(np.arange(256, dtype=np.uint8)[None], 4, axis=0))
INK = st.from_regex("#[0-9a-f]{6}", fullmatch=True)


def wedge(*run):
    """What 256 grays become: encoded ``(3, 256)``."""
    planes = Renderer(WEDGE, Script(tuple(run))).region(Rect(0, 0, 256, 4))
    return in_colour(planes)[:, 1].astype(np.float64)


def lch(*run):
    return colour.to_oklch(wedge(*run), colour.SRGB)


def as_printed(ink, paper):
    """A full layer of ink on paper, worked out in double precision: light times light."""
    step, other = (colour.to_light(np.array(colour.parse_hex(text))) for text in (ink, paper))
    return colour.to_encoded(step * other)


# Inks


@given(INK, INK)
def test_no_ink_is_paper_and_full_coverage_is_the_ink_on_it(ink, paper):
    out = wedge(P["inks"](of=1, count=1, ink_1=ink, paper=paper))
    assert out[:, 255] == pytest.approx(colour.parse_hex(paper), abs=2e-4)
    assert out[:, 0] == pytest.approx(as_printed(ink, paper), abs=2e-4)


def test_black_ink_on_white_paper_prints_every_tone_as_it_is():
    out = wedge(P["inks"](of=1, count=1, ink_1="#000000", paper="#ffffff"))
    assert np.abs(out - np.arange(256) / 255).max() < 3e-4


@given(st.lists(INK, min_size=2, max_size=4), INK)
def test_overprints_are_the_product_of_transmittances(inks, paper):
    """Murray–Davies for each ink, Demichel's shares of all overprints: summed here over every combination."""
    run = P["inks"](of=1, count=len(inks), paper=paper, **{f"ink_{k + 1}": text for k, text in enumerate(inks)})
    out = wedge(run)
    for level in (0, 40, 128, 200, 255):
        a = coverage((), np.array([level / 255]))[0]
        light = np.zeros(3)
        for lies in itertools.product((False, True), repeat=len(inks)):
            share = np.prod([a if on else 1 - a for on in lies])
            passed = np.prod(
                [colour.to_light(np.array(colour.parse_hex(t))) for t, on in zip(inks, lies, strict=True) if on]
                or [1.0],
                axis=0,
            )
            light += share * passed * colour.to_light(np.array(colour.parse_hex(paper)))
        assert out[:, level] == pytest.approx(colour.to_encoded(light), abs=3e-4)


def test_the_green_pair_gives_a_green_print():
    """Inks #25bf21 and #a8d9a7 (check value of the trade, common practice): green at every tone that has ink."""
    start = P["inks"].starts["two inks: greens"]
    lightness, chroma, hue = lch(P["inks"](of=1, **start, paper="#ffffff"))
    assert start["ink_1"] == "#25bf21"
    assert start["ink_2"] == "#a8d9a7"
    assert np.all((hue[:240] > 135) & (hue[:240] < 150))
    assert np.all(np.diff(lightness) > 0)
    assert chroma[20] > 0.2
    assert wedge(P["inks"](of=1, **start, paper="#ffffff"))[:, 0] == pytest.approx(
        as_printed("#25bf21", "#a8d9a7"), abs=2e-4
    )


def test_each_plate_is_shown_alone_in_grays():
    start = P["inks"].starts["two inks: black and warm gray"]
    for k in (1, 2):
        plate = wedge(P["inks"](of=1, **start, shown=str(k)))
        assert np.array_equal(plate[0], plate[1])
        light = colour.to_light(plate[0])
        assert light == pytest.approx(1 - coverage(start[f"curve_{k}"], np.arange(256) / 255), abs=1e-3)
    assert np.all(wedge(P["inks"](of=1, **start, shown="3")) == 1)  # an ink that is not printed leaves bare paper


@pytest.mark.parametrize("name", [n for n in P["inks"].starts if "greens" not in n])
def test_start_points_keep_dark_dark_and_light_light(name):
    lightness = lch(P["inks"](**P["inks"].starts[name]))[0]
    assert np.all(np.diff(lightness) > -1e-4)
    assert lightness[0] < 0.3
    assert lightness[255] > 0.9


# Anchors


@given(st.lists(st.floats(0, 1), min_size=1, max_size=6, unique=True).map(sorted))
def test_the_shares_of_anchors_sum_to_one_and_none_is_negative(tones):
    found = shares(np.array(tones), np.linspace(0, 1, 501))
    assert found.min() >= 0
    assert found.sum(axis=0) == pytest.approx(1, abs=1e-12)
    for k, tone in enumerate(tones):
        assert shares(np.array(tones), np.array([tone]))[k, 0] == pytest.approx(1, abs=1e-9)


@pytest.mark.parametrize("kind", ["quad-tone", "split-tone"])
def test_anchors_tint_their_tones_and_lightness_stays(kind):
    step = P[kind]()
    plain, toned = lch(), lch(step)
    assert np.abs(toned[0] - plain[0]).max() < 0.004
    for tone, text in step.stops:
        at = round(tone * 2.55)
        wanted = colour.to_oklch(np.array(colour.parse_hex(text)).reshape(3, 1), colour.SRGB)[:, 0]
        if 20 < at < 235:
            assert toned[2, at] == pytest.approx(wanted[2], abs=2)
            assert toned[1, at] == pytest.approx(wanted[1], abs=0.002)
    moved = lch(step.model_copy(update={"lightness": 100.0}))[0]
    assert np.abs(moved - plain[0]).max() > 0.004


def test_split_tone_has_warm_lights_and_cool_darks_and_the_ends_are_clean():
    out = wedge(P["split-tone"]())
    assert out[2, 60] > out[0, 60]
    assert out[0, 200] > out[2, 200]
    assert np.ptp(out[:, 0]) < 0.004
    assert np.ptp(out[:, 255]) < 0.004


@pytest.mark.parametrize("inks", [("#0000ff", "#ffff00"), ("#ff0000", "#00ff00"), ("#00ffff", "#ff00ff")])
@pytest.mark.parametrize("kind", ["split-tone", "quad-tone"])
def test_anchors_without_room_give_up_chroma_and_not_lightness(kind, inks):
    """CIE L* by colour-science: a strongly coloured anchor leaves every tone as light as it was."""
    stops = ((20.0, inks[0]), (80.0, inks[1]))
    out, own = wedge(P[kind](stops=stops)), wedge()
    light, before = (reference.XYZ_to_Lab(reference.sRGB_to_XYZ(p.T))[:, 0] for p in (out, own))
    in_oklab, wanted = colour.to_oklab(out, colour.SRGB)[0], colour.to_oklab(own, colour.SRGB)[0]
    assert np.abs(in_oklab - wanted).max() < 3e-3
    assert np.abs(light - before).max() < 6  # a lightness of Oklab is not quite one of CIE
    assert colour.to_oklch(out, colour.SRGB)[1, 20:236].min() > 0.01


def test_colour_that_comes_in_may_stay_beneath():
    picture = ArraySource(np.full((4, 4, 3), (180, 90, 60), np.uint8))
    kept = [
        in_colour(Renderer(picture, Script((P["quad-tone"](keep=share),))).region(Rect(0, 0, 4, 4)))[:, 1, 1]
        for share in (0.0, 50.0, 100.0)
    ]
    spans = [float(np.ptp(rgb)) for rgb in kept]
    assert spans[0] < spans[1] < spans[2]


# Baths


def turned(*run):
    """How much colour each tone has, of the most any has."""
    chroma = lch(*run)[1]
    return chroma / chroma.max()


def test_sepia_takes_the_lights_first_and_selenium_the_darks():
    """Common practice, no source."""
    short = {"time": 25.0}
    sepia, selenium = (P["toner-bath"](toner=t, **short) for t in ("sepia", "selenium"))
    long = {"time": 400.0}
    for step, more in ((sepia, 190), (selenium, 60)):
        less = 250 - more
        full = lch(step.model_copy(update=long))[1]
        part = lch(step)[1] / np.maximum(full, 1e-6)  # how far each tone has come of what it can become
        assert part[more] > part[less] + 0.15, step.toner


@pytest.mark.parametrize(("toner", "low", "high"), [("sepia", 50, 80), ("gold", 235, 285), ("iron-blue", 235, 265),
                                                    ("copper", 25, 60), ("selenium", 0, 40)])  # fmt: skip
def test_each_bath_has_its_hue(toner, low, high):
    hue = lch(P["toner-bath"](toner=toner))[2][60:200]
    assert np.all((hue > low) & (hue < high))


def test_two_baths_one_after_another_give_split_tones():
    out = wedge(P["toner-bath"](toner="sepia", time=30.0), P["toner-bath"](toner="iron-blue", time=60.0))
    darks, lights = out[:, 70], out[:, 200]
    assert darks[2] > darks[0]
    assert lights[0] > lights[2]


def test_the_second_bath_finds_only_what_the_first_has_left():
    done = P["toner-bath"](toner="sepia", time=400.0, depth=120.0)
    blue = P["toner-bath"](toner="iron-blue")
    alone, after = lch(blue), lch(done, blue)
    assert abs(after[2, 128] - alone[2, 128]) > 90  # still sepia
    assert np.abs(lch(done)[1, 128] - after[1, 128]) < 0.02


def test_longer_and_deeper_means_more_and_paper_and_black_stay():
    steps = [lch(P["toner-bath"](time=t))[1, 128] for t in (0.0, 20.0, 60.0, 150.0, 400.0)]
    assert steps == sorted(steps)
    assert steps[0] < 1e-3
    for toner in ("sepia", "selenium", "gold", "iron-blue", "copper"):
        out = wedge(P["toner-bath"](toner=toner, depth=200.0))
        assert out[:, 255] == pytest.approx(1, abs=1e-3)
        assert out[:, 0].max() < 0.03
        assert np.all(np.diff(colour.to_oklab(out, colour.SRGB)[0]) > -1e-4)  # no tone overtakes a lighter one


# Paper, wash


def test_paper_reflects_its_colour_and_its_deepest_black():
    """Reflection density is the logarithm of the share of light that comes back, to base ten, negated (ISO 5-4)."""
    for dmax in (1.6, 2.1):
        out = colour.to_light(wedge(P["paper-tone"](paper="#ffffff", dmax=dmax, tone=0.0)))
        assert -np.log10(out[:, 0]) == pytest.approx([dmax] * 3, abs=0.01)
        assert out[:, 255] == pytest.approx(1, abs=1e-3)
    tinted = wedge(P["paper-tone"](paper="#f7f0e1", tone=0.0))
    assert tinted[:, 255] == pytest.approx(colour.parse_hex("#f7f0e1"), abs=2e-3)


def test_image_tone_is_warm_or_cold_in_the_middle_and_leaves_the_ends():
    for tone, warm in ((60.0, True), (-60.0, False)):
        out = wedge(P["paper-tone"](paper="#ffffff", tone=tone))
        assert (out[0, 128] > out[2, 128] + 0.01) == warm
        assert (out[2, 128] > out[0, 128] + 0.01) != warm
        assert np.ptp(out[:, 255]) < 2e-3
        assert np.ptp(out[:, 0]) < 5e-3


def test_a_wash_goes_from_its_beginning_to_its_end_and_stays_beyond():
    flat = ArraySource(np.full((200, 100), 255, np.uint8))
    ends = ((0.0, "#204060"), (100.0, "#c08040"))
    step = P["wash"](stops=ends, x1=50, y1=75, x2=50, y2=25, strength=100.0, blend="normal")
    out = Renderer(flat, Script((step,))).region(Rect(0, 0, 100, 200))
    for y, text in ((5, ends[1][1]), (195, ends[0][1])):
        assert out[:, y, 50] == pytest.approx(colour.parse_hex(text), abs=1e-3)
    assert np.all(np.diff(out[0, 50:150, 50]) < 0)  # red grows upwards
    aslant = step.model_copy(update={"x1": 20.0, "y1": 30.0, "x2": 80.0, "y2": 60.0})  # by 60 and 60 pixels
    out = Renderer(flat, Script((aslant,))).region(Rect(0, 0, 100, 200))
    assert np.abs(out[:, 60:120, 20:80] - out[:, 60:120, 20:80].transpose(0, 2, 1)).max() < 1e-6  # lies across its way
    straight = Renderer(flat, Script((step.model_copy(update={"y1": 25.0, "y2": 75.0}),))).region(Rect(0, 0, 100, 200))
    assert out[:, 90, 50] == pytest.approx(straight[:, 100, 50], abs=0.02)  # half-way, both
    round_ = P["wash"](stops=ends, form="round", x1=50, y1=50, x2=100, y2=50, strength=100.0, blend="normal")
    out = Renderer(flat, Script((round_,))).region(Rect(0, 0, 100, 200))
    assert out[:, 100, 50] == pytest.approx(colour.parse_hex(ends[0][1]), abs=0.02)
    assert out[:, 100, 90] == pytest.approx(out[:, 140, 50], abs=0.01)  # as far off, the same colour
    even = P["wash"](stops=ends, form="flat", strength=100.0, blend="normal")
    out = Renderer(flat, Script((even,))).region(Rect(0, 0, 100, 200))
    assert np.abs(out - np.reshape(colour.parse_hex(ends[0][1]), (3, 1, 1))).max() < 1e-3
    assert (step.placed(), even.placed()) == ("ramp", "")
