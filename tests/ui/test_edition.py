"""The Edition view: one script over many photographs, told by how it stands with each, whatever happens meanwhile."""

import contextlib
import csv
import json
import multiprocessing
import os
import random
import shutil
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from kyanoscript.core.colour import SRGB, lightness
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import Reading, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, dumps
from kyanoscript.files.editions import manifest as kept
from kyanoscript.files.editions.edition import Edition, recall
from kyanoscript.files.editions.work import done
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.edition import room as rooms
from kyanoscript.ui.edition.record import Record
from kyanoscript.ui.edition.series import State
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.service import display
from tests.conftest import make_colourful
from tests.ui.conftest import Bench

P = load_all()
SCRIPT = Script((P["levels"](auto=True), P["gray-weights"](), P["grain"]()))
KEY = Qt.Key
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def picture(path, k=0, gain=1.0):
    pixels = np.roll(make_colourful(60, 90), 7 * k, 1).astype(float) * gain
    Image.fromarray(np.rint(pixels).astype(np.uint8)).save(path)
    return path


@pytest.fixture
def photos(tmp_path):
    (tmp_path / "in").mkdir()
    return [picture(tmp_path / "in" / f"quay-{k}.png", k) for k in range(5)]


class Editing:
    """What a person does in the view, in few words."""

    def __init__(self, bench: Bench):
        self.bench, self.window = bench, bench.window
        self.window.registry.go(self.window.edition)
        self.room = self.window.edition.room
        self.series, self.work, self.tiles, self.page = (
            self.room.series, self.room.work, self.room.tiles, self.room.page,
        )  # fmt: skip
        bench.settle()

    @property
    def said(self):
        return self.window.foot.message.text()

    def settle(self):
        self.bench.settle()

    def add(self, *paths):
        self.room.setup.add(paths)
        self.settle()

    def put(self, **values):
        assert self.series.put("Something", **values)
        self.settle()

    def whole(self, folder, script=SCRIPT, **more):
        """Photographs, a script and a folder: all that it needs."""
        self.add(folder)
        self.series.whence(script, "the bench, as it was", "bench")
        beside = folder.parent if folder.is_dir() else folder.parent.parent
        self.put(folder=beside / "out", **more)

    def print(self):
        """Press the main word, and wait until it is over."""
        self.begin()
        assert until(lambda: self.work.running is None, 240)
        self.settle()

    def begin(self):
        went = []
        self.work.went.connect(lambda: went.append(True))  # with nothing to do it is over at once
        self.page.words["go"].click()
        assert until(lambda: bool(went), 240)

    def states(self):
        return [tile.state for tile in self.series.tiles()]

    def words(self):
        return [tile.words for tile in self.series.tiles()]

    def key(self, key, modifier=Qt.KeyboardModifier.NoModifier, on=None):
        QTest.keyClick(on or self.tiles, key, modifier)
        self.settle()

    def names(self):
        return [entry.photo.stem for entry in self.series.edition.entries]


@pytest.fixture
def edition(bench: Bench):
    made = Editing(bench)
    yield made
    made.work.stop()  # whatever failed: nothing is asked at the end
    until(lambda: made.work.running is None, 60)


def prints(folder):
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.name != kept.NAME}


def lines(folder):
    """What the manifest tells of prints; a line that is being written while one reads may be half there."""
    whole = (folder / kept.NAME).read_text().rpartition("\n")[0]
    every = [json.loads(line) for line in whole.splitlines()]
    return [line for line in every if line["result"] != "begun"]


# From nothing to prints


def test_it_says_what_is_missing_until_nothing_is(edition, photos):
    go = edition.page.words["go"]

    def missing():
        assert not go.isEnabled()
        return edition.page.problem.text()

    assert "drop them here" in edition.tiles.nothing
    assert missing() == "There are no photographs yet"
    edition.add(photos[0].parent)
    assert edition.said == "Added 5 photographs"
    assert missing() == "Choose what they are printed through"
    box = edition.page.lists["script"]
    at = box.findText("the bench, as it is now")
    box.setCurrentIndex(at)
    box.activated.emit(at)
    edition.settle()
    assert missing() == "Choose the folder that prints go to"
    edition.put(folder=photos[0].parent)
    assert missing() == "Quay-0.png lies in the folder that prints go to; choose another folder"
    edition.put(folder=photos[0].parent.parent / "out")
    assert go.isEnabled()
    assert go.text() == "Print the edition"
    assert not edition.page.problem.isVisible()
    assert edition.words() == ["waiting"] * 5


