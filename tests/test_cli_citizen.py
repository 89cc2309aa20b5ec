"""The command line among other programs: streams, signals, words it does not know, terminals that know few letters."""

import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import threading

import numpy as np
import pytest
from PIL import Image

from kyanoscript import demo
from kyanoscript.cli import main
from kyanoscript.core.kernel import library
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.base import COMMON
from kyanoscript.core.process.process import Process
from kyanoscript.core.script import Script, State
from kyanoscript.files.base import log
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.kept import processfile
from kyanoscript.files.kept.scriptfile import PhotoRef, write_script
from tests.conftest import make_colourful, package_lacking

P = load_all()
PROGRAM = [sys.executable, "-P", "-m", "kyanoscript"]


@pytest.fixture
def photo(tmp_path):
    file = tmp_path / "landing.png"
    Image.fromarray(make_colourful(80, 120)).save(file)
    return file


@pytest.fixture
def script(tmp_path):
    file = tmp_path / "tone.json"
    file.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "negative"}]}))
    return file


@contextlib.contextmanager
def closing(timer):
    """What never ends does not hold the tests up for ever."""
    timer.start()
    yield
    timer.cancel()


def program(*words, **more):
    return subprocess.run([*PROGRAM, *map(str, words)], capture_output=True, timeout=120, **more)


def one_line(done, *words):
    """Status 2, one line, no traceback, with these words."""
    said = done.stderr.decode()
    assert done.returncode == 2
    assert said.count("\n") == 1, said
    for part in words:
        assert part in said


@pytest.mark.parametrize(
    ("word", "meant"), [("help", "--help"), ("version", "--version"), ("rendr", "render"), ("chek", "check")]
)
def test_an_unknown_word_is_refused_with_the_nearest_command(word, meant, capsys):
    assert main([word]) == 2
    assert f"did you mean '{meant}'" in capsys.readouterr().err


def test_help_tells_of_the_window(capsys):
    with pytest.raises(SystemExit):
        main(["--help"])
    said = capsys.readouterr().out
    for word in ("--demo", "--picture", "standard input"):
        assert word in said


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["render", "PHOTO", "-o", "a.jpg", "--bits", "16"], "a JPEG has 8"),
        (["render", "PHOTO", "-o", "a.tif", "--threads", "-3"], "threads is -3; it must be 1…64"),
        (["render", "PHOTO", "-o", "a.tif", "--threads", "0"], "it must be 1…64"),
        (["render", "PHOTO", "PHOTO", "-o", "a.tif"], "--out-dir"),
        (["render", "PHOTO", "--out-dir", "PHOTO"], "writing failed"),
        (["render", "PHOTO", "-o", "a.tif", "--jobs", "2"], "several jobs are for several photographs"),
        (["render", "PHOTO", "--out-dir", "prints", "--jobs", "0"], "jobs is 0; it must be 1…256"),
        (["render", "PHOTO", "-o", "a.png", "--format", "jpg"], "leave one of them out"),
        (["render", "-", "--script", "-", "-o", "a.png"], "only one thing"),
        (["trace", "PHOTO", "--at", "-1,3"], "at is -1,3; it must lie within the print"),
    ],
)
def test_what_cannot_be_meant_is_refused(photo, tmp_path, monkeypatch, capsys, words, said):
    monkeypatch.chdir(tmp_path)
    assert main([str(photo) if word == "PHOTO" else word for word in words]) == 2
    assert said in capsys.readouterr().err
    assert [p.name for p in tmp_path.iterdir()] == ["landing.png"]


def test_options_are_written_in_full(photo, tmp_path, capsys):
    with pytest.raises(SystemExit) as ended:
        main(["render", str(photo), "-o", str(tmp_path / "a.tif"), "--longer", "30"])
    assert ended.value.code == 2
    assert "--longer" in capsys.readouterr().err


