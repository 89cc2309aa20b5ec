"""Hand-tint: colour laid over a gray picture whose lightness stays as it is.

Dabs that spread colour everything that looks alike (`kyanoscript.core.tint.spline`); dabs that stay keep to their own
outline: their weight falls as ``exp(−d²)`` with the way d from the dab, on which every step of lightness counts as a
detour (geodesic distance, as in Yatziv and Sapiro 2006). Chroma is Oklab's; where a colour lies outside sRGB its
chroma is lowered until it fits, so that the lightness is kept.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any, ClassVar

import cv2
import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour import Space, in_colour, light_rgb_of, rgb_of
from kyanoscript.core.geometry import Affine, Framing
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.params import listed, number, text, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.people import Person, middle_of
from kyanoscript.core.people import people as people_in
from kyanoscript.core.picture import Planes, Rect, read, size_at
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import looked_up
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.tint import clean, field, reading, reference, stay
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.field import lightness_at
from kyanoscript.core.tint.spline import SMALL, SMOOTH, Field
from kyanoscript.core.watching import Watch, unwatched

f = np.float32
_AXES = (("red", (0.0, 29.2)), ("green", (0.0, 142.5)), ("yellow", (0.0, 109.8)))
_OF_FACE = 0.5  # a face's diameter that its dab of skin takes: from there it runs on to the outline
_SHIFT = 0.05  # Oklab chroma that a full turn of an axis adds to a colour that is plainly there


class HandTint(Pass):
    """Colour by dabs."""

    kind: ClassVar[str] = "hand-tint"
    label: ClassVar[str] = "Hand-tint"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "A gray picture coloured by dabs"
    pointwise: ClassVar[bool] = False
    draws: ClassVar[str] = "dabs"
    suggests: ClassVar[tuple[str, ...]] = ("dabs",)
    on_gray: ClassVar[dict[str, Any]] = {"auto": True}
    samples: ClassVar[dict[str, Any]] = {"dabs": (Dab(points=((50.0, 50.0),)),)}

    dabs: tuple[Dab, ...] = listed("dabs", (Dab,), "Dabs", "Places and strokes of colour", most=2000)
    auto: bool = toggle(
        False,
        "First colouring",
        "Reads the scene and lays dabs of its own; each can be changed. It can tell sky, ground, stone, leaves and "
        "faces, but not what colour a cloth, a door or a boat had",
        group="Guess",
    )
    people: bool = toggle(
        True,
        "People",
        "Looks for people: skin is tinted, and for lips, hair and clothes a tint is offered, each within its outline",
        group="Guess",
    )
    least: float = number(
        35, 0, 100, "%", "Guesses surer than", "Less sure ones do not count: fewer guesses, or more", group="Guess"
    )
    amount: float = number(100, 0, 200, "%", "Amount", "Less or more colour, everywhere", group="Colour")
    red: float = number(0, -100, 100, "", "Cyan to red", "Where there is colour", group="Colour")
    green: float = number(0, -100, 100, "", "Magenta to green", "Where there is colour", group="Colour")
    yellow: float = number(0, -100, 100, "", "Blue to yellow", "Where there is colour", group="Colour")
    model: str = text(
        "", "Model", "A colour photograph whose colours lie beneath the dabs", names="model", group="Model"
    )
    share: float = number(100, 0, 100, "%", "Its share", "How much of the model's colours there is", group="Model")
    edges: float = number(
        50, 0, 100, "%", "Keep to edges", "Colour that has bled over an outline goes back behind it", group="Clean-up"
    )
    calm_colour: float = number(0, 0, 100, "%", "Calm colours", "Patches of stray colour grow even", group="Clean-up")
    calm_gray: float = number(
        0, 0, 40, "levels", "Calm gray noise", "Sigma, of 255, of the grain that is taken away", group="Clean-up"
    )

    def margin(self, longer: float) -> int:
        return clean.REACH if self.calm_gray else 0

    def apply(self, planes: Planes, place: Place) -> Planes:
        gray = colour.gray_of(planes, place.space)
        if self.calm_gray:
            # At a part of the scale each pixel is the mean of many, and the noise is less.
            gray = clean.calm_gray(gray, self.calm_gray * min(1.0, place.longer / _longer(place)))
        gray = place.inner(gray)
        ground = place.ground
        if ground is None or not self.colours():
            return gray
        small = ground.memo(("tint picture", place.chain), lambda: _small(ground))
        key = ("tint", place.chain, self.dabs, self.least, self.edges, self.calm_colour, self.model, self.share)
        made = ground.memo(key, lambda: self._solved(small, place))
        sampled = _sampled(made, place.rect, ground)
        for patch in stay.patches([dab for dab in self.dabs if self.counts(dab)], place, ground):
            sampled = patch.laid(sampled, place.rect, ground.framing.size(ground.scale))
        out = np.empty((3, *gray.shape[1:]), np.float32)
        paint(gray, sampled, out, gray.size, self.amount / 100, *self._shift(), place.space.numbers)
        return out

    def grays(self) -> bool:
        return not self.colours()

    def colours(self) -> bool:
        return bool(self.dabs or self.model or self.auto)

    def pictures(self) -> list[str]:
        return [self.model] if self.model and self.share else []

    def counts(self, dab: Dab) -> bool:
        """Whether a dab counts: what the hand laid does, and guesses that are sure enough; offers wait for a tint."""
        return not dab.guess or (dab.sure >= self.least and not dab.offered)

    def suggest(self, proxy: Planes, framing: Framing, space: Space, watch: Watch = unwatched) -> dict[str, Any]:
        gray = colour.gray_of(proxy, space)[0]
        full = field.lightness_of(np.ascontiguousarray(gray, np.float32))
        scale = reading.SIDE / max(gray.shape)
        if scale < 1:
            gray = cv2.resize(gray, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        lightness = field.lightness_of(np.ascontiguousarray(gray, np.float32))
        seen = people_in(full, watch) if self.people else []

        def at(x: float, y: float) -> tuple[float, float]:
            """A place of the print, 0…1, on the photograph, in per cent."""
            px, py = framing.to_photo(x * framing.width, y * framing.height)
            return round(100 * px / framing.photo[0], 3), round(100 * py / framing.photo[1], 3)

        guessed = []
        for guess in reading.guesses(lightness):
            if any(_inside(person, guess.x, guess.y) for person in seen):
                continue  # of a person more is known
            dab = Dab(points=(at(guess.x, guess.y),), colour=guess.colour, sure=guess.sure, guess=True)
            if guess.face:  # of the print; sizes are shares of the photograph
                size = 1000 * _OF_FACE * guess.face * max(framing.width, framing.height) / max(framing.photo)
                dab = dab.model_copy(update={"acts": "stays", "size": round(min(max(size, 0.1), 500.0), 1)})
            guessed.append(dab)
        for which, person in enumerate(seen, 1):
            guessed += _dabs_of(person, which, at)
        return {"dabs": (*guessed, *self.dabs), "auto": False}

    def remarks(self) -> str:
        if any(dab.offered for dab in self.dabs):
            return "Tint what is largest first: ground, clothes, hair. Then skin. Lips and brows last: they are small"
        return (
            "Sky, ground, stone and faces are told, cloth and paint not: tint what is largest first"
            if self.auto
            else ""
        )

    def _shift(self) -> tuple[float, float]:
        """What the three axes add to Oklab a and b."""
        total = [0.0, 0.0]
        for name, (_, hue) in _AXES:
            by = getattr(self, name) / 100 * _SHIFT
            total[0] += by * math.cos(math.radians(hue))
            total[1] += by * math.sin(math.radians(hue))
        return total[0], total[1]

    def _solved(self, small: field.Small, place: Place) -> Field:
        """Gains and offsets ``(4, h, w)`` on the small picture, for what spreads."""
        ground = place.ground
        assert ground is not None
        marks = [_mark(dab, small, ground) for dab in self.dabs if dab.acts == "spreads" and self.counts(dab)]
        base = None
        if self.model and self.share and place.picture is not None:
            lent = ground.memo(("tint model", place.chain, self.model), lambda: _lent(small, place, self.model))
            base = None if lent is None else lent * f(self.share / 100)
        chroma = field.spread(small, marks, base)
        if self.calm_colour:
            calmed = clean.calm_chroma(small.lightness, chroma)
            chroma = chroma + f(self.calm_colour / 100) * (calmed - chroma)
        return field.along_edges(small.lightness, chroma, 12.0 ** (1 - self.edges / 50))


_TINT_OF = {"skin": "#c89a80", "lips": "#b06a67", "eyes": "#8f8f8f", "brows": "#6a4d38", "hair": "#6a4d38",
            "hands": "#c89a80", "clothes": "#909090"}  # fmt: skip
_AT_ONCE = ("skin", "eyes")  # the others wait for a tint


def _dabs_of(person: Person, which: int, at: Callable[[float, float], tuple[float, float]]) -> list[Dab]:
    """A dab for every piece of what was found of somebody, larger things before those that lie on them.

    Pieces of one thing of one person have the same name, and are given tints together.
    """
    made = []
    for name in ("clothes", "hands", "skin", "hair", "brows", "lips", "eyes"):
        part = person.part(name)
        for line in part.outlines if part is not None else ():
            x, y = middle_of(line)
            sure = part.sure if name in _AT_ONCE and part is not None else 0.0
            made.append(
                Dab(
                    points=(at(x, y),),
                    colour=_TINT_OF[name],
                    acts="within",
                    outline=tuple(at(*c) for c in line),
                    name=name if which == 1 else f"{name} {which}",
                    sure=sure,
                    guess=True,
                )
            )
    return made


def _inside(person: Person, x: float, y: float) -> bool:
    """Whether a place of the print lies on somebody."""
    return any(
        cv2.pointPolygonTest(np.array(line, np.float32).reshape(-1, 1, 2), (x, y), False) >= 0
        for part in person.parts
        for line in part.outlines
    )


def _longer(place: Place) -> float:
    """The photograph's longer side at its own pixels."""
    assert place.ground is not None
    return float(max(place.ground.framing.photo))


