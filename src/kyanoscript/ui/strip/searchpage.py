"""The right side of a search: which values are sought, or where the best so far has them."""

from __future__ import annotations

import functools
from collections.abc import Mapping, Sequence
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import Dial
from kyanoscript.core.seek.seek import LEAST, MOST, Seek, Sought
from kyanoscript.translation import spoken, tr, trn
from kyanoscript.ui.strip.kinds import kinds
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.plain import hint, tip
from kyanoscript.ui.widgets.slider import ValueSlider


class Track(QWidget):
    """Where the best so far has a value between its ends, and where it began."""

    def __init__(self) -> None:
        super().__init__()
        self.share, self.start, self.locked = 0.5, 0.5, False
        self.setFixedHeight(16)
        self.setMinimumWidth(80)

    def show_share(self, share: float, start: float, locked: bool) -> None:
        """Another place."""
        self.share, self.start, self.locked = share, start, locked
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, right, y = 5.0, self.width() - 5.0, 8.0
        at, began = (left + share * (right - left) for share in (self.share, self.start))
        painter.setPen(QPen(theme.colour("line"), 2))
        painter.drawLine(QPointF(1, y), QPointF(self.width() - 1, y))
        painter.drawLine(QPointF(began, y - 5), QPointF(began, y + 5))
        ink = theme.colour("quiet" if self.locked else "accent")
        painter.setPen(QPen(ink, 2))
        painter.drawLine(QPointF(began, y), QPointF(at, y))
        painter.setBrush(ink if self.locked else theme.colour("panel"))
        painter.drawRect(QRectF(at - 4, y - 6, 8, 12))
        painter.end()


class DialRow(QWidget):
    """One value of a search: what it is called, how far it has gone, whether it may go on."""

    turned = Signal(bool)  # locked, or let go

    def __init__(self, name: str) -> None:
        super().__init__()
        self.name, self.moved, self.track = furniture.elided(name), furniture.label("", quiet=True), Track()
        self.lock = furniture.word("Lock", "Leave this one where the best so far has it", checkable=True)
        self.lock.setFixedHeight(18)
        self.lock.setAccessibleName(tr("Lock {name}", name=spoken(name)))
        self.name.setObjectName("")
        self.lock.clicked.connect(lambda on: self.turned.emit(on))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        above, under = QHBoxLayout(), QHBoxLayout()
        above.addWidget(self.name, 1)
        above.addWidget(self.moved)
        under.addWidget(self.track, 1)
        under.addWidget(self.lock)
        for row in (above, under):
            row.setSpacing(8)
            column.addLayout(row)

    def show_place(self, share: float, start: float, moved: str, locked: bool) -> None:
        """As it is now."""
        self.track.show_share(share, start, locked)
        self.moved.setText(moved or spoken("left as it is"))
        self.lock.setChecked(locked)
        self.lock.setText(spoken("Locked" if locked else "Lock"))


