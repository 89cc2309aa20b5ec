"""What is seen, told and taken hold of in the States view: rack, wall, descent, and the words at the foot."""

from dataclasses import replace
from datetime import datetime

import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QDragEnterEvent, QDragLeaveEvent, QDragMoveEvent, QDropEvent, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script
from kyanoscript.ui.easel.wall import DRAGGED, Piece
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.states.descent import Descent, Node
from kyanoscript.ui.states.gallery import BENCH, PHOTO
from kyanoscript.ui.states.rack import Line, StateRack
from kyanoscript.ui.widgets import theme
from tests.ui.conftest import Bench

LINES = (
    Line(PHOTO, "", "Photo", "", False),
    Line(1, "I", "only the punch", "10:26", True),
    Line(2, "II", "both", "10:30", False),
)
P = load_all()


def near(colour, name, far=12):
    wanted = theme.colour(name)
    return max(abs(a - b) for a, b in zip(colour.getRgb(), wanted.getRgb(), strict=True)) <= far


def colours(image, box):
    """Of every pixel within a box of a picture."""
    box = box.toRect()
    return [image.pixelColor(x, y) for x in range(box.left(), box.right()) for y in range(box.top(), box.bottom())]


# The rack


@pytest.fixture
def rack(qtbot):
    made = StateRack()
    qtbot.addWidget(made.area)
    made.show_lines(LINES, 1)
    made.area.resize(132, 400)
    made.area.show()
    return made


def test_the_rack_tells_the_chosen_one_and_whether_it_hangs(rack):
    told = rack.told()
    assert (told.words, told.value, told.low, told.high) == ("I only the punch, hangs", 1, 0, 2)
    rack.show_lines(LINES, 2)
    assert rack.told().words == "II both, does not hang"
    rack.show_lines(LINES, PHOTO)
    assert rack.told().words == "Photo, does not hang"
    chosen = []
    rack.chosen.connect(chosen.append)
    rack.told().put(2)
    rack.told().put(-5)
    rack.told().put(99)
    assert chosen == [2, PHOTO, 2]
    rack.show_lines((), 0)
    assert (rack.told().words, rack.told().high) == ("", 0)
    rack.told().put(0)
    assert len(chosen) == 3


def test_the_rack_is_as_high_as_what_stands_in_it_and_shows_the_chosen_one(rack):
    assert rack.height() == 3 * 118 + 8
    assert [rack.box(item).y() for item in (PHOTO, 1, 2)] == [4, 122, 240]
    many = tuple(replace(LINES[1], item=k) for k in range(1, 30))
    rack.show_lines(many, 29)
    bar = rack.area.verticalScrollBar()
    assert bar.value() <= rack.box(29).top()
    assert rack.box(29).bottom() <= bar.value() + 400 + 8
    rack.show_lines(many, 1)
    assert bar.value() == 0


def test_arrows_go_through_the_rack_and_return_hangs(rack):
    chosen, twice = [], []
    rack.chosen.connect(chosen.append)
    rack.pressed_twice.connect(twice.append)
    QTest.keyClick(rack, Qt.Key.Key_Down)
    QTest.keyClick(rack, Qt.Key.Key_Up)
    QTest.keyClick(rack, Qt.Key.Key_Return)
    QTest.keyClick(rack, Qt.Key.Key_X)
    assert (chosen, twice) == ([2, PHOTO], [1])
    QTest.mouseClick(rack, Qt.MouseButton.RightButton, pos=QPoint(50, 300))
    assert chosen == [2, PHOTO]
    QTest.mouseClick(rack, Qt.MouseButton.LeftButton, pos=QPoint(50, 300))
    assert chosen[-1] == 2
    QTest.mouseDClick(rack, Qt.MouseButton.LeftButton, pos=QPoint(50, 300))
    assert twice == [1, 2]


