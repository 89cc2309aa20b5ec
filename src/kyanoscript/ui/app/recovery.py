"""The quiet line that offers work which an interrupted program left behind."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from kyanoscript.files.kept.journal import Lost
from kyanoscript.files.photos.large import open_for_screen
from kyanoscript.files.photos.photo import Photo
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.opening import Opened, Opening
from kyanoscript.ui.document.keeper import Keeper
from kyanoscript.ui.jobs.lanes import Job, Lane
from kyanoscript.ui.widgets import furniture


class Recovery(QWidget):
    """Hidden while there is nothing to offer."""

    def __init__(self, context: Context, keeper: Keeper, opening: Opening) -> None:
        super().__init__()
        self.context, self._keeper, self._opening = context, keeper, opening
        self._lost: Lost | None = None
        self.setObjectName("bar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(36)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 10, 0)
        self.words = furniture.label("")
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.words, 1)
        self.take_up, self.drop = (
            furniture.word("Take it up", "Open it as it was"),
            furniture.word("Drop it", "Forget it"),
        )
        row.addWidget(self.take_up)
        row.addWidget(self.drop)
        self.hide()
        self.take_up.clicked.connect(self.open_lost)
        self.drop.clicked.connect(self.forget)
        keeper.lost.connect(self.offer)

    def offer(self, lost: Lost) -> None:
        """Show what was found."""
        self._lost = lost
        self.words.setText(spoken(_told(lost)))
        self.show()

    def open_lost(self) -> Job | None:
        """Open the lost work as it was."""
        lost, context = self._lost, self.context
        if lost is None or (context.desk.edited and not self._opening.may_lose()):
            return None

        def work(job: Job) -> Photo:
            return open_for_screen(lost.photo, stopping=lambda: job.stopping)

        def done(photo: Photo) -> None:
            self._opening.put_on_desk(Opened(photo, lost.script, lost.file, lost.digest), safe=False)
            context.foot.say("Taken up where it was left; save it to keep it")
            # The journal of this window has it first, and only then is the old one forgotten.
            self._keeper.write().done.connect(lambda _: self.forget())

        return context.jobs.run(work, Lane.READ, done=done, failed=context.foot.warn)

    def forget(self) -> None:
        """Forget the lost work."""
        lost, self._lost = self._lost, None
        self.hide()
        if lost is not None:
            self.context.jobs.run(lambda _: lost.drop())


def _told(lost: Lost) -> str:
    """What was found, in one line."""
    when, count = datetime.fromtimestamp(lost.when), len(lost.script.passes)
    passes = f"{count} {'pass' if count == 1 else 'passes'}"
    return tr(
        "Work on {name} of {when:%d %B, %H:%M} was not saved ({passes})", name=lost.photo.name, when=when, passes=passes
    )
