"""What waits to be rendered: what goes first, what overtakes what, what is of no use any more; by its own clock."""

import math
import threading
import time
from dataclasses import dataclass, replace
from types import SimpleNamespace
from typing import Any

import pytest

from kyanoscript.core.script import Script
from kyanoscript.ui.service import queue
from kyanoscript.ui.service.pace import STEPS, Pace
from kyanoscript.ui.service.queue import Queue
from kyanoscript.ui.service.results import Wanted, Within

ANY = lambda request: True  # noqa: E731


@dataclass(frozen=True)
class Ask:
    """A request, of a slot."""

    key: Any
    urgency: int = 1
    rank: int = 1
    lane: str = "views"
    group: Any = None
    place: Any = None
    after: tuple = ()
    moment: float = 0.5
    patience: float = 2.0
    of: str = ""  # a script


@pytest.fixture
def clock(monkeypatch):
    now = SimpleNamespace(at=100.0)
    monkeypatch.setattr(queue, "time", SimpleNamespace(monotonic=lambda: now.at))
    return now


@pytest.fixture
def line(clock):
    return Queue()


def asked(line, *requests):
    with line.lock:
        for request in requests:
            line.ask(request)


def instead(line, group, requests):
    with line.lock:
        line.ask_instead(group, requests)


def take(line, role="", fits=ANY):
    found = line.take(fits, role)
    return found.request if found is not None else None


def test_the_most_urgent_goes_first_and_of_equals_the_one_asked_for_first(line):
    asked(line, Ask("a", 3), Ask("b", 1), Ask("c", 1), Ask("d", 2))
    assert not line.empty
    assert [take(line).key for _ in range(4)] == ["b", "c", "d", "a"]
    assert take(line) is None
    assert line.empty


def test_a_newer_request_takes_the_place_of_an_older_one_of_its_slot(line):
    asked(line, Ask("a", of="old"), Ask("b"), Ask("a", of="new"))
    assert line.waiting("a").of == "new"
    assert line.waiting("z") is None
    assert [take(line).key for _ in range(2)] == ["b", "a"]
    assert line.last("a") == 3
    assert line.last("z") == 0


def test_a_thread_takes_only_what_fits_it(line):
    asked(line, Ask("a", 1), Ask("b", 2))
    assert take(line, fits=lambda request: request.key == "b").key == "b"
    assert take(line, fits=lambda request: request.key == "b") is None
    assert line.seconds(lambda request: request.key == "b") is None


def test_what_is_being_worked_on_is_not_asked_for_twice(line):
    asked(line, Ask("a"))
    first = line.take(ANY)
    asked(line, Ask("a"))
    assert line.empty
    asked(line, Ask("a", of="new"))
    assert first.overtaken == 100
    asked(line, Ask("a"))  # the old one again: what works on it has been overtaken by now
    assert line.waiting("a").of == ""
    line.done(first)


def test_work_is_overtaken_by_what_is_nearer_and_goes_on_for_a_moment(line, clock):
    asked(line, Ask(("print", 1), rank=3))
    work = line.take(ANY)
    asked(line, Ask("elsewhere", rank=1, lane="stencils"), Ask("farther", rank=4), Ask(("print", 2), rank=3))
    assert work.until == math.inf  # another lane; farther from the eye; what hangs together with it
    assert line.wanted(work)
    asked(line, Ask("hand", rank=1))
    assert (work.overtaken, work.until) == (100, 100.5)
    assert line.wanted(work)
    clock.at = 100.4
    assert line.wanted(work)
    clock.at = 100.5
    assert not line.wanted(work)
    asked(line, Ask("hand", rank=1, of="again"))
    assert (work.overtaken, work.until) == (100, 100.5)  # no longer than the first time


@pytest.mark.parametrize(("rank", "overtakes"), [(1, True), (2, True), (3, False)])
def test_of_another_kind_what_is_as_near_overtakes(line, rank, overtakes):
    asked(line, Ask("print", rank=2))
    work = line.take(ANY)
    asked(line, Ask("recipe", rank=rank))
    assert (work.until < math.inf) == overtakes


