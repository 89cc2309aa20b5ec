"""Nothing that is wanted waits for what is not: every pair of kinds of requests; what was found by then is kept."""

import itertools
import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import pytest
import skimage.data

from kyanoscript.core.mend import detect
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.people import faces, networks
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import GivenUp, breathe, while_wanted
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.colour.proofs import proof_of
from kyanoscript.ui.service.papers import DotsOf, OnFilm, OnPaper, TonesOf
from kyanoscript.ui.service.queue import Queue
from kyanoscript.ui.service.requests import (
    PROOFS,
    Cut,
    Feel,
    FindWhite,
    Judge,
    LookOver,
    Offer,
    Point,
    Prove,
    Ready,
    proofs,
)
from kyanoscript.ui.service.results import Wanted
from kyanoscript.ui.service.site import Base, Site
from kyanoscript.ui.service.views import Look, LookBeside, Sharp, Shown
from kyanoscript.ui.service.walls import Band, Hang, Values
from tests.conftest import make_colourful

P = load_all()
WHOLE = Rect(0, 0, 180, 120)
RUN = Script((P["levels"](),))

# What is under the hand, or what the eye is on, is answered whatever else is being worked on.
HAND = {
    "values at the pointer": Point(Wanted(RUN, 0), 1.0, 0.5, 0.5),
    "values on the wall": Values((("a", RUN),), 1.0, 0.5, 0.5),
    "a touch": Feel(RUN, 0, 1.0, 0.5, 0.5, 3),
    "a white": FindWhite(RUN, 1.0, 0.5, 0.5, 3),
    "a stencil": Cut(RUN, 0, WHOLE, 1.0),
    "what is offered": Offer(RUN, 0),
}
EYE = {
    "the print": Look(RUN, WHOLE, 1.0),
    "the print in a drag": Look(RUN, WHOLE, 1.0, keep=0),
    "a state": Hang(RUN, WHOLE, 1.0, slot="a"),
    "a band": Band(RUN, WHOLE, 1.0, slot="b"),
    "the sheet": OnPaper(RUN, WHOLE, 1.0, slot="c"),
    "a film": OnFilm(RUN, WHOLE, 1.0, slot="d"),
    "dots": DotsOf(RUN, Sheet(), (90, 60)),
    "tones on paper": TonesOf(proof_of(Sheet())),
}
BEHIND = {
    "what it is compared with": LookBeside(RUN, WHOLE, 1.0),
    "small pictures under the run": LookOver(Wanted(RUN, 0)),
    "small pictures in a drag": LookOver(Wanted(RUN, 0, rested=False)),
    "a recipe": Prove("sheet", "old", RUN, (90, 60)),
    "what enters the chosen pass": Ready(RUN, WHOLE, 1.0, 1),
    "what goes wrong": Judge(RUN),
}
KINDS = HAND | EYE | BEHIND


def test_every_kind_of_request_is_here():
    """But for the sharp view of a drag, which asks for itself."""

    def kinds(of):
        return {of, *(kind for inner in of.__subclasses__() for kind in kinds(inner))}

    assert kinds(Base) - {Base, Sharp} == {type(request) for request in KINDS.values()}


def _newer(request):
    """The same of a later script."""
    later = Script((P["levels"](gamma=2.0),))
    if hasattr(request, "wanted"):
        return replace(request, wanted=replace(request.wanted, script=later))
    if isinstance(request, Values):
        return replace(request, scripts=(("a", later),))
    if isinstance(request, TonesOf):
        return replace(request, proof=replace(request.proof, density=1.5))
    return replace(request, script=later)


def _together(request):
    return request.key[0] if isinstance(request.key, tuple) else request.key


def _must_not_wait(old, new):
    """Whether a kind that is asked for is answered while another is worked on."""
    first, second = KINDS[old], KINDS[new]
    if old == new:
        return True  # of a later script
    if new in HAND:
        return not (old in HAND and second.urgency > first.urgency)  # a press is nearer than the pointer that passes
    if new in EYE:
        return _together(first) != _together(second)  # what hangs together comes one by one
    order = list(BEHIND)
    return old in BEHIND and _together(first) != _together(second) and order.index(new) < order.index(old)


