"""``printers``, and a sheet sent to one of them."""

from __future__ import annotations

import argparse
import atexit
import json
import os
from collections.abc import Mapping

from kyanoscript.core.quoting import quoted
from kyanoscript.files.base.progress import UNTOLD
from kyanoscript.files.prints import queues
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.terminal import OK
from kyanoscript.translation import tr

BENCH = "bench"


def printers(options: argparse.Namespace) -> int:
    """List them."""
    _awake()
    from kyanoscript.ui.sheet import printers as system

    names, usual = system.there(), system.usual()
    known = {name: queues.asked(name) for name in names}
    if options.json:
        rows: list[dict[str, object]] = []
        for name in names:
            has = {one.what: {"choices": one.choices, "usual": one.usual} for one in known[name].offers}
            rows.append({"name": name, "usual": name == usual, "papers": known[name].papers, **has})
        print(json.dumps([*rows, {"name": BENCH, "usual": False}], indent=2, ensure_ascii=False))
        return OK
    for name in names:
        print(f"{name}{'  (the usual one)' if name == usual else ''}")
        for one in known[name].offers:
            choices = (
                tr("{choice} (usual)", choice=choice) if choice == one.usual else choice for choice in one.choices
            )
            print(f"  {one.what}: {', '.join(choices)}")
        if known[name].papers:
            print(tr("  papers: {papers}", papers=", ".join(known[name].papers)))
    print(tr("{bench}  (a stand-in that ships)", bench=BENCH))
    return OK


def send(out: Out[OnSheet], name: str, gray: bool, copies: int, chosen: Mapping[str, str]) -> str:
    """Send a sheet to a printer of the system; gives what was done, in words. Raises ValueError, FileError."""
    _awake()
    from kyanoscript.ui.sheet import printers as system

    if name not in system.there():
        known = ", ".join([*system.there(), BENCH])
        raise ValueError(tr("there is no printer {name}; there are {known}", name=quoted(name), known=known))
    device = system.device_of(name)
    system.set_page(device, out.photo.path.stem, out.what.sheet)
    queue = queues.asked(name)
    if wrong := system.not_its_paper(device, out.what.sheet, name, queue):
        raise ValueError(wrong)
    wanted = system.Wanted(queue, queues.checked(queue, chosen), copies)
    if system.goes_out_gray(device, out, wanted) and not gray:
        raise ValueError(
            tr("{name} prints in gray, and the print has colour; --gray prints it all the same", name=name)
        )
    return f"{system.hand(out, device, name, out.photo.path.stem, wanted, UNTOLD)} {name}"


def _awake() -> None:
    """Qt tells of printers once there is an application, which needs no display; it ends before Python does."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtGui import QGuiApplication
    from PySide6.QtWidgets import QApplication

    if QGuiApplication.instance() is None:
        atexit.register(QApplication([]).shutdown)
