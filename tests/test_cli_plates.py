"""``kyanoscript plates``: the inks of a print, one picture each, by command."""

import contextlib
import json

import pikepdf
import pytest
import tifffile
from PIL import Image

from kyanoscript.cli import main
from tests.conftest import make_colourful


@pytest.fixture
def photo(tmp_path):
    path = tmp_path / "dye-works.png"
    Image.fromarray(make_colourful(120, 180)).save(path)
    return path


@pytest.fixture
def script(tmp_path):
    path = tmp_path / "two.json"
    inks = {"pass": "inks", "count": 2, "ink_1": "#1a1a1c", "ink_2": "#8c6f4a"}
    small = {"width": 100, "height": 80, "across": 60, "resolution": 72}
    path.write_text(json.dumps({"kyanoscript": 2, "passes": [inks, {"pass": "vignette"}], "sheets": {"small": small}}))
    return path


def test_plates_are_written_and_what_is_on_none_of_them_is_said(photo, script, tmp_path, capsys):
    assert main(["plates", str(photo), "--script", str(script), "-o", str(tmp_path / "out")]) == 0
    said = capsys.readouterr().out
    names = ["dye-works-ink-1-1a1a1c.tif", "dye-works-ink-2-8c6f4a.tif"]
    assert sorted(path.name for path in (tmp_path / "out").iterdir()) == names
    assert said.splitlines()[:2] == names
    assert "ink 2 #8c6f4a, " in said
    assert "Vignette comes after the inks, and is on no plate" in said
    assert tifffile.imread(tmp_path / "out" / names[0]).shape == (120, 180)


def test_plates_of_a_sheet_as_pages_and_as_json(photo, script, tmp_path, capsys):
    words = ["plates", str(photo), "--script", str(script), "--sheet", "small", "--set", "sheet.marks=true",
             "-o", str(tmp_path / "a.tif"), "--bits", "8", "--json"]  # fmt: skip
    assert main(words) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["files"] == [str(tmp_path / "a.tif")]
    assert [plate["colour"] for plate in said["plates"]] == ["#1a1a1c", "#8c6f4a"]
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert [page.shape for page in tiff.pages] == [(227, 283), (227, 283)]
        assert tiff.pages[0].dtype == "uint8"


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["-o", "a.tif"], "prints in inks"),
        (["--set", "inks.count=2", "-o", "a.tif"], "inks"),
        (["--script", "two.json", "--separated", "-o", "a.tif"], "four inks"),
        (["--script", "two.json", "-o", "a.jpg"], "a.jpg"),
        (["--script", "two.json", "-o", "-"], "a file or a folder"),
        (["--script", "two.json", "--sheet", "exhibition", "-o", "a.tif"], "no sheet"),
        (["--script", "two.json", "--sheet", "small", "--set", "sheet.across=0", "-o", "a.tif"], "across"),
    ],
)
def test_what_cannot_be_is_one_clear_line(photo, script, tmp_path, capsys, monkeypatch, words, said):
    monkeypatch.chdir(tmp_path)
    assert main(["plates", str(photo), *words]) == 2
    captured = capsys.readouterr()
    assert said in captured.err
    assert "Traceback" not in captured.err
    assert not list(tmp_path.glob("a.*"))


def test_plates_for_a_press_take_less_ink_and_say_what_they_were_reckoned_for(photo, script, tmp_path, capsys):
    def most(*more):
        words = ["plates", str(photo), "--script", str(script), "-o", str(tmp_path / "a.tif"), *more]
        assert main(words) == 0
        said = capsys.readouterr().out
        with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
            return [1 - page.asarray().mean() / 65535 for page in tiff.pages], said

    plain, said = most()
    assert "the plates are for ink that does not spread; as on cotton they print up to " in said  # without a sheet
    assert "say what yours does with --press" in said
    cotton, said = most("--press", "cotton")
    assert all(less < ink - 0.03 for less, ink in zip(cotton, plain, strict=True))
    assert "the plates are reckoned for this press; for ink that does not spread they would print up to " in said
    assert "--press" not in said
    second, _ = most("--gain", "0,22")
    assert second[0] == pytest.approx(plain[0], abs=1e-4)
    assert second[1] < plain[1] - 0.03
    assert most("--gain", "0,C")[0] == second  # ISO 12647-2
    assert most("--press", "cotton", "--gain", "18", "--yule-nielsen", "1.9", "--most-ink", "270")[0] == cotton
    for words, why in ((("--gain", "1,2,3,4,5"), "5 gains"), (("--gain", "90"), "gain_1"), (("--press", "tin"), "tin"),
                       (("--gain", "Z"), "no number"), (("--most-ink", "500"), "most_ink")):  # fmt: skip
        with contextlib.suppress(SystemExit):
            assert main(["plates", str(photo), "--script", str(script), "-o", str(tmp_path / "b.tif"), *words]) == 2
        assert why in capsys.readouterr().err
    assert not (tmp_path / "b.tif").exists()


def test_dots_without_a_sheet_are_as_large_as_the_print(photo, script, tmp_path, capsys):
    """At so many of its pixels to the inch, said or as the photograph says; else it is asked for."""
    told = json.loads(script.read_text())
    del told["sheets"]
    bare = tmp_path / "bare.json"
    bare.write_text(json.dumps(told))
    words = ["plates", str(photo), "--script", str(bare), "--screen", "round", "--device", "1200", "--ruling", "60"]
    with Image.open(photo) as image:
        width, height = image.size
    assert main([*words, "-o", str(tmp_path / "a.tif")]) == 2
    assert "go to the inch with --ppi 300" in capsys.readouterr().err
    assert not (tmp_path / "a.tif").exists()
    assert main([*words, "-o", str(tmp_path / "a.pdf"), "--ppi", "100"]) == 0
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        assert [float(v) for v in pdf.pages[0].MediaBox][2:] == pytest.approx([width * 0.72, height * 0.72], abs=0.1)
    with Image.open(photo) as image:
        image.save(tmp_path / "sized.png", dpi=(200, 200))
    words[1] = str(tmp_path / "sized.png")
    assert main([*words, "-o", str(tmp_path / "b.tif")]) == 0
    with tifffile.TiffFile(tmp_path / "b.tif") as tiff:
        page = tiff.pages[0]
        assert (page.imagewidth, page.imagelength) == (width * 6, height * 6)
        assert page.get_resolution("INCH") == (1200, 1200)
        dots = page.asarray()
    # As dark as the plate without dots is: a cell is 20 pixels, and half a cell at the rim tells little
    assert main([*words[:4], "-o", str(tmp_path / "gray.tif")]) == 0
    gray = tifffile.imread(tmp_path / "gray.tif", key=0) / 65535
    assert 1 - dots.mean() == pytest.approx(gray.mean(), abs=0.02)  # 1 is black
    words[1:4:2] = [str(photo), str(script)]  # as large as on the script's own sheet, 60 mm across
    assert main([*words, "-o", str(tmp_path / "c.tif")]) == 0
    with tifffile.TiffFile(tmp_path / "c.tif") as tiff:
        assert tiff.pages[0].imagewidth == round(60 / 25.4 * 1200)