PAIRS = [
    pytest.param(KINDS[old], _newer(KINDS[new]) if old == new else KINDS[new], id=f"{new} during {old}")
    for old, new in itertools.product(KINDS, KINDS)
    if _must_not_wait(old, new)
]


@pytest.mark.parametrize("stops", [True, False], ids=["which can stop", "which cannot"])
@pytest.mark.parametrize(("old", "new"), PAIRS)
def test_what_is_wanted_does_not_wait(service, qtbot, monkeypatch, old, new, stops):
    """Of pictures that hang together, and of a newer one of the same, only that it may end is asked here."""
    done, begun, ended, leave = [], threading.Event(), threading.Event(), threading.Event()

    def work(self, site):
        if self != old or begun.is_set():
            done.append(self)
            return
        begun.set()
        try:
            while not leave.wait(0.002):
                if stops:
                    breathe()
        finally:
            ended.set()

    for kind in {type(request) for request in KINDS.values()}:
        monkeypatch.setattr(kind, "work", work)
    try:
        service.ask(old)
        qtbot.waitUntil(begun.is_set)
        service.ask(new)
        qtbot.waitUntil(lambda: new in done)
        if old.lane == new.lane and stops:
            qtbot.waitUntil(ended.is_set)
        assert ended.is_set() or old.lane != new.lane or not stops
    finally:
        leave.set()


def test_what_gave_way_comes_after_it(service, qtbot, monkeypatch):
    """A recipe's picture is overtaken by the print, and made when that is there."""
    came, begun = [], threading.Event()

    def stuck(self, site):
        came.append("begun")
        begun.set()
        while came.count("begun") < 2:
            breathe()
        came.append("recipe")

    monkeypatch.setattr(Prove, "work", stuck)
    monkeypatch.setattr(Look, "work", lambda self, site: came.append("print"))
    service.ask_instead(PROOFS, proofs("sheet", {"old": RUN}, (90, 60)))
    qtbot.waitUntil(begun.is_set)
    service.ask(EYE["the print"])
    qtbot.waitUntil(lambda: "recipe" in came)
    assert came == ["begun", "print", "begun", "recipe"]


def test_what_was_stopped_does_not_come_again_though_a_view_is_asked_for_at_once(service, qtbot, monkeypatch):
    came, begun = [], threading.Event()

    def long(self, site):
        came.append("recipe")
        site.watch("Looking for people", 0.1)
        begun.set()
        while True:
            breathe()

    monkeypatch.setattr(Prove, "work", long)
    monkeypatch.setattr(Look, "work", lambda self, site: came.append("print"))
    service.ask(BEHIND["a recipe"])
    qtbot.waitUntil(begun.is_set)
    service.give_up()
    service.ask(EYE["the print"])
    qtbot.waitUntil(lambda: service.idle() and "print" in came)
    assert came == ["recipe", "print"]


def test_what_a_view_that_goes_had_asked_for_is_ended_and_does_not_come_again(service, qtbot, monkeypatch):
    came, begun = [], threading.Event()

    def stuck(self, site):
        came.append(self.slot)
        begun.set()
        while True:
            breathe()

    monkeypatch.setattr(Hang, "work", stuck)
    service.ask(EYE["a state"])
    service.ask(replace(EYE["a state"], slot="waits"))
    qtbot.waitUntil(begun.is_set)
    service.forget("hang")
    qtbot.waitUntil(service.idle)
    assert came == ["a"]


def test_another_photograph_ends_the_work_on_the_one_before(service, qtbot, monkeypatch):
    begun, ended = threading.Event(), threading.Event()

    def stuck(self, site):
        begun.set()
        try:
            while True:
                breathe()
        finally:
            ended.set()

    monkeypatch.setattr(Look, "work", stuck)
    service.ask(EYE["the print"])
    qtbot.waitUntil(begun.is_set)
    service.set_source(ArraySource(make_colourful(60, 90)))
    qtbot.waitUntil(ended.is_set)
    qtbot.waitUntil(service.idle)


def test_what_is_in_sight_is_made_before_what_is_not_and_quick_ones_first():
    long, quick = Script((P["mend"](),)), RUN
    scripts = {"a": quick, "b": long, "c": quick, "d": long}
    asked = [made.name for made in proofs("sheet", scripts, (90, 60), in_sight={"b", "c"})]
    assert asked == ["c", "b", "a", "d"]
    assert [made.name for made in proofs("sheet", scripts, (90, 60))] == ["a", "c", "b", "d"]


