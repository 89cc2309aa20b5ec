"""A gray scan coloured part by part: what waits, six tints each, by press and by key; divided, joined, taken back."""

import cv2
import pytest
import skimage.data
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from kyanoscript.core.tint import waiting
from kyanoscript.files.kept.album import chosen_in
from kyanoscript.ui.service.requests import Offer, Offers

KEY, ALT, SHIFT, CTRL = (
    Qt.Key, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
)  # fmt: skip


@pytest.fixture
def scan(bare, tmp_path):
    """The cup that scikit-image ships, made gray, with the first colouring on."""
    file = tmp_path / "album" / "cup.png"
    file.parent.mkdir()
    cv2.imwrite(str(file), cv2.cvtColor(skimage.data.coffee(), cv2.COLOR_RGB2GRAY))
    bare.open(file)
    bare.add("hand-tint")
    bare.easel.setFocus()
    bare.settle()
    return bare


def tool(bench):
    return bench.easel.dabs


def first(bench, name):
    """The first piece of a part."""
    return next(dab for dab in tool(bench).dabs if dab.name == name)


def unsure(bench, name):
    """As if the scene could not be read there: it waits."""
    dabs = tuple(dab.model_copy(update={"sure": 0.0}) if dab.name == name else dab for dab in tool(bench).dabs)
    bench.desk.set_values("Unsure", dabs=dabs)
    bench.settle()


def largest(bench):
    return waiting.names(tool(bench).dabs)[0]


def place(bench, name):
    """A place of a part on the easel."""
    return tool(bench).mark(first(bench, name))


def colour_there(bench, name):
    x, y = first(bench, name).points[0][:2]
    return bench.print_at(x / 100, y / 100)


def test_a_press_on_a_part_takes_the_part_and_lays_no_dab(scan):
    name = largest(scan)
    count = len(tool(scan).dabs)
    scan.click(scan.easel, place(scan, name) + QPointF(25, 18))
    assert tool(scan).dab.name == name
    assert len(tool(scan).dabs) == count
    six = scan.slip.editors["offers"]
    assert six.isVisible()
    assert len(six.tints) == 6
    assert scan.desk.entries == ["Open", "Add Hand-tint"]


def test_with_ctrl_a_press_on_a_part_lays_a_dab(scan):
    count = len(tool(scan).dabs)
    at = place(scan, largest(scan)) + QPointF(25, 18)
    scan.press(scan.easel, at, CTRL)
    scan.release(scan.easel, at)
    assert len(tool(scan).dabs) == count + 1
    assert tool(scan).dabs[-1].name == ""


def test_under_the_pointer_a_tint_is_seen_and_nothing_is_taken(scan):
    name = largest(scan)
    tool(scan).show_named(name)
    scan.settle()
    six, before = scan.slip.editors["offers"], scan.desk.script
    QTest.mouseMove(six, six.box(4).center().toPoint())
    scan.settle()
    held = scan.easel.held.passes[0]
    assert {dab.colour for dab in held.dabs if dab.name == name} == {six.tints[4]}
    assert scan.desk.script is before
    QTest.mouseMove(six, six.rect().bottomRight())
    six.leaveEvent(None)
    assert scan.easel.held is None


@pytest.mark.parametrize("by", ["press", "key", "digit"])
def test_one_of_six_is_taken_and_taken_back_by_one(scan, by):
    name = largest(scan)
    unsure(scan, name)
    scan.key(KEY.Key_U)
    scan.settle()
    assert tool(scan).dab.name == name
    six = scan.slip.editors["offers"]
    ink, gray = six.tints[4], colour_there(scan, name)
    if by == "press":
        QTest.mouseClick(six, Qt.MouseButton.LeftButton, pos=six.box(4).center().toPoint())
    elif by == "key":
        scan.key(KEY.Key_5, ALT)
    else:
        six.setFocus()
        QTest.keyClick(six, KEY.Key_5)
    scan.settle()
    assert {(dab.colour, dab.guess) for dab in tool(scan).dabs if dab.name == name} == {(ink, False)}
    r, g, b = colour_there(scan, name)
    assert max(r, g, b) - min(r, g, b) > max(gray) - min(gray) + 8
    entry = scan.desk.entries[-1]
    assert entry == f"{name[:1].upper()}{name[1:]}: tint"
    scan.easel.setFocus()
    scan.key(KEY.Key_Z, CTRL)
    assert first(scan, name).offered


