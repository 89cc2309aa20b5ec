"""The seven laws, over every pass there is and over random runs of them."""

import json
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kyanoscript.core import script as scripts
from kyanoscript.core.blend import MODES, blend
from kyanoscript.core.colour import in_colour
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.tone.dodge_burn import Exposing
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, walk
from kyanoscript.core.stencil import Oval, Ramp, Stencil
from tests.conftest import make_colourful
from tests.strategies import PASSES, a_pass, any_script, unframed

PICTURE = make_colourful(400, 500)  # more than one tile each way
COLOUR, GRAY = ArraySource(PICTURE), ArraySource(PICTURE[..., 1])
WHOLE = Rect(0, 0, 500, 400)
SMALL = make_colourful(64, 96)  # for laws that hold for each pixel by itself
SMALL_COLOUR, SMALL_GRAY, SMALL_WHOLE = ArraySource(SMALL), ArraySource(SMALL[..., 1]), Rect(0, 0, 96, 64)
few = settings(max_examples=15, suppress_health_check=list(HealthCheck))
each = pytest.mark.parametrize("model", PASSES, ids=lambda m: m.kind)


def whole(source, script):
    return Renderer(source, script).region(WHOLE)


@given(any_script, st.floats(0, 1), st.floats(0, 1), st.sampled_from([1.0, 0.6]))
@settings(few, max_examples=40)
def test_law_1_a_region_is_the_same_part_of_the_whole(script, x, y, scale):
    renderer = Renderer(COLOUR, script)
    width, height = renderer.size(scale)
    w, h = min(90, width), min(80, height)
    rect = Rect(round(x * (width - w)), round(y * (height - h)), w, h)
    wanted = in_colour(renderer.region(Rect(0, 0, width, height), scale))[:, rect.y : rect.bottom, rect.x : rect.right]
    hard = any(step.kind == "threshold" for step in walk(script.passes))
    for cache in (None, TileCache()):
        away = np.abs(in_colour(Renderer(COLOUR, script, cache).region(rect, scale)) - wanted)
        # Where one bit decides between black and white (a threshold), a few pixels may fall on the other side.
        assert np.mean(away > 1e-5) <= (0.02 if hard else 0)


MODERATE = {  # law 2: values whose result is not a threshold; a threshold of a mean is not a mean of thresholds
    "levels": {"in_black": 20.0, "in_white": 230.0, "gamma": 1.4},
    "gradient-map": {"stops": ((0.0, "#102030"), (60.0, "#a09080"), (100.0, "#fff0e0"))},
    "gray-weights": {"red": 60.0, "ring": ((60.0, 40.0),)},
    "colour-balance": {"mids_red": 30.0, "highlights_blue": -20.0},
    "exposure": {"exposure": 0.5, "contrast": 20.0, "shadows": 30.0},
    "hue-chroma": {"hue": 30.0, "chroma": -40.0},
    "curves": {"every": ((0.0, 20.0), (128.0, 140.0), (255.0, 240.0))},
    "threshold": {"softness": 120.0},
    "dodge-burn": {"strokes": (Exposing(points=((20.0, 20.0), (80.0, 70.0)), exposure=60.0, size=300.0),)},
    "sharpen": {"amount": 80.0, "radius": 6.0},
    "plate": {"run": (load_all()["soften"](radius=30.0),)},
}


@each
@pytest.mark.parametrize("where", [None, Stencil(shapes=(Oval(), Ramp(join="intersect")), feather=20.0)])
def test_law_2_a_preview_at_a_quarter_is_the_full_render_shrunk(model, where):
    """Stated tolerance: a mean of 2 % on a picture that is smooth but for a few hard borders, with moderate values."""
    script = Script((model(**MODERATE.get(model.kind, {}), stencil=where, strength=80.0),))
    small = Renderer(COLOUR, script).region(Rect(0, 0, 125, 100), 0.25)
    full = np.moveaxis(in_colour(whole(COLOUR, script)), 0, 2)
    shrunk = cv2.resize(full, (125, 100), interpolation=cv2.INTER_AREA)
    assert np.abs(np.moveaxis(in_colour(small), 0, 2) - shrunk).mean() < 0.02


@each
@given(data=st.data())
@few
def test_law_3_strength_zero_or_off_is_the_input_bit_for_bit(model, data):
    step = data.draw(a_pass(model))
    nothing = step.model_copy(update={"strength": 0.0})
    off = step.model_copy(update={"on": False})
    photo = Renderer(SMALL_COLOUR, Script()).region(SMALL_WHOLE)
    for idle in (nothing, off):
        assert np.array_equal(Renderer(SMALL_COLOUR, Script((idle,))).region(SMALL_WHOLE), photo)


