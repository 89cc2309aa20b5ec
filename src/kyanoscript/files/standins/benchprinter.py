"""The bench printer: a stand-in that ships with the program. It takes the pages that a printer would be handed, and
gives a picture of the paper as it would lie there, with dot gain, the paper's white and a little unevenness.

Each job has a folder of its own in the spool: ``ticket.json`` (what was asked for), ``page.png`` (what it was handed)
and ``paper.png`` (what lies in its tray).
"""

from __future__ import annotations

import functools
import json
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import D50, SRGB, Space, in_colour
from kyanoscript.core.late import cv2
from kyanoscript.core.paper import press
from kyanoscript.core.picture import Planes, Rect, Source, read, size_at
from kyanoscript.core.picture.table import SIDE, Table, grid, through
from kyanoscript.core.print.over import Printable
from kyanoscript.files.base import places
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.progress import UNTOLD, Progress
from kyanoscript.files.colour.proofs import BENCH, profile_path
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.prints.target import Target, target_of
from kyanoscript.translation import tr

NAME = "Bench printer"
_UNEVEN = 0.006  # of the light: how much the paper and the inking vary
_CELL = 8.0  # mm: over what way


def profile() -> Path:
    """The profile of the printer and its paper, as a file."""
    return profile_path(BENCH)


def spool() -> Path:
    """Where its jobs lie; it may not exist yet."""
    return places.folder() / "bench-printer"


def print_sheet(out: Out[OnSheet], progress: Progress = UNTOLD, into: Path | None = None) -> Path:
    """Print a sheet; returns the job's folder. Raises FileError, Cancelled, ValueError."""
    folder = into or spool()
    sheet = out.what.sheet
    paper, told = sheet.paper, sheet.output
    own = str(profile_path(told.profile or BENCH))
    ((leaf, *_),) = out.pages(progress)
    settings = Settings(
        bits=8, profile=own, ppi=told.resolution, intent=told.intent, black_point=told.black_point, dither=False,
        notes="none",
    )  # fmt: skip
    device = target_of(settings, 8, leaf.space, True)
    if device.channels != 3:
        raise FileError(Path(own), tr("the {name} is told RGB", name=NAME.lower()), "Choose a profile for RGB, or none")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        taken = [int(there.name[4:]) for there in folder.glob("job-*") if there.name[4:].isdigit()]
        place = folder / f"job-{max(taken, default=0) + 1:04d}"
        place.mkdir()
        ticket = {
            "printer": NAME, "paper": [paper.width, paper.height], "unit": "mm", "ppi": told.resolution,
            "profile": Path(own).name, "intent": told.intent, "sheet": sheet.plain(),
        }  # fmt: skip
        (place / "ticket.json").write_text(json.dumps(ticket, indent=2) + "\n")
    except OSError as error:
        raise FileError(
            folder, "the spool cannot be written to", "Make room, or look at who may write there"
        ) from error
    plain = Settings(bits=8, profile="srgb", ppi=told.resolution, dither=False, notes="none")
    export(_Told(leaf, device), place / "page.png", plain, (), progress.part(0, 0.8), out.threads)
    page = open_photo(place / "page.png", hold=False).source
    export(_Dry(page, told.resolution), place / "paper.png", plain, (), progress.part(0.8, 1), out.threads)
    return place


class _Told:
    """What the printer is handed: its own RGB, kept as if it were sRGB."""

    planes, looks_around = 3, True

    def __init__(self, leaf: Printable, device: Target) -> None:
        self._leaf, self._device = leaf, device

    @property
    def space(self) -> Space:
        return SRGB

    def size(self, scale: float) -> tuple[int, int]:
        return self._leaf.size(scale)

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        planes = self._device.convert(self._leaf.region(rect, scale))
        return np.ascontiguousarray(np.clip(in_colour(planes), 0, 1), np.float32)


class _Dry:
    """The print when it is dry, as a camera over the tray would see it, in sRGB."""

    planes, looks_around = 3, False

    def __init__(self, page: Source, ppi: float) -> None:
        self._page, self._ppi = page, ppi

    @property
    def space(self) -> Space:
        return SRGB

    def size(self, scale: float) -> tuple[int, int]:
        return size_at(self._page, scale)

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        told = np.ascontiguousarray(read(self._page, rect, scale))
        dry = np.empty_like(told)
        through(told, _press(), dry, 3, told[0].size)
        light = colour.to_light(dry) * (1 + _UNEVEN * _unevenness(rect, self._ppi * scale))
        return np.ascontiguousarray(np.clip(colour.to_encoded(light), 0, 1), np.float32)


@functools.cache
def _press() -> Table:
    """From the printer's RGB to how it looks under D50, in sRGB."""
    xyz = press.printed(grid().reshape(-1, 3).astype(np.float64)) * D50
    light = xyz @ np.linalg.inv(SRGB.to_d50).T
    encoded = colour.to_encoded(np.clip(light, 0, 1))
    return np.ascontiguousarray(encoded.reshape(SIDE, SIDE, SIDE, 3), np.float32)


def _unevenness(rect: Rect, ppi: float) -> NDArray[np.float32]:
    """−1…1, slow over the paper, the same wherever a part of it begins."""
    cell = _CELL * ppi / 25.4
    rng = np.random.default_rng(7)
    field = rng.normal(0, 0.5, (128, 128)).astype(np.float32)
    xs = ((np.arange(rect.x, rect.right) + 0.5) / cell) % 127
    ys = ((np.arange(rect.y, rect.bottom) + 0.5) / cell) % 127
    at = np.meshgrid(xs.astype(np.float32), ys.astype(np.float32))
    return np.asarray(cv2.remap(field, at[0], at[1], cv2.INTER_LINEAR), np.float32)
