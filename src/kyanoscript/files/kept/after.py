"""A print followed from its file: as small as it can be compared, with the recipes of the book."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import numpy as np

from kyanoscript.core.after.following import Followed, Known, follow
from kyanoscript.core.colour import SRGB, in_colour
from kyanoscript.core.colour.moved import moved
from kyanoscript.core.picture import Planes, Rect, Source
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.kept.recipes import Recipe
from kyanoscript.files.photos.photo import open_photo

LONGER = 2400  # pixels of the longer side: grain is still seen there
_BRINGS = ("mend", "hand-tint", "lettering")  # passes of recipes that belong to one picture


def followed(path: Path, source: Source, base: Script, recipes: Iterable[Recipe]) -> Followed:
    """What of the picture in a file can be followed by a photograph, as it is framed and developed.

    Raises FileError if the file cannot be read.
    """
    photo = open_photo(path)
    bare = Script(frame=base.frame, develop=base.develop)
    return follow(planes_of(photo.source, Script()), planes_of(source, bare), known(recipes))


def planes_of(source: Source, script: Script, longer: int = LONGER) -> Planes:
    """A print as encoded sRGB ``(3, h, w)``, reduced."""
    renderer = Renderer(source, script)
    scale = min(1.0, longer / max(renderer.size(1.0)))
    planes = in_colour(renderer.region(Rect(0, 0, *renderer.size(scale)), scale))
    return np.clip(moved(planes, renderer.space, SRGB), 0, 1)


def known(recipes: Iterable[Recipe]) -> list[Known]:
    """Those that a print may have been made with: not what mends, tints by hand or letters."""
    return [
        Known(recipe.name, recipe.on(Script()).passes)
        for recipe in recipes
        if not any(step.kind in _BRINGS for step in recipe.script.passes)
    ]
