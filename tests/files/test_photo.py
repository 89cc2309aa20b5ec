"""Opening photographs: what is read is what was written, whatever the container."""

import io

import cv2
import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from kyanoscript.core import colour
from kyanoscript.core.picture import Rect, read
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import open_cutout
from kyanoscript.files.photos.pixels import upright
from tests.conftest import make_colourful

HEIGHT, WIDTH = 41, 57


def picture(dtype=np.uint8, channels=3):
    whole = make_colourful(HEIGHT, WIDTH, np.uint16)
    alpha = np.full((HEIGHT, WIDTH, 1), 65535, np.uint16)
    whole = {1: whole[..., :1], 2: np.concatenate([whole[..., :1], alpha], 2), 3: whole}.get(
        channels, np.concatenate([whole, alpha], 2)
    )
    if dtype == np.uint8:
        return (whole >> 8).astype(np.uint8)
    return (whole / 65535).astype(dtype) if np.dtype(dtype).kind == "f" else whole


def all_rows(opened):
    return opened.source.window(Rect(0, 0, opened.width, opened.height))


def colours_of(pixels):
    return pixels[..., :1] if pixels.shape[2] in (1, 2) else pixels[..., :3]


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_a_cutout_has_the_colours_that_were_multiplied_with_its_alpha(tmp_path, dtype):
    top = 1.0 if dtype is np.float32 else float(np.iinfo(dtype).max)
    alpha = np.linspace(0.2, 1, WIDTH)[None, :, None].repeat(HEIGHT, axis=0)
    laid = np.concatenate([np.broadcast_to([0.8, 0.5, 0.3], (HEIGHT, WIDTH, 3)) * alpha, alpha], axis=2) * top
    file = tmp_path / "cut.tif"
    laid = laid.astype(dtype) if dtype is np.float32 else np.rint(laid).astype(dtype)
    tifffile.imwrite(file, laid, photometric="rgb", extrasamples=["assocalpha"])
    cut = open_cutout(file)
    whole = Rect(0, 0, WIDTH, HEIGHT)
    colours = read(cut.colours, whole, 1.0)
    assert np.abs(colours - np.array([0.8, 0.5, 0.3], np.float32)[:, None, None]).max() < 3.5 / min(top, 255)
    assert colour.to_light(read(cut.alpha, whole, 1.0))[0] == pytest.approx(alpha[..., 0], abs=1.5 / min(top, 255))


@pytest.mark.parametrize("hold", [True, False])
@pytest.mark.parametrize("layout", ["stripped", "tiled"])
@pytest.mark.parametrize("compression", [None, "zlib", "lzw"])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
@pytest.mark.parametrize("channels", [1, 2, 3, 4])
def test_tiff_of_every_kind(tmp_path, channels, dtype, compression, layout, hold):
    pixels = picture(dtype, channels)
    file = tmp_path / "landing.tif"
    shape = {"tile": (16, 32)} if layout == "tiled" else {"rowsperstrip": 7}
    tifffile.imwrite(
        file,
        pixels if channels > 1 else pixels[..., 0],
        photometric="rgb" if channels > 2 else "minisblack",
        extrasamples=["unassalpha"] if channels in (2, 4) else None,
        compression=compression,
        predictor=compression is not None and dtype != np.float32,
        planarconfig="contig" if channels > 1 else None,
        **shape,
    )
    opened = open_photo(file, hold)
    assert (opened.width, opened.height) == (WIDTH, HEIGHT)
    out = all_rows(opened)
    assert out.dtype == dtype
    assert np.array_equal(out, colours_of(pixels))
    assert np.array_equal(opened.source.window(Rect(0, 13, opened.width, 16)), colours_of(pixels)[13:29])


def test_tiff_in_separate_planes_big_endian_and_white_is_zero(tmp_path):
    pixels = picture(np.uint16)
    planar, inverted = tmp_path / "planar.tif", tmp_path / "inverted.tif"
    planes = np.ascontiguousarray(np.moveaxis(pixels, 2, 0))
    tifffile.imwrite(planar, planes, photometric="rgb", planarconfig="separate", byteorder=">")
    tifffile.imwrite(inverted, 65535 - pixels[..., 0], photometric="miniswhite")
    assert np.array_equal(all_rows(open_photo(planar)), pixels)
    for hold in (True, False):
        assert np.array_equal(all_rows(open_photo(inverted, hold)), pixels[..., :1])


