"""Stencils: shapes, strokes, ranges; joined, grown, feathered; the same on any tile and at any scale."""

import numpy as np
import pytest
from hypothesis import given, settings

from kyanoscript.core import colour
from kyanoscript.core.frame import Frame
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import TILE, Renderer
from kyanoscript.core.script import Script, ScriptError, dumps, from_json, loads
from kyanoscript.core.stencil import Hues, Outline, Oval, Ramp, Stencil, Stroke, Tones
from tests.conftest import make_colourful
from tests.strategies import stencil as any_stencil

P = load_all()
GRAY = ArraySource(np.full((400, 600), 128, np.uint8))
RGB = ArraySource(make_colourful(400, 600))


def mask(stencil, source=GRAY, scale=1.0, cache=None, before=()):
    shapes = stencil if isinstance(stencil, Stencil) else Stencil(shapes=tuple(stencil))
    renderer = Renderer(source, Script((*before, P["negative"](stencil=shapes))), cache)
    return renderer.stencil(len(before), Rect(0, 0, *renderer.size(scale)), scale)[0]


def test_an_oval_has_the_area_of_an_ellipse():
    found = mask([Oval(x=50, y=50, width=500, height=300, turn=30, soft=0)])
    assert found.sum() == pytest.approx(np.pi * 150 * 90, rel=0.005)
    assert mask([Oval(x=50, y=50, width=500, height=300, inverted=True)]).sum() > found.sum()


def test_an_oval_may_reach_and_lie_outside_the_picture():
    assert mask([Oval(x=-20, y=-20, width=100, height=100)]).max() == 0
    corner = mask([Oval(x=0, y=0, width=400, height=400, soft=0)])
    assert corner.sum() == pytest.approx(np.pi * 120**2 / 4, rel=0.02)


def test_a_ramp_goes_from_nothing_to_everything():
    found = mask([Ramp(x1=50, y1=75, x2=50, y2=25)])
    assert found[320].max() == 0
    assert found[80].min() == 1
    assert found[200].mean() == pytest.approx(0.5, abs=0.02)
    assert np.diff(found[:, 300]).max() <= 1e-6


def test_a_ramp_is_a_smooth_step_of_the_way_from_one_end_to_the_other():
    """Hermite's smooth step 3t² − 2t³ at the middles of pixels."""
    found = mask([Ramp(x1=20, y1=30, x2=70, y2=80)])
    across, down = np.meshgrid(np.arange(600) + 0.5, np.arange(400) + 0.5)
    t = np.clip(((across - 120) * 300 + (down - 120) * 200) / (300**2 + 200**2), 0, 1)
    assert np.abs(found - (3 * t**2 - 2 * t**3)).max() < 1e-5


def test_an_outline_is_its_area_and_crossing_itself_counts():
    """The shoelace formula (Meister 1769) for the area."""
    corners = ((10.0, 10.0), (60.0, 20.0), (50.0, 80.0), (20.0, 70.0))
    x, y = np.array(corners).T * ([6.0], [4.0])
    wanted = abs(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1))) / 2
    assert mask([Outline(points=corners)]).sum() == pytest.approx(wanted, rel=1e-3)
    twice_round = Outline(points=(*corners, *corners))
    assert mask([twice_round]).sum() == pytest.approx(wanted, rel=1e-3)


def line(y, **more):
    return Stroke(points=((10.0, y), (90.0, y)), size=100.0, **more)


def test_strokes_build_up_stroke_on_stroke_and_never_beyond_full():
    once, twice = mask([line(50, opacity=25)]), mask([line(50, opacity=25), line(50, opacity=25)])
    full = mask([line(50)])[200, 300]
    assert once[200, 300] == pytest.approx(0.25 * full, abs=0.01)
    assert twice[200, 300] == pytest.approx(1 - (1 - 0.25 * full) ** 2, abs=0.01)
    many = mask([line(50, opacity=60, flow=100)] * 12)
    assert 0.99 < many.max() <= 1


def test_flow_builds_up_along_the_way_and_opacity_holds_it():
    weak, strong = mask([line(50, flow=10)]), mask([line(50, flow=80)])
    assert weak[200, 300] < strong[200, 300] <= 1
    assert mask([line(50, flow=100, opacity=40)]).max() == pytest.approx(0.4, abs=1e-3)


def test_hardness_decides_how_much_of_the_brush_is_full():
    for hardness, share in ((100, 0.97), (0, 0.05)):
        row = mask([line(50, hardness=hardness, flow=100)])[:, 300]
        assert (row > 0.99).sum() / 60 >= share
        assert (row > 0.004).sum() <= 64


