"""A corpus of every kind of picture, made here by other libraries, opened with equal pixels or refused by name."""

import contextlib
import io
import struct

import cv2
import imagecodecs
import numpy as np
import OpenEXR
import pytest
import tifffile
from PIL import Image

from kyanoscript.cli import main
from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, DISPLAY_P3, SRGB
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.scriptfile import PhotoRef, read_script, write_script
from kyanoscript.files.photos.notes import read_notes
from kyanoscript.files.photos.photo import open_photo, paged
from kyanoscript.files.photos.pillow import unguarded
from tests.conftest import make_colourful

DEEP = make_colourful(70, 90, np.uint16)
KINDS = {np.uint8: (DEEP >> 8).astype(np.uint8), np.uint16: DEEP, np.float32: (DEEP / 65535).astype(np.float32)}


def rows(photo):
    return photo.source.window(Rect(0, 0, photo.width, photo.height))


def put(tmp_path, data, name="photo.bin"):
    file = tmp_path / name
    file.write_bytes(bytes(data))
    return file


# TIFF: every layout, order, depth and packing

LAYOUTS = {
    "strips": {"rowsperstrip": 16},
    "one strip": {},
    "tiles": {"tile": (32, 48)},
    "planes": {"planarconfig": "separate"},
    "planes in tiles": {"planarconfig": "separate", "tile": (32, 32)},
}
PACKINGS = {
    np.uint8: (None, "lzw", "adobe_deflate", "packbits", "zstd", "lzma", "jpeg", "webp", "jpeg_2000_lossy"),
    np.uint16: (None, "lzw", "adobe_deflate", "packbits", "zstd", "lzma"),
    np.float32: (None, "lzw", "adobe_deflate", "zstd", "lerc"),
}


@pytest.mark.parametrize("order", ["<", ">"])
@pytest.mark.parametrize("layout", LAYOUTS)
@pytest.mark.parametrize("dtype", KINDS, ids=lambda kind: kind.__name__)
def test_a_tiff_of_any_layout_and_packing_is_what_the_other_library_reads(tmp_path, dtype, layout, order):
    """tifffile writes; Pillow's libtiff is asked where it can read it, else tifffile itself."""
    pixels = KINDS[dtype]
    for packing in PACKINGS[dtype]:
        how = dict(LAYOUTS[layout])
        if packing in ("jpeg", "webp", "jpeg_2000_lossy") and "planes" in layout:
            continue
        if packing == "lerc" and order == ">":  # its library writes one order only
            continue
        if packing is not None:
            how["compression"] = packing
        if packing in ("webp", "jpeg_2000_lossy"):
            how["compressionargs"] = {"level": 0} if packing == "jpeg_2000_lossy" else {"lossless": True}
        file = tmp_path / "photo.tif"
        stored = np.moveaxis(pixels, 2, 0) if "planes" in layout else pixels
        tifffile.imwrite(file, stored, photometric="rgb", byteorder=order, **how)
        wanted = tifffile.imread(file)
        wanted = np.moveaxis(wanted, 0, 2) if "planes" in layout else wanted
        for hold in (True, False):
            assert np.array_equal(rows(open_photo(file, hold)), wanted), (packing, hold)
        if dtype is np.uint8 and packing in (None, "lzw", "adobe_deflate", "packbits"):
            with Image.open(file) as other:
                assert np.array_equal(np.asarray(other), wanted), packing


@pytest.mark.parametrize("bits", [1, 2, 4])
def test_a_tiff_by_libtiff_of_few_bits_is_opened(tmp_path, bits):
    """Written by Pillow through libtiff: bilevel, and palettes."""
    image = Image.fromarray(KINDS[np.uint8][..., 1])
    file = tmp_path / "few.tif"
    (image.convert("1") if bits == 1 else image.quantize(1 << bits)).save(file)
    with Image.open(file) as other:
        wanted = np.asarray(other.convert("L" if bits == 1 else "RGB"))
    found = rows(open_photo(file))
    found = found / found.dtype.type(np.iinfo(found.dtype).max) * 255
    assert np.abs(found.squeeze() - wanted).max() <= 1


