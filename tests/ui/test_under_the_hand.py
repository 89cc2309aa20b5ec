"""What follows the hand: views in a drag, the first picture of a start, moving about."""

import os
import time

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from kyanoscript import demo
from kyanoscript.core import machine
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.files.kept import glimpses
from kyanoscript.files.kept.remembered import Remembered
from kyanoscript.files.kept.scriptfile import read_script
from kyanoscript.ui.app import start
from kyanoscript.ui.app.shell import Shell
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.commands.memory import MemoryDialog
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.service import budget
from kyanoscript.ui.service.pace import STEPS, Pace
from kyanoscript.ui.service.queue import Queue
from kyanoscript.ui.service.views import Look, Sharp, _enlarged
from kyanoscript.ui.widgets import theme
from tests.conftest import make_colourful
from tests.ui.conftest import Bench

WHOLE = Rect(0, 0, 360, 240)


# Pace


def dragged(pace, pixels, seconds_a_megapixel, times=12):
    """What the pace chooses in the end when views take so long."""
    for _ in range(times):
        share = pace.step(0, pixels)
        worked = pixels * share**2
        pace.took(0, round(worked), 0.004 + worked / 1e6 * seconds_a_megapixel)
    return share


@pytest.mark.parametrize(
    ("seconds", "share"),
    [(0.01, 1.0), (0.03, 3 / 4), (0.06, 1 / 2), (0.2, 2 / 5), (0.3, 1 / 3), (1.4, 1 / 3), (1.6, 1 / 4), (5, 1 / 4)],
)
def test_a_view_is_as_fine_as_the_hand_leaves_time_for_and_never_coarser_than_a_quarter(seconds, share):
    """And coarser than a third only where less than twelve pictures a second would come."""
    assert dragged(Pace(2), 1_000_000, seconds) == pytest.approx(share)


def test_one_processor_makes_views_coarser():
    assert dragged(Pace(1), 1_000_000, 0.2) < dragged(Pace(2), 1_000_000, 0.2)


def test_a_view_does_not_jump_between_two_sizes():
    """Times that differ by a fifth from picture to picture, as they do."""
    pace, rng = Pace(2), np.random.default_rng(3)
    dragged(pace, 1_000_000, 0.0745)
    chosen = []
    for _ in range(100):
        share = pace.step(0, 1_000_000)
        chosen.append(share)
        pace.took(0, round(1e6 * share**2), 0.004 + share**2 * 0.0745 * rng.uniform(0.9, 1.1))
    assert np.count_nonzero(np.diff(chosen)) <= 2


def test_a_view_becomes_finer_only_where_what_enters_is_there():
    """Else one picture of the drag waits for all passes before it: a second and more, once."""
    pace = Pace(2)
    assert dragged(pace, 1_000_000, 5) == 1 / 4
    for _ in range(12):
        pace.took(0, 1_000_000, 0.004)
    asked = []
    assert pace.step(0, 1_000_000, lambda share: asked.append(share)) == 1 / 4
    assert asked == [1.0, 3 / 4, 1 / 2, 2 / 5, 1 / 3]
    assert pace.step(0, 1_000_000, lambda share: share == 1 / 2) == 1 / 2
    for _ in range(12):
        pace.took(0, 1_000_000, 5.0)
    assert pace.step(0, 1_000_000, lambda share: False) == 1 / 4  # coarser at once, whatever is there


def test_every_dragged_pass_has_a_pace_of_its_own():
    pace = Pace(2)
    dragged(pace, 1_000_000, 3)
    pace.took(None, 1_000_000, 0.02)
    assert pace.step(11, 1_000_000) == 1.0
    assert pace.step(0, 1_000_000) == STEPS[-1]


# The queue


def look(script=None, keep=None):
    return Look(script or Script(), WHOLE, 1.0, keep=keep)


def test_what_is_being_worked_on_is_not_asked_for_again():
    queue = Queue()
    with queue.lock:
        _same_again(queue)


def _same_again(queue):
    queue.ask(look())
    asked = queue.take(lambda request: True)
    queue.ask(look())
    assert queue.empty
    queue.ask(look(keep=3))  # another view, and then the first again: it must come last
    queue.ask(look())
    assert queue.waiting("Look") == look()
    queue.done(asked)
    assert queue.take(lambda request: True).request == look()
    queue.other_photo()
    queue.ask(look())
    assert not queue.empty


