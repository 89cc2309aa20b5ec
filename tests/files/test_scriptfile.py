"""Script files: what is saved comes back, wherever the file goes."""

import json
import zipfile

import pytest

from kyanoscript.core.script import from_json
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.kept.scriptfile import MIMETYPE, PhotoRef, read_script, write_script
from tests.core.test_script import EXAMPLE

SCRIPT = from_json(EXAMPLE)


def reference(path):
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"photo")
    return PhotoRef(path, "ab" * 32, 2400, 1600)


def test_saved_and_read_again(tmp_path):
    photo = reference(tmp_path / "photos" / "landing.jpg")
    file = tmp_path / "prints" / "landing.kyano"
    file.parent.mkdir()
    write_script(file, SCRIPT, photo, b"png data")
    found = read_script(file)
    assert found.script == SCRIPT
    assert found.photo == photo


def test_the_archive_is_as_documented(tmp_path):
    photo = reference(tmp_path / "landing.jpg")
    file = tmp_path / "landing.kyano"
    write_script(file, SCRIPT, photo, b"png data")
    with zipfile.ZipFile(file) as archive:
        assert archive.namelist() == ["mimetype", "script.json", "photo.json", "preview.png"]
        assert archive.getinfo("mimetype").compress_type == zipfile.ZIP_STORED
        assert archive.getinfo("script.json").compress_type == zipfile.ZIP_DEFLATED
        assert archive.read("mimetype").decode() == MIMETYPE
        assert json.loads(archive.read("photo.json"))["path"] == "landing.jpg"
    assert file.read_bytes()[30:38] == b"mimetype"


def test_photo_is_found_when_both_move_together(tmp_path):
    write_script(tmp_path / "a.kyano", SCRIPT, reference(tmp_path / "landing.jpg"))
    moved = tmp_path / "elsewhere"
    moved.mkdir()
    (tmp_path / "a.kyano").rename(moved / "a.kyano")
    assert read_script(moved / "a.kyano").photo.path == moved / "landing.jpg"


def test_bare_json_is_written_and_read(tmp_path):
    file = tmp_path / "a.json"
    write_script(file, SCRIPT, reference(tmp_path / "landing.jpg"))
    assert json.loads(file.read_text())["kyanoscript"] == 2  # without states
    assert read_script(file).script == SCRIPT
    assert read_script(file).photo is None


def test_told_apart_by_content(tmp_path):
    write_script(tmp_path / "a.kyano", SCRIPT, None)
    renamed = (tmp_path / "a.kyano").rename(tmp_path / "a.json")
    assert read_script(renamed).script == SCRIPT


@pytest.mark.parametrize("data", ["{}", "[]", '{"path": 3}', '{"path": "x", "sha256": "", "width": "w", "height": 1}'])
def test_a_senseless_reference_leaves_the_script_usable(tmp_path, data):
    file = tmp_path / "a.kyano"
    with zipfile.ZipFile(file, "w") as archive:
        archive.writestr("mimetype", MIMETYPE)
        archive.writestr("script.json", json.dumps(EXAMPLE))
        archive.writestr("photo.json", data)
    found = read_script(file)
    assert found.script == SCRIPT
    assert found.photo is None


def test_never_over_the_photograph(tmp_path):
    photo = reference(tmp_path / "landing.kyano")
    with pytest.raises(FileError, match="never written to"):
        write_script(photo.path, SCRIPT, photo)
    assert photo.path.read_bytes() == b"photo"
