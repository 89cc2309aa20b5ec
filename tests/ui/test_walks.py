"""The first evening: three walks, from an empty home to a written PDF, by the hand of somebody who has just come."""

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QFileDialog, QWidget

from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.export_dialog import ExportDialog
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.walks.card import Card
from kyanoscript.ui.walks.walk import WALKS
from tests.ui.conftest import Bench

TONED, SCAN, PAPER = WALKS


@pytest.fixture
def here(qtbot, tmp_path, monkeypatch):
    """Somebody's first start: nothing is remembered, and the demo print is opened."""
    monkeypatch.setenv("HOME", str(tmp_path))
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    window.open_demo()
    bench = Bench(window, qtbot)
    assert until(lambda: window.walking.card.isVisible(), 240)
    bench.settle()
    yield bench
    window.walking.leave()
    window.desk.saved_as(window.desk.file, window.desk.whole)
    window.close()


def press(card, text):
    (word,) = [w for w in card.findChildren(QAbstractButton) if w.text() == text and w.isVisible()]
    QTest.mouseClick(word, Qt.MouseButton.LeftButton)


def at(bench, step):
    """The walk has come to a step, and says so in the window."""
    walking = bench.window.walking
    assert until(lambda: walking.at == step, 240), f"still at {walking.at}"
    bench.settle()
    card = walking.card
    assert card.isVisible()
    assert bench.window.rect().contains(card.geometry())
    if walking.walk is not None and step < 5:
        assert f"{step + 1} of 5" in card.title.text()
        assert card.text.text() == walking.walk.steps[step].words
    return card


def start(bench, walk):
    press(bench.window.walking.card, walk.title)
    assert until(lambda: bench.window.walking.walk is walk, 240)
    at(bench, 0)
    bench.settle()


def written(bench, monkeypatch, target):
    """Export, in the dialog as it comes up."""
    monkeypatch.setattr(ExportDialog, "exec", lambda self: True)
    monkeypatch.setattr(ExportDialog, "result_settings", lambda self: (target, Settings()))
    bench.window.registry.do(commands.EXPORT)


def choose(bench, name):
    """A pass, from the chooser that A opens."""
    bench.key(Qt.Key.Key_A)
    chooser = bench.passes.choosers.present
    QTest.keyClicks(chooser.search, name)
    QTest.keyClick(chooser.search, Qt.Key.Key_Return)


def test_a_photograph_becomes_a_toned_print(here, tmp_path, monkeypatch):
    start(here, TONED)
    QTest.mouseClick(here.slip.page.begins.ways["A gray"], Qt.MouseButton.LeftButton)
    at(here, 1)
    here.slide("blue", -20)
    at(here, 2)
    choose(here, "Toner bath")
    at(here, 3)
    button = here.slip.page.develop_button
    QTest.mousePress(button, Qt.MouseButton.LeftButton)
    assert until(lambda: 5 < here.desk.selected_pass.strength < 100, 60)
    QTest.mouseRelease(button, Qt.MouseButton.LeftButton)
    at(here, 4)
    written(here, monkeypatch, tmp_path / "landing.png")
    card = at(here, 5)
    assert card.title.text() == "A toned print: done"
    with Image.open(tmp_path / "landing.png") as print_:
        assert print_.size == (2400, 1600)


def test_an_old_scan_is_mended_and_tinted(here, tmp_path, monkeypatch):
    start(here, SCAN)
    QTest.mouseClick(here.slip.page.begins.ways["Mend it"], Qt.MouseButton.LeftButton)
    at(here, 1)
    here.key(Qt.Key.Key_1)
    at(here, 2)
    choose(here, "Hand-tint")
    at(here, 3)
    here.key(Qt.Key.Key_U)
    here.settle()
    here.key(Qt.Key.Key_1, Qt.KeyboardModifier.AltModifier)
    at(here, 4)
    here.word("Take the likeliest of the rest")
    here.settle()
    written(here, monkeypatch, tmp_path / "yard.png")
    at(here, 5)
    with Image.open(tmp_path / "yard.png") as print_:
        assert len(print_.convert("RGB").getcolors(1 << 24)) > 5000  # it has colours


