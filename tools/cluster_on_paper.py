"""What an edition costs on a cluster, reckoned: scheduler, the store of the photographs, and workers, each apart.

Each photograph waits for the scheduler, is sent by the store, printed by a worker, and comes back to the store. The
first two and the last are queues of one; a worker is taken from when its photograph is sent until the print is made.

    python tools/cluster_on_paper.py
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass


@dataclass(frozen=True)
class Farm:
    """What it is made of."""

    photographs: int = 100_000
    machines: int = 50
    workers: int = 8  # of each
    seconds: float = 3.7  # that one works on a photograph (24 MP, twelve passes, as measured on one core)
    sent: float = 10.0  # MB of a photograph
    back: float = 10.0  # and of its print
    link: float = 117.0  # MB a second of the store: one gigabit
    scheduled: float = 0.001  # seconds of the scheduler for each


def run(farm: Farm) -> dict[str, float]:
    """Hours that it takes, and which share of them scheduler, store and workers are busy."""
    free = [0.0] * (farm.machines * farm.workers)
    heapq.heapify(free)
    scheduler = store = end = 0.0
    out: list[float] = []  # when prints are ready to be taken back
    moving = 0.0
    for _ in range(farm.photographs):
        at = heapq.heappop(free)
        scheduler = max(scheduler, at) + farm.scheduled
        while out and out[0] <= max(store, scheduler):  # what came back meanwhile goes first
            store = max(store, heapq.heappop(out)) + farm.back / farm.link
            moving += farm.back / farm.link
        store = max(store, scheduler) + farm.sent / farm.link
        moving += farm.sent / farm.link
        done = store + farm.seconds
        heapq.heappush(out, done)
        heapq.heappush(free, done)
        end = max(end, done)
    while out:
        store = max(store, heapq.heappop(out)) + farm.back / farm.link
        moving += farm.back / farm.link
    end = max(end, store)
    work = farm.photographs * farm.seconds / (farm.machines * farm.workers)
    return {"hours": end / 3600, "scheduler": farm.photographs * farm.scheduled / end, "store": moving / end,
            "workers": work / end}  # fmt: skip


def main() -> None:
    """The table of docs/decisions/0028."""
    for about, farm in {
        "JPEG in and out, 1 Gbit": Farm(), "JPEG in, 16-bit TIFF out, 1 Gbit": Farm(back=144.0),
        "JPEG in and out, 10 Gbit": Farm(link=1170.0),
        "16-bit TIFF in and out, 10 Gbit": Farm(sent=144.0, back=144.0, link=1170.0),
        "JPEG in and out, 10 Gbit, 100 machines": Farm(machines=100, link=1170.0),
        "JPEG in and out, 10 Gbit, a scheduler of 5 ms": Farm(link=1170.0, scheduled=0.005),
        "JPEG in and out, 1 Gbit, 5 machines": Farm(machines=5),
    }.items():  # fmt: skip
        found = run(farm)
        print(f"{about}: {found['hours']:.1f} h; scheduler {found['scheduler']:.0%}, store {found['store']:.0%}, "
              f"workers {found['workers']:.0%}")  # fmt: skip


if __name__ == "__main__":
    main()
