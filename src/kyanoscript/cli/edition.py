"""``edition``: many photographs through one script, in processes of their own, to be gone on with after any end."""

from __future__ import annotations

import argparse
import json
import multiprocessing
import os
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import closing
from dataclasses import replace
from multiprocessing import util
from pathlib import Path
from typing import Any

from kyanoscript.cli.declared import given
from kyanoscript.cli.rendering import asked_of
from kyanoscript.cli.sheets import sheet_in
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script.complaint import read
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.replace import clean
from kyanoscript.files.editions import cluster
from kyanoscript.files.editions import manifest as kept
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.editions.plan import Plan, photographs, tones_through
from kyanoscript.files.editions.printed import How, There, printed
from kyanoscript.files.editions.run import USUAL, Begun, jobs_for
from kyanoscript.files.editions.work import DONE, FAILED, LEFT, Result, Task
from kyanoscript.files.kept.scriptfile import state_named
from kyanoscript.files.prints.settings import Settings
from kyanoscript.terminal import FAULT, OK, complain, leaving
from kyanoscript.translation import tr

_MOST_JOBS = 256
_PATIENCE = 5.0  # seconds that a run has to end when it is stopped


def edition(options: argparse.Namespace) -> int:
    """Print them: 0 all are done, 1 some could not be, 2 nothing could begin. Raises FileError, ScriptError."""
    if options.check:
        return _check(options)
    if not options.photos:
        return complain(tr("name photographs, a folder of them, or @LIST"))
    if options.jobs is not None and not 1 <= options.jobs <= _MOST_JOBS:
        return complain(tr("jobs is {jobs}; it must be 1…{most_jobs}", jobs=options.jobs, most_jobs=_MOST_JOBS))
    if options.memory is not None and options.memory < 1:
        return complain(tr("memory is {memory} MB; it must be 1 or more", memory=options.memory))
    try:
        tasks = _tasks(options)
    except ValueError as error:
        if isinstance(error, FileError):
            raise
        return complain(str(error))
    if options.cluster:
        with cluster.connected(options.cluster) as there:
            return _printed(options, tasks, min(options.jobs or there.room, len(tasks)), there)
    memory = options.memory << 20 if options.memory is not None else None
    return _printed(options, tasks, min(options.jobs or jobs_for(USUAL, memory), len(tasks)), None)


def _printed(options: argparse.Namespace, tasks: list[Task], jobs: int, there: cluster.Cluster | None) -> int:
    """Print them here, or on a cluster. Raises FileError."""
    said = _Said(options, len(tasks), jobs)
    over = threading.Event()
    how = How(jobs, options.resume, options.no_clobber, there)
    with leaving(lambda: _stopped(options.output, said, over)):
        try:
            with closing(printed(tasks, options.output, how, lambda: said.stopping)) as happens:
                for happened in happens:
                    said.happened(happened)
        finally:
            over.set()
    return said.end()


def _tasks(options: argparse.Namespace) -> list[Task]:
    """Each photograph with where it goes. Raises FileError, ScriptError, ValueError."""
    asked = asked_of(options)
    file, state = state_named(options.script) if options.script else (None, "")
    plan = Plan(
        tuple(photographs(options.photos)), asked, options.output,
        read(Settings, given(options, Settings), "print"),
        sheet_in(options.sheet, asked.script) if options.sheet else None, options.crop, options.name,
        options.format or "tif", {
            "script": file.stem if file is not None else "", "state": state or "",
            "recipe": asked.recipe.word if asked.recipe is not None else "",
        }, dict(_exception(options, words) for words in options.exception), None,
        options.copies, options.caption, options.own_grain,
    )  # fmt: skip
    tasks = plan.tasks()
    if options.match is None:
        return tasks
    mine = plan.exceptions.get(_place(options.match), asked)
    return replace(plan, match=tones_through(options.match, mine)).tasks()


def _exception(options: argparse.Namespace, words: str) -> tuple[Path, Asked]:
    """A photograph with a script of its own, as PHOTO=SCRIPT. Raises FileError, ScriptError, ValueError."""
    photo, equals, script = words.rpartition("=")
    if not equals or not photo or not script:
        raise ValueError(tr("{words} is no exception; write it as PHOTO=SCRIPT", words=quoted(words)))
    its = argparse.Namespace(script=Path(script), set=[], recipe=None, trust=options.trust)
    return _place(Path(photo)), asked_of(its)


def _place(photo: Path) -> Path:
    return Path(os.path.abspath(photo))


