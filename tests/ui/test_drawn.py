"""What is drawn on the sheet's and the process's widgets: at its place, in its colour. Looked at pixel by pixel."""

import numpy as np
import pytest
import shiboken6
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QLabel, QPushButton

from kyanoscript.core.paper.layout import laid
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.process import chart as charts
from kyanoscript.core.process import reading
from kyanoscript.core.process.process import AS_IT_IS, Exposure, Process, Proved, Reading
from kyanoscript.files.colour.proofs import proof_of
from kyanoscript.files.kept import processfile
from kyanoscript.files.prints.queues import Offer, Queue
from kyanoscript.files.standins import benchprinter
from kyanoscript.ui.easel.foot import Foot
from kyanoscript.ui.jobs.lanes import Jobs
from kyanoscript.ui.service.papers import Tones
from kyanoscript.ui.sheet.leaves import Leaves, blocked
from kyanoscript.ui.sheet.out import Printers
from kyanoscript.ui.sheet.paper import PaperView
from kyanoscript.ui.sheet.printers import Wanted
from kyanoscript.ui.sheet.process.graph import CurveView
from kyanoscript.ui.sheet.process.scan import ScanView
from kyanoscript.ui.sheet.process.shelf import Shelf, about
from kyanoscript.ui.sheet.process.steps import EXPOSE, NAMES, Steps
from kyanoscript.ui.sheet.process.worked import work_out
from kyanoscript.ui.sheet.rack import SheetRack
from kyanoscript.ui.widgets import theme

RUST = QColor(180, 60, 20)
PROOF = proof_of(Sheet())


@pytest.fixture
def shown(qtbot):
    """A widget at a size, as an image of bytes ``(h, w, 3)``, red first."""

    def grab(widget, width=900, height=600):
        if not widget.isVisible():
            qtbot.addWidget(widget)
            widget.resize(width, height)
            widget.show()
        image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
        rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
        return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).astype(int)

    return grab


def filled(colour, width=60, height=40):
    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(colour)
    return image


def part(pixels, box, inset=12):
    """The middle of a box."""
    whole = QRectF(box).adjusted(inset, inset, -inset, -inset).toRect()
    return pixels[whole.top() : whole.bottom(), whole.left() : whole.right()]


def like(pixels, colour):
    wanted = QColor(colour).getRgb()[:3]
    return np.abs(pixels - wanted).max(-1) <= 2


# The sheet


SHEET = Sheet.of(width=300, height=200, across=120, left=40, top=50)


def test_paper_print_and_table_are_where_they_belong(shown):
    paper = PaperView()
    assert like(shown(paper), theme.colour("line")).mean() > 0.8  # nothing lies there yet
    paper.show_sheet(SHEET, 1.5, "mm")
    everything = laid(SHEET, 1.5)
    assert like(part(shown(paper), paper.box(everything.prints[0])), QColor(128, 128, 128)).mean() > 0.95
    paper.take(filled(RUST))
    paper.white = QColor("#F6F0E0")
    pixels = shown(paper)
    place, sheet = paper.box(everything.prints[0]), paper.box(everything.paper)
    assert like(part(pixels, place), RUST).mean() > 0.95
    beside = QRectF(place.right() + 20, place.top(), 40, place.height())
    assert like(part(pixels, beside, 2), "#F6F0E0").all()
    above = QRectF(sheet.left() + 60, sheet.bottom() + 12, 200, 10)
    assert like(part(pixels, above, 2), theme.colour("line")).all()


