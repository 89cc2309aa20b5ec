"""Kept versions in files: shared, small, and met by older programs."""

import io
import json
import zipfile
from dataclasses import replace

import pytest

from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script, ScriptError, State, dumps, from_json, loads, numeral
from kyanoscript.core.script import json as form
from kyanoscript.core.stencil.shapes import Stencil, Stroke
from kyanoscript.files.kept.scriptfile import read_script, write_script

P = load_all()


@pytest.mark.parametrize(
    ("number", "text"), [(1, "I"), (4, "IV"), (9, "IX"), (14, "XIV"), (40, "XL"), (1994, "MCMXCIV")]
)
def test_states_are_numbered_as_printmakers_number_them(number, text):
    """Common practice: Roman numerals (1994 = MCMXCIV from memory)."""
    assert numeral(number) == text
    assert State(Script(), "Only the punch", number=number).title == f"{text} Only the punch"


def hundred():
    """A run of twenty passes, gone on with step by step, kept a hundred times."""
    kinds = ["exposure", "gray-weights", "levels", "curves", "local-contrast", "sharpen", "gradient-map", "grain"]
    line = Stroke(points=tuple((float(k % 90), float(k // 2 % 90)) for k in range(60)))
    run = [P[kinds[k % 8]](stencil=Stencil(shapes=(line,)) if k % 5 == 0 else None) for k in range(20)]
    script, states = Script(tuple(run)), []
    for k in range(100):
        step = script.passes[k % 20]
        script = script.with_pass(k % 20, step.model_copy(update={"strength": 100.0 - k / 2}))
        kept = replace(script, origin=k)
        states.append(State(kept, f"try {k}", "a little weaker here", k + 1, "2026-11-26T10:26", k))
    return replace(script, states=tuple(states), origin=100)


def test_a_hundred_states_of_twenty_passes_stay_under_200_kb(tmp_path):
    script = hundred()
    file = tmp_path / "landing.kyano"
    write_script(file, script, None)
    assert file.stat().st_size < 200_000
    assert len(dumps(script)) < 400_000  # before it is packed, too: nothing is told a hundred times
    again = read_script(file).script
    assert again == script
    # In memory as well: what two states have in common is one object.
    one, other = again.states[50].script, again.states[51].script
    assert sum(a is b for a, b in zip(one.passes, other.passes, strict=True)) == 19


def test_states_that_share_frame_and_stencils_tell_them_once():
    sky = (("sky", Stencil(shapes=(Stroke(points=((1.0, 2.0), (3.0, 4.0))),))),)
    script = Script((P["levels"](stencil="sky"),), stencils=sky)
    other = replace(script, stencils=(), passes=(P["levels"](),))
    whole = replace(script, states=(State(script, number=1), State(other, number=2), State(script, number=3)))
    data = json.loads(dumps(whole))
    assert "stencils" not in data["states"][0]
    assert "stencils" in data["states"][2]
    assert loads(dumps(whole)) == whole


def test_a_file_without_states_is_one_that_older_programs_read():
    assert json.loads(dumps(Script((P["levels"](),))))["kyanoscript"] == 2


@pytest.mark.parametrize("version", [1, 2])
def test_an_older_program_meets_states_with_a_clear_word(monkeypatch, version):
    text = dumps(hundred())
    monkeypatch.setattr(form, "VERSION", version)
    with pytest.raises(ScriptError, match=f"newer Kyanoscript \\(version \\d\\); this one reads up to {version}"):
        loads(text)


def test_states_of_version_2_which_shared_nothing_are_read():
    data = {"kyanoscript": 2, "passes": [], "states": [{"name": "warm", "passes": [{"pass": "levels"}]}, {}]}
    first, second = from_json(data).states
    assert (first.title, second.title) == ("I warm", "II")
    assert first.script.passes[0].kind == "levels"


def test_a_states_pictures_are_pictures_of_the_script():
    kept = State(Script((P["plate"](source="picture", picture="bell.png"),)), number=1)
    assert Script(states=(kept,)).pictures() == ["bell.png"]


def test_a_damaged_reference_is_named(tmp_path):
    data = json.loads(dumps(hundred()))
    data["states"][4]["passes"][0] = "ffffffff"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/x-kyanoscript+zip")
        archive.writestr("script.json", json.dumps(data))
    file = tmp_path / "bad.kyano"
    file.write_bytes(out.getvalue())
    with pytest.raises(Exception, match=r'bad.kyano: state 5, pass 1 is "ffffffff"'):
        read_script(file)
