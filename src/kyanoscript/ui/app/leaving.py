"""The end of a window: what is under way is cancelled and waited for, and what takes too long is said."""

from __future__ import annotations

import atexit
import contextlib
import weakref
from typing import Protocol

import shiboken6
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QMessageBox

from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.widgets.plain import question

_PATIENCE = 2.0  # seconds that closing may take without a word


class Ends(Protocol):
    """A window that can be ended without a question."""

    @property
    def closed(self) -> bool:
        """Whether it has been closed."""

    def end_at_once(self) -> None:
        """Put what was done into the journal, and listen no longer."""


_open: weakref.WeakSet[Ends] = weakref.WeakSet()


def never_left_open(window: Ends) -> None:
    """Have a window ended when the program is left by a fault: what it listens to goes before it does."""
    _open.add(window)


@atexit.register
def _end_those_open() -> None:  # before their threads are: see `core.ending`
    for window in list(_open):
        if shiboken6.isValid(window) and not window.closed:
            with contextlib.suppress(RuntimeError):  # no thread is started any more
                window.end_at_once()


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
    said = tr("Still at work: {join}.", join=", ".join(dict.fromkeys(_left(context))))
    box = question(context.top, said, "Your script is safe. The window closes as soon as this has stopped.")
    box.addButton(spoken("Leave now"), QMessageBox.ButtonRole.AcceptRole)
    beat = QTimer(box)
    beat.timeout.connect(lambda: None if _left(context) else box.accept())
    beat.start(50)
    box.exec()
    return bool(_left(context))
