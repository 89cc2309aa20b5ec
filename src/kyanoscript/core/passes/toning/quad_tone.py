"""Quad-tone and split tone: tones tinted by four, or two, anchors on the ladder.

An anchor is a tone with a colour. Between two anchors their shares go over into each other as ``t²(3 − 2t)``, beyond
the outer ones they stay: at every tone the shares sum to 1. The print takes the hue and chroma of the mixed colours (in
Oklab, Ottosson 2020) and keeps its own lightness, unless lightness is drawn towards the anchors' as well.

Of a photograph in colours each pixel can choose its anchors by its own colour, as poster inks are parted: the nearer an
anchor's hue and chroma in Oklab, the larger its share.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB, Space, in_spaces, oklab_of, rgb_of
from kyanoscript.core.kernel.fastmath import exp2
from kyanoscript.core.params import Stops, choice, number, stops
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.gradient_map import SIZE, map_tones
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.tones import table

f = np.float32

_FOUR = ((4.0, "#10151a"), (32.0, "#434852"), (72.0, "#bbb0a0"), (97.0, "#f4efe6"))
_TWO = ((20.0, "#2d343b"), (80.0, "#cfc5b5"))


class QuadTone(Pass):
    """Black, shadow, highlight and white each with a colour of its own."""

    kind: ClassVar[str] = "quad-tone"
    label: ClassVar[str] = "Quad-tone"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Four tones, each its own colour"
    use: ClassVar[str] = "To give black, shadows, lights and white each a colour"
    beware: ClassVar[str] = "White and lights of different colours leave a spot in the brightest area"
    # Our own colours (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "cool blacks, cream whites": {"stops": _FOUR},
        "brown blacks, blue lights": {
            "stops": ((4.0, "#150f0b"), (32.0, "#4f443b"), (72.0, "#adb3b8"), (97.0, "#eef0f2"))
        },
        "plum and straw": {"stops": ((4.0, "#130d13"), (32.0, "#493f49"), (72.0, "#bfb498"), (97.0, "#f4efdf"))},
        "carbon, warm to cool": {"stops": ((4.0, "#14110f"), (32.0, "#4a423b"), (72.0, "#b9b4ad"), (97.0, "#f3f2ef"))},
        "sea and sand": {"stops": ((4.0, "#0d1418"), (32.0, "#3b474e"), (72.0, "#bdb199"), (97.0, "#f5eee0"))},
    }

    stops: Stops = stops(_FOUR, "Anchors", "Tones and the colours towards which they are tinted")
    lightness: float = number(0, 0, 100, "%", "Lightness", "How far tones move to the lightness of their anchors")
    keep: float = number(0, 0, 100, "%", "Colour kept", "How much of the colour that comes in stays beneath")
    by: Literal["tone", "colour"] = choice(
        "tone",
        (("tone", "tone"), ("colour", "colour: the anchor nearest to its own")),
        "Anchors by",
        "What a photograph in colours is parted by: its tones, or the anchors that are nearest to its colours",
    )

    def apply(self, planes: Planes, place: Place) -> Planes:
        gray = colour.gray_of(planes, place.space)
        tinted = np.empty((3, *gray.shape[1:]), np.float32)
        if self.by == "colour" and len(planes) == 3:
            anchors = np.array([colour.ink_of(text, place.space) for _, text in self.stops]).T
            lab = np.ascontiguousarray(colour.to_oklab(anchors, place.space).T, np.float32)
            tint_nearest(planes, tinted, gray.size, lab, len(lab), self.lightness / 100, place.space)
        else:
            map_tones(gray, tinted, gray.size, tints(self.stops, self.lightness, place.space), SIZE)
        if self.keep == 0 or len(planes) == 1:
            return tinted
        # What comes in is its gray and its colour; of the colour a part goes back on top.
        return np.clip(tinted + np.float32(self.keep / 100) * (planes - gray), 0, 1)

    def colours(self) -> bool:
        return True

    def ink_at(self, tone: float) -> str:
        return colour.hex_of(tints(self.stops, self.lightness, SRGB)[:, round(tone * (SIZE - 1))])


class SplitTone(QuadTone):
    """Darks and lights each with a colour of their own."""

    kind: ClassVar[str] = "split-tone"
    label: ClassVar[str] = "Split tone"
    about: ClassVar[str] = "Darks one colour, lights another"
    use: ClassVar[str] = "The simplest way to two tones"
    beware: ClassVar[str] = "Two strong colours fight in the middle"
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "cool darks, warm lights": {"stops": _TWO},
        "warm darks, cool lights": {"stops": ((20.0, "#3a312a"), (80.0, "#c1c7cc"))},
        "green darks, rose lights": {"stops": ((20.0, "#2d352e"), (80.0, "#d3c4bf"))},
        "sepia lights, blue darks": {"stops": ((20.0, "#2e3338"), (80.0, "#d0c3b0"))},
        "plum darks, cream lights": {"stops": ((20.0, "#342b36"), (80.0, "#d8cdb6"))},
    }

    stops: Stops = stops(_TWO, "Anchors", "Tones and the colours towards which they are tinted")


def shares(tones: NDArray[np.float64], gray: NDArray[np.float64]) -> NDArray[np.float64]:
    """How much each anchor counts ``(anchors, n)`` at grays 0…1; the anchors' tones rise, 0…1."""
    found = np.zeros((len(tones), len(gray)))
    upper = np.searchsorted(tones, gray, side="right")
    for k in range(len(tones) + 1):
        here = upper == k
        if k == 0:
            found[0, here] = 1
        elif k == len(tones):
            found[-1, here] = 1
        else:
            t = (gray[here] - tones[k - 1]) / max(tones[k] - tones[k - 1], 1e-9)
            s = t * t * (3 - 2 * t)
            found[k - 1, here], found[k, here] = 1 - s, s
    return found


