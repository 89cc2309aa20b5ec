"""Kinds of parameters: what they say of values and of their differences, and the values to try."""

import itertools
import sys
import threading

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.params import Declared, kinds
from kyanoscript.core.passes import load_all
from kyanoscript.core.stencil.shapes import SHAPES, Oval, Stencil
from tests.strategies import value_of

P = load_all()
DECLARED = [*P.values(), Frame, Sheet, Stencil, *SHAPES]


def said(kind, name, before, after):
    return P[kind].params()[name].difference(before, after)


@pytest.mark.parametrize(
    ("found", "words"),
    [
        (said("levels", "strength", 63.0, 55.0), "strength 63 → 55 %"),
        (said("levels", "gamma", 1.0, 1.25), "middle 1 → 1.25"),
        (said("exposure", "exposure", 0.5, -0.5), "exposure 0.5 → −0.5 stops"),
        (said("levels", "on", True, False), "on on → off"),
        (said("levels", "blend", "normal", "soft-light"), "blend normal → soft light"),
        (said("gray-weights", "ring", ((250.0, -35.0),), ((250.0, -20.0),)), "gray ring: 250° −35 → −20"),
        (said("gray-weights", "ring", (), ((30.0, 5.0), (90.0, 5.0))), "gray ring: new at 30°, 90°"),
        (said("curves", "every", ((64.0, 50.0), (128.0, 128.0)), ((64.0, 70.0),)), "all: 64 50 → 70, gone at 128"),
        (said("gradient-map", "stops", ((0.0, "#000000"),), ((0.0, "#201000"),)), "stops: 0 % #000000 → #201000"),
        (said("plate", "tone", "#ffffff", "#f0e0d0"), "tone #ffffff → #f0e0d0"),
        (said("lettering", "words", "", "Dye works"), "words nothing → “Dye works”"),
        (said("plate", "run", (), (P["soften"](), P["soften"]())), "its run 0 → 2"),
        (said("plate", "run", (P["soften"](),), (P["soften"](radius=9.0),)), "its run 1 of 1 otherwise"),
        (said("levels", "stencil", None, Stencil(shapes=(Oval(x=1.0, y=1.0),))), "stencil everywhere → 1 part"),
        (said("levels", "stencil", "bell", "vat"), "stencil “bell” → “vat”"),
    ],
)
def test_differences_are_said_in_words(found, words):
    assert found == words


@pytest.mark.parametrize("model", DECLARED, ids=lambda model: model.__name__)
@settings(max_examples=8)
@given(data=st.data())
def test_every_parameter_can_be_asked(model, data):
    for name, spec in model.params().items():
        value, other = (data.draw(value_of(spec)) for _ in range(2))
        assert spec.range_text()
        assert spec.says(value)
        assert spec.difference(value, value) == ""
        assert bool(spec.difference(value, other)) == (value != other)
        assert "\n" not in spec.difference(value, other)
        assert isinstance(spec.schema(lambda what: {}), dict)
        steps = spec.steps(value, 7)
        if steps:
            assert value in steps
            assert len(set(steps)) == len(steps)
            assert model.checked(name, steps[0]) == steps[0]
        if isinstance(spec, kinds.Number):
            assert list(steps) == sorted(steps)
            assert all(spec.low <= step <= spec.high for step in steps)


def test_steps_of_a_number_are_equal_or_equal_to_the_eye():
    radius, strength = P["soften"].number("radius"), P["soften"].number("strength")
    assert strength.steps(50.0, 7) == (20, 30, 40, 50.0, 60, 70, 80)
    assert strength.steps(95.0, 7)[-1] == 95.0  # at the rim all lie on the other side
    assert strength.steps(100.0, 15) == pytest.approx([100 - 7.1 * k for k in reversed(range(15))])  # as far as it goes
    found = radius.steps(8.0, 5)
    assert [round(b / a, 2) for a, b in itertools.pairwise(found)] == pytest.approx([1.41] * 4, abs=0.011)
    assert P["threshold"].number("level").steps(128, 3) == (118, 128, 138)
    assert Frame.number("turns").steps(1, 7) == (0, 1, 2, 3)


def test_steps_of_shapes_go_from_nothing_to_twice_as_much():
    ring = P["gray-weights"].params()["ring"]
    assert ring.steps(((30.0, 40.0),), 5) == tuple(((30.0, lift),) for lift in (0.0, 20.0, 40.0, 60.0, 80.0))
    curve = P["curves"].params()["every"]
    assert curve.steps(((64.0, 84.0),), 3) == (((64.0, 64.0),), ((64.0, 84.0),), ((64.0, 104.0),))
    assert ring.steps((), 5) == ()


def numbers(model):
    return {name: spec for name, spec in model.params().items() if isinstance(spec, kinds.Number)}


EVEN = [(model, name, spec) for model in DECLARED for name, spec in numbers(model).items() if spec.ratio]


@pytest.mark.parametrize("model", DECLARED, ids=lambda model: model.__name__)
def test_lengths_and_values_over_three_decades_move_evenly_to_the_eye(model):
    """All but the seeds of chance, whose numbers have no size."""
    for name, spec in numbers(model).items():
        least = max(spec.low, spec.step)
        if name != "seed" and spec.low >= 0 and (spec.unit == kinds.LENGTH or spec.high / least >= 1000):
            assert spec.ratio, name


@pytest.mark.parametrize(("model", "name", "spec"), EVEN, ids=lambda at: getattr(at, "__name__", at))
def test_the_middle_of_such_a_slider_is_near_the_geometric_middle(model, name, spec):
    """Of the lowest value, or of one step where that is 0, and the highest."""
    middle = ((spec.low or spec.step) * spec.high) ** 0.5
    assert middle / 1.05 < spec.at(0.5) < middle * 1.05
    assert (spec.at(0), spec.at(1)) == pytest.approx((spec.low, spec.high))
    for share in (0.0, 0.1, 0.25, 0.5, 0.9, 1.0):
        assert spec.share(spec.at(share)) == pytest.approx(share, abs=1e-9)


def test_many_threads_may_be_the_first_to_use_a_class():
    """What checks it is made by each of them, and is the same: none finds that of the class above."""
    names = [f"x{k}" for k in range(30)]
    wrong = []

    def first(kind, gate):
        gate.wait()
        try:
            kind(**dict.fromkeys(names, 1.0))
        except Exception as error:
            wrong.append(error)

    before = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        for turn in range(20):
            above = type(f"Above{turn}", (Declared,), {"__module__": __name__})
            above()
            fields = {"__annotations__": dict.fromkeys(names, float), **dict.fromkeys(names, 0.0)}
            kind = type(f"Kind{turn}", (above,), {"__module__": __name__, **fields})
            gate = threading.Barrier(6)
            threads = [threading.Thread(target=first, args=(kind, gate)) for _ in range(6)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
    finally:
        sys.setswitchinterval(before)
    assert wrong == []
