"""Editions: names, the manifest, and that whatever ends, the outcome is that of a run that nothing disturbed."""

import dataclasses
import json
import multiprocessing
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import threading
import time
from concurrent.futures import Future, ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from kyanoscript.core.colour import SRGB, lightness
from kyanoscript.core.develop import Develop
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Reading, Rect
from kyanoscript.core.render.alike import Tones, matched, tones_of
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, dumps
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.editions import manifest as kept
from kyanoscript.files.editions import run as running
from kyanoscript.files.editions import work
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.editions.edition import Edition, Entry, told, untold
from kyanoscript.files.editions.manifest import standing
from kyanoscript.files.editions.names import Pattern
from kyanoscript.files.editions.plan import Plan, photographs
from kyanoscript.files.editions.printed import How, printed
from kyanoscript.files.editions.run import Begun, Courtesy, Here, jobs_for, run, workers
from kyanoscript.files.editions.small import Shrunk, shrunk
from kyanoscript.files.editions.work import DONE, FAILED, Result, Task, done, parcel, unpacked
from kyanoscript.files.kept.recipes import bundled
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.settings import Settings
from tests.conftest import make_colourful

P = load_all()
SCRIPT = Script((P["levels"](auto=True), P["gray-weights"](), P["grain"]()))


def picture(path, k=0, size=(60, 90)):
    Image.fromarray(np.roll(make_colourful(*size), 7 * k, 1)).save(path)
    return path


@pytest.fixture
def photos(tmp_path):
    (tmp_path / "in").mkdir()
    return [picture(tmp_path / "in" / f"landing-{k}.png", k) for k in range(5)]


def tasks_of(photos, folder, script=SCRIPT, **more):
    folder.mkdir(exist_ok=True)
    return [Task(k, photo, folder / f"{photo.stem}.tif", Asked(script), Settings(bits=16), **more)
            for k, photo in enumerate(photos, 1)]  # fmt: skip


def results(happened):
    return [one for one in happened if isinstance(one, Result)]


def files_in(folder):
    return {path.name: path.read_bytes() for path in folder.iterdir() if path.name != kept.NAME}


# Names


NAMED = {
    "{name}": ["a.tif", "b.tif", "a-2.tif"],
    "{name}-{n:03}": ["a-001.tif", "b-002.tif", "a-003.tif"],
    "{folder}-{n}of{count}": ["one-1of3.tif", "one-2of3.tif", "two-3of3.tif"],
    "quay": ["quay.tif", "quay-2.tif", "quay-3.tif"],
    "{script} {state} {name}": ["sepia III a.tif", "sepia III b.tif", "sepia III a-2.tif"],
    "{{{n}}}": ["{1}.tif", "{2}.tif", "{3}.tif"],
}
NEVER = {
    "{nam}": "there is no {nam}; did you mean 'name'?",
    "{name": "a brace that is alone",
    "": "is empty",
    "{name:3}": "only {n} and {count} have a width",
    "{n:0.3f}": "only {n} and {count} have a width",
    "{name!r}": "there is no {name!r}",
    "{0}": "there is no {0}",
    "{name.__class__}": "there is no {name.__class__}",
}


@pytest.mark.parametrize(("pattern", "names"), NAMED.items())
def test_names_follow_their_pattern_and_no_two_are_alike(tmp_path, pattern, names):
    photos = [tmp_path / "one" / "a.jpg", tmp_path / "one" / "b.jpg", tmp_path / "two" / "A.jpg"]
    made = Pattern(pattern, ".tif").names(photos, {"script": "sepia", "state": "III", "recipe": ""})
    assert [name.casefold() for name in made] == [name.casefold() for name in names]
    assert len({name.casefold() for name in made}) == 3


@pytest.mark.parametrize(("pattern", "words"), NEVER.items())
def test_a_pattern_that_cannot_be_is_said_to_be(pattern, words):
    with pytest.raises(ValueError, match=re.escape(words)):
        Pattern(pattern, "tif")


def test_names_hold_nothing_that_a_file_cannot_have(tmp_path):
    (name,) = Pattern("{script}/{name}", "tif").names([tmp_path / ("é" * 300 + ".png")], {"script": ".."})
    assert "/" not in name
    assert len(name.encode()) <= 210
    assert Pattern("{recipe}", "tif").names([tmp_path / "a.png"], {"recipe": ""}) == ["print.tif"]


# One photograph


def test_what_came_of_a_photograph_tells_what_it_was_and_what_it_became(photos, tmp_path):
    (task, *_) = tasks_of(photos, tmp_path / "out")
    made = done(task)
    assert (made.result, made.width, made.height, made.file) == (DONE, 90, 60, "landing-0.tif")
    assert made.photo_sha256 == sha256(photos[0])
    assert made.file_sha256 == sha256(task.target)
    assert made.file_size == task.target.stat().st_size
    assert made.how == task.how


