"""The Sheet view: a print laid on paper by hand, by number and by key, proofed, written and printed."""

import cv2
import numpy as np
import pdfplumber
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtTest import QTest

from kyanoscript.core.paper.layout import laid
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.script import dumps, loads
from kyanoscript.core.script.dials import Dial
from kyanoscript.files.colour import proofs
from kyanoscript.files.colour.proofs import BENCH
from kyanoscript.files.kept import sheetfile
from kyanoscript.files.standins import benchprinter
from kyanoscript.ui.jobs.lanes import until
from tests.ui.conftest import Bench

A3 = {"width": 420.0, "height": 297.0, "across": 300.0}


@pytest.fixture
def sheet(bench: Bench):
    """An A3 sheet with the print in its optical middle."""
    bench.add("levels")
    bench.window.registry.go(bench.window.sheet)
    bench.laying = bench.window.sheet.laying
    bench.paper, bench.page = bench.laying.paper, bench.laying.page
    bench.settle()
    bench.laying.sheets.put("Paper: A3", **A3)
    seen(bench)
    return bench


def seen(bench):
    """Everything is there: the proof and the print through it."""
    assert until(lambda: bench.laying.on_paper is not None and bench.paper.image is not None, 240)
    bench.settle()


def box(bench):
    return laid(bench.laying.sheets.sheet, bench.laying.sheets.shape).prints[0]


def on_paper(bench, x, y):
    return bench.paper.at(x, y)


def size_of(sheet):
    """Of the paper, millimetres."""
    paper = sheet.laying.sheets.sheet.paper
    return paper.width, paper.height


def test_there_is_a_sheet_before_anything_is_kept_and_nothing_is_edited_by_looking(bench: Bench):
    bench.window.registry.go(bench.window.sheet)
    bench.settle()
    assert bench.desk.script.sheets == ()
    assert not bench.desk.edited
    assert bench.window.sheet.laying.sheets.sheet.placing.middle
    bench.window.sheet.escape()
    assert bench.window.registry.view is bench.window.bench


def test_the_print_is_put_by_hand_and_taken_back_in_one_step(sheet: Bench):
    before = box(sheet)
    start = on_paper(sheet, before.x + 100, before.y + 100)
    to = start + QPointF(-20 * sheet.paper.each, 13 * sheet.paper.each)
    sheet.drag(sheet.paper, start, (start + to) / 2, to)
    after = box(sheet)
    assert (after.x - before.x, after.y - before.y) == pytest.approx((-20, 13), abs=1.6)
    assert after.x == pytest.approx(round(after.x))  # whole millimetres
    assert not sheet.laying.sheets.sheet.placing.middle
    sheet.desk.undo()
    assert box(sheet) == before


def test_it_snaps_to_the_middle(sheet: Bench):
    sheet.laying.sheets.put("x", left=20.0)
    there = box(sheet)
    start = on_paper(sheet, there.x + 50, there.y + 50)
    to = start + QPointF((58.5 - 20) * sheet.paper.each, 0)  # a millimetre and a half from equal margins
    sheet.drag(sheet.paper, start, (start + to) / 2, to)
    assert box(sheet).x == pytest.approx(60)


def test_a_corner_sizes_it_about_the_opposite_one(sheet: Bench):
    sheet.laying.sheets.put("x", left=40.0, top=30.0)
    there = box(sheet)
    start = on_paper(sheet, there.right, there.bottom)
    to = start - QPointF(60 * sheet.paper.each, 40 * sheet.paper.each)
    sheet.drag(sheet.paper, start, (start + to) / 2, to)
    after = box(sheet)
    assert (after.x, after.y) == (40, 30)
    assert after.width == pytest.approx(240, abs=2)
    assert after.height == pytest.approx(after.width / 1.5)


def test_arrows_move_it_by_a_millimetre_and_with_shift_by_ten(sheet: Bench):
    before = box(sheet)
    sheet.key(Qt.Key.Key_Right, on=sheet.paper)
    sheet.key(Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier, on=sheet.paper)
    after = box(sheet)
    assert (after.x - before.x, after.y - before.y) == pytest.approx((1, 10), abs=0.001)


