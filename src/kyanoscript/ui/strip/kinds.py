"""What is tried in the Strip view: one value, two, or several."""

from __future__ import annotations

from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage

KINDS = (
    ("one", "One value", "In steps across the print: a test strip"),
    ("two", "Two", "Two values at once, as a field"),
    ("several", "Several", "Two to twelve values at once, by choosing among prints"),
)


def kinds(page: BuiltPage, now: str) -> None:
    """Which kind of trial it is, at the top of every page of the view."""
    words = []
    for key, text, help in KINDS:
        word = page.word(key, text, help)
        word.setCheckable(True)
        word.setChecked(key == now)
        words.append(word)
    page.column.addLayout(furniture.in_a_row(*words))
