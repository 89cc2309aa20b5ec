"""Parts of a scene as dabs: laid, given a tint, divided by a stroke, joined, and what is offered after a choice."""

import json

import cv2
import numpy as np
import pytest

from kyanoscript.core import colour
from kyanoscript.core.frame import Frame
from kyanoscript.core.geometry import framing
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, dumps, loads
from kyanoscript.core.tint import offers, waiting
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.tints import likely

P = load_all()
SIX = "#808080 #7b808b #9b7578 #6b7cbd #977d41 #7a8849"


def box(name, x0, y0, x1, y1, **values):
    """A part with four corners, in per cent."""
    corners = ((x0, y0), (x1, y0), (x1, y1), (x0, y1))
    own = {"colour": "#808080", "guess": True, "sure": 0.0, "shaded": True, "tints": SIX, **values}
    return Dab(points=(((x0 + x1) / 2, (y0 + y1) / 2),), acts="within", outline=corners, name=name, **own)


def mask(dabs, name, size=(400, 200)):
    """Where the pieces of a part lie, later parts over earlier ones."""
    made = np.zeros(size[::-1], np.uint8)
    for dab in dabs:
        corners = np.rint(np.array([p[:2] for p in dab.outline]) / 100 * size).astype(np.int32)
        cv2.fillPoly(made, [corners], int(dab.name == name))
    return made.astype(bool)


def test_a_stroke_divides_a_part_where_it_was_drawn():
    dabs = (box("sky", 0, 0, 100, 30), box("this", 10, 40, 90, 90))
    made = waiting.divided(dabs, "this", [(30, 35), (32, 60), (28, 95)], (400, 200))
    assert waiting.names(made) == ["sky", "this", "this 2"]
    right, left = mask(made, "this"), mask(made, "this 2")
    assert right[100:170, 140:340].all()  # the larger one keeps the name
    assert left[100:170, 45:100].all()
    assert not (right & left).any()
    both = mask(dabs, "this")
    assert ((right | left) & both).sum() > 0.98 * both.sum()
    assert made[0] == dabs[0]
    assert all(dab.offered for dab in made)


def test_a_stroke_that_ends_within_a_part_runs_on_to_its_rim():
    made = waiting.divided((box("this", 10, 10, 90, 90),), "this", [(50, 40), (50, 60)], (400, 200))
    assert len(waiting.names(made)) == 2


@pytest.mark.parametrize("stroke", [[(2, 2), (8, 8)], [(5, 5), (5, 95)], [(50, 50)]])
def test_a_stroke_beside_a_part_divides_nothing(stroke):
    dabs = (box("this", 10, 10, 90, 90),)
    assert waiting.divided(dabs, "this", stroke, (400, 200)) == dabs
    assert waiting.divided(dabs, "that", [(30, 0), (30, 99)], (400, 200)) == dabs


def test_two_parts_become_one_and_have_the_name_and_tint_of_the_first():
    dabs = (box("leaves", 0, 0, 40, 50, colour="#7a8849", guess=False, sure=100.0), box("this", 40, 0, 90, 50))
    made = waiting.joined(dabs, "leaves", "this", (400, 200))
    assert [(dab.name, dab.colour, dab.guess) for dab in made] == [("leaves", "#7a8849", False)]
    assert mask(made, "leaves")[5:95, 5:355].all()
    assert waiting.joined(dabs, "leaves", "leaves", (400, 200)) == dabs
    assert waiting.joined(dabs, "leaves", "nothing", (400, 200)) == dabs


def test_parts_that_do_not_touch_are_one_thing_in_two_pieces():
    dabs = (box("this", 0, 0, 20, 50), box("this 2", 60, 0, 90, 50), box("sky", 20, 0, 60, 100))
    made = waiting.joined(dabs, "this", "this 2", (400, 200))
    assert sorted(dab.name for dab in made) == ["sky", "this", "this"]
    there = mask(made, "this")
    assert there[5:95, 5:75].all()
    assert there[5:95, 245:355].all()
    assert not there[:, 90:230].any()


def test_what_was_divided_is_joined_again():
    dabs = (box("this", 10, 10, 90, 90),)
    made = waiting.divided(dabs, "this", [(40, 0), (40, 99)], (400, 200))
    again = waiting.joined(made, "this", "this 2", (400, 200))
    assert len(again) == 1
    assert (mask(again, "this") ^ mask(dabs, "this")).sum() < 0.02 * mask(dabs, "this").sum()


