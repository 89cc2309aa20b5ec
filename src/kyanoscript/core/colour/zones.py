"""The eleven zones of the scale of tones."""

from __future__ import annotations

ZONES = ("0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X")


def zone(value: float) -> str:
    """Name of the zone, 0 (black) to X (white), of an encoded gray 0…1: eleven equal steps of the encoded scale."""
    return ZONES[min(10, max(0, int(value * 11)))]
