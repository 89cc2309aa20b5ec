"""Demo photographs of Marrow Quay, a river town that does not exist, and the scripts that go with them."""

from __future__ import annotations

from pathlib import Path

_HERE = Path(__file__).parent
NAMES = ("table-by-the-window", "ferry-landing")


def photo(name: str = NAMES[0]) -> Path:
    """A demo photograph."""
    return _HERE / "photos" / f"{name}.jpg"


def holds(path: Path) -> bool:
    """Whether a file is one of the demo's own."""
    return _HERE in path.parents


def script(name: str = NAMES[0]) -> Path:
    """The script made for that photograph."""
    return _HERE / "scripts" / f"{name}.json"
