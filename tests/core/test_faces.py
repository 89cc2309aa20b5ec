"""Faces found by the cascade, beside scikit-image's code for the same cascade, and on pictures with and without."""

from importlib import resources

import cv2
import numpy as np
import pytest
import skimage.data
from skimage.feature import Cascade

from kyanoscript import demo
from kyanoscript.core import colour
from kyanoscript.core.tint import faces
from kyanoscript.core.tint.reading import prepared

_CASCADE = resources.files("kyanoscript") / "core" / "tint" / "faces.xml"


def lightness(planes, side=420):
    """Oklab lightness 0…100 of an encoded picture ``(h, w, 3)`` of bytes, small."""
    scale = side / max(planes.shape[:2])
    small = cv2.resize(planes, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) / 255
    return (colour.to_oklab(np.moveaxis(small, -1, 0), colour.SRGB)[0] * 100).astype(np.float32)


def test_the_same_places_are_found_as_by_scikit_image():
    levels = np.rint(lightness(skimage.data.astronaut(), 130) * 2.55).astype(np.uint8)
    theirs = Cascade(str(_CASCADE)).detect_multi_scale(
        levels, scale_factor=1.2, step_ratio=1, min_size=(24, 24), max_size=(30, 30), min_neighbor_number=1
    )
    ours = faces.windows(levels)
    assert len(theirs) == 2  # the face, and a place that one window takes for one
    for face in theirs:  # they join windows that overlap
        assert min(np.hypot(face["c"] - x, face["r"] - y) for x, y in ours) <= 3
    for x, y in ours:
        assert min(np.hypot(face["c"] - x, face["r"] - y) for face in theirs) <= 3


def test_a_face_is_found_where_it_is():
    (x, y, size, _), *_ = faces.faces(lightness(skimage.data.astronaut()))
    assert (x, y) == pytest.approx((182, 94), abs=12)  # of 420
    assert 55 < size < 105


def test_the_two_heads_in_the_yard_are_found_on_the_old_scan_too():
    scan = cv2.imread(str(demo.photo("yard-scan")))
    found = faces.faces(prepared(lightness(scan)))
    assert len(found) == 2
    places = sorted((x / 420, y / 420) for x, y, _, _ in found)
    assert places[0] == pytest.approx((0.64, 0.41), abs=0.04)
    assert places[1] == pytest.approx((0.81, 0.43), abs=0.04)


@pytest.mark.parametrize("picture", ["coffee", "rocket", "chelsea"])
def test_where_there_is_none_none_is_found(picture):
    assert faces.faces(lightness(getattr(skimage.data, picture)())) == []


@pytest.mark.parametrize("name", ["ferry-landing", "marsh-at-dusk", "table-by-the-window", "landing-scan"])
def test_none_is_found_in_the_demo_photographs_without_one(name):
    assert faces.faces(lightness(cv2.imread(str(demo.photo(name))))) == []


@pytest.mark.parametrize("shape", [(1, 1), (10, 300), (24, 24), (30, 25)])
def test_the_smallest_and_the_emptiest_pictures(shape):
    assert faces.faces(np.full(shape, 50, np.float32)) == []
