"""Editions on a cluster of Dask's: its workers need no folder of ours, files are sent to them and come back.

Dask (the extra ``kyanoscript[cluster]``) is imported where it works. A worker that is lost costs its photograph's time:
the scheduler gives it to another.
"""

from __future__ import annotations

import platform
from collections.abc import Iterator
from concurrent.futures import Executor, Future
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import numpy as np

from kyanoscript import __version__
from kyanoscript.core.quoting import cut, quoted
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.editions.work import DONE, Result, Task, parcel, unpacked
from kyanoscript.translation import tr

_WAIT = "20s"  # for an answer


def told() -> dict[str, str]:
    """What has to be the same everywhere, so that prints are."""
    return {"Kyanoscript": __version__, "NumPy": np.__version__, "processor": platform.machine()}


@dataclass(frozen=True)
class Cluster:
    """One that answers, and whose workers have what is here."""

    client: Any
    room: int  # photographs that it works on at once

    def executor(self) -> Executor:
        """Its own, of `concurrent.futures`' kind."""
        made: Executor = self.client.get_executor(pure=False, retries=3)
        return made


@contextmanager
def connected(address: str) -> Iterator[Cluster]:
    """A cluster by its scheduler's address. Raises FileError, in words: it does not answer, has no workers, or others
    than these."""
    try:
        from distributed import Client
    except ImportError as error:
        raise FileError(cut(address), "clusters need Dask, which is not here",
                        "Install it by: pip install 'kyanoscript[cluster]'") from error  # fmt: skip
    try:
        make: Any = Client
        client = make(address, timeout=_WAIT, set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        raise FileError(
            cut(address), "no scheduler answers there", "Look at its address, as tcp://10.0.0.5:8786"
        ) from error
    try:
        threads = client.nthreads()
        if not threads:
            raise FileError(cut(address), "this scheduler has no workers", "Start some, and try again")
        _check(client)
        yield Cluster(client, sum(threads.values()))
    finally:
        client.close()


def _check(client: Any) -> None:
    """Raise FileError for workers that would print otherwise."""
    here = told()
    try:
        found: dict[str, dict[str, str]] = client.run(told)
    except Exception as error:  # it raises whatever a worker does
        raise FileError("the cluster", tr('its workers have no Kyanoscript ({cut})', cut=cut(str(error), 80)),
                        tr('Install version {version} on each', version=__version__)) from error  # fmt: skip
    for worker, there in found.items():
        for name, version in here.items():
            if there.get(name) != version:
                raise FileError(
                    cut(worker),
                    tr(
                        "this worker has {name} {quoted}, and here is {version}",
                        name=name,
                        quoted=quoted(there.get(name)),
                        version=version,
                    ),
                    "Install the same on each: their prints would not be alike",
                )


def send(executor: Executor, task: Task) -> Future[tuple[Result, bytes]]:
    """A photograph with its files. Raises FileError."""
    return executor.submit(unpacked, parcel(task))


def receive(task: Task, came: tuple[Result, bytes]) -> Result:
    """The print that came back, written whole. Raises FileError."""
    result, data = came
    if result.result == DONE:
        with replacing(task.target, (task.photo,)) as file:
            file.write(data)
    return result
