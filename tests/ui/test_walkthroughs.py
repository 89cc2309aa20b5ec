"""Whole ways from a photograph to a print, in the words of those who make them, at the real window."""

import itertools

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QGuiApplication, QKeySequence
from PySide6.QtTest import QTest

from kyanoscript import cli
from kyanoscript.files.kept.scriptfile import read_script
from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.commands.list import COMMANDS
from kyanoscript.ui.commands.view import Held
from kyanoscript.ui.document.desk import FRAME
from tests.ui.conftest import Bench

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def put(bench, tmp_path, picture, name="scene.png"):
    """Open a made-up picture."""
    file = tmp_path / name
    Image.fromarray(np.ascontiguousarray(picture)).save(file)
    bench.open(file)
    return file


def scene():
    """A landing under a blue sky: cloud, water, a warm oval patch, a dark pile; fine texture throughout."""
    rng = np.random.default_rng(4)
    y, x = np.mgrid[:240, :360]
    picture = np.empty((240, 360, 3))
    picture[:] = (70, 110, 180)  # sky
    picture[((x - 270) / 60) ** 2 + ((y - 40) / 18) ** 2 < 1] = (225, 228, 232)  # cloud
    picture[150:] = (60, 80, 78)  # water
    picture[((x - 120) / 45) ** 2 + ((y - 130) / 60) ** 2 < 1] = (205, 150, 120)  # warm patch
    picture[160:, 250:265] = (30, 26, 24)  # pile
    return np.clip(picture + rng.normal(0, 6, (240, 360, 1)), 0, 255).astype(np.uint8)


def stripes(bench, x, y):
    """How much fine texture a place of the print has."""
    from kyanoscript.core.picture import Rect
    from kyanoscript.core.render.renderer import Renderer

    renderer = Renderer(bench.desk.photo.source, bench.desk.script)
    width, height = renderer.size(1.0)
    return float(renderer.region(Rect(int(x * width) - 8, int(y * height) - 8, 17, 17))[0].std())


def test_a_high_key_portrait(bench: Bench, tmp_path):
    """Gray by weights, skin lifted by touch, then everything outside an oval darkened a little and pulled back."""
    put(bench, tmp_path, scene())
    bench.add("gray-weights")
    skin, corner = (0.33, 0.5), (0.95, 0.75)
    before = bench.print_at(*skin)[0]
    bench.key(Qt.Key.Key_T)
    at = bench.on_print(*skin)
    bench.press(bench.easel, at)
    bench.move(bench.easel, at - QPointF(0, 60))
    bench.settle()
    bench.release(bench.easel, at - QPointF(0, 60))
    assert "hue" in bench.said()
    lifted = bench.print_at(*skin)[0]
    assert lifted > before + 10
    bench.key(Qt.Key.Key_T)

    edge = bench.print_at(*corner)[0]
    bench.add("exposure")
    bench.type("exposure", "-1.5")
    bench.key(Qt.Key.Key_M)
    bench.hand("oval")
    bench.draw(skin, (0.62, 0.95))
    bench.slip.editors["inverted"].click()
    bench.key(Qt.Key.Key_M)
    assert bench.print_at(*skin)[0] == lifted
    dark = bench.print_at(*corner)[0]
    assert dark < edge - 10
    for _ in range(4):
        bench.key(Qt.Key.Key_Down, SHIFT)  # too much: 40 % back
    assert dark < bench.print_at(*corner)[0] < edge
    assert bench.desk.selected_pass.strength == 60


def test_selective_focus_by_a_brushed_plate(bench: Bench, tmp_path):
    """A softened plate of the print, brushed in where the eye should not rest."""
    put(bench, tmp_path, scene())
    bench.add("gray-weights", "plate")
    bench.add_to((1,), "soften")
    bench.type("radius", "12")
    sharp_sky, sharp_skin = 6 / 255 * 0.8, stripes_of_first(bench)
    bench.desk.select(1, ())
    assert stripes(bench, 0.6, 0.5) < sharp_sky / 3  # the whole print is soft
    bench.key(Qt.Key.Key_M)
    bench.easel.stencil.set_brush(size=220.0, hardness=30.0, flow=100.0)
    bench.draw((0.55, 0.2), (0.95, 0.2), (0.95, 0.5), (0.6, 0.5))
    assert stripes(bench, 0.75, 0.5) < sharp_sky / 3
    assert stripes(bench, 0.33, 0.5) == pytest.approx(sharp_skin, rel=0.02)
    bench.hand("eraser")
    bench.draw((0.75, 0.5), (0.76, 0.5))  # went too far there
    assert stripes(bench, 0.75, 0.5) > sharp_sky / 2


