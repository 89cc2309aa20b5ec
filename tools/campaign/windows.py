"""Real windows, offscreen: two on one script, a photograph that goes away or changes, a script that names a pipe."""

from __future__ import annotations

import json
import os
import shutil
import sys
import time
import zipfile
from pathlib import Path
from typing import Any

from common import LIMIT, Report, room


def run() -> Report:
    """All of them in this process."""
    report, here = Report("windows"), room()
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication, QMessageBox

    from kyanoscript import demo
    from kyanoscript.files.kept.journal import find_lost
    from kyanoscript.files.kept.scriptfile import read_script
    from kyanoscript.files.prints.settings import Settings
    from kyanoscript.ui.app.picture import settle
    from kyanoscript.ui.app.window import Window
    from kyanoscript.ui.widgets import theme

    application = QApplication.instance() or QApplication([])
    assert isinstance(application, QApplication)
    theme.apply(application)
    asked: list[str] = []

    def answer() -> None:
        """Every question gets its last answer, which changes nothing."""
        box = application.activeModalWidget()
        if isinstance(box, QMessageBox):
            asked.append(f"{box.text()} {box.informativeText()}")
            box.reject()

    answering = QTimer()
    answering.timeout.connect(answer)
    answering.start(50)

    def window(path: Path) -> Any:
        made = Window()
        made.show()
        made.opening.open(path)
        settle(made, 30)
        return made

    def close(made: Any) -> None:
        made.desk.saved_as(made.desk.file, made.desk.script)
        began = time.monotonic()
        made.close()
        if time.monotonic() - began > LIMIT:
            report.found("closing a window takes too long")

    def must(fine: bool, what: str) -> None:
        report.tally["checked"] += 1
        if not fine:
            report.found(what)

    photo = here / "photo.jpg"
    shutil.copy(demo.photo("ferry-landing"), photo)

    first = window(photo)
    first.bench.passes.add("levels")
    first.saving.save_to(here / "s.kyano")
    settle(first)
    second = window(here / "s.kyano")
    first.bench.passes.add("grain")
    first.saving.save()
    settle(first)
    second.bench.passes.add("border")
    second.saving.save()
    settle(second)
    kinds = [first_window.kind for first_window in read_script(here / "s.kyano").script.passes]
    must(kinds == ["levels", "grain"] and len(asked) == 1, f"two windows on one script: {kinds}, asked {asked}")
    first.bench.passes.add("soften")
    first.keeper.write()
    second.keeper.write()
    settle(first)
    settle(second)
    must(find_lost() is None, "the work of a living window is offered to another")
    close(first)
    close(second)

    asked.clear()
    first_window = window(photo)
    first_window.bench.passes.add("levels")
    hidden = photo.rename(here / "hidden.jpg")
    first_window.saving.save_to(here / "g.kyano")
    settle(first_window)
    must((here / "g.kyano").exists() and not asked, f"a photograph that was moved keeps one from saving: {asked}")
    shutil.copy(demo.photo("carved-head"), photo)
    first_window.bench.passes.add("grain")
    first_window.saving.save()
    settle(first_window)
    must(len(asked) == 1 and first_window.desk.edited, f"another photograph in its place, not asked: {asked}")
    first_window.printing.export(photo, Settings(longer_side=200))
    settle(first_window)
    must(
        "never written" in first_window.foot.message.text(),
        f"export over the photograph: {first_window.foot.message.text()}",
    )
    first_window.printing.export(hidden.with_suffix(".kyano"), Settings())
    settle(first_window)
    report.said(first_window.foot.message.text(), "an export named .kyano")
    close(first_window)

    os.mkfifo(here / "pipe.jpg")
    with zipfile.ZipFile(here / "f.kyano", "w") as archive:
        archive.writestr("mimetype", "application/x-kyanoscript+zip")
        archive.writestr("script.json", '{"kyanoscript": 1}')
        archive.writestr("photo.json", json.dumps({"path": "pipe.jpg", "sha256": "0", "width": 1, "height": 1}))
    first_window = window(hidden)
    began = time.monotonic()
    first_window.opening.open(here / "f.kyano")
    settle(first_window, 10)
    must(time.monotonic() - began < LIMIT and not first_window.jobs.busy, "a script that names a pipe hangs the window")
    report.said(first_window.foot.message.text(), "a script that names a pipe")
    first_window.bench.passes.add("grain")
    first_window.saving.save_to(here / "after.kyano")
    settle(first_window, 10)
    must((here / "after.kyano").exists(), "nothing can be saved after a script that names a pipe")
    close(first_window)
    left = list(here.rglob(".*.part"))
    must(not left, f"left over: {left}")
    return report


if __name__ == "__main__":
    found = run()
    print(json.dumps(found.to_json()), flush=True)
    sys.exit(bool(found.findings))
