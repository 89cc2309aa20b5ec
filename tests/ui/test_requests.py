"""What each request works out and sends, asked directly: the pixels, the place, the numbers; and how it is ranked."""

import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from types import SimpleNamespace

import numpy as np
import pytest
from PySide6.QtGui import QImage

from kyanoscript.core.colour import BT2020, SRGB, gray_of, to_encoded, to_light
from kyanoscript.core.colour.zones import zone_index
from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Reading, Rect
from kyanoscript.core.print import film, plates
from kyanoscript.core.print.bands import Bands
from kyanoscript.core.process.process import Process
from kyanoscript.core.render import analysis
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import TILE, Renderer
from kyanoscript.core.render.stages import Rough
from kyanoscript.core.script import Script
from kyanoscript.files.colour import proofs as on_proof
from kyanoscript.files.colour.proofs import BENCH, proof_of
from kyanoscript.ui.service import budget, display, papers, requests, views, walls
from kyanoscript.ui.service.queue import Queue
from kyanoscript.ui.service.results import Wanted, Within
from kyanoscript.ui.service.site import Base, Memory, Site
from tests.conftest import make_colourful

P = load_all()
SOURCE = ArraySource(make_colourful(180, 300, np.uint16))
PLAIN = Script()
TONED = Script(passes=(P["levels"](gamma=1.4), P["gradient-map"]()))
PART = Rect(37, 21, 170, 111)


def run(request, *, waiting=None, number=1, last=None, memory=None, helpers=2, source=SOURCE):
    """Everything that it sends, and its site."""
    sent, queue, line = [], Queue(), ThreadPoolExecutor(max(1, helpers))
    with queue.lock:
        queue.ask(request)
        asked = queue.take(lambda one: True, "views")
    asked.number = number
    site = Site(
        source, TileCache(64 << 20), None, queue, asked, sent.append, lambda: False, line, helpers,
        memory=memory or Memory(),
    )  # fmt: skip
    if last is not None:
        queue._last = dict.fromkeys((views.Look.__name__, request.key), last)
    if waiting is not None:
        queue.waiting = lambda key: waiting
    try:
        request.work(site)
    finally:
        line.shutdown()
    return sent, site


def plain(script, rect, scale=1.0, upto=None):
    """The pixels of a part of a print, worked out by itself."""
    renderer = Renderer(SOURCE, script, reading=Reading.SEEN)
    planes = renderer.region(rect, scale) if upto is None else renderer.region(rect, scale, upto)
    return display.screen().shown(planes, renderer.space)


# How they are ranked


def test_what_goes_first_and_what_waits_how_long():
    """Lower goes first; a chooser's pictures last of all; what is drawn or dragged has more time."""
    look = views.Look(TONED, PART, 1.0)
    drag = replace(look, keep=0)
    sharp = views.Sharp(TONED, PART, 1.0, keep=0)
    cut = requests.Cut(TONED, 0, PART, 1.0)
    rested, moving = (requests.LookOver(Wanted(TONED, 0, rested=still)) for still in (True, False))
    prove = requests.Prove("chooser", "one", TONED, (40, 30))
    told = {
        "look": look, "drag": drag, "sharp": sharp, "cut": cut, "brush": replace(cut, drawing=True),
        "rested": rested, "moving": moving, "prove": prove, "point": requests.Point(Wanted(TONED, 0), 1.0, 0.5, 0.5),
        "beside": views.LookBeside(TONED, PART, 1.0), "hang": walls.Hang(TONED, PART, 1.0, slot=3),
        "dots": papers.DotsOf(TONED, Sheet(), (10, 10)), "tones": papers.TonesOf(proof_of(Sheet())),
    }  # fmt: skip
    assert {name: (one.urgency, one.rank, one.moment, one.patience, one.pairs) for name, one in told.items()} == {
        "look": (2, 2, 0.03, 0.15, False), "drag": (2, 2, 0.03, 1.0, True), "sharp": (2, 3, 0.03, 1.0, False),
        "cut": (0, 0, 0.03, 0.15, False), "brush": (0, 0, 0.03, 1.0, False), "rested": (4, 4, 0.03, 1.0, False),
        "moving": (1, 4, 0.15, 1.0, False), "prove": (5, 5, 0.03, 0.15, True), "point": (4, 4, 0.03, 0.15, False),
        "beside": (3, 3, 0.03, 0.15, False), "hang": (2, 2, 0.03, 0.15, False),
        "dots": (2, 2, 0.03, 0.15, False), "tones": (2, 2, 0.03, 0.15, False),
    }  # fmt: skip
    assert not replace(drag, zone_of=1).pairs
    assert not replace(prove, script=Script((P["mend"](),))).pairs
    assert [told[name].key for name in ("look", "rested", "prove", "hang", "dots", "tones")] == [
        "Look", requests.SURVEY, ("proofs", "one"), ("hang", 3), ("hang", "dots"), ("hang", "tones"),
    ]  # fmt: skip
    assert (prove.group, look.group) == ("proofs", None)
    assert look.place == (TONED.frame, 1.0, True)
    assert replace(look, zone_of=0).place == (TONED.frame, 1.0, False)
    assert cut.place == (TONED.frame, 1.0)
    assert rested.place is None