def stripes_of_first(bench):
    """The texture of the warm patch before the plate."""
    script = bench.desk.script
    bench.desk.script = script.without(1)
    found = stripes(bench, 0.33, 0.5)
    bench.desk.script = script
    return found


def test_crossed_curves_kept_off_the_sky_by_a_ten_per_cent_brush(bench: Bench, tmp_path):
    """Warm lights and cool darks by crossed curves, wiped from the sky a tenth at a time."""
    put(bench, tmp_path, scene())
    bench.add("gray-weights", "curves")
    warm, cold = ((0, 0), (128, 140), (255, 255)), ((0, 0), (128, 112), (255, 240))
    for group, points in (("Red", warm), ("Blue", cold)):
        bench.slip.editors[f"group {group}"].click()
        editor = bench.slip.editors[group.lower()]
        editor.began.emit(f"Curve: {group.lower()}")
        editor.moved.emit(points)
        editor.ended.emit()
    toned = bench.print_at(0.5, 0.2)
    assert toned[0] > toned[1] > toned[2]
    bench.key(Qt.Key.Key_M)
    bench.hand("eraser")
    bench.type("opacity", "10")
    bench.type("flow", "100")
    bench.type("hardness", "80")
    for stroke in range(1, 4):
        bench.draw((0.42, 0.2), (0.58, 0.2))
        assert bench.mask(0.5, 0.2) == pytest.approx(0.9**stroke, abs=0.005)
    eased = bench.print_at(0.5, 0.2)
    assert eased[0] - eased[2] < toned[0] - toned[2]
    assert bench.mask(0.5, 0.8) == 1
    bench.window.desk.undo()
    assert bench.mask(0.5, 0.2) == pytest.approx(0.81, abs=0.005)


def test_cleaning_a_threshold_with_an_outlined_white_plate(bench: Bench, tmp_path):
    """Specks in the sky of a two-tone print, covered by a white plate that acts only within a drawn line."""
    picture = scene()
    picture[20:24, 40:44] = picture[60:66, 70:73] = 10  # specks
    put(bench, tmp_path, picture)
    bench.add("gray-weights", "threshold")
    bench.type("level", "60")
    assert bench.print_at(42 / 360, 22 / 240)[0] == 0
    pile = bench.print_at(257 / 360, 0.9)[0]
    bench.add("plate")
    box = bench.slip.editors["source"]
    box.setCurrentIndex(box.findData("flat"))
    assert bench.print_at(257 / 360, 0.9)[0] == 255  # white everywhere, as long as it has no stencil
    bench.key(Qt.Key.Key_M)
    bench.hand("outline")
    for place in ((0.05, 0.04), (0.28, 0.04), (0.28, 0.33), (0.05, 0.33)):
        bench.click(bench.easel, bench.on_print(*place))
    bench.key(Qt.Key.Key_Return)
    assert bench.print_at(42 / 360, 22 / 240)[0] == 255
    assert bench.print_at(71 / 360, 62 / 240)[0] == 255
    assert bench.print_at(257 / 360, 0.9)[0] == pile


def test_a_sky_held_back_by_its_hue(bench: Bench, tmp_path):
    """The blue of the sky is found by pressing on it; the cloud and the landing stay as they are."""
    put(bench, tmp_path, scene())
    bench.add("exposure")
    cloud, sky, skin = (bench.print_at(*p) for p in ((0.75, 0.16), (0.1, 0.1), (0.33, 0.5)))
    bench.type("exposure", "-1")
    bench.key(Qt.Key.Key_M)
    bench.hand("hues")
    bench.draw((0.1, 0.1), (0.12, 0.1))
    assert bench.print_at(0.1, 0.1)[2] < sky[2] - 20
    assert bench.print_at(0.33, 0.5) == skin
    assert np.abs(np.subtract(bench.print_at(0.75, 0.16), cloud)).max() < 4