def test_marks_wedge_and_mat_are_drawn_round_the_print(shown):
    paper = PaperView()
    paper.take(filled(RUST))
    paper.show_sheet(SHEET, 1.5, "mm")
    plain = shown(paper)
    marked = SHEET.with_values(registers=True, cuts=True, wedge=True, steps=5, mat=10.0)
    paper.show_sheet(marked, 1.5, "mm")
    pixels, everything = shown(paper), laid(marked, 1.5)
    for box, level in everything.wedge:
        at = paper.box(box).center().toPoint()
        assert pixels[at.y(), at.x()] == pytest.approx(255 * level, abs=1.5)
    for line in everything.lines:
        at = paper.at((line.x0 + line.x1) / 2, (line.y0 + line.y1) / 2).toPoint()
        assert pixels[at.y() - 1 : at.y() + 2, at.x() - 1 : at.x() + 2].min() < 180
        assert plain[at.y() - 1 : at.y() + 2, at.x() - 1 : at.x() + 2].min() > 200
    place = paper.box(everything.prints[0])
    mat = QRectF(place.left() - 8, place.top() + 20, 6, place.height() - 40).toRect()
    assert like(pixels[mat.top() : mat.bottom(), mat.left() : mat.right()], "#F4F2EC").mean() > 0.8


def test_on_film_the_wedge_has_the_films_tones_and_the_print_lies_turned_over(shown):
    paper = PaperView()
    image = filled(RUST)
    for x in range(30):
        for y in range(40):
            image.setPixelColor(x, y, QColor("#2040A0"))
    paper.take(image)
    paper.film = lambda level: QColor("#FFE000") if level > 0.5 else QColor("#101010")
    sheet = SHEET.with_values(wedge=True, steps=5, mirrored=True)
    paper.show_sheet(sheet, 1.5, "mm")
    pixels, everything = shown(paper), laid(sheet, 1.5)
    for box, level in everything.wedge:
        at = paper.box(box).center().toPoint()
        assert like(pixels[at.y(), at.x()], paper.film(level))
    place = paper.box(everything.prints[0])
    left = QRectF(place.left(), place.top(), place.width() / 2, place.height())
    right = left.translated(place.width() / 2, 0)
    assert like(part(pixels, left, 16), RUST).mean() > 0.8  # what was at the right
    assert like(part(pixels, right, 16), "#2040A0").mean() > 0.8


def test_leaves_show_their_pictures_and_names_and_what_the_tones_become(shown):
    leaves = Leaves()
    leaves.show_leaves(("Print", "Plate 1"), 1)
    bare = shown(leaves, 900, 148)
    leaves.take("Plate 1", filled(RUST))
    pixels = shown(leaves)
    assert like(pixels, RUST).sum() > 1500
    assert like(pixels[:, :150], RUST).sum() == 0  # the first has none yet
    line = tuple(np.linspace(0, 100, 33))
    leaves.show_tones(Tones(PROOF, line, tuple(10 + 0.8 * v for v in line)))
    pixels = shown(leaves)
    assert (pixels[:, 320:] != bare[:, 320:]).any()
    left = 20 + 136 * 2 + 40  # beside the two of them
    for tone in (20, 50, 80):  # the line of the tones: in the print across, on the paper up
        x, y = round(left + 150 * tone / 100), round(36 + 84 - 84 * (10 + 0.8 * tone) / 100)
        assert like(pixels[y - 2 : y + 3, x - 2 : x + 3], theme.colour("accent")).any()
    assert leaves.accessibleDescription() == "black comes out at L* 10, white at L* 90"


def test_zones_that_run_together_on_the_paper_are_named():
    tone = tuple(np.linspace(0, 100, 101))
    straight = tuple(8 + 0.86 * v for v in tone)
    assert blocked(Tones(PROOF, tone, straight)) == "All zones stay apart"
    darks = tuple(max(8 + 0.86 * v, 26.0) for v in tone)
    assert blocked(Tones(PROOF, tone, darks)) == "Zones 0 and I, I and II run together"


# The process


def measured(**more):
    rows = tuple(Reading(value=v, lightness=95 - 0.7 * v, used=used)
                 for v in np.linspace(0, 100, 11) for used in (True, True, False))  # fmt: skip
    return Process(name="Evening blue", readings=rows, **more)


def test_what_was_left_out_is_not_counted():
    facts = dict(work_out(measured()).facts())
    assert facts["Read"].startswith("11 steps, 2 of each")
    assert facts["White"].startswith("L* 95.0")