# Views


@pytest.mark.parametrize("rect", [PART, Rect(0, 0, 300, 180), Rect(250, 130, 50, 50)])
@pytest.mark.parametrize("script", [PLAIN, TONED], ids=["plain", "toned"])
def test_a_view_at_rest_is_the_print(script, rect):
    sent, site = run(views.Look(script, rect, 1.0))
    (shown,) = sent
    assert (shown.rect, shown.scale, shown.coarse) == (rect, 1.0, False)
    assert np.array_equal(shown.pixels, plain(script, rect))
    assert site.memory.rested == Renderer(SOURCE, script).keys
    assert site.memory.pace.expected(10_000) > 0


def test_a_pattern_too_fine_for_the_screen_is_not_seen_as_a_coarser_one():
    """At half size, 0.6 to 0.75 cycles a pixel: by areas 0.42 of it was left as a false pattern (wanted: 0.1)."""
    for cycles, most in ((0.6, 0.2), (0.68, 0.1), (0.75, 0.1)):
        light = 0.5 + 0.3 * np.cos(2 * np.pi * cycles / 2 * np.arange(800))
        wave = np.rint(65535 * to_encoded(light)).astype(np.uint16)[None, :, None].repeat(200, axis=0)
        (shown,), _ = run(views.Look(PLAIN, Rect(10, 10, 380, 80), 0.5), source=ArraySource(wave))
        assert np.ptp(to_light(shown.pixels[40, :, 0] / 255)) / 0.6 < most


def test_a_slow_view_comes_coarse_first_and_one_that_is_known_does_not():
    memory = Memory()
    memory.pace.took(None, 100, 1.0)  # a hundredth of a second to the pixel
    sent, site = run(views.Look(TONED, PART, 1.0), memory=memory)
    assert [shown.coarse for shown in sent] == [True, False]
    whole = plain(TONED, PART).astype(int)
    assert sent[0].pixels.shape == whole.shape
    assert 0 < np.abs(sent[0].pixels - whole).mean() < 8  # enlarged, and where it belongs
    assert np.array_equal(sent[1].pixels, whole)
    again = []
    views.Look(TONED, PART, 1.0).work(replace(site, send=again.append, count=0))
    assert [shown.coarse for shown in again] == [False]
    quick = Memory()
    quick.pace.took(None, 10**9, 0.1)
    assert [shown.coarse for shown in run(views.Look(TONED, PART, 1.0), memory=quick)[0]] == [False]


def test_a_view_in_a_drag_asks_for_a_sharp_one_once_the_hand_rests():
    drag = views.Look(TONED, PART, 1.0, keep=0)
    sent, site = run(drag, number=7, last=7)
    (shown,) = sent
    assert shown.coarse
    assert np.array_equal(shown.pixels, plain(TONED, PART))  # nothing is known of its pace: at its own scale
    sharp = site.waiting("Sharp")
    assert (sharp.script, sharp.rect, sharp.scale, sharp.keep, sharp.of) == (TONED, PART, 1.0, 0, 7)
    _, site = run(drag, number=7, last=8)  # another one is asked for already
    assert site.waiting("Sharp") is None


