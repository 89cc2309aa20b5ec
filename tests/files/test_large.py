"""Photographs too large for memory: smaller copies to look at, kept for the next opening."""

import functools
import os
import shutil
import threading
import time
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from kyanoscript.cli import main
from kyanoscript.core.colour import to_encoded, to_light
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Reading, Rect, read
from kyanoscript.core.picture.pyramid import Pyramid, copies
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script, dumps
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.places import cache
from kyanoscript.files.photos import large
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.ui.jobs.lanes import until
from tests.conftest import make_colourful
from tests.ui.conftest import Bench, bare  # noqa: F401  (a fixture)

P = load_all()
HEIGHT, WIDTH = 1501, 2203


@functools.cache
def picture(dtype=np.uint16, channels=3):
    made = _picture(dtype, channels)
    made.setflags(write=False)
    return made


def _picture(dtype, channels):
    rng = np.random.default_rng(4)
    made = make_colourful(HEIGHT, WIDTH).astype(np.float32) / 65535 + 0.05 * rng.standard_normal((HEIGHT, WIDTH, 3))
    made = np.clip(made, 0, 1)[..., :channels]
    if dtype == np.float32:
        return made.astype(np.float32)
    return np.rint(made * np.iinfo(dtype).max).astype(dtype)


def alone(parts, work):
    for part in parts:
        work(part)
    return True


@pytest.fixture(autouse=True)
def small_room(monkeypatch, tmp_path):
    monkeypatch.setattr(large, "ROOM", 1 << 20)
    monkeypatch.setenv("KYANOSCRIPT_CACHE", str(tmp_path / "cache"))


@pytest.fixture(scope="module")
def written(tmp_path_factory):
    path = tmp_path_factory.mktemp("written") / "harbour.tif"
    tifffile.imwrite(path, picture(), compression="zlib", tile=(256, 256), photometric="rgb")
    return path


@pytest.fixture
def file(tmp_path, written):
    return Path(shutil.copy(written, tmp_path))


def kept_files():
    return sorted(path.name for path in (cache() / "copies").glob("*")) if (cache() / "copies").exists() else []


# Copies


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
@pytest.mark.parametrize("channels", [1, 3])
def test_a_copy_is_a_quarter_each_way_by_lanczos_in_light(dtype, channels):
    """Pillow's Lanczos on light in float32; the last columns and rows are of fewer pixels, which it does not have."""
    pixels = picture(dtype, channels)
    first, *_ = copies(ArraySource(pixels), alone)
    assert first.shape == (376, 551, channels)
    top = 1 if dtype == np.float32 else np.iinfo(dtype).max
    light = to_light(pixels.reshape(HEIGHT, WIDTH, channels) / top).astype(np.float32)
    whole = (550, 375)  # pixels of four each way
    box = (0, 0, 4 * whole[0], 4 * whole[1])
    planes = (Image.fromarray(np.ascontiguousarray(light[..., c])) for c in range(channels))
    wanted = np.stack([np.asarray(plane.resize(whole, Image.Resampling.LANCZOS, box)) for plane in planes], axis=-1)
    made = to_light(first[: whole[1], : whole[0]] / (1 if dtype == np.float32 else 65535))
    assert np.abs(np.clip(made, 0, 1) - np.clip(wanted, 0, 1)).max() < 1e-4
    rim = to_light(first[-1, -1] / (1 if dtype == np.float32 else 65535))
    assert np.abs(rim - light[-12:, -12:].mean((0, 1))).max() < 0.1


def test_reading_small_gives_what_reading_all_of_it_gives():
    """Areas of squares instead of areas of pixels: where a pixel that is wanted ends within a square."""
    source = ArraySource(picture())
    pyramid = Pyramid(source, copies(source, alone))
    for scale, rect in ((0.05, None), (0.12, None), (1 / 8, Rect(30, 20, 100, 80)), (0.031, None)):
        size = max(1, round(WIDTH * scale)), max(1, round(HEIGHT * scale))
        rect = rect or Rect(0, 0, *size)
        away = np.abs(read(pyramid, rect, scale) - read(source, rect, scale)) * 255
        assert away.mean() < 0.5
        assert away.max() < 4
        crop = Rect(101, 203, 1703, 1009)
        part = Rect(3, 2, 40, 20)
        away = np.abs(read(pyramid, part, scale, crop) - read(source, part, scale, crop)) * 255
        assert away.mean() < 0.5
    for scale in (1.0, 0.6, 0.2):  # too fine for a copy
        part = Rect(10, 10, 200, 100)
        assert np.array_equal(read(pyramid, part, scale), read(source, part, scale))
    assert np.array_equal(
        read(pyramid, Rect(0, 0, 60, 40), 1 / 16, how=Reading.WRITTEN),
        read(source, Rect(0, 0, 60, 40), 1 / 16, how=Reading.WRITTEN),
    )


