"""No library's own words reach a person, whatever is typed into whatever can be typed into."""

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QLabel, QLineEdit

from kyanoscript.files.base import log
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.sheet.furnished import PAGES
from kyanoscript.ui.sheet.process.typing import Typing
from kyanoscript.ui.widgets.slider import ValueSlider
from tests.raw_words import TYPED, raw


def press_return(widget):
    QApplication.sendEvent(widget, QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_Return, Qt.KeyboardModifier.NoModifier))


def enter(line, text):
    """Typed, and Enter pressed."""
    line.setText(text)
    line.textEdited.emit(line.text())
    press_return(line)


def into_slider(slider, text):
    press_return(slider)
    if slider.entry is not None:
        enter(slider.entry, text)


def places(window):
    """What can be typed into now: by a name that stays the same when a page is built anew, and how."""
    found = {}
    for slider in window.findChildren(ValueSlider):
        if slider.isVisible() and slider.isEnabled():
            found["slider", slider.spec.label] = lambda text, slider=slider: into_slider(slider, text)
    for line in window.findChildren(QLineEdit):
        if line.isVisible() and line.isEnabled():
            found["line", line.accessibleName()] = lambda text, line=line: enter(line, text)
    return found


def shown(window):
    """All words on the window, those at the foot and in tool tips of lines among them."""
    labels = [label.text() for label in window.findChildren(QLabel) if label.isVisible()]
    return "\n".join(
        [window.foot.message.text(), *labels, *(line.toolTip() for line in window.findChildren(QLineEdit))]
    )


@pytest.mark.parametrize(("view", "least"), [("bench", 12), ("recipes", 1), ("strip", 2), ("sheet", 8), ("measure", 1)])
def test_no_box_of_a_view_answers_in_a_librarys_words(bench, view, least):
    """Everything is put into every box that can be typed into, one after another."""
    window = bench.window
    bench.add("levels", "gradient-map", "lettering")
    if view == "measure":
        window.registry.go(window.sheet)
        window.sheet.measure()
        assert until(lambda: len(window.sheet.work.shelf.ships) == 2, 240)
        window.sheet.work.add()
    elif view != "bench":
        window.registry.go(getattr(window, view))
    bench.settle()
    before = len(log.path().read_text()) if log.path().exists() else 0
    boxes, tried = 0, set()
    for turn in {"bench": range(len(bench.desk.script.passes)), "sheet": PAGES[0]}.get(view, (0,)):
        if view == "bench":
            bench.desk.select(turn)
        elif view == "sheet":
            window.sheet.laying.turn(turn)
        for name in list(places(window)):
            if name in tried:
                continue
            tried.add(name)
            boxes += 1
            for text in TYPED:
                put = places(window).get(name)
                if put is None:  # what was typed has changed the page
                    break
                put(text)
                assert not raw(shown(window)), (name, text[:40], raw(shown(window)))
                assert len(window.foot.message.text()) < 300, name
    bench.settle()
    assert boxes >= least
    after = log.path().read_text()[before:] if log.path().exists() else ""
    assert "Traceback" not in after, after[-2000:]


@pytest.mark.parametrize("text", TYPED)
def test_pasted_readings_are_not_answered_in_a_librarys_words(bench, text):
    dialog = Typing(bench.window, bench.window.jobs)
    for pasted in (text, f"95\n{text}", f"0 95\n{text} 80", f"BEGIN_DATA\n{text}\nEND_DATA"):
        dialog.text.setPlainText(pasted)
        dialog.taking.click()
        assert until(dialog.taking.isEnabled, 240)
        assert not raw(dialog.warning.text()), (pasted[:40], dialog.warning.text())
    dialog.close()
