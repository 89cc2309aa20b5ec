"""Quoting what was found: never more of it than a person can read in one line, and nothing that acts on a screen."""

from __future__ import annotations

from typing import Any

_MOST = 60  # characters of one quoted thing
_LONGEST = 80  # of a text that a file says of itself
_READ = 20  # times as many are looked at: what stands for nothing is left out


# What a terminal obeys (C0 but tab and ends of lines, DEL, C1), and what turns the order of letters round or ends a
# line unseen (Unicode 15, UAX 9: bidirectional formatting; line and paragraph separators).
_ACTS = (
    *(c for c in range(0x20) if c not in (0x09, 0x0A, 0x0D)), *range(0x7F, 0xA0), 0x061C, 0x200E, 0x200F, 0x2028,
    0x2029, *range(0x202A, 0x202F), *range(0x2066, 0x206A),
)  # fmt: skip
_SPELT = {c: f"\\u{c:04x}" for c in _ACTS}


def visible(text: str) -> str:
    """The text with letters that act spelt out, as JSON spells them; everything else as it is."""
    return text.translate(_SPELT)


def cut(text: object, most: int = _MOST) -> str:
    """The text in one line of at most ``most`` characters; what cannot be shown is left out."""
    whole = str(text)
    head = whole[: _READ * most]  # of megabytes no more is looked at
    line = " ".join(head.encode("utf-8", "replace").decode("utf-8").split())
    line = "".join(c if c.isprintable() else "\N{REPLACEMENT CHARACTER}" for c in line)
    if len(line) <= most and len(head) == len(whole):
        return line
    return line[: most - 1] + "\N{HORIZONTAL ELLIPSIS}"


def quoted(text: object) -> str:
    """The text in quotation marks, cut."""
    return repr(cut(text))


def words(value: Any) -> str:
    """A text of a file in one short line, whatever it is."""
    if isinstance(value, bytes):
        value = value.decode("utf-8", "replace")
    if not isinstance(value, str):
        return ""
    line = " ".join("".join(c if c.isprintable() else " " for c in value.split("\0")[0]).split())
    return line if len(line) <= _LONGEST else line[: _LONGEST - 1] + "…"