def test_what_is_dragged_from_the_rack_is_the_state_with_its_picture(rack, monkeypatch):
    picture = QImage(100, 67, QImage.Format.Format_RGB32)
    picture.fill(QColor("#804020"))
    rack.take(2, picture)
    drag = rack.drag(LINES[2])
    assert bytes(drag.mimeData().data(DRAGGED).data()) == b"2"
    assert drag.pixmap().toImage().pixelColor(5, 5).name() == "#804020"
    assert rack.drag(LINES[1]).pixmap().isNull()
    begun = []
    monkeypatch.setattr(StateRack, "drag", lambda self, line: begun.append(line.item) or Gone())
    far = QApplication.startDragDistance() + 2
    QTest.mouseMove(rack, QPoint(50, 150))  # nothing is held
    QTest.mousePress(rack, Qt.MouseButton.LeftButton, pos=QPoint(50, 150))
    QTest.mouseMove(rack, QPoint(50, 150 + 1))  # not far enough
    assert begun == []
    QTest.mouseMove(rack, QPoint(50, 150 + far))
    QTest.mouseMove(rack, QPoint(50, 150 + 2 * far))  # one drag, not two
    assert begun == [1]
    QTest.mousePress(rack, Qt.MouseButton.LeftButton, pos=QPoint(50, 150))
    QTest.mouseRelease(rack, Qt.MouseButton.LeftButton, pos=QPoint(50, 150))
    QTest.mouseMove(rack, QPoint(50, 150 + far))
    assert begun == [1]


class Gone:
    def exec(self, action):
        assert action == Qt.DropAction.MoveAction


def test_the_chosen_one_is_marked_and_what_does_not_hang_is_paler(rack):
    for item in (1, 2):
        picture = QImage(100, 67, QImage.Format.Format_RGB32)
        picture.fill(QColor("#000000"))
        rack.take(item, picture)
    image = rack.grab().toImage()
    assert near(image.pixelColor(1, 150), "accent")
    assert not near(image.pixelColor(1, 270), "accent")
    assert near(image.pixelColor(125, 230), "soft")
    hangs, off = image.pixelColor(60, 160), image.pixelColor(60, 278)
    assert hangs.lightness() < 3
    ground = theme.colour("ground").lightness()
    assert off.lightness() == pytest.approx(0.45 * ground, abs=4)
    assert near(image.pixelColor(60, 40), "ground")  # the photo has no picture yet
    there = rack.box(1)
    words = QRectF(16, there.y() + 5 + 67 + 3, 100, 36)
    assert sum(colour.lightness() < 140 for colour in colours(image, words)) > 60  # number, time, name
    name = QRectF(16, there.y() + 5 + 67 + 21, 100, 18)
    assert any(colour.lightness() < 140 for colour in colours(image, name))
    above = QRectF(16, rack.box(PHOTO).y() + 5 + 67 + 21, 100, 18)
    assert not any(colour.lightness() < 140 for colour in colours(image, above))  # the photo has one line


# How they came about

NODES = (Node(PHOTO, "photo", None), Node(1, "I", PHOTO), Node(2, "II", 1), Node(3, "III", 1), Node(BENCH, "now", 3))


@pytest.fixture
def descent(qtbot):
    made = Descent()
    qtbot.addWidget(made.area)
    made.area.resize(700, 260)
    made.area.show()
    made.show_nodes(NODES, 3)
    made.resize(700, 260)
    return made


def test_descent_is_told_in_words(descent):
    assert descent.accessibleName() == "How they came about"
    assert descent.accessibleDescription() == "I from photo; II from I; III from I; now from III"
    assert (descent.minimumHeight(), descent.minimumWidth()) == (44 + 2 * 22 + 6, 34 + 3 * 64 + 160)
    descent.show_nodes(NODES[:1], PHOTO)
    assert descent.accessibleDescription() == "only the photo"
    descent.show_nodes((), 0)
    assert descent.places() == {}
    descent.grab()


