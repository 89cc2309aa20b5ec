"""What files say is shown as it is: no label, tool tip or question takes a stranger's words for markup."""

import re
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtGui import QTextDocument
from PySide6.QtWidgets import QApplication, QLabel, QListWidget, QMessageBox, QWidget

from kyanoscript import ui
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script
from kyanoscript.core.stencil import Oval, Stencil
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.kept.scriptfile import PhotoRef, write_script
from kyanoscript.ui.sheet.furnished import PAGES
from kyanoscript.ui.widgets import plain
from tests.conftest import make_colourful
from tests.ui.conftest import Bench

P = load_all()
EVIL = "<img src='/dev/zero'><b>quay</b> & <a href='x'>dye</a>"
NAME = "<b>quay<img src=x>.png"


def test_labels_tips_and_questions_are_made_in_one_place():
    """A lint: whoever makes one by hand leaves it to Qt what its words are."""
    forbidden = (
        r"\bQLabel\(|\.setToolTip\(|\bQToolTip\.|\bQMessageBox\(|QMessageBox\.(question|warning|information|critical)\("
    )
    found = [
        f"{file.name}:{k}: {line.strip()}"
        for file in Path(ui.__file__).parent.rglob("*.py")
        for k, line in enumerate(file.read_text().splitlines(), 1)
        if re.search(forbidden, line) and file.name != "plain.py" and not line.startswith("class ")
    ]
    assert found == []


@pytest.fixture
def stranger(bare: Bench, tmp_path):
    """A window on a script in which every word is somebody's markup."""
    photo = tmp_path / NAME
    Image.fromarray(make_colourful(240, 360)).save(photo)
    stencil = Stencil(shapes=(Oval(),))
    steps = (
        P["levels"](name=EVIL, note=EVIL, stencil=EVIL), P["gradient-map"](note=EVIL), P["hand-tint"](note=EVIL),
        P["plate"](name=EVIL, run=(P["soften"](name=EVIL, note=EVIL),)),
    )  # fmt: skip
    file = tmp_path / "<i>evening.kyano"
    write_script(file, Script(steps, stencils=((EVIL, stencil),)), PhotoRef(photo, sha256(photo), 360, 240))
    bare.open(file)
    assert bare.desk.photo.path == photo
    bare.desk.kept.keep()
    state = bare.desk.kept.keep() or bare.desk.kept.states[0]
    bare.desk.kept.describe(state.number, EVIL, EVIL)
    return bare


def wrong(window):
    """Words on it that Qt would make a document of."""
    found = []
    for widget in window.findChildren(QWidget):
        if isinstance(widget, QLabel) and widget.textFormat() != Qt.TextFormat.PlainText:
            found.append(f"label {widget.text()!r}")
        tips = [widget.toolTip()]
        if isinstance(widget, QListWidget):
            tips += [widget.item(k).toolTip() for k in range(widget.count())]
        tips += [action.toolTip() for action in widget.actions()]
        for tip in tips:
            if "<img" in tip or "<b>" in tip or "<a " in tip:
                found.append(f"tip {tip!r} of {type(widget).__name__}")
    return found


def test_every_widget_of_every_view(stranger: Bench):
    window, seen = stranger.window, 0
    for view in window.views():
        window.registry.go(view)
        stranger.settle()
        if view is window.bench:
            for k in range(-2, len(stranger.desk.run)):
                stranger.desk.select(k)
                stranger.settle()
                assert wrong(window) == []
                seen += any("quay" in label.text() for label in window.findChildren(QLabel))
        if view is window.sheet:
            for page in (page for row in PAGES for page in row):
                window.sheet.laying.turn(page)
                stranger.settle()
                assert wrong(window) == []
        assert wrong(window) == []
    assert seen


def test_a_note_is_the_tip_of_its_tray_letter_by_letter(stranger: Bench):
    tip = plain.shown(EVIL)
    document = QTextDocument()
    document.setHtml(tip)
    assert document.toPlainText() == EVIL
    assert document.allFormats()[0].isValid()
    assert plain.shown("plain words") == "plain words"


def test_a_question_shows_the_words_as_they_are(qtbot, bare: Bench):
    box = plain.question(bare.window, f"Open {NAME}?", EVIL)
    assert isinstance(box, QMessageBox)
    box.show()
    QApplication.processEvents()
    labels = {label.text(): label for label in box.findChildren(QLabel) if label.text()}
    assert labels[f"Open {NAME}?"].textFormat() == Qt.TextFormat.PlainText
    assert not any("<img" in text or "<b>" in text for text in labels if text != f"Open {NAME}?")
    box.close()


def test_what_the_foot_says_is_text(bare: Bench):
    bare.window.foot.say(EVIL, warning=True)
    assert bare.window.foot.message.textFormat() == Qt.TextFormat.PlainText
    assert "<img" not in bare.window.foot.message.toolTip()