class SearchPage(BuiltPage):
    """Two pages in one: the values to be ticked, and the search."""

    labels = 44

    ticked = Signal(object, bool)  # a Dial, on or off
    narrowed = Signal(object, float, float)  # a Dial, from where to where
    locks = Signal(object)  # the places of the dials that are locked
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__("Seek")
        self.ticks: dict[Dial, QCheckBox] = {}
        self.sliders: dict[tuple[Dial, str], ValueSlider] = {}
        self.rows: list[DialRow] = []
        self._built: object = None

    # Which values

    def show_values(self, script: Script, dials: Sequence[Dial], sought: Mapping[Dial, Sought], going: bool) -> None:
        """Every value that can be sought; those that are have their ends below them."""
        self._anew()
        column = self.column
        kinds(self, "several")
        column.addWidget(furniture.title("Which values"))
        column.addWidget(
            furniture.wrapped(
                tr("Tick {least} to {most}. The eye chooses among prints; the values follow.", least=LEAST, most=MOST)
                if dials
                else "Add a pass first; every number of it can be sought."
            )
        )
        if dials:
            self.main("begin", "Show the prints", "They are tried small first; that takes about a second")
            self.words["begin"].setEnabled(LEAST <= len(sought) <= MOST)
            count = trn("{count} value ticked", "{count} values ticked", len(sought), count=len(sought))
            words: list[QWidget] = [furniture.label(count, quiet=True)]
            if going:
                words.append(self.word("return", "Back to the prints", "The search as it stands"))
            column.addLayout(furniture.in_a_row(*words))
        for dial in dials:
            tick = QCheckBox(spoken(dial.words(script)))
            tick.setFont(theme.sans(13))
            tick.setChecked(dial in sought)
            hint(tick, "Sought with the others", "Values that hardly change the print only cost looks")
            tick.toggled.connect(functools.partial(self.ticked.emit, dial))
            self.ticks[dial] = tick
            column.addWidget(tick)
            if dial in sought:
                self._ends(sought[dial])
        self._done()

    def _ends(self, sought: Sought) -> None:
        row = QHBoxLayout()
        row.setContentsMargins(22, 0, 0, 4)
        row.setSpacing(14)
        for name, value in (("From", sought.low), ("To", sought.high)):
            slider = ValueSlider(replace(sought.spec, label=name, help=_ENDS), value)
            slider.ended.connect(functools.partial(self._moved, sought.dial))
            slider.moved.connect(functools.partial(self._settle, sought.dial, slider))
            slider.refused.connect(self.refused)
            slider.setMinimumWidth(100)
            self.sliders[sought.dial, name] = slider
            row.addWidget(slider)
        self.column.addLayout(row)

    def _settle(self, dial: Dial, slider: ValueSlider, _: float) -> None:
        self._moved(dial)

    def _moved(self, dial: Dial) -> None:
        self.narrowed.emit(dial, self.sliders[dial, "From"].value, self.sliders[dial, "To"].value)

    # The search

    def show_seek(self, seek: Seek) -> None:
        """Where the best so far has the values, and how many looks it has been."""
        if self._built != seek.dials or not self.rows:
            self._build(seek)
            self._built = seek.dials
        shares, moved = seek.best, seek.moved()
        for k, (row, sought) in enumerate(zip(self.rows, seek.dials, strict=True)):
            row.show_place(float(shares[k]), sought.share(sought.start), moved[k], k in seek.locked)
        for side in (3, 5):
            self.words[f"grid {side}"].setChecked(seek.side == side)
        self.words["back"].setEnabled(seek.count > 0)
        self.count.setText(_said(seek))

    def _build(self, seek: Seek) -> None:
        self._anew(spacing=3)
        column = self.column
        kinds(self, "several")
        column.addWidget(furniture.title("Seek"))
        column.addWidget(
            furniture.wrapped(
                trn("{count} value at once, by choosing", "{count} values at once, by choosing", len(seek.dials),
                    count=len(seek.dials))
            )
        )  # fmt: skip
        column.addWidget(furniture.line())
        for k, sought in enumerate(seek.dials):
            row = DialRow(sought.dial.words(seek.base))
            row.turned.connect(lambda on, k=k: self.locks.emit((k, on)))
            self.rows.append(row)
            column.addWidget(row)
        column.addSpacing(8)
        self.main("take", "Take it", "The best so far onto the bench; one step of undo")
        self.line(
            ("keep", "Keep as a state  S", "The framed print, as a state"),
            ("values", "Values…", "Other values, or other ends"),
        )
        self.line(
            ("back", "One look back", "Backspace; what came after stays in the row until another print is taken"),
            ("grid 3", "Nine", "Prints three by three"),
            ("grid 5", "25", "Prints five by five, where there is room"),
        )
        for side in (3, 5):
            self.words[f"grid {side}"].setCheckable(True)
        self.count = furniture.wrapped("")
        tip(self.count, "As far as the choices tell, in CIEDE2000: about 1 is just seen")
        column.addWidget(self.count)
        self._done()

    def show_kind(self) -> None:
        """The word at the top that stays."""
        self.words["several"].setChecked(True)

    def stop(self) -> QPushButton | None:
        """Where the keyboard goes on the page."""
        return self.words.get("take") or self.words.get("begin")

    def _anew(self, spacing: int = 6) -> None:
        self.ticks, self.sliders, self.rows, self._built = {}, {}, [], None
        self.begin(spacing=spacing)

    def _done(self) -> None:
        self.column.addStretch()
        self.end()


def _said(seek: Seek) -> str:
    """How many looks it has been, and how much is left."""
    if not seek.count:
        if seek.left < _UNSEEN:
            return spoken("These values change the print by less than is seen: give them wider ends, or tick others.")
        return spoken("Press the print you like best; the middle one if none is better.")
    looks = trn("{count} look.", "{count} looks.", seek.count, count=seek.count)
    left = tr("What you may mean is about {left:.1f} ΔE from the best so far.", left=seek.left)
    return f"{looks} {left}" + (" " + spoken("That is less than is seen.") if seek.left < _UNSEEN else "")


_UNSEEN = 0.5  # CIEDE2000
_ENDS = "Where prints may have it; the value it has now stays between"
