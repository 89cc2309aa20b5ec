"""Small files of large pictures: what opening them takes, and what is said where there is too little memory."""

import io
import subprocess
import sys
from pathlib import Path

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image

from kyanoscript.core import machine
from kyanoscript.files.base.errors import FileError, lacks_memory
from kyanoscript.files.photos.photo import open_photo

SIDE = 3000
LEVELS = np.full((SIDE, SIDE, 3), (200, 100, 50), np.uint8)
LEVELS[500:900] = 30
GRAY = np.ascontiguousarray(LEVELS[..., 0])
ALPHA = np.dstack([LEVELS, np.full((SIDE, SIDE), 255, np.uint8)])
ALPHA[:100, :, 3] = 0
LIGHT = (LEVELS / np.float32(255)).astype(np.float32)
MB = 1 << 20


def pillow(pixels, kind, mode=None, **options):
    made = io.BytesIO()
    image = Image.fromarray(pixels)
    (image.convert(mode) if mode else image).save(made, kind, **options)
    return made.getvalue()


def tiff(pixels, **options):
    made = io.BytesIO()
    tifffile.imwrite(made, pixels, **options)
    return made.getvalue()


def exr():
    import tempfile

    import OpenEXR

    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        head = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        OpenEXR.File(head, {"RGB": LIGHT.astype(np.float16)}).write(file.name)
        return Path(file.name).read_bytes()


# What a file is, bytes of its pixels as they lie in it, unpacked, and how many times as much opening it may take.
# OpenJPEG and libjxl work with four bytes a value, whatever comes out; of a JPEG in passes all are kept, and of one
# with four inks its decoder keeps its own.
BOMBS = {
    "png": (lambda: imagecodecs.png_encode(LEVELS), 3, 2),
    "png with alpha": (lambda: imagecodecs.png_encode(ALPHA), 4, 2),
    "png of 16 bits": (lambda: imagecodecs.png_encode(LEVELS.astype(np.uint16) * 257), 6, 2),
    "png with a palette": (lambda: pillow(LEVELS, "PNG", "P"), 3, 2),
    "png of one bit": (lambda: pillow(GRAY, "PNG", "1"), 1, 2.3),
    "jpeg": (lambda: pillow(LEVELS, "JPEG"), 3, 2),
    "progressive jpeg": (lambda: pillow(LEVELS, "JPEG", progressive=True), 3, 3),
    "cmyk jpeg": (lambda: pillow(LEVELS, "JPEG", "CMYK"), 6, 2.7),
    "webp": (lambda: pillow(LEVELS, "WEBP", lossless=True, method=0), 3, 2),
    "webp with alpha": (lambda: pillow(ALPHA, "WEBP", lossless=True, method=0), 4, 2),
    "avif": (lambda: pillow(LEVELS, "AVIF", speed=10), 3, 2),
    "gif": (lambda: pillow(LEVELS, "GIF", "P"), 3, 2),
    "bmp": (lambda: pillow(LEVELS, "BMP"), 3, 2.1),
    "jpeg 2000": (lambda: imagecodecs.jpeg2k_encode(LEVELS, level=30), 3, 5.3),
    "jpeg xl": (lambda: imagecodecs.jpegxl_encode(LEVELS, lossless=True, effort=1), 3, 6.3),
    "openexr": (exr, 12, 2),
    "pfm": (lambda: b"PF\n%d %d\n-1.0\n" % (SIDE, SIDE) + LIGHT.astype("<f4").tobytes(), 12, 2.1),
    "float tiff of one tile": (lambda: tiff(LIGHT, photometric="rgb", tile=(3008,) * 2, compression="zlib"), 12, 2.1),
    "float tiff of one strip": (lambda: tiff(LIGHT, photometric="rgb", rowsperstrip=SIDE, compression="zlib"), 12, 2.1),
    "cmyk tiff": (lambda: tiff(ALPHA, photometric="separated", compression="deflate", rowsperstrip=64), 6, 2),
    "lab tiff": (lambda: tiff(LEVELS, photometric="cielab", compression="deflate", rowsperstrip=64), 6, 2),
    "planar tiff": (lambda: tiff(np.moveaxis(LEVELS, 2, 0).copy(), photometric="rgb", planarconfig="separate",
                                 compression="deflate"), 3, 2.1),
    "tiff of one bit": (lambda: tiff(GRAY > 100, compression="deflate", rowsperstrip=64), 1, 2.3),
    "tiff": (lambda: tiff(LEVELS, photometric="rgb", compression="lzw", rowsperstrip=64), 3, 2),
}  # fmt: skip

PROBE = """
import ctypes, gc, resource, sys
from pathlib import Path
import cv2, imagecodecs, numpy, OpenEXR, PIL.Image, simplejpeg, tifffile
from kyanoscript.core import machine
from kyanoscript.files.colour import profiles
from kyanoscript.files.photos import lab, others, photo, tiff

how, folder = sys.argv[1], Path(sys.argv[2])
PIL.Image.init()

def said(key):
    lines = Path("/proc/self/status").read_text().splitlines()
    return int(next(line for line in lines if line.startswith(key)).split()[1]) << 10

said_by_decoder = []
damaged = photo.damaged
photo.damaged = lambda path, error: (said_by_decoder.append(repr(error)), damaged(path, error))[1]

if how == "told":
    machine.free = lambda: 1 << 20
for file in sorted(folder.iterdir(), key=lambda file: file.stat().st_size):
    gc.collect()
    ctypes.CDLL(None).malloc_trim(0)
    Path("/proc/self/clear_refs").write_text("5")  # the peak begins anew
    before = said("VmRSS:")
    if how == "limited":
        size = said("VmSize:")
        resource.setrlimit(resource.RLIMIT_AS, (size + (56 << 20), resource.RLIM_INFINITY))
    try:
        found = photo.open_photo(file).kind
    except photo.FileError as error:
        found = f"{error} {said_by_decoder}"  # on one line
    if how == "limited":
        resource.setrlimit(resource.RLIMIT_AS, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))
    print(file.name, said("VmHWM:") - before, found, sep="|", flush=True)
"""


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    made = tmp_path_factory.mktemp("bombs")
    for name, (bomb, _, _) in BOMBS.items():
        (made / name).write_bytes(bomb())
    return made


