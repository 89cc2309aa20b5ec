"""How near the run proposed after a print comes to what the print was made with.

Every shipped recipe without frame, border, lettering or tint by hand is laid on photograph A: that is the print. The
run proposed for photograph B is held against the recipe itself on B, in the mean CIEDE2000; of the same scene B is A.
Photographs are those that come with scikit-image and scikit-learn; pairs are drawn with a fixed seed.

Run as ``python bench/after.py [PAIRS] [SIDE]``; it makes the table of docs/decisions.
"""

from __future__ import annotations

import importlib.util
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.after.following import Known, follow, small
from kyanoscript.core.colour import SRGB, in_colour, to_lab
from kyanoscript.core.colour.difference import ciede2000
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Planes, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.kept.recipes import Recipe, bundled

Array = NDArray[np.float64]

PHOTOS = {
    "skimage": (
        "data/coffee.png", "data/chelsea.png", "data/rocket.jpg", "data/astronaut.png", "data/motorcycle_left.png",
        "data/hubble_deep_field.jpg",
    ),
    "sklearn": ("datasets/images/china.jpg", "datasets/images/flower.jpg"),
}  # fmt: skip
LEFT_OUT = ("border", "lettering", "hand-tint", "mend")


def photographs(side: int) -> list[Planes]:
    """Eight of them, reduced."""
    found = []
    for package, names in PHOTOS.items():
        spec = importlib.util.find_spec(package)
        assert spec is not None
        assert spec.origin is not None
        for name in names:
            picture = cv2.imread(str(Path(spec.origin).parent / name))
            assert picture is not None, name
            rgb = np.moveaxis(picture[..., ::-1], -1, 0).astype(np.float32) / 255
            found.append(small(rgb, side))
    return found


def recipes() -> list[Recipe]:
    """Those that can be followed."""
    load_all()
    return [
        recipe
        for recipe in bundled()
        if not any(step.kind in LEFT_OUT for step in recipe.script.passes) and recipe.script.frame == Script().frame
    ]


def laid(photo: Planes, script: Script) -> Planes:
    """The print."""
    renderer = Renderer(ArraySource(np.ascontiguousarray(np.moveaxis(photo, 0, -1))), script)
    return np.clip(in_colour(renderer.region(Rect(0, 0, *renderer.size(1.0)))), 0, 1)


def off(one: Planes, other: Planes) -> float:
    """The mean difference."""
    return float(ciede2000(*(to_lab(planes, SRGB).reshape(3, -1).T for planes in (one, other))).mean())


def jpeg(print_: Planes) -> Planes:
    """Quality 80."""
    levels = np.rint(np.moveaxis(print_, 0, -1)[..., ::-1] * 255).astype(np.uint8)
    _, data = cv2.imencode(".jpg", levels, [cv2.IMWRITE_JPEG_QUALITY, 80])
    back = cv2.imdecode(data, cv2.IMREAD_COLOR)
    assert back is not None
    return np.ascontiguousarray(np.moveaxis(back[..., ::-1], -1, 0).astype(np.float32) / 255)


def tilted(print_: Planes) -> Planes:
    """By one degree, as a sheet on a scanner; its corners show the lid."""
    height, width = print_.shape[1:]
    turn = cv2.getRotationMatrix2D((width / 2, height / 2), 1.0, 1.0)
    laid = cv2.warpAffine(
        np.ascontiguousarray(np.moveaxis(print_, 0, -1)), turn, (width, height), borderValue=(0.95, 0.95, 0.95)
    )
    return np.ascontiguousarray(np.moveaxis(laid, -1, 0).astype(np.float32))


def uneven(print_: Planes) -> Planes:
    """Light that is 5 % more at the left and 5 % less at the right."""
    from kyanoscript.core.colour import to_encoded, to_light

    light = to_light(print_) * np.linspace(1.05, 0.95, print_.shape[2])
    return np.clip(to_encoded(light), 0, 1).astype(np.float32)


WAYS: dict[str, Callable[[Planes], Planes]] = {
    "as it is": lambda planes: planes, "JPEG 80": jpeg, "1° tilt": tilted, "±5 % light": uneven,
}  # fmt: skip


def pairs(count: int, seed: int = 1) -> list[tuple[int, int, int]]:
    """Recipes and two photographs each."""
    dice = np.random.default_rng(seed)
    order = dice.permutation(len(recipes()))
    return [(int(order[k % len(order)]), *map(int, dice.permutation(8)[:2])) for k in range(count)]


def table(chosen: Sequence[tuple[int, int, int]], side: int, same: bool, book: bool, way: str) -> tuple[Array, Array]:
    """How far the proposal is off, and doing nothing, for each pair."""
    photos, all_ = photographs(side), recipes()
    known = [Known(recipe.name, recipe.on(Script()).passes) for recipe in all_] if book else []
    found = []
    for which, a, b in chosen:
        recipe = all_[which]
        target = photos[a if same else b]
        print_ = WAYS[way](laid(photos[a], recipe.on(Script())))
        wanted = laid(target, recipe.on(Script()))
        made = laid(target, follow(print_, target, known).script(Script()))
        found.append((off(made, wanted), off(target, wanted)))
        if "--each" in sys.argv:
            print(f"   {recipe.word:16} {a} to {a if same else b}: {found[-1][0]:.2f}")
    return tuple(np.array(found).T)  # type: ignore[return-value]


def main(words: list[str]) -> None:
    """Print the table."""
    words = [word for word in words if word != "--each"]
    count, side = int(words[0]) if words else 90, int(words[1]) if len(words) > 1 else 400
    for same in (True, False):
        for book in (False, True):
            for way in WAYS:
                if words[2:] and way not in words[2:]:
                    continue
                made, nothing = table(pairs(count), side, same, book, way)
                print(
                    f"{'same scene' if same else 'another scene':14} {'book known' if book else 'book unknown':13}"
                    f" {way:11} median {np.median(made):5.2f}  nine in ten {np.quantile(made, 0.9):5.2f}"
                    f"   (nothing done: {np.median(nothing):.2f}, {np.quantile(nothing, 0.9):.2f})",
                    flush=True,
                )


if __name__ == "__main__":
    main(sys.argv[1:])
