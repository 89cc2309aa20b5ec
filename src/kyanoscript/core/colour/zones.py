"""The eleven zones of the scale of tones.

A gray that gives back 18 % of the light lies in the middle of V. Below it each zone is a stop: half the light of the
one above, so that 0 begins five stops below the middle of V. Above it white is two and a half stops away, and five
zones are to lie there: they share what is left of the scale evenly to the eye, in L*. (Zones by stops, and 18 % in V:
common practice, no source. That the lights share what there is, is our own: see docs/decisions/0031.)
"""

from __future__ import annotations

import bisect

from kyanoscript.core.colour.transfer import to_encoded

ZONES = ("0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X")
_GRAY = 0.18


def _lightness(light: float) -> float:
    return 116 * light ** (1 / 3) - 16


def _borders() -> tuple[float, ...]:
    """Encoded tones at which the zones I…X begin."""
    darks = [_GRAY * 2 ** (k - 5.5) for k in range(1, 6)]
    top = _GRAY * 2**0.5  # where V ends
    first = _lightness(top)
    lights = [((first + (100 - first) * k / 5 + 16) / 116) ** 3 for k in range(5)]
    return tuple(float(to_encoded(light)) for light in (*darks, *lights))


BORDERS = _borders()  # encoded tones at which the zones I…X begin


def zone_index(value: float) -> int:
    """Which zone, 0 (black) to 10 (white), an encoded gray 0…1 lies in."""
    return bisect.bisect_right(BORDERS, value)


def zone(value: float) -> str:
    """Its name, 0 to X."""
    return ZONES[zone_index(value)]


def zone_begins(index: int) -> float:
    """The encoded tone at which a zone 0…10 begins."""
    return (0.0, *BORDERS)[index]


def middle_of(index: int) -> float:
    """The encoded tone halfway up a zone 0…10."""
    edges = (0.0, *BORDERS, 1.0)
    return (edges[index] + edges[index + 1]) / 2