def test_prints_are_those_of_the_command_line_and_each_is_told(edition, photos, tmp_path):
    edition.whole(photos[0].parent)
    (tmp_path / "out").mkdir()
    expected = [done(task) for task in edition.series.tasks]
    assert {one.result for one in expected} == {"done"}
    whole = prints(tmp_path / "out")
    shutil.rmtree(tmp_path / "out")
    edition.bench.key(KEY.Key_E, CTRL, on=edition.tiles)
    assert until(lambda: edition.work.running is not None, 60)
    assert until(lambda: edition.work.running is None, 240)
    edition.settle()
    assert prints(tmp_path / "out") == whole
    assert len(whole) == 5
    assert edition.words() == ["done"] * 5
    assert edition.said == "The edition: 5 of 5 done"
    assert edition.room.rack.counts.counts[State.DONE] == 5
    assert edition.window.foot.values.text().startswith("5 of 5 done")
    assert sorted(one["file"] for one in lines(tmp_path / "out")) == sorted(whole)
    edition.tiles.choose(2)
    assert edition.page.facts.text().startswith("quay-2.tif, 90 × 60 px, ")


def test_what_is_done_is_not_done_again_and_what_has_changed_is(edition, photos, tmp_path):
    edition.whole(photos[0].parent)
    edition.print()
    before = {path: path.stat().st_mtime_ns for path in (tmp_path / "out").glob("*.tif")}
    picture(photos[3], 9)
    (tmp_path / "out" / "quay-1.tif").unlink()
    edition.series.look()
    edition.settle()
    assert edition.words() == ["done", "changed since", "done", "changed since", "done"]
    assert edition.page.words["go"].text() == "Go on"
    edition.print()
    assert edition.said == "The edition: 2 of 5 done, 3 were there"
    after = {path: path.stat().st_mtime_ns for path in (tmp_path / "out").glob("*.tif")}
    assert {path.name for path in after if after[path] == before.get(path)} == {
        "quay-0.tif",
        "quay-2.tif",
        "quay-4.tif",
    }
    assert len(lines(tmp_path / "out")) == 7


def test_one_that_fails_is_told_with_its_reason_and_tried_again_or_left_out(edition, photos, tmp_path):
    whole = photos[2].read_bytes()
    photos[2].write_bytes(whole[:600])
    edition.whole(photos[0].parent)
    edition.print()
    assert edition.states() == [State.DONE, State.DONE, State.FAILED, State.DONE, State.DONE]
    assert edition.said == "The edition: 4 of 5 done, 1 could not be"
    assert edition.window.foot.message.objectName() == "warning"
    assert "damaged" in edition.words()[2]
    edition.room.filter(State.FAILED)
    assert [tile.name for tile in edition.tiles.tiles] == ["quay-2"]
    assert "damaged" in edition.page.facts.text()
    assert edition.page.facts.objectName() == "warning"
    photos[2].write_bytes(whole)
    edition.page.words["again"].click()
    assert until(lambda: edition.work.running is not None, 60)
    assert until(lambda: edition.work.running is None, 240)
    edition.settle()
    assert edition.states() == [State.DONE] * 5
    assert edition.said == "The edition: 1 of 1 done"
    edition.room.filter(None)
    edition.tiles.choose(4)
    edition.key(KEY.Key_X)
    assert edition.words()[4] == "left out"
    assert edition.window.foot.values.text().startswith("4 of 4 done, 1 left out")
    edition.key(KEY.Key_Z, CTRL)
    assert edition.words()[4] == "done"


