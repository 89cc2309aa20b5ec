"""The Recipes view: every recipe on this picture, one large, used, and one's own."""

import json

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from kyanoscript.files.kept import cookbook
from kyanoscript.files.kept.cookbook import folder
from kyanoscript.files.kept.recipes import bundled, find
from kyanoscript.ui.document.desk import FRAME
from kyanoscript.ui.service.results import Thumbnail
from tests.conftest import make_colourful

KEY = Qt.Key


@pytest.fixture(autouse=True)
def _quick(request, monkeypatch):
    """The recipes for scans look them over for a second each: one test waits for them, the others need not."""
    if "every_recipe" not in request.node.name:
        quick = [recipe for recipe in bundled() if recipe.group != "scans"]
        monkeypatch.setattr(cookbook, "bundled", lambda: quick)


@pytest.fixture
def view(bench):
    """The bench with one pass, gone over to the recipes."""
    bench.add("levels")
    bench.desk.set_values("Levels", gamma=1.5)
    bench.key(KEY.Key_2, Qt.KeyboardModifier.ControlModifier)
    bench.settle()
    bench.view = bench.window.recipes.trials
    return bench


def centre(grid, word):
    return grid.box(word).center()


def press(view, word):
    QTest.mouseClick(view.view.grid, Qt.MouseButton.LeftButton, pos=centre(view.view.grid, word).toPoint())
    view.settle()


def average(image):
    small = image.scaled(1, 1, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation)
    return small.pixelColor(0, 0)


def test_every_recipe_is_shown_on_this_picture_and_looks_like_itself(view):
    grid = view.view.grid
    every, scans = ({recipe.word for recipe in bundled() if group in (recipe.group, "")} for group in ("", "scans"))
    assert set(grid.shown()) == every
    # A photograph in colour is not looked over like a scan before somebody asks for it.
    assert grid.pictured() == every - scans
    assert grid.held == scans
    view.view.groups.choose("scans")
    view.settle()
    assert set(grid.shown()) == scans
    assert grid.pictured() == every
    view.view.groups.choose("all")
    assert average(grid.picture("iron-blue")).blue() > average(grid.picture("iron-blue")).red() + 10
    gray = average(grid.picture("eye"))
    assert gray.red() == gray.green() == gray.blue()
    assert grid.isVisible()
    assert not view.easel.isVisible()
    assert not view.slip.isVisible()


def test_every_recipe_for_scans_is_shown_at_once_on_a_photograph_without_colour(bench, tmp_path):
    file = tmp_path / "yard.png"
    Image.fromarray(make_colourful(90, 120).mean(axis=2).astype(np.uint8)).save(file)
    bench.open(file)
    bench.window.registry.go(bench.window.recipes)
    bench.settle()
    grid = bench.window.recipes.trials.grid
    assert grid.held == frozenset()
    assert grid.pictured() == {recipe.word for recipe in bundled()}


def test_what_has_been_scrolled_into_sight_is_asked_for_first(view, monkeypatch):
    asked, trials = [], view.view
    monkeypatch.setattr(view.window.service, "ask_instead", lambda group, wanted: asked.append([*wanted]))
    trials.grid.forget()
    trials.contacts.verticalScrollBar().setValue(trials.contacts.verticalScrollBar().maximum())
    view.qtbot.waitUntil(lambda: bool(asked))
    seen = trials.contacts.viewport().rect().translated(0, trials.contacts.verticalScrollBar().value())
    near = [trials.grid.box(request.name).toRect().intersects(seen) for request in asked[-1]]
    assert any(near)
    assert not all(near)
    assert near == sorted(near, reverse=True)


def test_the_pictures_come_one_by_one_while_the_window_lives(bench):
    counts = []
    bench.window.service.answers(Thumbnail).connect(
        lambda _: counts.append(len(bench.window.recipes.trials.grid.pictured()))
    )
    bench.window.registry.go(bench.window.recipes)
    bench.settle()
    assert counts == list(range(len(counts)))
    assert len(counts) == len(cookbook.bundled())


