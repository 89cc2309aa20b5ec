"""However the program ends, and if it is by a fault: its threads are ended before Python is.

Left to themselves, they come back from machine code into an interpreter that is gone, which ends the process with a
segmentation fault in place of its own status.
"""

from __future__ import annotations

import atexit
import os
import sys
import time
import weakref
from typing import Protocol

_AT_MOST = 10.0  # seconds that are waited for what cannot be cancelled, such as a drive that does not answer


class Ends(Protocol):
    """Something with threads of its own."""

    def end(self) -> None:
        """Ask the threads to end."""

    def left(self) -> list[str]:
        """What has not ended yet, in words."""


_known: weakref.WeakSet[Ends] = weakref.WeakSet()


def in_order(worker: Ends) -> None:
    """Have the threads of this one ended when the program is left without a word to it."""
    _known.add(worker)


@atexit.register
def _end_in_order() -> None:
    working = [worker for worker in _known if worker.left()]
    for worker in working:
        worker.end()
    end = time.monotonic() + _AT_MOST
    while any(worker.left() for worker in working):
        if time.monotonic() > end:
            sys.stdout.flush()
            sys.stderr.flush()
            os._exit(1)
        time.sleep(0.005)