def test_values_taken_from_the_picture_are_those_of_each(tmp_path):
    """Ends of levels: a dark and a light photograph of the same ramp become the same print."""
    (tmp_path / "in").mkdir()
    ramp = np.linspace(20, 120, 90).astype(np.uint8)[None].repeat(60, 0)
    for name, more in (("dark", 0), ("light", 100)):
        Image.fromarray(ramp + np.uint8(more)).save(tmp_path / "in" / f"{name}.png")
    photos = [tmp_path / "in" / "dark.png", tmp_path / "in" / "light.png"]
    tasks = tasks_of(photos, tmp_path / "out", Script((P["levels"](auto=True),)))
    assert all(done(task).result == DONE for task in tasks)
    dark, light = (np.asarray(Image.open(task.target)).astype(int) for task in tasks)
    assert dark.min() < 2000
    assert light.max() > 63000
    assert np.abs(dark - light).max() < 700


def a_folder(path):
    path.unlink()
    path.mkdir()


@pytest.mark.parametrize(("spoil", "words"), [
    (lambda path: path.write_bytes(b""), "empty"),
    (lambda path: path.write_bytes(path.read_bytes()[:90]), "landing-2.png: "),
    (lambda path: path.unlink(), "there is no such file"),
    (lambda path: path.rename(path.with_name("other.png")), "there is no such file"),
    (a_folder, "a folder"),
    (lambda path: path.write_text("none"), "landing-2.png: "),
])  # fmt: skip
def test_one_photograph_that_is_none_does_not_stop_the_others(photos, tmp_path, spoil, words):
    spoil(photos[2])
    made = results(run(tasks_of(photos, tmp_path / "out"), Here, 1))
    assert [one.result for one in made] == [DONE, DONE, FAILED, DONE, DONE]
    assert words in made[2].reason
    assert sorted(files_in(tmp_path / "out")) == [f"landing-{k}.tif" for k in (0, 1, 3, 4)]


def test_a_photograph_that_changes_while_it_is_printed_is_not_done(photos, tmp_path, monkeypatch):
    (task, *_) = tasks_of(photos, tmp_path / "out")
    write = work.write

    def meanwhile(out, progress):
        made = write(out, progress)
        picture(photos[0], 3)
        return made

    monkeypatch.setattr(work, "write", meanwhile)
    made = done(task)
    assert made.result == FAILED
    assert made.reason == "landing-0.png: it changed while it was printed. It is done when this is run again"
    assert not task.target.exists()


def test_what_nobody_thought_of_is_one_photographs_affair(photos, tmp_path, monkeypatch):
    monkeypatch.setattr(work, "open_photo", lambda *_, **__: 1 / 0)
    made = done(tasks_of(photos, tmp_path / "out")[0])
    assert made.reason == "landing-0.png: something went wrong that should not; what it was stands in the log"


def test_a_task_goes_where_none_of_its_files_are(photos, tmp_path):
    """Packed, and done in a folder of its own: the same bytes."""
    (task, *_) = tasks_of(photos, tmp_path / "out")
    sent = parcel(task)
    here = done(task)
    there, data = unpacked(sent)
    assert data == task.target.read_bytes()
    assert (there.file_sha256, there.photo_sha256, there.photo) == (here.file_sha256, here.photo_sha256, str(photos[0]))
    photos[1].unlink()
    with pytest.raises(FileError, match="no such file"):
        parcel(tasks_of(photos, tmp_path / "out")[1])


def test_pictures_of_passes_go_along_each_in_its_place(photos, tmp_path):
    """One of the photograph's own name in another folder is another one; one that lies elsewhere cannot be sent."""
    script = tmp_path / "scripts" / "evening.json"
    (script.parent / "cut").mkdir(parents=True)
    picture(script.parent / "cut" / photos[0].name, 3)
    plate = P["plate"](source="picture", picture=f"cut/{photos[0].name}", size=60.0)
    asked = Asked(Script((plate,)), script)
    (tmp_path / "out").mkdir()
    task = replace(tasks_of(photos, tmp_path / "out")[0], asked=asked)
    sent = parcel(task)
    assert [name for name, _ in sent.files] == ["photo/landing-0.png", "script/cut/landing-0.png"]
    here = done(task)
    there, data = unpacked(sent)
    assert (here.result, there.result) == (DONE, DONE)
    assert data == task.target.read_bytes()
    plain_print = done(replace(task, asked=Asked(Script()), target=tmp_path / "out" / "plain.tif"))
    assert plain_print.file_sha256 != here.file_sha256
    elsewhere = picture(tmp_path / "elsewhere.png")
    far = replace(task, asked=Asked(Script((P["plate"](source="picture", picture=str(elsewhere)),)), script))
    with pytest.raises(FileError, match="neither beside the script nor beside the photograph"):
        parcel(far)


