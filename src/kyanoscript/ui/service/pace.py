"""How fine a view can be while a hand moves something, so that it follows.

Every pass that is dragged has a pace of its own: the seconds that a pixel takes from there to the end of the run.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

STEPS = (1.0, 3 / 4, 1 / 2, 2 / 5, 1 / 3, 1 / 4)  # of the view's own scale; never coarser
_SIXTY, _THIRTY, _TWELVE = 0.011, 0.0225, 0.083  # seconds that a processor may take to a picture, for so many a second
_HALF, _THIRD = 1 / 2, 1 / 3  # of the scale: for sixty, and for thirty a second, a view need not be coarser
_FINER = 0.7  # of that: only where so little is expected a view becomes finer again, or it would flicker
_FIXED = 0.004  # seconds that a picture takes however small it is


@dataclass
class Pace:
    """What is known of how long views take. ``at_once``: how many pictures are worked out at once."""

    at_once: int = 2
    _pixel: dict[int | None, float] = field(default_factory=dict)  # seconds, by the pass that is dragged; None: at rest
    _step: dict[int | None, int] = field(default_factory=dict)

    def step(self, dragged: int, pixels: int, ready: Callable[[float], bool] = lambda share: True) -> float:
        """The share of its scale that a view of so many pixels is worked out at.

        It becomes finer only to a share that is ``ready``: else one picture would wait for all that lies before it.
        """
        now = self._step.get(dragged)
        best = self._finest(dragged, pixels, 1.0)
        if now is not None and best < now:
            best = min(self._finest(dragged, pixels, _FINER), now)
            while best < now and not ready(STEPS[best]):
                best += 1
        self._step[dragged] = best
        return STEPS[best]

    def _finest(self, dragged: int, pixels: int, part: float) -> int:
        """The finest step that keeps up in ``part`` of the time there is."""
        known = self._pixel.get(dragged, self._pixel.get(None, 0.0))
        seconds = [_FIXED + known * pixels * share**2 for share in STEPS]
        for least, most, time in ((_HALF, 1.0, _SIXTY), (_THIRD, 1.0, _THIRTY), (_THIRD, _THIRD, _TWELVE)):
            for k, share in enumerate(STEPS):
                if least <= share <= most and seconds[k] <= time * self.at_once * part:
                    return k
        return len(STEPS) - 1  # on a slow machine, or one that others use too, the eye is better served by more

    def took(self, dragged: int | None, pixels: int, seconds: float) -> None:
        """A picture of so many pixels took so long."""
        found = max(seconds - _FIXED, 0.0) / max(pixels, 1)
        before = self._pixel.get(dragged)
        self._pixel[dragged] = found if before is None else before + 0.4 * (found - before)

    def now(self, dragged: int) -> float:
        """The share of the scale that was chosen last."""
        return STEPS[self._step.get(dragged, 0)]

    def expected(self, pixels: int) -> float:
        """Seconds that a view of so many pixels is likely to take at rest; 0 where nothing is known."""
        known = self._pixel.get(None)
        return _FIXED + known * pixels if known is not None else 0.0