def _lent(small: field.Small, place: Place, name: str) -> Field | None:
    """The model's colours for the small picture; None if the model cannot be found."""
    assert place.picture is not None
    found = place.picture(name)
    if found is None:
        return None
    source = found.colours
    scale = min(1.0, math.sqrt(SMALL / (source.width * source.height)))
    planes = read(source, Rect(0, 0, *size_at(source, scale)), scale)
    lab = colour.to_oklab(in_colour(planes), source.space).astype(np.float32)
    return reference.lent(small.lightness, np.ascontiguousarray(lab[0] * 100), np.ascontiguousarray(lab[1:]))


def _small(ground: Ground) -> field.Small:
    """The small picture of what comes into the pass."""
    scale = _small_scale(ground)
    gray = colour.gray_of(ground.inputs("print", Rect(0, 0, *ground.framing.size(scale)), scale), ground.space)
    return field.small_picture(field.lightness_of(gray[0]))


def _small_scale(ground: Ground) -> float:
    return min(1.0, math.sqrt(SMALL / (ground.framing.width * ground.framing.height)))


def _mark(dab: Dab, small: field.Small, ground: Ground) -> field.Mark:
    """A dab on the small picture."""
    here = replace(ground, scale=_small_scale(ground))
    to_print = here.to_photo.inverse()
    across, down = here.framing.photo
    places = tuple(to_print(p[0] / 100 * across, p[1] / 100 * down) for p in dab.points)
    loose = field.LOOSELY if dab.guess else SMOOTH
    return field.Mark(places, dab.size / 2000 * here.longer, field.chroma_of(dab.colour), loose)


