"""For other programs: prints as arrays, without a window.

``kyanoscript.render(photo, script, recipe=…)`` in five lines or fewer; `open`, `Script`, `read_script`, `passes`,
`recipes`, `seek` and `after` stand beside it. All of them are names of the package itself, and are imported when they
are first used.
"""

from __future__ import annotations

import warnings
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import machine
from kyanoscript.core.after.following import Followed
from kyanoscript.core.passes import Pass, load_all
from kyanoscript.core.picture import ArraySource, Reading, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, ScriptError, from_json
from kyanoscript.core.script.dials import dial_named
from kyanoscript.core.seek.seek import MOST, Seek, Sought
from kyanoscript.core.seek.smalls import Smalls
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.after import followed
from kyanoscript.files.kept.cookbook import Cookbook
from kyanoscript.files.kept.recipes import Recipe, find
from kyanoscript.files.kept.scriptfile import read_script as _read_script
from kyanoscript.files.kept.trust import outside
from kyanoscript.files.photos.photo import Photo, open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.photos.pixels import flatten
from kyanoscript.files.prints.export import in_memory
from kyanoscript.files.prints.out import whole_source
from kyanoscript.files.prints.settings import SPACES, Settings
from kyanoscript.translation import tr

__all__ = [
    "FileError",
    "Photo",
    "Recipe",
    "Script",
    "ScriptError",
    "after",
    "open",
    "passes",
    "read_script",
    "recipes",
    "render",
    "seek",
]

_BITS: dict[str, Literal[8, 16, 32]] = {"uint8": 8, "uint16": 16, "float32": 32, "float64": 32}
_NO_FILE = Path("array")  # pictures that a script names are looked for beside it: in the present folder


def open(path: str | Path) -> Photo:
    """A photograph of any kind that the program opens, with all its pixels.

    ``scan.tif[2]`` means the second page. Its ``notes`` say what was done to it on the way. Raises FileError: which
    file, what is wrong, what to do.
    """
    return open_photo(path)


def read_script(path: str | Path, trust: bool = False) -> Script:
    """The script in a ``.kyano`` or JSON file; ``landing.kyano#III`` is its third state.

    Raises FileError; also where it uses a picture outside its own folder, unless ``trust`` allows it: a script of
    somebody else could show any file of this machine.
    """
    script = _read_script(path).script
    for strange in outside(Path(path), script) if not trust else ():
        raise FileError(
            Path(path), tr("it uses a picture outside its own folder: {strange}", strange=strange),
            "Look at who the script is from; trust=True uses it all the same",
        )  # fmt: skip
    return script


def passes() -> dict[str, type[Pass]]:
    """Every pass by its name in scripts, in the order of the stages; ``help`` on one tells its values."""
    return dict(load_all())


def recipes() -> dict[str, Recipe]:
    """Every recipe by its word: those that ship, and the person's own."""
    return {recipe.word: recipe for recipe in Cookbook().read().recipes}


def render(
    photo: str | Path | Photo | NDArray[Any],
    script: Script | str | Path | Mapping[str, Any] | None = None,
    *,
    recipe: str | Recipe | None = None,
    longer_side: int | None = None,
    space: str = "srgb",
    dtype: Any = None,
    threads: int | None = None,
) -> NDArray[Any]:
    """The print of a photograph, as an array: ``(h, w)`` if it is sure to be gray, else ``(h, w, 3)``.

    Parameters
    ----------
    photo : a file, what `open` gave, or an array ``(h, w)``, ``(h, w, 1)``, ``(h, w, 3)`` or ``(h, w, 4)`` of uint8,
        uint16, float32 or float64, encoded as sRGB (IEC 61966-2-1), floats 0…1; it is never written to. Masked values,
        and what a fourth channel makes transparent, lie on white paper, which a UserWarning tells.
    script : what is done to it: a `Script`, a file of one, or what such a JSON file holds; None: nothing.
    recipe : a word or a name (see `recipes`), or a `Recipe`: it comes before the script's own passes.
    longer_side : pixels; the print is reduced to it, as a file would be, and never enlarged.
    space : of a print in colour: srgb, display-p3, oprgb, bt2020, romm, or photo: the photograph's own; encoded as in a
        file of it. A gray print is encoded as sRGB in all of them.
    dtype : uint8, uint16, float32 or float64; None: that of the photograph. Whole numbers are rounded, without the
        fine noise that files of 8 bits get; in floats what lies beyond black and white stays.
    threads : that work at once; None: one for each processor. The pixels do not depend on it.

    Raises
    ------
    FileError : the photograph, the script, or a picture that it uses cannot be read.
    ScriptError : there is no such recipe, or the script is none.
    ValueError : an array, type, space or number that cannot be.
    """
    for name, value in (("longer_side", longer_side), ("threads", threads)):
        if value is not None and value < 1:
            raise ValueError(tr("{name} is {value}; it must be 1 or more", name=name, value=value))
    if space not in SPACES or space in ("auto", "gray"):
        raise ValueError(
            tr("there is no space {space!r}; there are {join}", space=space,
               join=", ".join(name for name in SPACES if name not in ("auto", "gray")))
        )  # fmt: skip
    opened, own = _photo(photo)
    kind = np.dtype(own if dtype is None else dtype).name
    if kind not in _BITS:
        raise ValueError(tr("a print cannot be {kind}; it can be {join}", kind=kind, join=", ".join(_BITS)))
    whole, file = _script(script)
    if recipe is not None:
        found = recipe if isinstance(recipe, Recipe) else find(recipe, Cookbook().read().recipes)
        whole = found.on(whole)
    pictures = Pictures(opened.path, file)
    pictures.check(whole)
    renderer = Renderer(whole_source(opened), whole, library=pictures, reading=Reading.WRITTEN)
    settings = Settings(
        bits=_BITS[kind], dither=False, longer_side=longer_side, profile=space if renderer.planes == 3 else "gray"
    )
    out = in_memory(renderer, settings, threads or machine.processors())
    return np.ascontiguousarray(out[..., 0] if renderer.planes == 1 else out).astype(kind, copy=False)


