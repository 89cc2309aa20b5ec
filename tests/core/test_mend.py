"""Mending the demo scans, whose true colours and damage are known; and what mending must leave alone."""

import cv2
import numpy as np
import pytest
from skimage.morphology import skeletonize

from kyanoscript import demo
from kyanoscript.core.frame import Frame
from kyanoscript.core.mend import detect, even, fill, lines
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.surface.mend import Marking
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import GivenUp

P = load_all()
SCANS = ("landing", "yard", "two-dyers", "foreman", "crew")
_FOLDER = demo.photo().parents[1] / "scans"


def scan(name):
    """The scan 0…1, its damage (255 damaged, 0 sound, 128 outside the picture)."""
    return (
        cv2.imread(str(_FOLDER / f"{name}-scan.jpg"), cv2.IMREAD_GRAYSCALE),
        cv2.imread(str(_FOLDER / f"{name}-damage.png"), cv2.IMREAD_GRAYSCALE),
    )


def undamaged(name, gray, damage):
    """What the scan would be without damage: the true picture with the scan's own local tones, from sound places."""
    true = cv2.imread(str(_FOLDER / f"{name}-true.jpg"))[..., ::-1].astype(np.float32) / 255
    light = np.where(true <= 0.04045, true / 12.92, ((true + 0.055) / 1.055) ** 2.4) @ np.float32([0.15, 0.45, 0.40])
    guide = cv2.GaussianBlur(np.clip(light, 0, 1).astype(np.float32) ** (1 / 2.2), (0, 0), 1.3)
    sound = (cv2.dilate((damage != 0).astype(np.uint8), np.ones((5, 5))) == 0).astype(np.float32)

    def mean(plane):
        return cv2.blur(plane * sound, (61, 61)) / np.maximum(cv2.blur(sound, (61, 61)), 1e-4)

    m, n = mean(guide), mean(gray)
    gain = (mean(guide * gray) - m * n) / (mean(guide * guide) - m * m + 1e-5)
    return gain * (guide - m) + n


@pytest.fixture(scope="module", params=SCANS)
def looked(request):
    levels, damage = scan(request.param)
    gray = levels.astype(np.float32) / 255
    return request.param, levels, gray, damage, detect.likely(gray)


def mended(levels, **values):
    renderer = Renderer(ArraySource(levels), Script((P["mend"](**values),)), TileCache())
    return renderer.region(Rect(0, 0, levels.shape[1], levels.shape[0]))


@pytest.fixture(scope="module")
def print_of(looked):
    """The scan mended. What was found is known: looking it over again would take seconds, and find the same."""

    def known(gray, kept, watch):
        assert np.abs(gray - looked[2]).max() < 1e-6
        return looked[4]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(detect, "likely", known)
        return mended(looked[1])


def test_most_of_the_damage_is_found_and_little_that_is_none(looked):
    _, _, gray, damage, logits = looked
    mask = whole_of(gray, logits)
    assert (mask[damage == 255] > 0).mean() >= FOUND
    assert (mask[damage == 0] > 0).mean() <= 0.01


FOUND = 0.9
LINES = 0.95


def whole_of(gray, logits):
    """What is found at the middle sensitivity, lines followed, and what is missing."""
    found = detect.chosen(logits, 50, 8 / 1000 * max(gray.shape))
    missing = detect.missing(gray)
    inner = lines.off_the_rim(missing)
    apart = np.where(inner, found, 0).astype(np.uint8)
    told = np.where(inner, logits, -64).astype(np.int8)
    followed = lines.widened(np.maximum(apart, lines.followed(told, apart, 50)))
    return np.maximum.reduce([found, followed, missing])


def test_lines_are_found_for_most_of_their_length(looked):
    """Of what is drawn in the truth longer than a fiftieth of the picture, and thin: its middle line."""
    _, _, gray, damage, logits = looked
    near = cv2.dilate(whole_of(gray, logits), np.ones((3, 3), np.uint8))
    marked = (damage == 255).astype(np.uint8)
    closed = cv2.morphologyEx(marked, cv2.MORPH_CLOSE, np.ones((25, 25), np.uint8))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(closed)
    middle = np.zeros_like(marked)
    for k in range(1, count):
        x, y, w, h, area = stats[k]
        if np.hypot(w, h) > 0.02 * max(gray.shape):
            box = np.s_[y : y + h, x : x + w]
            thin = skeletonize((marked[box] > 0) & (labels[box] == k))
            if area < 14 * thin.sum():
                middle[box] |= thin.astype(np.uint8)
    assert middle.sum() > 500
    assert (near[middle > 0] > 0).mean() >= LINES