def test_pressed_it_is_large_and_pressed_again_it_takes_the_place_of_the_run(view):
    press(view, "metal-gold")
    trial = view.view
    assert view.easel.isVisible()
    assert view.easel.shown().passes == find("metal-gold", bundled()).script.passes
    assert [recipe.kind for recipe in view.desk.script.passes] == ["levels"]  # nothing is done yet
    QTest.mouseClick(trial.row, Qt.MouseButton.LeftButton, pos=centre(trial.row, "metal-gold").toPoint())
    view.settle()
    assert view.window.registry.view is view.window.bench
    assert view.easel.hasFocus()
    assert not view.easel.by_keyboard  # no frame round the print: nobody came by the Tab key
    assert view.desk.script.passes == find("metal-gold", bundled()).script.passes
    assert view.desk.entries[-1] == "Recipe Gold"
    assert view.easel.shown() == view.desk.script
    view.key(KEY.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert [recipe.kind for recipe in view.desk.script.passes] == ["levels"]


def test_laid_on_the_print_it_is_added_after_the_run(view):
    before = average(view.view.grid.picture("eye")).red()
    view.view.page.words["print"].click()
    view.settle()
    assert average(view.view.grid.picture("eye")).red() > before  # gamma 1.5 lightens
    press(view, "eye")
    view.key(KEY.Key_Return)
    assert [recipe.kind for recipe in view.desk.script.passes] == ["levels", "gray-weights"]
    assert view.desk.selected == 1


def test_at_part_strength_it_is_used_as_one_plate_of_that_strength(view):
    press(view, "crossed")
    view.key(KEY.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    view.key(KEY.Key_Down)
    assert view.view.page.whole.value == 89
    view.view.use()
    (plate,) = view.desk.script.passes
    assert (plate.kind, plate.strength, plate.name) == ("plate", 89, "Crossed curves")
    assert plate.run == find("crossed", bundled()).script.passes


def test_develop_comes_up_from_nothing_and_escape_gives_it_up(view, monkeypatch):
    view.view.developing.seconds = 30.0  # a machine that stops for a moment does not come to its end
    press(view, "selenium")
    view.easel.setFocus()
    QTest.keyPress(view.easel, KEY.Key_H)
    assert view.view.strength < 30
    view.qtbot.waitUntil(lambda: view.view.strength > 2)
    QTest.keyRelease(view.easel, KEY.Key_H)
    kept = view.view.strength
    assert 2 < kept < 100
    view.settle()
    QTest.keyPress(view.easel, KEY.Key_H)
    QTest.qWait(60)
    QTest.keyClick(view.easel, KEY.Key_Escape)
    QTest.keyRelease(view.easel, KEY.Key_H)
    assert view.view.strength == kept
    assert view.view.trial is not None


def test_strengths_worth_trying_change_what_is_used_and_not_the_recipe(view):
    press(view, "night")
    tries = view.view.page.tries
    run = find("night", bundled()).script.passes
    assert {run[k].kind for k in tries} == set(find("night", bundled()).tries)
    place = next(iter(tries))
    slider = tries[place]
    view.type(slider, "12")
    assert view.easel.shown().passes[place].strength == 12
    view.view.use()
    assert view.desk.script.passes[place].strength == 12
    view.window.registry.go(view.window.recipes)
    view.settle()
    press(view, "night")
    assert view.easel.shown().passes == run


def test_keys_step_through_the_recipes_and_escape_goes_back(view):
    view.key(KEY.Key_Right, on=view.view.grid)
    view.key(KEY.Key_Return, on=view.view.grid)
    words = view.view.grid.shown()
    assert view.view.trial.word == words[1]
    view.key(KEY.Key_Right)
    assert view.view.trial.word == words[2]
    view.key(KEY.Key_Left)
    view.key(KEY.Key_Left)
    view.key(KEY.Key_Left)
    assert view.view.trial.word == words[0]
    view.key(KEY.Key_Escape)
    assert view.view.trial is None
    assert view.view.grid.isVisible()
    view.key(KEY.Key_Escape, on=view.view.grid)
    assert view.window.registry.view is view.window.bench
    assert view.easel.shown() == view.desk.script


def test_groups_and_search_choose_what_is_on_the_sheet(view):
    view.view.groups.choose("metal")
    assert {find(word, bundled()).group for word in view.view.grid.shown()} == {"metal"}
    view.view.groups.choose("all")
    view.view.groups.search.setFocus()
    QTest.keyClicks(view.view.groups.search, "duotone")
    assert set(view.view.grid.shown()) == {"duo-blue", "duo-green", "duo-warm"}
    QTest.keyClicks(view.view.groups.search, "zzz")
    assert view.view.grid.shown() == []
    view.key(KEY.Key_Escape, on=view.view.groups.search)
    assert len(view.view.grid.shown()) == len(cookbook.bundled())


def test_keys_of_the_bench_do_nothing_to_the_print_here(view):
    press(view, "eye")
    before = view.desk.script
    for key in (
        KEY.Key_X,
        KEY.Key_D,
        KEY.Key_N,
        KEY.Key_M,
        KEY.Key_T,
        KEY.Key_A,
        KEY.Key_Delete,
        KEY.Key_0,
        KEY.Key_Up,
    ):
        view.key(key)
    assert view.desk.script == before
    assert not view.easel.stencil.on


def test_another_photograph_or_frame_means_other_pictures(view, tmp_path):
    from PIL import Image

    before = view.view.grid.picture("eye").size()
    tall = tmp_path / "tall.png"
    Image.new("RGB", (120, 240), "#802010").save(tall)
    view.desk.saved_as(None, view.desk.script)
    view.open(tall)
    after = view.view.grid.picture("eye")
    assert after.size() != before
    assert after.height() > after.width()
    assert set(view.view.grid.shown()) == view.view.grid.pictured()
    view.desk.set_values_at(FRAME, "Quarter turn", turns=1)
    view.settle()
    turned = view.view.grid.picture("eye")
    assert turned.width() > turned.height()


def test_a_photograph_opened_while_one_is_large_is_shown_with_it(view, tmp_path):
    from PIL import Image

    press(view, "eye")
    red = tmp_path / "red.png"
    Image.new("RGB", (120, 80), "#c01010").save(red)
    view.desk.saved_as(None, view.desk.script)
    view.open(red)
    shown = view.easel.image.pixelColor(40, 40)
    assert shown.red() == shown.green() == shown.blue()
    assert shown.red() == pytest.approx(0.2126 * 192 + (0.7152 + 0.0722) * 16, abs=1)  # by the weights of BT.709


def test_values_at_the_pointer_are_those_of_what_is_shown(view):
    press(view, "poster")
    view.move(view.easel, view.easel.from_picture(QPointF(0.5, 0.5)))
    view.settle()
    red, green, blue = (int(v) for v in view.window.foot.values.text().split("print ")[1].split("  ")[0].split())
    assert (red, green, blue) != (red, red, red)  # the poster's own colours; the print itself has none of them
    shown = view.easel.image.pixelColor(view.easel.image.width() // 2, view.easel.image.height() // 2)
    assert abs(shown.red() - red) < 40


# One's own


def named(view, *words):
    for line, word in zip(view.window.book.naming.lines, words, strict=True):
        line.setText(word)
    QTest.keyClick(view.window.book.naming.lines[0], KEY.Key_Return)
    view.settle()


def test_passes_are_kept_renamed_deleted_and_brought_back(bench):
    bench.add("gray-weights", "levels", "curves")
    bench.desk.select(0)
    bench.desk.choose_also(1)
    bench.key(KEY.Key_K)
    named(bench, "Vat blue", "Deep and cold", "Dye works")
    bench.window.registry.go(bench.window.recipes)
    bench.settle()
    view = bench.window.recipes.trials
    assert "vat-blue" in view.grid.shown()
    assert "Dye works" in [view.groups.list.item(k).text() for k in range(view.groups.list.count())]
    view.look("vat-blue")
    assert [recipe.kind for recipe in view.trial.script.passes] == ["gray-weights", "levels"]
    bench.key(KEY.Key_F2)
    assert [line.text() for line in bench.window.book.naming.lines] == ["Vat blue", "Deep and cold", "Dye works"]
    named(bench, "Ferry blue", "", "Dye works")
    assert view.trial.name == "Ferry blue"
    bench.key(KEY.Key_Delete)
    bench.settle()
    assert view.trial is None
    assert "vat-blue" not in view.grid.shown()
    assert not list(folder().iterdir())
    bench.key(KEY.Key_Z, Qt.KeyboardModifier.ControlModifier)
    bench.settle()
    assert "vat-blue" in view.grid.shown()
    assert [recipe.kind for recipe in bench.desk.script.passes] == ["gray-weights", "levels", "curves"]


def test_with_no_pass_chosen_the_whole_run_is_kept_and_with_none_it_is_said(bench):
    bench.key(KEY.Key_K)
    assert "no pass" in bench.window.foot.message.text()
    bench.add("gray-weights", "levels")
    bench.desk.select(-2)
    bench.key(KEY.Key_K)
    named(bench, "", "", "")
    bench.settle()
    (file,) = folder().iterdir()
    data = json.loads(file.read_text())
    assert [recipe["pass"] for recipe in data["passes"]] == ["gray-weights", "levels"]
    assert data["recipe"]["name"] == "Levels"


def test_those_that_ship_can_be_exported_and_imported_but_not_renamed(view, tmp_path, monkeypatch):
    out = tmp_path / "out.json"
    press(view, "night")
    view.key(KEY.Key_F2)
    assert "keeps its name" in view.window.foot.message.text()
    view.key(KEY.Key_Delete)
    assert "own" in view.window.foot.message.text()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(out.with_suffix("")), ""))
    view.view.page.words["send_out"].click()
    view.settle()
    assert json.loads(out.read_text())["recipe"]["name"] == "Night vision"
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(out), ""))
    view.view.groups.take_in.click()
    view.settle()
    assert "night-vision" in view.view.grid.shown()
    assert "night-vision" in view.view.grid.pictured()


