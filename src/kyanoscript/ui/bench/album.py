"""What tints were chosen for the scans of an album, read and kept while one of them is coloured."""

from __future__ import annotations

from kyanoscript.core.passes.toning.hand_tint import HandTint
from kyanoscript.core.tint.waiting import Before
from kyanoscript.files.kept.album import Choice, chosen_in, keep
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Job


class Album:
    """Scans of one folder belong together: what was chosen for one is offered first for the others."""

    def __init__(self, context: Context) -> None:
        self.context = context
        self._offered = context.easel.dabs.offered
        self._kept: list[Choice] = []  # of the scan that is open, as it was kept last
        context.desk.photo_changed.connect(self._read)
        self._offered.changed.connect(self._keep)

    def _read(self) -> None:
        photo = self.context.desk.photo
        self._kept = []
        if photo is None:
            return
        path = photo.path.absolute()

        def found(choices: list[Choice]) -> None:
            now = self.context.desk.photo
            if now is not None and now.path.absolute() == path:
                self._offered.know([Before(one.part, one.tint, one.numbers) for one in choices])

        def read(_: Job) -> list[Choice]:
            return [one for one in chosen_in(path.parent) if one.photo != path.name]

        self.context.jobs.run(read, done=found)

    def _keep(self) -> None:
        """What the hand has chosen by now, of which it is known what it looks like."""
        photo, step = self.context.desk.photo, self.context.desk.selected_pass
        if photo is None or not isinstance(step, HandTint):
            return
        numbers = self._offered.numbers
        first = {dab.name: dab for dab in reversed(step.dabs) if dab.region and not dab.guess and dab.name in numbers}
        made = [Choice(photo.path.name, name, dab.colour, numbers[name]) for name, dab in sorted(first.items())]
        if made and made != self._kept:
            self._kept, path = made, photo.path.absolute()
            self.context.jobs.run(lambda _: keep(path.parent, path.name, made))