def test_descent_goes_from_left_to_right_and_a_press_chooses(descent):
    places = descent.places()
    assert [places[item].x() for item in (PHOTO, 1, 2, 3, BENCH)] == [34, 184, 334, 334, 484]
    assert places[2].y() == 44 + 17
    assert places[3].y() == places[BENCH].y() == 44 + 51
    assert places[1].y() == places[PHOTO].y() == (places[2].y() + places[3].y()) / 2
    chosen = []
    descent.chosen.connect(chosen.append)
    for item in (2, BENCH):
        QTest.mousePress(descent, Qt.MouseButton.LeftButton, pos=(places[item] + QPointF(4, 3)).toPoint())
    QTest.mousePress(descent, Qt.MouseButton.LeftButton, pos=(places[2] + QPointF(14, 14)).toPoint())
    assert chosen == [2, BENCH]
    descent.area.resize(450, 100)
    assert descent.places()[BENCH].x() == pytest.approx(34 + descent.width() - 34 - 150)
    assert descent.places()[3].y() == pytest.approx(44 + 1.5 * max(22, (descent.height() - 52) / 2))
    descent.area.resize(200, 60)
    assert descent.places()[BENCH].x() >= 34 + 3 * 64
    assert descent.places()[3].y() == 44 + 1.5 * 22


def test_the_chosen_one_is_filled_and_lines_lead_to_it(descent):
    image = descent.grab().toImage()
    places = descent.places()
    for item, at in places.items():
        colour = image.pixelColor(at.toPoint())
        assert near(colour, "accent" if item == 3 else "panel"), item
        assert near(image.pixelColor((at + QPointF(6, 0)).toPoint()), "accent", 90), item
    between = (places[1] + places[2]) / 2
    line = colours(image, QRectF(between.x() - 1, between.y() - 3, 3, 6))
    assert any(colour.lightness() < theme.colour("panel").lightness() - 40 for colour in line)
    beside = colours(image, QRectF(between.x() - 1, between.y() - 16, 3, 6))
    assert all(near(colour, "panel", 3) for colour in beside)


# The wall


@pytest.fixture
def wall(bench: Bench):
    """Two states hung, of a photograph that lies."""
    bench.desk.kept.now = lambda: datetime(2026, 11, 26, 10, 26)
    bench.window.resize(1280, 800)
    for gamma in (0.7, 1.4):
        bench.add("levels")
        bench.desk.set_values("Levels: middle", gamma=gamma)
        bench.key(Qt.Key.Key_S)
    bench.key(Qt.Key.Key_3, Qt.KeyboardModifier.ControlModifier)
    bench.gallery = bench.window.states.gallery
    bench.wall = bench.gallery.wall
    bench.settle()
    return bench


def pieces(count):
    return [Piece(k, Script(), "IVX"[k % 3], f"name {k}") for k in range(1, count + 1)]


@pytest.mark.parametrize(
    ("size", "count", "grid"),
    [
        ((900, 300), 2, (2, 1)), ((400, 1000), 2, (1, 2)), ((1200, 400), 3, (3, 1)), ((300, 900), 3, (1, 3)),
        ((800, 640), 4, (2, 2)), ((1200, 600), 5, (3, 2)), ((500, 1100), 6, (2, 3)), ((900, 600), 1, (1, 1)),
    ],
)  # fmt: skip
def test_prints_hang_where_they_are_largest(wall: Bench, size, count, grid):
    """Of a photograph of 360 × 240."""
    hung = wall.wall
    hung.more = False
    hung.resize(*size)
    hung.show_pieces(pieces(count), 1)
    cells = hung.cells()
    assert len(cells) == count
    assert (len({cell.x() for cell in cells}), len({cell.y() for cell in cells})) == grid
    room = QRectF(20, 20, size[0] - 40, size[1] - 40)
    assert cells[0].topLeft() == room.topLeft()
    for cell in cells:
        assert room.adjusted(-1, -1, 1, 1).contains(cell)
    for one in cells:
        for other in cells:
            apart = one.adjusted(-13, -13, 13, 13)
            assert one == other or not apart.intersects(other)
    columns, rows = grid
    assert cells[0].width() == int((size[0] - 40 - (columns - 1) * 14) / columns)
    assert cells[0].height() == int((size[1] - 40 - (rows - 1) * 14) / rows)