# The manifest


def test_what_is_done_is_not_done_again_and_what_changed_is(photos, tmp_path):
    folder, tasks = tmp_path / "out", tasks_of(photos, tmp_path / "out")
    with kept.opened(folder, False) as manifest:
        for result in results(run(tasks, Here, 1)):
            manifest.add(result)
    os.utime(photos[0])  # touched, and the same
    picture(photos[1], 4)  # another picture
    tasks[2].target.unlink()
    with kept.opened(folder, True) as manifest:
        assert [manifest.holds(task) for task in tasks] == [True, False, False, True, True]
        others = tasks_of(photos, folder, Script((P["negative"](),)))
        assert not any(manifest.holds(task) for task in others)
    lines = (folder / kept.NAME).read_text().splitlines()
    assert [json.loads(line)["number"] for line in lines] == [1, 2, 3, 4, 5]


def test_a_line_that_was_cut_short_is_taken_off(photos, tmp_path):
    folder, tasks = tmp_path / "out", tasks_of(photos, tmp_path / "out")
    with kept.opened(folder, False) as manifest:
        for result in results(run(tasks[:2], Here, 1)):
            manifest.add(result)
    path = folder / kept.NAME
    whole = path.read_bytes()
    path.write_bytes(whole[:-30])
    with kept.opened(folder, True) as manifest:
        assert [manifest.holds(task) for task in tasks[:2]] == [True, False]
        manifest.add(done(tasks[1]))
    assert [one.file for one in kept.read(path.read_bytes(), path)] == [task.target.name for task in tasks[:2]]
    path.write_bytes(b"no manifest\n" + whole)
    with pytest.raises(FileError, match="line 1 is none of an edition's"), kept.opened(folder, True):
        pass


def test_one_edition_at_a_time_works_in_a_folder(tmp_path):
    other = kept.opened(tmp_path / "out", True)
    with kept.opened(tmp_path / "out", False), pytest.raises(FileError, match="another edition is at work"):
        other.__enter__()


def test_what_is_there_is_compared_with_what_was_written(photos, tmp_path):
    folder, tasks = tmp_path / "out", tasks_of(photos, tmp_path / "out")
    with kept.opened(folder, False) as manifest:
        for result in results(run(tasks, Here, 1)):
            manifest.add(result)
    assert kept.checked(folder)[1] == []
    tasks[0].target.unlink()
    data = bytearray(tasks[1].target.read_bytes())
    data[-1] ^= 1
    tasks[1].target.write_bytes(data)
    photos[2].unlink()
    picture(photos[3], 9)
    found, differ = kept.checked(folder)
    assert len(found) == 5
    assert [(one.file, one.reason) for one in differ] == [
        ("landing-0.tif", "the print is gone"), ("landing-1.tif", "the print is not what was written"),
        ("landing-2.tif", "its photograph landing-2.png is gone"),
        ("landing-3.tif", "its photograph landing-3.png has changed since"),
    ]  # fmt: skip


# Executors


def test_any_executor_does_it(photos, tmp_path):
    made = results(run(tasks_of(photos, tmp_path / "threads"), lambda: ThreadPoolExecutor(2), 2))
    assert {one.result for one in made} == {DONE}
    results(run(tasks_of(photos, tmp_path / "here"), Here, 1))
    assert files_in(tmp_path / "threads") == files_in(tmp_path / "here")


class Breaking(Here):
    """Its worker is killed at every turn of a photograph."""

    def __init__(self, bad, left):
        self.bad, self.left, self.broken = bad, left, False

    def submit(self, fn, /, task, *more):
        if self.broken:
            raise BrokenProcessPool
        future = super().submit(fn, task, *more)
        if task.number == self.bad and self.left:
            self.left.pop()
            self.broken = True
            future = super().submit(lambda: (_ for _ in ()).throw(BrokenProcessPool()))
        return future


def test_what_a_killed_worker_had_begun_is_begun_again_and_what_kills_it_each_time_is_told(photos, tmp_path):
    for times, outcome in ((3, DONE), (9, FAILED)):
        left = [None] * times
        happened = list(run(tasks_of(photos, tmp_path / str(times)), lambda left=left: Breaking(3, left), 1))
        made = {one.number: one for one in results(happened)}
        assert sorted(made) == [1, 2, 3, 4, 5]
        assert made[3].result == outcome
        assert {made[k].result for k in (1, 2, 4, 5)} == {DONE}
        assert sum(isinstance(one, Begun) and one.task.number == 3 for one in happened) == min(times + 1, 6)
    assert made[3].reason == "landing-2.png: what works on it ends each time; look at the photograph"


