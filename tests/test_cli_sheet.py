"""``kyanoscript sheet``: a print on its paper, by command."""

import json
import subprocess
import sys

import pikepdf
import pytest
import tifffile
from PIL import Image

from kyanoscript.cli import main
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script
from kyanoscript.files.kept.scriptfile import write_script
from kyanoscript.files.kept.sheetfile import write_sheet_file
from tests.conftest import make_colourful

A3 = ("sheet.width=420", "sheet.height=297", "sheet.across=300", "sheet.left=60", "sheet.top=38", "sheet.resolution=72")


@pytest.fixture
def photo(tmp_path):
    path = tmp_path / "landing.png"
    Image.fromarray(make_colourful(240, 360)).save(path)
    return path


def sets(*values):
    return [word for value in values for word in ("--set", value)]


def test_a_sheet_is_written_and_what_it_is_is_said(photo, tmp_path, capsys):
    assert main(["sheet", str(photo), *sets(*A3), "-o", str(tmp_path / "a.pdf"), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["paper"] == [420, 297]
    assert said["size"] == "A3, lying"
    assert said["print"] == [60, 38, 300, 200]
    assert said["pixels"] == [1191, 842]
    assert "few" in said["remarks"][0]
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        assert float(pdf.pages[0].MediaBox[2]) == pytest.approx(1191)


def ticket(tmp_path, photo, *values):
    """The sheet that the bench printer was told."""
    spool = tmp_path / "spool"
    small = ("sheet.width=100", "sheet.height=80", "sheet.across=60", "sheet.resolution=72")
    words = ["sheet", str(photo), *sets(*small, *values), "--printer", "bench", "--spool", str(spool), "--json"]
    assert main(words) == 0
    return json.loads(sorted(spool.iterdir())[-1].joinpath("ticket.json").read_text())["sheet"]


def test_a_value_of_a_sheet_is_told_by_its_name_by_its_part_or_by_the_name_it_had(photo, tmp_path, capsys):
    for across in ("sheet.across=50", "sheet.placing.across=50", 'sheet.placing={"across": 50}'):
        assert ticket(tmp_path, photo, across)["placing"]["across"] == 50
    for stock in ("sheet.stock=washi", "sheet.paper=washi", 'sheet.paper={"stock": "washi"}'):
        told = ticket(tmp_path, photo, stock)["paper"]
        assert (told["stock"], told["width"]) == ("washi", 100)
    assert ticket(tmp_path, photo, "sheet.marks=true")["marks"]["registers"]
    assert ticket(tmp_path, photo, "sheet.layers=Gum|Cyanotype")["film"]["layers"] == ["Gum", "Cyanotype"]
    assert not ticket(tmp_path, photo, "sheet.left=5")["placing"]["middle"]  # put somewhere, it is not in the middle
    assert ticket(tmp_path, photo, "sheet.left=5", "sheet.middle=true")["placing"]["middle"]


def test_a_sheet_of_a_script_by_its_name_and_of_a_file(photo, tmp_path, capsys):
    script = tmp_path / "a.json"
    small = {"width": 100, "height": 80, "across": 60, "resolution": 72}
    levels = {"pass": "levels", "gamma": 1.2}
    script.write_text(json.dumps({"kyanoscript": 2, "passes": [levels], "sheets": {"small": small}}))
    assert main(["sheet", str(photo), "--script", str(script), "--sheet", "small", "-o", str(tmp_path / "a.tif")]) == 0
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert tiff.pages[0].shape[:2] == (227, 283)
    kept = tmp_path / "k.sheet.json"
    write_sheet_file(kept, "large", Sheet.of(width=200, height=160, across=120, resolution=72))
    assert main(["sheet", str(photo), "--sheet", str(kept), "-o", str(tmp_path / "b.png")]) == 0
    with Image.open(tmp_path / "b.png") as image:
        assert image.size == (567, 454)
    assert "b.png: 567 × 454 px" in capsys.readouterr().out


def test_the_bench_printer_by_command(photo, tmp_path, capsys):
    spool = tmp_path / "spool"
    words = ["sheet", str(photo), *sets(*A3), "--printer", "bench", "--spool", str(spool), "--json"]
    assert main(words) == 0
    place = json.loads(capsys.readouterr().out)["job"]
    assert place == str(spool / "job-0001")
    assert (spool / "job-0001" / "paper.png").exists()


def test_a_margin_makes_the_print_as_large_as_it_can_be(photo, tmp_path, capsys):
    words = ["sheet", str(photo), *sets(*A3[:2], "sheet.resolution=72"), "--margin", "30"]
    assert main([*words, "-o", str(tmp_path / "a.png"), "--json"]) == 0
    x, y, width, height = json.loads(capsys.readouterr().out)["print"]
    assert min(x, y) == pytest.approx(30, abs=3)
    assert x + width <= 390.01
    assert y + height <= 297 - 30 + 3


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--set", "sheet.across=0", "-o", "a.pdf"], "across"),
        (["--set", "sheet.marks.across=9", "-o", "a.pdf"], "a sheet has no 'marks.across'"),
        (["--set", "sheet.across.x=9", "-o", "a.pdf"], "a sheet has no 'across.x'"),
        (["--set", "sheet.acros=9", "-o", "a.pdf"], "did you mean 'across'?"),
        (["--set", "sheet.acros=100", "-o", "a.pdf"], "acros"),
        (["--set", "sheet.across", "-o", "a.pdf"], "cannot be set"),
        (["--sheet", "exhibition", "-o", "a.pdf"], "no sheet"),
        (["-o", "a.webp"], "a.webp"),
        (["-o", "-"], "goes into a file"),
        ([], "-o"),
        (["--set", "sheet.profile=gone.icc", "-o", "a.pdf"], "gone.icc"),
        (["--set", "sheet.width=3000", "--set", "sheet.height=3000", "--set", "sheet.resolution=2880",
          "--set", "sheet.across=100", "-o", "a.tif"],
         "too large"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_one_clear_line(photo, tmp_path, capsys, monkeypatch, words, said):
    monkeypatch.chdir(tmp_path)
    assert main(["sheet", str(photo), *words]) == 2
    captured = capsys.readouterr()
    assert said in captured.err
    assert "Traceback" not in captured.err
    assert len(captured.err.strip().splitlines()) <= 2
    assert not list(tmp_path.glob("a.*"))


@pytest.mark.parametrize(
    ("size", "paper"), [((240, 360), [210, 297]), ((300, 300), [297, 210]), ((900, 300), [297, 210])]
)
def test_the_first_sheet_fits_its_print(tmp_path, capsys, size, paper):
    """A4, turned as the print is, with 25 mm left at the narrowest margin."""
    file = tmp_path / "shape.png"
    Image.fromarray(make_colourful(*size[::-1])).save(file)
    assert main(["sheet", str(file), "-o", str(tmp_path / "a.pdf"), *sets("sheet.resolution=72"), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    x, _, width, height = said["print"]
    assert said["paper"] == paper
    assert width / height == pytest.approx(size[0] / size[1], rel=1e-3)
    assert min(x, paper[0] - x - width, (paper[1] - height) / 2) == pytest.approx(25, abs=0.02)
    assert not any("beyond" in line for line in said["remarks"])
    small = [*sets("sheet.width=90", "sheet.height=60", "sheet.resolution=72"), "--json"]
    assert main(["sheet", str(file), "-o", str(tmp_path / "b.pdf"), *small]) == 0  # of a small paper a quarter
    said = json.loads(capsys.readouterr().out)
    assert said["paper"] == [90, 60]
    assert said["print"][2] <= 60
    assert said["print"][3] <= 30.01


def test_a_print_that_reaches_beyond_its_paper_is_refused_unless_it_may_be_cut_off(photo, tmp_path, capsys):
    inks = tmp_path / "inks.json"
    write_script(inks, Script((load_all()["inks"](),)), None)
    large = sets("sheet.across=400", "sheet.resolution=72")
    asked = {"sheet": [], "strip": sets("frame.tilt=0..4/3"), "plates": ["--script", str(inks)]}
    for verb, more in asked.items():
        file = tmp_path / f"{verb}.tif"
        words = [verb, str(photo), *large, *more, "-o", str(file)]
        assert main(words) == 2
        said = capsys.readouterr().err
        assert "reaches 51.5 mm beyond the paper of 297 mm × 210 mm" in said
        assert "--crop" in said
        assert not file.exists()
        assert main([*words, "--crop"]) == 0
        with tifffile.TiffFile(file) as tiff:
            assert tiff.pages[0].shape[:2] == (595, 842)


def test_two_words_for_the_size_of_a_print_are_one_too_many(photo, tmp_path, capsys):
    words = ["sheet", str(photo), "-o", str(tmp_path / "a.pdf")]
    assert main([*words, "--margin", "20", *sets("sheet.placing.across=100")]) == 2
    assert "sheet.across and --margin both tell how large the print is" in capsys.readouterr().err
    assert main([*words, "--margin", "20", *sets("sheet.columns=2", "sheet.resolution=72")]) == 0


def test_printers_are_listed_by_the_program_itself_and_it_ends_in_order(tmp_path):
    """Qt's application is gone before Python is: it took the program down at its end."""
    command = [sys.executable, "-m", "kyanoscript"]
    done = subprocess.run([*command, "printers"], capture_output=True, text=True, check=False, timeout=120)
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.splitlines()[-1] == "bench  (a stand-in that ships)"
    photo = tmp_path / "landing.png"
    Image.fromarray(make_colourful(24, 36)).save(photo)
    words = ["sheet", str(photo), "--printer", "Nobody"]
    done = subprocess.run([*command, *words], capture_output=True, text=True, check=False, timeout=120)
    assert done.returncode == 2
    assert "there is no printer 'Nobody'" in done.stderr
