"""Printing by the system's print service: what a queue has, and that a sheet comes out of it as large as it is and to
the pixel; with CUPS of the tests' own where that is there."""

import json
import os
import subprocess
import sys

import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image

from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import Cancelled
from kyanoscript.files.base.progress import UNTOLD, Progress
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints import queues
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.queues import Offer, Queue, Sent
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from tests import printservice
from tests.conftest import make_colourful

TOLD = """PageSize/Media Size: *A4 A5 Custom.WIDTHxHEIGHT
InputSlot/Tray: Upper *Lower
Duplex/Both sides: *None
MediaType/Paper: *Plain CottonRag
print-quality/Quality: 3 *4 5
ColorModel/Colour: *RGB Gray
no options here
"""


@pytest.fixture
def told(monkeypatch):
    """A print service that answers so."""
    asked = []

    def run(words):
        asked.append(words)
        return TOLD

    monkeypatch.setattr(queues, "there", lambda: True)
    monkeypatch.setattr(queues, "_asked", run)
    return asked


@pytest.fixture
def photo(tmp_path):
    Image.fromarray(make_colourful(60, 90)).save(tmp_path / "landing.png")
    return open_photo(tmp_path / "landing.png")


def out_of(photo, **sheet):
    lying = Sheet.of(width=148, height=105, across=100, resolution=150, middle=True, **sheet)
    return Out(photo, Script(), Pictures(photo.path, None), photo.path.with_name("x.png"), OnSheet(lying),
               Settings(bits=8))  # fmt: skip


def test_a_queue_tells_what_it_has(told):
    found = queues.asked("Quay")
    assert told == [["lpoptions", "-p", "Quay", "-l"]]
    assert found.papers == ("A4", "A5", "Custom.WIDTHxHEIGHT")
    assert [(one.what, one.option, one.choices, one.usual) for one in found.offers] == [
        ("media", "MediaType", ("Plain", "CottonRag"), "Plain"), ("tray", "InputSlot", ("Upper", "Lower"), "Lower"),
        ("quality", "print-quality", ("3", "4", "5"), "4"), ("colour", "ColorModel", ("RGB", "Gray"), "RGB"),
    ]  # fmt: skip
    media, _, quality, _ = found.offers
    assert media.words("CottonRag") == "Cotton Rag"
    assert [quality.words(one) for one in quality.choices] == ["draft", "normal", "high"]


def test_what_a_queue_has_not_is_told_with_what_it_has(told):
    found = queues.asked("Quay")
    assert queues.checked(found, {"media": "cotton rag", "tray": "upper", "quality": "High"}) == {
        "media": "CottonRag", "tray": "Upper", "quality": "5"}  # fmt: skip
    with pytest.raises(ValueError, match="Quay has no tray 'middle'; it has Upper, Lower"):
        queues.checked(found, {"tray": "middle"})
    with pytest.raises(ValueError, match="Quay lets no media be chosen; it has nothing"):
        queues.checked(Queue("Quay"), {"media": "cotton"})
    assert not queues.gray(found, {})
    assert queues.gray(found, {"colour": "Gray"})
    assert queues.gray(Queue("Q", (Offer("colour", "print-color-mode", ("monochrome", "color"), "monochrome"),)), {})
    assert not queues.gray(Queue("Q"), {})


def test_without_a_print_service_nothing_is_known(monkeypatch):
    monkeypatch.setattr(queues, "there", lambda: False)
    assert not queues.asked("Quay").answers

    def silent(words):
        raise subprocess.TimeoutExpired(words, 20)

    monkeypatch.setattr(queues, "there", lambda: True)
    monkeypatch.setattr(queues, "_asked", silent)
    assert not queues.asked("Quay").answers


def test_the_page_is_the_sheet_to_the_pixel_and_has_no_space_of_its_own(photo, tmp_path):
    out = out_of(photo)
    queues.write_page(out, tmp_path / "a.pdf", UNTOLD)
    leaf = out.pages()[0].of
    width, height = leaf.size(1.0)
    with pikepdf.open(tmp_path / "a.pdf") as pdf:
        box = [float(v) * INCH / 72 for v in pdf.pages[0].MediaBox]
        assert box[2:] == pytest.approx([148, 105], abs=INCH / 150)
        image = pdf.pages[0].Resources.XObject.Print
        assert image.ColorSpace == "/DeviceRGB"
        assert image.Filter == "/FlateDecode"
        pixels = np.frombuffer(image.read_bytes(), np.uint8).reshape(height, width, 3)
    whole = leaf.region(Rect(0, 0, width, height))
    assert np.abs(pixels - 255 * np.moveaxis(whole, 0, 2)).max() < 1.6  # dithered by one step
    with pytest.raises(Cancelled):
        queues.write_page(out, tmp_path / "b.pdf", Progress(lambda share: None, lambda: True))


