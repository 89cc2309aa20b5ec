"""What inks cover: the ink model by handbooks, coverages that are found, and what is wished of them."""

import numpy as np
import pytest
from scipy.optimize import least_squares

from kyanoscript.core import colour
from kyanoscript.core.paper.presses import PRESSES
from kyanoscript.core.paper.screens import effective
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.apart import taken_apart
from kyanoscript.core.passes.covers import Model, Wish, found, held_back, spread, turned, turns
from kyanoscript.core.print.reckoned import Press, reckoned, untouched, usual

P = load_all()
TONED = [(kind, start) for kind in ("quad-tone", "split-tone") for start in P[kind].starts]
INKED = [("inks", start) for start in P["inks"].starts]


def apart(kind, start):
    return taken_apart(P[kind](**P[kind].starts[start]))


def density(encoded):
    return float(-np.log10(colour.to_light(np.asarray(encoded))[0]))


@pytest.mark.parametrize(("curve", "gain"), [("A", 16), ("B", 19), ("C", 22), ("D", 25), ("E", 28)])
def test_tone_value_increase_of_iso_12647(curve, gain):
    """ISO 12647-2:2013, at 50 %; what is held back comes out as it was wanted."""
    assert PRESSES[curve].gain == gain
    assert float(spread(np.array([0.5]), gain / 100)[0]) == pytest.approx(0.5 + gain / 100)
    wanted = np.linspace(0, 1, 101)
    assert np.abs(spread(held_back(wanted, gain / 100), gain / 100) - wanted).max() < 1e-12
    assert held_back(wanted, gain / 100)[-1] == 1  # what is full stays full


@pytest.mark.parametrize("n", [1.0, 1.7, 2.0, 3.0])
def test_a_tint_has_the_density_that_yule_and_nielsen_s_formula_gives(n):
    """The formula of the handbooks, by `effective`: back from the density of a tint to what it covers."""
    ink = Model(np.ones(3), np.full((1, 3), 10**-1.5), np.zeros(1), n)
    for covers in (0.1, 0.3552, 0.8):
        tint = density(ink.printed(np.array([[covers]]))[0])
        assert effective(1.5, tint, n) == pytest.approx(covers, abs=1e-6)


def test_slopes_are_those_of_the_print():
    rng = np.random.default_rng(3)
    model = Model(np.array([0.9, 0.85, 0.8]), rng.uniform(0.02, 0.8, (3, 3)), np.array([0.1, 0.0, 0.2]), 1.8)
    covers = rng.uniform(0.05, 0.95, (5, 3))
    slopes = model.slopes(covers)
    for k in range(3):
        more = covers.copy()
        more[:, k] += 1e-6
        assert np.abs((model.printed(more) - model.printed(covers)) / 1e-6 - slopes[:, :, k]).max() < 1e-4


def test_coverages_are_found_as_by_scipy():
    """Against scipy.optimize.least_squares, of the print alone: as near, tone by tone."""
    rng = np.random.default_rng(1)
    model = Model(np.array([0.95, 0.93, 0.9]), rng.uniform(0.02, 0.7, (2, 3)), np.array([0.15, 0.1]), 1.9)
    print_ = colour.to_encoded(np.linspace(0.05, 0.9, 17)[None] * np.array([[1.0], [0.95], [0.9]]))
    made = found(print_, model, np.full((17, 2), 0.5), Wish())
    for k in range(17):

        def off(covers, k=k):
            return 255 * (model.printed(covers[None])[0] - print_[:, k])

        best = min((least_squares(off, [a, b], bounds=(0, 1)) for a in (0.2, 0.8) for b in (0.2, 0.8)),
                   key=lambda one: one.cost)  # fmt: skip
        assert (off(made[k]) ** 2).sum() <= 2 * best.cost * 1.02 + 1e-3


def test_turns_are_counted_and_curves_that_turn_too_often_are_straightened():
    x = np.linspace(0, 1, 129)
    assert [turns(curve) for curve in (x, x * (1 - x), 0.5 + 0.4 * np.sin(9 * x), 0 * x)] == [0, 1, 3, 0]
    assert turns(x + 0.001 * np.sin(60 * x)) == 0  # too little to be one
    waves = 0.5 + 0.3 * np.sin(20 * x)
    calmer, ways = turned(waves)
    assert turns(waves) == 6
    assert turns(calmer) <= 2
    assert np.count_nonzero(np.diff(ways)) <= 2
    kept, _ = turned(x * (1 - x))
    assert np.abs(kept - x * (1 - x)).max() < 1e-3