def test_parts_that_are_tinted_quickly_are_taken_back_one_by_one(scan):
    one, other = waiting.names(tool(scan).dabs)[:2]
    for name in (one, other):
        tool(scan).show_named(name)
        scan.key(KEY.Key_2, ALT)
    assert not first(scan, one).guess
    assert not first(scan, other).guess
    scan.key(KEY.Key_Z, CTRL)
    assert not first(scan, one).guess
    assert first(scan, other).guess


def test_digits_on_the_easel_still_do_what_they_did(scan):
    tool(scan).show_named(largest(scan))
    before = scan.desk.script
    scan.key(KEY.Key_1)
    scan.settle()
    assert scan.easel.render_scale() == pytest.approx(1.0)
    assert scan.desk.script is before


def test_u_goes_from_one_that_waits_to_the_next_and_says_when_none_does(scan):
    names = waiting.names(tool(scan).dabs)[:2]
    for name in names:
        unsure(scan, name)
    waits = waiting.waiting(tool(scan).dabs)
    seen = []
    for _ in range(len(waits) + 1):
        scan.key(KEY.Key_U)
        seen.append(tool(scan).dab.name)
    assert seen == [*waits, waits[0]]
    scan.key(KEY.Key_U, SHIFT)
    assert tool(scan).dab.name == waits[-1]
    scan.slip.editors["part rest"].click()
    scan.settle()
    assert not waiting.waiting(tool(scan).dabs)
    assert scan.desk.entries[-1] == "The likeliest of the rest"
    assert not scan.slip.editors["part rest"].isVisible()
    scan.key(KEY.Key_U)
    assert "Nothing waits" in scan.said()
    scan.key(KEY.Key_Z, CTRL)
    assert waiting.waiting(tool(scan).dabs) == waits


def test_six_more_are_six_others_and_at_length_the_first_again(scan):
    name = largest(scan)
    tool(scan).show_named(name)
    six = scan.slip.editors["offers"]
    turns = []
    for _ in range(waiting.TURNS):
        turns.append(list(six.tints))
        scan.slip.editors["part more"].click()
        scan.settle()
    assert len({ink for turn in turns for ink in turn}) == 6 * waiting.TURNS
    assert six.tints == turns[0]
    assert scan.desk.entries == ["Open", "Add Hand-tint"]  # looking is not changing


def test_this_is_two_things(scan):
    name = largest(scan)
    tool(scan).show_named(name)
    scan.slip.editors["part divide"].click()
    assert f"across {name}" in scan.said()
    outline = first(scan, name).outline
    xs, ys = [p[0] for p in outline], [p[1] for p in outline]
    middle = (min(xs) + max(xs)) / 200
    count = len(waiting.names(tool(scan).dabs))
    scan.draw((middle, max(0.01, min(ys) / 100)), (middle, min(0.99, max(ys) / 100)))
    scan.settle()
    assert len(waiting.names(tool(scan).dabs)) == count + 1
    assert scan.desk.entries[-1].endswith("two things")
    assert tool(scan).dab.name == name
    assert tool(scan).mode == ""
    assert len(scan.slip.editors["offers"].tints) == 6
    scan.key(KEY.Key_Z, CTRL)
    scan.settle()
    assert len(waiting.names(tool(scan).dabs)) == count


def test_a_stroke_that_cuts_nothing_off_says_so_and_escape_leaves_it(scan):
    tool(scan).show_named(largest(scan))
    scan.slip.editors["part divide"].click()
    before = scan.desk.script
    at = place(scan, largest(scan))
    scan.press(scan.easel, at)
    scan.release(scan.easel, at)
    assert "cuts nothing off" in scan.said()
    assert scan.desk.script is before
    scan.slip.editors["part divide"].click()
    assert tool(scan).mode == "divide"
    assert tool(scan).dab is not None
    scan.easel.setFocus()
    scan.key(KEY.Key_Escape)
    assert tool(scan).mode == ""
    assert tool(scan).dab is not None


