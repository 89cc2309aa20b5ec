"""What a photograph's file says of itself: told by command, on the slip, and never more than a short line."""

import io
import json
import struct

import imagecodecs
import numpy as np
import pytest
import simplejpeg
import tifffile
from PIL import Image

from kyanoscript.cli import main
from kyanoscript.core.picture import Rect
from kyanoscript.core.quoting import words
from kyanoscript.files.photos.facts import Facts, facts_of
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pixels import upright
from tests.conftest import make_colourful

RGB = make_colourful(30, 40)
WIDE = bytes(imagecodecs.cms_profile("adobergb"))


def notes(make="Marrow Optical", model="Ferry 2"):
    exif = Image.Exif()
    exif[0x010F], exif[0x0110], exif[0x0132], exif[0x0112] = make, model, "2026:05:15 08:00:00", 6
    exif.get_ifd(0x8769).update({0x9003: "2026:05:14 18:20:05", 0xA434: "Ferry 50 mm"})
    return exif


def made(tmp_path, kind, name="landing.bin", **options):
    file = tmp_path / name
    Image.fromarray(RGB).save(file, kind, **options)
    return file


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP", "AVIF"])
def test_camera_lens_date_and_profile_are_read(tmp_path, kind):
    """Exif 2.32 (CIPA DC-008) as Pillow writes it."""
    facts = open_photo(made(tmp_path, kind, exif=notes(), icc_profile=WIDE)).facts
    assert facts.camera == "Marrow Optical Ferry 2"
    assert facts.lens == "Ferry 50 mm"
    assert facts.date == "2026-05-14 18:20:05"
    assert facts.profile
    assert facts.pages == 1
    assert open_photo(made(tmp_path, kind)).facts == Facts()


@pytest.mark.parametrize("hold", [True, False])
def test_a_tiffs_own_tags_and_those_of_its_camera_are_read(tmp_path, hold):
    """TIFF 6.0: 271, 272, 306; Exif's own directory, reached by 34665, is put behind the file."""
    file = tmp_path / "landing.tif"
    tags = [
        (271, "s", 0, "Marrow Optical", True),
        (272, "s", 0, "Ferry 2", True),
        (306, "s", 0, "2026:05:15 08:00:00", True),
    ]
    tifffile.imwrite(file, RGB, photometric="rgb", extratags=[*tags, (65000, "I", 1, 0, True)], metadata=None)
    facts = open_photo(file, hold=hold).facts
    assert (facts.camera, facts.date, facts.lens) == ("Marrow Optical Ferry 2", "2026-05-15 08:00:00", "")
    data = bytearray(file.read_bytes())
    with tifffile.TiffFile(file) as tiff:
        at = tiff.pages[0].tags[65000].offset
    data[at : at + 12] = struct.pack("<HHII", 34665, 4, 1, len(data))  # the library does not write that tag
    lens, date = b"Ferry 50 mm\0", b"2026:05:14 18:20:05\0"
    first = len(data) + 2 + 2 * 12 + 4
    entries = struct.pack("<HHHIIHHIII", 2, 0x9003, 2, len(date), first, 0xA434, 2, len(lens), first + len(date), 0)
    file.write_bytes(bytes(data) + entries + date + lens)
    facts = open_photo(file, hold=hold).facts
    assert (facts.camera, facts.date, facts.lens) == ("Marrow Optical Ferry 2", "2026-05-14 18:20:05", "Ferry 50 mm")


def test_a_model_that_names_its_maker_is_said_once():
    assert facts_of({0x010F: "Marrow", 0x0110: "MARROW Ferry 2"}, {}, None, 1).camera == "MARROW Ferry 2"
    assert facts_of({0x0110: "Ferry 2"}, {}, None, 1).camera == "Ferry 2"
    assert facts_of({0x010F: "Marrow"}, {}, None, 1).camera == "Marrow"


