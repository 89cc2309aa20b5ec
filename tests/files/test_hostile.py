"""Files from strangers and from bad luck: what is no file, what only looks sound, what must never be written over.

Longer than most: every kind of bad luck, short and by itself.
"""

import fcntl
import json
import os
import stat
import struct
import subprocess
import sys
import warnings
import zipfile
import zlib

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image

from kyanoscript import demo
from kyanoscript.core.colour import BT2020, OPRGB, to_encoded
from kyanoscript.core.picture import Rect, read
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import MOST_PASSES, Script, ScriptError, from_json, loads, with_value
from kyanoscript.files.base import replace
from kyanoscript.files.base.errors import DOUBT, ChangedOnDisk, FileError
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.kept.recipes import read_recipe
from kyanoscript.files.kept.scriptfile import MIMETYPE, PhotoRef, read_script, write_script
from kyanoscript.files.kept.trust import allow, outside
from kyanoscript.files.photos.photo import check_size, open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.settings import Settings
from tests.conftest import make_colourful

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # the library warns about optional packages while it is imported
    import colour as science

PIXELS = make_colourful(48, 72)


@pytest.fixture(autouse=True)
def _state(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))


def rows_of(photo):
    return photo.source.window(Rect(0, 0, photo.width, photo.height))


# What is no plain file


@pytest.mark.parametrize("reader", [open_photo, read_script, read_recipe, sha256])
def test_pipes_and_devices_are_refused_at_once(tmp_path, reader):
    """A pipe that nobody writes into would be waited for, for ever."""
    pipe = tmp_path / "pipe.png"
    os.mkfifo(pipe)
    for path, words in ((pipe, "pipe"), (tmp_path, "folder"), (tmp_path / "a\0b", "no file can have")):
        with pytest.raises(FileError, match=words):
            reader(path)
    with pytest.raises(FileError, match="device"):
        reader(demo.photo().__class__("/dev/zero"))


def test_a_plate_that_names_a_pipe_or_no_possible_file_is_refused(tmp_path):
    os.mkfifo(tmp_path / "pipe.png")
    library = Pictures(tmp_path / "photo.png", tmp_path / "s.json")
    for name in ("pipe.png", "a\0b.png", "\ud800.png", "x" * 5000 + ".png", "/dev/zero", "/dev/stdin"):
        with pytest.raises(FileError) as caught:
            library.open(name)
        assert len(str(caught.value)) < 200
        assert library.find(name) is None


# What only looks sound


def test_one_flipped_bit_in_a_png_is_refused_or_changes_nothing(tmp_path):
    """Every bit of the packed pixels is protected by a check sum (W3C PNG, 5.3)."""
    file = tmp_path / "landing.png"
    Image.fromarray(make_colourful(200, 300)).save(file)
    sound, data = rows_of(open_photo(file)), file.read_bytes()
    for at in np.linspace(60, len(data) - 20, 40).astype(int):
        flipped = bytearray(data)
        flipped[at] ^= 8
        file.write_bytes(flipped)
        try:
            opened = rows_of(open_photo(file))
        except FileError:
            continue
        assert np.array_equal(opened, sound)


def test_doubt_about_a_jpeg_is_said(tmp_path):
    """The decoder goes on where entropy-coded data makes no sense, and only warns."""
    file = tmp_path / "landing.jpg"
    Image.fromarray(make_colourful(200, 300)).save(file, quality=92)
    data = file.read_bytes()
    assert open_photo(file).notes == ()
    start = data.index(b"\xff\xda") + 60
    file.write_bytes(data[:start] + data[start + 80 :])
    assert open_photo(file).notes == (DOUBT,)


@pytest.mark.parametrize("options", [{}, {"progressive": True}, {"subsampling": 0}, {"restart_marker_blocks": 4}])
@pytest.mark.parametrize("mode", ["RGB", "L"])
def test_a_jpeg_is_decoded_as_pillow_does(tmp_path, mode, options):
    file = tmp_path / "landing.jpg"
    Image.fromarray(PIXELS).convert(mode).save(file, quality=90, **options)
    with Image.open(file) as image:
        wanted = np.asarray(image)
    assert np.array_equal(rows_of(open_photo(file)).squeeze(), wanted)


