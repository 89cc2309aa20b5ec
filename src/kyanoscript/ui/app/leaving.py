"""The end of a window: what is under way is cancelled and waited for, and what takes too long is said."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QMessageBox

from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import until

_PATIENCE = 2.0  # seconds that closing may take without a word


def leave(context: Context) -> bool:
    """End all threads; whether something was left at work because it was not to be waited for."""
    context.jobs.end()
    context.service.end()
    if until(lambda: not _left(context), _PATIENCE, hands=False):
        return False
    return _wait_or_leave(context)


def _left(context: Context) -> list[str]:
    """What has not ended yet, in words."""
    return [*context.jobs.left(), *context.service.left()]


def _wait_or_leave(context: Context) -> bool:
    """Say what closing waits for, and offer to go without it."""
    box = QMessageBox(context.top)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setText(f"Still at work: {', '.join(dict.fromkeys(_left(context)))}.")
    box.setInformativeText("Your script is safe. The window closes as soon as this has stopped.")
    box.addButton("Leave now", QMessageBox.ButtonRole.AcceptRole)
    beat = QTimer(box)
    beat.timeout.connect(lambda: None if _left(context) else box.accept())
    beat.start(50)
    box.exec()
    return bool(_left(context))
