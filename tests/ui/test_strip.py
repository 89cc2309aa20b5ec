"""The test strip: a value in steps on the print, narrowed by eye, taken."""

import itertools
import threading

import numpy as np
import pytest
import tifffile
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel

from kyanoscript.core.print.bands import Bands, part
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script.dials import Dial
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.strips import InBands
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import theme
from tests.ui.conftest import Bench

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def toned(bench: Bench):
    bench.add("exposure", "levels", "gradient-map")
    bench.desk.select(1)
    bench.settle()
    return bench


@pytest.fixture
def strip(toned: Bench):
    """A strip of the middle of the levels."""
    toned.window.strip.start(Dial("pass", "gamma", toned.desk.run[1].id))
    toned.trial = toned.window.strip.trial
    toned.bands = toned.trial.bands
    toned.settle()
    return toned


def exact(bench, frame):
    renderer = Renderer(bench.desk.photo.source, frame.look.script)
    return display.screen().shown(renderer.region(frame.rect, frame.scale), renderer.space)


def press(bench, cell):
    bench.click(bench.bands, bench.bands.box(cell).center())
    bench.settle()


def test_every_band_is_bit_for_bit_the_print_with_its_value(strip: Bench):
    cells = strip.trial.strip.cells
    assert len(cells) == 7
    assert set(strip.bands.frames) == set(range(7))
    for cell, frame in strip.bands.frames.items():
        assert frame.look.script.passes[1].gamma == cells[cell][0]
        assert np.array_equal(frame.pixels, exact(strip, frame))
    rects = [strip.bands.frames[k].rect for k in range(7)]
    assert all(a.right == b.x for a, b in itertools.pairwise(rects))  # side by side without a gap
    assert sum(rect.width for rect in rects) == strip.bands.print_size(strip.bands.sight.render_scale())[0]


def test_the_right_middle_is_found_by_a_strip_narrowed_twice(strip: Bench):
    """A print maker presses what is best, twice more, and takes it: one step of undo."""
    before = strip.desk.script
    entries = len(strip.desk.entries)
    press(strip, 4)
    chosen = strip.trial.strip.cells[4][0]
    assert strip.trial.page.words["take"].text() == f"Take {strip.trial.strip.text(4)}"
    wide = strip.trial.strip.first.values
    press(strip, 4)
    assert strip.trial.strip.first.values[2] == chosen
    assert (strip.trial.strip.first.values[0], strip.trial.strip.first.values[-1]) == (wide[3], wide[5])
    press(strip, 1)
    press(strip, 1)
    close = strip.trial.strip.first.values
    assert len(close) == 5
    assert close[-1] / close[0] < wide[5] / wide[3]
    press(strip, 3)
    assert strip.desk.script == before  # nothing is taken yet
    strip.key(Qt.Key.Key_Return, on=strip.bands)
    strip.settle()
    assert strip.window.registry.view is strip.window.bench
    assert strip.desk.script.passes[1].gamma == close[3]
    assert len(strip.desk.entries) == entries + 1
    assert strip.desk.selected == 1
    assert "taken; Ctrl+Z takes it back" in strip.said()
    strip.desk.undo()
    assert strip.desk.script == before


def test_escape_leaves_everything_as_it_was(strip: Bench):
    before = strip.desk.script
    press(strip, 5)
    strip.key(Qt.Key.Key_Escape, on=strip.bands)
    assert strip.window.registry.view is strip.window.bench
    assert strip.desk.script is before


def test_arrows_choose_a_band_and_the_present_one_is_chosen_at_first(strip: Bench):
    assert strip.trial.strip.cells[strip.trial.current] == (1.0,)
    strip.key(Qt.Key.Key_Right, on=strip.bands)
    strip.key(Qt.Key.Key_Right, on=strip.bands)
    strip.key(Qt.Key.Key_Left, on=strip.bands)
    assert strip.trial.current == strip.trial.strip.present + 1
    strip.key(Qt.Key.Key_Return, on=strip.bands)
    assert strip.desk.script.passes[1].gamma == strip.trial.strip.cells[4][0]