GRAY = {"t259": 1, "t262": 1, "t273": "here", "t277": 1}


@pytest.mark.parametrize("layout", ["rows", "inverted", "tiles", "planes", "signed"])
@pytest.mark.parametrize("bits", [*range(2, 17)])
def test_a_tiff_of_any_number_of_bits_has_its_white_and_its_black(tmp_path, bits, layout):
    """The bits as NumPy unpacks them, and as Pillow (libtiff) and OpenCV read the file where they know the number."""
    top = (1 << bits) - 1
    values = np.random.default_rng(bits).integers(0, top + 1, (32, 48, 3)).astype(np.uint8 if bits <= 8 else np.uint16)
    half = 1 << (bits - 1)
    values[0, :2] = [[half], [half - 1]] if layout == "signed" else [[0], [top]]
    values = values[..., 0] if layout in ("inverted", "signed") else values
    how = {} if bits in (8, 16) else {"bitspersample": bits}
    how |= {"tiles": {"tile": (16, 16)}, "planes": {"planarconfig": "separate"}}.get(layout, {})
    kind = {"inverted": "miniswhite", "signed": "minisblack"}.get(layout, "rgb")
    file = tmp_path / "photo.tif"
    tifffile.imwrite(file, np.moveaxis(values, 2, 0) if layout == "planes" else values, photometric=kind, **how)
    if layout == "signed":
        with tifffile.TiffFile(file) as written:
            page = written.pages.first
            data = file.read_bytes()[page.dataoffsets[0] :][: page.databytecounts[0]]
        file.write_bytes(bare_tiff(data, **GRAY, t256=48, t257=32, t258=bits, t278=32, t279=len(data), t339=2))
    if layout == "rows":
        with tifffile.TiffFile(file) as written:
            page = written.pages.first
            assert len(page.dataoffsets) == 1
            data = file.read_bytes()[page.dataoffsets[0] :][: page.databytecounts[0]]
        if bits in (8, 16):
            unpacked = np.frombuffer(data, f"<u{bits // 8}").reshape(values.shape)
        else:  # each row begins with a byte of its own (TIFF 6.0, section 8)
            single = np.unpackbits(np.frombuffer(data, np.uint8)).reshape(32, -1)[:, : 48 * 3 * bits]
            unpacked = (single.reshape(32, 48, 3, bits) << np.arange(bits - 1, -1, -1, dtype=np.uint32)).sum(-1)
        assert np.array_equal(unpacked, values)
    wanted = values / top
    if layout == "inverted":
        wanted = 1 - wanted
    if layout == "signed":  # from the lowest, black, to the highest, white
        wanted = (np.where(values >= half, values.astype(int) - (top + 1), values) + half) / top
    for hold in (True, False):
        found = rows(open_photo(file, hold)).squeeze()
        white = np.iinfo(found.dtype).max
        assert (found.min(), found.max()) == (0, white)
        assert np.abs(found / white - wanted).max() <= 0.501 / white
    if layout == "rows" and bits in (8, 10, 12, 14, 16):
        other = cv2.imread(str(file), cv2.IMREAD_UNCHANGED)[..., ::-1]
        shift = other.dtype.itemsize * 8 - bits  # OpenCV moves the bits up and leaves those below empty
        assert np.abs((other >> shift) / top - found / white).max() <= 0.501 / white
    if layout == "inverted" and bits in (2, 4, 8):
        with Image.open(file) as other:
            assert np.abs(np.asarray(other) / 255 - found / white).max() <= 1 / 255


def test_floats_of_24_bits_are_what_they_were(tmp_path):
    """A sign, 7 bits of the exponent, 16 of the fraction (TIFF technical note 3, from memory)."""
    values = np.linspace(0, 1, 60, dtype=np.float32).reshape(6, 10)
    data = imagecodecs.float24_encode(values)
    file = put(tmp_path, bare_tiff(data, **GRAY, t256=10, t257=6, t258=24, t278=6, t279=len(data), t339=3))
    photo = open_photo(file)
    assert photo.kind == "24-bit float gray TIFF"
    assert np.abs(rows(photo).squeeze() - values).max() < 1e-5