class Refusing(Here):
    """It breaks in the very moment that it is given a photograph, and says so in its own way or not at all."""

    def __init__(self, number, left):
        self.number, self.left, self._broken = number, left, False

    def submit(self, fn, /, task, *more):
        if task.number == self.number and self.left:
            if error := self.left.pop():
                raise error
            self._broken = True
            return Future()
        return super().submit(fn, task, *more)


@pytest.mark.parametrize("error", [OSError("handle is closed"), ValueError("bad value(s) in fds_to_keep"), None])
def test_an_executor_that_breaks_while_it_is_given_a_photograph_is_replaced(photos, tmp_path, error):
    left = [error] * 3
    made = results(run(tasks_of(photos, tmp_path / "out"), lambda: Refusing(2, left), 2))
    assert sorted((one.number, one.result) for one in made) == [(k, DONE) for k in range(1, 6)]
    assert not left


def test_an_executor_that_never_takes_anything_ends_it_in_its_own_words(photos, tmp_path):
    left = [OSError("no more processes")] * 99
    happens = run(tasks_of(photos, tmp_path / "out"), lambda: Refusing(2, left), 2)
    with pytest.raises(OSError, match="no more processes"):
        list(happens)
    assert len(left) == 93
    assert list(files_in(tmp_path / "out")) == ["landing-0.tif"]


def test_it_is_stopped_between_looks(photos, tmp_path):
    stop = []
    happens = run(tasks_of(photos, tmp_path / "out"), Here, 1, lambda: bool(stop))
    stop.append(next(one for one in happens if isinstance(one, Result)))
    with pytest.raises(Cancelled):
        list(happens)
    assert list(files_in(tmp_path / "out")) == ["landing-0.tif"] or len(files_in(tmp_path / "out")) == 2


def test_paused_none_is_begun_and_what_was_begun_comes_to_its_end(photos, tmp_path):
    pausing, happened = [], []
    tasks = tasks_of(photos, tmp_path / "out")
    for what in run(tasks, lambda: ThreadPoolExecutor(2), 2, pausing=lambda: bool(pausing)):
        happened.append(what)
        if isinstance(what, Begun):
            assert not pausing
        elif not pausing and len(results(happened)) == 1:
            pausing.append(True)
            threading.Timer(0.7, pausing.clear).start()
    assert sorted(one.number for one in results(happened)) == [1, 2, 3, 4, 5]


def test_workers_that_stand_back_take_what_others_leave():
    courtesy = Courtesy()
    with workers(1, courtesy) as executor:
        assert executor.submit(os.nice, 0).result(120) == 19
    with workers(1) as executor:
        assert executor.submit(os.nice, 0).result(120) == os.nice(0)


def test_workers_hold_still_as_long_as_a_hand_is_at_work(photos, tmp_path):
    (task, *_) = tasks_of(photos, tmp_path / "out")
    courtesy = Courtesy()
    with workers(1, courtesy) as executor:
        assert executor.submit(done, task).result(120).result == DONE  # all is loaded now
        task.target.unlink()
        courtesy.hold(True)
        future = executor.submit(done, task)
        with pytest.raises(TimeoutError):
            future.result(4)
        assert not task.target.exists()
        courtesy.hold(False)
        assert future.result(120).result == DONE
        assert task.target.exists()
    courtesy.hold(True)
    happens = run(tasks_of(photos, tmp_path / "other"), lambda: workers(2, courtesy), 2)
    assert isinstance(next(happens), Begun)
    assert isinstance(next(happens), Begun)  # the first was sent
    before = set(multiprocessing.active_children())
    assert before
    happens.close()  # whoever holds still ends all the same
    end = time.monotonic() + 60
    while before & set(multiprocessing.active_children()):
        assert time.monotonic() < end
        time.sleep(0.05)


def test_as_many_workers_as_have_room():
    assert jobs_for(24_000_000, 0) == 1
    assert jobs_for(24_000_000, 1 << 40) == len(os.sched_getaffinity(0))
    assert jobs_for(24_000_000, 400 << 20) == 1