def test_a_big_soft_brush_on_its_coarse_grid_is_the_fine_one():
    """Painted on a grid four times coarser against painted pixel by pixel."""
    from kyanoscript.core.frame import Frame
    from kyanoscript.core.geometry import framing
    from kyanoscript.core.stencil import brush, mask
    from kyanoscript.core.stencil.ground import Ground

    stroke = Stroke(points=((20.0, 30.0), (70.0, 60.0)), size=250.0, hardness=20)
    ground = Ground(framing(Frame(), 600, 400), 1.0, lambda *_: None, lambda _, work: work())
    rect = Rect(0, 0, 600, 400)
    assert brush.stroke_factor(stroke, 600.0) > 1
    coarse = mask.joined([stroke], rect, ground)
    fine = brush.paint((stroke,), rect, ground)[1]
    assert np.abs(coarse - fine).max() < 0.02


def test_taking_away_and_intersecting():
    oval, half = (
        Oval(soft=0, width=400, height=400),
        Outline(points=((0.0, 0.0), (50.0, 0.0), (50.0, 100.0), (0.0, 100.0))),
    )
    whole = mask([oval]).sum()
    assert mask([oval, half.model_copy(update={"join": "take-away"})]).sum() == pytest.approx(whole / 2, rel=0.01)
    assert mask([oval, half.model_copy(update={"join": "intersect"})]).sum() == pytest.approx(whole / 2, rel=0.01)
    brushed = mask([oval, line(50, join="take-away", hardness=90, flow=100)])
    assert brushed[200, 300] < 0.02
    assert mask([line(50, join="take-away")])[10, 10] == 1  # taken away from everywhere


def test_a_stroke_may_intersect_with_what_is_there():
    oval, stroke = Oval(soft=0, width=400, height=400), line(50, hardness=90, flow=100)
    both = mask([oval, stroke.model_copy(update={"join": "intersect"})])
    assert both == pytest.approx(mask([oval]) * mask([stroke]), abs=2e-3)
    assert 0 < both.sum() < min(mask([oval]).sum(), mask([stroke]).sum())


@pytest.mark.parametrize(
    "shape",
    [
        Oval(x=30, y=60, width=300, height=150, turn=20, soft=30),
        Ramp(x1=20, y1=30, x2=70, y2=80),
        Outline(points=((10.0, 10.0), (60.0, 20.0), (50.0, 80.0), (20.0, 70.0))),
        Stroke(points=((20.0, 30.0), (80.0, 60.0)), size=60.0, hardness=50.0),
    ],
    ids=lambda shape: shape.shape,
)
def test_a_shape_stays_on_its_place_of_the_photograph_however_it_is_framed(shape):
    upright = mask([shape])
    run = (P["negative"](stencil=Stencil(shapes=(shape,))),)
    turned = Renderer(GRAY, Script(run, Frame(turns=1))).stencil(0, Rect(0, 0, 400, 600), 1.0)[0]
    assert np.abs(turned - np.rot90(upright, -1)).max() < 0.06  # a rim is cut across rows, and so a little otherwise
    cut = Renderer(GRAY, Script(run, Frame(x=50.0, y=60.0, width=60.0, height=60.0)))
    assert cut.size(1.0) == (360, 240)
    assert np.abs(cut.stencil(0, Rect(0, 0, 360, 240), 1.0)[0] - upright[120:360, 120:480]).max() < 0.01


def test_growing_and_shrinking_move_the_rim():
    def radius(**more):
        return np.sqrt(mask(Stencil(shapes=(Oval(width=300, height=300, soft=0),), **more)).sum() / np.pi)

    plain = radius()
    assert radius(grow=10) == pytest.approx(plain + 6, abs=0.5)
    assert radius(grow=-10) == pytest.approx(plain - 6, abs=0.5)
    assert radius(grow=60) == pytest.approx(plain + 36, abs=3)


def test_feather_softens_the_rim_and_keeps_the_amount():
    hard, soft = (mask(Stencil(shapes=(Oval(width=400, height=400, soft=0),), feather=f)) for f in (0, 80))
    assert soft.sum() == pytest.approx(hard.sum(), rel=0.01)
    assert ((soft > 0.05) & (soft < 0.95)).sum() > 10 * ((hard > 0.05) & (hard < 0.95)).sum()


