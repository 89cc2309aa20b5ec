"""Tints to colour with, in groups: our own values, chosen by eye on the demo photographs and scans.

Of each only hue and chroma count; the lightness makes the swatch look as the tint would on a middle tone.
"""

from __future__ import annotations

import numpy as np

from kyanoscript.core.colour import SRGB, lightness, parse_hex

TINTS: dict[str, tuple[tuple[str, str], ...]] = {
    "Skin": (
        ("pale", "#d9b39c"), ("fair", "#cfa283"), ("rosy", "#d69c8b"), ("olive", "#b58c66"), ("brown", "#8f6547"),
        ("deep", "#5f4233"), ("lips", "#b06a67"), ("blush", "#cc8a80"),
    ),
    "Hair": (
        ("black-brown", "#40352f"), ("brown", "#6a4d38"), ("chestnut", "#7c4a32"), ("red", "#9a5632"),
        ("fair", "#b79a66"), ("gray", "#8d8b89"),
    ),
    "Lips": (
        ("natural", "#b06a67"), ("pale", "#c08f86"), ("rose", "#b9656f"), ("red", "#a8433f"), ("dark", "#7d4140"),
    ),
    "Eyes": (
        ("neutral", "#8f8f8f"), ("blue", "#7288a3"), ("gray", "#7f8b90"), ("green", "#76866a"), ("brown", "#6d5038"),
    ),
    "Sky and water": (
        ("high sky", "#6f93bf"), ("horizon", "#a9c0d4"), ("dusk", "#c79a86"), ("cloud", "#a3a6ab"),
        ("river", "#6c8789"), ("sea", "#4f7f8c"), ("pond", "#6d7a5c"),
    ),
    "Green": (
        ("grass", "#7d9150"), ("leaves", "#5f7c45"), ("fir", "#48624d"), ("olive", "#84864f"), ("reed", "#a39a62"),
        ("dry", "#b09b6a"),
    ),
    "Stone and earth": (
        ("plaster", "#c4b59b"), ("sandstone", "#bfa27c"), ("brick", "#a2604a"), ("tile", "#b06c4d"),
        ("slate", "#77818a"), ("soil", "#80664e"), ("sand", "#c9b389"), ("neutral", "#909090"),
    ),
    "Wood and metal": (
        ("pine", "#bd9a69"), ("oak", "#99754d"), ("dark wood", "#62452f"), ("weathered", "#93897c"),
        ("brass", "#b59a55"), ("rust", "#96593b"), ("iron", "#6f7479"),
    ),
    "Cloth": (
        ("linen", "#c9bda4"), ("madder red", "#a84a43"), ("rose", "#c58390"), ("indigo", "#475a86"),
        ("light blue", "#8ba6c2"), ("weld yellow", "#c9aa4e"), ("moss", "#6e7c4d"), ("violet", "#7c628c"),
        ("umber", "#7a5a43"),
    ),
}  # fmt: skip

_OFFERED = {
    "skin": "Skin", "hands": "Skin", "lips": "Lips", "eyes": "Eyes", "brows": "Hair", "hair": "Hair",
    "clothes": "Cloth", "blush": "Blush",
}  # fmt: skip
_STARTS = 6  # of skin, from light to dark
_WHITE = 82.0  # L* of the white of an eye, in the light that the tints of skin are meant for
_OF_CLOTH = ("linen", "umber", "indigo", "madder red", "moss", "light blue")
_BLUSH = (("a breath", "#c9917f"), ("cheeks", "#cc8a80"), ("cold air", "#c77a74"))


def group_for(name: str) -> str:
    """The group of tints that a thing of a person's can have, by the name of its dab; empty if any."""
    return _OFFERED.get(name.split()[0], "") if name else ""


def likely(name: str, tone: float) -> tuple[str, ...]:
    """Up to six tints ``#rrggbb`` that a thing of a person's can have, the likeliest first.

    ``tone`` is how light the face is beside the whites of its eyes and teeth, 0…1: skin starts there.
    """
    group = group_for(name)
    if group == "Blush":
        return tuple(ink for _, ink in _BLUSH)
    if group == "Cloth":
        return tuple(dict(TINTS[group])[word] for word in _OF_CLOTH)
    inks = [ink for _, ink in TINTS.get(group, ())][:_STARTS]
    if group == "Skin":
        inks.sort(key=lambda ink: round(abs(_lightness(ink) / _WHITE - tone), 1))
    return tuple(inks)


def _lightness(ink: str) -> float:
    """L* of ``#rrggbb``."""
    return float(lightness(np.array(parse_hex(ink)).reshape(3, 1, 1), SRGB)[0, 0])
