"""States: kept, hung, read, taken over from, gone on from, judged blind."""

from dataclasses import replace
from datetime import datetime

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from kyanoscript.core.picture import Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, loads
from kyanoscript.files.kept.scriptfile import read_script
from kyanoscript.ui.easel.wall import DRAGGED
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.service import display
from kyanoscript.ui.states.descent import Node, laid_out
from kyanoscript.ui.states.gallery import BENCH, PHOTO
from tests.ui.conftest import Bench

BENCH_KEY, STATES_KEY = Qt.Key.Key_1, Qt.Key.Key_3
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def three(bench: Bench):
    """Three states of one start: only the punch; only the tint; both."""
    bench.desk.kept.now = lambda: datetime(2026, 11, 26, 10, 26)
    bench.add("levels")
    bench.desk.set_values("Levels: middle", gamma=0.7)
    bench.key(Qt.Key.Key_S)
    bench.desk.undo()
    bench.desk.undo()
    bench.add("gradient-map")
    bench.desk.set_values("Gradient map", stops=((0.0, "#1c120a"), (100.0, "#fbf1dc")))
    bench.key(Qt.Key.Key_S)
    bench.add("levels")
    bench.desk.set_values("Levels: middle", gamma=0.7)
    bench.key(Qt.Key.Key_S)
    for number, name in ((1, "only the punch"), (2, "only the tint"), (3, "both")):
        bench.desk.kept.describe(number, name, "")
    return bench


@pytest.fixture
def wall(three: Bench):
    """The States view with the three of them hung."""
    three.key(STATES_KEY, CTRL)
    three.gallery = three.window.states.gallery
    three.settle()
    return three


def said(bench):
    return [label.text() for label in bench.gallery.page.findChildren(QLabel)]


def take_over(bench, words):
    """Press "Take over" beside a difference."""
    next(word for difference, word in bench.gallery.page.takes if words in difference.words).click()


# Keeping


def test_what_was_undone_on_the_bench_is_kept_nevertheless(three: Bench):
    """Keep, go back to the start, do something else, keep that: both are there."""
    first, second, third = three.desk.kept.states
    assert [s.kind for s in first.script.passes] == ["levels"]
    assert [s.kind for s in second.script.passes] == ["gradient-map"]
    assert (first.script.origin, second.script.origin, third.script.origin) == (0, 0, 2)
    assert (first.steps, second.steps, third.steps) == (2, 2, 2)
    for _ in range(9):
        three.desk.undo()
    assert len(three.desk.kept.states) == 3
    assert three.desk.origin == (0, 0)


def test_the_same_print_is_not_kept_twice(three: Bench):
    three.key(Qt.Key.Key_S)
    assert len(three.desk.kept.states) == 3
    assert three.said() == "This print is kept already, as state III both"


def test_states_lie_in_the_file_and_come_back(three: Bench, tmp_path):
    file = tmp_path / "landing.kyano"
    assert three.desk.edited
    three.window.saving.save_to(file)
    three.settle()
    assert not three.desk.edited
    found = read_script(file).script
    assert [state.title for state in found.states] == ["I only the punch", "II only the tint", "III both"]
    assert found.states[0].kept == "2026-11-26T10:26"
    three.window.opening.open(file)
    three.settle()
    assert three.desk.kept.states == found.states
    assert three.desk.origin == (3, 0)
    assert not three.desk.edited
    three.desk.kept.describe(1, "the punch", "for the dye works")
    assert three.desk.edited  # names are something to be lost, too
    three.desk.kept.undo()
    assert not three.desk.edited


def test_states_survive_a_crash(three: Bench):
    """The journal has them."""
    job = three.window.keeper.write()
    assert until(lambda: not three.window.jobs.busy, 240), job
    text = three.window.keeper.journal.path.read_text()
    assert '"states"' in text
    import json

    entry = json.loads(text)
    assert len(loads(json.dumps(entry["script"])).states) == 3


# The wall


def test_every_print_on_the_wall_is_exactly_its_states(wall: Bench):
    shown = wall.gallery.wall.frames
    assert set(shown) == {1, 2, 3}
    for number, frame in shown.items():
        script = replace(wall.desk.kept.find(number).script, origin=0)
        renderer = Renderer(wall.desk.photo.source, script)
        assert np.array_equal(
            frame.pixels, display.screen().shown(renderer.region(frame.rect, frame.scale), renderer.space)
        )
        assert not frame.coarse


