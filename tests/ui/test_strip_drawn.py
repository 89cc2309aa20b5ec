"""Where bands lie, what is told of them, how a hand and the keys go through them, and what is said at the foot."""

import pytest
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtTest import QTest

from kyanoscript import demo
from kyanoscript.core.params import Number
from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import Dial
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.service.walls import Band
from kyanoscript.ui.strip.subject import Axis, Strip, Subject, counts
from tests.ui.conftest import Bench

KEY = Qt.Key


def number(script, value):
    """Puts a value where a test can see it."""
    return Script(origin=int(value * 10))


def subject(words="Middle", value=1.0, low=0.1, high=9.9):
    spec = Number(label=words, low=low, high=high, decimals=2, step=0.05)
    return Subject(words, spec, value, number)


def strip_of(first, second=None, **how):
    def axis(values):
        return Axis(subject(value=values[len(values) // 2]), values[0], values[-1], len(values), False)

    return Strip(Script(), axis(first), axis(second) if second else None, **how)


ONE = (0.5, 0.75, 1.0, 1.25, 1.5)
OTHER = (2.0, 3.0, 4.0)

# What a strip is


def test_cells_go_row_by_row_and_the_present_one_is_known():
    line, field = strip_of(ONE), strip_of(ONE, OTHER)
    assert line.cells == [(v,) for v in ONE]
    assert (line.grid, line.present) == ((5, 1), 2)
    assert strip_of(ONE, down=True).grid == (1, 5)
    assert (field.grid, field.present) == ((5, 3), 7)
    assert field.cells[:6] == [(v, 2.0) for v in ONE] + [(0.5, 3.0)]
    assert line.text(0) == "0.5"
    assert field.text(14) == "1.5, 4"
    assert line.script(3) == Script(origin=12)
    assert field.script(3) == Script(origin=20)  # the second value is put onto what the first one made
    assert counts(False)[1] > counts(True)[1]


# On the screen


@pytest.fixture
def shown(bench: Bench):
    """A strip of five bands, at 840 × 560; the photograph is 360 × 240."""
    bench.add("levels")
    bench.window.resize(1280, 800)
    bench.key(KEY.Key_W)
    bench.strip = bench.window.strip
    bench.bands = bench.strip.trial.bands
    bench.settle()
    bench.bands.resize(840, 560)
    return bench


def boxes(bands):
    return [bands.box(k) for k in range(len(bands.strip.cells))]


def test_bands_divide_the_print_and_together_are_it(shown: Bench):
    bands = shown.bands
    for strip, columns, rows in ((strip_of(ONE), 5, 1), (strip_of(ONE, down=True), 1, 5), (strip_of(ONE, OTHER), 5, 3)):
        bands.show_strip(strip, strip.present)
        found = boxes(bands)
        place = bands.sight.place()
        whole = found[0].united(found[-1])
        assert whole.getRect() == pytest.approx(place.getRect())
        for k, box in enumerate(found):
            if k % columns:
                assert box.left() == pytest.approx(found[k - 1].right())
            if k >= columns:
                assert box.top() == pytest.approx(found[k - columns].bottom())
            assert box.width() == pytest.approx(place.width() / columns, abs=2.1)
            assert box.height() == pytest.approx(place.height() / rows, abs=2.1)
            assert bands.cell_at(box.center()) == k
    assert bands.cell_at(QPointF(2, 2)) is None


def test_bands_of_the_same_part_are_all_alike_and_show_the_same_pixels(shown: Bench):
    bands = shown.bands
    strip = strip_of(ONE, OTHER, same=True)
    bands.show_strip(strip, strip.present)
    found = boxes(bands)
    assert {(box.width(), box.height()) for box in found} == {(160, 173)}
    assert found[0].topLeft() == QPointF(20, 20)  # 800 × 520, less what does not divide
    assert found[6].topLeft() == QPointF(180, 193)
    assert found[-1].bottomRight() == QPointF(820, 539)
    seen = [bands.seen(k) for k in range(15)]
    assert max(abs(one.x - seen[0].x) for one in seen) <= 1
    assert max(abs(one.width - seen[0].width) for one in seen) <= 1
    whole = bands.print_size(bands.sight.render_scale())
    middle = seen[7].x + seen[7].width / 2
    assert middle == pytest.approx(whole[0] / 2, abs=1.5)
    bands.piece = QPointF(0.0, 0.0)
    corner = bands.seen(7)
    assert (corner.x, corner.y) == (0, 0)
    assert corner.width == pytest.approx(seen[7].width / 2, abs=1.5)
    place = bands.place(7)
    assert (place.x(), place.y()) == pytest.approx((bands.box(7).center().x(), bands.box(7).center().y()), abs=1)


def test_the_part_that_is_dragged_stays_within_the_print(shown: Bench):
    bands = shown.bands
    strip = strip_of(ONE, same=True)
    bands.show_strip(strip, strip.present)
    width = bands.sight.place().width()
    shown.drag(bands, QPointF(400, 300), QPointF(410, 300), QPointF(400 + width / 4, 300))
    assert bands.piece.x() == pytest.approx(0.25, abs=0.01)
    assert bands.piece.y() == pytest.approx(0.5)
    for _ in range(4):
        shown.drag(bands, QPointF(10, 300), QPointF(100, 310), QPointF(800, 500))
    assert (bands.piece.x(), bands.piece.y()) == (0, 0)
    for _ in range(6):
        shown.drag(bands, QPointF(800, 500), QPointF(700, 400), QPointF(10, 10))
    assert (bands.piece.x(), bands.piece.y()) == (1, 1)


def test_bands_are_asked_for_from_the_chosen_one_outwards_and_those_out_of_sight_are_not(shown: Bench, monkeypatch):
    bands, asked = shown.bands, []
    monkeypatch.setattr(bands.service, "ask", asked.append)
    strip = strip_of(ONE)
    bands.show_strip(strip, 3)
    assert [request.slot[1] for request in asked if isinstance(request, Band)] == [3, 2, 4, 1, 0]
    asked.clear()
    bands.show_actual(bands.box(0).center())
    seen = {request.slot[1] for request in asked}
    assert 0 in seen
    assert len(seen) < 5 or bands.sight.seen().width > 300
    asked.clear()
    bands.show_strip(None, 0)
    bands.refresh()
    bands.set_zoom(2.0)
    assert asked == []
    assert bands.told().words == "nothing"
    assert (bands.told().high, bands.print_size(1.0)) == (0, (0, 0))
    assert bands.cell_at(QPointF(400, 300)) is None
    bands.grab()


def test_the_chosen_band_is_told_and_put(shown: Bench):
    bands, chosen = shown.bands, []
    strip = strip_of(ONE, OTHER)
    bands.show_strip(strip, 7)
    bands.chosen.disconnect()
    bands.chosen.connect(chosen.append)
    told = bands.told()
    assert (told.words, told.value, told.low, told.high) == ("1, 3", 7, 0, 14)
    told.put(3)
    assert chosen == [3]


@pytest.mark.parametrize(
    ("strip", "current", "key", "goes"),
    [
        (strip_of(ONE), 2, KEY.Key_Right, 3), (strip_of(ONE), 2, KEY.Key_Left, 1), (strip_of(ONE), 4, KEY.Key_Right, 4),
        (strip_of(ONE), 0, KEY.Key_Left, 0), (strip_of(ONE), 2, KEY.Key_Down, 3), (strip_of(ONE), 2, KEY.Key_Up, 1),
        (strip_of(ONE, down=True), 2, KEY.Key_Down, 3), (strip_of(ONE, down=True), 2, KEY.Key_Left, 1),
        (strip_of(ONE, OTHER), 7, KEY.Key_Right, 8), (strip_of(ONE, OTHER), 7, KEY.Key_Down, 12),
        (strip_of(ONE, OTHER), 7, KEY.Key_Up, 2), (strip_of(ONE, OTHER), 9, KEY.Key_Right, 9),
        (strip_of(ONE, OTHER), 12, KEY.Key_Down, 12), (strip_of(ONE, OTHER), 5, KEY.Key_Left, 5),
        (strip_of(ONE, OTHER), 1, KEY.Key_Up, 1),
    ],
)  # fmt: skip
def test_arrows_go_from_band_to_band(shown: Bench, strip, current, key, goes):
    bands, chosen = shown.bands, []
    bands.show_strip(strip, current)
    bands.chosen.disconnect()
    bands.chosen.connect(chosen.append)
    QTest.keyClick(bands, key)
    assert chosen == [goes]


def test_a_press_chooses_a_second_narrows_and_a_drag_is_neither(shown: Bench):
    bands, trial = shown.bands, shown.strip.trial
    first = trial.current
    shown.click(bands, bands.box(first + 1).center())
    assert trial.current == first + 1
    shown.drag(bands, bands.box(first).center(), bands.box(first).center() + QPointF(40, 0))
    assert trial.current == first + 1
    QTest.mouseClick(bands, Qt.MouseButton.RightButton, pos=bands.box(first).center().toPoint())
    QTest.mouseClick(bands, Qt.MouseButton.MiddleButton, pos=bands.box(first).center().toPoint())
    assert trial.current == first + 1
    shown.click(bands, QPointF(3, 3))
    assert trial.current == first + 1
    wide = trial.strip.first.high - trial.strip.first.low
    shown.click(bands, bands.box(first + 1).center())
    assert trial.strip.first.high - trial.strip.first.low < 0.7 * wide
    assert shown.said() == f"Round {trial.strip.text(trial.current)} in half the steps"
    at = bands.box(2).center()
    shown.press(bands, at)
    shown.move(bands, at + QPointF(3, 0))
    assert bands.cursor().shape() != Qt.CursorShape.ClosedHandCursor
    shown.move(bands, at + QPointF(60, 0))
    assert bands.cursor().shape() == Qt.CursorShape.ClosedHandCursor
    shown.release(bands, at)
    assert bands.cursor().shape() != Qt.CursorShape.ClosedHandCursor


def test_narrowing_ends_where_the_value_can_be_set_no_finer(shown: Bench):
    """Of a whole number."""
    shown.add("inks")
    trial, said = shown.strip.trial, []
    shown.strip.start(Dial("pass", "count", shown.desk.run[-1].id))
    while len(said) < 30 and "as fine" not in shown.said():
        trial.narrow(trial.current)
        said.append(shown.said())
    assert shown.said() == "The steps are as fine as this value can be set"
    values = trial.strip.first.values
    assert len(set(values)) == len(values)


def test_a_value_is_written_on_its_label(shown: Bench):
    bands = shown.bands
    bands.show_strip(strip_of(ONE), 0)
    image = bands.grab().toImage()
    box = bands.box(1)
    label = QRectF(box.x() + 6, box.bottom() - 28, 20, 20)
    dark = sum(
        image.pixelColor(x, y).lightness() < 120
        for x in range(int(label.left()), int(label.right())) for y in range(int(label.top()), int(label.bottom()))
    )  # fmt: skip
    assert dark > 10  # its value is written on it


def test_white_lines_part_the_bands_and_the_page_says_how_they_lie(shown: Bench):
    bands, trial = shown.bands, shown.strip.trial
    bands.show_strip(strip_of(ONE, OTHER), 0)
    image = bands.grab().toImage()
    for k in (1, 8):
        box = bands.box(k)
        row = [image.pixelColor(int(box.left()) + by, round(box.center().y())).name() for by in (-3, -1, 0, 1, 4)]
        assert "#ffffff" in row[1:4], k
        assert "#ffffff" not in (row[0], row[4]), k
    below = bands.box(6)
    column = [image.pixelColor(round(below.center().x()), int(below.top()) + by).name() for by in (-3, -1, 0, 1, 4)]
    assert "#ffffff" in column[1:4]
    assert "#ffffff" not in (column[0], column[4])
    first = bands.box(0)
    assert image.pixelColor(round(first.center().x()), round(first.top()) + 6).name() != "#ffffff"
    words = trial.page.words
    assert (words["across"].isChecked(), words["down"].isChecked()) == (True, False)
    words["down"].click()
    assert (words["across"].isChecked(), words["down"].isChecked()) == (False, True)
    assert trial.strip.grid == (1, len(trial.strip.cells))
    assert words["take"].text() == f"Take {trial.strip.text(trial.current)}"
    trial.page.of.emit(1, trial.dials_of.index(trial.strip.first.subject.key) + 1)
    assert not words["across"].isVisible()


# What is said


def test_two_values_are_two_different_ones(shown: Bench):
    trial = shown.strip.trial
    own = trial.dials_of.index(trial.strip.first.subject.key)
    trial.page.of.emit(1, own)
    assert shown.said() == "A field needs two values; this one is tried already"
    assert trial.strip.second is None
    other = next(k for k in range(len(trial.dials_of)) if k != own)
    trial.page.of.emit(1, other)
    assert trial.strip.second is not None
    assert (trial.strip.first.count, trial.strip.second.count) == (5, 5)
    trial.page.of.emit(1, -1)
    assert (trial.strip.second, trial.strip.first.count) == (None, 7)
    trial.page.of.emit(0, other)
    assert trial.strip.first.subject.key == trial.dials_of[other]


def test_what_is_taken_is_told_by_its_words_and_values(shown: Bench):
    trial, taken = shown.strip.trial, []
    trial.taken.disconnect()
    trial.taken.connect(lambda *what: taken.append(what))
    trial.choose(1)
    trial.choose(99)
    trial.choose(-1)
    assert trial.current == 1
    trial.take()
    words, script, key = taken[0]
    assert words == f"{trial.strip.first.subject.words} {trial.strip.text(1)}"
    assert script == trial.strip.script(1)
    assert isinstance(key, Dial)
    own = trial.dials_of.index(trial.strip.first.subject.key)
    trial.page.of.emit(1, own + 1)
    trial.take()
    assert " and " in taken[1][0]
    trial.keep_all()
    count = len(trial.strip.cells)
    assert shown.said() == f"Kept {count} states, {shown.desk.kept.states[0].title} to " + (
        f"{shown.desk.kept.states[-1].title}; Ctrl+3 shows them"
    )


def test_every_band_whole_hangs_below_with_its_value(shown: Bench):
    trial = shown.strip.trial
    assert until(lambda: trial.bands.small is not None, 60)
    for k in range(len(trial.strip.cells)):
        trial.choose(k)
        assert trial.row.told().words == trial.strip.text(k)


def test_a_strip_that_is_left_says_nothing_and_its_small_pictures_are_made_no_more(shown: Bench, monkeypatch):
    trial, asked = shown.strip.trial, []
    foot = shown.window.foot
    bands = trial.bands
    bands.show_actual(bands.box(0).center())
    assert foot.zoom.text() == "100 %"
    monkeypatch.setattr(trial.context.service, "ask_instead", lambda group, requests: asked.append(tuple(requests)))
    shown.window.registry.go(shown.window.bench)
    assert asked == [()]
    before = foot.zoom.text()
    bands.zoomed.emit()
    assert foot.zoom.text() == before


def test_bands_that_lie_beyond_the_rim_show_nothing(shown: Bench):
    """Also those of which only a height or a width is left."""
    bands = shown.bands
    strip = strip_of(ONE, OTHER)
    bands.show_strip(strip, 0)
    bands.set_zoom(6.0, bands.box(0).center())
    seen = [bands.seen(k) for k in range(15)]
    assert seen[0] is not None
    assert seen[14] is None
    assert seen[4] is None  # of its row
    assert seen[10] is None  # of its column


def test_of_another_strip_only_the_bands_that_are_the_same_keep_their_pictures(shown: Bench):
    bands = shown.bands
    bands.show_strip(strip_of(ONE), 2)
    shown.settle()
    assert set(bands.frames) == {0, 1, 2, 3, 4}
    bands.hide()  # nothing new is asked for
    bands.show_strip(strip_of((0.5, 0.75, 1.0, 1.3, 1.6)), 2)
    assert set(bands.frames) == {0, 1, 2}
    bands.show_strip(strip_of((0.5, 0.75, 1.0, 1.3, 1.6), same=True), 2)
    assert bands.frames == {}


def test_bands_of_an_upright_print_lie_below_each_other(bare):
    bare.open(demo.photo(demo.UPRIGHT))
    bare.add("levels")
    bare.key(KEY.Key_W)
    trial = bare.window.strip.trial
    bare.settle()
    assert trial.strip.down
    assert trial.strip.grid == (1, len(trial.strip.cells))
    trial.page.words["across"].click()
    assert trial.strip.grid == (len(trial.strip.cells), 1)