def test_what_is_known_of_a_process_is_told_at_each_step():
    none = work_out(Process())
    assert none.facts() == [("Read", "not yet")]
    assert none.words() == ["21 steps", "10 min", "not yet", "no curve yet", "not yet"]
    assert (none.at(50), none.wanted(50, False)) == ("", "")
    worked = work_out(measured())
    assert worked.words()[2:] == ["22 of 33", "even in lightness", "not yet"]
    facts = dict(worked.facts())
    assert facts["Its scale"] == "no strip of exposures yet"
    assert facts["Left after it"] == "not proved yet"
    assert facts["Read"].endswith("± 0.00 L*")
    assert worked.at(50) == "Tone 50 %: L* 60.0, wanted 60.0 · the film gets 50 %"
    assert worked.wanted(50, True) == ", wanted 60.0"
    late = (Exposure(minutes=1, lightness=40), Exposure(minutes=2, lightness=30), Exposure(minutes=4, lightness=29))
    assert dict(work_out(measured(times=late, times_white=95)).facts())["Its scale"] == "the strip begins too late"
    single = Process(readings=tuple(Reading(value=v, lightness=95 - 0.7 * v) for v in np.linspace(0, 100, 11)))
    assert dict(work_out(single).facts())["Read"].startswith("11 steps, ±")
    proved = measured(proof=tuple(Proved(tone=v, lightness=94 - 0.7 * v) for v in np.linspace(0, 100, 11)))
    assert dict(work_out(proved).facts())["Left after it"] == work_out(proved).words()[4] != "not yet"
    wrong = work_out(Process(readings=(Reading(value=0, lightness=95),)))
    assert wrong.wrong
    assert wrong.response is None
    other = work_out(measured(ink="#7fae2e"))
    assert any("read in the ink #000000" in words for words in other.said)


def test_the_curve_is_drawn_where_its_values_are(shown):
    view, worked = CurveView(), work_out(measured())
    empty = shown(view, 520, 520)
    view.show_worked(worked)
    pixels = shown(view)
    box = view.box()
    hits = 0
    for tone in range(10, 91, 10):
        value = float(worked.curve[round(tone / 100 * (len(worked.curve) - 1))]) / 100
        x, y = round(box.x() + box.width() * tone / 100), round(box.bottom() - box.height() * value)
        near = np.s_[y - 3 : y + 4, x - 2 : x + 3]
        hits += bool(np.abs(pixels[near] - empty[near]).max() > 60)
    assert hits == 9


def test_a_scan_that_is_not_there_says_so_and_one_that_is_lies_whole_in_the_middle(shown):
    view = ScanView()
    view.show_scan(None, None, 1.0, (), "")
    empty = shown(view, 500, 400)
    view.show_scan(None, None, 1.0, (), "No scan yet")
    assert (shown(view) != empty).sum() > 300  # the words
    view.show_scan(filled(RUST, 300, 200), None, 1.0, (), "")
    ys, xs = np.nonzero(like(shown(view), RUST))
    assert (xs.max() - xs.min() + 1) / (ys.max() - ys.min() + 1) == pytest.approx(1.5, abs=0.02)
    assert (xs.max() + xs.min()) / 2 == pytest.approx(250, abs=2)


def squares(count=4):
    """A strip of exposures of a scan of 400 × 100, its patches side by side."""
    chart = charts.times()
    corners = [((20 + 90 * k, 30), (80 + 90 * k, 30), (80 + 90 * k, 70), (20 + 90 * k, 70)) for k in range(count)]
    reads = [reading.Read(patch, (90.0 - 20 * k, 0.0, 0.0), "", corners[k])
             for k, patch in enumerate(chart.patches[:count])]  # fmt: skip
    return reading.Scan(chart, tuple(reads), (95.0, 0.0, 0.0), 0.0, 0.0, False, 4)


