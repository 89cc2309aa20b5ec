"""Handles on the ladder: tones of the chosen pass that are taken hold of on the scale of tones itself.

A pass that places colours on that scale has its stops there, on the side of the colours that come out. A pass that says
where blacks begin and whites end has a mark for each: of what comes in on the side of the grays, of what goes out on
the side of the colours.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

from kyanoscript.core.params import Number, Stop
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.document.desk import Desk

_MOST_STOPS = 64


@dataclass(frozen=True)
class Handle:
    """One tone to take hold of."""

    key: str  # the parameter, or which stop
    tone: float  # 0…1, where it is
    coming_in: bool  # at the grays that come in; otherwise at the colours that come out
    ink: str  # what it is filled with, #rrggbb
    words: str  # what it is and its value, for people


class Handles(Protocol):
    """The handles of one pass."""

    grows: bool  # whether handles can be added and taken away

    def every(self) -> tuple[Handle, ...]:
        """All of them, in the order in which the keys go through them."""
        ...

    def label(self, key: str) -> str:
        """What moving it is called in the history."""
        ...

    def move(self, key: str, tone: float) -> None:
        """Bring one to a tone 0…1, or as near as it may go."""
        ...


class StopHandles:
    """The stops of a pass that places colours on the scale of tones."""

    grows = True

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    @property
    def stops(self) -> tuple[Stop, ...]:
        """As the pass has them."""
        found: tuple[Stop, ...] = getattr(self.desk.selected_pass, "stops", ())
        return found

    def every(self) -> tuple[Handle, ...]:
        return tuple(
            Handle(str(k), tone / 100, False, ink, tr("{ink} at {tone:g} %", ink=ink, tone=tone))
            for k, (tone, ink) in enumerate(self.stops)
        )

    def label(self, key: str) -> str:
        return "Move a stop"

    def move(self, key: str, tone: float) -> None:
        """Between its neighbours: stops never pass one another, so dark stays at its end."""
        stops, k = list(self.stops), int(key)
        if k >= len(stops):
            return
        low = stops[k - 1][0] if k else 0.0
        high = stops[k + 1][0] if k + 1 < len(stops) else 100.0
        stops[k] = (round(min(max(tone * 100, low), high), 1), stops[k][1])
        self.desk.set_values(self.label(key), merge="stop", stops=tuple(stops))

    def add(self, tone: float) -> None:
        """Put a stop where the scale is, with the colour that the pass gives that tone."""
        stops, step = self.stops, self.desk.selected_pass
        if step is None or len(stops) >= _MOST_STOPS:
            return
        added = (round(tone * 100, 1), step.ink_at(tone))
        index = sum(s[0] <= added[0] for s in stops)
        self.desk.set_values("Add a stop", stops=(*stops[:index], added, *stops[index:]))
        self.desk.choose_handle(index)

    def remove(self, key: str) -> None:
        """Take a stop away; the last one stays."""
        stops, k = self.stops, int(key)
        if len(stops) > 1 and k < len(stops):
            self.desk.set_values("Remove a stop", stops=(*stops[:k], *stops[k + 1 :]))
            self.desk.choose_handle(min(k, len(stops) - 2))


class MarkHandles:
    """Tones that a pass declares with a mark: of what comes in, a middle between the first two, of what goes out."""

    grows = False

    def __init__(self, desk: Desk, names: tuple[str, ...]) -> None:
        self.desk = desk
        params = desk.selected_pass.params() if desk.selected_pass is not None else {}
        self.specs: dict[str, Number] = {name: spec for name in names if isinstance(spec := params.get(name), Number)}

    def _value(self, name: str) -> float:
        return float(getattr(self.desk.shown_thing, name))

    def _of(self, mark: str) -> list[str]:
        return [name for name, spec in self.specs.items() if spec.mark == mark]

    def _tone(self, name: str) -> float:
        if self.specs[name].mark != "mid":
            return self._value(name) / 255
        black, white = (self._value(n) / 255 for n in self._of("in"))
        return float(black + 0.5 ** self._value(name) * (white - black))  # the tone that becomes the middle

    def every(self) -> tuple[Handle, ...]:
        found = []
        for name, spec in self.specs.items():
            beside = self._of(spec.mark)
            ink = (
                "#8c8c8c" if spec.mark == "mid" or len(beside) == 1 else ("#000000", "#ffffff")[beside.index(name) > 0]
            )
            words = f"{spoken(spec.label)} {spec.text(self._value(name))}"
            found.append(Handle(name, self._tone(name), spec.mark != "out", ink, words))
        return tuple(found)

    def label(self, key: str) -> str:
        step = self.desk.selected_pass
        return f"{step.label if step is not None else ''}: {self.specs[key].label.lower()}"

    def move(self, key: str, tone: float) -> None:
        spec = self.specs[key]
        if spec.mark == "mid":
            black, white = (self._value(n) for n in self._of("in"))
            share = min(max((tone * 255 - black) / max(1.0, white - black), 0.001), 0.99)
            value = round(math.log(share) / math.log(0.5), 2)
        else:
            value = float(round(tone * 255))
            beside = self._of("in")
            if spec.mark == "in" and len(beside) == 2:  # black stays below white
                first = key == beside[0]
                other = self._value(beside[1] if first else beside[0])
                value = min(value, other - 1) if first else max(value, other + 1)
        value = min(max(value, spec.low), spec.high)
        if value != self._value(key):
            self.desk.set_values(self.label(key), merge=key, **{key: value})