def test_lengths_are_typed_with_any_unit(sheet: Bench):
    sheet.laying.turn("Print")
    slider = sheet.page.sliders["across"]
    from kyanoscript.ui.widgets.slider import read_number

    assert read_number("8 in", slider.spec) == pytest.approx(203.2)
    assert read_number("20 cm + 5", slider.spec) == pytest.approx(205)
    sheet.type(slider, "20 cm")
    assert box(sheet).width == pytest.approx(200)
    sheet.type(sheet.page.sliders["down"], "100")
    assert box(sheet).width == pytest.approx(150)
    assert sheet.page.sliders["down"].value == pytest.approx(100)


def test_a_print_is_sized_by_the_photographs_pixels_to_the_inch(sheet: Bench):
    """360 pixels at 120 to the inch are 3 inches."""
    sheet.laying.turn("Print")
    slider = sheet.page.sliders["fine"]
    assert slider.value == pytest.approx(360 * 25.4 / 300, abs=1)
    sheet.type(slider, "120.0")
    assert box(sheet).width == pytest.approx(76.2)
    assert slider.value == pytest.approx(120, abs=1)
    assert "120 ppi in the photograph" in sheet.window.foot.values.text()


def test_a_drag_is_given_up_and_a_default_put_back_in_either_unit(sheet: Bench):
    sheet.laying.turn("Print")
    slider = sheet.page.sliders["across"]
    sheet.press(slider, QPointF(slider.handle_x(), 28))
    sheet.move(slider, QPointF(40, 28))
    assert box(sheet).width < 100
    sheet.key(Qt.Key.Key_Escape, on=slider)
    sheet.release(slider, QPointF(40, 28))
    assert box(sheet).width == pytest.approx(300)
    assert sheet.desk.undo_label == "Sheet: Paper: A3"
    for unit in ("Millimetres", "Inches"):
        sheet.laying.turn("Paper")
        sheet.word(unit)
        sheet.laying.turn("Print")
        slider = sheet.page.sliders["across"]
        sheet.type(slider, "4.0")
        sheet.double(slider, QPointF(20, 8))
        assert box(sheet).width == pytest.approx(257, abs=0.1)


def test_inches_are_shown_and_meant(sheet: Bench):
    sheet.word("Inches")
    sheet.laying.turn("Print")
    slider = sheet.page.sliders["across"]
    assert slider.spec.unit == "in"
    assert slider.value == pytest.approx(300 / 25.4, abs=0.01)
    sheet.type(slider, "10.0")
    assert box(sheet).width == pytest.approx(254)
    assert "in" in sheet.window.foot.values.text()


def test_sizes_are_chosen_by_name_and_turned(sheet: Bench):
    sheet.page.editors["size"].setCurrentText("A4")
    assert size_of(sheet) == (297, 210)
    sheet.word("Turn")
    assert size_of(sheet) == (210, 297)
    sheet.page.editors["size"].setCurrentText("16 × 20 in")
    assert size_of(sheet) == pytest.approx((406.4, 508))
    sheet.laying.sheets.fill()
    there = box(sheet)
    assert min(there.x, there.y) == pytest.approx(25, abs=4)


def test_sheets_have_names_are_added_and_taken_away(sheet: Bench):
    sheet.laying.sheets.rename("Exhibition")
    sheet.laying.sheets.add()
    assert [name for name, _ in sheet.desk.script.sheets] == ["Exhibition", "Sheet 2"]
    assert sheet.laying.sheets.name == "Sheet 2"
    sheet.laying.sheets.put("x", caption="Landing")
    sheet.laying.sheets.choose(0)
    assert sheet.laying.sheets.sheet.marks.caption == ""
    sheet.laying.sheets.rename("Sheet 2")
    assert "already" in sheet.window.foot.message.text()
    sheet.laying.sheets.choose(1)
    sheet.laying.sheets.remove()
    assert [name for name, _ in sheet.desk.script.sheets] == ["Exhibition"]
    sheet.desk.undo()
    assert len(sheet.desk.script.sheets) == 2