# Long looks give up, and keep what they have


def portrait():
    return ArraySource(np.ascontiguousarray(skimage.data.astronaut()[:400, 60:460]))


LONG = {
    "damage": (P["mend"](holes=True),),
    "people and first colouring": (P["hand-tint"](auto=True, calm_gray=5),),
    "a measure of the picture": (P["levels"](auto=True), P["threshold"](auto=True)),
}


@pytest.mark.parametrize("run", LONG.values(), ids=LONG.keys())
def test_a_long_look_that_is_given_up_again_and_again_comes_to_the_same_end(run, monkeypatch):
    """Ended at ever later places; what the networks said by then they are not asked for again."""
    asked = []
    judged, network = detect.judged, networks._network
    monkeypatch.setattr(detect, "_TILE", 120)  # sixteen on the portrait
    monkeypatch.setattr(detect, "judged", lambda part: (asked.append("tile"), judged(part))[1])

    class Counting:
        def __init__(self, name):
            self.inner, self.setInput = network(name), lambda given: self.inner.setInput(given)

        def forward(self, out):
            asked.append("square")
            return self.inner.forward(out)

    monkeypatch.setattr(networks, "_network", Counting)
    monkeypatch.setattr(networks, "_free", {})
    monkeypatch.setattr(faces, "run", getattr(faces.run, "network", faces.run))  # the network itself, and its memory
    source = portrait()
    whole = Rect(0, 0, source.width, source.height)

    def count(most, cache):
        """How often it breathes until it is done, or is given up."""
        breaths = itertools.count(1)
        used = 0

        def wanted():
            nonlocal used
            used = next(breaths)
            return used <= most

        with while_wanted(wanted):
            made = Renderer(source, Script(run), cache, watch=lambda what, share: breathe()).region(whole)
        return made, used

    networks._said.clear()
    plain, breaths = count(10**9, TileCache())
    once = len(asked)
    networks._said.clear()
    assert breaths > 3
    asked.clear()
    cache, given_up = TileCache(), 0
    for most in itertools.chain(range(2, 40, 4), itertools.count(40, max(1, breaths // 12))):
        try:
            made, _ = count(most, cache)
            break
        except GivenUp:
            given_up += 1
    assert given_up > 1
    assert np.array_equal(made, plain)
    assert len(asked) <= once + given_up  # but for what was under way


# What goes wrong, and what comes too late


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (FileError("landing.tif", "it is gone", "Look for it"), "landing.tif: it is gone"),
        (MemoryError(), "There is not enough memory for this picture"),
        (ZeroDivisionError("of a pass"), "could not be worked out; why stands in the log"),
    ],
)
def test_a_fault_is_told_in_words_and_the_next_picture_comes(service, qtbot, monkeypatch, error, words):
    said, came = [], []
    service.failed.connect(said.append)
    service.answers(Shown).connect(came.append)
    work = Look.work

    def broken(self, site):
        if self.scale == 0.5:
            raise error
        work(self, site)

    monkeypatch.setattr(Look, "work", broken)
    service.ask(Look(RUN, Rect(0, 0, 90, 60), 0.5))
    qtbot.waitUntil(lambda: bool(said))
    assert words in said[0]
    service.ask(Look(RUN, WHOLE, 1.0))
    qtbot.waitUntil(lambda: bool(came))


BEYOND = Rect(0, 0, 1000, 700)


@pytest.mark.parametrize("name", ["the sheet", "a stencil", "a state", "a band"])
def test_what_was_asked_for_of_another_frame_sends_nothing(name):
    """The picture is 180 × 120; between asking and working it out its frame has become another."""
    sent = []
    request = replace(KINDS[name], rect=BEYOND)
    queue = Queue()
    with queue.lock:
        queue.ask(request)
        asked = queue.take(lambda _: True)
    with ThreadPoolExecutor(1) as helpers:
        source = ArraySource(make_colourful(120, 180))
        site = Site(source, TileCache(1 << 24), None, queue, asked, sent.append, lambda: False, helpers, 0)
        request.work(site)
        assert sent == []
        replace(request, rect=WHOLE).work(site)
    assert len(sent) >= 1
