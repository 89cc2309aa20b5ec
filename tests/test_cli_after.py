"""``after``: a print followed on the command line."""

import json

import pytest
import skimage.data
import tifffile

from kyanoscript.cli import main
from kyanoscript.files.kept.scriptfile import read_script


@pytest.fixture
def files(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    tifffile.imwrite("coffee.tif", skimage.data.coffee(), photometric="rgb")
    tifffile.imwrite("cat.tif", skimage.data.chelsea(), photometric="rgb")
    assert main(["render", "coffee.tif", "--recipe", "selenium", "-o", "earlier.jpg"]) == 0
    return tmp_path


def test_a_print_is_followed_and_the_script_prints_like_it(files, capsys):
    """The whole way: found, written, rendered, and no further from the print than JPEG and a curve of five points."""
    assert main(["after", "earlier.jpg", "coffee.tif", "--leave", "recipe", "-o", "run.json"]) == 0
    said = capsys.readouterr().out
    assert "The same scene" in said
    assert "Weights of colours: red" in said
    assert "A recipe of the book (offered)" in said
    assert main(["render", "coffee.tif", "--script", "run.json", "-o", "again.tif"]) == 0
    from PIL import Image

    earlier = Image.open("earlier.jpg").convert("RGB")
    again = Image.open("again.tif").convert("RGB")
    away = [abs(a - b) for a, b in zip(earlier.tobytes(), again.tobytes(), strict=True)]
    assert sum(away) / len(away) < 6


def test_another_scene_says_so_and_takes_what_is_told_it(files, capsys):
    words = ["after", "earlier.jpg", "cat.tif", "--json"]
    assert main(words) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["same_scene"] is False
    taken = {row["what"] for row in told["found"] if row["taken"]}
    assert "tones" not in taken
    assert main([*words, "--leave", "recipe", "--take", "tones", "-o", "run.kyano"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert "curves" in [step["pass"] for step in told["script"]["passes"]]
    assert "curves" in [step.kind for step in read_script(files / "run.kyano").script.passes]


def test_a_colour_photograph_proposes_nothing(files, capsys):
    assert main(["after", "cat.tif", "coffee.tif"]) == 0
    said = capsys.readouterr().out
    assert "no one tint for each tone" in said
    assert "Nothing is proposed" in said


@pytest.mark.parametrize(
    ("words", "complaint"),
    [
        (["gone.jpg", "coffee.tif"], "gone.jpg: there is no such file"),
        (["earlier.jpg", "gone.tif"], "gone.tif: there is no such file"),
        (["earlier.jpg", "coffee.tif", "-o", "run.png"], "run.png is no script"),
    ],
)
def test_what_cannot_be_is_one_line(files, capsys, words, complaint):
    assert main(["after", *words]) == 2
    said = capsys.readouterr().err
    assert complaint in said
    assert len(said.splitlines()) == 1


def test_a_thing_that_is_none_is_refused(files, capsys):
    with pytest.raises(SystemExit):
        main(["after", "earlier.jpg", "coffee.tif", "--take", "mood"])
    assert "mood" in capsys.readouterr().err
