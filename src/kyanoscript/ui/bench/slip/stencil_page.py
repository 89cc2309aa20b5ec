"""The page of the slip for a stencil: what the hand does, the parts it has, and how they count together."""

from __future__ import annotations

import functools
from itertools import groupby
from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QPushButton, QWidget

from kyanoscript.core.params import Number
from kyanoscript.core.params.kinds import Choice
from kyanoscript.core.stencil.shapes import Hues, Shape, Stencil, Stroke, Tones
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.bench.slip.brush import Brush
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.easel.tools.stencil import HANDS, StencilTool
from kyanoscript.ui.easel.tools.veil import DISPLAYS
from kyanoscript.ui.fields.fields import Fields, shrinking
from kyanoscript.ui.fields.target import Chosen, SlipPage
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import lead

_ROW = 24
_SIGNS = {"add": "+", "take-away": "\N{MINUS SIGN}", "intersect": "×"}
_BRUSH = ("size", "hardness", "opacity", "flow")


class Part(Chosen):
    """The chosen part of the stencil."""

    def __init__(self, tool: StencilTool) -> None:
        super().__init__(tool.desk)
        self.tool = tool

    def thing(self) -> Any:
        return self.tool.part

    def set(self, label: str, merge: str = "", **values: object) -> None:
        part, k = self.tool.part, self.tool.chosen
        if part is not None:
            changed = type(part)(**{**dict(part), **values})
            shapes = self.tool.stencil.shapes
            self.tool.put(label, (*shapes[:k], changed, *shapes[k + 1 :]), merge)


class Whole(Chosen):
    """The stencil as a whole."""

    def __init__(self, tool: StencilTool) -> None:
        super().__init__(tool.desk)
        self.tool = tool

    def thing(self) -> Any:
        return self.tool.stencil

    def set(self, label: str, merge: str = "", **values: object) -> None:
        self.desk.set_stencil(label, Stencil(**{**dict(self.tool.stencil), **values}), merge)


