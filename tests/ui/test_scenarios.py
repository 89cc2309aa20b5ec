"""What a printmaker does, in the real window from beginning to end.

Longer than most: one story after another, nothing shared.
"""

import json

import numpy as np
import pytest
import tifffile
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest

from kyanoscript import cli, demo
from kyanoscript.core.script import Script, to_json
from kyanoscript.files.kept.scriptfile import read_script
from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.document.desk import FRAME, PHOTO
from tests.ui.conftest import Bench, typed


def test_open_weigh_level_tone_compare_undo_save_reopen_export(bench: Bench, photo, tmp_path):
    """The whole way of a first print; what is exported is what the command line renders from the saved script."""
    before = photo.read_bytes()
    bench.add("gray-weights", "levels", "gradient-map")
    bench.desk.select(0)
    assert bench.slide("red", 80) == pytest.approx(80, abs=2)
    bench.desk.select(1)
    bench.type("in_black", "12")
    bench.type("gamma", "1,25")
    bench.desk.select(2)
    bench.slide("strength", 85)
    bench.slip.editors["blend"].showPopup()
    QTest.keyClicks(bench.window.bench.passes.choosers.present.search, "soft light")
    QTest.keyClick(bench.window.bench.passes.choosers.present.search, Qt.Key.Key_Return)
    toned = bench.shown()

    QTest.keyPress(bench.easel, Qt.Key.Key_O)
    original = bench.shown()
    QTest.keyRelease(bench.easel, Qt.Key.Key_O)
    assert original != toned
    assert bench.shown() == toned

    strength = bench.desk.selected_pass.strength
    bench.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert bench.desk.selected_pass.blend == "normal"
    bench.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert bench.desk.selected_pass.blend == "soft-light"
    assert bench.desk.selected_pass.strength == strength
    assert bench.shown() == toned

    saved = tmp_path / "landing.kyano"
    script = bench.desk.script
    bench.window.saving.save_to(saved)
    bench.settle()
    assert not bench.desk.edited
    assert read_script(saved).script == script

    bench.open(demo.photo())
    assert bench.desk.script == Script()
    bench.open(saved)
    assert bench.desk.script == script
    assert bench.desk.photo.path == photo

    exported, rendered = tmp_path / "window.tif", tmp_path / "command.tif"
    bench.window.printing.export(exported, Settings())
    bench.settle()
    assert bench.said().startswith("Wrote window.tif")
    assert cli.main(["render", str(photo), "--script", str(saved), "-o", str(rendered)]) == 0
    assert np.array_equal(tifffile.imread(exported), tifffile.imread(rendered))
    assert photo.read_bytes() == before


def test_what_is_seen_is_what_is_exported(bench: Bench, tmp_path):
    """Actual pixels on the easel against the exported ones."""
    bench.add("gray-weights", "gradient-map")
    bench.key(Qt.Key.Key_1)
    bench.settle()
    bench.easel.inset = False
    image = bench.easel.grab().toImage()
    bench.window.printing.export(tmp_path / "a.png", Settings(bits=8))
    bench.settle()
    from PIL import Image

    pixels = np.asarray(Image.open(tmp_path / "a.png"))
    place = bench.easel.place()
    for x, y in ((10, 10), (180, 120), (350, 230)):
        shown = image.pixelColor(int(place.x()) + x, int(place.y()) + y).getRgb()[:3]
        assert np.abs(np.array(shown) - pixels[y, x]).max() <= 1


def test_pushing_too_far_and_pulling_back_is_one_step_or_none(bench: Bench):
    bench.add("gray-weights")
    entries = len(bench.desk.entries)
    slider = bench.slip.sliders["red"]
    x, y = slider.handle_x(), slider.track()[2]
    bench.drag(slider, QPointF(x, y), QPointF(x + 60, y), QPointF(x + 90, y), QPointF(x + 30, y))
    assert len(bench.desk.entries) == entries + 1
    assert bench.desk.entries[-1] == "Gray weights: red"
    value = bench.desk.selected_pass.red
    x = slider.handle_x()
    bench.press(slider, QPointF(x, y))
    start = bench.desk.selected_pass.red
    bench.move(slider, QPointF(x + 50, y))
    assert bench.desk.selected_pass.red != start
    QTest.keyClick(slider, Qt.Key.Key_Escape)
    assert bench.desk.selected_pass.red == value
    bench.release(slider, QPointF(x + 50, y))
    assert len(bench.desk.entries) == entries + 1


