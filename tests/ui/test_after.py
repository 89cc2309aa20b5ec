"""A print that is followed, in the window: dropped, looked at beside this photograph, ticked, used."""

from pathlib import Path

import numpy as np
import pytest
import skimage.data
import tifffile
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent

from kyanoscript import render
from kyanoscript.cli import main
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script
from kyanoscript.files.kept.cookbook import folder
from kyanoscript.files.kept.recipes import Recipe, written
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.widgets import theme
from tests.ui.conftest import Bench

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def coffee(bench: Bench, tmp_path):
    """A photograph on the bench, and a print of it in a file."""
    file = tmp_path / "coffee.tif"
    tifffile.imwrite(file, skimage.data.coffee(), photometric="rgb")
    bench.open(file)
    bench.settle()
    bench.print_file = tmp_path / "earlier.jpg"
    bench.other_file = tmp_path / "cat.tif"
    tifffile.imwrite(bench.other_file, skimage.data.chelsea(), photometric="rgb")
    assert main(["render", str(file), "--recipe", "sepia-bath", "-o", str(bench.print_file)]) == 0
    return bench


@pytest.fixture
def following(coffee: Bench):
    """It is followed."""
    coffee.window.recipes.follow(coffee.print_file)
    coffee.following = coffee.window.recipes.following
    seen(coffee)
    return coffee


def seen(bench):
    until(lambda: bench.window.recipes.following.running is None, 60)
    assert bench.window.recipes.following.running is None
    bench.settle()


def drop(bench, file, modifiers):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    event = QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, modifiers)
    bench.window.dropEvent(event)


def test_a_print_dropped_with_ctrl_is_followed_and_without_is_opened(coffee: Bench):
    before = coffee.desk.photo.path
    drop(coffee, coffee.print_file, CTRL)
    assert coffee.window.recipes.follows
    seen(coffee)
    assert coffee.desk.photo.path == before
    assert coffee.window.recipes.following.followed.same
    drop(coffee, coffee.print_file, Qt.KeyboardModifier.NoModifier)
    until(lambda: coffee.desk.photo.path == coffee.print_file, 30)
    assert coffee.desk.photo.path == coffee.print_file
    assert not coffee.window.recipes.follows


def test_both_prints_hang_with_their_ladders(following: Bench):
    pair = following.following.pair
    shown = pair.still.grab().toImage()
    place = pair.still.place().center()
    ratio = shown.devicePixelRatio()
    ink = shown.pixelColor(int(place.x() * ratio), int(place.y() * ratio))
    assert ink.name() != theme.MATS[pair.still.mat].lower()
    assert pair.theirs.ladder.tinted
    until(lambda: pair.own.ladder is not None, 30)
    assert abs(pair.own.ladder.at(50.0)[1] - pair.theirs.ladder.at(50.0)[1]) < 2  # b*: both are sepia
    assert len(pair.wall.frames) == 1
    bar = pair.theirs.grab().toImage()
    white = bar.pixelColor(int(40 * ratio), int(12 * ratio))
    black = bar.pixelColor(int(40 * ratio), int((pair.theirs.height() - 12) * ratio))
    assert white.lightness() > 225 > 40 > black.lightness()


def test_a_printmaker_follows_an_earlier_print_and_goes_on_from_it(following: Bench):
    """The recipe is known by its tints; used, it is the run, and one undo away from what was there."""
    page = following.following.page
    assert page.ticks["recipe"].isChecked()
    assert not page.ticks["weights"].isEnabled()
    following.click(page.words["use"], QPointF(5, 5))
    following.settle()
    assert following.window.registry.view is following.window.bench
    kinds = [step.kind for step in following.desk.script.passes]
    assert kinds == ["gray-weights", "levels", "toner-bath"]
    assert "After earlier.jpg" in following.said()
    following.desk.undo()
    assert following.desk.script.passes == ()


def test_without_the_recipe_each_thing_is_a_pass_of_its_own(following: Bench):
    page = following.following.page
    page.ticks["recipe"].click()
    following.settle()
    page = following.following.page
    assert page.ticks["weights"].isChecked()
    assert page.ticks["tint"].isChecked()
    run = [step.kind for step in following.following.script().passes]
    assert run[0] == "gray-weights"
    assert "curves" in run
    page.sliders["tint"]._announce(40.0)
    following.settle()
    assert following.following.script().passes[-1].strength == 40
    assert following.following.pair.wall.pieces[0].script.passes[-1].strength == 40
    own = following.following.pair.own
    until(lambda: own.ladder is not None and own.ladder.at(50.0)[1] > 3, 30)
    assert own.ladder.at(50.0)[1] > 3
    page.ticks["tint"].click()
    following.settle()
    until(lambda: not own.ladder.tinted, 30)
    assert not own.ladder.tinted  # the ladder beside it is the one of what hangs there now
    assert not {"gradient-map", "paper-tone"} & {step.kind for step in following.following.script().passes}