def test_it_limits_only_with_shapes_and_strength():
    assert Stencil(shapes=(Oval(),)).limits
    assert not Stencil().limits
    assert not Stencil(shapes=(Oval(),), strength=0.0).limits


def test_inverted_and_weakened():
    oval = (Oval(soft=0),)
    plain = mask(Stencil(shapes=oval))
    assert np.allclose(mask(Stencil(shapes=oval, invert=True)), 1 - plain, atol=1e-6)
    assert mask(Stencil(shapes=oval, strength=30)).min() == pytest.approx(0.7)


def test_tones_are_found_in_what_comes_into_the_pass():
    ramp = ArraySource(np.repeat(np.arange(256, dtype=np.uint8)[None], 40, 0))
    found = mask([Tones(low=50, high=100, soft=20)], ramp)[20]
    assert found[50:101].min() > 0.999
    assert found[:30].max() == found[121:].max() == 0
    turned = mask([Tones(low=50, high=100, soft=20)], ramp, before=(P["negative"](),))[20]
    assert np.allclose(turned, found[::-1], atol=1e-4)
    photo = mask([Tones(low=50, high=100, soft=20, of="photo")], ramp, before=(P["negative"](),))[20]
    assert np.allclose(photo, found, atol=1e-6)


def test_hues_are_found_in_the_photograph_even_behind_a_gray():
    inks = np.array([(200, 40, 40), (40, 160, 60), (40, 60, 200), (128, 128, 128)], np.uint8)
    source = ArraySource(np.repeat(np.repeat(inks[None], 30, 0), 30, 1))
    found = mask([Hues(hue=264, width=60, soft=20)], source, before=(P["gray-weights"](),))[15]
    assert found[75] > 0.95
    assert max(found[15], found[45], found[105]) == 0


@given(any_stencil)
@settings(max_examples=40, deadline=None)
def test_any_stencil_is_the_same_on_tiles_and_within_0_and_1(stencil):
    step, tiled = mask(stencil, RGB), mask(stencil, RGB, cache=TileCache())
    assert np.abs(step - tiled).max() < 1e-4
    assert step.min() >= -1e-6
    assert step.max() <= 1 + 1e-6


@pytest.mark.parametrize(
    "stencil",
    [
        Stencil(shapes=(Oval(turn=20), line(40, join="take-away")), feather=30),
        Stencil(shapes=(Stroke(points=((10.0, 10.0), (80.0, 90.0)), size=200.0),), grow=8),
        Stencil(shapes=(Outline(points=((10.0, 10.0), (90.0, 30.0), (40.0, 90.0))), Ramp(join="intersect"))),
    ],
)
def test_a_stencil_at_a_quarter_is_the_whole_one_reduced(stencil):
    full, small = mask(stencil), mask(stencil, scale=0.25)
    reduced = full.reshape(100, 4, 150, 4).mean((1, 3))
    assert np.abs(small - reduced).mean() < 0.01
    assert np.abs(small - reduced).max() < 0.25


def test_no_seams_across_tiles_under_a_feathered_stencil():
    stencil = Stencil(shapes=(Oval(width=800, height=500),), feather=80)
    picture = ArraySource(np.full((500, 900), 150, np.uint8))
    script = Script((P["soften"](radius=20.0), P["curves"](every=((0.0, 60.0), (255.0, 140.0)), stencil=stencil)))
    out = Renderer(picture, script, TileCache()).region(Rect(0, 0, 900, 500))[0]
    steps = np.abs(np.diff(out, axis=1))
    assert steps[:, TILE - 1].max() <= steps[:, TILE - 30 : TILE + 30].max() + 1e-6
    second = np.abs(np.diff(out, 2, axis=1))
    assert second[:, TILE - 2 : TILE].max() < 3 * np.delete(second, [TILE - 2, TILE - 1], 1).max() + 1e-6


def test_a_pass_acts_only_where_its_stencil_lets_it():
    stencil = Stencil(shapes=(Oval(width=300, height=300, soft=0),))
    renderer = Renderer(GRAY, Script((P["negative"](stencil=stencil, strength=50),)))
    out = renderer.region(Rect(0, 0, 600, 400))[0]
    assert out[200, 300] == pytest.approx(0.5, abs=0.003)
    assert out[10, 10] == np.float32(128 / 255)