def test_what_is_seen_is_the_proof_and_a_held_key_shows_it_without(sheet: Bench):
    through = np.array(sheet.paper.image.constBits(), np.uint8).astype(int)
    assert sheet.paper.white.name() != "#ffffff"
    sheet.laying.hold(True)
    assert until(lambda: sheet.paper.white.name() == "#ffffff", 5)
    sheet.settle()
    assert until(lambda: np.abs(np.array(sheet.paper.image.constBits(), np.uint8) - through).max() > 5, 240)
    plain = np.array(sheet.paper.image.constBits(), np.uint8).astype(int)
    # Black is no black on paper, and white no white.
    dark, light = (f(plain.reshape(-1, 4)[:, :3].mean(axis=1)) for f in (np.argmin, np.argmax))
    assert through.reshape(-1, 4)[dark, :3].mean() > plain.reshape(-1, 4)[dark, :3].mean() + 5
    assert through.reshape(-1, 4)[light, :3].mean() < plain.reshape(-1, 4)[light, :3].mean() - 5
    sheet.laying.hold(False)
    assert until(lambda: np.array_equal(np.array(sheet.paper.image.constBits(), np.uint8), through), 240)


def test_a_profile_is_proofed_and_what_it_has_not_is_told_and_marked(sheet: Bench):
    sheet.laying.turn("Colour")
    sheet.page.editors["profile"].setCurrentIndex(1)  # the bench printer's
    assert until(lambda: sheet.laying.sheets.sheet.output.profile == BENCH, 240)
    assert until(lambda: sheet.laying.on_paper is not None and bool(sheet.laying.on_paper.icc), 240)
    assert until(lambda: sheet.laying.outside > 0, 240)
    assert "out of gamut" in sheet.window.foot.values.text()
    before = np.array(sheet.paper.image.constBits(), np.uint8)
    sheet.laying.set_marking(True)
    assert until(lambda: not np.array_equal(np.array(sheet.paper.image.constBits(), np.uint8), before), 240)
    assert sheet.laying.tones is not None
    assert sheet.laying.tones.paper[0] > 2


def test_a_profile_that_cannot_be_used_changes_nothing_and_is_named(sheet: Bench, tmp_path):
    path = tmp_path / "camera.icc"
    path.write_bytes(b"not a profile")
    sheet.laying.sheets.put("Profile", profile=str(path))
    assert until(lambda: "camera.icc" in sheet.window.foot.message.text(), 240)
    assert sheet.laying.sheets.sheet.output.profile == ""


def test_the_easel_shows_the_paper_while_a_key_is_held(sheet: Bench):
    sheet.window.registry.go(sheet.window.bench)
    sheet.settle()
    plain = sheet.easel.grab().toImage()
    QTest.keyPress(sheet.easel, Qt.Key.Key_R)
    assert until(lambda: sheet.easel.grab().toImage() != plain, 240)
    QTest.keyRelease(sheet.easel, Qt.Key.Key_R)
    sheet.settle()
    assert until(lambda: sheet.easel.grab().toImage() == plain, 240)


def test_trays_never_have_the_papers_colours(sheet: Bench):
    """A value is changed while the proof is held: the easel has it on paper, the trays as ever; let go, all do."""
    bench = sheet.window.bench
    sheet.window.registry.go(bench)
    sheet.settle()
    QTest.keyPress(sheet.easel, Qt.Key.Key_R)
    assert until(lambda: sheet.easel.frame.look.screen.proof is not None, 240)
    bench.passes.add("levels")
    sheet.settle()
    held = sheet.easel.frame.look
    assert held.script == sheet.desk.script
    assert held.screen.proof is not None
    on_trays = [image.copy() for image in bench.run.trays.images]
    QTest.keyRelease(sheet.easel, Qt.Key.Key_R)
    sheet.settle()
    assert sheet.easel.frame.look.screen.proof is None
    sheet.desk.undo()
    sheet.desk.redo()
    sheet.settle()
    assert bench.run.trays.images == on_trays