def test_photographs_and_a_script_can_be_dropped_on_the_window(edition, photos, tmp_path):
    script = tmp_path / "in" / "quay.json"
    script.write_text(dumps(SCRIPT))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in (photos[1], script, photos[3])])
    args = (Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(edition.window, QDragEnterEvent(QPoint(400, 300), *args))
    QApplication.sendEvent(edition.window, QDropEvent(QPointF(400, 300), *args))
    edition.settle()
    assert edition.names() == ["quay-1", "quay-3"]
    assert edition.series.edition.whence == "quay.json"
    assert edition.series.edition.asked.script.passes == SCRIPT.passes
    assert edition.window.desk.photo.path.name == "landing.png"  # what is on the bench stays there
    edition.add(photos[1], photos[4])
    assert edition.names() == ["quay-1", "quay-3", "quay-4"]
    assert edition.said == "Added 1 photograph; 1 there already"


# Exceptions, match


def test_one_is_changed_on_the_bench_and_kept_for_it_only(edition, photos, tmp_path):
    """Return puts it there as the edition prints it; Shift+S keeps what it has become, and only it is done again."""
    edition.whole(photos[0].parent)
    edition.print()
    before = prints(tmp_path / "out")
    edition.tiles.choose(1)
    edition.key(KEY.Key_Return)
    window, desk = edition.window, edition.window.desk
    assert window.registry.view is window.bench
    assert desk.photo.path == photos[1]
    assert desk.script.passes == SCRIPT.passes
    assert "Shift+S" in edition.said
    desk.set_values_at(0, "Softer", auto=False, gamma=1.7)
    edition.settle()
    edition.key(KEY.Key_S, SHIFT, on=window.easel)
    assert window.registry.view is window.edition
    assert edition.words() == ["done", "changed · exception", "done", "done", "done"]
    assert not desk.edited  # the edition has it: nothing is asked
    assert edition.room.below.title.text() == "quay-1, an exception"
    assert "middle 1 → 1.7" in edition.room.below.words.text()
    edition.print()
    after = prints(tmp_path / "out")
    assert {name for name in after if after[name] != before[name]} == {"quay-1.tif"}
    edition.room.below.as_others.click()
    edition.settle()
    edition.print()
    assert prints(tmp_path / "out") == before


def test_what_is_none_of_the_editions_can_be_no_exception(edition, photos):
    edition.add(photos[0])
    edition.window.registry.go(edition.window.bench)
    edition.key(KEY.Key_S, SHIFT, on=edition.window.easel)
    assert edition.said.startswith("landing.png is none of the edition's photographs")
    assert edition.window.registry.view is edition.window.bench


def test_every_print_is_matched_to_the_chosen_one_as_a_proposal_first(edition, tmp_path):
    """Small pictures show it; held P shows them without; the prints have it, and no match takes it back."""
    (tmp_path / "in").mkdir()
    for k, gain in enumerate((1.0, 0.45, 0.7)):
        picture(tmp_path / "in" / f"quay-{k}.png", gain=gain)
    script = Script(SCRIPT.passes[1:2])
    edition.whole(tmp_path / "in", script)
    edition.tiles.choose(0)
    edition.page.words["match"].click()
    edition.settle()
    wanted = edition.series.edition.tones
    renderer = Renderer(open_photo(tmp_path / "in" / "quay-0.png").source, script)
    tones = lightness(renderer.region(Rect(0, 0, *renderer.size(1.0))), SRGB)
    assert (wanted.mean, wanted.spread) == pytest.approx((tones.mean(), tones.std()), abs=0.01)
    assert f"mean L* {wanted.mean:.0f}, spread {wanted.spread:.0f}" in edition.page.match_words.text()

    def gray(k):
        """The mean gray of a tile as it is drawn."""
        shot = edition.tiles.grab().toImage()
        box = edition.tiles.box(k).toRect()
        return np.mean([shot.pixelColor(box.x() + 20 + 5 * n, box.y() + 40).lightnessF() for n in range(24)])

    entry = edition.series.edition.entries[1]
    small = edition.room.smalls.find(edition.series.small(entry))
    assert small.tones.alike(wanted)
    assert small.script.passes[0].name == "Match"
    matched = gray(1)
    QTest.keyPress(edition.tiles, KEY.Key_P)
    plain = gray(1)
    QTest.keyRelease(edition.tiles, KEY.Key_P)
    assert matched - plain > 0.1
    assert gray(1) == matched
    edition.print()
    for k in range(3):
        pixels = np.atleast_3d(tifffile.imread(tmp_path / "out" / f"quay-{k}.tif")) / 65535
        tones = lightness(np.moveaxis(pixels, 2, 0)[:1], SRGB)
        assert abs(tones.mean() - wanted.mean) < 1.2
        assert tones.std() == pytest.approx(wanted.spread, rel=0.06)
    edition.series.whence(Script((P["gray-weights"](), P["levels"](gamma=1.5))), "the bench, as it was", "bench")
    edition.settle()
    assert edition.series.edition.match == tmp_path / "in" / "quay-0.png"
    assert edition.series.edition.tones.mean > wanted.mean + 3  # those of what it is printed through now
    edition.page.words["unmatch"].click()
    edition.settle()
    assert edition.words() == ["changed since"] * 3
    assert edition.series.tasks[1].match is None


# Numbered prints


def test_numbered_prints_of_one_photograph_with_their_record(edition, photos, tmp_path, monkeypatch):
    edition.whole(photos[0], settings=Edition().settings.with_(ppi=40))
    edition.put(sheet=Sheet().with_values(across=120.0), sheet_name="Small", crop=True)
    edition.put(copies=3, caption="Quay, {n}/{count}", own_grain=True)
    assert [tile.name for tile in edition.series.tiles()] == ["quay-0  1/3", "quay-0  2/3", "quay-0  3/3"]
    assert edition.page.lines["caption"].isVisible()
    edition.print()
    assert [task.sheet.marks.caption for task in edition.series.tasks] == ["Quay, 1/3", "Quay, 2/3", "Quay, 3/3"]
    assert [task.asked.script.passes[-1].seed for task in edition.series.tasks] == [1, 2, 3]
    made = prints(tmp_path / "out")
    assert sorted(made) == ["quay-0-001.tif", "quay-0-002.tif", "quay-0-003.tif"]
    assert len(set(made.values())) == 3
    record = Record(edition.window.context, tmp_path / "out")
    record.ask()
    edition.settle()
    assert record.isVisible()
    assert [record.table.item(row, 1).text() for row in range(3)] == sorted(made)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_a, **_k: (str(tmp_path / "record.csv"), ""))
    record.save.click()
    edition.settle()
    record.close()
    rows = list(csv.DictReader((tmp_path / "record.csv").read_text().splitlines()))
    assert [(row["number"], row["file"], row["result"]) for row in rows] == [
        ("1", "quay-0-001.tif", "done"), ("2", "quay-0-002.tif", "done"), ("3", "quay-0-003.tif", "done"),
    ]  # fmt: skip
    assert all(row["when"].endswith("+00:00") and len(row["file_sha256"]) == 64 for row in rows)


