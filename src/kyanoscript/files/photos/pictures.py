"""Other pictures for plates: opened once, with their transparent parts kept."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Collection
from importlib import resources
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import to_encoded
from kyanoscript.core.picture import ArraySource
from kyanoscript.core.quoting import cut
from kyanoscript.core.render.bases import Picture
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError, plain
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pixels import upright

_SHIPPED = Path(str(resources.files("kyanoscript") / "demo" / "cutouts"))


class Pictures:
    """Finds pictures by their names; those that are no whole paths lie beside the script, or else the photograph.

    A plain word without a suffix is a cutout that ships with the program: ``paper-lantern``. ``refused`` are files that
    may not be used: a script from somebody else named them, and they were left out (see `files.kept.trust`).
    """

    def __init__(self, photo: Path, script: Path | None = None, refused: Collection[Path] = ()) -> None:
        self.folders = [path.resolve().parent for path in (script, photo) if path is not None]
        self.refused = frozenset(refused)
        self._known: dict[tuple[Path, int], Picture] = {}
        self._lock = threading.Lock()

    def find(self, name: str) -> Picture | None:
        """The picture of that name, or None if it cannot be opened; `check` says why."""
        try:
            return self.open(name)
        except FileError:
            return None

    def open(self, name: str) -> Picture:
        """The picture of that name. Raises FileError."""
        if not name.strip():
            raise FileError(self.folders[-1], "a plate names no picture", "Choose a file for it")
        path = self.place(name)
        if path in self.refused:
            raise FileError(
                path, "it lies outside the script's folder and was left out", "Choose it there if you want it"
            )
        with self._lock:
            stamp = path.stat().st_mtime_ns if path.exists() else 0
            known = self._known.get((path, stamp))
            if known is None:
                known = self._known[path, stamp] = open_cutout(path)
            return known

    def place(self, name: str) -> Path:
        """Where the picture of that name lies, or should lie. Raises FileError if no file can have that name."""
        try:
            cutout = _SHIPPED / f"{name}.png"
            if "." not in name and "/" not in name and cutout.exists():
                return cutout
            places = [(folder / name).resolve() for folder in self.folders]
            return next((place for place in places if place.exists()), places[0])
        except OSError as error:
            raise plain(name, error, "reading") from error
        except (ValueError, RuntimeError) as error:
            raise FileError(cut(name), "no file can have this name", "Choose another picture") from error

    def check(self, script: Script) -> None:
        """Raise FileError for the first picture that the script needs and that cannot be opened."""
        for step in script.passes:
            if step.on:
                for name in step.pictures():
                    self.open(name)

    def files(self, script: Script) -> list[Path]:
        """Where the pictures lie that the script names, whether it needs them now or not."""
        found = []
        for name in script.pictures():
            with contextlib.suppress(FileError):
                found.append(self.place(name))
        return found


def shipped(path: Path) -> bool:
    """Whether a picture comes with the program."""
    return _SHIPPED in path.parents


def open_cutout(path: Path) -> Picture:
    """A picture with its alpha. Raises FileError."""
    cut = _Cut()
    photo = open_photo(path, lay=cut)
    if cut.alpha is None:
        return Picture(photo.source)
    alpha = upright(cut.alpha, photo.orientation)
    return Picture(photo.source, ArraySource(to_encoded(alpha).astype(np.float32)))


class _Cut:
    """Takes the alpha off, and carries the colours outwards beyond it, so that no rim shows what lay beneath."""

    def __init__(self) -> None:
        self.alpha: NDArray[Any] | None = None

    def __call__(self, pixels: NDArray[Any], associated: bool) -> tuple[NDArray[Any], tuple[str, ...]]:
        if pixels.shape[2] in (1, 3):
            return pixels, ()
        top = 1.0 if pixels.dtype.kind == "f" else float(np.iinfo(pixels.dtype).max)
        alpha = np.clip(pixels[..., -1:].astype(np.float32) / top, 0, 1)
        colours = pixels[..., :-1]
        if float(alpha.min()) >= 1:
            return np.ascontiguousarray(colours), ()
        self.alpha = alpha
        if associated:
            plain = np.clip(colours / np.maximum(alpha, 1e-3), 0, top)
            colours = (plain if pixels.dtype.kind == "f" else np.rint(plain)).astype(pixels.dtype)
        empty = alpha[..., 0] < 0.02
        if empty.all():
            return np.ascontiguousarray(colours), ()
        from scipy.ndimage import distance_transform_edt

        nearest = distance_transform_edt(empty, return_distances=False, return_indices=True)
        return np.ascontiguousarray(colours[tuple(nearest)]), ()
