"""Shared by the campaign: a room of its own, what was found, and a worker process that is watched."""

from __future__ import annotations

import collections
import multiprocessing as mp
import os
import re
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

LIMIT = 5.0  # seconds that one file or one answer may take; of the processor's time, where other work keeps it waiting
WAITING = 6  # times as long, by the clock, after which it counts as hanging all the same
MEMORY = 2 << 30  # bytes that opening one small file may take
# Words of an exception, which a person must never read
RAW = re.compile(r"\w+Error\b|Exception|Traceback|Rect\(x=|<class |object at 0x|\berrno\b|\[Errno")

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def room() -> Path:
    """A new folder for one part of the campaign; everything that the program remembers lies in it too."""
    made = Path(tempfile.mkdtemp(prefix="kyano-campaign-"))
    for name in ("CONFIG", "DATA", "STATE"):
        os.environ[f"XDG_{name}_HOME"] = str(made / name.lower())
    os.environ["KYANOSCRIPT_STATE"] = str(made / "state")
    return made


def command() -> list[str]:
    """The program, as a person starts it from any folder."""
    return [sys.executable, "-P", "-m", "kyanoscript"]


@dataclass
class Report:
    """What a part of the campaign did, and what must not have happened."""

    part: str
    tally: collections.Counter[str] = field(default_factory=collections.Counter)
    findings: list[str] = field(default_factory=list)
    figures: dict[str, Any] = field(default_factory=dict)

    def found(self, text: str) -> None:
        """Something that must not be; told at once."""
        self.findings.append(text)
        print(f"  {self.part}: {text[:400]}", flush=True)

    def harmed(self, wrong: str, name: str, how: str, body: bytes, seed: int, number: int, more: object,
               keep: Path | None) -> None:  # fmt: skip
        """A mutant did what must not be: told, and kept in a folder if there is one."""
        self.found(f"{wrong}: {name} {how} seed {seed} number {number}: {str(more)[-300:]}")
        if keep is not None:
            keep.mkdir(parents=True, exist_ok=True)
            (keep / f"{wrong.lower()}-{seed}-{number}-{how}-{name}").write_bytes(body)

    def said(self, text: str, where: str) -> None:
        """Words that a person read: they must be words for people."""
        if RAW.search(text) or "\n" in text.strip():
            self.found(f"raw words ({where}): {text[:200]!r}")

    def to_json(self) -> dict[str, Any]:
        """For the file of results."""
        return {"part": self.part, "tally": dict(self.tally), "figures": self.figures, "findings": self.findings}


def _peak() -> int:
    with open("/proc/self/status") as file:
        return next(int(line.split()[1]) << 10 for line in file if line.startswith("VmHWM"))


def _processor(pid: int) -> float:
    """Seconds of the processor that a process has used; 0 if it is gone."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return 0.0
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


def _loop(pipe: Connection, prepare: Callable[[], Any], work: Callable[[Any, Any], Any]) -> None:
    os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
    state = prepare()
    pipe.send("ready")
    while (task := pipe.recv()) is not None:
        Path("/proc/self/clear_refs").write_text("5")  # peak memory counts from here
        try:
            verdict = work(state, task)
        except BaseException:  # the point of it all
            verdict = ("ESCAPED", traceback.format_exc().strip())
        pipe.send((verdict, _peak()))


class Worker:
    """Runs ``work(prepare(), task)`` in a process of its own, begun anew whenever it dies or hangs."""

    def __init__(self, prepare: Callable[[], Any], work: Callable[[Any, Any], Any]) -> None:
        self._make = (prepare, work)
        self._process: Any = None

    def _start(self) -> None:
        self._pipe, theirs = mp.Pipe()
        self._process = mp.get_context("fork").Process(target=_loop, args=(theirs, *self._make), daemon=True)
        self._process.start()
        theirs.close()
        self._pipe.recv()

    def run(self, task: Any, limit: float = LIMIT) -> tuple[Any, float, int]:
        """Verdict, seconds, peak bytes; the verdict is that of the work, or ("HANG",) or ("SIGNAL", number)."""
        if self._process is None:
            self._start()
        began, used = time.perf_counter(), _processor(self._process.pid)
        self._pipe.send(task)
        try:
            while not (there := self._pipe.poll(limit)):
                if time.perf_counter() - began > WAITING * limit or _processor(self._process.pid) - used > limit:
                    break
            if there:
                verdict, peak = self._pipe.recv()
                return verdict, time.perf_counter() - began, peak
        except EOFError:
            self._process.join()
            code, self._process = self._process.exitcode, None
            return ("SIGNAL", code), 0.0, 0
        self._process.kill()
        self._process.join()
        self._process = None
        return ("HANG",), limit, 0

    def stop(self) -> None:
        """End the process."""
        if self._process is not None:
            self._pipe.send(None)
            self._process.join(5)
