"""The window in a desktop's session, on a bus of the test's own with stand-ins for what a desktop has on it."""

import shutil
import subprocess
import sys
import threading
import time

import pytest

from kyanoscript import demo
from kyanoscript.files.base import bus
from kyanoscript.ui.app import session
from kyanoscript.ui.jobs.lanes import Lane

PROGRAM = [sys.executable, "-P", "-m", "kyanoscript"]
pytestmark = pytest.mark.skipif(shutil.which("dbus-daemon") is None, reason="there is no dbus-daemon here")

STAND_IN = """
import sys
from jeepney import MatchRule, new_method_return, new_error
from jeepney.io.blocking import open_dbus_connection
from jeepney.bus_messages import message_bus
name = sys.argv[1]
connection = open_dbus_connection(bus="SESSION")
connection.send_and_get_reply(message_bus.RequestName(name))
rule = MatchRule(type="signal", member="NameOwnerChanged")
connection.send_and_get_reply(message_bus.AddMatch(rule))
print("ready", flush=True)
while True:
    message = connection.receive()
    fields = message.header.fields
    member = next((value for key, value in fields.items() if key.name == "member"), "")
    if message.header.message_type.name == "signal":
        if member == "NameOwnerChanged" and message.body[0].startswith(":") and not message.body[2]:
            print("gone", message.body[0], flush=True)
        continue
    sender = next(value for key, value in fields.items() if key.name == "sender")
    print(member, sender, repr(message.body), flush=True)
    if member == "Notify":
        connection.send(new_method_return(message, "u", (7,)))
    elif name.endswith("portal.Desktop"):
        connection.send(new_method_return(message, "o", ("/request/1",)))
    else:
        connection.send(new_method_return(message, "u", (3,)))
"""


@pytest.fixture
def own_bus(monkeypatch):
    words = ["dbus-daemon", "--session", "--nofork", "--print-address"]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as daemon:
        monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", daemon.stdout.readline().strip())
        yield
        daemon.terminate()


class Desk:
    """A stand-in and what it has been told."""

    def __init__(self, name):
        words = [sys.executable, "-c", STAND_IN, name]
        self.process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout.readline() == "ready\n"
        self.told = []
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self):
        for line in self.process.stdout:
            self.told.append(line.strip())

    def said(self, what):
        return [line for line in self.told if line.startswith(what)]

    def wait(self, what):
        ends = time.monotonic() + 60
        while not self.said(what):
            assert time.monotonic() < ends, self.told
            time.sleep(0.01)
        return self.said(what)[0]


@pytest.fixture
def desk_of(own_bus):
    made = []

    def stand_in(name):
        made.append(Desk(name))
        return made[-1]

    yield stand_in
    for one in made:
        one.process.kill()
        one.process.wait()
        one.process.stdout.close()


def test_without_a_bus_nothing_is_said_and_nothing_waits(monkeypatch, tmp_path):
    for address in (None, "", f"unix:path={tmp_path / 'nowhere'}"):
        if address is None:
            monkeypatch.delenv("DBUS_SESSION_BUS_ADDRESS", raising=False)
        else:
            monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", address)
        assert not bus.there()
        assert not bus.hand_over([tmp_path])
        assert not bus.notify("Kyanoscript", "written")
        awake = bus.Awake("a print")
        assert not awake.held
        awake.release()


def test_on_a_bus_with_nobody_on_it_the_program_goes_on_alone(own_bus, tmp_path):
    assert bus.there()
    assert not bus.hand_over([tmp_path])
    assert not bus.notify("Kyanoscript", "written")
    assert not bus.Awake("a print").held


def test_a_notice_is_what_the_standard_has(desk_of):
    desk = desk_of("org.freedesktop.Notifications")
    assert bus.notify("Kyanoscript", "landing.tif is written")
    _, _, body = desk.wait("Notify").split(maxsplit=2)
    told = eval(body)
    assert told[0] == "Kyanoscript"
    assert told[2:5] == (bus.NAME, "Kyanoscript", "landing.tif is written")
    assert told[6] == {"desktop-entry": ("s", bus.NAME)}


@pytest.mark.parametrize("name", ["org.freedesktop.portal.Desktop", "org.freedesktop.PowerManagement"])
def test_the_machine_stays_awake_until_it_may_sleep(desk_of, name):
    desk = desk_of(name)
    awake = bus.Awake("A print is being written")
    assert awake.held
    line = desk.wait("Inhibit")
    assert "A print is being written" in line
    assert not any(told == f"gone {line.split()[1]}" for told in desk.told)
    awake.release()
    assert desk.wait(f"gone {line.split()[1]}")  # what asked for it has left the bus, and the desktop lets go
    assert not awake.held


def test_long_work_keeps_awake_and_a_notice_tells_its_end(bare, desk_of, monkeypatch, qtbot):
    """Only where the window is not in front, and only of what took long."""
    notices, power = desk_of("org.freedesktop.Notifications"), desk_of("org.freedesktop.PowerManagement")
    go_on = threading.Event()
    front = [True]
    monkeypatch.setattr(type(bare.window), "isActiveWindow", lambda self: front[0])

    def work(seconds, lane=Lane.LONG):
        monkeypatch.setattr(session, "_LONG", seconds)
        bare.window.foot.say("landing.tif is written")
        go_on.clear()
        ended = []
        job = bare.window.jobs.run(lambda job: go_on.wait(60), lane)
        job.told.connect(lambda: ended.append(True))
        before = len(power.said("Inhibit"))
        if lane is Lane.LONG:
            qtbot.waitUntil(lambda: len(power.said("Inhibit")) > before)
        go_on.set()
        qtbot.waitUntil(lambda: bool(ended))
        qtbot.waitUntil(lambda: not bare.window.jobs.busy)

    work(1000.0)
    qtbot.waitUntil(lambda: bool(power.said("gone")))
    work(0.0)
    front[0] = False
    work(1000.0)
    work(0.0, Lane.READ)
    assert not notices.said("Notify")
    work(0.0)
    qtbot.waitUntil(lambda: bool(notices.said("Notify")))
    assert "landing.tif is written" in notices.said("Notify")[0]


def test_a_second_start_brings_its_photograph_to_the_window_that_is_open(bare, own_bus, tmp_path, qtbot):
    """And ends with status 0, without a window of its own."""
    photo = shutil.copy(demo.photo("ferry-landing"), tmp_path / "ferry landing é.jpg")
    asked = []
    done = []
    bare.window.session.take_name()
    bare.window.opening.open = lambda path, *more: asked.append(path)

    def start(*words):
        run = subprocess.run([*PROGRAM, *map(str, words)], capture_output=True, text=True, timeout=100, cwd=tmp_path)
        done.append((run.returncode, run.stdout, run.stderr))

    for k, words in enumerate((["ferry landing é.jpg"], [photo]), 1):
        thread = threading.Thread(target=start, args=words)
        thread.start()
        qtbot.waitUntil(lambda k=k: len(done) == len(asked) == k)
        thread.join()
    assert asked == [photo, photo]
    assert done == [(0, "", "")] * 2
