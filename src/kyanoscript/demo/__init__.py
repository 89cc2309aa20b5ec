"""Demo photographs of Marrow Quay, a river town that does not exist, and finished prints made from them."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

_HERE = Path(__file__).parent
NAMES = ("table-by-the-window", "ferry-landing", "carved-head", "marsh-at-dusk")
UPRIGHT = "jetty"  # the one that stands
RAW = "ferry-landing-raw"  # as an invented camera wrote it: see tools/demo_raw.py
# A family album of puppets, scanned; beside each lie its true colours and its damage: tools/demo_photos/album.py.
ALBUM = ("two-dyers-scan", "foreman-scan", "crew-scan")
SCANS = ("landing-scan", "yard-scan")  # old scans, made up; beside them lie their true colours and their damage


@dataclass(frozen=True)
class Print:
    """A finished print: a photograph and a script made for it."""

    word: str
    title: str
    photo: Path
    script: Path


def photo(name: str = NAMES[0]) -> Path:
    """A demo photograph, scan or raw."""
    return _HERE / ("scans" if name in SCANS + ALBUM else "photos") / f"{name}{'.dng' if name == RAW else '.jpg'}"


def holds(path: Path) -> bool:
    """Whether a file is one of the demo's own."""
    return _HERE in path.parents


def finished(word: str) -> Print:
    """The print of that word."""
    return next(print_ for print_ in PRINTS if print_.word == word)


def _print(word: str, title: str, name: str) -> Print:
    return Print(word, title, photo(name), _HERE / "scripts" / f"{word}.json")


# The first is on the bench when the program is started for the first time.
PRINTS = (
    _print("quad-tone", "Table by the window, in four tones", NAMES[0]),
    _print("sepia", "Ferry landing, sepia", NAMES[1]),
    _print("lith", "Marsh at dusk, lith", NAMES[3]),
    _print("duotone", "Ferry landing, duotone", NAMES[1]),
    _print("gold", "Table by the window, gold", NAMES[0]),
    _print("night-vision", "Marsh at dusk, night vision", NAMES[3]),
    _print("high-key", "Carved head, high key", NAMES[2]),
    _print("from-raw", "Ferry landing, developed from a camera's raw", RAW),
    _print("hand-tint", "Ferry landing, an old scan mended and tinted", "landing-scan"),
    _print("by-model", "Ferry landing, an old scan tinted after a colour photograph", "landing-scan"),
    _print("washing-day", "Washing day, an old scan mended and tinted", "yard-scan"),
    _print("cyanotype", "Ferry landing, a cyanotype and its negative", NAMES[1]),
    _print("two-inks", "Marsh at dusk, two inks and their plates", NAMES[3]),
    _print("jetty", "The jetty, upright, in warm grays", UPRIGHT),
    _print("two-dyers", "The two dyers, an old portrait mended and tinted", "two-dyers-scan"),
)
