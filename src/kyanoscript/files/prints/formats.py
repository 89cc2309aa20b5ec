"""The formats that prints are written in: all that is known of each, in one place.

A format is added by one entry here and its function in `writers`: the export dialog, the command line, names, limits
and messages ask for nothing else.
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from kyanoscript.files.base.errors import FileError
from kyanoscript.translation import tr


@dataclass(frozen=True)
class Format:
    """One of them."""

    word: str
    name: str  # for people
    endings: tuple[str, ...]  # of files; the first is the usual one
    bits: tuple[int, ...]  # that a value may have; 32: floats
    side: int = 1 << 30  # pixels, where format or library has a limit
    inks: bool = False  # it has a place for four of them
    any_space: bool = False  # it tells any space by itself, and no profile's file
    tiles: bool = False  # it can lie in tiles, packed or not
    thumbnail: bool = True  # a small picture goes along in its notes
    lossy: bool = False  # it has a quality
    notes: int = 1 << 40  # bytes of EXIF, and of XMP, that it has a place for
    page: bool = False  # a page of its size rather than a picture
    offered: tuple[tuple[str, int], ...] = ()  # to people who choose, with the bits; none: by its name, as it is

    @property
    def choices(self) -> tuple[tuple[str, int], ...]:
        """What can be chosen of it, in words, with the bits."""
        return self.offered or ((self.name, self.bits[0]),)


FORMATS = {
    format.word: format
    for format in (
        Format(
            "tiff",
            "TIFF",
            (".tif", ".tiff"),
            (8, 16, 32),
            inks=True,
            tiles=True,
            thumbnail=False,
            offered=(("TIFF, 16-bit", 16), ("TIFF, 8-bit", 8), ("TIFF, floats", 32)),
        ),
        Format("png", "PNG", (".png",), (8, 16), offered=(("PNG, 16-bit", 16), ("PNG, 8-bit", 8))),
        Format("jpeg", "JPEG", (".jpg", ".jpeg"), (8,), side=65_500, lossy=True, notes=65_000),
        Format("webp", "WebP", (".webp",), (8,), side=16_383, lossy=True),
        Format(
            "jpeg-xl", "JPEG XL", (".jxl",), (8, 16), any_space=True, offered=(("JPEG XL, 16-bit, without loss", 16),)
        ),
        Format("avif", "AVIF", (".avif",), (8,), side=65_535, lossy=True),
        Format("pdf", "PDF", (".pdf",), (8, 16), inks=True, thumbnail=False, page=True),
    )
}
PICTURES = tuple(format.endings[0][1:] for format in FORMATS.values() if not format.page)
_ENDINGS = {ending: format for format in FORMATS.values() for ending in format.endings}


def format_of(path: Path) -> Format:
    """The format by the name's ending. Raises FileError for any other."""
    found = _ENDINGS.get(path.suffix.lower())
    if found is None:
        *most, last = (format.endings[0] for format in FORMATS.values())
        raise FileError(path, tr('prints are not written as {suffix}', suffix=path.suffix or 'files without an ending'),
                        tr('End the name in {most} or {last}', most=', '.join(most), last=last))  # fmt: skip
    return found