def test_an_old_style_jpeg_in_a_tiff_is_what_libtiff_makes_of_it(tmp_path):
    """TIFF 6.0, section 22: the whole JPEG lies at JPEGInterchangeFormat."""
    pixels = np.asarray(Image.fromarray(KINDS[np.uint8]).resize((64, 48)))
    jpeg = io.BytesIO()
    Image.fromarray(pixels).save(jpeg, "JPEG", quality=95, subsampling=0)
    data = jpeg.getvalue()
    file = tmp_path / "old.tif"
    size, place = len(data), {"t273": "here", "t513": "here"}
    head = {"t256": 64, "t257": 48, "t258": 8, "t259": 6, "t262": 6, "t277": 3, "t278": 48, "t279": size, "t512": 1}
    file.write_bytes(bare_tiff(data, **head, **place, t514=size, t530=0x10001))
    with Image.open(file) as other:
        wanted = np.asarray(other.convert("RGB")).astype(int)
    assert np.abs(rows(open_photo(file)).astype(int) - wanted).max() <= 3  # another way back from YCbCr


def bare_tiff(data, **tags):
    """A TIFF of one strip, its tags by t and their number: ints, or "here" for where the strip begins."""
    rows = sorted((int(name[1:]), value) for name, value in tags.items())
    start, made = 8 + 2 + 12 * len(rows) + 4, b"II*\0" + struct.pack("<IH", 8, len(rows))
    for number, value in rows:
        made += struct.pack("<HHII", number, 4, 1, start if value == "here" else value)
    return made + bytes(4) + data


@pytest.mark.parametrize("dtype", [np.int8, np.int16, np.int32, np.uint32, np.float16, np.float64])
def test_a_tiff_of_unusual_values_is_opened(tmp_path, dtype):
    file = tmp_path / "values.tif"
    if np.dtype(dtype).kind == "f":
        pixels = (DEEP / 65535).astype(dtype)
        wanted = pixels.astype(np.float32)
    else:
        info = np.iinfo(dtype)
        pixels = (DEEP / 65535 * (int(info.max) - int(info.min)) + int(info.min)).astype(dtype)
        wanted = (pixels.astype(np.float64) - int(info.min)) / (int(info.max) - int(info.min))
    tifffile.imwrite(file, pixels, photometric="rgb")
    found = rows(open_photo(file))
    top = 1 if found.dtype.kind == "f" else np.iinfo(found.dtype).max
    assert np.abs(found / top - wanted).max() < (1e-6 if found.dtype.kind == "f" else 1.01 / top)


def test_a_large_tiff_of_the_newer_kind_is_opened(tmp_path):
    file = tmp_path / "big.tif"
    tifffile.imwrite(file, DEEP, photometric="rgb", bigtiff=True)
    assert np.array_equal(rows(open_photo(file)), DEEP)


# Pages


def pages(tmp_path, count=3):
    file = tmp_path / "scans.tif"
    with tifffile.TiffWriter(file) as tiff:
        for k in range(count):
            tiff.write(np.roll(DEEP, 10 * k, 0)[: 70 - 10 * k], photometric="rgb")
    return file


def test_any_page_is_opened_by_its_number(tmp_path):
    file = pages(tmp_path)
    for number in (1, 2, 3):
        photo = open_photo(f"{file}[{number}]")
        assert np.array_equal(rows(photo), np.roll(DEEP, 10 * (number - 1), 0)[: 70 - 10 * (number - 1)])
        assert photo.path == file  # what is never written to
        assert photo.page == number
        assert photo.facts.pages == 3
        assert str(photo.named) == (str(file) if number == 1 else f"{file}[{number}]")
        assert rows(open_photo(file, hold=False, page=number)).shape == rows(photo).shape
    for wrong in ("[4]", "[99]"):
        with pytest.raises(FileError, match="no page"):
            open_photo(f"{file}{wrong}")


