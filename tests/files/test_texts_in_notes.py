"""Whatever a photograph's EXIF holds, its print is written, and what can go along does.

Blocks are put together here byte by byte (TIFF 6.0, part 2; Exif 2.32, 4.6), so that they hold what no library writes.
"""

import struct

import numpy as np
import pytest
import tifffile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.whole import WholePrint

# The program does not pass on what the library says to those who write it.
pytestmark = pytest.mark.filterwarnings("ignore::UserWarning:PIL")
SIZES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8}  # bytes of a value of each type
ABOUT = [0x010E, 0x010F, 0x0110, 0x0132, 0x013B, 0x8298, 0x4746, *range(0x9C9B, 0x9CA0)]
CAMERA = [0x829A, 0x829D, 0x8827, 0x9000, 0x9003, 0x9004, 0x920A, 0x9286, 0x9290, 0xA300, 0xA420, 0xA430, 0xA433,
          0xA434, 0xC0DE]  # fmt: skip
PLACE = [0, 1, 2, 3, 4, 7, 0x10, 0x12, 0x1B, 0x1C, 0x1D, 0x7777]
FORMATS = ("tif", "png", "jpg", "webp", "jxl", "avif")


def directory(fields, at):
    """A directory that lies at a place of the block, with its values behind it."""
    head, values = struct.pack("<H", len(fields)), b""
    behind = at + 2 + 12 * len(fields) + 4
    for tag, kind, data in sorted(fields, key=lambda field: field[0]):
        count = len(data) // SIZES[kind]
        if len(data) <= 4:
            head += struct.pack("<HHI", tag, kind, count) + data.ljust(4, b"\0")
        else:
            head += struct.pack("<HHII", tag, kind, count, behind + len(values))
            values += data + bytes(len(data) % 2)
    return head + bytes(4) + values


def block(about, camera=(), place=()):
    """An EXIF block of three directories."""
    links = [(tag, 4, bytes(4)) for tag, fields in ((0x8769, camera), (0x8825, place)) if fields]
    first = directory([*about, *links], 8)
    made, at = [], 8 + len(first)
    for fields in (camera, place):
        if fields:
            made.append((at, directory(fields, at)))
            at += len(made[-1][1])
    links = [(tag, 4, struct.pack("<I", where)) for (tag, _, _), (where, _) in zip(links, made, strict=True)]
    return b"II*\0" + struct.pack("<I", 8) + directory([*about, *links], 8) + b"".join(data for _, data in made)


def printed(tmp_path, exif, ending):
    """The print of a photograph with this block: its file, and what was remarked."""
    file = tmp_path / "landing.jpg"
    Image.fromarray(np.full((24, 32, 3), 90, np.uint8)).save(file, exif=b"Exif\0\0" + exif)
    photo, target = open_photo(file), tmp_path / f"print.{ending}"
    return target, write(Out(photo, Script(), Pictures(file), target, WholePrint(), Settings())).remarks


WORDS = {
    "ASCII": b"Ferry office, Marrow Quay",
    "Latin-1": "© Fährhaus Été".encode("latin-1"),
    "UTF-8": "© 渡し場 Été".encode(),
    "UTF-16": "渡し場".encode("utf-16"),
    "broken": b"\xff\xfe\xc3(\x80 quay",
    "not ended": b"quay",
    "empty": b"",
}


@pytest.mark.parametrize("ending", FORMATS)
@pytest.mark.parametrize("coding", WORDS)
def test_text_in_any_coding_goes_along_as_it_was(tmp_path, ending, coding):
    words = WORDS[coding] + (b"" if coding == "not ended" else b"\0")
    about = [(tag, 2, words) for tag in (0x010E, 0x010F, 0x013B, 0x8298)]
    target, said = printed(tmp_path, block(about, [(0xA434, 2, words)]), ending)
    assert said == ()
    if ending in ("jxl", "avif"):
        assert WORDS[coding].rstrip(b"\0") in target.read_bytes()
        return
    with Image.open(target) as image:
        found = image.getexif()
        for tag in (0x010F, 0x013B, 0x8298):
            assert found[tag].encode("latin-1").rstrip(b"\0") == WORDS[coding].split(b"\0")[0]
        lens = found.get_ifd(0x8769)[0xA434]
        assert lens.encode("latin-1").rstrip(b"\0") == WORDS[coding].split(b"\0")[0]