def test_photograph_script_and_print_through_pipes(photo, script):
    wanted = 255 - np.asarray(Image.open(photo))
    words = ["render", "-", "--script", script, "-o", "-", "--format", "png", "--bits", "8"]
    done = program(*words, input=photo.read_bytes())
    assert done.returncode == 0
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(done.stdout))), wanted)
    assert b"120 \xc3\x97 80 px" in done.stderr
    for name in ("-", "/dev/stdin"):
        words = ["render", photo, "--script", name, "-o", "-", "--format", "png", "--bits", "8", "-q"]
        done = program(*words, input=script.read_bytes())
        assert np.array_equal(np.asarray(Image.open(io.BytesIO(done.stdout))), wanted)
        assert done.stderr == b""
    assert program("check", "-", input=script.read_bytes()).returncode == 0


def test_several_photographs_go_into_a_folder_and_one_bad_one_stops_nothing(photo, script, tmp_path, capsys):
    prints, bad, other = tmp_path / "prints", tmp_path / "bad.png", tmp_path / "more"
    prints.mkdir()
    other.mkdir()
    bad.write_bytes(b"no picture")
    again = other / "landing.png"
    again.write_bytes(photo.read_bytes())
    words = ["render", *map(str, (photo, bad, again)), "--script", str(script), "--out-dir", str(prints)]
    assert main([*words, "--json", "--format", "jpg"]) == 2
    captured = capsys.readouterr()
    rows = json.loads(captured.out)
    assert [row.get("width") for row in rows] == [120, None, 120]
    assert "bad.png" in rows[1]["error"]
    assert "bad.png" in captured.err
    assert sorted(p.name for p in prints.iterdir()) == ["landing-2.jpg", "landing.jpg"]


def test_a_file_that_is_there_can_be_left_alone(photo, tmp_path, capsys):
    target = tmp_path / "print.tif"
    target.write_bytes(b"precious")
    words = ["render", str(photo), "-o", str(target), "--no-clobber"]
    assert main(words) == 0  # it is what was asked for
    assert "stays as it is" in capsys.readouterr().err
    assert main([*words, "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {"photo": str(photo), "file": str(target), "left": True}
    assert target.read_bytes() == b"precious"


def test_one_photograph_that_fails_is_told_as_json_too(tmp_path, capsys):
    bad = tmp_path / "bad.png"
    bad.write_bytes(b"no picture")
    assert main(["render", str(bad), "-o", str(tmp_path / "a.tif"), "--json"]) == 2
    row = json.loads(capsys.readouterr().out)
    assert row["photo"] == str(bad)
    assert "bad.png" in row["error"]


EVIL = "quay\x1b[31m\x1b]0;title\x07\u202egpj\x9b2J"
ACTS = ("\x1b", "\x07", "\u202e", "\x9b")


def test_no_word_of_a_file_acts_on_the_terminal(tmp_path, capsys, monkeypatch):
    """Names of states, passes, processes, files and cameras: spelt out, wherever they are printed or noted."""
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path / "data"))
    photo = tmp_path / f"{EVIL}.jpg"
    exif = Image.Exif()
    exif[0x010F] = exif[0x0110] = EVIL.encode("latin-1", "replace").decode("latin-1")
    Image.fromarray(make_colourful(40, 60)).save(photo, exif=exif)
    steps = tuple(P[kind](name=EVIL, note=EVIL) for kind in ("levels", "negative"))
    states = tuple(State(Script(steps[:k]), EVIL, EVIL, k, EVIL, 1) for k in (1, 2))
    file = tmp_path / "kept.kyano"
    write_script(file, Script(steps, states=states), PhotoRef(photo, sha256(photo), 60, 40))
    processfile.keep(Process(name=EVIL, paper=EVIL))
    for words in (
        ["states", file], ["states", file, "--json"], ["differ", f"{file}#I", f"{file}#II"], ["processes"],
        ["processes", EVIL], ["processes", "--json"], ["info", photo], ["info", photo, "--json"], ["check", file],
        ["render", file, "-o", tmp_path / f"{EVIL}.png", "-v"], ["render", EVIL, "-o", tmp_path / "b.png"],
        ["trace", photo, "--script", file, "--at", "1,1"], ["sheet", file, "-o", tmp_path / f"{EVIL}.pdf"],
    ):  # fmt: skip
        main(list(map(str, words)))
        said = capsys.readouterr()
        assert said.out + said.err
        assert not [letter for letter in ACTS if letter in said.out + said.err], words
        if "--json" in words:
            assert json.loads(said.out)
    noted = log.path().read_text() if log.path().exists() else ""
    assert not [letter for letter in ACTS if letter in noted]


