"""How far work has come, and whether it is to stop: one object for both, handed to all that takes a while."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from kyanoscript.files.base.errors import Cancelled


@dataclass(frozen=True)
class Progress:
    """Who is told, and who is asked."""

    told: Callable[[float], None] = lambda share: None  # 0…1, from the thread that writes
    stopping: Callable[[], bool] = lambda: False  # asked from any thread

    def tell(self, share: float) -> None:
        """So much is done; raises Cancelled if it is to stop."""
        self.go_on()
        self.told(min(1.0, share))

    def go_on(self) -> None:
        """Raises Cancelled if it is to stop."""
        if self.stopping():
            raise Cancelled

    def watch(self, what: str, share: float) -> None:
        """For passes that take seconds (`core.watching.Watch`): they end when the whole does, and are not told of."""
        self.go_on()

    def part(self, start: float, end: float) -> Progress:
        """Of a piece of the work, between two shares of the whole."""
        return Progress(lambda share: self.told(start + (end - start) * share), self.stopping)

    def piece(self, k: int, count: int) -> Progress:
        """Of the k-th of so many like pieces."""
        return self.part(k / count, (k + 1) / count)


UNTOLD = Progress()