def test_from_a_label_of_the_slip_by_menu_and_by_key(toned: Bench):
    slider = toned.slip.sliders["in_black"]
    slider.setFocus()
    toned.key(Qt.Key.Key_W, on=slider)
    toned.settle()
    trial = toned.window.strip.trial
    assert trial.strip.first.subject.words == "Levels · In black"
    toned.key(Qt.Key.Key_Escape, on=trial.bands)
    menu = toned.slip.sliders["strength"].menu()
    next(action for action in menu.actions() if action.text().startswith("Test strip")).trigger()
    toned.settle()
    assert trial.strip.first.subject.words == "Levels · Strength"
    toned.key(Qt.Key.Key_Escape, on=trial.bands)
    toned.desk.select(-1)
    toned.slip.sliders["tilt"].setFocus()
    toned.key(Qt.Key.Key_W, on=toned.slip.sliders["tilt"])
    toned.settle()
    assert trial.strip.first.subject.words == "Frame · Tilt"
    for frame in trial.bands.frames.values():  # each tilt has a print of its own size
        assert np.array_equal(frame.pixels, exact(toned, frame))
    assert len(trial.bands.frames) == len(trial.strip.cells)


def test_chosen_by_name_with_other_ends_counts_and_steps(strip: Bench):
    page = strip.trial.page
    names = page.lists["of"]
    texts = [names.itemText(k) for k in range(names.count())]
    assert "Exposure · Exposure" in texts
    assert "Frame · Tilt" in texts
    names.setCurrentIndex(texts.index("Exposure · Exposure"))
    strip.settle()
    assert strip.trial.strip.first.subject.words == "Exposure · Exposure"
    strip.type(page.sliders["from"], "-2.0")
    strip.type(page.sliders["to"], "2.0")
    strip.type(page.sliders["bands"], "5.0")
    strip.settle()
    assert strip.trial.strip.first.values == (-2.0, -1.0, 0.0, 1.0, 2.0)
    page.lists["of"].setCurrentIndex(texts.index("Levels · Middle"))
    equal = page.lists["steps"]
    equal.setCurrentIndex(0)
    strip.settle()
    values = np.array(strip.trial.strip.first.values)
    even = np.linspace(values[0], values[-1], 7)
    assert (np.abs(values - even) > 0.01).sum() == 1  # the present value, which takes the place of the nearest
    page.words["down"].click()
    strip.settle()
    assert strip.trial.strip.grid == (1, 7)
    assert {strip.bands.frames[k].rect.x for k in range(7)} == {0}


def test_all_bands_show_the_same_part_and_it_can_be_dragged(strip: Bench):
    strip.trial.page.lists["shows"].setCurrentIndex(1)
    strip.bands.set_zoom(1.0)
    strip.settle()
    frames = strip.bands.frames
    assert len({(frame.rect.x, frame.rect.y) for frame in frames.values()}) == 1
    before = frames[0].rect
    middle = strip.bands.box(2).center()
    strip.drag(strip.bands, middle, middle + QPointF(15, 8), middle + QPointF(30, 16))
    strip.settle()
    assert len({(frame.rect.x, frame.rect.y) for frame in frames.values()}) == 1
    assert frames[0].rect.x < before.x
    for frame in frames.values():
        assert np.array_equal(frame.pixels, exact(strip, frame))


