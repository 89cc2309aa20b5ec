"""German and French: every text is translated, with its parts, and nothing that is shown is in no catalogue."""

import os
import subprocess
import sys
from string import Formatter

import pytest
from babel.messages.pofile import read_po

from kyanoscript import translation
from kyanoscript.core import finding
from kyanoscript.core.params import Number
from tests.test_docs import ROOT, load
from tests.tongues import speaking

LANGUAGES = ("de", "fr")


@pytest.fixture(scope="module")
def collecting():
    return load(ROOT / "tools" / "languages.py")


@pytest.fixture(scope="module")
def fresh(collecting):
    return {message.id for message in collecting.collected() if message.id}


def catalogue(language):
    path = translation.FOLDER / language / "LC_MESSAGES" / "kyanoscript.po"
    with path.open("rb") as file:
        return read_po(file, locale=language)


def pairs(message):
    """Each text with its translation."""
    if isinstance(message.id, tuple):
        return [(message.id[0 if k == 0 else 1], text) for k, text in enumerate(message.string)]
    return [(message.id, message.string)]


def parts(text):
    try:
        return {name for _, name, _, _ in Formatter().parse(text) if name is not None}
    except ValueError:  # a brace that is no place for a part
        return set()


@pytest.mark.parametrize("language", LANGUAGES)
def test_every_text_of_the_source_is_translated(fresh, language):
    known = {message.id for message in catalogue(language) if message.id and all(text for _, text in pairs(message))}
    assert fresh - known == set(), "run make languages, and translate what is new"
    assert known - fresh == set(), "run make languages: these are in the source no more"
    assert len(known) > 3500


@pytest.mark.parametrize("language", LANGUAGES)
def test_translations_have_the_parts_that_there_are_and_the_spaces(language):
    for message in catalogue(language):
        for text, told in pairs(message) if message.id else ():
            if "{" in text and parts(text):
                assert parts(told) <= parts(text), told
                lost = parts(text) - parts(told) - {"day"}  # a date is written otherwise
                assert not lost, f"{told}: {lost}"
            assert not text.startswith(" ") or told.startswith(" "), text
            assert text.endswith(" ") == told.endswith(" "), text


@pytest.mark.parametrize("language", LANGUAGES)
def test_what_is_shipped_is_what_was_translated(collecting, language):
    folder = translation.FOLDER / language / "LC_MESSAGES"
    assert (folder / "kyanoscript.mo").read_bytes() == collecting.compiled(catalogue(language))


def test_sentences_names_parts_and_numbers_of_one_or_several():
    with speaking("de"):
        assert translation.language() == "de"
        assert translation.spoken("Gray weights") == "Grauwichtung"
        assert translation.tr("{label}: blend", label="grain") == "Korn: Mischart"
        assert translation.trn("{count} pass", "{count} passes", 1, count=1) == "1 Schritt"
        assert translation.trn("{count} pass", "{count} passes", 3, count=3) == "3 Schritte"
        assert translation.tr("{minutes:.1f} hours", minutes=1.5) == "1,5 Stunden"
        assert translation.spoken("Levels · Red: Middle") == "Tonwerte · Rot: Mitte"
        assert translation.spoken("How large they are (0…100 %)") == "Wie groß sie sind (0…100 %)"
        assert translation.spoken("my own words") == "my own words"
        assert Number(label="x", unit="stops", low=0, high=9, decimals=2).text(1.25) == "1,25 Blenden"
    with speaking("fr"):
        assert translation.trn("{count} pass", "{count} passes", 0, count=0) == "0 passe"  # none is as one
        assert translation.tr("{label}: blend", label="Grain") == "Grain : fusion"
        assert translation.spoken("grain") == "grain"
    assert translation.language() == "en"
    assert translation.tr("{minutes:.1f} hours", minutes=1.5) == "1.5 hours"


