"""The window in other languages: every word that is shown is looked up, and none is cut off in the longest."""

import functools
import re

import pytest
from PySide6.QtCore import QLibraryInfo, QTranslator
from PySide6.QtGui import QAction, QPainter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QListWidget,
    QScrollArea,
    QSizePolicy,
    QWidget,
)

from kyanoscript import demo, translation
from kyanoscript.core.passes import load_all
from kyanoscript.core.script.dials import Dial
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.widgets.furniture import _Elided
from tests.test_docs import ROOT, load
from tests.tongues import speaking
from tests.ui.conftest import Bench

TEXTS = ("text", "toolTip", "statusTip", "accessibleName", "accessibleDescription", "placeholderText", "windowTitle")
# Names of formats, sizes, files and signs are the same everywhere; what a person typed stays as it is.
SAME = re.compile(
    r"#[0-9a-f]{6}|\b[IVX]+\b|[\w-]+\.(jpg|tif|kyano)|\b(AVIF|JPEG|WebP|TIFF|PNG|RGB|CMYK|ANSI|SRA\d|Oklab|Oklch|sRGB|ppi|min)\b"
    r"|\(?(Ctrl|Shift|Alt)\+\S+|\{\w+\}|Kyanoscript|Marrow Quay|Table by the window, 1/10|Landing, 3/25|\S+…"
)


class Marked:
    """A catalogue that marks whatever it knows."""

    def __init__(self, known):
        self.known = known

    def gettext(self, text):
        return f"⟦{text}⟧" if text in self.known else text

    def ngettext(self, one, many, count):
        return self.gettext(one if count == 1 else many)

    def info(self):
        return {"language": "marked"}


@pytest.fixture
def marked(monkeypatch):
    known = set()
    for message in load(ROOT / "tools" / "languages.py").collected():
        known.update(message.id if isinstance(message.id, tuple) else [message.id])
    monkeypatch.setattr(translation, "_catalogue", functools.cache(lambda: Marked(known)))
    monkeypatch.setattr(translation, "language", functools.cache(lambda: "marked"))
    translation.spoken.cache_clear()
    yield
    monkeypatch.undo()
    translation.forget()


@pytest.fixture
def opened(qtbot):
    """A window on a finished print, in whatever language is spoken by now."""
    made = []

    def make():
        window = Window()
        window.resize(1280, 800)
        window.show()
        bench = Bench(window, qtbot)
        print_ = demo.finished("quad-tone")
        bench.open(print_.photo, print_.script)
        made.append(window)
        return bench

    yield make
    for window in made:
        window.desk.saved_as(window.desk.file, window.desk.whole)
        window.close()


def visit(bench, look):
    """Every view, page and pass, once."""
    window = bench.window
    look("bench")
    for kind in load_all():
        if kind == "hand-tint":
            continue  # its words come from a scan: see test_tint_offers
        bench.add(kind)
        look(f"pass {kind}")
        bench.desk.undo()
    bench.desk.select(-1)
    bench.settle()
    look("frame")
    bench.desk.select(-2)
    bench.settle()
    look("photo")
    bench.add("exposure")
    window.bench.stencils.draw()
    for hand in ("oval", "ramp", "tones", "hues"):
        window.easel.stencil.take(hand)
        bench.settle()
        look(f"stencil {hand}")
    window.bench.stencils.draw()
    window.registry.go(window.recipes)
    window.recipes.trials.look("sepia-bath")
    bench.settle()
    look("recipe")
    window.registry.go(window.states)
    window.desk.kept.keep()
    bench.settle()
    look("states")
    levels = next(step for step in bench.desk.script.passes if step.kind == "levels")
    window.registry.go(window.strip)
    window.strip.start(Dial("pass", "gamma", levels.id))
    bench.settle()
    look("strip")
    window.strip.turn(True)
    search = window.strip.search
    look("values to be sought")
    for name in ("gamma", "in_black"):
        search.tick(Dial("pass", name, levels.id), True)
    search.begin()
    bench.settle()
    search.choose(2)
    bench.settle()
    look("seek")
    window.strip.turn(False)
    window.recipes.follow(demo.photo("landing-scan"))
    until(lambda: window.recipes.following.running is None, 60)
    bench.settle()
    look("after a print")
    window.recipes.following.stop()
    window.registry.go(window.sheet)
    for page in ("Paper", "Print", "Colour", "Marks", "Plates", "Negative"):
        window.sheet.laying.turn(page)
        bench.settle()
        look(f"sheet {page}")
    window.sheet.measure()
    for step in range(5):
        window.sheet.work.go(step)
        bench.settle()
        look(f"process {step}")
    window.sheet._back("Paper")
    window.registry.go(window.edition)
    bench.settle()
    look("edition")
    window.registry.go(window.bench)
    window.walking.offer()
    bench.settle()
    look("walks")
    window.walking.leave()