def test_the_wall_is_zoomed_and_moved_as_one(wall: Bench):
    hung = wall.gallery.wall
    at = hung.cell(2).center()
    QTest.mouseDClick(hung, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at.toPoint())
    wall.settle()
    assert hung.magnification() == 1
    assert wall.window.foot.zoom.text() == "100 %"
    middle = hung.cell(1).center()
    wall.drag(hung, middle, middle + QPointF(30, 20), middle + QPointF(60, 40))
    wall.settle()
    rects = {frame.rect for frame in hung.frames.values()}
    assert len({(rect.x, rect.y) for rect in rects}) == 1
    wall.key(Qt.Key.Key_F, on=hung)
    assert hung.whole
    wall.settle()
    assert {frame.rect.x for frame in hung.frames.values()} == {0}


def test_the_spot_under_the_pointer_is_told_under_each(wall: Bench):
    hung = wall.gallery.wall
    at = hung.cell(1).center().toPoint()
    QTest.mouseMove(hung, at)
    wall.qtbot.waitUntil(lambda: len(hung.values) == 3)
    sight = hung.sights[1]
    spot, scale = sight.to_picture(QPointF(at)), sight.render_scale()

    def levels(script):
        renderer = Renderer(wall.desk.photo.source, script)
        width, height = renderer.size(scale)
        planes = renderer.region(Rect(int(spot.x() * width), int(spot.y() * height), 1, 1), scale)
        return [round(float(v) * 255) for v in np.broadcast_to(planes, (3, 1, 1))[:, 0, 0]]

    for state in wall.desk.kept.states:
        assert list(hung.values[state.number].levels) == levels(state.script)
    assert levels(wall.desk.kept.find(1).script) != levels(wall.desk.kept.find(2).script)
    told = wall.window.foot.values.text()
    assert told.split(" · ")[0] == "Photo " + " ".join(map(str, levels(Script())))


def test_states_are_hung_and_taken_down_by_press_drop_and_keys(wall: Bench):
    gallery, rack = wall.gallery, wall.gallery.rack
    wall.click(gallery.wall, gallery.wall.cross(2).center())
    assert gallery.hung == [1, 3]
    QTest.mouseDClick(
        rack, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, rack.box(PHOTO).center().toPoint()
    )
    assert gallery.hung == [1, 3, PHOTO]
    data = QMimeData()
    data.setData(DRAGGED, b"2")
    place = gallery.wall.cells()[0].center()
    move, left = Qt.DropAction.MoveAction, Qt.MouseButton.LeftButton
    gallery.wall.dropEvent(QDropEvent(place, move, data, left, Qt.KeyboardModifier.NoModifier))
    assert gallery.hung == [2, 1, 3, PHOTO]
    assert gallery.current == 2
    wall.key(Qt.Key.Key_Return, on=gallery.wall)
    assert gallery.hung == [1, 3, PHOTO]
    wall.key(Qt.Key.Key_Return, on=gallery.wall)
    assert gallery.hung == [1, 3, PHOTO, 2]
    assert rack.drag(rack.lines[1]).mimeData().data(DRAGGED).data() == b"1"
    data.setData(DRAGGED, b"nonsense")
    gallery.wall.dropEvent(QDropEvent(place, move, data, left, Qt.KeyboardModifier.NoModifier))
    assert gallery.hung == [1, 3, PHOTO, 2]


def test_six_hang_at_most(wall: Bench):
    gallery = wall.gallery
    for k in range(4):
        wall.desk.set_values_at(0, "x", strength=90.0 - k)
        wall.desk.kept.keep()
        wall.settle()
    assert len(gallery.hung) == 6
    gallery.hang(7)
    assert gallery.hung == [1, 2, 3, 4, 5, 6]
    assert wall.said() == "6 prints hang at most; take one down first"
    cells = gallery.wall.cells()
    assert len({(cell.width(), cell.height()) for cell in cells}) == 1
    assert not any(a.intersects(b) for k, a in enumerate(cells) for b in cells[:k])


