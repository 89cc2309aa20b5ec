"""Makes the profile of the bench printer, by printing its patches with `core/paper/press.py`: an ICC file of tables.

Usage: profile.py OUT.icc     (ICC.1:2001-04, lut16Type; perceptual and relative with tables each way)
"""

from __future__ import annotations

import struct
import sys
from pathlib import Path

import numpy as np
from scipy.spatial import cKDTree

from kyanoscript.core.paper import press

D50 = np.array([0.9642, 1.0, 0.8249])
FORTH, BACK = 21, 33  # grid points of each channel


def lab_of(xyz: np.ndarray) -> np.ndarray:
    """L*a*b* of XYZ of the perfect white 1, ``(n, 3)``."""
    t = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * t[:, 1] - 16, 500 * (t[:, 0] - t[:, 1]), 200 * (t[:, 1] - t[:, 2])], -1)


def relative(rgb: np.ndarray) -> np.ndarray:
    """L*a*b* of what is printed, against the paper's own white."""
    return lab_of(press.printed(rgb) / press.PAPER)


def table(values: np.ndarray, points: int) -> bytes:
    """A lut16Type with straight curves, of 16-bit values ``(points³, 3)``, the first channel slowest."""
    straight = struct.pack(">2H", 0, 65535) * 3
    head = struct.pack(">4s4xBBBx", b"mft2", 3, 3, points) + struct.pack(">9i", *(65536 * np.eye(3, dtype=int)).ravel())
    return head + struct.pack(">2H", 2, 2) + straight + values.astype(">u2").tobytes() + straight


def grid(points: int) -> np.ndarray:
    """Places 0…1 of a table, the first channel slowest."""
    steps = np.linspace(0, 1, points)
    return np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), -1).reshape(-1, 3)


def encoded(lab: np.ndarray) -> np.ndarray:
    """L*a*b* in 16 bits as version 2 has it: 100 is 65280, and 0 of a* and b* 32768."""
    return np.clip(
        np.rint(np.stack([lab[:, 0] * 652.8, (lab[:, 1] + 128) * 256, (lab[:, 2] + 128) * 256], -1)), 0, 65535
    )


def back(lab: np.ndarray, squeeze: float) -> np.ndarray:
    """RGB for colours, the nearest that can be printed; ``squeeze``: how far lightness is fitted between the ends.

    All at once: from the nearest of a grid on, by Levenberg's and Marquardt's steps within 0…1.
    """
    darkest = relative(np.zeros((1, 3)))[0, 0]
    want = lab.copy()
    want[:, 0] = (1 - squeeze) * want[:, 0] + squeeze * (darkest + want[:, 0] * (100 - darkest) / 100)
    weights = np.array([1.0, 0.7, 0.7])  # a colour out of reach keeps its lightness rather than its chroma
    known = grid(33)
    _, near = cKDTree(relative(known) * weights).query(want * weights)
    rgb, damp = known[near].copy(), np.full(len(lab), 1.0)

    def off(rgb: np.ndarray) -> np.ndarray:
        return (relative(rgb) - want) * weights

    now = off(rgb)
    for _ in range(40):
        away = np.where(rgb > 0.5, -1e-4, 1e-4)
        slopes = np.stack([(off(rgb + away * np.eye(3)[k]) - now) / away[:, k : k + 1] for k in range(3)], axis=2)
        normal = np.einsum("nij,nik->njk", slopes, slopes) + damp[:, None, None] * np.eye(3)
        step = np.linalg.solve(normal, -np.einsum("nij,ni->nj", slopes, now)[..., None])[..., 0]
        tried = np.clip(rgb + step, 0, 1)
        then = off(tried)
        better = (then**2).sum(1) < (now**2).sum(1)
        rgb[better], now[better] = tried[better], then[better]
        damp = np.where(better, damp / 4, damp * 5).clip(1e-3, 1e9)
    return rgb


def places(points: int) -> np.ndarray:
    """L*a*b* of a back table's places, as version 2 encodes them."""
    at = grid(points) * 65535
    return np.stack([at[:, 0] / 652.8, at[:, 1] / 256 - 128, at[:, 2] / 256 - 128], -1)


def fixed(values: np.ndarray) -> bytes:
    """Numbers with 16 bits behind the point."""
    return b"".join(struct.pack(">i", round(float(v) * 65536)) for v in values)


def words(said: str) -> bytes:
    """A textDescriptionType."""
    data = said.encode() + b"\0"
    return struct.pack(">4s4xI", b"desc", len(data)) + data + struct.pack(">IIHB", 0, 0, 0, 0) + bytes(67)


def main() -> None:
    """Print, measure, invert, write."""
    forth = table(encoded(relative(grid(FORTH))), FORTH)
    lab = places(BACK)
    exact = table(np.rint(back(lab, 0.0) * 65535), BACK)
    soft = table(np.rint(back(lab, 1.0) * 65535), BACK)
    parts: dict[bytes, bytes] = {
        b"desc": words("Bench printer of Marrow Quay, cotton"),
        b"cprt": struct.pack(">4s4x", b"text") + b"In the public domain\0",
        b"wtpt": struct.pack(">4s4x", b"XYZ ") + fixed(press.PAPER * D50),
        b"A2B0": forth, b"A2B1": forth, b"B2A0": soft, b"B2A1": exact, b"B2A2": exact,
    }  # fmt: skip
    lies: dict[bytes, int] = {}
    listed, body, at = struct.pack(">I", len(parts)), b"", 128 + 4 + 12 * len(parts)
    for tag, data in parts.items():
        if data not in lies:
            lies[data] = at + len(body)
            body += data + bytes(-len(data) % 4)
        listed += struct.pack(">4sII", tag, lies[data], len(data))
    head = struct.pack(
        ">I4xI4s4s4s6H4s4x4x4x4x8xI12s4x", at + len(body), 0x02400000, b"prtr", b"RGB ", b"Lab ",
        2026, 1, 1, 0, 0, 0, b"acsp", 0, fixed(D50),
    )  # fmt: skip
    Path(sys.argv[1]).write_bytes(head.ljust(128, b"\0") + listed + body)


if __name__ == "__main__":
    main()
