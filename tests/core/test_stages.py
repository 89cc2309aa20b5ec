"""Views in a drag: the exact one, and the rough one that comes before it."""

from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings

from kyanoscript.core import machine
from kyanoscript.core.colour import in_colour
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.tone.dodge_burn import Exposing
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render import joined
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import NOTHING, Renderer
from kyanoscript.core.render.stages import Rough, Staged
from kyanoscript.core.script import Script, walk
from kyanoscript.core.stencil import Oval, Stencil
from tests.conftest import make_colourful
from tests.strategies import SIMPLE, any_script

P = load_all()
PICTURE = make_colourful(400, 500)
SMALL = ArraySource(PICTURE)
few = settings(max_examples=25, suppress_health_check=list(HealthCheck), deadline=None)


def landscape():
    """Five megapixels with what a photograph has: broad light, forms of all sizes, fine texture, hard borders."""
    rng = np.random.default_rng(5)
    height, width = 1800, 2700
    noise = sum(
        cv2.resize(rng.standard_normal((height // k, width // k, 3)).astype(np.float32), (width, height)) * k**0.4
        for k in (2, 6, 20, 60, 200)
    )
    light = np.linspace(0.75, 0.2, height, dtype=np.float32)[:, None, None]
    picture = light + 0.03 * noise
    cv2.rectangle(picture, (900, 700), (1500, 1400), (0.12, 0.1, 0.09), -1)
    cv2.rectangle(picture, (1800, 200), (2300, 500), (0.9, 0.85, 0.7), -1)
    return ArraySource((np.clip(picture, 0, 1) * 65535).astype(np.uint16))


LANDSCAPE = landscape()
# What is looked over for damage takes its time by the megapixel.
CORNER = ArraySource(LANDSCAPE.pixels[500:1500, 500:1900])


def alone(parts, work):
    for part in parts:
        work(part)
    return True


def by_two(parts, work):
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(work, parts))
    return True


@given(any_script)
@few
def test_a_view_in_a_drag_has_the_pixels_of_the_region(script):
    rect = Rect(70, 60, 300, 250)
    for keep in {0, len(script.passes) // 2, len(script.passes)}:
        view = Staged(SMALL, script, TileCache(), keep)
        rect = rect.clipped(*view.size(1.0))
        if rect.width < 1 or rect.height < 1:
            return
        made = in_colour(view.view(rect, 1.0, by_two))
        away = np.abs(made - in_colour(Renderer(SMALL, script).region(rect)))
        hard = any(step.kind == "threshold" for step in walk(script.passes))
        assert np.mean(away > 1e-5) <= (0.02 if hard else 0)


def test_bands_are_worked_on_and_nothing_comes_when_they_are_given_up():
    script = Script((P["exposure"](exposure=0.3), P["local-contrast"](fine=40, broad=20)))
    parts_seen = []

    def counted(parts, work):
        parts_seen.append(len(list(parts)))
        return alone(parts, work)

    whole = Rect(0, 0, 500, 400)
    assert Staged(SMALL, script, TileCache(), 0).view(whole, 1.0, counted) is not None
    assert max(parts_seen) == machine.processors()
    assert Staged(SMALL, script, TileCache(), 0).view(whole, 1.0, lambda parts, work: False) is None


def rough(script, scale, rect=None, keep=0, cache=None, source=LANDSCAPE, **more):
    view = Rough(source, script, cache or TileCache(), keep, **more)
    return view.roughly(rect or Rect(0, 0, *view.size(scale)), scale, scale)


def exact(script, scale, rect=None, source=LANDSCAPE):
    renderer = Renderer(source, script, TileCache())
    return renderer.region(rect or Rect(0, 0, *renderer.size(scale)), scale)


PART = Rect(400, 260, 400, 300)
VIEWS = [(0.12, None), (0.3, None), (0.6, PART)]
RUN = Script(
    (
        P["exposure"](exposure=0.3, shadows=20, highlights=-20),
        P["colour-balance"](mids_red=8, highlights_blue=-6),
        P["gray-weights"](red=45, green=45, blue=10, ring=((55, 20), (255, -40))),
        P["levels"](in_black=12, in_white=244, gamma=1.1),
        P["local-exposure"](open=40, hold=20),
        P["local-contrast"](fine=30, broad=15),
        P["sharpen"](amount=80, radius=0.25),
        P["curves"](every=((0, 0), (128, 110), (255, 255)), stencil=Stencil(shapes=(Oval(width=700, height=500),))),
        P["plate"](source="print", run=(P["soften"](radius=15),), blend="soft-light", strength=45),
        P["gradient-map"](stops=((0, "#101418"), (100, "#f7efe0"))),
        P["dodge-burn"](
            strokes=(
                Exposing(points=((20, 20), (60, 40)), exposure=50, size=160),
                Exposing(points=((70, 70), (80, 80)), exposure=-50, size=90),
            )
        ),
    )
)


@pytest.mark.parametrize(("scale", "rect"), VIEWS)
@pytest.mark.parametrize("keep", [0, 5, 10])
def test_a_rough_view_does_not_flicker_to_the_exact_one(scale, rect, keep):
    """Half of one of 255 levels on average, of a run that looks around in every way there is."""
    away = rough(RUN, scale, rect, keep) - exact(RUN, scale, rect)
    assert np.abs(away).mean() * 255 < 0.5
    assert abs(away.mean()) * 255 < 0.25  # nor do the tones as a whole become lighter or darker


FOUND = ("mend", "threshold")  # what is found in the picture serves from when the hand rested; one bit decides
# The first sets gray around the middle and multiplies what is left; the second has four times what is fine.
STRONG = {"fine-detail": 1.5, "old-lens": 1.0}


@pytest.mark.parametrize("model", [m for m in SIMPLE if m.kind not in FOUND], ids=lambda m: m.kind)
def test_a_rough_view_of_every_pass_is_near_the_exact_one(model):
    script = Script(
        (P["exposure"](exposure=0.2), P["levels"](gamma=1.2), model(**model.samples), P["levels"](gamma=1.1))
    )
    for scale, rect in VIEWS:
        away = np.abs(in_colour(rough(script, scale, rect)) - in_colour(exact(script, scale, rect)))
        assert away.mean() * 255 < STRONG.get(model.kind, 0.5)


@pytest.mark.parametrize("model", [m for m in SIMPLE if not m.pointwise and m.kind not in FOUND], ids=lambda m: m.kind)
def test_a_rough_view_of_a_part_reaches_as_far_as_it_needs_at_every_size(model):
    """In a drag cells are wider: at two sizes in forty local contrast once looked farther than it had asked for."""
    script = Script((model(**model.samples),))
    for scale in np.geomspace(0.04, 0.4, 40).tolist():
        width, height = round(2700 * scale), round(1800 * scale)
        part = Rect(width // 3, height // 3, width // 4, height // 4)
        assert rough(script, scale, part).shape[1:] == (part.height, part.width)


def test_a_third_of_the_scale_enlarged_has_the_tones_of_the_sharp_picture():
    sharp = exact(RUN, 0.6, PART)
    coarse = rough(RUN, 0.2, Rect(133, 86, 134, 102))
    blocks = [
        cv2.resize(np.moveaxis(in_colour(p), 0, 2), (8, 6), interpolation=cv2.INTER_AREA) for p in (sharp, coarse)
    ]
    assert np.abs(blocks[0] - blocks[1]).mean() * 255 < 1.5  # the two cover the part to a pixel of the coarse one
    assert abs(float((blocks[0] - blocks[1]).mean())) * 255 < 0.5


def test_what_lies_outside_may_be_that_of_a_former_picture():
    first = Rough(LANDSCAPE, RUN, TileCache(), 0)
    first.roughly(PART, 0.6, 0.6)
    assert first.beside is not None
    moved = RUN.with_pass(0, RUN.passes[0].model_copy(update={"exposure": 0.32}))
    cache = TileCache()
    again = Rough(LANDSCAPE, moved, cache, 0)
    lagging = again.roughly(PART, 0.6, 0.6, first.beside)
    assert again.beside.stages.keys() == first.beside.stages.keys()
    assert np.abs(lagging - rough(moved, 0.6, PART)).mean() * 255 < 0.25
    # Of another run it is no help, and is not used.
    other = Script(moved.passes[:6])
    assert np.array_equal(
        Rough(LANDSCAPE, other, TileCache(), 0).roughly(PART, 0.6, 0.6, first.beside), rough(other, 0.6, PART)
    )


def test_what_enters_the_dragged_pass_is_reduced_from_what_is_kept():
    """The first picture of a drag must not wait for the passes before the dragged one."""
    cache = TileCache()
    worked = []

    class Watched(P["local-contrast"]):
        def apply(self, planes, place):
            worked.append(place.scale)
            return super().apply(planes, place)

    script = Script((Watched(fine=40), P["levels"](gamma=1.3)))
    renderer = Renderer(LANDSCAPE, script, cache)
    whole = Rect(0, 0, *renderer.size(0.3))
    for tx, ty in whole.tiles(384):
        renderer.tile(tx, ty, 0.3)
    assert set(worked) == {0.3}
    view = Rough(LANDSCAPE, script, cache, 1)
    made = view.roughly(Rect(0, 0, *view.size(0.1)), 0.1, 0.3)
    assert set(worked) == {0.3}
    assert np.abs(made - exact(script, 0.1)).mean() * 255 < 2  # contrast brought out at another scale


def test_what_enters_is_at_hand_once_it_is_kept_at_rest():
    script, cache = Script((P["levels"](gamma=1.2), P["local-contrast"](fine=40), P["levels"](gamma=1.3))), TileCache()
    drag = Rough(LANDSCAPE, script, cache, 2)
    part = Rect(200, 130, 200, 150)
    assert not drag.at_hand(part, 0.3, 0.6)
    Renderer(LANDSCAPE, script, cache, 2).region(Rect(0, 0, *drag.size(0.6)), 0.6, 2)
    assert drag.at_hand(part, 0.3, 0.6)
    assert not drag.at_hand(part, 0.3, 0.5)  # of another zoom nothing is kept
    drag.roughly(part, 0.3, 0.5)
    assert drag.at_hand(part, 0.3, 0.5)


def test_of_what_is_seen_once_no_tile_is_kept():
    script, cache = Script((P["levels"](gamma=1.2), P["local-contrast"](fine=40))), TileCache()
    part = Rect(400, 260, 400, 300)
    once = Renderer(LANDSCAPE, script, cache, NOTHING)
    assert np.abs(once.region(part, 1.0) - exact(script, 1.0, part)).max() < 1e-6
    assert not any(Renderer(LANDSCAPE, script, cache).is_cached(part, 1.0, k) for k in range(3))


def test_a_rough_view_leaves_nothing_behind_that_an_exact_one_would_find():
    """Damage found, colours spread: what was found roughly is never taken for what was found exactly."""
    cache = TileCache()
    script = Script((P["exposure"](exposure=0.4), P["mend"](sensitivity=60), P["gray-weights"](auto=True)))
    rough(script, 0.3, keep=0, cache=cache, source=CORNER)
    after = Renderer(CORNER, script, cache).region(PART, 0.6)
    assert np.array_equal(after, exact(script, 0.6, PART, CORNER))


def test_what_was_found_when_the_hand_rested_serves_in_the_drag():
    cache = TileCache()
    asked = []

    class Finding(P["mend"]):
        def _found(self, place):
            asked.append(place.chain)
            return super()._found(place)

    script = Script((P["exposure"](exposure=0.4), Finding(sensitivity=60)))
    rested = Renderer(CORNER, script, cache)
    rested.region(Rect(0, 0, *rested.size(0.3)), 0.3)
    count = len(asked)
    assert count
    moved = script.with_pass(0, script.passes[0].model_copy(update={"exposure": 0.45}))
    rough(moved, 0.3, cache=cache, rested=rested.keys, source=CORNER)
    assert len(asked) == count
    rough(moved, 0.3, cache=TileCache(), source=CORNER)
    assert len(asked) > count


def test_every_tray_of_a_drag_comes_from_one_run():
    view = Rough(LANDSCAPE, RUN, TileCache(), 3)
    made = view.every(0.1)
    assert len(made) == len(RUN.passes) + 1
    renderer = Renderer(LANDSCAPE, RUN, TileCache())
    whole = Rect(0, 0, *renderer.size(0.1))
    for k, planes in enumerate(made):
        away = np.abs(in_colour(planes) - in_colour(renderer.region(whole, 0.1, k)))
        assert away.mean() * 255 < 0.5


def colours():
    return np.ascontiguousarray(np.moveaxis(cv2.resize(PICTURE, (400, 320)).astype(np.float32) / 65535, 2, 0))


def through(*steps):
    def passes(planes):
        rect = Rect(0, 0, planes.shape[2], planes.shape[1])
        renderer = Renderer(SMALL, Script(steps))
        for k in range(len(steps)):
            planes = renderer._step(renderer._run_of, k + 1, planes, rect, 1.0)
        return planes

    return passes


def test_grain_stays_where_it_is_while_the_light_changes():
    """It does not swim: what one picture of a drag has for grain the next one has in the same places."""
    grain = P["grain"](**P["grain"].samples)

    def grains(exposure):
        run = Script((P["exposure"](exposure=exposure), P["gray-weights"](), grain))
        return (rough(run, 0.2) - rough(Script(run.passes[:2]), 0.2)).ravel()

    first, second = grains(0.2), grains(0.25)
    assert first.std() > 0.005
    assert np.corrcoef(first, second)[0, 1] > 0.95


def test_passes_joined_in_a_table_give_nearly_what_they_give_alone():
    passes, picture = through(P["exposure"](exposure=0.4, contrast=15), P["hue-chroma"](chroma=-20)), colours()
    table = joined.table(passes, picture)
    assert np.abs(joined.through(picture, table) - passes(picture)).mean() * 255 < 0.3
    assert np.allclose(joined.through(joined.grid(), table), table, atol=1e-5)  # at the points of its grid exactly
    gray = joined.table(through(P["exposure"](exposure=0.4), P["gray-weights"](red=60)), picture)
    assert joined.through(picture, gray).shape == (1, 320, 400)


def test_no_table_stands_for_passes_that_are_not_straight_in_this_picture():
    noise = np.random.default_rng(1).standard_normal((3, 320, 400)).astype(np.float32)
    middle = 0.5 + 0.03 * noise
    assert joined.table(through(P["exposure"](exposure=0.1), P["threshold"]()), middle) is None
    ring = P["gray-weights"](ring=((30, 80), (200, -80)))  # nearly gray pixels of all hues: lifts that meet in a point
    assert joined.table(through(P["exposure"](exposure=0.1), ring), middle) is None
    assert joined.table(through(P["exposure"](exposure=0.1), P["gray-weights"]()), middle) is not None


def test_a_table_is_not_made_for_what_it_does_not_serve():
    bright = np.full((3, 300, 300), 1.2, np.float32)
    assert not joined.fits(bright)  # beyond white
    assert not joined.fits(bright[:1] / 2)  # gray
    assert not joined.fits(bright[:, :50] / 2)  # small
    assert joined.fits(bright / 2)
