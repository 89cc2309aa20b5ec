"""Profiles: what is read against little-CMS and colour-science, and profiles of our own."""

import io
import warnings

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, DISPLAY_P3, OPRGB, ROMM, SPACES, SRGB
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import Rect
from kyanoscript.core.render.analysis import spot
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.colour import profiles
from kyanoscript.files.photos import lab
from kyanoscript.files.photos.photo import open_photo
from tests.conftest import make_colourful

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour as science

P = load_all()
D65 = [0.3127, 0.3290, 1.0]
PLACES = {
    SRGB: [0.64, 0.33, 1, 0.30, 0.60, 1, 0.15, 0.06, 1],
    DISPLAY_P3: [0.68, 0.32, 1, 0.265, 0.69, 1, 0.15, 0.06, 1],
    OPRGB: [0.64, 0.33, 1, 0.21, 0.71, 1, 0.15, 0.06, 1],
    BT2020: [0.708, 0.292, 1, 0.17, 0.797, 1, 0.131, 0.046, 1],
    ROMM: [0.7347, 0.2653, 1, 0.1596, 0.8404, 1, 0.0366, 0.0001, 1],
}
each = pytest.mark.parametrize("space", SPACES, ids=lambda space: space.name)


def made(space, gamma):
    """A profile by little-CMS."""
    white = D65 if space != ROMM else [0.3457, 0.3585, 1.0]
    return bytes(imagecodecs.cms_profile("rgb", whitepoint=white, primaries=PLACES[space], gamma=gamma))


@each
def test_our_own_profiles_are_understood_by_little_cms(space):
    """The colours of a space through its profile to XYZ under D50, by Pillow's little-CMS: those of its matrix."""
    profile = ImageCms.ImageCmsProfile(io.BytesIO(profiles.of_space(space)))
    assert ImageCms.getProfileName(profile).strip()
    rgb = np.random.default_rng(2).random((1, 50, 3)).astype(np.float32)
    xyz_profile = imagecodecs.cms_profile("xyz")
    out = imagecodecs.cms_transform(
        rgb, profiles.of_space(space), xyz_profile, colorspace="rgb", outcolorspace="xyz", outdtype=np.float32, intent=1
    )
    wanted = np.tensordot(colour.to_light(rgb), space.to_d50.T, 1)
    assert np.abs(out - wanted).max() < 2e-4


@each
def test_the_space_of_a_profile_is_recognised(space):
    found = profiles.reading(made(space, 2.2), 3, np.dtype(np.uint16))
    assert found.space is space
    assert found.note == ""


def test_primaries_that_nobody_has_named_are_kept():
    own = bytes(
        imagecodecs.cms_profile(
            "rgb", whitepoint=D65, primaries=[0.66, 0.33, 1, 0.25, 0.65, 1, 0.14, 0.09, 1], gamma=2.2
        )
    )
    found = profiles.reading(own, 3, np.dtype(np.uint16))
    assert found.space not in SPACES
    wanted = science.normalised_primary_matrix([[0.66, 0.33], [0.25, 0.65], [0.14, 0.09]], [0.3127, 0.3290])
    assert np.abs(found.space.to_xyz - wanted).max() < 1e-3


@pytest.mark.parametrize("gamma", [1.0, 1.8, 2.2])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_no_level_is_lost_and_every_one_is_its_light(dtype, gamma):
    """An 8-bit linear gray once kept 183 of its 256 levels."""
    found = profiles.reading(made(ROMM, gamma), 3, np.dtype(dtype))
    count = 256 if dtype is np.uint8 else 65536
    assert found.levels.shape == (3, count)
    light = colour.to_light(found.levels[1])
    assert np.abs(light - (np.arange(count) / (count - 1)) ** gamma).max() < 2e-5
    if dtype is np.uint8:
        assert len(np.unique(found.levels[0])) == 256


@pytest.mark.parametrize("hold", [True, False])
def test_a_linear_eight_bit_gray_keeps_its_levels_to_the_print(tmp_path, hold):
    ramp = np.tile(np.arange(256, dtype=np.uint8), (4, 1))
    file = tmp_path / "linear.tif"
    tifffile.imwrite(file, ramp, iccprofile=bytes(imagecodecs.cms_profile("gray", gamma=1.0)))
    planes = Renderer(open_photo(file, hold).source, Script()).region(Rect(0, 0, 256, 4))
    assert len(np.unique(planes[0, 0])) == 256
    assert np.abs(colour.to_light(planes[0, 0]) - np.arange(256) / 255).max() < 1e-4


