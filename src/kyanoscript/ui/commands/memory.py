"""How much memory the program may fill with what it has worked out."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QButtonGroup, QDialog, QDialogButtonBox, QRadioButton, QVBoxLayout

from kyanoscript.core import machine
from kyanoscript.translation import spoken, tr, trn
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.service import budget
from kyanoscript.ui.widgets import furniture


class Memory(QObject):
    """The budget that was chosen."""

    changed = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.choice = 0  # megabytes; 0: as the machine has room

    def commands(self) -> Handlers:
        """What is done by menu."""
        return {commands.MEMORY: self.ask}

    def use(self, choice: int) -> None:
        """Keep no more than so many megabytes from now on; 0: as the machine has room."""
        self.choice = choice if choice in budget.CHOICES else 0
        self.context.service.set_budget((self.choice or budget.automatic()) << 20)

    def ask(self) -> None:
        """Let it be chosen."""
        dialog = MemoryDialog(self)
        if dialog.exec() and dialog.choice() != self.choice:
            self.use(dialog.choice())
            self.changed.emit()


class MemoryDialog(QDialog):
    """One of a few amounts."""

    def __init__(self, memory: Memory) -> None:
        super().__init__(memory.context.top)
        self.setWindowTitle(spoken("Memory"))
        self.setMinimumWidth(440)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(8)
        column.addWidget(furniture.title("Memory"))
        count, room = machine.processors(), machine.memory() / (1 << 30)
        column.addWidget(
            furniture.wrapped(
                trn(
                    "What has been worked out is kept, so that it comes back at once. Less leaves "
                    "room for other programs. This machine gives {count} processor and {room:.1f} "
                    "GB; now {kept:.0f} MB are kept, beside the photograph.",
                    "What has been worked out is kept, so that it comes back at once. Less leaves "
                    "room for other programs. This machine gives {count} processors and {room:.1f} "
                    "GB; now {kept:.0f} MB are kept, beside the photograph.",
                    count,
                    count=count,
                    room=room,
                    kept=memory.context.service.kept / (1 << 20),
                )
            )
        )
        self.buttons = QButtonGroup(self)
        for amount in (0, *budget.CHOICES):
            told = budget.words(amount or budget.automatic())
            button = QRadioButton(spoken(told if amount else tr("As the machine has room: {told}", told=told)))
            button.setChecked(amount == memory.choice)
            self.buttons.addButton(button, amount)
            column.addWidget(button)
        ends = QDialogButtonBox()
        ends.addButton(spoken("Keep so much"), QDialogButtonBox.ButtonRole.AcceptRole).setObjectName("main")
        ends.addButton(spoken("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
        ends.accepted.connect(self.accept)
        ends.rejected.connect(self.reject)
        column.addSpacing(6)
        column.addWidget(ends)

    def choice(self) -> int:
        """Megabytes; 0: as the machine has room."""
        return self.buttons.checkedId()