def test_two_drags_are_two_steps(bench: Bench):
    bench.add("levels")
    bench.slide("in_black", 40)
    bench.slide("in_black", 80)
    assert bench.desk.entries[-2:] == ["Levels: all in black"] * 2
    bench.window.desk.undo()
    assert bench.desk.selected_pass.in_black == pytest.approx(40, abs=1)


def test_double_press_on_a_label_puts_it_back(bench: Bench):
    bench.add("gray-weights")
    bench.slide("green", -50)
    bench.double(bench.slip.sliders["green"], QPointF(20, 8))
    assert bench.desk.selected_pass.green == 58.7


def test_numbers_are_typed_and_nonsense_is_said(bench: Bench):
    bench.add("gray-weights")
    bench.type("red", "−35 %")
    assert bench.desk.selected_pass.red == -35
    bench.type("red", "lots")
    assert bench.desk.selected_pass.red == -35
    assert "not a number" in bench.said()
    bench.type("red", "999")
    assert bench.desk.selected_pass.red == 300
    assert "−200 to 300 %" in bench.said()


def test_start_points_fill_in_a_glass(bench: Bench):
    bench.add("gray-weights")
    box = bench.slip.editors["start"]
    bench.start("red glass")
    assert bench.desk.selected_pass.red == 89.1
    assert box.currentText() == "red glass"
    assert bench.desk.entries[-1] == "Gray weights: red glass"
    bench.slide("blue", 60)
    assert box.currentText() == "own values"


def test_one_start_point_leaves_nothing_behind_for_the_next(bench: Bench):
    bench.add("levels")
    for name in ("aged, reddish blacks", "flat mid-tones, a base for lith"):
        bench.start(name)
    step = bench.desk.selected_pass
    assert (step.out_black, step.out_white, step.red_out_black) == (103, 176, 0)


def test_pulling_the_ring_lightens_that_hue(bench: Bench):
    bench.add("gray-weights")
    ring = bench.slip.editors["ring"]
    bench.drag(ring, ring.point(60, 0), ring.point(60, 30), ring.point(60, 50))
    ((hue, lift),) = bench.desk.selected_pass.ring
    assert hue == pytest.approx(60, abs=3)
    assert lift == pytest.approx(50, abs=5)
    assert bench.desk.entries[-1] == "Pull the gray ring"
    bench.double(ring, ring.point(hue, lift))
    assert bench.desk.selected_pass.ring == ()
    bench.settle()
    assert max(ring.rose) == 1  # the picture's own colours are on it


def test_levels_are_set_on_the_ladder(bench: Bench):
    """Black, middle and white of what comes in and goes out are handles on the scale of tones."""
    bench.add("levels")
    ladder, coming_in, going_out = bench.ladder, 84.0, 117.0

    def levels():
        return bench.desk.selected_pass

    def tones():
        return {step.key: step.tone for step in ladder.every()}

    assert list(tones()) == ["in_black", "gamma", "in_white", "out_black", "out_white"]
    at = [QPointF(coming_in, ladder.y_of(tone / 255)) for tone in (0, 40, 60)]
    bench.drag(ladder, *at)
    assert levels().in_black == pytest.approx(60, abs=1)
    assert bench.desk.entries[-1] == "Levels: in black"
    middle = QPointF(coming_in, ladder.y_of(tones()["gamma"]))
    bench.drag(ladder, middle, middle + QPointF(0, 30))
    assert levels().gamma > 1.1
    bench.drag(ladder, QPointF(going_out, ladder.y_of(1)), QPointF(going_out, ladder.y_of(200 / 255)))
    assert levels().out_white == pytest.approx(200, abs=1)
    bench.drag(ladder, QPointF(coming_in, ladder.y_of(1)), QPointF(coming_in, ladder.y_of(-1)))
    assert levels().in_white == levels().in_black + 1  # never past black
    bench.double(ladder, QPointF(coming_in, ladder.y_of(tones()["in_white"])))
    assert levels().in_white == 255  # a double-press puts it back
    bench.settle()
    histogram = bench.slip.editors["histogram"]
    assert histogram.counts.sum() > 0
    assert histogram.edges == [levels().in_black, 255]
    bench.click(bench.slip.editors["group Red"], QPointF(8, 8))
    bench.settle()
    assert "red_in_black" in bench.slip.sliders
    assert "in_black" not in bench.slip.sliders
    bench.drag(ladder, QPointF(coming_in, ladder.y_of(0)), QPointF(coming_in, ladder.y_of(0.2)))
    assert levels().red_in_black == pytest.approx(51, abs=1)


