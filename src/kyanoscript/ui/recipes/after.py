"""A print that is followed: its picture is read and compared, what is found is shown on this photograph, and used."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from kyanoscript.core.after.following import Followed
from kyanoscript.core.after.picture import Array, Ladder, ladder
from kyanoscript.core.colour import SRGB, to_lab
from kyanoscript.core.script import Script
from kyanoscript.core.watching import GivenUp, while_wanted
from kyanoscript.files.base.errors import Cancelled
from kyanoscript.files.base.opening import PICTURES
from kyanoscript.files.kept.after import followed, planes_of
from kyanoscript.files.kept.cookbook import Cookbook
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.easel.wall import Piece
from kyanoscript.ui.jobs.lanes import Job, Lane
from kyanoscript.ui.recipes.afterpage import AfterPage
from kyanoscript.ui.recipes.pair import Pair
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Thumbnail

_SHOWN = 1200  # pixels of the longer side of the picture that is shown
_ITEM = 20_000  # of the wall: states have numbers of their own
_SMALL = (300, 300)  # of the print whose ladder is told


@dataclass(frozen=True, eq=False)
class _Read:
    """What came of a picture."""

    followed: Followed
    shown: display.Pixels
    light: Array


class Following(QObject):
    """One print at a time."""

    changed = Signal()  # it comes, or is gone
    used = Signal(str, object, int)  # what was done, the Script it gives, the tray to choose

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context, self.desk = context, context.desk
        self.path: Path | None = None  # the picture that is followed
        self.followed: Followed | None = None
        self.chosen: dict[str, tuple[bool, float]] = {}
        self.running: Job | None = None
        self.page, self.pair = AfterPage(), Pair(context.desk, context.service)
        self.nothing = QWidget()
        self.nothing.setFixedWidth(1)
        self._tag: tuple[int, int] = (id(self), 0)
        self.page.ticked.connect(self.tick)
        self.page.strength.connect(self.strengthen)
        self.page.refused.connect(context.foot.say)
        self.page.acts |= {"use": self.use, "back": self.stop, "another": self.ask}
        context.service.answers(Thumbnail).connect(self._proof)
        self.desk.photo_changed.connect(lambda *_: self.stop())

    # Which print

    def ask(self) -> None:
        """Ask for its picture."""
        start = str(self.context.folders.files)
        kinds = tr("Pictures ({pictures});;All files (*)", pictures=PICTURES)
        name, _ = QFileDialog.getOpenFileName(self.context.top, spoken("The print to follow"), start, kinds)
        if name:
            self.follow(Path(name))

    def follow(self, path: Path) -> None:
        """Look at a picture; what is on the screen stays until it is there."""
        photo = self.desk.photo
        if photo is None:
            return
        if self.running is not None:
            self.running.cancel()
        self.path, self.followed, base = path, None, self.desk.script
        source = photo.source

        def work(job: Job) -> _Read:
            try:
                with while_wanted(lambda: not job.stopping):
                    print_ = open_photo(path).source
                    found = followed(print_, source, base, Cookbook().read().recipes)
                    shown = planes_of(print_, Script(), _SHOWN)
                    return _Read(found, display.screen().shown(shown, SRGB), to_lab(shown, SRGB)[0].ravel())
            except GivenUp:
                raise Cancelled from None

        self.page.show_waiting(path.name)
        self.pair.set_mat(self.context.easel.mat)
        self.pair.still.show_picture(None, tr("Looking at {name}…", name=path.name))
        self.pair.theirs.show_print(None, None)
        self.pair.own.show_print(None, None)
        self._show_script(self.script())
        self.running = job = self.context.jobs.run(work, Lane.READ)
        job.done.connect(lambda read: self._read(job, read))
        job.failed.connect(lambda words: self._failed(job, words))
        self.changed.emit()

    def _read(self, job: Job, read: _Read) -> None:
        if job is not self.running:
            return
        self.running = None
        self.followed = read.followed
        self.chosen = {one.key: (one.on, one.strength) for one in read.followed.found}
        self.pair.still.show_picture(display.image(read.shown))
        self.pair.theirs.show_print(read.followed.ladder, read.light)
        self._show()
        self.context.foot.say("What was found is laid on this photograph; untick what is not wanted")

    def _failed(self, job: Job, words: str) -> None:
        if job is self.running:
            self.running = None
            self.stop()
            self.context.foot.warn(words)

    def stop(self) -> None:
        """Follow nothing any more."""
        if self.running is not None:
            self.running.cancel()
            self.running = None
        if self.path is not None:
            self.path = self.followed = None
            self.context.service.forget("hang")
            self.changed.emit()

    # What is wanted of it

    def script(self) -> Script:
        """The run that is proposed, on this photograph."""
        base = self.desk.script
        if self.followed is None:
            return Script(frame=base.frame, develop=base.develop)
        return self.followed.script(base, self.chosen)

    def tick(self, key: str, on: bool) -> None:
        """It is wanted, or not."""
        self.chosen[key] = (on, self.chosen[key][1])
        self._show()

    def strengthen(self, key: str, strength: float) -> None:
        """As strong as this."""
        self.chosen[key] = (self.chosen[key][0], strength)
        self._show_script(self.script())

    def hold(self, script: Script | None) -> None:
        """Another print in the place of this one, until called with None."""
        self.pair.wall.hold(_ITEM, script)

    def use(self) -> None:
        """Onto the bench."""
        if self.followed is not None and self.path is not None:
            name, script = self.path.name, self.script()
            self.stop()
            self.used.emit(tr("After {name}", name=name), script, len(script.passes) - 1)

    # Showing

    def enter(self) -> None:
        """The view comes, or comes back."""
        if self.path is not None:
            self._show_script(self.script())

    def _show(self) -> None:
        if self.followed is not None and self.path is not None:
            self.page.show_found(self.path.name, self.followed, self.chosen)
            self._show_script(self.script())

    def _show_script(self, script: Script) -> None:
        self.pair.wall.show_pieces(
            [Piece(_ITEM, Script(script.passes, script.frame, script.stencils, develop=script.develop))], _ITEM
        )
        self._tag = (id(self), self._tag[1] + 1)
        self.context.service.ask_instead(PROOFS, proofs(self._tag, {"after": script}, _SMALL))

    def _proof(self, proof: Thumbnail) -> None:
        if proof.tag != self._tag or self.path is None:
            return

        def work(_job: Job) -> tuple[Ladder, Array]:
            rgb = np.moveaxis(proof.pixels[..., 2::-1].astype(np.float32) / 255, -1, 0)
            lab = to_lab(np.ascontiguousarray(rgb), SRGB).reshape(3, -1)
            return ladder(lab), lab[0]

        def show(told: tuple[Ladder, Array]) -> None:
            if proof.tag == self._tag and self.path is not None:
                self.pair.own.show_print(*told)

        self.context.jobs.run(work, Lane.READ, show)
