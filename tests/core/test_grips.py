"""Taking hold of shapes on the picture."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kyanoscript.core.passes import load_all
from kyanoscript.core.stencil import Oval, Stroke, grips
from kyanoscript.core.stencil.shapes import Outline, Ramp

PHOTO = (600, 400)
SOMEWHERE = st.floats(-300, 900)
OVALS = st.builds(
    Oval,
    x=st.floats(-50, 150),
    y=st.floats(-50, 150),
    width=st.floats(20, 2000),
    height=st.floats(20, 2000),
    turn=st.floats(-180, 180),
    soft=st.floats(0, 100),
)


def changed(thing, grip, start, at, **more):
    return thing.model_copy(update=grips.dragged(thing, grip, start, at, PHOTO, **more))


@given(OVALS, st.sampled_from(["right", "left", "top", "bottom"]), SOMEWHERE, SOMEWHERE)
def test_the_rim_of_an_oval_follows_the_hand_along_its_axis(oval, grip, x, y):
    before = grips.grips(oval, PHOTO, 20)
    after = grips.grips(changed(oval, grip, before[grip], (x, y)), PHOTO, 20)
    mx, my = before["middle"]
    assert after["middle"] == pytest.approx(before["middle"])
    # The handle's distance from the middle is that of the hand along the handle's own axis, as far as it may go.
    axis = math.atan2(before[grip][1] - my, before[grip][0] - mx)
    along = abs((x - mx) * math.cos(axis) + (y - my) * math.sin(axis))
    wanted = max(along, 0.5 / 1000 * max(PHOTO))
    assert math.dist(after[grip], after["middle"]) == pytest.approx(wanted, abs=0.01)


def test_a_soft_oval_shows_where_it_begins_to_fade():
    outer, inner = (np.array(rim) for rim in grips.rims(Oval(x=50, y=50, width=500, height=300, soft=40), PHOTO))
    assert inner - (300, 200) == pytest.approx((outer - (300, 200)) * 0.6)
    assert np.ptp(outer, axis=0) == pytest.approx((300, 180))
    assert len(grips.rims(Oval(soft=100), PHOTO)) == 1


def test_a_ramp_shows_its_ends_as_lines_across_its_way():
    first, last, way = (np.array(line) for line in grips.rims(Ramp(x1=20, y1=30, x2=70, y2=80), PHOTO))
    for across, middle in ((first, way[0]), (last, way[1])):
        assert across.mean(axis=0) == pytest.approx(middle)
        assert np.dot(across[1] - across[0], way[1] - way[0]) == pytest.approx(0, abs=1e-9)


@given(OVALS, SOMEWHERE, SOMEWHERE)
def test_the_turning_handle_points_to_the_hand(oval, x, y):
    before = grips.grips(oval, PHOTO, 20)
    mx, my = before["middle"]
    if math.hypot(x - mx, y - my) < 5:
        return
    after = grips.grips(changed(oval, "turn", before["turn"], (x, y)), PHOTO, 20)["turn"]
    wanted, found = math.atan2(y - my, x - mx), math.atan2(after[1] - my, after[0] - mx)
    assert math.cos(wanted - found) == pytest.approx(1, abs=1e-5)


@given(st.one_of(OVALS, st.just(Ramp()), st.just(Outline(points=((10, 10), (50, 20, 0.5), (30, 60))))), SOMEWHERE)
def test_the_middle_moves_everything_by_as_much(thing, by):
    before = grips.grips(thing, PHOTO, 20)
    middle = before["middle"]
    after = grips.grips(changed(thing, "middle", middle, (middle[0] + by, middle[1] - by / 2)), PHOTO, 20)
    for name, (x, y) in before.items():
        assert after[name] == pytest.approx((x + by, y - by / 2), abs=0.02), name


def test_softness_even_sides_ramps_and_corners():
    oval = Oval(width=500, height=250)
    middle = grips.grips(oval, PHOTO, 20)["middle"]
    assert changed(oval, "right", (450, 200), (400, 200), even=True).height == pytest.approx(100 * 2000 / 600, abs=0.01)
    assert changed(oval, "soft", middle, middle).soft == 100
    assert changed(oval, "soft", middle, (900, 200)).soft == 0
    ramp = changed(Ramp(), "to", (0, 0), (60, 40))
    assert (ramp.x2, ramp.y2) == (10, 10)
    outline = Outline(points=((10, 10), (50, 20, 0.5), (30, 60)))
    assert changed(outline, "1", (0, 0), (300, 200)).points == ((10, 10), (50, 50, 0.5), (30, 60))


def test_a_placed_picture_grows_from_its_middle_and_turns():
    plate = load_all()["plate"](source="picture", picture="mark.png", size=20)
    found = grips.grips(plate, PHOTO, 20, aspect=2.0)
    middle, corner = found["middle"], found["corner 2"]
    assert (corner[0] - middle[0], corner[1] - middle[1]) == pytest.approx((60, 30))
    out = (middle[0] + 120, middle[1] + 60)
    assert changed(plate, "corner 2", corner, out).size == 40
    assert changed(plate, "turn", found["turn"], (middle[0] + 50, middle[1])).turn == 90
    assert grips.rims(plate, PHOTO, 2.0)[0][0] == grips.rims(plate, PHOTO, 2.0)[0][-1]


def test_what_lies_nowhere_in_particular_has_no_handles():
    assert grips.grips(Stroke(points=((1, 1),)), PHOTO, 20) == {}
    assert grips.grips(load_all()["levels"](), PHOTO, 20) == {}
    assert grips.placed(None) == ""
    assert grips.rims(load_all()["plate"](), PHOTO) == []


def test_an_outline_drawn_by_hand_is_moved_as_one():
    dots = tuple((50 + 20 * math.cos(a / 10), 50 + 20 * math.sin(a / 10)) for a in range(63))
    assert set(grips.grips(Outline(points=dots), PHOTO, 20)) == {"middle"}


@pytest.mark.parametrize("kind", ["motion", "lines", "texture"])
def test_an_angle_that_lies_nowhere_is_shown_in_the_middle_and_stays_within_its_range(kind):
    step = load_all()[kind](angle=30.0)
    found = grips.grips(step, PHOTO, 20)
    assert list(found) == ["turn"]
    middle = PHOTO[0] / 2, PHOTO[1] / 2
    assert grips.centre(step, PHOTO) == middle
    for degrees in range(-175, 180, 25):
        at = (middle[0] + 90 * math.cos(math.radians(degrees)), middle[1] + 90 * math.sin(math.radians(degrees)))
        values = grips.dragged(step, "turn", found["turn"], at, PHOTO)
        changed = type(step)(**{**dict(step), **values})  # raises, if it is out of range
        assert math.sin(math.radians(changed.angle - degrees)) == pytest.approx(0, abs=1e-2)  # the same line


def test_lettering_turns_about_its_middle():
    step = load_all()["lettering"](x=50.0, y=50.0)
    found = grips.grips(step, PHOTO, 20)
    assert set(found) == {grips.MIDDLE, "turn"}
    below = (found[grips.MIDDLE][0], found[grips.MIDDLE][1] + 60)
    assert grips.dragged(step, "turn", found["turn"], below, PHOTO) == {"turn": 90.0}


class Aim:
    """Something with a place and an angle, as a pass may be."""

    def __init__(self, angle):
        self.x, self.y, self.angle = 50.0, 50.0, angle

    def placed(self):
        return "angle"


@given(st.floats(-180, 179))
def test_an_angle_is_pulled_round_its_place(angle):
    found = grips.grips(Aim(angle), PHOTO, 20)
    assert found["middle"] == (300, 200)
    assert math.dist(found["turn"], found["middle"]) == pytest.approx(40)
    out = (300 + 80 * math.cos(math.radians(angle)), 200 + 80 * math.sin(math.radians(angle)))
    turned = grips.dragged(Aim(0.0), "turn", found["turn"], out, PHOTO)["angle"]
    assert math.cos(math.radians(turned - angle)) == pytest.approx(1, abs=1e-5)
    assert grips.dragged(Aim(0.0), "middle", (300, 200), (330, 240), PHOTO) == {"x": 55.0, "y": 60.0}
