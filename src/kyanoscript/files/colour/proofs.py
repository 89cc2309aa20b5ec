"""What paper does to a print: through a printer's profile, or by the paper's own white and black where there is none.

A proof is a table of 33 steps each way from the photograph's space to what is looked at: from the space to the printer
by the chosen intent, then from the printer to the monitor, as white as the paper (absolute) or as white as the screen
(relative). Sources: ICC.1:2010; black point compensation ISO 18619:2015; out of gamut by CIEDE2000 (CIE 142-2001).
"""

from __future__ import annotations

import functools
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, D50, Space
from kyanoscript.core.colour.difference import ciede2000
from kyanoscript.core.paper.layout import stock_of
from kyanoscript.core.paper.papers import Lab
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture.table import SIDE, Table, grid
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.colour import profiles
from kyanoscript.files.colour.profiles import INTENTS
from kyanoscript.translation import tr

BENCH = "bench"  # the profile of the printer that ships, wherever the program lies
BEYOND = 2.0  # CIEDE2000: what comes back from the printer further away than that, it has not
_MOST = 16 << 20  # bytes of a profile
_MODELS = ("RGB", "GRAY", "CMYK")
Colours = NDArray[np.float64]  # (n, 3)


@dataclass(frozen=True)
class Proof:
    """A way onto paper."""

    icc: bytes  # the printer's profile; empty: the paper alone
    white: Lab
    density: float
    intent: str = "relative"
    black_point: bool = True
    paper_white: bool = True


def proof_of(sheet: Sheet) -> Proof:
    """The way onto a sheet. Raises FileError for a profile that cannot be used."""
    paper = stock_of(sheet)
    icc = read_profile(profile_path(sheet.output.profile)) if sheet.output.profile else b""
    return Proof(
        icc, paper.white, paper.density, sheet.output.intent, sheet.output.black_point, sheet.output.paper_white
    )


def profile_path(profile: str) -> Path:
    """Where a sheet's profile lies; the bench printer's, which ships, goes by a word of its own."""
    if profile == BENCH:
        return Path(str(resources.files("kyanoscript") / "printer" / "bench-printer-cotton.icc"))
    return Path(profile).expanduser()


def read_profile(path: Path) -> bytes:
    """A printer's profile. Raises FileError, with what is wrong, for anything else."""
    icc = read_plain(path, _MOST)
    model, kind = profiles.space(icc), bytes(icc[12:16])
    if not model:
        raise FileError(path, "this is no colour profile", "Choose the ICC file of a printer and its paper")
    if kind in (b"scnr", b"link", b"abst", b"nmcl"):
        what = {b"scnr": "a camera or scanner", b"link": "a link of two devices", b"abst": "an effect",
                b"nmcl": "named colours"}[kind]  # fmt: skip
        raise FileError(
            path, tr("this is the profile of {what}", what=what), "Choose the ICC file of a printer and its paper"
        )
    if model not in _MODELS:
        raise FileError(path, tr("this is a profile for {model}", model=model), "Choose one for RGB, gray or CMYK")
    try:
        device = _to_printer(np.zeros((1, 1, 3), np.float32), BT2020, icc, 1, True)
        profiles.transformed(device, icc, profiles.srgb(), 1, False)
    except Exception as error:  # the library raises errors of its own kinds
        raise FileError(path, "this colour profile cannot be printed with", "Choose another") from error
    return icc


def table(proof: Proof, space: Space, monitor: bytes = b"") -> Table:
    """What a monitor (empty: sRGB) shows of a print of a space, proofed."""
    return _table(proof, space, monitor or profiles.srgb())


@functools.lru_cache(maxsize=8)
def _table(proof: Proof, space: Space, monitor: bytes) -> Table:
    made = _seen(proof, space, grid(), monitor)
    return np.ascontiguousarray(np.clip(made, 0, 1).reshape(SIDE, SIDE, SIDE, 3), np.float32)


@functools.lru_cache(maxsize=8)
def beyond(proof: Proof, space: Space) -> NDArray[np.bool_]:
    """Of the table's colours, those that the printer has not."""
    if not proof.icc:
        return np.zeros((SIDE, SIDE, SIDE), bool)
    device = _to_printer(grid(), space, proof.icc, 1, proof.black_point)
    back = profiles.transformed(device, proof.icc, profiles.of_space(BT2020), 1, proof.black_point)
    own = profiles.transformed(grid(), profiles.of_space(space), profiles.of_space(BT2020), 1, False)
    away = ciede2000(_lab(own), _lab(back))
    return np.asarray((away > BEYOND).reshape(SIDE, SIDE, SIDE))


