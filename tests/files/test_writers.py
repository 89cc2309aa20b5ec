"""Prints out: every format against a second reader, spaces, dither, notes."""

import io
import struct
from pathlib import Path

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import ExifTags, Image, IptcImagePlugin, PngImagePlugin

from kyanoscript.cli import main
from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, DISPLAY_P3, OPRGB, SPACES, SRGB
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect, dithered
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.colour import profiles
from kyanoscript.files.colour.profiles import INTENTS
from kyanoscript.files.photos import jxl
from kyanoscript.files.photos.notes import NOTHING, read_notes, xmp_of
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.formats import PICTURES, format_of
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.whole import WholePrint
from tests.conftest import make_colourful

P = load_all()
PIXELS = make_colourful(48, 72, np.uint16)
SUFFIXES = (".tif", ".png", ".jpg", ".webp", ".jxl", ".avif")


def renderer(space=SRGB, pixels=PIXELS, script=Script()):  # noqa: B008
    return Renderer(ArraySource(pixels, space), script)


def read_back(path):
    """Encoded values and the space, by another reader than ours where there is one."""
    data = path.read_bytes()
    if path.suffix == ".tif":
        return tifffile.imread(path)
    if path.suffix == ".jxl":
        return imagecodecs.jpegxl_decode(data)
    if path.suffix == ".png":
        return imagecodecs.png_decode(data)
    with Image.open(io.BytesIO(data)) as image:
        return np.asarray(image)


@pytest.mark.parametrize(
    ("suffix", "bits"), [(".tif", 16), (".tif", 8), (".png", 16), (".png", 8), (".jxl", 16), (".jxl", 8)]
)
@pytest.mark.parametrize("gray", [False, True])
def test_formats_without_loss_hold_the_print(tmp_path, suffix, bits, gray):
    file = tmp_path / f"print{suffix}"
    script = Script((P["gray-weights"](),)) if gray else Script()
    print_ = renderer(script=script)
    export(print_, file, Settings(bits=bits, dither=False))
    found = read_back(file)
    assert found.dtype == (np.uint16 if bits == 16 else np.uint8)
    assert found.shape == ((48, 72) if gray else (48, 72, 3))
    wanted = print_.region(Rect(0, 0, 72, 48)) * np.iinfo(found.dtype).max
    assert np.abs(np.moveaxis(found.reshape(48, 72, -1), 2, 0) - wanted).max() <= 1


@pytest.mark.parametrize("suffix", [".jpg", ".webp", ".avif"])
def test_formats_with_loss_come_near(tmp_path, suffix):
    file = tmp_path / f"print{suffix}"
    export(renderer(), file, Settings(quality=98))
    assert np.abs(read_back(file).astype(float) - PIXELS / 257).mean() < (
        5 if suffix == ".webp" else 3
    )  # its colour is halved


@pytest.mark.parametrize("packing", ["none", "lzw", "deflate"])
@pytest.mark.parametrize("bits", [8, 16, 32])
@pytest.mark.parametrize("tiled", [False, True])
def test_a_tiff_is_packed_as_asked(tmp_path, packing, bits, tiled):
    file = tmp_path / "print.tif"
    export(renderer(), file, Settings(bits=bits, compression=packing, tiled=tiled, dither=False))
    with tifffile.TiffFile(file) as tiff:
        page = tiff.pages.first
        assert page.compression.name == {"none": "NONE", "lzw": "LZW", "deflate": "ADOBE_DEFLATE"}[packing]
        assert page.dtype == {8: np.uint8, 16: np.uint16, 32: np.float32}[bits]
        found = page.asarray()
    top = 1 if bits == 32 else np.iinfo(found.dtype).max
    assert np.abs(found / top - PIXELS / 65535).max() < 1 / (255 if bits == 8 else 65535)