def test_several_passes_share_a_named_stencil():
    data = {
        "kyanoscript": 1,
        "stencils": {"sky": {"shapes": [{"shape": "ramp"}], "feather": 5}},
        "passes": [{"pass": "negative", "stencil": "sky"}, {"pass": "levels", "stencil": "sky"}],
    }
    script = from_json(data)
    assert script.passes[0].stencil == "sky"
    first, second = script.settled().passes
    assert first.stencil == second.stencil == Stencil(shapes=(Ramp(),), feather=5)
    assert loads(dumps(script)) == script
    wider = from_json({**data, "stencils": {"sky": {"shapes": [{"shape": "oval"}]}}})
    whole = Rect(0, 0, 600, 400)
    assert not np.array_equal(Renderer(GRAY, script).region(whole), Renderer(GRAY, wider).region(whole))


@pytest.mark.parametrize(
    ("stencil", "wanted"),
    [
        ({"shapes": [{"shape": "ovl"}]}, "shape \"ovl\", which is unknown; did you mean 'oval'"),
        ({"shapes": [{"shape": "oval", "soft": 101}]}, "oval.soft is 101; it must be 0…100 %"),
        ({"shapes": [{"shape": "oval", "sft": 1}]}, "oval.sft is unknown; did you mean 'soft'"),
        ({"shapes": [{"shape": "stroke"}]}, "stroke.points is missing"),
        ({"feather": -3}, "stencil.feather is -3; it must be 0…300 ‰"),
        ("skye", "stencil is 'skye', which the script does not have; did you mean 'sky'"),
        (5, "stencil is 5; it must be a stencil"),
        ({"shapes": [{"shape": "oval", "join": "ad"}]}, "did you mean 'add'"),
    ],
)
def test_what_is_wrong_in_a_stencil_is_one_clear_line(stencil, wanted):
    with pytest.raises(ScriptError) as error:
        from_json({"kyanoscript": 1, "stencils": {"sky": {}}, "passes": [{"pass": "curves", "stencil": stencil}]})
    assert wanted in str(error.value)
    assert "\n" not in str(error.value)


def test_gray_where_the_stencil_keeps_colour_out_is_still_exported_in_colour():
    """The print's planes are known without looking: a coloured corner must not be missed."""
    tone = P["gradient-map"](stencil=Stencil(shapes=(Oval(x=90, y=90, width=50, height=50),)))
    renderer = Renderer(GRAY, Script((tone,)))
    assert renderer.planes == 3
    corner = renderer.region(Rect(0, 0, 5, 5))
    assert np.ptp(corner, axis=0).max() == 0
    assert colour.gray_of(corner, colour.SRGB)[0, 0, 0] == pytest.approx(128 / 255, abs=1e-5)


def test_strokes_laid_one_by_one_are_those_laid_together():
    """While a stroke is drawn, those before it are kept; the mask must be the one that is worked out afresh."""
    rng = np.random.default_rng(3)
    cache = TileCache()
    strokes: tuple[Stroke, ...] = ()
    for k in range(7):
        way = tuple((round(float(x), 3), round(float(y), 3)) for x, y in rng.uniform(0, 100, (5, 2)))
        for end in (2, 5):  # the stroke grows under the hand
            size, hard = float(rng.uniform(20, 200)), float(rng.choice([0, 95]))
            step = Stroke(points=way[:end], size=size, hardness=hard, join="take-away" if k % 3 == 2 else "add")
            script = Script((P["negative"](stencil=Stencil(shapes=(*strokes, step))),))
            rect = Rect(40, 30, 200, 150)
            drawn = Renderer(GRAY, script, cache, keep=0).stencil(0, rect)
            afresh = Renderer(GRAY, script).stencil(0, rect)
            assert np.array_equal(drawn, afresh)
        strokes = (*strokes, step)


def test_a_growing_stroke_changes_only_near_its_end():
    """So that what is drawn does not shimmer behind the hand."""
    way = tuple((10 + k * 1.3, 50.0) for k in range(40))
    masks = []
    for end in (30, 31):
        stroke = Stroke(points=way[:end], size=60, hardness=90)
        script = Script((P["negative"](stencil=Stencil(shapes=(stroke,))),))
        masks.append(Renderer(GRAY, script).stencil(0, Rect(0, 0, GRAY.width, GRAY.height))[0])
    columns = np.flatnonzero(np.abs(masks[1] - masks[0]).max(axis=0) > 1e-6) / GRAY.width
    reach = 60 / 2000 + 60 / 2000 / 4 + 0.01
    assert columns.min() > way[29][0] / 100 - reach
    assert columns.max() < way[30][0] / 100 + reach
