"""The first evening: what a print can begin with, by one press."""

import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

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