def test_holding_flicks_to_the_other_in_the_same_place(wall: Bench):
    gallery = wall.gallery
    gallery.choose(3)
    gallery.compare_with(1)
    before = gallery.wall.frames[3].pixels
    QTest.keyPress(gallery.wall, Qt.Key.Key_E)
    wall.settle()
    assert np.array_equal(gallery.wall.frames[3].pixels, gallery.wall.frames[1].pixels)
    QTest.keyRelease(gallery.wall, Qt.Key.Key_E)
    wall.settle()
    assert np.array_equal(gallery.wall.frames[3].pixels, before)
    QTest.keyPress(gallery.wall, Qt.Key.Key_O)
    wall.settle()
    assert gallery.wall.frames[3].look.script.passes == ()
    QTest.keyRelease(gallery.wall, Qt.Key.Key_O)
    wall.settle()
    assert np.array_equal(gallery.wall.frames[3].pixels, before)


# Reading and going on


def test_keep_three_of_one_start_hang_read_take_one_step_over_and_go_on(wall: Bench):
    """A print maker's walk through the view."""
    gallery = wall.gallery
    gallery.choose(3)
    assert "Kept 26 November at 10:26, after 2 steps; made from II only the tint" in said(wall)
    gallery.page.words["against 2"].click()
    assert "Levels" in said(wall)
    assert any(text.startswith("is new: middle 0.7") for text in said(wall))
    gallery.choose(1)
    gallery.page.words["go on"].click()
    wall.settle()
    assert wall.window.registry.view is wall.window.bench
    assert [s.kind for s in wall.desk.script.passes] == ["levels"]
    assert wall.desk.origin == (1, 0)
    wall.key(STATES_KEY, CTRL)
    gallery.choose(3)
    gallery.page.words[f"against {BENCH}"].click()
    take_over(wall, "is new")  # the gradient map alone
    wall.settle()
    assert [s.kind for s in wall.desk.script.passes] == ["gradient-map", "levels"]
    assert "on the bench; Ctrl+Z takes it back" in wall.said()
    assert [d.words for d, _ in gallery.page.takes] == []  # the bench is as the state is
    assert "Nothing: they are equal" in said(wall)
    wall.key(Qt.Key.Key_Z, CTRL, on=gallery.wall)
    assert [s.kind for s in wall.desk.script.passes] == ["levels"]
    wall.desk.undo()
    assert [s.kind for s in wall.desk.script.passes] == ["gradient-map", "levels"]  # before going on
    assert wall.desk.origin == (3, 0)


def test_states_whose_prints_are_equal_say_so(wall: Bench):
    wall.desk.set_values_at(0, "Name", name="the warm one")
    wall.desk.kept.keep()
    wall.settle()
    wall.gallery.compare_with(3)
    assert "The prints are equal: what differs does not act." in said(wall)


def test_names_notes_and_letting_go_are_undone_here(wall: Bench):
    gallery = wall.gallery
    gallery.choose(2)
    wall.key(Qt.Key.Key_F2, on=gallery.wall)
    naming = wall.window.states.naming
    naming.lines[0].setText("warm")
    naming.lines[1].setText("for the ferry office")
    QTest.keyClick(naming.lines[0], Qt.Key.Key_Return)
    wall.settle()
    assert wall.desk.kept.find(2).title == "II warm"
    assert "for the ferry office" in said(wall)
    wall.key(Qt.Key.Key_Delete, on=gallery.wall)
    assert wall.desk.kept.find(2) is None
    assert 2 not in gallery.hung
    wall.key(Qt.Key.Key_Z, CTRL, on=gallery.wall)
    assert wall.desk.kept.find(2).title == "II warm"
    wall.key(Qt.Key.Key_Z, CTRL, on=gallery.wall)
    assert wall.desk.kept.find(2).title == "II only the tint"
    wall.key(Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier, on=gallery.wall)
    assert wall.desk.kept.find(2).title == "II warm"


def test_descent_is_drawn_from_the_photo_to_the_bench(wall: Bench):
    nodes = wall.gallery.descent.nodes
    assert [(node.item, node.origin) for node in nodes] == [(0, None), (1, 0), (2, 0), (3, 2), (BENCH, 3)]
    places = wall.gallery.descent.places()
    assert places[1].x() == places[2].x() < places[3].x() < places[BENCH].x()
    wall.click(wall.gallery.descent, places[1])
    assert wall.gallery.current == 1
    # A strange file: states that come from each other, or from none that there is.
    strange = laid_out([Node(0, "", None), Node(1, "", 2), Node(2, "", 1), Node(3, "", 77)])
    assert set(strange) == {0, 1, 2, 3}