def probed(how, folder):
    """By name: the most memory that opening it took, and the kind that it is, or what was said."""
    done = subprocess.run([sys.executable, "-c", PROBE, how, str(folder)], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    rows = [line.split("|", 2) for line in done.stdout.splitlines()]
    assert {row[0] for row in rows} == set(BOMBS)
    return {name: (int(peak), words) for name, peak, words in rows}


def test_opening_takes_no_more_than_twice_the_pixels(folder):
    took = probed("opened", folder)
    for name, (_, each, times) in BOMBS.items():
        peak, words = took[name]
        assert "bit" in words, words
        assert peak < times * each * SIDE * SIDE + 16 * MB, f"{name}: {peak / MB:.0f} MB"


def test_too_little_memory_is_told_with_the_figures_before_anything_is_unpacked(folder):
    for name, (peak, words) in probed("told", folder).items():
        if BOMBS[name][1] * SIDE * SIDE * 2 > 64 * MB:  # for less nobody is asked
            assert "3000 × 3000 pixels, and opening it takes about 0." in words or "about 0.2 GB" in words, words
            assert "are free" in words
            assert "damaged" not in words
            own = (folder / name).stat().st_size
            assert peak < own + 16 * MB, f"{name}: {peak / MB:.0f} MB"


def test_what_lacks_memory_all_the_same_is_not_called_damaged(folder):
    for name, (_, words) in probed("limited", folder).items():
        assert "damaged" not in words, f"{name}: {words}"
        assert "not enough memory" in words or "of memory" in words or "-bit" in words


@pytest.mark.parametrize("error", [MemoryError(), RuntimeError("std::bad_alloc"), ValueError("Out of memory")])
def test_words_of_decoders_for_lack_of_memory_are_known(tmp_path, monkeypatch, error):
    (tmp_path / "landing.webp").write_bytes(pillow(LEVELS[:9, :9], "WEBP"))

    def lacking(data):
        raise error

    monkeypatch.setattr(imagecodecs, "webp_decode", lacking)
    with pytest.raises(FileError, match="not enough memory to open it"):
        open_photo(tmp_path / "landing.webp")
    chained = ValueError("a strip could not be read")
    chained.__cause__ = error
    assert lacks_memory(chained)
    assert not lacks_memory(ValueError("a strip could not be read"))


def test_a_piece_larger_than_its_picture_is_refused_before_it_is_unpacked(tmp_path):
    """A tile of 20000 × 20000 floats for a picture of 16 × 16."""
    made = bytearray(tiff(np.zeros((16, 16), np.float32), tile=(16, 16), compression="deflate"))
    with tifffile.TiffFile(io.BytesIO(bytes(made))) as file:
        for code in (322, 323):
            at = file.pages.first.tags[code].valueoffset
            made[at : at + 4] = (20_000).to_bytes(4, "little")
    (tmp_path / "tile.tif").write_bytes(made)
    with pytest.raises(FileError, match="a piece of it is larger than the whole picture of 16 × 16 pixels"):
        open_photo(tmp_path / "tile.tif")


def test_the_memory_of_the_machine_is_no_more_than_the_program_may_use():
    """What is kept in the window follows it: on 2 GB it filled what the next picture needed."""
    words = "from kyanoscript.core import machine; from kyanoscript.ui.service import budget; "
    words += "print(machine.memory(), budget.automatic(), budget.weak())"
    limited = f"import resource; resource.setrlimit(resource.RLIMIT_AS, ({2 << 30}, {2 << 30})); "
    done = subprocess.run([sys.executable, "-c", limited + words], capture_output=True, text=True, timeout=120)
    memory, megabytes, weak = done.stdout.split(maxsplit=2)
    assert (int(memory), int(megabytes)) == (2 << 30, 204)
    assert "2.0 GB of memory" in weak


def test_free_memory_is_that_of_the_system_of_the_group_and_of_a_limit(tmp_path, monkeypatch):
    assert 0 < machine.free() <= machine.memory()
    for name, value in (("most", 3 << 30), ("used", (3 << 30) - 5 * MB)):
        (tmp_path / name).write_text(f"{value}\n")
    monkeypatch.setattr(machine, "_LIMITS", (str(tmp_path / "most"),))
    monkeypatch.setattr(machine, "_USED", (str(tmp_path / "used"),))
    assert machine.free() == 5 * MB
    (tmp_path / "memory.stat").write_text(f"anon 77\nactive_file {MB}\ninactive_file {2 * MB}\n")
    assert machine.free() == 8 * MB  # files that were read make room
    (tmp_path / "used").write_text(str(4 << 30))
    assert machine.free() == 0
