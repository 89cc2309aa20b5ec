"""Numbers of a script, tried in steps."""

import itertools
import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kyanoscript.core.params import Number
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script, ScriptError
from kyanoscript.core.script.address import addressed, with_value
from kyanoscript.core.script.dials import MOST, around, bands, dial_named, dials, narrowed, span
from kyanoscript.core.stencil.shapes import Oval, Stencil
from tests.strategies import PASSES, a_pass, any_script

P = load_all()
SOFT = Stencil(shapes=(Oval(),), feather=3.0)
RUN = (
    P["levels"](), P["levels"](gamma=1.4, stencil=SOFT), P["plate"](run=(P["soften"](radius=4.0),), name="glow"),
    P["exposure"](stencil="sky"),
)  # fmt: skip
SCRIPT = Script(RUN, stencils=(("sky", SOFT),))


@settings(max_examples=40)
@given(script=any_script, share=st.floats(0, 1))
def test_every_number_of_a_script_can_be_put_and_read(script, share):
    """And putting one changes no other."""
    every = dials(script, raw=True)
    for dial in every:
        spec = dial.spec(script)
        value = spec.held(round(spec.low + share * (spec.high - spec.low), spec.decimals))
        changed = dial.put(script, value)
        assert dial.value(changed) == value
        assert dial.words(script)
        others = [other for other in every if other != dial]
        assert [other.value(changed) for other in others] == [other.value(script) for other in others]


@pytest.mark.parametrize(
    ("words", "value", "said"),
    [
        ("levels.gamma", 1.0, "Levels · Middle"),
        ("levels.2.gamma", 1.4, "Levels · Middle"),
        ("plate.soften.radius", 4.0, "Soften · Radius"),
        ("plate.strength", 100.0, "glow · Strength"),
        ("levels.2.stencil.feather", 3.0, "Levels · Stencil: feather"),
        ("exposure.stencil.feather", 3.0, "Exposure · Stencil: feather"),
        ("frame.tilt", 0.0, "Frame · Tilt"),
        ("develop.exposure", 0.0, "Development · Exposure"),
    ],
)
def test_a_number_is_named_by_where_it_stands(words, value, said):
    dial = dial_named(SCRIPT, words)
    assert (dial.value(SCRIPT), dial.words(SCRIPT)) == (value, said)


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("gamma", "is no value of a script"),
        ("levels.3.gamma", "the script has 2 levels"),
        ("levls.gamma", "did you mean 'levels'"),
        ("levels.gama", "did you mean 'gamma'"),
        ("levels.blend", "there is no number"),
        ("levels.stencil.feather", "has no stencil"),
        ("plate.soften.2.radius", "glow has 1 soften"),
    ],
)
def test_what_is_no_number_is_refused_in_words(words, said):
    with pytest.raises(ScriptError, match=said.replace("(", r"\(")):
        dial_named(SCRIPT, words)


def test_a_named_stencil_changes_for_all_and_a_pass_that_takes_values_has_its_own_then():
    changed = dial_named(SCRIPT, "exposure.stencil.feather").put(SCRIPT, 9.0)
    assert dict(changed.stencils)["sky"].feather == 9.0
    taking = Script((P["levels"](auto=True),))
    assert dial_named(taking, "levels.in_black").put(taking, 12.0).passes[0].auto is False
    assert dial_named(taking, "levels.out_black").put(taking, 12.0).passes[0].auto is True


NUMBERS = [
    (model, name, spec)
    for model in PASSES
    for name, spec in model.params().items()
    if isinstance(spec, Number) and name != "seed"
]


@pytest.mark.parametrize(("model", "name", "spec"), NUMBERS, ids=lambda at: getattr(at, "__name__", at))
@settings(max_examples=6)
@given(data=st.data())
def test_bands_of_every_number(model, name, spec, data):
    """In order, within the range, the present value among them, ends where they were asked for, no more than asked."""
    value = getattr(data.draw(a_pass(model)), name)
    count = data.draw(st.integers(3, 15))
    low, high = around(spec, value, count)
    assert spec.low <= low <= value <= high <= spec.high
    for eye in (False, True):
        found = bands(spec, value, low, high, count, eye)
        assert list(found) == sorted(set(found))
        assert value in found
        assert found[0] == low or found[0] == value
        assert found[-1] == high or found[-1] == value
        assert len(found) <= count <= MOST
        assert all(spec.low <= v <= spec.high for v in found)