def test_in_a_drag_each_place_may_be_finished(line):
    """Patience is for the same view of a newer script; for another view there is only a moment."""
    asked(line, Ask("print", place=1))
    work = line.take(ANY)
    asked(line, Ask("print", place=1, of="new"))
    assert work.until == 102
    other = Queue()
    asked(other, Ask("print", place=1))
    work = other.take(ANY)
    asked(other, Ask("print", place=2, of="new"))
    assert work.until == 100.5


def test_another_thread_of_a_role_waits_until_the_work_may_be_given_up(line, clock):
    asked(line, Ask("print", rank=3))
    work = line.take(ANY, "view")
    asked(line, Ask("hand", rank=1))
    assert line.take(ANY, "view") is None
    assert line.seconds(ANY, "view") == pytest.approx(0.5)
    assert line.seconds(ANY) == 0.001  # a thread without a role need not wait
    clock.at = 100.6
    second = line.take(ANY, "view")
    assert second.request.key == "hand"
    assert second.role == "view"
    line.done(work)
    line.done(second)
    asked(line, Ask("x"))
    assert take(line, "view").key == "x"


def test_work_that_nobody_overtook_keeps_its_role_and_no_time_is_told(line):
    asked(line, Ask("print"), Ask("recipe", rank=2))
    line.take(ANY, "view")
    assert line.take(ANY, "view") is None
    assert line.seconds(ANY, "view") is None


def test_what_goes_first_however_long_it_waits(line):
    asked(line, Ask("b", urgency=0, after=("a",)), Ask("a", urgency=9))
    assert line.seconds(lambda request: request.key == "b") is None  # no time tells when
    assert take(line).key == "a"
    assert take(line).key == "b"


def test_a_slot_rests_for_a_while(line, clock):
    asked(line, Ask("a"))
    line.rest("a", 0.2)
    assert take(line) is None
    assert line.seconds(ANY) == pytest.approx(0.2)
    clock.at += 0.2
    assert take(line).key == "a"
    asked(line, Ask("b"))
    line.rest("b", 5)
    line.other_photo()
    asked(line, Ask("b"))
    assert take(line).key == "b"  # rest is forgotten with the photograph


def test_something_nearer_that_waits_already_overtakes_what_is_taken(line):
    """What rests or was asked for at once: a farther request is taken only if the nearer cannot be."""
    asked(line, Ask("far", urgency=0, rank=5), Ask("near", urgency=1, rank=1))
    work = line.take(ANY)
    assert work.request.key == "far"
    assert work.until == 100.5


def test_what_gave_way_waits_again_behind_what_it_gave_way_to(line, clock):
    asked(line, Ask("eye", urgency=1, rank=2), Ask("other", urgency=1, rank=5))
    work = line.take(ANY)
    work.overtake(clock.at, 0.0)
    line.done(work)
    line.again(work)
    assert line.waiting("eye") == work.request
    assert take(line).key == "other"
    assert take(line) is None  # it leaves a while to what it gave way to
    clock.at += 0.16
    again = line.take(ANY)
    assert again.request.key == "eye"
    assert (again.overtaken, again.until, again.told, again.role) == (math.inf, math.inf, False, "")
    line.done(again)
    behind = replace(again, request=Ask("far", urgency=1, rank=5), number=line.last("far"))
    asked(line, Ask("other", urgency=1, rank=5))
    line.again(behind)
    clock.at += 1
    assert take(line).key == "far"  # what is not seen comes before others like it: it was asked for before them


def test_rest_of_what_gave_way_is_no_longer_than_a_while(line, clock):
    asked(line, Ask("a"), Ask("b", urgency=5))
    work = line.take(ANY)
    line.done(work)
    line.again(work)
    asked(line, Ask("c", urgency=9))
    line.rest("b", 3)
    line.rest("c", 2)
    assert line.seconds(ANY) == pytest.approx(0.15)
    assert line.seconds(lambda request: request.key in "bc") == pytest.approx(2)


ROLES = {role: lambda request, role=role: request.lane == role for role in ("views", "hand")}