def test_of_two_views_at_once_the_older_is_of_no_use_once_the_newer_is_shown():
    queue = Queue()
    with queue.lock:
        queue.ask(look(keep=0))
        older = queue.take(lambda request: request.pairs)
        queue.ask(look(Script(), keep=1))
        newer = queue.take(lambda request: request.pairs)
    assert not queue.stale(older)
    queue.brought(newer)
    assert queue.stale(older)
    assert not queue.stale(newer)


def test_only_views_of_a_drag_come_in_pairs():
    assert look(keep=0).pairs
    assert not look().pairs
    assert not Sharp(Script(), WHOLE, 1.0, keep=0).pairs
    assert not Look(Script(), WHOLE, 1.0, 0, 3, keep=0).pairs


# In the window


def test_in_a_drag_views_are_coarse_and_the_last_is_sharp_and_exact(bench: Bench, monkeypatch):
    """With a slow pace every view of the drag is a third; the rest of the hand brings all of it."""
    bench.add("exposure", "local-contrast")
    bench.desk.select(0)
    monkeypatch.setattr(Pace, "step", lambda *_: 1 / 3)
    seen = []
    bench.easel.painted.connect(lambda frame: seen.append((frame.coarse, frame.look.script)))
    bench.desk.begin("Bench")
    for k in range(120):  # as long as the machine needs: it may be busy with something else
        bench.slip.sliders["exposure"]._announce(0.1 * (k % 8) + 0.001 * k)
        QTest.qWait(30)
        if k >= 7 and sum(coarse for coarse, _ in seen) >= 3:
            break
    assert sum(coarse for coarse, _ in seen) >= 3
    bench.qtbot.waitUntil(lambda: seen[-1] == (False, bench.desk.script))
    sharp = bench.easel.frame.pixels.copy()
    bench.desk.commit()
    bench.settle()
    assert np.abs(sharp.astype(int) - bench.easel.frame.pixels).max() <= 1
    assert not bench.easel.frame.coarse


def test_tones_do_not_jump_when_the_sharp_view_comes(bench: Bench, monkeypatch):
    bench.add("exposure", "local-contrast", "gradient-map")
    bench.desk.select(0)
    monkeypatch.setattr(Pace, "step", lambda *_: 1 / 3)
    frames = {}
    bench.easel.painted.connect(lambda f: frames.setdefault((f.look.script, f.coarse), f.pixels[..., :3].mean((0, 1))))
    bench.desk.begin("Bench")

    def pairs():
        return [(mean, frames[script, False]) for (script, coarse), mean in frames.items() if coarse]

    for k in range(60):  # on a busy machine the sharp view may come alone
        bench.slip.sliders["exposure"]._announce((0.2, 0.5, -0.3)[k % 3] + k / 1000)
        bench.qtbot.waitUntil(lambda: (bench.desk.script, False) in frames)
        if k >= 2 and len(pairs()) >= 3:
            break
    bench.desk.commit()
    assert len(pairs()) >= 3
    for coarse, sharp in pairs():
        assert np.abs(coarse - sharp).max() < 1


def test_a_stroke_of_dodging_is_seen_while_it_is_drawn(bench: Bench, monkeypatch):
    bench.add("exposure", "dodge-burn")
    bench.desk.select(1)
    monkeypatch.setattr(Pace, "step", lambda *_: 1 / 2)
    place, seen = bench.easel.place(), []
    bench.easel.painted.connect(lambda frame: seen.append(frame.look.script))
    ways = [QPointF(place.x() + place.width() * (0.3 + 0.04 * k), place.center().y()) for k in range(8)]
    QTest.mousePress(bench.easel, Qt.MouseButton.LeftButton, pos=ways[0].toPoint())

    def drawn():
        return {len(s.passes[1].strokes[-1].points) for s in seen if s.passes[1].strokes}

    for at in ways[1:]:
        before = max(drawn(), default=0)
        QTest.mouseMove(bench.easel, at.toPoint())
        bench.qtbot.waitUntil(lambda before=before: max(drawn(), default=0) > before)
    QTest.mouseRelease(bench.easel, Qt.MouseButton.LeftButton, pos=ways[-1].toPoint())
    bench.settle()
    assert len(drawn()) >= len(ways) - 1  # more and more of it


