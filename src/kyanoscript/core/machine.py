"""What the machine has: processors and memory that this program may use."""

from __future__ import annotations

import contextlib
import ctypes
import functools
import os
import resource
from pathlib import Path

_LIMITS = ("/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes")
_USED = ("/sys/fs/cgroup/memory.current", "/sys/fs/cgroup/memory/memory.usage_in_bytes")


def processors() -> int:
    """How many threads can work at once: not more than the program may run on."""
    return max(1, len(os.sched_getaffinity(0)))


def free() -> int:
    """Bytes of memory that the program can still take: of the system, of its group, and of a limit set to it."""
    found = 1 << 62
    with contextlib.suppress(OSError, ValueError, StopIteration):
        lines = Path("/proc/meminfo").read_text().splitlines()
        found = int(next(line for line in lines if line.startswith("MemAvailable:")).split()[1]) << 10
    for limit, used in zip(_LIMITS, _USED, strict=True):
        with contextlib.suppress(OSError, ValueError):
            found = min(found, int(Path(limit).read_text()) - int(Path(used).read_text()) + _of_files(Path(used)))
    most, _ = resource.getrlimit(resource.RLIMIT_AS)
    if most != resource.RLIM_INFINITY:
        with contextlib.suppress(OSError, ValueError):
            pages = int(Path("/proc/self/statm").read_text().split()[0])
            found = min(found, most - pages * os.sysconf("SC_PAGE_SIZE"))
    return max(0, found)


def _of_files(used: Path) -> int:
    """Of what a group uses, what are files that were read: the system takes it back when it is wanted."""
    with contextlib.suppress(OSError, ValueError):
        rows = [line.split() for line in used.with_name("memory.stat").read_text().splitlines()]
        return sum(int(row[1]) for row in rows if row[0] in ("active_file", "inactive_file"))
    return 0


def memory() -> int:
    """Bytes: what is built in, or what the system leaves to the program's group, or to the program."""
    found = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    for limit in _LIMITS:
        with contextlib.suppress(OSError, ValueError):  # "max" where there is none
            found = min(found, int(Path(limit).read_text()))
    most, _ = resource.getrlimit(resource.RLIMIT_AS)
    return found if most == resource.RLIM_INFINITY else min(found, most)


@functools.cache
def keep_freed_memory() -> None:
    """Let the C library reuse freed tiles instead of giving every one back: mapping fresh pages for each tile took
    three times as long as the arithmetic in it. Where the call does not exist nothing is lost but time.

    Best before there are threads: each begins with room of its own, 64 MB of address space at a time.
    """
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return
    mallopt(-3, 32 << 20)  # M_MMAP_THRESHOLD
    mallopt(-1, 64 << 20)  # M_TRIM_THRESHOLD
    mallopt(-8, 2)  # M_ARENA_MAX: every further one keeps what was freed in it to itself
