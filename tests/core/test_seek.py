"""Seeking several values by choosing: the search alone, and against strips with a made-up eye."""

import random
from dataclasses import replace

import numpy as np
import pytest
from skimage import color

from kyanoscript import demo
from kyanoscript.core.colour import SRGB
from kyanoscript.core.colour.difference import ciede2000
from kyanoscript.core.frame import Frame
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource
from kyanoscript.core.script import Script, ScriptError, fresh
from kyanoscript.core.script.dials import dial_named, dials
from kyanoscript.core.seek.appearance import Appearance, apart, even, trials
from kyanoscript.core.seek.belief import GUESSES, Choice, learned, unknown
from kyanoscript.core.seek.plane import grid, next_plane
from kyanoscript.core.seek.seek import MOST, Seek, Sought, choices, script_at, shares_of, start_of, to_learn
from kyanoscript.core.seek.smalls import Smalls
from kyanoscript.files.photos.photo import open_photo
from tests.test_docs import ROOT, load

PASSES = load_all()


@pytest.fixture
def script():
    return Script(
        (
            PASSES["gray-weights"](red=30, green=59, blue=11),
            PASSES["levels"](gamma=1.08),
            PASSES["toner-bath"](),
            PASSES["vignette"](amount=-1),
        )
    )


def sought(script, *words):
    return [Sought.of(script, dial_named(script, word)) for word in words]


def three(script):
    return sought(script, "gray-weights.red", "levels.gamma", "toner-bath.depth")


@pytest.fixture
def source():
    dice = np.random.default_rng(3)
    rows, columns = np.mgrid[0:60, 0:90] / 90
    planes = np.stack([columns, rows, 0.6 - 0.5 * columns], -1) + dice.normal(0, 0.02, (60, 90, 3))
    return ArraySource(np.clip(planes, 0, 1).astype(np.float32))


# What a look is


def test_distances_of_bent_lab_come_near_ciede2000():
    """Against the formula itself (CIE 142-2001), for tints of prints: nearly all within a quarter."""
    dice = np.random.default_rng(1)
    one = np.stack([dice.uniform(5, 98, 4000), dice.uniform(-12, 25, 4000), dice.uniform(-25, 35, 4000)], 1)
    other = one + dice.normal(0, 3, one.shape)
    true, near = ciede2000(one, other), np.linalg.norm(even(one) - even(other), axis=1)
    ratio = near / true
    assert 0.75 < np.quantile(ratio, 0.1) < np.quantile(ratio, 0.9) < 1.25
    assert np.corrcoef(true, near)[0, 1] > 0.95
    plain = np.linalg.norm(one - other, axis=1)
    assert np.corrcoef(true, plain)[0, 1] < np.corrcoef(true, near)[0, 1]  # what the bending is for


def test_small_prints_are_those_that_are_rendered(script, source):
    """Their L*, a*, b* against scikit-image."""
    found = Smalls(source, script, three(script)).lab(start_of(three(script)))
    from kyanoscript.core.picture import Rect
    from kyanoscript.core.render import analysis
    from kyanoscript.core.render.renderer import Renderer

    small = ArraySource(np.moveaxis(analysis.opened(source, 48), 0, -1).copy(), SRGB)
    planes = Renderer(small, script).region(Rect(0, 0, 48, 32))
    assert found == pytest.approx(color.rgb2lab(np.moveaxis(planes, 0, -1)).reshape(-1, 3), abs=0.02)


def test_of_a_raw_s_development_small_prints_are_made_from_the_raw(script):
    """An exposure two stops up is lighter, which a picture that is developed already cannot know."""
    raw = open_photo(demo.photo(demo.RAW)).source
    found = sought(script, "develop.exposure", "levels.gamma")
    smalls = Smalls(raw, script, found)
    start = start_of(found)
    dark, light = (smalls.lab(np.array([share, start[1]]))[:, 0].mean() for share in (0.0, 1.0))
    assert light > dark + 5
    assert smalls.lab(np.array([1.0, start[1]])).shape == smalls.lab(start).shape