def test_standard_output_that_is_closed(tmp_path, photo):
    def close():
        os.close(1)

    done = subprocess.run([*PROGRAM, "passes"], stderr=subprocess.PIPE, timeout=300, preexec_fn=close)
    one_line(done, "could not be written")
    words = [*PROGRAM, "render", str(photo), "-o", str(tmp_path / "a.png"), "-q"]
    done = subprocess.run(words, stderr=subprocess.PIPE, timeout=300, preexec_fn=close)
    assert (done.returncode, done.stderr) == (0, b"")
    assert (tmp_path / "a.png").exists()


def test_what_came_through_a_pipe_goes_when_it_is_stopped(tmp_path):
    """Stopped in the middle of a look at a scan that came from standard input."""
    script = tmp_path / "mend.json"
    script.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "mend"}]}))
    place = tmp_path / "temporary"
    place.mkdir()
    words = ["render", "-", "--script", str(script), "-o", str(tmp_path / "print.tif")]
    start, here = [sys.executable, "-P", "-c", ENDLESS, *words], {**os.environ, "TMPDIR": str(place)}
    streams = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "stderr": subprocess.PIPE}
    with subprocess.Popen(start, env=here, **streams) as process:
        process.stdin.write(demo.photo("yard-scan").read_bytes())
        process.stdin.close()
        assert process.stdout.readline() == b"looking\n"
        assert list(place.iterdir())
        process.send_signal(signal.SIGTERM)
        process.stdout.read()
        process.stderr.read()
    assert process.returncode == 128 + signal.SIGTERM
    assert list(place.iterdir()) == []


def test_quiet_verbose_and_json(photo, script, tmp_path, capsys):
    words = ["render", str(photo), "--script", str(script), "-o", str(tmp_path / "a.tif")]
    assert main([*words, "-q"]) == 0
    assert capsys.readouterr() == ("", "")
    assert main([*words, "-v"]) == 0
    said = capsys.readouterr()
    assert "8-bit RGB PNG" in said.err
    assert "written in" in said.err
    assert main([*words, "--json"]) == 0
    row = json.loads(capsys.readouterr().out)
    assert (row["width"], row["height"], row["file"]) == (120, 80, str(tmp_path / "a.tif"))
    assert main(["check", str(script), "--json"]) == 0
    assert json.loads(capsys.readouterr().out) == {"script": str(script), "valid": True, "passes": ["negative"]}


def test_what_every_pass_has_is_told_once(capsys):
    assert main(["passes"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0] == "every pass has"
    for name in COMMON:
        told = [line for line in lines if line.startswith(f"  {name} ")]
        assert 1 <= len(told) < 12, name  # again only where its default is another one


def test_a_terminal_that_knows_few_letters(photo, tmp_path):
    environment = {**os.environ, "PYTHONIOENCODING": "ascii", "LC_ALL": "C", "PYTHONUTF8": "0"}
    done = program("render", photo, "-o", tmp_path / "a.tif", env=environment)
    assert (done.returncode, done.stderr) == (0, b"")
    assert b"120 ? 80 px" in done.stdout
    done = program("passes", "--json", env=environment)
    assert json.loads(done.stdout.decode("ascii"))


def test_a_full_disk_behind_standard_output_and_a_reader_that_had_enough():
    with open("/dev/full", "wb") as full:
        done = subprocess.run([*PROGRAM, "passes"], stdout=full, stderr=subprocess.PIPE, timeout=300)
    one_line(done, "could not be written", "No space left")
    listing = subprocess.Popen([*PROGRAM, "passes", "--json"], stdout=subprocess.PIPE, stderr=subprocess.PIPE)
    listing.stdout.close()
    assert listing.stderr.read() == b""
    assert listing.wait(60) == 0
    listing.stderr.close()


def test_without_a_display_it_says_so_instead_of_crashing(tmp_path):
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    one_line(program(env=environment), "no display")
    one_line(program(env={**environment, "DISPLAY": ":7777"}), "no display")
    picture = tmp_path / "bench.png"  # a picture needs none
    done = program("--demo", "--picture", picture, env=environment)
    assert done.returncode == 0, done.stderr
    assert picture.exists()


def test_a_picture_of_a_photograph_that_is_not_there(tmp_path):
    done = program(
        "nothing.jpg", "--picture", tmp_path / "bench.png", env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    )
    one_line(done, "nothing.jpg: there is no such file")
    assert list(tmp_path.iterdir()) == []


def test_drawing_a_picture_leaves_what_is_remembered_alone(tmp_path, photo):
    state = tmp_path / "state"
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "KYANOSCRIPT_STATE": str(state)}
    assert program(photo, "--picture", tmp_path / "bench.png", env=environment).returncode == 0
    assert not (state / "remembered.json").exists()


