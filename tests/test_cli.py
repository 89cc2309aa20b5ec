"""The command line, as a person types it."""

import json
import subprocess
import sys

import numpy as np
import pytest
import tifffile

from kyanoscript import demo
from kyanoscript.cli import main
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import from_json
from tests.conftest import make_colourful
from tests.core.test_script import EXAMPLE


@pytest.fixture
def photo(tmp_path):
    file = tmp_path / "photo.tif"
    tifffile.imwrite(file, make_colourful(200, 300, np.uint16), photometric="rgb", rowsperstrip=16)
    return file


@pytest.fixture
def script(tmp_path):
    file = tmp_path / "tone.json"
    file.write_text(json.dumps(EXAMPLE))
    return file


def test_render_is_the_engine_and_says_what_it_wrote(photo, script, tmp_path, capsys):
    out = tmp_path / "print.tif"
    assert main(["render", str(photo), "--script", str(script), "-o", str(out)]) == 0
    assert "300 × 200 px" in capsys.readouterr().out
    wanted = Renderer(ArraySource(tifffile.imread(photo)), from_json(EXAMPLE)).region(Rect(0, 0, 300, 200))
    assert np.abs(tifffile.imread(out) / 65535 - np.moveaxis(wanted, 0, 2)).max() < 1.1 / 65535


def test_render_without_a_script_is_the_photograph(photo, tmp_path):
    out = tmp_path / "same.tif"
    assert main(["render", str(photo), "-o", str(out)]) == 0
    assert np.array_equal(tifffile.imread(out), tifffile.imread(photo))


def test_longer_side_threads_and_the_rest(photo, script, tmp_path):
    one, two = tmp_path / "1.png", tmp_path / "2.png"
    common = ["render", str(photo), "--script", str(script), "--longer-side", "150", "--bits", "8"]
    assert main([*common, "-o", str(one), "--threads", "1"]) == 0
    assert main([*common, "-o", str(two), "--threads", "4"]) == 0
    assert one.read_bytes() == two.read_bytes()
    jpeg = tmp_path / "a.jpg"
    assert main(["render", str(photo), "-o", str(jpeg), "--quality", "80", "--profile", "gray", "--ppi", "240"]) == 0


def test_the_demo_renders(tmp_path):
    for name in demo.NAMES:
        out = tmp_path / f"{name}.png"
        words = ["render", str(demo.photo(name)), "--script", str(demo.script(name)), "-o", str(out)]
        assert main([*words, "--longer-side", "300"]) == 0


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        ({"pass": "levls"}, "did you mean 'levels'"),
        ({"pass": "gray-weights", "red": 400}, "gray-weights.red is 400; it must be −200…300 %"),
        ({"pass": "levels", "in_black": "71"}, 'levels.in_black is "71"; it must be 0…255'),
        ({"pass": "levels", "in_blac": 71}, "did you mean 'in_black'"),
    ],
)
@pytest.mark.parametrize("command", ["check", "render"])
def test_a_wrong_script_is_one_line_and_status_2(photo, tmp_path, capsys, command, entry, words):
    file, out = tmp_path / "wrong.json", tmp_path / "out.tif"
    file.write_text(json.dumps({"kyanoscript": 1, "passes": [entry]}))
    arguments = [str(file)] if command == "check" else [str(photo), "--script", str(file), "-o", str(out)]
    assert main([command, *arguments]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert words in said
    assert "wrong.json" in said
    assert not out.exists()


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["render", "nothing.jpg", "-o", "a.tif"], "no such file"),
        (["render", "PHOTO", "-o", "a.bmp"], "End the name in"),
        (["render", "PHOTO", "-o", "PHOTO"], "never written to"),
        (["render", "PHOTO", "-o", "no/such/a.tif"], "does not exist"),
        (["render", "PHOTO", "-o", "a.jpg", "--quality", "0"], "quality is 0; it must be 1…100"),
        (["render", "PHOTO", "-o", "a.tif", "--longer-side", "0"], "longer side is 0"),
        (["check", "nothing.json"], "no such file"),
        (["passes", "levls"], "did you mean 'levels'"),
    ],
)
def test_what_cannot_be_is_one_line_and_status_2(photo, tmp_path, monkeypatch, capsys, arguments, words):
    monkeypatch.chdir(tmp_path)
    before = photo.read_bytes()
    assert main([a.replace("PHOTO", str(photo)) for a in arguments]) == 2
    said = capsys.readouterr().err
    assert said.count("\n") == 1
    assert words in said
    assert photo.read_bytes() == before
    assert sorted(p.name for p in tmp_path.iterdir()) == ["photo.tif"]


def test_check_says_that_a_script_is_valid(script, capsys):
    assert main(["check", str(script)]) == 0
    assert "valid, 3 passes" in capsys.readouterr().out


def test_passes_are_listed_from_their_declarations(capsys):
    assert main(["passes", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    assert [entry["name"] for entry in listed] == list(load_all())
    for entry in listed:
        model = load_all()[entry["name"]]
        assert [p["name"] for p in entry["parameters"]] == list(model.model_fields)
        for parameter in entry["parameters"]:
            if parameter["kind"] == "number":
                assert parameter["min"] <= parameter["default"] <= parameter["max"]
    assert main(["passes", "gray-weights"]) == 0
    said = capsys.readouterr().out
    assert "−200…300 %" in said
    assert "red glass" in said
    assert "gradient-map" not in said


def test_as_a_program_of_its_own(script):
    done = subprocess.run([sys.executable, "-m", "kyanoscript", "check", str(script)], capture_output=True, text=True)
    assert (done.returncode, done.stderr) == (0, "")
    done = subprocess.run([sys.executable, "-m", "kyanoscript", "render"], capture_output=True, text=True)
    assert done.returncode == 2
    assert "usage" in done.stderr


def test_the_window_draws_itself_into_a_file(tmp_path):
    """What `make demo` does where there is no display."""
    picture = tmp_path / "bench.png"
    words = [sys.executable, "-m", "kyanoscript", "--demo", "--picture", str(picture)]
    done = subprocess.run(words, capture_output=True, text=True, timeout=120)
    assert done.returncode == 0, done.stderr
    assert str(picture) in done.stdout
    from PIL import Image

    with Image.open(picture) as image:
        assert image.size == (1280, 800)
        assert len(image.convert("RGB").crop((160, 80, 950, 580)).getcolors(10**6)) > 500
