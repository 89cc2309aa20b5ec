"""Damaged, mislabelled and hostile files: one clear line, and nothing else happens."""

import errno
import io
import os
import struct
import zipfile
import zlib

import numpy as np
import pytest
import tifffile
from PIL import Image

from kyanoscript.core.picture import Rect
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.scriptfile import MIMETYPE, read_script
from kyanoscript.files.photos.photo import open_photo
from tests.conftest import make_colourful

PIXELS = make_colourful(80, 120)


def encoded(kind, **options):
    buffer = io.BytesIO()
    Image.fromarray(PIXELS).save(buffer, kind, **options)
    return buffer.getvalue()


def refuse(path, *words):
    """The message of the refusal: one line that names the file and the trouble."""
    with pytest.raises(FileError) as caught:
        open_photo(path)
    message = str(caught.value)
    assert "\n" not in message
    assert path.name in message
    for part in words:
        assert part in message
    return message


def written(tmp_path, name, data):
    file = tmp_path / name
    file.write_bytes(data)
    return file


def test_empty(tmp_path):
    refuse(written(tmp_path, "empty.jpg", b""), "empty")


def test_missing_and_folder(tmp_path):
    refuse(tmp_path / "nothing.jpg", "no such file")
    refuse(tmp_path, "folder")


def test_unreadable(tmp_path, monkeypatch):
    file = written(tmp_path, "locked.jpg", encoded("JPEG"))
    file.chmod(0)
    if os.getuid() == 0:  # whom no permission holds back: the system's answer is given for it

        def locked(*_args, **_more):
            raise PermissionError(errno.EACCES, "Permission denied")

        monkeypatch.setattr(os, "open", locked)
    refuse(file, "not allowed")


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "TIFF"])
@pytest.mark.parametrize("share", [0.02, 0.3, 0.7, 0.95])
def test_cut_short(tmp_path, kind, share):
    data = encoded(kind)
    refuse(written(tmp_path, "short.img", data[: max(17, int(len(data) * share))]))


@pytest.mark.parametrize("name", ["words.jpg", "words.png", "words.tif"])
def test_words_named_as_a_picture(tmp_path, name):
    refuse(written(tmp_path, name, b"Dear reader, this is a letter and no picture."), "JPEG, PNG, TIFF")


@pytest.mark.parametrize("head", [b"\xff\xd8\xff\xe0", b"\x89PNG\r\n\x1a\n", b"II*\0", b"MM\0*"])
def test_only_the_first_bytes_are_right(tmp_path, head):
    refuse(written(tmp_path, "head.img", head + os.urandom(3000)))


def test_inks_that_are_not_those_of_a_press_say_what_to_do(tmp_path):
    file = tmp_path / "press.tif"
    tifffile.imwrite(file, np.zeros((8, 8, 4), np.uint8), photometric="separated", extratags=[(332, "H", 1, 2, True)])
    refuse(file, "inks", "Save it as RGB")
    tifffile.imwrite(file, np.zeros((8, 8, 6), np.uint8), photometric="separated")
    refuse(file, "inks", "Save it as RGB")


def test_tiff_of_a_kind_that_is_no_picture_says_what_to_do(tmp_path):
    file = tmp_path / "waves.tif"
    tifffile.imwrite(file, np.zeros((8, 8), np.complex64))
    refuse(file, "complex64", "16-bit")


def png_header(width, height, body=b""):
    def chunk(name, data):
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    header = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
    return b"\x89PNG\r\n\x1a\n" + header + chunk(b"IDAT", zlib.compress(body)) + chunk(b"IEND", b"")


@pytest.mark.parametrize("side", [40_000, 20_000])
def test_a_huge_header_on_a_tiny_file_costs_no_memory(tmp_path, side):
    """The size is refused before anything of it is set aside."""
    import resource

    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    refuse(written(tmp_path, "bomb.png", png_header(side, side)), f"{side} × {side}")
    jpeg = bytearray(encoded("JPEG"))
    at = jpeg.index(b"\xff\xc0")
    jpeg[at + 5 : at + 9] = struct.pack(">HH", side, side)
    refuse(written(tmp_path, "bomb.jpg", bytes(jpeg)), f"{side} × {side}")
    file = tmp_path / "bomb.tif"
    tifffile.imwrite(file, np.zeros((4, 4), np.uint8), extratags=[])
    data = bytearray(file.read_bytes())
    with tifffile.TiffFile(file) as tiff:
        for tag, value in ((256, side), (257, side)):
            data[tiff.pages[0].tags[tag].valueoffset : tiff.pages[0].tags[tag].valueoffset + 4] = (
                struct.pack("<I", value) if tiff.pages[0].tags[tag].dtype == 4 else struct.pack("<HH", side, 0)
            )
    refuse(written(tmp_path, "bomb2.tif", bytes(data)), f"{side} × {side}")
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 100_000  # kB


def test_a_tiff_whose_strips_lie_beyond_the_file(tmp_path):
    file = tmp_path / "beyond.tif"
    tifffile.imwrite(file, PIXELS, photometric="rgb")
    data = file.read_bytes()
    cut = written(tmp_path, "cut.tif", data[:-500])
    refuse(cut)
    opened = open_photo(cut, hold=False)  # its first rows are there
    with pytest.raises(FileError, match="cut short"):
        opened.source.window(Rect(0, 0, opened.width, opened.height))


# Script files


def complain(path, *words):
    with pytest.raises(FileError) as caught:
        read_script(path)
    assert "\n" not in str(caught.value)
    for part in (path.name, *words):
        assert part in str(caught.value)


def archive(tmp_path, name="broken.kyano", **entries):
    file = tmp_path / name
    with zipfile.ZipFile(file, "w") as made:
        for entry, data in entries.items():
            made.writestr(entry.replace("_", "."), data)
    return file


def test_script_files_that_are_none(tmp_path):
    complain(tmp_path / "nothing.kyano", "no such file")
    complain(written(tmp_path, "empty.json", b""), "empty")
    complain(written(tmp_path, "words.json", b"Dear reader"), "not a script")
    complain(written(tmp_path, "picture.kyano", encoded("PNG")), "not a script")
    complain(written(tmp_path, "zip.kyano", b"PK\x03\x04" + os.urandom(500)), "damaged")
    complain(archive(tmp_path, mimetype="application/x-other"), "not a Kyanoscript script")
    complain(archive(tmp_path, other="x"), "not a whole script file")
    complain(archive(tmp_path, mimetype=MIMETYPE, script_json='{"kyanoscript": 9}'), "newer")


def test_an_entry_that_unpacks_to_a_flood_is_refused(tmp_path):
    file = tmp_path / "flood.kyano"
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("mimetype", MIMETYPE)
        made.writestr("script.json", " " * (65 << 20))
    assert file.stat().st_size < 1 << 20
    complain(file, "too long")


def test_nothing_in_an_archive_is_ever_unpacked(tmp_path):
    file = tmp_path / "slip.kyano"
    with zipfile.ZipFile(file, "w") as made:
        made.writestr("mimetype", MIMETYPE)
        made.writestr("script.json", '{"kyanoscript": 1}')
        made.writestr("../../escaped.txt", "x")
    assert read_script(file).script.passes == ()
    assert not (tmp_path.parent / "escaped.txt").exists()
    assert sorted(p.name for p in tmp_path.iterdir()) == ["slip.kyano"]