def test_photographs_are_files_folders_and_lists(tmp_path):
    for name in ("b.jpg", "a.png", "notes.txt", ".hidden.jpg"):
        (tmp_path / name).write_bytes(b"x")
    (tmp_path / "list").write_text("# the ferry\na.png\n\n/elsewhere/c.tif\n")
    named = [tmp_path, tmp_path / "notes.txt", Path(f"@{tmp_path}/list")]
    found = photographs(named)
    assert [path.name for path in found] == ["a.png", "b.jpg", "notes.txt", "a.png", "c.tif"]
    assert (found[3], found[4]) == (tmp_path / "a.png", Path("/elsewhere/c.tif"))
    (tmp_path / "none").mkdir()
    with pytest.raises(FileError, match="no photograph in this folder"):
        photographs([tmp_path / "none"])
    with pytest.raises(FileError, match="no such file"):
        photographs([Path("@nowhere")])


# As it is put together, and how it stands


def put_together(photos, folder, **more):
    entries = tuple(Entry(photo) for photo in photos)
    return Edition(entries, Asked(SCRIPT), "the bench", "bench", folder=folder, **more)


def test_an_edition_is_read_as_it_was_kept(photos, tmp_path):
    """Every value of it: each is another one than it is at first."""
    recipe = bundled()[3]
    entries = (Entry(photos[0]), Entry(photos[1], out=True), Entry(photos[2], own=Script(SCRIPT.passes[1:])))
    whole = Edition(
        entries, Asked(recipe.on(Script()), tmp_path / "s.json", recipe), "recipe", "stem", "IV", False,
        Settings(bits=8, quality=71), "jpg", "{n}", tmp_path, "A3", Sheet().with_values(across=100.0), True, True,
        photos[0], Tones(40.5, 20.25), 7, "Quay, {n}", True, 3, "tcp://10.0.0.5:8786",
    )  # fmt: skip
    plain = Edition()
    for one in dataclasses.fields(Edition):
        assert getattr(whole, one.name) != getattr(plain, one.name), one.name
    assert untold(json.loads(json.dumps(told(whole))), bundled()) == whole
    assert untold(json.loads(json.dumps(told(plain))), bundled()) == plain
    gone = untold(told(whole), [])  # the recipe is not there any more: its script is
    assert gone.asked.recipe is None
    assert gone.asked.script == whole.asked.script


@pytest.mark.parametrize(
    ("change", "words"),
    [({"entries": ()}, "no photographs yet"), ({"whence": ""}, "choose what they are printed through"),
     ({"folder": None}, "choose the folder"), ({"pattern": "{x}"}, "there is no {x}"),
     ({"copies": 2}, "one photograph")],
)  # fmt: skip
def test_what_keeps_an_edition_from_beginning_is_said(photos, tmp_path, change, words):
    with pytest.raises(ValueError, match=re.escape(words)):
        dataclasses.replace(put_together(photos, tmp_path / "out"), **change).tasks()
    out = tuple(Entry(photo, out=True) for photo in photos)
    with pytest.raises(ValueError, match="every photograph is left out"):
        put_together(photos, tmp_path / "out").__class__(out).tasks()


def test_what_is_left_out_has_no_number_and_an_exception_its_own_script(photos, tmp_path):
    entries = (Entry(photos[0], out=True), Entry(photos[1]), Entry(photos[2], own=Script()))
    edition = dataclasses.replace(put_together([], tmp_path / "out", pattern="{n}-{name}"), entries=entries)
    tasks = edition.tasks()
    assert [task.target.name for task in tasks] == ["1-landing-1.tif", "2-landing-2.tif"]
    assert [len(task.asked.script.passes) for task in tasks] == [3, 0]


def test_how_it_stands_with_each_print(photos, tmp_path):
    tasks = tasks_of(photos, tmp_path / "out")
    assert [one.known for one in standing(tmp_path / "out", tasks)] == [None] * 5
    (tmp_path / "out" / "landing-4.tif").write_bytes(b"mine")
    photos[3].write_bytes(b"")
    list(printed(tasks[:4], tmp_path / "out", How(1)))
    picture(photos[1], 30)
    found = standing(tmp_path / "out", tasks)
    assert [one.holds for one in found] == [True, False, True, False, False]
    assert [one.known.result if one.known else "" for one in found] == [DONE, DONE, DONE, FAILED, ""]
    assert [one.strange for one in found] == [False, False, False, False, True]
    with kept.opened(tmp_path / "out", resume=True) as manifest:
        manifest.begin(tasks[4])
    assert not standing(tmp_path / "out", tasks)[4].strange  # it was begun, and never told to be over: it is ours
    assert [one.reason for one in kept.checked(tmp_path / "out")[1]][-1] == "it was begun, and did not come to its end"
    with pytest.raises(Cancelled):
        standing(tmp_path / "out", tasks, lambda: True)


