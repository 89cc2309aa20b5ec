"""What to send when something goes wrong: what is in it, and above all what is not."""

import io
import json
import zipfile
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtWidgets import QCheckBox, QPlainTextEdit

from kyanoscript.core.script import Script
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept import report
from kyanoscript.ui.commands import reporting


@pytest.fixture
def home(tmp_path, monkeypatch):
    monkeypatch.setattr(Path, "home", lambda: tmp_path / "somebody")
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))
    return tmp_path / "somebody"


def read(file):
    with zipfile.ZipFile(file) as made:
        assert made.testzip() is None
        return {name: made.read(name) for name in made.namelist()}


def test_it_holds_versions_log_and_script_and_no_picture(home, tmp_path):
    log.note(f"{home}/prints/landing.tif could not be read", ValueError("cut short"))
    file = tmp_path / "report.zip"
    report.write(file, report.contents([("Version", "0.1.0"), ("Log", f"{home}/log.txt")], Script()))
    found = read(file)
    assert sorted(found) == ["about.txt", "log.txt", "script.json"]
    assert found["about.txt"] == b"Version: 0.1.0\nLog: ~/log.txt\n"
    assert b"~/prints/landing.tif could not be read" in found["log.txt"]
    assert b"cut short" in found["log.txt"]
    assert json.loads(found["script.json"])["passes"] == []
    assert not any(b"somebody" in data for data in found.values())
    assert file.stat().st_mode & 0o077 == 0  # nobody else's to read


def test_of_an_endless_log_its_end_goes_along_and_without_one_nothing(home, tmp_path):
    assert list(report.contents([], None)) == ["about.txt"]
    log.path().parent.mkdir(parents=True, exist_ok=True)
    log.path().write_bytes(b"early\n" + b"x" * (2 << 20) + b"\nlate\n")
    found = report.contents([], None)["log.txt"]
    assert len(found) < 1 << 20
    assert found.endswith(b"late\n")
    assert b"early" not in found


def test_where_it_cannot_be_written_is_said(home, tmp_path):
    with pytest.raises(FileError):
        report.write(tmp_path / "nowhere" / "report.zip", {"about.txt": b""})


@pytest.mark.parametrize("pictured", [False, True])
def test_from_the_menu_to_the_file(bench, tmp_path, monkeypatch, pictured):
    """The picture goes along only where it is ticked, and small."""
    shown = []

    def choose(dialog):
        shown.append(dialog.findChild(QPlainTextEdit).toPlainText())
        box = dialog.findChild(QCheckBox)
        assert not box.isChecked()
        box.setChecked(pictured)
        return True

    target = tmp_path / "sent"
    monkeypatch.setattr(reporting.ReportDialog, "exec", choose)
    monkeypatch.setattr(reporting.QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    bench.window.bench.passes.add("levels")
    bench.settle()
    bench.window.reporting.ask()
    bench.qtbot.waitUntil(lambda: bench.window.foot.message.text() == "Wrote sent.zip; nothing has been sent")
    found = read(target.with_suffix(".zip"))
    assert "Machine: " in shown[0]
    assert found["about.txt"].decode().count("\n") == shown[0].count("\n") + 1
    assert [step["pass"] for step in json.loads(found["script.json"])["passes"]] == ["levels"]
    assert ("print.png" in found) == pictured
    if pictured:
        assert 20 < max(Image.open(io.BytesIO(found["print.png"])).size) <= 1024


def test_nothing_is_written_where_it_is_given_up(bench, tmp_path, monkeypatch):
    monkeypatch.setattr(reporting.ReportDialog, "exec", lambda dialog: False)
    monkeypatch.setattr(reporting.QFileDialog, "getSaveFileName", lambda *_: pytest.fail("asked all the same"))
    bench.window.reporting.ask()
