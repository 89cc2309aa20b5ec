"""The seven laws, over every pass there is and over random runs of them."""

import json
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kyanoscript.core import script as scripts
from kyanoscript.core.blend import MODES
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from tests.conftest import make_colourful

PASSES = list(load_all().values())
PICTURE = make_colourful(400, 500)  # more than one tile each way
COLOUR, GRAY = ArraySource(PICTURE), ArraySource(PICTURE[..., 1])
WHOLE = Rect(0, 0, 500, 400)


def value_of(spec):
    """A strategy for any legal value of a parameter."""
    if spec.kind == "number":
        return st.floats(spec.low, spec.high).map(lambda v: round(v, spec.decimals))
    if spec.kind == "choice":
        return st.sampled_from([value for value, _ in spec.choices])
    if spec.kind == "toggle":
        return st.booleans()
    if spec.kind == "ring":
        handle = st.tuples(st.integers(0, 359).map(float), st.integers(-100, 100).map(float))
        return st.lists(handle, max_size=6).map(tuple)
    ink = st.from_regex("#[0-9a-f]{6}", fullmatch=True)
    return st.lists(st.tuples(st.integers(0, 100).map(float), ink), min_size=1, max_size=6).map(tuple)


def a_pass(model):
    """A strategy for a pass with any legal values, switched on."""
    values = {name: value_of(spec) for name, spec in model.params().items() if name != "on"}
    return st.builds(model, **values)


any_pass = st.sampled_from(PASSES).flatmap(a_pass)
any_run = st.lists(any_pass, min_size=1, max_size=4).map(lambda run: Script(tuple(run)))
few = settings(max_examples=15, deadline=None)
each = pytest.mark.parametrize("model", PASSES, ids=lambda m: m.kind)


def whole(source, script):
    return Renderer(source, script).region(WHOLE)


@given(any_run, st.integers(0, 410), st.integers(0, 320))
@few
def test_law_1_a_region_is_the_same_part_of_the_whole(script, x, y):
    rect = Rect(x, y, 90, 80)
    wanted = whole(COLOUR, script)[:, y : y + 80, x : x + 90]
    for cache in (None, TileCache()):
        assert np.abs(Renderer(COLOUR, script, cache).region(rect) - wanted).max() <= 1e-5


@each
@given(data=st.data())
@few
def test_law_2_a_preview_at_a_quarter_is_the_full_render_shrunk(model, data):
    """Stated tolerance: a mean of 2 % on a picture that is smooth but for a few hard borders, with moderate values."""
    one = data.draw(a_pass(model))
    if model.kind == "levels":  # an extreme range makes a threshold, and a threshold of a mean is not a mean
        one = model(in_black=20, in_white=230, gamma=1.4, strength=one.strength, blend="normal")
    if model.kind == "gradient-map":
        one = model(stops=((0.0, "#102030"), (60.0, "#a09080"), (100.0, "#fff0e0")), blend="normal")
    if model.kind == "gray-weights":
        one = model(ring=one.ring[:2], blend="normal", strength=one.strength)
    script = Script((one,))
    small = Renderer(COLOUR, script).region(Rect(0, 0, 125, 100), 0.25)
    full = np.moveaxis(whole(COLOUR, script), 0, 2)
    shrunk = cv2.resize(full, (125, 100), interpolation=cv2.INTER_AREA).reshape(100, 125, -1)
    assert np.abs(np.moveaxis(small, 0, 2) - shrunk).mean() < 0.02


@each
@given(data=st.data())
@few
def test_law_3_strength_zero_or_off_is_the_input_bit_for_bit(model, data):
    one = data.draw(a_pass(model))
    nothing = one.model_copy(update={"strength": 0.0})
    off = one.model_copy(update={"on": False})
    photo = whole(COLOUR, Script())
    for idle in (nothing, off):
        assert np.array_equal(whole(COLOUR, Script((idle,))), photo)


@given(any_run)
@settings(max_examples=60, deadline=None)
def test_law_4_a_script_through_json_is_equal(script):
    assert scripts.loads(scripts.dumps(script)) == script
    assert scripts.from_json(json.loads(json.dumps(scripts.to_json(script)))) == script


@given(any_run)
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


@given(any_run)
@settings(max_examples=30, deadline=None)
def test_law_6_finite_within_black_and_white_and_of_the_same_shape(script):
    for source in (COLOUR, GRAY):
        out = whole(source, script)
        assert out.shape[1:] == (400, 500)
        assert out.dtype == np.float32
        assert np.isfinite(out).all()
        assert out.min() >= -1e-5
        assert out.max() <= 1 + 1e-5


@each
@given(data=st.data())
@few
def test_law_7_gray_in_gray_out_unless_the_pass_colours(model, data):
    one = data.draw(a_pass(model)).model_copy(update={"strength": 80.0})
    out = whole(GRAY, Script((one,)))
    assert (len(out) == 1) or one.colours()
    if not one.colours():
        assert len(out) == 1


@each
@pytest.mark.parametrize("mode", MODES)
def test_every_blend_mode_works_with_every_pass(model, mode):
    out = whole(COLOUR, Script((model(blend=mode, strength=50),)))
    assert np.isfinite(out).all()


@each
def test_input_planes_are_never_written_to(model):
    renderer = Renderer(COLOUR, Script(), TileCache())
    tile = renderer.tile(0, 0, 1.0)
    before = tile.copy()
    Renderer(COLOUR, Script((model(),)), renderer.cache).tile(0, 0, 1.0)
    assert np.array_equal(tile, before)


@each
def test_declarations_are_complete(model):
    assert model.kind
    assert model.label
    assert model.about
    for name, spec in model.params().items():
        assert spec.label, name
        assert spec.range_text(), name
        if spec.kind == "number":
            assert spec.low <= model.model_fields[name].default <= spec.high
    for start in model.starts.values():
        model(**start)
