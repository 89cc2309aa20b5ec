"""What the docs say is what the program does."""

import importlib.util
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


def load(path):
    spec = importlib.util.spec_from_file_location(path.stem, path)
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def test_reference_and_schema_are_those_of_the_declarations():
    for path, text in load(ROOT / "tools" / "reference.py").files().items():
        assert path.read_text() == text, f"{path.name} is out of date: run make docs"


def test_every_link_in_the_docs_leads_somewhere():
    for page in [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").rglob("*.md")]:
        for target in re.findall(r"\]\(([^)#:]+)\)", page.read_text()):
            assert (page.parent / target).exists(), f"{page.name}: {target}"


@pytest.mark.parametrize("name", ["EBGaramond", "Figtree"])
def test_every_font_ships_with_its_licence(name):
    fonts = ROOT / "src" / "kyanoscript" / "fonts"
    assert list(fonts.glob(f"{name}-*.ttf"))
    assert "SIL OPEN FONT LICENSE" in (fonts.parent / "licences" / f"OFL-{name}.txt").read_text()
