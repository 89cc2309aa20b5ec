"""Random hands on the real window, offscreen; at the end everything is taken back and compared with the beginning.

Run as a program of its own: ``hands.py SECONDS SEED``; prints what it found as JSON.

Longer than most: what hands can do, one short method each.
"""

from __future__ import annotations

import collections
import faulthandler
import gc
import hashlib
import json
import random
import sys
import threading
import time
import traceback
from collections.abc import Callable
from types import TracebackType
from typing import Any

from common import LIMIT, Report, room

HERE = room()
WARM = 300.0  # seconds after which memory is expected not to grow any more
GROWS = 1.2  # times as much as then, at most

from PySide6.QtCore import QPoint, Qt, QTimer, qInstallMessageHandler  # noqa: E402
from PySide6.QtGui import QKeySequence  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QMenu, QMessageBox, QWidget  # noqa: E402
from shiboken6 import isValid  # noqa: E402

from kyanoscript import demo  # noqa: E402
from kyanoscript.core import passes  # noqa: E402
from kyanoscript.core.script import dumps  # noqa: E402
from kyanoscript.files.base import log  # noqa: E402
from kyanoscript.files.prints.settings import Settings  # noqa: E402
from kyanoscript.ui.app.picture import settle  # noqa: E402
from kyanoscript.ui.app.window import Window  # noqa: E402
from kyanoscript.ui.commands.list import COMMANDS, QUIT, REDO, UNDO  # noqa: E402
from kyanoscript.ui.commands.view import Held  # noqa: E402
from kyanoscript.ui.widgets import theme  # noqa: E402

NONE = Qt.KeyboardModifier.NoModifier
LEFT = Qt.MouseButton.LeftButton
MODIFIERS = [NONE] * 5 + [
    Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
]  # fmt: skip
SKIP = (QUIT,)