def test_burning_in_from_the_top_with_a_ramp(bench: Bench, tmp_path):
    put(bench, tmp_path, scene())
    bench.add("gray-weights", "exposure")
    bottom, top = bench.print_at(0.5, 0.9)[0], bench.print_at(0.5, 0.03)[0]
    bench.type("exposure", "-1")
    bench.key(Qt.Key.Key_M)
    bench.hand("ramp")
    bench.draw((0.5, 0.7), (0.5, 0.05))
    assert bench.print_at(0.5, 0.9)[0] == bottom
    assert bench.print_at(0.5, 0.03)[0] < top - 15
    down = [bench.mask(0.5, y) for y in (0.06, 0.2, 0.35, 0.5, 0.65, 0.8)]
    assert down == sorted(down, reverse=True)


def test_dodging_and_burning_stroke_upon_stroke_and_back(bench: Bench, tmp_path):
    put(bench, tmp_path, scene())
    bench.add("gray-weights", "dodge-burn")
    bench.type("size", "60")
    steps = [bench.print_at(0.33, 0.5)[0]]
    for _ in range(3):
        bench.draw((0.28, 0.5), (0.38, 0.5))
        steps.append(bench.print_at(0.33, 0.5)[0])
    assert steps == sorted(set(steps))
    bench.slip.page.widget.findChildren(type(bench.slip.editors["strokes"]))
    drop = next(b for b in bench.slip.page.widget.findChildren(type(bench.slip.editors["strokes"]))
                if b.text() == "Drop the last")  # fmt: skip
    drop.click()
    assert bench.print_at(0.33, 0.5)[0] == steps[2]
    bench.slide("amount", 0)
    assert bench.print_at(0.33, 0.5)[0] == steps[0]


def test_passes_and_stencils_go_from_one_window_to_another(bench: Bench, tmp_path, qtbot):
    put(bench, tmp_path, scene())
    bench.add("gray-weights", "negative")
    bench.key(Qt.Key.Key_M)
    bench.hand("oval")
    bench.draw((0.3, 0.5), (0.5, 0.8))
    bench.key(Qt.Key.Key_M)
    bench.key(Qt.Key.Key_A, CTRL)
    bench.key(Qt.Key.Key_C, CTRL)
    first = bench.desk.script
    assert QGuiApplication.clipboard().text().lstrip().startswith("{")
    other = Window()
    other.show()
    other.activateWindow()
    qtbot.waitUntil(other.isActiveWindow)
    there = Bench(other, qtbot)
    put(there, tmp_path, scene()[:, ::-1], "other.png")
    there.key(Qt.Key.Key_V, CTRL)
    assert there.desk.script.passes == first.passes
    assert there.mask(0.3, 0.5) == 1
    other.desk.saved_as(None, other.desk.script)
    other.close()


def test_what_was_drawn_is_saved_opened_and_exported_alike(bench: Bench, tmp_path):
    """Frame, names, a plate with a run of its own and stencils: file, window and command line give the same print."""
    photo = put(bench, tmp_path, scene())
    bench.desk.select(FRAME)
    bench.desk.set_values("Frame", ratio="1:1", tilt=3.0)
    bench.settle()
    bench.add("gray-weights", "plate")
    bench.add_to((1,), "negative")
    bench.desk.set_values("Name", name="Turned over", note="only in the middle")
    bench.desk.select(1, ())
    bench.key(Qt.Key.Key_M)
    bench.hand("oval")
    bench.draw((0.5, 0.5), (0.7, 0.8))
    bench.hand("brush")
    bench.draw((0.1, 0.1), (0.9, 0.2))
    bench.key(Qt.Key.Key_M)
    saved, exported, rendered = tmp_path / "p.kyano", tmp_path / "w.png", tmp_path / "c.png"
    bench.window.saving.save_to(saved)
    bench.settle()
    script = bench.desk.script
    assert read_script(saved).script == script
    assert script.passes[1].run[0].title == "Turned over"
    bench.window.printing.export(exported, Settings())
    bench.settle()
    assert cli.main(["render", str(photo), "--script", str(saved), "-o", str(rendered)]) == 0
    assert np.array_equal(np.asarray(Image.open(exported)), np.asarray(Image.open(rendered)))
    bench.open(saved)
    assert bench.desk.script == script


def test_an_ink_found_in_one_picture_tones_the_next(bench: Bench, tmp_path):
    put(bench, tmp_path, scene())
    bench.add("gradient-map")
    field = bench.slip.editors["stops"].colour
    field.pick_word.click()
    bench.click(bench.easel, bench.on_print(0.33, 0.5))
    bench.settle()
    ink = bench.desk.selected_pass.stops[0][1]
    field.keep_word.click()
    bench.desk.saved_as(None, bench.desk.script)
    put(bench, tmp_path, scene()[::-1], "second.png")
    bench.add("gradient-map")
    field = bench.slip.editors["stops"].colour
    assert field.inks.inks == (ink,)
    bench.click(field.inks, field.inks.box(0).center())
    assert bench.desk.selected_pass.stops[0][1] == ink


