"""WebP, AVIF, JPEG 2000, GIF and BMP: their pixels against what was written, their bits, and what is damaged."""

import io

import imagecodecs
import numpy as np
import pytest
from PIL import Image, ImageCms

from kyanoscript.cli import main
from kyanoscript.core.colour import SRGB, moved
from kyanoscript.core.picture import Rect
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from tests.conftest import make_colourful

RGB, DEEP = make_colourful(41, 57), make_colourful(41, 57, np.uint16)
GRAY = RGB[..., 1]


def pil(pixels, kind, **options):
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, kind, **options)
    return out.getvalue()


def rows(photo):
    return photo.source.window(Rect(0, 0, photo.width, photo.height))


def in_srgb(photo):
    planes = np.ascontiguousarray(np.moveaxis(rows(photo), 2, 0), np.float32)
    return np.moveaxis(np.clip(moved(planes, photo.source.space, SRGB), 0, 1), 0, 2)


def written(tmp_path, data, name="photo.bin"):
    file = tmp_path / name
    file.write_bytes(bytes(data))
    return file


EIGHT = {
    "WebP": pil(RGB, "WEBP", lossless=True),
    "BMP": pil(RGB, "BMP"),
    "JPEG 2000": pil(RGB, "JPEG2000", irreversible=False),
}


@pytest.mark.parametrize("name", EIGHT)
def test_what_keeps_every_value_is_read_bit_for_bit(tmp_path, name):
    photo = open_photo(written(tmp_path, EIGHT[name]))
    assert photo.kind == f"8-bit RGB {name}"
    assert photo.notes == ()
    assert np.array_equal(rows(photo), RGB)


def test_a_gif_is_its_palettes_colours(tmp_path):
    data = pil(RGB, "GIF")
    photo = open_photo(written(tmp_path, data))
    with Image.open(io.BytesIO(data)) as image:
        assert np.array_equal(rows(photo), np.asarray(image.convert("RGB")))
    assert photo.kind == "8-bit RGB GIF"


@pytest.mark.parametrize(("bits", "most"), [(8, 2), (10, 65535 / 1023 * 2), (12, 65535 / 4095 * 2)])
def test_an_avif_keeps_its_bits(tmp_path, bits, most):
    """libavif at its best quality is off by a step or two of the file's own."""
    pixels = RGB if bits == 8 else DEEP >> (16 - bits)
    photo = open_photo(written(tmp_path, imagecodecs.avif_encode(pixels, bitspersample=bits, level=100)))
    wanted = RGB.astype(float) if bits == 8 else pixels * (65535 / ((1 << bits) - 1))
    assert photo.kind == f"{8 if bits == 8 else 16}-bit RGB AVIF"
    assert np.abs(rows(photo) - wanted).max() <= most


@pytest.mark.parametrize("bits", [8, 10, 12, 16])
@pytest.mark.parametrize("codec", ["jp2", "j2k"])
def test_a_jpeg_2000_keeps_its_bits(tmp_path, bits, codec):
    for whole in (DEEP, DEEP[..., 1]):
        pixels = (whole >> (16 - bits)).astype(np.uint8 if bits == 8 else np.uint16)
        data = imagecodecs.jpeg2k_encode(pixels, level=0, codecformat=codec, bitspersample=bits)
        top = 255 if bits == 8 else 65535
        wanted = np.rint(pixels * (top / ((1 << bits) - 1)))
        assert np.array_equal(rows(open_photo(written(tmp_path, data))).squeeze(), wanted)


def test_gray_stays_gray_and_transparent_parts_lie_on_white(tmp_path):
    assert open_photo(written(tmp_path, pil(GRAY, "BMP"))).source.channels == 1
    clear = np.dstack([RGB, np.full(GRAY.shape, 255, np.uint8)])
    clear[:10, :, 3] = 0
    file = written(tmp_path, pil(clear, "WEBP", lossless=True, exact=True), "cut.webp")
    photo = open_photo(file)
    assert (rows(photo)[:10] == 255).all()
    assert np.array_equal(rows(photo)[10:], RGB[10:])
    assert photo.notes == ("Transparent parts lie on white paper",)
    picture = Pictures(file).find("cut.webp")  # as a plate
    assert picture.alpha.window(Rect(0, 0, 57, 41))[:10].max() == 0


