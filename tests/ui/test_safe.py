"""Nothing lost at the window: the real questions, two hands on one file, what is slow, and what is said.

Longer than most: each thing that could be lost, in one place to look it up.
"""

import json
import os
import re
import subprocess
import sys
import threading
import time
import zipfile

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QPointF, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from kyanoscript import demo
from kyanoscript.core import kernel
from kyanoscript.core.kernel import backends
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import MOST_PASSES, Script
from kyanoscript.files.base import log
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.base.places import folder
from kyanoscript.files.kept.journal import find_lost
from kyanoscript.files.kept.remembered import Remembered
from kyanoscript.files.kept.scriptfile import MIMETYPE, read_script
from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.shell import Shell
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.commands.export_dialog import ExportDialog
from kyanoscript.ui.jobs.lanes import UNFORESEEN, Jobs, Lane
from tests.conftest import make_colourful, package_lacking
from tests.ui.conftest import Bench

RAW = re.compile(r"Error|Exception|Traceback|Rect\(|<class|object at 0x|\bNone\b|errno", re.I)


def answer(word, asked=None):
    """Press a button of the next question, as a person does; what it asked is put into ``asked``."""

    def press():
        box = QApplication.activeModalWidget()
        if not isinstance(box, QMessageBox):
            QTimer.singleShot(20, press)
            return
        if asked is not None:
            asked.append(f"{box.text()} {box.informativeText()}")
        next(button for button in box.buttons() if button.text().startswith(word)).click()

    QTimer.singleShot(20, press)


@pytest.fixture
def second(qtbot):
    """Other windows, closed at the end."""
    made = []

    def open_on(path):
        window = Window()
        window.show()
        made.append(window)
        window.opening.open(path)
        settle(window, 240)
        return window

    yield open_on
    for window in made:
        window.desk.saved_as(window.desk.file, window.desk.script)
        window.close()


# Leaving


@pytest.mark.parametrize("how", ["close", "key", "another"])
def test_save_in_the_question_saves_and_goes_on(qtbot, photo, tmp_path, monkeypatch, how):
    target = tmp_path / "kept.kyano"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", staticmethod(lambda *_a, **_k: (str(target), "")))
    shell, window = Shell(Remembered()), Window()
    shell.show()
    shell.hold(window)
    window.opening.open(photo)
    settle(window, 240)
    window.bench.passes.add("levels")
    asked = []
    answer("Save", asked)
    if how == "another":
        window.opening.open(demo.photo("carved-head"))
        settle(window, 240)
        assert window.desk.photo.path.stem == "carved-head"
        shell.close()
    elif how == "close":
        shell.close()
    else:
        shell.activateWindow()
        qtbot.waitUntil(shell.isActiveWindow)
        QTest.keyClick(window.easel, Qt.Key.Key_Q, Qt.KeyboardModifier.ControlModifier)
    assert "not saved" in asked[0]
    assert [step.kind for step in read_script(target).script.passes] == ["levels"]
    assert not shell.isVisible()


def test_staying_leaves_everything_as_it_is(bench: Bench):
    bench.add("levels")
    answer("Stay")
    assert not bench.window.close()
    assert bench.window.isVisible()
    assert bench.desk.edited
    bench.add("grain")  # and work goes on
    assert len(bench.desk.script.passes) == 2


def test_closing_waits_no_longer_than_two_seconds_without_a_word(qtbot, photo):
    window = Window()
    window.show()
    window.opening.open(photo)
    settle(window, 240)
    gate = threading.Event()
    window.jobs.run(lambda _: gate.wait(600), Lane.LONG)
    qtbot.waitUntil(lambda: Lane.LONG.value in window.jobs.left())
    asked = []
    answer("Leave now", asked)
    began = time.monotonic()
    window.close()
    took = time.monotonic() - began
    assert 1.9 < took < 600  # what it waited for has not come
    gate.set()
    assert "writing a print" in asked[0]
    assert window.left_behind


# Lanes