def test_what_is_wrong_with_a_sheet_is_said_beside_it(sheet: Bench):
    assert "few" in sheet.page.remarks.text()  # 360 pixels on 30 cm
    sheet.laying.sheets.put("x", across=900.0)
    assert "beyond" in sheet.page.remarks.text()
    sheet.laying.sheets.put("x", across=40.0)
    assert sheet.page.remarks.text() == ""


def test_a_sheet_is_written_at_its_exact_size(sheet: Bench, tmp_path):
    sheet.laying.sheets.put("x", resolution=72.0)
    job = sheet.window.sheet.out.write(sheet.laying.sheets.sheet, tmp_path / "a.pdf")
    assert job is not None
    assert until(lambda: (tmp_path / "a.pdf").exists() and sheet.window.printing.running is None, 240)
    with pdfplumber.open(tmp_path / "a.pdf") as pdf:
        size = float(pdf.pages[0].width) / 72 * 25.4, float(pdf.pages[0].height) / 72 * 25.4
    assert size == pytest.approx((420, 297), abs=0.36)  # a pixel
    assert "Wrote a.pdf" in sheet.window.foot.message.text()


def test_it_is_printed_on_the_bench_printer(sheet: Bench):
    sheet.laying.sheets.put("x", resolution=72.0)
    sheet.window.sheet.out.print("Exhibition", sheet.laying.sheets.sheet, benchprinter.NAME)
    assert until(lambda: sheet.window.printing.running is None, 240)
    assert "tray" in sheet.window.foot.message.text()
    paper = cv2.imread(str(benchprinter.spool() / "job-0001" / "paper.png"))
    assert paper.shape[:2] == (842, 1191)


