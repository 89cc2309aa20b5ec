"""What was done to a photograph that shows the same scene as the print: it lies over it, pixel by pixel.

Each thing is only taken if it explains a part of what all before it leave.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.after import surface
from kyanoscript.core.after.flat import flat_tones, parted_at
from kyanoscript.core.after.found import Found, grays, nodes, told
from kyanoscript.core.after.picture import Array, Ladder, colours_along, gray_of_light
from kyanoscript.core.after.scene import Curve, Fitted, curve_of, fitted, turned
from kyanoscript.core.after.tint import mapped
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.gray.gray_weights import GrayWeights
from kyanoscript.core.passes.tone.curves import Curves
from kyanoscript.core.picture import Planes
from kyanoscript.core.watching import breathe
from kyanoscript.translation import spoken, tr

_PIXELS = 20_000  # that weights are fitted on
_ROUNDS = 4  # of tones, and the fall-off that they leave


def of_the_same(lab: Array, photo: Planes, both: NDArray[np.bool_], flat: Ladder | None) -> list[Found]:
    """Weights, tones and surface of a print's L*, a*, b* ``(3, h, w)``, from the photograph ``(3, h, w)`` laid over it.

    both : where both are, ``(h, w)``
    flat : the colours of a print that has only two
    """
    printed = wanted = gray_of_light(lab[0])
    places = np.flatnonzero(both.ravel())
    if len(places) > _PIXELS:
        places = places[np.random.default_rng(1).permutation(len(places))[:_PIXELS]]
    fit = _fitted(photo, wanted, places)
    weights, curve = _weights(fit), fit.curve
    gray = grays(photo, [weights])
    if flat is not None:
        level = parted_at(gray.ravel()[places], lab[0].ravel()[places] > flat.light.mean())
        return [_told_weights(weights), *flat_tones(flat, level)]
    breathe()
    if turned(gray.ravel()[places], wanted.ravel()[places]):
        drawn = surface.drawn_out(gray, wanted, both, 1)  # pixel by pixel: means of what turns say nothing
        steps = [weights, drawn] if drawn is not None else [weights]
        step = mapped(colours_along(grays(photo, steps).ravel()[places], lab.reshape(3, -1)[:, places]))
        turning = Found("tint", "Tones that turn, and their tints", spoken(step.label), (step,))
        return [_told_weights(weights), *_one("details", "Details", drawn), turning]
    fall = None
    for _ in range(_ROUNDS):  # tones are those before the corners fell off, and that is seen once tones are known
        fall = surface.fallen_off(printed, grays(photo, _run(weights, None, curve)), both)
        if fall is None:
            break
        wanted = surface.without_fall_off(printed, fall)
        curve = curve_of(surface.calm(gray).ravel()[places], surface.calm(wanted).ravel()[places])
    if wanted is not printed:
        wanted = printed if fall is None else wanted  # what was taken for a fall-off at first may have been a tone
        fit = _fitted(photo, wanted, places, fit)
        weights, curve = _weights(fit), fit.curve
        gray = grays(photo, [weights])
    breathe()
    drawn = surface.drawn_out(gray, wanted, both)
    if drawn is not None:
        gray = grays(photo, [weights, drawn])
        curve = curve_of(surface.calm(gray).ravel()[places], surface.calm(wanted).ravel()[places])
    soft = surface.softened(wanted, grays(photo, _run(weights, drawn, curve)))
    return [
        _told_weights(weights),
        *_one("details", "Details", drawn),
        *([Found("tones", "Tones", nodes(curve), (Curves(every=curve),))] if curve else ()),
        *_one("softness", "Softness", soft),
        *_one("fall-off", "Fall-off to the corners", fall),
    ]


def _fitted(photo: Planes, wanted: Array, places: NDArray[np.intp], near: Fitted | None = None) -> Fitted:
    soft = np.stack([surface.calm(plane) for plane in photo]).reshape(3, -1)[:, places].astype(float)
    return fitted(soft, surface.calm(wanted).ravel()[places], near)


def _weights(fit: Fitted) -> GrayWeights:
    red, green, blue = (round(100 * share, 1) for share in fit.shares)
    basis: Literal["encoded", "light"] = "light" if fit.light else "encoded"
    return GrayWeights(red=red, green=green, blue=blue, basis=basis, ring=fit.ring)


def _run(weights: GrayWeights, drawn: Pass | None, curve: Curve) -> list[Pass]:
    steps: list[Pass] = [weights]
    if drawn is not None:
        steps.append(drawn)
    return [*steps, Curves(every=curve)] if curve else steps


def _told_weights(weights: GrayWeights) -> Found:
    shares = (f"{share:.0f}".replace("-", "\N{MINUS SIGN}") for share in (weights.red, weights.green, weights.blue))
    words = tr("red {r}, green {g}, blue {b} %", **dict(zip("rgb", shares, strict=True)))
    return Found("weights", "Weights of colours", words, (weights,))


def _one(key: str, title: str, step: Pass | None) -> list[Found]:
    return [Found(key, title, told(step), (step,))] if step is not None else []