class StencilPage(SlipPage):
    """Everything about one stencil."""

    def build(self, tool: StencilTool) -> None:
        """Lay the page out."""
        lead(self.widget, "first-print#6-keep-a-few-places-apart")
        step = self.desk.selected_pass
        assert step is not None
        head = QHBoxLayout()
        head.addWidget(furniture.title("Stencil"))
        head.addStretch()
        done = furniture.word("Done  M", "Back to the pass", act=lambda: self.ask(commands.DRAW_STENCIL))
        self.editors["done"] = done
        head.addWidget(done)
        self.column.addLayout(head)
        self.column.addWidget(furniture.label(tr("Where {title} acts", title=step.title), quiet=True))
        self.column.addWidget(furniture.line())
        self._hands(tool)
        if tool.paints:
            brush = {n: s for n, s in Stroke.params().items() if n in _BRUSH}
            Fields(self, Brush(tool)).add(brush, tool.brush)
        elif tool.part is not None:
            part = tool.part
            own = {
                n: s for n, s in part.params().items() if s.shown and not (isinstance(s, Number) and s.decimals == 3)
            }  # places have handles
            Fields(self, Part(tool)).add(own, part)
        else:
            self._joins(tool)
        self.list = PartList(tool)
        self.shows.append(self.list.show_parts)
        self.column.addWidget(self.list)
        self.column.addWidget(furniture.line())
        self._displays(tool)
        whole = {n: s for n, s in Stencil.params().items() if n != "shapes"}
        Fields(self, Whole(tool)).add(whole, tool.stencil)
        self._ends(tool, isinstance(step.stencil, str))

    def _hands(self, tool: StencilTool) -> None:
        grid = QGridLayout()
        grid.setContentsMargins(0, 2, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        together = QButtonGroup(self.widget)
        for k, (name, text, help) in enumerate(HANDS):
            button = furniture.word(text, help, checkable=True)
            self.shows.append(functools.partial(button.setChecked, name == tool.hand))
            button.clicked.connect(lambda _=False, name=name: tool.take(name))
            together.addButton(button)
            grid.addWidget(button, k // 4, k % 4, Qt.AlignmentFlag.AlignLeft)
            self.editors[f"hand {name}"] = button
        self.column.addLayout(grid)
        self.column.addWidget(furniture.wrapped(next(help for name, _, help in HANDS if name == tool.hand)))

    def _joins(self, tool: StencilTool) -> None:
        """How the next part will meet those before it."""
        spec = Stroke.params()["join"]
        assert isinstance(spec, Choice)
        box = shrinking("The next part")
        for value, text in spec.choices:
            box.addItem(spoken(text), value)
        self.shows.append(lambda: box.setCurrentIndex(box.findData(tool.join)))

        def picked(index: int) -> None:
            tool.join = box.itemData(index)

        box.currentIndexChanged.connect(picked)
        row = QHBoxLayout()
        row.addWidget(furniture.label("The next part"))
        row.addWidget(box, 1)
        self.editors["next join"] = box
        self.column.addLayout(row)

    def _displays(self, tool: StencilTool) -> None:
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(furniture.label("Shown", quiet=True))
        together = QButtonGroup(self.widget)
        for name, text in zip(DISPLAYS, ("tint", "black and white", "not"), strict=True):
            button = furniture.word(
                text,
                "How the stencil is shown over the print  (Shift+M)",
                checkable=True,
                act=lambda name=name: tool.show_as(name),
            )
            self.shows.append(functools.partial(_show_display, button, tool, name))
            together.addButton(button)
            row.addWidget(button)
            self.editors[f"shown {name}"] = button
        row.addStretch()
        self.column.addLayout(row)

    def _ends(self, tool: StencilTool, shared: bool) -> None:
        row = QHBoxLayout()
        row.setSpacing(10)
        copy = furniture.word(
            "Copy",
            "For another pass, here or in another window  (Ctrl+Shift+C)",
            act=lambda: self.ask(commands.COPY_STENCIL),
        )
        paste = furniture.word(
            "Paste",
            "A copied stencil in place of this one  (Ctrl+Shift+V)",
            act=lambda: self.ask(commands.PASTE_STENCIL),
        )
        words = [copy, paste]
        if shared:
            own = furniture.word(
                "Make it its own",
                "Changes to it no longer change the other passes that use it",
                act=lambda: self.desk.set_values("Stencil of its own", stencil=self.desk.stencil),
            )
            words.append(own)
        off = furniture.word(
            "Take off",
            "The pass acts everywhere again",
            act=lambda: self.desk.set_values("Take the stencil off", stencil=None),
        )
        for button in words:
            row.addWidget(button)
        row.addStretch()
        row.addWidget(off)
        self.editors |= {"copy": copy, "paste": paste, "stencil": off}
        self.column.addLayout(row)


def _show_display(button: QPushButton, tool: StencilTool, name: str) -> None:
    button.setChecked(tool.veil.display == name)


def rows_of(stencil: Stencil) -> list[tuple[tuple[int, ...], str, str]]:
    """The lines of the list: which parts, how they join, and words. Strokes that follow each other are one line."""

    def key(item: tuple[int, Shape]) -> tuple[bool, int]:
        strokes = isinstance(item[1], Stroke) and item[1].join != "intersect"
        return strokes, -1 if strokes else item[0]

    found = []
    for (strokes, _), group in groupby(enumerate(stencil.shapes), key):
        parts = list(group)
        shape = parts[0][1]
        if strokes:
            words, sign = f"{len(parts)} {'stroke' if len(parts) == 1 else 'strokes'}", ""
            sign = _SIGNS[shape.join] if len({p.join for _, p in parts}) == 1 else "±"
        else:
            words, sign = shape.label, _SIGNS[shape.join]
            if isinstance(shape, Tones):
                words = tr("Tones {low:.0f} to {high:.0f}", low=shape.low, high=shape.high)
            elif isinstance(shape, Hues):
                words = tr("Hues round {hue:.0f}°", hue=shape.hue)
        found.append((tuple(k for k, _ in parts), sign, words))
    return found


class PartList(QWidget):
    """One line a part; a press chooses it, the cross takes it away."""

    def __init__(self, tool: StencilTool) -> None:
        super().__init__()
        self.tool = tool
        self.rows: list[tuple[tuple[int, ...], str, str]] = []
        self.own_keys = frozenset((Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Delete))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Parts of the stencil"))

    def show_parts(self) -> None:
        """Show the parts as they are now."""
        self.rows = rows_of(self.tool.stencil)
        self.setFixedHeight(_ROW * max(1, len(self.rows)))
        self.setAccessibleDescription(spoken(", ".join(words for _, _, words in self.rows) or "none"))
        self.update()
        tell(self)

    def told(self) -> Told:
        """For assistive technology: the chosen part."""
        row, last = max(0, self.row_of(self.tool.chosen)), max(0, len(self.rows) - 1)
        words = self.rows[row][2] if self.rows else "none"
        return Told(
            Role.List, words, row, 0, last, 1.0, lambda value: self._choose(round(value)) if self.rows else None
        )

    def row_of(self, index: int) -> int:
        """The line that has a part; -1 if none has."""
        return next((k for k, (parts, _, _) in enumerate(self.rows) if index in parts), -1)

    def cross(self, row: int) -> QRectF:
        """Where a press takes a line's parts away."""
        return QRectF(self.width() - 26, row * _ROW, 26, _ROW)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.sans(13))
        middle = Qt.AlignmentFlag.AlignVCenter
        if not self.rows:
            painter.setPen(theme.colour("quiet"))
            painter.drawText(self.rect(), middle, spoken("Nothing drawn yet: the pass acts everywhere"))
        for k, (parts, sign, words) in enumerate(self.rows):
            box = QRectF(0, k * _ROW, self.width(), _ROW)
            if self.tool.chosen in parts:
                painter.fillRect(box, theme.colour("soft"))
            painter.setPen(theme.colour("accent"))
            painter.drawText(box.adjusted(6, 0, 0, 0), middle, spoken(sign))
            painter.setPen(theme.colour("text"))
            painter.drawText(box.adjusted(24, 0, 0, 0), middle, spoken(words))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(self.cross(k), Qt.AlignmentFlag.AlignCenter, "✕")
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 1.6))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = int(event.position().y() // _ROW)
        if 0 <= row < len(self.rows):
            if self.cross(row).contains(event.position()):
                self.tool.remove(self.rows[row][0])
            else:
                self._choose(row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        row = self.row_of(self.tool.chosen)
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.rows:
            row += 1 if event.key() == Qt.Key.Key_Down else -1
            self._choose(min(max(row, 0), len(self.rows) - 1))
        elif event.key() == Qt.Key.Key_Delete and row >= 0:
            self.tool.remove(self.rows[row][0])
        else:
            super().keyPressEvent(event)

    def _choose(self, row: int) -> None:
        index = self.rows[row][0][-1]
        shape = self.tool.stencil.shapes[index]
        self.tool.hand = "brush" if isinstance(shape, Stroke) else str(shape.shape)
        self.tool.choose(index)
