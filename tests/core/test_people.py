"""People in gray pictures: photographs that a package ships, and heads of wood."""

import cv2
import numpy as np
import pytest
import skimage.data

from kyanoscript import demo
from kyanoscript.core.colour import SRGB, to_oklab
from kyanoscript.core.passes import load_all
from kyanoscript.core.people import PARTS, middle_of, networks, parts, people
from kyanoscript.core.people.parts import masks
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, dumps, loads
from kyanoscript.core.tint.tints import likely

P = load_all()


def gray_of(rgb):
    return cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)


def lightness(gray):
    """L* of encoded grays, by OpenCV."""
    light = cv2.cvtColor(np.repeat(gray[..., None], 3, 2).astype(np.float32) / 255, cv2.COLOR_RGB2Lab)
    return np.ascontiguousarray(light[..., 0])


@pytest.fixture(scope="module")
def portrait():
    """The portrait of scikit-image (`skimage.data.astronaut`), made gray."""
    return gray_of(skimage.data.astronaut())


@pytest.fixture(scope="module")
def person(portrait):
    (found,) = people(lightness(portrait))
    return found


def ellipse(shape, x, y, a, b):
    mask = np.zeros(shape, np.uint8)
    cv2.ellipse(mask, (x, y), (a, b), 0, 0, 360, 1, -1)
    return mask.astype(bool)


def test_everything_of_a_portrait_is_found(person):
    assert {part.name for part in person.parts} >= set(PARTS) - {"hands"}
    assert (person.x, person.y) == pytest.approx((0.44, 0.23), abs=0.03)
    assert person.sure > 80


def test_skin_covers_the_face_and_does_not_spill(portrait, person):
    """Face and person drawn by hand on the 512 × 512 picture: ellipses; lips, eyes and brows are not skin."""
    found = masks(person, (512, 512))
    face = ellipse((512, 512), 227, 122, 38, 47)
    others = found["lips"] | found["eyes"] | found["brows"]
    assert (found["skin"] & face & ~others).sum() / (face & ~others).sum() >= 0.9
    head = ellipse((512, 512), 226, 105, 82, 100) | ellipse((512, 512), 226, 185, 48, 40)
    assert (found["skin"] & ~head).sum() / found["skin"].sum() <= 0.03


def test_parts_lie_where_they_belong(person):
    found = masks(person, (512, 512))
    rows = {name: np.nonzero(mask)[0].mean() for name, mask in found.items()}
    assert rows["hair"] < rows["eyes"] < rows["lips"] < rows["clothes"]
    assert rows["brows"] < rows["eyes"]
    for a, b in (("skin", "lips"), ("skin", "hair"), ("skin", "clothes"), ("hair", "clothes")):
        assert (found[a] & found[b]).sum() < 0.06 * min(found[a].sum(), found[b].sum())
    for part in person.parts:
        for line in part.outlines:
            inside = middle_of(line)
            assert cv2.pointPolygonTest(np.array(line, np.float32).reshape(-1, 1, 2), inside, False) > 0


@pytest.mark.parametrize("name", ["chelsea", "coffee", "rocket", "gravel", "horse"])
def test_an_animal_or_a_thing_is_no_person(name):
    """A cat, a cup, a rocket, gravel, the outline of a horse."""
    picture = getattr(skimage.data, name)()
    gray = gray_of(picture) if picture.ndim == 3 else (picture * (255 if picture.max() <= 1 else 1)).astype(np.uint8)
    assert people(lightness(gray)) == []


def test_a_faded_scan_and_a_mirrored_one(portrait, person):
    faded = (90 + portrait * 0.3).astype(np.uint8)
    (found,) = people(lightness(faded))
    assert (found.x, found.y) == pytest.approx((person.x, person.y), abs=0.01)
    (turned,) = people(lightness(np.ascontiguousarray(portrait[:, ::-1])))
    assert turned.x == pytest.approx(1 - person.x, abs=0.02)


def test_of_two_everybody_has_what_is_theirs(portrait):
    both = np.concatenate([portrait, portrait[:, ::-1]], axis=1)
    found = people(lightness(both))
    assert len(found) == 2
    a, b = (masks(one, (1024, 512)) for one in found)
    assert sorted(round(one.x, 1) for one in found) == [0.2, 0.8]
    for name in ("skin", "hair", "lips"):
        assert not (a[name] & b[name]).any()
        assert a[name].sum() == pytest.approx(b[name].sum(), rel=0.2)


def test_forehead_and_temples_belong_to_the_skin_and_the_hair_does_not(portrait, person):
    """By hand on the 512 × 512 picture: skin right under the fringe, and hair well above it and beside the cheeks."""
    found = masks(person, (512, 512))
    assert found["skin"][84:92, 212:236].mean() > 0.9
    assert found["skin"][20:60, 190:270].mean() < 0.01
    assert found["hair"][30:60, 190:270].mean() > 0.9
    assert found["hair"][200:].sum() == 0


