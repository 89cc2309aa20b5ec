"""How scripts differ: the law of taking over, and the words."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script, fresh, walk
from kyanoscript.core.script.differ import differ, same_print
from kyanoscript.core.stencil.shapes import Oval, Stencil, Stroke
from tests.strategies import PASSES, a_pass, any_frame, any_run, any_script, declared, stencil, value_of

P = load_all()
LINE = Stroke(points=((10.0, 10.0), (40.0, 50.0)))


def taken(one, other):
    """``other`` with every difference of ``one`` taken over, in order."""
    for difference in differ(one, other):
        other = difference.onto(other)
    return other


def told(one, other):
    return [f"{difference.title} {difference.words}" for difference in differ(one, other)]


@st.composite
def edited(draw, script):
    """The same start gone on with: passes gone, new, moved, switched, into plates and out of them, other values."""
    run = list(script.passes)
    for _ in range(draw(st.integers(1, 5))):
        what = draw(st.sampled_from(["gone", "new", "move", "value", "into", "out", "frame", "develop", "name"]))
        k = draw(st.integers(0, max(0, len(run) - 1)))
        plates = [j for j, step in enumerate(run) if "run" in step.params() and j != k]
        if what == "new":
            run.insert(k, draw(st.sampled_from(PASSES).flatmap(a_pass)))
        elif what == "frame":
            script = replace(script, frame=draw(any_frame))
        elif what == "develop":
            script = replace(script, develop=draw(declared(Develop)))
        elif what == "name":
            named = tuple(draw(st.dictionaries(st.sampled_from(["sky", "bell", "vat"]), stencil, max_size=3)).items())
            unnamed = [s.model_copy(update={"stencil": None}) if isinstance(s.stencil, str) else s for s in run]
            script, run = replace(script, stencils=named), unnamed
            if named and run:
                run[k] = run[k].model_copy(update={"stencil": named[0][0]})
        elif not run:
            continue
        elif what == "gone":
            del run[k]
        elif what == "move":
            run.insert(draw(st.integers(0, len(run) - 1)), run.pop(k))
        elif what == "into" and plates:
            plate = plates[0]
            run[plate] = run[plate].model_copy(update={"run": (*run[plate].run, run[k])})
            del run[k]
        elif what == "out" and plates and run[plates[0]].run:
            first, *rest = run[plates[0]].run
            run[plates[0]] = run[plates[0]].model_copy(update={"run": tuple(rest)})
            run.insert(k, first)
        elif what == "value":
            name, spec = draw(st.sampled_from([*run[k].params().items()]))
            if name not in ("run", "stencil"):
                run[k] = run[k].model_copy(update={name: draw(value_of(spec))})
    return replace(script, passes=tuple(run))


@settings(max_examples=150)
@given(data=st.data(), start=any_script)
def test_taking_every_difference_over_makes_the_one_the_other(data, start):
    """The law, between two versions of one start, both ways; and nothing differs then, in words either."""
    one, other = data.draw(edited(start)), data.draw(edited(start))
    assert taken(one, other) == one
    if {step.id for step in walk(one.passes)} & {step.id for step in walk(other.passes)}:
        assert differ(one, taken(one, other)) == []
    assert taken(other, one) == other


@settings(max_examples=40)
@given(one=any_script, other=any_script)
def test_the_law_holds_of_scripts_that_share_nothing(one, other):
    assert taken(one, other) == one


@pytest.mark.parametrize("model", PASSES, ids=lambda model: model.kind)
def test_the_law_and_the_words_over_every_value_of_every_pass(model):
    """Each parameter by itself: one difference, named by its label, and taken over alone."""

    @settings(max_examples=4)
    @given(data=st.data())
    def check(data):
        step = data.draw(a_pass(model))
        script = Script((P["soften"](), step))
        step = script.passes[1]
        for name, spec in model.params().items():
            value = data.draw(value_of(spec))
            if value == getattr(step, name) or name == "run":
                continue
            one = script.with_pass(1, step.model_copy(update={name: value}))
            (difference,) = differ(one, script)
            assert difference.onto(script) == one
            if name not in ("on", "stencil"):
                assert spec.label.lower() in difference.words.lower()

    check()


@given(script=any_script)
def test_equal_scripts_have_no_difference(script):
    assert differ(script, script) == []
    assert same_print(script, script)
    assert differ(script, replace(script, states=(), sheets=())) == []


def test_each_is_taken_over_by_itself_by_a_third():
    """A step of one state over into the bench, which is neither."""
    start = Script((P["exposure"](), P["levels"](), P["soften"](radius=4.0)))
    levels = start.passes[1]
    one = start.with_pass(1, levels.model_copy(update={"gamma": 1.4, "strength": 55.0})).inserted(
        3, (P["gradient-map"](strength=80.0),)
    )
    bench = start.without(0)
    found = {difference.words.split()[0]: difference for difference in differ(one, start)}
    assert found["middle"].onto(bench).passes[0].gamma == 1.4
    assert found["middle"].onto(bench).passes[0].strength == 100
    assert [s.kind for s in found["is"].onto(bench).passes] == ["levels", "soften", "gradient-map"]
    assert found["middle"].onto(bench.without(0)) == bench.without(0)  # the pass is not there any more


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda s: s.with_pass(1, s.passes[1].model_copy(update={"strength": 55.0})), "Levels strength 100 → 55 %"),
        (lambda s: s.with_pass(1, s.passes[1].model_copy(update={"on": False})), "Levels is switched off"),
        (lambda s: s.without(2), "Soften is gone"),
        (lambda s: s.inserted(0, (P["negative"](),)), "Negative is new"),
        (
            lambda s: s.inserted(3, (P["gradient-map"](stops=((0.0, "#1c120a"), (100.0, "#fbf1dc")), strength=80.0),)),
            "Gradient map is new: stops 2 stops, at 80 %",
        ),
        (lambda s: s.without(2).inserted(0, (s.passes[2],)), "Soften comes before Exposure"),
        (lambda s: s.without(0).inserted(2, (s.passes[0],)), "Exposure comes after Soften"),
        (lambda s: replace(s, frame=Frame(ratio="5:4")), "Frame ratio as photographed → 5:4"),
        (lambda s: replace(s, develop=Develop(exposure=0.5)), "Development exposure 0 → 0.5 stops"),
        (
            lambda s: s.with_pass(0, s.passes[0].model_copy(update={"stencil": Stencil(shapes=(LINE,) * 3)})),
            "Exposure two strokes more on its stencil",
        ),
        (
            lambda s: s.with_pass(0, s.passes[0].model_copy(update={"stencil": Stencil(shapes=(Oval(),), feather=5)})),
            "Exposure its stencil is drawn otherwise, its stencil's feather 0 → 5 ‰",
        ),
        (
            lambda s: s.with_pass(2, s.passes[2].model_copy(update={"stencil": None})),
            "Soften stencil 1 part → everywhere",
        ),
        (lambda s: replace(s, stencils=(("sky", Stencil(shapes=(LINE,))),)), "Stencil “sky” is new"),
    ],
)
def test_what_is_otherwise_is_said_with_label_and_unit(change, words):
    drawn = Stencil(shapes=(LINE,))
    start = Script((P["exposure"](stencil=drawn), P["levels"](), P["soften"](stencil=drawn)))
    assert told(change(start), start) == [words]


def test_plates_are_walked():
    inner = P["plate"](run=(P["soften"](radius=3.0), P["negative"]()))
    start = Script((P["levels"](), P["plate"](run=(inner,), name="glow")))
    plate = start.passes[1]
    soft, negative = plate.run[0].run
    changed = plate.run[0].model_copy(update={"run": (soft.model_copy(update={"radius": 8.0}),)})
    one = start.with_pass(1, plate.model_copy(update={"run": (changed,)}))
    title = f"glow › {inner.title}"
    assert told(one, start) == [f"{title} › Negative is gone", f"{title} › Soften radius 3 → 8 ‰"]
    # A pass that has come out of its plate is the same pass still.
    out = start.with_pass(1, plate.model_copy(update={"run": (changed,)})).inserted(1, (negative,))
    assert taken(out, start) == out
    assert [step.id for step in walk(taken(out, start).passes)] == [step.id for step in walk(out.passes)]


def test_runs_without_a_pass_in_common_are_aligned_by_what_they_are():
    one = Script((P["levels"](gamma=1.2), P["soften"](), P["grain"]()))
    other = Script((P["levels"](), P["grain"]()))
    assert told(one, other)[0].startswith("Soften is new")
    assert told(one, other)[1:] == ["Levels middle 1 → 1.2"]
    assert taken(one, other) == one


@given(run=any_run)
def test_names_notes_and_what_does_not_act_make_no_other_print(run):
    script = Script(run)
    off = P["negative"](on=False)
    one = Script((*(step.model_copy(update={"name": "x", "note": "y"}) for step in run), off))
    assert same_print(one, script)
    assert not same_print(Script((*run, P["negative"]())), script)
    assert same_print(Script(fresh(run)), script)
