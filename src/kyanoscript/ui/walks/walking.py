"""Goes along on a walk: shows a step where it happens, sees when it is done, and is left at any time."""

from __future__ import annotations

import functools
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QPoint, QRect, QTimer, Signal
from PySide6.QtWidgets import QWidget

from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.walks.card import Card, Round
from kyanoscript.ui.walks.walk import WALKS, Course, Step, Walk
from kyanoscript.ui.widgets import furniture

_LOOKS = 200  # milliseconds between two looks at whether a step is done


class Walking(QObject):
    """One walk at a time."""

    came = Signal(int)  # to a step
    over = Signal()

    def __init__(self, window: Any) -> None:
        super().__init__(window)
        self.window = window
        self.walk: Walk | None = None
        self.at = 0
        self.course = Course(window)
        self.card, self.round = Card(window), Round(window)
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOKS)
        self._timer.timeout.connect(self._look)
        window.printing.wrote.connect(self._note_files)
        window.desk.photo_changed.connect(self._other_photo)

    def commands(self) -> Handlers:
        """What is done by menu."""
        return {
            command: functools.partial(self.begin, walk) for command, walk in zip(commands.WALKS, WALKS, strict=True)
        }

    @property
    def step(self) -> Step | None:
        """Where it is."""
        return self.walk.steps[self.at] if self.walk is not None and self.at < len(self.walk.steps) else None

    def offer(self) -> None:
        """To somebody who is here for the first time: which way to go."""
        ways: list[QWidget] = []
        for walk in WALKS:
            ways.append(furniture.word(walk.title, walk.about, act=functools.partial(self.begin, walk)))
            ways.append(furniture.wrapped(walk.about))
        self.card.tell(
            "Here for the first time?",
            "Three walks, of five steps each, on photographs that came with the program:",
            [furniture.word("Not now", "They are in the menu Help", act=self.leave)],
            ways,
        )
        self.card.lie_beside(None)

    def begin(self, walk: Walk) -> None:
        """Open its photograph, and go."""
        self.leave()
        job = self.window.opening.open(walk.photo, walk.script)
        if job is None:
            return
        self.window.registry.go(self.window.bench)

        def opened(_: object) -> None:
            self.walk = walk
            self.course = Course(self.window)
            self._timer.start()
            self._come(0)

        job.done.connect(opened)

    def go_on(self) -> None:
        """The next step, though this one may not be done."""
        self._come(self.at + 1)

    def do(self) -> None:
        """The program does the step."""
        if self.step is not None:
            self.step.do(self.course)

    def leave(self) -> None:
        """It is over, wherever it was; what was done stays."""
        self._timer.stop()
        self.walk, self.at = None, 0
        self.card.hide()
        self.round.hide()
        self.over.emit()

    def _come(self, at: int) -> None:
        walk = self.walk
        assert walk is not None
        self.at, self.course.wrote = at, []
        step = self.step
        if step is None:
            self._arrive(walk)
            return
        step.prepare(self.course)
        self.course.before = step.note(self.course)
        words = [
            furniture.word("Show me", "The program does this step", act=self.do),
            furniture.word("Next step", "Go on, though this one is not done", act=self.go_on),
            furniture.word("Leave", "The walk is over; what was done stays", act=self.leave),
        ]
        self.card.tell(
            tr("{title}: {at} of {count}", title=walk.title, at=at + 1, count=len(walk.steps)), step.words, words
        )
        self._lay()
        self.came.emit(at)

    def _arrive(self, walk: Walk) -> None:
        self._timer.stop()
        self.round.hide()
        at = WALKS.index(walk) + 1
        words = [furniture.word("Leave", "The walk is over; what was done stays", act=self.leave)]
        if at < len(WALKS):
            following = WALKS[at]
            words.insert(0, furniture.word(tr('Next: {title}', title=following.title), following.about,
                                           act=functools.partial(self.begin, following)))  # fmt: skip
        self.card.tell(
            tr("{title}: done", title=walk.title),
            "The guide (F1) tells the rest, at the place of every control.",
            words,
        )
        self.card.lie_beside(None)

    def _look(self) -> None:
        """Whether the step is done; and where it is told now."""
        step = self.step
        if step is None:
            return
        if step.done(self.course):
            self._come(self.at + 1)
        else:
            self._lay()

    def _lay(self) -> None:
        step = self.step
        place = step.where(self.course) if step is not None else None
        widget, part = place if isinstance(place, tuple) else (place, QRect())
        box = None
        if widget is not None and widget.isVisible():
            seen = widget.visibleRegion().boundingRect()
            seen = seen & part if not part.isNull() else seen
            if not seen.isEmpty():
                box = QRect(widget.mapTo(self.window, QPoint(0, 0)) + seen.topLeft(), seen.size())
        self.round.lie_round(box)
        self.card.lie_beside(box)
        self.card.raise_()

    def _other_photo(self) -> None:
        """Something else is opened: whoever does that goes a way of their own."""
        photo = self.window.desk.photo
        if self.walk is not None and (photo is None or photo.path != self.walk.photo):
            self.leave()

    def _note_files(self, files: tuple[Path, ...]) -> None:
        self.course.wrote += files
