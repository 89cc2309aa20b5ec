"""What the desktop and the shells are told of the program: its entry, icons, kind of file, manual and completions.

They ship with the program and are put where the standards of freedesktop.org have them looked for (Desktop Entry, Icon
Theme, Shared MIME-info, AppStream), below one folder: that of a person, or ``/usr/share``.
"""

from __future__ import annotations

import re
import shutil
import subprocess
from collections.abc import Iterator
from importlib import resources
from pathlib import Path

from kyanoscript.files.base.bus import NAME
from kyanoscript.files.base.errors import plain
from kyanoscript.files.base.replace import replacing

_SIDES = (16, 24, 32, 48, 64, 128, 256)  # of icons, pixels
_PLACES = {
    f"{NAME}.desktop": f"applications/{NAME}.desktop",
    f"{NAME}.metainfo.xml": f"metainfo/{NAME}.metainfo.xml",
    f"{NAME}.mime.xml": f"mime/packages/{NAME}.xml",
    f"{NAME}.thumbnailer": f"thumbnailers/{NAME}.thumbnailer",
    "icons/scalable.svg": f"icons/hicolor/scalable/apps/{NAME}.svg",
    **{f"icons/{side}.png": f"icons/hicolor/{side}x{side}/apps/{NAME}.png" for side in _SIDES},
    "kyanoscript.1": "man/man1/kyanoscript.1",
    "kyanoscript.bash": "bash-completion/completions/kyanoscript",
    "kyanoscript.zsh": "zsh/site-functions/_kyanoscript",
    "kyanoscript.fish": "fish/vendor_completions.d/kyanoscript.fish",
}
# Tools that renew what the desktop keeps of such files, where they are there, and the folder that they are told.
_RENEWED = (
    (("update-desktop-database", "-q"), "applications"),
    (("update-mime-database",), "mime"),
    (("gtk-update-icon-cache", "-q", "-t", "-f"), "icons/hicolor"),
)
_PLAIN = re.compile(r"[\w@+=:,./-]+")  # of a program's path: what an entry need not quote
_WAIT = 60  # seconds for a tool, at most


def install(share: Path, program: str = "kyanoscript") -> list[Path]:
    """Put everything below ``share``; returns the files.

    ``program`` is how it is started: its name, where it lies on the path, or the whole path. Raises FileError.
    """
    written = []
    for name, place in _PLACES.items():
        data = (resources.files("kyanoscript") / "desktop" / name).read_bytes()
        target = share / place
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise plain(share, error, "writing") from error
        with replacing(target) as file:
            file.write(_started_as(data, program) if name.endswith((".desktop", ".thumbnailer")) else data)
        written.append(target)
    _renew(share)
    return written


def remove(share: Path) -> list[Path]:
    """Take away what `install` has put there; returns the files that were there. Raises FileError."""
    gone = []
    for place in _PLACES.values():
        target = share / place
        try:
            target.unlink()
            gone.append(target)
        except FileNotFoundError:
            continue
        except OSError as error:
            raise plain(target, error, "removing") from error
    if gone:
        _renew(share)
    return gone


def _started_as(data: bytes, program: str) -> bytes:
    """An entry's lines with another way to start it: quoted as its specification has it, TryExec plain."""
    safe = program.replace("\\", "\\\\").replace("%", "%%")
    if not _PLAIN.fullmatch(program):
        safe = '"' + re.sub(r'(["`$\\])', r"\\\1", program).replace("\\", "\\\\").replace("%", "%%") + '"'
    lines = data.decode().splitlines(keepends=True)
    return "".join(_line(line, safe, program) for line in lines).encode()


def _line(line: str, quoted: str, program: str) -> str:
    if line.startswith("Exec=kyanoscript"):
        return line.replace("Exec=kyanoscript", f"Exec={quoted}", 1)
    return line.replace("TryExec=kyanoscript", "TryExec=" + program.replace("\\", "\\\\"), 1)


def _renew(share: Path) -> None:
    """What a desktop keeps of such files is made anew; one that has no such tool looks for itself."""
    for words, folder in _tools(share):
        try:
            subprocess.run([*words, str(folder)], capture_output=True, timeout=_WAIT, check=False)
        except (OSError, subprocess.SubprocessError):
            continue


def _tools(share: Path) -> Iterator[tuple[list[str], Path]]:
    for (tool, *options), folder in _RENEWED:
        found = shutil.which(tool)
        if found is not None and (share / folder).is_dir():
            yield [found, *options], share / folder
