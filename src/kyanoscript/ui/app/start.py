"""Starting the window."""

from __future__ import annotations

import argparse
import gc
import os
import signal
import socket
import sys
import threading
from collections.abc import Callable, Sequence
from importlib import resources
from pathlib import Path
from types import TracebackType
from typing import Any

from kyanoscript.terminal import OK, complain
from kyanoscript.translation import tr

_SMALL = 900  # pixels of a photograph that is shown before it is opened
_USUAL, _LARGEST = 11.0, 2.5  # points of a system's text that is left as it is; times that everything may grow
_FOLLOWED = "KYANOSCRIPT_TEXT_FOLLOWED"  # set where it has been done
_ENDS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


def run(words: Sequence[str]) -> int:
    """Open the window on what the command line names; returns the exit status."""
    parser = argparse.ArgumentParser(prog="kyanoscript", allow_abbrev=False)
    parser.add_argument("file", nargs="?", type=Path, help="a photograph or a script file")
    parser.add_argument("--demo", action="store_true", help="open a demo photograph with its script")
    parser.add_argument("--apart", action="store_true", help="in a window of its own, though one is open")
    parser.add_argument("--picture", type=Path, metavar="PNG", help="draw the window into a file and leave")
    options = parser.parse_args(list(words))
    ending = _Ending()
    wrong = _cannot_show(options.picture is not None) or _not_there(options)
    if wrong:
        return complain(wrong)

    from kyanoscript.files.base import bus

    alone = options.picture is not None or options.demo or options.apart
    if not alone and bus.hand_over([options.file] if options.file is not None else []):
        return OK
    from PySide6.QtGui import QIcon, QImage, QPixmap
    from PySide6.QtWidgets import QApplication

    gc.disable()  # what is loaded stays; looking through it for what could go is a tenth of the start
    _sources_stay_unread()
    from kyanoscript.files.kept.remembered import Remembered, recall
    from kyanoscript.ui.app.shell import Shell
    from kyanoscript.ui.widgets import theme

    application = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(application, QApplication)
    _speak_as_qt_does(application)
    if options.picture is None:
        _follow_text_size(application.font().pointSizeF())
    application.setApplicationName("Kyanoscript")
    application.setDesktopFileName(bus.NAME)
    remembered = recall() if options.picture is None else Remembered()
    theme.apply(application, theme.look_for(remembered.look))
    from kyanoscript import demo

    first_time = options.picture is None and options.file is None and not remembered.recent
    opened = demo.PRINTS[0].script if options.demo or first_time else options.file
    glimpse = glimpse_of(opened) if options.picture is None else QImage()
    shell = Shell(remembered)
    shell.show_glimpse(glimpse)
    shell.show()
    application.processEvents()  # the window is on the screen; what follows takes longer to load
    # Rendering threads hand over to the interface often: a long turn would be a jerk under the pointer.
    sys.setswitchinterval(0.001)

    from kyanoscript.core import machine

    machine.keep_freed_memory()  # before there are threads
    from kyanoscript.ui.app.window import Window
    from kyanoscript.ui.service import budget

    window = Window(remembered, keeps=options.picture is None)
    window.easel.show_glimpse(glimpse)
    shell.hold(window)
    icons = resources.files("kyanoscript") / "desktop" / "icons"
    shell.setWindowIcon(QIcon(QPixmap(str(icons / "128.png"))))
    gc.freeze()  # nor is it looked through later
    gc.enable()
    _faults_are_noted(window.foot.say)
    ending.follow(window)
    failed: list[str] = []
    warned: list[str] = []
    window.foot.warned.connect(warned.append)
    if options.demo:
        job = window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    elif options.file is not None:
        job = window.opening.open(options.file)
    else:
        job = None
    if job is not None:
        job.failed.connect(failed.append)
        job.failed.connect(lambda _: window.easel.show_glimpse(QImage()))
    if options.picture is not None:
        from kyanoscript.ui.app import picture

        return picture.draw(window, options.picture, job is not None, failed, warned)
    window.keeper.look()
    if first_time and not options.demo:
        window.open_demo()
    window.session.take_name()
    if weak := budget.weak():
        window.tell_once(weak)
    status = application.exec()
    if window.left_behind:  # something is still at work, and was not to be waited for
        sys.stdout.flush()
        os._exit(status)
    return status


def _speak_as_qt_does(application: Any) -> None:
    """What Qt itself says, such as in its dialogs, is in the same language."""
    from PySide6.QtCore import QLibraryInfo, QTranslator

    from kyanoscript import translation

    if translation.language() != "en":
        translator = QTranslator(application)
        folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
        if translator.load(f"qtbase_{translation.language()}", folder):
            application.installTranslator(translator)


def _sources_stay_unread() -> None:
    """PySide looks through the source of every module that is imported after it for its own name, since names of its
    widgets may be changed there (``from __feature__ import``). Nobody does that here, and of the start it is a fifth.
    """
    feature: Any = sys.modules.get("shibokensupport.feature")
    if hasattr(feature, "_mod_uses_pyside"):
        feature._mod_uses_pyside = lambda module: False


def text_scale(points: float) -> float:
    """How much larger everything is to be than it was drawn, where the system's text is of so many points."""
    wanted = points / _USUAL
    return min(round(wanted, 2), _LARGEST) if wanted > 1.1 else 1.0