def test_levels_on_the_ladder_by_keyboard(bench: Bench):
    bench.add("levels")
    bench.ladder.setFocus()
    bench.key(Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier, on=bench.ladder)
    assert bench.desk.selected_pass.in_black == 10
    bench.key(Qt.Key.Key_Right, on=bench.ladder)
    bench.key(Qt.Key.Key_Down, on=bench.ladder)
    assert bench.desk.selected_pass.gamma > 1
    bench.key(Qt.Key.Key_Insert, on=bench.ladder)  # nothing to add
    assert len(bench.ladder.every()) == 5


@pytest.mark.parametrize(("kind", "count"), [("quad-tone", 5), ("split-tone", 3), ("gradient-map", 3)])
def test_an_anchor_is_added_where_the_ladder_is_pressed(bench: Bench, kind, count):
    """With the colour that the pass gives that tone, so that the print hardly changes."""
    bench.add(kind)
    before = bench.shown()
    bench.click(bench.ladder, QPointF(102, bench.ladder.y_of(0.55)))
    assert len(bench.desk.selected_pass.stops) == count
    assert np.abs(np.subtract(bench.shown(), before)).max() <= 6
    bench.ladder.setFocus()
    bench.key(Qt.Key.Key_Insert, on=bench.ladder)
    assert len(bench.desk.selected_pass.stops) == count + 1


def test_the_colours_of_a_wash_do_not_lie_on_the_scale_of_tones(bench: Bench):
    bench.add("wash")
    before = bench.desk.selected_pass
    assert bench.ladder.every() == ()
    bench.click(bench.ladder, QPointF(102, bench.ladder.y_of(0.55)))
    bench.ladder.setFocus()
    bench.key(Qt.Key.Key_Insert, on=bench.ladder)
    assert bench.desk.selected_pass == before


def test_tones_are_placed_on_the_ladder(bench: Bench):
    bench.add("gradient-map")
    ladder = bench.ladder
    handle = 118.0
    bench.click(ladder, QPointF(102, ladder.y_of(0.5)))  # press on the colours: a stop there
    assert [t for t, _ in bench.desk.selected_pass.stops] == pytest.approx([0, 50, 100], abs=0.5)
    bench.drag(ladder, QPointF(handle, ladder.y_of(0.5)), QPointF(handle, ladder.y_of(0.7)))
    assert bench.desk.selected_pass.stops[1][0] == pytest.approx(70, abs=0.5)
    bench.drag(ladder, QPointF(handle, ladder.y_of(0.7)), QPointF(handle, ladder.y_of(-0.5)))
    assert bench.desk.selected_pass.stops[1][0] == 0  # never past its neighbour: dark stays at its end
    stops = bench.slip.editors["stops"]
    typed(stops.colour.hex, "#884422")
    assert bench.desk.selected_pass.stops[1] == (0.0, "#884422")
    stops.colour.band.setFocus()
    QTest.keyClick(stops.colour.band, Qt.Key.Key_Up)
    assert bench.desk.selected_pass.stops[1][1] != "#884422"
    stops.remove.click()
    assert len(bench.desk.selected_pass.stops) == 2