def test_the_mended_print_is_nearer_to_the_undamaged_one(looked, print_of):
    name, _, gray, damage, _ = looked
    want = undamaged(name, gray, damage)
    out = print_of[0]
    here = (damage == 255) & (gray > 0.12)  # a torn-off corner is gone for good
    before, after = (np.mean((p[here] - want[here]) ** 2) for p in (gray, out))
    assert 10 * np.log10(before / after) >= 5


def test_what_is_sound_stays_as_it_is(looked, print_of):
    """Beside a crease the paper is shaded, which the truth does not mark: that may be evened, and no more."""
    _, _, gray, damage, _ = looked
    changed = np.abs(print_of[0] - gray)[damage == 0]
    assert (changed > 0.1).mean() <= 0.005
    assert (changed > 0.02).mean() <= 0.02
    assert (changed > 1e-6).mean() <= 0.12


def test_filling_carries_edges_and_grain_on():
    rng = np.random.default_rng(0)
    clean = np.where(np.arange(200)[None] < 100, 0.3, 0.7).repeat(160, axis=0).astype(np.float32)
    grain = cv2.GaussianBlur(rng.standard_normal(clean.shape).astype(np.float32), (0, 0), 0.8)
    picture = np.clip(clean + 0.03 * grain / grain.std(), 0, 1).astype(np.float32)
    mask = np.zeros(clean.shape, np.uint8)
    cv2.line(mask, (20, 75), (180, 85), 1, 4)
    out = fill.filled(np.where(mask > 0, np.float32(1), picture), mask)
    inside = mask > 0
    assert np.array_equal(out[~inside], picture[~inside])
    away = inside & (np.abs(np.arange(200)[None] - 100) > 8)
    assert np.abs(out - clean)[away].mean() < 0.05
    assert out[inside & (np.arange(200)[None] < 90)].std() == pytest.approx(0.03, rel=0.4)  # the grain goes on


def test_nothing_is_found_in_a_clean_picture_nor_in_one_tone():
    photo = cv2.imread(str(demo.photo("carved-head")), cv2.IMREAD_GRAYSCALE)[300:900, 300:1200].astype(np.float32) / 255
    assert detect.chosen(detect.likely(photo), 50, 20).mean() < 0.01
    flat = np.full((300, 300), 0.5, np.float32)
    assert detect.chosen(detect.likely(flat), 50, 20).sum() == 0


def test_finding_does_not_depend_on_the_tiles(monkeypatch):
    gray = scan("landing")[0][200:900, 200:1000].astype(np.float32) / 255
    whole = detect.likely(gray)
    monkeypatch.setattr(detect, "_TILE", 200)
    differs = np.abs(detect.likely(gray).astype(int) - whole)  # in eighths of a logit, rounded
    assert differs.max() <= 1
    assert (differs > 0).mean() < 1e-4


def test_looking_is_told_on_and_goes_on_where_it_was_given_up(monkeypatch):
    monkeypatch.setattr(detect, "_TILE", 200)
    judged = []
    network = detect.judged
    monkeypatch.setattr(detect, "judged", lambda part: judged.append(1) or network(part))
    levels = scan("landing")[0][200:800, 300:1100].copy()
    whole, cache, shares = Rect(0, 0, 800, 600), TileCache(), []

    def until(count):
        def watch(what, share):
            assert what == "Looking the scan over"
            shares.append(share)
            if len(shares) == count:
                raise GivenUp

        return Renderer(ArraySource(levels), Script((P["mend"](),)), cache, watch=watch)

    with pytest.raises(GivenUp):
        until(5).region(whole)
    assert len(judged) == 5
    assert shares == sorted(shares)
    assert shares[-1] < 1
    done = until(-1).region(whole)
    assert len(judged) == 12  # tiles of 200 on 800 × 600: none is looked at twice
    assert shares[-1] == 1
    assert np.array_equal(done, mended(levels))


