"""``kyanoscript edition``: many photographs by command, gone on with, compared, and told line by line."""

import json
import os
import signal
import subprocess
import sys
import time

import numpy as np
import pytest
from jsonschema import Draft202012Validator
from PIL import Image

from kyanoscript.cli import main
from tests.conftest import make_colourful
from tests.test_docs import ROOT

SCHEMA = Draft202012Validator(json.loads((ROOT / "docs" / "edition.schema.json").read_text()))


@pytest.fixture
def folder(tmp_path):
    """Three photographs and a script."""
    (tmp_path / "in").mkdir()
    for k in range(3):
        Image.fromarray(np.roll(make_colourful(40, 60), 5 * k, 1)).save(tmp_path / "in" / f"ferry-{k}.png")
    (tmp_path / "evening.json").write_text('{"kyanoscript": 1, "passes": [{"pass": "levels", "gamma": 1.2}]}')
    return tmp_path


def words_of(folder, *more):
    return ["edition", str(folder / "in"), "--script", str(folder / "evening.json"), "-o", str(folder / "out"), *more]


def events(text):
    found = [json.loads(line) for line in text.splitlines()]
    for one in found:
        SCHEMA.validate(one)
    return found


def test_a_folder_is_printed_and_nothing_is_done_twice(folder, capsys):
    assert main(words_of(folder, "--name", "{script}-{n:02}", "--format", "png")) == 0
    said = capsys.readouterr().out.splitlines()
    assert said[-1] == "3 of 3 done"
    assert sorted(line.partition(",")[0] for line in said[:-1]) == [f"evening-0{k}.png: 60 × 40 px" for k in (1, 2, 3)]
    before = {path.name: path.stat().st_mtime_ns for path in (folder / "out").glob("*.png")}
    assert main(words_of(folder, "--name", "{script}-{n:02}", "--format", "png")) == 2
    assert "there is an edition in this folder already. Go on with it by --resume" in capsys.readouterr().err
    assert main(words_of(folder, "--name", "{script}-{n:02}", "--format", "png", "--resume")) == 0
    assert capsys.readouterr().out == "3 of 3 done, 3 of them before\n"
    assert before == {path.name: path.stat().st_mtime_ns for path in (folder / "out").glob("*.png")}
    assert main(["edition", "-o", str(folder / "out"), "--check"]) == 0
    assert capsys.readouterr().out == "3 of 3 prints are as they were written\n"


def test_its_prints_are_those_of_render(folder):
    assert main(words_of(folder)) == 0
    script, by = str(folder / "evening.json"), str(folder / "by")
    assert main(["render", str(folder / "in"), "--script", script, "--out-dir", by, "--jobs", "2"]) == 0
    names = [f"ferry-{k}.tif" for k in range(3)]
    assert sorted(path.name for path in (folder / "by").iterdir()) == names
    assert all((folder / "by" / name).read_bytes() == (folder / "out" / name).read_bytes() for name in names)


def test_what_could_not_be_is_told_at_the_end_and_as_lines_of_json(folder, capsys):
    (folder / "in" / "broken.jpg").write_bytes(b"\xff\xd8\xff\xe0broken")
    (folder / "in" / "nothing.png").write_bytes(b"")
    assert main(words_of(folder)) == 1
    captured = capsys.readouterr()
    assert captured.out.splitlines()[-1] == "3 of 5 done, 2 could not be"
    assert [line.partition(":")[2].partition(":")[0].strip() for line in captured.err.splitlines()] == [
        "broken.jpg", "nothing.png"]  # fmt: skip
    assert main(words_of(folder, "--resume", "--json")) == 1
    found = events(capsys.readouterr().out)
    assert found[0] == {"event": "start", "photographs": 5, "jobs": found[0]["jobs"]}
    assert [one["event"] for one in found].count("already") == 3
    assert [one["event"] for one in found].count("failed") == 2
    assert found[-1] == {"event": "end", "done": 0, "failed": 2, "left": 0, "already": 3}
    (folder / "out" / "ferry-1.tif").write_bytes(b"x")
    assert main(["edition", "-o", str(folder / "out"), "--check", "--json"]) == 1
    found = events(capsys.readouterr().out)
    assert {"event": "differs", "file": "ferry-1.tif", "reason": "the print is not what was written"} in found
    assert found[-1] == {"event": "end", "checked": 5, "differ": 3}


