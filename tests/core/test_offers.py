"""A gray scene divided into regions, and six likely tints for each."""

import json

import cv2
import numpy as np
import pytest
from skimage import data as skimage_data
from skimage.color import deltaE_ciede2000, rgb2lab

from kyanoscript.cli import main
from kyanoscript.core import colour
from kyanoscript.core.tint import offers, reading
from kyanoscript.core.tint.regions import FEWEST, MOST, divided, outlines


def lab_of(name):
    """Oklab planes of one of scikit-image's photographs, of the size that a scene is read at."""
    pixels = getattr(skimage_data, name)()[..., :3]
    scale = reading.SIDE / max(pixels.shape[:2])
    pixels = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return colour.to_oklab(np.moveaxis(pixels, -1, 0).astype(np.float64) / 255, colour.SRGB)


NAMES = ("coffee", "chelsea", "rocket", "astronaut")


def looked_over(name):
    """A photograph's Oklab planes, what was read of it, its regions and their numbers."""
    lab = lab_of(name)
    scene = offers.looked_over((lab[0] * 100).astype(np.float32))
    labels = divided(scene.ready, scene.chroma)
    return lab, scene, labels, offers.told(scene, labels)


@pytest.fixture(scope="module")
def scenes():
    return [looked_over(name) for name in NAMES]


@pytest.fixture(params=range(len(NAMES)), ids=NAMES)
def scene(scenes, request):
    return scenes[request.param]


def test_a_scene_is_five_to_twelve_regions_and_none_is_a_speck(scene):
    lab, _, labels, numbers = scene
    sizes = np.bincount(labels.ravel())
    assert labels.shape == lab.shape[1:]
    assert FEWEST <= len(sizes) <= MOST
    assert sizes.min() >= 0.015 * labels.size
    assert len(numbers) == len(sizes)
    assert np.isfinite(numbers).all()


def test_two_flat_halves_are_two_regions_and_their_rim_is_where_they_meet():
    """What is plain is found where it is: a step of lightness through noise, to five pixels of three hundred."""
    rng = np.random.default_rng(4)
    lightness = np.where(np.arange(300) < 170, 30.0, 75.0) + rng.normal(0, 1, (200, 300))
    labels = divided(lightness.astype(np.float32), np.zeros((2, 200, 300), np.float32))
    left, right = set(labels[:, :165].ravel()), set(labels[:, 175:].ravel())
    assert not left & right
    for k in left | right:
        (outline, *_) = outlines(labels, k)
        across = [x for x, _ in outline.corners]
        assert max(across) <= 175 / 300 or min(across) >= 165 / 300


@pytest.mark.parametrize("size", [(1, 1), (1, 40), (2, 3), (5, 5), (9, 400)])
def test_the_smallest_scene_has_a_part_and_six_tints(size):
    rng = np.random.default_rng(1)
    found = offers.regions(offers.looked_over(rng.uniform(0, 100, size).astype(np.float32)))
    assert found
    assert all(len(region.tints) == 6 for region in found)
    apart = np.ones(size, bool)
    assert offers.regions(offers.looked_over(np.full(size, 50, np.float32)), apart) == []