def test_patches_of_a_scan_are_gone_through_by_hand_and_keys(shown):
    view, pointed, pressed = ScanView(), [], []
    view.pointed.connect(pointed.append)
    view.pressed.connect(pressed.append)
    assert (view.told().words, view.told().high) == ("nothing yet", 0)
    view.show_scan(filled(RUST, 200, 50), squares(), 0.5, (True, True, False, True), "4 of 4 patches read")
    shown(view, 440, 200)
    assert view.told().words == "4 of 4 patches read"
    QTest.keyClick(view, Qt.Key.Key_Space)
    assert pressed == []  # none is looked at
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Left):
        QTest.keyClick(view, key)
    assert pointed == [0, 1, 2, 1]
    QTest.keyClick(view, Qt.Key.Key_Space)
    assert pressed == [1]
    assert view.told().words == f"patch {view.scan.patches[1].patch.value:g} %, L* 70.0"
    view.told().put(2)
    assert view.told().words.endswith("L* 50.0, left out")
    for _ in range(4):
        QTest.keyClick(view, Qt.Key.Key_Right)
    assert pointed[-1] == 3  # and no further
    for _ in range(6):
        QTest.keyClick(view, Qt.Key.Key_Left)
    assert pointed[-1] == 0
    middle = view.square(2).boundingRect().center().toPoint()
    QTest.mouseMove(view, middle)
    assert pointed[-1] == 2
    QTest.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseClick(view, Qt.MouseButton.RightButton, pos=middle)
    assert pressed == [1, 2]
    box = view.square(2).boundingRect()
    assert (box.width(), box.height()) == pytest.approx((60, 40))  # 400 pixels of the scan are 400 of the widget
    assert box.x() == pytest.approx(20 + 20 + 90 * 2)
    QTest.mouseMove(view, QPoint(3, 3))
    assert pointed[-1] == -1
    view.show_scan(None, None, 1.0, (), "")
    assert view.at == -1
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert pointed[-1] == -1


def test_steps_show_their_pictures_the_light_and_the_curve(shown):
    steps = Steps()
    steps.show_steps(0, [""] * 5, [None] * 5, None)
    bare = shown(steps, 1100, 148)
    steps.show_steps(0, [""] * 5, [filled(RUST), None, None, None, None], work_out(measured()))
    pixels = shown(steps)
    places = [np.s_[18 : 18 + 60, 24 + k * 142 : 24 + k * 142 + 90] for k in range(5)]
    assert like(pixels[places[0]], RUST).mean() > 0.9
    assert (pixels[places[EXPOSE]] == bare[places[EXPOSE]]).all()  # its light is there from the beginning
    assert len(np.unique(bare[places[EXPOSE]].reshape(-1, 3), axis=0)) == 3  # paper, ground, light
    assert [bool((pixels[place] != bare[place]).any()) for place in places] == [True, False, False, True, False]


def test_a_name_that_is_taken_gets_the_next_number(qtbot, tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path))
    for name in ("Blue", "Blue 2"):
        processfile.keep(Process(name=name))
    jobs = Jobs()
    foot = Foot()
    qtbot.addWidget(foot)
    shelf, there = Shelf(jobs, foot), []
    shelf.load(lambda: there.append(True))
    qtbot.waitUntil(lambda: bool(there))
    assert [shelf.free(name) for name in ("Blue", "Green", "Blue 2")] == ["Blue 3", "Green", "Blue 2 2"]
    jobs.stop()


# By hand and keys


def test_patches_are_outlined_and_what_is_left_out_is_crossed(shown):
    view = ScanView()
    view.show_scan(filled(RUST, 200, 50), squares(), 0.5, (True, True, False, True), "4 of 4 patches read")
    pixels = shown(view, 440, 200)
    inner = [view.square(k).boundingRect().adjusted(4, 4, -4, -4).toRect() for k in range(4)]
    other = [(~like(pixels[box.top() : box.bottom(), box.left() : box.right()], RUST)).sum() for box in inner]
    assert other[0] == other[1] == other[3] == 0
    assert other[2] > 60  # two lines across it
    rims = [view.square(k).boundingRect().toRect() for k in range(4)]
    for rim in rims:
        assert not like(pixels[rim.center().y() : rim.center().y() + 3, rim.left() - 1 : rim.left() + 2], RUST).all()
    words = pixels[200 - 32 : 200 - 10]
    panel = [theme.colour("panel").red(), theme.colour("panel").green(), theme.colour("panel").blue()]
    plate = (np.abs(words - panel) < 3).all(axis=2)
    assert plate.any(axis=0).sum() > 100
    columns = np.nonzero(plate.any(axis=0))[0]
    assert (columns.min() + columns.max()) / 2 == pytest.approx(220, abs=2)
    assert (words[plate.any(axis=1)].max(axis=2) < 120).sum() > 40  # they are written on it


