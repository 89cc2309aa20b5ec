"""The sheets of a script, one step of undo each; which leaf lies on the paper; what is said of it at the foot."""

import json

import numpy as np
import pikepdf
import pytest
import shiboken6
from PIL import Image
from PySide6.QtCore import QMarginsF, QPointF, Qt
from PySide6.QtGui import QImage, QPageLayout, QPageSize
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QFileDialog

from kyanoscript.cli import main
from kyanoscript.core.paper.layout import laid
from kyanoscript.core.picture import Rect
from kyanoscript.core.process.process import AS_IT_IS, Process
from kyanoscript.files.kept import processfile, sheetfile
from kyanoscript.files.standins import benchprinter
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.service.papers import HungOnPaper, OnPaper
from kyanoscript.ui.sheet import out, printers
from kyanoscript.ui.sheet.films import DRIED, NEGATIVE, PRINT, plate
from kyanoscript.ui.sheet.laying import Laying
from kyanoscript.ui.sheet.process.shelf import about
from tests.conftest import make_colourful
from tests.ui.conftest import Bench

TWO = "two inks: black and warm gray"


@pytest.fixture
def sheet(bench: Bench):
    """The first sheet, of a print in two inks, as it is before anything is done to it."""
    bench.add("inks")
    bench.desk.set_values("Inks", **bench.desk.run[0].starts[TWO])
    bench.window.registry.go(bench.window.sheet)
    bench.laying = bench.window.sheet.laying
    bench.sheets, bench.films = bench.laying.sheets, bench.laying.films
    bench.paper, bench.page = bench.laying.paper, bench.laying.page
    bench.settle()
    assert until(lambda: bench.laying.on_paper is not None and bench.paper.image is not None, 240)
    return bench


def names(bench):
    return [name for name, _ in bench.sheets.all]


def placing(bench):
    return bench.sheets.sheet.placing


# Sheets


def test_sheets_are_added_named_taken_away_and_each_is_one_step(sheet: Bench):
    sheet.sheets.put("Print 120 mm wide", across=120.0)
    sheet.sheets.add()
    sheet.sheets.add()
    assert names(sheet) == ["First sheet", "Sheet 2", "Sheet 3"]
    assert sheet.sheets.current == 2
    assert placing(sheet).across == 120  # it begins as the one before is
    assert sheet.said() == "Sheet 3 begins as Sheet 2 is; F2 gives it another name"
    sheet.sheets.choose(1)
    sheet.sheets.rename("  Wall   of the ferry  ")
    assert names(sheet)[1] == "Wall of the ferry"
    sheet.sheets.rename("Sheet 3")
    assert sheet.said() == "There is a sheet Sheet 3 already"
    before = sheet.desk.script
    for nothing in ("", "   ", "Wall of the ferry"):
        sheet.sheets.rename(nothing)
    assert sheet.desk.script is before
    sheet.sheets.rename("x" * 200)
    assert names(sheet)[1] == "x" * 80
    sheet.sheets.remove()
    assert names(sheet) == ["First sheet", "Sheet 3"]
    assert sheet.sheets.current == 0
    assert sheet.said() == f"{'x' * 80} was taken away; Ctrl+Z brings it back"
    sheet.desk.undo()
    assert names(sheet)[1] == "x" * 80
    sheet.sheets.choose(2)
    sheet.sheets.remove()
    assert sheet.sheets.current == 1
    sheet.sheets.add()
    assert names(sheet)[-1] == "Sheet 2"  # the first number that is free


def test_one_of_a_name_that_is_there_gets_a_number(sheet: Bench):
    other = sheet.sheets.sheet.with_values(width=100.0)
    sheet.sheets.put("x", across=100.0)
    for _ in range(3):
        sheet.sheets.take_over("First sheet", other)
    assert names(sheet) == ["First sheet", "First sheet 2", "First sheet 3", "First sheet 4"]
    assert sheet.sheets.current == 3
    assert sheet.sheets.sheet == other
    sheet.sheets.take_over("Ferry", other)
    assert sheet.sheets.name == "Ferry"
    assert sheet.desk.undo_label == "Sheet: Ferry"


