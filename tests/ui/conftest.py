"""The real window, offscreen, on a small picture."""

import functools
import itertools
import sys

import pytest
import shiboken6
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QMainWindow

from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import theme
from tests.conftest import make_colourful


@pytest.fixture
def service(qtbot):
    """The threads that render, on a small picture, without a window."""
    made = RenderService()
    made.start()
    made.set_source(ArraySource(make_colourful(240, 360)))
    yield made
    made.stop()


@pytest.fixture(scope="session", autouse=True)
def _dressed(qapp):
    theme.apply(qapp)
    interval = sys.getswitchinterval()
    sys.setswitchinterval(0.001)
    yield
    sys.setswitchinterval(interval)


@pytest.fixture
def qtbot(qtbot):
    """Waits until what is waited for is there, however slow the machine is; only what never comes fails."""
    for name in ("waitUntil", "waitSignal", "waitSignals"):
        setattr(qtbot, name, functools.partial(getattr(qtbot, name), timeout=240_000))
    return qtbot


@pytest.fixture(autouse=True)
def _own_state(tmp_path, monkeypatch):
    """No test reads or writes what the person at this machine has been doing."""
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("KYANOSCRIPT_CACHE", str(tmp_path / "cache"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


@pytest.fixture(autouse=True)
def _freed(qapp):
    """Closed windows go at once: those that lived on would make every change of style slower."""
    yield
    for widget in QApplication.topLevelWidgets():
        if isinstance(widget, Window | QMainWindow) and not widget.isVisible():
            shiboken6.delete(widget)


@pytest.fixture
def photo(tmp_path):
    file = tmp_path / "landing.png"
    Image.fromarray(make_colourful(240, 360)).save(file)
    return file


@pytest.fixture
def bare(qtbot):
    """A window with nothing opened."""
    window = Window()
    window.show()
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    yield Bench(window, qtbot)
    window.desk.saved_as(window.desk.file, window.desk.whole)
    window.close()


@pytest.fixture
def bench(bare, photo):
    """A window with a photograph and an empty run."""
    bare.open(photo)
    return bare


@pytest.fixture(scope="module")
def shared_bench(_dressed, tmp_path_factory):
    """A window for many tests that leave the run as empty as it was; it has no `qtbot`."""
    file = tmp_path_factory.mktemp("shared") / "landing.png"
    Image.fromarray(make_colourful(240, 360)).save(file)
    window = Window()
    window.show()
    bench = Bench(window, None)
    bench.open(file)
    yield bench
    window.desk.saved_as(window.desk.file, window.desk.whole)
    window.close()


class Bench:
    """What a person does at the window, in few words."""

    def __init__(self, window, qtbot):
        self.window, self.qtbot = window, qtbot
        self.desk, self.easel, self.view = window.desk, window.easel, window.bench
        self.ladder, self.slip, self.passes = self.view.ladder, self.view.slip, self.view.passes
        self.trays = self.view.run.trays

    def open(self, file, script=None):
        self.window.opening.open(file, script)
        self.settle()

    def settle(self):
        assert settle(self.window, 240), "it does not come to rest"

    def add(self, *kinds):
        for kind in kinds:
            self.passes.add(kind)
        self.settle()

    def add_to(self, path, *kinds):
        """Passes at the end of a plate's own run."""
        for kind in kinds:
            self.passes.add(kind, None, path)
        self.settle()

    def key(self, key, modifier=Qt.KeyboardModifier.NoModifier, on=None):
        QTest.keyClick(on or self.easel, key, modifier)

    def press(self, widget, at, modifier=Qt.KeyboardModifier.NoModifier):
        QTest.mousePress(widget, Qt.MouseButton.LeftButton, modifier, point(at))

    def move(self, widget, at):
        QTest.mouseMove(widget, point(at))

    def release(self, widget, at):
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, point(at))

    def drag(self, widget, start, *places):
        self.press(widget, start)
        for place in places:
            self.move(widget, place)
        self.release(widget, places[-1])

    def on_print(self, x, y):
        """The point of the easel over a place of the print, 0…1 across and down."""
        return self.easel.from_picture(QPointF(x, y))

    def draw(self, *places, modifier=Qt.KeyboardModifier.NoModifier):
        """Press on the print, go from place to place in small steps, let go."""
        points = [self.on_print(*place) for place in places]
        self.press(self.easel, points[0], modifier)
        for start, end in itertools.pairwise(points):
            for k in range(1, 9):
                self.move(self.easel, start + (end - start) * (k / 8))
        self.release(self.easel, points[-1])
        self.settle()

    def hand(self, name):
        """What a press does while a stencil is worked on."""
        self.slip.editors[f"hand {name}"].click()

    def mask(self, x, y):
        """How far the chosen pass acts at a place of the print, 0…1."""
        script, index = self.desk.entering()
        renderer = Renderer(self.desk.photo.source, script)
        width, height = renderer.size(1.0)
        return float(renderer.stencil(index, Rect(int(x * width), int(y * height), 1, 1))[0, 0, 0])

    def print_at(self, x, y):
        """Encoded levels of the print at a place, 0…255."""
        renderer = Renderer(self.desk.photo.source, self.desk.script, library=self.desk.pictures)
        width, height = renderer.size(1.0)
        planes = renderer.region(Rect(int(x * width), int(y * height), 1, 1))
        return [round(float(v) * 255) for v in planes[:, 0, 0]]

    def click(self, widget, at):
        self.drag(widget, at, at)

    def double(self, widget, at):
        QTest.mouseDClick(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, point(at))
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, point(at))

    def slide(self, name, value):
        """Drag a slider's handle to a value, as near as its pixels allow."""
        slider = self.slip.sliders[name]
        left, right, y = slider.track()
        share = slider.spec.share(value)
        start = QPointF(slider.handle_x(), y)
        end = QPointF(left + share * (right - left), y)
        self.drag(slider, start, start + (end - start) / 2, end)
        return slider.value

    def type(self, name, text):
        """Press on a slider's value and type another."""
        slider = self.slip.sliders[name] if isinstance(name, str) else name
        self.click(slider, QPointF(slider.width() - 8, 9))
        slider.entry.selectAll()
        slider.entry.insert(text)  # QTest types ASCII only, people a true minus sign
        QTest.keyClick(slider.entry, Qt.Key.Key_Return)

    def start(self, name):
        """Take one of the chosen pass's starts, by its name, in the chooser."""
        self.slip.editors["start"].showPopup()
        chooser = self.passes.choosers.present
        QTest.keyClicks(chooser.search, name)
        assert chooser.grid.current == name
        QTest.keyClick(chooser.search, Qt.Key.Key_Return)

    def word(self, text, within=None):
        """Press a word that can be pressed."""
        words = [word for word in (within or self.window).findChildren(QAbstractButton) if word.text() == text]
        (word,) = [word for word in words if word.isVisible()]
        QTest.mouseClick(word, Qt.MouseButton.LeftButton)

    def write(self, line, text):
        """Into an entry, in the place of what is there."""
        typed(line, text)

    def pull(self, slider, *values):
        """Take the handle of a slider from value to value, and let it go."""
        left, right, y = slider.track()
        places = [QPointF(left + slider.spec.share(value) * (right - left), y) for value in values]
        self.drag(slider, QPointF(slider.handle_x(), y), *places)

    def shown(self):
        """Colour in the middle of the easel."""
        self.settle()
        image = self.easel.grab().toImage()
        return image.pixelColor(image.width() // 2, image.height() // 2).getRgb()[:3]

    def said(self):
        return self.window.foot.message.text()


def typed(line, text):
    """Into an entry, in the place of what is there."""
    line.setFocus()
    line.selectAll()
    line.insert(text)
    QTest.keyClick(line, Qt.Key.Key_Return)


def point(at):
    return at.toPoint() if isinstance(at, QPointF) else QPoint(at)