def test_a_check_tells_how_far_it_is_and_can_be_stopped(photos, tmp_path):
    list(printed(tasks_of(photos, tmp_path / "out"), tmp_path / "out", How(1)))
    shares = []
    assert kept.checked(tmp_path / "out", Progress(shares.append))[1] == []
    assert shares == pytest.approx([0.2, 0.4, 0.6, 0.8, 1.0])
    del shares[:]
    with pytest.raises(Cancelled):
        kept.checked(tmp_path / "out", Progress(shares.append, lambda: len(shares) == 2))
    assert len(shares) == 2


def test_a_print_is_told_to_be_begun_before_any_worker_has_it(photos, tmp_path):
    """Else one that was made as everything ended would be taken for somebody else's file."""
    sent = []

    class Noting(Here):
        def submit(self, fn, /, task, *more):
            sent.append(task.number)
            return super().submit(fn, task, *more)

    for happened in run(tasks_of(photos, tmp_path / "out"), Noting, 1):
        if isinstance(happened, Begun):
            assert happened.task.number not in sent
    assert sent == [1, 2, 3, 4, 5]


def test_a_print_that_was_begun_when_all_ended_is_no_strangers(photos, tmp_path):
    tasks = tasks_of(photos, tmp_path / "out")
    happens = printed(tasks, tmp_path / "out", How(1))
    assert isinstance(next(happens), Begun)
    happens.close()
    tasks[0].target.write_bytes(b"whole on the disk, and never told")
    found = standing(tmp_path / "out", tasks)
    assert [one.strange for one in found] == [False] * 5
    assert [one.known.result if one.known else "" for one in found] == ["begun", "", "", "", ""]