@pytest.mark.parametrize(("kind", "start"), TONED)
def test_four_inks_of_a_toned_print_are_calm_and_few(kind, start):
    """Within 1/255 of the print; none turns more than twice; on one place lie three full inks at most; and none lies
    at more than half where the print would be the same without it, but on black itself, where a plate would jump."""
    made = apart(kind, start)
    assert made.left <= 1
    assert max(turns(covers) for covers in made.coverage) <= 2
    assert made.coverage.sum(axis=0).max() <= 3 + 1e-6
    model = Press().model(made)
    covers = made.coverage.T[17:]  # from 1/255 on
    for k in range(len(made.inks)):
        without = covers.copy()
        without[:, k] = 0
        idle = 255 * np.abs(model.printed(without) - model.printed(covers)).max(axis=1) < 0.2
        assert covers[idle, k].max(initial=0) < 0.5


@pytest.mark.parametrize(("kind", "start"), INKED + TONED)
def test_plates_reckoned_for_a_press_print_what_is_wanted_on_it(kind, start):
    """By the formula of Yule, Nielsen and Neugebauer with n = 2: within 0.6 L* where plates for ink that does not
    spread are 7 and more off on average; of two strong greens, whose hues light's spread cannot mix, within 1.2."""
    inks = apart(kind, start)
    made = reckoned(inks, Press(n=2.0, most=400.0))
    strong = start == "two inks: greens"
    assert made.before[0] > (1 if strong else 7)
    assert made.left[1] < (1.2 if strong else 0.6)
    assert max(turns(covers) for covers in made.apart.coverage) <= 2
    assert f"for ink that does not spread they would print up to {made.before[1]:.1f} L* off" in made.gained
    assert bool(made.short) == (made.left[1] >= 1)


def test_light_that_spreads_darkens_a_print_in_four_inks():
    """From black to pale gray, n = 2: 7.9 L* off on average and 16.8 at worst, as was measured from outside."""
    before = reckoned(apart("inks", "four inks: black to pale gray"), Press(n=2.0)).before
    assert before[0] == pytest.approx(7.9, abs=0.1)
    assert before[1] == pytest.approx(16.8, abs=0.1)


def test_every_ink_has_its_own_gain():
    inks = apart("inks", "three inks: black, blue, ochre")
    made = reckoned(inks, Press((10.0, 0.0, 25.0, 0.0)))
    assert made.left[1] < 0.05
    middle = [np.abs(covers - 0.5).argmin() for covers in inks.coverage]
    less = [0.5 - made.apart.coverage[k, at] for k, at in enumerate(middle)]
    assert less[0] == pytest.approx(0.5 - held_back(np.array([0.5]), 0.1)[0], abs=0.01)
    assert abs(less[1]) < 0.01
    assert less[2] == pytest.approx(0.5 - held_back(np.array([0.5]), 0.25)[0], abs=0.01)


@pytest.mark.parametrize("most", [240.0, 270.0, 300.0])
def test_no_place_gets_more_ink_than_is_asked_for(most):
    inks = apart("inks", "four inks: black to pale gray")
    assert inks.coverage.sum(axis=0).max() > 3.3
    made = reckoned(inks, Press(most=most))
    assert made.apart.coverage.sum(axis=0).max() <= most / 100 + 1e-9
    assert made.left[1] < 1  # the pale ones are given up where black lies anyway
    light = inks.coverage.sum(axis=0) < most / 100 - 0.2
    assert np.abs(made.apart.coverage[:, light] - inks.coverage[:, light]).max() < 0.05


def test_where_nothing_happens_to_ink_plates_are_the_inks_own():
    inks = apart("inks", "two inks: black and warm gray")
    assert untouched(inks, Press(most=300.0))
    assert reckoned(inks, Press(most=300.0)).apart is inks
    assert not untouched(inks, usual("baryta")[1])
    assert usual("own") == usual("cotton")  # of a paper of one's own nothing is known