ENDLESS = """
import sys, time
from kyanoscript.core.mend import detect
from kyanoscript.cli import main

def network(part):
    print("looking", flush=True)
    time.sleep(600)

detect.judged = network
sys.exit(main(sys.argv[1:]))
"""


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_a_long_look_at_a_scan_is_stopped_in_the_middle_of_a_step(tmp_path, number):
    """However long the step takes, and nothing half-written stays."""
    script = tmp_path / "mend.json"
    script.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "mend"}]}))
    words = ["render", str(demo.photo("yard-scan")), "--script", str(script), "-o", str(tmp_path / "print.tif")]
    start = [sys.executable, "-P", "-c", ENDLESS, *words]
    with subprocess.Popen(start, stderr=subprocess.PIPE, stdout=subprocess.PIPE) as process:
        assert process.stdout.readline() == b"looking\n"
        process.send_signal(number)
        _, said = process.communicate(timeout=300)
    assert process.returncode == 128 + number
    assert said.decode().strip().endswith("stopped; nothing was written")
    assert [p.name for p in tmp_path.iterdir()] == ["mend.json"]


@pytest.mark.parametrize(
    "loaded",
    ["kyanoscript.terminal", "kyanoscript.cli", "kyanoscript.cli.words", "numpy", "kyanoscript.files.editions.run"],
)
def test_an_interrupt_while_it_loads_is_no_traceback(tmp_path, loaded):
    """At the moment at which one of its parts has been imported, as Python itself tells; it waits for a photograph."""
    words = [sys.executable, "-X", "importtime", *PROGRAM[1:], "render", "-", "-o", str(tmp_path / "a.tif")]
    streams = {"stdin": subprocess.PIPE, "stderr": subprocess.PIPE, "stdout": subprocess.DEVNULL}
    with subprocess.Popen(words, **streams) as process, closing(threading.Timer(240, process.kill)):
        for line in process.stderr:
            if line.split()[-1:] == [loaded.encode()]:
                break
        process.send_signal(signal.SIGINT)
        said = process.stderr.read()
        process.stdin.close()
    assert b"Traceback" not in said
    assert process.returncode in (130, -signal.SIGINT)  # said by the program, or before it could say anything
    assert (process.returncode == 130) == (b"stopped; nothing was written" in said)


def test_a_strangers_folder_runs_no_code(tmp_path, photo):
    """What is missing of the kernels is compiled: a numba.py beside the photographs is not what compiles them."""
    package = package_lacking(tmp_path / "program", "kyanoscript.core.picture.read")
    cache = tmp_path / "kernels" / library.level()
    trap = "import pathlib; pathlib.Path(__file__).with_suffix('.ran').touch(); raise SystemExit(3)"
    for name in ("numba", "numpy", "llvmlite", "platformdirs", "sitecustomize", "json"):
        (tmp_path / f"{name}.py").write_text(trap)
    environment = {**os.environ, "KYANOSCRIPT_KERNELS": str(tmp_path / "kernels"), "PYTHONPATH": str(package)}
    words = [sys.executable, "-P", "-m", "kyanoscript", "render", str(photo), "-o", str(tmp_path / "a.png")]
    done = subprocess.run(words, cwd=tmp_path, env=environment, capture_output=True, timeout=300)
    assert done.returncode == 0, done.stderr
    assert list(tmp_path.glob("*.ran")) == []
    assert list(cache.glob("picture.read-*.so"))  # compiled, and not within the process for want of it