def test_a_shrunk_photograph_passes_for_the_whole_one_seen_small(tmp_path, monkeypatch):
    """Grain, softness and measured values as on the whole print: within what a reduction twice over differs by."""
    big = np.kron(make_colourful(300, 450), np.ones((8, 8, 1), np.uint8))
    Image.fromarray(big).save(tmp_path / "big.jpg", quality=97)
    script = Script((P["levels"](auto=True), P["gray-weights"](), P["soften"](), P["grain"](amount=60.0)))
    source, whole = shrunk(tmp_path / "big.jpg", Develop()), open_photo(tmp_path / "big.jpg").source
    assert isinstance(source, Shrunk)
    assert (source.width, source.height) == (whole.width, whole.height) == (3600, 2400)
    assert source.copy.pixels.size < whole.pixels.size / 3
    made = []
    for one in (source, whole):
        print_ = Renderer(one, script, reading=Reading.SEEN)
        made.append(print_.region(Rect(0, 0, *print_.size(0.05)), 0.05))
    assert np.abs(made[0] - made[1]).mean() < 0.5 / 255
    assert np.abs(made[0] - made[1]).max() < 6 / 255
    monkeypatch.setattr(Shrunk, "window", None)  # nothing is read but the copy
    print_ = Renderer(source, script, reading=Reading.SEEN)
    assert np.array_equal(print_.region(Rect(0, 0, *print_.size(0.05)), 0.05), made[0])
    monkeypatch.undo()
    assert np.array_equal(
        source.window(Rect(100, 60, 3, 3))[0, 0], source.copy.pixels[60 // source.times, 100 // source.times]
    )


# Plans: exceptions, numbered prints, match


def plan(photos, folder, **more):
    return Plan(tuple(photos), Asked(SCRIPT), folder, Settings(bits=16), **more)


def test_an_exception_is_printed_through_a_script_of_its_own(photos, tmp_path):
    other = Script((P["negative"](),))
    tasks = plan(photos, tmp_path / "out", exceptions={photos[3]: Asked(other)}).tasks()
    (tmp_path / "out").mkdir()
    assert [task.asked.script == other for task in tasks] == [False, False, False, True, False]
    assert all(done(task).result == DONE for task in tasks)
    shown = tifffile.imread(tasks[3].target).astype(int) // 257
    assert np.abs(shown - (255 - np.asarray(Image.open(photos[3])).astype(int))).max() <= 1
    with pytest.raises(ValueError, match="none of the photographs"):
        plan(photos[:2], tmp_path / "out", exceptions={photos[3]: Asked(other)}).tasks()


def test_numbered_prints_have_their_number_their_grain_and_a_record(photos, tmp_path):
    sheet = Sheet.of(width=60, height=50, across=40, left=10, top=5, resolution=150, middle=False)
    folder = tmp_path / "out"
    made = plan(
        photos[:1], folder, sheet=sheet, copies=3, caption="Landing, {n}/{count}", own_grain=True, ending="png"
    ).tasks()
    assert [task.target.name for task in made] == ["landing-0-001.png", "landing-0-002.png", "landing-0-003.png"]
    assert [task.sheet.marks.caption for task in made] == ["Landing, 1/3", "Landing, 2/3", "Landing, 3/3"]
    assert [task.asked.script.passes[-1].seed for task in made] == [1, 2, 3]
    with kept.opened(folder, False) as manifest:
        for result in results(run(made, Here, 1)):
            manifest.add(result)
    pages = [np.asarray(Image.open(task.target)).astype(int) for task in made]
    assert np.abs(pages[0] - pages[1])[:150].max() > 3  # other grain
    assert np.abs(pages[0] - pages[1])[200:].max() > 50  # another caption
    told = [json.loads(line) for line in (folder / kept.NAME).read_text().splitlines()]
    assert [one["number"] for one in told] == [1, 2, 3]
    assert all(re.fullmatch(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\+00:00", one["when"]) for one in told)
    same = plan(photos[:1], folder, sheet=sheet, copies=3, caption="{n}", ending="png").tasks()
    assert {task.asked.script.passes[-1].seed for task in same} == {1}


@pytest.mark.parametrize(("more", "words"), [
    ({"copies": 2}, "numbered prints are of one photograph, and here are 5"), ({"copies": 0}, "copies are 0"),
    ({"caption": "{n}"}, "a caption is of numbered prints on a sheet"), ({"ending": "pdf"}, "a PDF is of a sheet"),
])  # fmt: skip
def test_a_plan_that_cannot_be_is_said_to_be(photos, tmp_path, more, words):
    with pytest.raises(ValueError, match=words):
        plan(photos, tmp_path / "out", **more).tasks()


@pytest.mark.parametrize("script", [SCRIPT, Script((P["gray-weights"](), P["inks"](), P["vignette"]())), Script()])
def test_every_print_is_brought_to_the_tones_of_one(tmp_path, script):
    """Mean L* within 1, spread within 5 %: of pictures that are darker, lighter and harder; as they are written."""
    (tmp_path / "in").mkdir()
    rough = make_colourful(90, 140).astype(float) / 255
    photos = []
    for k, (gain, power) in enumerate(((1, 1), (0.45, 1), (1, 0.45), (0.5, 2.2))):
        pixels = np.clip(rough**power * gain + 0.03, 0, 1)
        photos.append(tmp_path / "in" / f"{k}.png")
        Image.fromarray(np.rint(255 * pixels).astype(np.uint8)).save(photos[-1])
    script = Script(tuple(step for step in script.passes if not getattr(step, "auto", False)))
    wanted = tones_of(open_photo(photos[0]).source, script)
    tasks = Plan(tuple(photos), Asked(script), tmp_path / "out", Settings(bits=16), match=wanted).tasks()
    (tmp_path / "out").mkdir()
    before = [tones_of(open_photo(photo).source, script) for photo in photos]
    assert not any(tones.alike(wanted) for tones in before[1:])
    for task in tasks:
        made = done(task)
        assert (made.result, made.notes) == (DONE, ())
        pixels = np.moveaxis(np.atleast_3d(tifffile.imread(task.target)) / 65535, 2, 0)
        tones = lightness(pixels if len(pixels) == 3 else pixels[:1], SRGB)
        assert abs(tones.mean() - wanted.mean) < 1.2
        assert tones.std() == pytest.approx(wanted.spread, rel=0.06)


def test_what_match_puts_before_the_run_is_an_ordinary_pass_and_only_one(photos):
    source, wanted = open_photo(photos[0]).source, Tones(34.0, 15.0)
    first, tones = matched(source, Script((P["gray-weights"](),)), wanted)
    assert tones.alike(wanted)
    assert [(step.kind, step.name) for step in first.passes] == [("levels", "Match"), ("gray-weights", "")]
    again, _ = matched(source, first, Tones(60.0, 15.0))
    assert [step.name for step in again.passes] == ["Match", ""]
    back, tones = matched(source, again, tones_of(source, Script((P["gray-weights"](),))))
    assert [step.kind for step in back.passes] == ["gray-weights"]  # it is near anyway
    _, tones = matched(ArraySource(np.full((20, 20), 128, np.uint8)), Script(), Tones(50.0, 20.0))
    assert not tones.alike(Tones(50.0, 20.0))  # it has no spread, and gets none


# Killed


KILLS = int(os.environ.get("KYANOSCRIPT_KILLS", "3"))  # of each kind; thirty were done by hand


@pytest.fixture(scope="module")
def many(tmp_path_factory):
    """Sixty small photographs, a script, and what an undisturbed run makes of them."""
    folder = tmp_path_factory.mktemp("many")
    (folder / "in").mkdir()
    for k in range(60):
        picture(folder / "in" / f"dye-{k:02}.png", k, (150, 210))
    (folder / "script.json").write_text(dumps(SCRIPT))
    assert started(folder, "whole").wait(300) == 0
    return folder


def started(folder, target, *more, **how):
    script = ["--script", str(folder / "script.json")]
    words = ["edition", str(folder / "in"), *script, "-o", str(folder / target), "--jobs", "2", *more]
    words = [sys.executable, "-m", "kyanoscript", *words]
    return subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True, **how)


def children(process):
    """Workers of a running edition."""
    found = []
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            fields = path.read_text().rpartition(")")[2].split()
            if int(fields[1]) == process.pid and b"spawn_main" in path.with_name("cmdline").read_bytes():
                found.append(int(path.parent.name))
        except (OSError, ValueError, IndexError):
            continue
    return found


def lines(folder):
    path = folder / kept.NAME
    text = path.read_text() if path.exists() else ""
    return [line for line in text.splitlines() if '"result": "begun"' not in line]


def after(folder, process, count):
    """Wait until so many prints are told of, or it is over."""
    end = time.monotonic() + 240
    while len(lines(folder)) < count and process.poll() is None:
        assert time.monotonic() < end
        time.sleep(0.002)


def same_as_undisturbed(many, target):
    assert files_in(many / target) == files_in(many / "whole")
    told = [json.loads(line) for line in lines(many / target)]
    assert sorted(one["file"] for one in told if one["result"] == DONE) == sorted(files_in(many / "whole"))  # each once
    assert kept.checked(many / target)[1] == []


@pytest.mark.parametrize("seed", range(KILLS))
def test_killed_workers_cost_nothing_but_time(many, seed):
    rng = random.Random(seed)
    target = f"workers-{seed}"
    process = started(many, target)
    for count in sorted(rng.sample(range(56), 2)):
        after(many / target, process, count)
        time.sleep(rng.random() * 0.05)
        if victims := children(process):
            os.kill(rng.choice(victims), signal.SIGKILL)
    assert process.wait(300) == 0
    same_as_undisturbed(many, target)
    shutil.rmtree(many / target)


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGINT])
@pytest.mark.parametrize("seed", range(KILLS))
def test_an_edition_that_was_ended_goes_on_to_the_same_outcome(many, seed, how):
    """At a random moment; twice. What it began ends with it, and nothing half done is left."""
    rng = random.Random(seed)
    target = f"ended-{seed}-{how}"
    for k in range(2):
        process = started(many, target, *(["--resume"] if k else []))
        after(many / target, process, rng.randrange(2, 28) + 28 * k)
        time.sleep(rng.random() * 0.05)
        workers = children(process)
        process.send_signal(how)
        # -2: at the very end, when nothing is left to be said
        assert process.wait(60) in (-9, 130, 0, -2)
        end = time.monotonic() + 60
        while any(Path(f"/proc/{pid}").exists() for pid in workers):
            assert time.monotonic() < end
            time.sleep(0.01)
        if how == signal.SIGINT:
            assert not list((many / target).glob(".*"))
    assert started(many, target, "--resume").wait(300) == 0
    same_as_undisturbed(many, target)
    assert not list((many / target).glob(".*"))
    shutil.rmtree(many / target)


