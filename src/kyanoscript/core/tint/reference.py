"""Colours after a model: a colour photograph whose places lend their chroma to places of the scan that look alike.

Each place is told by thirteen numbers: its lightness at three widths, how rough it is at three, how steep and which
way, how much detail of three sizes it holds, and a little of how high it lies. The model's lightness is first brought
to the mean and spread of the scan's (as in Welsh, Ashikhmin and Mueller, SIGGRAPH 2002). The twelve most alike of a few
thousand places lend their chroma; where they disagree or are little alike, the surroundings count for more.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.tint.clean import without_grain
from kyanoscript.core.tint.spline import Field

_SAMPLES = 6000
_NEAREST = 12
_WIDTHS = (256, 96, 32)  # the longer side over the sigma of each width
_SMOOTH = 40.0  # the longer side over the sigma within which confidence smooths


def told(lightness: Field) -> NDArray[np.float32]:
    """The numbers ``(n, 13)`` of every place of a lightness ``(h, w)``, 0…100."""
    height, width = lightness.shape
    side = max(height, width)

    def blurred(plane: NDArray[np.float32], share: float) -> NDArray[np.float32]:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), side / share, borderType=cv2.BORDER_REPLICATE), np.float32)

    levels = [blurred(lightness, share) for share in _WIDTHS]
    squares = [blurred(lightness * lightness, share) for share in _WIDTHS]
    rough = [np.log1p(np.sqrt(np.maximum(s - m * m, 0))) for s, m in zip(squares, levels, strict=True)]
    fine = blurred(lightness, 256)
    dx, dy = (cv2.Sobel(fine, cv2.CV_32F, *order, scale=1 / 8) for order in ((1, 0), (0, 1)))
    xx, yy, xy = (blurred(np.asarray(p, np.float32), 48) for p in (dx * dx, dy * dy, dx * dy))
    steep = np.sqrt(xx + yy)
    way = [(xx - yy) / (xx + yy + 0.5), 2 * xy / (xx + yy + 0.5)]
    bands = [lightness - levels[0], levels[0] - levels[1], levels[1] - levels[2]]
    detail = [np.log1p(np.sqrt(np.maximum(blurred(band * band, 48), 0))) for band in bands]
    down = np.repeat(np.linspace(0, 1, height, dtype=np.float32)[:, None], width, axis=1)
    planes = [
        *(level / spread for level, spread in zip(levels, (8, 8, 10), strict=True)),
        *(r * 1.5 for r in rough),
        np.log1p(steep) * 1.2,
        *(w * 0.5 for w in way),
        *(d * 1.2 for d in detail),
        down * 1.0,
    ]
    return np.stack(planes, axis=-1).reshape(-1, len(planes)).astype(np.float32)


def lent(lightness: Field, model_lightness: Field, model_chroma: Field) -> Field:
    """Chroma ``(2, h, w)`` for a scan's lightness ``(h, w)`` after a model's lightness and chroma ``(2, h', w')``."""
    from scipy.spatial import cKDTree  # only here: it would take a fifth of a second of every start

    mean, spread = float(lightness.mean()), float(lightness.std())
    matched = (model_lightness - model_lightness.mean()) * (spread / max(float(model_lightness.std()), 1.0)) + mean
    known = told(without_grain(np.ascontiguousarray(matched, np.float32)))
    chroma = model_chroma.reshape(2, -1).T
    chosen = np.random.default_rng(1).choice(len(known), min(_SAMPLES, len(known)), replace=False)
    tree = cKDTree(known[chosen])
    far, which = tree.query(told(without_grain(lightness)), k=min(_NEAREST, len(chosen)), workers=-1)
    far, which = far.reshape(len(far), -1), which.reshape(len(far), -1)
    weight = np.exp(-((far / (far[:, :1] + 0.3)) ** 2))
    weight /= weight.sum(axis=1, keepdims=True)
    candidates = chroma[chosen][which]
    found = (weight[..., None] * candidates).sum(axis=1)
    varies = (weight[..., None] * (candidates - found[:, None]) ** 2).sum(axis=(1, 2)) * 1e4  # as of Lab's a and b
    sure = (np.exp(-far[:, 0] / 2) / (25 + varies)).reshape(lightness.shape).astype(np.float32)
    sigma = max(lightness.shape) / _SMOOTH
    under = cv2.GaussianBlur(sure, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE) + 1e-9
    planes = found.T.reshape(2, *lightness.shape).astype(np.float32)
    out = [cv2.GaussianBlur(p * sure, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE) / under for p in planes]
    return np.stack(out).astype(np.float32)
