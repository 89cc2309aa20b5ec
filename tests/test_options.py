"""Options of the command line that are made from what is declared."""

import argparse

import pytest

from kyanoscript.cli.declared import add_values, given
from kyanoscript.core.paper.sheet import Plates
from kyanoscript.core.process.process import Process
from kyanoscript.files.prints.settings import Settings

MODELS = {
    Settings: tuple(Settings.params()),
    Plates: tuple(Plates.params()),
    Process: ("aim", "smoothing", "name", "paper", "light", "minutes", "ink", "negative", "mirrored", "white"),
}


def parser(model, *names, **more):
    made = argparse.ArgumentParser(exit_on_error=False)
    add_values(made, model, *names, **more)
    return made


@pytest.mark.parametrize("model", MODELS, ids=lambda model: model.__name__)
def test_what_is_not_said_is_as_it_is_and_what_is_said_is_that(model):
    made = parser(model, *MODELS[model])
    assert given(made.parse_args([]), model) == {}
    for name in MODELS[model]:
        spec, default = model.params()[name], model.model_fields[name].default
        word = "--" + name.replace("_", "-")
        if spec.kind == "toggle":
            words, value = [word.replace("--", "--no-" if default else "--", 1)], not default
        elif spec.kind == "number":
            words, value = [word, str(int(spec.high)) if spec.whole else str(spec.high)], spec.high
        elif spec.kind == "choice":
            value = spec.choices[-1][0]
            words = [word, str(value)]
        else:
            words, value = [word, "#123456"], "#123456"
        assert given(made.parse_args(words), model) == {name: value}
        assert getattr(model(**given(made.parse_args(words), model)), name) == value


def test_help_tells_range_unit_and_default():
    told = " ".join(parser(Settings, *MODELS[Settings]).format_help().split())
    assert "--quality NUMBER of a JPEG, WebP or AVIF; a WebP of 100 is without loss, 1…100 (default 95)" in told
    assert "--longer-side PX reduce to this; never enlarges, 1…1000000 px (default as it is)" in told
    assert "--no-black-point black point compensation: off" in told
    assert "--tiled in tiles: a TIFF in tiles" in told
    assert "(default auto)" in told
    told = " ".join(parser(Process, "white", "paper", "name").format_help().split())
    assert "--paper PAPER paper: and how it was sized" in told
    assert "(default New process)" in told


def test_an_option_may_have_another_name_and_its_value_another_form():
    made = parser(
        Process, "negative", "minutes", called={"negative": "--positive"}, types={"minutes": lambda text: 60.0}
    )
    assert given(made.parse_args(["--positive", "--minutes", "1h"]), Process) == {"negative": False, "minutes": 60.0}


@pytest.mark.parametrize("words", [["--quality", "fine"], ["--ppi", "nan"], ["--bits", "9"], ["--notes", "some"]])
def test_what_is_no_value_is_refused(words):
    with pytest.raises(argparse.ArgumentError):
        parser(Settings, *MODELS[Settings]).parse_args(words)