def test_workers_are_deaf_to_an_interrupt_and_end_with_their_program():
    # What a shell runs in the background is deaf, and workers would inherit it: then nothing would be seen.
    before = signal.signal(signal.SIGINT, signal.default_int_handler)
    try:
        with workers(1) as executor:
            pid = executor.submit(os.getpid).result(120)
            os.kill(pid, signal.SIGINT)
            assert executor.submit(os.getpid).result(120) == pid
            assert executor.submit(os.getppid).result(120) == os.getpid()
    finally:
        signal.signal(signal.SIGINT, before)


def _ends_slowly(begun):
    """A worker that is in the middle of writing when it is asked to end."""
    signal.signal(signal.SIGTERM, lambda *_: (time.sleep(0.8), os._exit(0)))
    Path(begun).touch()
    time.sleep(120)


def test_workers_are_gone_when_an_edition_has_ended(tmp_path):
    """While one holds what it has begun to write, that cannot be taken away."""
    executor = ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))
    executor.submit(_ends_slowly, str(tmp_path / "begun"))
    end = time.monotonic() + 120
    while not (tmp_path / "begun").exists():
        assert time.monotonic() < end
        time.sleep(0.01)
    (worker,) = executor._processes
    running._end(executor)
    assert not Path(f"/proc/{worker}").exists()