def test_these_are_one(scan):
    one, other = waiting.names(tool(scan).dabs)[:2]
    tool(scan).show_named(one)
    scan.slip.editors["part join"].click()
    assert one in scan.said()
    scan.click(scan.easel, place(scan, other))
    scan.settle()
    assert other not in waiting.names(tool(scan).dabs)
    assert tool(scan).dab.name == one
    assert scan.desk.entries[-1].endswith("one thing")
    scan.slip.editors["part join"].click()
    scan.click(scan.easel, place(scan, one))
    assert "no other part" in scan.said()


def test_what_was_chosen_for_one_part_is_offered_for_what_is_like_it(scan):
    """An unlikely violet: nothing is offered that before, and then what looks most like it is; and undone, not."""
    name = largest(scan)
    violet = waiting.tint_of("#9c4fd0")

    def offered_violet():
        others = [dab for dab in tool(scan).dabs if dab.name != name]
        tints = [ink for dab in others for ink in tool(scan).offered.of(dab)]
        return any(max(abs(waiting.tint_of(ink) - violet)) < 0.03 for ink in tints)

    tool(scan).show_named(name)
    assert not offered_violet()
    tool(scan).set_brush(colour="#9c4fd0")
    scan.settle()
    assert offered_violet()
    scan.key(KEY.Key_Z, CTRL)
    scan.settle()
    assert not offered_violet()


def test_an_answer_to_what_was_asked_before_is_not_taken(scan):
    """As one that comes once all was taken back."""
    name = largest(scan)
    before = tool(scan).offered.of(first(scan, name))
    late = Offers(Offer(scan.desk.script, 0), waiting.Followed({name: ["#000000"] * 6}, {}))
    scan.window.service.answers(Offers).emit(late)
    assert tool(scan).offered.of(first(scan, name)) == before


def test_the_list_says_what_waits_what_was_guessed_and_what_was_chosen(scan):
    parts = scan.slip.editors["parts"]
    rows = [parts.item(k).text() for k in range(parts.count())]
    assert len(rows) == len(waiting.names(tool(scan).dabs))
    assert all(row.endswith(("waits", "guessed")) for row in rows)
    name = largest(scan)
    parts.wanted.emit(name)
    scan.settle()
    assert tool(scan).dab.name == name
    scan.key(KEY.Key_2, ALT)
    scan.settle()
    rows = [parts.item(k).text() for k in range(parts.count())]
    assert f"{name[:1].upper()}{name[1:]} \N{EN DASH} chosen" in rows
    assert parts.currentItem().text().startswith(f"{name[:1].upper()}{name[1:]} ")


def test_another_scan_of_the_album_begins_with_what_was_chosen(scan, tmp_path):
    name = largest(scan)
    tool(scan).show_named(name)
    tool(scan).set_brush(colour="#9c4fd0")
    scan.settle()
    album = tmp_path / "album"
    scan.qtbot.waitUntil(lambda: bool(chosen_in(album)))
    (kept,) = chosen_in(album)
    assert (kept.photo, kept.part, kept.tint) == ("cup.png", name, "#9c4fd0")
    again = album / "cup-2.png"
    picture = cv2.imread(str(album / "cup.png"), cv2.IMREAD_GRAYSCALE)
    cv2.imwrite(str(again), picture[:, 10:])
    scan.desk.saved_as(again, scan.desk.whole)
    scan.open(again)
    scan.qtbot.waitUntil(lambda: bool(tool(scan).offered.before))
    scan.add("hand-tint")
    scan.settle()
    near = [
        max(abs(waiting.tint_of(tool(scan).offered.of(dab)[0]) - waiting.tint_of("#9c4fd0"))) < 0.03
        for dab in tool(scan).dabs
    ]
    assert any(near)
    assert not all(near)


def test_the_slip_is_no_wider_for_any_part(scan):
    scan.window.resize(1280, 800)
    for name in waiting.names(tool(scan).dabs):
        tool(scan).show_named(name)
        scan.settle()
        assert scan.slip.page.widget.sizeHint().width() <= scan.slip.width(), name