def test_a_long_export_does_not_hold_up_the_journal_or_saving(bench: Bench, tmp_path):
    gate = threading.Event()
    bench.window.jobs.run(lambda _: gate.wait(30), Lane.LONG)
    bench.window.jobs.run(lambda _: gate.wait(30), Lane.READ)
    bench.window.bench.passes.add("levels")
    written = []
    bench.window.keeper.write().done.connect(written.append)
    bench.window.saving.save_to(tmp_path / "a.kyano").done.connect(written.append)
    bench.qtbot.waitUntil(lambda: len(written) == 2)
    gate.set()
    bench.settle()
    assert read_script(tmp_path / "a.kyano").script == bench.desk.script


def test_jobs_of_one_lane_keep_their_order(qtbot):
    jobs, done = Jobs(), []
    for k in range(20):
        jobs.run(lambda _, k=k: done.append(k))
    qtbot.waitUntil(lambda: len(done) == 20)
    assert done == list(range(20))
    jobs.stop()


def test_saving_renders_nothing(bench: Bench, tmp_path, monkeypatch):
    """Its small picture is the one that is on the screen."""
    bench.add("levels", "grain")

    def never(*_a, **_k):
        raise AssertionError("saving rendered the print anew")

    with monkeypatch.context() as held:
        held.setattr(Renderer, "region", never)
        bench.window.saving.save_to(tmp_path / "a.kyano")
        bench.qtbot.waitUntil(lambda: not bench.window.jobs.busy)
    with zipfile.ZipFile(tmp_path / "a.kyano") as archive:
        (tmp_path / "p.png").write_bytes(archive.read("preview.png"))
    small = np.asarray(Image.open(tmp_path / "p.png").convert("RGB")).astype(int)
    shown = bench.window.saving.drawn().print[..., 2::-1].astype(int)
    assert np.array_equal(small, shown)


# Two hands on one file


def test_two_windows_on_one_script_are_told_of_each_other(bench: Bench, second, tmp_path):
    file = tmp_path / "print.kyano"
    bench.add("levels")
    bench.window.saving.save_to(file)
    bench.settle()
    other = second(file)
    bench.add("grain")
    bench.window.saving.save()
    bench.settle()
    other.bench.passes.add("border")
    asked = []
    answer("Stay", asked)
    other.saving.save()
    settle(other, 240)
    assert "changed by another program or window" in asked[0]
    assert [p.kind for p in read_script(file).script.passes] == ["levels", "grain"]
    assert other.desk.edited
    answer("Replace it")
    other.saving.save()
    settle(other, 240)
    assert [p.kind for p in read_script(file).script.passes] == ["levels", "border"]
    assert not other.desk.edited


def test_two_saves_in_a_row_are_no_strangers_to_each_other(bench: Bench, tmp_path):
    file = tmp_path / "print.kyano"
    bench.add("levels")
    bench.window.saving.save_to(file)
    bench.settle()
    for gamma in (1.2, 1.4, 1.6):
        bench.desk.set_values("Levels", gamma=gamma)
        bench.window.saving.save()
        bench.window.saving.look_again()
    bench.settle()
    assert bench.said() == "Saved print.kyano"
    assert read_script(file).script.passes[0].gamma == 1.6


def test_work_that_is_given_up_for_a_strangers_script_is_asked_about_once(bench: Bench, tmp_path):
    (tmp_path / "home").mkdir()
    file = tmp_path / "home" / "s.json"
    plate = {"pass": "plate", "source": "picture", "picture": "../other.png"}
    Image.fromarray(make_colourful(20, 30)).save(tmp_path / "other.png")
    file.write_text(json.dumps({"kyanoscript": 1, "passes": [plate]}))
    bench.add("levels")
    asked = []
    answer("Go on", asked)
    bench.window.opening.open(file)
    answer("Leave them out", asked)
    bench.qtbot.waitUntil(lambda: len(asked) == 2)
    bench.settle()
    assert [p.kind for p in bench.desk.script.passes] == ["plate"]
    assert "left out" in bench.said()


