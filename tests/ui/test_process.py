"""The Process page, plates and negatives in the window: wedge, expose, read, curve, prove; the negative on its film."""

import numpy as np
import pytest
import tifffile
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QFileDialog

from kyanoscript import demo
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.process import AS_IT_IS, Process
from kyanoscript.files.kept import processfile
from kyanoscript.files.standins import darkroom
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.sheet.process.page import InkEntry
from kyanoscript.ui.sheet.process.steps import CURVE, EXPOSE, NAMES, PROVE, READ, WEDGE
from kyanoscript.ui.sheet.process.typing import Typing
from kyanoscript.ui.widgets.naming import Naming
from tests.ui.conftest import Bench


@pytest.fixture(autouse=True)
def _own_data(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path / "data"))


@pytest.fixture
def process(bench: Bench):
    """The Process page, with what ships on its shelf."""
    bench.window.registry.go(bench.window.sheet)
    bench.settle()
    bench.window.sheet.measure()
    bench.sheet, bench.work = bench.window.sheet, bench.window.sheet.work
    bench.shelf, bench.page = bench.work.shelf, bench.work.page
    assert until(lambda: len(bench.shelf.ships) == 2 and bench.work.worked.response is not None, 240)
    bench.settle()
    return bench


def said(bench):
    return bench.window.foot.message.text()


def practised(bench, proving=False):
    """The wedge exposed, scanned and read; and the curve worked out."""
    before = bench.shelf.process
    bench.work.practise(proving=proving)
    assert until(lambda: bench.shelf.process != before and bench.work.worked.process == bench.shelf.process, 240)
    bench.settle()


def test_what_ships_is_there_with_its_scan_its_facts_and_its_curve(process: Bench):
    assert [name for name, _ in process.work.rack.lines.lines] == ["Cyanotype", "Platinum", "As it is"]
    assert until(lambda: process.work.scan.image is not None, 240)
    assert process.page.known["White"].text().startswith("L* 95")
    assert process.page.known["Read"].text().startswith("21 steps, 4 of each, ± 0.")
    assert process.page.known["Left after it"].text().endswith("L* at 95 %")
    assert "log exposure" in process.page.known["Its scale"].text()
    assert process.work.scan.words.startswith("84 of 84 patches read · turned by 1.4°")
    assert not process.desk.edited


def test_the_keyboard_goes_from_step_to_step(process: Bench):
    for step in (READ, CURVE, PROVE, PROVE):
        assert process.work.step == step or process.work.step == PROVE
        process.key(Qt.Key.Key_Right, on=process.work.steps)
    assert process.work.step == PROVE
    for _ in range(6):
        process.key(Qt.Key.Key_Left, on=process.work.steps)
    assert process.work.step == WEDGE
    assert process.work.steps.told().words.startswith("Wedge, 21 steps")
    process.key(Qt.Key.Key_Escape, on=process.work.steps)
    assert not process.sheet.measuring
    assert process.window.registry.view is process.sheet
    process.key(Qt.Key.Key_Escape, on=process.sheet.laying.paper)
    assert process.window.registry.view is process.window.bench