def test_a_test_strip_is_laid_on_the_sheet_and_printed(sheet: Bench, tmp_path):
    """From the Strip view onto the paper, as a leaf beside the print; what is written then is the strip."""
    window = sheet.window
    window.strip.start(Dial("pass", sheet.desk.script.passes[0].id, "gamma"))
    sheet.settle()
    window.strip.trial.page.words["lay"].click()
    assert window.registry.view is window.sheet
    assert until(lambda: sheet.paper.image is not None and "Strip" in sheet.laying.leaves.images, 240)
    assert sheet.laying.leaves.names[:2] == ("Print", "Strip")
    assert sheet.laying.leaves.current == 1
    strip = sheet.laying.films.bands
    assert len(strip.scripts) == 7
    sheet.laying.sheets.put("x", resolution=72.0, sharpen=0.0)
    window.sheet.out.write(sheet.laying.sheets.sheet, tmp_path / "strip.png", sheet.laying.films.bands)
    assert until(lambda: (tmp_path / "strip.png").exists() and window.printing.running is None, 240)
    found = cv2.imread(str(tmp_path / "strip.png"))
    left, wide = round(60 / 25.4 * 72), round(300 / 25.4 * 72)
    lines = [left + k * wide // 7 for k in range(1, 7)]
    assert found[300, lines].min() == 255  # where a band begins
    assert found[300, [line + 3 for line in lines]].max() < 255
    sheet.click(sheet.laying.leaves, QPointF(40, 60))
    assert sheet.laying.films.bands is None  # the print goes out again


def test_it_goes_to_a_printer_of_the_system_at_its_exact_size(sheet: Bench, tmp_path):
    """Qt's own way to paper, into a file."""
    sheet.laying.sheets.put("x", resolution=72.0)
    device = QPrinter(QPrinter.PrinterMode.HighResolution)
    device.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    device.setOutputFileName(str(tmp_path / "q.pdf"))
    sheet.window.sheet.out.hand_over("Exhibition", sheet.laying.sheets.sheet, device, "a file")
    assert until(lambda: sheet.window.printing.running is None, 240)
    assert "420 × 297 mm" in sheet.window.foot.message.text()
    with pdfplumber.open(tmp_path / "q.pdf") as pdf:
        page = pdf.pages[0]
        size = float(page.width) / 72 * 25.4, float(page.height) / 72 * 25.4
        assert size == pytest.approx((420, 297), abs=0.36)
        left = min(image["x0"] for image in page.images) / 72 * 25.4
        right = max(image["x1"] for image in page.images) / 72 * 25.4
        assert (float(left), float(right)) == pytest.approx((0, 420), abs=0.4)


def test_a_printer_that_has_vanished_is_named_and_nothing_is_lost(sheet: Bench):
    assert sheet.window.sheet.out.print("Exhibition", sheet.laying.sheets.sheet, "Large format, attic") is None
    assert "Large format, attic" in sheet.window.foot.message.text()
    assert sheet.window.printing.running is None


def test_printing_can_be_stopped(sheet: Bench):
    sheet.laying.sheets.put("x", resolution=720.0)
    sheet.window.sheet.out.print("Exhibition", sheet.laying.sheets.sheet, benchprinter.NAME)
    sheet.window.stop_work()
    assert until(lambda: sheet.window.printing.running is None, 240)
    assert "Stopped" in sheet.window.foot.message.text()
    assert not (benchprinter.spool() / "job-0001" / "paper.png").exists()


def test_sheets_are_kept_for_other_photographs(sheet: Bench, monkeypatch, tmp_path):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path / "own"))
    sheet.laying.sheets.rename("Exhibition")
    sheet.laying.sheets.keep()
    assert until(lambda: len(sheetfile.kept()) == 1, 240)
    sheet.laying.sheets.offer_kept()
    assert until(lambda: sheet.laying.sheets.menu is not None, 240)
    sheet.laying.sheets.menu.actions()[0].trigger()
    sheet.laying.sheets.menu.hide()
    assert [name for name, _ in sheet.desk.script.sheets] == ["Exhibition", "Exhibition 2"]


def test_a_sheet_lives_in_the_script_and_changes_no_print(sheet: Bench):
    run = sheet.desk.script.passes
    sheet.laying.sheets.put("x", caption="Landing, 3/25")
    assert sheet.desk.script.sheets[0][1].marks.caption == "Landing, 3/25"
    assert sheet.desk.script.passes == run
    assert loads(dumps(sheet.desk.script)) == sheet.desk.script


def test_proof_of_a_sheet_is_what_its_values_say():
    proof = proofs.proof_of(Sheet.of(stock="own", white_l=90, white_a=1, white_b=5, density=1.5, paper_white=False))
    assert proof.white == (90, 1, 5)
    assert proof.density == 1.5
    assert not proof.paper_white


def test_what_comes_late_says_nothing_on_the_foot_of_another_view(sheet: Bench):
    """The print through the proof is asked for, the Bench is gone to, and then it comes."""
    sheet.laying.sheets.put("Profile", profile=BENCH)
    seen(sheet)
    assert "ppi" in sheet.window.foot.values.text()
    sheet.laying.set_marking(True)
    sheet.window.registry.go(sheet.window.bench)
    sheet.settle()
    sheet.laying.set_marking(False)  # by its key, which counts everywhere
    sheet.settle()
    assert "ppi" not in sheet.window.foot.values.text()
    sheet.window.registry.go(sheet.window.sheet)
    sheet.settle()
    assert "ppi" in sheet.window.foot.values.text()


def test_a_size_that_has_a_name_is_shown_by_it(sheet: Bench):
    sheet.laying.turn("Paper")
    for width, height, name in ((297, 210, "A4"), (210, 148, "A5"), (300, 211, "own size")):
        sheet.laying.sheets.put("x", width=float(width), height=float(height))
        assert sheet.page.editors["size"].currentText() == name