def test_a_view_of_a_slow_drag_is_coarse_at_its_place():
    memory = Memory()
    memory.pace.took(0, 100, 1.0)
    (shown,), _ = run(views.Look(TONED, PART, 1.0, keep=0), memory=memory, last=9)
    off = np.abs(shown.pixels - plain(TONED, PART).astype(int))
    assert shown.pixels.shape == (PART.height, PART.width, 4)
    assert 0 < off.mean() < 8
    assert memory.beside[0] == (0, TONED.frame, ["levels", "gradient-map"])


def test_a_sharp_view_is_the_print_unless_the_hand_has_moved_on():
    sharp = views.Sharp(TONED, PART, 1.0, keep=0, of=4)
    (shown,), site = run(sharp, last=4)
    assert not shown.coarse
    assert np.array_equal(shown.pixels, plain(TONED, PART))
    assert site.memory.rested == Renderer(SOURCE, TONED).keys
    assert run(sharp, last=5)[0] == []
    assert run(replace(sharp, rect=Rect(250, 0, 170, 111)), last=4)[0] == []


def test_a_zone_is_marked_in_the_accent_and_the_rest_is_pale():
    (shown,), _ = run(views.Look(TONED, PART, 1.0, zone_of=0, zone=4))
    gray = gray_of(Renderer(SOURCE, TONED).region(PART, 1.0, 0), SRGB)[0]
    inside = np.vectorize(zone_index)(gray) == 4
    assert 0 < inside.sum() < inside.size
    assert (shown.pixels[inside][:, :3] == views._ZONE).all()
    pale = np.rint(255 * (0.55 + 0.35 * gray))
    assert np.abs(shown.pixels[~inside][:, 1] - pale[~inside]).max() <= 1


@pytest.mark.parametrize("make", [
    lambda rect: views.Look(TONED, rect, 1.0), lambda rect: walls.Band(TONED, rect, 1.0, changed=1),
    lambda rect: papers.OnPaper(TONED, rect, 1.0), lambda rect: requests.Cut(TONED, 0, rect, 1.0),
    lambda rect: papers.OnFilm(TONED, rect, 1.0, process=Process()),
], ids=["look", "band", "paper", "cut", "film"])  # fmt: skip
def test_what_lies_beyond_the_print_is_not_sent(make):
    """It was asked for of another frame."""
    assert run(make(Rect(200, 100, 101, 80)))[0] == []
    assert len(run(make(Rect(200, 100, 100, 80)))[0]) == 1


def test_a_view_gives_way_to_one_of_another_place_and_at_length_to_one_of_the_same(monkeypatch):
    monkeypatch.setattr(views, "_GIVE_UP_AFTER", float("inf"))  # however slow the machine is
    look = views.Look(TONED, Rect(0, 0, 300, 180), 1.0)
    assert run(look, waiting=replace(look, scale=0.5), helpers=0)[0] == []
    assert run(look, waiting=replace(look, rect=PART), helpers=0)[0] == []
    assert len(run(look, waiting=look, helpers=0)[0]) == 1
    beside = views.LookBeside(TONED, Rect(0, 0, 300, 180), 1.0)
    assert len(run(beside, waiting=replace(beside, scale=0.5), helpers=0)[0]) == 1
    monkeypatch.setattr(views, "_GIVE_UP_AFTER", -1.0)
    assert run(look, waiting=look, helpers=0)[0] == []


# Walls and strips


@pytest.mark.parametrize("rect", [Rect(60, 0, 60, 180), Rect(0, 10, 300, 33), Rect(4, 4, 1, 1)])
def test_a_band_is_its_part_of_the_print(rect):
    (hung,), _ = run(walls.Band(TONED, rect, 1.0, slot=2, changed=1))
    assert (type(hung), hung.rect, hung.look.slot) == (walls.Hung, rect, 2)
    assert np.array_equal(hung.pixels, plain(TONED, rect))


def test_values_are_those_of_each_print_and_of_the_photograph():
    asked = walls.Values((("a", TONED), ("b", PLAIN)), 1.0, 0.25, 0.75)
    (found,), _ = run(asked)
    x, y = 75, 135
    for slot, script in (("a", TONED), ("b", PLAIN)):
        assert found.values[slot].levels == levels(script, x, y)
    assert found.photo == levels(PLAIN, x, y)
    gray = gray_of(Renderer(SOURCE, TONED).region(Rect(x, y, 1, 1), 1.0), SRGB)[0, 0, 0]
    assert found.values["a"].gray == pytest.approx(gray, abs=1e-4)