def test_the_step_that_is_at_hand_is_marked_and_the_curve_stands_on_a_grid(shown):
    steps = Steps()
    shown(steps, 1100, 148)
    accent = [theme.colour("accent").red(), theme.colour("accent").green(), theme.colour("accent").blue()]
    for current in (0, 3):
        steps.show_steps(current, ["a", "b", "c", "d", "e"], [None] * 5, None)
        pixels = shown(steps)
        marked = [(np.abs(pixels[5, 20 + 142 * k + 20] - accent) < 12).all() for k in range(5)]
        assert marked == [k == current for k in range(5)]
        between = [pixels[14:80, 20 + 142 * k + 118 : 20 + 142 * k + 134].min() for k in range(5)]
        assert [dark < 120 for dark in between] == [True, True, True, True, False]  # an arrow to the next
    view = CurveView()
    shown(view, 520, 520)
    view.show_worked(work_out(measured()))
    pixels, box = shown(view), view.box()
    line = [theme.colour("line").red(), theme.colour("line").green(), theme.colour("line").blue()]
    for k in (1, 2, 3):
        x, y = round(box.x() + box.width() * k / 4), round(box.y() + box.height() * k / 4)
        assert (np.abs(pixels[40:60, x - 1 : x + 2] - line).max(axis=2) < 25).any(axis=1).sum() > 12, k
        assert (np.abs(pixels[y - 1 : y + 2, 470:490] - line).max(axis=2) < 25).any(axis=0).sum() > 12, k


@pytest.mark.parametrize("size", [(60, 40), (40, 60), (200, 50)])
def test_leaves_are_as_large_as_their_place_lets_them_and_the_one_on_the_paper_is_marked(shown, size):
    leaves = Leaves()
    shown(leaves, 700, 148)
    leaves.show_leaves(("Print", "Plate 1"), 1)
    leaves.take("Print", filled(RUST, *size))
    pixels = shown(leaves)
    ys, xs = np.nonzero(like(pixels, RUST))
    assert (xs.max() - xs.min() + 1) / (ys.max() - ys.min() + 1) == pytest.approx(size[0] / size[1], rel=0.06)
    soft = [theme.colour("accent").red(), theme.colour("accent").green(), theme.colour("accent").blue()]
    marked = (np.abs(pixels[33:35] - soft) < 12).all(axis=2).any(axis=0)
    assert np.nonzero(marked)[0].min() > xs.max()
    leaves.show_leaves(("Print",), 0)  # of one alone there is nothing to choose
    alone = shown(leaves)
    assert not (np.abs(alone[33:35] - soft) < 12).all(axis=2).any()