def test_the_ladder_shows_what_each_gray_becomes(bench: Bench):
    bench.add("gray-weights", "gradient-map")
    bench.desk.set_values("Stops", stops=((0.0, "#102040"), (100.0, "#f0e0c0")))
    bench.settle()
    image = bench.ladder.grab().toImage()
    for tone, wanted in ((0.05, (27, 42, 70)), (0.5, (128, 128, 128)), (0.95, (229, 214, 186))):
        shown = image.pixelColor(103, round(bench.ladder.y_of(tone))).getRgb()[:3]
        assert np.abs(np.array(shown) - wanted).max() < 4
        gray = image.pixelColor(38, round(bench.ladder.y_of(tone))).red()
        assert gray == pytest.approx(tone * 255, abs=3)


def test_holding_a_zone_shows_where_it_is(bench: Bench):
    bench.add("gray-weights")
    plain = bench.shown()
    bench.press(bench.ladder, QPointF(15, bench.ladder.y_of(0.5)))
    assert bench.shown() != plain
    bench.release(bench.ladder, QPointF(15, bench.ladder.y_of(0.5)))
    assert bench.shown() == plain


def test_hold_to_develop_comes_up_from_nothing_and_stays_where_let_go(bench: Bench):
    bench.add("gradient-map")
    bench.slip.developing.seconds = 60.0  # a machine that stops for a moment does not come to its end
    entries = len(bench.desk.entries)
    QTest.keyPress(bench.easel, Qt.Key.Key_H)
    assert bench.desk.selected_pass.strength == 0
    bench.qtbot.waitUntil(lambda: bench.desk.selected_pass.strength > 4)
    QTest.keyRelease(bench.easel, Qt.Key.Key_H)
    strength = bench.desk.selected_pass.strength
    assert 0 < strength < 100
    bench.qtbot.wait(60)
    assert bench.desk.selected_pass.strength == strength
    assert len(bench.desk.entries) == entries + 1
    bench.window.desk.undo()
    assert bench.desk.selected_pass.strength == 100
    button = bench.slip.page.develop_button
    bench.press(button, QPointF(20, 8))
    QTest.keyClick(bench.easel, Qt.Key.Key_Escape)
    bench.release(button, QPointF(20, 8))
    assert bench.desk.selected_pass.strength == 100


def test_lamp_switches_and_holding_it_shows_the_print_without(bench: Bench):
    bench.add("gray-weights", "gradient-map")
    lamp = bench.trays.places.lamp(1)
    toned = bench.shown()
    bench.click(bench.trays, lamp)
    assert not bench.desk.script.passes[1].on
    gray = bench.shown()
    assert len(set(gray)) == 1
    bench.click(bench.trays, lamp)
    entries = len(bench.desk.entries)
    bench.press(bench.trays, lamp)
    bench.qtbot.wait(400)
    assert bench.shown() == gray
    bench.release(bench.trays, lamp)
    assert bench.shown() == toned
    assert bench.desk.script.passes[1].on
    assert len(bench.desk.entries) == entries


def test_holding_p_shows_the_print_without_the_chosen_pass(bench: Bench):
    bench.add("gray-weights", "gradient-map")
    toned = bench.shown()
    QTest.keyPress(bench.easel, Qt.Key.Key_P)
    assert len(set(bench.shown())) == 1
    QTest.keyRelease(bench.easel, Qt.Key.Key_P)
    assert bench.shown() == toned


def test_trays_are_moved_by_dragging(bench: Bench):
    bench.add("gray-weights", "levels", "gradient-map")
    start = bench.trays.places.thumb(0).center()
    bench.drag(bench.trays, start, start + QPointF(120, 0), bench.trays.places.thumb(2).center() + QPointF(80, 0))
    assert [p.kind for p in bench.desk.script.passes] == ["levels", "gradient-map", "gray-weights"]
    assert bench.desk.selected == 2
    bench.window.desk.undo()
    assert [p.kind for p in bench.desk.script.passes] == ["gray-weights", "levels", "gradient-map"]