def levels(script, x, y):
    """The nearest levels of a pixel."""
    found = Renderer(SOURCE, script).region(Rect(x, y, 1, 1), 1.0)[:, 0, 0]
    return tuple(int(v) for v in np.rint(255 * found))


def near(pixels, others):
    """But for how what lies between two steps of the screen is spread by place."""
    return np.abs(pixels.astype(int) - others.astype(int)).max() <= 1


# Paper and film


PROOF = proof_of(Sheet.of(profile=BENCH))  # of the printer that ships


def test_a_print_on_paper_is_seen_through_its_proof_and_what_is_missed_is_marked():
    rect = Rect(10, 30, 120, 90)
    for marked in (False, True):
        (hung,), _ = run(papers.OnPaper(PLAIN, rect, 1.0, proof=PROOF, marked=marked))
        planes = Renderer(SOURCE, PLAIN).region(rect, 1.0)
        wanted = display.Viewing(proof=PROOF).shown(planes, SRGB)
        beyond = on_proof.outside(PROOF, SRGB, planes)
        assert 0 < beyond.mean() < 1
        assert hung.outside == pytest.approx(beyond.mean())
        ys, xs = np.mgrid[30:120, 10:130]
        lines = beyond & ((xs + ys) % 8 < 2) if marked else np.zeros_like(beyond)
        assert np.array_equal(hung.pixels[~lines], wanted[~lines])
        assert (hung.pixels[lines][:, :3] == papers._MARK).all()


def test_without_a_proof_nothing_is_missed_and_rows_of_any_number_are_whole():
    for height in (1, 2, 7):
        (hung,), _ = run(papers.OnPaper(TONED, Rect(5, 5, 40, height), 1.0))
        assert np.array_equal(hung.pixels, plain(TONED, Rect(5, 5, 40, height)))
        assert hung.outside == 0
    assert run(papers.OnPaper(TONED, PART, 1.0), waiting=object(), helpers=0)[0] == []


def test_bands_lie_beside_each_other_on_paper():
    bands = Bands((PLAIN, TONED), ("a", "b"), (2, 1))
    (hung,), _ = run(papers.OnPaper(PLAIN, Rect(0, 0, 300, 180), 1.0, bands=bands))
    assert np.array_equal(hung.pixels[:100, :150], plain(PLAIN, Rect(0, 0, 150, 100)))  # above their labels
    assert near(hung.pixels[:100, 151:], plain(TONED, Rect(151, 0, 149, 100)))
    assert (hung.pixels[:, 150] == 255).all()  # a line between them


def test_film_has_the_negative_and_the_plates():
    rect = Rect(20, 20, 80, 60)
    process = Process(minutes=5)
    (filmed,), _ = run(papers.OnFilm(TONED, rect, 1.0, process=process))
    made = film.on_film(Renderer(SOURCE, TONED), process)
    assert np.array_equal(filmed.pixels, display.screen().shown(made.region(rect, 1.0), SRGB))
    inks = Script(passes=(P["inks"](),))
    (plate,), _ = run(papers.OnFilm(inks, rect, 1.0, leaf=0))
    made = plates.plate_of(lambda script: Renderer(SOURCE, script), inks, 0, plates.Making())
    assert np.array_equal(plate.pixels, display.screen().shown(made.region(rect, 1.0), SRGB))
    assert plate.tones == ()
    coloured = Process(ink="#7fae2e")
    (filmed,), _ = run(papers.OnFilm(TONED, rect, 1.0, process=coloured))
    assert len(filmed.tones) > 2


def test_dots_of_plates_are_shown_and_none_where_there_are_no_plates():
    sheet = Sheet.of(screen="round", across=120)
    inks = Script(passes=(P["inks"](),))
    sent, _ = run(papers.DotsOf(inks, sheet, (60, 40)))
    assert [dots.pixels.shape for dots in sent] == [(40, 60, 4)]
    assert run(papers.DotsOf(PLAIN, sheet, (60, 40)))[0] == []


def test_tones_of_a_paper_are_told():
    (tones,), _ = run(papers.TonesOf(PROOF))
    wanted = on_proof.tones(PROOF, SRGB)
    assert (tones.tone, tones.paper) == (pytest.approx(tuple(wanted[0])), pytest.approx(tuple(wanted[1])))