def test_bare_skin_below_the_neck_is_offered_and_a_light_thing_elsewhere_is_not(portrait):
    """A patch as light as the face, drawn below the throat, and on the suit where no arm is."""
    for (x, y), want in (((212, 262), True), ((330, 430), False), ((120, 300), False)):
        with_patch = portrait.copy()
        cv2.ellipse(with_patch, (x, y), (30, 22), 20, 0, 360, 190, -1)
        (someone,) = people(lightness(with_patch))
        hands = masks(someone, (512, 512)).get("hands", np.zeros((512, 512), bool))
        assert (hands[y - 15 : y + 15, x - 18 : x + 18].mean() > 0.8) == want


@pytest.fixture(scope="module")
def photographer():
    """A man from the side at a camera on a tripod (`skimage.data.camera`)."""
    (found,) = people(lightness(skimage.data.camera()))
    return found


def test_somebody_from_the_side_has_head_hair_and_coat(photographer):
    """Places by hand on the 512 × 512 picture."""
    found = masks(photographer, (512, 512))
    assert found["skin"][150:165, 215:235].mean() > 0.9  # the cheek
    assert found["hair"][95:120, 190:220].mean() > 0.9
    assert found["clothes"][250:400, 60:140].mean() > 0.95
    assert not found["hands"][210:240, 195:230].any()  # a dark glove
    ground = np.s_[330:, 300:]
    assert not any(mask[ground].any() for mask in found.values())


def test_who_has_no_face_that_is_seen_is_found_by_the_outline(monkeypatch):
    """The same man, whose face the detector of faces does not see: head, hair, coat; nothing that only a face has."""
    monkeypatch.setattr(parts, "faces", lambda levels, watch: [])
    (found,) = people(lightness(skimage.data.camera()))
    names = {part.name for part in found.parts}
    assert {"skin", "hair", "clothes"} <= names <= {"skin", "hair", "hands", "clothes"}
    made = masks(found, (512, 512))
    assert made["skin"][150:165, 215:235].mean() > 0.9
    assert made["hair"][95:120, 190:220].mean() > 0.9
    assert made["clothes"][250:400, 60:140].mean() > 0.9
    assert found.sure < 80


def test_small_faces_in_a_large_picture_are_found(portrait):
    """A face of 30 pixels in a picture of 1400: the detector alone would see it at three."""
    wide = np.full((900, 1400), 140, np.uint8)
    small = cv2.resize(portrait, (150, 150), interpolation=cv2.INTER_AREA)
    for x, y in ((120, 500), (640, 430), (1130, 610)):
        wide[y : y + 150, x : x + 150] = small
    found = people(lightness(wide))
    assert len(found) == 3
    assert all(one.part("skin") is not None for one in found)


def test_a_head_of_wood_counts():
    small = cv2.resize(cv2.imread(str(demo.photo("carved-head"))), (1200, 800), interpolation=cv2.INTER_AREA)
    (found,) = people(lightness(cv2.cvtColor(small, cv2.COLOR_BGR2GRAY)))
    assert {"skin", "lips", "eyes", "brows", "hair"} <= {part.name for part in found.parts}


def test_everybody_of_the_family_album_is_found_dark_heads_too():
    for name, count in (("two-dyers", 2), ("foreman", 1), ("crew", 5), ("yard", 2)):
        scan = cv2.imread(str(demo.photo(f"{name}-scan")), cv2.IMREAD_GRAYSCALE)
        share = 1150 / max(scan.shape)
        found = people(lightness(cv2.resize(scan, None, fx=share, fy=share, interpolation=cv2.INTER_AREA)))
        assert len(found) == count, name
        assert all({"skin", "hair", "clothes"} <= {part.name for part in one.parts} for one in found), name


def test_networks_that_are_not_those_that_ship_are_not_run(monkeypatch):
    monkeypatch.setitem(networks.CHECKSUMS, "faces", "0" * 64)
    monkeypatch.setattr(networks, "_free", {})
    with pytest.raises(RuntimeError, match=r"faces\.tflite is not the file that ships"):
        networks.run("faces", np.zeros((128, 128), np.float32))


def test_a_network_says_the_same_of_the_same_square():
    """What other tests rely on: it is asked once for all of them."""
    square = np.random.default_rng(3).random((128, 128)).astype(np.float32)
    first = networks.run("faces", square)
    for _ in range(3):
        assert all(map(np.array_equal, networks.run("faces", square), first))


def test_skin_is_nowhere_cut_straight_on_the_head(person):
    """Above the eyes no straight piece of its rim is longer than 0.3 of the face; the fringe is a quarter of it."""
    size = person.size * 512
    for line in person.part("skin").outlines:
        corners = np.array(line) * 512
        ends = zip(corners, np.roll(corners, -1, axis=0), strict=True)
        above = [np.hypot(*(b - a)) for a, b in ends if (a + b)[1] / 2 < person.y * 512 - 0.15 * size]
        assert above
        assert max(above) < 0.3 * size


def test_skin_starts_at_the_tint_that_is_as_light_as_the_face(portrait, person):
    """The same portrait with a darker face: eyes and teeth stay as they are."""
    face = masks(person, (512, 512))["skin"]
    soft = cv2.GaussianBlur(face.astype(np.float32), (0, 0), 2.0)
    darker = (portrait * (1 - 0.45 * soft)).astype(np.uint8)
    (someone,) = people(lightness(darker))
    assert someone.tone < person.tone - 0.2
    first, second = (colour_lightness(likely("skin", one.tone)[0]) for one in (person, someone))
    assert second < first - 10