def test_a_ring_around_for_a_warm_tone(bench: Bench):
    """Two values as a field: hue against chroma of a split tone; one is pressed, then taken."""
    bench.add("colour-balance")
    bench.window.strip.start(Dial("pass", "mids_red", bench.desk.run[0].id))
    bench.trial = trial = bench.window.strip.trial
    bench.bands = trial.bands
    bench.settle()
    names = trial.page.lists["with"]
    texts = [names.itemText(k) for k in range(names.count())]
    names.setCurrentIndex(next(k for k, text in enumerate(texts) if "lue" in text and k))
    bench.settle()
    assert trial.strip.grid == (5, 5)
    assert trial.strip.cells[trial.strip.present] == (0.0, 0.0)
    assert trial.current == trial.strip.present == 12
    bench.key(Qt.Key.Key_Right, on=trial.bands)
    bench.key(Qt.Key.Key_Down, on=trial.bands)
    assert trial.current == 18
    bench.settle()
    for frame in trial.bands.frames.values():
        assert np.array_equal(frame.pixels, exact(bench, frame))
    first, second = trial.strip.first.subject.key, trial.strip.second.subject.key
    values = trial.strip.cells[18]
    bench.key(Qt.Key.Key_Return, on=trial.bands)
    bench.settle()
    assert (first.value(bench.desk.script), second.value(bench.desk.script)) == values
    # The same value twice makes no field.
    bench.window.strip.start(first)
    bench.settle()
    trial.page.lists["with"].setCurrentIndex(1 + trial.dials_of.index(first))
    assert trial.strip.second is None
    assert "two values" in bench.said()


def test_every_band_is_kept_as_a_state(strip: Bench):
    strip.trial.page.words["keep"].click()
    states = strip.desk.kept.states
    assert [state.script.passes[1].gamma for state in states] == list(strip.trial.strip.first.values)
    assert states[0].name.startswith("Levels · Middle 0.")
    assert "Kept 7 states, I " in strip.said()
    strip.desk.kept.undo()
    assert strip.desk.kept.states == ()


def test_inside_a_plate_and_of_a_stencils_feather(bench: Bench):
    bench.add("plate")
    bench.add_to((0,), "soften")
    inner = bench.desk.script.passes[0].run[0]
    bench.window.strip.start(Dial("pass", "radius", inner.id))
    bench.trial, bench.bands = bench.window.strip.trial, bench.window.strip.trial.bands
    bench.settle()
    for frame in bench.bands.frames.values():
        assert np.array_equal(frame.pixels, exact(bench, frame))
    press(bench, 5)
    value = bench.trial.strip.cells[5][0]
    bench.key(Qt.Key.Key_Return, on=bench.bands)
    assert bench.desk.script.passes[0].run[0].radius == value
    assert (bench.desk.path, bench.desk.selected) == ((0,), 0)


def test_of_a_recipes_strength(bench: Bench):
    bench.key(Qt.Key.Key_2, CTRL)
    bench.settle()
    trials = bench.window.recipes.trials
    assert until(lambda: bool(trials.contents.recipes), 240)
    word = trials.contents.recipes[0].word
    trials.look(word)
    bench.settle()
    bench.key(Qt.Key.Key_W)
    bench.trial, bench.bands = bench.window.strip.trial, bench.window.strip.trial.bands
    bench.settle()
    assert bench.trial.strip.first.subject.words.endswith("· Strength")
    assert (100.0,) in bench.trial.strip.cells
    bench.key(Qt.Key.Key_Escape, on=bench.bands)
    assert bench.window.registry.view is bench.window.recipes
    trials.look(word)
    bench.key(Qt.Key.Key_W)
    bench.settle()
    bench.trial.choose(0)
    bench.key(Qt.Key.Key_Return, on=bench.bands)
    bench.settle()
    assert bench.window.registry.view is bench.window.bench
    assert len(bench.desk.script.passes) > 0


def test_values_taken_from_the_picture_are_tried_from_what_they_are(bench: Bench):
    bench.add("levels")
    bench.desk.set_values("From the picture", auto=True)
    bench.settle()
    taken = bench.desk.taken["in_black"]
    bench.window.strip.start(Dial("pass", "in_black", bench.desk.run[0].id))
    bench.settle()
    strip = bench.window.strip.trial.strip
    assert strip.first.subject.value == pytest.approx(taken)
    assert all(not strip.script(k).passes[0].auto for k in range(len(strip.cells)))


def test_without_a_pass_there_is_still_the_frame(bench: Bench):
    bench.key(Qt.Key.Key_4, CTRL)
    bench.settle()
    assert bench.window.strip.trial.strip.first.subject.words.startswith("Frame · ")


