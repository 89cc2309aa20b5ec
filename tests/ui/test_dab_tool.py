"""Hand-tint at the easel: dabs laid, chosen, moved, given another tint, taken away; tints from the tray."""

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from kyanoscript.core.tint.tints import TINTS
from tests.conftest import make_colourful
from tests.ui.conftest import typed

KEY, SHIFT, CTRL = Qt.Key, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def tint(bench):
    """A gray print with nothing tinted yet."""
    bench.add("gray-weights", "hand-tint")
    bench.easel.setFocus()
    return bench


def test_on_a_photograph_in_colour_it_starts_with_nothing(tint):
    assert not tint.desk.selected_pass.auto


def dabs(bench):
    return bench.desk.selected_pass.dabs


def swatch(bench, group, name):
    """Press a tint in the tray."""
    tray = bench.slip.editors["tints"]
    tray.group.setCurrentText(group)
    k = [n for n, _ in TINTS[group]].index(name)
    QTest.mouseClick(tray.tray, Qt.MouseButton.LeftButton, pos=tray.tray.box(k).center().toPoint())
    return dict(TINTS[group])[name]


def test_a_press_lays_a_dab_of_the_tint_of_the_tray_and_the_print_takes_colour(tint):
    ink = swatch(tint, "Green", "grass")
    tint.draw((0.3, 0.4), (0.3, 0.4))
    (dab,) = dabs(tint)
    assert dab.colour == ink
    assert dab.points[0][:2] == pytest.approx((30, 40), abs=0.5)
    assert dab.acts == "spreads"
    shown = tint.easel.image.pixelColor(tint.easel.image.width() // 2, tint.easel.image.height() // 2)
    assert shown.green() > shown.blue() + 5
    assert tint.desk.entries[-1] == "Lay a dab"


def test_a_stroke_is_one_dab_with_its_way_and_one_step_of_the_history(tint):
    tint.draw((0.2, 0.2), (0.5, 0.3))
    assert len(dabs(tint)) == 1
    assert len(dabs(tint)[0].points) > 4
    tint.key(KEY.Key_Z, CTRL)
    assert dabs(tint) == ()


def test_with_shift_it_stays_where_it_is(tint):
    tint.draw((0.2, 0.2), (0.2, 0.2), modifier=SHIFT)
    assert dabs(tint)[0].acts == "stays"


def test_the_dab_just_laid_takes_the_next_tint_and_so_does_one_that_is_pressed(tint):
    tint.draw((0.2, 0.2), (0.2, 0.2))
    first = swatch(tint, "Sky and water", "high sky")
    assert dabs(tint)[0].colour == first
    tint.draw((0.7, 0.7), (0.7, 0.7))
    assert dabs(tint)[1].colour == first  # as the last
    second = swatch(tint, "Cloth", "rose")
    assert [d.colour for d in dabs(tint)] == [first, second]
    tint.press(tint.easel, tint.on_print(0.2, 0.2))
    tint.release(tint.easel, tint.on_print(0.2, 0.2))
    assert tint.easel.dabs.chosen == 0
    third = swatch(tint, "Cloth", "indigo")
    assert [d.colour for d in dabs(tint)] == [third, second]


def test_a_dab_is_moved_by_its_mark(tint):
    tint.draw((0.3, 0.3), (0.3, 0.3))
    tint.drag(tint.easel, tint.on_print(0.3, 0.3), tint.on_print(0.45, 0.4), tint.on_print(0.6, 0.5))
    assert len(dabs(tint)) == 1
    assert dabs(tint)[0].points[0][:2] == pytest.approx((60, 50), abs=0.6)
    assert tint.desk.entries[-1] == "Move a dab"
    with_ctrl = tint.on_print(0.6, 0.5)
    tint.press(tint.easel, with_ctrl, CTRL)
    tint.release(tint.easel, with_ctrl)
    assert len(dabs(tint)) == 2  # on the same spot, on purpose


def test_delete_takes_the_chosen_dab_and_then_the_pass(tint):
    tint.draw((0.3, 0.3), (0.3, 0.3))
    tint.draw((0.6, 0.3), (0.6, 0.3))
    tint.key(KEY.Key_Delete)
    assert len(dabs(tint)) == 1
    tint.key(KEY.Key_Delete)
    assert [step.kind for step in tint.desk.script.passes] == ["gray-weights"]
    tint.key(KEY.Key_Z, CTRL)
    tint.key(KEY.Key_Z, CTRL)
    assert len(tint.desk.script.passes[1].dabs) == 2


def test_comma_and_stop_change_the_size_and_escape_lets_the_dab_go(tint):
    before = tint.easel.dabs.brush.size
    tint.key(KEY.Key_Period)
    assert tint.easel.dabs.brush.size > before
    tint.draw((0.3, 0.3), (0.3, 0.3))
    assert tint.easel.dabs.dab is not None
    tint.key(KEY.Key_Escape)
    assert tint.easel.dabs.dab is None
    tint.key(KEY.Key_Comma)
    assert dabs(tint)[0].size > before  # the laid one stays as it is


def test_dabs_show_on_demand_and_hidden_ones_are_not_taken_hold_of(tint):
    tint.draw((0.3, 0.3), (0.3, 0.3))
    tint.slip.editors["dabs shown"].click()
    assert not tint.easel.dabs.shown
    tint.draw((0.3, 0.3), (0.3, 0.3))
    assert len(dabs(tint)) == 2
    tint.slip.editors["dabs shown"].click()
    assert tint.easel.dabs.under(tint.on_print(0.3, 0.3)) >= 0


def test_another_tray_lets_the_dab_go(tint):
    tint.draw((0.3, 0.3), (0.3, 0.3))
    tint.desk.select(0)
    assert not tint.easel.dabs.active
    tint.desk.select(1)
    assert tint.easel.dabs.dab is None


def test_the_tray_of_tints_works_by_keyboard(tint):
    tray = tint.slip.editors["tints"].tray
    tray.setFocus()
    QTest.keyClick(tray, KEY.Key_Right)
    QTest.keyClick(tray, KEY.Key_Return)
    assert tint.easel.dabs.brush.colour == TINTS["Skin"][1][1]


def test_a_stroke_of_mend_says_what_to_mend_and_with_ctrl_what_to_leave(bench):
    bench.window.bench.passes.add("mend")
    assert "few seconds" in bench.window.foot.message.text()
    bench.settle()
    bench.draw((0.3, 0.3), (0.4, 0.3))
    bench.draw((0.6, 0.6), (0.7, 0.6), modifier=CTRL)
    assert [mark.does for mark in bench.desk.selected_pass.marks] == ["mend", "leave"]


# A model is shown before it is used


@pytest.fixture
def model(bench, tmp_path):
    """A hand-tint, and a colour photograph beside the picture."""
    Image.fromarray(make_colourful(120, 180)[::-1].copy()).save(tmp_path / "after.png")
    bench.window.bench.passes.add("hand-tint")
    name_model(bench, "after.png")
    return bench


def name_model(bench, name):
    bench.slip.editors["group Model"].click()
    entry = bench.slip.editors["model"]
    typed(entry, name)


def shares(bench):
    bench.qtbot.waitUntil(lambda: bench.passes.choosers.present is not None)
    return bench.window.bench.passes.choosers.present


def test_a_model_is_shown_with_its_shares_and_used_only_once_one_is_chosen(model):
    sheet = shares(model)
    assert sheet.grid.shown() == ["model", "25", "50", "75", "100"]
    assert model.desk.selected_pass.model == ""
    model.qtbot.waitUntil(lambda: sheet.grid.pictured() == {"model", "25", "50", "75", "100"})
    model.settle()
    sheet.grid.step(1, 0)
    sheet.grid.chosen.emit("50")
    model.settle()
    assert (model.desk.selected_pass.model, model.desk.selected_pass.share) == ("after.png", 50)
    assert model.slip.editors["model"].text() == "after.png"
    model.window.desk.undo()
    assert (model.desk.selected_pass.model, model.desk.selected_pass.share) == ("", 100)


def test_a_model_that_is_not_wanted_leaves_everything_as_it_was(model):
    before = model.desk.script
    shares(model).close()
    model.settle()
    assert model.desk.script == before
    assert model.slip.editors["model"].text() == ""


def test_a_model_that_cannot_be_opened_is_named_and_not_used(bench):
    bench.window.bench.passes.add("hand-tint")
    name_model(bench, "nowhere.png")
    bench.qtbot.waitUntil(lambda: "nowhere.png" in bench.said())
    assert bench.desk.selected_pass.model == ""


@pytest.fixture
def portrait(bare, tmp_path):
    """The gray portrait that scikit-image ships, with the first colouring on."""
    import skimage.data

    file = tmp_path / "portrait.png"
    Image.fromarray(skimage.data.astronaut()).convert("L").save(file)
    bare.open(file)
    bare.add("hand-tint")
    assert bare.desk.selected_pass.auto  # on a gray photograph it starts so
    return bare


def test_hair_and_clothes_wait_for_a_tint_and_one_press_gives_it(portrait):
    """What is offered is named on the picture; pressed, the tray shows what such a thing can have."""
    tool = portrait.easel.dabs
    assert {dab.name for dab in tool.dabs if dab.offered} >= {"hair", "brows", "lips", "clothes", "blush"}
    k = next(k for k, dab in enumerate(tool.dabs) if dab.name == "hair")
    at = tool.mark(tool.dabs[k])
    portrait.click(portrait.easel, at)
    assert tool.chosen == k
    assert portrait.slip.editors["tints"].group.currentText() == "Hair"
    before = portrait.print_at(0.43, 0.09)
    assert not portrait.slip.editors["part more"].isVisible()  # there are no others for hair
    portrait.slip.editors["part another"].click()
    ink = swatch(portrait, "Hair", "red")
    portrait.settle()
    step = portrait.desk.selected_pass
    dab = next(dab for dab in step.dabs if dab.name == "hair")
    assert (dab.colour, dab.offered, dab.acts) == (ink, False, "within")
    assert step.auto is False
    after = portrait.print_at(0.43, 0.09)
    assert after[0] - after[2] > before[0] - before[2] + 20
    portrait.desk.undo()
    assert portrait.desk.selected_pass.auto is True


def test_pressing_an_offer_moves_nothing_and_takes_nothing(portrait):
    tool = portrait.easel.dabs
    k = next(k for k, dab in enumerate(tool.dabs) if dab.name == "lips")
    portrait.click(portrait.easel, tool.mark(tool.dabs[k]))
    assert portrait.slip.editors["tints"].group.currentText() == "Lips"
    assert portrait.desk.entries == ["Open", "Add Hand-tint"]
    assert tool.dabs[k].offered
    assert portrait.desk.selected_pass.auto


def test_the_slip_keeps_its_width_whatever_is_said_of_the_dabs(portrait):
    """Of many people many things wait for a tint, which is told beside two words that are pressed."""
    tool, slip = portrait.easel.dabs, portrait.slip
    portrait.window.resize(1280, 800)
    for k in range(-1, len(tool.dabs)):
        tool.choose(k)
        portrait.settle()
        assert slip.page.widget.sizeHint().width() <= slip.width(), k


def test_choosing_a_group_of_tints_takes_its_first(tint):
    tint.slip.editors["tints"].group.textActivated.emit("Hair")
    tint.draw((0.3, 0.4), (0.3, 0.4))
    assert dabs(tint)[0].colour == TINTS["Hair"][0][1]


def test_a_dab_laid_by_hand_has_no_outline(portrait):
    tool = portrait.easel.dabs
    k = next(k for k, dab in enumerate(tool.dabs) if dab.name == "skin")
    tool.choose(k)
    swatch(portrait, "Skin", "olive")
    portrait.draw((0.1, 0.9), (0.1, 0.9), modifier=CTRL)
    laid = portrait.desk.selected_pass.dabs[-1]
    assert (laid.outline, laid.name) == ((), "")
    assert laid.acts in ("spreads", "stays")


def test_the_tint_under_the_pointer_is_seen_on_the_place_before_it_is_taken(portrait):
    tool, tray = portrait.easel.dabs, portrait.slip.editors["tints"].tray
    tool.choose(next(k for k, dab in enumerate(tool.dabs) if dab.name == "hair"))
    portrait.slip.editors["part another"].click()
    portrait.settle()
    tray = portrait.slip.editors["tints"].tray
    before = portrait.desk.script
    QTest.mouseMove(tray, tray.box(3).center().toPoint())
    portrait.settle()
    held = portrait.easel.held.passes[0]
    assert next(dab.colour for dab in held.dabs if dab.name == "hair") == TINTS["Hair"][3][1]
    assert portrait.desk.script is before
    QTest.mouseMove(tray, QPoint(tray.width() - 2, 4))
    assert portrait.easel.held is None
    # With no dab chosen there is nothing to show it on but the brush.
    tool.choose(-1)
    QTest.mouseMove(tray, tray.box(1).center().toPoint())
    assert portrait.easel.held is None


def test_both_brows_of_one_person_take_one_tint(portrait):
    tool = portrait.easel.dabs
    tool.choose(next(k for k, dab in enumerate(tool.dabs) if dab.name == "brows"))
    ink = swatch(portrait, "Hair", "fair")
    assert [dab.colour for dab in portrait.desk.selected_pass.dabs if dab.name == "brows"] == [ink, ink]