def test_without_states_the_view_says_how_to_keep_one(bench: Bench):
    bench.key(STATES_KEY, CTRL)
    bench.gallery = bench.window.states.gallery
    bench.settle()
    assert any("S keeps the print" in text for text in said(bench))
    assert bench.gallery.hung == [BENCH]
    bench.gallery.keep_word.click()
    bench.settle()
    assert bench.gallery.hung == [1]
    bench.key(Qt.Key.Key_Escape, on=bench.gallery.wall)
    assert bench.window.registry.view is bench.window.bench


# Judging blind


def test_four_borders_judged_blind(bench: Bench):
    """The wider border is always pressed: it comes out first, surely, and that stands in the notes."""
    bench.add("border")
    for width in (4.0, 20.0, 60.0, 120.0):
        bench.desk.set_values("Border: width", width=width)
        bench.desk.kept.describe(bench.desk.kept.keep().number, f"{width:g} wide", "")
    bench.key(STATES_KEY, CTRL)
    bench.gallery = gallery = bench.window.states.gallery
    bench.settle()
    bench.key(Qt.Key.Key_J, on=gallery.wall)
    judge = gallery.judge
    sides = []
    for _ in range(18):
        bench.settle()
        left, right = gallery.wall.pieces
        assert not any("wide" in label.text() for label in judge.page.findChildren(QLabel))
        side = int(right.item > left.item)
        sides.append(side)
        if side:
            bench.key(Qt.Key.Key_Right, on=gallery.wall)
        else:
            bench.click(gallery.wall, gallery.wall.cells()[0].center())
    assert 0 < sum(sides) < 18  # in places by chance
    bench.key(Qt.Key.Key_Down, on=gallery.wall)
    assert judge.rounds[-1].better is None
    bench.key(Qt.Key.Key_Z, CTRL, on=gallery.wall)
    assert len(judge.rounds) == 18
    judge.page.words["rank"].click()
    assert [judge.pieces[rank.which].item for rank in judge.ranks()] == [4, 3, 2, 1]
    judge.page.words["note"].click()
    bench.settle()
    assert not gallery.judging
    assert bench.desk.kept.find(4).note.startswith("Judged blind: 1 of 4 in 18 rounds, better than III 60 wide: ")
    assert bench.desk.kept.find(4).note.endswith("% sure")
    bench.key(Qt.Key.Key_Z, CTRL, on=gallery.wall)
    assert bench.desk.kept.find(4).note == ""


def test_judging_needs_two_and_is_left_by_escape(wall: Bench):
    gallery = wall.gallery
    wall.key(Qt.Key.Key_J, on=gallery.wall)
    assert len(gallery.wall.pieces) == 2
    wall.key(Qt.Key.Key_Escape, on=gallery.wall)
    assert not gallery.judging
    assert wall.window.registry.view is wall.window.states  # from judging to the wall; from there to the bench
    assert len(gallery.wall.pieces) == 3
    for number in (1, 2):
        gallery.take_down(number)
    wall.key(Qt.Key.Key_J, on=gallery.wall)
    assert not gallery.judging
    assert "two prints" in wall.said()


# On the Bench


def test_the_bench_compares_with_states(three: Bench):
    bench = three
    assert bench.window.registry.view is bench.window.bench
    shift = Qt.KeyboardModifier.ShiftModifier
    for _ in range(2):
        bench.key(Qt.Key.Key_C, shift)
    assert bench.said() == "Compared with state I only the punch"
    bench.settle()
    assert [s.kind for s in bench.easel.comparison.beside.look.script.passes] == ["levels"]
    bench.desk.kept.let_go(1)
    bench.settle()
    assert bench.easel.compared_with() == "the photo"
    for _ in range(4):
        bench.key(Qt.Key.Key_C, shift)
    assert bench.easel.comparison.against in ("photo", "without", 2, 3)


def test_on_the_bench_a_key_shows_the_state_it_was_made_from(three: Bench):
    QTest.keyPress(three.easel, Qt.Key.Key_E)
    three.settle()
    assert three.easel.held == replace(three.desk.kept.find(3).script, origin=0)
    QTest.keyRelease(three.easel, Qt.Key.Key_E)
    assert three.easel.held is None
    three.key(Qt.Key.Key_J)
    assert three.window.states.gallery.judging
