"""A print that is followed: both pictures as small as they can be compared, and the recipes of the book."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from kyanoscript.core.after.following import Followed, Known, follow
from kyanoscript.core.colour import SRGB, in_colour
from kyanoscript.core.colour.moved import moved
from kyanoscript.core.picture import Planes, Rect, Source
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.kept.recipes import Recipe

LONGER = 2400  # pixels of the longer side: grain is still seen there
_BRINGS = ("mend", "hand-tint", "lettering")  # passes of recipes that belong to one picture


def followed(print_: Source, photo: Source, base: Script, recipes: Iterable[Recipe]) -> Followed:
    """What of a print can be followed by a photograph, as a script frames and develops it; ``recipes``: those that the
    print may have been made with."""
    bare = Script(frame=base.frame, develop=base.develop)
    return follow(planes_of(print_, Script()), planes_of(photo, bare), _known(recipes))


def planes_of(source: Source, script: Script, longer: int = LONGER) -> Planes:
    """A print as encoded sRGB ``(3, h, w)``, reduced."""
    renderer = Renderer(source, script)
    scale = min(1.0, longer / max(renderer.size(1.0)))
    planes = in_colour(renderer.region(Rect(0, 0, *renderer.size(scale)), scale))
    return np.clip(moved(planes, renderer.space, SRGB), 0, 1)


def _known(recipes: Iterable[Recipe]) -> list[Known]:
    """Those that a print may have been made with: not what mends, tints by hand or letters."""
    return [
        Known(recipe.name, recipe.on(Script()).passes)
        for recipe in recipes
        if not any(step.kind in _BRINGS for step in recipe.script.passes)
    ]