def test_what_is_learned_tells_how_far_prints_are_apart(script, source):
    dials = three(script)
    smalls = Smalls(source, script, dials)
    appearance = smalls.learned()
    points = np.random.default_rng(8).random((40, 3))
    labs = [smalls.lab(point) for point in points]
    true = [float(ciede2000(labs[k], labs[k + 1]).mean()) for k in range(39)]
    told = [float(apart(appearance(points[k : k + 1]), appearance(points[k + 1 : k + 2]))[0, 0]) for k in range(39)]
    assert np.corrcoef(true, told)[0, 1] > 0.9
    assert 0.7 < np.mean(told) / np.mean(true) < 1.6


def test_where_the_frame_is_sought_prints_of_other_sizes_are_compared(script, source):
    framed = replace(script, frame=Frame(width=80, height=80))
    dials = sought(framed, "frame.width", "levels.gamma")
    smalls = Smalls(source, framed, dials)
    assert smalls.lab(np.array([0.0, 0.5])).shape == smalls.lab(np.array([1.0, 0.5])).shape


def test_what_is_tried_small_begins_at_the_start_and_tries_each_end():
    start = np.array([0.3, 0.7])
    found = trials(start, 5)
    assert np.array_equal(found[0], start)
    for k, end in ((0, 0.0), (0, 1.0), (1, 0.0), (1, 1.0)):
        wanted = start.copy()
        wanted[k] = end
        assert (found == wanted).all(axis=1).any()
    assert np.array_equal(found, trials(start, 5))
    assert not np.array_equal(found, trials(start, 6))


# What is believed


def test_guesses_gather_where_the_choices_point():
    """Of a plain space: someone always takes what is nearest to one place."""
    appearance, dice = Appearance.plain(2), np.random.default_rng(2)
    meant, guesses, told = np.array([0.2, 0.8]), unknown(2, dice), []
    before = np.linalg.norm(guesses - meant, axis=1).mean()
    for _ in range(8):
        points = dice.random((9, 2))
        told.append(Choice(points, int(np.argmin(np.linalg.norm(points - meant, axis=1)))))
        guesses = learned(guesses, told, appearance, dice)
    assert guesses.shape == (GUESSES, 2)
    assert ((guesses >= 0) & (guesses <= 1)).all()
    assert np.linalg.norm(guesses - meant, axis=1).mean() < before / 4


def test_guesses_follow_the_model_s_own_odds():
    """One choice between two: against the odds reckoned on a fine grid of everything that could be meant."""
    appearance, dice = Appearance.plain(1), np.random.default_rng(4)
    choice = Choice(np.array([[0.45], [0.55]]), 0)
    guesses = np.concatenate([learned(unknown(1, dice), [choice], appearance, dice) for _ in range(12)])
    fine = np.linspace(0.0005, 0.9995, 1000)
    near, far = 10 * abs(fine - 0.45), 10 * abs(fine - 0.55)
    least = np.minimum(near, far)
    spread = np.maximum(0.05 * least, 0.08)
    wins = np.exp((least - near) / spread), np.exp((least - far) / spread)
    odds = 0.75 * wins[0] / (wins[0] + wins[1]) + 0.25 / 2
    odds /= odds.sum()
    for end in (0.25, 0.45, 0.5, 0.6):
        assert (guesses < end).mean() == pytest.approx(odds[fine < end].sum(), abs=0.03)


def test_one_wrong_choice_does_not_hide_what_is_meant():
    appearance, dice = Appearance.plain(2), np.random.default_rng(6)
    meant, guesses, told = np.array([0.7, 0.3]), unknown(2, dice), []
    for look in range(10):
        points = dice.random((9, 2))
        far = np.linalg.norm(points - meant, axis=1)
        told.append(Choice(points, int(np.argmax(far) if look == 3 else np.argmin(far))))
        guesses = learned(guesses, told, appearance, dice)
    assert np.linalg.norm(guesses.mean(0) - meant) < 0.12


# What is shown