def test_a_changed_script_or_photograph_is_told_when_one_comes_back(bench: Bench, photo, tmp_path):
    bench.add("levels")
    bench.window.saving.save_to(tmp_path / "a.kyano")
    bench.settle()
    bench.window.saving.look_again()
    bench.settle()
    assert "changed" not in bench.said()
    Image.fromarray(make_colourful(24, 36)).save(photo)
    bench.window.saving.look_again()
    bench.settle()
    assert "has changed on the disk" in bench.said()


def test_a_photograph_replaced_while_open_is_asked_about_and_keeps_its_own_mark(bench: Bench, photo, tmp_path):
    was = sha256(photo)
    bench.add("levels")
    photo.unlink()
    Image.fromarray(make_colourful(24, 36)).save(photo)
    asked = []
    answer("Save all", asked)
    bench.window.saving.save_to(tmp_path / "a.kyano")
    bench.qtbot.waitUntil(lambda: (tmp_path / "a.kyano").exists())
    bench.settle()
    assert "not the photograph on the bench" in asked[0]
    assert read_script(tmp_path / "a.kyano").photo.sha256 == was
    bench.window.saving.save_to(tmp_path / "b.kyano")  # asked once
    bench.settle()
    assert (tmp_path / "b.kyano").exists()


def test_a_photograph_moved_while_open_can_still_be_saved(bench: Bench, photo, tmp_path):
    was = sha256(photo)
    bench.add("levels")
    photo.rename(tmp_path / "hidden.png")
    bench.window.saving.save_to(tmp_path / "a.kyano")
    bench.settle()
    assert bench.said() == "Saved a.kyano"
    assert read_script(tmp_path / "a.kyano").photo.sha256 == was


# Strangers


@pytest.mark.parametrize("word", ["Use them", "Leave them out", "Do not open it"])
def test_pictures_outside_a_scripts_folder_are_asked_about_once(bench: Bench, tmp_path, word):
    home, away = tmp_path / "home", tmp_path / "away"
    home.mkdir()
    away.mkdir()
    secret = away / "secret.png"
    Image.fromarray(np.full((20, 30, 3), (250, 0, 0), np.uint8)).save(secret)
    Image.fromarray(make_colourful(60, 90)).save(home / "photo.png")
    plate = {"pass": "plate", "source": "picture", "picture": str(secret), "size": 100}
    file = home / "print.kyano"
    with zipfile.ZipFile(file, "w") as made:
        made.writestr("mimetype", MIMETYPE)
        made.writestr("script.json", json.dumps({"kyanoscript": 1, "passes": [plate]}))
        reference = {"path": "photo.png", "sha256": sha256(home / "photo.png"), "width": 90, "height": 60}
        made.writestr("photo.json", json.dumps(reference))
    asked = []
    answer(word, asked)
    bench.open(file)
    bench.qtbot.waitUntil(lambda: bool(asked))
    bench.settle()
    assert str(secret) in asked[0]
    if word == "Do not open it":
        assert bench.desk.photo.path.name == "landing.png"
        return
    assert bench.desk.photo.path == home / "photo.png"
    red = bench.print_at(0.5, 0.5)[0] > 240 and bench.print_at(0.5, 0.5)[1] < 10
    assert red == (word == "Use them")
    if word == "Use them":
        bench.open(file)  # not asked again
        assert bench.desk.photo.path == home / "photo.png"
    else:
        assert "secret.png is left out" in bench.said()


def test_a_script_that_names_a_pipe_hangs_nothing(bench: Bench, tmp_path):
    os.mkfifo(tmp_path / "pipe.jpg")
    with zipfile.ZipFile(tmp_path / "f.kyano", "w") as made:
        made.writestr("mimetype", MIMETYPE)
        made.writestr("script.json", '{"kyanoscript": 1}')
        made.writestr("photo.json", json.dumps({"path": "pipe.jpg", "sha256": "0", "width": 1, "height": 1}))
    bench.open(tmp_path / "f.kyano")
    assert "pipe" in bench.said()
    bench.add("levels")
    bench.window.saving.save_to(tmp_path / "after.kyano")
    bench.settle()
    assert (tmp_path / "after.kyano").exists()