def test_a_process_from_its_wedge_to_the_proof(process: Bench, tmp_path, monkeypatch):
    """As somebody without a darkroom walks it: new, named, ink, exposed, read, curved, proved, kept."""
    process.work.add()
    assert process.work.step == WEDGE
    assert process.shelf.process.name == "New process"
    process.work.about()
    naming = process.window.findChild(Naming)
    for line, text in zip(naming.lines, ("Evening blue", "rag", "cyanotype", "sun", ""), strict=True):
        line.setText(text)
    process.key(Qt.Key.Key_Return, on=naming)
    assert process.shelf.process.paper == "rag"
    process.write(process.page.editors["ink"], "#c8c800")
    assert process.shelf.process.ink == "#c8c800"
    process.work.go(EXPOSE)
    process.type(process.page.sliders["minutes"], "12.0")
    practised(process)
    assert process.work.step == READ
    assert "84 of 84 patches read" in said(process)
    assert len(process.shelf.process.readings) == 84
    process.work.go(CURVE)
    assert process.work.worked.curve is not None
    plain = process.work.worked.curve
    process.page.editors["aim"].setCurrentIndex(process.page.editors["aim"].findData("density"))
    assert until(lambda: process.work.worked.curve is not None and process.work.worked.process.aim == "density", 240)
    assert np.abs(process.work.worked.curve - plain).max() > 1
    process.shelf.undo()
    assert process.shelf.process.aim == "lightness"
    assert until(lambda: process.work.worked.process == process.shelf.process, 240)
    practised(process, proving=True)
    assert process.work.step == PROVE
    assert float(process.page.known["Left after it"].text().split()[0]) < 1.5
    assert until(lambda: any(found.name == "Evening blue" and found.proof for found in processfile.kept()[0]), 240)
    process.work.improve()
    assert process.work.step == CURVE
    assert len(process.shelf.process.readings) == 168


def test_one_that_ships_is_changed_as_one_s_own_and_undo_brings_it_back(process: Bench):
    process.work.go(CURVE)
    slider = process.page.sliders["smoothing"]
    process.pull(slider, 1.5, 3.0, 6.0)
    assert process.shelf.mine
    assert process.shelf.process.smoothing == pytest.approx(6, abs=0.1)
    assert until(lambda: [one.smoothing for one in processfile.kept()[0]] == [process.shelf.process.smoothing], 240)
    assert process.window.registry.view.undo_words()[0].startswith("Process: Smoothed")
    process.shelf.undo()  # one drag, one step
    assert process.shelf.process.smoothing == 1
    assert not process.shelf.mine
    assert until(lambda: processfile.kept()[0] == [], 240)
    process.shelf.redo()
    assert process.shelf.process.smoothing == pytest.approx(6, abs=0.1)
    process.shelf.remove()
    assert "Ctrl+Z brings it back" in said(process)
    assert not process.shelf.mine


def test_a_drag_that_is_given_up_makes_no_process_of_one_s_own(process: Bench):
    process.work.go(CURVE)
    slider = process.page.sliders["smoothing"]
    process.press(slider, QPointF(slider.handle_x(), 28))
    process.move(slider, QPointF(slider.width() - 8, 28))
    assert process.shelf.process.smoothing > 3
    process.key(Qt.Key.Key_Escape, on=slider)
    process.release(slider, QPointF(40, 28))
    assert process.shelf.process.smoothing == 1
    assert not process.shelf.mine
    assert process.shelf.undo_words() == ("", "")
    assert process.page.sliders["smoothing"].value == 1


def test_a_patch_is_left_out_by_a_press_and_taken_back(process: Bench):
    scan = process.work.scan
    assert until(lambda: scan.image is not None, 240)
    place = scan.square(5).boundingRect().center()
    process.press(scan, place)
    assert process.shelf.process.readings[5].used is False
    assert scan.used[5] is False
    assert process.page.known  # the page is there all the while
    process.press(scan, scan.square(5).boundingRect().center())
    assert process.shelf.process.readings[5].used is True
    process.move(scan, scan.square(5).boundingRect().center())
    value = process.work.shelf.process.readings[5].value
    assert f"Patch {value:g} %: L* " in process.window.foot.values.text()
    assert "the film gets" in process.window.foot.values.text()


def test_the_curve_tells_a_tone_under_the_pointer(process: Bench):
    process.work.go(CURVE)
    graph = process.work.graph
    graph.setFocus()
    while round(graph.tone) != 55:
        process.key(Qt.Key.Key_Right, on=graph)
    told = process.window.foot.values.text()
    assert told.startswith("Tone 55 %: L* ")
    assert ", wanted " in told
    assert " · the film gets " in told
    assert process.work.graph.told().words == told