@pytest.mark.parametrize("times", [8.0, 11.3, 20.0])
@pytest.mark.parametrize("cycles", [0.75, 1.25, 1.9, 2.6])
def test_patterns_too_fine_for_the_screen_are_gone_though_they_come_from_a_copy(times, cycles):
    """Cycles to a pixel of the screen; copies that were made by areas left up to 0.3 of some."""
    light = 0.5 + 0.3 * np.cos(2 * np.pi * cycles / times * np.arange(6000))
    source = ArraySource(np.repeat(to_encoded(light).astype(np.float32)[None, :, None], 400, axis=0))
    pyramid = Pyramid(source, copies(source, alone))
    assert pyramid.copy_for(times) is not None
    scale = round(6000 / times) / 6000
    small = read(pyramid, Rect(30, 4, round(6000 / times) - 60, 3), scale, how=Reading.SEEN)
    assert np.ptp(to_light(small[0, 1])) / 0.6 < 0.1


def test_a_part_of_a_large_print_is_the_same_part_of_the_whole():
    source = ArraySource(picture())
    pyramid = Pyramid(source, copies(source, alone))
    script = Script((P["local-contrast"](fine=40, broad=30), P["levels"](auto=True)))
    renderer = Renderer(pyramid, script)
    for scale in (0.1, 0.04):
        width, height = renderer.size(scale)
        whole = renderer.region(Rect(0, 0, width, height), scale)
        part = Rect(width // 3, height // 4, 30, 20)
        again = Renderer(pyramid, script).region(part, scale)
        assert np.abs(again - whole[:, part.y : part.bottom, part.x : part.right]).max() < 1e-5


# Opening


@pytest.mark.parametrize(
    "how",
    [{}, {"rowsperstrip": 64}, {"compression": "lzw"}, {"tile": (128, 128), "compression": "zlib", "predictor": True}],
)
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_a_large_tiff_is_opened_in_pieces_and_gives_its_own_pixels(tmp_path, how, dtype):
    pixels = picture(dtype)
    how = {k: v for k, v in how.items() if not (k == "predictor" and dtype == np.float32)}
    tifffile.imwrite(tmp_path / "a.tif", pixels, photometric="rgb", **how)
    photo = large.open_for_screen(tmp_path / "a.tif")
    assert isinstance(photo.source, Pyramid)
    rect = Rect(700, 300, 500, 400)
    assert np.array_equal(photo.source.window(rect), pixels[300:700, 700:1200])
    held = open_photo(tmp_path / "a.tif").source
    small = Rect(0, 0, round(WIDTH * 0.05), round(HEIGHT * 0.05))
    assert np.abs(read(photo.source, small, 0.05) - read(held, small, 0.05)).max() * 255 < 4


def test_what_fits_into_memory_is_held_there(file, monkeypatch):
    monkeypatch.setattr(large, "ROOM", 1 << 30)
    assert isinstance(large.open_for_screen(file).source, ArraySource)
    assert kept_files() == []


def test_several_threads_read_the_same_pieces(file):
    photo, pixels, wrong = large.open_for_screen(file), picture(), []

    def look(seed):
        rng = np.random.default_rng(seed)
        for _ in range(30):
            x, y = rng.integers(0, WIDTH - 300), rng.integers(0, HEIGHT - 200)
            part = photo.source.window(Rect(int(x), int(y), 300, 200))
            if not np.array_equal(part, pixels[y : y + 200, x : x + 300]):
                wrong.append((x, y))

    threads = [threading.Thread(target=look, args=(seed,)) for seed in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert wrong == []


def test_the_next_opening_reads_the_copies_that_were_kept(file, monkeypatch):
    told = []
    first = large.open_for_screen(file, told.append)
    assert told == sorted(told)
    assert told[-1] == 1
    assert kept_files() == []  # not while the first picture is waited for
    large.keep(first)
    assert len(kept_files()) == len(first.source.copies) == 1
    monkeypatch.setattr(large, "copies", lambda *_: pytest.fail("worked out again"))
    again = large.open_for_screen(file)
    for one, other in zip(first.source.copies, again.source.copies, strict=True):
        assert np.array_equal(one.pixels, other.pixels)
    before = [os.stat(cache() / "copies" / name).st_ino for name in kept_files()]
    large.keep(again)  # they are there already
    assert [os.stat(cache() / "copies" / name).st_ino for name in kept_files()] == before


def test_copies_of_a_file_that_was_written_to_since_go(file):
    large.keep(large.open_for_screen(file))
    old = kept_files()
    pixels = picture()[::-1]
    tifffile.imwrite(file, pixels, photometric="rgb")
    photo = large.open_for_screen(file)
    assert (
        np.abs(photo.source.copies[0].pixels[0, 0].astype(int) - copies(ArraySource(pixels), alone)[0][0, 0]).max() < 2
    )
    large.keep(photo)
    assert len(kept_files()) == 1
    assert not set(old) & set(kept_files())


@pytest.mark.parametrize("damage", ["cut", "other", "missing"])
def test_damaged_copies_are_made_again(file, damage):
    large.keep(large.open_for_screen(file))
    first = cache() / "copies" / kept_files()[0]
    if damage == "cut":
        first.write_bytes(first.read_bytes()[:1000])
    elif damage == "other":
        with first.open("wb") as out:
            np.save(out, np.zeros((3, 4, 3), np.uint16))
    else:
        first.unlink()
    photo = large.open_for_screen(file)
    assert photo.source.copies[0].pixels.shape == (376, 551, 3)
    assert np.array_equal(photo.source.copies[0].pixels, copies(ArraySource(picture()), alone)[0])


def test_copies_together_take_no_more_than_so_much_room(tmp_path, monkeypatch):
    names = []
    for k in range(4):
        path = tmp_path / f"{k}.tif"
        tifffile.imwrite(path, picture(np.uint8), photometric="rgb")
        photo = large.open_for_screen(path)
        monkeypatch.setattr(large, "_MOST", int(2.5 * sum(c.pixels.nbytes for c in photo.source.copies)))
        large.keep(photo)
        names.append({name.partition("-")[0] for name in kept_files()})
        time.sleep(0.02)
    assert [len(found) for found in names] == [1, 2, 2, 2]
    assert not names[0] & names[3]


def test_a_cache_that_cannot_be_written_costs_only_time(file, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_CACHE", "/proc/nowhere")
    photo = large.open_for_screen(file)
    large.keep(photo)
    assert isinstance(large.open_for_screen(file).source, Pyramid)


def test_opening_can_be_stopped_and_leaves_nothing(file):
    seen = []
    with pytest.raises(Cancelled):
        large.open_for_screen(file, seen.append, lambda: len(seen) >= 1)
    assert kept_files() == []


def test_damage_within_a_large_file_is_told_as_of_any_other(file):
    data = bytearray(file.read_bytes())
    middle = len(data) // 2
    data[middle : middle + 4000] = bytes(4000)
    file.write_bytes(data)
    with pytest.raises(FileError, match=r"harbour\.tif"):
        large.open_for_screen(file)


# In the window


def test_the_print_of_a_large_photograph_is_the_one_the_command_line_writes(bare: Bench, file, tmp_path):  # noqa: F811
    """Copies are only looked at: what is written has the same bytes."""
    script = Script((P["local-exposure"](open=40), P["levels"](auto=True), P["gray-weights"](auto=True)))
    (tmp_path / "s.json").write_text(dumps(script))
    bare.open(file, tmp_path / "s.json")
    assert isinstance(bare.desk.photo.source, Pyramid)
    from kyanoscript.files.prints.settings import Settings

    job = bare.window.printing.export(tmp_path / "window.tif", Settings(notes="none"))
    over = []
    job.ended.connect(lambda: over.append(True))
    assert until(lambda: bool(over), 240)
    line = f"render {file} --script {tmp_path}/s.json -o {tmp_path}/line.tif --notes none"
    assert main(line.split()) == 0
    assert np.array_equal(tifffile.imread(tmp_path / "window.tif"), tifffile.imread(tmp_path / "line.tif"))


def test_the_foot_tells_how_far_a_large_photograph_is_and_stops_it(bare: Bench, file, monkeypatch):  # noqa: F811
    gate = threading.Semaphore(2)
    quarter = large.copies

    def slowly(source, share_out):
        window = source.window

        class Slow:
            rows, width, height, channels, space = 64, source.width, source.height, source.channels, source.space

            def window(self, rect):
                assert gate.acquire(timeout=240)
                return window(rect)

        monkeypatch.setattr("kyanoscript.core.picture.pyramid._BAND", 64 * WIDTH)
        return quarter(Slow(), share_out)

    monkeypatch.setattr(large, "copies", slowly)
    bare.window.opening.open(file)
    foot = bare.window.foot
    gate.release(4)
    bare.qtbot.waitUntil(lambda: foot.working and 0 < foot.progress.value() < 1000)
    assert bare.said() == "Opening harbour.tif…"
    assert foot.cancel.toolTip() == "Stop opening; what is open stays"
    foot.cancel.click()
    gate.release(1000)
    bare.settle()
    assert bare.said() == "Stopped; nothing was opened"
    assert not foot.working
    assert bare.desk.photo is None