def test_strokes_add_what_was_missed_and_protect_what_was_not_damaged():
    levels = scan("landing")[0][200:700, 300:1100].copy()
    place = ((50.0, 50.0), (56.0, 50.0))
    added = mended(levels, sensitivity=0.0, marks=(Marking(points=place, size=10),))[0]
    changed = np.abs(added - levels / 255) > 1e-4
    assert 0.001 < changed.mean() < 0.02
    everywhere = ((0.0, 50.0), (100.0, 50.0))
    left = mended(
        levels,
        marks=(Marking(points=everywhere, size=500, does="leave"), Marking(points=everywhere, size=500, does="leave")),
    )[0]
    middle = slice(150, 350)
    assert np.abs(left - levels / 255)[middle, 200:600].max() < 1e-6


def test_what_was_found_is_shown_in_red():
    levels = scan("yard")[0][:700, 900:1700].copy()
    shown = mended(levels, shown="found")
    red = (shown[0] - shown[2]) > 0.4
    assert 0.002 < red.mean() < 0.2


def test_what_was_found_is_shown_past_the_passes_that_follow():
    levels = scan("yard")[0][:500, 900:1500].copy()
    source, whole = ArraySource(levels), Rect(0, 0, 600, 500)
    mend, after = P["mend"](shown="found"), (P["levels"](middle=30), P["hand-tint"](auto=True))
    alone = Renderer(source, Script((mend,))).region(whole)
    assert np.array_equal(Renderer(source, Script((mend, *after))).region(whole), alone)
    off = Renderer(source, Script((mend.model_copy(update={"on": False}), *after))).region(whole)
    assert np.array_equal(off, Renderer(source, Script(after)).region(whole))
    assert Script((mend, *after)).ending == mend
    assert Script((P["mend"](), *after)).ending is None


def test_more_sensitive_finds_more(looked):
    logits = looked[4]
    counts = [int(detect.chosen(logits, s, 20).sum()) for s in (10, 50, 90)]
    assert counts[0] < counts[1] < counts[2]


def test_fading_is_evened_out_and_the_range_opened():
    rng = np.random.default_rng(0)
    picture = cv2.GaussianBlur(rng.random((400, 600)).astype(np.float32), (0, 0), 6)
    picture = (picture - picture.min()) / np.ptp(picture)
    fade = np.linspace(0, 0.5, 600, dtype=np.float32)[None]
    faded = 0.15 + 0.6 * picture * (1 - fade) + 0.4 * fade
    levels = np.rint(faded * 65535).astype(np.uint16)
    out = mended(levels, sensitivity=0.0, even=100.0)[0]

    def spread(p):
        return [np.percentile(part, 95) - np.percentile(part, 5) for part in np.array_split(p, 5, axis=1)]

    before, after = spread(faded), spread(out)
    assert max(after) / min(after) < 0.6 * max(before) / min(before) + 0.4
    opened = mended(levels, sensitivity=0.0, even=100.0, range=100.0)[0]
    assert np.percentile(opened, 1) < 0.1
    assert np.percentile(opened, 99) > 0.9
    parts, dark, light = even.ends(faded)
    assert parts.shape[0] == 2
    assert dark < light


def test_the_preview_is_the_print_shrunk():
    levels = scan("yard")[0][:800, 800:2000].copy()
    source = ArraySource(levels)
    script = Script((P["mend"](even=60.0),))
    full = Renderer(source, script).region(Rect(0, 0, 1200, 800))[0]
    half = Renderer(source, script).region(Rect(0, 0, 600, 400), 0.5)[0]
    shrunk = cv2.resize(full, (600, 400), interpolation=cv2.INTER_AREA)
    assert np.abs(half - shrunk).mean() < 0.004


