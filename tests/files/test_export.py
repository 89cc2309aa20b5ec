"""Prints out: pixels, tags, and that a target is either wholly new or wholly as it was."""

import errno
import io
import os
import warnings

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from kyanoscript.core.colour import SRGB, in_colour, to_encoded, to_light
from kyanoscript.core.passes.surface.soften import Soften
from kyanoscript.core.passes.toning.gradient_map import GradientMap
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, ScriptError, from_json
from kyanoscript.core.script.complaint import read
from kyanoscript.core.stencil import Oval, Stencil
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.colour import profiles
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints import export as exporting
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.whole import WholePrint
from tests.conftest import make_colourful
from tests.core.test_script import EXAMPLE

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # the library warns about optional packages while it is imported
    import colour as reference

SOURCE = ArraySource(make_colourful(333, 500, np.uint16))
TONED = Renderer(SOURCE, from_json(EXAMPLE))
GRAY = Renderer(SOURCE, from_json({"kyanoscript": 1, "passes": [{"pass": "gray-weights"}]}))


def pixels(renderer, dtype, scale=1.0):
    planes = renderer.region(Rect(0, 0, *renderer.size(scale)), scale)
    return np.moveaxis(np.floor(np.clip(planes, 0, 1) * np.iinfo(dtype).max + 0.5).astype(dtype), 0, 2)


@pytest.mark.parametrize(("name", "bits"), [("a.tif", 16), ("a.tiff", 8), ("a.png", 16), ("a.PNG", 8)])
@pytest.mark.parametrize("renderer", [TONED, GRAY], ids=["toned", "gray"])
def test_lossless_files_hold_the_rendered_pixels_exactly(tmp_path, renderer, name, bits):
    file = tmp_path / name
    dtype = np.uint16 if bits == 16 else np.uint8
    assert export(renderer, file, Settings(bits=bits, dither=False)) == (500, 333)
    out = open_photo(file).source.pixels
    wanted = pixels(renderer, dtype)
    assert out.dtype == dtype
    assert np.abs(out.astype(int) - wanted).max() <= 1  # vector and scalar code may round a half differently
    assert np.mean(out != wanted) < 1e-3
    other = tifffile.imread(file) if "tif" in name else imagecodecs.png_decode(file.read_bytes())
    assert np.array_equal(other.reshape(out.shape), out)


def test_bands_and_threads_do_not_show(tmp_path, monkeypatch):
    files = []
    for threads, band in ((1, 80_000), (2, 5_000), (4, 40_000)):
        monkeypatch.setattr(exporting, "_BAND", band)
        file = tmp_path / f"{threads}.tif"
        export(TONED, file, Settings(), threads=threads)
        files.append(tifffile.imread(file))
    assert all(np.array_equal(files[0], other) for other in files[1:])


def test_jpeg_is_near_the_print(tmp_path):
    file = tmp_path / "a.jpg"
    export(TONED, file, Settings(quality=98))
    with Image.open(file) as image:
        assert image.mode == "RGB"
        assert image.info["dpi"] == (300, 300)
        assert image.info["icc_profile"] == profiles.srgb()
        assert np.abs(np.asarray(image).astype(int) - pixels(TONED, np.uint8)).mean() < 1.5


@pytest.mark.parametrize("name", ["a.tif", "a.png", "a.jpg"])
def test_profile_follows_the_print_and_can_be_chosen(tmp_path, name):
    file = tmp_path / name

    def tag():
        with Image.open(file) as image:
            return image.info["icc_profile"], image.mode in ("RGB", "RGBA"), [round(v) for v in image.info["dpi"]]

    export(GRAY, file, Settings(bits=8, ppi=240))
    assert tag() == (profiles.gray(), False, [240, 240])
    export(GRAY, file, Settings(bits=8, profile="srgb"))
    assert tag() == (profiles.srgb(), True, [300, 300])
    export(TONED, file, Settings(bits=8, profile="gray"))
    assert tag() == (profiles.gray(), False, [300, 300])


