"""Blurs against SciPy, wide and narrow; the edge-aware base."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from kyanoscript.core import colour, smooth
from kyanoscript.core.passes.surface.soften import Soften
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

NOISE = np.random.default_rng(3).random((900, 1300), dtype=np.float32)
EDGES = (np.indices((900, 1300)).sum(0) // 150 % 2).astype(np.float32)


def softened(picture, sigma):
    longer = max(picture.shape)
    script = Script((Soften(radius=sigma / longer * 1000),))
    return Renderer(ArraySource(picture), script).region(Rect(0, 0, 1300, 900))[0]


@pytest.mark.parametrize("sigma", [0.5, 1.3, 4.0, 7.9, 8.1, 20.0, 60.0, 140.0])
@pytest.mark.parametrize("picture", [NOISE, EDGES], ids=["noise", "edges"])
def test_soften_is_scipys_gaussian_in_light(picture, sigma):
    """scipy.ndimage.gaussian_filter on linear light, up to the rim.

    Tolerance: 1 % of light (coarse grids, bell cut at 3σ).
    """
    light = colour.to_light(picture).astype(np.float32)
    wanted = gaussian_filter(light, sigma, mode="reflect")
    out = colour.to_light(softened(picture, sigma))
    assert np.abs(out - wanted).max() < 0.01
    assert out.mean() == pytest.approx(wanted.mean(), abs=1e-3)


@pytest.mark.parametrize("sigma", [3.0, 7.9, 8.1, 20.0, 60.0])
def test_mean_light_is_unchanged_whatever_lies_at_the_rim(sigma):
    lined = np.pad(NOISE[1:-1, 1:-1], 1, constant_values=1.0)
    assert colour.to_light(softened(lined, sigma)).mean() == pytest.approx(colour.to_light(lined).mean(), rel=1e-3)


def test_radius_nothing_is_the_input():
    assert np.abs(softened(NOISE, 0) - NOISE).max() < 1e-5


def test_enlarging_keeps_a_level_picture_level_and_a_slope_a_slope():
    """Cubic B-splines sum to 1 and reproduce straight lines."""
    x = np.arange(40, dtype=np.float32)
    coarse = smooth.Coarse(np.broadcast_to(x, (1, 30, 40)).copy(), -4, -4, 0.25, 0.25)
    out = smooth.enlarge(coarse, Rect(8, 8, 60, 40))[0]
    wanted = (np.arange(8, 68) + 0.5) * 0.25 - 0.5 + 4
    assert np.abs(out - wanted).max() < 1e-4


def test_a_region_beyond_the_coarse_picture_is_refused():
    coarse = smooth.Coarse(np.zeros((1, 5, 5), np.float32), 0, 0, 0.25, 0.25)
    with pytest.raises(ValueError, match="reach"):
        smooth.enlarge(coarse, Rect(0, 0, 40, 40))


def test_the_base_keeps_an_edge_and_smooths_what_is_weak():
    step = np.where(np.arange(200) < 100, 0.2, 0.8).astype(np.float32)
    texture = 0.02 * np.random.default_rng(1).standard_normal((200, 200)).astype(np.float32)
    gray = (step + texture)[None]
    margin = 2 * smooth.reach(4.0)
    gain, offset = smooth.guided(gray, 4.0, 0.1)
    inner = gray[0, margin:-margin, margin:-margin]
    base = gain * inner + offset
    jump = base[:, 100 - margin + 2].mean() - base[:, 100 - margin - 3].mean()
    assert jump > 0.85 * 0.6
    assert (base[:, :30] - base[:, :30].mean()).std() < 0.35 * texture.std()
    assert base.max() < 0.8 + 0.1
    assert base.min() > 0.2 - 0.1
