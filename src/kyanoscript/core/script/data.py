"""The script: everything done to a photograph, as frozen data."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script.identity import identified
from kyanoscript.core.script.walk import acting, mapped, walk
from kyanoscript.core.stencil.shapes import Stencil

MOST_PASSES = 1000  # that act, plates' own passes counted; an easel with more of them would not answer


@dataclass(frozen=True)
class Script:
    """The frame, then the passes in the order in which the print travels through them.

    A pass's stencil may be the name of one of ``stencils``, which several passes then share. Every pass has an identity
    of its own in it (see `identity`).
    """

    passes: tuple[Pass, ...] = field(default=())
    frame: Frame = field(default=Frame())
    stencils: tuple[tuple[str, Stencil], ...] = field(default=())
    sheets: tuple[tuple[str, Sheet], ...] = field(default=())  # papers that the print is laid on, by name
    states: tuple[State, ...] = field(default=())  # kept versions, in the order in which they were kept
    develop: Develop = field(default=Develop())  # of a camera's raw; says nothing of other photographs
    origin: int = 0  # the number of the state that it was made from; 0: it goes back to the photograph

    def __post_init__(self) -> None:
        run = identified(self.passes)
        if run is not self.passes:
            object.__setattr__(self, "passes", run)

    def settled(self) -> Script:
        """The script with every named stencil put in its place."""
        if not self.stencils:
            return self
        known = dict(self.stencils)

        def settle(step: Pass) -> Pass:
            if not isinstance(step.stencil, str):
                return step
            return step.model_copy(update={"stencil": known.get(step.stencil)})

        return replace(self, passes=mapped(self.passes, settle))

    def run(self, path: tuple[int, ...] = ()) -> tuple[Pass, ...]:
        """The passes of a plate's own run; ``path`` are the places of the plates on the way there, outermost first."""
        run = self.passes
        for k in path:
            run = run[k].run
        return run

    def with_run(self, path: tuple[int, ...], passes: Iterable[Pass]) -> Script:
        """The script with other passes in a plate's own run."""
        made = tuple(passes)
        for depth in range(len(path) - 1, -1, -1):
            outer, k = self.run(path[:depth]), path[depth]
            made = (*outer[:k], outer[k].model_copy(update={"run": made}), *outer[k + 1 :])
        return replace(self, passes=made)

    def unrolled(self, path: tuple[int, ...]) -> tuple[Script, int]:
        """A script whose last passes are those of a plate's own run, on what the plate starts from; where they begin.

        What enters a pass of the plate's run is what enters that pass here.
        """
        before: tuple[Pass, ...] = ()
        run = self.passes
        for k in path:
            plate = run[k]
            source = getattr(plate, "source", "print")
            if source == "photo":
                before = ()
            elif source == "print":
                before = (*before, *run[:k])
            else:
                bare = {"run": (), "strength": 100.0, "blend": "normal", "stencil": None, "on": True}
                before = (*before, *run[:k], plate.model_copy(update=bare))
            run = plate.run
        return replace(self, passes=(*before, *run)), len(before)

    @property
    def ending(self) -> Pass | None:
        """The pass whose findings are shown instead of a print, if there is one."""
        return next((step for step in self.passes if step.acts and step.ends), None)

    def with_pass(self, index: int, changed: Pass) -> Script:
        """The script with the pass at ``index`` replaced."""
        return replace(self, passes=(*self.passes[:index], changed, *self.passes[index + 1 :]))

    def inserted(self, index: int, added: Iterable[Pass]) -> Script:
        """The script with passes put in before ``index``."""
        return replace(self, passes=(*self.passes[:index], *added, *self.passes[index:]))

    def without(self, index: int) -> Script:
        """The script with the pass at ``index`` taken out."""
        return replace(self, passes=(*self.passes[:index], *self.passes[index + 1 :]))

    @property
    def count(self) -> int:
        """How many of its passes act, those of plates counted."""
        return sum(1 for _ in walk(self.passes, acting))

    @property
    def takes_long(self) -> bool:
        """Whether a pass of it, or of a plate in it, may take seconds."""
        return any(step.waits for step in walk(self.passes, acting))

    def pictures(self) -> list[str]:
        """The names of all pictures in it and its states, whether their passes act or not."""
        runs = (self.passes, *(state.script.passes for state in self.states))
        found = (
            name
            for run in runs
            for step in walk(run)
            for parameter, spec in step.params().items()
            for name in spec.pictures(getattr(step, parameter))
        )
        return list(dict.fromkeys(found))


@dataclass(frozen=True)
class State:
    """A kept version of a script, numbered as printmakers number the states of a plate."""

    script: Script  # without states of its own; ``origin``: the state it was made from
    name: str = ""
    note: str = ""
    number: int = 0  # 1, 2, … in the order in which they were kept; it stays when others go
    kept: str = ""  # when, as 2026-11-26T10:26, by the clock on the wall
    steps: int = 0  # things done since the state it was made from, or since the photograph

    @property
    def title(self) -> str:
        """Its number and name."""
        return f"{numeral(self.number)} {self.name}".rstrip()


def numeral(number: int) -> str:
    """A number 1…3999 in Roman numerals."""
    text = ""
    for value, sign in _SIGNS:
        count, number = divmod(number, value)
        text += sign * count
    return text


def number_of(text: str) -> int:
    """The number that a Roman numeral, or figures, mean; 0 if they mean none."""
    if text.isascii() and text.isdigit():
        return int(text[:9])
    return next((n for n in range(1, 4000) if numeral(n) == text.upper()), 0)


_SIGNS = (
    (1000, "M"), (900, "CM"), (500, "D"), (400, "CD"), (100, "C"), (90, "XC"), (50, "L"), (40, "XL"), (10, "X"),
    (9, "IX"), (5, "V"), (4, "IV"), (1, "I"),
)  # fmt: skip


def first_change(old: Script, new: Script) -> int:
    """Index of the first pass that differs (-1: the frame or development); the shorter length if one only goes on."""
    if old.frame != new.frame or old.develop != new.develop:
        return -1
    before, after = old.settled(), new.settled()
    for k, (a, b) in enumerate(zip(before.passes, after.passes, strict=False)):
        if a != b:
            return k
    return min(len(old.passes), len(new.passes))
