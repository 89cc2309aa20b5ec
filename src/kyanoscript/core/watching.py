"""Long work within a pass: how far it has come, and how it is given up."""

from __future__ import annotations

from collections.abc import Callable

# Told what is being done and how much of it is done, 0…1, by whichever thread does it. It may raise, most plainly
# `GivenUp`: then the picture that wanted the work is not finished. Parts that are done stay in the cache.
Watch = Callable[[str, float], None]


class GivenUp(Exception):
    """What was being worked out is not wanted any more."""


def unwatched(what: str, share: float) -> None:
    """For work that nobody watches."""
