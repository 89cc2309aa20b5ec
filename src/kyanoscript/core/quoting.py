"""Quoting what was found: never more of it than a person can read in one line."""

from __future__ import annotations

_MOST = 60  # characters of one quoted thing


def cut(text: object, most: int = _MOST) -> str:
    """The text in one line of at most ``most`` characters; what cannot be shown is left out."""
    line = " ".join(str(text).encode("utf-8", "replace").decode("utf-8").split())
    line = "".join(c if c.isprintable() else "\N{REPLACEMENT CHARACTER}" for c in line)
    return line if len(line) <= most else line[: most - 1] + "\N{HORIZONTAL ELLIPSIS}"


def quoted(text: object) -> str:
    """The text in quotation marks, cut."""
    return repr(cut(text))
