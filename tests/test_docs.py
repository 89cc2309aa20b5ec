"""What the docs say is what the program does."""

import argparse
import importlib.util
import re
import sys
from pathlib import Path

import pytest

from kyanoscript.cli import words

ROOT = Path(__file__).parents[1]


def load(path):
    spec = importlib.util.spec_from_file_location(path.stem, path)
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_reference_and_schema_are_those_of_the_declarations():
    for path, text in load(ROOT / "tools" / "reference.py").files().items():
        assert path.read_text() == text, f"{path.name} is out of date: run make docs"


def test_manual_and_completions_are_those_of_the_command_line():
    """To the letter where they were made; other versions of Python put the same words otherwise."""
    for path, text in load(ROOT / "tools" / "terminal_files.py").files().items():
        found = path.read_text()
        if sys.version_info[:2] == (3, 11):
            assert found == text, f"{path.name} is out of date: run make docs"
        plain = found.replace("\\-", "-")
        for name, verb in words.VERBS.items():
            assert name in plain
            options = argparse.ArgumentParser()
            verb.options(options)
            for action in options._actions:
                for option in set(action.option_strings) - {"-h", "--help"}:
                    assert option.lstrip("-") in plain, f"{path.name}: {name} {option}"


def test_every_link_in_the_docs_leads_somewhere():
    for page in [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").rglob("*.md")]:
        for target in re.findall(r"\]\(([^)#:]+)\)", page.read_text()):
            assert (page.parent / target).exists(), f"{page.name}: {target}"


@pytest.mark.parametrize("name", ["EBGaramond", "Figtree"])
def test_every_font_ships_with_its_licence(name):
    fonts = ROOT / "src" / "kyanoscript" / "fonts"
    assert list(fonts.glob(f"{name}-*.ttf"))
    assert "SIL OPEN FONT LICENSE" in (fonts.parent / "licences" / f"OFL-{name}.txt").read_text()
