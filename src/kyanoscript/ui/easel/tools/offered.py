"""What each part of a gray scene is offered by now, and which of them waits for a tint."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, Signal

from kyanoscript.core.passes.toning.hand_tint import HandTint
from kyanoscript.core.tint import waiting
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.service.requests import Offer, Offers
from kyanoscript.ui.service.service import RenderService


class Offered(QObject):
    """The tints of every part, reckoned anew after every choice."""

    changed = Signal()

    def __init__(self, owner: QObject, desk: Desk, service: RenderService) -> None:
        super().__init__(owner)
        self.desk, self.service = desk, service
        self.turns: dict[str, int] = {}  # which six of its tints a part is offered
        self.before: tuple[waiting.Before, ...] = ()  # what was chosen for other scans of the album
        self.numbers: dict[str, tuple[float, ...]] = {}  # what each part looks like
        self._tints: dict[str, list[str]] = {}
        self._asked: Any = None
        self._offer: Offer | None = None  # what an answer must be to
        desk.script_changed.connect(self.follow)
        desk.selection_changed.connect(self.follow)
        desk.photo_changed.connect(self._forget)
        service.answers(Offers).connect(self._take)

    def of(self, dab: Dab) -> list[str]:
        """The tints that are offered for what lies there; none for a dab that is no part of anything."""
        return self._tints.get(dab.name) or dab.tints.split()

    def know(self, before: list[waiting.Before]) -> None:
        """What was chosen for other scans of the album."""
        self.before = tuple(before)
        self.follow()

    def more(self, name: str) -> None:
        """The next six for a part, and after the last the first again."""
        self.turns[name] = (self.turns.get(name, 0) + 1) % waiting.TURNS
        self.follow()

    def follow(self, *_: object) -> None:
        """Ask what the parts are offered, if anything was chosen that the others go by."""
        step = self.desk.selected_pass
        if not isinstance(step, HandTint) or self.desk.photo is None:
            return
        found = self.desk.taken.get("dabs") if step.auto else step.dabs
        dabs: tuple[Dab, ...] = found if isinstance(found, tuple) else ()
        chosen = tuple((d.name, d.colour) for d in dabs if d.region and not d.guess)
        turns = tuple(sorted((name, turn) for name, turn in self.turns.items() if turn))
        names = tuple(waiting.names(dabs))
        wanted = (self.desk.path, self.desk.selected, chosen, turns, names, self.before)
        if wanted == self._asked:
            return
        self._asked, self._offer = wanted, None
        if not names or not (chosen or turns or self.before):
            if self._tints:
                self._tints = {}
                self.changed.emit()
            return
        script, index = self.desk.entering()
        if step.auto:  # what it took from the picture is its own for this
            own = step.model_copy(update={"dabs": dabs, "auto": False})
            script = replace(script, passes=(*script.passes[:index], own, *script.passes[index + 1 :]))
        self._offer = Offer(script, index, turns, self.before)
        self.service.ask(self._offer)

    def _take(self, found: Offers) -> None:
        if found.offer == self._offer:
            self._tints, self.numbers = found.found
            self.changed.emit()

    def _forget(self) -> None:
        self.turns, self._tints, self.numbers, self.before, self._asked, self._offer = {}, {}, {}, (), None, None
