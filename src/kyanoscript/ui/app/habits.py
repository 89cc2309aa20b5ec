"""What is remembered from one time to the next: window, look, mat, inks, folders, recent files."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QStandardPaths
from PySide6.QtWidgets import QMenu

from kyanoscript import demo
from kyanoscript.files.kept import recently
from kyanoscript.files.kept.remembered import Remembered, remember
from kyanoscript.ui.bench.slip.slip import Slip
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.looking import Looking
from kyanoscript.ui.commands.memory import Memory
from kyanoscript.ui.commands.monitor import Monitor
from kyanoscript.ui.commands.opening import Opening
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.plain import tip


class Habits(QObject):
    """Puts things as they were left, and writes down how they are."""

    def __init__(
        self,
        context: Context,
        looking: Looking,
        opening: Opening,
        monitor: Monitor,
        memory: Memory,
        slip: Slip,
        recent: QMenu,
        remembered: Remembered,
        keeps: bool,
    ) -> None:
        super().__init__()
        self.context, self._looking, self._opening, self._slip = context, looking, opening, slip
        self._monitor, self._memory = monitor, memory
        monitor.changed.connect(self.keep)
        memory.changed.connect(self.keep)
        self.recent, self._remembered = recent, remembered
        self._keeps = keeps  # whether what is done here is remembered for the next start
        slip.inks_changed.connect(self.keep)
        opening.opened.connect(self._add_recent)
        context.folders.files = _folder_of(remembered.folder)
        context.top.resize(*remembered.size)
        context.easel.inset = remembered.inset
        slip.inks = remembered.inks
        if remembered.mat in theme.MATS:
            context.easel.mat = remembered.mat
        looking.use_look(remembered.look)
        monitor.start(remembered.monitor)
        memory.use(remembered.memory)
        self._fill_recent()

    @property
    def files(self) -> tuple[str, ...]:
        """Those that were opened last, the latest first."""
        return self._remembered.recent

    def _fill_recent(self) -> None:
        self.recent.clear()
        for name in self._remembered.recent:
            made = self.recent.addAction(Path(name).name)
            tip(made, name)
            made.triggered.connect(lambda _=False, path=Path(name): self._opening.open(path))
        self.recent.setEnabled(bool(self._remembered.recent))

    def _add_recent(self, path: Path) -> None:
        self._remembered = self.as_left().with_recent(path)
        if self._keeps:
            self.context.jobs.run(lambda _: recently.add(path), Lane.DESKTOP)
        self._fill_recent()
        self._write()

    def keep(self) -> None:
        """Write down how things are."""
        self._remembered = self.as_left()
        self._write()

    def _write(self) -> None:
        state = self._remembered
        if self._keeps:
            self.context.jobs.run(lambda _: remember(state))

    def keep_last(self) -> None:
        """The same, when the window closes."""
        state = self.as_left()
        if self._keeps:
            self.context.jobs.last(lambda: remember(state))

    def as_left(self) -> Remembered:
        """How things are."""
        top, easel = self.context.top.window(), self.context.easel
        size = top.size() if not top.isMaximized() else top.normalGeometry().size()
        return Remembered(
            self._remembered.recent,
            (size.width(), size.height()),
            top.isMaximized(),
            self._looking.look,
            easel.mat,
            easel.inset,
            self._slip.inks,
            str(self.context.folders.files),
            self._monitor.choice,
            self._memory.choice,
        )


def _folder_of(remembered: str) -> Path:
    """Where files are looked for first: as remembered, or the person's pictures."""
    pictures = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.PicturesLocation)
    places = (Path(name) for name in (remembered, pictures) if name)
    return next((place for place in places if place.is_dir() and not demo.holds(place / "x")), Path.home())