def test_a_print_is_written_as_a_sheet(here, tmp_path, monkeypatch):
    start(here, PAPER)
    QTest.mouseClick(here.window.masthead.views[here.window.sheet], Qt.MouseButton.LeftButton)
    at(here, 1)
    laying = here.window.sheet.laying
    box = laying.page.editors["stock"]
    box.setCurrentIndex(box.findData("washi"))
    at(here, 2)
    here.word("Fill the margins")
    at(here, 3)
    QTest.keyPress(laying.paper, Qt.Key.Key_P)
    at(here, 4)
    QTest.keyRelease(laying.paper, Qt.Key.Key_P)
    target = tmp_path / "landing.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(target), "PDF (*.pdf)"))
    here.word("Write to a file…", laying.page)
    at(here, 5)
    assert target.read_bytes().startswith(b"%PDF-1.7")


@pytest.mark.parametrize("walk", WALKS, ids=lambda walk: walk.title)
def test_the_program_can_show_every_step_and_a_walk_is_left_at_any_time(here, walk, monkeypatch, tmp_path):
    monkeypatch.setattr(ExportDialog, "exec", lambda self: True)
    monkeypatch.setattr(
        ExportDialog, "result_settings", lambda self: (tmp_path / "print.png", Settings(longer_side=200))
    )
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "print.pdf"), ""))
    start(here, walk)
    walking = here.window.walking
    for step in range(5):
        card = at(here, step)
        here.settle()
        if "Hold P" in walk.steps[step].words and walk is PAPER:
            press(card, "Next step")
        else:
            press(card, "Show me")
        at(here, step + 1)
    press(walking.card, "Leave")
    assert not walking.card.isVisible()
    assert not walking.round.isVisible()
    assert walking.walk is None


def test_who_does_not_want_to_walk_is_left_alone(here):
    walking = here.window.walking
    press(walking.card, "Not now")
    assert not walking.card.isVisible()
    here.add("grain")
    assert not walking.card.isVisible()
    here.window.desk.saved_as(here.desk.file, here.desk.whole)
    here.window.registry.do(commands.WALKS[2])
    assert until(lambda: walking.walk is PAPER, 240)
    at(here, 0)
    press(walking.card, "Leave")
    assert here.desk.photo.path == PAPER.photo  # what was done stays


def test_the_line_goes_round_what_is_told_of_and_presses_go_through_it(here):
    start(here, TONED)
    walking = here.window.walking
    word = here.slip.page.begins.ways["A gray"]
    box = QRect(word.mapTo(here.window, QPoint(0, 0)), word.size())
    assert until(lambda: walking.round.geometry().contains(box), 20)
    assert not walking.card.geometry().intersects(box)
    assert here.window.childAt(box.center()) is word
    drawn = here.window.grab().toImage()
    ratio, rim = here.window.devicePixelRatioF(), walking.round.geometry()
    seen = drawn.pixelColor(int((rim.left() + 1) * ratio), int(rim.center().y() * ratio)).name()
    assert seen == "#17375e"


@pytest.mark.parametrize(("box", "free"), [
    (QRect(1000, 300, 200, 30), "left"), (QRect(10, 300, 100, 30), "right"),
    (QRect(400, 8, 60, 30), "below"), (QRect(400, 700, 60, 60), "above"),
])  # fmt: skip
def test_what_is_said_lies_beside_what_it_is_about_and_in_the_window(qtbot, box, free):
    window = QWidget()
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    card = Card(window)
    card.tell("One", "Words " * 30, [])
    card.lie_beside(box)
    lies = card.geometry()
    assert window.rect().contains(lies)
    assert not lies.intersects(box)
    assert {
        "left": lies.right() < box.left(), "right": lies.left() > box.right(),
        "below": lies.top() > box.bottom(), "above": lies.bottom() < box.top(),
    }[free]  # fmt: skip
    assert card.text.height() >= card.text.heightForWidth(card.text.width())  # nothing is cut off


def test_another_photograph_opened_by_hand_ends_a_walk(here, photo):
    start(here, TONED)
    here.open(photo)
    assert here.window.walking.walk is None
    assert not here.window.walking.card.isVisible()
