"""``printers``, and a sheet sent to one of them."""

from __future__ import annotations

import argparse
import atexit
import json
import os

from kyanoscript.core.quoting import quoted
from kyanoscript.files.base.progress import UNTOLD
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.terminal import OK

BENCH = "bench"


def printers(options: argparse.Namespace) -> int:
    """List them."""
    _awake()
    from kyanoscript.ui.sheet import printers as system

    names, usual = system.there(), system.usual()
    if options.json:
        rows = [{"name": name, "usual": name == usual} for name in names]
        print(json.dumps([*rows, {"name": BENCH, "usual": False}], indent=2, ensure_ascii=False))
        return OK
    for name in names:
        print(f"{name}{'  (the usual one)' if name == usual else ''}")
    print(f"{BENCH}  (a stand-in that ships)")
    return OK


def send(out: Out[OnSheet], name: str, gray: bool, copies: int) -> str:
    """Send a sheet to a printer of the system; gives what was done, in words. Raises ValueError, FileError."""
    _awake()
    from kyanoscript.ui.sheet import printers as system

    if name not in system.there():
        known = ", ".join([*system.there(), BENCH])
        raise ValueError(f"there is no printer {quoted(name)}; there are {known}")
    device = system.device_of(name)
    system.set_page(device, out.photo.path.stem, out.what.sheet)
    if wrong := system.not_its_paper(device, out.what.sheet, name):
        raise ValueError(wrong)
    if system.goes_out_gray(device, out) and not gray:
        raise ValueError(f"{name} prints in gray, and the print has colour; --gray prints it all the same")
    device.setCopyCount(copies)
    return f"{system.paint(out, device, UNTOLD)} {name}"


def _awake() -> None:
    """Qt tells of printers once there is an application, which needs no display; it ends before Python does."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtGui import QGuiApplication
    from PySide6.QtWidgets import QApplication

    if QGuiApplication.instance() is None:
        atexit.register(QApplication([]).shutdown)