def test_a_tiff_of_floats_keeps_what_lies_beyond_white(tmp_path):
    pixels = np.full((8, 8, 3), (1.6, 0.5, -0.2), np.float32)
    file = tmp_path / "print.tif"
    export(renderer(pixels=pixels), file, Settings(bits=32))
    assert np.allclose(tifffile.imread(file), pixels, atol=1e-6)
    again = open_photo(file)
    assert np.allclose(again.source.window(Rect(0, 0, 8, 8)), pixels, atol=1e-6)


# Spaces


@pytest.mark.parametrize("space", SPACES, ids=lambda space: space.name)
@pytest.mark.parametrize("suffix", [".tif", ".png", ".jxl"])
def test_the_photographs_space_stays_and_is_told(tmp_path, space, suffix):
    """A print in its own space is opened again as the same colours."""
    file = tmp_path / f"print{suffix}"
    export(renderer(space), file, Settings())
    again = open_photo(file)
    assert again.source.space is space
    found = again.source.window(Rect(0, 0, 72, 48))
    found = found / 65535 if found.dtype == np.uint16 else found
    assert np.abs(found - PIXELS / 65535).max() < 1.5 / 65535


@pytest.mark.parametrize(
    ("word", "to"), [("srgb", SRGB), ("display-p3", DISPLAY_P3), ("oprgb", OPRGB), ("bt2020", BT2020)]
)
def test_another_space_means_the_same_colours(tmp_path, word, to):
    """By little-CMS from the file's profile to XYZ, against the print by colour-science's matrices (test_space)."""
    soft = (0.4 + 0.2 * PIXELS / 65535).astype(np.float32)
    file = tmp_path / "print.tif"
    export(renderer(DISPLAY_P3, soft), file, Settings(profile=word))
    with tifffile.TiffFile(file) as tiff:
        icc = bytes(tiff.pages.first.tags.valueof(34675))
        stored = tiff.asarray()
    xyz = imagecodecs.cms_transform(
        (stored / 65535).astype(np.float32), icc, imagecodecs.cms_profile("xyz"), colorspace="rgb",
        outcolorspace="xyz", outdtype=np.float32, intent=1,
    )  # fmt: skip
    wanted = np.tensordot(colour.to_light(soft), DISPLAY_P3.to_d50.T, 1)
    assert np.abs(xyz - wanted).max() < 5e-4
    assert open_photo(file).source.space is to


def test_what_the_file_cannot_hold_gives_up_chroma_and_keeps_its_hue(tmp_path):
    """As light as if channels were cut."""
    strong = np.zeros((4, 6, 3), np.float32)
    strong[:, :2], strong[:, 2:4], strong[:, 4:] = (0, 0.9, 0), (0.95, 0.1, 0.1), (0.1, 0.9, 0.9)
    file = tmp_path / "print.tif"
    export(renderer(BT2020, strong), file, Settings(profile="srgb"))
    found = np.moveaxis(tifffile.imread(file) / 65535, 2, 0)
    before, after = colour.to_oklch(np.moveaxis(strong, 2, 0), BT2020), colour.to_oklch(found, SRGB)
    straight = np.tensordot(BT2020.linear_to(SRGB), colour.to_light(np.moveaxis(strong, 2, 0)), 1)
    cut = colour.to_oklch(np.clip(colour.to_encoded(straight), 0, 1), SRGB)
    assert np.abs(after[0] - cut[0]).max() < 0.01
    assert np.abs((after[2] - before[2] + 180) % 360 - 180).max() < 2
    assert (after[1] < before[1] - 0.02).all()


def test_a_print_without_colour_is_gray_and_the_same_from_any_space(tmp_path):
    grays = []
    for space in (SRGB, BT2020):
        file = tmp_path / "print.tif"
        export(renderer(space, np.repeat(PIXELS[..., :1], 3, 2), Script((P["gray-weights"](),))), file, Settings())
        grays.append(tifffile.imread(file))
        assert grays[-1].ndim == 2
    assert np.array_equal(*grays)