def test_what_is_apart_belongs_to_no_part(scene):
    """Somebody in the middle: no place of theirs, and each of the others, but for a chink within their outline."""
    _, looked, _, _ = scene
    height, width = looked.lightness.shape
    apart = np.zeros((height, width), bool)
    apart[height // 4 : 3 * height // 4, width // 3 : 2 * width // 3] = True
    apart[height // 2 : height // 2 + 4, width // 2 : width // 2 + 4] = False
    labels = divided(looked.ready, looked.chroma, apart)
    outside = labels >= 0
    assert not outside[apart].any()
    assert (~outside & ~apart).sum() <= 16
    sizes = np.bincount(labels[outside])
    assert len(sizes) <= MOST
    assert sizes.min() > 0


def test_outlines_hold_what_their_region_holds(scene):
    _, _, labels, _ = scene
    height, width = labels.shape
    for k in range(int(labels.max()) + 1):
        mask = np.zeros(labels.shape, np.uint8)
        for line in outlines(labels, k):
            corners = np.rint([(x * width - 0.5, y * height - 0.5) for x, y in line.corners]).astype(np.int32)
            cv2.fillPoly(mask, [corners], 1)
        inside = (mask > 0) & (labels == k)
        assert inside.sum() >= 0.75 * (labels == k).sum()  # small islands have no outline


def test_six_tints_are_apart_and_the_likeliest_comes_first(scene):
    lab, _, labels, numbers = scene
    for k, told in enumerate(numbers):
        lightness = float(lab[0][labels == k].mean())
        tints, sure = offers.six(told, lightness)
        assert tints.shape == (6, 2)
        assert list(sure) == sorted(sure, reverse=True)
        assert sum(sure) == pytest.approx(100, abs=0.4)
        at = tints * max(lightness, 0.5)
        away = np.linalg.norm(at[:, None] - at[None], axis=2) + np.eye(6)
        assert away.min() >= 0.0399


def difference(a, b):
    return float(deltaE_ciede2000(*(rgb2lab(np.moveaxis(np.clip(p, 0, 1), 0, -1)) for p in (a, b))).mean())


def pressed(looked, follow=True):
    """Eight presses of a hand that takes the nearest of six: gray's CIEDE2000 that is left (by scikit-image), and how
    likely what it took was said to be."""
    lab, scene, labels, numbers = looked
    made, likely, chosen = np.zeros_like(lab[1:]), [], []
    for k in np.argsort(-np.bincount(labels.ravel()))[:8]:
        where = labels == k
        true = lab[1:][:, where].sum(axis=1) / lab[0][where].sum()
        tints, sure, _ = offers.offered(scene, where, numbers[k], chosen if follow else ())
        nearest = int(np.linalg.norm(tints - true, axis=1).argmin())
        made[:, where] = tints[nearest][:, None] * lab[0][where]
        likely.append(sure[nearest])
        chosen.append(offers.Chosen(numbers[k], tints[nearest]))
    wanted, gray, done = (
        colour.from_oklab(np.stack([lab[0], *c]), colour.SRGB) for c in (lab[1:], np.zeros_like(made), made)
    )
    return difference(wanted, done) / difference(wanted, gray), float(np.mean(likely))


def test_a_hand_that_takes_the_nearest_of_six_comes_far_from_gray(scenes):
    """The offers have learned nothing from these photographs. Six colours that were learned, whichever, leave 0.72 of
    gray's distance, the likeliest alone 0.85; a tint by chance is the nearest in 16.7 of a hundred."""
    left, likely = zip(*map(pressed, scenes), strict=True)
    assert max(left) < 0.95
    assert np.mean(left) < 0.65
    assert np.mean(likely) > 21  # what is most like a region is asked, not just anything: else 19
    _, alone = zip(*(pressed(scene, follow=False) for scene in scenes), strict=True)
    assert np.mean(likely) > np.mean(alone) + 4  # what was chosen tells of what was not


def test_what_is_like_something_chosen_is_offered_its_tint_first():
    """Two halves alike beside a third: once one has an unlikely violet, the other is offered that first, the third
    not."""
    rng = np.random.default_rng(8)
    lightness = np.concatenate(
        [rng.normal(60, 6, (140, 120)), np.full((140, 60), 92.0), rng.normal(60, 6, (140, 120))], axis=1
    ).astype(np.float32)
    scene = offers.looked_over(lightness)
    labels = np.repeat(np.repeat([[0, 1, 2]], 140, 0), [120, 60, 120], axis=1).astype(np.int32)
    numbers = offers.told(scene, labels)
    violet = np.array([0.08, -0.12])
    for k, first in ((2, True), (1, False)):
        light = float(lightness[labels == k].mean()) / 100
        tints, _ = offers.six(numbers[k], light, [offers.Chosen(numbers[0], violet)])
        assert (np.linalg.norm(tints[0] - violet) < 1e-6) == first
        before, _ = offers.six(numbers[k], light)
        assert np.linalg.norm(before - violet, axis=1).min() > 0.02


def test_the_next_six_are_six_others():
    scene = offers.looked_over((lab_of("coffee")[0] * 100).astype(np.float32))
    labels = divided(scene.ready, scene.chroma)
    numbers = offers.told(scene, labels)[0]
    turns = [offers.offered(scene, labels == 0, numbers, turn=turn)[0] for turn in range(4)]
    every = np.concatenate(turns)
    away = np.linalg.norm(every[:, None] - every[None], axis=2) + np.eye(len(every))
    assert len(every) == 24
    assert away.min() > 0.01


def test_the_command_line_lists_regions_with_their_tints(tmp_path, capsys):
    pixels = skimage_data.coffee()
    gray = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    cv2.imwrite(str(tmp_path / "scan.png"), gray)
    assert main(["look", str(tmp_path / "scan.png"), "--offers", "--json"]) == 0
    rows = json.loads(capsys.readouterr().out)
    assert [row["share"] for row in rows] == sorted((row["share"] for row in rows), reverse=True)
    assert 95 < sum(row["share"] for row in rows) <= 100.1
    for row in rows:
        assert len(row["tints"]) == len(row["sure"]) == 6
        assert len(set(row["tints"])) == 6
        assert all(0 <= v <= 100 for line in row["outlines"] for corner in line for v in corner)
        x, y = (int(row[key] / 100 * (side - 1)) for key, side in (("x", 600), ("y", 400)))
        assert 0 <= x < 600
        assert 0 <= y < 400
    assert main(["look", str(tmp_path / "scan.png"), "--offers"]) == 0
    said = capsys.readouterr().out.splitlines()
    assert len(said) == len(rows)
    assert said[0].startswith(f"{rows[0]['name']}, ")
