"""The program among the desktop's own: what is put where, in forms that the desktop's own tools understand."""

import configparser
import re
import shutil
import subprocess
import sys
import xml.etree.ElementTree as ET

import pytest
from PIL import Image

from kyanoscript import demo
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.kept import desktop
from kyanoscript.files.kept.scriptfile import PhotoRef, write_script
from kyanoscript.files.photos.photo import _OTHERS, open_photo

PROGRAM = [sys.executable, "-P", "-m", "kyanoscript"]
ID = "app.kyanoscript.Kyanoscript"


def entry(share, name=f"applications/{ID}.desktop", part="Desktop Entry"):
    found = configparser.ConfigParser(interpolation=None, delimiters="=")
    found.optionxform = str
    found.read_string((share / name).read_text())
    return found[part]


def run(*words, **more):
    return subprocess.run([*PROGRAM, *map(str, words)], capture_output=True, text=True, timeout=200, **more)


def test_everything_is_put_in_and_nothing_is_left_when_it_is_taken_out(tmp_path):
    other = tmp_path / "applications" / "other.desktop"
    other.parent.mkdir()
    other.write_text("[Desktop Entry]\n")
    done = run("desktop", "--into", tmp_path, "--program", "/opt/k/kyanoscript")
    assert (done.returncode, done.stderr) == (0, "")
    files = [path for path in tmp_path.rglob("*kyanoscript*") if path.is_file()]
    assert f"{len(desktop._PLACES)} files put into {tmp_path}" in done.stdout
    assert len(files) >= len(desktop._PLACES)
    assert entry(tmp_path)["Exec"] == "/opt/k/kyanoscript %f"
    done = run("desktop", "--into", tmp_path, "--remove")
    assert (done.returncode, done.stderr) == (0, "")
    assert [path for path in tmp_path.rglob("*kyanoscript*") if path.is_file() and "mime/" not in str(path)] == []
    assert other.exists()
    assert "0 files taken out" in run("desktop", "--into", tmp_path, "--remove").stdout


