"""Editions as they are run: what is there already stays, and the manifest tells of everything as it happens."""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from kyanoscript.files.editions import cluster
from kyanoscript.files.editions import manifest as kept
from kyanoscript.files.editions.run import Begun, Courtesy, run, workers
from kyanoscript.files.editions.work import LEFT, Result, Task


@dataclass(frozen=True)
class There:
    """A print that an earlier run made, just as it would be made now."""

    task: Task


@dataclass(frozen=True)
class How:
    """How a run is to go."""

    jobs: int
    resume: bool = True  # an edition that is in the folder is gone on with
    leaves: bool = False  # whatever file is there already stays as it is
    there: cluster.Cluster | None = None  # where it is done; None: by processes of this machine
    courtesy: Courtesy | None = None  # how they stand back for a window


def printed(
    tasks: Iterable[Task],
    folder: Path,
    how: How,
    stopping: Callable[[], bool] = lambda: False,
    pausing: Callable[[], bool] = lambda: False,
) -> Generator[There | Begun | Result, None, None]:
    """What happens, as it does. Closed before its end, it gives up what is being worked on.

    Raises FileError where the folder cannot be worked in; Cancelled once ``stopping`` says so.
    """
    with kept.opened(folder, how.resume) as manifest:
        waiting = []
        for task in tasks:
            if manifest.holds(task):
                yield There(task)
            elif how.leaves and task.target.exists():
                yield Result(task.number, str(task.photo), task.target.name, task.how, LEFT)
            else:
                waiting.append(task)
        if how.there is None:
            happens = run(waiting, lambda: workers(how.jobs, how.courtesy), how.jobs, stopping, pausing)
        else:
            happens = run(waiting, how.there.executor, how.jobs, stopping, pausing, cluster.send, cluster.receive)
        with closing(happens):  # also where what is said of it cannot be: its workers end then
            for happened in happens:
                if isinstance(happened, Result):
                    manifest.add(happened)
                else:
                    manifest.begin(happened.task)
                yield happened
