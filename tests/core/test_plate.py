"""Plates: something prepared on its own and printed over the print."""

import numpy as np
import pytest

from kyanoscript.core import colour
from kyanoscript.core.blend import blend
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.bases import Picture
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, ScriptError, dumps, from_json, loads
from kyanoscript.core.stencil import Oval, Stencil
from tests.conftest import make_colourful

P = load_all()
SOURCE = ArraySource(make_colourful(400, 500))
WHOLE = Rect(0, 0, 500, 400)
BEFORE = (P["gray-weights"](), P["levels"](gamma=1.3))


class Shelf:
    """Pictures by name, without files."""

    def __init__(self, **pictures):
        self.pictures = pictures

    def find(self, name):
        return self.pictures.get(name)


def render(*passes, library=None, cache=None, source=SOURCE):
    return Renderer(source, Script(passes), cache, library=library).region(WHOLE)


def test_the_print_so_far_blurred_and_laid_back_is_what_one_would_do_by_hand():
    plate = P["plate"](source="print", run=(P["soften"](radius=12.0),), blend="soft-light", strength=45)
    base, soft = render(*BEFORE), render(*BEFORE, P["soften"](radius=12.0))
    assert np.abs(render(*BEFORE, plate) - blend(base, soft, "soft-light", 0.45)).max() < 1e-5


def test_a_plate_from_the_photograph_brings_its_colours_back():
    plate = P["plate"](source="photo", run=(P["negative"](),), strength=30)
    wanted = blend(render(*BEFORE), render(P["negative"]()), "normal", 0.3)
    assert np.abs(render(*BEFORE, plate) - wanted).max() < 1e-6


def test_a_flat_plate_with_a_stencil_fills_an_outlined_area():
    plate = P["plate"](source="flat", tone="#ffffff", stencil=Stencil(shapes=(Oval(width=300, height=300, soft=0),)))
    out = render(*BEFORE, plate)
    assert out[:, 200, 250].min() == 1
    assert np.allclose(out[:, 5, 5], render(*BEFORE)[0, 5, 5])


def test_plates_within_plates():
    inner = P["plate"](source="flat", tone="#808080", strength=50)
    outer = P["plate"](source="photo", run=(P["gray-weights"](), inner))
    by_hand = blend(render(P["gray-weights"]()), np.full((3, 400, 500), 128 / 255, np.float32), "normal", 0.5)
    assert np.abs(render(outer) - by_hand).max() < 1e-6


def test_tiles_and_one_piece_are_the_same_with_nested_plates():
    inner = P["plate"](source="print", run=(P["soften"](radius=3.0),), blend="overlay", strength=60)
    plate = P["plate"](source="print", run=(P["negative"](), inner, P["soften"](radius=25.0)), blend="screen")
    run = (*BEFORE, plate, P["sharpen"]())
    assert np.abs(render(*run) - render(*run, cache=TileCache())).max() < 1e-5
    part = Renderer(SOURCE, Script(run)).region(Rect(370, 200, 60, 50))
    assert np.abs(render(*run)[:, 200:250, 370:430] - part).max() < 1e-5


def square(alpha=None):
    """A red square, 100 pixels; with alpha, a round hole of nothing around a disc."""
    red = np.zeros((100, 100, 3), np.uint8)
    red[..., 0] = 200
    return Picture(ArraySource(red), alpha)


def disc():
    y, x = np.mgrid[:100, :100] - 49.5
    inside = (np.hypot(x, y) < 40).astype(np.float32)
    return ArraySource(colour.to_encoded(inside).astype(np.float32))


def test_a_picture_is_placed_scaled_and_turned():
    plate = P["plate"](source="picture", picture="red", x=30, y=50, size=20, turn=45)
    out = render(plate, library=Shelf(red=square()))
    red = (np.abs(out - np.array([200 / 255, 0, 0])[:, None, None]).max(0)) < 0.01
    ys, xs = np.nonzero(red)
    assert (xs.mean(), ys.mean()) == pytest.approx((149.5, 199.5), abs=0.6)
    assert red.sum() == pytest.approx(100 * 100, rel=0.05)  # 20 % of 500
    assert np.ptp(xs) == pytest.approx(100 * np.sqrt(2), abs=4)
    assert np.array_equal(out[:, 5, 490], render()[:, 5, 490])


def test_the_outline_of_a_picture_counts_and_softens_with_it():
    plate = P["plate"](source="picture", picture="red", size=40)
    sharp = render(plate, library=Shelf(red=square(disc())))
    soft = render(plate.model_copy(update={"run": (P["soften"](radius=10.0),)}), library=Shelf(red=square(disc())))
    assert sharp[0, 200, 250] == pytest.approx(200 / 255, abs=0.01)
    assert np.allclose(sharp[:, 200 - 95, 250 - 95], render()[:, 105, 155], atol=1e-5)  # a corner: nothing there
    rim = slice(250 + 60, 250 + 100)
    assert np.abs(np.diff(soft[1, 200, rim])).max() < 0.6 * np.abs(np.diff(sharp[1, 200, rim])).max()


def test_a_picture_that_is_not_there_prints_nothing():
    plate = P["plate"](source="picture", picture="gone")
    assert np.array_equal(render(*BEFORE, plate, library=Shelf()), render(*BEFORE))
    assert np.array_equal(render(*BEFORE, plate), render(*BEFORE))


def test_plates_survive_json_and_their_mistakes_are_named():
    script = Script((P["plate"](run=(P["plate"](source="flat"), P["soften"](radius=4.0))),))
    assert loads(dumps(script)) == script
    wrong = {"kyanoscript": 1, "passes": [{"pass": "plate", "run": [{"pass": "soften", "radius": 999}]}]}
    with pytest.raises(ScriptError, match=r"pass 1, pass 1 of its run: soften\.radius is 999; it must be 0…300 ‰"):
        from_json(wrong)
    deep = {"pass": "plate"}
    for _ in range(20):
        deep = {"pass": "plate", "run": [deep]}
    with pytest.raises(ScriptError, match="at most 8 deep"):
        from_json({"kyanoscript": 1, "passes": [deep]})


def test_a_picture_that_comes_later_or_changes_is_seen_at_once():
    """Tiles kept while it was missing, or while it was another one, are not shown for it."""
    cache, run = TileCache(), (P["plate"](source="picture", picture="red", size=40), P["levels"](gamma=1.2))
    missing = render(*run, library=Shelf(), cache=cache)
    there = render(*run, library=Shelf(red=square()), cache=cache)
    cut = render(*run, library=Shelf(red=square(disc())), cache=cache)
    assert np.abs(there - missing).max() > 0.1
    assert np.abs(there - cut).max() > 0.1