def test_profile_and_orientation_are_honoured(tmp_path):
    wide = bytes(imagecodecs.cms_profile("adobergb"))
    exif = Image.Exif()
    exif[0x0112] = 6
    plain = open_photo(written(tmp_path, pil(RGB, "WEBP", lossless=True)))
    turned = open_photo(written(tmp_path, pil(RGB, "WEBP", lossless=True, icc_profile=wide, exif=exif)))
    assert (turned.width, turned.height, turned.orientation) == (41, 57, 6)
    source = ImageCms.ImageCmsProfile(io.BytesIO(wide))
    wanted = np.asarray(
        ImageCms.profileToProfile(Image.fromarray(RGB), source, ImageCms.createProfile("sRGB"), renderingIntent=1)
    )
    assert np.abs(np.rot90(in_srgb(turned)) * 255 - wanted).mean() < 1
    assert np.abs(rows(plain).astype(int) - wanted).mean() > 2
    boxed = pil(RGB, "JPEG2000", irreversible=False)
    at = boxed.index(b"colr\x01") - 4
    length = int.from_bytes(boxed[at : at + 4], "big")
    box = (11 + len(wide)).to_bytes(4, "big") + b"colr\x02\0\0" + wide
    header = boxed.index(b"jp2h") - 4
    grown = int.from_bytes(boxed[header : header + 4], "big") + len(box) - length
    data = boxed[:header] + grown.to_bytes(4, "big") + boxed[header + 4 : at] + box + boxed[at + length :]
    assert np.abs(in_srgb(open_photo(written(tmp_path, data))) * 255 - wanted).mean() < 1


@pytest.mark.parametrize("kind", ["GIF", "WEBP"])
def test_of_a_moving_picture_the_first_is_opened(tmp_path, kind):
    more = [Image.fromarray(RGB[::-1]), Image.fromarray(RGB[:, ::-1])]
    photo = open_photo(written(tmp_path, pil(RGB, kind, save_all=True, append_images=more)))
    assert photo.notes == ("It moves: this is the first of 3 pictures",)
    assert np.abs(rows(photo).astype(int) - RGB).mean() < 12


ALL = {
    **EIGHT,
    "GIF": pil(RGB, "GIF"),
    "AVIF": pil(RGB, "AVIF"),
    "deep AVIF": imagecodecs.avif_encode(DEEP >> 4, bitspersample=12),
    "codestream": imagecodecs.jpeg2k_encode(DEEP, codecformat="j2k"),
}


@pytest.mark.parametrize("share", [0.02, 0.3, 0.6, 0.9, 0.99])
@pytest.mark.parametrize("name", ALL)
def test_what_is_cut_short_is_refused(tmp_path, name, share):
    data = bytes(ALL[name])
    with pytest.raises(FileError) as told:
        open_photo(written(tmp_path, data[: max(17, int(len(data) * share))]))
    assert "photo.bin" in str(told.value)


@pytest.mark.parametrize("height", [0x800029, 42, 1 << 20])
def test_a_bmp_that_says_it_is_higher_than_it_is_is_refused(tmp_path, height):
    """Its rows would be read from beyond the end of the file: a library died of it."""
    data = bytearray(EIGHT["BMP"])
    data[22:26] = height.to_bytes(4, "little")
    with pytest.raises(FileError, match=r"damaged or cut short|more than"):
        open_photo(written(tmp_path, data))


def test_a_bmp_may_lie_from_the_top_down(tmp_path):
    data = bytearray(EIGHT["BMP"])
    row = len(data[54:]) // 41
    data[54:] = b"".join(data[54 + k * row :][:row] for k in reversed(range(41)))
    data[22:26] = (-41).to_bytes(4, "little", signed=True)
    assert np.array_equal(rows(open_photo(written(tmp_path, data))), RGB)


def test_an_unusual_jpeg_2000_is_refused_in_words(tmp_path):
    data = bytearray(imagecodecs.jpeg2k_encode(DEEP, codecformat="j2k"))
    data[42] |= 0x80  # signed
    with pytest.raises(FileError, match="unusual kind of values"):
        open_photo(written(tmp_path, data))


def test_from_webp_to_print_by_command(tmp_path, capsys):
    file = written(tmp_path, EIGHT["WebP"], "vat.webp")
    assert main(["render", str(file), "-o", str(tmp_path / "vat.tif"), "--recipe", "sepia-bath"]) == 0
    capsys.readouterr()
    assert main(["render", str(file), "-o", str(tmp_path / "vat.webp")]) == 2  # it is the photograph
    assert file.read_bytes() == EIGHT["WebP"]
    assert "never written to" in capsys.readouterr().err
    assert main(["render", str(file), "-o", str(tmp_path / "vat.gif")]) == 2
    assert ".tif" in capsys.readouterr().err
