"""Camera raw: a DNG made by the tests, read by LibRaw, shown, printed."""

import json
import struct

import numpy as np
import pytest
import tifffile
from tools import demo_raw
from tools.demo_raw import camera_for, channels_of, mosaic_of, write_dng

from kyanoscript import demo
from kyanoscript.cli import main
from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, SRGB
from kyanoscript.core.develop import White, seen_white
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.scriptfile import PhotoRef, read_script, write_script
from kyanoscript.files.photos.photo import open_photo, open_preview
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.whole import WholePrint
from tests.conftest import make_colourful

LIGHT = White(3600, -6)
CAMERA = camera_for(LIGHT)


def scene(height=80, width=120):
    """Linear sRGB ``(3, h, w)``: smooth, so that a mosaic's gaps are filled rightly."""
    y, x = np.mgrid[0:height, 0:width] / (height, width)[0]
    return np.stack([0.1 + 0.2 * x, 0.3 - 0.1 * y, 0.1 + 0.15 * y])


def written(tmp_path, orientation=1, light=None, name="landing.dng"):
    light = scene() if light is None else light
    preview = np.moveaxis(np.rint(colour.to_encoded(np.clip(light, 0, 1)) * 255).astype(np.uint8), 0, 2)
    file = tmp_path / name
    write_dng(file, mosaic_of(channels_of(light, CAMERA, 0.5)), CAMERA, np.ascontiguousarray(preview), orientation)
    return file


def linear(photo):
    made = photo.source.window(Rect(0, 0, photo.width, photo.height))
    return np.tensordot(BT2020.linear_to(SRGB), colour.to_light(np.moveaxis(made, 2, 0)), 1)


def test_a_raw_becomes_the_colours_that_went_into_it(tmp_path):
    """Through mosaic, levels, gains and matrix, and back by LibRaw and our development: within 1 % of white."""
    photo = open_photo(written(tmp_path))
    assert photo.raw
    assert photo.kind == "14-bit camera raw"
    assert photo.source.space == BT2020
    assert photo.facts.camera == "Quay Optics Q1"
    assert photo.facts.date == "2026-05-14 18:20:05"
    away = np.abs(linear(photo) - 0.5 * scene())[:, 3:-3, 3:-3]
    assert away.max() < 0.01
    assert away.mean() < 0.002


def test_what_the_camera_is_like_is_read(tmp_path):
    camera = open_photo(written(tmp_path)).source.camera
    assert np.abs(np.array(camera.from_xyz) - demo_raw.FROM_XYZ).max() < 2e-3
    assert camera.shot == pytest.approx(CAMERA.shot, rel=1e-3)
    light = seen_white(camera, camera.shot)
    assert light.kelvin == pytest.approx(LIGHT.kelvin, rel=0.01)
    assert light.tint == pytest.approx(LIGHT.tint, abs=1)


@pytest.mark.parametrize(("orientation", "size"), [(1, (120, 80)), (3, (120, 80)), (6, (80, 120)), (8, (80, 120))])
def test_it_stands_upright(tmp_path, orientation, size):
    photo = open_photo(written(tmp_path, orientation))
    assert (photo.width, photo.height) == photo.size == size
    from kyanoscript.files.photos.pixels import upright

    wanted = upright(np.moveaxis(0.5 * scene(), 0, 2), orientation)
    assert np.abs(np.moveaxis(linear(photo), 0, 2) - wanted)[4:-4, 4:-4].max() < 0.015


def test_half_of_a_large_one_is_worked_with_and_all_of_it_printed(tmp_path, monkeypatch):
    from kyanoscript.files.photos import raw

    monkeypatch.setattr(raw, "_SMALL", 1000)
    photo = open_photo(written(tmp_path), half=True)
    assert (photo.width, photo.height) == (60, 40)
    assert photo.size == (120, 80)
    assert np.abs(linear(photo)[:, ::1, ::1].mean(axis=(1, 2)) - 0.5 * scene().mean(axis=(1, 2))).max() < 0.01
    target = tmp_path / "print.tif"
    assert write(Out(photo, Script(), Pictures(photo.path), target, WholePrint(), Settings())) == (
        120,
        80,
        (target,),
        (),
    )
    assert tifffile.imread(target).shape == (80, 120, 3)