def test_creeping_up_with_the_keyboard_alone(bench: Bench, tmp_path):
    """A first print without the mouse: passes from the chooser, values by arrows, strength by keys, out again."""
    put(bench, tmp_path, scene())
    bench.key(Qt.Key.Key_A)
    QTest.keyClicks(bench.window.bench.passes.choosers.present.search, "gray weights")
    QTest.keyClick(bench.window.bench.passes.choosers.present.search, Qt.Key.Key_Return)
    bench.key(Qt.Key.Key_F6)  # to the slip
    slider = bench.window.bench.slip.sliders["strength"]
    assert slider.hasFocus()
    QTest.keyClick(slider, Qt.Key.Key_PageDown)
    assert bench.desk.selected_pass.strength == 90
    bench.easel.setFocus()
    bench.key(Qt.Key.Key_0)
    for _ in range(7):
        bench.key(Qt.Key.Key_Up, SHIFT)
    bench.key(Qt.Key.Key_Up)
    assert bench.desk.selected_pass.strength == 71
    bench.key(Qt.Key.Key_X)
    assert not bench.desk.selected_pass.on
    bench.key(Qt.Key.Key_X)
    bench.key(Qt.Key.Key_Z, CTRL)
    bench.key(Qt.Key.Key_Z, CTRL | SHIFT)
    assert bench.desk.selected_pass.on


def test_pushed_too_far_looked_at_beside_and_pulled_back_by_the_list(bench: Bench, tmp_path):
    put(bench, tmp_path, scene())
    bench.add("gray-weights", "levels")
    bench.desk.clock = itertools.count(0, 10).__next__  # time passes: each is a step of its own
    for gamma in ("1.2", "1.6", "2.4"):
        bench.type("gamma", gamma)
    bench.key(Qt.Key.Key_C, SHIFT)
    bench.key(Qt.Key.Key_C)
    assert bench.easel.comparing == "side by side"
    bench.settle()
    assert bench.easel.other().passes == bench.desk.script.passes[:1]
    bench.key(Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.AltModifier)
    words, _ = bench.desk.history
    assert words[3:] == ["Levels: all middle"] * 3
    listed = bench.window.bench.history.list
    listed.setCurrentRow(words.index("Levels: all middle"))
    listed.window().close()
    assert bench.desk.selected_pass.gamma == 1.2
    bench.window.desk.redo()
    assert bench.desk.selected_pass.gamma == 1.6


def test_one_stencil_for_two_passes_by_dragging_its_mark(bench: Bench, tmp_path):
    put(bench, tmp_path, scene())
    bench.add("gray-weights", "negative", "soften")
    bench.desk.select(1)
    bench.key(Qt.Key.Key_M)
    bench.hand("tones")
    bench.draw((0.33, 0.5), (0.36, 0.5))
    bench.key(Qt.Key.Key_M)
    notch = bench.trays.places.notch(1).center()
    bench.drag(bench.trays, notch, notch + QPointF(80, 0), bench.trays.places.thumb(2).center())
    first, second = bench.desk.script.passes[1:]
    assert first.stencil == second.stencil
    assert bench.desk.selected == 2


def test_every_key_does_what_the_page_of_keys_says(bench: Bench, monkeypatch):
    bench.add("gray-weights", "levels", "levels")
    bench.desk.undo()
    bench.settle()
    done = []

    def handler(asked):
        recorder = Held(lambda: done.append(asked), lambda: done.append("let go"))
        return recorder if asked.held else recorder.start

    monkeypatch.setattr(bench.window.registry, "handler", handler)
    wrong = []
    for command in COMMANDS:
        if not command.keys:
            continue
        bench.easel.setFocus()
        pressed = QKeySequence(command.keys)[0]
        done.clear()
        QTest.keyPress(bench.easel, pressed.key(), pressed.keyboardModifiers())
        first = list(done)
        QTest.keyRelease(bench.easel, pressed.key(), pressed.keyboardModifiers())
        bench.qtbot.wait(1)
        if (first, done) != ([command], [command, *(["let go"] if command.held else [])]):
            wrong.append((command.keys, first, list(done)))
    assert wrong == []
