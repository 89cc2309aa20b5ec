"""What a photograph's file says of itself besides its pixels: its colour space, camera, lens, date and pages.

Tags by their numbers as TIFF 6.0 and Exif 2.32 (CIPA DC-008) give them. What a file says is shown to people: it is kept
short and free of control characters, whatever somebody wrote there.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from kyanoscript.core.quoting import words
from kyanoscript.files.colour.profiles import named

_MAKE, _MODEL, _CHANGED, _TAKEN, _LENS, _EXIF = 0x010F, 0x0110, 0x0132, 0x9003, 0xA434, 0x8769


@dataclass(frozen=True)
class Facts:
    """Words for people, empty where the file says nothing."""

    profile: str = ""  # the embedded profile by its own name; empty: none, and the colours are taken as sRGB
    camera: str = ""
    lens: str = ""
    date: str = ""  # when it was taken, or else last changed: "2026-05-14 18:20:05", as the camera's clock had it
    pages: int = 1


def facts_of_image(image: Any, profile: bytes | None) -> Facts:
    """Of a picture opened by Pillow. Never raises: the pixels may be sound though notes are damaged."""
    try:
        notes = image.getexif()
        taken = notes.get_ifd(_EXIF)
    except Exception:  # whatever the damage makes of them
        notes, taken = {}, {}
    return facts_of(notes, taken, profile, getattr(image, "n_frames", 1))


def facts_of_exif(exif: bytes, name: str, profile: bytes | None = None) -> Facts:
    """Of an EXIF block, for kinds that Pillow does not open; ``name`` is that of their colours. Never raises."""
    from PIL import Image

    found = Image.Exif()
    try:
        found.load(exif)
        facts = facts_of(found, found.get_ifd(_EXIF), profile, 1)
    except Exception:  # whatever the damage makes of them
        facts = facts_of({}, {}, profile, 1)
    return facts if facts.profile else replace(facts, profile=name)


def facts_of(notes: Mapping[int, Any], taken: Mapping[int, Any], profile: bytes | None, pages: int) -> Facts:
    """Of a file's own tags and those of the camera, by their numbers."""
    make, model = words(notes.get(_MAKE)), words(notes.get(_MODEL))
    camera = model if model.lower().startswith(make.lower()) else f"{make} {model}".strip()
    date = words(taken.get(_TAKEN)) or words(notes.get(_CHANGED))
    if date[4:5] == date[7:8] == ":":  # Exif writes days with colons
        date = f"{date[:4]}-{date[5:7]}-{date[8:]}"
    return Facts(named(profile), camera, words(taken.get(_LENS)), date, pages)
