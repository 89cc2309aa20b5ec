"""A gray scan coloured from the command line; and what an album remembers."""

import json

import cv2
import numpy as np
import pytest
import skimage.data

from kyanoscript.cli import main
from kyanoscript.files.base.places import folder
from kyanoscript.files.kept.album import Choice, chosen_in, keep
from kyanoscript.files.kept.scriptfile import read_script


@pytest.fixture
def scan(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))
    file = tmp_path / "cup.png"
    cv2.imwrite(str(file), cv2.cvtColor(skimage.data.coffee(), cv2.COLOR_RGB2GRAY))
    return file


def chroma(file):
    """Mean CIE chroma of a picture, by OpenCV."""
    lab = cv2.cvtColor(cv2.imread(str(file)).astype(np.float32) / 255, cv2.COLOR_BGR2Lab)
    return float(np.hypot(lab[..., 1], lab[..., 2]).mean())


def test_what_is_read_surely_is_coloured_and_the_rest_said_to_stay_gray(scan, capsys):
    assert main(["tint", str(scan)]) == 0
    said = capsys.readouterr().out.splitlines()
    assert said[-1] == "cup-tinted.tif: written"
    assert 5 <= len(said) - 1 <= 12
    assert all(line.endswith(("% sure", "stays gray")) for line in said[:-1])
    assert any(line.endswith("% sure") for line in said)
    assert chroma(scan.with_name("cup-tinted.tif")) > 1.5
    before = scan.with_name("cup-tinted.tif").read_bytes()
    assert main(["tint", str(scan)]) == 2  # it would be written over
    assert "is there already" in capsys.readouterr().err
    assert scan.with_name("cup-tinted.tif").read_bytes() == before


def test_best_takes_a_tint_for_everything_and_a_script_goes_on_where_it_stopped(scan, capsys):
    assert main(["tint", str(scan), "--take", "best", "-o", "best.png", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["file"] == "best.png"
    assert all(part["tint"] in part["offered"] for part in told["parts"])
    assert main(["tint", str(scan), "-o", "surest.png"]) == 0
    for name in ("cup.kyano", "cup.json"):
        assert main(["tint", str(scan), "--take", "best", "-o", name]) == 0
    (step,) = read_script(scan.with_name("cup.kyano")).script.passes
    assert {dab.name: dab.colour for dab in step.dabs} == {part["name"]: part["tint"] for part in told["parts"]}
    assert read_script(scan.with_name("cup.json")).script.passes == (step,)
    assert main(["render", str(scan), "--script", "cup.json", "-o", "again.png"]) == 0
    one, other = (cv2.imread(str(scan.with_name(name)), -1).astype(int) for name in ("best.png", "again.png"))
    assert np.abs(one - other).max() <= 257  # one step of eight bits, of sixteen


@pytest.mark.parametrize(("words", "said"), [
    (["missing.png"], "missing.png"), (["cup.png", "-o", "x.xyz"], "prints are not written as .xyz"),
    (["cup.png", "-o", "cup.png"], "cup.png"), (["cup.png", "--take", "all"], "--take"),
    (["words.txt"], "words.txt"),
])  # fmt: skip
def test_what_cannot_be_is_said_and_nothing_is_written(scan, capsys, words, said):
    scan.with_name("words.txt").write_text("no picture")
    before = {file.name: file.read_bytes() for file in scan.parent.iterdir() if file.is_file()}
    try:
        status = main(["tint", *words])
    except SystemExit as ended:
        status = ended.code
    assert status == 2
    assert said in capsys.readouterr().err
    assert {file.name: file.read_bytes() for file in scan.parent.iterdir() if file.is_file()} == before


# The album


def choice(photo, tint="#9c4fd0", part="wall"):
    return Choice(photo, part, tint, (1.0, 2.5))


def test_an_album_keeps_what_was_chosen_last_for_each_scan(scan):
    album = scan.parent
    keep(album, "a.png", [choice("a.png")])
    keep(album, "b.png", [choice("b.png", "#112233")])
    keep(album, "a.png", [choice("a.png", "#445566")])
    assert chosen_in(album) == [choice("b.png", "#112233"), choice("a.png", "#445566")]
    assert chosen_in(album / "other") == []
    keep(album, "a.png", [])
    assert chosen_in(album) == [choice("b.png", "#112233")]


def test_it_forgets_the_oldest_and_stays_small(scan):
    for k in range(30):
        keep(scan.parent / f"album {k}", "a.png", [choice("a.png")])
    assert chosen_in(scan.parent / "album 0") == []
    assert len(chosen_in(scan.parent / "album 29")) == 1
    keep(scan.parent, "a.png", [choice("a.png", part=f"part {k}") for k in range(500)])
    assert [one.part for one in chosen_in(scan.parent)][-1] == "part 499"
    assert len(chosen_in(scan.parent)) == 120


@pytest.mark.parametrize("text", [
    "", "[1, 2]", "{", '{"ALBUM": 3}', '{"ALBUM": [{"photo": "a", "part": "b", "tint": "red", "numbers": [1]}]}',
    '{"ALBUM": [{"photo": "a", "part": "b", "tint": "#112233", "numbers": ["x"]}]}',
    '{"ALBUM": [7, null, {"tint": "#112233", "numbers": [NaN]}]}',
])  # fmt: skip
def test_what_cannot_be_read_is_nothing_that_was_chosen(scan, text):
    folder().mkdir(parents=True)
    (folder() / "album.json").write_text(text.replace("ALBUM", str(scan.parent)))
    assert chosen_in(scan.parent) == []
    keep(scan.parent, "a.png", [choice("a.png")])
    assert chosen_in(scan.parent) == [choice("a.png")]


def test_a_folder_that_cannot_be_written_keeps_nothing_and_stops_nobody(scan, monkeypatch):
    scan.with_name("file").write_text("")
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(scan.with_name("file") / "state"))
    keep(scan.parent, "a.png", [choice("a.png")])
    assert chosen_in(scan.parent) == []