def test_floats_keep_what_lies_beyond_black_and_white(tmp_path):
    """Until a pass clips them; only what is no number, and infinities, are put within reason."""
    file = tmp_path / "float.tif"
    tifffile.imwrite(file, np.array([[-1, 0.5, 2, np.nan, np.inf]], np.float32))
    assert all_rows(open_photo(file)).ravel().tolist() == [-1, 0.5, 2, 0, 10_000]


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize("channels", [1, 2, 3, 4])
def test_png_of_every_kind(tmp_path, channels, dtype):
    pixels = picture(dtype, channels)
    file = tmp_path / "cloth.png"
    file.write_bytes(imagecodecs.png_encode(pixels if channels > 1 else pixels[..., 0].copy()))
    out = all_rows(open_photo(file))
    assert out.dtype == dtype
    assert np.array_equal(out, colours_of(pixels))


@pytest.mark.parametrize("channels", [1, 3])
def test_jpeg(tmp_path, channels):
    pixels = picture(np.uint8, channels)
    file = tmp_path / "bell.jpg"
    Image.fromarray(pixels if channels == 3 else pixels[..., 0]).save(file, quality=100, subsampling=0, dpi=(240, 240))
    opened = open_photo(file)
    assert np.abs(all_rows(opened).astype(int) - pixels).mean() < 2
    assert opened.ppi == 240


def test_jpeg_decodes_as_opencv_decodes_it(tmp_path):
    file = tmp_path / "bell.jpg"
    Image.fromarray(picture()).save(file, quality=90)
    other = cv2.cvtColor(cv2.imread(str(file)), cv2.COLOR_BGR2RGB)
    assert np.abs(all_rows(open_photo(file)).astype(int) - other).max() <= 4


def test_transparent_parts_lie_on_white_paper(tmp_path):
    pixels = np.zeros((2, 2, 4), np.uint8)
    pixels[0, 0] = (200, 100, 50, 255)
    pixels[0, 1] = (200, 100, 50, 127)
    file = tmp_path / "lantern.png"
    Image.fromarray(pixels).save(file)
    opened = open_photo(file)
    half = np.rint(np.array([200, 100, 50]) * 127 / 255 + 255 * 128 / 255)
    assert all_rows(opened).tolist() == [[[200, 100, 50], half.tolist()], [[255] * 3, [255] * 3]]
    assert "white paper" in opened.notes[0]


def test_palette_png_with_transparency(tmp_path):
    image = Image.fromarray(picture()).quantize(16)
    file = tmp_path / "palette.png"
    image.save(file, transparency=3)
    wanted = np.asarray(image)
    out = all_rows(open_photo(file))
    assert (out[wanted == 3] == 255).all()
    solid = wanted != 3
    assert np.array_equal(out[solid], np.asarray(image.convert("RGB"))[solid])


@pytest.mark.parametrize("orientation", range(1, 9))
def test_orientation_agrees_with_pillow(tmp_path, orientation):
    """EXIF 2.32, tag 0x0112; PIL.ImageOps.exif_transpose as the reference."""
    from PIL import ImageOps

    image = Image.fromarray(picture())
    exif = Image.Exif()
    exif[0x0112] = orientation
    file = tmp_path / "turned.png"
    image.save(file, exif=exif)
    with Image.open(file) as read_back:
        wanted = np.asarray(ImageOps.exif_transpose(read_back))
    assert np.array_equal(all_rows(open_photo(file)), wanted)
    tiff = tmp_path / "turned.tif"
    tifffile.imwrite(tiff, picture(), photometric="rgb", extratags=[(274, "H", 1, orientation, True)])
    assert np.array_equal(all_rows(open_photo(tiff, hold=False)), wanted)


@pytest.mark.filterwarnings("ignore:Corrupt EXIF data")
def test_damaged_camera_notes_do_not_cost_the_picture(tmp_path):
    file = tmp_path / "notes.jpg"
    Image.fromarray(picture()).save(file, exif=b"Exif\0\0II*\0\xff\xff\xff\xff" + bytes(range(40)))
    assert open_photo(file).width == WIDTH


def test_an_orientation_that_does_not_exist_is_upright():
    pixels = picture()
    assert np.array_equal(upright(pixels, 99), pixels)


WIDE = {"whitepoint": [0.3127, 0.3290, 1.0], "primaries": [0.64, 0.33, 1.0, 0.21, 0.71, 1.0, 0.15, 0.06, 1.0]}