def test_a_plane_has_the_best_in_the_middle_and_stays_within_what_the_dials_allow():
    best, one, other = np.array([0.9, 0.5]), np.array([0.3, 0.0]), np.array([0.0, 0.2])
    points = grid(best, one, other, 3).reshape(3, 3, 2)
    assert points[1, 1] == pytest.approx(best)
    assert points[1, 2] == pytest.approx([1.0, 0.5])  # cut
    assert points[1, 0] == pytest.approx([0.6, 0.5])
    assert points[2, 1] == pytest.approx([0.9, 0.7])


def test_a_plane_goes_where_something_may_be_meant_and_not_along_what_is_locked():
    dice = np.random.default_rng(1)
    guesses = np.clip(np.array([0.8, 0.2, 0.5]) + dice.normal(0, 0.05, (GUESSES, 3)), 0, 1)
    best = np.array([0.3, 0.6, 0.5])
    appearance = Appearance.plain(3)
    points = next_plane(best, guesses, appearance, 3, dice, np.array([True, True, True]))
    before = apart(appearance(guesses), appearance(best[None])).mean()
    assert apart(appearance(guesses), appearance(points)).min(axis=1).mean() < before / 3
    held = next_plane(best, guesses, appearance, 3, dice, np.array([True, False, True]))
    assert (held[:, 1] == best[1]).all()
    assert len(np.unique(held[:, 0])) > 1


# The whole search


def test_the_first_prints_are_the_start_and_others_and_all_within_the_ends(script):
    seek = Seek.begun(script, three(script))
    assert len(seek.now.points) == 9
    assert seek.script(seek.best) == script
    assert seek.moved() == ("", "", "")
    for made in seek.scripts():
        for one in seek.dials:
            assert one.low <= one.dial.value(made) <= one.high
    assert len({str(made) for made in seek.scripts()}) == 9


def test_what_is_taken_is_the_middle_of_the_next_prints(script):
    seek = Seek.begun(script, three(script))
    taken = seek.now.points[7]
    then = seek.choose(7)
    assert then.count == 1
    assert np.array_equal(then.now.points[4], taken)
    assert np.array_equal(then.choose(4).now.points[4], taken)  # nothing was better
    with pytest.raises(IndexError):
        seek.choose(9)


def test_the_same_choices_give_the_same_prints_whatever_the_passes_are_called_inside(script):
    def walked(base):
        seek = Seek.begun(base, three(base))
        for k in (2, 4, 8):
            seek = seek.choose(k)
        return seek

    one, other = walked(script), walked(replace(script, passes=fresh(script.passes)))
    assert np.array_equal(one.now.points, other.now.points)
    assert not np.array_equal(one.now.points, Seek.begun(script, three(script)).choose(2).now.points)


def test_one_look_back_is_as_it_was(script):
    seek = Seek.begun(script, three(script)).choose(1)
    then = seek.choose(5).choose(0)
    assert np.array_equal(then.back().back().now.points, seek.now.points)
    assert np.array_equal(then.back(1).choose(5).now.points, seek.choose(5).now.points)
    assert then.back(0).count == 0
    assert seek.back(7) is seek


def test_a_locked_dial_stays_where_the_best_has_it(script):
    seek = Seek.begun(script, three(script)).choose(2)
    held = seek.lock({1})
    assert held.count == seek.count
    assert (held.now.points[:, 1] == seek.best[1]).all()
    further = held.choose(0).choose(8)
    assert (further.now.points[:, 1] == seek.best[1]).all()
    assert len(np.unique(further.lock(()).now.points[:, 1])) > 1


def test_values_are_told_as_far_as_they_have_gone(script):
    dials = three(script)
    made = script_at(script, dials, np.array([dials[0].share(41), dials[1].share(1.25), dials[2].share(100)]))
    assert dials[1].moved(dials[1].dial.value(made)) == "1.08 \N{RIGHTWARDS ARROW} 1.25"
    assert dials[2].moved(dials[2].dial.value(made)) == ""
    assert made.passes[0].red == 41
    assert made.passes[2] == script.passes[2]  # what did not move is untouched


