"""The pass that gives a gray print the tints of a ladder."""

from __future__ import annotations

import itertools

import numpy as np

from kyanoscript.core.after.picture import Array, Ladder, light_of_gray
from kyanoscript.core.colour import SRGB, hex_of, to_encoded, to_lab
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.gradient_map import GradientMap
from kyanoscript.core.passes.toning.paper_tone import PaperTone
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

_TONES = np.linspace(0, 100, 41)  # per cent of the encoded gray
_PLACES = np.linspace(0, 100, 11)[1:-1]  # where a stop may stand
_FEWEST, _MOST = 3, 6  # stops
_NEAR = 0.8  # CIE a*, b*, in the mean: a ladder that is as near is the same
_LIGHT = 1.5  # L*, that paper and image tone may take


def rgb_of_lab(lab: Array) -> Array:
    """Encoded sRGB ``(3, n)``, held between 0 and 1, of CIE L*, a*, b* ``(3, n)``."""
    light, a, b = np.asarray(lab, float)
    y = (light + 16) / 116
    t = np.stack([y + a / 500, y, y - b / 200])
    xyz = np.where(t > 6 / 29, t**3, 3 * (6 / 29) ** 2 * (t - 4 / 29)) * SRGB.to_xyz.sum(1)[:, None]
    return np.asarray(to_encoded(np.clip(np.linalg.inv(SRGB.to_xyz) @ xyz, 0, 1)), float)


def toned(ladder: Ladder) -> Pass:
    """Paper and tone where that is enough, else a gradient map of three to six stops: the fewest that come near."""
    wanted = np.array([light_of_gray(_TONES / 100), *ladder.at(light_of_gray(_TONES / 100))])
    wanted = to_lab(rgb_of_lab(wanted)[:, None].astype(np.float32), SRGB)[:, 0]  # as far as there are such colours
    paper = _on_paper(ladder, wanted)
    if paper is not None:
        return paper
    colours = rgb_of_lab(np.array([light_of_gray(_TONES / 100), *ladder.at(light_of_gray(_TONES / 100))]))
    best, nearest = None, np.inf
    for count in range(_FEWEST, _MOST + 1):
        for inner in itertools.combinations(_PLACES, count - 2):
            places = np.array([0.0, *inner, 100.0])
            stops = np.stack([np.interp(places, _TONES, channel) for channel in colours])
            made = np.stack([np.interp(_TONES, places, channel) for channel in stops])
            off = _off(to_lab(made[:, None].astype(np.float32), SRGB)[:, 0], wanted)
            if off < nearest:
                best, nearest = (places, stops), off
        if nearest < _NEAR:
            break
    assert best is not None
    inks = tuple((round(float(place), 1), hex_of(best[1][:, k])) for k, place in enumerate(best[0]))
    return GradientMap(stops=inks)


def mapped(colours: Ladder) -> Pass:
    """A gradient map for tones that turn: a stop at each gray whose colour is known."""
    assert colours.grays is not None
    inks = rgb_of_lab(np.stack([colours.light, colours.a, colours.b]))
    stops = {round(100 * float(gray), 1): hex_of(inks[:, k]) for k, gray in enumerate(colours.grays)}
    return GradientMap(stops=tuple(sorted(stops.items())))


def _off(made: Array, wanted: Array) -> float:
    return float(np.hypot(made[1] - wanted[1], made[2] - wanted[2]).mean() + np.abs(made[0] - wanted[0]).mean() / 3)


def _on_paper(ladder: Ladder, wanted: Array) -> Pass | None:
    paper = hex_of(rgb_of_lab(wanted[:, -1:])[:, 0])
    ramp = ArraySource((_TONES / 100).astype(np.float32)[None])
    for tone in range(-100, 101, 10):
        step = PaperTone(paper=paper, dmax=3.0, tone=tone)
        planes = Renderer(ramp, Script((step,))).region(Rect(0, 0, len(_TONES), 1))
        made = to_lab(planes, SRGB)[:, 0]
        off = float(np.hypot(made[1] - wanted[1], made[2] - wanted[2]).mean())
        if off < _NEAR and np.abs(made[0] - wanted[0]).mean() < _LIGHT:
            return step
    return None


def ladders_apart(one: Ladder, other: Ladder) -> float:
    """How far the tints of two ladders are apart where both have tones, in the mean; infinite if they share none."""
    low, high = max(one.light[0], other.light[0]), min(one.light[-1], other.light[-1])
    if high - low < 20:
        return float("inf")
    at = np.linspace(low, high, 16)
    (a, b), (c, d) = one.at(at), other.at(at)
    return float(np.hypot(a - c, b - d).mean())
