"""The command line, as a person types it."""

import json
import subprocess
import sys

import numpy as np
import pytest
import tifffile

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
    first, two = tmp_path / "1.png", tmp_path / "2.png"
    common = ["render", str(photo), "--script", str(script), "--longer-side", "150", "--bits", "8"]
    assert main([*common, "-o", str(first), "--threads", "1"]) == 0
    assert main([*common, "-o", str(two), "--threads", "4"]) == 0
    assert first.read_bytes() == two.read_bytes()
    jpeg = tmp_path / "a.jpg"
    assert main(["render", str(photo), "-o", str(jpeg), "--quality", "80", "--profile", "gray", "--ppi", "240"]) == 0


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
        (["render", "PHOTO", "-o", "a.tif", "--longer-side", "0"], "longer_side is 0"),
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
        assert [p["name"] for p in entry["parameters"]] == list(model.params())
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
    done = subprocess.run(words, capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr
    assert str(picture) in done.stdout
    from PIL import Image

    with Image.open(picture) as image:
        assert image.size == (1280, 800)
        assert len(image.convert("RGB").crop((160, 80, 950, 580)).getcolors(10**6)) > 500


# Setting values, tracing a spot, showing a stencil


def test_set_overrides_a_value_of_the_script(photo, script, tmp_path):
    plain, changed = tmp_path / "1.tif", tmp_path / "2.tif"
    assert main(["render", str(photo), "--script", str(script), "-o", str(plain)]) == 0
    words = ["--set", "gray-weights.red=90", "--set", "levels.1.gamma=1.5", "--set", "frame.ratio=1:1"]
    assert main(["render", str(photo), "--script", str(script), *words, "-o", str(changed)]) == 0
    assert tifffile.imread(plain).shape[:2] == (200, 300)
    assert tifffile.imread(changed).shape[:2] == (200, 200)


@pytest.mark.parametrize(
    ("words", "wanted"),
    [
        ("gray-weights.red=999", "gray-weights.red is 999; it must be −200…300 %"),
        ("gray-weights.rde=9", "did you mean 'red'"),
        ("grayweights.red=9", "did you mean 'gray-weights'"),
        ("levels.2.gamma=1", "the script has 1 levels"),
        ("sharpen.amount=50", "the script has no sharpen"),
        ("levels.gamma", "write it as levels.gamma=1.2"),
        ("frame.tilt=60", "frame.tilt is 60; it must be −45…45 °"),
    ],
)
def test_a_value_that_cannot_be_set_is_one_clear_line(photo, script, tmp_path, capsys, words, wanted):
    out = tmp_path / "a.tif"
    assert main(["render", str(photo), "--script", str(script), "--set", words, "-o", str(out)]) == 2
    said = capsys.readouterr().err
    assert wanted in said
    assert said.count("\n") == 1
    assert not out.exists()


def test_trace_says_what_became_of_a_spot(photo, script, capsys):
    assert main(["trace", str(photo), "--script", str(script), "--at", "120,80"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == 1 + len(EXAMPLE["passes"])
    assert lines[0].startswith("photo")
    assert "gray-weights" in lines[1]
    assert main(["trace", str(photo), "--script", str(script), "--at", "120,80", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    pixel = tifffile.imread(photo)[80, 120] / 65535 * 255
    assert rows[0]["rgb"] == pytest.approx(pixel, abs=0.01)
    wanted = Renderer(ArraySource(tifffile.imread(photo)), from_json(EXAMPLE)).region(Rect(120, 80, 1, 1))
    assert rows[-1]["rgb"] == pytest.approx(np.broadcast_to(wanted.ravel() * 255, 3), abs=0.01)


@pytest.mark.parametrize("at", ["5", "a,b", "300,10", "-1,0", "1,2,3"])
def test_a_spot_outside_the_print_is_named(photo, at, capsys):
    assert main(["trace", str(photo), f"--at={at}"]) == 2
    assert "at is" in capsys.readouterr().err


def test_a_stencil_is_written_as_a_gray_picture(photo, tmp_path, capsys):
    file, out = tmp_path / "s.json", tmp_path / "stencil.tif"
    oval = {"shape": "oval", "width": 400, "height": 400, "soft": 0}
    file.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "negative", "stencil": {"shapes": [oval]}}]}))
    assert main(["render", str(photo), "--script", str(file), "--stencil", "1", "-o", str(out)]) == 0
    found = tifffile.imread(out)
    assert found.shape == (200, 300)
    assert (found[100, 150], found[2, 2]) == (65535, 0)
    assert main(["render", str(photo), "--script", str(file), "--stencil", "2", "-o", str(out)]) == 2
    assert "1…1" in capsys.readouterr().err


def test_a_plates_picture_is_found_beside_the_script_or_named_if_missing(photo, tmp_path, capsys):
    from PIL import Image

    file, out = tmp_path / "s.json", tmp_path / "print.tif"
    script = {"kyanoscript": 1, "passes": [{"pass": "plate", "source": "picture", "picture": "lantern.png"}]}
    file.write_text(json.dumps(script))
    assert main(["render", str(photo), "--script", str(file), "-o", str(out)]) == 2
    assert "lantern.png: there is no such file" in capsys.readouterr().err
    assert not out.exists()
    cut = np.zeros((40, 40, 4), np.uint8)
    cut[10:30, 10:30] = (255, 200, 0, 255)
    Image.fromarray(cut).save(tmp_path / "lantern.png")
    assert main(["render", str(photo), "--script", str(file), "-o", str(out)]) == 0
    print_ = tifffile.imread(out)
    assert print_[100, 150] == pytest.approx(np.array([65535, 51400, 0]), abs=300)
    assert np.array_equal(print_[5, 5], tifffile.imread(photo)[5, 5])


def test_a_tiled_print_has_the_same_pixels(photo, script, tmp_path):
    strips, tiles = tmp_path / "1.tif", tmp_path / "2.tif"
    common = ["render", str(photo), "--script", str(script), "--set", "levels.gamma=1.2"]
    assert main([*common, "-o", str(strips)]) == 0
    assert main([*common, "--tiled", "-o", str(tiles)]) == 0
    with tifffile.TiffFile(tiles) as file:
        assert file.pages.first.is_tiled
    assert np.array_equal(tifffile.imread(strips), tifffile.imread(tiles))
    again = tmp_path / "3.tif"
    assert main(["render", str(tiles), "-o", str(again)]) == 0  # and is read in pieces
    assert np.array_equal(tifffile.imread(again), tifffile.imread(tiles))