def test_where_the_print_is_moved_to_there_is_never_bare_mat(bench: Bench, monkeypatch):
    """What has not been worked out yet is shown small, at once."""
    bench.easel.set_zoom(6.0)
    bench.settle()
    monkeypatch.setattr(bench.easel.service, "ask", lambda request: None)  # nothing new comes
    bench.easel.hold_space(True)
    middle = bench.easel.rect().center()
    QTest.mousePress(bench.easel, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(bench.easel, middle + QPointF(180, 120).toPoint())
    image = bench.easel.grab().toImage()
    assert bench.easel.place().contains(QPointF(30, 30))  # the print reaches there
    assert image.pixelColor(30, 30).name() != theme.MATS[bench.easel.mat].lower()
    QTest.mouseRelease(bench.easel, Qt.MouseButton.LeftButton, pos=middle)
    bench.easel.hold_space(False)


def test_an_enlarged_view_lies_where_the_sharp_one_does():
    ramp = np.zeros((90, 120, 4), np.uint8)
    ramp[..., 0] = np.linspace(0, 238, 120, dtype=np.uint8)
    ramp[..., 1] = np.linspace(0, 178, 90, dtype=np.uint8)[:, None]
    rect, lies = Rect(31, 40, 200, 150), Rect(10, 13, 68, 51)
    made = _enlarged(ramp[13:64, 10:78].copy(), lies, rect, 1 / 3, 1 / 3)
    assert made.shape == (150, 200, 4)
    across = (np.arange(31, 231) + 0.5) / 3 - 0.5
    assert np.abs(made[75, :, 0] - np.interp(across, np.arange(120), ramp[0, :, 0])).max() < 2


# The first picture of a start


def shown_at_start(file, window=None):
    shell = Shell(Remembered())
    shell.show_glimpse(start.glimpse_of(file))
    shell.show()
    image = shell.grab().toImage()
    shell.close()
    return shell.glimpse, image


def kept(window):
    """The glimpse that a window has kept of what is open in it."""
    window.glimpses.keep()
    assert until(lambda: not window.jobs.busy, 240)
    return sorted((glimpses.cache() / "glimpses").glob("*.jpg"))


def test_the_print_is_seen_at_the_next_start_before_anything_is_loaded(bench: Bench, photo, tmp_path):
    bench.add("gradient-map")
    script = tmp_path / "evening.kyano"
    bench.window.saving.save_to(script)
    bench.settle()
    assert len(kept(bench.window)) == 1
    glimpse, image = shown_at_start(script)
    frame = bench.easel.frame
    assert (glimpse.width(), glimpse.height()) == (frame.rect.width, frame.rect.height)
    middle = frame.pixels[frame.rect.height // 2, frame.rect.width // 2, 2::-1].astype(int)
    assert np.abs(np.array(glimpse.pixelColor(glimpse.rect().center()).getRgb()[:3]) - middle).max() < 12
    # It lies where the print will lie.
    easel = image.rect().adjusted(133, 45, -305, -178)
    there = image.pixelColor(easel.center()).getRgb()[:3]
    assert np.abs(np.array(there) - middle).max() < 12


def test_a_script_written_to_since_has_no_glimpse(bench: Bench, tmp_path):
    bench.settle()
    photo = bench.desk.photo.path
    assert len(kept(bench.window)) == 1
    assert not shown_at_start(photo)[0].isNull()
    os.utime(photo, ns=(time.time_ns(), time.time_ns()))
    assert shown_at_start(photo)[0].isNull()  # a PNG; only a JPEG is read small
    assert start.glimpse_of(tmp_path / "nowhere.jpg").isNull()
    assert start.glimpse_of(None).isNull()


def test_edited_work_and_a_part_of_the_print_leave_no_glimpse(bench: Bench):
    bench.add("gradient-map")
    assert bench.desk.edited
    assert kept(bench.window) == []
    bench.desk.undo()
    bench.easel.set_zoom(5.0)
    bench.settle()
    assert kept(bench.window) == []
    bench.easel.show_whole()
    bench.settle()
    assert len(kept(bench.window)) == 1


def test_a_demo_print_never_stands_for_the_photograph_that_was_open_before(bench: Bench):
    first, other = demo.PRINTS[0], demo.PRINTS[1]
    bench.open(other.photo, other.script)
    assert kept(bench.window) == []
    bench.open(first.photo, first.script)
    bench.settle()
    assert kept(bench.window) == [glimpses.place(first.script)]
    assert read_script(first.script).script == bench.desk.script


def test_a_jpeg_is_seen_small_and_upright_before_it_is_opened(tmp_path):
    levels = make_colourful(2000, 3000).astype(np.uint8)
    levels[:400, :400] = (250, 10, 10)
    exif = Image.Exif()
    exif[0x0112] = 6  # to be turned by a quarter clockwise
    Image.fromarray(levels).save(tmp_path / "quay.jpg", exif=exif, quality=90)
    glimpse, _ = shown_at_start(tmp_path / "quay.jpg")
    assert max(glimpse.width(), glimpse.height()) == 900
    assert glimpse.height() > glimpse.width()
    red = glimpse.pixelColor(glimpse.width() - 20, 20)
    assert (red.red() > 200, red.green() < 60) == (True, True)


def test_a_file_that_cannot_be_opened_leaves_an_empty_easel(qtbot, tmp_path):
    window = Window()
    window.show()
    small = QImage(30, 20, QImage.Format.Format_RGB32)
    small.fill(Qt.GlobalColor.red)
    window.easel.show_glimpse(small)
    assert window.easel.grab().toImage().pixelColor(window.easel.rect().center()).red() == 255
    window.easel.show_glimpse(QImage())
    assert window.easel.grab().toImage().pixelColor(window.easel.rect().center()).red() != 255
    window.close()


def test_the_oldest_glimpses_go(tmp_path, monkeypatch):
    monkeypatch.setattr(glimpses, "_MOST", 3)
    for k in range(6):
        target = glimpses.cache() / "glimpses" / f"{k}.jpg"
        glimpses.keep(target, b"x")
        os.utime(target, ns=(k * 10**9, k * 10**9))
    assert len(list((glimpses.cache() / "glimpses").glob("*.jpg"))) == 3
    monkeypatch.setenv("KYANOSCRIPT_CACHE", "/proc/nowhere")
    glimpses.keep(glimpses.cache() / "glimpses" / "a.jpg", b"x")  # no folder, no glimpses, no word


# Memory


def test_no_more_is_kept_than_is_set_and_what_is_shown_stays_right(bench: Bench):
    bench.add("exposure", "local-contrast", "soften", "gradient-map")
    service, memory = bench.window.service, bench.window.memory
    before = bench.easel.frame.pixels.copy()
    assert service.kept > 1 << 20
    service.set_budget(1 << 20)
    assert service.kept <= 1 << 20
    bench.desk.undo()
    bench.settle()
    bench.desk.redo()
    bench.settle()
    assert service.kept <= 1 << 20
    assert np.array_equal(bench.easel.frame.pixels, before)
    memory.use(256)
    assert bench.window.habits.as_left().memory == 256
    memory.use(77)  # no amount there is to choose, as from a file written by hand
    assert memory.choice == 0


def test_memory_is_chosen_in_its_dialog_and_remembered(bench: Bench, monkeypatch):
    memory, told = bench.window.memory, []
    memory.changed.connect(lambda: told.append(memory.choice))

    def chosen(dialog):
        assert dialog.choice() == memory.choice
        assert "beside the photograph" in dialog.findChildren(QLabel)[1].text()
        dialog.buttons.button(768).click()
        return 1

    monkeypatch.setattr(MemoryDialog, "exec", chosen)
    memory.ask()
    assert (memory.choice, told) == (768, [768])
    assert bench.window.service.cache_bytes == 768 << 20
    memory.ask()  # the same again is no change
    assert told == [768]


@pytest.mark.parametrize(
    ("count", "gigabytes", "megabytes", "words"),
    [
        (1, 2, 204, "one processor and 2.0 GB of memory: views are coarser while you drag, and less is kept"),
        (1, 16, 384, "one processor: views are coarser while you drag"),
        (4, 3.5, 358, ""),
        (4, 2, 204, "2.0 GB of memory: less is kept, and comes back more slowly"),
        (2, 0.5, 96, "0.5 GB"),
        (2, 24, 384, ""),
    ],
)
def test_a_weak_machine_keeps_less_and_is_told_so(monkeypatch, count, gigabytes, megabytes, words):
    monkeypatch.setattr(machine, "processors", lambda: count)
    monkeypatch.setattr(machine, "memory", lambda: int(gigabytes * (1 << 30)))
    assert budget.automatic() == megabytes
    assert words in budget.weak()
    assert bool(budget.weak()) == bool(words)
    assert [budget.words(n) for n in (384, 1024, 1536)] == ["384 MB", "1 GB", "1.5 GB"]


def test_what_is_told_of_a_machine_comes_once_there_is_a_print(bare: Bench, photo):
    bare.window.tell_once("one processor")
    assert bare.said() == ""
    bare.open(photo)
    bare.desk.select(0)  # whatever was said of opening goes
    bare.qtbot.waitUntil(lambda: bare.easel.update() or bare.said() == "one processor")
