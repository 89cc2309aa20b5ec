"""What of a print was found, and the run that it becomes on another photograph."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.after import surface
from kyanoscript.core.after.flat import flat_tones, two_tones
from kyanoscript.core.after.found import Found, laid, nodes, told
from kyanoscript.core.after.picture import Array, Ladder, gray_of_light, inside, ladder
from kyanoscript.core.after.same import of_the_same
from kyanoscript.core.after.scene import curve_of, same_scene
from kyanoscript.core.after.tint import ladders_apart, toned
from kyanoscript.core.colour import SRGB, to_lab
from kyanoscript.core.late import cv2
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.gray.gray_weights import GrayWeights
from kyanoscript.core.passes.tone.curves import Curves
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.script import Script, fresh
from kyanoscript.core.watching import breathe
from kyanoscript.translation import spoken, tr

SIDE = 640  # pixels of the longer side that both pictures are compared at
_LADDERS = 300  # of the pictures whose ladders are held against each other
_KNOWN = 1.0  # CIE a*, b*, in the mean: a recipe whose ladder is as near is the one
_FAR = 3.0  # where no other is known
_GENTLE, _STEEP = 0.4, 2.5  # slopes of tones that are taken from another scene


@dataclass(frozen=True)
class Known:
    """A recipe that the print may have been made with."""

    name: str
    run: tuple[Pass, ...]


@dataclass(frozen=True, eq=False)
class Followed:
    """All that was found of a print."""

    same: bool  # both pictures show the same scene
    found: tuple[Found, ...]
    left: tuple[str, ...]  # what was not matched, in words
    ladder: Ladder

    def taken(self, chosen: Mapping[str, tuple[bool, float]] | None = None) -> list[Found]:
        """What is wanted: a recipe that is known stands for everything else."""
        wanted = [one for one in self.found if (chosen or {}).get(one.key, (one.on, one.strength))[0]]
        return [one for one in wanted if one.key == "recipe"] or wanted

    def script(self, base: Script, chosen: Mapping[str, tuple[bool, float]] | None = None) -> Script:
        """The run on a photograph: ``chosen`` says of each thing whether it is wanted, and how strong.

        A recipe that is known stands for all the rest.
        """
        run: list[Pass] = []
        for one in self.taken(chosen):
            strength = (chosen or {}).get(one.key, (True, one.strength))[1]
            run += [step.model_copy(update={"strength": strength}) if strength < 100 else step for step in one.steps]
        if not run and not self.ladder.one_tint:
            return base
        return replace(base, passes=fresh(tuple(run)))


def small(planes: Planes, side: int = SIDE) -> Planes:
    """A picture reduced by areas to a longer side; three channels, held between black and white."""
    rgb = np.clip(np.moveaxis(colour.in_colour(planes), 0, -1), 0, 1).astype(np.float32)
    height, width = rgb.shape[:2]
    scale = side / max(height, width)
    if scale < 1:
        size = max(1, round(width * scale)), max(1, round(height * scale))
        rgb = np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.float32)
    return np.ascontiguousarray(np.moveaxis(rgb, -1, 0))


def follow(print_: Planes, photo: Planes, known: Sequence[Known] = ()) -> Followed:
    """What makes ``photo`` look like ``print_``, both encoded sRGB ``(1 or 3, h, w)``; ``known``: recipes that may have
    made it.

    The print may have a border or a mount, dust, grain, and may be a scan.
    """
    part, bordered = inside(small(print_))
    scale = max(print_.shape[1:]) / max(small(print_).shape[1:])
    rect = part.scaled(scale, scale) if bordered else Rect(0, 0, print_.shape[2], print_.shape[1])
    own = print_[:, rect.y : rect.bottom, rect.x : rect.right]
    here, there = small(own), small(photo)
    lab = to_lab(here, SRGB)
    flat = two_tones(lab)
    tints = flat or ladder(lab.reshape(3, -1))
    left = [spoken("Its border is not copied: see the pass Border")] if bordered else []
    gray_here, gray_there = gray_of_light(lab[0]), np.asarray(colour.gray_of(there, SRGB)[0], float)
    breathe()
    same = same_scene(here, there)
    breathe()
    if not tints.one_tint and same is None:
        left.append(
            spoken("This one has no one tint for each tone, as a colour photograph: only its tones are offered")
        )
        return Followed(False, tuple(_tones_of_another(gray_here, gray_there)), tuple(left), tints)
    tinted = tints.tinted and tints.one_tint
    recipe = _recipe(tints, flat is not None, there, known) if tinted else None
    found = [recipe] if recipe is not None else []
    if same is not None:
        found += of_the_same(lab, same.photo, same.both, flat)
    else:
        found.append(Found("weights", "Weights of colours", _NOT_KNOWN, (GrayWeights(),)))
        found += flat_tones(flat) if flat is not None else _of_another(gray_here, gray_there)
        left += [_ANOTHER] if flat is None else []
    breathe()
    made = [step for one in found if one.on and one.key != "recipe" for step in one.steps]
    grain = _grain(own, photo, made if same is not None else ()) if flat is None else None  # specks are no grain
    if grain is not None:
        found.append(grain)
    if tinted and not any(one.key == "tint" for one in found):
        step = toned(tints)
        lights = tints.light[0], tints.light[-1]
        words = tr("{low:.0f} to {high:.0f} L*, as {name}", low=lights[0], high=lights[1], name=spoken(step.label))
        found.append(Found("tint", "Tint along the ladder", words, (step,)))
    if not tints.one_tint and not any(one.key == "tint" for one in found):
        left.append(spoken("It has no one tint for each tone, as a colour photograph: its colours are not followed"))
    order = ["recipe", "weights", "details", "tones", "softness", "tint", "grain", "fall-off"]
    return Followed(same is not None, tuple(sorted(found, key=lambda one: order.index(one.key))), tuple(left), tints)


_NOT_KNOWN = "those of the eye: another scene does not tell them"
_ANOTHER = "Another scene does not tell what its tones and weights were: they are offered, and not proposed"


_NOBODY = Known("", ())


def _recipe(tints: Ladder, flat: bool, photo: Planes, known: Sequence[Known]) -> Found | None:
    """The recipe whose ladder on this photograph is the print's."""
    tiny = small(photo, _LADDERS // 2)
    near: list[tuple[float, Known]] = []
    for one in known:
        breathe()
        lab = to_lab(np.clip(colour.in_colour(laid(tiny, one.run)), 0, 1), SRGB)
        theirs = two_tones(lab)
        if flat == (theirs is not None):
            near.append((ladders_apart(tints, theirs or ladder(lab.reshape(3, -1))), one))
    near.sort(key=lambda pair: pair[0])
    (off, best), (after, other) = (*near, (_FAR, _NOBODY), (_FAR, _NOBODY))[:2]
    if off > _KNOWN and not (off <= 2 * _KNOWN and min(after, _FAR) > 3 * off):
        return None
    words = tr("{name}: its tints are {off:.1f} from the print's; it stands for all the rest",
               name=spoken(best.name), off=off)  # fmt: skip
    if after < 1.5 * off + 0.1:
        words += tr("; those of {name} are {off:.1f} from them", name=spoken(other.name), off=after)
    return Found("recipe", "A recipe of the book", words, fresh(best.run))


def _of_another(wanted: Array, photo: Array) -> list[Found]:
    """What another scene tells of tones, details, softness and fall-off: offered."""
    found = _tones_of_another(wanted, photo)
    for key, title, step in (
        ("softness", "Softness", surface.softened(wanted, photo)),
        ("details", "Details", surface.detailed(wanted, photo)),
        ("fall-off", "Fall-off to the corners", surface.fallen_off(wanted, None)),
    ):
        if step is not None:
            found.append(Found(key, title, told(step), (step,), on=False))
    return found


def _tones_of_another(wanted: Array, photo: Array) -> list[Found]:
    """Percentiles of one matched with those of the other: as gentle as tones may be."""
    shares = np.linspace(0.5, 99.5, 60)
    curve = curve_of(np.percentile(photo, shares), np.percentile(wanted, shares), _GENTLE, _STEEP)
    return [Found("tones", "Tones", nodes(curve), (Curves(every=curve),), on=False)] if curve else []


def _grain(print_: Planes, photo: Planes, steps: Sequence[Pass]) -> Found | None:
    """At the print's own pixels, against the photograph reduced to as many, with what was found of the same scene."""
    here = small(print_, 2400)
    there = small(photo, max(here.shape[1:]))
    if steps:
        there = laid(there, steps)

    def gray(planes: Planes) -> Array:
        return np.asarray(colour.gray_of(planes, SRGB)[0], float)

    step = surface.grained(surface.grain(gray(here)), surface.grain(gray(there)), max(here.shape[1:]))
    return Found("grain", "Grain", told(step), (step,)) if step is not None else None