def test_gray_profile_has_the_srgb_curve():
    """IEC 61966-2-1 through little-CMS: gray profile to sRGB leaves the values where they are."""
    ramp = np.arange(0, 65536, 257, dtype=np.uint16).reshape(1, -1)
    out = imagecodecs.cms_transform(ramp, profiles.gray(), profiles.srgb(), colorspace="gray", outcolorspace="rgb")
    assert np.abs(out.astype(int) - ramp[..., None]).max() < 32  # an eighth of an 8-bit step


@pytest.mark.parametrize("intent", [0, 1, 2, 3], ids=["perceptual", "relative", "saturation", "absolute"])
def test_a_gray_print_is_as_white_as_an_srgb_one_whatever_the_intent(intent):
    """ICC.1:2010 through little-CMS: an absolute proof of a gray print has the whites of its sRGB twin."""
    ramp = np.arange(0, 65536, 257, dtype=np.uint16).reshape(1, -1)
    exact = 0x0100  # no table in between
    spaces = {"colorspace": "gray", "outcolorspace": "rgb"}
    out = imagecodecs.cms_transform(ramp, profiles.gray(), profiles.srgb(), intent=intent, flags=exact, **spaces)
    assert np.abs(out.astype(int) - ramp[..., None]).max() <= 1


def test_the_gray_profile_tells_the_adaptation_from_d65():
    """ICC.1:2010, 7.2.16 and Annex E, by colour-science's Bradford adaptation: the white is D50."""
    found = ImageCms.ImageCmsProfile(io.BytesIO(profiles.gray())).profile
    assert found.version == 4.2
    assert found.media_white_point[0] == pytest.approx((0.9642, 1.0, 0.8249), abs=2e-5)
    d65 = reference.xy_to_XYZ((0.3127, 0.3290))
    wanted = reference.adaptation.matrix_chromatic_adaptation_VonKries(d65, (0.9642, 1.0, 0.8249), transform="Bradford")
    assert np.abs(np.array(found.chromatic_adaptation[0]) - wanted).max() < 2e-5
    assert len(profiles.gray()) == int.from_bytes(profiles.gray()[:4], "big")


def test_reduced_to_a_longer_side(tmp_path):
    file = tmp_path / "small.png"
    assert export(TONED, file, Settings(longer_side=200)) == (200, 133)
    wanted = in_colour(TONED.region(Rect(0, 0, 200, 133), 0.4))
    out = np.moveaxis(imagecodecs.png_decode(file.read_bytes()), 2, 0) / 65535
    assert np.abs(out - wanted).max() < 2e-5
    assert export(TONED, file, Settings(longer_side=9999)) == (500, 333)


def test_one_pixel_print(tmp_path):
    renderer = Renderer(ArraySource(np.array([[[9, 99, 199]]], np.uint8)), Script())
    for name in ("one.tif", "one.png", "one.jpg"):
        assert export(renderer, tmp_path / name, Settings()) == (1, 1)
        assert open_photo(tmp_path / name).width == 1


def test_progress_rises_to_the_end(tmp_path):
    seen = []
    export(TONED, tmp_path / "a.tif", Settings(), progress=Progress(seen.append))
    assert seen == sorted(seen)
    assert seen[-1] == 1


# Never half, never the photograph


@pytest.mark.parametrize("name", ["a.tif", "a.png", "a.jpg"])
def test_cancelled_in_the_middle_leaves_the_old_file_and_nothing_else(tmp_path, name):
    file = tmp_path / name
    file.write_bytes(b"as it was")
    asked = iter([False, True] + [True] * 100)
    with pytest.raises(Cancelled):
        export(TONED, file, Settings(), progress=Progress(stopping=lambda: next(asked)))
    assert file.read_bytes() == b"as it was"
    assert os.listdir(tmp_path) == [name]


AROUND = Script(
    (
        Soften(radius=4.0),
        GradientMap(stencil=Stencil(shapes=(Oval(width=600, height=500),), feather=20)),
    )
)


