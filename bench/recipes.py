"""How soon the contact sheet of recipes is filled, against one small picture alone, in the real window."""

from __future__ import annotations

import os
import statistics
import time
from pathlib import Path
from typing import Any

import interface
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Thumbnail

COUNT = 32
ROUNDS = 3


def sheet(folder: Path) -> dict[str, Any]:
    """The first 32 recipes on a photograph of 24 MP, in the sizes of a window of 1280 × 800.

    Each asking lays the recipes on another print, so that nothing rendered before can be used again; what is kept is
    the small version of the photograph, which is there before anyone opens the sheet.
    """
    from PySide6.QtWidgets import QApplication

    from kyanoscript.core.passes import load_all
    from kyanoscript.core.script import Script
    from kyanoscript.files.kept.cookbook import Cookbook
    from kyanoscript.ui.app.picture import settle

    window = interface.opened(folder, {"kyanoscript": 1, "passes": []})
    window.resize(1280, 800)
    window.registry.go(window.recipes)
    settle(window)
    thumb, service = window.recipes.trials.grid.thumb, window.service
    recipes = Cookbook().read().recipes[:COUNT]
    levels: Any = load_all()["levels"]
    arrived: list[float] = []
    service.answers(Thumbnail).connect(
        lambda proof: arrived.append(time.perf_counter()) if proof.tag == asked else None
    )
    asked = 0

    def fill(chosen: Any) -> list[float]:
        """Seconds after which each picture came."""
        nonlocal asked
        asked += 1
        print_ = Script((levels(gamma=round(1 + asked * 0.01, 2)),))
        arrived.clear()
        began = time.perf_counter()
        scripts = {recipe.word: recipe.used(print_, added=True) for recipe in chosen}
        service.ask_instead(PROOFS, proofs(asked, scripts, (thumb.width(), thumb.height())))
        while len(arrived) < len(chosen):
            QApplication.processEvents()
            time.sleep(0.0005)
        return [at - began for at in arrived]

    fill(recipes)
    alone = [statistics.median(fill([recipe])[0] for _ in range(ROUNDS)) for recipe in recipes]
    before = _resident()
    firsts, lasts = [], []
    for _ in range(ROUNDS):
        times = fill(recipes)
        firsts.append(times[0])
        lasts.append(times[-1])
    probe = interface.Probe()
    late = []
    for _ in range(ROUNDS):  # the sheet itself, all of it anew, as after another photograph has come
        window.recipes.trials.grid.forget()
        probe.again()
        window.recipes.trials._ask()
        while not service.idle():
            interface.wait(0.02)
        late.append(probe.longest())
    row = {
        "alone": statistics.mean(alone),
        "first": statistics.median(firsts),
        "all": statistics.median(lasts),
        "late": max(late),
        "megabytes_more": _resident() - before,
    }
    interface.closed(window)
    return row


def _resident() -> float:
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 2**20
