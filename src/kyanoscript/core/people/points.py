"""468 points on a face, and the closed lines among them that have names."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.people.faces import Face
from kyanoscript.core.people.networks import run, surely
from kyanoscript.core.people.squares import Levels, cut, laid, on_picture

_SIDE = 192  # of what the network sees
_LOOKS = ((1.5, 0.0), (1.8, 0.0), (2.2, 0.0), (1.5, -0.3), (1.5, 0.3))  # sides of the detector's square, and turns
# Sides of the square, turns, and how far beside the detector's it lies, across and down.
_BESIDE = tuple(
    (room, turn, across, -0.22) for room in (1.5, 2.2) for turn in (0.0, -0.3, 0.3) for across in (0.0, -0.22, 0.22)
)
SURER = 0.9
SURE = 0.5  # that there is a face at all
Line = NDArray[np.float64]  # (n, 2): across and down, in pixels

# From the list of the network's authors (face_mesh_connections), put in order round each.
OVAL = (
    10, 338, 297, 332, 284, 251, 389, 356, 454, 323, 361, 288, 397, 365, 379, 378, 400, 377, 152, 148, 176, 149, 150,
    136, 172, 58, 132, 93, 234, 127, 162, 21, 54, 103, 67, 109,
)  # fmt: skip
LIPS = (61, 146, 91, 181, 84, 17, 314, 405, 321, 375, 291, 409, 270, 269, 267, 0, 37, 39, 40, 185)
EYES = (
    (263, 249, 390, 373, 374, 380, 381, 382, 362, 398, 384, 385, 386, 387, 388, 466),
    (33, 7, 163, 144, 145, 153, 154, 155, 133, 173, 157, 158, 159, 160, 161, 246),
)
BROWS = ((276, 283, 282, 295, 285, 336, 296, 334, 293, 300), (46, 53, 52, 65, 55, 107, 66, 105, 63, 70))
CHEEKS = (50, 280)
NOSE, CHIN, JAW = 1, 152, (58, 172, 136, 150, 149, 176, 148, 152, 377, 400, 378, 379, 365, 397, 288)


def points(levels: Levels, face: Face) -> tuple[Line, float]:
    """The points of a face in pixels of the picture, and how sure it is that there is one, 0…1.

    Where it is not, a larger square and a turned one are looked at as well: dark and tilted faces need it.
    """
    return _surest(levels, face, ((room, turn, 0.0, 0.0) for room, turn in _LOOKS), SURE)


def beside(levels: Levels, face: Face) -> tuple[Line, float]:
    """The same where the detector's square lies beside the face, as that of somebody who shouts or laughs.

    An animal may have such points, too: ask it of somebody with a body only.
    """
    return _surest(levels, face, _BESIDE, SURER)


def _surest(
    levels: Levels, face: Face, looks: Iterable[tuple[float, float, float, float]], enough: float
) -> tuple[Line, float]:
    best: tuple[Line, float] | None = None
    for room, turn, across, down in looks:
        x, y = face.x + across * face.size, face.y + down * face.size
        way = laid(x, y, face.size * room, face.turn + turn, _SIDE)
        found, score = run("points", cut(levels, way, _SIDE))
        sure = float(surely(score.reshape(-1)[0]))
        if best is None or sure > best[1]:
            best = on_picture(found.reshape(-1, 3)[:, :2], way), sure
        if sure > enough:
            break
    assert best is not None
    return best