def test_empty_places_are_shown_where_more_could_hang(wall: Bench):
    hung = wall.wall
    hung.resize(1200, 600)
    hung.more = True
    hung.show_pieces(pieces(5), 1)
    assert len(hung.cells()) == 6
    hung.blind = True
    assert len(hung.cells()) == 2
    hung.blind = hung.more = False
    assert len(hung.cells()) == 5


def test_the_wall_tells_the_chosen_print(wall: Bench):
    hung = wall.wall
    hung.show_pieces(pieces(3), 2)
    told = hung.told()
    assert (told.words, told.value, told.low, told.high) == ("X name 2", 1, 0, 2)
    chosen = []
    hung.chosen.connect(chosen.append)
    told.put(2)
    assert chosen == [3]
    hung.show_pieces((), 0)
    assert (hung.told().words, hung.told().high) == ("nothing hangs", 0)
    hung.told().put(0)
    assert chosen == [3]


def test_a_name_lies_over_its_print_with_a_cross_at_its_end(wall: Bench):
    hung = wall.wall
    image = hung.grab().toImage()
    for piece in hung.pieces:
        cell, cross = hung.cell(piece.item), hung.cross(piece.item)
        assert cell.contains(cross)
        assert cross.width() == 22
        words = QRectF(cell.x() + 9, cross.y(), cross.left() - cell.x() - 12, cross.height())
        assert near(image.pixelColor((words.topLeft() - QPointF(6, -2)).toPoint()), "panel")
        inked = [colour for colour in colours(image, words) if near(colour, "accent", 60)]
        assert len(inked) > 8, piece.number  # its Roman number
        assert any(colour.lightness() < 170 for colour in colours(image, cross.adjusted(6, 6, -6, -6)))
        beyond = QRectF(cross.right() + 4, cross.y() + 4, 6, 6)
        assert not any(near(colour, "panel", 2) for colour in colours(image, beyond))


def test_the_frame_of_the_chosen_print_is_seen_on_any_mat(wall: Bench):
    hung = wall.wall
    for mat, light in (("near black", True), ("paper white", False)):
        assert mat in theme.MATS
        hung.mat = mat
        image = hung.grab().toImage()
        place, ratio = hung.sights[hung.current].place(), hung.devicePixelRatioF()
        print_ = QRectF(place.topLeft() / ratio, place.size() / ratio)
        rim = colours(image, QRectF(print_.left() - 5, print_.center().y(), 5, 3))
        inked = [colour.lightness() for colour in rim if colour.name() != theme.MATS[mat].lower()]
        assert inked
        assert (max(inked) > 240) if light else (min(inked) < 40)
        other = next(piece.item for piece in hung.pieces if piece.item != hung.current)
        place = hung.sights[other].place()
        print_ = QRectF(place.topLeft() / ratio, place.size() / ratio)
        bare = colours(image, QRectF(print_.left() - 5, print_.center().y(), 4, 3))
        assert {colour.name() for colour in bare} == {theme.MATS[mat].lower()}


def test_the_wall_is_looked_at_through_its_chosen_print(wall: Bench):
    hung = wall.wall
    assert hung.sight is hung.sights[hung.current]
    hung.show_pieces(pieces(2), 77)
    assert hung.sight is hung.sights[1]
    hung.show_pieces((), 0)
    assert hung.sight is None
    assert hung.magnification() == 1


def test_the_words_on_a_state_s_page(wall: Bench):
    words = {key: word.text() for key, word in wall.gallery.page.words.items() if not key.startswith("against")}
    assert words == {"rename": "Name…", "let go": "Let go", "go on": "Go on from this state", "hang": "Take down",
                     "judge": "Judge blind…"}  # fmt: skip
    assert "F2" in wall.gallery.page.words["rename"].toolTip()
    wall.gallery.take_down(1)
    wall.gallery.choose(1)
    assert wall.gallery.page.words["hang"].text() == "Hang"
    assert "judge" not in wall.gallery.page.words
    assert wall.gallery.rack.width() == 132