def shown(window):
    """Every text that is on the screen, or told of what is."""
    for widget in window.findChildren(QWidget):
        if widget.isVisible():
            for name in TEXTS:
                text = getattr(widget, name, None)
                told = text() if callable(text) else None
                if isinstance(told, str):
                    yield told
        if isinstance(widget, QComboBox) and widget.isVisible():
            yield from (widget.itemText(k) for k in range(widget.count()))
        if isinstance(widget, QListWidget) and widget.isVisible():
            yield from (widget.item(k).text() for k in range(widget.count()))
    for action in window.findChildren(QAction):
        yield from (action.text(), action.toolTip(), action.statusTip())


def bare(text):
    """What of a text has not been looked up."""
    text = re.sub(r"<[^>]*>", "", text)
    while (inner := re.sub(r"⟦[^⟦⟧]*⟧", "", text)) != text:
        text = inner
    text = re.sub(r"⟦[^⟧]*$", "", text)  # cut short by an ellipsis
    return SAME.sub("", text)


@pytest.mark.slow
def test_every_word_that_is_shown_is_looked_up(opened, marked, monkeypatch):
    drawn = []
    draw = QPainter.drawText

    def noted(painter, *arguments):
        drawn.extend(argument for argument in arguments if isinstance(argument, str))
        return draw(painter, *arguments)

    monkeypatch.setattr(QPainter, "drawText", noted)
    missed = {}
    bench = opened()

    def look(where):
        bench.window.grab()
        for text in {*drawn, *shown(bench.window)}:
            if re.search(r"[A-Za-z]{3,}", bare(text)):
                missed.setdefault(text, where)
        drawn.clear()

    visit(bench, look)
    assert missed == {}


def cut_off(window):
    """What has less room than its words need."""
    for widget in window.findChildren(QWidget):
        if not widget.isVisible():
            continue
        if isinstance(widget, QAbstractButton) and widget.text() and widget.width() < widget.sizeHint().width() - 1:
            yield widget.text()
        narrow = QSizePolicy.Policy.Ignored
        if (
            isinstance(widget, QLabel)
            and not widget.wordWrap()
            and not isinstance(widget, _Elided)
            and widget.sizePolicy().horizontalPolicy() != narrow
            and widget.contentsRect().width() < widget.fontMetrics().horizontalAdvance(widget.text()) - 1
        ):
            yield widget.text()
        if (
            isinstance(widget, QScrollArea)
            and widget.widget() is not None
            and widget.horizontalScrollBarPolicy().name == "ScrollBarAlwaysOff"
            and widget.widget().minimumSizeHint().width() > widget.width() + 1
        ):
            yield f"page of {widget.parent().accessibleName()}"


@pytest.mark.slow
@pytest.mark.parametrize("language", ["de", "fr"])
def test_nothing_is_cut_off_in_longer_words(opened, language):
    with speaking(language):
        bench, missed = opened(), {}
        translator = QTranslator()
        assert translator.load(f"qtbase_{language}", QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath))
        visit(bench, lambda where: missed.update(dict.fromkeys(cut_off(bench.window), where)))
    assert missed == {}


def test_lists_choose_by_what_they_mean_and_not_by_their_words(opened):
    with speaking("de"):
        bench = opened()
        bench.add("grain")
        box = bench.slip.editors["spread"]
        box.setCurrentIndex(box.findText("geklumpt"))
        assert bench.desk.selected_pass.spread == "clumped"
        window = bench.window
        window.registry.go(window.sheet)
        bench.settle()
        size = window.sheet.laying.page.editors["size"]
        size.setCurrentIndex(size.findText("A5"))
        paper = window.sheet.laying.sheets.sheet.paper
        assert sorted((paper.width, paper.height)) == [148.0, 210.0]
        assert window.masthead.views[window.sheet].text() == "Bogen"


def test_numbers_are_shown_and_typed_with_a_comma(opened):
    with speaking("fr"):
        bench = opened()
        bench.add("levels")
        slider = bench.slip.sliders["gamma"]
        bench.type("gamma", "1,25")
        assert slider.value == 1.25
        assert slider.text() == "1,25"


def test_undo_says_in_the_language_what_it_takes_back(opened):
    with speaking("de"):
        bench = opened()
        bench.add("grain")
        undo = next(action for action in bench.window.menus.actions_of.values() if action.text().startswith("Rück"))
        assert undo.text() == "Rückgängig: Korn hinzufügen"
        QTest.keyClick(bench.easel, "z", modifier=QApplication.keyboardModifiers().ControlModifier)
        assert "Korn" not in undo.text()