# Under the hand


@pytest.mark.parametrize(
    ("x", "y", "at"), [(0, 0, (0, 0)), (0.5, 0.25, (150, 45)), (-1, 2, (0, 179)), (1, 1, (299, 179))]
)
def test_a_place_is_a_pixel_and_beyond_the_rim_the_nearest(x, y, at):
    assert requests.pixel_at(Renderer(SOURCE, PLAIN), 1.0, x, y) == at


def test_values_at_the_pointer_go_along_the_run():
    (found,), _ = run(requests.Point(Wanted(TONED, 1), 1.0, 0.4, 0.6))
    x, y = 120, 108
    spots = analysis.trace(Renderer(SOURCE, TONED), x, y, 1.0)
    assert (found.x, found.y, found.photo) == (0.4, 0.6, spots[0].levels)
    assert found.trace == [spot.levels for spot in spots[1:]]
    assert found.entering == spots[1].gray
    assert (found.lightness, found.gray, found.row) == (spots[-1].lightness, spots[-1].gray, [])


def test_values_at_the_pointer_go_along_the_second_row_too():
    inner = Script(passes=(P["levels"](gamma=0.6), P["levels"](gamma=2.0), P["levels"](out_black=20.0)))
    wanted = Wanted(TONED, 1, within=Within(inner, 1, 2))
    (found,), _ = run(requests.Point(wanted, 1.0, 0.4, 0.6))
    along = analysis.trace(Renderer(SOURCE, inner), 120, 108, 1.0, range(2, 4))
    assert found.row == [spot.levels for spot in along]
    assert found.entering == analysis.spot(Renderer(SOURCE, inner), 120, 108, 1.0, 2).gray
    on_plate = replace(wanted, within=Within(inner, 1, -1))
    (found,), _ = run(requests.Point(on_plate, 1.0, 0.4, 0.6))
    assert found.entering == analysis.spot(Renderer(SOURCE, TONED), 120, 108, 1.0, 1).gray


def test_a_disc_is_felt_as_it_enters_the_pass():
    (felt,), _ = run(requests.Feel(TONED, 1, 1.0, 0.3, 0.5, 6, "tag"))
    found = analysis.touched(Renderer(SOURCE, TONED), 90, 90, 6, 1.0, 1)
    assert (felt.hue, felt.chroma, felt.gray, felt.colour, felt.tag) == (
        found.hue, found.chroma, found.gray, found.colour, "tag",
    )  # fmt: skip
    (none,), _ = run(requests.Feel(TONED, -1, 1.0, 0.3, 0.5, 6))
    assert none.gray == analysis.touched(Renderer(SOURCE, TONED), 90, 90, 6, 1.0, 0).gray


def test_white_is_found_in_raws_alone():
    assert run(requests.FindWhite(PLAIN, 1.0, 0.5, 0.5, 4))[0] == []


@pytest.mark.parametrize(("size", "wanted"), [((60, 60), (60, 36)), ((30, 18), (30, 18)), ((900, 900), (300, 180))])
def test_a_small_picture_fits_and_is_never_larger_than_the_print(size, wanted):
    (small,), _ = run(requests.Prove("chooser", "one", TONED, size))
    assert (small.tag, small.key) == ("chooser", "one")
    assert small.pixels.shape[1::-1] == wanted
    mean = plain(TONED, Rect(0, 0, 300, 180)).mean((0, 1))
    assert np.abs(small.pixels.mean((0, 1)) - mean).max() < 3  # reduced in light, and measured in encoded values


def test_small_pictures_come_by_sight_then_by_speed():
    slow = Script(passes=(P["mend"](),))
    assert slow.takes_long
    scripts = {"c": slow, "a": TONED, "b": PLAIN}
    assert [one.name for one in requests.proofs("t", scripts, (9, 9), {"c"})] == ["c", "a", "b"]
    assert [one.name for one in requests.proofs("t", scripts, (9, 9))] == ["a", "b", "c"]
    assert {(one.tag, one.size) for one in requests.proofs("t", scripts, (9, 9))} == {("t", (9, 9))}