def test_values_stand_in_the_lower_left_of_each_print_and_go_with_the_pointer(wall: Bench):
    hung = wall.wall
    first = hung.pieces[0].item
    at = hung.cell(first).center()
    bare = hung.grab().toImage()
    wall.move(hung, at)
    assert until(lambda: len(hung.values) == len(hung.pieces), 60)
    image = hung.grab().toImage()
    for piece in hung.pieces:
        place = hung.sights[piece.item].place()
        corner = QRectF(place.topLeft() / hung.devicePixelRatioF(), place.size() / hung.devicePixelRatioF())
        box = QRectF(corner.x() + 2, corner.bottom() - 18, 20, 15)
        assert sum(near(colour, "panel", 3) for colour in colours(image, box)) > 150
        assert not any(near(colour, "panel", 0) for colour in colours(bare, box))
        above = QRectF(corner.x() + 2, corner.bottom() - 40, 20, 15)
        assert colours(image, above) == colours(bare, above)
    assert wall.window.foot.values.text().endswith("all hang at the same zoom and place")
    QApplication.sendEvent(hung, QEvent(QEvent.Type.Leave))
    assert hung.values == {}
    assert wall.window.foot.values.text() == ""
    assert hung.grab().toImage() == bare
    hung.values = {first: 1}
    hung.show_pieces([replace(hung.pieces[0], script=Script((P["soften"](),)))], first)
    assert hung.values == {}  # they were another print's


def test_a_short_pull_chooses_and_a_long_one_moves_all(wall: Bench):
    hung = wall.wall
    hung.show_actual(hung.cell(1).center())
    wall.settle()
    before = hung.sight.centre
    at = hung.cell(2).center()
    wall.press(hung, at)
    wall.move(hung, at + QPointF(2, 1))
    assert hung.sight.centre == before  # a trembling hand
    wall.move(hung, at + QPointF(30, 0))
    assert hung.sight.centre != before
    assert {(sight.centre.x(), sight.centre.y()) for sight in hung.sights.values()} == {
        (hung.sight.centre.x(), hung.sight.centre.y())
    }
    assert hung.sight.centre.x() < before.x()
    assert hung.cursor().shape() == Qt.CursorShape.ClosedHandCursor
    wall.release(hung, at + QPointF(30, 0))
    assert hung.cursor().shape() != Qt.CursorShape.ClosedHandCursor
    assert wall.gallery.current == 2


def test_two_presses_show_actual_pixels_and_two_more_the_whole(wall: Bench):
    hung = wall.wall
    at = hung.cell(1).center()
    assert hung.whole
    wall.double(hung, at)
    assert (hung.whole, hung.magnification()) == (False, 1)
    wall.double(hung, at)
    assert hung.whole
    wall.double(hung, QPointF(3, 3))  # beside the prints
    assert hung.whole
    QTest.mouseDClick(hung, Qt.MouseButton.RightButton, pos=at.toPoint())
    assert hung.whole


