"""Four versions of the quad-tone demo print, hung in the States view: for the guide and for the pictures kept."""

from __future__ import annotations

from datetime import datetime

from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window


def hang(window: Window) -> None:
    """Keep them, go to the view, and read the third against the first."""
    desk, kept = window.desk, window.desk.kept
    clock = iter(datetime(2026, 11, 26, 10, minute) for minute in (4, 11, 26, 40))
    kept.now = lambda: next(clock)
    tone = next(k for k, step in enumerate(desk.run) if step.kind == "quad-tone")
    levels = next(k for k, step in enumerate(desk.run) if step.kind == "levels")
    desk.select(tone)
    for name, at, values in (
        ("Only the punch", tone, {"on": False}),
        ("Only the tint", tone, {"on": True}),
        ("Both, softer", levels, {"gamma": 1.25, "strength": 80.0}),
        ("Iron blue", tone, {"stops": ((0.0, "#0e1826"), (55.0, "#5d7288"), (100.0, "#eef3f6"))}),
    ):
        desk.set_values_at(at, name, **values)
        state = kept.keep()
        assert state is not None
        kept.describe(state.number, name, "")
    kept.now = lambda: datetime(2026, 11, 26, 11, 0)
    window.registry.go(window.states)
    settle(window)
    window.states.gallery.choose(3)
    window.states.gallery.compare_with(1)