def test_passes_that_look_around_are_written_in_blocks_without_seams(tmp_path, monkeypatch):
    """Blocks beside and below each other, in strips and in tiles, against the print in one piece."""
    monkeypatch.setattr(exporting, "_BLOCK", 20_000)
    source = ArraySource(make_colourful(700, 600, np.uint16))
    renderer = Renderer(source, AROUND)
    wanted = np.moveaxis(renderer.region(Rect(0, 0, 600, 700)), 0, 2)
    for settings, threads in ((Settings(), 1), (Settings(), 4), (Settings(tiled=True), 2)):
        file = tmp_path / f"{threads}.tif"
        export(Renderer(source, AROUND), file, settings, threads=threads)
        assert np.abs(tifffile.imread(file) / 65535 - wanted).max() < 2 / 65535


@pytest.mark.parametrize("width", [300, 3000, 40_000])
@pytest.mark.parametrize("around", [True, False])
def test_never_much_of_a_print_is_rendered_at_once(tmp_path, width, around):
    """However wide it is: memory of an export is bounded."""
    asked = []

    class Plain:
        looks_around = around
        planes = 1
        space = SRGB

        def size(self, scale):
            return width, 3000

        def region(self, rect, scale):
            asked.append(rect.width * rect.height)
            return np.zeros((1, rect.height, rect.width), np.float32)

    export(Plain(), tmp_path / "a.tif", Settings(bits=8))
    assert sum(asked) == width * 3000
    assert max(asked) <= 500_000
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:  # and no more than this is held to be written
        assert tiff.pages[0].rowsperstrip <= max(256, 450_000 // width)


def test_cancelled_between_blocks_leaves_nothing_behind(tmp_path, monkeypatch):
    monkeypatch.setattr(exporting, "_BLOCK", 20_000)
    source = ArraySource(make_colourful(700, 600))
    seen = []
    with pytest.raises(Cancelled):
        export(
            Renderer(source, AROUND),
            tmp_path / "a.tif",
            Settings(),
            progress=Progress(seen.append, lambda: len(seen) > 1),
        )
    assert 0 < seen[-1] < 1
    assert os.listdir(tmp_path) == []


def test_the_photograph_is_never_written_to_by_any_name(tmp_path):
    photo = tmp_path / "photo.tif"
    tifffile.imwrite(photo, make_colourful(20, 30), photometric="rgb")
    before = photo.read_bytes()
    (tmp_path / "soft.tif").symlink_to(photo)
    os.link(photo, tmp_path / "hard.tif")
    for name in ("photo.tif", "soft.tif", "hard.tif", "../" + tmp_path.name + "/photo.tif"):
        with pytest.raises(FileError, match="never written to"):
            export(TONED, tmp_path / name, Settings(), never=[photo])
    assert photo.read_bytes() == before
    assert len(os.listdir(tmp_path)) == 3


def test_full_disk(tmp_path, monkeypatch):
    def full(handle):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    file = tmp_path / "a.tif"
    file.write_bytes(b"as it was")
    with pytest.raises(FileError, match="disk is full"):
        export(TONED, file, Settings())
    assert file.read_bytes() == b"as it was"
    assert os.listdir(tmp_path) == ["a.tif"]


def test_a_device_that_is_full_while_writing():
    """/dev/full refuses every write; a target there is refused without touching it."""
    with pytest.raises(FileError):
        export(TONED, __import__("pathlib").Path("/dev/full/print.tif"), Settings())


def test_folder_that_may_not_be_written(tmp_path, monkeypatch):
    tmp_path.chmod(0o500)
    if os.getuid() == 0:  # whom no permission holds back: the system's answer is given for it

        def locked(*_args, **_more):
            raise PermissionError(errno.EACCES, "Permission denied")

        monkeypatch.setattr("tempfile.mkstemp", locked)
    try:
        with pytest.raises(FileError, match="not allowed"):
            export(TONED, tmp_path / "a.tif", Settings())
    finally:
        tmp_path.chmod(0o700)


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("a.bmp", "End the name in"),
        ("a", "without an ending"),
        ("nowhere/a.tif", "does not exist"),
        (".", "End the name in"),
    ],
)
def test_targets_that_cannot_be(tmp_path, name, words):
    with pytest.raises(FileError, match=words):
        export(TONED, tmp_path / name, Settings())
    assert os.listdir(tmp_path) == []