def test_a_stencil_tells_what_is_new_of_it():
    script = TONED
    memory = Memory()
    (mask,), _ = run(requests.Cut(script, 0, PART, 1.0), memory=memory)
    assert mask.values.shape == (PART.height, PART.width)
    assert mask.changed is None  # there was none before
    assert memory.mask is mask
    (again,), _ = run(requests.Cut(script, 0, PART, 1.0), memory=memory)
    assert again.changed == Rect(0, 0, 0, 0)
    memory.mask.values[10:14, 20:27] ^= 1
    (third,), _ = run(requests.Cut(script, 0, PART, 1.0), memory=memory)
    assert third.changed == Rect(20, 10, 7, 4)
    (other,), _ = run(requests.Cut(script, 0, Rect(0, 0, 50, 50), 1.0), memory=memory)
    assert other.changed is None


# The survey


def test_a_survey_tells_everything_of_the_print():
    sent, site = run(requests.LookOver(Wanted(TONED, 1, (60, 40))))
    (survey,) = sent
    renderer = Renderer(SOURCE, TONED)
    whole, scale = analysis.overview(renderer, requests.SURVEY_SIDE)
    stages = [renderer.region(whole, scale, k) for k in range(3)]
    assert [small.shape[1::-1] for small in (survey.photo, *survey.stages)] == [(60, 36)] * 4
    assert np.array_equal(survey.print, display.screen().shown(stages[-1], SRGB))
    assert np.array_equal(survey.kept, survey.print)  # the screen is taken as sRGB
    gray = gray_of(stages[1], SRGB)[0]
    assert np.array_equal(survey.gray_small, gray)
    assert np.array_equal(survey.histogram, analysis.histogram(gray))
    assert survey.channels.sum() == 3 * gray.size
    assert np.array_equal(survey.wedge, analysis.wedge(renderer, 1))
    assert np.array_equal(survey.rose, analysis.rose(stages[1], SRGB))
    assert (survey.unseen, survey.within, survey.aspect) == (0.0, [], 1)
    assert survey.out_ends == analysis.clipped(stages[-1], SRGB)
    with site.queue.lock:
        site.queue.ask(requests.LookOver(Wanted(TONED, 1)))
        assert site.queue.take(lambda one: True, "views") is None  # it pauses before the next


def test_a_survey_of_a_drag_is_smaller_and_of_a_plate_tells_its_run():
    (survey,), _ = run(requests.LookOver(Wanted(TONED, 0, rested=False)))
    assert max(survey.print.shape[:2]) == requests.SURVEY_SIDE // 2
    inner = Script(passes=(P["levels"](gamma=0.6), P["levels"](out_black=20.0)))
    (survey,), _ = run(requests.LookOver(Wanted(TONED, 0, within=Within(inner, 1, 1))))
    assert len(survey.within) == 2
    renderer = Renderer(SOURCE, inner)
    whole, scale = analysis.overview(Renderer(SOURCE, TONED), requests.SURVEY_SIDE)
    assert np.array_equal(survey.gray_small, gray_of(renderer.region(whole, scale, 1), SRGB)[0])
    assert np.array_equal(survey.wedge, analysis.wedge(renderer, 1))


# Sharing out


def test_parts_are_worked_on_by_all_and_none_twice():
    done, lock, names = [], threading.Lock(), set()
    both = threading.Barrier(2, timeout=20)

    def part(k):
        with lock:
            done.append(k)
            names.add(threading.current_thread().name)
        if k < 2:
            both.wait()

    _, site = run(SimpleNamespace(key="x", urgency=0, group=None, place=None, lane="views", rank=0, after=(),
                                  work=lambda site: None))  # fmt: skip
    with ThreadPoolExecutor(1) as line:
        site = replace(site, helpers=line, count=1)
        assert site.share_out(range(20), part, lambda: False)
    assert sorted(done) == list(range(20))
    assert len(names) == 2
    with ThreadPoolExecutor(1) as line:
        assert not replace(site, helpers=line, count=0).share_out(range(5), lambda k: None, lambda: True)
        assert not replace(site, helpers=line, stopping=lambda: True).share_out([], lambda k: None, lambda: False)


# The door to the screen


def test_pixels_are_fitted_into_a_room_and_never_enlarged():
    pixels = np.zeros((40, 60, 4), np.uint8)
    assert [display.fitted(pixels, room).shape[1::-1] for room in ((30, 30), (60, 10), (99, 99), (1, 1))] == [
        (30, 20), (15, 10), (60, 40), (1, 1),
    ]  # fmt: skip


