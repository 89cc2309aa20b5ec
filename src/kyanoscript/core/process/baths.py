"""What the bench darkroom has to print with. Densities, scales and colours: common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Bath:
    """A process that prints by light."""

    label: str
    density: float  # the largest above the paper's own (common practice, no source)
    scale: float  # log exposure from the first tone to the deepest (common practice, no source)
    minutes: float  # until the deepest tone comes through clear film
    paper: tuple[float, float, float]  # L*a*b*
    hue: tuple[float, float, float]  # how much density counts in red, green, blue
    toe: float = 1.0  # above 1: lights come late; below: darks go on building slowly, as where the image masks itself


BATHS = {
    "cyanotype": Bath("Cyanotype", 1.35, 1.35, 12, (95.5, -0.6, 4.0), (1.55, 0.92, 0.52), 1.15),
    "van-dyke": Bath("Van Dyke brown", 1.45, 1.75, 8, (95.0, 0.4, 5.0), (0.80, 1.02, 1.28), 0.80),
    "salt": Bath("Salted paper", 1.30, 1.95, 15, (94.5, 0.6, 6.0), (0.84, 1.02, 1.20), 0.65),
    "platinum": Bath("Platinum–palladium", 1.50, 1.85, 10, (95.5, 0.2, 5.0), (0.96, 1.0, 1.07), 1.0),
    "gum": Bath("Gum", 1.10, 1.05, 6, (95.0, 0.2, 4.0), (0.92, 1.0, 1.15), 1.35),
    "chloride": Bath("Silver chloride", 2.05, 1.55, 5, (96.0, 0.2, 2.0), (0.99, 1.0, 1.02), 1.2),
}