@pytest.mark.parametrize("scale", [0.7, 0.5, 0.3])
def test_no_hairline_is_left_where_a_scratch_was_in_a_small_view_of_a_tilted_scan(scale):
    """A tilted frame is resampled at each size by itself: adding the change there left a light line."""
    rng = np.random.default_rng(4)
    gray = cv2.GaussianBlur(rng.normal(0, 1, (600, 900)).astype(np.float32), (0, 0), 0.8)
    gray = 0.5 + 0.02 * gray / gray.std()
    gray[:, 450:453] += 0.35
    script = Script((P["mend"](marks=(Marking(points=((50.17, 0.0), (50.17, 100.0)), size=12),)),), Frame(tilt=2.0))
    renderer = Renderer(ArraySource(gray[..., None].astype(np.float32)), script, TileCache())
    size = renderer.size(scale)
    out = renderer.region(Rect(0, 0, *size), scale)[0]
    plain = Renderer(ArraySource(gray[..., None].astype(np.float32)), Script((), script.frame))
    scratched = plain.region(Rect(0, 0, *size), scale)[0]
    line = cv2.dilate((scratched > 0.56).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    inner = np.zeros_like(line)
    inner[20:-20, 20:-20] = True
    assert (line & inner).sum() > 300
    rest = out[inner & ~line]
    assert abs(out[line & inner].mean() - rest.mean()) < 0.25 * rest.std() + 0.002


def test_a_scan_larger_than_what_is_looked_at_is_mended_in_strips_as_in_one(monkeypatch):
    from kyanoscript.core.passes.surface import mend
    from kyanoscript.core.render import renderer

    monkeypatch.setattr(mend, "_MOST", 120_000)
    monkeypatch.setattr(renderer, "_COARSE", 200_000)  # less than the tiles that are looked at: they must not push out
    looked = []
    monkeypatch.setattr(detect, "likely", lambda gray, *rest: looked.append(gray.shape) or _likely(gray, *rest))
    levels = scan("yard")[0][:700, 900:1700].copy()
    made = Renderer(ArraySource(levels), Script((P["mend"](),)))
    whole = made.region(Rect(0, 0, 800, 700))
    strips = [made.region(Rect(0, y, 800, 100)) for y in range(0, 700, 100)]
    assert np.abs(np.concatenate(strips, axis=1) - whole).max() < 1e-5  # what every region must keep to
    assert len(looked) == 1  # without a cache of tiles too
    assert looked[0][0] * looked[0][1] <= 120_000
    assert 0.001 < (np.abs(whole[0] - levels / 255) > 0.01).mean() < 0.2


_likely = detect.likely


@pytest.mark.parametrize(("width", "height"), [(1, 1), (2, 1), (1, 3), (7, 1), (30, 2), (5, 40)])
def test_the_smallest_pictures_are_mended_and_tinted_too(width, height):
    levels = np.random.default_rng(0).integers(0, 255, (height, width, 3)).astype(np.uint8)
    stroke = (Marking(points=((0.0, 0.0),), size=500),)
    for step in (
        P["mend"](even=100.0, range=100.0, marks=stroke),
        P["mend"](shown="found", sensitivity=100.0),
        P["hand-tint"](auto=True, calm_gray=20.0, calm_colour=50.0),
    ):
        renderer = Renderer(ArraySource(levels), Script((step,)), TileCache())
        for scale in (1.0, 0.5):
            size = renderer.size(scale)
            out = renderer.region(Rect(0, 0, *size), scale)
            assert out.shape[1:] == size[::-1]
            assert np.isfinite(out).all()


def test_what_the_network_says_of_a_tile_depends_on_the_tile_alone():
    """Tests share its answers (`tests/conftest.py`): so it must be, to the bit."""
    parts = [np.random.default_rng(seed).normal(0, 1, (3, 100 + seed, 120)).astype(np.float32) for seed in range(3)]
    first = [detect.judged.network(part) for part in parts]
    for part, said in zip(reversed(parts), reversed(first), strict=True):
        assert np.array_equal(detect.judged.network(part), said)
        assert np.array_equal(detect.judged(part), said)
    assert not np.array_equal(first[0][:50, :50], first[1][:50, :50])


def test_infrared_shows_what_lies_on_the_film():
    """Dust as light and as rough as the leaves around it: the picture alone cannot tell, its infrared can."""
    rng = np.random.default_rng(6)
    height, width = 260, 340
    leaves = cv2.GaussianBlur(rng.random((height, width)), (0, 0), 1.5)
    leaves = (0.2 + 0.5 * (leaves - leaves.min()) / np.ptp(leaves)).astype(np.float32)
    dust = np.zeros((height, width), np.uint8)
    for _ in range(25):
        x, y = rng.integers(10, width - 10), rng.integers(10, height - 10)
        cv2.ellipse(dust, (int(x), int(y)), (int(rng.integers(1, 4)), 1), float(rng.integers(180)), 0, 360, 1, -1)
    pixels = np.repeat(np.where(dust > 0, leaves[::-1, ::-1], leaves)[..., None], 3, 2)
    infrared = (0.8 - 0.05 * np.linspace(0, 1, width) - 0.35 * dust).astype(np.float32)
    infrared += (0.01 * rng.standard_normal(infrared.shape)).astype(np.float32)
    found = {}
    for known in (True, False):
        source = ArraySource(
            np.rint(pixels * 65535).astype(np.uint16), infrared=ArraySource(infrared[..., None]) if known else None
        )
        shown = Renderer(source, Script((P["mend"](shown="found"),)), TileCache())
        red = shown.region(Rect(0, 0, width, height))
        found[known] = (red[0] - red[1]) > 0.3
    near = cv2.dilate(dust, np.ones((5, 5))) > 0
    assert found[True][dust > 0].mean() > 0.95
    assert found[True][~near].mean() < 0.01
    assert found[False][dust > 0].mean() < 0.5
    off = Renderer(source, Script((P["mend"](shown="found", infrared=False),)), TileCache())
    red = off.region(Rect(0, 0, width, height))
    assert np.array_equal((red[0] - red[1]) > 0.3, found[False])


def test_infrared_lies_where_the_picture_lies_however_it_is_framed():
    """A speck in one corner of the infrared is found in that corner of the turned print."""
    infrared = np.full((80, 120, 1), 0.8, np.float32)
    infrared[8:11, 100:103] = 0.2
    source = ArraySource(np.full((80, 120, 3), 0.5, np.float32), infrared=ArraySource(infrared))
    script = Script((P["mend"](shown="found"),), Frame(turns=1))
    red = Renderer(source, script, TileCache()).region(Rect(0, 0, 80, 120))
    y, x = np.nonzero((red[0] - red[1]) > 0.2)
    assert (x.min() >= 66, x.max() <= 75, y.min() >= 96, y.max() <= 106) == (True, True, True, True)


def test_a_crease_ends_with_the_print_and_the_margin_round_it_stays():
    """Beyond the upper end of the landing's crease lies bare paper, which a longer line would lighten by 0.02."""
    gray = scan("landing")[0].astype(np.float32) / 255
    renderer = Renderer(ArraySource(gray), Script((P["mend"](),)), TileCache(400 << 20))
    beyond = Rect(505, 72, 50, 30)
    mended = renderer.region(beyond)[0]
    assert np.abs(mended - gray[72:102, 505:555]).mean() < 0.004
    crease = Rect(380, 160, 60, 50)
    assert np.abs(renderer.region(crease)[0] - gray[160:210, 380:440]).max() > 0.1


def test_a_recipe_for_old_scans_leaves_the_contrast_of_a_sound_one_alone():
    """The faded scans of the demo are opened as they were; scikit-image's portrait and its photographer stay."""
    import skimage.data

    from kyanoscript.files.kept.cookbook import bundled
    from kyanoscript.files.kept.recipes import find

    sound = (cv2.cvtColor(skimage.data.astronaut(), cv2.COLOR_RGB2GRAY), skimage.data.camera())
    faded = [cv2.imread(str(demo.photo(name)), cv2.IMREAD_GRAYSCALE) for name in ("two-dyers-scan", "yard-scan")]
    for word in ("old-portrait", "old-street", "old-landscape"):
        (step,) = (p for p in find(word, bundled()).script.passes if p.kind == "mend")
        step = step.model_copy(update={"sensitivity": 0.0, "lines": False, "holes": False})
        for gray, least in [(gray, 0.0) for gray in sound] + [(gray, 0.02) for gray in faded]:
            scale = min(1.0, 400 / max(gray.shape))
            made, plain = (Renderer(ArraySource(gray), Script(passes)) for passes in ((step,), ()))
            rect = Rect(0, 0, *made.size(scale))
            change = np.abs(made.region(rect, scale) - plain.region(rect, scale)).mean()
            assert change < 1e-4 if not least else change > least, (word, change)