def test_kept_sheets_are_offered_and_none_is_said(sheet: Bench, monkeypatch):
    sheet.sheets.offer_kept()
    assert until(lambda: sheet.said() == "No sheet is kept yet; Keep for others does it", 60)
    sheet.laying.page.words["keep"].click()
    assert until(lambda: sheet.said().startswith("First sheet is kept; another photograph finds it"), 60)
    assert [name for name, _ in sheetfile.kept()] == ["First sheet"]
    sheet.sheets.offer_kept()
    assert until(lambda: sheet.sheets.menu is not None, 60)
    menu = sheet.sheets.menu
    assert [action.text() for action in menu.actions()] == ["First sheet"]
    menu.actions()[0].trigger()
    menu.close()
    assert names(sheet) == ["First sheet"]  # the one that was there only in name is that one now


def test_a_print_goes_by_its_height_or_its_pixels_or_its_place(sheet: Bench):
    """Of a photograph of 360 × 240."""
    sheet.sheets.put("x", down=100.0)
    assert placing(sheet).across == pytest.approx(150)
    sheet.sheets.put("x", fine=60.0)
    assert placing(sheet).across == pytest.approx(360 * 25.4 / 60, abs=0.01)
    sheet.sheets.put("x", down=0.1)
    assert placing(sheet).across == 1  # no smaller
    sheet.sheets.put("x", across=150.0)
    assert placing(sheet).middle
    left, top = (297 - 150) / 2, (210 - 100) / 2.1
    sheet.sheets.put("Optical middle off", middle=False)
    assert (placing(sheet).left, placing(sheet).top) == pytest.approx((left, top), abs=0.001)  # it stays where it is
    sheet.sheets.put("Optical middle on", middle=True)
    sheet.sheets.put("From the left 10 mm", left=10.0)
    assert (placing(sheet).middle, placing(sheet).left) == (False, 10)
    assert placing(sheet).top == pytest.approx(top, abs=0.001)
    sheet.sheets.put("Optical middle on", middle=True)
    sheet.sheets.put("From the top 10 mm", top=10.0)
    assert (placing(sheet).left, placing(sheet).top) == pytest.approx((left, 10), abs=0.001)
    before = sheet.desk.script
    sheet.sheets.put("the same", top=10.0)
    assert sheet.desk.script is before
    assert sheet.desk.undo_label == "Sheet: From the top 10 mm"


def test_values_of_one_drag_are_one_step_and_of_like_presses_too(sheet: Bench):
    sheet.sheets.grip(True)
    for across in (100.0, 110.0, 120.0):
        sheet.sheets.put("x", across=across)
    sheet.sheets.grip(False)
    assert placing(sheet).across == 120
    assert sheet.desk.undo_label == "Sheet: print moved"
    sheet.desk.undo()
    assert sheet.desk.script.sheets == ()
    for x in (1.0, 1.0, 1.0):
        sheet.sheets.nudged(x, 0.0)
    middle = (297 - 240) / 2  # 25 mm above and below
    assert placing(sheet).left == pytest.approx(middle + 3, abs=0.001)
    sheet.desk.undo()
    assert sheet.desk.script.sheets == ()
    sheet.sheets.sized(90.0, 11.0, 12.0)
    assert (placing(sheet).across, placing(sheet).middle) == (90, True)  # in the middle it stays there
    sheet.sheets.moved(30.0, 40.0)
    sheet.sheets.sized(95.0, 11.0, 12.0)
    assert (placing(sheet).across, placing(sheet).left, placing(sheet).top) == (95, 11, 12)


def test_filling_leaves_the_same_margin(sheet: Bench):
    sheet.sheets.moved(1.0, 1.0)
    sheet.page.page = "Print"
    sheet.laying.turn("Print")
    sheet.page.words["fill"].click()
    assert placing(sheet).middle
    assert placing(sheet).across == pytest.approx((210 - 50) * 1.5)
    assert sheet.desk.undo_label == "Sheet: Print 240 mm wide"
    sheet.sheets.unit = "in"
    sheet.sheets.moved(1.0, 1.0)
    sheet.sheets.fill()
    assert sheet.desk.undo_label == "Sheet: Print 9.45 in wide"


# Leaves


