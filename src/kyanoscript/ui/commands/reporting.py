"""*What to send* when something goes wrong: looked through before anything is written, and sent by hand alone."""

from __future__ import annotations

import platform
from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice, QObject, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QCheckBox, QDialog, QDialogButtonBox, QFileDialog, QPlainTextEdit, QVBoxLayout, QWidget

from kyanoscript.core import machine
from kyanoscript.files.kept import report
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.jobs.lanes import Job
from kyanoscript.ui.widgets import furniture, theme

_SIDE = 1024  # pixels of the picture, at most


class Reporting(QObject):
    """Asks what goes along, and writes it."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context

    def commands(self) -> Handlers:
        """What is done by menu."""
        return {commands.REPORT: self.ask}

    def ask(self) -> None:
        """Show what a report holds, then where it is to lie."""
        dialog = ReportDialog(self.context.top, self.words(), self.context.desk.photo is not None)
        if not dialog.exec():
            return
        start = (self.context.folders.files or Path.home()) / "kyanoscript-report.zip"
        name, _ = QFileDialog.getSaveFileName(
            self.context.top, spoken("Keep the report"), str(start), "ZIP files (*.zip)"
        )
        if name:
            self.keep(Path(name), dialog.pictured.isChecked())

    def keep(self, target: Path, pictured: bool) -> Job:
        """Write it."""
        target = target if target.suffix else target.with_suffix(".zip")
        desk, facts, picture = self.context.desk, self.facts(), b""
        if pictured and not self.context.easel.image.isNull():
            picture = _png(self.context.easel.image)
        script = desk.script if desk.photo is not None else None
        foot = self.context.foot
        return self.context.jobs.run(
            lambda _: report.write(target, report.contents(facts, script, picture)),
            done=lambda _: foot.say(tr("Wrote {name}; nothing has been sent", name=target.name)),
            failed=lambda said: foot.say(said, warning=True),
        )

    def facts(self) -> list[tuple[str, str]]:
        """Of the program and of the machine."""
        from kyanoscript.ui.widgets.about import facts

        screen = QGuiApplication.primaryScreen()
        size, ratio = screen.size(), screen.devicePixelRatio()
        return [
            *facts(),
            ("System", f"{platform.system()} {platform.release()}, {platform.machine()}"),
            ("Window system", QGuiApplication.platformName()),
            ("Screen", tr("{size} × {size2}, {ratio:g} times", size=size.width(), size2=size.height(), ratio=ratio)),
            (
                "Machine",
                tr(
                    "{machine} processors, {machine2:.1f} GB of memory",
                    machine=machine.processors(),
                    machine2=machine.memory() / (1 << 30),
                ),
            ),
        ]

    def words(self) -> str:
        """What goes along, as it is read before."""
        return "\n".join(f"{name}: {value}" for name, value in self.facts())


class ReportDialog(QDialog):
    """What a report holds; the picture only where it is ticked."""

    def __init__(self, parent: QWidget, words: str, has_print: bool) -> None:
        super().__init__(parent)
        self.setWindowTitle(spoken("What to send"))
        self.setMinimumWidth(520)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(8)
        column.addWidget(furniture.title("What to send"))
        column.addWidget(
            furniture.wrapped(
                "When something goes wrong, this helps to find out why: one file with the lines below, the log and the "
                "script on the bench. It is written where you choose, and sent by nobody but you. It names files of "
                "yours; look it through before you hand it on."
            )
        )
        told = QPlainTextEdit(words)
        told.setReadOnly(True)
        told.setAccessibleName(spoken("Versions and machine"))
        told.setFont(theme.sans(12))
        told.setFixedHeight(176)
        column.addWidget(told)
        self.pictured = QCheckBox(spoken("And the print as it is on the easel, small"))
        self.pictured.setEnabled(has_print)
        column.addWidget(self.pictured)
        buttons = QDialogButtonBox()
        buttons.addButton(spoken("Keep as a file…"), QDialogButtonBox.ButtonRole.AcceptRole).setObjectName("main")
        buttons.addButton(spoken("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addSpacing(6)
        column.addWidget(buttons)


def _png(image: QImage) -> bytes:
    small = image
    if max(image.width(), image.height()) > _SIDE:
        keep, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        small = image.scaled(_SIDE, _SIDE, keep, smooth)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    small.save(buffer, "PNG")  # type: ignore[call-overload]  # its stub has the format as bytes
    return bytes(buffer.data().data())