def test_the_next_that_waits_is_each_part_once_round_and_round():
    dabs = (
        box("sky", 0, 0, 9, 9), box("sky", 9, 0, 18, 9), box("wall", 0, 9, 9, 18, sure=60.0),
        box("this", 0, 20, 9, 30), box("blush", 1, 1, 2, 2),
    )  # fmt: skip
    assert waiting.waiting(dabs) == ["sky", "this"]
    assert [waiting.next_that_waits(dabs, k) for k in (-1, 0, 3)] == [0, 3, 0]
    assert [waiting.next_that_waits(dabs, k, back=True) for k in (3, 0)] == [0, 3]
    done = waiting.given(waiting.given(dabs, "sky", "#7b808b"), "this", "#7b808b")
    assert waiting.next_that_waits(done, 0) == -1
    assert [dab.colour for dab in done if dab.name == "sky"] == ["#7b808b"] * 2


def test_the_uppermost_part_lies_at_a_place():
    dabs = (box("ground", 0, 0, 100, 100), box("boat", 40, 40, 60, 60))
    assert waiting.at_place(dabs, 50, 50) == 1
    assert waiting.at_place(dabs, 10, 50) == 0
    assert waiting.at_place(dabs, 150, 50) == -1


def scene():
    """Rough below, even above, and a plain light wall between."""
    rng = np.random.default_rng(2)
    light = np.full((140, 200), 70.0)
    light[50:90] = 88
    light[90:] = 40 + rng.normal(0, 12, (50, 200))
    return offers.looked_over(np.clip(light, 0, 100).astype(np.float32))


def test_what_is_offered_follows_what_was_chosen_and_a_persons_things_keep_their_own():
    found = scene()
    frame = framing(Frame(), 400, 280)
    dabs = (
        box("ground", 0, 64, 50, 100), box("ground 2", 50, 64, 100, 100), box("wall", 0, 36, 100, 64),
        box("clothes", 40, 70, 60, 90, tints="#c9bda4 #7a5a43"),
    )  # fmt: skip
    before = waiting.followed(found, dabs, frame)
    assert set(before.tints) == {"ground", "ground 2", "wall"}
    assert set(before.numbers) == {"ground", "ground 2", "wall", "clothes"}
    after = waiting.followed(found, waiting.given(dabs, "ground", "#8a3fb0"), frame)
    violet = waiting.tint_of("#8a3fb0")
    assert np.abs(waiting.tint_of(after.tints["ground 2"][0]) - violet).max() < 0.02
    assert np.abs(waiting.tint_of(before.tints["ground 2"][0]) - violet).max() > 0.05
    assert np.abs(waiting.tint_of(after.tints["wall"][0]) - violet).max() > 0.05
    more = waiting.followed(found, dabs, frame, {"wall": 1})
    assert not set(more.tints["wall"]) & set(before.tints["wall"])
    assert more.tints["ground"] == before.tints["ground"]


def test_another_scan_of_the_album_is_offered_first_what_was_chosen_for_the_like():
    found, frame = scene(), framing(Frame(), 400, 280)
    dabs = (box("ground", 0, 64, 100, 100), box("clothes", 20, 70, 50, 95, tints="#c9bda4 #7a5a43"))
    numbers = waiting.followed(found, dabs, frame).numbers
    album = [waiting.Before(name, "#8a3fb0", numbers[name]) for name in ("ground", "clothes")]
    offered = waiting.followed(found, dabs, frame, before=album).tints
    assert np.abs(waiting.tint_of(offered["ground"][0]) - waiting.tint_of("#8a3fb0")).max() < 0.02
    assert offered["clothes"] == ["#8a3fb0", "#c9bda4", "#7a5a43"]
    unlike = tuple(v + 30 for v in numbers["clothes"])
    assert (
        "clothes"
        not in waiting.followed(found, dabs, frame, before=[waiting.Before("clothes", "#8a3fb0", unlike)]).tints
    )
    short = [waiting.Before("clothes", "#8a3fb0", (1.0, 2.0))]  # of another version's numbers
    assert "clothes" not in waiting.followed(found, dabs, frame, before=short).tints


# On the print


def chroma(dabs, gray=None):
    """Oklab a and b of a gray picture with those dabs."""
    picture = np.full((200, 400), 0.5, np.float32) if gray is None else gray
    renderer = Renderer(ArraySource(picture), Script((P["hand-tint"](dabs=dabs),)), TileCache())
    return colour.to_oklab(renderer.region(Rect(0, 0, 400, 200)), colour.SRGB)


