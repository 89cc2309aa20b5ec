"""The monitor's profile: found, chosen by hand, or none."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QHBoxLayout,
    QRadioButton,
    QVBoxLayout,
)  # fmt: skip

from kyanoscript.files.colour import monitors
from kyanoscript.files.colour.monitors import MonitorProfile
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.jobs.lanes import Job, Lane
from kyanoscript.ui.service import display
from kyanoscript.ui.service.results import Survey
from kyanoscript.ui.widgets import furniture

FOUND, SRGB = "found", "srgb"
_WORTH_SAYING = 0.01
_NO_SCREEN = ("offscreen", "minimal")  # Qt's platforms that show nothing to anybody


class Monitor(QObject):
    """Which profile everything is shown through."""

    changed = Signal()  # the choice, to be remembered

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.choice = FOUND  # or `SRGB`, or the file of a profile
        self.found: MonitorProfile | None = None
        self.look_for: Callable[[str], MonitorProfile | None] = monitors.find
        self._shown = b""
        self._told: object = None  # the photograph of which it was said that the monitor cannot show all of it
        context.service.answers(Survey).connect(self._tell)

    def commands(self) -> Handlers:
        """What is done by menu."""
        return {commands.MONITOR: self.ask}

    def start(self, choice: str) -> Job | None:
        """As it was chosen the last time."""
        self.choice = choice
        return self.use(choice) if choice != FOUND or QGuiApplication.platformName() not in _NO_SCREEN else None

    def use(self, choice: str) -> Job:
        """Show everything so from now on."""
        screen = self.context.top.screen()
        name = screen.name() if screen is not None else ""

        def work(_: Job) -> MonitorProfile | None:
            if choice == SRGB:
                return None
            return self.look_for(name) if choice == FOUND else monitors.read(Path(choice))

        def done(profile: MonitorProfile | None) -> None:
            if choice == FOUND:
                self.found = profile
            self._show(choice, profile)

        return self.context.jobs.run(work, Lane.SHORT, done=done, failed=self.context.foot.warn)

    def _show(self, choice: str, profile: MonitorProfile | None) -> None:
        data = profile.data if profile is not None else b""
        try:
            display.set_monitor(data)
        except ValueError as error:
            where = profile.where if profile is not None else ""
            self.context.foot.say(
                tr("{name}: {error}. Choose another profile", name=Path(where).name, error=error),
                warning=True,
                stay=True,
            )
            return
        before, self.choice = self.choice, choice
        if data != self._shown:
            self._shown, self._told = data, None
            self.context.foot.say("")
            desk = self.context.desk
            if desk.photo is not None:
                desk.exchange(desk.photo)  # everything on the screen is worked out anew
        if choice != before:
            self.changed.emit()

    def _tell(self, survey: Survey) -> None:
        """Say once, quietly, that a photograph holds more colour than is shown."""
        photo = self.context.desk.photo
        if survey.unseen >= _WORTH_SAYING and photo is not self._told and not self.context.foot.message.text():
            self._told = photo
            what = "sRGB" if not self._shown else "this monitor"
            self.context.foot.say(
                tr(
                    "{unseen:.0%} of this print is more colourful than {what} shows", unseen=survey.unseen, what=what
                ).replace("%", " %")
            )

    def words(self) -> str:
        """What everything is shown through, for people."""
        if self.choice == SRGB:
            return "as an sRGB monitor"
        if self.choice != FOUND:
            return Path(self.choice).name
        return self.found.name if self.found is not None else "none was found; as an sRGB monitor"

    def ask(self) -> None:
        """Let it be chosen."""
        dialog = MonitorDialog(self)
        if dialog.exec() and dialog.choice() != self.choice:
            self.use(dialog.choice())


class MonitorDialog(QDialog):
    """Found, sRGB, or a file."""

    def __init__(self, monitor: Monitor) -> None:
        super().__init__(monitor.context.top)
        self.setWindowTitle(spoken("Monitor"))
        self.setMinimumWidth(440)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(8)
        column.addWidget(furniture.title("Monitor"))
        column.addWidget(
            furniture.wrapped("Colours are shown through the monitor's profile, so that they look as they will print.")
        )
        self._file = monitor.choice if monitor.choice not in (FOUND, SRGB) else ""
        found = monitor.found
        told = (
            tr("{name}, from {where}", name=found.name, where=found.where)
            if found is not None
            else "none, and sRGB is taken"
        )
        self.as_found = QRadioButton(tr("The one that is found: {told}", told=told))
        self.as_srgb = QRadioButton(spoken("sRGB"))
        self.as_file = QRadioButton(
            spoken(tr("A file: {name}", name=Path(self._file).name) if self._file else "A file…")
        )
        together = QButtonGroup(self)
        row = QHBoxLayout()
        row.addWidget(self.as_file, 1)
        other = furniture.word("Choose…", "A colour profile made for this monitor", act=self._browse)
        row.addWidget(other)
        for button in (self.as_found, self.as_srgb):
            together.addButton(button)
            column.addWidget(button)
        together.addButton(self.as_file)
        column.addLayout(row)
        self.as_file.setEnabled(bool(self._file))
        {FOUND: self.as_found, SRGB: self.as_srgb}.get(monitor.choice, self.as_file).setChecked(True)
        buttons = QDialogButtonBox()
        buttons.addButton(spoken("Show so"), QDialogButtonBox.ButtonRole.AcceptRole).setObjectName("main")
        buttons.addButton(spoken("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addSpacing(6)
        column.addWidget(buttons)

    def _browse(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, spoken("A monitor's profile"), self._file, "Colour profiles (*.icc *.icm)"
        )
        if name:
            self.take(name)

    def take(self, name: str) -> None:
        """The file of a profile."""
        self._file = name
        self.as_file.setText(tr("A file: {name}", name=Path(name).name))
        self.as_file.setEnabled(True)
        self.as_file.setChecked(True)

    def choice(self) -> str:
        """What is chosen."""
        return FOUND if self.as_found.isChecked() else SRGB if self.as_srgb.isChecked() else self._file