def colour_lightness(ink):
    """L* of #rrggbb, by OpenCV."""
    rgb = np.array([[[int(ink[k : k + 2], 16) for k in (1, 3, 5)]]], np.float32) / 255
    return float(cv2.cvtColor(rgb, cv2.COLOR_RGB2Lab)[0, 0, 0])


def test_a_blush_lies_on_the_cheeks_and_is_a_choice(portrait, person):
    found = masks(person, (512, 512))
    blush, skin = found["blush"], found["skin"]
    assert (blush & skin).sum() > 0.95 * blush.sum()
    rows = np.nonzero(blush)[0].mean()
    assert np.nonzero(found["eyes"])[0].mean() < rows < np.nonzero(found["lips"])[0].mean()
    dabs = tinted(portrait, auto=True).settled(0).dabs
    step = P["hand-tint"]()
    choices = [dab for dab in dabs if dab.name == "blush"]
    assert choices
    assert all(dab.offered and dab.acts == "stays" and not step.counts(dab) for dab in choices)
    before, _ = chroma(tinted(portrait, dabs=dabs))
    taken = tuple(
        dab.model_copy(update={"colour": "#c77a74", "guess": False, "sure": 100.0}) if dab.name == "blush" else dab
        for dab in dabs
    )
    after, _ = chroma(tinted(portrait, dabs=taken))
    changed = np.abs(after - before) > 1
    assert changed[blush].mean() > 0.5
    assert not changed[found["clothes"]].any()


# In Hand-tint


def tinted(gray, **values):
    source = ArraySource(np.repeat(gray[..., None], 3, 2))
    return Renderer(source, Script((P["hand-tint"](**values),)), TileCache(200 << 20))


def chroma(renderer):
    planes = renderer.region(Rect(0, 0, *renderer.size(1.0)))
    lab = cv2.cvtColor(np.ascontiguousarray(np.moveaxis(planes, 0, 2)), cv2.COLOR_RGB2Lab)
    return np.hypot(lab[..., 1], lab[..., 2]), lab


def test_skin_is_tinted_at_once_and_the_rest_is_offered(portrait, person):
    first = tinted(portrait, auto=True)
    dabs = first.settled(0).dabs
    named = {dab.name for dab in dabs} & set(PARTS)
    assert set(PARTS) - {"hands"} <= named
    assert {dab.name for dab in dabs if dab.offered} & set(PARTS) == {"lips", "brows", "hair", "clothes", "blush"}
    strong, lab = chroma(first)
    found = masks(person, (512, 512))
    core = cv2.erode(found["skin"].astype(np.uint8), np.ones((7, 7), np.uint8)) > 0
    assert np.median(strong[core]) > 12
    assert (lab[..., 1][core] > 2).mean() > 0.98  # warm
    off = tinted(portrait, auto=True, people=False)
    assert not {dab.name for dab in off.settled(0).dabs} & set(PARTS)


def test_no_part_of_the_scene_lies_on_somebody(portrait, person):
    dabs = tinted(portrait, auto=True).settled(0).dabs
    everywhere = np.any(list(masks(person, (512, 512)).values()), axis=0)
    inner = cv2.erode(everywhere.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    places = [dab.points[0] for dab in dabs if dab.region and dab.name.split()[0] not in PARTS]
    assert places
    assert not any(inner[int(5.11 * y), int(5.11 * x)] for x, y, *_ in places)
    names = {dab.name for dab in tinted(portrait, auto=True, people=False).settled(0).dabs}
    assert len(names) > len({dab.name for dab in dabs if dab.region} - set(PARTS))


def test_an_offer_that_is_taken_stays_within_its_outline(portrait, person):
    dabs = tinted(portrait, auto=True).settled(0).dabs
    before, _ = chroma(tinted(portrait, dabs=dabs))
    taken = tuple(
        dab.model_copy(update={"colour": "#9a5632", "guess": False, "sure": 100.0}) if dab.name == "hair" else dab
        for dab in dabs
    )
    after, _ = chroma(tinted(portrait, dabs=taken))
    hair = masks(person, (512, 512))["hair"]
    core = cv2.erode(hair.astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    far = cv2.dilate(hair.astype(np.uint8), np.ones((25, 25), np.uint8)) == 0
    assert np.abs(after - before)[far].max() < 0.5
    assert np.median(after[core]) > 12
    print_ = tinted(portrait, dabs=taken).region(Rect(0, 0, 512, 512))
    was = to_oklab(np.repeat(portrait[None], 3, 0) / 255, SRGB)[0]
    assert np.abs(to_oklab(print_, SRGB)[0] - was).max() < 0.003  # the picture keeps its lightness


def test_dabs_with_outlines_are_kept_in_scripts(portrait):
    dabs = tinted(portrait, auto=True).settled(0).dabs
    script = Script((P["hand-tint"](dabs=dabs),))
    assert loads(dumps(script)) == script
