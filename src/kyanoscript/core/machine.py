"""What the machine has: processors and memory that this program may use."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

_LIMITS = ("/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes")


def processors() -> int:
    """How many threads can work at once: not more than the program may run on."""
    return max(1, len(os.sched_getaffinity(0)))


def memory() -> int:
    """Bytes: what is built in, or what the system leaves to the program's group."""
    found = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    for limit in _LIMITS:
        with contextlib.suppress(OSError, ValueError):  # "max" where there is none
            found = min(found, int(Path(limit).read_text()))
    return found