def test_readings_are_typed_and_what_is_wrong_with_them_is_said(process: Bench):
    dialog = Typing(process.window, process.window.jobs)

    def take(text):
        dialog.text.setPlainText(text)
        dialog.taking.click()
        assert not dialog.taking.isEnabled()  # while another thread reads
        assert until(dialog.taking.isEnabled, 240)

    take("95\nmany\n")
    assert dialog.warning.text().startswith("Line 2 is 'many'")
    take("1 " * (3 << 20))
    assert dialog.warning.text() == "This is no list of readings: it has 6 million letters"
    take("\n".join(str(95 - 7 * k) for k in range(11)))
    assert dialog.result() == dialog.DialogCode.Accepted
    process.work.add()
    process.work.readings.take_list(dialog.readings)
    assert until(lambda: process.work.worked.response is not None and not process.work.working, 240)
    process.work.go(READ)
    assert not process.work.scan.isVisible()  # readings without a scan
    assert process.work.graph.isVisible()
    dialog.close()


def test_new_readings_take_the_place_of_the_old_or_join_them(process: Bench):
    process.work.add()
    practised(process)
    process.page.editors["adding"].setChecked(True)
    assert process.work.readings.adding
    practised(process)
    assert len(process.shelf.process.readings) == 168
    process.page.editors["adding"].setChecked(False)
    practised(process)
    assert len(process.shelf.process.readings) == 84


def test_the_paper_s_lightness_that_was_measured_counts(process: Bench):
    process.work.add()
    process.work.go(READ)
    process.type(process.page.sliders["white"], "91.0")
    practised(process)
    assert process.shelf.process.end(False)[0] == pytest.approx(91, abs=0.4)


def test_what_is_changed_while_a_scan_is_read_stays(process: Bench):
    process.work.add()
    process.work.practise()
    process.shelf.put("about it", paper="rag", aim="density")
    assert until(lambda: len(process.shelf.process.readings) == 84, 240)
    assert (process.shelf.process.paper, process.shelf.process.aim) == ("rag", "density")
    process.work.practise()
    process.shelf.choose(1)
    assert until(lambda: "another is looked at by now" in said(process), 240)


def test_the_bench_densitometer_measures_patch_after_patch(process: Bench):
    process.work.add()
    process.work.set_bath("platinum")
    process.work.go(READ)
    process.page.words["densitometer"].click()
    assert until(lambda: len(process.shelf.process.readings) == 84, 240)
    assert until(lambda: process.work.worked.response is not None and not process.work.working, 240)
    assert 0.1 < process.work.worked.response.noise < 1.5


def test_time_and_filter_ink_are_found_by_their_charts(process: Bench):
    process.work.add()
    process.work.set_chart("times")
    process.shelf.put("x", minutes=12.0)
    process.work.go(EXPOSE)
    before = process.shelf.process
    process.work.practise()
    assert until(lambda: process.shelf.process != before, 240)
    assert process.shelf.process.minutes == pytest.approx(11, abs=1.5)
    assert "shortest time for full black" in said(process)
    process.work.set_chart("inks")
    process.work.practise()
    assert until(lambda: process.shelf.process.ink != "#000000", 30)
    assert f"filter ink {process.shelf.process.ink}" in said(process)


def test_what_is_read_in_another_ink_is_warned_of(process: Bench):
    process.work.go(CURVE)
    process.write(process.page.editors["ink"], "#7fae2e")
    assert until(lambda: process.work.worked.said != (), 240)
    assert "not in #7fae2e; read it again" in process.work.worked.said[0]
    process.write(process.page.editors["ink"], "grass")
    assert "grass is no colour; write it as #7fae2e" in said(process)
    assert process.page.editors["ink"].text() == "#7fae2e"