def test_strength_on_the_tray(bench: Bench):
    bench.add("levels")
    bar = bench.trays.places.bar(0)
    bench.drag(bench.trays, bar.center(), QPointF(bar.left() + bar.width() * 0.3, bar.center().y()))
    assert bench.desk.selected_pass.strength == pytest.approx(30, abs=2)


def test_a_pass_is_added_from_the_chooser(bench: Bench):
    bench.key(Qt.Key.Key_A)
    chooser = bench.window.bench.passes.choosers.present
    QTest.keyClicks(chooser.search, "gradient")
    QTest.keyClick(chooser.search, Qt.Key.Key_Return)
    assert [p.kind for p in bench.desk.script.passes] == ["gradient-map"]
    bench.settle()
    bench.click(bench.trays, bench.trays.places.adder(0).center())
    chooser = bench.window.bench.passes.choosers.present
    QTest.keyClick(chooser.search, Qt.Key.Key_Right)
    QTest.keyClick(chooser.search, Qt.Key.Key_Return)
    assert [p.kind for p in bench.desk.script.passes] == ["exposure", "gradient-map"]


def test_every_tray_shows_the_print_as_it_leaves_it(bench: Bench):
    bench.add("gray-weights", "gradient-map")
    bench.settle()
    images = [image.pixelColor(40, 35).getRgb()[:3] for image in bench.trays.images]
    photo, gray, toned = images
    assert len(set(photo)) > 1
    assert len(set(gray)) == 1
    assert len(set(toned)) > 1


def test_values_at_the_pointer(bench: Bench):
    bench.add("gray-weights", "gradient-map")
    bench.move(bench.easel, bench.easel.from_picture(QPointF(0.4, 0.5)))
    bench.settle()
    text = bench.window.foot.values.text()
    assert text.startswith("Photo ")
    assert "→  print" in text
    assert "zone" in text
    assert "L*" in text
    assert bench.trays.spot.trace[0][0] == bench.trays.spot.trace[0][1]
    bench.move(bench.easel, QPointF(2, 2))
    assert bench.window.foot.values.text() == ""


def test_zoom_keeps_the_spot_under_the_pointer(bench: Bench):
    at = QPointF(300, 200)
    spot = bench.easel.to_picture(at)
    bench.easel.set_zoom(3.0, at)
    now = bench.easel.to_picture(at)
    assert (now.x(), now.y()) == (pytest.approx(spot.x(), abs=0.004), pytest.approx(spot.y(), abs=0.004))
    bench.double(bench.easel, at)
    assert bench.easel.magnification() == 1
    bench.double(bench.easel, at)
    assert bench.easel.sight.whole


def test_space_and_drag_moves_the_print(bench: Bench):
    bench.easel.set_zoom(4.0)
    bench.settle()
    centre = bench.easel.sight.centre
    QTest.keyPress(bench.easel, Qt.Key.Key_Space)
    bench.drag(bench.easel, QPointF(300, 200), QPointF(240, 200))
    QTest.keyRelease(bench.easel, Qt.Key.Key_Space)
    assert bench.easel.sight.centre.x() > centre.x()
    assert bench.desk.entries == ["Open"]


def test_dropping_a_file_opens_it(bare: Bench, photo):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(photo))])
    event = QDropEvent(
        QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    bare.window.dropEvent(event)
    bare.settle()
    assert bare.desk.photo.path == photo
    assert "landing.png" in bare.window.masthead.open.text()


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("empty.jpg", b"", "the file is empty"),
        ("words.png", b"Dear reader", "not a picture"),
        ("odd.json", b'{"kyanoscript": 1, "passes": [{"pass": "levls"}]}', "did you mean 'levels'"),
        ("new.json", b'{"kyanoscript": 8}', "newer Kyanoscript"),
    ],
)
def test_a_bad_file_is_said_and_leaves_the_work_alone(bench: Bench, monkeypatch, tmp_path, name, data, words):
    bench.add("levels")
    script = bench.desk.script
    file = tmp_path / name
    file.write_bytes(data)
    monkeypatch.setattr(bench.window.opening, "may_lose", lambda: True)
    bench.open(file)
    assert words in bench.said()
    assert bench.desk.script is script
    assert bench.desk.undo_label == "Add Levels"