def after(
    print: str | Path | Photo | NDArray[Any], photo: str | Path | Photo | NDArray[Any], *, known: bool = True
) -> Followed:
    """What makes a photograph look like an earlier print: ``after(…).script(Script())`` is a run of ordinary passes.

    ``found`` of the answer lists what was found, with the passes that it becomes; ``left`` what was not matched;
    ``same`` tells whether both show the same scene. ``known=False`` does not ask the recipes of the book. Both are as
    for `render`. Raises FileError and ValueError.
    """
    follows, opened = (_photo(picture)[0] for picture in (print, photo))
    return followed(follows.source, opened.source, Script(), Cookbook().read().recipes if known else ())


def seek(
    photo: str | Path | Photo | NDArray[Any],
    script: Script | str | Path | Mapping[str, Any],
    values: Sequence[str | tuple[str, float, float]],
    *,
    side: int = 3,
) -> Seek:
    """A search for several values by choosing among prints: ``scripts()`` are those to choose from, row by row.

    Parameters
    ----------
    photo, script : as for `render`.
    values : two to twelve, each as ``"levels.gamma"``, or with its ends ``("levels.gamma", 0.8, 1.5)``; without ends
        it has those of a test strip.
    side : 3 or 5 prints each way.

    ``choose(k)`` of the answer gives the next one, the print that was taken in its middle; ``best`` with ``script``
    what was found: ``found.script(found.best)``. The same choices give the same prints. Raises FileError, ScriptError
    and ValueError.
    """
    opened, _ = _photo(photo)
    base, file = _script(script)
    pictures = Pictures(opened.path, file)
    pictures.check(base)
    dials = []
    for value in values:
        word, *ends = (value,) if isinstance(value, str) else value
        one = Sought.of(base, dial_named(base, word))
        dials.append(one.narrowed(*ends) if ends else one)
    appearance = Smalls(whole_source(opened), base, dials, pictures).learned() if len(dials) <= MOST else None
    return Seek.begun(base, dials, appearance, side)


def _photo(photo: str | Path | Photo | NDArray[Any]) -> tuple[Photo, Any]:
    """The photograph, and the type of its values."""
    if isinstance(photo, np.ndarray):
        return _of_array(photo), photo.dtype
    opened = photo if isinstance(photo, Photo) else open_photo(photo)
    source = whole_source(opened)
    return opened, (source.pixels if isinstance(source, ArraySource) else source.window(Rect(0, 0, 1, 1))).dtype


def _of_array(array: NDArray[Any]) -> Photo:
    if array.ndim not in (2, 3) or (array.ndim == 3 and array.shape[2] not in (1, 3, 4)) or 0 in array.shape:
        raise ValueError(
            tr("a photograph is (h, w), (h, w, 1), (h, w, 3) or (h, w, 4), not {shape}", shape=array.shape)
        )
    if array.dtype.name not in _BITS:
        raise ValueError(
            tr("a photograph is of {join}, not {kind}: bring it to one of them first, floats to 0…1",
               join=", ".join(_BITS), kind=array.dtype.name)
        )  # fmt: skip
    pixels = np.ma.getdata(array).reshape(*array.shape[:2], -1)
    pixels = pixels.astype(np.float32) if pixels.dtype == np.float64 else pixels
    top = 1.0 if pixels.dtype.kind == "f" else np.iinfo(pixels.dtype).max
    notes: tuple[str, ...] = ()
    masked = np.asarray(np.ma.getmaskarray(array)).reshape(pixels.shape).any(axis=2, keepdims=True)
    if np.any(masked):
        pixels = np.where(masked, pixels.dtype.type(top), pixels)
        notes = ("Masked values lie on white paper",)
    if pixels.dtype.kind == "f" and not np.isfinite(pixels).all():
        raise ValueError(tr("some values of the photograph are no finite numbers: mask them, or put others in place"))
    pixels, laid = flatten(pixels, False)
    for note in (*notes, *laid):
        warnings.warn(note, UserWarning, stacklevel=4)
    return Photo(_NO_FILE, ArraySource(pixels), "array", notes=(*notes, *laid))


def _script(script: Script | str | Path | Mapping[str, Any] | None) -> tuple[Script, Path | None]:
    """The script, and its file if it has one: pictures that it names are looked for beside it."""
    match script:
        case None:
            return Script(), None
        case Script():
            return script, None
        case str() | Path():
            return read_script(script), Path(script)
        case _:
            return from_json(dict(script)), None