def test_a_picture_outside_the_scripts_folder_needs_trust(tmp_path, photo, capsys):
    secret = tmp_path / "elsewhere" / "secret.png"
    secret.parent.mkdir()
    Image.fromarray(make_colourful(20, 30)).save(secret)
    home = tmp_path / "home"
    home.mkdir()
    script = home / "s.json"
    plate = {"pass": "plate", "source": "picture", "picture": str(secret)}
    script.write_text(json.dumps({"kyanoscript": 1, "passes": [plate]}))
    words = ["render", str(photo), "--script", str(script), "-o", str(tmp_path / "a.tif")]
    assert main(words) == 2
    said = capsys.readouterr().err
    assert str(secret) in said
    assert "--trust" in said
    assert not (tmp_path / "a.tif").exists()
    assert main([*words, "--trust"]) == 0


@pytest.mark.parametrize("limit", [300, 500, 650, 700])
def test_too_little_memory_is_one_clear_line(tmp_path, limit):
    import resource

    target = tmp_path / "a.tif"
    words = ["render", demo.photo(), "--script", demo.finished("sepia").script, "-o", target]

    def little():
        resource.setrlimit(resource.RLIMIT_AS, (limit << 20, limit << 20))

    done = program(*words, preexec_fn=little)
    if limit < 640 or done.returncode:  # with a little more it may be enough, by the machine
        one_line(done, "memory" if limit >= 640 else "address space")
        assert not target.exists()
    assert not list(tmp_path.glob(".*"))


@pytest.mark.parametrize("suffix", ["jpg", "png", "tif"])
def test_a_disk_that_takes_only_a_part_gets_nothing(tmp_path, suffix):
    """Half a write is no write: what was there stays."""
    import resource

    target = tmp_path / f"print.{suffix}"
    target.write_bytes(b"old")

    def small():
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, 100_000))

    done = program("render", demo.photo(), "-o", target, preexec_fn=small)
    one_line(done, "disk")
    assert [p.name for p in tmp_path.iterdir()] == [target.name]
    assert target.read_bytes() == b"old"


NUMBERS = {
    "render": ["--ppi"], "sheet": ["--margin"], "plates": ["--trap", "--angles", "--grain", "--device"],
    "wedge": ["--ppi"], "read": ["--white", "--smoothing", "--minutes"], "darkroom": ["--minutes", "--ppi"],
}  # fmt: skip


@pytest.mark.parametrize("number", ["nan", "inf", "-inf", "1e999", "abc", "", "5 mm", "9" * 5000])
@pytest.mark.parametrize(("command", "option"), [(c, o) for c, options in NUMBERS.items() for o in options])
def test_what_is_no_number_is_said_to_be_none(capsys, command, option, number):
    """Whatever a library makes of it: no word of its own reaches a person."""
    words = [command, "x.jpg", option, number, "-o", "out.tif"]
    with pytest.raises(SystemExit) as ended:
        main([word for word in words if (command, word) != ("wedge", "x.jpg")])
    said = capsys.readouterr().err.splitlines()[-1]
    assert ended.value.code == 2
    assert f"argument {option}" in said
    assert said.endswith(("is no number", "is no whole number")) or "expected one argument" in said
    assert len(said) < 200


@pytest.mark.parametrize("margin", ["-1", "500", "1e300"])
def test_a_margin_that_leaves_no_print(photo, tmp_path, capsys, margin):
    assert main(["sheet", str(photo), "--margin", margin, "-o", str(tmp_path / "a.pdf")]) == 2
    assert "leaves no print" in capsys.readouterr().err
    assert not (tmp_path / "a.pdf").exists()