# At work


def test_it_pauses_goes_on_stops_and_is_gone_on_with(edition, photos, tmp_path):
    for k in range(5, 14):
        picture(tmp_path / "in" / f"quay-{k:02}.png", k)
    edition.whole(tmp_path / "in", jobs=1)
    edition.begin()
    rest, foot = edition.window.foot.rest, edition.window.foot
    assert until(lambda: edition.work.share > 0, 240)
    assert rest.isVisible()
    assert foot.cancel.isVisible()
    rest.click()
    assert until(lambda: rest.text() == "Go on", 60)
    assert edition.page.words["go"].text() == "Go on"
    assert until(lambda: not edition.series.begun, 240)
    count = len(lines(tmp_path / "out"))
    until(lambda: False, 0.7)
    assert len(lines(tmp_path / "out")) == count < 14
    assert "paused" in foot.values.text()
    assert not edition.series.put("Another", pattern="{n}")  # not while it is at work
    assert "stop it first" in edition.said
    edition.page.words["go"].click()
    assert until(lambda: len(lines(tmp_path / "out")) > count, 240)
    foot.cancel.click()
    assert until(lambda: edition.work.running is None, 240)
    assert multiprocessing.active_children() == []  # else what one holds could not be taken away
    edition.settle()
    count = len(lines(tmp_path / "out"))
    assert edition.said.startswith("The edition: stopped; ")
    assert not rest.isVisible()
    assert not list((tmp_path / "out").glob(".*"))
    assert edition.states().count(State.DONE) == count < 14
    edition.print()
    assert len(lines(tmp_path / "out")) == 14  # each once
    assert edition.states() == [State.DONE] * 14


def test_it_works_on_while_one_does_something_else(edition, photos):
    edition.whole(photos[0].parent)
    edition.begin()
    edition.window.registry.go(edition.window.bench)
    assert not edition.window.foot.cancel.isVisible()
    assert until(lambda: edition.work.running is None, 240)
    edition.settle()
    assert edition.said == "The edition: 5 of 5 done"
    edition.window.registry.go(edition.window.edition)
    edition.settle()
    assert edition.words() == ["done"] * 5


@pytest.mark.parametrize(
    ("answer", "states", "bytes_"),
    [("Replace", [State.DONE] * 5, None), ("Leave as it is", [State.WAITING, *[State.DONE] * 4], b"mine"),
     ("Do not begin", [State.WAITING] * 5, b"mine")],
)  # fmt: skip
def test_a_file_that_no_edition_made_is_asked_about(edition, photos, tmp_path, monkeypatch, answer, states, bytes_):
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / "quay-0.tif").write_bytes(b"mine")
    asked = []

    def answered(_over, text, more, answers):
        asked.append(text)
        assert answer in answers
        return answer

    monkeypatch.setattr(rooms, "ask", answered)
    edition.whole(photos[0].parent)
    assert edition.words()[0] == "waiting, a file is there"
    edition.page.words["go"].click()
    until(lambda: edition.work.running is not None, 1)
    assert until(lambda: edition.work.running is None, 240)
    edition.settle()
    assert asked == ["One file has the name of a print already, and no edition made it."]
    assert edition.states() == states
    if bytes_ is not None:
        assert (tmp_path / "out" / "quay-0.tif").read_bytes() == bytes_