@given(any_script)
@settings(few, max_examples=60)
def test_law_4_a_script_through_json_is_equal(script):
    assert scripts.loads(scripts.dumps(script)) == script
    assert scripts.from_json(json.loads(json.dumps(scripts.to_json(script)))) == script


@given(unframed)
@few
def test_law_5_the_same_bits_on_any_number_of_threads(script):
    tiles = [(tx, ty) for ty in range(2) for tx in range(2)]

    def render(threads):
        renderer = Renderer(COLOUR, script, TileCache())
        with ThreadPoolExecutor(threads) as pool:
            return [t.copy() for t in pool.map(lambda at: renderer.tile(*at, 1.0), tiles)]

    once = render(1)
    for threads in (2, 4):
        assert all(np.array_equal(a, b) for a, b in zip(once, render(threads), strict=True))


@given(unframed)
@settings(few, max_examples=40)
def test_law_6_finite_within_black_and_white_and_of_the_same_shape(script):
    for source in (SMALL_COLOUR, SMALL_GRAY):
        out = Renderer(source, script).region(SMALL_WHOLE)
        assert out.shape[1:] == (64, 96)
        assert out.dtype == np.float32
        assert np.isfinite(out).all()
        assert out.min() >= -1e-5
        assert out.max() <= 1 + 1e-5


@each
@given(data=st.data())
@few
def test_law_7_gray_in_gray_out_unless_the_pass_colours(model, data):
    step = data.draw(a_pass(model)).model_copy(update={"strength": 80.0, "stencil": None})
    renderer = Renderer(SMALL_GRAY, Script((step,)))
    out = renderer.region(SMALL_WHOLE)
    assert len(out) <= renderer.planes
    if not step.colours():
        assert len(out) == 1


@each
@pytest.mark.parametrize("mode", MODES)
def test_every_blend_mode_works_with_every_pass(model, mode):
    """What it makes of the picture at full strength is laid over the picture as `blend` does it, by half."""
    values = {key: value for key, value in model.samples.items() if key not in ("blend", "strength", "stencil")}
    below = in_colour(Renderer(SMALL_COLOUR, Script()).region(SMALL_WHOLE))
    over = Renderer(SMALL_COLOUR, Script((model(**values, blend="normal", strength=100),))).region(SMALL_WHOLE)
    out = Renderer(SMALL_COLOUR, Script((model(**values, blend=mode, strength=50),))).region(SMALL_WHOLE)
    away = np.abs(in_colour(out) - in_colour(blend(below, over, mode, 0.5)))
    assert away.max() < 1e-4


@each
def test_input_planes_are_never_written_to(model):
    renderer = Renderer(COLOUR, Script(), TileCache())
    tile = renderer.tile(0, 0, 1.0)
    before = tile.copy()
    Renderer(COLOUR, Script((model(),)), renderer.cache).tile(0, 0, 1.0)
    assert np.array_equal(tile, before)


@each
def test_a_wedge_goes_through_it_or_past_it(model):
    """The ladder shows what each gray becomes; passes that depend on the place or on what lies around are left out."""
    made = Renderer(COLOUR, Script((model(**model.samples),))).wedge()
    assert made.shape[1:] == (1, 256)
    assert np.isfinite(made).all()
    if not model.pointwise:
        assert np.array_equal(made[0, 0], np.linspace(0, 1, 256, dtype=np.float32))


@each
def test_its_sample_shows_what_it_does(model):
    """What the chooser shows of a pass differs from the picture, unless it can do nothing before something is drawn."""
    shown = in_colour(whole(COLOUR, Script((model(**model.samples),))))
    differs = np.abs(shown - in_colour(whole(COLOUR, Script()))).mean() * 255
    assert (differs > 0.4) != (bool(model.draws) and not model.samples), differs


@each
def test_declarations_are_complete(model):
    assert model.kind
    assert model.label
    assert model.about
    for name, spec in model.params().items():
        assert spec.label, name
        assert spec.range_text(), name
        if spec.kind == "number":
            assert spec.unit or spec.high > 1, f"{name}: a share is declared in per cent"
            assert spec.low <= model.model_fields[name].default <= spec.high
    for start in model.starts.values():
        model(**start)
