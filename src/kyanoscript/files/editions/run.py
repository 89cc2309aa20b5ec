"""An edition at work: its photographs on any executor, one after another as there is room, whatever happens to one.

Worker processes that are killed are replaced, and what they had begun is begun again; a photograph whose worker ends
each time is told as one that cannot be done.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import threading
import time
from collections import Counter, deque
from collections.abc import Callable, Generator, Iterable
from concurrent.futures import (
    FIRST_COMPLETED,
    BrokenExecutor,
    CancelledError,
    Executor,
    Future,
    wait,
)
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from kyanoscript.core import machine
from kyanoscript.files.base import log
from kyanoscript.files.base import replace as writing
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.editions import work
from kyanoscript.files.editions.work import FAILED, UNFORESEEN, Result, Task
from kyanoscript.translation import tr

if TYPE_CHECKING:  # one photograph alone needs no processes
    from concurrent.futures import ProcessPoolExecutor

_TRIES = 6  # times that a photograph's worker may end, and that an executor may take nothing
_PATIENCE = 5.0  # seconds that a worker has to end
_LOOK = 0.2  # seconds between looks at whether to stop
_PLAIN, _EACH = 150 << 20, 8  # bytes that a worker takes, and for each pixel of its photograph (229 MB of 24 MP seen)
USUAL = 24_000_000  # pixels of a photograph of which no size is known
SHARE = 0.6  # of the memory that is free
_BEHIND = 19  # the most that a process may stand back
_STILL = 0.02  # seconds between looks at whether to go on


@dataclass(frozen=True)
class Begun:
    """A photograph that is being worked on from now on."""

    task: Task


def jobs_for(pixels: int, memory: int | None = None) -> int:
    """How many workers have room: as many as processors, within memory (bytes; None: a part of what is free)."""
    room = memory if memory is not None else int(SHARE * machine.free())
    return max(1, min(machine.processors(), room // (_PLAIN + _EACH * pixels)))


def run(
    tasks: Iterable[Task],
    make: Callable[[], Executor],
    at_once: int,
    stopping: Callable[[], bool] = lambda: False,
    pausing: Callable[[], bool] = lambda: False,
    send: Callable[[Executor, Task], Future[Any]] = lambda executor, task: executor.submit(work.done, task),
    receive: Callable[[Task, Any], Result] = lambda task, came: came,
) -> Generator[Begun | Result, None, None]:
    """What happens, as it does: photographs that are begun, and what came of each. Closed before its end, it gives up
    what is being worked on.

    Parameters
    ----------
    make : makes an executor, and another one when that is broken.
    at_once : photographs that it is given at the same time.
    stopping : ends it; what is being worked on is given up. Raises Cancelled then.
    pausing : as long as it says so no photograph is begun; what was begun goes on.
    send, receive : how a task is given to the executor, and what becomes of what comes back; usually it is
        `work.done` and its result. Both may raise FileError: then the photograph could not be done.
    """
    waiting, tries = deque(tasks), Counter[int]()
    running: dict[Future[Any], Task] = {}
    refused = 0  # times in a row
    told: Task | None = None  # the next, once it is told
    executor = make()
    try:
        while waiting or running:
            broken = False
            while waiting and len(running) < at_once and not broken and not pausing():
                if told is not waiting[0]:  # before it is sent: who sees a print knows that it was begun
                    told = waiting[0]
                    yield Begun(told)
                try:
                    future = send(executor, waiting[0])
                except FileError as error:
                    yield _failed(waiting.popleft(), str(error))
                    continue
                except Exception as error:  # one that breaks as it begins a worker says so in many ways
                    refused += 1
                    if refused >= _TRIES:
                        raise
                    log.note("an executor takes nothing, and another is made", error)
                    time.sleep(_LOOK)
                    broken = True
                    break
                task, refused, told = waiting.popleft(), 0, None
                running[future] = task
            ready, _ = wait(running, timeout=_LOOK, return_when=FIRST_COMPLETED)
            # What it took in the moment that it broke in never comes to an end.
            broken = broken or (not ready and bool(getattr(executor, "_broken", False)))
            for future in ready:
                task = running.pop(future)
                try:
                    yield receive(task, future.result())
                except FileError as error:
                    yield _failed(task, str(error))
                except (BrokenExecutor, CancelledError):
                    broken = True
                    tries[task.number] += 1
                    if tries[task.number] >= _TRIES:
                        yield _failed(
                            task,
                            tr("{name}: what works on it ends each time; look at the photograph", name=task.photo.name),
                        )
                    else:
                        waiting.appendleft(task)
                except Exception as error:
                    log.note(f"{task.photo.name} could not be printed", error)
                    yield _failed(task, f"{task.photo.name}: {UNFORESEEN}")
            if stopping():  # what is over by now was told
                raise Cancelled
            if broken:
                waiting.extendleft(running.values())  # not begun again at their own cost
                running.clear()
                _end(executor)
                executor = make()
    finally:
        _end(executor)


def _failed(task: Task, reason: str) -> Result:
    return Result(task.number, str(task.photo), task.target.name, task.how, FAILED, reason)


def _end(executor: Executor) -> None:
    """Give up what it works on. Its workers are gone then: what one of them has begun to write could not be taken away
    while it holds it."""
    children = list(getattr(executor, "_processes", None) or {})
    try:
        executor.shutdown(wait=False, cancel_futures=True)
    except TypeError:  # some executors know less
        executor.shutdown(wait=False)
    _signal(children, signal.SIGTERM)
    late = threading.Timer(_PATIENCE, _signal, (children, signal.SIGKILL))
    late.daemon = True
    late.start()
    until = time.monotonic() + _PATIENCE + 1
    import multiprocessing

    for worker in multiprocessing.active_children():
        if worker.pid in children:
            worker.join(max(0.0, until - time.monotonic()))


def _signal(children: Iterable[int], number: int) -> None:
    """To those that are still children of this program."""
    import multiprocessing

    still = {child.pid for child in multiprocessing.active_children()}
    for child in children:
        if child not in still:
            continue
        with contextlib.suppress(OSError):
            os.kill(child, number)


# Worker processes of this machine


class Courtesy:
    """What has workers stand back for a window: they take what the rest of the machine leaves, and hold still, a band
    of the print at the latest, as long as a hand is at work."""

    def __init__(self) -> None:
        import multiprocessing

        self._held = multiprocessing.get_context("spawn").RawValue(ctypes.c_bool, False)

    def hold(self, still: bool) -> None:
        """Hold still, or go on."""
        self._held.value = still

    def wait(self) -> bool:
        """Wait as long as it asks for; never a reason to stop."""
        while self._held.value:
            time.sleep(_STILL)
        return False


def workers(jobs: int, courtesy: Courtesy | None = None) -> ProcessPoolExecutor:
    """So many; they end with this one, and are deaf to an interrupt, which this one answers."""
    import multiprocessing
    from concurrent.futures import ProcessPoolExecutor

    context = multiprocessing.get_context("spawn")
    return ProcessPoolExecutor(jobs, mp_context=context, initializer=_begin, initargs=(os.getpid(), courtesy))


def _begin(parent: int, courtesy: Courtesy | None) -> None:
    if courtesy is not None:
        os.nice(_BEHIND)
        work.wait = courtesy.wait
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # In a thread of its own: the one that is interrupted may hold the very lock that leaving needs.
    signal.signal(signal.SIGTERM, lambda *_: threading.Thread(target=_leave, daemon=True).start())
    threading.Thread(target=_follow, args=(parent,), daemon=True).start()


def _follow(parent: int) -> None:
    """End when the program that began this one does, however that was."""
    while os.getppid() == parent:
        time.sleep(_LOOK)
    _leave()


def _leave() -> None:
    writing.abandon()
    os._exit(1)


class Here(Executor):
    """No other process: each task is done as it is given."""

    def submit(self, fn: Callable[..., Result], /, *args: object, **kwargs: object) -> Future[Result]:  # type: ignore[override]  # results alone
        future: Future[Result] = Future()
        try:
            future.set_result(fn(*args, **kwargs))
        except BaseException as error:
            future.set_exception(error)
        return future
