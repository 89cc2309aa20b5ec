"""The strength of a whole recipe."""

from __future__ import annotations

from kyanoscript.core.params import Number

STRENGTH = Number(
    label="Strength",
    help="How much of the whole look: 0 leaves the picture as it was",
    unit="%",
    high=100,
    decimals=1,
)