@pytest.mark.parametrize("compression", ["zlib", "lzw", "lzma", "jpeg", "webp", "zstd", "packbits"])
@pytest.mark.parametrize("hold", [True, False])
def test_a_damaged_tiff_is_one_clear_error_however_it_is_read(tmp_path, compression, hold):
    file = tmp_path / "landing.tif"
    tifffile.imwrite(file, make_colourful(160, 96), photometric="rgb", compression=compression, rowsperstrip=16)
    with tifffile.TiffFile(file) as tiff:
        places = list(zip(tiff.pages.first.dataoffsets, tiff.pages.first.databytecounts, strict=True))
    data, refused = file.read_bytes(), 0
    rng = np.random.default_rng(5)
    for offset, count in places[1:]:
        broken = bytearray(data)
        broken[offset : offset + count] = rng.bytes(count)
        file.write_bytes(broken)
        said = ""
        try:
            rows_of(open_photo(file, hold))
        except FileError as error:
            refused, said = refused + 1, str(error)
        assert not said or ("damaged" in said and "landing.tif" in said)
    assert refused or compression == "packbits"  # whose every byte means something


def _float_with_profile(tmp_path, pixels, columns=None):
    wide = bytearray(imagecodecs.cms_profile("adobergb"))
    for name, xyz in (columns or {}).items():
        for k in range(struct.unpack(">I", wide[128:132])[0]):
            at = 132 + 12 * k
            if wide[at : at + 4] == name:
                offset = struct.unpack(">I", wide[at + 4 : at + 8])[0]
                wide[offset + 8 : offset + 20] = struct.pack(">iii", *(int(v * 65536) for v in xyz))
    file = tmp_path / "wide.tif"
    tifffile.imwrite(file, pixels, photometric="rgb", iccprofile=bytes(wide))
    return file


def test_a_wide_gamut_float_tiff_is_as_its_twin(tmp_path):
    """As its 16-bit twin within a step of 8 bits, and every value a number."""
    pixels = make_colourful(80, 120, np.uint16)
    wide = bytes(imagecodecs.cms_profile("adobergb"))
    twin = tmp_path / "twin.tif"
    tifffile.imwrite(twin, pixels, photometric="rgb", iccprofile=wide)
    floats = open_photo(_float_with_profile(tmp_path, (pixels / 65535).astype(np.float32)))
    found, wanted = rows_of(floats), rows_of(open_photo(twin))
    assert np.isfinite(found).all()
    assert floats.source.space == OPRGB
    assert np.abs(found - wanted).max() < 1 / 255
    assert np.abs(found - wanted).mean() < 0.1 / 255


def test_a_profile_that_throws_colours_far_out_harms_nothing(tmp_path):
    """Reducing once looked values up in a table; one beyond it read whatever lay behind."""
    far = dict.fromkeys((b"rXYZ", b"gXYZ", b"bXYZ"), (30_000, 30_000, 30_000))
    photo = open_photo(_float_with_profile(tmp_path, (PIXELS / 255).astype(np.float32), far))
    small = read(photo.source, Rect(0, 0, 18, 12), 0.25)
    assert np.isfinite(small).all()