def test_a_start_between_two_steps_of_its_dial_is_left_as_it_is(script):
    """A value from a file may have more decimals than a dial shows; not to touch it is to keep it."""
    exact = script.with_pass(1, script.passes[1].model_copy(update={"gamma": 1.0837}))
    found = sought(exact, "levels.gamma", "gray-weights.red")
    assert found[0].at(found[0].share(1.0837)) == 1.0837
    assert script_at(exact, found, start_of(found)) == exact


def test_a_search_takes_two_to_twelve_values(script):
    every = dials(script)
    for many in (1, MOST + 1):
        with pytest.raises(ScriptError, match="2 to 12"):
            Seek.begun(script, [Sought.of(script, dial) for dial in every[:many]])
    with pytest.raises(ValueError, match="3 or 5"):
        Seek.begun(script, three(script), side=4)
    gone = dial_named(script, "levels.gamma")
    with pytest.raises(ScriptError, match="gamma"):
        Sought.of(Script(), gone)


def test_narrower_ends_hold_the_start(script):
    (middle,) = sought(script, "levels.gamma")
    close = middle.narrowed(1.2, 1.4)
    assert (close.low, close.high) == (1.08, 1.4)
    assert close.at(close.share(1.08)) == 1.08
    assert middle.narrowed(-5, 50).low == middle.spec.low


def test_shares_are_even_to_the_eye(script):
    """Of a value whose ratios are seen as steps: the middle between 0.5 and 2 is 1."""
    (middle,) = sought(script, "levels.gamma")
    wide = replace(middle, low=0.5, high=2.0)
    assert wide.at(0.5) == pytest.approx(1.0, abs=0.006)


def test_pairs_judged_blind_count_as_choices(script):
    dials = three(script)
    warm, cold = (script_at(script, dials, np.array([0.5, share, 0.5])) for share in (0.9, 0.1))
    other = Script(script.passes[:2])
    found = choices(script, dials, [(warm, cold), (warm, other)])
    assert len(found) == 1  # the other differs in more than the dials
    assert found[0].points[0][1] > 0.85
    assert shares_of(script, dials, dials[1].dial.put(script, dials[1].spec.high)) is None  # beyond its end
    plain = Seek.begun(script, dials)
    told = Seek.begun(script, dials, judged=found * 3)
    assert told.now.guesses[:, 1].mean() > plain.now.guesses[:, 1].mean() + 0.1


def test_twenty_five_prints_are_a_plane_too(script):
    seek = Seek.begun(script, three(script), side=5)
    assert len(seek.now.points) == 25
    assert np.array_equal(seek.now.points[12], seek.best)
    assert len(seek.wide(3).now.points) == 9


# Worth it


def test_an_eye_arrives_in_half_the_looks_that_strips_take():
    """A made-up eye, as in bench/seek.py: six values, two photographs, four hidden prints each; the whole table, with
    30 of each, stands in docs/decisions/0036."""
    seek = load(ROOT / "bench/seek.py")
    worlds = [(photo, seed) for photo in demo.NAMES[:2] for seed in range(4)]
    looks = {
        way: sum(seek.WAYS[way](seek.World(photo, 6, seed)) for photo, seed in worlds)
        for way in ("seek, nine", "strips", "fields of nine")
    }
    assert looks["seek, nine"] <= min(looks["strips"], looks["fields of nine"]) / 2
    erring = sum(seek.WAYS["seek, nine"](seek.World(photo, 6, seed, 0.2)) for photo, seed in worlds)
    assert erring <= 2 * looks["seek, nine"]


def test_any_eye_ends_somewhere(script):
    """Whoever presses anything gets legal prints, forever."""
    dice, seek = random.Random(1), Seek.begun(script, three(script))
    for _ in range(12):
        seek = seek.choose(dice.randrange(9))
        assert np.isfinite(seek.now.points).all()
        assert ((seek.now.points >= 0) & (seek.now.points <= 1)).all()
        assert seek.left >= 0
    assert to_learn(script, three(script)).shape[1] == 3