def test_each_page_has_its_leaf_on_the_paper(sheet: Bench):
    films = sheet.films
    assert films.leaves() == (PRINT, plate(0), plate(1))
    sheet.laying.turn("Plates")
    assert (films.leaf, films.at()) == (plate(0), 1)
    sheet.laying.show_leaf(plate(1))
    assert films.at() == 2
    sheet.laying.turn("Negative")
    assert films.leaf == NEGATIVE
    assert films.leaves()[-1] == NEGATIVE
    sheet.laying.turn("Paper")
    assert films.leaf == PRINT
    assert NEGATIVE not in films.leaves()
    sheet.sheets.put("Process", process="Cyanotype")
    assert NEGATIVE in films.leaves()  # whatever page is turned to: the sheet is for one
    picture = QImage(30, 20, QImage.Format.Format_RGB32)
    picture.fill(Qt.GlobalColor.blue)
    sheet.laying.take_dried(picture)
    assert films.leaves()[-1] == DRIED
    assert films.leaf == DRIED
    sheet.laying.turn("Process")  # another view's
    assert films.leaf == DRIED
    films.another()
    assert (films.leaf, films.dried) == (PRINT, None)
    films.leaf = plate(5)
    assert films.at() == 0  # one that is not there (any more)
    assert films.leaf == PRINT


def test_dots_are_asked_for_only_where_there_are_some(sheet: Bench):
    films = sheet.films
    assert films.dots(None) is None
    sheet.laying.turn("Plates")
    assert films.dots(None) is None
    sheet.sheets.put("Screen", screen="round")
    found = films.dots(None)
    assert found is not None
    assert found.sheet == sheet.sheets.sheet
    sheet.laying.turn("Paper")
    assert films.dots(None) is None
    sheet.laying.turn("Plates")
    said = films.known()
    assert said.lines[0].endswith("at 45°")
    sheet.sheets.put("Screen", screen="none")
    assert "°" not in films.known().lines[0]
    sheet.desk.set_values("Inks", on=False)
    assert films.inks == ()
    assert films.known().lines == ()


def test_what_is_wrong_with_a_negative_is_said(sheet: Bench):
    sheet.laying.turn("Negative")
    sheet.sheets.put("Process", process="Nobody's")
    assert "there is no process Nobody's any more" in sheet.films.known().remarks
    sheet.sheets.put("Process", process="")
    assert sheet.films.known().remarks == ()
    sheet.sheets.put("wide", across=400.0)
    assert any("reaches beyond the film" in words for words in sheet.films.known().remarks)
    sheet.laying.turn("Paper")
    assert sheet.films.known().remarks == ()


# At the foot


def test_the_foot_tells_size_pixels_and_what_it_is_written_at(sheet: Bench):
    sheet.sheets.put("x", across=150.0)
    foot = sheet.window.foot.values
    assert foot.text() == "A4 297 × 210 mm · 61 ppi in the photograph, written at 360"
    sheet.sheets.put("x", width=300.0)
    assert foot.text().startswith("300 × 210 mm · ")
    sheet.laying.turn("Paper")
    sheet.word("Inches")
    assert foot.text().startswith("11.81 × 8.27 in · ")
    lines = sheet.laying.rack.lines
    assert lines.told().words == "First sheet, 300 × 210, baryta"
    sheet.sheets.put("x", width=297.0, stock="washi")
    assert lines.told().words == "First sheet, A4, washi"


def test_a_page_that_is_not_on_the_screen_says_nothing_at_the_foot(sheet: Bench):
    sheet.window.registry.go(sheet.window.bench)
    before = sheet.window.foot.values.text()
    sheet.sheets.put("x", across=99.0)
    assert sheet.window.foot.values.text() == before
    assert not sheet.laying.there


def test_the_gamut_key_comes_here_and_turns_the_marks_on_and_off(sheet: Bench):
    sheet.window.registry.go(sheet.window.bench)
    sheet.window.sheet.gamut()
    assert sheet.window.registry.view is sheet.window.sheet
    assert sheet.laying.marking
    sheet.window.sheet.gamut()
    assert not sheet.laying.marking
    sheet.window.sheet.gamut()
    assert sheet.page.shown["gamut"]


def test_the_print_is_put_by_the_hand_in_the_window(sheet: Bench):
    """A press on the paper takes the print; Escape gives it up."""
    at = sheet.paper.at(148.5, 100)
    sheet.press(sheet.paper, at)
    sheet.move(sheet.paper, at + QPointF(25, 18))
    assert not placing(sheet).middle
    sheet.key(Qt.Key.Key_Escape, on=sheet.paper)
    assert placing(sheet).middle
    assert sheet.window.registry.view is sheet.window.sheet
    sheet.move(sheet.paper, at + QPointF(60, 60))  # the hand is still down, and moves nothing any more
    sheet.release(sheet.paper, at)
    assert placing(sheet).middle
    assert "Sheet" not in sheet.desk.undo_label
    sheet.key(Qt.Key.Key_Escape, on=sheet.paper)
    assert sheet.window.registry.view is sheet.window.bench


