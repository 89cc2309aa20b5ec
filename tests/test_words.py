"""No library's own words reach a person, whatever is typed: every option of every command, any script."""

import argparse
import json

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from kyanoscript.cli import main, words
from tests.conftest import make_colourful
from tests.raw_words import LONG, TYPED, raw

typed = st.sampled_from(TYPED) | st.text(max_size=12) | st.floats().map(str) | st.integers().map(str)


@pytest.fixture(scope="module")
def work(tmp_path_factory):
    """A photograph, scripts, readings and a profile to begin from."""
    folder = tmp_path_factory.mktemp("words")
    Image.fromarray(make_colourful(20, 30).astype(np.uint8)).save(folder / "landing.png")
    (folder / "evening.json").write_text('{"kyanoscript": 1, "passes": [{"pass": "levels", "gamma": 1.2}]}')
    inks = {"pass": "inks", "count": 2, "ink_1": "#1a1a1c", "ink_2": "#8c6f4a"}
    small = {"width": 100, "height": 80, "across": 60, "resolution": 72}
    (folder / "inks.json").write_text(json.dumps({"kyanoscript": 2, "passes": [inks], "sheets": {"small": small}}))
    (folder / "list.txt").write_text("\n".join(str(95 - 7 * k) for k in range(11)))
    return folder


def commands():
    """Every command with the options that it has."""
    subs = next(a for a in words.parser(list(words.VERBS))._actions if isinstance(a, argparse._SubParsersAction))
    return {
        name: [a for a in sub._actions if not isinstance(a, argparse._HelpAction)] for name, sub in subs.choices.items()
    }


COMMANDS = commands()
SLOW = ("sheet", "darkroom", "edition")  # a page, a bath, or processes, each time


def sensible(name, work):
    """What a command needs to do something."""
    photo, script, inks, out = (str(work / name) for name in ("landing.png", "evening.json", "inks.json", "out.png"))
    small = [photo, "--script", inks, "--sheet", "small"]
    begin = {
        "render": [photo, "--script", script, "-o", out],
        "sheet": [*small, "-o", str(work / "out.pdf")],
        "plates": [*small, "-o", str(work / "dots.tif"), "--screen", "round", "--ruling", "20", "--device", "300"],
        "wedge": ["-o", out],
        "read": [str(work / "list.txt"), "--list", "lightness"],
        "negative": [*small, "--process", "Cyanotype", "-o", str(work / "film.png")],
        "darkroom": [photo, "-o", str(work / "dried.png")],
        "strip": [photo, "--script", script, "--set", "levels.gamma=0.8..1.2/3", "-o", out],
        "trace": [photo, "--script", script, "--at", "3,4"],
        "edition": [photo, "--script", script, "-o", str(work / "edition")],
        "info": [photo],
        "look": [photo],
        "tint": [photo, "-o", out],
        "after": [photo, photo, "-o", str(work / "after.json")],
        "states": [script],
        "differ": [script, script],
        "check": [script],
    }
    return begin.get(name, [])


@pytest.mark.parametrize("name", list(words.VERBS))
def test_every_command_has_a_sensible_beginning(name, work, capfd, monkeypatch):
    monkeypatch.chdir(work)
    assert main([name, *sensible(name, work)]) == 0, capfd.readouterr()


HARD = ("nan", "inf", "1e308", "-1", "0", "", "x" * 5000, LONG, "1e" + LONG, "9" * 400, "\udc80", "1:0", "=")


@pytest.fixture
def told(work, capfd, monkeypatch):
    """What a command answers to some words; every answer is looked through."""
    monkeypatch.chdir(work)
    monkeypatch.setattr("kyanoscript.ui.app.start.run", lambda words: 2)

    def asked(name, option, value):
        given_ = sensible(name, work)
        if option is None or not option.option_strings:
            given_ = [value, *given_[1:]]
        elif option.nargs == 0:
            given_ += [option.option_strings[-1]]
        else:
            given_ += [f"{option.option_strings[-1]}={value}"]
        try:
            status = main([name, *given_])
        except SystemExit as end:
            status = end.code
        said = "".join(capfd.readouterr())
        assert status in (0, 1, 2), given_
        assert not raw(said), (given_, raw(said))
        assert max(map(len, said.splitlines()), default=0) < 2000, given_

    return asked


@pytest.mark.parametrize("name", COMMANDS)
def test_no_option_answers_in_a_librarys_words_to_what_is_hard(name, told):
    """Every option with every hard value; what a command needs besides is sensible."""
    for option in COMMANDS[name]:
        hard = (
            HARD[::3]
            if name in ("read", "negative")
            else HARD
            if name not in SLOW
            else ("nan", "1e308")
            if option.type is not None
            else ("x" * 5000,)
        )
        for value in hard:
            told(name, option, value)


@pytest.mark.parametrize("name", COMMANDS)
def test_no_option_answers_in_a_librarys_words_to_anything(name, told):
    @settings(max_examples=5 if name in SLOW else 15, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.sampled_from(COMMANDS[name] or [None]), typed.filter(lambda value: "\0" not in value))
    def tried(option, value):
        told(name, option, value)

    tried()


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.integers() | st.sampled_from(TYPED),
        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from(
            ["kyanoscript", "passes", "pass", "gamma", "states", "number", "frame", "sheets", "shared", "stencils", "x"]
        ) | st.text(max_size=5), inner, max_size=4),
        max_leaves=12,
    )
)  # fmt: skip
def test_no_script_is_answered_in_a_librarys_words(work, capfd, found):
    text = json.dumps({"kyanoscript": 1, "passes": found} if isinstance(found, list) else found)
    (work / "any.json").write_text(text)
    assert main(["check", str(work / "any.json")]) in (0, 2)
    said = "".join(capfd.readouterr())
    assert not raw(said), (text, raw(said))