def _sampled(made: Field, rect: Rect, ground: Ground) -> Planes:
    """The small gains and offsets at every pixel of a region ``(4, h, w)``."""
    width, height = ground.framing.size(ground.scale)
    across, down = made.shape[2] / width, made.shape[1] / height
    where = Affine(a=across, e=down, c=(rect.x + 0.5) * across - 0.5, f=(rect.y + 0.5) * down - 0.5)
    return looked_up(made, where, rect.width, rect.height)


@helper
def beyond(light, a, b, m):
    """How far an Oklab colour lies outside the space; 0 or less: it fits, but for a hair."""
    r, g, b_ = light_rgb_of(light, a, b, m)
    return max(f(-1e-7) - min(min(r, g), b_), max(max(r, g), b_) - f(1.00002))


@kernel("f4* gray, f4* field, f4* out, i8 n, f4 amount, f4 shift_a, f4 shift_b, f4* m")
def paint(gray, field, out, n, amount, shift_a, shift_b, m):
    for k in range(n):
        v = min(max(gray[k], f(0.0)), f(1.0))
        light = lightness_at(v)
        a = field[k] * light * f(100.0) + field[n + k]
        b = field[n + n + k] * light * f(100.0) + field[3 * n + k]
        chroma = np.sqrt(a * a + b * b)
        there = chroma / (chroma + f(0.02))
        a = amount * (a + there * shift_a)
        b = amount * (b + there * shift_b)
        out_at_high = beyond(light, a, b, m)
        if out_at_high > f(0.0):
            low, high = f(0.0), f(1.0)
            out_at_low = min(beyond(light, f(0.0), f(0.0), m), f(0.0))
            for _ in range(6):
                half = f(0.5) * (low + high)
                past = beyond(light, a * half, b * half, m)
                if past <= f(0.0):
                    low, out_at_low = half, past
                else:
                    high, out_at_high = half, past
            # The rest of the way straight: a step more or less, as the last bit decides, would be seen.
            share = low + (high - low) * out_at_low / (out_at_low - out_at_high)
            a, b = a * share, b * share
        out[k], out[n + k], out[n + n + k] = rgb_of(light, a, b, m)