class Sleeper(threading.Thread):
    """A thread of a role: it takes what it may, until there is "end", as those of the service do."""

    def __init__(self, line, role, stays=None):
        super().__init__(daemon=True)
        self.line, self.role, self.stays, self.looked, self.did = line, role, stays or {}, 0, []
        self.start()

    def run(self):
        while self.did[-1:] != ["end"]:
            with self.line.lock:
                while (work := self.line.take(ROLES[self.role], self.role)) is None:
                    self.looked += 1
                    self.line.sleep(self.role, self.line.seconds(ROLES[self.role], self.role))
            self.did.append(work.request.key)
            self.stays.get(work.request.key, threading.Event().set)()
            with self.line.lock:
                self.line.done(work)


def until(true):
    ends = time.monotonic() + 60
    while not true():
        assert time.monotonic() < ends
        time.sleep(0.001)


def test_of_those_that_sleep_one_is_woken_that_may_take_it():
    """Woken all at once for every move of a hand they would stand in its way."""
    line = Queue(ROLES)
    views, hand = [Sleeper(line, "views") for _ in range(3)], Sleeper(line, "hand")
    until(lambda: all(one.looked for one in (*views, hand)))
    asked(line, Ask("a"))
    until(lambda: [key for one in views for key in one.did] == ["a"])
    until(lambda: sum(one.looked for one in views) == 4)
    assert hand.looked == 1
    assert not hand.did
    asked(line, Ask("end", lane="hand"))
    hand.join(60)
    assert not hand.is_alive()
    with line.lock:
        before = [one.looked for one in views]
        line.wake()
    until(lambda: all(one.looked == was + 1 for one, was in zip(views, before, strict=True)))


def test_one_that_sleeps_takes_over_what_one_that_works_keeps_waiting():
    """What a thread takes next is overtaken from its beginning, and does not give way: another is woken when its time
    comes, though nothing has been asked for since it fell asleep."""
    line, go_on = Queue(ROLES), threading.Event()
    workers = [Sleeper(line, "views", {"near": go_on.wait, "slow": threading.Event().wait}) for _ in range(2)]
    asked(line, Ask("near", rank=0))
    until(lambda: any(one.did for one in workers))
    asked(line, Ask("slow", urgency=0, rank=3, moment=0.05), Ask("end", urgency=1, rank=1))
    sleeper = next(one for one in workers if not one.did)
    until(lambda: sleeper.looked >= 2)
    time.sleep(0.05)  # asleep again, and for good
    go_on.set()
    sleeper.join(60)
    assert sleeper.did == ["end"]


def test_two_that_are_overtaken_free_a_thread_when_the_last_may_be_given_up(line, clock):
    asked(line, Ask("a", rank=3, moment=1.0), Ask("b", rank=3, lane="hand", moment=0.25))
    line.take(ANY, "view").overtake(clock.at, 1.0)
    clock.at += 1.0
    line.take(ANY, "view").overtake(clock.at, 0.25)
    clock.at += 0.1
    asked(line, Ask("c"))
    assert line.take(ANY, "view") is None
    assert line.seconds(ANY, "view") == pytest.approx(0.15)


def test_what_gave_way_does_not_come_again_where_it_is_of_no_use(line):
    asked(line, Ask("a", of="old"))
    work = line.take(ANY)
    asked(line, Ask("a", of="new"))
    line.again(work)
    assert line.waiting("a").of == "new"
    line.take(ANY)
    stopped = Queue()
    asked(stopped, Ask("b"))
    work = stopped.take(ANY)
    stopped.stop()
    assert work.stopped
    stopped.again(work)
    assert stopped.empty


def test_results_of_a_former_photograph_place_or_number_are_stale(line):
    asked(line, Ask("a", place="whole"))
    work = line.take(ANY)
    assert not line.stale(work)
    asked(line, Ask("a", place="whole", of="new"))
    assert not line.stale(work)  # of the same place: something to see until the newer comes
    newer = line.take(ANY)
    line.brought(newer)
    assert line.stale(work)
    assert not line.stale(newer)
    asked(line, Ask("a", place="zoomed"))
    assert line.stale(newer)
    free = Queue()
    asked(free, Ask("b"))
    work = free.take(ANY)
    asked(free, Ask("b", of="x"))
    assert not free.stale(work)
    free.other_photo()
    assert free.stale(work)
    assert free.empty
    assert not free.wanted(work)


