"""What assistive technology is told of every control: what it is, its name, its value, range and steps."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QAbstractButton, QComboBox, QMenuBar, QWidget

from kyanoscript.core.passes import load_all
from kyanoscript.ui.bench.trays import Trays
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.fields.curve import CurveEditor
from kyanoscript.ui.fields.ring import RingEditor
from kyanoscript.ui.widgets.slider import ValueSlider
from tests.ui.conftest import Bench

ROLE, TEXT = QAccessible.Role, QAccessible.Text
INTERFACES = tuple(name for name in dir(QAccessibleInterface) if name.endswith("Interface") and name[0].islower())
NAMELESS = (ROLE.NoRole, ROLE.Client)


def drawn(window):
    """Every control in sight that the program draws itself and that can have the keyboard."""
    return [
        widget
        for widget in window.findChildren(QWidget)
        if type(widget).__module__.startswith("kyanoscript.")
        and widget.focusPolicy() & Qt.FocusPolicy.TabFocus
        and widget.isVisible()
        and not isinstance(widget, Easel)  # a picture
    ]


def check(widget):
    told = QAccessible.queryAccessibleInterface(widget)
    words = type(widget).__name__
    assert told.role() not in NAMELESS, words
    assert told.text(TEXT.Name), words
    for interface in INTERFACES:  # whoever listens on the bus asks for all of them
        getattr(told, interface)()
    value = told.valueInterface()
    if hasattr(widget, "told"):
        assert told.text(TEXT.Value), words
        assert value.minimumValue() <= value.currentValue() <= value.maximumValue(), words
        assert value.minimumStepSize() > 0, words


@pytest.mark.parametrize("kind", list(load_all()))
def test_every_control_of_every_pass_is_known(shared_bench: Bench, kind):
    bench = shared_bench
    bench.add(kind)
    controls = drawn(bench.window)
    assert any(isinstance(widget, Trays) for widget in controls)
    own = [widget for widget in controls if not isinstance(widget, QAbstractButton | QComboBox | QMenuBar)]
    assert [type(widget).__name__ for widget in own if not hasattr(widget, "told")] == []
    for widget in controls:
        check(widget)
    bench.desk.undo()


def test_a_stencil_and_the_recipes_are_known_too(bench: Bench):
    bench.add("levels")
    bench.view.stencils.draw()
    bench.hand("oval")
    bench.draw((0.4, 0.4), (0.6, 0.6))
    for widget in drawn(bench.window):
        check(widget)
    bench.window.registry.go(bench.window.recipes)
    bench.settle()
    grid = bench.window.recipes.trials.grid
    assert grid in drawn(bench.window)
    check(grid)
    before = grid.current
    QAccessible.queryAccessibleInterface(grid).valueInterface().setCurrentValue(3)
    assert grid.current == grid.shown()[3] != before


def values(widget):
    return QAccessible.queryAccessibleInterface(widget).valueInterface()


def test_values_can_be_set_from_there(bench: Bench):
    bench.add("exposure", "gray-weights", "curves")
    strength = bench.slip.sliders["strength"]
    assert isinstance(strength, ValueSlider)
    values(strength).setCurrentValue(40.0)
    assert bench.desk.selected_pass.strength == 40
    assert QAccessible.queryAccessibleInterface(strength).text(TEXT.Value) == "40 %"
    curve = bench.slip.editors["every"]
    assert isinstance(curve, CurveEditor)
    values(curve).setCurrentValue(60.0)
    assert bench.desk.selected_pass.every[0] == (0.0, 60.0)
    values(bench.trays).setCurrentValue(1)
    assert bench.desk.selected == 1
    ring = bench.slip.editors["ring"]
    assert isinstance(ring, RingEditor)
    assert QAccessible.queryAccessibleInterface(ring).text(TEXT.Value) == "No handle: no hue is lifted"
    values(ring).setCurrentValue(20.0)  # the first makes a handle
    values(ring).setCurrentValue(20.0)
    assert bench.desk.selected_pass.ring[0][1] == 20
    values(strength)  # of a page that is gone by now: no fault


def test_whoever_listens_hears_of_a_change(bench: Bench, monkeypatch):
    bench.add("levels")
    heard = []
    monkeypatch.setattr(QAccessible, "isActive", lambda: True)
    monkeypatch.setattr(QAccessible, "updateAccessibility", lambda event: heard.append(event.value()))
    bench.slip.sliders["strength"].setFocus()
    bench.key(Qt.Key.Key_Left, on=bench.slip.sliders["strength"])
    assert "99 %" in heard


def test_a_word_that_is_turned_over_by_a_reader_is_pressed(bench: Bench):
    """Screen readers turn over what stays pressed; that is no press for Qt, and nothing would come of it."""
    window = bench.window
    word = window.masthead.views[window.recipes]
    word.toggle()
    bench.qtbot.waitUntil(lambda: window.registry.view is window.recipes)
    assert word.isChecked()
    heard = []
    word.clicked.connect(heard.append)
    word.setChecked(False)  # the program shows something: nobody pressed
    bench.settle()
    assert heard == []
