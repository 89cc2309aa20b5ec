"""``wedge``, ``read``, ``negative``, ``darkroom``, ``processes``: from a chart to a print by light, by command."""

import json

import pytest
from PIL import Image

from kyanoscript.cli import main
from kyanoscript.files.kept import processfile
from tests.conftest import make_colourful


@pytest.fixture(autouse=True)
def _own_data(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path / "data"))


@pytest.fixture
def photo(tmp_path):
    path = tmp_path / "dye-works.png"
    Image.fromarray(make_colourful(120, 180)).save(path)
    return path


def run(*words):
    return main([str(word) for word in words])


def test_the_whole_way(photo, tmp_path, capsys):
    """Time, filter ink, wedge, proof, negative, print: as somebody would go it."""
    film, scan, process = tmp_path / "f.tif", tmp_path / "s.jpg", tmp_path / "P.json"
    assert run("wedge", "--chart", "times", "-o", film) == 0
    assert run("darkroom", film, "--times", "0.1..60", "-o", scan) == 0
    assert run("read", scan, "--times", "0.1..60", "--name", "Landing blue", "-o", process) == 0
    assert "shortest time for full black: 11" in capsys.readouterr().out
    assert run("wedge", "--chart", "inks", "-o", film) == 0
    assert run("darkroom", film, "--minutes", 11, "-o", scan) == 0
    assert run("read", scan, "--process", process, "-o", process) == 0
    assert "filter ink #" in capsys.readouterr().out
    assert run("wedge", "--process", process, "-o", film) == 0
    minutes = processfile.read_process(process).minutes
    assert run("darkroom", film, "--minutes", minutes, "-o", scan) == 0
    assert run("read", scan, "--process", process, "-o", process, "--cgats", tmp_path / "P.txt") == 0
    said = capsys.readouterr().out
    assert "84 of 84 patches read" in said
    assert "turned by 1.4°, light evened by" in said
    assert "white L* 95" in said
    assert (tmp_path / "P.txt").read_text().startswith("CGATS.17")
    assert run("wedge", "--process", process, "--prove", "-o", film) == 0
    assert run("darkroom", film, "--minutes", minutes, "-o", scan, "--seed", 5) == 0
    capsys.readouterr()
    assert run("read", scan, "--process", process, "--prove", "-o", process) == 0
    left = capsys.readouterr().out.splitlines()[-1]
    assert left.startswith("left after the curve: 0.")
    assert run("negative", photo, "--process", process, "-o", tmp_path / "N.tif", "--set", "sheet.across=150",
               "--json") == 0  # fmt: skip
    made = json.loads(capsys.readouterr().out)
    assert made["pixels"] == [4209, 2976]
    assert made["files"] == [str(tmp_path / "N.tif")]
    assert run("darkroom", tmp_path / "N.tif", "--minutes", minutes, "-o", tmp_path / "print.png", "--ppi", 75) == 0
    with Image.open(tmp_path / "print.png") as image:
        red, _, blue = (band.getextrema() for band in image.convert("RGB").split())
        assert red[0] < 40 < blue[0]  # the deepest is a blue


def test_readings_without_a_scan(tmp_path, capsys):
    assert run("darkroom", "--densitometer", "--bath", "platinum", "-o", tmp_path / "D.txt") == 0
    assert "84 patches measured, ± 0.01 D" in capsys.readouterr().out
    assert run("read", tmp_path / "D.txt", "-o", tmp_path / "P.json") == 0
    assert "84 readings" in capsys.readouterr().out
    assert run("wedge", "--chart", 11, "-o", tmp_path / "f.png") == 0
    assert run("darkroom", tmp_path / "f.png", "-o", tmp_path / "s.png") == 0
    assert run("read", tmp_path / "s.png", "--white", 90, "-o", tmp_path / "W.json") == 0
    assert processfile.read_process(tmp_path / "W.json").end(False)[0] == pytest.approx(90, abs=0.4)
    capsys.readouterr()
    (tmp_path / "typed").write_text("95\n92\n85\n76\n66\n55\n45\n36\n29\n24\n22\n")
    assert run("read", tmp_path / "typed", "--list", "lightness", "--process", tmp_path / "P.json", "--add", "-o",
               tmp_path / "Q.json") == 0  # fmt: skip
    assert len(processfile.read_process(tmp_path / "Q.json").readings) == 95
    assert run("read", tmp_path / "typed", "--list", "lightness", "--json") == 0
    assert json.loads(capsys.readouterr().out.partition("\n{")[2].join(["{", ""]))["readings"][0]["lightness"] == 95