def test_a_folder_of_that_name(tmp_path):
    (tmp_path / "a.tif").mkdir()
    with pytest.raises(FileError, match="folder"):
        export(TONED, tmp_path / "a.tif", Settings())


@pytest.mark.parametrize("wrong", [{"bits": 12}, {"ppi": 0}, {"quality": 0}, {"quality": 101}, {"longer_side": 0}])
def test_settings_name_value_and_range(wrong):
    with pytest.raises(ValueError, match=next(iter(wrong))):
        Settings(**wrong)
    with pytest.raises(ScriptError, match=r"is \d+; it must be"):
        read(Settings, wrong, "print")


def test_a_jpeg_wider_than_the_format_is_refused_beforehand(tmp_path):
    renderer = Renderer(ArraySource(np.zeros((1, 70_000), np.uint8)), Script())
    with pytest.raises(FileError, match="TIFF or PNG"):
        export(renderer, tmp_path / "a.jpg", Settings())
    assert os.listdir(tmp_path) == []


def test_a_print_that_is_written_smaller_is_read_finely(tmp_path):
    """By the one way in which prints are written: 0.45 cycles a pixel leave no false pattern in a smaller print."""
    file, target = tmp_path / "weave.tif", tmp_path / "small.tif"
    light = 0.4 + 0.3 * np.cos(2 * np.pi * 0.45 * np.arange(900))
    row = np.rint(to_encoded(light) * 65535).astype(np.uint16)
    tifffile.imwrite(file, np.repeat(row[None, :, None], 90, axis=0).repeat(3, 2), photometric="rgb")
    photo = open_photo(file)
    for frame in ({}, {"tilt": 1.0, "ratio": "free"}):
        script = from_json({"kyanoscript": 1, "frame": frame, "passes": []})
        job = Out(photo, script, Pictures(photo.path), target, WholePrint(), Settings(longer_side=500))
        write(job)
        small = to_light(tifffile.imread(target) / 65535)[20:30, 20:-20]
        assert np.ptp(small, axis=1).max() < 0.05 * 0.6


@pytest.mark.parametrize("packing", ["lzw", "deflate"])
@pytest.mark.parametrize("bits", [8, 16, 32])
def test_a_packed_tiff_of_many_rows_holds_the_same_pixels(tmp_path, packing, bits):
    """More rows than a band has: a packed one failed, as the library takes strips of whole pages only."""
    renderer = Renderer(ArraySource(make_colourful(700, 330, np.uint16)), Script())
    for name, how in (("plain", {}), ("packed", {"compression": packing})):
        export(renderer, tmp_path / f"{name}.tif", Settings(bits=bits, **how))
    plain, packed = (tifffile.imread(tmp_path / f"{name}.tif") for name in ("plain", "packed"))
    assert plain.shape == (700, 330, 3)
    assert np.array_equal(plain, packed)
    assert (tmp_path / "packed.tif").stat().st_size < (tmp_path / "plain.tif").stat().st_size


@pytest.mark.parametrize("profile", ["srgb", "display-p3", "oprgb", "romm"])
def test_a_print_without_colour_has_none_in_the_noise_of_a_file_of_colours(tmp_path, profile):
    """8 bits a channel: one noise for all three, or there were specks of colour, one level each."""
    ramp = np.broadcast_to(np.linspace(0.2, 0.3, 900, dtype=np.float32), (60, 900))
    renderer = Renderer(ArraySource(np.ascontiguousarray(ramp[..., None])), Script())
    file = tmp_path / "ramp.png"
    export(renderer, file, Settings(bits=8, profile=profile))
    written = np.asarray(Image.open(file)).astype(int)
    assert len(np.unique(written[:, 450, 0])) > 1  # there is noise
    assert np.ptp(written, axis=2).max() == 0