# Nothing raw


def test_what_nobody_foresaw_is_said_in_words_and_stands_in_the_log(bench: Bench, monkeypatch):
    def broken(*_a, **_k):
        raise KeyError("some inner name")

    bench.window.jobs.run(broken).failed.connect(bench.window.foot.say)
    bench.settle()
    assert bench.said() == UNFORESEEN
    assert "some inner name" in log.path().read_text()
    monkeypatch.setattr(Renderer, "region", broken)
    bench.desk.set_values_at(-1, "Frame", tilt=3.0)
    bench.settle()
    assert "stands in the log" in bench.said()
    assert not RAW.search(bench.said())


@pytest.mark.parametrize("how", ["split", "side by side"])
@pytest.mark.parametrize("change", [{"ratio": "5:4"}, {"ratio": "free", "width": 70.0, "height": 70.0}, {"turns": 1}])
def test_the_frame_changes_while_the_photo_is_held_beside_it(bench: Bench, how, change):
    failed = []
    bench.window.service.failed.connect(failed.append)
    bench.add("levels")
    bench.easel.set_compare(how)
    bench.settle()
    bench.window.looking.hold_photo()
    bench.settle()
    bench.desk.set_values_at(-1, "Frame", **change)
    bench.settle()
    assert bench.easel.other().frame == bench.easel.shown().frame
    bench.window.easel.hold(None)
    bench.settle()
    bench.desk.undo()
    bench.settle()
    assert failed == []
    assert not log.path().exists()


def test_zones_and_spots_beyond_the_print_are_no_errors(bench: Bench):
    failed = []
    bench.window.service.failed.connect(failed.append)
    bench.add("levels")
    bench.desk.set_values_at(-1, "crop", ratio="free", width=60.0, height=55.0, x=30.0, y=30.0)
    bench.settle()
    bench.desk.select(-1)  # the frame's tray: everything is shown
    bench.settle()
    bench.easel.hold_zone(5)
    bench.settle()
    bench.easel.hold_zone(None)
    bench.desk.select(0)
    bench.settle()
    bench.easel.stencil.switch(True)
    bench.settle()
    for hand in ("tones", "hues"):
        bench.hand(hand)
        for x, y in ((3, 3), (bench.easel.width() - 3, bench.easel.height() - 3)):
            bench.click(bench.easel, QPointF(x, y))
            bench.settle()
    assert failed == []
    assert not log.path().exists()


# Hands that come too late


def test_the_blend_chooser_opens_beside_a_stencils_page(bench: Bench):
    bench.add("levels")
    bench.easel.stencil.switch(True)
    bench.settle()
    bench.window.bench.passes.choosers.choose_blend()
    assert bench.window.bench.passes.choosers.present.isVisible()
    bench.window.bench.passes.choosers.present.close()


def test_a_colour_picked_for_a_page_that_is_gone_goes_nowhere(bench: Bench):
    bench.add("gradient-map")
    bench.slip.editors["stops"].colour.pick_word.click()
    assert bench.easel.picker.active
    bench.add("levels")
    assert not bench.easel.picker.active
    before = bench.desk.script
    bench.click(bench.easel, bench.on_print(0.5, 0.5))
    bench.settle()
    assert bench.desk.script == before


def test_a_slider_still_held_when_another_print_arrives_is_let_go(bench: Bench, photo):
    bench.add("levels")
    slider = bench.slip.sliders["gamma"]
    left, right, y = slider.track()
    bench.press(slider, QPointF(slider.handle_x(), y))
    bench.move(slider, QPointF((left + right) / 2, y))
    bench.desk.open(bench.desk.photo, Script())
    bench.window.bench.passes.add("grain")
    before = bench.desk.script
    bench.move(slider, QPointF(right, y))
    bench.release(slider, QPointF(right, y))
    bench.settle()
    assert bench.desk.script == before