def test_closing_asks_while_it_is_at_work_and_stays_if_it_should(bench, photos, monkeypatch):
    from kyanoscript.ui.edition import view

    edition = Editing(bench)
    edition.whole(photos[0].parent, jobs=1)
    edition.begin()
    edition.work.pause()
    asked = []
    monkeypatch.setattr(view, "ask", lambda _over, text, _more, answers: asked.append(text) or answers[-1])
    bench.window.close()
    assert bench.window.isVisible()
    assert asked[0].startswith("The edition is at work: ")
    monkeypatch.setattr(view, "ask", lambda _over, text, _more, answers: answers[0])
    bench.window.close()
    assert not bench.window.isVisible()
    assert until(lambda: not bench.window.jobs.left(), 30)


def test_it_is_there_again_at_the_next_start_and_goes_on(edition, photos, tmp_path, qtbot):
    edition.whole(photos[0].parent, pattern="{name}-{script}-{n:02}")
    edition.tiles.choose(3)
    edition.key(KEY.Key_X)
    edition.series.except_(photos[1], Script(SCRIPT.passes[1:]))
    edition.settle()
    edition.print()
    before = edition.series.edition
    edition.window.close()
    window = Window()
    window.show()
    other = Editing(Bench(window, qtbot))
    other.settle()
    assert other.series.edition == before
    assert other.words() == ["done", "done · exception", "done", "left out", "done"]
    assert other.page.words["go"].text() == "Go on"
    other.print()
    assert other.said == "The edition: 0 of 4 done, 4 were there"
    window.close()


KILLS = int(os.environ.get("KYANOSCRIPT_KILLS", "2"))  # of the window; thirty were done by hand
_WINDOW = """
import sys
from pathlib import Path
from PySide6.QtWidgets import QApplication
from kyanoscript.core.script import loads
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.widgets import theme

if __name__ == "__main__":
    folder = Path(sys.argv[1])
    theme.apply(QApplication([]))
    window = Window()
    window.show()
    window.registry.go(window.edition)
    room = window.edition.room
    until(lambda: not window.jobs.busy)
    if not room.series.edition.entries:
        room.setup.add([folder / "in"])
        until(lambda: bool(room.series.edition.entries))
        room.series.whence(loads((folder / "script.json").read_text()), "quay", "quay")
        room.series.put("Into", folder=folder / "out", jobs=2)
    until(lambda: bool(room.series.tasks) and not window.jobs.busy)
    room.go()
    until(lambda: room.work.running is not None)
    until(lambda: room.work.running is None)
    until(lambda: not window.jobs.busy)
    print(sorted({tile.words for tile in room.series.tiles()}))
    window.close()
"""


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(KILLS))
def test_a_window_that_is_killed_goes_on_to_the_same_outcome(photos, tmp_path, seed):
    """At a random moment, twice: what it began ends with it; started again it has the edition, and goes on with it."""
    for k in range(5, 30):
        picture(tmp_path / "in" / f"quay-{k:02}.png", k)
    (tmp_path / "script.json").write_text(dumps(SCRIPT))
    (tmp_path / "window.py").write_text(_WINDOW)
    words = [sys.executable, "-m", "kyanoscript", "edition", str(tmp_path / "in"), "--script"]
    words += [str(tmp_path / "script.json"), "-o", str(tmp_path / "whole"), "--jobs", "2"]
    assert subprocess.run(words, capture_output=True, check=False, timeout=300).returncode == 0
    dice, out = random.Random(seed), tmp_path / "out"
    start = [sys.executable, str(tmp_path / "window.py"), str(tmp_path)]

    def count():
        return len(lines(out)) if (out / kept.NAME).exists() else 0

    for k in range(2):
        wanted, end = dice.randrange(1, 14) + 14 * k, time.monotonic() + 240
        with subprocess.Popen(start, stdout=subprocess.DEVNULL, start_new_session=True) as process:
            try:
                while count() < wanted and process.poll() is None:
                    assert time.monotonic() < end
                    time.sleep(0.002)
                time.sleep(dice.random() * 0.05)
                workers = _workers(process.pid)
            finally:
                process.kill()
        while any(Path(f"/proc/{pid}").exists() for pid in workers):
            assert time.monotonic() < end
            time.sleep(0.01)
    last = subprocess.run(start, capture_output=True, text=True, check=False, timeout=300)
    assert (last.returncode, last.stdout, last.stderr) == (0, "['done']\n", "")
    assert prints(out) == prints(tmp_path / "whole")
    assert not list(out.glob(".*"))
    told = [line for line in lines(out) if line["result"] == "done"]
    assert sorted(line["file"] for line in told) == sorted(prints(out))  # each once