def test_charts_are_written_and_scans_read_from_files(process: Bench, tmp_path, monkeypatch):
    process.work.go(WEDGE)
    target = tmp_path / "film.tif"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    process.page.words["write"].click()
    assert until(target.exists, 240)
    assert until(lambda: "88 × 181.5 mm" in said(process), 240)
    light, ppi = darkroom.exposed(target, BATHS["cyanotype"])
    darkroom.write_scan(tmp_path / "scan.jpg", light, ppi, BATHS["cyanotype"], darkroom.Scanner(ppi=150, turn=170))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "scan.jpg"), ""))
    process.work.add()
    process.work.go(READ)
    process.page.words["scan"].click()
    assert until(lambda: len(process.shelf.process.readings) == 84, 240)
    assert "turned by 170" in said(process)
    Image.fromarray(np.full((300, 300, 3), 200, np.uint8)).save(tmp_path / "scan.jpg")
    process.page.words["scan"].click()
    assert until(lambda: "there is no chart in this picture" in said(process), 240)
    assert said(process).startswith("scan.jpg: ")
    assert len(process.shelf.process.readings) == 84  # nothing is lost


def test_processes_go_out_and_come_in_as_files(process: Bench, tmp_path, monkeypatch):
    file, text = tmp_path / "blue.process.json", tmp_path / "blue.txt"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(file), ""))
    process.page.words["export"].click()
    assert until(lambda: file.exists() and said(process) == "Wrote blue.process.json", 240)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))
    process.word("From a file…", process.work.rack)
    assert until(lambda: process.shelf.mine, 240)
    assert process.shelf.process.name == "Cyanotype 2"
    assert process.shelf.process.readings == processfile.named("Cyanotype").readings
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(text), ""))
    process.page.words["cgats"].click()
    assert until(text.exists, 240)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(text), ""))
    process.work.add()
    process.work.go(READ)
    process.page.words["list"].click()
    assert until(lambda: len(process.shelf.process.readings) == 84, 240)
    file.write_text("{")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))
    process.word("From a file…", process.work.rack)
    assert until(lambda: "it is damaged or cut short" in said(process), 240)


def test_a_damaged_process_is_named_and_the_others_are_there(bench: Bench):
    processfile.folder().mkdir(parents=True)
    (processfile.folder() / "old.process.json").write_text('{"kyanoscript process": 1, "process": {"na')
    processfile.keep(Process(name="Mine"))
    bench.window.registry.go(bench.window.sheet)
    bench.window.sheet.measure()
    shelf = bench.window.sheet.work.shelf
    assert until(lambda: len(shelf.ships) == 2, 240)
    assert [one.name for one in shelf.processes] == ["Mine", "Cyanotype", "Platinum", "As it is"]


def test_the_page_turns_from_the_sheet_to_the_processes_and_back(process: Bench):
    assert process.window.places.right.currentWidget() is process.page
    process.word("Marks")
    process.settle()
    assert process.window.places.right.currentWidget() is process.sheet.laying.page
    assert process.sheet.laying.page.page == "Marks"
    process.word("Process")
    assert process.window.places.left.currentWidget() is process.work.rack
    assert NAMES[process.work.step] == "Read"


# Plates and negatives on the sheet


@pytest.fixture
def inked(bench: Bench):
    """A print in two inks on its sheet."""
    bench.add("inks")
    start = bench.desk.selected_pass.starts["two inks: black and warm gray"]
    bench.desk.set_values("Inks", **start)
    bench.window.registry.go(bench.window.sheet)
    bench.sheet, bench.laying = bench.window.sheet, bench.window.sheet.laying
    assert until(lambda: len(bench.sheet.work.shelf.ships) == 2, 240)
    bench.settle()
    return bench


def leaf_there(bench, name):
    return until(lambda: bench.laying.films.leaf.name == name and bench.laying.paper.image is not None
                 and name in bench.laying.leaves.images, 20)  # fmt: skip


def test_each_ink_is_a_leaf_that_is_laid_on_the_paper_by_a_press(inked: Bench):
    inked.laying.turn("Plates")
    assert inked.laying.leaves.names == ("Print", "Plate 1", "Plate 2")
    assert leaf_there(inked, "Plate 1")
    first = inked.laying.paper.image.copy()
    inked.press(inked.laying.leaves, QPointF(20 + 136 * 2 + 40, 70))
    assert leaf_there(inked, "Plate 2")
    assert inked.laying.paper.image != first
    assert inked.laying.paper.image.isGrayscale()
    inked.key(Qt.Key.Key_Left, on=inked.laying.leaves)
    assert inked.laying.films.leaf.name == "Plate 1"
    inked.laying.turn("Print")
    assert inked.laying.films.leaf.name == "Print"


