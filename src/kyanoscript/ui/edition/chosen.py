"""Below the contact sheet: the chosen photograph after each pass of what it is printed through, and its exception."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kyanoscript.core.frame import Frame
from kyanoscript.core.script import Script
from kyanoscript.core.script.differ import differ
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.edition.smalls import Small
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import furniture, theme

SMALL = QSize(110, 73)
_STEP, _TOP = 142, 6


@dataclass(frozen=True, eq=False)
class Stage:
    """The picture after a pass."""

    name: str
    image: QImage
    differs: bool = False  # from what all the others are printed through


class _Row(QWidget):
    """All of them beside each other."""

    def __init__(self) -> None:
        super().__init__()
        self.stages: Sequence[Stage] = ()
        self.setAccessibleName(spoken("The chosen photograph, pass by pass"))

    def show_stages(self, stages: Sequence[Stage]) -> None:
        """Others."""
        self.stages = stages
        self.setFixedSize(max(1, len(stages)) * _STEP, SMALL.height() + 24 + _TOP)
        self.setAccessibleDescription(spoken(", ".join(stage.name for stage in stages)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        ratio = self.devicePixelRatioF()
        painter.setFont(theme.sans(12))
        for k, stage in enumerate(self.stages):
            place = QRectF(20 + k * _STEP, _TOP, SMALL.width(), SMALL.height())
            painter.fillRect(place, theme.colour("ground"))
            if not stage.image.isNull():
                size = QSize(round(SMALL.width() * ratio), round(SMALL.height() * ratio))
                smooth = Qt.TransformationMode.SmoothTransformation
                image = stage.image.scaled(size, Qt.AspectRatioMode.KeepAspectRatio, smooth)
                lies = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
                lies.moveCenter(place.center())
                painter.drawImage(lies, image)
            if stage.differs:
                painter.fillRect(QRectF(place.x(), 0, place.width(), 3), theme.colour("accent"))
            painter.setPen(theme.colour("text"))
            shown = painter.fontMetrics().elidedText(spoken(stage.name), Qt.TextElideMode.ElideRight, _STEP - 12)
            painter.drawText(QRectF(place.x(), place.bottom() + 4, _STEP - 10, 18), 0, spoken(shown))
        painter.end()


class Below(QWidget):
    """The row, and at its right what the exception is."""

    bench = Signal()
    others = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(148)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 6, 16, 2)
        left, right = QVBoxLayout(), QVBoxLayout()
        left.setSpacing(2)
        self.title = furniture.elided_title("")
        head = QHBoxLayout()
        head.setContentsMargins(14, 0, 0, 0)
        head.addWidget(self.title)
        left.addLayout(head)
        self.row = _Row()
        area = furniture.scrolling()
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidgetResizable(False)
        area.setWidget(self.row)
        left.addWidget(area, 1)
        across.addLayout(left, 1)
        self.words = furniture.wrapped("")
        self.words.setMinimumWidth(288)
        self.words.setContentsMargins(5, 0, 0, 0)
        help = "Return; there Shift+S keeps what it has become, for this picture only"
        self.on_bench = furniture.word("Change it on the bench", help, act=self.bench)
        self.as_others = furniture.word("As all the others", "Its exception goes; undo has it", act=self.others)
        right.addWidget(self.words)
        right.addWidget(self.on_bench)
        right.addWidget(self.as_others)
        right.addStretch()
        across.addLayout(right)

    def show_small(self, name: str, own: bool, small: Small | None, script: Script, others: Script) -> None:
        """A photograph's: ``script`` is what it is printed through, ``others`` what all the others are."""
        self.title.setText(spoken(tr("{name}, an exception", name=name) if own else name))
        through = small.script if small is not None and small.stages else script
        wrong = small is not None and bool(small.wrong)
        self.row.show_stages([] if wrong else _stages(through, small, others if own else None))
        self.words.setText(spoken(_words(small, own, script, others)))
        self.words.setVisible(bool(self.words.text()))
        self.as_others.setVisible(own)


def _stages(script: Script, small: Small | None, others: Script | None) -> list[Stage]:
    known = {step.id: step for step in others.passes} if others is not None else {}

    def image(pixels: display.Pixels | None) -> QImage:
        return display.image(pixels) if pixels is not None else QImage()

    there = list(small.stages) if small is not None else []
    made = [Stage("Photo", image(small.before if small is not None else None))]
    if script.frame != Frame():
        differs = others is not None and script.frame != others.frame
        made.append(Stage("Frame", image(there[0] if there else None), differs))
    for k, step in enumerate(script.passes):
        pixels = there[k + 1] if k + 1 < len(there) else None
        made.append(Stage(step.title, image(pixels), others is not None and known.get(step.id) != step))
    return made


def _words(small: Small | None, own: bool, script: Script, others: Script) -> str:
    if own:
        said = [f"{one.title}: {one.words}" for one in differ(script, others)]
        more = tr("; and {count} more", count=len(said) - 2) if len(said) > 2 else ""
        return "; ".join(said[:2]) + more if said else "As all the others, for this picture only: it is not matched"
    if small is not None and small.wanted.match is not None and small.tones is not None:
        wanted, found = small.wanted.match, small.tones
        near = "" if found.alike(wanted) else ", as near as it comes"
        return tr(
            "Matched: mean L* {mean:.1f}, spread {spread:.1f}{near}", mean=found.mean, spread=found.spread, near=near
        )
    return small.wrong if small is not None else ""