def by_hand(encoded, gamma):
    """From the wide space's matrix and gamma to sRGB, in double precision (both white points are D65)."""

    def to_xyz(primaries):
        xyz = np.array([[x / y, 1, (1 - x - y) / y] for x, y in primaries]).T
        white = np.array([0.3127 / 0.3290, 1, (1 - 0.3127 - 0.3290) / 0.3290])
        return xyz * np.linalg.solve(xyz, white)

    wide = to_xyz([(0.64, 0.33), (0.21, 0.71), (0.15, 0.06)])
    srgb = to_xyz([(0.64, 0.33), (0.30, 0.60), (0.15, 0.06)])
    light = encoded**gamma @ (np.linalg.inv(srgb) @ wide).T
    return colour.to_encoded(light)


@pytest.mark.parametrize("hold", [True, False])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_an_embedded_profile_is_honoured_and_the_depth_kept(tmp_path, dtype, hold):
    """A wide space with gamma 2.2, worked out by matrix in double precision; little-CMS does it in the program."""
    gamma = 2.19921875
    rng = np.random.default_rng(4)
    encoded = 0.25 + 0.5 * rng.random((20, 30, 3))
    top = 1 if np.dtype(dtype).kind == "f" else np.iinfo(dtype).max
    pixels = (np.rint(encoded * top) if top > 1 else encoded).astype(dtype)
    file = tmp_path / "wide.tif"
    tifffile.imwrite(
        file, pixels, photometric="rgb", iccprofile=bytes(imagecodecs.cms_profile("rgb", gamma=gamma, **WIDE))
    )
    photo = open_photo(file, hold)
    assert photo.source.space == colour.OPRGB
    planes = np.moveaxis(all_rows(photo), 2, 0).astype(np.float32)
    assert len(np.unique(planes[0])) == len(np.unique(pixels[..., 0]))  # no level is lost
    in_srgb = np.moveaxis(colour.moved(planes, colour.OPRGB, colour.SRGB), 0, 2)
    wanted = by_hand(pixels / top, gamma)
    assert np.abs(in_srgb - wanted)[wanted > 0.01].max() < 4e-4


def test_a_gray_profile_is_honoured(tmp_path):
    ramp = np.linspace(0, 65535, 500).astype(np.uint16).reshape(1, -1)
    file = tmp_path / "gray.tif"
    tifffile.imwrite(file, ramp, iccprofile=bytes(imagecodecs.cms_profile("gray", gamma=1.8)))
    wanted = colour.to_encoded((ramp / 65535) ** 1.8)
    assert np.abs(all_rows(open_photo(file))[..., 0] - wanted).max() < 1e-4


def test_srgb_by_another_maker_leaves_the_values_alone(tmp_path):
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    file = tmp_path / "tagged.png"
    Image.fromarray(picture()).save(file, icc_profile=profile)
    assert np.array_equal(all_rows(open_photo(file)), picture())


@pytest.mark.parametrize("profile", [b"nonsense" * 40, bytes(imagecodecs.cms_profile("gray", gamma=2.2))])
def test_a_profile_that_does_not_fit_is_said_and_left_out(tmp_path, profile):
    file = tmp_path / "odd.png"
    Image.fromarray(picture()).save(file, icc_profile=profile)
    opened = open_photo(file)
    assert np.array_equal(all_rows(opened), picture())
    assert "taken as sRGB" in opened.notes[0]


def test_told_apart_by_content_not_by_name(tmp_path):
    file = tmp_path / "really-a-png.jpg"
    buffer = io.BytesIO()
    Image.fromarray(picture()).save(buffer, "PNG")
    file.write_bytes(buffer.getvalue())
    opened = open_photo(file)
    assert opened.kind == "8-bit RGB PNG"


def test_one_pixel(tmp_path):
    file = tmp_path / "one.png"
    Image.fromarray(np.array([[[1, 2, 3]]], np.uint8)).save(file)
    opened = open_photo(file)
    assert np.allclose(read(opened.source, Rect(0, 0, 1, 1), 1).ravel() * 255, [1, 2, 3])


def test_hash_is_sha256(tmp_path):
    """FIPS 180-4, the example "abc"."""
    file = tmp_path / "abc"
    file.write_bytes(b"abc")
    assert sha256(file) == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