def test_the_date_of_the_file_counts_where_the_camera_gave_none():
    assert facts_of({0x0132: "2026:05:15 08:00:00"}, {}, None, 1).date == "2026-05-15 08:00:00"
    assert facts_of({0x0132: "in May"}, {}, None, 1).date == "in May"


@pytest.mark.parametrize("value", ["a\nb\x1b[31m\tc", b"a\nb\x1b[31m c\0rest", "a\r\n\r\nb [31m c"])
def test_words_of_a_file_are_one_line_without_control_characters(value):
    assert words(value).replace("[31m", "").split() == ["a", "b", "c"]
    assert words(value).isprintable()


def test_words_of_a_file_are_short_and_other_values_none():
    assert len(words("x" * 5000)) == 80
    for value in (None, 7, (1, 2), b"", "\0\0", float("nan")):
        assert words(value) == ""


@pytest.mark.filterwarnings("ignore::UserWarning:PIL")  # as the program has it
def test_damaged_notes_leave_the_pixels_alone(tmp_path):
    out = io.BytesIO()
    Image.fromarray(RGB).save(out, "JPEG", exif=notes())
    data = out.getvalue()
    at = data.index(b"Exif\0\0") + 6
    sound = simplejpeg.decode_jpeg(data, "RGB")
    for k in range(0, 150, 3):
        file = tmp_path / "landing.jpg"
        file.write_bytes(data[: at + k] + b"\xff\xfe\xff" + data[at + k + 3 :])
        photo = open_photo(file)
        seen = photo.source.window(Rect(0, 0, photo.width, photo.height))
        assert np.array_equal(seen, upright(sound, photo.orientation))
        assert all(isinstance(value, str) and len(value) <= 80 for value in (photo.facts.camera, photo.facts.date))


def test_pages_are_counted(tmp_path):
    file = tmp_path / "pages.tif"
    with tifffile.TiffWriter(file) as tiff:
        for _ in range(3):
            tiff.write(RGB, photometric="rgb")
    assert open_photo(file).facts.pages == 3
    assert open_photo(file, hold=False).facts.pages == 3
    more = [Image.fromarray(RGB[::-1])]
    assert open_photo(made(tmp_path, "GIF", save_all=True, append_images=more)).facts.pages == 2


def test_info_tells_a_person(tmp_path, capsys):
    file = made(tmp_path, "JPEG", exif=notes(), icc_profile=WIDE, dpi=(240, 240))
    assert main(["info", str(file)]) == 0
    rows = dict(line.split(maxsplit=1) for line in capsys.readouterr().out.splitlines())
    assert rows["pixels"].startswith("30 × 40")
    assert rows["kind"] == "8-bit RGB JPEG"
    assert rows["colours"].startswith("Profile ")
    assert rows["camera"] == "Marrow Optical Ferry 2"
    assert rows["resolution"] == "240 pixels per inch"
    assert rows["on"] == "opening  Turned upright (orientation 6)"


def test_info_tells_a_program(tmp_path, capsys):
    file = tmp_path / "vat.tif"
    clear = np.dstack([make_colourful(30, 40, np.uint16), np.zeros((30, 40), np.uint16)])
    tifffile.imwrite(file, clear, photometric="rgb", extrasamples=["unassalpha"])
    assert main(["info", str(file), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert (found["width"], found["height"], found["bits"], found["channels"], found["float"]) == (40, 30, 16, 3, False)
    assert found["profile"] is None
    assert found["on opening"] == ["Transparent parts lie on white paper"]
    tifffile.imwrite(file, np.zeros((30, 40), np.float32))
    assert main(["info", str(file), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert (found["bits"], found["float"], found["channels"]) == (32, True, 1)


def test_info_of_what_is_no_picture_is_one_line(tmp_path, capsys):
    file = tmp_path / "letter.txt"
    file.write_text("Dear reader")
    for words_ in (["info", str(file)], ["info", str(tmp_path)], ["info", str(tmp_path / "gone.tif"), "--json"]):
        assert main(words_) == 2
        told = capsys.readouterr()
        assert told.out == ""
        assert told.err.count("\n") == 1
