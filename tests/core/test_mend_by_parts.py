"""Lines followed, holes filled, stains and silvering taken away: each against a picture of which all is known."""

import cv2
import numpy as np
import pytest

from kyanoscript import demo
from kyanoscript.core.mend import detect, even, lines, patches, stains
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.surface.mend import Marking
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import GivenUp

P = load_all()


def photo(name="ferry-landing", width=1000):
    """A demo photograph in gray, encoded, a little grainy."""
    levels = cv2.imread(str(demo.photo(name)), cv2.IMREAD_GRAYSCALE)
    small = cv2.resize(levels, (width, round(levels.shape[0] * width / levels.shape[1])), interpolation=cv2.INTER_AREA)
    grain = np.random.default_rng(0).normal(0, 0.012, small.shape)
    return np.clip(0.08 + 0.84 * small / 255 + grain, 0, 1).astype(np.float32)


def nearer(before, after, want, where):
    """How many decibels nearer to what it should be."""
    far, near = (np.mean((p[where] - want[where]) ** 2) for p in (before, after))
    return 10 * np.log10(far / near)


def printed(gray, **values):
    renderer = Renderer(ArraySource(gray[..., None]), Script((P["mend"](**values),)), TileCache())
    return renderer.region(Rect(0, 0, gray.shape[1], gray.shape[0]))[0]


def told(shape, *pieces):
    """What a detector would say of a picture with lines from place to place, sure of them and of all else."""
    eighths = np.full(shape, -40, np.int8)
    found = np.zeros(shape, np.uint8)
    for start, end in pieces:
        cv2.line(found, start, end, 1, 3)
    eighths[found > 0] = 40
    return eighths, found


# Lines


def test_a_crease_is_followed_where_it_is_hardly_seen():
    eighths, found = told((600, 900), ((450, 40), (454, 200)), ((458, 240), (464, 520)))
    faint = np.zeros_like(found)
    cv2.line(faint, (454, 200), (458, 240), 1, 3)
    eighths[faint > 0] = -8  # less likely than not, and yet likelier than anything around it
    added = lines.followed(eighths, found, 50)
    gap = faint * (1 - found)
    assert (cv2.dilate(added, np.ones((3, 3), np.uint8))[gap > 0] > 0).mean() > 0.95
    assert added[:, :430].sum() == 0


def test_a_long_crease_goes_on_to_the_rim_and_a_short_scratch_does_not():
    eighths, found = told((600, 900), ((450, 12), (470, 585)))
    added = lines.followed(eighths, found, 50)
    assert added[:10].any()
    assert added[-10:].any()
    eighths, found = told((600, 900), ((450, 12), (450, 50)))
    assert not lines.followed(eighths, found, 50).any()


@pytest.mark.parametrize(
    "second",
    [
        ((480, 205), (700, 205)),  # turned by a right angle
        ((500, 230), (504, 500)),  # beside it
        ((465, 430), (470, 560)),  # too far on, and nothing between
    ],
)
def test_pieces_that_do_not_belong_together_are_not_joined(second):
    eighths, found = told((600, 900), ((450, 100), (454, 180)), second)
    assert not lines.followed(eighths, found, 50).any()


def test_a_crease_of_a_photograph_is_gone():
    """Cracked white along a line, fainter on half of it, and shaded beside: a fold of an old, soft print."""
    grain = np.random.default_rng(3).normal(0, 0.02, photo().shape).astype(np.float32)
    clean = np.clip(cv2.GaussianBlur(photo(), (0, 0), 1.3) + cv2.GaussianBlur(grain, (0, 0), 0.6), 0, 1)
    height, width = clean.shape
    xs = np.arange(width, dtype=np.float32)[None]
    way = 300 + 0.12 * np.arange(height, dtype=np.float32)[:, None]
    rng = np.random.default_rng(2)
    strong = np.where(np.arange(height) < height * 0.5, 0.4, 0.2)[:, None] * rng.uniform(0.7, 1.2, (height, 1))
    white = strong * np.exp(-(((xs - way) / 1.6) ** 2))
    shade = 0.09 * np.exp(-(((xs - way - 8) / 6) ** 2))
    folded = np.clip(clean + white - shade, 0, 1).astype(np.float32)
    out = printed(folded)
    hit = white + shade > 0.03
    assert nearer(folded, out, clean, hit) > 5
    sound = cv2.dilate(hit.astype(np.uint8), np.ones((41, 41), np.uint8)) == 0
    assert (np.abs(out - folded)[sound] > 0.02).mean() < 0.01
    kept = printed(folded, lines=False)
    assert nearer(folded, out, clean, hit) > nearer(folded, kept, clean, hit) + 0.5
    assert nearer(folded, out, clean, white > 0.1) > 8


# Holes


