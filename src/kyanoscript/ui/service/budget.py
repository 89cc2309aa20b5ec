"""How much of what has been worked out is kept: as the machine has room, or as it was set."""

from __future__ import annotations

from kyanoscript.core import machine
from kyanoscript.translation import tr

CHOICES = (128, 256, 384, 768, 1536, 3072)  # megabytes
_MOST = 384  # with it a photograph of 24 megapixels, twelve passes and the recipes stay under 900 MB in all
_LEAST = 96
_LITTLE = 3 << 30  # bytes: with less, other programs will want what there is


def automatic() -> int:
    """Megabytes that suit the machine."""
    return int(min(max(machine.memory() / (1 << 20) / 10, _LEAST), _MOST))


def words(megabytes: int) -> str:
    """An amount for people."""
    return (
        tr("{megabytes:g} GB", megabytes=megabytes / 1024)
        if megabytes >= 1024
        else tr("{megabytes} MB", megabytes=megabytes)
    )


def weak() -> str:
    """What a machine lacks and what comes of it, in words; empty if it lacks nothing."""
    few, little = machine.processors() == 1, machine.memory() < _LITTLE
    if not few and not little:
        return ""
    room = tr("{machine:.1f} GB of memory", machine=machine.memory() / (1 << 30))
    lacks = tr("one processor and {room}", room=room) if few and little else ("one processor" if few else room)
    comes = ["views are coarser while you drag"] * few + ["less is kept, and comes back more slowly"] * little
    return tr("This machine gives {lacks}: {comes}", lacks=lacks, comes=", and ".join(comes))