def test_what_is_printed_is_told_and_lies_in_the_tray(sheet: Bench):
    sheet.sheets.put("small", width=60.0, height=40.0, across=30.0, resolution=72.0)
    sheet.window.sheet.out.print("First sheet", sheet.sheets.sheet, benchprinter.NAME)
    assert until(lambda: "lies in the bench printer's tray" in sheet.said(), 240)
    assert (benchprinter.spool() / "job-0001" / "paper.png").exists()


def test_processes_are_told_in_a_line():
    assert about(AS_IT_IS) == "no curve"
    assert about(Process(paper="cotton", minutes=11)) == "cotton, 11 min"
    assert about(Process(minutes=2.5)) == "2.5 min"


# Files that are asked for, and processes


def test_where_nothing_is_named_nothing_is_written(sheet: Bench, monkeypatch):
    asked = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *words: asked.append(words[1:3]) or ("", ""))
    for page, word in (("Print", "file"), ("Plates", "plates"), ("Negative", "negative"), ("Negative", "negatives")):
        sheet.laying.turn(page)
        sheet.page.words[word].click()
        assert sheet.window.printing.running is None or not sheet.window.printing.busy(), word
    titles = [title for title, _ in asked]
    assert titles == ["Write the sheet", "Write the plates", "Write the negative", "Write the negative"]
    ends = ["-first-sheet.pdf", "-first-sheet-plates.tif", "-first-sheet-negative.tif", "-first-sheet-negative.tif"]
    assert all(name.endswith(end) for (_, name), end in zip(asked, ends, strict=True))


def test_keys_on_the_process_page_are_of_processes(sheet: Bench):
    view = sheet.window.sheet
    assert view.commands()[commands.UNDO] == sheet.desk.undo
    assert view.undo_words() == (sheet.desk.undo_label, "")
    view.measure()
    found, work = view.commands(), view.work
    assert found[commands.UNDO] == work.shelf.undo
    assert found[commands.REDO] == work.shelf.redo
    assert found[commands.RENAME] == work.about
    assert found[commands.REMOVE] == work.shelf.remove
    assert view.undo_words() == ("", "")
    assert view.focus() is work.steps
    assert view.panels().middle is work.middle


def test_files_of_processes_are_what_the_processes_are(sheet: Bench):
    view = sheet.window.sheet
    view.measure()
    shelf = view.work.shelf
    assert until(lambda: len(shelf.processes) > 1, 60)
    for name in ("Blue", "Green"):
        shelf.take_over(Process(name=name))
    kept = lambda: sorted(process.name for process in processfile.kept()[0])  # noqa: E731
    assert until(lambda: kept() == ["Blue", "Green"], 60)
    shelf.put("about it", name="Deep green")
    assert until(lambda: kept() == ["Blue", "Deep green"], 60)  # the file of the old name is gone, the other's stays
    shelf.remove()
    assert until(lambda: kept() == ["Blue"], 60)
    shelf.undo()
    assert until(lambda: kept() == ["Blue", "Deep green"], 60)


def test_what_is_on_its_way_when_the_window_goes_comes_to_nobody(sheet: Bench):
    service, came = sheet.window.service, []
    service.answers(HungOnPaper).connect(came.append)
    other = Laying(sheet.laying.context)
    assert until(lambda: other.proof is not None, 60)
    asked = OnPaper(sheet.desk.script, Rect(0, 0, 36, 24), 0.1, slot="paper", proof=other.proof)
    service.ask(asked)
    assert until(lambda: any(frame.look == asked for frame in came), 60)
    frame = next(frame for frame in came if frame.look == asked)
    shiboken6.delete(other.paper)
    service.answers(HungOnPaper).emit(frame)


@pytest.mark.parametrize(
    ("size", "paper"), [((240, 360), (210, 297)), ((300, 300), (297, 210)), ((900, 300), (297, 210))]
)
def test_the_first_sheet_stands_as_its_print_does_and_holds_it_whole(bench: Bench, tmp_path, size, paper):
    file = tmp_path / "shape.png"
    Image.fromarray(make_colourful(*size[::-1])).save(file)
    bench.open(file)
    bench.window.registry.go(bench.window.sheet)
    laying = bench.window.sheet.laying
    assert until(lambda: laying.on_paper is not None and laying.paper.image is not None, 240)
    sheet = laying.sheets.sheet
    assert (sheet.paper.width, sheet.paper.height) == paper
    box, on = laying.paper.box(laid(sheet, size[0] / size[1]).prints[0]), laying.paper.box(laid(sheet, 1).paper)
    assert on.contains(box)
    margins = (box.left() - on.left(), box.top() - on.top(), on.right() - box.right(), on.bottom() - box.bottom())
    assert min(margins) / laying.paper.each == pytest.approx(25, abs=2.5)  # the lower one is a tenth wider
    assert bench.desk.script.sheets == ()  # looking changes nothing


