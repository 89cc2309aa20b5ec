"""How a print is written: format, bits, colours, resolution, and what goes along with it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from kyanoscript.core.quoting import cut, quoted
from kyanoscript.files.colour.profiles import INTENTS
from kyanoscript.files.prints.formats import Format

SPACES = ("auto", "photo", "srgb", "display-p3", "oprgb", "bt2020", "romm", "gray")
DEVICE = "device"  # a profile of `Settings`: none; the numbers are the printer's own
COMPRESSIONS = ("none", "lzw", "deflate")
CARRIED = ("all", "no-place", "rights", "none")
PPI = 300.0  # where neither the person nor the photograph says anything


@dataclass(frozen=True)
class Settings:
    """How a print is written."""

    bits: int = 16  # 32: floats, in a TIFF. A format that has fewer gets what it has
    profile: str = "auto"  # one of `SPACES`, or the file of a profile. auto: gray without colour, else the photograph's
    ppi: float | None = None  # None: the photograph's, or 300
    quality: int = 95  # JPEG, WebP and AVIF, 1…100
    longer_side: int | None = None  # pixels; None for full resolution. Never enlarges
    tiled: bool = False  # a TIFF in tiles instead of strips: quicker to look at in parts
    compression: Literal["none", "lzw", "deflate"] = "none"  # of a TIFF
    intent: str = "relative"  # one of `INTENTS`; for the file of a profile
    black_point: bool = True
    dither: bool = True  # eight bits, by triangular noise of one step
    carried: Literal["all", "no-place", "rights", "none"] = "all"  # of the notes in the photograph's file

    @property
    def in_tiles(self) -> bool:
        """Whether a TIFF is written in tiles: a packed one is, as the library packs strips of whole pages only."""
        return self.tiled or self.compression != "none"

    def check(self) -> None:
        """Raise ValueError, naming the value and its range."""
        if self.bits not in (8, 16, 32):
            raise ValueError(f"bits is {cut(self.bits)}; it must be 8, 16 or 32")
        if self.ppi is not None and not 1 <= self.ppi <= 10_000:
            raise ValueError(f"ppi is {self.ppi:g}; it must be 1…10000")
        if not 1 <= self.quality <= 100:
            raise ValueError(f"quality is {cut(self.quality)}; it must be 1…100")
        if self.longer_side is not None and not 1 <= self.longer_side <= 1_000_000:
            raise ValueError(f"longer side is {cut(self.longer_side)}; it must be 1…1000000 px")
        for name, value, known in (
            ("compression", self.compression, COMPRESSIONS),
            ("intent", self.intent, tuple(INTENTS)),
            ("carried", self.carried, CARRIED),
        ):
            if value not in known:
                raise ValueError(f"{name} is {quoted(value)}; it must be one of {', '.join(known)}")

    def bits_of(self, format: Format) -> int:
        """The bits that a format is written with: those asked for, or the most that it has below them."""
        return max((bits for bits in format.bits if bits <= self.bits), default=format.bits[0])