def test_a_group_is_asked_for_in_place_of_itself(line):
    asked(line, Ask("x"))
    instead(line, "proofs", [Ask("one", group="proofs"), Ask("two", group="proofs")])
    first = line.take(lambda request: request.key == "one")
    instead(line, "proofs", [Ask("two", group="proofs", of="new")])
    assert line.waiting("one") is None
    assert line.waiting("two").of == "new"
    assert line.waiting("x") is not None
    assert line.stale(first)
    assert not line.wanted(first)
    instead(line, "proofs", [Ask("one", group="proofs")])
    assert line.waiting("one") is not None  # though the same is being worked on for the former asking
    instead(line, "proofs", ())
    assert [take(line).key] == ["x"]


def test_what_a_view_asked_for_is_forgotten_with_it(line, clock):
    asked(line, Ask(("hang", 1)), Ask(("hang", 2)), Ask("print"))
    work = line.take(ANY)
    line.forget({"hang"})
    assert line.waiting(("hang", 2)) is None
    assert line.waiting("print") is not None
    assert line.stale(work)
    assert work.until == clock.at
    assert not line.wanted(work)
    line.drop(lambda request: request.key == "print")
    assert line.empty


# The second row, and pace


def test_what_is_looked_at_is_the_pass_of_the_second_row_if_one_is_chosen_there():
    outer, inner = Script(), Script(origin=1)
    assert Wanted(outer, 3).looked_at == (outer, 3)
    assert Wanted(outer, 3, within=Within(inner, 0, 2)).looked_at == (inner, 2)
    assert Wanted(outer, 3, within=Within(inner, 0, -1)).looked_at == (outer, 3)


def test_a_view_gets_coarser_where_it_cannot_follow_and_finer_with_room_to_spare():
    pace, pixels = Pace(at_once=1), 1_000_000
    assert pace.expected(pixels) == 0
    assert pace.step(2, pixels) == 1  # nothing is known
    pace.took(2, pixels, 0.004 + 0.007)
    assert pace.step(2, pixels) == 1  # sixty a second
    pace.took(2, pixels, 0.004 + 0.0245)  # 0.014 by now
    assert pace.step(2, pixels) == 1 / 2
    assert pace.now(2) == 1 / 2
    assert pace.now(5) == 1
    for _ in range(20):
        pace.took(2, pixels, 0.004 + 0.0085)
    assert pace.step(2, pixels) == 1 / 2  # a little quicker is not enough, or it would flicker
    for _ in range(20):
        pace.took(2, pixels, 0.004 + 0.002)
    assert pace.step(2, pixels) == 1
    for _ in range(30):
        pace.took(2, pixels, 0.004 + 9 * 0.075)
    assert pace.step(2, pixels) == 1 / 3  # at which twelve come
    for _ in range(30):
        pace.took(2, pixels, 0.004 + 9 * 0.082)
    assert pace.step(2, pixels) == 1 / 4  # fewer would
    for _ in range(30):
        pace.took(2, pixels, 0.004 + 9 * 0.06)
    assert pace.step(2, pixels) == 1 / 4  # nor does it flicker between the two
    for _ in range(30):
        pace.took(2, pixels, 0.004 + 9 * 0.05)
    assert pace.step(2, pixels) == 1 / 3
    for _ in range(30):
        pace.took(2, pixels, 2.0)
    assert pace.step(2, pixels) == STEPS[-1]  # never coarser
    pace.took(None, pixels, 0.104)
    assert pace.expected(2 * pixels) == pytest.approx(0.204)
    assert pace.step(7, pixels) == 2 / 5  # one that was never dragged begins with what is known at rest
    two = Pace(at_once=2)
    two.took(1, pixels, 0.004 + 0.0175)
    assert two.step(1, pixels) == 1


def test_what_a_group_asked_for_before_is_forgotten_and_nothing_else(line):
    asked(line, Ask("a", group="g"), Ask("b"), Ask("c", group="h"))
    instead(line, "g", [Ask("d", group="g"), Ask("e", group="g")])
    assert [take(line).key for _ in range(4)] == ["b", "c", "d", "e"]
    assert line.empty
