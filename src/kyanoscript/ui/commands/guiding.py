"""The guide in a window of its own: F1 opens it at the place of the control that keyboard or pointer is on."""

from __future__ import annotations

from importlib import resources

from PySide6.QtCore import QObject, Qt, QUrl, Signal
from PySide6.QtGui import QCursor, QImage, QTextDocument
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
)

from kyanoscript.translation import spoken
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import led

# In the order of the contents; the words are those of the list.
PAGES = {
    "index": "The guide",
    "first-print": "One print",
    "gray": "Gray",
    "toning": "Toning",
    "scans": "Mending, tinting",
    "states": "States and strips",
    "paper": "Paper",
    "plates": "Plates",
    "processes": "Negatives, processes",
    "editions": "Editions",
    "passes": "Every value",
    "keys": "Every key",
    "glossary": "Words of the trade",
}
_SIZE, _CONTENTS = (1010, 720), 172
_PICTURE = 760  # pixels: how wide one is on the page


class Guiding(QObject):
    """Opens the guide, and finds where it tells of a control."""

    def __init__(self, context: Context, registry: Registry) -> None:
        super().__init__()
        self.context, self.registry = context, registry
        self.window: Guide | None = None

    def commands(self) -> Handlers:
        """What is done by key and menu."""
        return {commands.GUIDE: self.open}

    def place(self) -> str:
        """Where the guide tells of what the keyboard is on, else the pointer, else of the view."""
        top, easel = self.context.top.window(), self.context.easel
        focus, under = QApplication.focusWidget(), QApplication.widgetAt(QCursor.pos())
        for widget in (focus, under):
            if widget is not None and widget is not easel and widget.window() is top and (found := led(widget)):
                return found
        return self.registry.view.guide if self.registry.view is not None else "index"

    def open(self, place: str = "") -> None:
        """The guide at a place; without one: that of the control in hand."""
        place = place or self.place()
        if self.window is None:
            self.window = Guide(self.context)
        self.window.turn(place)
        self.window.show()
        self.window.raise_()
        self.window.activateWindow()


class Guide(QDialog):
    """Contents at the left, a page at the right. What is not a page of the guide is not opened."""

    shown = Signal()  # a page is on the screen

    def __init__(self, context: Context) -> None:
        super().__init__(context.top)
        self._jobs, self._warn = context.jobs, context.foot.warn
        self.setWindowTitle(spoken("Guide"))
        self.resize(*_SIZE)
        self.page = self.anchor = ""
        self._before: list[str] = []
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        side = QVBoxLayout()
        side.setContentsMargins(8, 12, 0, 12)
        self.contents = QListWidget()
        self.contents.setAccessibleName(spoken("Contents"))
        self.contents.setFixedWidth(_CONTENTS)
        self.contents.setFont(theme.sans(13))
        for words in PAGES.values():
            self.contents.addItem(QListWidgetItem(spoken(words)))
        self.contents.currentRowChanged.connect(lambda at: self.turn(list(PAGES)[at]) if at >= 0 else None)
        self.back = furniture.word("Back", "The page before  (Alt+Left)", act=self.turn_back)
        self.back.setShortcut("Alt+Left")
        side.addWidget(self.contents, 1)
        side.addWidget(self.back)
        row.addLayout(side)
        row.addWidget(furniture.line(vertical=True))
        self.text = _Text()
        self.text.anchorClicked.connect(self._follow)
        row.addWidget(self.text, 1)

    def turn(self, place: str, keep: bool = True) -> None:
        """Another page, at a place of it."""
        page, _, anchor = place.partition("#")
        if keep and self.page and page != self.page:
            self._before.append(f"{self.page}#{self.anchor}")
        self.anchor = anchor
        self.back.setEnabled(bool(self._before))
        if page == self.page:
            self._scroll()
            return
        self.page = page
        self.contents.blockSignals(True)
        self.contents.setCurrentRow(list(PAGES).index(page))
        self.contents.blockSignals(False)

        def done(found: tuple[str, dict[str, QImage]]) -> None:
            if self.page == page:
                self.text.pictures = found[1]
                self.text.show_page(found[0])
                self._scroll()
                self.shown.emit()

        ratio = self.devicePixelRatioF()
        self._jobs.run(lambda _: read(page, ratio), Lane.READ, done=done, failed=self._warn)

    def turn_back(self) -> None:
        """To where one was before."""
        if self._before:
            self.turn(self._before.pop(), keep=False)

    def _follow(self, link: QUrl) -> None:
        page, _, anchor = link.toString().partition("#")
        page = page.removesuffix(".html") or self.page
        if page in PAGES:
            self.turn(f"{page}#{anchor}")

    def _scroll(self) -> None:
        if self.anchor:
            self.text.scrollToAnchor(self.anchor)
        else:
            self.text.verticalScrollBar().setValue(0)


class _Text(QTextBrowser):
    """Shows what it has been given, and loads nothing."""

    def __init__(self) -> None:
        super().__init__()
        self.pictures: dict[str, QImage] = {}
        self.setOpenLinks(False)
        self.setAccessibleName(spoken("Page"))
        self.setFrameShape(QTextBrowser.Shape.NoFrame)
        self.setFont(theme.sans(14))
        self.document().setDocumentMargin(24)

    def show_page(self, words: str) -> None:
        """Another page, in the colours and faces of the window."""
        serif, accent, quiet = theme.serif(20).family(), theme.colour("accent").name(), theme.colour("quiet").name()
        self.document().setDefaultStyleSheet(
            f"h1, h2 {{ font-family: '{serif}'; font-weight: normal; }} h1 {{ font-size: 26px; }} "
            f"h2 {{ font-size: 20px; margin-top: 18px; }} a[href] {{ color: {accent}; }} "
            f"th {{ color: {quiet}; font-weight: normal; }} td, th {{ padding: 2px 12px 2px 0; }} "
            "p, li { margin-bottom: 6px; } pre { margin: 8px 0; }"
        )
        self.setHtml(words)

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        if kind == QTextDocument.ResourceType.ImageResource.value:
            return self.pictures.get(QUrl(name).toString(), QImage())
        return None


def read(page: str, ratio: float) -> tuple[str, dict[str, QImage]]:
    """A page of the guide with its pictures, by the names that it has for them, for a screen of that ratio."""
    folder = resources.files("kyanoscript") / "guide"
    words = (folder / f"{page}.html").read_text(encoding="utf-8")
    pictures = {}
    for part in words.split('src="')[1:]:
        name = part.partition('"')[0]
        picture = QImage.fromData((folder / name).read_bytes())
        pictures[name] = picture.scaledToWidth(round(_PICTURE * ratio), Qt.TransformationMode.SmoothTransformation)
        pictures[name].setDevicePixelRatio(ratio)
    return words, pictures
