"""What a number means as light and to the eye, by published formulas only. Encoded values run 0…1, planes first."""

from kyanoscript.core.colour.hex import hex_of, parse_hex
from kyanoscript.core.colour.inloops import (
    chroma_kept,
    encoded_of,
    hue_of,
    light_of,
    light_rgb_of,
    oklab_of,
    rgb_of,
    shown_of,
)
from kyanoscript.core.colour.lab import lightness, to_lab
from kyanoscript.core.colour.luminance import BT601, BT709, gray_of, in_colour, luma, luminance
from kyanoscript.core.colour.oklab import fitted, from_oklab, from_oklch, to_oklab, to_oklch
from kyanoscript.core.colour.transfer import to_encoded, to_light
from kyanoscript.core.colour.zones import ZONES, zone

__all__ = [
    "BT601",
    "BT709",
    "ZONES",
    "chroma_kept",
    "encoded_of",
    "fitted",
    "from_oklab",
    "from_oklch",
    "gray_of",
    "hex_of",
    "hue_of",
    "in_colour",
    "light_of",
    "light_rgb_of",
    "lightness",
    "luma",
    "luminance",
    "oklab_of",
    "parse_hex",
    "rgb_of",
    "shown_of",
    "to_encoded",
    "to_lab",
    "to_light",
    "to_oklab",
    "to_oklch",
    "zone",
]