def test_what_reaches_beyond_the_paper_goes_out_only_if_that_is_wanted(sheet: Bench, monkeypatch):
    asked, answers = [], []
    monkeypatch.setattr(out, "ask", lambda over, text, more, words: asked.append(text) or answers.pop(0))
    names = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *said: names.append(said[1]) or ("", ""))
    monkeypatch.setattr(out.Printers, "exec", lambda dialog: names.append("Print") and 0)
    view = sheet.window.sheet
    for press in (view.write, view.print):
        press()
    assert (len(names), asked) == (2, [])
    sheet.sheets.put("x", across=400.0)
    answers += ["Cancel", "Cancel", "Cancel"]
    for press in (view.write, view.print, lambda: view.out.ask_plates("First sheet", sheet.sheets.sheet)):
        press()
    assert len(names) == 2
    assert asked == ["The print reaches 51.5 mm beyond the paper of 297 mm × 210 mm."] * 3
    answers += ["Cut off what reaches beyond"] * 2
    view.write()
    view.print()
    assert len(names) == 4


def test_words_that_are_on_are_shown_so(sheet: Bench):
    page = sheet.page
    sheet.laying.turn("Colour")
    proof, gamut = page.words["proof"], page.words["gamut"]
    assert (proof.isChecked(), gamut.isChecked()) == (True, False)
    sheet.laying.set_marking(True)
    assert gamut.isChecked()
    sheet.laying.set_marking(False)
    assert not gamut.isChecked()


def test_pressed_words_show_the_proof_and_mark_what_the_printer_has_not(sheet: Bench):
    sheet.laying.turn("Colour")
    told = []
    sheet.page.showing.connect(lambda key, on: told.append((key, on)))
    sheet.page.words["gamut"].click()
    sheet.page.words["proof"].click()
    assert told == [("gamut", True), ("proof", False)]
    assert (sheet.laying.marking, sheet.page.shown["proof"]) == (True, False)


class Device(QPrinter):
    """A printer of Qt's into a file, which has taken a paper of its own."""

    def __init__(self, path, layout=None, gray=False):
        super().__init__(QPrinter.PrinterMode.HighResolution)
        self.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
        self.setOutputFileName(str(path))
        self._own, self._gray = layout, gray

    def pageLayout(self):
        return self._own or super().pageLayout()

    def colorMode(self):
        return QPrinter.ColorMode.GrayScale if self._gray else QPrinter.ColorMode.Color


def test_a_printer_without_the_sheets_paper_is_sent_nothing(sheet: Bench, tmp_path):
    a4 = QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Landscape, QMarginsF())
    sheet.sheets.put("x", width=420.0, height=297.0)
    device = Device(tmp_path / "a.pdf", a4)
    assert sheet.window.sheet.out.hand_over("Exhibition", sheet.sheets.sheet, device, "Quay") is None
    assert sheet.said().startswith("Quay has no paper of 420 mm × 297 mm and would take 297 mm × 210 mm; nothing was")
    assert not (tmp_path / "a.pdf").exists()
    sheet.sheets.put("x", width=297.0, height=210.0, resolution=72.0)
    assert sheet.window.sheet.out.hand_over("Exhibition", sheet.sheets.sheet, device, "Quay") is not None
    assert until(lambda: sheet.window.printing.running is None, 240)
    assert (tmp_path / "a.pdf").exists()


def test_a_toned_print_goes_to_a_printer_of_grays_only_if_that_is_wanted(sheet: Bench, tmp_path, monkeypatch):
    asked, answers = [], ["Cancel", "Print it in gray"]
    monkeypatch.setattr(out, "ask", lambda over, text, more, words: asked.append(text) or answers.pop(0))
    sheet.sheets.put("x", resolution=72.0)
    for k in range(2):
        device = Device(tmp_path / f"{k}.pdf", gray=True)
        job = sheet.window.sheet.out.hand_over("Exhibition", sheet.sheets.sheet, device, "Quay")
        assert (job is None) == (k == 0)
        assert until(lambda: sheet.window.printing.running is None, 240)
    assert asked == ["Quay prints in gray, and the print has colour."] * 2
    assert [(tmp_path / f"{k}.pdf").exists() for k in range(2)] == [False, True]


