"""Help where the hand is: one line in the foot, and the guide at the place of a control."""

import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDrag, QImage, QNativeGestureEvent, QPointingDevice
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QWidget

from kyanoscript.core.passes import load_all
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.guiding import PAGES
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.plain import hinted, led
from tests.test_guide import page
from tests.ui.conftest import Bench


def told(bench):
    foot = bench.window.foot
    return foot.about.text() if foot.about.isVisible() else ""


def hover(widget):
    QTest.mouseMove(widget, QPoint(widget.width() // 2, widget.height() // 2))
    QApplication.processEvents()


def test_the_keyboard_on_a_control_tells_what_it_does_and_what_goes_wrong(bench: Bench):
    bench.add("grain")
    bench.window.foot.say("")
    bench.slip.sliders["amount"].setFocus(Qt.FocusReason.TabFocusReason)
    grain = load_all()["grain"]
    assert told(bench) == f"{grain.params()['amount'].help}. {grain.beware}"
    bench.slip.sliders["strength"].setFocus(Qt.FocusReason.TabFocusReason)
    assert "go past it, then back" in told(bench)
    bench.easel.setFocus()
    assert told(bench) == ""


def test_so_does_the_pointer_and_what_is_said_comes_first(bench: Bench):
    bench.add("levels")
    foot, word = bench.window.foot, bench.window.masthead.views[bench.window.recipes]
    foot.say("")
    hover(word)
    assert "Every recipe on this picture" in told(bench)
    foot.say("Something has been done")
    assert not foot.about.isVisible()
    assert foot.message.isVisible()
    foot.say("")
    assert "Every recipe" in told(bench)
    hover(bench.easel)
    assert told(bench) == ""


def controls(window):
    return [
        widget
        for widget in window.findChildren(QWidget)
        if widget.isVisible() and widget.focusPolicy() & Qt.FocusPolicy.TabFocus
    ]


# What the pointer is on says it itself: names are written on them, or beside them.
PLAIN = ("QScrollArea", "QMenuBar", "Menus", "Easel", "QListWidget", "QPlainTextEdit")


@pytest.mark.parametrize("kind", list(load_all()))
def test_every_control_of_every_pass_has_its_line_and_its_place(shared_bench: Bench, kind):
    bench = shared_bench
    bench.add(kind)
    places = page("passes.html").places | {""}
    for name, widget in (*bench.slip.sliders.items(), *bench.slip.editors.items()):
        assert hinted(widget), name
        if name in load_all()[kind].params():
            to, _, place = led(widget).partition("#")
            assert (to, place in places) == ("passes", True), led(widget)
    bench.desk.undo()


@pytest.mark.parametrize("view", ["bench", "recipes", "states", "strip", "sheet", "edition"])
def test_in_every_view_controls_tell_what_they_do(bench: Bench, view):
    bench.add("gray-weights", "toner-bath")
    bench.window.registry.go(getattr(bench.window, view))
    bench.settle()
    silent = [
        f"{type(widget).__name__} {widget.accessibleName() or getattr(widget, 'text', str)()}"
        for widget in controls(bench.window)
        if not hinted(widget) and type(widget).__name__ not in PLAIN
    ]
    assert silent == []


@pytest.mark.parametrize(("view", "leads"), [
    ("bench", "first-print"), ("recipes", "first-print"), ("states", "states"), ("strip", "states"),
    ("sheet", "paper"), ("edition", "editions"),
])  # fmt: skip
def test_f1_opens_the_guide_where_the_view_is_told_of(bench: Bench, view, leads):
    bench.add("gray-weights")
    window = bench.window
    window.registry.go(getattr(window, view))
    bench.settle()
    window.setFocus()
    window.registry.do(commands.GUIDE)
    guide = window.guiding.window
    assert until(lambda: guide.text.toPlainText() != "", 60)
    assert guide.page == leads
    assert guide.contents.currentItem().text() == PAGES[leads]
    guide.close()


def test_f1_on_a_slider_opens_its_row(bench: Bench):
    bench.add("grain")
    bench.slip.sliders["amount"].setFocus(Qt.FocusReason.TabFocusReason)
    bench.key(Qt.Key.Key_F1, on=bench.slip.sliders["amount"])
    guide = bench.window.guiding.window
    assert (guide.page, guide.anchor) == ("passes", "grain-amount")
    assert until(lambda: guide.text.verticalScrollBar().value() > 0, 60)
    cursor = guide.text.cursorForPosition(QPoint(60, 6))
    assert "amount" in cursor.block().text() + cursor.block().next().text()
    guide.close()


def test_links_lead_on_and_back_and_nowhere_else(bench: Bench):
    guiding = bench.window.guiding
    guiding.open("paper")
    guide = guiding.window
    assert until(lambda: "Which page is for what" in guide.text.toPlainText(), 60)
    guide.text.anchorClicked.emit(QUrl("plates.html#the-press"))
    assert until(lambda: "Grays or dots" in guide.text.toPlainText(), 60)
    guide.text.anchorClicked.emit(QUrl("https://example.org/"))
    guide.text.anchorClicked.emit(QUrl("file:///etc/passwd"))
    assert guide.page == "plates"
    guide.back.click()
    assert until(lambda: "Which page is for what" in guide.text.toPlainText(), 60)
    assert not guide.back.isEnabled()
    guide.close()


def test_pictures_are_on_the_pages(bench: Bench):
    guiding = bench.window.guiding
    guiding.open("first-print")
    guide = guiding.window
    assert until(lambda: len(guide.text.pictures) == 10, 60)
    assert all(picture.width() == round(760 * guide.devicePixelRatioF()) for picture in guide.text.pictures.values())
    shot = guide.text.grab().toImage()
    seen = {shot.pixelColor(x, y).rgb() for x in range(60, 700, 8) for y in range(200, 600, 8)}
    assert len(seen) > 100  # a photograph, and no empty box
    guide.close()


def test_which_of_plates_negative_process_one_needs_is_said_where_they_stand(bench: Bench):
    bench.add("gray-weights")
    bench.window.registry.go(bench.window.sheet)
    bench.settle()
    page = bench.window.sheet.laying.page
    words = [label.text() for label in page.findChildren(QWidget) if hasattr(label, "text") and label.isVisible()]
    assert any("For a printer the first four are all" in text for text in words)
    plates = next(w for w in page.findChildren(QAbstractButton) if w.text() == "Plates")
    assert "on a press" in hinted(plates)
    assert led(plates) == "plates"


def test_a_dark_desktop_is_followed_and_the_safelight_stays(bench: Bench, monkeypatch):
    window, looking = bench.window, bench.window.looking
    monkeypatch.setattr(theme, "desktop_is_dark", lambda: True)
    looking._follow_desktop()
    assert theme.colour("panel").name() == theme.EVENING.panel.lower()
    assert looking.look == "daylight"  # what is remembered
    assert window.grab().toImage().pixelColor(5, window.height() - 5).name() == theme.EVENING.panel.lower()
    looking.safelight()
    assert theme.colour("panel").name() == theme.SAFELIGHT.panel.lower()
    looking._follow_desktop()
    assert theme.colour("panel").name() == theme.SAFELIGHT.panel.lower()
    monkeypatch.setattr(theme, "desktop_is_dark", lambda: False)
    looking.safelight()
    assert theme.colour("panel").name() == theme.DAYLIGHT.panel.lower()


def test_two_fingers_zoom_where_they_are(bench: Bench):
    easel = bench.easel
    before, at = easel.magnification(), easel.from_picture(QPointF(0.25, 0.25))
    pad = QPointingDevice.primaryPointingDevice()
    for _ in range(4):
        event = QNativeGestureEvent(
            Qt.NativeGestureType.ZoomNativeGesture, pad, 2, at, at, easel.mapToGlobal(at), 0.2, QPointF()
        )
        QApplication.sendEvent(easel, event)
    assert easel.magnification() == pytest.approx(before * 1.2**4, rel=0.02)
    bench.settle()
    assert (easel.from_picture(QPointF(0.25, 0.25)) - at).manhattanLength() < 3


def test_the_print_is_dragged_out_as_a_picture_and_as_a_file(bench: Bench, monkeypatch):
    bench.add("gray-weights")
    bench.desk.select(-2)
    carried = []

    def carry(drag, *_):
        mime: QMimeData = drag.mimeData()
        file = mime.urls()[0].toLocalFile()
        carried.append((QImage(file), QImage(mime.imageData()), file, drag.pixmap().width()))
        return Qt.DropAction.CopyAction

    monkeypatch.setattr(QDrag, "exec", carry)
    middle = bench.on_print(0.5, 0.5)
    bench.drag(bench.easel, middle, middle + QPointF(30, 0), middle + QPointF(60, 0))
    assert until(lambda: bench.window.printing.running is None, 60)
    assert carried == []
    assert "drag it once more" in bench.said()
    bench.drag(bench.easel, middle, middle + QPointF(30, 0), middle + QPointF(60, 0))
    ((file, image, name, small),) = carried
    assert file.size() == image.size()
    assert (file.width(), file.height(), small) == (360, 240, 160)
    assert name.endswith("landing-print.png")
    spot = file.pixelColor(180, 120)
    assert spot.red() == spot.green() == spot.blue() == pytest.approx(bench.print_at(0.5, 0.5)[0], abs=2)


def test_a_short_move_drags_nothing(bench: Bench):
    bench.desk.select(-2)
    middle = bench.on_print(0.5, 0.5)
    bench.drag(bench.easel, middle, middle + QPointF(2, 1))
    assert bench.window.printing.running is None


def test_lists_have_their_lines_too(bench: Bench):
    bench.add("grain")
    boxes = [box for box in bench.slip.page.widget.findChildren(QComboBox) if box.isVisible()]
    assert boxes
    assert all(hinted(box) for box in boxes)