def _check(options: argparse.Namespace) -> int:
    """What is there against what the manifest says: 1 if anything differs. Raises FileError."""
    found, differ = kept.checked(options.output)
    if options.json:
        for one in differ:
            print(json.dumps({"event": "differs", "file": one.file, "reason": one.reason}, ensure_ascii=False))
        print(json.dumps({"event": "end", "checked": len(found), "differ": len(differ)}))
    else:
        for one in differ:
            print(f"{one.file}: {one.reason}")
        if not options.quiet:
            print(
                tr(
                    "{count} of {count2} prints are as they were written",
                    count=len(found) - len(differ),
                    count2=len(found),
                )
            )
    return FAULT if differ else OK


def _stopped(folder: Path, said: _Said, over: threading.Event) -> str:
    """End the workers, and leave nothing half done; what is to be told then."""
    said.stopping = True
    over.wait(_PATIENCE)
    for child in multiprocessing.active_children():
        child.terminate()
    for child in multiprocessing.active_children():
        child.join(3)
        if child.is_alive():
            child.kill()
            child.join(3)
    finalize: Any = getattr(util, "_run_finalizers", None)
    if finalize is not None:  # as an end of the interpreter's own does: else it warns of locks that were left
        finalize(0)
    clean(folder)
    return tr(
        "stopped; {count} of {total} are done, and --resume goes on with the others",
        count=said.count[DONE] + said.there,
        total=said.total,
    )


class _Said:
    """What happens, told: at a terminal in one line that goes on, else a line a picture, or as JSON."""

    def __init__(self, options: argparse.Namespace, total: int, jobs: int) -> None:
        self.options, self.total = options, total
        self.count = dict.fromkeys((DONE, FAILED, LEFT), 0)
        self.stopping = False
        self.there = 0  # done by an earlier run
        self._failed: list[Result] = []
        self._began = time.monotonic()
        self._line = sys.stderr.isatty() and not options.json and not options.quiet
        self._told({"event": "start", "photographs": total, "jobs": jobs})

    def _told(self, event: dict[str, Any]) -> None:
        if self.options.json:
            print(json.dumps(event, ensure_ascii=False), flush=True)

    def happened(self, what: There | Begun | Result) -> None:
        """One is there from an earlier run, or is worked on from now on, or it is over with it."""
        if isinstance(what, Result):
            self._result(what)
            return
        self.there += isinstance(what, There)
        event, task = "already" if isinstance(what, There) else "begun", what.task
        self._told({"event": event, "number": task.number, "photo": str(task.photo), "file": task.target.name})

    def _result(self, result: Result) -> None:
        self.count[result.result] += 1
        if result.result == FAILED:
            self._failed.append(result)
        self._told({"event": result.result, **result.told()})
        if self.options.json or self.options.quiet:
            return
        if self._line:
            print(f"\r\x1b[K{self._progress()}", end="", file=sys.stderr, flush=True)
        elif result.result == DONE:
            print(
                tr(
                    "{file}: {width} × {height} px, {seconds:.1f} s",
                    file=result.file,
                    width=result.width,
                    height=result.height,
                    seconds=result.seconds,
                ),
                flush=True,
            )
        elif result.result == LEFT:
            print(tr("{file}: it is there already and stays as it is", file=result.file), flush=True)
        for note in result.notes:
            complain(f"{Path(result.photo).name}: {note}")

    def _progress(self) -> str:
        over = sum(self.count.values())
        left = self.total - self.there - over
        each = (time.monotonic() - self._began) / max(1, over)
        minutes, seconds = divmod(round(each * left), 60)
        failed = tr(", {count} failed", count=self.count[FAILED]) if self.count[FAILED] else ""
        return tr(
            "{over} of {total}{failed}, about {minutes}:{seconds:02} left",
            over=over + self.there,
            total=self.total,
            failed=failed,
            minutes=minutes,
            seconds=seconds,
        )

    def end(self) -> int:
        """The last words, and the status."""
        if self._line:
            print("\r\x1b[K", end="", file=sys.stderr, flush=True)
        for result in sorted(self._failed, key=lambda one: one.number):
            complain(result.reason)
        self._told({"event": "end", **self.count, "already": self.there})
        if not self.options.json and not self.options.quiet:
            print(
                tr(
                    "{count} of {total} done{join}",
                    count=self.count[DONE] + self.there,
                    total=self.total,
                    join=", ".join(self._others()),
                ),
                flush=True,
            )
        return FAULT if self._failed else OK

    def _others(self) -> Iterator[str]:
        yield ""
        if self.there:
            yield tr("{there} of them before", there=self.there)
        if self.count[LEFT]:
            yield tr("{count} left as they were", count=self.count[LEFT])
        if self._failed:
            yield tr("{count} could not be", count=len(self._failed))