def test_plates_have_their_values_and_are_written(inked: Bench, tmp_path, monkeypatch):
    inked.laying.turn("Plates")
    page = inked.laying.page
    assert page.facts.text().splitlines()[0].startswith("ink 1 #")
    page.editors["screen"].setCurrentIndex(page.editors["screen"].findData("round"))
    assert ", at 45°" in page.facts.text()
    assert until(lambda: inked.laying.leaves.dots is not None, 240)
    seen = inked.laying.leaves.dots
    every = [seen.pixelColor(x, y).getRgb()[:3] for x in range(0, 360, 3) for y in range(0, 100, 3)]
    colours: list[tuple[int, ...]] = []
    for one in every:  # each lies between two steps of the screen
        if all(max(abs(a - b) for a, b in zip(one, other, strict=True)) > 1 for other in colours):
            colours.append(one)
    assert len(colours) <= 4  # paper, either ink, both
    assert len(colours) >= 2
    inked.type(page.sliders["device"], "300.0")
    inked.type(page.sliders["ruling"], "40.0")
    inked.type(page.sliders["trap"], "0.3")
    assert "another print than the one on the screen" in page.remarks.text()
    sheet = inked.desk.script.sheets[0][1]
    assert (sheet.plates.screen, sheet.plates.device, sheet.plates.trap) == ("round", 300, 0.3)
    inked.desk.undo()
    assert inked.desk.script.sheets[0][1].plates.trap == 0
    target = tmp_path / "plates.tif"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    page.words["plates"].click()
    assert until(lambda: said(inked).startswith("Wrote plates.tif, "), 240)
    with Image.open(target) as image:
        assert said(inked) == f"Wrote plates.tif, {image.width} × {image.height} pixels"
        assert image.mode == "1"
        assert image.n_frames == 2


def test_a_press_is_chosen_and_says_how_far_off_plates_would_have_been(inked: Bench):
    """By its paper: the values beneath follow, in one step; values of one's own are named so."""
    inked.laying.turn("Plates")
    page = inked.laying.page
    assert page.editors["press"].currentText() == "ink that does not spread"
    assert "For ink that does not spread; as on baryta they print up to " in page.facts.text()
    assert "gain_3" not in page.sliders  # of two inks
    assert not page.sliders["gain_1"].isVisible()
    assert leaf_there(inked, "Plate 1")
    plain = inked.laying.paper.image.copy()
    choose(page.editors["press"], "cotton")
    plates = inked.desk.script.sheets[0][1].plates
    assert (plates.gain_1, plates.gain_4, plates.yule_nielsen, plates.most_ink) == (18, 18, 1.9, 270)
    assert until(lambda: "they would print up to 31.5 L* off, 16.7 on average" in page.facts.text(), 60)
    assert "does not spread;" not in page.facts.text()
    assert not page.remarks.isVisible()  # it is as it should be
    assert until(lambda: inked.laying.paper.image is not None and mean(inked.laying.paper.image) > mean(plain) + 5, 60)
    choose(page.editors["press"], "own")
    assert all(page.sliders[name].isVisible() for name in ("gain_1", "gain_2", "yule_nielsen", "most_ink"))
    inked.type(page.sliders["gain_2"], "25.0")
    assert inked.desk.script.sheets[0][1].plates.gain_2 == 25
    choose(page.editors["press"], "C")
    assert not page.sliders["gain_2"].isVisible()
    assert inked.desk.script.sheets[0][1].plates.gain_2 == 22
    inked.desk.undo()
    assert page.editors["press"].currentText() == "values of one's own"  # which they are
    inked.desk.undo()
    inked.desk.undo()
    assert page.editors["press"].currentText() == "ink that does not spread"


