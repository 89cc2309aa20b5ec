"""The same script on the same picture at several resolutions looks the same."""

import warnings

import cv2
import numpy as np
import pytest

from kyanoscript import demo
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.tone.dodge_burn import Exposing
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.stencil import Oval, Stencil, Stroke
from tests.strategies import PASSES

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour as reference

P = load_all()
STROKES = (Exposing(points=((20.0, 30.0), (70.0, 60.0)), exposure=60.0, size=150.0),)
VALUES = {
    "exposure": {"exposure": 0.4, "contrast": 20.0, "shadows": 30.0},
    "colour-balance": {"mids_red": 15.0, "shadows_blue": 10.0},
    "hue-chroma": {"chroma": 30.0},
    "gray-weights": {"auto": True},
    "levels": {"auto": True},
    "curves": {"every": ((0.0, 10.0), (120.0, 100.0), (255.0, 250.0))},
    "threshold": {"softness": 150.0},
    "sharpen": {"amount": 120.0, "radius": 4.0},
    "dodge-burn": {"strokes": STROKES},
    "soften": {"radius": 6.0},
    "plate": {"run": (P["soften"](radius=20.0),), "blend": "soft-light", "strength": 45.0},
}
WHERE = Stencil(
    shapes=(Oval(width=600, height=500), Stroke(points=((10.0, 10.0), (90.0, 80.0)), size=90.0)), feather=30
)


@pytest.fixture(scope="module")
def sizes():
    """One picture at 3, 0.75 and 0.19 megapixels: each four times the next, as 96, 24 and 6 are."""
    pixels = cv2.imread(str(demo.photo("ferry-landing")))[..., ::-1]
    light = (pixels / 255.0) ** 2.2
    soft = cv2.GaussianBlur(light, (0, 0), 1.5)  # what a larger print has beyond the smaller one's pixels is not judged
    return [
        np.rint(cv2.resize(soft, (w, w * 2 // 3), interpolation=cv2.INTER_AREA) ** (1 / 2.2) * 255).astype(np.uint8)
        for w in (2112, 1056, 528)
    ]


def small(pixels, script):
    """The print, shrunk to 264 × 176."""
    renderer = Renderer(ArraySource(pixels), script)
    planes = renderer.region(Rect(0, 0, *renderer.size(1.0)))
    rgb = np.moveaxis(np.broadcast_to(planes, (3, *planes.shape[1:])), 0, 2)
    return cv2.resize(np.ascontiguousarray(rgb), (264, 176), interpolation=cv2.INTER_AREA)


def difference(a, b):
    """Mean CIEDE2000 (CIE 142), by colour-science."""
    lab = [reference.XYZ_to_Lab(reference.sRGB_to_XYZ(v.astype(np.float64))) for v in (a, b)]
    return float(np.mean(reference.delta_E(*lab, method="CIE 2000")))


@pytest.mark.parametrize("model", PASSES, ids=lambda m: m.kind)
def test_a_script_carries_over_to_other_resolutions(model, sizes):
    """Mean ΔE2000 under 1 between neighbouring sizes, with a stencil of ovals and strokes."""
    script = Script((model(**VALUES.get(model.kind, {}), stencil=WHERE),))
    prints = [small(pixels, script) for pixels in sizes]
    assert difference(prints[0], prints[1]) < 1
    assert difference(prints[1], prints[2]) < 1
