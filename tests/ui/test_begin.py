"""The first evening: what a print can begin with, by one press; and the print for another program."""

import threading
import time

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtTest import QTest

from kyanoscript.files.prints import out
from kyanoscript.files.prints.settings import Settings
from tests.conftest import make_colourful


def begins(bench):
    bench.window.desk.select(-2)
    return bench.window.bench.slip.page.begins


def press(bench, words):
    QTest.mouseClick(begins(bench).ways[words], Qt.MouseButton.LeftButton)
    bench.settle()


@pytest.fixture
def gray(bare, tmp_path):
    file = tmp_path / "scan.png"
    Image.fromarray(make_colourful(120, 180)).convert("L").save(file)
    bare.window.opening.open(file)
    bare.settle()
    return bare


def kinds(bench):
    return [step.kind for step in bench.window.desk.script.passes]


def test_a_photograph_in_colour_is_gray_or_toned_by_one_press(bench):
    assert list(begins(bench).ways) == ["A recipe…", "A gray", "A toned print"]
    assert begins(bench).isVisible()
    press(bench, "A toned print")
    assert kinds(bench) == ["gray-weights", "toner-bath"]
    assert bench.window.desk.selected_pass.kind == "toner-bath"
    assert not begins(bench).isVisible()  # it has begun
    assert bench.window.desk.undo_label == "Begin with a toned print"
    bench.window.desk.undo()
    assert kinds(bench) == []
    assert begins(bench).isVisible()
    press(bench, "A gray")
    assert kinds(bench) == ["gray-weights"]


def test_a_gray_scan_is_mended_tinted_or_toned(gray):
    ways = list(begins(gray).ways)
    assert ways == ["Mend it", "Tint it", "A recipe for old scans…", "A toned print"]
    for words, kind in (("Mend it", "mend"), ("Tint it", "hand-tint"), ("A toned print", "toner-bath")):
        press(gray, words)
        assert kinds(gray) == [kind]
        gray.window.desk.undo()


def test_recipes_are_those_of_the_group(gray):
    """Though they may not have been read yet when it is pressed."""
    press(gray, "A recipe for old scans…")
    window = gray.window
    assert window.registry.view is window.recipes
    assert window.recipes.trials.groups.group == "scans"
    assert {recipe.group for recipe in window.recipes.trials.shown()} == {"scans"}


def test_a_photograph_that_only_looks_gray_is_taken_for_a_scan(bare, tmp_path):
    """Three channels, all alike."""
    file = tmp_path / "scan.png"
    Image.fromarray(make_colourful(120, 180)).convert("L").convert("RGB").save(file)
    bare.window.opening.open(file)
    bare.settle()
    assert "Mend it" in begins(bare).ways


def test_the_print_is_copied_as_a_picture_with_the_very_pixels_of_an_export(bench, tmp_path):
    bench.window.bench.passes.add("gray-weights")
    bench.settle()
    QGuiApplication.clipboard().clear()
    QTest.keyClick(
        bench.window.easel, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
    )
    bench.qtbot.waitUntil(lambda: not QGuiApplication.clipboard().image().isNull())
    image = QGuiApplication.clipboard().image()
    file = tmp_path / "print.png"
    bench.window.printing.export(file, Settings(bits=8, profile="srgb"))
    bench.qtbot.waitUntil(lambda: "Wrote print.png" in bench.window.foot.message.text())
    written = np.asarray(Image.open(file).convert("RGB"))
    image = image.convertToFormat(QImage.Format.Format_RGB888)
    assert (image.height(), image.width()) == written.shape[:2]
    copied = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    assert np.array_equal(copied[:, : 3 * image.width()].reshape(written.shape), written)
    assert (written[..., 0] == written[..., 2]).all()  # the print, and not the photograph


def test_a_copy_that_is_stopped_leaves_the_clipboard_alone(bench, monkeypatch):
    QGuiApplication.clipboard().setText("as it was")
    begun = threading.Event()

    def slow(out, progress):
        begun.set()
        while True:
            progress.go_on()
            time.sleep(0.01)

    monkeypatch.setattr(out, "write", slow)
    bench.window.printing.copy()
    bench.qtbot.waitUntil(begun.is_set)
    bench.window.stop_work()
    bench.qtbot.waitUntil(lambda: bench.window.printing.running is None)
    assert QGuiApplication.clipboard().text() == "as it was"
    assert "nothing was copied" in bench.window.foot.message.text()