@pytest.mark.parametrize("intent", ["perceptual", "relative", "absolute", "saturation"])
def test_a_profiles_file_is_written_through(tmp_path, intent):
    own = tmp_path / "own.icc"
    places = [0.66, 0.33, 1, 0.25, 0.65, 1, 0.14, 0.09, 1]
    icc = bytes(imagecodecs.cms_profile("rgb", whitepoint=[0.3127, 0.329, 1], primaries=places, gamma=1.8))
    own.write_bytes(icc)
    file = tmp_path / "print.tif"
    export(renderer(), file, Settings(profile=str(own), intent=intent))
    with tifffile.TiffFile(file) as tiff:
        assert bytes(tiff.pages.first.tags.valueof(34675)) == own.read_bytes()
    wanted = profiles.transformed(PIXELS, profiles.srgb(), icc, INTENTS[intent], True)
    assert np.abs(tifffile.imread(file) / 65535 - np.clip(wanted, 0, 1)).max() < 2 / 65535


@pytest.mark.parametrize("data", [b"", b"nonsense" * 40, bytes(imagecodecs.cms_profile("lab2"))])
def test_a_profile_that_cannot_be_written_to_is_one_clear_error(tmp_path, data):
    own = tmp_path / "own.icc"
    own.write_bytes(data)
    with pytest.raises(FileError, match=r"own\.icc"):
        export(renderer(), tmp_path / "print.tif", Settings(profile=str(own)))
    with pytest.raises(FileError, match="missing"):
        export(renderer(), tmp_path / "print.tif", Settings(profile=str(tmp_path / "missing.icc")))
    assert not (tmp_path / "print.tif").exists()


def test_formats_say_what_they_cannot(tmp_path):
    own = tmp_path / "own.icc"
    own.write_bytes(profiles.of_space(DISPLAY_P3))
    with pytest.raises(FileError, match="JPEG XL"):
        export(renderer(), tmp_path / "print.jxl", Settings(profile=str(own)))

    class Long(Renderer):
        def size(self, scale):
            return 20_000, 3

    with pytest.raises(FileError, match="WebP"):
        export(Long(ArraySource(PIXELS), Script()), tmp_path / "print.webp", Settings())


# Eight bits


def test_a_slow_ramp_has_no_flat_bands():
    """A tone that rises by a step in 200 pixels: without noise it stands still for as long, with it nowhere."""
    ramp = np.tile(np.linspace(0.4, 0.4 + 8 / 255, 1600, dtype=np.float32), (64, 1))[None]
    out = np.empty((64, 1600, 1), np.uint8)
    dithered(ramp, Rect(0, 0, 1600, 64), out)
    plain = np.rint(ramp[0] * 255)
    assert _longest_flat(plain[0]) > 150
    assert max(_longest_flat(row) for row in out[..., 0]) < 40
    columns = out[..., 0].mean(axis=0).reshape(-1, 50).mean(axis=1)  # its mean follows the ramp within a step
    assert np.abs(columns - (ramp[0, 0] * 255).reshape(-1, 50).mean(axis=1)).max() < 0.06


def _longest_flat(row):
    changes = np.flatnonzero(np.diff(row))
    return int(np.diff(np.concatenate([[-1], changes, [len(row) - 1]])).max())


@pytest.mark.parametrize("tone", [0.2014, 0.5003, 0.77])
def test_noise_is_triangular_and_even(tone):
    """Wannamaker, Lipshitz and Vanderkooy 2000: the mean is the tone, the variance a quarter, whatever it is."""
    out = np.empty((700, 700, 1), np.uint8)
    dithered(np.full((1, 700, 700), tone, np.float32), Rect(0, 0, 700, 700), out)
    error = out[..., 0] - np.float64(np.float32(tone)) * 255
    assert abs(error.mean()) < 0.004
    assert error.var() == pytest.approx(0.25, abs=0.01)
    assert np.abs(error).max() <= 1.5
    assert abs(np.corrcoef(error[:, 1:].ravel(), error[:, :-1].ravel())[0, 1]) < 0.01