def sheet(tear):
    """A print on a scanner's bed, torn."""
    rng = np.random.default_rng(1)
    gray = np.full((500, 700), 0.05, np.float32)
    gray[40:460, 50:650] = 0.82
    gray[70:430, 80:620] = photo(width=700)[:360, :540]
    cv2.fillPoly(gray, [np.array(tear)], 0.05)
    return np.clip(gray + rng.normal(0, 0.004, gray.shape), 0, 1).astype(np.float32)


CORNER = ((540, 470), (660, 470), (660, 350))


def test_a_torn_corner_and_a_hole_are_told_from_the_rim():
    missing = detect.missing(sheet(CORNER))
    torn = detect.torn(missing)
    assert torn[420, 630] == 1
    assert torn[200, 300] == 0
    assert torn[:, :40].sum() == 0
    assert not detect.torn(detect.missing(sheet(((0, 0), (1, 0), (0, 1))))).any()
    holed = detect.torn(detect.missing(sheet(((300, 200), (330, 205), (325, 240), (298, 230)))))
    assert holed[218, 312] == 1
    assert holed.sum() < 3500


@pytest.mark.parametrize(("corner", "most"), [(CORNER, 0.16), (((40, 400), (40, 470), (120, 470)), 0.06)])
def test_what_is_missing_is_filled_only_on_request(corner, most):
    """Paper, its rim and what stood there go on, though how it truly looked nobody knows."""
    gray, whole = sheet(corner), sheet(((0, 0), (1, 0), (0, 1)))
    gone = np.abs(gray - whole) > 0.1
    left, done = (printed(gray, sensitivity=0.0, holes=holes) for holes in (False, True))
    assert np.array_equal(left, gray)
    assert np.abs(left - whole)[gone].mean() > 0.5
    assert np.abs(done - whole)[gone].mean() < most
    away = cv2.dilate(gone.astype(np.uint8), np.ones((15, 15), np.uint8)) == 0
    assert np.array_equal(done[away], gray[away])


def test_patches_carry_structure_on():
    """Stripes go on through a hole; a smear would be half as far off as the stripes are strong."""
    xs, ys = np.meshgrid(np.arange(260), np.arange(200))
    stripes = (0.5 + 0.3 * np.sign(np.sin((xs + 0.5 * ys) * 2 * np.pi / 22))).astype(np.float32)
    stripes += np.random.default_rng(0).normal(0, 0.02, stripes.shape).astype(np.float32)
    mask = np.zeros(stripes.shape, np.uint8)
    mask[80:125, 110:160] = 1
    out = patches.filled(np.where(mask > 0, np.float32(0), stripes)[None], mask)[0]
    assert np.array_equal(out[mask == 0], stripes[mask == 0])
    assert np.abs(out - stripes)[mask > 0].mean() < 0.08
    flat = np.clip(0.5 + np.random.default_rng(1).normal(0, 0.03, (160, 160)), 0, 1).astype(np.float32)
    hole = np.zeros(flat.shape, np.uint8)
    cv2.circle(hole, (80, 80), 24, 1, -1)
    filled = patches.filled(flat[None], hole)[0]
    assert filled[hole > 0].std() == pytest.approx(0.03, rel=0.35)  # the grain goes on
    assert filled[hole > 0].mean() == pytest.approx(0.5, abs=0.01)


def test_patches_are_not_taken_from_what_is_unsound():
    rng = np.random.default_rng(0)
    plane = rng.uniform(0.4, 0.6, (3, 120, 200)).astype(np.float32)
    plane[:, :, 120:] = 1.0
    mask, unsound = np.zeros((120, 200), np.uint8), np.zeros((120, 200), np.uint8)
    mask[40:70, 80:118] = 1
    unsound[:, 118:] = 1
    assert patches.filled(plane, mask, unsound)[:, mask > 0].max() < 0.8


def test_filling_everything_or_next_to_nothing_ends():
    plane = np.full((1, 30, 40), 0.5, np.float32)
    assert np.isfinite(patches.filled(plane, np.ones((30, 40), np.uint8))).all()
    one = np.zeros((30, 40), np.uint8)
    one[0, 0] = 1
    assert patches.filled(plane, one)[0, 0, 0] == pytest.approx(0.5, abs=0.01)
    assert np.array_equal(patches.filled(plane, np.zeros((30, 40), np.uint8)), plane)


def test_filling_is_told_on_and_can_be_given_up():
    plane = np.random.default_rng(0).uniform(0, 1, (1, 100, 300)).astype(np.float32)
    mask = np.zeros((100, 300), np.uint8)
    mask[40:60, 20:40] = mask[40:60, 150:170] = mask[40:60, 250:270] = 1
    shares = []

    def watch(what, share):
        shares.append((what, share))
        if len(shares) == 2:
            raise GivenUp

    with pytest.raises(GivenUp):
        patches.filled(plane, mask, watch=watch)
    assert [share for _, share in shares] == pytest.approx([1 / 3, 2 / 3])


# Stains


