"""Gradient map: each gray becomes a colour.

The gray is the encoded luminance of what comes in. Between two stops colours are mixed straight (as `numpy.interp`
does) on encoded values or in Oklab (Ottosson 2020); smoothness bends the way between stops into a monotone cubic
(Fritsch and Carlson 1980), so that no stop is overshot.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB, Space
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import Stops, choice, number, stops
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.tones import monotone, table

f = np.float32
i = np.int32
SIZE = 4097  # entries of the table; kernels mix between them


class GradientMap(Pass):
    """Grays to colours by any number of stops."""

    kind: ClassVar[str] = "gradient-map"
    label: ClassVar[str] = "Gradient map"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Each gray becomes a colour"
    use: ClassVar[str] = "To give each gray a colour of its own"
    beware: ClassVar[str] = "Few stops far apart in colour show bands in soft skies"
    # Our own colours, named after the look that the trade calls so
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "black to white": {"stops": ((0.0, "#000000"), (100.0, "#ffffff"))},
        "warm paper": {"stops": ((0.0, "#101418"), (100.0, "#f7efe0"))},
        "sepia": {"stops": ((0.0, "#140c07"), (38.0, "#5e4128"), (72.0, "#b89466"), (100.0, "#f6ead2"))},
        "iron blue": {"stops": ((0.0, "#07101f"), (42.0, "#1f4a7a"), (76.0, "#8fb3cf"), (100.0, "#f2f4ee"))},
        "cool darks, warm lights": {"stops": ((0.0, "#0a1119"), (48.0, "#5c636a"), (100.0, "#f8ecd8"))},
        "gold leaf": {
            "stops": ((0.0, "#120c04"), (28.0, "#6b4a12"), (55.0, "#c9a23a"), (78.0, "#8f6a1c"), (100.0, "#fff6d8"))
        },
        "night green": {"stops": ((0.0, "#020604"), (40.0, "#0f5a2c"), (75.0, "#6fd67f"), (100.0, "#e8ffe6"))},
        "silver": {
            "stops": ((0.0, "#0a0b0c"), (30.0, "#5c6166"), (55.0, "#b9bec2"), (78.0, "#7f858b"), (100.0, "#f6f7f8"))
        },
    }

    stops: Stops = stops(
        ((0.0, "#101418"), (100.0, "#f7efe0")), "Stops", "Tones and the colours they become, dark at the lower end"
    )
    smoothness: float = number(0, 0, 100, "%", "Smoothness", "Rounds the corners at the stops")
    mix: Literal["encoded", "oklab"] = choice(
        "encoded",
        (("encoded", "encoded values"), ("oklab", "Oklab")),
        "Mix in",
        "Oklab keeps the way between two colours even to the eye",
    )

    def apply(self, planes: Planes, place: Place) -> Planes:
        gray = colour.gray_of(planes, place.space)
        colours = tone_table(self.stops, self.smoothness, self.mix, place.space)
        out = np.empty((3, *gray.shape[1:]), np.float32)
        map_tones(gray, out, gray.size, colours, SIZE)
        return out

    def colours(self) -> bool:
        return True

    def ink_at(self, tone: float) -> str:
        return colour.hex_of(tone_table(self.stops, self.smoothness, self.mix, SRGB)[:, round(tone * (SIZE - 1))])


@functools.lru_cache(maxsize=64)
def tone_table(stops: Stops, smoothness: float, mix: str, space: Space) -> NDArray[np.float32]:
    """Colours ``(3, SIZE)`` of a space, encoded 0…1, for grays evenly from 0 to 1."""
    tones = np.array([tone / 100 for tone, _ in stops])
    inks = np.array([colour.ink_of(text, space) for _, text in stops]).T
    if mix == "oklab":
        inks = colour.to_oklab(inks, space)
    gray = np.linspace(0, 1, SIZE)
    straight = np.stack([np.interp(gray, tones, channel) for channel in inks])
    # A smooth way needs tones that rise; of several stops on one tone the last one counts there.
    kept = np.append(np.diff(tones) > 0, True)
    if smoothness > 0 and kept.sum() > 2:
        within = np.clip(gray, tones[kept][0], tones[kept][-1])
        smooth = monotone(tones[kept], inks[:, kept], within)
        straight = straight + (smooth - straight) * (smoothness / 100)
    if mix == "oklab":
        straight = colour.from_oklab(straight, space)
    return table(np.clip(straight, 0, 1))


@kernel("f4* gray, f4* out, i8 n, f4* colours, i8 size")
def map_tones(gray, out, n, colours, size):
    last, most = f(size - 1), i(size - 2)
    for c in range(3):  # each by itself, in vectors
        for k in range(n):
            at = min(max(gray[k], f(0.0)), f(1.0)) * last
            low = min(max(i(at), i(0)), most)
            part = at - f(low)
            place = i(c * size) + low
            a = colours[place]
            out[c * n + k] = a + part * (colours[place + 1] - a)