def test_each_on_its_sheet(folder, capsys):
    script = folder / "evening.json"
    sheet = {"width": 100, "height": 80, "across": 60, "resolution": 72}
    script.write_text(json.dumps({"kyanoscript": 2, "passes": [{"pass": "levels"}], "sheets": {"small": sheet}}))
    assert main(words_of(folder, "--sheet", "small", "--format", "png")) == 0
    with Image.open(folder / "out" / "ferry-0.png") as page:
        assert page.size == (283, 227)
    assert main(words_of(folder, "--format", "pdf")) == 2
    assert "a PDF is of a sheet; name one with --sheet" in capsys.readouterr().err
    script.write_text(
        json.dumps({"kyanoscript": 2, "passes": [], "sheets": {"small": {**sheet, "across": 90, "left": 20}}})
    )
    assert main(words_of(folder, "--sheet", "small", "--format", "png", "--resume", "--json")) == 1
    assert all("reaches beyond its paper" in one["reason"] for one in events(capsys.readouterr().out)
               if one["event"] == "failed")  # fmt: skip
    assert main(words_of(folder, "--sheet", "small", "--format", "png", "--resume", "--crop")) == 0


def test_a_file_that_is_there_can_be_left(folder, capsys):
    (folder / "out").mkdir()
    (folder / "out" / "ferry-1.tif").write_bytes(b"precious")
    assert main(words_of(folder, "-n")) == 0
    assert "3 of 3 done" not in capsys.readouterr().out
    assert (folder / "out" / "ferry-1.tif").read_bytes() == b"precious"
    assert (folder / "out" / "ferry-2.tif").exists()


@pytest.mark.parametrize(("more", "why"), [
    (["--name", "{nam}"], "there is no {nam}"), (["--jobs", "0"], "jobs is 0"), (["--memory", "0"], "memory is 0 MB"),
    (["--script", "nowhere.json"], "no such file"), (["--sheet", "none"], "there is no sheet 'none'"),
    (["--set", "levels.gama=2"], "gama"), (["--recipe", "no-such"], "no-such"),
])  # fmt: skip
def test_where_nothing_can_begin_it_is_one_clear_line(folder, capsys, more, why):
    assert main(words_of(folder, *more)) == 2
    said = capsys.readouterr().err
    assert why in said
    assert len(said.splitlines()) == 1
    assert not (folder / "out").exists()


def test_where_nothing_can_be_written_nothing_begins(folder, capsys):
    (folder / "out").write_text("a file")
    assert main(words_of(folder)) == 2
    assert len(capsys.readouterr().err.splitlines()) == 1
    assert main(["edition", "-o", str(folder / "out")]) == 2
    assert "name photographs, a folder of them, or @LIST" in capsys.readouterr().err
    assert main(["edition", str(folder / "in"), "-o", str(folder / "in")]) == 2
    assert "lies in the folder that prints go to" in capsys.readouterr().err


SMALL = """
import resource, sys
from kyanoscript.cli import main
if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_FSIZE, (6000, 6000))
    sys.exit(main(sys.argv[1:]))
"""


def test_a_full_disk_fails_each_and_leaves_nothing_half_done(folder):
    """As where files may not grow: the limit of the process stands for the disk, and its workers have it too."""
    ran = subprocess.run([sys.executable, "-c", SMALL, *words_of(folder)], capture_output=True, text=True, timeout=240)
    assert ran.returncode == 1, ran.stderr
    assert "3 could not be" in ran.stdout
    assert sorted(path.name for path in (folder / "out").iterdir()) == ["edition.jsonl"]
    assert main(words_of(folder, "--resume")) == 0


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_it_is_stopped_with_a_word_and_says_how_to_go_on(folder, number):
    for k in range(3, 40):
        Image.fromarray(np.roll(make_colourful(300, 400), 5 * k, 1)).save(folder / "in" / f"ferry-{k:02}.png")
    process = subprocess.Popen([sys.executable, "-m", "kyanoscript", *words_of(folder)], stdout=subprocess.PIPE,
                               stderr=subprocess.PIPE, text=True, start_new_session=True)  # fmt: skip
    manifest = folder / "out" / "edition.jsonl"
    end = time.monotonic() + 120
    while not manifest.exists() or len(manifest.read_text().splitlines()) < 2:
        assert time.monotonic() < end
        time.sleep(0.005)
    os.kill(process.pid, number)
    _, said = process.communicate(timeout=60)
    assert process.returncode == 128 + number
    assert said.splitlines()[-1].startswith("kyanoscript: stopped; ")
    assert said.splitlines()[-1].endswith(" of 40 are done, and --resume goes on with the others")
    assert not list((folder / "out").glob(".*"))


