"""Scripts as JSON: what is written, what is read, and what is said when it is wrong."""

import json

import pytest

from kyanoscript.core import passes
from kyanoscript.core.params.checks import Invalid
from kyanoscript.core.passes.gray.gray_weights import GrayWeights
from kyanoscript.core.passes.tone.levels import Levels
from kyanoscript.core.script import Script, ScriptError, first_change, from_json, loads, to_json
from kyanoscript.core.script import json as written
from kyanoscript.core.script.schema import schema

EXAMPLE = {
    "kyanoscript": 1,
    "passes": [
        {"pass": "gray-weights", "red": 29.9, "green": 58.7, "blue": 11.4, "ring": [[30, 20], [240, -40]]},
        {"pass": "levels", "in_black": 71, "in_white": 230},
        {
            "pass": "gradient-map",
            "stops": [[0, "#101418"], [100, "#f7efe0"]],
            "strength": 63,
            "blend": "soft-light",
            "on": True,
        },
    ],
}


def test_the_documented_form_is_read():
    read = from_json(EXAMPLE)
    weights, levels, toned = read.passes
    assert (weights.red, weights.ring) == (29.9, ((30.0, 20.0), (240.0, -40.0)))
    assert (levels.in_black, levels.in_white, levels.gamma) == (71, 230, 1)
    assert (toned.strength, toned.blend, toned.on) == (63, "soft-light", True)


def test_every_value_is_written_so_that_a_new_default_changes_no_print():
    found = to_json(Script((Levels(),)))["passes"][0]
    assert set(found) == {"pass", "id", *Levels.params()} - {"stencil", "name", "note"}  # there are none


def wrong(**entry):
    return {"kyanoscript": 1, "passes": [{"pass": "levels"}, entry]}


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ([], ["not a script", "kyanoscript"]),
        ({"passes": []}, ["not a script"]),
        ({"kyanoscript": 8, "passes": []}, ["newer", "version 8", "up to 7"]),
        ({"kyanoscript": "1"}, ['"1"', "version"]),
        ({"kyanoscript": True}, ["true", "version"]),
        ({"kyanoscript": 1, "passes": {}}, ["passes", "list"]),
        ({"kyanoscript": 1, "pases": []}, ["'pases'", "did you mean 'passes'"]),
        (wrong(), ["pass 2", '"pass"']),
        (wrong(**{"pass": "grey-weights"}), ["pass 2", "'grey-weights'", "did you mean 'gray-weights'"]),
        (wrong(**{"pass": "levels", "in_balck": 3}), ["levels.in_balck", "did you mean 'in_black'"]),
        (wrong(**{"pass": "levels", "in_black": 256}), ["pass 2", "levels.in_black is 256", "0…255"]),
        (wrong(**{"pass": "gray-weights", "red": 400}), ["gray-weights.red is 400", "−200…300 %"]),
        (wrong(**{"pass": "levels", "in_black": "71"}), ['levels.in_black is "71"', "0…255"]),
        (wrong(**{"pass": "levels", "on": 1}), ["levels.on is 1", "true or false"]),
        (wrong(**{"pass": "levels", "strength": None}), ["levels.strength is null", "0…100 %"]),
        (wrong(**{"pass": "levels", "blend": "softlight"}), ['blend is "softlight"', "did you mean 'soft-light'"]),
        (wrong(**{"pass": "gradient-map", "stops": []}), ["gradient-map.stops", "1 to 64"]),
        (wrong(**{"pass": "gradient-map", "stops": [[0, "#000"], [50, "red"]]}), ["stops", "#rrggbb", "entry 2"]),
        (wrong(**{"pass": "gray-weights", "ring": [[30, 200]]}), ["ring", "entry 1", "−100…100"]),
        (wrong(**{"pass": "gray-weights", "red": float("nan")}), ["gray-weights.red"]),
    ],
)
def test_what_is_wrong_is_one_clear_line(data, words):
    with pytest.raises(ScriptError) as caught:
        from_json(data)
    message = str(caught.value)
    assert "\n" not in message
    for part in words:
        assert part in message


@pytest.mark.parametrize("text", ["", "{", "nonsense", b"\xff\xfe\x00", "[" * 100_000])
def test_text_that_is_no_json_is_one_clear_line(text):
    with pytest.raises(ScriptError, match="not a script") as caught:
        loads(text)
    assert "\n" not in str(caught.value)


def test_old_names_are_read_for_ever(monkeypatch):
    monkeypatch.setattr(written, "RENAMES", {("tone-levels", ""): "levels", ("levels", "black_in"): "in_black"})
    read = from_json({"kyanoscript": 1, "passes": [{"pass": "tone-levels", "black_in": 12}]})
    assert read.passes[0] == Levels(in_black=12)


def test_every_rename_leads_to_a_name_there_is():
    known = passes.load_all()
    for (kind, parameter), new in written.RENAMES.items():
        assert (new in known) if not parameter else (new in known[kind].model_fields)


def test_passes_are_frozen_and_checked():
    step = GrayWeights()
    with pytest.raises(Invalid):
        step.red = 3
    with pytest.raises(Invalid):
        GrayWeights(red=301)


def test_scripts_share_what_did_not_change():
    before = from_json(EXAMPLE)
    after = before.with_pass(1, Levels())
    assert after.passes[0] is before.passes[0]
    assert first_change(before, after) == 1
    assert first_change(before, before.without(2)) == 2


def test_moving_doubling_and_removing():
    a, b, c = from_json(EXAMPLE).passes
    whole = Script((a, b, c))
    assert whole.inserted(1, [c]).passes == (a, c, b, c)
    assert whole.without(1).passes == (a, c)


def test_schema_describes_every_parameter():
    described = schema()["$defs"]["pass"]["oneOf"]
    for kind, model in passes.load_all().items():
        entry = next(d for d in described if d["properties"]["pass"]["const"] == kind)
        assert set(entry["properties"]) == {"pass", "id", *model.params()}
    assert json.loads(json.dumps(described)) == described
