"""Seeking: what the values do to the print is learned, and the next prints are chosen, away from the interface."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from kyanoscript.core.script import Script
from kyanoscript.core.seek.appearance import Appearance, Array
from kyanoscript.core.seek.belief import Choice
from kyanoscript.core.seek.seek import Seek, Sought, to_learn
from kyanoscript.core.seek.smalls import Smalls
from kyanoscript.ui.service.site import Base, Site


@dataclass(frozen=True)
class Learned:
    """So many of the small prints of a search are there."""

    asked: Learn
    share: float


@dataclass(frozen=True)
class Turned:
    """A search has its next prints."""

    asked: Learn | Turn
    seek: Seek


@dataclass(frozen=True, eq=False)
class Learn(Base):
    """The beginning of a search: its small prints, and what they teach."""

    lane = "hand"

    base: Script
    dials: tuple[Sought, ...]
    side: int
    judged: tuple[Choice, ...] = ()

    @property
    def patience(self) -> float:
        """A newer search makes this one pointless."""
        return 0.0

    def work(self, site: Site) -> None:
        """With the helpers; then the first prints."""
        smalls = Smalls(site.source, self.base, self.dials, site.library)
        shares = to_learn(self.base, self.dials)
        labs: list[Array | None] = [None] * len(shares)
        done = 0

        def one(k: int) -> None:
            nonlocal done
            labs[k] = smalls.lab(shares[k])
            done += 1
            if done % 16 == 0:
                site.send(Learned(self, done / len(shares)))

        if site.share_out(range(len(shares)), one, lambda: site.newer() is not None):
            appearance = Appearance.learned(shares, np.stack([lab for lab in labs if lab is not None]))
            site.send(Turned(self, Seek.begun(self.base, self.dials, appearance, self.side, self.judged)))


@dataclass(frozen=True, eq=False)
class Turn(Base):
    """The next step of a search."""

    lane = "hand"

    step: Callable[[], Seek]

    def work(self, site: Site) -> None:
        """A tenth of a second."""
        site.send(Turned(self, self.step()))