def _workers(parent):
    """Processes that a program has begun."""
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        with contextlib.suppress(OSError, ValueError, IndexError):
            if int(path.read_text().rpartition(")")[2].split()[1]) == parent:
                found.append(int(path.parent.name))
    return found


def test_an_edition_that_cannot_be_read_is_none(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))
    (tmp_path / "state").mkdir()
    assert recall() is None
    for text in ("", "[]", '{"kyanoscript-edition": 9}', '{"kyanoscript-edition": 1}', "{" * 100_000):
        (tmp_path / "state" / "edition.json").write_text(text)
        assert recall() is None


def test_what_is_there_is_compared_with_what_was_written(edition, photos, tmp_path):
    edition.whole(photos[0].parent)
    edition.print()
    edition.page.words["check"].click()
    edition.settle()
    assert edition.said == "All 5 prints are as they were written"
    (tmp_path / "out" / "quay-3.tif").write_bytes(b"not it")
    edition.page.words["check"].click()
    edition.settle()
    assert edition.said == ("4 of 5 prints are as they were written; quay-3.tif: the print is not what was written")


# The contact sheet


def test_a_tile_is_the_print_and_held_o_the_photograph(edition, photos):
    """At the pixel: the middle of a tile as it is drawn is that of the print, and of the photograph while O is held."""
    edition.whole(photos[0].parent, Script((P["gray-weights"](),)))
    box = edition.tiles.box(2)

    def drawn():
        shot = edition.tiles.grab().toImage()
        return shot.pixelColor(int(box.x()) + 84, int(box.y()) + 56)

    def expected(script):
        renderer = Renderer(open_photo(photos[2]).source, script, reading=Reading.SEEN)
        shown = display.screen().shown(renderer.region(Rect(0, 0, *renderer.size(1.0))), renderer.space)
        return tuple(int(v) for v in shown[30, 45, 2::-1])

    now = drawn()
    assert (now.red(), now.green(), now.blue()) == pytest.approx(expected(Script((P["gray-weights"](),))), abs=2)
    QTest.keyPress(edition.tiles, KEY.Key_O)
    held = drawn()
    QTest.keyRelease(edition.tiles, KEY.Key_O)
    assert (held.red(), held.green(), held.blue()) == pytest.approx(expected(Script()), abs=2)
    assert len({held.red(), held.green(), held.blue()}) > 1
    assert drawn() == now


def test_order_by_hand_by_key_by_name_and_by_time(edition, photos):
    edition.whole(photos[0].parent, pattern="{n}-{name}")
    edition.tiles.choose(0)
    edition.key(KEY.Key_Right, SHIFT, on=edition.tiles)  # with Shift: chosen up to there
    assert edition.tiles.chosen == {0, 1}
    box = edition.tiles.box
    start, end = box(0).center(), box(3).topLeft() + QPointF(4, 60)
    edition.bench.drag(edition.tiles, start, start + QPointF(30, 0), end)
    edition.settle()
    assert edition.names() == ["quay-2", "quay-0", "quay-1", "quay-3", "quay-4"]
    assert [task.target.name for task in edition.series.tasks][:2] == ["1-quay-2.tif", "2-quay-0.tif"]
    for k, photo in enumerate(reversed(photos)):
        os.utime(photo, (1000 + k, 1000 + k))
    edition.series.in_order("time")
    edition.settle()
    assert edition.names() == ["quay-4", "quay-3", "quay-2", "quay-1", "quay-0"]
    edition.series.in_order("name")
    edition.settle()
    assert edition.names() == [f"quay-{k}" for k in range(5)]
    edition.tiles.choose(4)
    edition.window.registry.do(next(c for c in edition.window.registry.every() if c.text == "Move the tray left"))
    edition.settle()
    assert edition.names() == ["quay-0", "quay-1", "quay-2", "quay-4", "quay-3"]
    assert edition.tiles.tile().name == "quay-4"
    edition.tiles.choose(1)
    edition.key(KEY.Key_X)
    edition.room.filter(State.WAITING)  # with some not shown, too, what was moved stays chosen
    edition.tiles.choose(3)
    edition.room.shift(-1)
    edition.settle()
    assert edition.names() == ["quay-0", "quay-1", "quay-2", "quay-3", "quay-4"]
    assert edition.tiles.tile().name == "quay-3"