class Hands:
    """One window, and hands that know nothing."""

    def __init__(self, seconds: float, seed: int) -> None:
        self.seconds, self.r = seconds, random.Random(seed)
        self.report = Report("hands")
        self.recent: collections.deque[str] = collections.deque(maxlen=8)
        self.seen: collections.Counter[str] = collections.Counter()
        self.opened, self.late = "", False
        self.stalls: list[float] = []
        self.memory: list[tuple[float, int]] = []
        self.levels: list[int] = []  # after five minutes, and at the end
        self.application = QApplication([])
        theme.apply(self.application)
        sys.setswitchinterval(0.001)
        self._watch()
        self.pictures = [demo.photo(name) for name in (*demo.NAMES, *demo.SCANS)]
        self.before = {path: hashlib.sha256(path.read_bytes()).hexdigest() for path in self.pictures}
        self.window = Window()
        self.window.resize(1280, 800)
        self.window.show()
        self.window.service.failed.connect(lambda text: self.fault("service", text))
        self._listen()
        known = list(passes.load_all())
        self.light = [kind for kind in known if kind not in ("mend", "hand-tint")]
        self.heavy = known

    # What is watched

    def fault(self, kind: str, text: str) -> None:
        """Something that must not be; the same only once."""
        line = text.strip().splitlines()[-1][:200]
        self.seen[f"{kind}: {line}"] += 1
        if self.seen[f"{kind}: {line}"] == 1:
            self.report.found(f"{kind} after {list(self.recent)}: {text[-900:]}")

    def _watch(self) -> None:
        def hook(kind: type[BaseException], value: BaseException, trace: TracebackType | None) -> None:
            self.fault("exception", "".join(traceback.format_exception(kind, value, trace)))

        sys.excepthook = hook
        threading.excepthook = lambda a: self.fault("thread", "".join(traceback.format_exception(a.exc_value)))
        qInstallMessageHandler(lambda _m, _c, text: None if "does not support" in text else self.fault("qt", text))
        faulthandler.enable()
        saves = [".kyano", ".json", ""]
        QFileDialog.getOpenFileName = staticmethod(  # type: ignore[method-assign]
            lambda *_a, **_k: (
                "" if self.late else str(self.r.choice([*self.pictures, *HERE.glob("hands-*.kyano")])),
                "",
            )
        )
        QFileDialog.getSaveFileName = staticmethod(  # type: ignore[method-assign]
            lambda *_a, **_k: (str(HERE / f"hands-{self.r.randrange(3)}{self.r.choice(saves)}"), "")
        )
        QMenu.exec = lambda *_a: None  # type: ignore[method-assign]
        self.timers = []
        self.beat = time.monotonic()
        for do, each in ((self._answer, 150), (self._pulse, 50)):
            timer = QTimer()
            timer.timeout.connect(do)
            timer.start(each)
            self.timers.append(timer)

    def _answer(self) -> None:
        """Every question gets some answer after a moment."""
        top = self.application.activeModalWidget()
        if isinstance(top, QMessageBox):
            self.recent.append(f"question {top.text()[:30]!r}")
            self.report.said(f"{top.text()} {top.informativeText()}".replace("\n", " "), "a question")
            self.r.choice(top.buttons()).click()
        elif isinstance(top, QDialog):
            self.recent.append(f"dialog {type(top).__name__}")
            top.accept() if self.r.random() < 0.3 and type(top).__name__ == "ExportDialog" else top.reject()
        elif top is not None:
            top.close()
        # A menu that Qt itself opens, as the one behind a menu bar that is too narrow, waits in a loop of its own.
        menu = self.application.activePopupWidget()
        if isinstance(menu, QMenu):
            self.recent.append(f"menu {menu.title()!r}")
            menu.close()

    def _pulse(self) -> None:
        now = time.monotonic()
        if now - self.beat > 0.5:
            self.stalls.append(round(now - self.beat, 2))
        self.beat = now

    def _listen(self) -> None:
        say, desk_open = self.window.foot.say, self.window.desk.open

        def heard(text: str, *more: Any, **named: Any) -> None:
            self.report.said(text, "the foot")
            say(text, *more, **named)

        def following(*args: Any, **named: Any) -> None:
            desk_open(*args, **named)
            self.opened = dumps(self.window.desk.script)

        self.window.foot.say = heard  # type: ignore[method-assign]
        self.window.desk.open = following  # type: ignore[method-assign]

    # What the hands do

    def pause(self, seconds: float) -> None:
        """Let the window work."""
        end = time.monotonic() + seconds
        while True:
            self.application.processEvents()
            if time.monotonic() >= end:
                return
            time.sleep(0.002)

    def somewhere(self, widget: QWidget) -> QPoint:
        """Any point of a widget."""
        return QPoint(self.r.randrange(max(1, widget.width())), self.r.randrange(max(1, widget.height())))

    def drag(self, widget: QWidget, places: list[QPoint]) -> None:
        """Press, go from place to place, let go."""
        modifier = self.r.choice(MODIFIERS)
        button = self.r.choice([LEFT] * 9 + [Qt.MouseButton.MiddleButton])
        QTest.mousePress(widget, button, modifier, places[0])
        for place in places[1:]:
            if isValid(widget):  # a press may have done away with it
                QTest.mouseMove(widget, place)
            self.pause(self.r.choice([0, 0, 0.01, 0.04]))
        if isValid(widget):
            QTest.mouseRelease(widget, button, modifier, places[-1])

    def action(self) -> None:
        """Anything from the list of what can be done, where it can be done."""
        registry = self.window.registry
        command = self.r.choice([entry for entry in registry.every() if entry not in SKIP])
        self.recent.append(f"command {command.text}")
        found = registry.handler(command)
        if isinstance(found, Held):
            found.start()
            self.pause(self.r.uniform(0, 0.3))
            found.end()
        elif registry.possible(command):
            registry.do(command)

    def key(self) -> None:
        """A key of the list, wherever the keyboard is."""
        entry = self.r.choice([command for command in COMMANDS if command not in SKIP and command.keys])
        key: Any = QKeySequence(entry.keys)[0]  # type: ignore[index]
        widget = self.application.focusWidget() or self.window
        self.recent.append(f"key {entry.keys} on {type(widget).__name__}")
        QTest.keyPress(widget, key.key(), key.keyboardModifiers())
        self.pause(self.r.uniform(0, 0.1))
        if isValid(widget):
            QTest.keyRelease(widget, key.key(), key.keyboardModifiers())

    def press(self) -> None:
        """Press, double-press or drag on any widget in sight."""
        every = [w for w in self.window.findChildren(QWidget) if w.isVisible() and w.width() > 6 and w.height() > 6]
        widget, kind = self.r.choice(every), self.r.random()
        self.recent.append(f"press {type(widget).__name__} {widget.accessibleName()!r}")
        if kind < 0.6:
            QTest.mouseClick(widget, LEFT, self.r.choice(MODIFIERS), self.somewhere(widget))
        elif kind < 0.8:
            QTest.mouseDClick(widget, LEFT, self.r.choice(MODIFIERS), self.somewhere(widget))
            if isValid(widget):
                QTest.mouseRelease(widget, LEFT, NONE, self.somewhere(widget))
        else:
            self.drag(widget, [self.somewhere(widget) for _ in range(self.r.randrange(2, 5))])

    def slide(self) -> None:
        """Drag any slider of the slip."""
        found = [s for s in self.window.bench.slip.sliders.values() if s.isVisible()]
        if found:
            slider = self.r.choice(found)
            self.recent.append(f"slide {slider.accessibleName()!r}")
            y = slider.height() - 8
            self.drag(slider, [QPoint(self.r.randrange(slider.width()), y) for _ in range(self.r.randrange(2, 4))])

    def on_easel(self) -> None:
        """Drag over the print."""
        self.recent.append("hand on the easel")
        self.drag(self.window.easel, [self.somewhere(self.window.easel) for _ in range(self.r.randrange(2, 8))])

    def on_ladder(self) -> None:
        """Drag on the ladder."""
        if self.window.bench.ladder.isVisible():
            self.recent.append(f"ladder, {getattr(self.window.desk.selected_pass, 'kind', None)}")
            self.drag(self.window.bench.ladder, [self.somewhere(self.window.bench.ladder) for _ in range(2)])

    def stencil(self) -> None:
        """Draw a stencil with any hand."""
        window = self.window
        if window.registry.view is window.bench and window.desk.selected_pass is not None:
            self.recent.append("stencil")
            window.easel.stencil.switch(True)
            self.application.processEvents()
            hands = [e for name, e in window.bench.slip.editors.items() if name.startswith("hand ")]
            if hands:
                self.r.choice(hands).click()  # type: ignore[attr-defined]
            for _ in range(self.r.randrange(1, 4)):
                self.on_easel()
            if self.r.random() < 0.6:
                window.easel.stencil.switch(False)

    def add(self) -> None:
        """Another pass."""
        window = self.window
        if window.desk.photo is not None and window.registry.view is window.bench and len(window.desk.run) < 14:
            kind = self.r.choice(self.light if self.r.random() < 0.95 else self.heavy)
            self.recent.append(f"add {kind}")
            window.bench.passes.add(kind, self.r.choice([None, 0]), None)

    def thin(self) -> None:
        """One pass less where there are many."""
        if len(self.window.desk.run) > 10 and self.window.desk.chosen:
            self.recent.append("remove")
            self.window.bench.passes.remove()

    def size(self) -> None:
        """Another size of the window."""
        self.recent.append("resize")
        self.window.resize(self.r.choice([960, 961, 1111, 1280, 1533, 1920]), self.r.choice([600, 601, 777, 800, 1080]))

    def frame(self) -> None:
        """Work on the frame."""
        if self.window.desk.photo is not None and self.window.registry.view is self.window.bench:
            self.recent.append("frame")
            self.window.desk.select(-1)
            self.application.processEvents()
            for _ in range(self.r.randrange(1, 3)):
                self.on_easel()
            if self.r.random() < 0.5:
                self.window.desk.select(0)

    def zoom(self) -> None:
        """Nearer or farther."""
        self.recent.append("zoom")
        self.window.easel.set_zoom(self.window.easel.magnification() * self.r.choice([0.3, 0.8, 1.25, 3]))

    def go_back(self) -> None:
        """Back and forth in the history."""
        self.recent.append("undo and redo")
        for _ in range(self.r.randrange(1, 6)):
            self.window.registry.do(UNDO if self.r.random() < 0.6 else REDO)

    def open_other(self) -> None:
        """Another print on the bench; at the end one stays."""
        if self.late:
            return
        entry = self.r.choice(demo.PRINTS)
        self.recent.append(f"open {entry.word}")
        if self.r.random() < 0.7:
            self.window.desk.saved_as(self.window.desk.file, self.window.desk.script)
        self.window.opening.open(entry.photo, entry.script)

    def export(self) -> None:
        """Write a print, or stop writing it."""
        self.recent.append("export")
        side = self.r.choice([300, 900])
        self.window.printing.export(
            HERE / f"hands{self.r.choice(['.tif', '.png', '.jpg'])}", Settings(longer_side=side)
        )
        if self.r.random() < 0.5:
            self.window.stop_work()

    # From beginning to end

    def resident(self) -> int:
        """Megabytes in memory beside the tiles that are kept, which come and go with what is on the bench."""
        with open("/proc/self/status") as file:
            whole = next(int(line.split()[1]) >> 10 for line in file if line.startswith("VmRSS"))
        return whole - (self.window.service.kept >> 20)

    def level(self) -> int:
        """Megabytes with one and the same print on the bench, at rest: what is compared, since memory in the middle of
        work goes up and down by half with what is worked on."""
        window = self.window
        window.easel.hold(None)
        window.registry.go(window.bench)
        window.easel.give_up()
        window.desk.abort()
        window.desk.saved_as(window.desk.file, window.desk.script)
        window.resize(1280, 800)
        for entry in (demo.PRINTS[1], demo.PRINTS[0]):
            window.opening.open(entry.photo, entry.script)
            settle(window, 60)
            self.pause(1)
        gc.collect()
        return self.resident()

    def run(self) -> Report:
        """Work for so many seconds, then take everything back."""
        weighted: list[tuple[Callable[[], None], float]] = [
            (self.action, 22), (self.key, 14), (self.press, 22), (self.slide, 14), (self.on_easel, 8),
            (self.on_ladder, 3), (self.stencil, 5), (self.add, 6), (self.thin, 3), (self.size, 2), (self.frame, 3),
            (self.zoom, 3), (self.go_back, 6), (self.open_other, 0.5), (self.export, 0.6),
        ]  # fmt: skip
        self.window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
        settle(self.window)
        began, minute = time.monotonic(), 0
        while (now := time.monotonic() - began) < self.seconds:
            self.late = now > self.seconds * 0.85
            try:
                self.r.choices([do for do, _ in weighted], [w for _, w in weighted])[0]()
            except Exception:
                self.fault("raised", traceback.format_exc())
            self.report.tally["actions"] += 1
            self.pause(self.r.choice([0, 0, 0.01, 0.05, 0.2]))
            if now > WARM and not self.levels:
                self.levels.append(self.level())
            if now > 60 * (minute + 1):
                minute += 1
                self.memory.append((round(now), self.resident()))
        self._take_back()
        self._end()
        return self.report

    def _take_back(self) -> None:
        window = self.window
        window.easel.hold(None)
        window.registry.go(window.bench)
        window.easel.give_up()
        window.desk.abort()
        settle(window, 90)
        if not window.service.idle() or window.jobs.busy:
            self.report.found("the window does not come to rest")
        for popup in (self.application.activePopupWidget(), self.application.activeModalWidget()):
            if popup is not None:
                popup.close()
        desk = window.desk
        desk.go_to(len(desk.history[0]) - 1)
        last, count = dumps(desk.script), 0
        while desk.undo_label and count < 100_000:
            desk.undo()
            count += 1
        if dumps(desk.script) != self.opened:
            self.report.found("everything taken back is not what was opened")
        for _ in range(count):
            desk.redo()
        if dumps(desk.script) != last:
            self.report.found("everything done again is not what it was")
        self.report.tally["taken back"] = count

    def _end(self) -> None:
        window = self.window
        for path, digest in self.before.items():
            if hashlib.sha256(path.read_bytes()).hexdigest() != digest:
                self.report.found(f"the photograph {path.name} has changed")
        settle(window, 60)
        gc.collect()
        if self.levels:
            self.levels.append(self.level())
            self.report.figures["MB at rest after five minutes, at the end"] = self.levels
            if self.levels[1] > GROWS * self.levels[0]:
                self.report.found(f"memory grows: {self.levels}, by the minute {self.memory}")
        window.desk.saved_as(window.desk.file, window.desk.script)
        began = time.monotonic()
        window.close()
        took = time.monotonic() - began
        if took > LIMIT:
            self.report.found(f"closing takes {took:.1f} s")
        if max(self.stalls, default=0) > LIMIT:
            self.report.found(f"the window did not answer for {max(self.stalls)} s")
        left = list(HERE.rglob(".*.part"))
        if left:
            self.report.found(f"left over: {left}")
        if log.path().exists() and not self.report.findings:
            self.report.found(f"the log has: {log.path().read_text()[-1500:]}")
        self.report.figures["longest stalls s"] = sorted(self.stalls)[-5:]
        self.report.figures["memory by the minute"] = self.memory


if __name__ == "__main__":
    found = Hands(float(sys.argv[1]), int(sys.argv[2])).run()
    print(json.dumps(found.to_json()), flush=True)
    sys.exit(bool(found.findings))
