"""Scripts with many states of much that was drawn: short in a file, one object in memory, and always read again."""

import itertools
import json
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.tone.dodge_burn import Exposing
from kyanoscript.core.quoting import cut
from kyanoscript.core.script import LONGEST, Script, ScriptError, State, dumps, from_json, loads, packed, to_json
from kyanoscript.core.script import json as form
from kyanoscript.core.script.complaint import show
from kyanoscript.core.stencil.shapes import Oval, Stencil, Stroke
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.journal import Journal, find_lost
from kyanoscript.files.kept.scriptfile import read_script, write_script

P = load_all()


def stroke(k, points=40):
    return Stroke(points=tuple((float((k * 7 + n) % 100), float((k * 3 + n * n) % 100)) for n in range(points)))


def with_states(scripts):
    states = tuple(State(script, f"try {k}", "", k, "2026-11-29T10:00", k) for k, script in enumerate(scripts, 1))
    return replace(scripts[-1], states=states, origin=len(states))


def brushed(states, strokes, points=40):
    """A stencil that is gone on with from state to state, while the pass it is of changes too."""
    each = max(1, strokes // states)
    every = [stroke(k, points) for k in range(strokes)]
    step, made = P["levels"](), []
    for k in range(states):
        drawn = Stencil(shapes=tuple(every[: (k + 1) * each]))
        made.append(Script((step.model_copy(update={"stencil": drawn, "gamma": 0.5 + k / states}),)))
    return with_states(made)


def test_states_of_a_brushed_stencil_open_again(tmp_path):
    """The print that was saved and never opened again: 120 states of a stencil of 600 strokes."""
    script = brushed(120, 600)
    file = tmp_path / "landing.kyano"
    write_script(file, script, None)
    assert read_script(file).script == script
    assert len(packed(script)) < 2 << 20  # it was over 16 MB
    journal = Journal()
    journal.write(tmp_path / "landing.jpg", script, None)
    journal.let_go()
    lost = find_lost()
    assert lost.script == script
    lost.drop()


def test_as_much_as_people_can_make(tmp_path):
    """10 000 strokes and 1000 states."""
    script = brushed(1000, 10_000, points=12)
    file = tmp_path / "landing.kyano"
    write_script(file, script, None)
    again = read_script(file).script
    assert len(again.states) == 1000
    assert len(again.passes[0].stencil.shapes) == 10_000
    for k in (0, 1, 499, 999):
        assert again.states[k].script == script.states[k].script
    one, other = (again.states[k].script.passes[0].stencil.shapes for k in (498, 499))
    assert all(a is b for a, b in zip(one, other, strict=False))  # one object


def test_what_two_branches_have_in_common_is_told_once():
    """Not only with the state before: kept in turn, two stencils, dabs and strokes stand in the file once each."""
    left, right = (Stencil(shapes=tuple(stroke(k) for k in range(n, n + 20))) for n in (0, 50))
    marks = tuple(Exposing(points=((float(k), 3.0),)) for k in range(20))
    made = [
        Script(
            (
                P["levels"](stencil=(left, right)[k % 2], gamma=1 + k / 50),
                P["dodge-burn"](strokes=marks, amount=50.0 + k),
            )
        )
        for k in range(20)
    ]
    text = dumps(with_states(made))
    assert text.count('"points"') == 20 + 20 + 20
    assert json.loads(text)["kyanoscript"] == 4
    again = loads(text)
    assert again == with_states(made)
    assert again.states[0].script.passes[0].stencil is again.states[2].script.passes[0].stencil


def test_within_plates_and_by_name_too():
    shapes = tuple(Oval(x=float(k)) for k in range(30))
    plate = P["plate"](run=(P["soften"](stencil=Stencil(shapes=shapes)),))
    named = (("sky", Stencil(shapes=shapes, feather=5.0)),)
    script = with_states([Script((plate.model_copy(update={"size": 50.0 + k}),), stencils=named) for k in range(3)])
    text = dumps(script)
    assert text.count('"oval"') == 30
    assert loads(text) == script


def test_without_anything_shared_the_version_stays():
    script = with_states([Script((P["levels"](gamma=1.0 + k),)) for k in range(2)])
    assert to_json(script)["kyanoscript"] == 3
    assert "shared" not in to_json(script)


@pytest.mark.parametrize(
    ("reference", "said"),
    [
        ([0, 9999], "names shared entries that are not there"), ([-1, 1], "not there"), ([0], "not there"),
        ("all", "not there"), ([True, 1], "not there"), ([0.0, 1], "not there"), (None, "not there"),
    ],
)  # fmt: skip
def test_a_reference_to_nothing_is_one_clear_line(reference, said):
    data = to_json(brushed(3, 9))
    data["states"][1]["passes"][0]["stencil"]["shapes"] = [{"shared": reference}]
    with pytest.raises(ScriptError, match=f"state 2, pass 1: .*{said}"):
        from_json(data)


@pytest.mark.parametrize("shelf", [3, "all", [3], {"a": 1}])
def test_a_shelf_that_is_none(shelf):
    with pytest.raises(ScriptError, match=r"shared is .*; it must be a list of shapes"):
        from_json({**to_json(brushed(3, 9)), "shared": shelf})


def test_more_entries_than_a_list_may_have_are_refused_however_they_are_told():
    data = to_json(brushed(3, 9))
    data["passes"][0]["stencil"]["shapes"] = [{"shared": [0, 8]}] * 4000
    with pytest.raises(ScriptError, match=r"shapes has more than 16384 entries"):
        from_json(data)


def test_what_is_too_long_to_be_read_is_not_written(tmp_path, monkeypatch):
    """Told before saving; what lies there stays."""
    file = tmp_path / "landing.kyano"
    small = brushed(2, 4)
    write_script(file, small, None)
    before = file.read_bytes()
    monkeypatch.setattr(form, "LONGEST", 20_000)
    with pytest.raises(FileError, match=r"landing\.kyano: the script is too long to be kept: .* let some states go"):
        write_script(file, brushed(40, 400), None)
    assert file.read_bytes() == before
    with pytest.raises(FileError, match="too long to be kept safe"):
        Journal().write(tmp_path / "landing.jpg", brushed(40, 400), None)
    assert LONGEST == 64 << 20


def test_more_places_than_are_read_are_not_written_either(tmp_path, monkeypatch):
    monkeypatch.setattr(form, "MOST_LISTS", 200)
    text = dumps(brushed(3, 100))
    with pytest.raises(ScriptError, match="more than 200 places of strokes"):
        packed(brushed(3, 100))
    with pytest.raises(ScriptError, match="more than 200 places of strokes"):
        loads(text)
    assert loads(packed(brushed(1, 2))) == brushed(1, 2)


class Endless(list):
    """A list that nobody has ever read to its end."""

    def __iter__(self):
        return itertools.repeat([1, 2])


def test_of_what_is_quoted_no_more_is_looked_at_than_is_shown():
    assert show(Endless([1])).startswith("[[1, 2], [1, 2]")
    assert len(show(Endless([1]))) == 60
    seen = []

    class Long(str):
        def __getitem__(self, part):
            seen.append(part)
            return str.__getitem__(self, part)

    assert cut(Long("x" * 10**6)) == "x" * 59 + "\N{HORIZONTAL ELLIPSIS}"
    assert cut(" \t\n" * 10_000 + "x") == "\N{HORIZONTAL ELLIPSIS}"  # beyond what is looked at something may stand
    assert cut("a\n b") == "a b"


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({"marks": [{"points": [[1, 1]]}] * 20_000}, r"mend\.marks is .* it must be"),
        ({"marks": [{"points": [[1, 1]]}, {"points": [[50, 50]] * 20_001}]}, r"mend\.marks \(entry 2\) points is "),
    ],
)
def test_a_list_that_is_too_long_is_told_before_its_entries_are_looked_at(monkeypatch, values, said):
    def looked_at(*args, **kwargs):
        raise AssertionError("millions of entries are looked at")

    monkeypatch.setattr(P["mend"], "read_plain", looked_at)
    with pytest.raises(ScriptError, match=said):
        from_json({"kyanoscript": 4, "passes": [{"pass": "mend", **values}]})


entries = st.integers(0, 6).map(lambda k: stroke(k, 3)) | st.integers(0, 6).map(lambda k: Oval(x=float(k)))
shapes = st.lists(entries, max_size=8).map(tuple)


@settings(max_examples=150, suppress_health_check=list(HealthCheck))
@given(st.lists(st.tuples(shapes, shapes, st.floats(0.2, 5, allow_nan=False)), min_size=1, max_size=6))
def test_whatever_is_drawn_is_read_again(made):
    """Any lists of shapes, alike and not, in any order: the same script, and the same text again."""
    scripts = []
    for a, b, gamma in made:
        levels = P["levels"](gamma=round(gamma, 3), stencil=Stencil(shapes=a) if a else None)
        scripts.append(Script((levels,), stencils=(("b", Stencil(shapes=b)),)))
    whole = with_states(scripts)
    assert loads(dumps(whole)) == whole
    assert packed(loads(packed(whole))) == packed(whole)