def stained(clean, dark=0.07, rim=0.12):
    """A drop that has dried: darker within, and darkest along its rim."""
    height, width = clean.shape
    ys, xs = np.mgrid[:height, :width].astype(np.float32)
    turn = np.arctan2(ys - 260, xs - 560)
    far = np.hypot(xs - 560, ys - 260) - (150 + 12 * np.sin(2 * turn + 1) + 6 * np.sin(5 * turn))
    added = -dark / (1 + np.exp(np.clip(far / 1.5, -50, 50))) - rim * np.exp(-((far / 3) ** 2))
    return np.clip(clean + added, 0, 1).astype(np.float32), far


def ring(far, play=0.0, count=24):
    """A hand's line along the rim, so many pixels off."""
    rng = np.random.default_rng(0)
    places = []
    for turn in np.linspace(0, 2 * np.pi, count, endpoint=False):
        r = np.arange(20, 240)
        xs, ys = np.rint(560 + r * np.cos(turn)).astype(int), np.rint(260 + r * np.sin(turn)).astype(int)
        k = int(np.abs(far[ys, xs]).argmin())
        places.append((xs[k] + rng.normal(0, play), ys[k] + rng.normal(0, play)))
    return places


@pytest.mark.parametrize(("dark", "rim"), [(0.07, 0.12), (0.07, 0.0), (-0.08, -0.1)])
def test_a_stain_that_is_drawn_round_goes(dark, rim):
    clean = photo()
    spoilt, far = stained(clean, dark, rim)
    height, width = clean.shape
    points = tuple((100 * x / width, 100 * y / height) for x, y in ring(far, 3.0))
    out = printed(spoilt, sensitivity=0.0, marks=(Marking(points=points, size=28, does="stain"),))
    assert nearer(spoilt, out, clean, far < 8) > 5
    if rim:
        assert nearer(spoilt, out, clean, np.abs(far) < 8) > 5
    assert np.abs(out - spoilt)[far > 60].max() < 0.01


def test_a_line_that_does_not_close_takes_the_rim_alone():
    clean = photo()
    spoilt, far = stained(clean, 0.0)
    half = ring(far)[13:23]  # over the sky
    added, (y, x) = stains.correction(spoilt[None], np.array(half), 28)
    whole = np.zeros_like(clean)
    whole[y : y + added.shape[1], x : x + added.shape[2]] = added[0]
    assert np.abs(whole)[np.abs(far) > 60].max() < 1e-6
    assert np.abs(whole)[(np.abs(far) < 3)].max() > 0.06


def test_lines_that_are_no_lines_change_nothing():
    plane = photo(width=300)[None]
    for points in ([(5.0, 5.0)], [(5.0, 5.0), (5.0, 5.0)], [(-50.0, -50.0), (-400.0, -80.0)]):
        added, _ = stains.correction(plane, np.array(points), 20)
        assert np.abs(added).max() < 0.2
        assert np.isfinite(added).all()


# Silvering


@pytest.mark.parametrize("name", ["ferry-landing", "carved-head"])
def test_silvering_is_taken_off_the_darks(name):
    clean = photo(name)
    height, width = clean.shape
    ys, xs = np.mgrid[:height, :width].astype(np.float32)
    rim = np.minimum.reduce([xs, width - xs, ys, height - ys]) / height
    sheen = 0.28 * np.exp(-((rim / 0.18) ** 2)) * (0.7 + 0.3 * np.sin(xs / 90) * np.cos(ys / 70))
    silvered = np.clip(clean + sheen * (1 - clean) ** 2, 0, 1).astype(np.float32)
    out = printed(silvered, sensitivity=0.0, silver=100.0)
    hit = (sheen > 0.08) & (clean < 0.35)
    assert hit.mean() > 0.03
    assert nearer(silvered, out, clean, hit) > 5
    half = printed(silvered, sensitivity=0.0, silver=50.0)
    assert nearer(silvered, half, clean, hit) > 2
    assert np.array_equal(printed(silvered, sensitivity=0.0), silvered)


def test_the_bluish_sheen_of_a_colour_scan_goes_with_it():
    gray = np.repeat(photo("ferry-landing", 500)[None], 3, axis=0)
    width = gray.shape[2]
    xs = np.arange(width, dtype=np.float32)[None, None] / width
    sheen = np.exp(-((xs / 0.2) ** 2)) * np.array([0.12, 0.16, 0.26], np.float32).reshape(3, 1, 1)
    silvered = gray + sheen * (1 - gray) ** 2
    veil = even.veil(silvered.astype(np.float32))
    out = even.unveiled(silvered, veil, 1.0)
    dark = (gray[0] < 0.3) & (xs[0] < 0.2)

    def blue(planes):
        return float((planes[2] - planes[0])[dark].mean())

    assert blue(silvered) > 0.05
    assert abs(blue(out)) < 0.35 * blue(silvered)