@functools.lru_cache(maxsize=64)
def tints(anchors: Stops, lightness: float, space: Space) -> NDArray[np.float32]:
    """Encoded colours ``(3, SIZE)`` of a space for grays evenly from 0 to 1."""
    gray = np.linspace(0, 1, SIZE)
    tones = np.array([tone / 100 for tone, _ in anchors])
    inks = colour.to_oklab(np.array([colour.ink_of(text, space) for _, text in anchors]).T, space)
    own = colour.to_oklab(colour.in_colour(gray[None]), space)[0]
    weights = shares(tones, gray)
    mixed = inks @ weights
    placed = colour.to_oklab(colour.in_colour(tones[None]), space)[0]
    light = own + lightness / 100 * ((inks[0] - placed) @ weights)
    # Black and white have no room for colour: it goes towards nothing at both ends, as fast as the display's own does.
    room = np.minimum(1, np.minimum(light, 1 - light) / 0.06)
    wanted = np.stack([light, *(mixed[1:] * np.clip(room, 0, 1))])
    return table(colour.fitted(wanted, space))


_APART = 0.04  # of Oklab: anchors whose colour is so much farther than the nearest hardly count


@in_spaces("f4* rgb, f4* out, i8 n, f4* lab, i8 anchors, f4 lightness, f4* space")
def tint_nearest(numbers):
    def tint_nearest(rgb, out, n, lab, anchors, lightness, space):
        m = numbers(space)
        per = f(1.442695) / f(2 * _APART * _APART)
        for k in range(n):
            light, a, b = oklab_of(rgb[k], rgb[n + k], rgb[n + n + k], m)
            nearest = f(1e9)
            for i in range(anchors):
                u, v = a - lab[3 * i + 1], b - lab[3 * i + 2]
                nearest = min(nearest, u * u + v * v)
            total, u_mixed, v_mixed, l_mixed = f(0.0), f(0.0), f(0.0), f(0.0)
            for i in range(anchors):
                u, v = a - lab[3 * i + 1], b - lab[3 * i + 2]
                share = exp2(per * (nearest - u * u - v * v))
                total += share
                l_mixed += share * lab[3 * i]
                u_mixed += share * lab[3 * i + 1]
                v_mixed += share * lab[3 * i + 2]
            held = light + lightness * (l_mixed / total - light)
            room = min(max(min(held, f(1.0) - held) / f(0.06), f(0.0)), f(1.0)) / total
            red, green, blue = rgb_of(max(held, f(0.0)), u_mixed * room, v_mixed * room, m)
            out[k] = min(max(red, f(0.0)), f(1.0))
            out[n + k] = min(max(green, f(0.0)), f(1.0))
            out[n + n + k] = min(max(blue, f(0.0)), f(1.0))

    return tint_nearest