def test_keys_without_a_number_are_let_go_without_a_fault(bench: Bench):
    """As a key that switches the keyboard's layout is."""
    event = QKeyEvent(QEvent.Type.KeyRelease, 0, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(bench.easel, event)
    bench.key(Qt.Key.Key_O)  # and held keys work as before
    assert bench.easel.held is None


def test_a_script_grows_no_longer_than_can_be_read_again(bench: Bench):
    bench.window.bench.passes.add("levels")
    step = bench.desk.script.passes[0]
    bench.desk.change("many", Script((step,) * MOST_PASSES))
    bench.desk.change("one more", Script((step,) * (MOST_PASSES + 1)))
    assert len(bench.desk.script.passes) == MOST_PASSES
    assert f"{MOST_PASSES} passes" in bench.said()
    bench.desk.change("few", Script((step,)))


# On the screen


def test_the_export_dialog_shows_what_means_something_and_keeps_what_is_said(bench: Bench, tmp_path):
    dialog = ExportDialog(bench.window, tmp_path / "a.tif", (2400, 1600), Settings(quality=80), 240.0)
    dialog.show()
    page = dialog.page

    def seen():
        return {name for name, row in page.rows.items() if row.isVisible()}

    always = {"ppi", "notes"}
    assert seen() == {"compression", *always}
    assert (page.sliders["ppi"].text(), dialog.result_settings()[1].longer_side) == ("240 ppi", None)
    dialog.format.setCurrentText("JPEG")
    assert seen() == {"quality", "dither", *always}
    bench.type(page.sliders["quality"], "91")
    page.editors["dither"].click()
    dialog.reduce.click()
    assert seen() == {"quality", "dither", "longer_side", *always}
    assert page.sliders["longer_side"].text() == "2048 px"
    bench.type(page.sliders["longer_side"], "9000")  # more than there is
    assert "goes from 1 to 2400" in dialog.said.text() or page.sliders["longer_side"].value == 2400
    bench.type(page.sliders["longer_side"], "1200")
    bench.type(page.sliders["ppi"], "300")
    assert dialog.said.text().startswith("1200 × 800 pixels, 102 × 68 mm")
    page.editors["notes"].setCurrentIndex(2)
    target, settings = dialog.result_settings()
    assert target == tmp_path / "a.jpg"
    assert settings == Settings(bits=8, quality=91, dither=False, longer_side=1200, ppi=300.0, notes="rights")
    dialog.close()


def test_a_profile_s_file_is_chosen_for_export_or_the_one_before_stays(bench: Bench, tmp_path, monkeypatch):
    dialog = ExportDialog(bench.window, tmp_path / "a.tif", (2400, 1600), Settings(profile="srgb"))
    dialog.show()
    rows = dialog.page.rows
    box = dialog.profile
    chosen = ["", str(tmp_path / "Vat.icc")]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (chosen.pop(0), ""))
    for profile, text in (("srgb", "sRGB"), (str(tmp_path / "Vat.icc"), "Vat.icc")):
        box.setCurrentIndex(box.count() - 1)
        box.activated.emit(box.count() - 1)
        assert (dialog.result_settings()[1].profile, box.currentText()) == (profile, text)
    assert rows["intent"].isVisible()
    assert rows["black_point"].isVisible()
    again = ExportDialog(bench.window, tmp_path / "a.tif", (2400, 1600), dialog.result_settings()[1])
    assert again.profile.currentText() == "Vat.icc"
    dialog.close()


def test_prints_of_the_demo_are_proposed_among_the_persons_pictures(bench: Bench, monkeypatch, tmp_path):
    bench.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    proposed = []
    monkeypatch.setattr(ExportDialog, "exec", lambda self: proposed.append(self.target.text()) or 0)
    bench.window.printing.ask_export()
    assert not demo.holds(type(tmp_path)(proposed[0]))
    bench.window.printing.export(tmp_path / "x.png", Settings(longer_side=32))
    bench.settle()
    bench.window.printing.ask_export()
    assert proposed[1].startswith(str(tmp_path))