def test_several_are_left_out_or_taken_off_at_once_and_come_back(edition, photos):
    edition.whole(photos[0].parent)
    edition.tiles.choose(1)
    edition.key(KEY.Key_Right, SHIFT)
    edition.key(KEY.Key_Right, SHIFT)
    assert edition.page.name.text() == "3 photographs"
    edition.key(KEY.Key_X)
    assert [entry.out for entry in edition.series.edition.entries] == [False, True, True, True, False]
    assert [task.photo.stem for task in edition.series.tasks] == ["quay-0", "quay-4"]
    edition.key(KEY.Key_Delete)
    assert edition.names() == ["quay-0", "quay-4"]
    assert all(photo.exists() for photo in photos)
    edition.key(KEY.Key_Z, CTRL)
    edition.key(KEY.Key_Z, CTRL)
    assert edition.names() == [f"quay-{k}" for k in range(5)]
    assert not any(entry.out for entry in edition.series.edition.entries)
    edition.key(KEY.Key_A, CTRL)
    assert len(edition.tiles.chosen) == 5


def test_a_thousand_are_drawn_and_asked_for_as_far_as_they_are_in_sight(edition, photos, tmp_path):
    first = photos[0].read_bytes()
    for k in range(1000):
        (tmp_path / "in" / f"roof-{k:04}.png").write_bytes(first)
    edition.whole(tmp_path / "in")
    assert len(edition.tiles.tiles) == 1005
    assert len(edition.tiles.in_sight()) < 60
    assert len(edition.room.smalls._kept) < 80
    edition.key(KEY.Key_End)
    assert edition.tiles.tile().name == "roof-0999"
    sight = edition.tiles.in_sight()
    assert sight[-1].name == "roof-0999"
    assert all(edition.room.smalls.find(edition.series.small(tile.entry)) is not None for tile in sight)
    told = edition.tiles.told()
    assert told.words == "roof-0999, waiting"
    assert told.items[-1].words == "roof-0999, waiting"
    assert told.items[-1].chosen


def test_everything_can_be_done_with_nothing_on_the_bench(bare, photos, qtbot):
    edition = Editing(bare)
    edition.whole(photos[0].parent)
    edition.tiles.choose(0)
    edition.key(KEY.Key_X)
    assert edition.words()[0] == "left out"
    edition.key(KEY.Key_Delete)
    assert len(edition.names()) == 4
    QTest.keyPress(edition.tiles, KEY.Key_O)
    assert edition.tiles.held == "photo"
    QTest.keyRelease(edition.tiles, KEY.Key_O)
    assert edition.tiles.held == ""
    edition.print()
    assert edition.words() == ["done"] * 4


# Names, lists, files


def test_names_are_shown_as_they_will_be_and_wrong_patterns_in_words(edition, photos):
    edition.whole(photos[0].parent)
    line = edition.page.lines["pattern"]
    line.setFocus()
    line.setText("{name}-{script}-{n:03}")
    assert edition.page.example.text() == "quay-0-bench-001.tif"
    line.setText("{nme}")
    assert "there is no {nme}; did you mean 'name'" in edition.page.example.text().replace("?", "")
    assert edition.page.example.objectName() == "warning"
    line.setText("{folder}-{n}")
    QTest.keyClick(line, KEY.Key_Return)
    edition.settle()
    assert edition.series.edition.pattern == "{folder}-{n}"
    assert edition.series.tasks[4].target.name == "in-5.tif"


def test_through_a_recipe_a_state_a_file_and_a_strangers_file(edition, photos, tmp_path, monkeypatch):
    edition.whole(photos[0].parent)
    desk, box = edition.window.desk, edition.page.lists["script"]
    edition.bench.passes.add("levels")
    desk.kept.keep("Soft")
    edition.settle()

    def choose(words):
        at = next(k for k in range(box.count()) if box.itemText(k).startswith(words))
        box.setCurrentIndex(at)
        box.activated.emit(at)
        edition.settle()

    choose("state I")
    assert edition.series.edition.whence == "state I Soft"
    assert edition.series.edition.state == "I"
    assert [step.kind for step in edition.series.edition.asked.script.passes] == ["levels"]
    choose("recipe ")
    assert edition.series.edition.whence.startswith("recipe ")
    assert edition.series.edition.asked.recipe is not None
    assert edition.series.tasks[0].asked.recipe is not None
    file = tmp_path / "quay.kyano"
    file.write_text(dumps(SCRIPT))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_a, **_k: (str(file), ""))
    choose("a script file")
    assert edition.series.edition.whence == "quay.kyano"
    assert box.currentText() == "quay.kyano"
    strange = Script((P["plate"](source="picture", picture=str(tmp_path / "elsewhere" / "x.png")),))
    (tmp_path / "theirs").mkdir()
    (tmp_path / "theirs" / "theirs.kyano").write_text(dumps(strange))
    edition.add(tmp_path / "theirs" / "theirs.kyano")
    assert "uses a picture outside its own folder" in edition.said
    assert edition.series.edition.whence == "quay.kyano"


