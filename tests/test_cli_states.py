"""States, differences and strips on the command line."""

import json
from dataclasses import replace

import numpy as np
import pytest
import tifffile

from kyanoscript.cli import main
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, State
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.kept.scriptfile import PhotoRef, write_script
from tests.conftest import make_colourful

P = load_all()


@pytest.fixture
def photo(tmp_path):
    file = tmp_path / "landing.tif"
    tifffile.imwrite(file, make_colourful(120, 210, np.uint16), photometric="rgb")
    return file


@pytest.fixture
def kept(tmp_path, photo):
    """A script with three states."""
    start = Script((P["levels"](), P["gradient-map"](strength=80.0)))
    punch = start.with_pass(0, start.passes[0].model_copy(update={"gamma": 0.7}))
    states = (
        State(punch, "only the punch", "", 1, "2026-11-26T10:04", 3),
        State(replace(start, origin=1), "paler", "for the ferry office", 2, "2026-11-26T10:11", 1),
    )
    file = tmp_path / "landing.kyano"
    reference = PhotoRef(photo, sha256(photo), 210, 120)
    write_script(file, replace(start, states=states, origin=2), reference)
    return file


def test_states_are_listed(kept, capsys):
    assert main(["states", str(kept)]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0].split() == [
        "I",
        "only",
        "the",
        "punch",
        "2026-11-26",
        "10:04",
        "3",
        "steps",
        "from",
        "the",
        "photo",
    ]
    assert "1 step from I" in lines[1]
    assert lines[1].endswith("for the ferry office")
    assert main(["states", str(kept), "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert [row["numeral"] for row in rows] == ["I", "II"]
    assert rows[1]["made from"] == 1


def test_differences_are_said_in_words(kept, capsys):
    assert main(["differ", f"{kept}#I", str(kept)]) == 0
    assert capsys.readouterr().out == "Levels: middle 1 → 0.7\n"
    assert main(["differ", f"{kept}#II", str(kept)]) == 0
    assert capsys.readouterr().out == "no difference\n"
    assert main(["differ", f"{kept}#1", f"{kept}#ii", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found == {"differences": [{"title": "Levels", "words": "middle 1 → 0.7"}], "equal prints": False}
    assert main(["differ", "sepia-bath", str(kept)]) == 0
    assert "is gone" in capsys.readouterr().out


def test_a_state_is_rendered_by_its_number(kept, photo, tmp_path):
    out = tmp_path / "first.tif"
    assert main(["render", f"{kept}#I", "-o", str(out)]) == 0  # of its own photograph
    run = (P["levels"](gamma=0.7), P["gradient-map"](strength=80.0))
    wanted = Renderer(ArraySource(tifffile.imread(photo)), Script(run)).region(Rect(0, 0, 210, 120))
    assert np.abs(tifffile.imread(out) / 65535 - np.moveaxis(wanted, 0, 2)).max() < 1.1 / 65535
    again = tmp_path / "again.tif"
    assert main(["render", str(photo), "--script", f"{kept}#I", "-o", str(again)]) == 0
    assert again.read_bytes() == out.read_bytes()
    assert main(["render", str(kept), "-o", str(tmp_path / "whole.tif")]) == 0
    assert (tmp_path / "whole.tif").read_bytes() != out.read_bytes()


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["render", "{kept}#IV", "-o", "x.tif"], "there is no state IV in it; it has I, II"),
        (["differ", "{kept}#IX", "{kept}"], "there is no state IX"),
        (["differ", "no-such", "{kept}"], "there is no recipe 'no-such'"),
        (["states", "{photo}"], "is not a script"),
        (["differ", "{kept}#frog", "{kept}"], "there is no such file"),
        (["strip", "{photo}", "--script", "{kept}", "-o", "x.png"], "needs one row of values"),
        (
            ["strip", "{photo}", "--script", "{kept}", "--set", "levels.gamma=1..20", "-o", "x.png"],
            "it must be 0.1…9.99",
        ),
        (
            ["strip", "{photo}", "--script", "{kept}", "--set", "levels.gama=1..2", "-o", "x.png"],
            "did you mean 'gamma'",
        ),
        (["strip", "{photo}", "--script", "{kept}", "--set", "levels.gamma=1..2/40", "-o", "x.png"], "3 to 15 bands"),
        (["strip", "{photo}", "--script", "{kept}", "--set", "soften.radius=1..2", "-o", "x.png"], "has no soften"),
        (["strip", "{photo}", "--script", "{kept}", "--set", "levels.gamma=1..2", "-o", "-"], "goes into a file"),
        (["strip", "{photo}", "--script", "{kept}", "--set", "levels.gamma=1..2", "-o", "{photo}"], "never written to"),
    ],
)
def test_what_cannot_be_done_is_said_in_one_line(kept, photo, words, said, capsys):
    line = [word.format(kept=kept, photo=photo) for word in words]
    before = photo.read_bytes()
    assert main(line) == 2
    error = capsys.readouterr().err
    assert said in error
    assert error.count("\n") == 1
    assert photo.read_bytes() == before


def test_a_script_whose_photograph_is_gone_says_so(kept, photo, capsys):
    photo.unlink()
    assert main(["render", f"{kept}#I", "-o", "x.tif"]) == 2
    assert "its photograph landing.tif is not there" in capsys.readouterr().err


def test_a_strip_and_a_field_are_written(kept, photo, tmp_path, capsys):
    out = tmp_path / "strip.tif"
    base = ["strip", str(photo), "--script", str(kept)]
    assert main([*base, "--set", "levels.gamma=0.7..1.4/7", "-o", str(out)]) == 0
    assert capsys.readouterr().out == "strip.tif: 7 bands, 210 × 120 px\n"
    pixels = tifffile.imread(out)
    run = (P["levels"](gamma=0.7), P["gradient-map"](strength=80.0))
    wanted = Renderer(ArraySource(tifffile.imread(photo)), Script(run)).region(Rect(0, 0, 30, 90))
    assert np.abs(pixels[:90, :30] / 65535 - np.moveaxis(wanted, 0, 2)).max() < 1.1 / 65535
    rows = [*base, "--set", "levels.gamma=0.7..1.4/3", "--set", "gradient-map.strength=40..100/4", "--json"]
    assert main([*rows, "-o", str(tmp_path / "field.png")]) == 0
    found = json.loads(capsys.readouterr().out)
    assert (found["columns"], found["rows"], len(found["bands"])) == (3, 4, 12)
    assert found["bands"][0] == "0.7, 40 %"
    down = [*base, "--set", "levels.gamma=0.7..1.4/5", "--down", "--same", "--equal", "--json"]
    assert main([*down, "-o", str(tmp_path / "down.jpg")]) == 0
    assert json.loads(capsys.readouterr().out)["rows"] == 5


def test_a_strip_is_written_on_a_sheet(kept, photo, tmp_path, capsys):
    out = tmp_path / "strip.pdf"
    rows = ["--set", "levels.gamma=0.7..1.4/5", "--set", "sheet.across=150", "--set", "sheet.resolution=72"]
    assert main(["strip", str(photo), "--script", str(kept), *rows, "-o", str(out)]) == 0
    assert capsys.readouterr().out == "strip.pdf: 5 bands on 297 × 210 mm, 842 × 595 px\n"
    assert out.read_bytes().startswith(b"%PDF")
    assert main(["strip", str(photo), *rows, "--script", str(kept), "--longer-side", "90", "-o", str(out)]) == 2
    assert "leave --longer-side out" in capsys.readouterr().err
    assert main(["strip", str(photo), *rows, "--script", str(kept), "--sheet", "Nothing", "-o", str(out)]) == 2
    assert "there is no sheet Nothing" in capsys.readouterr().err.replace("'", "").replace('"', "")


def test_a_file_with_a_hash_in_its_name_is_that_file(kept, tmp_path, capsys):
    named = tmp_path / "landing.kyano#I"
    named.write_bytes(kept.read_bytes())
    assert main(["differ", str(named), str(kept)]) == 0
    assert capsys.readouterr().out == "no difference\n"


def test_who_is_in_a_photograph_is_told(tmp_path, capsys):
    import skimage.data

    file = tmp_path / "portrait.tif"
    tifffile.imwrite(file, skimage.data.astronaut(), photometric="rgb")
    assert main(["look", str(file)]) == 0
    said = capsys.readouterr().out
    assert said.startswith("person 1: face at 44 %, ")
    assert "skin, lips, eyes, brows, hair, " in said
    assert "clothes, blush" in said
    assert main(["look", str(file), "--json"]) == 0
    (found,) = json.loads(capsys.readouterr().out)
    assert found["parts"]["lips"]["outlines"][0][0][0] == pytest.approx(44, abs=8)
    nobody = tmp_path / "cup.tif"
    tifffile.imwrite(nobody, skimage.data.coffee(), photometric="rgb")
    assert main(["look", str(nobody)]) == 0
    assert capsys.readouterr().out == "nobody\n"
    assert main(["look", str(tmp_path / "missing.tif")]) == 2