def test_only_states_are_dropped_on_the_wall_and_the_place_is_marked(wall: Bench):
    hung = wall.wall
    hung.resize(1200, 600)
    hung.more = True
    hung.show_pieces(pieces(5), 1)
    dropped, alive = [], []
    hung.dropped.disconnect()
    hung.dropped.connect(lambda item, place: dropped.append((item, place)))

    def data(form, text):
        made = QMimeData()
        made.setData(form, text)
        alive.append(made)  # events do not hold on to it
        return made

    buttons, keys, move = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.DropAction.MoveAction
    for form, taken in ((DRAGGED, True), ("text/plain", False)):
        there = data(form, b"2")
        event = QDragEnterEvent(QPoint(5, 5), move, there, buttons, keys)
        event.ignore()
        hung.dragEnterEvent(event)
        assert event.isAccepted() == taken
    state = data(DRAGGED, b"2")
    empty = hung.cells()[5]
    bare = hung.grab().toImage()
    hung.dragMoveEvent(QDragMoveEvent(empty.center().toPoint(), move, state, buttons, keys))
    over = hung.grab().toImage()
    assert over != bare  # its rim is thicker
    hung.dragLeaveEvent(QDragLeaveEvent())
    assert hung.grab().toImage() == bare
    hung.dropEvent(QDropEvent(empty.center(), move, data(DRAGGED, b"none"), buttons, keys))
    assert dropped == []
    for at in (empty.center(), hung.cells()[0].center(), QPointF(1, 1)):
        hung.dropEvent(QDropEvent(at, move, state, buttons, keys))
    hung.dropEvent(QDropEvent(QPointF(1, 1), move, data(DRAGGED, b"-1"), buttons, keys))
    assert dropped == [(2, 5), (2, 0), (2, 5), (-1, 5)]  # beside all of them: behind the last


def test_what_is_held_has_its_words_and_goes_with_its_print(wall: Bench):
    hung = wall.wall
    bare = hung.grab().toImage()
    hung.hold(1, Script(), "the photo as opened")
    wall.settle()
    assert hung.script_of(hung.pieces[0]) == Script()
    assert hung.script_of(hung.pieces[1]) != Script()
    held = hung.grab().toImage()
    label = QRectF(hung.cell(1).x(), hung.cross(1).y() + 2, 200, 20)
    assert colours(held, label) != colours(bare, label)
    hung.show_pieces([hung.pieces[1]], 2)
    hung.show_pieces(pieces(1), 1)
    assert hung.script_of(hung.pieces[0]) == Script()
    hung.show_pieces([replace(hung.pieces[0], script=Script((P["soften"](),)))], 1)
    assert hung.script_of(hung.pieces[0]) != Script()  # what was held went with the print


# Words at the foot


def test_what_cannot_be_done_with_states_is_said(wall: Bench):
    gallery = wall.gallery
    gallery.choose(PHOTO)
    gallery.let_go()
    assert wall.said() == "The photo and the bench stay; only states can be let go"
    wall.window.states.rename()
    assert wall.said() == "The photo and the bench have their names; choose a state"
    gallery.hang(77)
    assert gallery.hung == [1, 2]
    gallery.choose(1)
    gallery.compare_with(2)
    difference = gallery.page.takes[0][0]
    gallery.take_over(difference)
    assert wall.said().endswith("on the bench; Ctrl+Z takes it back")
    gallery.take_over(difference)
    assert wall.said().endswith("the bench has it already, or nothing that could take it")
    assert wall.desk.undo_label.startswith("Levels from I")
    gallery.take_down(1)
    gallery.start_judging()
    assert wall.said() == "Hang two prints at least; they are judged in pairs"
    assert not gallery.judging


def test_undo_while_judging_is_of_the_rounds(wall: Bench):
    gallery, view = wall.gallery, wall.window.states
    gallery.start_judging()
    assert view.undo_words() == ("", "")
    wall.key(Qt.Key.Key_Left, on=gallery.wall)
    assert len(gallery.judge.rounds) == 1
    assert view.undo_words() == ("the last round", "")
    gallery.judge.take_back()
    assert gallery.judge.rounds == []
    for _ in range(3):
        gallery.judge.choose(0)
    gallery.judge.rank()
    assert view.undo_words() == ("", "")
    gallery.stop_judging()
    assert view.undo_words()[0] != ""


def test_the_foot_says_where_a_kept_state_is_to_be_seen(wall: Bench):
    wall.desk.set_values("Levels: middle", gamma=2.0)
    wall.key(Qt.Key.Key_S)
    assert wall.said() == "Kept as state III"
    wall.key(Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    wall.desk.set_values("Levels: middle", gamma=2.2)
    wall.key(Qt.Key.Key_S)
    assert wall.said() == "Kept as state IV; Ctrl+3 shows all states"