@pytest.mark.parametrize("rgb", [(255, 0, 0), (255, 0, 255), (0, 255, 0)])
def test_grays_of_opRGB_are_those_of_little_cms(tmp_path, rgb):
    """Within 0.3 of ΔE2000 of the luminance that little-CMS finds, in float, taken back to the space's own white."""
    profile = made(OPRGB, 2.19921875)
    file = tmp_path / "flower.tif"
    tifffile.imwrite(file, np.full((6, 6, 3), rgb, np.uint8), photometric="rgb", iccprofile=profile)
    xyz = imagecodecs.cms_transform(
        np.full((1, 1, 3), rgb, np.float32) / 255, profile, imagecodecs.cms_profile("xyz"), colorspace="rgb",
        outcolorspace="xyz", outdtype=np.float32, intent=1,
    )[0, 0]  # fmt: skip
    y = (np.linalg.inv(colour.adaptation(OPRGB.white)) @ xyz)[1]
    wanted = 116 * np.cbrt(y) - 16
    script = Script((P["gray-weights"](auto=True, aim="eye", basis="light"),))
    found = spot(Renderer(open_photo(file).source, script), 2, 2).lightness
    assert abs(science.delta_E([found, 0, 0], [wanted, 0, 0], method="CIE 2000")) < 0.3


def test_floats_beyond_white_come_through_a_profile(tmp_path):
    file = tmp_path / "lamp.tif"
    pixels = np.full((4, 4, 3), 2.5, np.float32)
    tifffile.imwrite(file, pixels, photometric="rgb", iccprofile=made(BT2020, 1.0))
    photo = open_photo(file)
    assert photo.source.space is BT2020
    assert colour.to_light(photo.source.window(Rect(0, 0, 4, 4))).max() == pytest.approx(2.5, rel=1e-3)


def test_a_profile_made_of_tables_comes_into_bt2020_and_means_the_same():
    """A profile with A2B tables, from opRGB, written by hand: 9 steps each way (ICC.1, lut16Type)."""
    steps = np.linspace(0, 1, 9)
    grid = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), -1).reshape(-1, 3)
    lab = _lab_of(grid)
    stored = np.empty((len(lab), 3), ">u2")
    stored[:, 0] = np.rint(lab[:, 0] * 652.8)
    stored[:, 1:] = np.clip(np.rint((lab[:, 1:] + 128) * 256), 0, 65535)
    held = (np.abs(lab[:, 1:]) < 127).all(-1).reshape(27, 27)  # what this encoding of Lab has a place for
    line = np.array([0, 65535], ">u2").tobytes()
    import struct

    table = struct.pack(">4s4xBBBx9iHH", b"mft2", 3, 3, 9, *(np.eye(3) * 65536).astype(int).ravel(), 2, 2)
    table += line * 3 + stored.tobytes() + line * 3
    profile = _with_tables(table)
    found = profiles.reading(profile, 3, np.dtype(np.uint8))
    assert found.space is BT2020
    pixels = np.rint(grid * 255).astype(np.uint8).reshape(27, 27, 3)
    out = found.converted(pixels)
    assert out.dtype == np.uint16
    light = np.tensordot(OPRGB.linear_to(BT2020), colour.to_light(np.moveaxis(pixels / 255, 2, 0)), 1)
    assert held.mean() > 0.9
    assert np.abs(np.moveaxis(out / 65535, 2, 0) - colour.to_encoded(light))[:, held].max() < 0.02


def _lab_of(rgb):
    xyz = colour.to_light(rgb) @ OPRGB.to_d50.T / colour.D50
    t = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * t[:, 1] - 16, 500 * (t[:, 0] - t[:, 1]), 200 * (t[:, 1] - t[:, 2])], -1)


def _with_tables(table):
    import struct

    tags = {b"desc": profiles._words("tables"), b"wtpt": profiles._xyz(colour.D50), b"A2B0": table, b"A2B1": table}
    head, body, at = struct.pack(">I", len(tags)), b"", 132 + 12 * len(tags)
    for name, data in tags.items():
        head += struct.pack(">4sII", name, at + len(body), len(data))
        body += data + bytes(-len(data) % 4)
    fixed = profiles._fixed(colour.D50)
    front = struct.pack(
        ">I4xI4s4s4s12x4s28xI12s", at + len(body), 0x02400000, b"scnr", b"RGB ", b"Lab ", b"acsp", 0, fixed
    )
    return front.ljust(128, b"\0") + head + body


def test_inks_through_their_profile_come_into_bt2020():
    """A CMYK profile by hand is long; without one the inks of a usual press are taken, and it is said."""
    pixels = np.zeros((1, 6, 4), np.uint8)
    pixels[0, 1:5] = np.eye(4) * 255
    pixels[0, 5] = 255
    found = profiles.reading(None, 4, np.dtype(np.uint8))
    assert "guess" in found.note
    out = found.converted(pixels)[0] / 65535
    assert np.allclose(out[0], 1)  # bare paper
    cyan, magenta, yellow, black, all_inks = out[1:]
    assert cyan[0] < 0.1 < cyan[1] < cyan[2]
    assert magenta[1] < 0.1
    assert yellow[2] < 0.1 < yellow[1]
    assert black.max() < 0.2
    assert all_inks.max() <= black.max()


