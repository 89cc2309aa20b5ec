"""Several values sought by choosing, in the window: pressed, gone back, locked, kept, taken."""

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from kyanoscript.core.picture import Reading
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import Dial
from kyanoscript.ui.service import display
from kyanoscript.ui.strip.sought import LEAST
from kyanoscript.ui.widgets import theme
from tests.ui.conftest import Bench


@pytest.fixture
def toned(bench: Bench):
    bench.add("gray-weights", "levels", "toner-bath")
    bench.desk.select(1)
    bench.settle()
    return bench


@pytest.fixture
def seeking(toned: Bench):
    """Three values, ticked on the page and begun there; the first prints hang."""
    window = toned.window
    window.registry.go(window.strip)
    toned.settle()
    toned.click(window.strip.trial.page.words["several"], QPointF(5, 5))
    toned.settle()
    toned.search = window.strip.search
    for dial in list(toned.search.sought):
        toned.search.page.ticks[dial].click()
    for step, name in ((0, "red"), (1, "gamma"), (2, "depth")):
        toned.search.page.ticks[dial_of(toned, step, name)].click()
    toned.click(toned.search.page.words["begin"], QPointF(5, 5))
    toned.settle()
    toned.wall = toned.search.wall
    return toned


def dial_of(bench, step, name):
    return Dial("pass", name, bench.desk.script.passes[step].id)


def press(bench, place):
    wall = bench.wall
    bench.click(wall, wall.cell(wall.pieces[place].item).center())
    bench.settle()


def best(bench):
    return bench.search.seek.script(bench.search.seek.best)


