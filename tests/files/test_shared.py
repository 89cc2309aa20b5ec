"""What the program shares with the desktop: its trash, and its list of recent files; by what the standards say."""

import os
import stat
import urllib.parse
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from kyanoscript.core.script import Script
from kyanoscript.files.base import trash
from kyanoscript.files.base.places import shared
from kyanoscript.files.kept import recently
from kyanoscript.files.kept.cookbook import Cookbook
from kyanoscript.files.kept.recipes import Recipe

MARKS = "{http://www.freedesktop.org/standards/desktop-bookmarks}"
MIME = "{http://www.freedesktop.org/standards/shared-mime-info}"


@pytest.fixture(autouse=True)
def share(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    return tmp_path / "share"


def thrown(share):
    """What lies in the trash: its name, and what is told of it."""
    found = {}
    for told in sorted((share / "Trash" / "info").glob("*.trashinfo")):
        head, *lines = told.read_text().splitlines()
        assert head == "[Trash Info]"
        found[told.name.removesuffix(".trashinfo")] = dict(line.split("=", 1) for line in lines)
    assert {path.name for path in (share / "Trash" / "files").iterdir()} == set(found)
    return found


def test_where_programs_share_is_absolute_or_not_named_at_all(monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", "share")
    assert shared() == Path.home() / ".local" / "share"


def test_what_is_thrown_away_can_be_fetched_back(share, tmp_path):
    """Trash Specification 1.0: where it lay, percent-encoded, and since when; names that are taken get another."""
    for text in ("first", "second"):
        file = tmp_path / "ferry é 50%.json"
        file.write_text(text)
        trash.throw_away(file)
        assert not file.exists()
    found = thrown(share)
    assert list(found) == ["ferry é 50%.2.json", "ferry é 50%.json"]
    for told in found.values():
        assert urllib.parse.unquote(told["Path"]) == str(tmp_path / "ferry é 50%.json")
        assert len(told["DeletionDate"]) == len("2026-11-30T12:00:00")
    assert (share / "Trash" / "files" / "ferry é 50%.json").read_text() == "first"
    assert stat.S_IMODE((share / "Trash" / "files").stat().st_mode) == 0o700


def test_where_there_can_be_no_trash_it_is_deleted_all_the_same(share, tmp_path):
    share.write_text("a file where the folder would be")
    (tmp_path / "recipe.json").write_text("{}")
    trash.throw_away(tmp_path / "recipe.json")
    assert not (tmp_path / "recipe.json").exists()
    with pytest.raises(FileNotFoundError):
        trash.throw_away(tmp_path / "recipe.json")


def test_nothing_is_told_of_what_could_not_be_moved(share, tmp_path, monkeypatch):
    def full(*_):
        raise OSError("no space")

    monkeypatch.setattr(trash.shutil, "move", full)
    (tmp_path / "recipe.json").write_text("{}")
    trash.throw_away(tmp_path / "recipe.json")
    assert thrown(share) == {}


def test_a_recipe_that_is_deleted_lies_in_the_trash_and_undo_brings_it_back(share, tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_DATA", str(tmp_path / "own"))
    book = Cookbook()
    kept = book.keep(Recipe("", "River fog", "own", "", (), Script()))
    book.remove(kept)
    assert list(thrown(share)) == ["river-fog.json"]
    assert not kept.file.exists()
    book.undo()
    assert kept.file.exists()


def test_a_file_that_was_opened_is_in_the_desktops_list(share, tmp_path):
    """Beside what other programs have put there; once, however often it is opened."""
    theirs = '<bookmark href="file:///a.txt" added="x" modified="x" visited="x"><title>A</title></bookmark>'
    recently.place().parent.mkdir()
    recently.place().write_text(
        f'<?xml version="1.0" encoding="UTF-8"?><xbel version="1.0" xmlns:bookmark="{MARKS[1:-1]}">{theirs}</xbel>'
    )
    for name in ("ferry landing.jpg", "print.kyano", "ferry landing.jpg"):
        recently.add(tmp_path / name)
    root = ET.parse(recently.place()).getroot()
    marks = {mark.get("href"): mark for mark in root.findall("bookmark")}
    assert list(marks) == [
        "file:///a.txt",
        (tmp_path / "ferry landing.jpg").as_uri(),
        (tmp_path / "print.kyano").as_uri(),
    ]
    assert marks["file:///a.txt"].findtext("title") == "A"
    kinds, counts = [], []
    for mark in list(marks.values())[1:]:
        about = mark.find("info/metadata[@owner='http://freedesktop.org']")
        kinds.append(about.find(f"{MIME}mime-type").get("type"))
        used = about.find(f"{MARKS}applications/{MARKS}application[@name='Kyanoscript']")
        counts.append((used.get("count"), used.get("exec")))
        assert mark.get("added") <= mark.get("visited")
    assert kinds == ["image/jpeg", "application/x-kyanoscript"]
    assert counts == [("2", "'kyanoscript %u'"), ("1", "'kyanoscript %u'")]
    assert stat.S_IMODE(recently.place().stat().st_mode) == 0o600
    assert "xmlns:bookmark=" in recently.place().read_text()  # the prefix that others look for


@pytest.mark.parametrize("text", ["", "<xbel", "<other/>", "\x00"])
def test_a_list_that_is_none_is_left_alone(share, tmp_path, text):
    recently.place().parent.mkdir()
    recently.place().write_text(text)
    recently.add(tmp_path / "a.jpg")
    assert recently.place().read_text() == text
    assert os.listdir(share) == ["recently-used.xbel"]