def test_a_broken_file_is_named_and_a_bad_import_changes_nothing(bench, tmp_path):
    folder().mkdir(parents=True)
    (folder() / "half.json").write_text("{")
    bench.window.registry.go(bench.window.recipes)
    bench.settle()
    assert "half.json" in bench.window.recipes.trials.groups.broken.text()
    assert "half.json" in bench.window.foot.message.text()
    bad = tmp_path / "bad.json"
    bad.write_text('{"kyanoscript": 1, "passes": []}')
    bench.window.book.bring_in(bad)
    bench.settle()
    assert "bad.json" in bench.window.foot.message.text()
    assert [file.name for file in folder().iterdir()] == ["half.json"]


def test_without_a_photograph_there_is_nothing_to_show_recipes_on(bare):
    bare.window.masthead.views[bare.window.recipes].click()
    assert bare.window.registry.view is bare.window.bench
    assert not bare.window.masthead.views[bare.window.recipes].isChecked()
    assert "photograph first" in bare.window.foot.message.text()


def test_only_the_print_works_here_too(view):
    press(view, "eye")
    view.window.looking.only_print()
    assert not view.view.below.isVisible()
    assert view.easel.isVisible()
    view.window.looking.only_print()
    assert view.view.below.isVisible()
    assert not view.ladder.isVisible()


def test_what_is_large_is_there_again_after_another_view(view):
    trials = view.view
    press(view, trials.grid.shown()[3])
    word = trials.trial.word
    trials._try(None, 60.0)
    view.window.registry.go(view.window.states)
    assert trials.trial is None
    view.window.registry.go(view.window.recipes)
    view.settle()
    assert (trials.trial.word, trials.strength) == (word, 60.0)
    assert trials.page.whole.value == 60.0
    trials.use()  # on the bench it is what it was
    view.window.registry.go(view.window.recipes)
    assert trials.trial is None


def test_of_another_photograph_nothing_is_large_again(view, tmp_path):
    press(view, view.view.grid.shown()[3])
    view.window.registry.go(view.window.bench)
    other = tmp_path / "other.png"
    Image.fromarray(make_colourful(60, 90)).save(other)
    view.desk.saved_as(tmp_path / "saved.kyano", view.desk.whole)
    view.open(other)
    view.window.registry.go(view.window.recipes)
    assert view.view.trial is None