def at(frame):
    return frame.pixels[frame.pixels.shape[0] // 2, frame.pixels.shape[1] // 2]


def test_nine_prints_hang_and_each_is_bit_for_bit_its_values(seeking: Bench):
    scripts = seeking.search.seek.scripts()
    assert len(seeking.wall.frames) == 9
    for piece, script in zip(seeking.wall.pieces, scripts, strict=True):
        frame = seeking.wall.frames[piece.item]
        renderer = Renderer(seeking.desk.photo.source, script, reading=Reading.SEEN)
        exact = display.screen().shown(renderer.region(frame.rect, frame.scale), renderer.space)
        assert np.array_equal(frame.pixels, exact)
    assert len({frame.pixels.tobytes() for frame in seeking.wall.frames.values()}) > 4  # they differ
    assert best(seeking) == seeking.desk.script
    assert [row.moved.text() for row in seeking.search.page.rows] == ["left as it is"] * 3


def test_a_print_maker_presses_what_is_best_until_it_is_found_and_takes_it(seeking: Bench):
    """Seven looks, with one that was no better; one step of undo."""
    before, entries = seeking.desk.script, len(seeking.desk.entries)
    for place in (5, 3, 4, 1):
        wanted = seeking.search.seek.script(seeking.search.seek.now.points[place])
        press(seeking, place)
        assert best(seeking) == wanted
        assert seeking.wall.script_of(seeking.wall.pieces[4]) == wanted
    assert seeking.desk.script == before  # nothing is taken yet
    assert seeking.search.page.count.text().startswith("4 looks. What you may mean is about ")
    assert len(seeking.search.row.shown()) == 5
    found = best(seeking)
    seeking.click(seeking.search.page.words["take"], QPointF(5, 5))
    seeking.settle()
    assert seeking.window.registry.view is seeking.window.bench
    assert seeking.desk.script == found != before
    assert len(seeking.desk.entries) == entries + 1
    assert seeking.said() == "Seek: 3 values: taken; Ctrl+Z takes it back"
    seeking.desk.undo()
    assert seeking.desk.script == before


def test_values_are_told_as_they_went(seeking: Bench):
    press(seeking, 2)
    seek = seeking.search.seek
    told = [row.moved.text() for row in seeking.search.page.rows]
    for sought, words in zip(seek.dials, told, strict=True):
        now = sought.dial.value(best(seeking))
        assert words == (sought.moved(now) or "left as it is")
    assert any("\N{RIGHTWARDS ARROW}" in words for words in told)


def test_backspace_goes_one_look_back_and_the_row_goes_anywhere(seeking: Bench):
    press(seeking, 5)
    one = best(seeking)
    press(seeking, 0)
    two = best(seeking)
    seeking.key(Qt.Key.Key_Backspace, on=seeking.wall)
    seeking.settle()
    assert best(seeking) == one
    assert len(seeking.search.row.shown()) == 3  # what came after is there still
    seeking.click(seeking.search.row, seeking.search.row.box("2").center())
    seeking.settle()
    assert best(seeking) == two
    seeking.click(seeking.search.row, seeking.search.row.box("0").center())
    seeking.settle()
    assert best(seeking) == seeking.desk.script
    seeking.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    seeking.settle()
    assert best(seeking) == one
    seeking.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    seeking.settle()
    press(seeking, 8)  # another way: what came after goes
    assert len(seeking.search.row.shown()) == 2
    seeking.key(Qt.Key.Key_Backspace, on=seeking.wall)
    seeking.key(Qt.Key.Key_Backspace, on=seeking.wall)
    assert seeking.said() == "This is the start"


def test_the_same_choices_bring_the_same_prints(seeking: Bench):
    press(seeking, 5)
    press(seeking, 1)
    once = seeking.search.seek.scripts()
    seeking.search.go_to(0)
    press(seeking, 5)
    press(seeking, 1)
    assert seeking.search.seek.scripts() == once


def test_arrows_frame_a_print_and_return_takes_it(seeking: Bench):
    seeking.key(Qt.Key.Key_Right, on=seeking.wall)
    seeking.key(Qt.Key.Key_Down, on=seeking.wall)
    seeking.key(Qt.Key.Key_Down, on=seeking.wall)
    assert seeking.wall.at == 8
    assert seeking.wall.told().words == "row 3, column 3"
    wanted = seeking.search.seek.script(seeking.search.seek.now.points[8])
    seeking.key(Qt.Key.Key_Return, on=seeking.wall)
    seeking.settle()
    assert best(seeking) == wanted
    assert seeking.wall.told().words == "row 2, column 2, best so far"


def test_the_photograph_and_the_start_are_there_while_a_key_is_held(seeking: Bench):
    press(seeking, 2)
    now = {item: at(frame).tolist() for item, frame in seeking.wall.frames.items()}
    photo = Renderer(seeking.desk.photo.source, Script(), reading=Reading.SEEN)
    for key, script in ((Qt.Key.Key_O, Script()), (Qt.Key.Key_E, seeking.desk.script)):
        QTest.keyPress(seeking.wall, key)
        seeking.settle()
        for frame in seeking.wall.frames.values():
            assert frame.look.script == script
        if key == Qt.Key.Key_O:
            frame = next(iter(seeking.wall.frames.values()))
            exact = display.screen().shown(photo.region(frame.rect, frame.scale), photo.space)
            assert np.array_equal(frame.pixels, exact)
        QTest.keyRelease(seeking.wall, key)
        seeking.settle()
    assert {item: at(frame).tolist() for item, frame in seeking.wall.frames.items()} == now


def test_s_keeps_the_print_under_the_pointer_as_a_state(seeking: Bench):
    seeking.move(seeking.wall, seeking.wall.cell(seeking.wall.pieces[6].item).center())
    assert seeking.wall.at == 6
    wanted = seeking.search.seek.script(seeking.search.seek.now.points[6])
    seeking.key(Qt.Key.Key_S, on=seeking.wall)
    seeking.settle()
    (state,) = seeking.desk.kept.states
    assert (state.name, state.script.passes) == ("Look 1", wanted.passes)
    assert len(seeking.search.way) == 1  # the search goes on where it was
    seeking.key(Qt.Key.Key_S, on=seeking.wall)
    assert seeking.said() == "This print is kept already, as state I Look 1"


def test_a_locked_value_stays(seeking: Bench):
    press(seeking, 5)
    row = seeking.search.page.rows[1]
    value = best(seeking).passes[1].gamma
    seeking.click(row.lock, QPointF(5, 5))
    seeking.settle()
    assert {script.passes[1].gamma for script in seeking.search.seek.scripts()} == {value}
    assert seeking.search.page.rows[1].lock.text() == "Locked"
    press(seeking, 0)
    assert best(seeking).passes[1].gamma == value
    seeking.click(seeking.search.page.rows[0].lock, QPointF(5, 5))
    seeking.settle()
    assert seeking.said() == "2 values at least are left to be sought"
    assert seeking.search.seek.locked == {1}


def test_twenty_five_prints_where_there_is_room(seeking: Bench):
    assert not seeking.wall.roomy(5)
    seeking.click(seeking.search.page.words["grid 5"], QPointF(5, 5))
    seeking.settle()
    assert len(seeking.wall.pieces) == 25
    assert seeking.said().startswith("The prints are small now")
    press(seeking, 20)
    assert len(seeking.wall.frames) == 25
    seeking.window.resize(1920, 1080)
    seeking.settle()
    assert seeking.wall.roomy(5)
    assert min(seeking.wall._visible(piece).width() for piece in seeking.wall.pieces) >= LEAST


def test_a_print_is_wide_enough_to_be_judged_at_the_usual_size(seeking: Bench):
    seeking.window.resize(1280, 800)
    seeking.settle()
    assert min(seeking.wall._visible(piece).width() for piece in seeking.wall.pieces) >= LEAST


def test_the_ends_of_a_value_are_narrowed_on_the_page(seeking: Bench):
    seeking.click(seeking.search.page.words["values"], QPointF(5, 5))
    dial = dial_of(seeking, 1, "gamma")
    slider = seeking.search.page.sliders[dial, "To"]
    slider._announce(1.2)
    seeking.click(seeking.search.page.words["begin"], QPointF(5, 5))
    seeking.settle()
    values = [script.passes[1].gamma for script in seeking.search.seek.scripts()]
    assert max(values) <= 1.2
    assert len(set(values)) > 1


def test_too_few_values_are_no_search(seeking: Bench):
    seeking.click(seeking.search.page.words["values"], QPointF(5, 5))
    for dial in list(seeking.search.sought)[1:]:
        seeking.search.page.ticks[dial].click()
    assert not seeking.search.page.words["begin"].isEnabled()
    seeking.search.begin()
    assert seeking.said() == "Tick 2 to 12 values"
    seeking.click(seeking.search.page.words["return"], QPointF(5, 5))
    assert len(seeking.search.page.rows) == 3  # the search as it stood


def test_a_value_is_added_from_the_bench(toned: Bench):
    slider = toned.window.bench.slip.sliders["gamma"]
    QTest.mouseClick(slider, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, slider.rect().topLeft())
    search = toned.window.strip.search
    assert dial_of(toned, 1, "gamma") in search.sought
    assert "to be sought" in toned.said()
    actions = [action for action in slider.menu().actions() if action.text() == "Seek it with others"]
    actions[0].trigger()
    assert list(search.sought).count(dial_of(toned, 1, "gamma")) == 1


def test_what_the_bench_does_ends_the_search_and_states_do_not(seeking: Bench):
    press(seeking, 5)
    seeking.desk.kept.keep()
    seeking.settle()
    assert len(seeking.search.way) == 2
    seeking.desk.undo()
    seeking.settle()
    assert seeking.search.way == []
    assert seeking.said() == "The print on the bench is another one; the search begins anew"
    assert not seeking.wall.pieces


def test_what_is_learned_of_a_print_that_is_gone_is_no_search(seeking: Bench):
    seeking.search.begin()
    seeking.desk.undo()
    seeking.settle()
    assert seeking.search.way == []
    seeking.search.begin()
    seeking.settle()
    assert seeking.search.seek.base.passes == seeking.desk.script.passes


def test_after_a_step_that_failed_one_can_go_on(seeking: Bench, monkeypatch):
    with monkeypatch.context() as broken:
        broken.setattr("kyanoscript.core.seek.seek.Seek.choose", lambda seek, which: 1 / 0)
        press(seeking, 5)
        assert len(seeking.search.way) == 1
    press(seeking, 5)
    assert len(seeking.search.way) == 2


def test_pairs_judged_blind_count(toned: Bench):
    window = toned.window
    for gamma in (0.7, 1.6):
        script = toned.desk.script
        toned.desk.change("Middle", script.with_pass(1, script.passes[1].model_copy(update={"gamma": gamma})))
        toned.desk.kept.keep()
    window.registry.go(window.states)
    toned.settle()
    window.states.gallery.start_judging()
    judge = window.states.gallery.judge
    for _ in range(6):
        judge.choose(int(judge.now[1] > judge.now[0]))  # what was kept later is better
    pairs = [pair for pair in judge.pairs() if all(len(script.passes) == 3 for script in pair)]
    assert pairs
    assert all(better.passes[1].gamma >= worse.passes[1].gamma for better, worse in pairs)
    window.strip.seeking = True
    window.registry.go(window.strip)
    search = window.strip.search
    search.sought.clear()
    search.tick(dial_of(toned, 0, "red"), True)
    search.tick(dial_of(toned, 1, "gamma"), True)
    search.begin()
    toned.settle()
    assert len(search.seek.judged) >= 1
    assert "judged blind count" in toned.said()


def test_one_two_and_several_are_one_press_apart(seeking: Bench):
    strip = seeking.window.strip
    seeking.click(seeking.search.page.words["two"], QPointF(5, 5))
    seeking.settle()
    assert not strip.seeking
    assert strip.trial.strip.second is not None
    assert strip.trial.page.words["two"].isChecked()
    seeking.click(strip.trial.page.words["one"], QPointF(5, 5))
    seeking.settle()
    assert strip.trial.strip.second is None
    seeking.click(strip.trial.page.words["several"], QPointF(5, 5))
    seeking.settle()
    assert len(seeking.search.way) == 1  # as it was left
    seeking.key(Qt.Key.Key_Escape, on=seeking.wall)
    assert seeking.window.registry.view is seeking.window.bench


def test_another_photograph_is_another_search(seeking: Bench):
    press(seeking, 5)
    seeking.desk.saved_as(Path(), seeking.desk.whole)  # nothing to be asked about
    seeking.open(seeking.desk.photo.path)
    seeking.settle()
    assert seeking.search.way == []
    assert seeking.search.row.shown() == []


def test_without_a_pass_the_page_says_so(bench: Bench):
    bench.window.strip.seeking = True
    bench.window.registry.go(bench.window.strip)
    bench.settle()
    search = bench.window.strip.search
    assert search.sought == {}
    assert not search.wall.pieces
    search.begin()
    assert bench.said() == "Tick 2 to 12 values"


def test_the_middle_says_that_it_is_the_best_so_far(seeking: Bench):
    """Its label is on the print, in the colour of the page: seen, not only told."""
    shot = seeking.wall.grab().toImage()
    box = seeking.wall._visible(seeking.wall.pieces[4])
    ink = theme.colour("panel")
    ratio = shot.devicePixelRatio()
    corner = shot.pixelColor(int((box.x() + 8) * ratio), int((box.y() + 8) * ratio))
    assert corner == ink
    other = seeking.wall._visible(seeking.wall.pieces[0])
    assert shot.pixelColor(int((other.x() + 8) * ratio), int((other.y() + 8) * ratio)) != ink