def test_what_was_left_out_on_the_bench_is_used_by_no_edition(edition, photos, tmp_path):
    """A stranger's picture outside his script's folder: left out there, it is not printed behind one's back either."""
    (tmp_path / "elsewhere").mkdir()
    other = picture(tmp_path / "elsewhere" / "other.png")
    edition.whole(photos[0].parent)
    before = edition.series.edition
    desk = edition.window.desk
    desk.pictures = Pictures(desk.photo.path, None, (other,))
    desk.change("Theirs", Script((P["plate"](source="picture", picture=str(other)),)))
    edition.settle()
    edition.room.setup.take(("bench", 0))
    assert "were left out" in edition.said
    assert edition.series.edition == before
    edition.add(desk.photo.path)
    edition.window.edition.keep_exception()
    assert "were left out" in edition.said
    assert all(entry.own is None for entry in edition.series.edition.entries)
    desk.change("Off", Script())  # nothing of it is there any more
    edition.settle()
    edition.room.setup.take(("bench", 0))
    edition.settle()
    assert edition.series.edition.whence == "the bench, as it was"
    assert edition.series.edition.asked.script.passes == ()


def test_a_number_of_copies_can_be_taken_back_where_photographs_have_come(edition, photos):
    edition.whole(photos[0], copies=4)
    edition.add(photos[1])
    assert edition.page.problem.text() == "Numbered prints are of one photograph, and here are 2"
    assert edition.page.copies.isVisible()
    edition.page.copies._announce(1)
    edition.settle()
    assert edition.page.words["go"].isEnabled()
    assert not edition.page.copies.isVisible()


def test_kind_and_settings_of_the_files(edition, photos, tmp_path):
    edition.whole(photos[0].parent)
    box = edition.page.lists["as"]
    assert box.currentText() == "TIFF, 16-bit"
    assert box.findText("PDF") < 0
    at = box.findText("JPEG")
    box.setCurrentIndex(at)
    box.activated.emit(at)
    edition.settle()
    assert edition.page.example.text() == "quay-0.jpg"
    edition.put(settings=edition.series.edition.settings.with_(quality=60))
    edition.print()
    with Image.open(tmp_path / "out" / "quay-3.jpg") as image:
        assert (image.format, image.size) == ("JPEG", (90, 60))
    edition.put(sheet=Sheet(), sheet_name="A4")
    assert box.findText("PDF") >= 0


def test_a_frame_is_every_photographs_or_none(edition, photos, tmp_path):
    from kyanoscript.core.frame import Frame

    edition.whole(photos[0].parent, Script(SCRIPT.passes, frame=Frame(width=50.0, height=50.0, x=25.0, y=25.0)))
    tick = edition.page.ticks["framed"]
    assert tick.isVisible()
    edition.print()
    assert tifffile.imread(tmp_path / "out" / "quay-0.tif").shape[:2] == (30, 45)
    tick.click()
    edition.settle()
    edition.print()
    assert tifffile.imread(tmp_path / "out" / "quay-0.tif").shape[:2] == (60, 90)


def test_recent_and_ordering_are_chosen_from_menus(edition, photos):
    edition.room.setup.ask_recent()
    menu = edition.room.setup.menu
    names = [action.text() for action in menu.actions()]
    assert names[0] == "landing.png"
    menu.actions()[0].trigger()
    menu.close()
    edition.settle()
    assert edition.names() == ["landing"]
    edition.add(*photos[:2])
    edition.room.setup.ask_order()
    edition.room.setup.menu.actions()[2].trigger()
    edition.room.setup.menu.close()
    edition.settle()
    assert edition.names() == ["quay-1", "quay-0", "landing"]


def test_an_unreadable_folder_and_a_lost_photograph_are_told(edition, photos, tmp_path):
    (tmp_path / "none").mkdir()
    edition.add(tmp_path / "none")
    assert "there is no photograph in this folder" in edition.said
    edition.whole(photos[0].parent)
    photos[1].unlink()
    edition.print()
    assert "there is no such file" in edition.words()[1]
    assert Path(edition.series.tasks[1].photo) == photos[1]
