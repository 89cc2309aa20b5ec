"""Work within a pass that takes seconds: it is told on, can be stopped, and holds up nothing else."""

import threading

import numpy as np
import pytest
from PIL import Image

from kyanoscript.core.mend import detect
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Thumbnail
from kyanoscript.ui.service.views import Look, Shown
from tests.conftest import make_colourful

P = load_all()
WHOLE = Rect(0, 0, 360, 240)


@pytest.fixture
def gate(monkeypatch):
    """Looking a scan over goes on by one tile for every leave that is given."""
    network, monkey = detect.judged, threading.Semaphore(0)

    def judged(part):
        assert monkey.acquire(timeout=240)
        return network(part)

    monkeypatch.setattr(detect, "_TILE", 120)  # six on the test picture
    monkeypatch.setattr(detect, "judged", judged)
    yield monkey
    monkey.release(1000)


@pytest.fixture
def scan(bare, tmp_path):
    """A gray scan with a scratch, opened."""
    levels = make_colourful(240, 360).mean(axis=2).astype(np.uint8)
    levels[:, 180:182] = 255
    file = tmp_path / "yard.png"
    Image.fromarray(levels).save(file)
    bare.open(file)
    return bare


def test_the_foot_shows_how_far_looking_is_and_the_interface_goes_on(scan, gate):
    scan.window.bench.passes.add("mend")
    gate.release(2)
    foot = scan.window.foot
    scan.qtbot.waitUntil(lambda: foot.working and foot.progress.value() > 200)
    assert scan.said() == "Looking the scan over…"
    assert "pass is switched off" in foot.cancel.toolTip()
    scan.window.bench.passes.rename()  # anything else can be done meanwhile
    scan.passes.naming.close()
    gate.release(1000)
    scan.settle()
    assert not foot.working
    assert scan.said() == ""


def test_stop_switches_the_pass_off_and_undo_looks_again(scan, gate):
    scan.window.bench.passes.add("mend")
    gate.release(1)
    scan.qtbot.waitUntil(lambda: scan.window.foot.working)
    scan.window.foot.cancel.click()
    gate.release(4)  # the tiles that are under way, by as many threads as there are; one of the six never comes
    scan.settle()
    assert not scan.desk.selected_pass.on
    assert not scan.window.foot.working
    assert scan.desk.undo_label == "Stop looking"
    scratched = scan.shown()
    gate.release(1000)
    scan.window.desk.undo()
    scan.settle()
    assert scan.desk.selected_pass.on
    assert scan.shown() != scratched


def test_another_view_need_not_wait_until_looking_is_done(scan, gate):
    scan.window.bench.passes.add("mend")
    gate.release(1)
    scan.qtbot.waitUntil(lambda: scan.window.foot.working)
    scan.window.bench.passes.lamp()
    gate.release(4)  # of six, for whatever is under way; the rest never comes
    scan.settle()
    assert not scan.desk.selected_pass.on
    assert not scan.window.foot.working


def test_small_pictures_that_take_long_come_last_and_give_way_to_a_view(service, qtbot, gate):
    came, frames = [], []
    service.answers(Thumbnail).connect(lambda step: came.append(step.key))
    service.answers(Shown).connect(frames.append)
    slow, quick = Script((P["mend"](),)), Script((P["levels"](),))
    service.ask_instead(PROOFS, proofs("sheet", {"old": slow, "plain": quick, "dark": quick}, (90, 60)))
    qtbot.waitUntil(lambda: len(came) == 2)
    assert sorted(came) == ["dark", "plain"]  # two at once
    service.ask(Look(quick, WHOLE, 1.0))
    gate.release(1)
    qtbot.waitUntil(lambda: len(frames) == 1)  # while five tiles are still to be looked at
    assert "old" not in came
    gate.release(1000)
    qtbot.waitUntil(lambda: "old" in came)


def test_small_pictures_that_were_stopped_do_not_start_again(service, qtbot, gate):
    came = []
    service.answers(Thumbnail).connect(lambda step: came.append(step.key))
    slow = Script((P["mend"](),))
    with qtbot.waitSignal(service.looking):
        service.ask_instead(PROOFS, proofs("sheet", {"old": slow, "older": slow}, (90, 60)))
        gate.release(1)
    service.give_up()
    gate.release(1)
    qtbot.waitUntil(service.idle)
    assert came == []