def test_ones_own_folder_is_where_the_desktop_looks(tmp_path):
    run("desktop", "-q", env={"HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path / "own")})
    assert (tmp_path / "own" / "applications" / f"{ID}.desktop").exists()
    run("desktop", "-q", env={"HOME": str(tmp_path), "XDG_DATA_HOME": "not/absolute"})  # which the standard ignores
    assert (tmp_path / ".local" / "share" / "applications" / f"{ID}.desktop").exists()


def test_a_folder_that_cannot_be_written_is_named(tmp_path):
    (tmp_path / "share").write_text("a file")
    done = run("desktop", "--into", tmp_path / "share")
    assert done.returncode == 2
    assert "share" in done.stderr
    assert "Traceback" not in done.stderr
    with pytest.raises(FileError):
        desktop.install(tmp_path / "share")


@pytest.mark.parametrize("program", ["/opt/k\nExec=other", "/opt/\udc80/kyanoscript", "k\t"])
def test_a_program_that_no_entry_can_name_is_refused(tmp_path, program):
    done = run("desktop", "--into", tmp_path, f"--program={program}")
    assert done.returncode == 2
    assert "--program" in done.stderr
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("program", ["/home/m q/kyanoscript", '/tmp/a"b$`\\/kyanoscript', "/tmp/50%/kyanoscript"])
def test_a_program_in_an_odd_folder_is_quoted_as_the_standard_has_it(tmp_path, program):
    """Desktop Entry Specification 1.5, the Exec key: quoted in double quotes, in them " ` $ and \\ escaped; then the
    escapes of a value (\\\\); per cent doubled."""
    desktop.install(tmp_path, program)
    value = entry(tmp_path)["Exec"].encode().decode("unicode_escape")  # the escapes of a value
    quoted, field = value.rsplit(" ", 1)
    assert quoted[0] == quoted[-1] == '"'
    assert (re.sub(r'\\(["`$\\])', r"\1", quoted[1:-1]).replace("%%", "%"), field) == (program, "%f")
    assert entry(tmp_path)["TryExec"].replace("\\\\", "\\") == program


@pytest.fixture(scope="module")
def share(tmp_path_factory):
    made = tmp_path_factory.mktemp("share")
    desktop.install(made)
    return made


def test_the_icon_is_there_in_every_size_and_seen(share):
    for side in (16, 24, 32, 48, 64, 128, 256):
        with Image.open(share / f"icons/hicolor/{side}x{side}/apps/{ID}.png") as icon:
            assert icon.size == (side, side)
            assert icon.mode == "RGBA"
            corner, colours = icon.getpixel((0, 0)), icon.getcolors(1 << 16)
            assert corner[3] == 0  # nothing round the tray
            blues = sum(n for n, (r, _, b, a) in colours if a == 255 and b > r + 40)
            assert blues > 0.08 * side * side  # the sheet is in it
    drawn = ET.parse(share / f"icons/hicolor/scalable/apps/{ID}.svg").getroot()
    assert drawn.tag.endswith("svg")
    assert drawn.get("viewBox") == "0 0 256 256"


def test_the_entry_opens_what_the_program_opens(share):
    kinds = entry(share)["MimeType"].strip(";").split(";")
    assert "application/x-kyanoscript" in kinds
    written = {"image/jpeg": "jpg", "image/png": "png", "image/tiff": "tif", "image/webp": "webp", "image/avif": "avif",
               "image/jxl": "jxl"}  # fmt: skip
    for ending in written.values():
        done = run("render", demo.photo("ferry-landing"), "-o", share / f"a.{ending}", "--longer-side", "40")
        assert done.returncode == 0, done.stderr
        assert max(open_photo(share / f"a.{ending}").size) == 40
    assert set(kinds) - set(written) == {"application/x-kyanoscript", "image/x-exr", "image/x-adobe-dng"}
    assert _OTHERS  # what is refused is no kind of the entry
    assert "application/pdf" not in kinds


def test_a_script_has_a_thumbnail(share, tmp_path):
    """As a file manager asks for it: the words of the entry with its own file in the place of %i, %o and %s."""
    line = entry(share, f"thumbnailers/{ID}.thumbnailer", "Thumbnailer Entry")["Exec"]
    photo = shutil.copy(demo.photo("ferry-landing"), tmp_path / "landing.jpg")
    script, target = tmp_path / "landing.kyano", tmp_path / "thumb.png"
    opened = open_photo(photo)
    write_script(script, Script(), PhotoRef(photo, sha256(photo), opened.width, opened.height))
    places = {"%i": str(script), "%o": str(target), "%s": "128"}
    words = [places.get(word, word) for word in line.split()][1:]
    done = run(*words)
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")
    with Image.open(target) as thumb:
        assert max(thumb.size) == 128


@pytest.mark.parametrize(
    ("tool", "file"),
    [
        (["desktop-file-validate"], f"applications/{ID}.desktop"),
        (["appstreamcli", "validate", "--no-net"], f"metainfo/{ID}.metainfo.xml"),
        (["bash", "-n"], "bash-completion/completions/kyanoscript"),
        (["zsh", "-n"], "zsh/site-functions/_kyanoscript"),
        (["fish", "--no-execute"], "fish/vendor_completions.d/kyanoscript.fish"),
    ],
)
def test_the_desktops_own_tools_find_nothing_wrong(share, tool, file):
    if shutil.which(tool[0]) is None:
        pytest.skip(f"there is no {tool[0]} here")
    done = subprocess.run([*tool, share / file], capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "error" not in done.stdout + done.stderr


def test_the_manual_is_set_without_a_warning_and_without_losing_a_line(share):
    if shutil.which("man") is None or shutil.which("groff") is None:
        pytest.skip("there is no man here")
    page = share / "man/man1/kyanoscript.1"
    done = subprocess.run(
        ["man", "--warnings", "-E", "UTF-8", "-l", str(page)],
        capture_output=True,
        text=True,
        timeout=60,
        env={"PATH": "/usr/bin:/bin", "MANWIDTH": "200", "LC_ALL": "C.UTF-8"},
    )
    assert (done.returncode, done.stderr) == (0, "")
    assert ".kyano, .json, or FILE#III for a state" in done.stdout  # lines that begin with a dot are words


def test_a_completion_offers_what_there_is(share):
    completion = share / "bash-completion/completions/kyanoscript"
    ask = f"source {completion}; COMP_WORDS=(kyanoscript render --rec); COMP_CWORD=2; _shtab_kyanoscript; "
    ask += 'echo "${COMPREPLY[@]}"'
    done = subprocess.run(["bash", "-c", ask], capture_output=True, text=True, timeout=60)
    assert "--recipe" in done.stdout.split(), done.stderr


def test_a_kyano_file_has_its_kind(share, tmp_path):
    if shutil.which("update-mime-database") is None:
        pytest.skip("there is no update-mime-database here")
    assert "50:application/x-kyanoscript:*.kyano" in (share / "mime" / "globs2").read_text()