def test_a_name_with_brackets_is_that_file_first(tmp_path):
    file = tmp_path / "scan[2].tif"
    tifffile.imwrite(file, DEEP, photometric="rgb")
    assert paged(file) == (file, 1)
    odd = tmp_path / "scan.tif[2]"
    odd.write_bytes(file.read_bytes())
    assert paged(odd) == (odd, 1)
    assert paged(tmp_path / "other.tif[2]") == (tmp_path / "other.tif", 2)
    assert paged(tmp_path / "other.tif[0]")[1] == 1
    with pytest.raises(FileError, match="only a TIFF"):
        open_photo(f"{put(tmp_path, imagecodecs.png_encode(DEEP), 'a.png')}[2]")


def test_a_page_by_command_and_in_a_script_file(tmp_path, capsys):
    file = pages(tmp_path)
    target = tmp_path / "print.tif"
    assert main(["render", f"{file}[2]", "-o", str(target)]) == 0
    assert tifffile.imread(target).shape == (60, 90, 3)
    assert main(["render", f"{file}[2]", "-o", str(file)]) == 2
    assert "never written to" in capsys.readouterr().err
    photo = open_photo(f"{file}[2]")
    script = tmp_path / "a.kyano"
    write_script(script, Script(), PhotoRef(photo.path, photo.original.digest(), *photo.size, photo.page))
    assert read_script(script).photo.page == 2


# A scanner's infrared


