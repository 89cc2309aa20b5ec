"""What goes wrong is told where it is seen, and nothing is told of a sound print.

On eight photographs: four of the demo's, and four of packages (scikit-image, scikit-learn).
"""

import cv2
import numpy as np
import pytest
import skimage.data
import sklearn.datasets

from kyanoscript import demo
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.faults import faults
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.stencil import Ramp, Stencil
from kyanoscript.files.kept.recipes import bundled
from tests.core.test_prints_stay import PHOTO

P = load_all()
RECIPES = {recipe.word: recipe for recipe in bundled()}
GRAY = P["gray-weights"]()
DEMO = ("ferry-landing", "marsh-at-dusk", "table-by-the-window", "jetty")
PICTURES = {
    **{name: np.ascontiguousarray(cv2.imread(str(demo.photo(name)))[..., ::-1]) for name in DEMO},
    "portrait": skimage.data.astronaut(),
    "cup": skimage.data.coffee(),
    "fur": skimage.data.chelsea(),
    "pagoda": sklearn.datasets.load_sample_image("china.jpg"),
}
SMOOTH = [name for name in PICTURES if name not in ("fur", "pagoda")]  # the others have no smooth part
every = pytest.mark.parametrize("name", PICTURES)


def told(pixels, *run, script=None):
    script = Script(run) if script is None else script
    return {fault.what: fault for fault in faults(Renderer(ArraySource(pixels), script, TileCache()), script)}


def as_run(*steps):
    """With identities that stay."""
    return Script(steps).passes


def shape(pixels):
    return pixels.shape[1] / pixels.shape[0]


def mended(pixels, run, fault):
    """The print after its word *mend*."""
    script = Script(tuple(run))
    k = next(k for k, step in enumerate(script.passes) if step.id == fault.step)
    return told(pixels, script=script.with_pass(k, script.passes[k].with_(**fault.mend)))


@every
@pytest.mark.parametrize("word", ["eye", "sepia-bath", "selenium", "duo-warm", "glass-orange", "platinum", "two-bath"])
def test_of_a_sound_print_nothing_is_told(name, word):
    pixels = PICTURES[name]
    assert told(pixels, script=RECIPES[word].used(Script(), shape=shape(pixels))) == {}


@every
def test_of_the_photograph_itself_nothing_is_told(name):
    assert told(PICTURES[name]) == {}
    assert told(PICTURES[name], P["exposure"]()) == {}


@every
def test_an_oval_that_is_seen_is_told_and_mended(name):
    pixels = PICTURES[name]
    run = as_run(GRAY, P["vignette"](amount=-2.5, soft=8).suited(shape(pixels)))
    found = told(pixels, *run)["oval"]
    assert found.where is not None
    assert 0.005 < found.where.mean() < 0.5
    assert "Softness" in found.mends
    assert "oval" not in mended(pixels, run, found)


def test_an_oval_with_a_stencil_or_hardly_there_is_not_told():
    pixels = PICTURES["marsh-at-dusk"]
    assert "oval" not in told(pixels, GRAY, P["vignette"](amount=-2.5, soft=8, strength=10))
    assert "oval" not in told(pixels, GRAY, P["vignette"](amount=-2.5, soft=8, on=False))
    below = Stencil(shapes=(Ramp(),))
    assert "oval" not in told(pixels, GRAY, P["vignette"](amount=-2.5, soft=8, stencil=below))


@every
@pytest.mark.parametrize(("end", "value"), [("in_black", 110), ("in_white", 120)])
def test_tones_that_clip_are_told_with_the_pass_that_does_it(name, end, value):
    pixels = PICTURES[name]
    run = as_run(GRAY, P["levels"](**{end: value}), P["sharpen"](amount=20))
    found = told(pixels, *run)["clipped"]
    assert found.step == run[1].id
    assert found.where.mean() > 0.06
    assert end in found.mend
    assert "clipped" not in mended(pixels, run, found)