def _follow_text_size(points: float) -> None:
    """Begin again with everything larger, where the system's text is. Qt has to know before there is an application."""
    scale = text_scale(points)
    if scale > 1 and _FOLLOWED not in os.environ:
        before = os.environ.get("QT_SCALE_FACTOR", "")
        own = float(before) if before.replace(".", "", 1).isdigit() else 1.0
        os.environ |= {"QT_SCALE_FACTOR": f"{own * scale:g}", _FOLLOWED: "1"}
        os.execv(sys.executable, sys.orig_argv)


def glimpse_of(opened: Path | None) -> Any:
    """A small picture of what is about to be opened: as it was last seen, or a plain photograph read small."""
    from PySide6.QtCore import QSize, Qt
    from PySide6.QtGui import QColorSpace, QImage, QImageReader

    from kyanoscript.files.kept import glimpses

    place = glimpses.place(opened) if opened is not None else None
    if opened is None or place is None:
        return QImage()
    if place.exists():
        return QImage(str(place))
    reader = QImageReader(str(opened))
    if bytes(reader.format().data()) != b"jpeg":  # the one kind that is read small in little time
        return QImage()
    reader.setAutoTransform(True)
    size = reader.size()
    reader.setScaledSize(size.scaled(QSize(_SMALL, _SMALL), Qt.AspectRatioMode.KeepAspectRatio))
    image = reader.read()
    if image.colorSpace().isValid():
        image.convertToColorSpace(QColorSpace(QColorSpace.NamedColorSpace.SRgb))
    return image


def _cannot_show(to_a_file: bool) -> str:
    """Why no window can be shown, which Qt itself would say by a crash; empty if one can."""
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    if platform and platform.partition(":")[0] not in ("xcb", "wayland"):
        return ""
    reached = _x_answers() or _wayland_answers()
    if not reached and to_a_file:
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        return ""
    if not reached:
        return "there is no display to open a window on; the commands render, trace and check work without one (--help)"
    return _lacks_libraries() if os.environ.get("DISPLAY") and not _wayland_answers() else ""


def _x_answers() -> bool:
    """Whether an X server lets this program in."""
    if not os.environ.get("DISPLAY"):
        return False
    import ctypes

    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return True  # then Qt itself has to say
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connection_has_error.argtypes = xcb.xcb_disconnect.argtypes = [ctypes.c_void_p]
    connection = xcb.xcb_connect(None, None)
    fine = not xcb.xcb_connection_has_error(connection)
    xcb.xcb_disconnect(connection)
    return fine


def _wayland_answers() -> bool:
    """Whether a Wayland compositor lets this program in."""
    name, folder = os.environ.get("WAYLAND_DISPLAY", ""), os.environ.get("XDG_RUNTIME_DIR", "")
    if not name:
        return False
    try:
        with socket.socket(socket.AF_UNIX) as line:
            line.settimeout(1)
            line.connect(os.path.join(folder, name))
    except OSError:
        return False
    return True


def _lacks_libraries() -> str:
    """Which library of the system Qt's window plugin lacks; empty if it has all."""
    import ctypes
    import importlib.util

    spec = importlib.util.find_spec("PySide6")
    if spec is None or spec.origin is None:
        return "PySide6 is not installed"
    plugin = Path(spec.origin).parent / "Qt" / "plugins" / "platforms" / "libqxcb.so"
    if plugin.exists():
        try:
            ctypes.CDLL(str(plugin))
        except OSError as error:
            missing = str(error).partition(":")[0]
            return tr(
                "the system library {missing} is missing, which Qt needs; on Debian: apt install libxcb-cursor0",
                missing=missing,
            )
    return ""


def _not_there(options: argparse.Namespace) -> str:
    """What is wrong with the names given; empty if nothing is. Whatever lies in the files is said in the window."""
    if options.picture is not None and not options.picture.absolute().parent.is_dir():
        return tr("{name}: its folder does not exist. Choose another folder", name=options.picture.name)
    return ""


class _Ending:
    """The system or the terminal asks to end: the work goes into the journal, half-written files go."""

    def __init__(self) -> None:
        self._window: Any = None
        if threading.current_thread() is threading.main_thread():
            for number in _ENDS:
                signal.signal(number, self._end)

    def follow(self, window: Any) -> None:
        """There is a window with work from now on; its event loop wakes up for signals."""
        from PySide6.QtCore import QSocketNotifier

        self._window = window
        ours, theirs = socket.socketpair()
        ours.setblocking(False)
        theirs.setblocking(False)
        self._sockets = ours, theirs
        signal.set_wakeup_fd(theirs.fileno(), warn_on_full_buffer=False)
        self._bell = QSocketNotifier(ours.fileno(), QSocketNotifier.Type.Read)
        # The event loop is in machine code; Python's own handler runs as soon as it comes back from there.
        self._bell.activated.connect(lambda *_: ours.recv(1))

    def _end(self, number: int, _frame: object) -> None:
        from kyanoscript.files.base import replace

        try:
            if self._window is not None:
                self._window.end_at_once()
            replace.abandon()
        finally:
            os._exit(128 + number)


def _faults_are_noted(say: Callable[..., None]) -> None:
    """What nobody foresaw goes to the log; the person is told that it did, in words."""
    from kyanoscript.files.base import log
    from kyanoscript.ui.jobs.lanes import UNFORESEEN

    def noted(kind: type[BaseException], error: BaseException, _trace: TracebackType | None) -> None:
        log.note("a fault that nobody foresaw", error)
        say(UNFORESEEN, warning=True, stay=True)

    sys.excepthook = noted
    threading.excepthook = lambda found: log.note("a fault in a thread", found.exc_value)