def test_an_export_that_cannot_be_is_said(bench: Bench, photo, tmp_path):
    before = photo.read_bytes()
    for target, words in ((photo, "never written to"), (tmp_path / "no" / "a.tif", "does not exist")):
        bench.window.printing.export(target, Settings())
        bench.settle()
        assert words in bench.said()
    assert photo.read_bytes() == before
    assert not bench.window.foot.progress.isVisible()


def test_export_can_be_stopped(bench: Bench, tmp_path, monkeypatch):
    from kyanoscript.files.prints import export as exporting

    monkeypatch.setattr(exporting, "_BAND", 1)
    job = bench.window.printing.export(tmp_path / "a.tif", Settings())
    job.cancel()
    bench.settle()
    assert bench.said() == "Stopped; nothing was written"
    assert not (tmp_path / "a.tif").exists()


def test_closing_asks_only_when_something_would_be_lost(bench: Bench, monkeypatch):
    asked = []
    monkeypatch.setattr(bench.window.opening, "may_lose", lambda: asked.append(1) or False)
    bench.add("levels")
    bench.window.close()
    assert asked == [1]
    assert bench.window.isVisible()
    bench.window.desk.undo()
    assert not bench.desk.edited


def test_a_script_without_a_photograph_goes_onto_the_open_one(bench: Bench, tmp_path):
    file = tmp_path / "tone.json"
    file.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "gray-weights"}]}))
    photo = bench.desk.photo
    bench.open(file)
    assert bench.desk.photo is photo
    assert to_json(bench.desk.script)["passes"][0]["pass"] == "gray-weights"


def test_a_script_whose_photograph_is_gone_says_which(bench: Bench, photo, tmp_path):
    bench.add("levels")
    bench.window.saving.save_to(tmp_path / "a.kyano")
    bench.settle()
    photo.rename(tmp_path / "moved.png")
    bench.open(tmp_path / "a.kyano")
    assert "landing.png is not there" in bench.said()


def test_a_photograph_that_changed_since_is_said(bench: Bench, photo, tmp_path):
    bench.window.saving.save_to(tmp_path / "a.kyano")
    bench.settle()
    from PIL import Image

    Image.new("RGB", (50, 40), "navy").save(photo)
    bench.open(tmp_path / "a.kyano")
    assert "has changed" in bench.said()


def test_removing_the_last_pass_leaves_the_photograph_chosen(bench: Bench):
    bench.add("levels")
    bench.key(Qt.Key.Key_Delete)
    assert bench.desk.script.passes == ()
    assert bench.desk.selected == PHOTO
    bench.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert bench.desk.selected_pass.kind == "levels"


def test_an_upright_photograph_gets_upright_ovals_and_a_frame_that_tells_its_true_size(bare):
    bare.open(demo.photo(demo.UPRIGHT))
    bare.add("vignette")
    step = bare.desk.run[0]
    assert (step.width, step.height) == pytest.approx((900, 1200), abs=0.5)
    bare.desk.select(FRAME)
    bare.desk.set_values("Ratio", ratio="16:9")
    bare.settle()
    sliders = bare.window.bench.slip.page.sliders
    width = bare.desk.print_size()[0]
    assert (sliders["width"].value, sliders["height"].value) == (pytest.approx(100 * width / 1067, abs=0.05), 100)
    bare.desk.set_values("Ratio", ratio="1:1")
    bare.settle()
    assert (sliders["width"].value, sliders["height"].value) == (100, pytest.approx(100 * 1067 / 1600, abs=0.05))
    bare.desk.set_values("Turned", turns=1)
    bare.settle()
    assert (sliders["width"].value, sliders["height"].value) == (pytest.approx(100 * 1067 / 1600, abs=0.05), 100)