def test_black_white_and_steps_stay_as_they_are():
    steps = np.arange(256, dtype=np.float32) / np.float32(255)
    out = np.empty((50, 256, 1), np.uint8)
    dithered(np.tile(steps, (50, 1))[None], Rect(0, 0, 256, 50), out)
    assert np.array_equal(out[..., 0], np.tile(np.arange(256), (50, 1)))


def test_dither_does_not_depend_on_how_a_print_is_divided(tmp_path):
    files = []
    for threads, tiled in ((1, False), (3, False)):
        file = tmp_path / f"{threads}.tif"
        export(renderer(), file, Settings(bits=8, tiled=tiled), threads=threads)
        files.append(file.read_bytes())
    assert files[0] == files[1]
    export(renderer(), tmp_path / "tiled.tif", Settings(bits=8, tiled=True))
    assert np.array_equal(tifffile.imread(tmp_path / "tiled.tif"), tifffile.imread(tmp_path / "1.tif"))
    assert np.abs(tifffile.imread(tmp_path / "1.tif") - PIXELS / 257).max() <= 1.5


# Notes

XMP = b"""<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:q="http://quay.example/1/"
 xmlns:tiff="http://ns.adobe.com/tiff/1.0/" tiff:Orientation="6" q:City="Marrow Quay" q:Rating="4">
<dc:rights><rdf:Alt><rdf:li xml:lang="x-default">Dye Works</rdf:li></rdf:Alt></dc:rights>
<dc:subject><rdf:Bag><rdf:li>ferry</rdf:li></rdf:Bag></dc:subject></rdf:Description></rdf:RDF></x:xmpmeta>"""


def photographed(tmp_path, **more):
    """A JPEG on its side, with everything that a camera and a cataloguer write."""
    exif = Image.Exif()
    exif[0x010E], exif[0x010F], exif[0x0110] = "Ferry landing", "Quay Optics", "Q1"
    exif[0x013B], exif[0x8298], exif[0x0112], exif[0x0132] = "The dyers", "Dye Works", 6, "2026:05:14 18:20:05"
    camera = exif.get_ifd(0x8769)
    camera[0x9003], camera[0xA434], camera[0x829A], camera[0x927C] = "2026:05:14 18:20:05", "35 mm", (1, 125), b"own"
    camera[0xA001], camera[0xA002] = 1, 72
    place = exif.get_ifd(0x8825)
    place[1], place[2] = "N", (51.0, 3.0, 20.5)
    file = tmp_path / "landing.jpg"
    Image.fromarray((PIXELS >> 8).astype(np.uint8)).save(file, exif=exif, xmp=XMP, dpi=(240, 240), **more)
    return open_photo(file)


def printed(photo, path, **settings):
    write(Out(photo, Script(), Pictures(photo.path), path, WholePrint(), Settings(**settings)))
    with path.open("rb") as file:
        return read_notes(file)


def test_formats_and_their_endings():
    assert PICTURES == ("tif", "png", "jpg", "webp", "jxl", "avif")  # pictures: a page is none
    for name, word in (("a.TIFF", "tiff"), ("a.jpeg", "jpeg"), ("b.pdf", "pdf"), ("c.jxl", "jpeg-xl")):
        assert format_of(Path(name)).word == word
    with pytest.raises(FileError, match=r"not written as \.bmp"):
        format_of(Path("a.bmp"))
    with pytest.raises(FileError, match="files without an ending"):
        format_of(Path("a"))


