"""Passes know who they are; scripts keep sheets and states; files of earlier versions open for ever."""

import json
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script, ScriptError, State, dumps, fresh, from_json, loads, mapped, to_json, walk
from kyanoscript.files.kept.scriptfile import read_script
from tests.strategies import any_run

P = load_all()
EARLIER = Path(__file__).parents[1] / "data" / "0.1"


def identities(script):
    return [step.id for step in walk(script.passes)]


@settings(max_examples=30)
@given(any_run)
def test_every_pass_of_a_script_has_an_identity_of_its_own_and_keeps_it(run):
    script = Script((*run, *run))
    words = identities(script)
    assert all(words)
    assert len(set(words)) == len(words)
    assert identities(loads(dumps(script))) == words
    turned = replace(script, passes=tuple(reversed(script.passes)))
    assert {step.id for step in turned.passes} == {step.id for step in script.passes}


def test_a_changed_or_moved_pass_is_the_same_and_a_copy_is_another():
    script = Script((P["levels"](), P["plate"](run=(P["soften"](),)), P["curves"]()))
    levels, plate, curves = script.passes
    assert script.with_pass(0, levels.model_copy(update={"gamma": 2.0})).passes[0].id == levels.id
    assert [step.id for step in replace(script, passes=(curves, levels, plate)).passes] == [
        curves.id, levels.id, plate.id
    ]  # fmt: skip
    doubled = script.inserted(2, fresh([plate]))
    assert [step.id for step in doubled.passes[:2]] == [levels.id, plate.id]
    assert len(set(identities(doubled))) == 6
    assert doubled.passes[2] == plate  # and differs in nothing else


def test_an_identity_changes_neither_pixels_nor_what_is_equal():
    script, other = (Script((P["levels"](gamma=1.5),)) for _ in range(2))
    assert script == other
    assert hash(script) == hash(other)
    assert script.passes[0].id != other.passes[0].id


LATER = ("old-lens",)  # passes that there were not yet


@pytest.mark.parametrize("name", ["every-pass.json", "every-pass.kyano"])
def test_files_of_0_1_open_for_ever(name):
    """Written by that version, with every pass, a stencil of each form, plates in plates, a tilted frame."""
    script = read_script(EARLIER / name).script
    assert [step.kind for step in script.passes] == [*(k for k in P if k not in ("plate", *LATER)), "plate"]
    assert identities(script) == identities(read_script(EARLIER / name).script)  # the same at every reading
    assert len(set(identities(script))) == len(P) - len(LATER) + 3
    written = json.loads((EARLIER / "every-pass.json").read_text())
    again = to_json(script, identities=False)
    for step in again["passes"]:
        # There since then: as it was, if nobody says otherwise.
        if step["pass"] == "gray-weights":
            assert step.pop("aim") == "apart"
        if step["pass"] in ("quad-tone", "split-tone"):
            assert step.pop("by") == "tone"
        if step["pass"] == "hand-tint":
            assert step.pop("people") is True
            assert all((dab.pop("outline"), dab.pop("name")) == ([], "") for dab in step["dabs"])
            assert all((dab.pop("shaded"), dab.pop("tints")) == (False, "") for dab in step["dabs"])
        if step["pass"] == "mend":
            since = ("infrared", "lines", "holes", "silver", "if_faded")
            assert [step.pop(name) for name in since] == [True, True, False, 0, False]
    assert {**again, "kyanoscript": 1} == written  # every value as it was
    assert loads(dumps(script)) == script


def test_sheets_and_states_are_kept():
    script = Script((P["levels"](), P["soften"]()))
    earlier = script.with_pass(0, script.passes[0].model_copy(update={"gamma": 1.4}))
    kept = State(earlier, "lighter", "for the window", 1, "2026-11-26T10:26", 14)
    whole = replace(
        script, sheets=(("large", Sheet.of(width=420.0)),), states=(kept, State(script, number=3)), origin=3
    )
    found = loads(dumps(whole))
    assert found == whole
    assert [step.id for step in found.states[0].script.passes] == [step.id for step in found.passes]


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        ({"states": {}}, ["states is {}", "list"]),
        ({"states": [3]}, ["state 1 is 3"]),
        ({"states": [{"nam": "x"}]}, ["state 1", "'nam'", "did you mean 'name'"]),
        ({"states": [{"name": 3}]}, ["state 1: name is 3", "text"]),
        ({"states": [{"passes": [{"pass": "levels", "in_black": 300}]}]}, ["state 1, pass 1: levels.in_black is 300"]),
        ({"states": [{}] * 1001}, ["states", "1000"]),
        ({"states": [{"number": -1}]}, ["state 1: number is -1", "0…3999"]),
        ({"states": [{"number": 2}, {}]}, ["two states have the same number"]),
        ({"states": [{"as_before": ["passes"]}]}, ["state 1: as_before", "frame, develop or stencils"]),
        ({"states": [{"passes": ["0123abcd"]}]}, ['state 1, pass 1 is "0123abcd"']),
        ({"states": [{"kept": 5}]}, ["state 1: kept is 5", "text"]),
        ({"origin": "III"}, ['origin is "III"', "whole number"]),
        ({"sheets": []}, ["sheets is []", "names"]),
        ({"sheets": {"a": {"width": 0}}}, ["sheet 'a'", "width is 0", "mm"]),
        ({"passes": [{"pass": "levels", "id": "no such"}]}, ["pass 1: levels.id", "letters and digits"]),
        ({"passes": [{"pass": "levels", "id": "x" * 33}]}, ["levels.id"]),
        ({"passes": [{"pass": "negative", "auto": True}]}, ["negative.auto is unknown"]),
        ({"passes": [{"pass": "negative", "run": []}]}, ["negative.run is unknown"]),
    ],
)
def test_what_is_wrong_with_them_is_one_clear_line(entry, words):
    with pytest.raises(ScriptError) as caught:
        from_json({"kyanoscript": 3, **entry})
    for part in words:
        assert part in str(caught.value)


def test_walking_and_mapping_go_into_plates():
    inner = P["plate"](run=(P["soften"](), P["negative"](on=False)), on=False)
    run = (P["levels"](), P["plate"](run=(inner, P["grain"]())))
    assert [step.kind for step in walk(run)] == ["levels", "plate", "plate", "soften", "negative", "grain"]
    assert [step.kind for step in walk(run, lambda step: step.acts)] == ["levels", "plate", "grain"]
    off = mapped(run, lambda step: step.model_copy(update={"on": False}) if step.kind == "soften" else step)
    assert [step.kind for step in walk(off) if not step.on] == ["plate", "soften", "negative"]
    assert off[0] is run[0]
    assert off[1].run[1] is run[1].run[1]