def test_undo_while_a_strip_is_looked_at(strip: Bench):
    strip.key(Qt.Key.Key_Z, CTRL, on=strip.bands)  # the gradient map goes
    strip.settle()
    assert [s.kind for s in strip.desk.script.passes] == ["exposure", "levels"]
    assert len(strip.trial.strip.base.passes) == 2
    strip.key(Qt.Key.Key_Z, CTRL, on=strip.bands)  # and what is tried
    strip.settle()
    assert strip.trial.strip.first.subject.words.startswith("Exposure")


def test_holding_shows_the_photograph_in_every_band(strip: Bench):
    QTest.keyPress(strip.bands, Qt.Key.Key_O)
    strip.settle()
    assert all(not frame.look.script.passes for frame in strip.bands.frames.values())
    QTest.keyRelease(strip.bands, Qt.Key.Key_O)
    strip.settle()
    assert all(frame.look.script.passes for frame in strip.bands.frames.values())


def test_a_strip_is_written_with_its_labels(strip: Bench, tmp_path):
    """Every pixel but those of lines and labels is that of a print with the band's value."""
    file = tmp_path / "strip.tif"
    job = strip.trial.write(file)
    assert until(lambda: file.exists() and not strip.window.jobs.busy, 240), job
    strip.settle()
    assert strip.said() == "Wrote strip.tif, 360 × 240 pixels"
    found = tifffile.imread(file)
    for cell in range(7):
        box = part((7, 1), cell, (360, 240))
        renderer = Renderer(strip.desk.photo.source, strip.trial.strip.script(cell))
        wanted = np.rint(np.moveaxis(renderer.region(box), 0, 2) * 65535)
        assert np.abs(found[:200, box.x + 1 : box.right].astype(int) - wanted[:200, 1:]).max() <= 1
    assert (found[:, part((7, 1), 3, (360, 240)).x] == 65535).all()  # the line where a band begins
    label = found[215:238, :40]
    assert label.max() == 65535
    assert label.min() < 20000


def test_short_work_does_not_wait_for_a_strip_that_is_written(strip: Bench, tmp_path, monkeypatch):
    """The journal, above all."""
    gate, short = threading.Event(), threading.Event()
    monkeypatch.setattr("kyanoscript.files.prints.out.export", lambda *_: gate.wait(60) and (1, 1))
    job = strip.trial.write(tmp_path / "strip.tif")
    strip.window.jobs.run(lambda _: short.set())
    assert until(short.is_set, 60)
    assert strip.window.printing.running is job
    gate.set()
    strip.settle()


def test_a_strip_never_takes_the_place_of_the_photograph(strip: Bench, tmp_path):
    photo = strip.desk.photo
    bands = Bands((strip.desk.script,) * 3, ("a", "b", "c"), (3, 1))
    out = Out(photo, strip.desk.script, strip.desk.pictures, photo.path, InBands(bands))
    with pytest.raises(FileError, match="landing"):
        write(out)


def test_every_band_has_its_label_at_its_lower_left_and_the_chosen_one_in_the_accent(strip: Bench):
    bands = strip.bands
    pixels = bands.grab().toImage()
    for cell in range(7):
        box = bands.box(cell)
        at = QPointF(box.x() + 8, box.bottom() - 26).toPoint()
        wanted = theme.colour("accent" if cell == strip.trial.current else "panel")
        assert pixels.pixelColor(at).name() == wanted.name()
        above = pixels.pixelColor(QPointF(box.x() + 8, box.bottom() - 60).toPoint())
        assert above.name() not in (theme.colour("accent").name(), theme.colour("panel").name())