@pytest.mark.parametrize("said", ["unspecified", "unassalpha"])
def test_a_fourth_channel_is_infrared_unless_it_is_called_alpha(tmp_path, said):
    infrared = np.ascontiguousarray(DEEP[..., 1] // 2)
    file = tmp_path / "scan.tif"
    tifffile.imwrite(file, np.dstack([DEEP, infrared]), photometric="rgb", extrasamples=[said])
    photo = open_photo(file)
    if said == "unspecified":
        assert np.array_equal(rows(photo), DEEP)
        assert np.array_equal(photo.source.infrared.window(Rect(0, 0, 90, 70))[..., 0], infrared)
        assert any("infrared" in note for note in photo.notes)
    else:
        assert photo.source.infrared is None
        assert any("white paper" in note for note in photo.notes)


# JPEG XL


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_a_jpeg_xl_without_loss_is_read_bit_for_bit(tmp_path, dtype):
    from kyanoscript.files.photos import jxl

    data = imagecodecs.jpegxl_encode(KINDS[dtype], lossless=True)
    stream = jxl.boxed(jxl.in_space(bytes(data), DISPLAY_P3, False), dtype is np.uint16, b"", b"")
    photo = open_photo(put(tmp_path, stream))
    assert photo.source.space is DISPLAY_P3
    assert photo.kind == f"{np.dtype(dtype).itemsize * 8}-bit RGB JPEG XL"
    assert np.array_equal(rows(photo), KINDS[dtype])


def test_a_linear_jpeg_xl_means_light(tmp_path):
    """The codec writes 16 bits as linear light."""
    photo = open_photo(put(tmp_path, imagecodecs.jpegxl_encode(DEEP, lossless=True)))
    assert np.abs(colour.to_light(rows(photo)) - DEEP / 65535).max() < 1e-5
    floats = open_photo(put(tmp_path, imagecodecs.jpegxl_encode(KINDS[np.float32], lossless=True)))
    assert np.abs(colour.to_light(rows(floats)) - KINDS[np.float32]).max() < 1e-5


def test_a_jpeg_xl_with_loss_comes_near(tmp_path):
    soft = np.asarray(Image.fromarray(KINDS[np.uint8]).resize((20, 16)).resize((300, 240), Image.Resampling.BICUBIC))
    photo = open_photo(put(tmp_path, imagecodecs.jpegxl_encode(soft, level=95)))
    assert np.abs(rows(photo).astype(int) - soft).mean() < 2


# HEIF, where what reads it is there


def test_a_heif_is_opened_or_refused_by_name(tmp_path):
    soft = np.asarray(Image.fromarray(KINDS[np.uint8]).resize((12, 10)).resize((128, 96), Image.Resampling.BICUBIC))
    try:
        import pillow_heif
    except ImportError:
        with pytest.raises(FileError, match=r"HEIF picture.*pip install pillow-heif"):
            open_photo(put(tmp_path, b"\0\0\0\x18ftypheic" + bytes(100)))
        return
    out = io.BytesIO()
    pillow_heif.from_pillow(Image.fromarray(soft)).save(out, quality=95)
    photo = open_photo(put(tmp_path, out.getvalue()))
    assert photo.kind == "8-bit RGB HEIF"
    assert np.abs(rows(photo).astype(int) - soft).mean() < 3
    deep = (soft.astype(np.uint16) << 8) | soft
    out = io.BytesIO()
    pillow_heif.encode("RGB;16", (128, 96), deep.tobytes(), out, quality=95)
    photo = open_photo(put(tmp_path, out.getvalue()))
    assert photo.kind == "16-bit RGB HEIF"
    assert np.abs(rows(photo) / 257 - soft).mean() < 3


def test_without_what_reads_heif_it_says_what_to_install(tmp_path, monkeypatch):
    import sys

    monkeypatch.setitem(sys.modules, "pillow_heif", None)
    with pytest.raises(FileError, match=r"HEIF picture.*pip install pillow-heif"):
        open_photo(put(tmp_path, b"\0\0\0\x18ftypheic" + bytes(100)))


@pytest.mark.parametrize(("primaries", "space"), [(1, SRGB), (12, DISPLAY_P3), (9, BT2020)])
def test_an_avif_tells_its_space_by_numbers(tmp_path, primaries, space):
    """ITU-T H.273: 1 BT.709, 9 BT.2020, 12 P3 under D65."""
    data = bytearray(imagecodecs.avif_encode(KINDS[np.uint8], level=100))
    at = bytes(data).index(b"colrnclx")
    data[at + 8 : at + 12] = struct.pack(">HH", primaries, 13)
    assert open_photo(put(tmp_path, data)).source.space is space
    data[at + 10 : at + 12] = struct.pack(">H", 16)  # a curve for brighter screens
    photo = open_photo(put(tmp_path, data))
    assert photo.source.space is SRGB
    assert any("taken as sRGB" in note for note in photo.notes)


# Floats in light


def test_an_openexr_is_opened_with_its_light_and_primaries(tmp_path):
    light = (DEEP / 65535 * 3).astype(np.float32)
    file = tmp_path / "lamps.exr"
    places = (0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329)
    head = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    for more, space in (({}, SRGB), ({"chromaticities": places}, BT2020)):
        OpenEXR.File({**head, **more}, {"RGB": light}).write(str(file))
        photo = open_photo(file)
        assert photo.source.space is space
        assert np.abs(colour.to_light(rows(photo)) - light).max() < 1e-5
    OpenEXR.File(head, {"Y": light[..., 0].copy()}).write(str(file))
    assert rows(open_photo(file)).shape == (70, 90, 1)
    OpenEXR.File(head, {"Z": light[..., 0].copy()}).write(str(file))
    with pytest.raises(FileError, match="no red, green and blue"):
        open_photo(file)


@pytest.mark.parametrize("order", ["<", ">"])
@pytest.mark.parametrize("values", [1, 3])
def test_a_pfm_is_opened_from_its_lowest_row_up(tmp_path, order, values):
    light = (DEEP[..., :values] / 65535 * 2).astype(np.float32)
    head = f"{'PF' if values == 3 else 'Pf'}\n90 70\n{'-1.0' if order == '<' else '1.0'}\n".encode()
    photo = open_photo(put(tmp_path, head + light[::-1].astype(f"{order}f4").tobytes()))
    assert np.abs(colour.to_light(rows(photo)) - light).max() < 1e-5
    for broken in (head, head[:7] + b"\n", head.replace(b"90", b"900000"), head + light[:3].tobytes()):
        with pytest.raises(FileError):
            open_photo(put(tmp_path, broken))


def test_floats_that_are_no_light_harm_nothing(tmp_path):
    wild = np.array([np.nan, np.inf, -np.inf, 1e30, -1e30, 0.5], np.float32).reshape(1, 6)
    photo = open_photo(put(tmp_path, b"Pf\n6 1\n-1.0\n" + wild.tobytes()))
    assert np.isfinite(rows(photo)).all()


@pytest.mark.parametrize("kind", ["jxl", "exr", "pfm"])
def test_damaged_files_are_one_clear_error(tmp_path, kind):
    if kind == "exr":
        file = tmp_path / "a.exr"
        head = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        OpenEXR.File(head, {"RGB": KINDS[np.float32]}).write(str(file))
        data = file.read_bytes()
    else:
        data = {
            "jxl": bytes(imagecodecs.jpegxl_encode(DEEP, lossless=True)),
            "pfm": b"PF\n90 70\n-1.0\n" + KINDS[np.float32].tobytes(),
        }[kind]
    rng = np.random.default_rng(8)
    for _ in range(40):
        broken = bytearray(data)
        if rng.random() < 0.5:
            broken = broken[: rng.integers(4, len(broken))]
        for at in rng.integers(4, len(broken), 3):
            broken[at] = rng.integers(256)
        with contextlib.suppress(FileError):  # anything else fails the test
            assert np.isfinite(rows(open_photo(put(tmp_path, broken)))).all()


def test_a_damaged_openexr_says_nothing_on_standard_output(tmp_path, capsys):
    file = tmp_path / "a.exr"
    head = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    OpenEXR.File(head, {"RGB": KINDS[np.float32]}).write(str(file))
    file.write_bytes(file.read_bytes()[:2000])
    assert main(["info", str(file), "--json"]) == 2
    assert capsys.readouterr().out == ""


# Plain words and bytes, and what lies flattened at the end


@pytest.mark.parametrize("most", [1, 15, 255, 1000, 65535])
@pytest.mark.parametrize("kind", ["P2", "P3", "P5", "P6", "P7"])
def test_netpbm_is_opened_with_any_highest_value(tmp_path, kind, most):
    values = 1 if kind in ("P2", "P5") else 3
    pixels = np.random.default_rng(most).integers(0, most + 1, (9, 13, values))
    pixels[0, :2] = [[0], [most]]
    size = f"13 9\n{most}\n"
    head = {"P7": f"P7\n# a remark\nWIDTH 13\nHEIGHT 9\nDEPTH 3\nMAXVAL {most}\nTUPLTYPE RGB\nENDHDR\n"}.get(
        kind, f"{kind} # a remark\n{size}"
    )
    body = " ".join(map(str, pixels.ravel())).encode()
    if kind in ("P5", "P6", "P7"):
        body = pixels.astype(">u2" if most > 255 else np.uint8).tobytes()
    file = put(tmp_path, head.encode() + body)
    photo = open_photo(file)
    found = rows(photo)
    white = 255 if most < 256 else 65535
    assert found.dtype == (np.uint8 if most < 256 else np.uint16)
    assert np.abs(found.astype(float) / white - pixels / most).max() <= 0.501 / white
    if kind in ("P5", "P6") and most in (255, 65535):
        assert np.array_equal(cv2.imread(str(file), cv2.IMREAD_UNCHANGED).reshape(9, 13, -1)[..., ::-1], found)


@pytest.mark.parametrize("data", [b"P4\n10 2\n\x80\x40\xff\xc0", b"P1\n#x\n10 2\n1000000001 11111\n11111"])
def test_netpbm_of_one_bit_is_black_where_it_is_one(tmp_path, data):
    found = rows(open_photo(put(tmp_path, data)))[..., 0]
    assert found[0].tolist() == [0, *[255] * 8, 0]
    assert not found[1].any()


@pytest.mark.parametrize("data", [
    b"P5\n9 9\n255\n" + bytes(80), b"P6\n4 x\n255\n", b"P5\n3 3\n0\n" + bytes(9), b"P7\nWIDTH 3\n",
    b"P2\n2 2\n9\n1 2 3",
    b"P7\nWIDTH 2\nHEIGHT 2\nDEPTH 5\nMAXVAL 255\nENDHDR\n" + bytes(20), b"P5\n99999 99999\n255\n", b"P3",
])  # fmt: skip
def test_netpbm_that_is_damaged_is_one_clear_error(tmp_path, data):
    with pytest.raises(FileError):
        open_photo(put(tmp_path, data))


@pytest.mark.parametrize("runs", [False, True])
@pytest.mark.parametrize("mode", ["L", "RGB", "RGBA"])
def test_tga_is_opened_by_its_name_or_by_its_end(tmp_path, mode, runs):
    image = Image.fromarray(KINDS[np.uint8]).convert(mode)
    how = {"compression": "tga_rle"} if runs else {}
    image.save(tmp_path / "photo.tga", **how)
    wanted = np.asarray(image.convert("RGB") if mode == "RGBA" else image)
    assert np.array_equal(rows(open_photo(tmp_path / "photo.tga")).squeeze(), wanted)
    data = (tmp_path / "photo.tga").read_bytes()
    assert open_photo(put(tmp_path, data + bytes(8) + b"TRUEVISION-XFILE.\0")).kind.endswith("TGA")
    with pytest.raises(FileError, match="not a picture that can be opened"):
        open_photo(put(tmp_path, bytes(18) + b"nothing", "a.tga"))


def test_an_avif_that_moves_is_opened_at_its_first_picture(tmp_path):
    pictures = [Image.fromarray(np.full((32, 48, 3), level, np.uint8)) for level in (40, 120, 200)]
    pictures[0].save(tmp_path / "a.avif", save_all=True, append_images=pictures[1:])
    assert (tmp_path / "a.avif").read_bytes()[4:12] == b"ftypavis"
    for name in ("a.avif", "a.avifs"):
        photo = open_photo((tmp_path / "a.avif").rename(tmp_path / name))
        assert photo.notes == ("It moves: this is the first of 3 pictures",)
        assert np.abs(rows(photo).astype(int) - 40).max() <= 2


def layered(planes, mode, packed, large=False, resources=b"", layers=b""):
    """A layered document of nothing but its flattened picture."""
    count, height, width = planes.shape
    head = struct.pack(">4sH6xHIIHH", b"8BPS", 1 + large, count, height, width, planes.dtype.itemsize * 8, mode)
    head += (
        struct.pack(">II", 0, len(resources)) + resources + struct.pack(">Q" if large else ">I", len(layers)) + layers
    )
    stored = planes.astype(planes.dtype.newbyteorder(">"))
    if not packed:
        return head + struct.pack(">H", 0) + stored.tobytes()
    lines = [imagecodecs.packbits_encode(stored[c, y].tobytes()) for c in range(count) for y in range(height)]
    lengths = b"".join(struct.pack(">I" if large else ">H", len(line)) for line in lines)
    return head + struct.pack(">H", 1) + lengths + b"".join(lines)


@pytest.mark.parametrize("large", [False, True])
@pytest.mark.parametrize("packed", [False, True])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
@pytest.mark.parametrize("mode", [1, 3, 4])
def test_the_flattened_picture_of_a_layered_document_is_opened(tmp_path, mode, dtype, packed, large):
    """Of three more planes than its colours; as Pillow reads it, of eight bits."""
    values = {1: 1, 3: 3, 4: 4}[mode]
    planes = np.random.default_rng(mode).integers(0, np.iinfo(dtype).max + 1, (values + 2, 21, 30)).astype(dtype)
    resolution = struct.pack(">IHHIHH", 240 << 16, 1, 1, 240 << 16, 1, 1)
    resources = b"8BIM" + struct.pack(">HHI", 1005, 0, len(resolution)) + resolution
    file = put(tmp_path, layered(planes, mode, packed, large, resources, layers=b"layers" * 7))
    photo = open_photo(file)
    assert (photo.ppi, photo.notes[0]) == (240, "Its layers are opened as one picture")
    assert photo.kind == f"{8 * dtype().itemsize}-bit {({1: 'gray', 3: 'RGB', 4: 'CMYK'})[mode]} layered document"
    if mode != 4:
        assert np.array_equal(rows(photo), np.moveaxis(planes[:values], 0, 2))
    else:  # inks lie in it the other way round than in a TIFF, which is what it is then
        tifffile.imwrite(tmp_path / "inks.tif", np.moveaxis(~planes[:4], 0, 2), photometric="separated")
        assert np.array_equal(rows(photo), rows(open_photo(tmp_path / "inks.tif")))
    if dtype is np.uint8 and not large and mode == 3:
        bare = put(tmp_path, layered(planes[:3], mode, packed), "bare.psd")
        with Image.open(bare) as other:
            assert np.array_equal(np.asarray(other), np.moveaxis(planes[:3], 0, 2))


@pytest.mark.parametrize(("mode", "bits", "word"), [
    (9, 8, "CIELAB"), (2, 8, "a colour table"), (0, 1, "a bitmap"), (3, 32, "32 bits"), (77, 8, "unknown colours"),
])  # fmt: skip
def test_other_layered_documents_are_refused_by_name(tmp_path, mode, bits, word):
    data = struct.pack(">4sH6xHIIHH", b"8BPS", 1, 3, 5, 5, bits, mode) + bytes(12)
    with pytest.raises(FileError, match=f"layered document whose colours are.*{word}"):
        open_photo(put(tmp_path, data))
    with pytest.raises(FileError, match="unknown version 9"):
        open_photo(put(tmp_path, data.replace(b"8BPS\0\1", b"8BPS\0\x09")))
    with pytest.raises(FileError, match="damaged or cut short"):
        open_photo(put(tmp_path, layered(np.zeros((3, 9, 9), np.uint8), 3, True)[:40]))


@pytest.mark.parametrize(("values", "taken"), [(1, "gray"), (3, "RGB")])
def test_a_tiff_that_does_not_say_what_its_values_mean_is_taken_as_gray_or_rgb(tmp_path, values, taken):
    pixels = KINDS[np.uint8] if values == 3 else KINDS[np.uint8][..., 0]
    data = np.ascontiguousarray(pixels).tobytes()
    size = {"t256": 90, "t257": 70, "t258": 8, "t259": 1, "t273": "here", "t277": values, "t278": 70}
    photo = open_photo(put(tmp_path, bare_tiff(data, **size, t279=len(data))))
    assert photo.notes == (f"It does not say what its values mean; they are taken as {taken}",)
    assert np.array_equal(rows(photo).squeeze(), pixels)
    with pytest.raises(FileError, match="of a kind that is not known, number 77 of the format"):
        open_photo(put(tmp_path, bare_tiff(data, **size, t279=len(data), t262=77)))


def test_the_guard_against_pictures_larger_than_they_are_is_lifted_within_a_call_only(tmp_path):
    guard = Image.MAX_IMAGE_PIXELS
    assert guard
    file = tmp_path / "photo.png"
    Image.fromarray(KINDS[np.uint8]).save(file)
    Image.fromarray(KINDS[np.uint8]).save(tmp_path / "photo.jpg")
    Image.fromarray(KINDS[np.uint8]).save(tmp_path / "photo.gif")
    for name in ("photo.png", "photo.jpg", "photo.gif"):
        open_photo(tmp_path / name)
        with (tmp_path / name).open("rb") as opened:
            read_notes(opened)
        assert guard == Image.MAX_IMAGE_PIXELS
    with unguarded(), unguarded():
        assert Image.MAX_IMAGE_PIXELS is None
    assert guard == Image.MAX_IMAGE_PIXELS
    with contextlib.suppress(FileError):
        open_photo(put(tmp_path, file.read_bytes()[:-9]))
    assert guard == Image.MAX_IMAGE_PIXELS