@pytest.mark.parametrize(("asked", "spoken"), [
    ({"LANG": "de_DE.UTF-8"}, "de"), ({"LANG": "fr_CA.UTF-8"}, "fr"), ({"LANG": "C.UTF-8"}, "en"), ({}, "en"),
    ({"LANG": "de_AT", "LC_ALL": "C"}, "en"), ({"LANG": "pt_BR.UTF-8"}, "en"), ({"LANGUAGE": "de:fr"}, "de"),
    ({"LANGUAGE": "en", "LANG": "de_DE.UTF-8"}, "en"), ({"LANGUAGE": "pt:fr", "LANG": "pt_BR"}, "fr"),
])  # fmt: skip
def test_the_language_is_that_of_the_surroundings(monkeypatch, asked, spoken):
    for name in ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"):
        monkeypatch.delenv(name, raising=False)
    for name, value in asked.items():
        monkeypatch.setenv(name, value)
    translation.forget()
    try:
        assert translation.language() == spoken
    finally:
        monkeypatch.undo()
        translation.forget()


def run(language, *words):
    told = subprocess.run(
        [sys.executable, "-m", "kyanoscript", *words],
        capture_output=True, text=True, timeout=200, env={**os.environ, "LANGUAGE": language},
    )  # fmt: skip
    return told.returncode, told.stdout, told.stderr


def test_the_command_line_speaks_it_and_what_machines_read_is_one_language(tmp_path):
    assert run("de", "render", str(tmp_path / "no.jpg"), "-o", str(tmp_path / "x.tif")) == (
        2, "", "kyanoscript: no.jpg: eine solche Datei gibt es nicht. Namen und Ordner prüfen\n",
    )  # fmt: skip
    status, told, _ = run("fr", "passes", "grain")
    assert status == 0
    assert "ce qui tourne mal" in told
    status, told, _ = run("de", "render", "--help")
    assert status == 0
    assert "als graues Bild" in " ".join(told.split())
    assert run("de", "passes", "grain", "--json") == run("en", "passes", "grain", "--json")


def test_things_are_found_by_their_names_in_both_languages():
    things = finding.passes_and_starts()
    with speaking("de"):
        assert finding.found("Korn", things)[0].address == "grain"
        assert finding.found("grain", things)[0].address == "grain"
        assert finding.found("Tonungsbad", things)[0].address == "toner-bath"


def test_words_put_together_go_through_one_door():
    """A sentence with parts that is made any other way could not be translated: its words would be in no catalogue."""
    import ast

    apart = load(ROOT / "tools" / "languages.py")._APART
    found = []
    for path in sorted((ROOT / "src" / "kyanoscript").rglob("*.py")):
        name = str(path.relative_to(ROOT / "src" / "kyanoscript"))
        if name.startswith((*apart, "demo/", "core/params/")):
            continue
        tree = ast.parse(path.read_text())
        inner = {id(part) for node in ast.walk(tree) if isinstance(node, ast.Call) for part in node.args
                 if getattr(node.func, "id", getattr(node.func, "attr", "")) in MACHINES}  # fmt: skip
        for node in ast.walk(tree):
            if not isinstance(node, ast.JoinedStr) or id(node) in inner:
                continue
            words = "".join(part.value for part in node.values if isinstance(part, ast.Constant))
            if "{" not in words and sum(word.isalpha() and len(word) > 2 for word in words.split()) >= 2:
                found.append(f"{name}:{node.lineno} {words}")
    assert [entry for entry in found if not entry.split(" ", 1)[0].startswith(PLAIN)] == []


# Calls whose words are for the log, for other programs, or for those who write a pass
MACHINES = {
    "note", "TypeError", "RuntimeError", "AssertionError", "AttributeError",
    "setStyleSheet", "replace", "save_pdf", "compile",
}  # fmt: skip
# Not for people; or (settings) put together once for all, and collected as it then is
PLAIN = (
    "files/kept/cgats", "files/prints/settings", "files/prints/plates", "ui/service/views", "files/photos/notes",
    "ui/widgets/theme", "core/passes/base", "files/base/errors", "ui/commands/guiding", "files/photos/tiff",
    "cli/words", "core/passes/colour/colour_balance", "ui/commands/list", "core/paper/presses",
)  # fmt: skip


def test_a_po_file_can_be_read_by_translators_tools():
    for language in LANGUAGES:
        told = catalogue(language)
        assert told.locale.language == language
        assert told.num_plurals == 2
        assert told.charset == "utf-8"