@every
def test_tones_that_fall_together_are_told(name):
    pixels = PICTURES[name]
    plateau = P["curves"](every=((0.0, 0.0), (40.0, 120.0), (215.0, 122.0), (255.0, 255.0)))
    assert "together" in told(pixels, GRAY, plateau)
    assert "together" in told(pixels, GRAY, P["levels"](out_black=110, out_white=130))


@pytest.mark.parametrize("name", SMOOTH)
def test_smooth_parts_that_grow_gritty_are_told_and_mended(name):
    pixels = PICTURES[name]
    for step in (P["local-contrast"](fine=100), P["sharpen"](amount=450, radius=1)):
        run = as_run(GRAY, step)
        found = told(pixels, *run)["grit"]
        assert found.where.any()
        assert "grit" not in mended(pixels, run, found)


@every
def test_colour_in_a_print_that_is_to_be_gray_is_told_and_mended(name):
    pixels = PICTURES[name]
    run = as_run(P["gray-weights"](strength=96))
    found = told(pixels, *run)["tint"]
    assert found.mend == {"strength": 100.0}
    assert mended(pixels, run, found) == {}
    assert told(pixels, P["gray-weights"](strength=80)) == {}  # a breath of colour is meant
    assert "tint" not in told(pixels, GRAY, P["paper-tone"]())


@pytest.mark.parametrize("name", DEMO)
def test_grain_finer_than_pixels_is_told_and_mended(name):
    pixels = PICTURES[name]
    run = as_run(GRAY, P["grain"](size=0.15, amount=10))
    assert "fine" not in mended(pixels, run, told(pixels, *run)["fine"])
    assert "fine" not in told(pixels, GRAY, P["grain"]())


def test_grain_finer_than_is_seen_on_the_paper_is_told():
    from kyanoscript.core.paper.sheet import Sheet

    pixels, run = PICTURES["jetty"], (GRAY, P["grain"](size=0.7, amount=10))
    small, large = (Script(run, sheets=(("one", Sheet.of(across=across)),)) for across in (40.0, 300.0))
    found = told(pixels, script=small)["fine"]
    assert "paper" in found.words
    assert "fine" not in told(pixels, script=large)


@every
def test_a_sky_that_breaks_up_is_told(name):
    """A passage of 8 bits, under a steep curve: flat strips and steps."""
    pixels = PICTURES[name].copy()
    sky = np.rint(np.linspace(90, 190, pixels.shape[1])).astype(np.uint8)
    pixels[: pixels.shape[0] // 3] = sky[None, :, None]
    curve = P["curves"](every=((0.0, 0.0), (110.0, 20.0), (160.0, 235.0), (255.0, 255.0)))
    found = told(pixels, GRAY, curve)["bands"]
    top, below = found.where[: len(found.where) // 3].mean(), found.where[len(found.where) // 3 :].mean()
    assert top > below  # it is the sky
    assert "bands" not in told(pixels, GRAY)
    assert "bands" not in told(pixels, GRAY, curve, P["grain"](amount=6, size=2))  # grain hides them


def test_drawings_are_not_told_to_be_black_and_white():
    for name in ("threshold", "negative"):
        assert told(PICTURES["cup"], GRAY, P[name]()) == {}


def test_a_pass_whose_findings_are_shown_is_no_print():
    assert told(PICTURES["cup"], P["mend"](shown="found")) == {}


def test_at_most_three_the_worst_first_and_small_pictures_too():
    run = (GRAY, P["levels"](in_black=110), P["vignette"](amount=-3, soft=5), P["local-contrast"](fine=100),
           P["grain"](size=0.1, amount=20))  # fmt: skip
    script = Script(run)
    found = faults(Renderer(ArraySource(PICTURES["marsh-at-dusk"]), script), script)
    assert len(found) == 3
    assert [fault.worse for fault in found] == sorted((fault.worse for fault in found), reverse=True)
    assert isinstance(faults(Renderer(ArraySource(PHOTO), script), script), list)
    for size in ((1, 1), (3, 2), (40, 1)):
        tiny = Renderer(ArraySource(np.full((*size, 3), 100, np.uint8)), script)
        assert isinstance(faults(tiny, script), list)