def test_any_float_harms_nothing():
    """NaN, infinities and values far outside, straight into the kernel, in a process of its own."""
    code = """
import numpy as np
from kyanoscript.core.picture import ArraySource, Rect, read
from kyanoscript.core.tones import apply, through
from kyanoscript.core.passes.toning.gradient_map import SIZE, map_tones
wild = np.array([np.nan, np.inf, -np.inf, 1e30, -1e30, 3e9, -3e9, 0.5] * 512, np.float32)
assert read(ArraySource(wild.reshape(64, 64)), Rect(0, 0, 16, 16), 0.25).shape == (1, 16, 16)
straight = [through(((0, 0), (255, 255)))]
apply(wild.reshape(1, 64, 64), straight, straight)
map_tones(wild, np.empty((3, wild.size), np.float32), wild.size, np.zeros((3, SIZE), np.float32), SIZE)
print("alive")
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert done.stdout.strip() == "alive", (done.returncode, done.stderr)


# Kinds of TIFF


def test_of_several_pages_the_first_is_opened_and_their_number_told(tmp_path):
    file = tmp_path / "pages.tif"
    with tifffile.TiffWriter(file) as tiff:
        for k in range(3):
            tiff.write(PIXELS // (k + 1), photometric="rgb")
    photo = open_photo(file)
    assert np.array_equal(rows_of(photo), PIXELS)
    assert photo.notes == ("It has 3 pages; this is the first",)


@pytest.mark.parametrize("hold", [True, False])
@pytest.mark.parametrize("packing", ["group3", "group4", "tiff_deflate", "packbits", "raw"])
def test_a_scan_of_one_bit_is_opened_at_its_full_size(tmp_path, packing, hold):
    """Fax packings (ITU-T T.4, T.6) make a nearly white page of 35 megapixels a few kilobytes."""
    page = np.ones((7016, 4960), bool)
    page[3000:3040, 400:4000] = False
    file = tmp_path / "scan.tif"
    Image.fromarray(page).save(file, compression=packing if packing != "raw" else None)
    photo = open_photo(file, hold)
    assert (photo.width, photo.height, photo.kind) == (4960, 7016, "1-bit gray TIFF")
    part = photo.source.window(Rect(390, 2990, 40, 40))[..., 0]
    assert np.array_equal(part, np.where(page[2990:3030, 390:430], 255, 0))


def test_a_tiff_of_two_gigapixels_is_read_as_it_is_needed(tmp_path):
    """A file with a hole in it: only its last pixels are on the disk. Of what is held as a whole 1000 are the most."""
    file = tmp_path / "river.tif"
    pixels = tifffile.memmap(file, shape=(36_000, 56_000), dtype=np.uint8, photometric="minisblack", bigtiff=True)
    pixels[-2:, -3:] = [[1, 2, 3], [4, 5, 6]]
    pixels.flush()
    del pixels
    photo = open_photo(file)
    assert (photo.width, photo.height) == (56_000, 36_000)
    part = photo.source.window(Rect(56_000 - 4, 36_000 - 2, 4, 2))[..., 0]
    assert part.tolist() == [[0, 1, 2, 3], [0, 4, 5, 6]]
    check_size(file, 56_000, 36_000, 1, 1 << 40, 1.0)
    for pixels, each, most in ((2000, 1, 1000), (4001, 0, 4000)):
        with pytest.raises(FileError, match=f"more than the {most} megapixels that can be opened"):
            check_size(file, pixels * 1000, 1000, 1, 1 << 40, 1.0, each)


@pytest.mark.parametrize("hold", [True, False])
@pytest.mark.parametrize(("dtype", "kind"), [("i1", "u1"), ("i2", "u2"), ("i4", "u2"), ("u4", "u2")])
def test_signed_and_wide_integers_keep_their_scale(tmp_path, dtype, kind, hold):
    """Lowest value black, highest white, the middle between them."""
    info = np.iinfo(dtype)
    values = np.array([[info.min, info.min // 2 + info.max // 2 + 1, info.max]], dtype).repeat(4, 0)
    file = tmp_path / "counts.tif"
    tifffile.imwrite(file, values, photometric="minisblack")
    found = rows_of(open_photo(file, hold))[0, :, 0]
    top = np.iinfo(kind).max
    assert found.dtype == kind
    assert found.tolist() == [0, top // 2 + 1, top]


@pytest.mark.parametrize("bits", [8, 16])
def test_cielab_is_what_colour_science_makes_of_it(tmp_path, bits):
    """TIFF 6.0, section 23: L* unsigned, a* and b* signed; D50 adapted to D65 by Bradford; into BT.2020."""
    rng = np.random.default_rng(2)
    lab = np.stack([rng.uniform(25, 80, 96), *rng.uniform(-25, 25, (2, 96))], -1).reshape(8, 12, 3)
    top, step = (255, 1) if bits == 8 else (65535, 256)
    stored = np.empty(lab.shape, f"u{bits // 8}")
    stored[..., 0] = np.rint(lab[..., 0] / 100 * top)
    stored[..., 1:] = np.rint(lab[..., 1:] * step).astype(f"i{bits // 8}").view(stored.dtype)
    file = tmp_path / "lab.tif"
    tifffile.imwrite(file, stored, photometric="cielab")
    exact = np.stack([stored[..., 0] / top * 100, *(stored[..., k].view(f"i{bits // 8}") / step for k in (1, 2))], -1)
    whites = science.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        xyz = science.Lab_to_XYZ(exact, whites["D50"])
        light = science.XYZ_to_RGB(xyz, "ITU-R BT.2020", whites["D50"], "Bradford")
    photo = open_photo(file)
    assert photo.source.space == BT2020
    assert light.min() > 0  # a wide space holds them all
    assert np.abs(rows_of(photo) / 65535 - to_encoded(light)).max() < 2e-3


def test_a_raw_whose_mosaic_is_missing_is_one_clear_error(tmp_path):
    """DNG 1.4: the first page is a preview the size of a stamp; the tag DNGVersion tells (50706)."""
    file = tmp_path / "landing.dng"
    with tifffile.TiffWriter(file) as tiff:
        tiff.write(PIXELS, photometric="rgb", subfiletype=1, extratags=[(50706, "B", 4, (1, 4, 0, 0), True)])
    with pytest.raises(FileError, match=r"camera raw|damaged"):
        open_photo(file)


# What must never be written over


def test_only_plain_files_are_replaced(tmp_path):
    target = tmp_path / "print.tif"
    source = Renderer(open_photo(demo.photo("marsh-at-dusk")).source, Script())
    small = Settings(longer_side=16)
    os.mkfifo(tmp_path / "pipe")
    target.symlink_to(tmp_path / "pipe")
    with pytest.raises(FileError, match="device or a pipe"):
        export(source, target, small)
    assert stat.S_ISFIFO((tmp_path / "pipe").stat().st_mode)
    assert target.is_symlink()
    target.unlink()
    target.symlink_to("/dev/null")
    with pytest.raises(FileError, match="device or a pipe"):
        export(source, target, small)
    assert target.is_symlink()
    (tmp_path / "loop.tif").symlink_to(tmp_path / "loop.tif")
    with pytest.raises(FileError, match="leads back"):
        export(source, tmp_path / "loop.tif", small)


def test_permissions_of_what_is_replaced_are_kept(tmp_path):
    target = tmp_path / "s.json"
    write_script(target, Script(), None)
    target.chmod(0o600)
    write_script(target, Script(), None)
    assert stat.S_IMODE(target.stat().st_mode) == 0o600
    target.chmod(0o400)
    with pytest.raises(FileError, match="protected"):
        write_script(target, Script(), None)
    assert stat.S_IMODE(target.stat().st_mode) == 0o400


def test_pictures_that_a_print_is_made_from_are_never_written_over(tmp_path):
    picture = tmp_path / "lantern.png"
    Image.fromarray(PIXELS).save(picture)
    before = picture.read_bytes()
    plate = {"pass": "plate", "source": "picture", "picture": "lantern.png", "on": False}
    script = from_json({"kyanoscript": 1, "passes": [{"pass": "plate", "run": [plate]}]})
    library = Pictures(tmp_path / "photo.jpg", tmp_path / "s.kyano")
    assert library.files(script) == [picture]
    photo = open_photo(demo.photo("marsh-at-dusk"))
    with pytest.raises(FileError, match="never written to"):
        export(Renderer(photo.source, script), picture, Settings(longer_side=16), library.files(script))
    with pytest.raises(FileError, match="never written to"):
        write_script(picture, script, None, never=library.files(script))
    assert picture.read_bytes() == before


def test_what_a_killed_program_left_goes_at_the_next_write_and_nothing_else(tmp_path):
    dead, alive, other = (tmp_path / name for name in (".a-1.kyano.part", ".b-2.kyano.part", ".theirs.part"))
    for path in (dead, alive, other):
        path.write_bytes(b"half")
    with alive.open("rb") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        write_script(tmp_path / "s.json", Script(), None)
        assert sorted(p.name for p in tmp_path.glob(".*")) == [".b-2.kyano.part", ".theirs.part"]


def test_ending_at_once_leaves_no_half_written_file(tmp_path):
    code = """