def test_a_reader_that_had_enough_is_no_fault(folder):
    line = " ".join([sys.executable, "-m", "kyanoscript", *words_of(folder, "--json"), "| head -1"])
    ran = subprocess.run(line, shell=True, capture_output=True, text=True, timeout=240)
    assert "Traceback" not in ran.stderr
    assert json.loads(ran.stdout)["event"] == "start"


# Exceptions, match, numbered prints


def test_one_has_a_script_of_its_own_and_the_others_follow_one(folder, capsys):
    (folder / "other.json").write_text('{"kyanoscript": 1, "passes": [{"pass": "negative"}]}')
    dark = np.asarray(Image.open(folder / "in" / "ferry-2.png")) // 2
    Image.fromarray(dark).save(folder / "in" / "ferry-2.png")
    exception = f"{folder / 'in' / 'ferry-1.png'}={folder / 'other.json'}"
    more = ["--exception", exception, "--match", str(folder / "in" / "ferry-0.png"), "--format", "png", "--bits", "8"]
    assert main(words_of(folder, *more)) == 0
    capsys.readouterr()
    first, inverse, third = (np.asarray(Image.open(folder / "out" / f"ferry-{k}.png")).astype(int) for k in range(3))
    original = np.asarray(Image.open(folder / "in" / "ferry-1.png")).astype(int)
    assert np.abs(inverse - (255 - original)).max() <= 1
    assert abs(first.mean() - third.mean()) < 6  # without it they would be 60 apart
    for wrong, why in (
        ("none", "is no exception; write it as PHOTO=SCRIPT"),
        (f"x.png={folder / 'other.json'}", "x.png is to be an exception"),
        (f"{folder / 'in' / 'ferry-1.png'}=nowhere.json", "nowhere.json"),
    ):
        assert main(words_of(folder, "--exception", wrong, "--resume")) == 2
        assert why in capsys.readouterr().err


def test_a_photograph_is_the_same_however_it_is_named(folder, monkeypatch):
    """The one that others are brought to has a script of its own: its tones are those, by a relative name too."""
    (folder / "other.json").write_text('{"kyanoscript": 1, "passes": [{"pass": "levels", "gamma": 3}]}')
    monkeypatch.chdir(folder)
    exception = f"{folder / 'in' / 'ferry-1.png'}={folder / 'other.json'}"
    made = []
    for name in ("in/ferry-1.png", str(folder / "in" / "ferry-1.png")):
        words = words_of(folder, "--exception", exception, "--match", name, "--format", "png", "--resume")
        assert main(words) == 0
        made.append((folder / "out" / "ferry-0.png").read_bytes())
    assert made[0] == made[1]


def test_numbered_prints_of_one_photograph(folder, capsys):
    sheet = {"width": 60, "height": 50, "across": 40, "left": 10, "top": 5, "resolution": 100}
    passes = [{"pass": "grain", "amount": 60}]
    (folder / "evening.json").write_text(json.dumps({"kyanoscript": 2, "passes": passes, "sheets": {"small": sheet}}))
    numbered = [
        "--sheet",
        "small",
        "--copies",
        "4",
        "--caption",
        "Ferry, {n}/{count}",
        "--own-grain",
        "--format",
        "png",
    ]
    words = words_of(folder, *numbered)
    words[1] = str(folder / "in" / "ferry-0.png")
    assert main(words) == 0
    assert sorted(path.name for path in (folder / "out").glob("*.png")) == [f"ferry-0-00{k}.png" for k in (1, 2, 3, 4)]
    assert len({path.read_bytes() for path in (folder / "out").glob("*.png")}) == 4
    capsys.readouterr()
    assert main(words_of(folder, "--copies", "4", "--resume")) == 2
    assert "numbered prints are of one photograph, and here are 3" in capsys.readouterr().err


