"""How a print is written: format, bits, colours, resolution, and what goes along with it."""

from __future__ import annotations

from typing import ClassVar, Literal

from kyanoscript.core.params import Declared, choice, number, text, toggle
from kyanoscript.files.prints.formats import Format

SPACES = {  # besides the file of a profile
    "auto": "as the print is",
    "photo": "the photograph's",
    "srgb": "sRGB",
    "display-p3": "Display P3",
    "oprgb": "opRGB",
    "bt2020": "BT.2020",
    "romm": "ROMM RGB",
    "gray": "gray",
}
DEVICE = "device"  # a profile of `Settings`: none; the numbers are the printer's own
PPI = 300.0  # where neither the person nor the photograph says anything


class Settings(Declared):
    """How a print is written. Values that cannot be are a ValueError."""

    label: ClassVar[str] = "Export"

    bits: Literal[8, 16, 32] = choice(
        16, ((8, "8"), (16, "16"), (32, "32, floats")), "Bits", "Of a value; a format that has fewer gets what it has"
    )
    compression: Literal["none", "lzw", "deflate"] = choice(
        "none", (("none", "not packed"), ("lzw", "LZW"), ("deflate", "deflate")), "Packed", "Of a TIFF"
    )
    quality: int = number(
        95, 1, 100, "", "Quality", "Of a JPEG, WebP or AVIF; a WebP of 100 is without loss", whole=True
    )
    dither: bool = toggle(True, "Fine noise in place of steps in smooth tones", "Of 8 bits")
    profile: str = text(
        "auto",
        "Colours",
        f"{', '.join(SPACES)}, or the file of a profile; auto: gray for a print without colour, else the photograph's",
    )
    intent: Literal["relative", "perceptual", "saturation", "absolute"] = choice(
        "relative",
        (
            ("relative", "relative colorimetric"),
            ("perceptual", "perceptual"),
            ("saturation", "saturation"),
            ("absolute", "absolute colorimetric"),
        ),
        "Intent",
        "Towards the file of a profile",
    )
    black_point: bool = toggle(True, "Black point compensation", "Towards the file of a profile")
    ppi: float | None = number(
        None, 1, 10_000, "ppi", "Resolution", "Told in the file", ratio=True, nothing="the photograph's, or 300"
    )
    longer_side: int | None = number(
        None, 1, 1_000_000, "px", "Longer side", "Reduce to this; never enlarges", whole=True, ratio=True,
        nothing="as it is",
    )  # fmt: skip
    notes: Literal["all", "no-place", "rights", "none"] = choice(
        "all",
        (
            ("all", "all of the photograph's"),
            ("no-place", "all but where it was taken"),
            ("rights", "only the rights"),
            ("none", "none"),
        ),
        "Notes",
        "Date, author, rights, camera, keywords and captions in the photograph's file",
    )
    tiled: bool = toggle(False, "In tiles", "A TIFF in tiles instead of strips: quicker to look at in parts")

    @property
    def in_tiles(self) -> bool:
        """Whether a TIFF is written in tiles: a packed one is, as the library packs strips of whole pages only."""
        return self.tiled or self.compression != "none"

    def bits_of(self, format: Format) -> int:
        """The bits that a format is written with: those asked for, or the most that it has below them."""
        return max((bits for bits in format.bits if bits <= self.bits), default=format.bits[0])
