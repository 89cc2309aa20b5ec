"""Long work: how far it has come, and how it is given up.

Work that takes longer than a few hundredths of a second calls `breathe` on its way: whoever has it done can end it
there, because somebody is waiting for something else. What is finished by then stays in the cache.
"""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Iterator
from typing import ParamSpec, TypeVar

# Told what is being done and how much of it is done, 0…1, by whichever thread does it. It may raise, most plainly
# `GivenUp`: then the picture that wanted the work is not finished. Parts that are done stay in the cache.
Watch = Callable[[str, float], None]
_here = threading.local()
_P = ParamSpec("_P")
_R = TypeVar("_R")


class GivenUp(Exception):
    """What was being worked out is not wanted any more."""


def unwatched(what: str, share: float) -> None:
    """For work that nobody watches."""


def breathe() -> None:
    """A place where long work can be ended; raises `GivenUp` then. It costs next to nothing."""
    wanted = getattr(_here, "wanted", None)
    if wanted is not None and not wanted():
        raise GivenUp


@contextlib.contextmanager
def while_wanted(wanted: Callable[[], bool] | None) -> Iterator[None]:
    """Within this, `breathe` ends this thread's work once it is not wanted any more."""
    before = getattr(_here, "wanted", None)
    _here.wanted = wanted
    try:
        yield
    finally:
        _here.wanted = before


def carried(work: Callable[_P, _R]) -> Callable[_P, _R]:
    """The same work for another thread, to be ended when this thread's is."""
    wanted = getattr(_here, "wanted", None)

    def there(*args: _P.args, **kwargs: _P.kwargs) -> _R:
        with while_wanted(wanted):
            return work(*args, **kwargs)

    return there