@pytest.mark.parametrize("made", ["rack", "leaves", "steps"])
def test_rows_of_things_are_gone_through_by_press_and_keys(shown, made):
    """A press on one chooses it, arrows go to the next, and no further than there are."""
    if made == "rack":
        rack = SheetRack("Sheets", ("New", ""), ("Other", ""))
        shown(rack, 132, 400)
        rack.show_lines([("A", "a5"), ("B", "a4"), ("C", "a3")], 1)
        view, keys = rack.lines, (Qt.Key.Key_Up, Qt.Key.Key_Down)
        at = [QPoint(40, round(rack.lines.height() / 3 * (k + 0.4))) for k in range(3)]
        last, words = 2, "B, a4"
    elif made == "leaves":
        view, keys = Leaves(), (Qt.Key.Key_Left, Qt.Key.Key_Right)
        shown(view, 700, 148)
        view.show_leaves(("Print", "Plate 1", "Plate 2"), 1)
        at, last, words = [QPoint(30 + 128 * k, 60) for k in range(3)], 2, "Plate 1"
    else:
        view, keys = Steps(), (Qt.Key.Key_Left, Qt.Key.Key_Right)
        shown(view, 1100, 148)
        view.show_steps(1, ["a", "b", "c", "d", "e"], [None] * 5, None)
        at, last, words = [QPoint(60 + 142 * k, 60) for k in range(5)], 4, f"{NAMES[1]}, b"
    chosen = []
    view.chosen.connect(chosen.append)
    told = view.told()
    assert (told.words, told.value, told.low, told.high) == (words, 1, 0, last)
    told.put(2)
    for key in keys:
        QTest.keyClick(view, key)
    QTest.keyClick(view, Qt.Key.Key_X)
    assert chosen == [2, 0, 2]
    chosen.clear()
    for place in (at[0], at[-1], QPoint(at[-1].x() + 5000, at[-1].y() + 5000)):
        QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=place)
    assert chosen == [0, last]
    chosen.clear()
    if made == "rack":
        rack.show_lines([("A", "a5"), ("B", "a4"), ("C", "a3")], 2)
    elif made == "leaves":
        view.show_leaves(("Print", "Plate 1", "Plate 2"), 0)
        QTest.keyClick(view, keys[0])
        view.show_leaves(("Print", "Plate 1", "Plate 2"), 2)
    else:
        view.show_steps(4, ["a", "b", "c", "d", "e"], [None] * 5, None)
    QTest.keyClick(view, keys[1])
    assert chosen[-1] == last
    assert min(chosen) >= 0


def test_the_chosen_line_of_a_rack_and_the_chosen_leaf_are_marked(shown):
    rack = SheetRack("Sheets", ("New", ""), ("Other", ""))
    shown(rack, 132, 400)
    rack.show_lines([("A", "a5"), ("B", "a4")], 1)
    pixels = shown(rack.lines)
    each = rack.lines.height() // 2
    accent = [theme.colour("accent").red(), theme.colour("accent").green(), theme.colour("accent").blue()]
    assert (np.abs(pixels[each + 10, 1, :3].astype(int) - accent) < 12).all()
    assert not (np.abs(pixels[10, 1, :3].astype(int) - accent) < 12).all()
    text = theme.colour("text").lightness()
    assert (pixels[4:22, 16:60, :3].max(axis=2) < text + 60).sum() > 5  # its name
    assert (pixels[23:41, 16:60, :3].max(axis=2) < 200).sum() > 5  # and the line about it
    rack.show_lines([], 0)
    assert rack.lines.told().words == "none"
    assert rack.lines.height() == each
    chosen = []
    rack.lines.chosen.connect(chosen.append)
    QTest.keyClick(rack.lines, Qt.Key.Key_Down)
    assert chosen == []


def test_a_tone_of_the_curve_is_pointed_at_by_hand_and_keys(shown):
    view, tones = CurveView(), []
    view.pointed.connect(tones.append)
    assert view.accessibleName() == "Curve"
    assert view.told().words == "no readings yet"
    worked = work_out(measured())
    view.show_worked(worked)
    shown(view, 520, 520)
    box = view.box()
    assert (box.left(), box.top(), box.right(), box.bottom()) == (34, 24, 496, 416)
    QTest.mouseMove(view, QPoint(round(box.x() + box.width() / 4), 200))
    assert tones[-1] == pytest.approx(25, abs=0.2)
    assert view.told().words == worked.at(tones[-1])
    QTest.mouseMove(view, QPoint(2, 200))
    assert tones[-1] == 0
    QTest.mouseMove(view, QPoint(517, 200))
    assert tones[-1] == 100
    view.told().put(40.0)
    assert tones[-1] == 40
    before = len(tones)
    view.told().put(40.0)
    assert len(tones) == before  # nothing new
    QTest.keyClick(view, Qt.Key.Key_Right)
    assert 40 < tones[-1] <= 60
    assert (view.told().low, view.told().high) == (0, 100)