def test_pixels_become_a_picture_even_as_a_part_of_larger_rows():
    pixels = np.random.default_rng(2).integers(0, 256, (9, 14, 4), dtype=np.uint8)
    for part in (pixels, pixels[2:6, 3:8], pixels[:1, 13:]):
        for image in (display.view(part), display.image(part)):
            assert (image.width(), image.height()) == part.shape[1::-1]
            for y, x in ((0, 0), (part.shape[0] - 1, part.shape[1] - 1)):
                colour = image.pixelColor(x, y)
                assert (colour.blue(), colour.green(), colour.red()) == tuple(part[y, x, :3])


def test_colours_become_a_picture_with_what_is_seen_through():
    rgb = np.array([[[0.0, 1.0, 0.5]], [[0.2, 2.0, 0.5]], [[0.4, -1.0, 0.5]]])
    image = display.colours(rgb, np.array([[1.0, 0.5, 0.0]]))
    assert image.format() == QImage.Format.Format_ARGB32
    assert image.pixelColor(0, 0).getRgb() == (0, 51, 102, 255)
    assert image.pixelColor(1, 0).getRgb() == (255, 255, 0, 128)
    assert image.pixelColor(2, 0).getRgb() == (0, 0, 0, 0)
    assert display.colours(rgb).pixelColor(2, 0).alpha() == 255
    assert display.ink("#336699").getRgb() == (0x33, 0x66, 0x99, 255)


def test_a_part_is_put_where_it_lies_in_the_view():
    view, planes = Rect(100, 50, 40, 30), np.random.default_rng(1).random((3, 20, 30), np.float32)
    lies = Rect(90, 65, 30, 20)
    out = np.zeros((30, 40, 4), np.uint8)
    display.screen().place(planes, lies, view, out, SRGB)
    wanted = display.screen().shown(planes, SRGB)
    assert near(out[15:, :20], wanted[:15, 10:])
    assert not out[:15].any()
    assert not out[:, 20:].any()


def test_what_is_framed_is_the_print():
    framed = replace(TONED, frame=Frame(x=40.0, y=60.0, width=50.0))
    width, height = Renderer(SOURCE, framed).size(1.0)
    (shown,), _ = run(views.Look(framed, Rect(0, 0, width, height), 1.0))
    assert np.array_equal(shown.pixels, plain(framed, Rect(0, 0, width, height)))


# What is shared, and what is known already


def spied(monkeypatch, owner, name):
    """Every call of a method, with what it was given."""
    calls, whole = [], getattr(owner, name)

    def heard(self, *given):
        calls.append(given)
        return whole(self, *given)

    monkeypatch.setattr(owner, name, heard)
    return calls


def test_what_lies_round_a_view_in_a_drag_is_worked_out_once_in_a_while(monkeypatch):
    calls, memory = spied(monkeypatch, Rough, "roughly"), Memory()
    drag = views.Look(TONED, PART, 1.0, keep=0)
    run(drag, memory=memory, last=1)
    first = memory.beside
    run(drag, memory=memory, last=1)
    assert [call[3] is None for call in calls] == [True, False]
    assert memory.beside is first  # still good
    assert calls[1][3] is first[2]
    memory.beside = (first[0], first[1] - 1.0, first[2])  # a second ago
    run(drag, memory=memory, last=1)
    run(replace(drag, keep=1), memory=memory, last=1)  # of another pass
    assert [call[3] is None for call in calls[2:]] == [True, True]


def test_a_brush_keeps_what_enters_its_pass(monkeypatch):
    calls = spied(monkeypatch, Site, "renderer")
    for drawing in (False, True):
        run(requests.Cut(TONED, 1, PART, 1.0, drawing=drawing))
    assert [call[1] for call in calls] == [None, 1]


def test_an_enlarged_part_lies_where_the_whole_would_have_it():
    """A ramp, known at a third of its pixels: the part of it is the ramp again, at every edge."""
    ramp = np.zeros((34, 34, 4), np.uint8)
    ramp[..., 0], ramp[..., 1] = np.arange(34) * 3 * 2, (np.arange(34) * 3 * 2)[:, None]
    for x, y in ((0, 0), (30, 12), (70, 80), (82, 82)):
        part = views._enlarged(ramp, Rect(0, 0, 34, 34), Rect(x, y, 20, 20), 1 / 3, 1 / 3)
        assert part.shape == (20, 20, 4)
        inner = part[4:-4, 4:-4].astype(int)
        assert np.abs(inner[..., 0] - 2 * (np.arange(x + 4, x + 16) - 1)).max() <= 4
        assert np.abs(inner[..., 1] - 2 * (np.arange(y + 4, y + 16) - 1)[:, None]).max() <= 4