@pytest.mark.parametrize("kind", ["JPEG", "TIFF", "TIFF by JPEG"])
def test_cmyk_is_opened(tmp_path, kind):
    """Against Pillow's own way from inks to RGB, loosely: the same hue and order of lightness."""
    rgb = make_colourful(40, 56)
    inks = Image.fromarray(rgb).convert("CMYK")
    file = tmp_path / f"press.{'jpg' if kind == 'JPEG' else 'tif'}"
    if kind == "JPEG":
        inks.save(file, quality=98)
    else:
        packing = "jpeg" if "JPEG" in kind else None
        tifffile.imwrite(file, np.asarray(inks), photometric="separated", compression=packing)
    photo = open_photo(file)
    assert "CMYK" in photo.kind
    assert any("inks" in note for note in photo.notes)
    found = photo.source.window(Rect(0, 0, 56, 40)) / 65535
    plain = np.asarray(inks.convert("RGB")) / 255
    assert np.corrcoef(found.mean(-1).ravel(), plain.mean(-1).ravel())[0, 1] > 0.85


def test_what_ink_and_lab_have_beyond_the_widest_space_keeps_its_hue_on_the_way_in(monkeypatch):
    """Dark inks lie below black in a channel: cut there, hue turned by 20° on average."""
    rng = np.random.default_rng(2)
    beyond = np.concatenate([rng.uniform(-0.1, 0.5, (1, 400, 3)), rng.uniform(0.2, 1.15, (1, 400, 3))], 1)
    beyond = beyond[:, (beyond[0].max(1) > 0.05) & (colour.to_oklab(beyond[0].T, BT2020)[0] > 0.05)]
    monkeypatch.setattr(profiles, "transformed", lambda pixels, *_: beyond[: len(pixels)].astype(np.float32))
    inks = np.zeros((1, beyond.shape[1], 4), np.uint8)
    stored = profiles.Meaning(BT2020, profile=b"a press's").converted(inks)
    assert stored.dtype == np.uint16
    before, after = (colour.to_oklch(x[0].T, BT2020) for x in (beyond, stored / 65535))
    within = ((beyond[0] >= 0) & (beyond[0] <= 1)).all(1)
    assert np.abs(stored[0, within] - 65535 * beyond[0, within]).max() <= 1
    turned = np.abs((after[2] - before[2] + 180) % 360 - 180)[~within & (after[1] > 0.02)]
    assert np.percentile(turned, 85) < 1.3
    cut = colour.to_oklch(np.clip(beyond[0], 0, 1).T, BT2020)
    assert np.mean(np.abs((cut[2] - before[2] + 180) % 360 - 180)[~within]) > 4
    raw = np.array([[[32768, 120 * 256, 100 * 256], [13107, -90 * 256, 60 * 256]]], np.int32).astype(np.int16)
    rgb = lab.to_space(raw, False, BT2020)[0] / 65535
    for k, (light, a, b) in enumerate(((50, 120, 100), (20, -90, 60))):
        meant = colour.to_encoded(lab.xyz_of(light, a, b) @ BT2020.from_d50.T)
        assert meant.min() < -0.01
        one, other = (colour.to_oklch(np.reshape(x, (3, 1)), BT2020)[2, 0] for x in (meant, rgb[k]))
        assert abs((one - other + 180) % 360 - 180) < 2


@pytest.mark.parametrize("damage", ["short", "noise", "tags"])
def test_damaged_profiles_are_told_of_and_harm_nothing(damage):
    profile = bytearray(made(OPRGB, 2.2))
    rng = np.random.default_rng(5)
    for _ in range(60):
        broken = bytearray(profile)
        if damage == "short":
            broken = broken[: rng.integers(0, len(broken))]
        elif damage == "noise":
            for at in rng.integers(128, len(broken), 8):
                broken[at] = rng.integers(256)
        else:
            broken[132 : 132 + 60] = rng.bytes(60)
        found = profiles.reading(bytes(broken), 3, np.dtype(np.uint8))
        out = found.converted(make_colourful(8, 8)) if found.profile else found.levels
        assert out is None or np.isfinite(out).all()


def test_profiles_have_no_date_of_today():
    for profile in (profiles.srgb(), profiles.gray(), profiles.oprgb(), profiles.of_space(BT2020)):
        assert profile[24:36] == b"\x07\xea\0\x01\0\x01\0\0\0\0\0\0"