def chosen(*args, colour="#9b5040"):
    return box(*args, colour=colour, guess=False, sure=100.0)


def test_a_part_has_less_colour_where_it_is_darker():
    """Chroma to lightness: what one light falls on has both in one proportion."""
    gray = np.repeat(np.linspace(0.2, 0.6, 400, dtype=np.float32)[None], 200, 0)
    lab = chroma((chosen("wall", -6, -6, 106, 106),), gray)
    share = np.hypot(*lab[1:]) / lab[0]
    wanted = np.hypot(*waiting.tint_of("#9b5040"))
    assert np.abs(share[20:180, 20:380] - wanted).max() < 0.01


def test_what_waits_stays_gray_within_what_has_a_tint():
    dabs = (chosen("wall", 0, 0, 100, 100), box("door", 40, 30, 60, 90))
    lab = np.hypot(*chroma(dabs)[1:])
    assert lab[100, 60] > 0.08
    assert lab[100, 200] < 1e-4
    taken = np.hypot(*chroma(waiting.given(dabs, "door", "#6b7cbd"))[1:])
    assert taken[100, 200] > 0.05
    assert taken[100, 60] == pytest.approx(lab[100, 60], abs=1e-5)


def test_what_waits_and_has_no_outline_uncovers_nothing():
    """A file may hold such a part; it lies nowhere."""
    wall, nowhere = chosen("wall", 0, 0, 100, 100), box("door", 40, 30, 60, 90).with_(outline=())
    spreading = nowhere.with_(acts="spreads", outline=((1.0, 1.0), (2.0, 2.0), (1.0, 3.0)))
    assert np.array_equal(chroma((wall, nowhere, spreading)), chroma((wall,)))


def test_a_dab_that_spreads_changes_a_part_that_has_a_tint():
    """All that the hand lays counts: else a press on a wall that has its tint would do nothing."""
    wall = chosen("wall", -6, -6, 106, 106)
    hand = Dab(points=((50.0, 50.0),), colour="#4060c0")
    plain, with_hand = chroma((wall,)), chroma((wall, hand))
    assert with_hand[2, 100, 200] < plain[2, 100, 200] - 0.05  # bluer
    assert with_hand[2, 100, 200] == pytest.approx(waiting.tint_of("#4060c0")[1] * 0.55, abs=0.06)


def test_at_the_rim_of_the_picture_a_part_has_all_its_colour():
    lab = np.hypot(*chroma((chosen("wall", -6, -6, 106, 106),))[1:])
    assert lab.min() > 0.98 * lab.max()


def test_neighbours_leave_no_gray_seam():
    gray = np.full((200, 400), 0.5, np.float32)
    labels = np.repeat(np.repeat([[0, 1]], 100, 0), 100, axis=1).astype(np.int32)
    made = []
    for k, ink in enumerate(("#9b5040", "#9b5040")):
        (line,) = offers.outlines(labels, k)
        corners = tuple((100 * x, 100 * y) for x, y in line.corners)
        made.append(Dab(points=((25 + 50 * k, 50),), colour=ink, acts="within", outline=corners, name=f"part {k + 2}",
                        guess=False, shaded=True, tints=SIX))  # fmt: skip
    lab = np.hypot(*chroma(tuple(made), gray)[1:])
    assert lab.min() > 0.9 * lab.max()


def test_scripts_keep_parts_and_those_of_before_have_none():
    script = Script((P["hand-tint"](dabs=(chosen("wall", 0, 0, 50, 50),)),))
    assert loads(dumps(script)) == script
    data = json.loads(dumps(script))
    for name in ("shaded", "tints"):
        del data["passes"][0]["dabs"][0][name]
    (dab,) = loads(json.dumps(data)).passes[0].dabs
    assert (dab.shaded, dab.tints, dab.region) == (False, "", False)


# Skin


def test_skin_starts_by_the_faces_own_lightness():
    """From light to dark as the face is beside the whites of its eyes; always the same six, the likeliest first."""
    order = {tone: likely("skin 2", tone) for tone in (0.95, 0.85, 0.72, 0.55, 0.36)}
    assert all(len(set(tints)) == 6 for tints in order.values())
    light = [colour.lightness(np.array(colour.parse_hex(tints[0])).reshape(3, 1, 1), colour.SRGB)[0, 0]
             for tints in order.values()]  # fmt: skip
    assert light == sorted(light, reverse=True)
    assert light[0] - light[-1] > 35
    assert len({frozenset(tints) for tints in order.values()}) == 1