# On a cluster


HOST = ("scheduler", "--host", "127.0.0.1", "--port", "0", "--no-dashboard")


class Dask:
    """A scheduler and workers of this machine, each with a folder of its own."""

    def __init__(self, folder):
        self.folder, self.workers = folder, []
        self.address = folder / "address"
        (folder / "scheduler").mkdir()
        self.processes = [self._started("scheduler", *HOST, "--scheduler-file", str(self.address))]
        wait(self.address.exists)
        self.at = json.loads(self.address.read_text())["address"]

    def _started(self, name, *words, env=None):
        with (self.folder / f"{name}.log").open("wb") as log:
            words, env = [sys.executable, "-m", "dask", *words], {**os.environ, **(env or {})}
            return subprocess.Popen(words, cwd=self.folder / name, stdout=log, stderr=log, env=env)

    def worker(self, name, env=None):
        (self.folder / name).mkdir()
        made = self._started(name, "worker", self.at, "--nthreads", "1", "--no-nanny", "--no-dashboard", "--name", name,
                             "--local-directory", str(self.folder / name), env=env)  # fmt: skip
        self.processes.append(made)
        wait(lambda: "Registered to" in (self.folder / f"{name}.log").read_text())
        return made

    def end(self):
        for process in self.processes:
            process.kill()
            process.wait()


def wait(true):
    end = time.monotonic() + 120
    while not true():
        assert time.monotonic() < end
        time.sleep(0.02)


@pytest.fixture
def dask(tmp_path_factory):
    pytest.importorskip("distributed", reason="the extra kyanoscript[cluster] is not installed")
    made = Dask(tmp_path_factory.mktemp("dask"))
    yield made
    made.end()


def ran(folder, *more):
    words = [sys.executable, "-m", "kyanoscript", *words_of(folder, *more)]
    return subprocess.run(words, capture_output=True, text=True, timeout=240)


def test_a_cluster_gives_the_same_bytes_though_a_worker_is_killed_in_the_middle(folder, dask):
    for k in range(3, 24):
        Image.fromarray(np.roll(make_colourful(200, 300), 5 * k, 1)).save(folder / "in" / f"ferry-{k:02}.png")
    assert ran(folder).returncode == 0
    (folder / "out").rename(folder / "here")
    dask.worker("one")
    other = dask.worker("two")
    process = subprocess.Popen([sys.executable, "-m", "kyanoscript", *words_of(folder, "--cluster", dask.at, "--json")],
                               stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)  # fmt: skip
    manifest = folder / "out" / "edition.jsonl"
    wait(lambda: manifest.exists() and len(manifest.read_text().splitlines()) >= 3)
    other.kill()
    said, wrong = process.communicate(timeout=240)
    assert process.returncode == 0, wrong
    assert events(said)[-1] == {"event": "end", "done": 24, "failed": 0, "left": 0, "already": 0}
    names = [path.name for path in (folder / "here").glob("*.tif")]
    assert len(names) == 24
    assert all((folder / "out" / name).read_bytes() == (folder / "here" / name).read_bytes() for name in names)
    assert not list((dask.folder / "one").rglob("*.png"))
    assert main(["edition", "-o", str(folder / "out"), "--check"]) == 0


def test_a_cluster_that_is_none_or_another_is_refused_in_words(folder, dask):
    found = ran(folder, "--cluster", dask.at)
    assert (found.returncode, "this scheduler has no workers" in found.stderr) == (2, True)
    (dask.folder / "old").mkdir()
    (dask.folder / "old" / "sitecustomize.py").write_text("import kyanoscript\nkyanoscript.__version__ = '0.0.9'\n")
    (dask.folder / "old").rename(dask.folder / "site")
    dask.worker("old", {"PYTHONPATH": str(dask.folder / "site")})
    found = ran(folder, "--cluster", dask.at)
    assert found.returncode == 2
    assert "this worker has Kyanoscript '0.0.9', and here is 0.1.0" in found.stderr
    assert not (folder / "out").exists()