def test_where_the_print_lies_is_told_in_words():
    paper = PaperView()
    assert paper.told().words == "nothing"
    paper.show_sheet(Sheet.of(width=300, height=200, across=120, left=40, top=50, middle=False), 1.5, "mm")
    assert paper.told().words == "print 120 × 80 mm, 40 mm from the left, 50 mm from the top"
    paper.show_sheet(Sheet.of(width=300, height=200, across=127, left=25.4, top=50.8, middle=False), 1.25, "in")
    assert paper.told().words == "print 5 × 4 in, 1 in from the left, 2 in from the top"


def test_printers_are_named_and_the_first_is_chosen(qtbot):
    dialog = Printers(None, ["Bench printer", "Quay"])
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.chosen() == "Bench printer"
    dialog.list.setCurrentRow(1)
    assert dialog.chosen() == "Quay"
    words = [button.text().replace("&", "") for button in dialog.findChildren(QPushButton)]
    assert sorted(words) == ["Cancel", "Print"]
    dialog.list.itemDoubleClicked.emit(dialog.list.item(1))
    assert dialog.result() == QDialog.DialogCode.Accepted
    dialog.open()
    next(b for b in dialog.findChildren(QPushButton) if b.text() != "Print").click()
    assert dialog.result() == QDialog.DialogCode.Rejected


QUAY = Queue("Quay", (Offer("media", "MediaType", ("Plain", "CottonRag"), "Plain"),
                      Offer("tray", "InputSlot", ("Upper", "Lower"), "Lower"),
                      Offer("colour", "ColorModel", ("RGB", "Gray"), "RGB")), ("A4",))  # fmt: skip


def test_what_a_printer_has_is_offered_and_asked_for_once(qtbot):
    """Asked in another thread, so that it comes after the dialog; the stand-in has nothing to choose."""
    asked = []
    dialog = Printers(None, ["Quay", "Attic", benchprinter.NAME], lambda name, take: asked.append((name, take)))
    qtbot.addWidget(dialog)
    dialog.show()
    assert [name for name, _ in asked] == ["Quay"]
    assert dialog.boxes == {}
    asked[0][1](QUAY)
    assert list(dialog.boxes) == ["media", "tray", "colour"]
    assert dialog.boxes["tray"].currentText() == "Lower"  # as is usual there
    assert [dialog.boxes["media"].itemText(k) for k in range(2)] == ["Plain", "Cotton Rag"]
    dialog.boxes["media"].setCurrentIndex(1)
    dialog.copies.setValue(3)
    assert dialog.wanted() == Wanted(QUAY, {"media": "CottonRag", "tray": "Lower", "colour": "RGB"}, 3)
    dialog.list.setCurrentRow(1)
    assert dialog.boxes == {}
    asked[1][1](Queue("Attic"))
    assert dialog.wanted() == Wanted(Queue("Attic"), {}, 3)
    dialog.list.setCurrentRow(2)
    assert not dialog.copies.isEnabled()
    dialog.list.setCurrentRow(0)
    assert list(dialog.boxes) == ["media", "tray", "colour"]
    assert len(asked) == 2
    names = {label.text() for label in dialog.findChildren(QLabel)}
    assert {"Paper", "Tray", "Colour", "Copies"} <= names


def test_what_a_printer_answers_when_its_dialog_is_gone_touches_nothing():
    asked = []
    dialog = Printers(None, ["Quay", "Attic", benchprinter.NAME], lambda name, take: asked.append((name, take)))
    dialog._show()
    shiboken6.delete(dialog)
    asked[0][1](QUAY)


@pytest.mark.parametrize("kind", [PaperView, Leaves, CurveView, ScanView, Steps])
def test_what_has_keys_of_its_own_takes_the_keyboard_and_has_a_name(qtbot, kind):
    widget = kind()
    qtbot.addWidget(widget)
    assert widget.own_keys
    assert widget.focusPolicy() == Qt.FocusPolicy.StrongFocus
    assert widget.accessibleName()
    assert widget.told().words is not None


def test_a_process_is_told_in_a_line_of_what_is_known():
    assert about(AS_IT_IS) == "no curve"
    assert about(Process(paper="Cotton", minutes=7.5)) == "Cotton, 7.5 min"
    assert about(Process(paper="", minutes=7.5)) == "7.5 min"