def test_on_a_plain_screen_pixels_are_the_print_s_own_values():
    planes = np.random.default_rng(4).random((3, 40, 50), np.float32)
    shown = display.screen().shown(planes, SRGB)
    assert np.abs(shown[..., 2::-1] - 255 * np.moveaxis(planes, 0, 2)).max() < 1
    steps = np.float32(1 / 255) * np.random.default_rng(4).integers(0, 256, (3, 40, 50)).astype(np.float32)
    assert np.array_equal(display.screen().shown(steps, SRGB)[..., 2::-1], np.rint(np.moveaxis(steps, 0, 2) * 255))
    assert np.array_equal(display.plain(planes, SRGB), shown)


def test_colour_that_the_screen_has_not_is_counted():
    wide = np.zeros((3, 4, 4), np.float32)
    wide[1, :2] = 1.0  # the greenest of BT.2020, and black
    assert display.screen().unseen(wide, BT2020) == 0.5
    assert display.screen().unseen(wide, SRGB) == 0
    assert display.screen().unseen(wide[:1], BT2020) == 0


# The threads


def test_an_answer_to_what_was_asked_of_another_photograph_is_not_handed_on(service, qtbot):
    came = []
    service.answers(str).connect(came.append)

    @dataclass(frozen=True)
    class Say(Base):
        word: str
        wait: object = None

        def work(self, site):
            if self.wait is not None:
                self.wait.wait(20)
            site.send(self.word)

    held = threading.Event()
    service.ask(Say("of the one before", held))
    qtbot.waitUntil(lambda: any(service._busy.values()))
    service.set_source(SOURCE)
    held.set()
    service.ask(Say("of this"))
    qtbot.waitUntil(lambda: "of this" in came)
    assert came == ["of this"]
    assert service.idle()


def test_how_much_is_kept_is_told_in_words_and_suits_the_machine(monkeypatch):
    assert [budget.words(n) for n in (96, 1023, 1024, 1536, 3072)] == ["96 MB", "1023 MB", "1 GB", "1.5 GB", "3 GB"]
    said = {}
    for name, processors, memory in (("both", 1, 2), ("one", 1, 8), ("little", 4, 2.5), ("none", 4, 3)):
        monkeypatch.setattr(budget.machine, "processors", lambda processors=processors: processors)
        monkeypatch.setattr(budget.machine, "memory", lambda memory=memory: int(memory * (1 << 30)))
        said[name] = (budget.automatic(), budget.weak())
    assert said == {
        "both": (204, "This machine gives one processor and 2.0 GB of memory: views are coarser while you drag, and "
                      "less is kept, and comes back more slowly"),
        "one": (384, "This machine gives one processor: views are coarser while you drag"),
        "little": (256, "This machine gives 2.5 GB of memory: less is kept, and comes back more slowly"),
        "none": (307, ""),
    }  # fmt: skip


def test_what_enters_the_chosen_pass_is_made_ready_and_sent_to_nobody():
    script = Script(passes=(P["levels"](gamma=1.4), P["local-contrast"](), P["gradient-map"]()))
    sent, site = run(requests.Ready(script, PART, 1.0, 2))
    assert sent == []
    assert site.renderer(script, 2).is_cached(PART, 1.0, 2)
    assert not site.renderer(script).is_cached(PART, 1.0, 3)  # what it becomes, a hand will say
    beyond = requests.Ready(script, Rect(0, 0, 4000, 4000), 1.0, 2)  # of a frame that is another one by now
    assert run(beyond)[0] == []


def test_a_print_that_is_judged_pushes_no_tile_out():
    large = ArraySource(make_colourful(600, 900, np.uint16))
    sent, site = run(requests.Judge(TONED), source=large)
    assert len(sent) == 1
    assert not any(key[1:3] == (1.0, TILE) for key in site.cache._kept if len(key) == 5)