def choose(box, data):
    """As a hand does."""
    box.setCurrentIndex(box.findData(data))
    box.activated.emit(box.currentIndex())


def mean(image):
    """Of its grays, 0…255."""
    return np.mean([image.pixelColor(x, y).lightness()
                    for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)])  # fmt: skip


def test_a_print_without_inks_says_what_to_do(bench: Bench):
    bench.window.registry.go(bench.window.sheet)
    bench.window.sheet.laying.turn("Plates")
    bench.settle()
    from PySide6.QtWidgets import QLabel

    words = " ".join(label.text() for label in bench.window.sheet.laying.page.findChildren(QLabel))
    assert "This print has no inks. Add the pass Inks or Quad-tone" in words


def test_a_quad_tone_s_plates_come_when_they_are_asked_for(bench: Bench):
    bench.add("quad-tone")
    bench.window.registry.go(bench.window.sheet)
    laying = bench.window.sheet.laying
    bench.settle()
    assert laying.leaves.names == ("Print",)
    laying.turn("Plates")
    assert until(lambda: len(laying.films.inks) == 4, 240)
    assert until(lambda: laying.films.leaf.name == "Plate 1" and "Plate 4" in laying.leaves.images, 240)


def test_the_negative_lies_on_its_film_mirrored_in_its_ink(inked: Bench):
    inked.laying.turn("Negative")
    box = inked.laying.page.editors["process"]
    box.setCurrentIndex(box.findData("Cyanotype"))
    assert inked.desk.script.sheets[0][1].film.process == "Cyanotype"
    assert leaf_there(inked, "Negative")
    assert inked.laying.paper.turned_over
    assert inked.laying.paper.sheet.marks.wedge
    middle = inked.laying.paper.image.pixelColor(inked.laying.paper.image.width() // 2, 20)
    assert middle.blue() < middle.red()  # in a yellow ink
    dark, light = inked.laying.films.tone(0.0), inked.laying.films.tone(1.0)
    assert light.blue() < dark.blue() - 100
    inked.press(inked.laying.paper, inked.laying.paper.at(30, 60))


def test_a_film_that_lies_turned_over_is_moved_the_way_the_hand_goes(inked: Bench):
    inked.laying.sheets.put("x", left=40.0, top=30.0, across=150.0)
    inked.laying.turn("Negative")
    assert leaf_there(inked, "Negative")
    paper = inked.laying.paper
    start = paper.box(inked_print(inked)).center()
    inked.drag(paper, start, start + QPointF(10, 0), start + QPointF(20 * paper.each, 0))
    moved = paper.box(inked_print(inked)).center()
    assert moved.x() - start.x() == pytest.approx(20 * paper.each, abs=2 * paper.each)


def use(inked, name):
    """Go to the processes, choose one, and use it on the sheet."""
    inked.sheet.measure()
    work = inked.sheet.work
    assert until(lambda: name in [one.name for one in work.shelf.processes], 240)
    work.choose([one.name for one in work.shelf.processes].index(name))
    work.go(CURVE)
    inked.settle()
    inked.word("Use it for the negative")


def inked_print(bench):
    from kyanoscript.core.paper.layout import laid

    return laid(bench.laying.sheets.sheet, bench.laying.sheets.shape).prints[0]


def test_a_negative_is_written_one_for_each_ink_too(inked: Bench, tmp_path, monkeypatch):
    inked.laying.sheets.put("x", resolution=72.0, across=60.0)
    use(inked, "Cyanotype")
    inked.settle()
    page = inked.laying.page
    page.editors["layer 1"].setCurrentIndex(page.editors["layer 1"].findData("Platinum"))
    assert inked.laying.sheets.sheet.film.layers == ("", "Platinum")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "n.tif"), ""))
    page.words["negative"].click()
    assert until(lambda: said(inked).startswith("Wrote n.tif, "), 240)
    page.words["negatives"].click()
    assert until(lambda: said(inked).startswith("Wrote n-ink-1.tif, n-ink-2.tif"), 240)
    one, two = (tifffile.imread(tmp_path / f"n-ink-{k}.tif") for k in (1, 2))
    assert one.shape == two.shape
    assert one[..., 2].min() < one[..., 0].min()  # yellow, and red
    assert two[..., 1].min() < two[..., 0].min() - 10_000