def outside(proof: Proof, space: Space, planes: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Where a print ``(1 or 3, h, w)`` has colours that the printer has not, ``(h, w)``; by the table's nearest."""
    if not proof.icc:
        return np.zeros(planes.shape[1:], bool)
    r, g, b = np.rint(np.clip(colour.in_colour(planes), 0, 1) * (SIDE - 1)).astype(np.intp)
    return beyond(proof, space)[r, g, b]


def tones(proof: Proof, space: Space, count: int = 65) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """L* of grays in the print, and what they are on the paper."""
    levels = np.linspace(0, 1, count, dtype=np.float32)
    grays = np.repeat(levels[:, None, None], 3, axis=2)
    absolute = Proof(proof.icc, proof.white, proof.density, proof.intent, proof.black_point, True)
    seen = _seen(absolute, space, grays, profiles.of_space(BT2020))
    return _lab(colour_in_2020(grays, space))[:, 0], _lab(seen)[:, 0]


def colour_in_2020(pixels: NDArray[np.float32], space: Space) -> NDArray[np.float32]:
    """Encoded colours ``(n, 1, 3)`` of a space in BT.2020."""
    return profiles.transformed(pixels, profiles.of_space(space), profiles.of_space(BT2020), 1, False)


def _to_printer(
    pixels: NDArray[np.float32], space: Space, icc: bytes, intent: int, black_point: bool
) -> NDArray[np.float32]:
    """What the printer is told, 0…1, ``(n, 1, channels)``."""
    device = profiles.transformed(pixels, profiles.of_space(space), icc, intent, black_point)
    if profiles.space(icc) == "CMYK":
        device = device / np.float32(100)  # little-CMS counts inks in per cent
    return np.clip(device[..., :1] if profiles.space(icc) == "GRAY" else device, 0, 1)


def _seen(proof: Proof, space: Space, pixels: NDArray[np.float32], monitor: bytes) -> NDArray[np.float32]:
    """Encoded colours ``(n, 1, 3)`` as the monitor shows them, proofed."""
    if not proof.icc:
        on_paper = _on_paper(proof, space, pixels)
        return profiles.transformed(on_paper, profiles.of_space(BT2020), monitor, 1, False)
    device = _to_printer(pixels, space, proof.icc, INTENTS[proof.intent], proof.black_point)
    back = INTENTS["absolute" if proof.paper_white else "relative"]
    return profiles.transformed(device, proof.icc, monitor, back, False)


def _on_paper(proof: Proof, space: Space, pixels: NDArray[np.float32]) -> NDArray[np.float32]:
    """By the paper's white and black alone, in XYZ (the linear map of ISO 18619); encoded in BT.2020."""
    light = colour.to_light(pixels.reshape(-1, 3).astype(np.float64))
    xyz = light @ (space.to_d50 / D50[:, None]).T  # of the perfect white 1
    white, black = xyz_of(proof.white), np.full(3, 10.0**-proof.density)
    on = xyz * (white - black) + black if proof.black_point else np.maximum(xyz * white, black)
    if not proof.paper_white:
        on = on / white
    back = (on * D50) @ np.linalg.inv(BT2020.to_d50).T
    return np.clip(colour.to_encoded(np.clip(back, 0, 1)), 0, 1).astype(np.float32).reshape(-1, 1, 3)


def xyz_of(lab: Lab) -> NDArray[np.float64]:
    """XYZ, of the perfect white 1, of L*a*b* (CIE 15)."""
    y = (lab[0] + 16) / 116
    t = np.array([y + lab[1] / 500, y, y - lab[2] / 200])
    return np.where(t > 6 / 29, t**3, (t - 4 / 29) * 3 * (6 / 29) ** 2)


def _lab(encoded_2020: NDArray[np.float32]) -> Colours:
    """CIE L*a*b* (D50) of colours encoded in BT.2020, ``(n, 3)``."""
    light = colour.to_light(encoded_2020.reshape(-1, 3).astype(np.float64))
    xyz = light @ (BT2020.to_d50 / D50[:, None]).T
    t = np.where(xyz > (6 / 29) ** 3, np.cbrt(np.maximum(xyz, 0)), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * t[:, 1] - 16, 500 * (t[:, 0] - t[:, 1]), 200 * (t[:, 1] - t[:, 2])], -1)