def test_the_wheel_enlarges_round_the_pointer_and_what_comes_into_sight_is_asked_for(strip: Bench):
    bands = strip.bands
    at, before = bands.box(2).center(), bands.magnification()
    place = bands.sight.to_picture(at)
    event = QWheelEvent(at, at, QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
                        Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
    QApplication.sendEvent(bands, event)
    strip.settle()
    assert bands.magnification() > 1.2 * before
    after = bands.sight.to_picture(at)
    assert (after.x(), after.y()) == pytest.approx((place.x(), place.y()), abs=0.01)
    assert all(frame.scale == pytest.approx(bands.sight.render_scale()) for frame in bands.frames.values())


def test_what_is_seen_already_stays_while_another_band_is_chosen(strip: Bench):
    before = dict(strip.bands.frames)
    strip.key(Qt.Key.Key_Right, on=strip.bands)
    assert strip.bands.frames == before


def test_the_page_says_whether_it_is_one_value_or_two(strip: Bench):
    def words():
        return [label.text() for label in strip.trial.page.findChildren(QLabel)]

    assert "One value in steps across the print" in words()
    strip.trial.page.lists["with"].setCurrentIndex(1)
    strip.settle()
    assert "Two values at once, as a field" in words()


def test_steps_even_to_the_eye_are_told_by_their_ratio(strip: Bench):
    axis = strip.trial.strip.first
    words = strip.trial.page.lists["steps"].itemText(1)
    if axis.subject.spec.ratio:
        ratio = (axis.values[-1] / axis.values[0]) ** (1 / 6)
        assert words == f"to the eye: each {ratio:.2f} times"
    else:
        assert words == "even to the eye"


def test_a_pass_that_takes_its_values_from_the_picture_is_tried_with_them(bench: Bench):
    bench.add("levels")
    bench.desk.set_values("Levels", auto=True, clip=10.0)
    bench.settle()
    taken = {name: bench.desk.taken[name] for name in ("in_black", "in_white")}
    assert taken != {"in_black": 0, "in_white": 255}
    bench.window.strip.start(Dial("pass", "gamma", bench.desk.run[0].id))
    bench.settle()
    tried = bench.window.strip.trial.strip.script(0).passes[0]
    assert not tried.auto
    assert (tried.in_black, tried.in_white) == (taken["in_black"], taken["in_white"])


def test_of_two_values_each_has_ends_of_its_own(strip: Bench):
    page = strip.trial.page
    page.lists["with"].setCurrentIndex(1)
    strip.settle()
    first = strip.trial.strip.first
    spec = strip.trial.strip.second.subject.spec
    strip.type(page.sliders["second to"], f"{spec.high:g}")
    strip.settle()
    assert strip.trial.strip.first == first
    assert strip.trial.strip.second.high == spec.high
    assert len(strip.bands.frames) == len(strip.trial.strip.cells)


def test_with_nothing_named_it_is_the_first_value_of_the_chosen_pass(toned: Bench):
    toned.desk.select(2)
    toned.window.strip.start()
    toned.settle()
    dial = toned.window.strip.trial.strip.first.subject.key
    assert (dial.of, dial.step) == ("pass", toned.desk.run[2].id)


def test_what_was_taken_is_chosen_on_the_bench(toned: Bench):
    toned.desk.select(0)
    toned.window.strip.start(Dial("pass", "gamma", toned.desk.run[1].id))
    toned.settle()
    bands = toned.window.strip.trial.bands
    toned.key(Qt.Key.Key_Right, on=bands)
    toned.key(Qt.Key.Key_Return, on=bands)
    toned.settle()
    assert toned.desk.selected == 1


def test_every_band_is_painted_in_its_own_box(strip: Bench):
    """As the render threads made it: the middle of each, and a little beside the line to the next."""
    bands = strip.bands
    shown = bands.grab().toImage()
    for cell, frame in bands.frames.items():
        box = bands.box(cell)
        whole = bands.sight.place()
        for share in (0.15, 0.5, 0.85):
            at = QPointF(box.x() + share * box.width(), box.center().y())
            x = round((at.x() - whole.x()) * frame.scale / bands.magnification()) - frame.rect.x
            y = round((at.y() - whole.y()) * frame.scale / bands.magnification()) - frame.rect.y
            near = frame.pixels[max(0, y - 2) : y + 3, max(0, x - 2) : x + 3, 2::-1].reshape(-1, 3).astype(int)
            seen = np.array(shown.pixelColor(at.toPoint()).getRgb()[:3])
            assert np.abs(near - seen).max(1).min() <= 4, (cell, share)
