"""Hand-tint: colour laid over a gray picture whose lightness stays as it is.

Dabs that spread colour everything that looks alike (`kyanoscript.core.tint.spline`); dabs that stay keep to their own
outline: their weight falls as ``exp(−d²)`` with the way d from the dab, on which every step of lightness counts as a
detour (geodesic distance, as in Yatziv and Sapiro 2006). Parts of the scene fill their outlines beneath both. Chroma is
Oklab's; where a colour lies outside sRGB its chroma is lowered until it fits, so that the lightness is kept.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any, ClassVar, NamedTuple

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour import Space, in_colour, light_rgb_of, rgb_of
from kyanoscript.core.geometry import Affine, Framing
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.params import listed, number, text, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.people import Person, middle_of
from kyanoscript.core.people import people as people_in
from kyanoscript.core.people.parts import masks
from kyanoscript.core.picture import Planes, Rect, read, size_at
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import looked_up
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.tint import clean, field, offers, reading, reference, stay, waiting
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.field import lightness_at
from kyanoscript.core.tint.spline import SMALL, SMOOTH, Field
from kyanoscript.core.tint.tints import likely
from kyanoscript.core.watching import Watch, carried, unwatched

f = np.float32
_AXES = (("red", (0.0, 29.2)), ("green", (0.0, 142.5)), ("yellow", (0.0, 109.8)))
_SHIFT = 0.05  # Oklab chroma that a full turn of an axis adds to a colour that is plainly there


class _Solved(NamedTuple):
    """What spreads, on the small picture: gains and offsets ``(4, h, w)`` to lightness."""

    beneath: Field
    over: Field | None = None  # what is added to all that lies there


class HandTint(Pass):
    """Colour by dabs."""

    kind: ClassVar[str] = "hand-tint"
    label: ClassVar[str] = "Hand-tint"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "A gray picture coloured by dabs"
    use: ClassVar[str] = "To colour a gray picture, part by part or dab by dab"
    beware: ClassVar[str] = "Too much of one tint looks like paint; leave something gray"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "by hand alone": {"auto": False, "people": False, "amount": 100.0},
        "first colouring": {"auto": True, "people": True, "least": 35.0, "amount": 100.0},
        "only what is sure": {"auto": True, "people": True, "least": 65.0, "amount": 100.0},
        "faint, as brushed with dyes": {"amount": 55.0, "edges": 60.0},
    }
    pointwise: ClassVar[bool] = False
    draws: ClassVar[str] = "dabs"
    suggests: ClassVar[tuple[str, ...]] = ("dabs",)
    on_gray: ClassVar[dict[str, Any]] = {"auto": True}
    samples: ClassVar[dict[str, Any]] = {"dabs": (Dab(points=((50.0, 50.0),)),)}

    dabs: tuple[Dab, ...] = listed("dabs", (Dab,), "Dabs", "Places and strokes of colour", most=2000)
    auto: bool = toggle(
        False,
        "First colouring",
        "Divides the scene into parts: what is read surely has its tint, the others wait for one. It can tell sky, "
        "ground, stone, leaves and faces, but not what colour a cloth, a door or a boat had",
        group="Guess",
    )
    people: bool = toggle(
        True,
        "People",
        "Looks for people: skin is tinted, and for lips, hair and clothes a tint is offered, each within its outline",
        group="Guess",
    )
    least: float = number(35, 0, 100, "%", "Guesses surer than", "Less sure parts and dabs stay gray", group="Guess")
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
        sampled = self._laid(_sampled(made.beneath, place.rect, ground), place, place.rect, ground.scale, True)
        if made.over is not None:
            sampled += _sampled(made.over, place.rect, ground)
        sampled = self._laid(sampled, place, place.rect, ground.scale, False)
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
        with ThreadPoolExecutor(1) as other:  # each keeps one processor busy
            read = other.submit(carried(lambda _: scene_of(proxy, space)), None)
            seen = people_in(full, watch) if self.people else []
            scene = read.result()

        def at(x: float, y: float) -> tuple[float, float]:
            """A place of the print, 0…1, on the photograph, in per cent."""
            px, py = framing.to_photo(x * framing.width, y * framing.height)
            return round(100 * px / framing.photo[0], 3), round(100 * py / framing.photo[1], 3)

        made = list(waiting.laid(offers.regions(scene, covered(seen, scene.lightness.shape)), at))
        for which, person in enumerate(seen, 1):
            made += _dabs_of(person, which, at, framing.photo, full)
        return {"dabs": (*made, *self.dabs), "auto": False}

    def remarks(self) -> str:
        if any(dab.offered for dab in self.dabs):
            return "Press a part, or U, then a tint, or Alt+1 to 6. What is largest first; lips and brows last"
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

    def _laid(self, sampled: Planes, place: Place, rect: Rect, scale: float, regions: bool) -> Planes:
        """The parts of the scene laid over gains and offsets ``(4, h, w)``, or what has an outline otherwise."""
        ground = place.ground
        assert ground is not None
        size, bare, covered = ground.framing.size(scale), None, False
        for dab in self.dabs:
            if dab.shaded != regions:
                continue
            if self.counts(dab):
                if regions and bare is None:
                    bare = sampled.copy()
                for patch in stay.patches((dab,), place, ground):
                    sampled, covered = patch.laid(sampled, rect, size), True
            elif regions and covered:  # what waits shows through what lies round it
                for patch in stay.bared(dab, place, ground):
                    sampled = patch.laid(sampled, rect, size, bare)
        return sampled

    def _solved(self, small: field.Small, place: Place) -> _Solved:
        """Gains and offsets on the small picture, for what spreads."""
        ground = place.ground
        assert ground is not None
        marks = [_mark(dab, small, ground) for dab in self.dabs if dab.acts == "spreads" and self.counts(dab)]
        base = None
        if self.model and self.share and place.picture is not None:
            lent = ground.memo(("tint model", place.chain, self.model), lambda: _lent(small, place, self.model))
            base = None if lent is None else lent * f(self.share / 100)
        softness = 12.0 ** (1 - self.edges / 50)

        def along(chroma: Field) -> Field:
            if self.calm_colour:
                calmed = clean.calm_chroma(small.lightness, chroma)
                chroma = chroma + f(self.calm_colour / 100) * (calmed - chroma)
            return field.along_edges(small.lightness, chroma, softness)

        if not any(dab.shaded and self.counts(dab) for dab in self.dabs):
            return _Solved(along(field.spread(small, marks, base)))
        # What spreads changes what the parts of the scene have, too: all it adds to them lies over them.
        start = np.zeros((2, *small.lightness.shape), np.float32) if base is None else base
        beneath = along(start)
        whole = Rect(0, 0, *small.lightness.shape[::-1])
        laid = self._laid(beneath.copy(), place, whole, _small_scale(ground), True)
        had = laid[::2] * small.lightness + laid[1::2]
        return _Solved(beneath, along(field.spread(small, marks, had) - had) if marks else None)


def scene_of(planes: Planes, space: Space) -> offers.Scene:
    """What enters the pass as a scene that was read."""
    gray = colour.gray_of(planes, space)[0]
    return offers.looked_over(field.lightness_of(reading.read_at(np.asarray(gray, np.float32))))


def covered(persons: Sequence[Person], shape: tuple[int, ...]) -> np.ndarray[Any, np.dtype[np.bool_]]:
    """Where anybody is, of a picture ``(h, w)``."""
    height, width = shape[:2]
    made = [mask for person in persons for mask in masks(person, (width, height)).values()]
    return np.asarray(np.any(made, axis=0)) if made else np.zeros((height, width), bool)


_AT_ONCE = ("skin", "hands", "eyes")  # the others wait for a tint
_BLUSHES = 0.5  # of the width of a cheek: from there it runs out softly
_SHADED = ("hair", "clothes")  # skin has hardly less colour in the shade; the others lie on it


def _dabs_of(
    person: Person,
    which: int,
    at: Callable[[float, float], tuple[float, float]],
    photo: tuple[int, int],
    lightness: Field,
) -> list[Dab]:
    """A dab for every piece of what was found of somebody, larger things before those that lie on them.

    Pieces of one thing of one person have the same name, and are given tints together. ``photo``: its width and height;
    ``lightness`` ``(h, w)``, 0…100, of the print: what is light has lighter tints.
    """
    made = []
    for name in ("clothes", "hands", "skin", "hair", "blush", "brows", "lips", "eyes"):
        part, tints = person.part(name), likely(name, person.tone)
        if part is not None and name in _SHADED:
            light = float(lightness[covered((replace(person, parts=(part,)),), lightness.shape)].mean()) / 100
            tints = tuple(dict.fromkeys(offers.at_lightness(ink, light) for ink in tints))
        for line in part.outlines if part is not None else ():
            sure = part.sure if name in _AT_ONCE and part is not None else 0.0
            dab = Dab(
                points=(at(*middle_of(line)),), colour=tints[0], acts="within", outline=tuple(at(*c) for c in line),
                name=name if which == 1 else f"{name} {which}", sure=sure, guess=True, shaded=name in _SHADED,
                tints=" ".join(tints),
            )  # fmt: skip
            if name == "blush":  # it has no rim
                wide = np.ptp(np.array(dab.outline), axis=0) / 100 * photo
                size = round(_BLUSHES * 1000 * float(wide.max()) / max(photo), 1)
                dab = dab.model_copy(update={"acts": "stays", "outline": (), "size": min(max(size, 0.1), 500.0)})
            made.append(dab)
    return made


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