def test_the_negative_is_exposed_and_the_dried_print_lies_on_the_sheet(inked: Bench):
    use(inked, "Cyanotype")
    inked.settle()
    inked.laying.page.words["expose"].click()
    assert until(lambda: inked.laying.films.leaf.name == "Dried print", 240)
    assert inked.laying.paper.image is not None
    assert "out of the bench darkroom" in said(inked)
    image = inked.laying.paper.image
    colours = [image.pixelColor(x, image.height() // 2) for x in range(0, image.width(), 5)]
    assert np.mean([one.blue() for one in colours]) > np.mean([one.red() for one in colours]) + 10


def test_what_is_wrong_with_a_negative_is_said_beside_it(inked: Bench):
    inked.laying.sheets.put("x", across=290.0, middle=True)
    use(inked, "Cyanotype")
    inked.settle()
    assert "the rim is too narrow for wedge, words and marks" in inked.laying.page.remarks.text().lower()
    inked.laying.sheets.put("x", across=330.0)
    inked.settle()
    assert "reaches beyond the film" in inked.laying.page.remarks.text()
    inked.laying.sheets.put("x", process="Gone")
    inked.settle()
    assert "there is no process Gone any more" in inked.laying.page.remarks.text().replace("There", "there")


def test_as_it_is_is_no_process_of_the_sheet(inked: Bench):
    use(inked, AS_IT_IS.name)
    assert inked.laying.sheets.sheet.film.process == ""


def test_the_demo_s_cyanotype_opens_with_its_film(bare: Bench):
    print_ = demo.finished("cyanotype")
    bare.open(print_.photo, print_.script)
    bare.window.registry.go(bare.window.sheet)
    bare.laying = bare.window.sheet.laying
    assert until(lambda: len(bare.window.sheet.work.shelf.ships) == 2, 240)
    bare.laying.turn("Negative")
    assert leaf_there(bare, "Negative")
    assert bare.laying.films.process.name == "Cyanotype"
    assert not bare.laying.page.remarks.isVisible()


def test_an_ink_is_given_once_and_what_is_none_is_refused(qtbot):
    entry, given, refused = InkEntry(), [], []
    qtbot.addWidget(entry)
    entry.given.connect(given.append)
    entry.refused.connect(refused.append)
    entry.show_ink("#7fae2e")
    for text in ("#7fae2e", "#123456", "#zzz", ""):
        entry.setText(text)
        entry.editingFinished.emit()
    assert given == ["#123456"]
    assert [words.split(" is ")[0] for words in refused] == ["#zzz", "nothing"]
    assert entry.text() == "#7fae2e"


def test_the_film_of_the_wedge_is_shown_as_soon_as_it_is_made(process: Bench):
    process.work.go(0)
    process.settle()
    made = process.work.film[process.work._film_key()]
    assert process.work.scan.image is made
    assert made.width() < made.height()  # it stands


def test_one_s_own_process_stands_before_one_of_its_name_that_ships(process: Bench):
    shelf = process.shelf
    name = shelf.ships[0].name
    assert [one.name for one in shelf.processes].count(name) == 1
    shelf.own = (*shelf.own, shelf.ships[0].with_(minutes=77))
    assert [one.minutes for one in shelf.processes if one.name == name] == [77]
    assert shelf.processes[-1] == AS_IT_IS


def test_a_close_wedge_is_refused_before_a_wedge_was_read(process: Bench, tmp_path, monkeypatch):
    process.work.add()
    box = process.page.editors["chart"]
    box.setCurrentIndex(box.findData("close"))
    assert process.work.chart == "close"
    target = tmp_path / "close.tif"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    process.page.words["write"].click()
    assert until(lambda: "it is not known where its tones move; read a wedge first" in said(process), 60)
    assert not target.exists()
