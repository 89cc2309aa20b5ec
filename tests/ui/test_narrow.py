"""In little room: sentences, names and words whole, at every width; handles, frames and rims plain to see."""

import os
import sys

import numpy as np
import pytest
from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QAccessible, QColor, QImage, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QPushButton, QScrollArea

from kyanoscript import demo
from kyanoscript.core.script import Script
from kyanoscript.ui.app import start
from kyanoscript.ui.app.shell import LEAST
from kyanoscript.ui.bench.trays import Trays
from kyanoscript.ui.commands.menus import Menus
from kyanoscript.ui.document.desk import FRAME
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.handle import box, paint_handle
from tests.ui.conftest import Bench

SENTENCE = "Press the band you like; press it again to go on between its neighbours, in half the steps"


# Sentences at the foot


@pytest.mark.parametrize("width", [*range(940, 1940, 125), 2560])
@pytest.mark.parametrize("times", [0.2, 1, 2.5, 6])
def test_a_sentence_at_the_foot_is_whole_on_its_line_or_on_a_slip_above(shared_bench: Bench, width, times):
    window, words = shared_bench.window, (SENTENCE * 6)[: round(len(SENTENCE) * times)].strip()
    window.resize(width, 560)
    foot = window.foot
    foot.show_words("Photo 121 130 142  →  print 99    zone IV    L* 41")
    foot.say(words)
    shared_bench.settle()
    message, slip = foot.message, foot.message.slip
    assert message.text() == words
    room = message.fontMetrics().horizontalAdvance(words)
    assert (room <= message.contentsRect().width()) != slip.isVisible()
    if slip.isVisible():
        assert slip.text() == words
        assert slip.height() >= slip.heightForWidth(slip.width())
        place = QRect(slip.mapTo(window, slip.rect().topLeft()), slip.size())
        assert window.rect().contains(place)
        assert place.bottom() < foot.mapTo(window, foot.rect().topLeft()).y()
        QTest.mouseClick(slip, Qt.MouseButton.LeftButton)
        assert not slip.isVisible()
    foot.say("")
    assert not slip.isVisible()


def test_a_long_warning_has_its_colour_on_the_slip_too(shared_bench: Bench):
    window = shared_bench.window
    window.resize(*LEAST)
    window.foot.show_words("")
    window.foot.warn(SENTENCE * 3)
    slip = window.foot.message.slip
    image = slip.grab().toImage()
    colours = {image.pixelColor(x, y).name() for x in range(image.width()) for y in range(image.height())}
    assert theme.colour("warning").name() in colours
    window.foot.say("short")
    shared_bench.settle()
    assert not slip.isVisible()


# The smallest window


def cut(window):
    """Words in sight that are not seen whole: of labels and of what is pressed."""
    found = []
    for widget in [*window.findChildren(QLabel), *window.findChildren(QPushButton)]:
        text = widget.text().replace("&", "")
        if not widget.isVisible() or not text or type(widget).__name__ in ("_Elided", "WhatIsOpen", "Message"):
            continue
        metrics = widget.fontMetrics()
        wide = max(metrics.horizontalAdvance(row) for row in text.split("\n"))
        wraps = isinstance(widget, QLabel) and widget.wordWrap()
        if wraps and widget.heightForWidth(widget.width()) > widget.height():
            found.append((text, widget.heightForWidth(widget.width()), widget.height()))
        elif not wraps and wide > widget.width():
            found.append((text, wide, widget.width()))
        within = widget.parentWidget()
        while within is not None and within.objectName() != "qt_scrollarea_viewport":
            place = QRect(widget.mapTo(within, widget.rect().topLeft()), widget.size())
            if place.left() < 0 or place.right() > within.width():
                found.append((text, place, within.size()))
                break
            within = within.parentWidget()
        area = within.parentWidget() if within is not None else None
        if isinstance(area, QScrollArea) and area.horizontalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff:
            right = widget.mapTo(within, widget.rect().topRight()).x()
            if right > within.width():  # where nothing scrolls sideways it is never seen
                found.append((text, right, within.width()))
    return found


