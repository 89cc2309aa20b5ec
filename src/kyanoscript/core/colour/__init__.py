"""What a number means as light and to the eye, by published formulas only. Encoded values run 0…1, planes first."""

from kyanoscript.core.colour.hex import hex_of, parse_hex
from kyanoscript.core.colour.inloops import (
    chroma_kept,
    encoded_of,
    hue_of,
    in_spaces,
    light_of,
    light_rgb_of,
    luminance_of,
    oklab_of,
    oklab_of_light,
    rgb_of,
    shown_of,
)
from kyanoscript.core.colour.lab import lightness, to_lab
from kyanoscript.core.colour.luminance import BT601, BT709, gray_of, in_colour, luma, luminance
from kyanoscript.core.colour.moved import held, ink_of, moved, to_power, within, written_of
from kyanoscript.core.colour.oklab import fitted, from_oklab, from_oklch, to_oklab, to_oklch
from kyanoscript.core.colour.planes import to_encoded_planes, to_light_planes
from kyanoscript.core.colour.space import (
    BT2020,
    D50,
    DISPLAY_P3,
    OPRGB,
    ROMM,
    SPACES,
    SRGB,
    Space,
    adaptation,
    space_near,
    space_of,
)
from kyanoscript.core.colour.transfer import to_encoded, to_light
from kyanoscript.core.colour.zones import ZONES, zone

__all__ = [
    "BT601",
    "BT709",
    "BT2020",
    "D50",
    "DISPLAY_P3",
    "OPRGB",
    "ROMM",
    "SPACES",
    "SRGB",
    "ZONES",
    "Space",
    "adaptation",
    "chroma_kept",
    "encoded_of",
    "fitted",
    "from_oklab",
    "from_oklch",
    "gray_of",
    "held",
    "hex_of",
    "hue_of",
    "in_colour",
    "in_spaces",
    "ink_of",
    "light_of",
    "light_rgb_of",
    "lightness",
    "luma",
    "luminance",
    "luminance_of",
    "moved",
    "oklab_of",
    "oklab_of_light",
    "parse_hex",
    "rgb_of",
    "shown_of",
    "space_near",
    "space_of",
    "to_encoded",
    "to_encoded_planes",
    "to_lab",
    "to_light",
    "to_light_planes",
    "to_oklab",
    "to_oklch",
    "to_power",
    "within",
    "written_of",
    "zone",
]