@pytest.mark.parametrize("date", [b"2026:05:15\0", b"2026\0", b"    :  :     :  :  \0", b"\0", b"Friday\xe9\0"])
def test_a_date_without_a_time_is_a_date_all_the_same(tmp_path, date):
    target, said = printed(tmp_path, block([(0x0132, 2, date), (0x013B, 2, b"The dye works\0")]), "tif")
    assert said == ()
    with tifffile.TiffFile(target) as tiff:
        assert tiff.pages[0].tags[0x013B].value == "The dye works"
        assert tiff.pages[0].asarray().shape == (24, 32, 3)


def test_what_cannot_go_along_is_said_and_the_rest_does(tmp_path):
    """A title as text, where bytes belong; and an exposure time that is a word goes along as that."""
    about = [(0x8298, 2, "© Marrow Quay\0".encode()), (0x9C9B, 2, b"The dye works\0")]
    target, said = printed(tmp_path, block(about, [(0x829A, 2, b"short\0"), (0x8827, 3, b"\x90\x01")]), "tif")
    assert said == ("of the photograph's notes these could not go along: XPTitle",)
    with Image.open(target) as image:
        assert 0x9C9B not in image.getexif()
        assert image.getexif()[0x8298].encode("latin-1").decode() == "© Marrow Quay"
        camera = image.getexif().get_ifd(0x8769)
        assert (camera[0x8827], camera[0x829A]) == (400, "short")


@pytest.mark.parametrize("kind", sorted(SIZES))
def test_a_maker_that_is_no_word_is_no_damage(tmp_path, kind):
    """Any kind of value in the fields that the program itself reads."""
    data = bytes(range(1, 1 + 2 * SIZES[kind]))
    fields = [(tag, kind, data) for tag in (0x010F, 0x0110, 0x0132)]
    exif = block(fields, [(0x9003, kind, data), (0xA434, kind, data)])
    target, _ = printed(tmp_path, exif, "tif")
    assert target.exists()


texts = st.one_of(
    st.text(st.characters(max_codepoint=127), max_size=40).map(str.encode),
    st.text(st.characters(max_codepoint=255), max_size=40).map(lambda text: text.encode("latin-1")),
    st.text(max_size=40).map(lambda text: text.encode("utf-8", "surrogatepass")),
    st.text(max_size=20).map(lambda text: text.encode("utf-16", "surrogatepass")),
    st.binary(max_size=60),
)


def fields(tags):
    whole = st.sampled_from(sorted(SIZES)).flatmap(
        lambda kind: texts.map(lambda data: (kind, data[: len(data) // SIZES[kind] * SIZES[kind]]))
    )
    one = st.tuples(st.sampled_from(tags), st.one_of(texts.map(lambda data: (2, data)), whole))
    return st.lists(one, max_size=4, unique_by=lambda field: field[0]).map(
        lambda made: [(tag, kind, data) for tag, (kind, data) in made]
    )


@settings(max_examples=300, suppress_health_check=list(HealthCheck))
@given(about=fields(ABOUT), camera=fields(CAMERA), place=fields(PLACE), ending=st.sampled_from(FORMATS))
def test_the_print_is_always_written(tmp_path_factory, about, camera, place, ending):
    target, said = printed(tmp_path_factory.mktemp("any"), block(about, camera, place), ending)
    photo = open_photo(target)  # and is a photograph again: even gray
    assert (photo.width, photo.height) == (32, 24)
    pixels = np.asarray(photo.source.window(Rect(0, 0, 32, 24)), float)
    assert np.abs(pixels / (255 if pixels.max() < 256 else 65535) - 90 / 255).max() < 0.01
    assert all(remark.startswith("of the photograph's notes") for remark in said)