def test_processes_are_listed_and_described(capsys):
    assert run("processes") == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0] == "Cyanotype: cotton, 11 min, 84 readings"
    assert run("processes", "platinum") == 0
    assert "chemistry: platinum–palladium, 1 : 1" in capsys.readouterr().out
    assert run("processes", "--json") == 0
    assert json.loads(capsys.readouterr().out)[0]["name"] == "Cyanotype"


def test_a_negative_for_each_ink(photo, tmp_path, capsys):
    script = tmp_path / "two.json"
    script.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "inks", "count": 2}]}))
    words = ["negative", photo, "--script", script, "--process", "Cyanotype", "--process", "Platinum", "-o",
             tmp_path / "N.png", "--set", "sheet.across=60", "--set", "sheet.resolution=72"]  # fmt: skip
    assert run(*words) == 0
    assert capsys.readouterr().out.splitlines()[:2] == [
        "N-ink-1.png: 842 × 595 px, 297 × 210 mm", "N-ink-2.png: 842 × 595 px, 297 × 210 mm"]  # fmt: skip


def test_plates_as_dots(photo, tmp_path, capsys):
    script = tmp_path / "two.json"
    script.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "inks", "count": 2}]}))
    words = ["plates", photo, "--script", script, "-o", tmp_path / "P.tif", "--screen", "line", "--ruling", "24/cm",
             "--device", 600, "--ppi", 300, "--trap", 0.2, "--knock-out", "--angles", "45,50"]  # fmt: skip
    assert run(*words) == 0
    said = capsys.readouterr().out
    assert "inks 1 and 2 are 5° apart" in said
    assert "another print than the one on the screen" in said
    with Image.open(tmp_path / "P.tif") as image:
        assert image.mode == "1"


@pytest.mark.parametrize(("words", "complaint"), [
    (["wedge", "-o", "OUT.jpg"], "a chart is not written as that"),
    (["wedge", "-o", "OUT.tif", "--chart", "12"], "there is no chart '12'; there are 11, 21"),
    (["wedge", "-o", "OUT.tif", "--ppi", "9"], "9 pixels per inch are not possible"),
    (["wedge", "-o", "OUT.tif", "--ink", "green"], 'ink is "green"; it must be a colour'),
    (["wedge", "-o", "OUT.tif", "--prove"], "has no readings yet, so there is no curve to prove"),
    (["wedge", "-o", "OUT.tif", "--process", "Salt"], "there is no process of that name"),
    (["read", "photo.png"], "there is no chart in this picture"),
    (["read", "missing.png"], "there is no such file"),
    (["read", "few.txt"], "few.txt: 3 different steps are too few"),
    (["read", "up.txt"], "go backwards"),
    (["darkroom", "photo.png", "-o", "OUT.tif", "--bath", "soup"], "the bench darkroom has no 'soup'"),
    (["darkroom", "photo.png", "-o", "OUT.tif", "--minutes", "-1"], "-1 minutes cannot be exposed"),
    (["darkroom", "photo.png", "-o", "OUT.tif", "--times", "1,2"], "2 times were given; the strip has 12"),
    (["darkroom", "photo.png", "-o", "OUT.gif"], "a scan is not written as that"),
    (["darkroom", "-o", "OUT.tif"], "name the film"),
    (["negative", "photo.png", "--process", "Cyanotype", "-o", "OUT.tif", "--set", "sheet.across=400"], "beyond"),
    (["negative", "photo.png", "--process", "photo.png", "-o", "OUT.tif"], "this is no process"),
    (["negative", "photo.png", "--process", "Cyanotype", "--process", "Platinum", "-o", "OUT.tif"], "prints in inks"),
    (["plates", "photo.png", "-o", "OUT.tif", "--trap", "3"], "sheet: plates.trap is 3"),
    (["processes", "Salt"], "there is no process of that name"),
])  # fmt: skip
def test_what_cannot_be_is_one_clear_line(words, complaint, tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    Image.fromarray(make_colourful(120, 180)).save("photo.png")
    (tmp_path / "few.txt").write_text("95\n60\n20\n")
    (tmp_path / "up.txt").write_text("\n".join(str(20 + 7 * k) for k in range(11)))
    assert run(*words) == 2
    said = capsys.readouterr().err
    assert complaint in said
    assert said.count("\n") == 1
    assert not list(tmp_path.glob("OUT*"))