def test_a_print_of_a_photograph_without_notes_has_no_empty_ones(tmp_path):
    file = tmp_path / "bare.png"
    Image.fromarray((PIXELS >> 8).astype(np.uint8)).save(file)
    printed(open_photo(file), tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert {700, 33723, 34665, 34853}.isdisjoint(tag.code for tag in tiff.pages[0].tags)
    printed(photographed(tmp_path), tmp_path / "b.tif")
    with tifffile.TiffFile(tmp_path / "b.tif") as tiff:
        assert {700, 34665, 34853} <= {tag.code for tag in tiff.pages[0].tags}


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_notes_go_along(tmp_path, suffix):
    notes = printed(photographed(tmp_path), tmp_path / f"print{suffix}")
    assert notes.about[0x010E] == "Ferry landing"
    assert notes.about[0x8298] == "Dye Works"
    assert notes.about[0x0132] == "2026:05:14 18:20:05"
    assert notes.camera[0xA434] == "35 mm"
    assert float(np.ravel(notes.camera[0x829A])[0]) in (1 / 125, 1.0)
    assert 0x927C not in notes.camera  # the maker's own mean nothing elsewhere
    assert 0xA002 not in notes.camera
    assert notes.place[1] == "N"
    for word in (b"ferry", b"Dye Works", b"City", b"Rating"):
        assert word in notes.xmp
    assert b"Orientation" not in notes.xmp


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_the_print_stands_upright_at_the_photographs_resolution(tmp_path, suffix):
    photo = photographed(tmp_path)
    printed(photo, tmp_path / f"print{suffix}")
    again = open_photo(tmp_path / f"print{suffix}")
    assert (again.width, again.height, again.orientation) == (48, 72, 1)
    if suffix != ".jxl":
        assert again.ppi == pytest.approx(240, abs=0.1)


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_where_it_was_taken_can_be_left_out(tmp_path, suffix):
    notes = printed(photographed(tmp_path), tmp_path / f"print{suffix}", notes="no-place")
    assert notes.place == {}
    assert b"City" not in notes.xmp
    assert b"Marrow Quay" not in (tmp_path / f"print{suffix}").read_bytes()
    assert notes.about[0x0110] == "Q1"
    assert b"ferry" in notes.xmp


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_only_the_rights_or_nothing(tmp_path, suffix):
    photo = photographed(tmp_path)
    notes = printed(photo, tmp_path / f"print{suffix}", notes="rights")
    assert notes.about == {0x013B: "The dyers", 0x8298: "Dye Works"}
    assert (notes.camera, notes.place) == ({}, {})
    assert b"Dye Works" in notes.xmp
    assert b"ferry" not in notes.xmp
    notes = printed(photo, tmp_path / f"print{suffix}", notes="none")
    assert not notes
    assert b"Dye Works" not in (tmp_path / f"print{suffix}").read_bytes()


@pytest.mark.parametrize("suffix", [".jpg", ".webp"])
def test_the_thumbnail_is_the_prints(tmp_path, suffix):
    photo = photographed(tmp_path)
    dark = Script((P["exposure"](exposure=-3.0),))
    file = tmp_path / f"print{suffix}"
    write(Out(photo, dark, Pictures(photo.path), file, WholePrint(), Settings()))
    with Image.open(file) as image:
        block = image.info["exif"].removeprefix(b"Exif\0\0")
        small = image.getexif().get_ifd(ExifTags.IFD.IFD1)
    with Image.open(io.BytesIO(block[small[0x0201] : small[0x0201] + small[0x0202]])) as thumbnail:
        assert max(thumbnail.size) <= 160
        assert thumbnail.size[0] < thumbnail.size[1]
        assert np.asarray(thumbnail).mean() < 60


def test_the_directories_of_a_tiff_are_in_order(tmp_path):
    """TIFF 6.0: entries rise; links point to directories within the file."""
    printed(photographed(tmp_path), tmp_path / "print.tif")
    data = (tmp_path / "print.tif").read_bytes()
    (first,) = struct.unpack_from("<I", data, 4)
    (count,) = struct.unpack_from("<H", data, first)
    tags = [struct.unpack_from("<H", data, first + 2 + 12 * k)[0] for k in range(count)]
    assert tags == sorted(tags)
    assert {34665, 34853, 700} <= set(tags)
    assert not {65000, 65001} & set(tags)
    with Image.open(tmp_path / "print.tif") as image:  # another reader finds them
        assert image.getexif().get_ifd(0x8769)[0xA434] == "35 mm"
        assert image.getexif().get_ifd(0x8825)[1] == "N"


@pytest.mark.parametrize("suffix", SUFFIXES)
def test_iptc_goes_along(tmp_path, suffix):
    """In a TIFF as it is; elsewhere as the XMP that says the same."""
    tiff = tmp_path / "archive.tif"
    records = b"".join(
        struct.pack(">BBBH", 0x1C, 2, number, len(value)) + value
        for number, value in ((25, b"ferry"), (80, b"The dyers"), (90, b"Marrow Quay"), (116, b"Dye Works"))
    )
    tifffile.imwrite(tiff, PIXELS, photometric="rgb", extratags=[(33723, "B", len(records), records, True)])
    photo = open_photo(tiff)
    file = tmp_path / f"print{suffix}"
    notes = printed(photo, file)
    if suffix == ".tif":
        with Image.open(file) as image:
            found = IptcImagePlugin.getiptcinfo(image)
        assert (found[2, 25], found[2, 116], found[2, 90]) == (b"ferry", b"Dye Works", b"Marrow Quay")
        without = printed(photo, file, notes="no-place")
        assert (2, 90, b"Marrow Quay") not in without.iptc
        assert (2, 25, b"ferry") in without.iptc
    else:
        assert b"ferry" in notes.xmp
        assert b"Dye Works" in notes.xmp


@pytest.mark.parametrize(
    "packet",
    [
        b"<x:xmpmeta",
        b"\xff" * 50,
        b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>',
        b"<a/>",
        XMP.replace(b"rdf:RDF", b"rdf:RDX", 1),
    ],
)
def test_damaged_notes_cost_neither_print_nor_safety(tmp_path, packet):
    file = tmp_path / "landing.png"
    Image.fromarray((PIXELS >> 8).astype(np.uint8)).save(file)
    data = file.read_bytes()
    text = b"iTXt" + b"XML:com.adobe.xmp\0\0\0\0\0" + packet
    import zlib

    chunk = struct.pack(">I", len(text) - 4) + text + struct.pack(">I", zlib.crc32(text))
    file.write_bytes(data[:33] + chunk + data[33:])
    notes = printed(open_photo(file), tmp_path / "print.jpg")
    assert b"ENTITY" not in notes.xmp


def test_the_same_print_is_the_same_file(tmp_path):
    photo = photographed(tmp_path)
    for suffix in SUFFIXES:
        files = []
        for name in ("a", "b"):
            printed(photo, tmp_path / f"{name}{suffix}", bits=8)
            files.append((tmp_path / f"{name}{suffix}").read_bytes())
        assert files[0] == files[1], suffix


def test_by_command(tmp_path, capsys):
    photo = photographed(tmp_path)
    target = tmp_path / "a.webp"
    words = ["--profile", "display-p3", "--notes", "rights", "--quality", "90", "--ppi", "200"]
    assert main(["render", str(photo.path), "-o", str(target), *words]) == 0
    again = open_photo(target)
    assert again.source.space is DISPLAY_P3
    assert again.ppi == 200
    assert again.facts.camera == ""
    assert main(["render", str(photo.path), "--out-dir", str(tmp_path), "--format", "jxl", "--bits", "16"]) == 0
    assert (tmp_path / "landing.jxl").exists()
    capsys.readouterr()
    for wrong, said in (
        (["-o", str(tmp_path / "b.webp"), "--bits", "16"], "WebP has 8"),
        (["-o", str(tmp_path / "b.png"), "--bits", "32"], "PNG has 8 or 16"),
        (["-o", str(tmp_path / "b.tif"), "--profile", "rec709"], "rec709"),
    ):
        assert main(["render", str(photo.path), *wrong]) == 2
        assert said in capsys.readouterr().err


def test_jpeg_xl_headers_are_read_back_as_written():
    """Every space, gray and colour, 8 and 16 bits, sizes of both codes; the codec finds the same pixels."""
    for shape in ((40, 57, 3), (64, 256, 3), (33, 20)):
        for dtype in (np.uint8, np.uint16):
            pixels = (make_colourful(shape[0], shape[1], np.uint16) >> (8 if dtype is np.uint8 else 0)).astype(dtype)
            pixels = pixels if len(shape) == 3 else np.ascontiguousarray(pixels[..., 0])
            stream = bytes(imagecodecs.jpegxl_encode(pixels, lossless=True))
            for space in SPACES:
                made = jxl.boxed(jxl.in_space(stream, space, pixels.ndim == 2), dtype is np.uint16, b"II*\0", b"<a/>")
                said = jxl.header(made)
                assert (said.width, said.height) == shape[1::-1]
                if pixels.ndim == 3:
                    assert colour.space_near(said.space.to_d50, said.space.white) is space
                assert jxl.notes(made) == (b"II*\0", b"<a/>")
                assert np.array_equal(imagecodecs.jpegxl_decode(made), pixels)


def test_there_is_nothing_to_carry_where_there_is_nothing(tmp_path):
    file = tmp_path / "plain.png"
    Image.fromarray((PIXELS >> 8).astype(np.uint8)).save(file)
    with file.open("rb") as data:
        notes = read_notes(data)
    assert not notes
    assert xmp_of(NOTHING) == b""


def test_a_photograph_without_notes_gives_a_tiff_without_directories_for_them(tmp_path):
    export(renderer(), tmp_path / "print.tif", Settings())
    with tifffile.TiffFile(tmp_path / "print.tif") as tiff:
        assert not {34665, 34853, 700, 33723} & set(tiff.pages[0].tags.keys())


def test_notes_too_long_for_a_jpeg_are_told_and_do_not_hold_it_up(tmp_path):
    file = tmp_path / "landing.png"
    packet = PngImagePlugin.PngInfo()
    packet.add_itxt("XML:com.adobe.xmp", XMP.replace(b"ferry", b"ferry " * 12_000).decode())
    Image.fromarray((PIXELS >> 8).astype(np.uint8)).save(file, pnginfo=packet)
    photo = open_photo(file)
    for ending, said in ((".jpg", ("XMP, too long for a JPEG",)), (".tif", ())):
        target = tmp_path / f"print{ending}"
        made = write(Out(photo, Script(), Pictures(photo.path), target, WholePrint(), Settings()))
        assert tuple(remark.rpartition(": ")[2] for remark in made.remarks) == said
        with Image.open(target) as image:
            assert image.size == (48, 72)  # the packet says that it lies on its side
            assert ("xmp" in image.info) == (not said)


@pytest.mark.parametrize(("suffix", "begins"), [(".jpg", None), (".webp", b"II"), (".avif", b"II")])
def test_without_notes_a_jpeg_has_no_exif_and_others_only_their_resolution(tmp_path, suffix, begins):
    export(renderer(), tmp_path / f"print{suffix}", Settings(ppi=240))
    with Image.open(tmp_path / f"print{suffix}") as image:
        found = image.info.get("exif")
        assert (found[:2] if found else None) in (begins, b"MM" if begins else None)
        assert float(image.getexif().get(282, 240)) == 240


def test_pages_are_no_pictures_to_choose_for_prints_without_a_name():
    assert PICTURES == ("tif", "png", "jpg", "webp", "jxl", "avif")
    assert format_of(Path("a.TIFF")).word == "tiff"
    with pytest.raises(FileError, match=r"End the name in \.tif, \.png, \.jpg, \.webp, \.jxl, \.avif or \.pdf"):
        format_of(Path("a.gif"))


def test_a_webp_of_the_highest_quality_is_without_loss(tmp_path):
    file = tmp_path / "landing.png"
    Image.fromarray((PIXELS >> 8).astype(np.uint8)).save(file)
    exact = {}
    for quality in (99, 100):
        printed(open_photo(file), tmp_path / f"{quality}.webp", quality=quality)
        with Image.open(tmp_path / f"{quality}.webp") as image:
            exact[quality] = np.array_equal(np.asarray(image), PIXELS >> 8)
    assert exact == {99: False, 100: True}