@pytest.mark.parametrize("view", ["bench", "recipes", "states", "strip", "sheet", "process", "edition"])
def test_everything_is_seen_whole_in_the_smallest_window(bench: Bench, view):
    """A screen of 1920 × 1080 at 200 % has 960 × 540 points, less a title and a panel."""
    window = bench.window
    window.setMinimumSize(*LEAST)
    ink = demo.finished("two-inks")
    bench.open(ink.photo, ink.script)
    window.resize(*LEAST)
    if view == "bench":
        for at in (FRAME, 0, 1, 2):
            bench.desk.select(at)
            bench.settle()
            assert cut(window) == []
    elif view == "process":
        window.registry.go(window.sheet)
        window.sheet.measure()
        work = window.sheet.work
        assert until(lambda: len(work.shelf.processes) > 2 and not work.working, 240)
    elif view == "edition":
        window.registry.go(window.edition)
        room = window.edition.room
        room.setup.add([print_.photo for print_ in demo.PRINTS[:3]])
        bench.settle()
        photos = [entry.photo for entry in room.series.edition.entries]
        room.series.put(
            "All of it", match=photos[0], whence="the bench", folder=photos[0].parent / "prints of the quay"
        )
        room.keep_exception(photos[0], Script(window.desk.script.passes[:1]))
    elif view == "strip":
        window.strip.start()
    else:
        window.registry.go(getattr(window, view))
    bench.settle()
    assert (window.width(), window.height()) == LEAST == (940, 520)
    assert cut(window) == []


@pytest.mark.parametrize("width", [940, 1000, 1100, 1280, 1600])
def test_what_is_open_is_told_as_far_as_there_is_room(bench: Bench, width):
    window = bench.window
    facts = window.masthead.open
    name = "the-ferry-landing-of-marrow-quay-in-the-evening-0027.tif"
    window.resize(width, 600)
    for size, state in (("12000 × 8000", "edited"), ("600 × 400", "")):
        facts.tell(name, size, state)
        bench.settle()
        words = facts.shown()
        assert facts.fontMetrics().horizontalAdvance(words) <= facts.width()
        assert words.startswith("the-")
        assert words.endswith(state or (size if size in words else ".tif"))
        assert facts.toolTip() == facts.text()
        menus = window.masthead.findChild(Menus)
        assert menus.width() >= menus.sizeHint().width()
    facts.tell("a.tif", "600 × 400", "edited")
    assert facts.shown() == "a.tif    600 × 400    edited"


# The system's text


@pytest.mark.parametrize(("points", "scale"), [(9, 1), (10, 1), (11, 1), (12, 1), (14, 1.27), (20, 1.82), (72, 2.5)])
def test_everything_grows_with_the_systems_text(monkeypatch, points, scale):
    assert start.text_scale(points) == pytest.approx(scale, abs=0.005)
    begun = []
    monkeypatch.setattr(os, "execv", lambda program, words: begun.append((program, words, dict(os.environ))))
    monkeypatch.delenv("KYANOSCRIPT_TEXT_FOLLOWED", raising=False)
    monkeypatch.setenv("QT_SCALE_FACTOR", "2")
    start._follow_text_size(points)
    if scale == 1:
        assert begun == []
        return
    ((program, words, there),) = begun
    assert (program, words) == (sys.executable, sys.orig_argv)
    assert float(there["QT_SCALE_FACTOR"]) == pytest.approx(2 * scale, abs=0.01)
    start._follow_text_size(points)  # begun again, it goes on
    assert len(begun) == 1


# What is taken hold of, and what has the keyboard