def test_what_begins_with_the_words_comes_first_in_the_chooser(bench: Bench):
    bench.window.bench.passes.ask_add()
    chooser = bench.window.bench.passes.choosers.present
    for words, first in (("hand", "hand-tint"), ("burn", "dodge-burn"), ("grain", "grain"), ("tone", "toner-bath")):
        chooser.search.setText(words)
        assert chooser.grid.shown()[0] == first
        assert chooser.grid.current == first
    chooser.close()


def test_the_first_start_says_what_is_prepared_and_how_far_it_is(qtbot, tmp_path):
    """In a program of its own that finds only some of its compiled kernels: words on the easel, then the print."""
    names = sorted(backends())
    package = package_lacking(tmp_path, *names[5::6])  # all of them would take half a minute
    code = """
import sys, time
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.service.service import RenderService
from kyanoscript import demo
app = QApplication([]); theme.apply(app)
shares, turns = [], []
start = RenderService.start
def heard(service):  # from before its threads are, and in this thread: after the easel, which has heard it then
    service.preparing.connect(shares.append, Qt.ConnectionType.QueuedConnection)
    start(service)
RenderService.start = heard
window = Window(); window.show()
window.opening.open(demo.photo())
end = time.monotonic() + 600
while window.easel.frame is None and time.monotonic() < end:
    app.processEvents(); time.sleep(0.005)
    if shares and shares[-1] < 1: turns.append(window.easel.preparing)
assert shares[0] == 0 and shares[-1] == 1 and len(shares) > 5 and shares == sorted(shares), shares[:5]
assert window.easel.preparing is None
assert None not in turns, turns  # what the easel shows
print(len(turns))
window.close()
"""
    nothing = {"KYANOSCRIPT_KERNELS": str(tmp_path / "kernels"), "PYTHONPATH": str(package)}
    environment = {**os.environ, **nothing}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment, timeout=240)
    assert done.returncode == 0, done.stderr
    assert int(done.stdout.split()[-1]) > 20  # turns of the window meanwhile: one that is held up has one, or none


def test_memory_is_given_back_after_a_photograph_is_let_go(bench: Bench, monkeypatch):
    given = []
    monkeypatch.setattr(kernel, "give_back", lambda: given.append(True))
    bench.open(demo.photo("carved-head"))
    bench.qtbot.waitUntil(lambda: bool(given))


def test_about_tells_versions_licences_and_the_log(bench: Bench):
    from kyanoscript.ui.widgets.about import TEXTS, About, facts

    dialog = About(bench.window)
    told = dict(facts())
    assert "LGPL 3" in told["Window"]
    assert told["Log"] == str(folder() / "log.txt")
    for k, (words, _) in enumerate(TEXTS):
        dialog.which.setCurrentIndex(k)
        assert len(dialog.text.toPlainText()) > 900, words
    dialog.close()


def test_work_in_the_journal_is_no_older_than_ten_seconds_while_a_print_is_written(bench: Bench, monkeypatch):
    """The export is made to last; the journal goes on being written."""
    gate = threading.Event()
    monkeypatch.setattr("kyanoscript.files.prints.out.export", lambda *_a, **_k: gate.wait(30) and (1, 1))
    bench.window.printing.export(folder() / "x.tif", Settings())
    bench.window.bench.passes.add("levels")
    bench.qtbot.waitUntil(lambda: bool(list((folder() / "journal").glob("*.json"))))
    gate.set()
    bench.settle()
    assert find_lost() is None  # this program lives


@pytest.mark.parametrize("word", ["Import it", "Leave it"])
def test_a_recipe_that_names_a_picture_elsewhere_is_asked_about(bench: Bench, tmp_path, word):
    home = tmp_path / "home"
    home.mkdir()
    file = home / "theirs.json"
    plate = {"pass": "plate", "source": "picture", "picture": "../secret.png"}
    file.write_text(json.dumps({"kyanoscript": 1, "recipe": {"name": "Theirs"}, "passes": [plate]}))
    asked = []
    answer(word, asked)
    bench.window.book.bring_in(file)
    bench.qtbot.waitUntil(lambda: bool(asked))
    bench.settle()
    assert "secret.png" in asked[0]
    assert ("among your recipes" in bench.said()) == (word == "Import it")