def test_its_preview_stands_in_at_once(tmp_path):
    preview = open_preview(written(tmp_path, 6))
    assert preview.stand_in
    assert (preview.width, preview.height) == (80, 120)
    other = tmp_path / "plain.tif"
    tifffile.imwrite(other, make_colourful(20, 30), photometric="rgb")
    assert open_preview(other) is None


def test_a_raw_without_a_preview_is_opened_all_the_same(tmp_path):
    file = tmp_path / "bare.dng"
    mosaic = mosaic_of(channels_of(scene(), CAMERA, 0.5))
    with tifffile.TiffWriter(file, byteorder="<") as tiff:
        tags = [(50706, "B", 4, (1, 4, 0, 0), True), (33421, "H", 2, (2, 2), True), (33422, "B", 4, (0, 1, 1, 2), True)]
        tiff.write(mosaic, photometric=32803, extratags=tags, metadata=None)
    assert open_preview(file) is None
    photo = open_photo(file)
    assert (photo.width, photo.height) == (120, 80)
    assert any("taken" in note for note in photo.notes)  # neither matrix nor white


@pytest.mark.parametrize("keep", [0.2, 0.6, 0.95])
def test_a_raw_that_is_cut_short_is_one_clear_error(tmp_path, keep):
    file = written(tmp_path)
    data = file.read_bytes()
    file.write_bytes(data[: int(len(data) * keep)])
    with pytest.raises(FileError, match=r"landing\.dng: .*(damaged|cut short|not known)"):
        open_photo(file)


@pytest.mark.parametrize(
    "head", [b"FUJIFILMCCD-RAW 0201FF", b"IIRO\x08\0\0\0", b"\0\0\0\x18ftypcrx ", b"IIU\0\x08\0\0\0"]
)
def test_a_raw_that_nobody_knows_is_refused_by_name(tmp_path, head):
    file = tmp_path / "other.raw"
    file.write_bytes(head + bytes(4000))
    with pytest.raises(FileError, match=r"camera raw|damaged"):
        open_photo(file)


def test_its_development_is_kept_in_the_script_file(tmp_path):
    photo = open_photo(written(tmp_path))
    from kyanoscript.core.develop import Develop

    script = Script(develop=Develop(exposure=0.5))
    file = tmp_path / "a.kyano"
    write_script(file, script, PhotoRef(photo.path, photo.original.digest(), *photo.size))
    assert read_script(file).script == script


def test_by_command(tmp_path, capsys):
    file = written(tmp_path)
    assert main(["info", str(file), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["raw"] is True
    assert found["space"] == "BT.2020"
    assert found["bits"] == 14
    plain, brighter = tmp_path / "a.tif", tmp_path / "b.tif"
    assert main(["render", str(file), "-o", str(plain)]) == 0
    assert main(["render", str(file), "-o", str(brighter), "--set", "develop.exposure=1"]) == 0
    light = [colour.to_light(tifffile.imread(target) / 65535).mean() for target in (plain, brighter)]
    assert light[1] / light[0] == pytest.approx(2, rel=0.02)
    capsys.readouterr()
    assert main(["render", str(file), "-o", str(plain), "--set", "develop.exposure=7"]) == 2
    assert "exposure" in capsys.readouterr().err


def test_the_demo_raw_is_what_its_maker_makes(tmp_path):
    """The file that ships is as the tool would make it today: the same camera, size, preview."""
    photo, preview = open_photo(demo.photo(demo.RAW)), open_preview(demo.photo(demo.RAW))
    assert photo.size == (960, 640)
    assert (preview.width, preview.height) == (960, 640)
    light = seen_white(photo.source.camera, photo.source.camera.shot)
    assert light.kelvin == pytest.approx(4300, rel=0.01)
    script = read_script(demo.finished("from-raw").script).script
    assert script.develop.exposure == 0.9


def test_notes_go_along_from_a_raw(tmp_path):
    photo = open_photo(written(tmp_path))
    target = tmp_path / "print.jpg"
    write(Out(photo, Script(), Pictures(photo.path), target, WholePrint(), Settings()))
    assert open_photo(target).facts.camera == "Quay Optics Q1"
    (kind,) = struct.unpack(">H", target.read_bytes()[:2])
    assert kind == 0xFFD8
