"""The renderer: tiles and regions, margins, measures, cache."""

import threading
from typing import ClassVar

import cv2
import numpy as np
import pytest

from kyanoscript.core.colour import in_colour
from kyanoscript.core.params import number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.gray.gray_weights import GrayWeights
from kyanoscript.core.passes.tone.levels import Levels
from kyanoscript.core.passes.tone.negative import Negative
from kyanoscript.core.passes.toning.gradient_map import GradientMap
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import TILE, Renderer
from kyanoscript.core.script import MOST_PASSES, Script
from kyanoscript.core.watching import GivenUp
from tests.conftest import make_colourful

SOURCE = ArraySource(make_colourful(600, 700))
RUN = Script((GrayWeights(red=60), Levels(gamma=1.3), GradientMap(strength=70, blend="soft-light")))


class Blurred(Pass):
    """A neighbourhood pass of the tests' own: the renderer must give it its margin."""

    kind: ClassVar[str] = "blurred"
    share: float = number(1, 0, 10, "%", "Radius")

    def margin(self, longer):
        return 4 * round(self.share / 100 * longer) + 4  # OpenCV cuts the bell off at four sigma

    def apply(self, planes, place):
        sigma = self.share / 100 * place.longer
        blurred = [cv2.GaussianBlur(p, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE) for p in planes]
        return place.inner(np.stack(blurred))


class Evened(Pass):
    """A measuring pass of the tests' own: subtracts the mean of the whole picture."""

    kind: ClassVar[str] = "evened"

    def measure(self, proxy):
        return float(proxy.mean())

    def apply(self, planes, place):
        return np.clip(planes - place.measured + 0.5, 0, 1)


def whole(script, cache=None):
    return Renderer(SOURCE, script, cache).region(Rect(0, 0, 700, 600))


def test_tiles_and_one_piece_are_the_same_pixels():
    assert np.array_equal(whole(RUN), whole(RUN, TileCache()))


@pytest.mark.parametrize("extra", [Blurred(share=2), Evened()])
def test_margins_and_measures_leave_no_seams(extra):
    script = Script((GrayWeights(), extra, Levels(gamma=1.2), extra))
    step, tiled = whole(script), whole(script, TileCache())
    assert np.abs(step - tiled).max() < 1e-5
    rect = Rect(TILE - 30, TILE - 40, 100, 90)
    part = Renderer(SOURCE, script).region(rect)
    assert np.abs(part - step[:, rect.y : rect.bottom, rect.x : rect.right]).max() < 1e-5
    steps = np.diff(tiled, axis=2) - np.diff(step, axis=2)  # across the borders of tiles as anywhere else
    assert np.abs(steps[:, :, TILE - 1]).max() < 1e-5


def test_measure_of_a_pass_is_taken_from_its_own_input():
    script = Script((Levels(out_white=128), Evened()))
    assert whole(script).mean() == pytest.approx(0.5, abs=0.01)


def test_only_passes_after_a_change_are_rendered_again():
    counted = []

    class Counting(Levels):
        def apply(self, planes, place):
            counted.append(self.in_black)
            return super().apply(planes, place)

    cache = TileCache()
    first, second = Counting(in_black=1), Counting(in_black=2)
    Renderer(SOURCE, Script((first, second)), cache).tile(0, 0, 1.0)
    counted.clear()
    changed = Counting(in_black=3)
    Renderer(SOURCE, Script((first, changed)), cache).tile(0, 0, 1.0)
    assert counted == [3]
    counted.clear()
    Renderer(SOURCE, Script((first, second)), cache).tile(0, 0, 1.0)
    assert counted == []


def test_cache_stays_within_its_bound():
    cache = TileCache(limit=3 * TILE * TILE * 4 * 4)
    whole(RUN, cache)
    assert cache.used <= cache.limit


def test_upto_shows_the_print_as_it_leaves_a_pass():
    renderer = Renderer(SOURCE, RUN)
    rect = Rect(10, 10, 50, 50)
    assert np.array_equal(renderer.region(rect, upto=0), Renderer(SOURCE, Script()).region(rect))
    assert np.array_equal(renderer.region(rect, upto=2), Renderer(SOURCE, Script(RUN.passes[:2])).region(rect))


def test_wedge_shows_what_becomes_of_each_gray():
    wedge = Renderer(SOURCE, RUN).wedge(2)
    assert wedge.shape == (3, 1, 256)
    gray = np.linspace(0, 1, 256, dtype=np.float32).reshape(1, 1, 256)
    source = ArraySource(gray.reshape(1, 256))
    assert np.abs(wedge - Renderer(source, Script(RUN.passes[2:])).region(Rect(0, 0, 256, 1))).max() < 1e-6
    assert np.array_equal(in_colour(Renderer(SOURCE, Script()).wedge())[0], gray[0])


@pytest.mark.parametrize(
    ("rect", "scale"),
    [
        (Rect(-1, 0, 5, 5), 1.0),
        (Rect(0, 0, 701, 5), 1.0),
        (Rect(0, 0, 0, 5), 1.0),
        (Rect(0, 0, 5, 5), 0.0),
        (Rect(0, 0, 5, 5), 1.5),
    ],
)
def test_a_region_outside_the_print_is_refused(rect, scale):
    with pytest.raises(ValueError, match=r"region|scale|lie"):
        Renderer(SOURCE, RUN).region(rect, scale)


def test_a_closed_cache_holds_nothing_and_ends_work_that_still_uses_it():
    """The photograph it belongs to was let go: its memory is free at once."""
    cache = TileCache()
    cache.make("tile", lambda: np.zeros((3, 256, 256), np.float32))
    assert cache.used > 700_000
    cache.close()
    assert (cache.used, cache.get("tile")) == (0, None)
    with pytest.raises(GivenUp):
        cache.make("tile", lambda: np.zeros(3))


def test_a_script_as_long_as_it_may_be_is_rendered():
    """Each pass asks for what enters it; and in a thread, whose room is smaller than the first one's."""
    source = ArraySource(make_colourful(40, 60))
    script = Script((Negative(),) * MOST_PASSES)
    found = []

    def work():
        found.append(Renderer(source, script, TileCache()).region(Rect(0, 0, 60, 40)))

    thread = threading.Thread(target=work)
    thread.start()
    thread.join()
    assert np.allclose(found[0], Renderer(source, Script()).region(Rect(0, 0, 60, 40)), atol=1e-4)
