"""The left side of the Recipes view: a line to search by, the groups, and files that could not be read."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QSizePolicy,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from kyanoscript.files.kept.cookbook import Contents
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import hint, tip

ALL = "all"
_COUNT = Qt.ItemDataRole.UserRole + 1


class Groups(QWidget):
    """Which recipes are shown."""

    asked = Signal()  # another group, or other words
    down = Signal()  # from the line to search by into the recipes
    bring_in = Signal()
    follow = Signal()  # a print is to be followed

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(132)
        self._wanted = ""  # a group that was to be chosen, and was not there yet
        self.setAccessibleName(spoken("Groups of recipes"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 10)
        column.setSpacing(8)
        self.search = QLineEdit()
        self.search.setFont(theme.sans(13))
        self.search.setPlaceholderText(spoken("Search"))
        self.search.setAccessibleName(spoken("Search the recipes"))
        hint(self.search, "A word of the trade: lith, warm, old photo")
        self.search.setMaxLength(200)
        self.search.setClearButtonEnabled(False)
        self.search.textChanged.connect(self.asked)
        self.search.returnPressed.connect(self.down)
        column.addLayout(_inset(self.search))
        self.list = QListWidget()
        self.list.setFont(theme.sans(13))
        self.list.setItemDelegate(_Line(self.list))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName(spoken("Groups"))
        hint(self.list, "Which recipes are shown")
        self.list.currentRowChanged.connect(lambda _: self.asked.emit())
        column.addWidget(self.list, 1)
        self.broken = furniture.wrapped("")
        self.broken.setObjectName("warning")
        self.broken.hide()
        column.addLayout(_inset(self.broken))
        self.take_in = furniture.word("Import…", "A recipe's file into your own recipes", act=self.bring_in)
        column.addLayout(_inset(self.take_in))
        self.after = furniture.word(
            "After a print…", "Make this photograph look like an earlier print: a scan, a page", act=self.follow
        )
        column.addLayout(_inset(self.after))

    @property
    def group(self) -> str:
        """The group that is chosen, or `ALL`."""
        item = self.list.currentItem()
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else ALL

    def choose(self, group: str) -> None:
        """Choose a group; all, if it is not there: then it is chosen once it is."""
        rows = [k for k in range(self.list.count()) if self.list.item(k).data(Qt.ItemDataRole.UserRole) == group]
        self._wanted = "" if rows else group
        self.list.setCurrentRow(rows[0] if rows else 0)

    def show_contents(self, contents: Contents) -> None:
        """The groups that there are."""
        present = self._wanted or self.group
        counts: dict[str, int] = {}
        for recipe in contents.recipes:
            counts[recipe.group] = counts.get(recipe.group, 0) + 1
        with QSignalBlocker(self.list):
            self.list.clear()
            for name, count in ((ALL, len(contents.recipes)), *counts.items()):
                item = QListWidgetItem(spoken(name.capitalize() if name.islower() else name))
                item.setData(Qt.ItemDataRole.UserRole, name)
                item.setData(_COUNT, count)
                tip(item, f"{item.text()}: {count}")
                self.list.addItem(item)
        self.choose(present)
        count = len(contents.broken)
        self.broken.setVisible(bool(count))
        first = contents.broken[0].split(":")[0] if count else ""
        self.broken.setText(
            spoken(
                tr("Not read: {first}", first=first) + (tr(" and {count} more", count=count - 1) if count > 1 else "")
            )
        )
        tip(self.broken, "\n".join(contents.broken))


class _Line(QStyledItemDelegate):
    """The name of a group, and how many there are."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        owner = self.parent()
        assert isinstance(owner, QListWidget)
        chosen = index.row() == owner.currentRow()
        box = option.rect
        if chosen:
            painter.fillRect(box, theme.colour("soft"))
            painter.fillRect(box.x(), box.y(), 3, box.height(), theme.colour("accent"))
            if owner.hasFocus():
                painter.setPen(theme.colour("accent"))
                painter.drawRect(box.adjusted(0, 0, -1, -1))
        painter.setFont(theme.sans(13))
        inner = box.adjusted(16, 0, -14, 0)
        count = str(index.data(_COUNT))
        room = inner.width() - painter.fontMetrics().horizontalAdvance(spoken(count)) - 8
        painter.setPen(theme.colour("text"))
        name = painter.fontMetrics().elidedText(spoken(str(index.data())), Qt.TextElideMode.ElideRight, room)
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, spoken(name))
        painter.setPen(theme.colour("quiet"))
        painter.drawText(inner, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, spoken(count))


def _inset(widget: QWidget) -> QVBoxLayout:
    row = QVBoxLayout()
    row.setContentsMargins(12, 0, 12, 0)
    if isinstance(widget, QLineEdit):
        widget.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    row.addWidget(widget)
    return row
