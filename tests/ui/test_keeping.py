"""Nothing is lost: the journal, taking work up after a crash, history, recent files, the look that is kept."""

import json
import os
import signal
import subprocess
import sys
import time

import pytest
from PySide6.QtCore import Qt

from kyanoscript import demo
from kyanoscript.core.passes.tone.levels import Levels
from kyanoscript.core.script import Script, loads
from kyanoscript.files.base.places import folder
from kyanoscript.files.kept.journal import Journal, find_lost
from kyanoscript.files.kept.remembered import Remembered, recall, remember
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.widgets import theme
from tests.ui.conftest import Bench

WORKING = """
import sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
app = QApplication([])
theme.apply(app)
window = Window()
window.show()
window.opening.open(Path(sys.argv[1]))
settle(window)
window.bench.passes.add("levels")
window.desk.set_values("Levels: middle", gamma=1.7)
print("working", flush=True)
end = time.monotonic() + 600
while time.monotonic() < end:
    app.processEvents()
    time.sleep(0.01)
"""


def test_work_comes_back_after_the_program_was_killed(qtbot, photo):
    """Killed in the middle of work: the next start offers it, nothing older than ten seconds is lost."""
    process = subprocess.Popen([sys.executable, "-c", WORKING, str(photo)], stdout=subprocess.PIPE, text=True)
    assert process.stdout.readline().strip() == "working"
    began = time.monotonic()
    while not list((folder() / "journal").glob("*.json")) and time.monotonic() < began + 240:
        time.sleep(0.05)
    process.send_signal(signal.SIGKILL)
    process.wait()
    process.stdout.close()
    window = Window()
    window.show()
    window.keeper.look()
    settle(window)
    assert window.recovery.isVisible()
    assert "landing.png" in window.recovery.words.text()
    window.recovery.take_up.click()
    settle(window)
    assert window.desk.photo.path == photo
    assert [p.kind for p in window.desk.script.passes] == ["levels"]
    assert window.desk.script.passes[0].gamma == 1.7
    assert window.desk.edited  # it still has to be saved
    assert not window.recovery.isVisible()
    assert len(list((folder() / "journal").glob("*.json"))) == 1  # this window's own now
    window.desk.saved_as(None, window.desk.script)
    window.close()
    assert not list((folder() / "journal").iterdir())


def test_a_living_programs_work_is_not_offered_to_another(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "other"))
    journal = Journal()
    journal.write(tmp_path / "a.png", Script((Levels(),)), tmp_path / "a.kyano", "0f" * 32)
    assert find_lost() is None
    journal.let_go()  # as when its program is gone
    lost = find_lost()
    assert lost.script == Script((Levels(),))
    assert (lost.photo, lost.file, lost.digest) == (tmp_path / "a.png", tmp_path / "a.kyano", "0f" * 32)
    lost.drop()
    assert find_lost() is None


@pytest.mark.parametrize("text", ["", "{", "[]", '{"photo": 3}', '{"photo": "a", "script": {"kyanoscript": 99}}'])
def test_a_damaged_journal_stops_nothing(tmp_path, monkeypatch, text):
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "other"))
    (folder() / "journal").mkdir(parents=True)
    (folder() / "journal" / "1-a.json").write_text(text)
    assert find_lost() is None


def test_the_journal_follows_the_work_and_goes_when_it_is_saved(bench: Bench, tmp_path):
    bench.add("levels")
    bench.window.keeper.write()
    bench.settle()
    (file,) = (folder() / "journal").glob("*.json")
    assert loads(json.dumps(json.loads(file.read_text())["script"])) == bench.desk.script
    bench.window.saving.save_to(tmp_path / "a.kyano")
    bench.settle()
    bench.window.keeper.write()
    bench.settle()
    assert not file.exists()


def test_a_state_folder_that_cannot_be_written_is_said_once(bench: Bench, monkeypatch, tmp_path):
    blocked = tmp_path / "file"
    blocked.write_text("")
    bench.window.keeper.journal.path = blocked / "journal" / "a.json"
    bench.add("levels")
    bench.window.keeper.write()
    bench.settle()
    assert "cannot be kept safe" in bench.said()


def test_history_is_a_list_of_words_that_one_goes_back_in(bench: Bench):
    bench.add("levels", "gradient-map")
    bench.desk.select(0)
    bench.type("gamma", "1.4")
    bench.window.bench.show_history()
    shown = bench.window.bench.history.list
    words = [shown.item(k).text() for k in range(shown.count())]
    assert words == ["Open", "Add Levels", "Add Gradient map", "Levels: all middle"]
    shown.setCurrentRow(1)
    assert [p.kind for p in bench.desk.script.passes] == ["levels"]
    assert bench.desk.script.passes[0].gamma == 1
    shown.setCurrentRow(3)
    assert bench.desk.script.passes[0].gamma == 1.4
    bench.window.bench.history.close()


def test_recent_files_are_kept_and_the_demo_is_not_among_them(bench: Bench, photo):
    bench.open(demo.photo())
    bench.settle()
    assert recall().recent == (str(photo),)
    assert [a.text() for a in bench.window.menus.recent.actions()] == [photo.name]


def test_look_and_size_are_as_they_were_left(qtbot, photo):
    window = Window(Remembered(size=(1100, 700)))
    window.show()
    assert (window.width(), window.height()) == (1100, 700)
    window.looking.safelight()
    window.close()
    state = recall()
    assert (state.look, state.size) == ("safelight", (1100, 700))
    again = Window(state)
    assert theme.colour("text").name() == "#e3a857"
    again.looking.safelight()
    assert theme.colour("text").name() == "#1c1c1c"
    again.close()


@pytest.mark.parametrize("text", ["", "[]", '{"size": "x", "recent": 5, "look": "neon"}', '{"size": [1, 1]}'])
def test_what_is_remembered_may_be_damaged(tmp_path, monkeypatch, text):
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "other"))
    folder().mkdir(parents=True)
    (folder() / "remembered.json").write_text(text)
    state = recall()
    assert state.look == "daylight"
    assert state.size[0] >= 960
    remember(state)
    assert recall() == state
    assert os.listdir(folder()) == ["remembered.json"]


def test_l_changes_the_look(bench: Bench):
    before = theme.colour("panel").name()
    bench.key(Qt.Key.Key_L)
    assert theme.colour("panel").name() != before
    bench.key(Qt.Key.Key_L)
    assert theme.colour("panel").name() == before
