"""The guide: every page, link, place, picture and command of it."""

import html
import re
import shlex
import shutil
from html.parser import HTMLParser
from importlib import resources
from pathlib import Path

import pytest
from PIL import Image

from kyanoscript import cli, demo
from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import HOME
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.base import COMMON
from tests.test_docs import load

ROOT = Path(__file__).parents[1]
SHIPPED = resources.files("kyanoscript") / "guide"
PAGES = sorted(file.name for file in SHIPPED.iterdir() if file.name.endswith(".html"))
TEXTS = ROOT / "docs" / "guide"


class Read(HTMLParser):
    """What a page has."""

    def __init__(self, text):
        super().__init__()
        self.links, self.places, self.pictures, self.words = [], set(), [], ""
        self.feed(text)

    def handle_starttag(self, tag, attrs):
        found = dict(attrs)
        if tag == "a" and "href" in found:
            self.links.append(found["href"])
        if tag == "a" and "name" in found:
            self.places.add(found["name"])
        if tag == "img":
            self.pictures.append((found["src"], found["alt"], int(found["width"])))

    def handle_data(self, data):
        self.words += data


def page(name):
    return Read((SHIPPED / name).read_text(encoding="utf-8"))


def test_pages_are_those_of_their_texts():
    for path, text in load(ROOT / "tools" / "guide.py").files().items():
        assert path.read_text() == text, f"{path.name} is out of date: run make docs"


@pytest.mark.parametrize("name", PAGES)
def test_every_link_leads_to_a_place_that_is_there(name):
    for link in page(name).links:
        to, _, place = link.partition("#")
        assert ":" not in link, link  # nothing outside the guide
        found = page(to or name)
        assert not place or place in found.places, link


@pytest.mark.parametrize("name", PAGES)
def test_every_picture_is_there_and_as_wide_as_the_page_or_wider(name):
    for source, words, wide in page(name).pictures:
        with Image.open(str(SHIPPED / source)) as picture:
            assert picture.width >= wide
        assert words


def test_every_picture_is_on_a_page_and_there_are_ten_of_one_print():
    used = {source for name in PAGES for source, _, _ in page(name).pictures}
    assert used == {f"pictures/{file.name}" for file in (SHIPPED / "pictures").iterdir()}
    assert len(page("first-print.html").pictures) == 10


def test_every_picture_is_drawn_by_the_command():
    drawn = (ROOT / "tools" / "guide_pictures.py").read_text()
    names = set(re.findall(r'draw\("([\w-]+)"\)', drawn))
    assert names == {Path(file.name).stem for file in (SHIPPED / "pictures").iterdir()}


def test_every_value_has_its_place():
    places = page("passes.html").places
    for kind, model in load_all().items():
        assert kind in places
        for name in model.params():
            assert (f"all-{name}" if name in COMMON else f"{kind}-{name}") in places
    for name in Frame.params():
        assert f"frame-{name}" in places
    assert {f"sheet-{name}" for name in HOME} <= places


def commands():
    for text in sorted(TEXTS.glob("*.md")):
        for line in text.read_text().splitlines():
            if line.startswith("    kyanoscript "):
                yield text.stem, line.strip()


@pytest.fixture(scope="module")
def quay(tmp_path_factory):
    """A folder with what the guide's commands are about."""
    folder = tmp_path_factory.mktemp("quay")
    for name in ("ferry-landing", "marsh-at-dusk", "landing-scan"):
        shutil.copy(demo.photo(name), folder)
    for name in ("sepia", "lith", "cyanotype", "two-inks"):
        shutil.copy(demo.finished(name).script, folder)
    (folder / "quay").mkdir()
    for name in ("ferry-landing", "marsh-at-dusk"):
        with Image.open(demo.photo(name)) as photo:
            photo.resize((240, 160)).save(folder / "quay" / f"{name}.jpg")
    return folder


def test_every_command_of_the_guide_does_what_it_says(quay, monkeypatch, capsys):
    """In the order in which they stand; small, where they would write a large print."""
    monkeypatch.chdir(quay)
    assert len(list(commands())) >= 18
    for text, line in commands():
        words = shlex.split(line)[1:]
        if any(word.startswith("print.kyano") for word in words):
            continue  # of a file that is kept in the window: see test_cli_states
        if words[0] == "render":
            words += ["--longer-side", "300"]
        assert cli.main(words) == 0, f"{text}: {line}: {capsys.readouterr().err}"
        if "-o" in words and "--check" not in words:
            assert Path(words[words.index("-o") + 1]).exists(), line


def test_words_of_the_trade_are_in_order_and_told():
    entries = re.findall(r"^\*\*(.+?)\*\*: (.+)$", (TEXTS / "glossary.md").read_text(), re.M)
    names = [name.lower() for name, _ in entries]
    assert names == sorted(names)
    assert len(names) >= 45
    assert all(len(told) > 15 for _, told in entries)


def test_the_guide_can_be_read_anywhere():
    for name in PAGES:
        text = (SHIPPED / name).read_text(encoding="utf-8")
        assert "http" not in text
        assert html.unescape(re.sub(r"<[^>]+>", "", text)).strip()
