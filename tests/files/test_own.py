"""What is the person's own stays so; and what a script may use is asked for in one place."""

import json
import os
import stat
import threading

import pytest
from PIL import Image

from kyanoscript.cli import main
from kyanoscript.core.script import Script
from kyanoscript.files.base import log
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.base.places import folder
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.kept import journal, trust
from kyanoscript.files.kept.remembered import Remembered, remember
from kyanoscript.files.kept.scriptfile import PhotoRef, write_script
from tests.conftest import make_colourful


@pytest.fixture(autouse=True)
def own_state(monkeypatch, tmp_path):
    monkeypatch.setenv("KYANOSCRIPT_STATE", str(tmp_path / "state"))


def mode(path):
    return stat.S_IMODE(path.stat().st_mode)


def test_nobody_else_may_read_what_is_remembered(tmp_path):
    log.note("something")
    os.chmod(log.path(), 0o644)  # as an earlier version left it
    log.note("something more")
    remember(Remembered())
    trust.allow(tmp_path / "a.kyano", [tmp_path / "b.png"])
    kept = journal.Journal()
    kept.write(tmp_path / "photo.png", Script(), None)
    files = [log.path(), folder() / "remembered.json", folder() / "trusted.json", kept.path]
    assert [mode(file) for file in files] == [0o600] * 4
    kept.close()


def test_a_print_is_as_open_as_the_person_wants_and_two_at_once_do_not_disturb_that(tmp_path):
    """Asking for the mask of new files once set it to nothing for a moment, and for good if two asked at once."""
    mask = os.umask(0o022)
    os.umask(mask)

    def write(k):
        for n in range(60):
            with replacing(tmp_path / f"{k}-{n}") as file:
                file.write(b"x")

    threads = [threading.Thread(target=write, args=(k,)) for k in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    now = os.umask(mask)
    assert now == mask
    assert {mode(file) for file in tmp_path.iterdir() if file.is_file()} == {0o666 & ~mask}


def test_a_photograph_outside_the_scripts_folder_needs_trust(tmp_path, capsys):
    """The command line asks what the window asks."""
    secret = tmp_path / "elsewhere" / "secret.png"
    secret.parent.mkdir()
    Image.fromarray(make_colourful(20, 30)).save(secret)
    home = tmp_path / "home"
    home.mkdir()
    script = home / "evening.kyano"
    write_script(script, Script(), PhotoRef(secret, sha256(secret), 30, 20))
    for words in (["render", str(script), "-o", str(tmp_path / "a.tif")],
                  ["sheet", str(script), "-o", str(tmp_path / "a.pdf")]):  # fmt: skip
        assert main(words) == 2
        said = capsys.readouterr().err
        assert f"it is of a photograph outside its own folder: {secret}" in said
        assert "--trust" in said
        assert not list(tmp_path.glob("a.*"))
        assert main([*words, "--trust"]) == 0
        for made in tmp_path.glob("a.*"):
            made.unlink()
    trust.allow(script, [secret])  # what was allowed in the window is allowed here
    assert main(["render", str(script), "-o", str(tmp_path / "a.tif")]) == 0
    assert json.loads((folder() / "trusted.json").read_text())