def test_another_scene_is_told_and_its_tones_are_only_offered(coffee: Bench):
    coffee.open(coffee.other_file)
    coffee.settle()
    coffee.window.recipes.follow(coffee.print_file)
    seen(coffee)
    following = coffee.window.recipes.following
    assert not following.followed.same
    assert not following.page.ticks["tones"].isChecked()
    following.tick("recipe", False)
    coffee.settle()
    following.page.ticks["tones"].click()
    coffee.settle()
    assert "curves" in [step.kind for step in following.script().passes]


def test_a_colour_photograph_as_the_print_is_told(coffee: Bench):
    coffee.window.recipes.follow(coffee.other_file)
    seen(coffee)
    following = coffee.window.recipes.following
    assert list(following.page.ticks) == ["tones"]
    assert not following.page.words["use"].isEnabled()


def test_what_is_no_picture_is_named_and_everything_stays(coffee: Bench, tmp_path):
    wrong = tmp_path / "letter.jpg"
    wrong.write_text("no picture")
    coffee.window.recipes.follow(wrong)
    seen(coffee)
    assert not coffee.window.recipes.follows
    assert "letter.jpg" in coffee.said()
    coffee.window.recipes.follow(tmp_path / "gone.jpg")
    seen(coffee)
    assert "gone.jpg" in coffee.said()
    assert coffee.desk.script == Script()


def test_escape_leaves_it_while_it_is_looked_at_and_after(coffee: Bench):
    recipes = coffee.window.recipes
    recipes.follow(coffee.print_file)
    coffee.key(Qt.Key.Key_Escape, on=recipes.following.pair.wall)
    assert not recipes.follows
    coffee.settle()
    assert recipes.following.followed is None  # what came late is not shown
    recipes.follow(coffee.print_file)
    seen(coffee)
    coffee.key(Qt.Key.Key_Escape, on=recipes.following.pair.wall)
    assert not recipes.follows
    assert coffee.window.registry.view is recipes


def test_the_photograph_is_there_while_its_key_is_held(following: Bench):
    wall = following.following.pair.wall
    (frame,) = wall.frames.values()
    toned = frame.pixels.copy()
    following.following.hold(Script())
    following.settle()
    (frame,) = wall.frames.values()
    assert not np.array_equal(frame.pixels, toned)
    following.following.hold(None)
    following.settle()
    (frame,) = wall.frames.values()
    assert np.array_equal(frame.pixels, toned)


def test_one_s_own_recipe_is_known_too(coffee: Bench, tmp_path):
    """Laid on another picture and printed, it is found again by its tints."""
    passes = load_all()
    run = (
        passes["gray-weights"](),
        passes["gradient-map"](stops=((0.0, "#1a0022"), (60.0, "#7a3a78"), (100.0, "#fff0fa"))),
    )
    own = Recipe("plum", "Plum of the quay", "own", "", (), Script(run))
    folder().mkdir(parents=True)
    (folder() / "plum.json").write_bytes(written(own))
    file = tmp_path / "plum.tif"
    tifffile.imwrite(file, render(skimage.data.chelsea(), Script(run)), photometric="rgb")
    coffee.window.recipes.follow(file)
    seen(coffee)
    assert "Plum of the quay" in coffee.window.recipes.following.followed.found[0].words


def test_the_word_among_the_groups_asks_for_a_picture(coffee: Bench, monkeypatch):
    asked = []
    monkeypatch.setattr(
        "kyanoscript.ui.recipes.after.QFileDialog.getOpenFileName",
        lambda *words: (asked.append(words[1]), (str(coffee.print_file), ""))[1],
    )
    window = coffee.window
    window.registry.go(window.recipes)
    coffee.settle()
    coffee.click(window.recipes.trials.groups.after, QPointF(5, 5))
    seen(coffee)
    assert asked == ["The print to follow"]
    assert window.recipes.following.path == Path(coffee.print_file)