def test_a_sheet_is_sent_unscaled_and_what_goes_wrong_is_said(photo, told, monkeypatch):
    found = queues.asked("Quay")
    told.clear()
    how = Sent(found, "The landing", "A6", {"tray": "Upper"}, 3)
    said = queues.send(out_of(photo), how, UNTOLD)
    assert said == "148 × 105 mm at 150 pixels per inch went to"
    (words,) = told
    assert words[:7] == ["lp", "-d", "Quay", "-t", "The landing", "-n", "3"]
    assert [words[k + 1] for k, word in enumerate(words) if word == "-o"] == [
        "print-scaling=none", "media=A6", "InputSlot=Upper"]  # fmt: skip
    assert words[-2] == "--"

    def refuse(words):
        raise subprocess.CalledProcessError(1, words, stderr="lp: The printer is not accepting jobs.\n")

    monkeypatch.setattr(queues, "_asked", refuse)
    with pytest.raises(ValueError, match="Quay did not take it: The printer is not accepting jobs"):
        queues.send(out_of(photo), how, UNTOLD)
    monkeypatch.setattr(queues, "add_page", lambda pdf, bands, *more: pdf.add_blank_page(page_size=(100, 100)))
    with pytest.raises(ValueError, match="instead of 148 mm × 105 mm; nothing was printed"):
        queues.send(out_of(photo), how, UNTOLD)


# With a print service


@pytest.fixture(scope="module")
def service():
    if why := printservice.missing():
        pytest.skip(why)
    with printservice.running() as made:
        yield made


def program(service, *words):
    """The program by its command, in a process of its own: Qt asks the print service once."""
    env = {**os.environ, "CUPS_SERVER": service.address, "QT_QPA_PLATFORM": "offscreen"}
    return subprocess.run([sys.executable, "-m", "kyanoscript", *map(str, words)], env=env, capture_output=True,
                          text=True, timeout=240)  # fmt: skip


def test_a_real_queue_is_listed_with_what_it_has(service):
    rows = json.loads(program(service, "printers", "--json").stdout)
    assert rows[0] == {
        "name": "press", "usual": True, "papers": ["A4", "A5"],
        "media": {"choices": ["Plain", "Cotton"], "usual": "Plain"},
        "tray": {"choices": ["Upper", "Lower"], "usual": "Upper"},
        "quality": {"choices": ["Draft", "Normal", "High"], "usual": "Normal"},
        "colour": {"choices": ["RGB", "Gray"], "usual": "RGB"},
    }  # fmt: skip


@pytest.mark.parametrize(("width", "height", "paper"), [(210, 297, "A4"), (210, 148, "A5")])
def test_a_sheet_comes_out_of_a_real_queue_as_large_as_it_is_and_to_the_pixel(
    service, photo, tmp_path, width, height, paper
):
    """The PDF that the queue wrote, measured: its page, its picture's matrix and pixels; lying sheets are turned."""
    service.page.unlink(missing_ok=True)
    sheet = ["--set", f"sheet.width={width}", "--set", f"sheet.height={height}", "--set", "sheet.resolution=100"]
    ran = program(service, "sheet", photo.path, "--printer", "press", "--tray", "lower", "--media", "cotton", *sheet)
    assert ran.returncode == 0, ran.stderr
    asked = service.printed()
    assert all(
        word in asked for word in ("print-scaling=none", f"media={paper}", "InputSlot=Lower", "MediaType=Cotton")
    )
    assert "Quality" not in asked or "cupsPrintQuality=Normal" in asked  # as usual, where nothing was said
    with pikepdf.open(service.page) as pdf:
        (page,) = pdf.pages
        box = sorted(float(v) * INCH / 72 for v in page.MediaBox[2:])
        assert box == pytest.approx(sorted((width, height)), abs=0.2)  # the printer's own A4 and A5, in whole points
        form = next(iter(page.Resources.XObject.values()))
        a, b, c, d, *_ = (float(v) for v in form.get("/Matrix", [1, 0, 0, 1, 0, 0]))
        assert sorted((abs(a), abs(b), abs(c), abs(d))) == [0, 0, 1, 1]  # turned, perhaps, and not scaled
        found = form if form.Subtype == "/Image" else next(iter(form.Resources.XObject.values()))
        pixels = np.frombuffer(found.read_bytes(), np.uint8).reshape(int(found.Height), int(found.Width), 3)
    program(service, "sheet", photo.path, *sheet, "-o", tmp_path / "a.tif")
    written = tifffile.imread(tmp_path / "a.tif")
    assert pixels.shape == written.shape
    assert np.abs(pixels.astype(int) - written.astype(int)).max() <= 2


def test_a_real_queue_is_sent_no_paper_that_it_has_not_and_no_colour_for_gray(service, photo):
    service.page.unlink(missing_ok=True)
    for words, why in (
        (["--set", "sheet.width=300", "--set", "sheet.height=400"], "press has no paper of 300 mm × 400 mm; nothing "
         "was printed. It has A4, A5"),
        (["--colour", "gray"], "press prints in gray, and the print has colour; --gray prints it all the same"),
        (["--tray", "middle"], "press has no tray 'middle'; it has Upper, Lower"),
    ):  # fmt: skip
        ran = program(service, "sheet", photo.path, "--printer", "press", *words)
        assert ran.returncode == 2
        assert why in ran.stderr
    assert service.run("lpstat", "-o") == ""
    assert not service.page.exists()