@pytest.mark.parametrize("x", [20.0, 20.25, 20.5, 20.75, 20.99])
def test_a_handle_is_the_same_on_all_sides_wherever_it_lies(x):
    image = QImage(41, 41, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    paint_handle(painter, QPointF(x, x + 0.3), QColor("black"), QColor("white"))
    painter.end()
    pixels = np.array([[image.pixelColor(a, b).lightness() for a in range(41)] for b in range(41)])
    ys, xs = np.nonzero(pixels < 250)
    part = pixels[ys.min() : ys.max() + 1, xs.min() : xs.max() + 1]
    for other in (part[::-1], part[:, ::-1], part.T):
        assert np.array_equal(part, other)
    assert box(QPointF(x, x)).contains(QPointF(x, x))


@pytest.mark.parametrize("ratio", ["as photographed", "free", "1:1"])
@pytest.mark.parametrize("size", [(1280, 800), (940, 520), (1000, 1000)])
def test_the_small_print_goes_where_no_handle_of_the_frame_lies(bench: Bench, size, ratio):
    bench.window.resize(*size)
    bench.desk.select(FRAME)
    bench.settle()
    easel = bench.easel
    inset, tool = easel._arms_length, easel.frame_tool
    bench.desk.set_values("Ratio", ratio=ratio)
    bench.settle()
    assert easel.tool is tool
    assert len(tool.grips()) == (8 if ratio == "free" else 4)
    seen = inset.box()
    assert not any(seen.adjusted(-6, -6, 6, 6).contains(at) for at in tool.grips())
    assert easel.rect().contains(seen.toRect())
    bench.desk.select(-2)  # no frame any more: where it usually is
    usual = inset.box()
    assert (easel.width() - usual.right(), easel.height() - usual.bottom()) == (12, 12)


def test_the_keyboard_is_shown_by_a_frame_and_the_view_by_a_line(bench: Bench):
    head = bench.window.masthead
    bench.window.activateWindow()
    bench.qtbot.waitUntil(bench.window.isActiveWindow)
    here, other = (head.views[view] for view in (bench.window.bench, bench.window.states))
    accent = theme.colour("accent")

    def like(word):
        image = word.grab().toImage()
        middle = image.width() // 2
        rows = [image.pixelColor(middle, y) == accent for y in (0, image.height() - 1, image.height() - 3)]
        return tuple(rows), image.pixelColor(0, image.height() // 2) == accent

    other.setFocus(Qt.FocusReason.TabFocusReason)
    assert like(here) == ((False, True, True), False)
    assert like(other) == ((True, True, False), True)
    here.setFocus(Qt.FocusReason.TabFocusReason)
    assert like(here) == ((True, True, True), True)
    assert like(other) == ((False, False, False), False)


@pytest.mark.parametrize("look", [theme.DAYLIGHT, theme.SAFELIGHT], ids=["daylight", "safelight"])
def test_rims_of_controls_are_three_to_one(look):
    """WCAG 2.1, 1.4.11, by the relative luminance of its definition."""

    def light(colour):
        parts = [v / 255 for v in QColor(colour).getRgb()[:3]]
        linear = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    for ground in (look.panel, look.ground, look.field):
        bright, dark = sorted((light(look.rim), light(ground)), reverse=True)
        assert (bright + 0.05) / (dark + 0.05) >= 3


# For assistive technology


def test_lists_that_open_have_their_names_and_trays_are_children(bench: Bench):
    bench.add("levels", "gradient-map")
    bench.settle()
    boxes = [combo for combo in bench.window.findChildren(QComboBox) if combo.isVisible()]
    assert len(boxes) >= 2
    for combo in boxes:
        told = QAccessible.queryAccessibleInterface(combo)
        labels = [one.text(QAccessible.Text.Name) for one, _ in told.relations(QAccessible.RelationFlag.Label)]
        assert combo.accessibleName() in labels
    trays = next(trays for trays in bench.window.findChildren(Trays) if trays.isVisible())
    told = QAccessible.queryAccessibleInterface(trays)
    children = [told.child(k) for k in range(told.childCount())]
    assert [child.text(QAccessible.Text.Name) for child in children] == ["Photo", "Frame", "Levels", "Gradient map"]
    assert [bool(child.state().selected) for child in children] == [False, False, False, True]
    assert [told.indexOfChild(child) for child in children] == [0, 1, 2, 3]
    assert all(told.rect().contains(child.rect()) for child in children)
    assert children[0].role() == QAccessible.Role.ListItem
    bench.desk.undo()
    assert not children[3].isValid()
    assert told.childCount() == 3