import sys, threading, time
from pathlib import Path
from kyanoscript.files.base import replace
def write():
    with replace.replacing(Path(sys.argv[1])) as file:
        file.write(b"half")
        print("begun", flush=True)
        time.sleep(60)
threading.Thread(target=write, daemon=True).start()
sys.stdin.read(1)
replace.abandon()
"""
    target = tmp_path / "print.tif"
    words = [sys.executable, "-c", code, str(target)]
    with subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE) as process:
        process.stdout.readline()
        assert list(tmp_path.glob(".*.part"))
        process.communicate(b"x", timeout=300)
    assert list(tmp_path.iterdir()) == []
    assert not replace.ended.is_set()


def test_a_script_that_another_has_changed_is_not_written_over_unasked(tmp_path):
    file = tmp_path / "s.kyano"
    mine = write_script(file, Script(), None)
    theirs = write_script(file, from_json({"kyanoscript": 1, "passes": [{"pass": "levels"}]}), None)
    with pytest.raises(ChangedOnDisk):
        write_script(file, Script(), None, over=mine)
    assert read_script(file).digest == theirs
    write_script(file, Script(), None, over=theirs)
    assert read_script(file).script == Script()


def test_the_same_work_gives_the_same_file(tmp_path):
    photo = PhotoRef(tmp_path / "photo.jpg", "0" * 64, 3, 2)
    names = [tmp_path / f"{k}.kyano" for k in range(2)]
    assert len({write_script(name, Script(), photo, b"picture") for name in names}) == 1
    source = Renderer(open_photo(demo.photo("marsh-at-dusk")).source, Script())
    for suffix in ("tif", "png", "jpg"):
        prints = [tmp_path / f"{k}.{suffix}" for k in range(2)]
        for entry in prints:
            export(source, entry, Settings(longer_side=64))
        assert prints[0].read_bytes() == prints[1].read_bytes()


# The photograph while it is open


def test_the_photograph_is_known_by_what_was_opened(tmp_path):
    """Moved, its hash stays; replaced, the new file's is not taken for it; written to, it is said not to be known."""
    file = tmp_path / "landing.png"
    Image.fromarray(PIXELS).save(file)
    digest = sha256(file)
    moved = open_photo(file).original
    file.rename(tmp_path / "elsewhere.png")
    assert (moved.state(), moved.digest()) == ("gone", digest)
    Image.fromarray(PIXELS // 2).save(file)
    assert (moved.state(), moved.digest()) == ("changed", digest)
    other = open_photo(file).original
    with file.open("ab") as out:
        out.write(b"more")
    assert (other.state(), other.digest()) == ("changed", "")


# Scripts


@pytest.mark.parametrize(
    "text",
    ['{"kyanoscript": ' + "9" * 5000 + "}", "[" * 100_000,
     '{"kyanoscript": 1, "passes": [{"pass": "' + "x" * 9999 + '"}]}',
     '{"kyanoscript": 1, "' + "y" * 9999 + '": 1}',
     '{"kyanoscript": 1, "passes": [{"pass": "levels", "gamma": ' + "1" * 4000 + "}]}",
     '{"kyanoscript": 1, "stencils": {"' + "z" * 9999 + '": 3}}'],
)  # fmt: skip
def test_a_message_never_repeats_more_than_a_line_of_what_it_complains_of(text):
    with pytest.raises(ScriptError) as caught:
        loads(text)
    assert "\n" not in str(caught.value)
    assert max(str(caught.value).count(letter) for letter in "xyz91") < 200
    assert len(str(caught.value)) < 1400


def test_a_value_of_thousands_of_digits_is_one_clear_line():
    with pytest.raises(ScriptError) as caught:
        with_value(from_json({"kyanoscript": 1, "passes": [{"pass": "levels"}]}), "levels.gamma=" + "9" * 5000)
    assert len(str(caught.value)) < 200


def test_scripts_are_refused_at_once_where_they_are_too_long():
    level = {"pass": "levels"}
    most = {"kyanoscript": 1, "passes": [level] * MOST_PASSES}
    assert len(from_json(most).passes) == MOST_PASSES
    nested = {"pass": "plate", "run": [level] * 40}
    for passes in ([level] * (MOST_PASSES + 1), [nested] * 30, [{**level, "on": False}] * 100_000):
        with pytest.raises(ScriptError, match=f"may have {MOST_PASSES}"):
            from_json({"kyanoscript": 1, "passes": passes})
    off = [{**level, "on": False}] * 500
    assert len(from_json({"kyanoscript": 1, "passes": [level] * MOST_PASSES + off}).passes) == MOST_PASSES + 500


@pytest.mark.parametrize("packing", [zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2, zipfile.ZIP_DEFLATED])
def test_damage_within_an_archive_is_one_clear_error(tmp_path, packing):
    file = tmp_path / "s.kyano"
    with zipfile.ZipFile(file, "w", packing) as made:
        made.writestr("mimetype", MIMETYPE, zipfile.ZIP_STORED)
        made.writestr("script.json", json.dumps({"kyanoscript": 1, "passes": [{"pass": "levels"}] * 40}))
    data, sound, said = file.read_bytes(), read_script(file).script, []
    start = data.index(b"script.json") + 11
    for at in range(start, start + 30):
        broken = bytearray(data)
        broken[at] ^= 0xFF
        file.write_bytes(broken)
        try:
            assert read_script(file).script == sound  # a byte that says nothing
        except FileError as error:
            said.append(str(error))
    assert len(said) > 20
    assert max(map(len, said)) < 200


# Pictures outside a script's own folder


def test_pictures_outside_a_scripts_folder_are_told_once(tmp_path):
    home, away = tmp_path / "home", tmp_path / "away"
    for folder in (home, home / "below", away):
        folder.mkdir()
    secret, beside, below = away / "secret.png", home / "beside.png", home / "below" / "b.png"
    for path in (secret, beside, below):
        Image.fromarray(PIXELS).save(path)
    (home / "link.png").symlink_to(secret)
    names = [str(secret), "../away/secret.png", "link.png", "beside.png", "below/b.png", "paper-lantern"]
    run = [{"pass": "plate", "source": "picture", "picture": name} for name in names]
    run.append({"pass": "hand-tint", "model": str(secret), "share": 0})
    script = from_json({"kyanoscript": 1, "passes": run})
    file = home / "s.kyano"
    assert outside(file, script) == [secret]
    assert outside(file, script, away / "photo.jpg") == [away / "photo.jpg", secret]
    allow(file, [secret])
    assert outside(file, script) == []
    assert outside(home / "other.kyano", script) == [secret]  # each script for itself


def test_a_refused_picture_is_not_opened(tmp_path):
    secret = tmp_path / "secret.png"
    Image.fromarray(PIXELS).save(secret)
    library = Pictures(tmp_path / "photo.jpg", None, [secret])
    assert library.find("secret.png") is None
    with pytest.raises(FileError, match="left out"):
        library.open("secret.png")


def test_a_png_chunk_that_lies_about_its_length_is_refused(tmp_path):
    file = tmp_path / "landing.png"
    Image.fromarray(PIXELS).save(file)
    data = bytearray(file.read_bytes())
    at = data.index(b"IDAT") - 4
    data[at : at + 4] = struct.pack(">I", 0x7FFFFFFF)
    file.write_bytes(data)
    with pytest.raises(FileError, match="damaged"):
        open_photo(file)


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_what_a_png_says_beside_its_pixels_is_passed_over(tmp_path, dtype):
    file = tmp_path / "landing.png"
    pixels = make_colourful(48, 72, dtype)
    file.write_bytes(imagecodecs.png_encode(pixels))
    data, words = file.read_bytes(), b"tEXtComment\0" + b"the ferry landing at low water, " * 20
    chunk = struct.pack(">I", len(words) - 4) + words + struct.pack(">I", zlib.crc32(words))
    file.write_bytes(data[:33] + chunk + chunk + data[33:])  # after the header
    planes = read(open_photo(file).source, Rect(0, 0, 72, 48), 1.0)
    assert np.array_equal(np.rint(np.moveaxis(planes, 0, 2) * np.iinfo(dtype).max), pixels)


def test_a_tiff_that_lacks_some_of_its_strips_is_opened_with_a_word_or_refused(tmp_path, capfd):
    """The library fills them with black, and only warns; on the terminal it says nothing of its own."""
    file = tmp_path / "landing.tif"
    tifffile.imwrite(file, make_colourful(160, 96), photometric="rgb", rowsperstrip=16)
    data = bytearray(file.read_bytes())
    with tifffile.TiffFile(file) as tiff:
        for code in (273, 279):  # StripOffsets, StripByteCounts
            tag = tiff.pages.first.tags[code]
            data[tag.offset + 4 : tag.offset + 8] = struct.pack("<I", tag.count - 4)
    file.write_bytes(data)
    try:
        notes = open_photo(file).notes
    except FileError as error:
        notes = (str(error),)
    assert any("damaged" in note for note in notes)
    assert capfd.readouterr().err == ""