def test_even_to_the_eye_is_ratios_for_gamma_and_radius_and_equal_for_stops():
    gamma = P["levels"].number("gamma")
    found = bands(gamma, 1.0, 0.5, 2.0, 5, eye=True)
    assert [round(b / a, 2) for a, b in itertools.pairwise(found)] == pytest.approx([1.41] * 4, abs=0.02)
    exposure = P["exposure"].number("exposure")
    assert bands(exposure, 0.0, -1.0, 1.0, 5, eye=True) == (-1.0, -0.5, 0.0, 0.5, 1.0)
    assert bands(gamma, 1.0, 0.5, 2.0, 4, eye=False) == (0.5, 1.0, 1.5, 2.0)


def test_a_present_value_outside_stretches_the_strip():
    gamma = P["levels"].number("gamma")
    assert bands(gamma, 2.0, 0.5, 1.0, 4, eye=False) == (0.5, 1.0, 1.5, 2.0)


def test_narrowing_goes_on_between_the_neighbours_in_half_the_steps():
    values = (0.7, 0.8, 0.9, 1.0, 1.1, 1.2, 1.3)
    low, high, count = narrowed(values, 4)
    gamma = P["levels"].number("gamma")
    assert bands(gamma, 1.1, low, high, count, eye=False) == (1.0, 1.05, 1.1, 1.15, 1.2)
    assert narrowed(values, 0) == (0.7, 0.8, 3)
    assert narrowed(values, 6) == (1.2, 1.3, 3)


@pytest.mark.parametrize("words", ["0.7", "0.7..", "a..b/7", "0.7..1.4/2", "0.7..1.4/16", "nan..1/5", "1..inf"])
def test_rows_of_values_that_make_no_sense_are_refused(words):
    with pytest.raises(ScriptError, match=r"0\.7\.\.1\.4/7"):
        span(words)


def test_a_row_of_values_is_told_in_words():
    assert span("0.7..1.4/7") == (0.7, 1.4, 7)
    assert span("-1..2") == (-1.0, 2.0, 7)


@pytest.mark.parametrize(
    ("words", "value"),
    [
        ("levels.gamma", 0.8),
        ("levels.2.gamma", 1.2),
        ("plate.soften.radius", 7.5),
        ("levels.2.stencil.feather", 12.0),
        ("exposure.stencil.feather", 12.0),  # of a stencil that several passes share
        ("frame.tilt", 3.0),
        ("develop.exposure", 0.5),
        ("levels.blend", "multiply"),
        ("exposure.stencil", "sky"),
        ("levels.on", False),
    ],
)
def test_whatever_has_an_address_is_set_by_it_and_nothing_else_is(words, value):
    before = addressed(SCRIPT, words)
    changed = with_value(SCRIPT, f"{words}={json.dumps(value) if not isinstance(value, str) else value}")
    assert before.get(changed) == value
    again = before.put(changed, before.get(SCRIPT))
    assert again == SCRIPT


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("levels.2.stencil.feather=-3", r"pass 2: stencil\.feather is -3; it must be 0…"),
        ("plate.soften.radius=much", r'pass 3, pass 1 of its run: soften\.radius is "much"; it must be'),
        ("levels.2.stencil.fether=3", "did you mean 'feather'"),
        ("levels.stencil.feather=3", "Levels has no stencil"),
        ("2.gamma=3", "is no value of a script"),
        ("levels..gamma=3", "is no value of a script"),
        ("plate.sofen.radius=3", "there is no pass 'sofen'; did you mean 'soften'"),
        ("frame.tlit=3", "did you mean 'tilt'"),
    ],
)
def test_what_cannot_be_set_is_refused_with_its_place(words, said):
    with pytest.raises(ScriptError, match=said):
        with_value(SCRIPT, words)
