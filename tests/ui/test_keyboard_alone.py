"""A print from photograph to paper by keyboard alone: whoever has no mouse gets as far."""

from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.commands.export_dialog import ExportDialog
from kyanoscript.ui.jobs.lanes import until
from tests.ui.conftest import Bench

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
NONE = Qt.KeyboardModifier.NoModifier


def press(key, modifiers=NONE, times=1):
    """A key, wherever the keyboard is."""
    for _ in range(times):
        QTest.keyClick(QGuiApplication.focusWindow(), key, modifiers)  # as the window system sends it
        QApplication.processEvents()


def tab_to(found, most=80):
    """On with Tab, until the keyboard is on something."""
    for _ in range(most):
        focus = QApplication.focusWidget()
        if found(focus):
            return focus
        press(Qt.Key.Key_Tab)
    raise AssertionError("Tab does not come there")


def named(name):
    return lambda widget: widget.accessibleName() == name or (hasattr(widget, "text") and widget.text() == name)


def test_from_photograph_to_paper(bench: Bench, tmp_path, monkeypatch):
    window, desk = bench.window, bench.desk
    window.setFocus()
    bench.easel.setFocus(Qt.FocusReason.TabFocusReason)

    press(Qt.Key.Key_F6)  # from the easel to the slip
    tab_to(named("A gray"))
    press(Qt.Key.Key_Space)
    bench.settle()
    assert [step.kind for step in desk.script.passes] == ["gray-weights"]

    bench.easel.setFocus(Qt.FocusReason.TabFocusReason)
    press(Qt.Key.Key_F6)
    tab_to(named("Blue"))
    before = desk.selected_pass.blue
    press(Qt.Key.Key_Left, times=10)
    assert desk.selected_pass.blue < before

    bench.easel.setFocus(Qt.FocusReason.TabFocusReason)
    press(Qt.Key.Key_A)
    QTest.keyClicks(QApplication.focusWidget(), "toner")
    press(Qt.Key.Key_Return)
    bench.settle()
    assert desk.script.passes[-1].kind == "toner-bath"

    press(Qt.Key.Key_Down, SHIFT, times=3)  # much weaker, three times
    press(Qt.Key.Key_Up)
    assert desk.script.passes[-1].strength == 71
    press(Qt.Key.Key_Z, CTRL)
    press(Qt.Key.Key_S)
    assert len(desk.kept.states) == 1

    monkeypatch.setattr(ExportDialog, "exec", lambda self: True)
    monkeypatch.setattr(ExportDialog, "result_settings", lambda self: (tmp_path / "print.png", Settings()))
    press(Qt.Key.Key_E, CTRL)
    assert until(lambda: (tmp_path / "print.png").exists() and window.printing.running is None, 120)
    with Image.open(tmp_path / "print.png") as print_:
        assert print_.size == (360, 240)

    window.activateWindow()  # the dialog that was not waited for took the keyboard along
    bench.qtbot.waitUntil(window.isActiveWindow)
    bench.easel.setFocus()
    press(Qt.Key.Key_5, CTRL)
    bench.settle()
    assert window.registry.view is window.sheet
    paper = window.sheet.laying.sheets
    tab_to(named("Print"))
    press(Qt.Key.Key_Space)
    bench.settle()
    across = paper.sheet.placing.across
    tab_to(named("Print's width"))
    press(Qt.Key.Key_Left, times=5)
    assert paper.sheet.placing.across < across
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (str(tmp_path / "sheet.pdf"), ""))
    press(Qt.Key.Key_E, CTRL)
    assert until(lambda: (tmp_path / "sheet.pdf").exists() and window.printing.running is None, 120)
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")

    window.activateWindow()
    bench.qtbot.waitUntil(window.isActiveWindow)
    window.sheet.laying.paper.setFocus()
    press(Qt.Key.Key_Escape)
    assert window.registry.view is window.bench
