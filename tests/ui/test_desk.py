"""The history: one gesture one entry, nothing lost, nothing counted twice."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kyanoscript.core.passes.tone.levels import Levels
from kyanoscript.core.script import Script
from kyanoscript.ui.document.desk import Desk


@pytest.fixture
def desk():
    made = Desk()
    made.change("Add Levels", Script((Levels(),)), select=0)
    return made


def test_a_drag_is_one_entry(desk):
    desk.begin("Black")
    for black in range(1, 30):
        desk.set_values("x", in_black=float(black))
    desk.commit()
    assert desk.entries == ["Open", "Add Levels", "Black"]
    desk.undo()
    assert desk.selected_pass == Levels()


def test_a_drag_back_to_its_start_leaves_no_entry(desk):
    desk.begin("Black")
    desk.set_values("x", in_black=9.0)
    desk.set_values("x", in_black=0.0)
    desk.commit()
    assert desk.entries == ["Open", "Add Levels"]


def test_undo_in_a_drag_gives_the_drag_up(desk):
    desk.begin("Black")
    desk.set_values("x", in_black=9.0)
    desk.undo()
    assert desk.selected_pass == Levels()
    assert desk.entries == ["Open", "Add Levels"]
    desk.commit()
    assert desk.entries == ["Open", "Add Levels"]


def test_small_steps_of_one_kind_merge_but_not_for_ever(desk, monkeypatch):
    clock = [100.0]
    monkeypatch.setattr(desk, "clock", lambda: clock[0])
    for black in (1.0, 2.0, 3.0):
        clock[0] += 0.2
        desk.set_values("Black", merge="in_black", in_black=black)
    assert desk.entries == ["Open", "Add Levels", "Black"]
    clock[0] += 5
    desk.set_values("Black", merge="in_black", in_black=4.0)
    assert desk.entries == ["Open", "Add Levels", "Black", "Black"]
    desk.undo()
    desk.undo()
    assert desk.selected_pass == Levels()


def test_a_new_edit_after_undo_ends_what_could_be_redone(desk):
    desk.set_values("Black", in_black=5.0)
    desk.undo()
    desk.set_values("White", in_white=200.0)
    assert desk.redo_label == ""
    desk.redo()
    assert desk.selected_pass == Levels(in_white=200.0)


def test_changed_signal_names_the_first_pass_that_differs(desk, qtbot):
    desk.change("Add", desk.script.inserted(1, [Levels()]))
    with qtbot.waitSignal(desk.script_changed) as caught:
        desk.set_values_at(1, "Black", in_black=5.0)
    assert caught.args == [1]


def test_a_value_out_of_range_never_reaches_the_script(desk):
    with pytest.raises(ValueError, match="in_black"):
        desk.set_values("Black", in_black=300.0)
    assert desk.selected_pass == Levels()


@given(st.lists(st.sampled_from(["edit", "undo", "redo", "drag", "abort"]), max_size=30))
@settings(max_examples=60, deadline=None)
def test_undo_to_the_beginning_and_redo_to_the_end_come_back_to_the_same(steps):
    desk = Desk()
    desk.change("Add", Script((Levels(),)), select=0)
    value = 0.0
    for step in steps:
        value += 1
        if step == "edit":
            desk.set_values("Edit", in_black=value)
        elif step == "undo":
            desk.undo()
        elif step == "redo":
            desk.redo()
        else:
            desk.begin("Drag")
            desk.set_values_at(0, "x", out_black=value)
            desk.commit() if step == "drag" else desk.abort()
    while desk.redo_label:
        desk.redo()
    end, count = desk.script, len(desk.entries)
    while desk.undo_label:
        desk.undo()
    assert desk.script == Script()
    for _ in range(count):
        desk.redo()
    assert desk.script == end
