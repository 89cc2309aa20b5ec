"""What is drawn both for the guide and for the pictures that are kept: states hung, values sought, a print followed."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from kyanoscript import demo
from kyanoscript.cli import main as command
from kyanoscript.core.script.dials import Dial
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.jobs.lanes import until

EIGHT = (
    ("gray-weights", "red"), ("gray-weights", "blue"), ("levels", "in_black"), ("levels", "gamma"),
    ("toner-bath", "time"), ("toner-bath", "depth"), ("paper-tone", "tone"), ("grain", "amount"),
)  # fmt: skip


def hang(window: Window) -> None:
    """Keep four versions of the quad-tone print, go to the States view, and read the third against the first."""
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


def seek(window: Window) -> None:
    """Seek eight values of the sepia print, as far as four looks."""
    window.registry.go(window.strip)
    window.strip.turn(True)
    search = window.strip.search
    for dial in list(search.sought):
        search.tick(dial, False)
    for kind, name in EIGHT:
        step = next(step for step in window.desk.script.passes if step.kind == kind)
        search.tick(Dial("pass", name, step.id), True)
    search.begin()
    settle(window)
    for place in (5, 1, 4, 3):
        search.choose(place)
        settle(window)


def follow(window: Window, folder: Path) -> None:
    """Follow a sepia print of the ferry landing, without the recipe that it is known by."""
    earlier = folder / "landing-1931.jpg"
    photo = str(demo.photo("ferry-landing"))
    command(["render", photo, "--recipe", "sepia-bath", "--longer-side", "1500", "-o", str(earlier)])
    window.recipes.follow(earlier)
    following = window.recipes.following
    until(lambda: following.running is None, 60)
    settle(window)
    following.tick("recipe", False)
    settle(window)