def test_pictures_go_to_a_printer_without_loss(sheet: Bench, tmp_path):
    """Every pixel of the sheet, as it is written into a PNG: Qt would pack them as JPEG."""
    sheet.sheets.put("x", resolution=72.0)
    device = Device(tmp_path / "a.pdf")
    sheet.window.sheet.out.hand_over("Exhibition", sheet.sheets.sheet, device, "Quay")
    assert until(lambda: sheet.window.printing.running is None, 240)
    sheet.window.sheet.out.write(sheet.sheets.sheet, tmp_path / "a.png")
    assert until(lambda: sheet.window.printing.running is None, 240)
    with pikepdf.open(tmp_path / "a.pdf") as pdf, Image.open(tmp_path / "a.png") as page:
        pictures = list(pdf.pages[0].Resources.XObject.as_dict().values())
        assert {str(picture.get("/Filter")) for picture in pictures} == {"/FlateDecode"}
        bands = [np.asarray(pikepdf.PdfImage(picture).as_pil_image().convert("RGB")) for picture in pictures]
        assert np.array_equal(np.concatenate(bands), np.asarray(page.convert("RGB")))


def test_the_usual_printer_is_offered_first_and_the_stand_in_last(monkeypatch):
    for names, usual, order in (
        (["Attic", "Quay", "Yard"], "Quay", ["Quay", "Attic", "Yard"]), (["Attic"], "", ["Attic"]), ([], "", []),
    ):  # fmt: skip
        monkeypatch.setattr(printers, "there", lambda names=names: names)
        monkeypatch.setattr(printers, "usual", lambda usual=usual: usual)
        assert printers.in_order() == [*order, benchprinter.NAME]


@pytest.fixture
def quay(monkeypatch, tmp_path):
    """A printer of the system that takes any paper, into a file; and what it was told."""
    made = []

    def device(name):
        made.append(Device(tmp_path / "quay.pdf", gray=name == "Gray"))
        return made[-1]

    monkeypatch.setattr(printers, "there", lambda: ["Attic", "Quay", "Gray"])
    monkeypatch.setattr(printers, "usual", lambda: "Quay")
    monkeypatch.setattr(printers, "device_of", device)
    return made


def test_printers_are_listed_by_command(quay, capsys):
    assert main(["printers"]) == 0
    assert capsys.readouterr().out.splitlines() == [
        "Attic", "Quay  (the usual one)", "Gray", "bench  (a stand-in that ships)",
    ]  # fmt: skip
    assert main(["printers", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert [(row["name"], row["usual"]) for row in rows] == [
        ("Attic", False), ("Quay", True), ("Gray", False), ("bench", False),
    ]  # fmt: skip


def test_a_sheet_is_sent_to_a_printer_by_command(quay, tmp_path, capsys):
    photo = tmp_path / "landing.png"
    Image.fromarray(make_colourful(240, 360)).save(photo)
    words = ["sheet", str(photo), "--set", "sheet.resolution=72", "--printer"]
    assert main([*words, "Quay", "--copies", "3"]) == 0
    assert "297 × 210 mm at 72 pixels per inch went to Quay" in capsys.readouterr().out
    assert quay[0].copyCount() == 3
    with pikepdf.open(tmp_path / "quay.pdf") as pdf:
        assert [float(v) for v in pdf.pages[0].MediaBox[2:]] == pytest.approx([842, 595], abs=1.5)
    for more, said in (
        (["Nobody"], "there is no printer 'Nobody'; there are Attic, Quay, Gray, bench"),
        (["Gray"], "Gray prints in gray, and the print has colour; --gray prints it all the same"),
        (["Quay", "--copies", "0"], "copies is 0; it must be 1…999"),
        (["Quay", "--set", "sheet.across=400"], "beyond the paper"),
    ):
        assert main([*words, *more]) == 2
        assert said in capsys.readouterr().err
    assert main([*words, "Gray", "--gray"]) == 0


def test_an_answer_that_comes_when_the_window_is_gone_touches_nothing(sheet: Bench):
    """Seen once: the way onto a sheet was found after its paper had gone."""
    laying = sheet.laying
    assert laying.there
    shiboken6.delete(laying.paper)
    assert not laying.there
    laying._show()
    laying.refresh()
