"""Full disks, wrong targets, too little memory: what is said, what is left.

Small disks are mounted and device nodes made in a folder of its own, as root only; the machine's own devices are never
a target.
"""

from __future__ import annotations

import hashlib
import json
import os
import resource
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

from common import Report, command, room


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


class _Faults:
    def __init__(self) -> None:
        from kyanoscript import demo

        self.report, self.here = Report("faults"), room() / "faults"
        self.here.mkdir()
        self.photo = self.here / "photo.jpg"
        shutil.copy(demo.photo("ferry-landing"), self.photo)
        self.before = _digest(self.photo)

    def refused(self, what: str, *words: object, before: Callable[[], None] | None = None, fine: bool = False) -> None:
        """One line and status 2 (or 0 where ``fine``), nothing left over, the photograph as it was."""
        argv = [*command(), *map(str, words)]
        done = subprocess.run(argv, capture_output=True, text=True, preexec_fn=before, timeout=120)
        said, left = done.stderr.strip(), [p.name for p in self.here.rglob(".*.part")]
        self.report.tally[f"status {done.returncode}"] += 1
        allowed = (0, 2) if fine else (2,)
        if done.returncode not in allowed or said.count("\n") or left or _digest(self.photo) != self.before:
            self.report.found(f"{what}: status {done.returncode}, {said[-300:]!r}, left over {left}")
        self.report.said(said, what)


def run() -> Report:
    """All of them."""
    f = _Faults()
    here, photo = f.here, f.photo
    _disks(f)

    def little(limit: int) -> Callable[[], None]:
        return lambda: resource.setrlimit(resource.RLIMIT_AS, (limit << 20, limit << 20))

    for limit in (300, 500, 560, 600, 650, 700):
        words = ("render", photo, "-o", here / "m.tif")
        f.refused(f"address space of {limit} MB", *words, before=little(limit), fine=True)
    for suffix in ("tif", "png", "jpg"):
        f.refused(f"files of 100 kB at most, {suffix}", "render", photo, "-o", here / f"o.{suffix}",
                  before=lambda: resource.setrlimit(resource.RLIMIT_FSIZE, (100_000, 100_000)))  # fmt: skip
    (here / "dir.tif").mkdir()
    f.refused("target is a folder", "render", photo, "-o", here / "dir.tif")
    f.refused("folder is not there", "render", photo, "-o", here / "no" / "o.tif")
    (here / "sym.jpg").symlink_to(photo)
    os.link(photo, here / "hard.jpg")
    for name in ("sym.jpg", "hard.jpg", "photo.jpg", "../faults/photo.jpg"):
        f.refused(f"the photograph as {name}", "render", photo, "-o", here / name)
    (here / "loop.tif").symlink_to(here / "loop.tif")
    f.refused("a link to itself", "render", photo, "-o", here / "loop.tif")
    (here / "hung.tif").symlink_to(here / "gone.tif")
    f.refused("a link to nothing yet", "render", photo, "-o", here / "hung.tif", "--longer-side", 64, fine=True)
    if not ((here / "gone.tif").exists() and (here / "hung.tif").is_symlink()):
        f.report.found("a link to nothing yet was not written through")
    os.mkfifo(here / "pipe.tif")
    f.refused("target is a pipe", "render", photo, "-o", here / "pipe.tif", "--longer-side", 64)
    if not (here / "pipe.tif").is_fifo():
        f.report.found("a pipe was replaced by a file")
    for mode in (0o400, 0o600):
        target = here / f"mode-{mode:o}.jpg"
        target.write_bytes(b"old")
        target.chmod(mode)
        f.refused(f"a file of mode {mode:o}", "render", photo, "-o", target, "--longer-side", 64, fine=mode == 0o600)
        if target.stat().st_mode & 0o777 != mode or (mode == 0o400) != (target.read_bytes() == b"old"):
            f.report.found(f"a file of mode {mode:o} is now {target.stat().st_mode & 0o777:o}")
    _pictures_of_a_print(f)
    return f.report


def _pictures_of_a_print(f: _Faults) -> None:
    from kyanoscript import demo

    plate = f.here / "lantern.png"
    shutil.copy(demo.photo().parents[1] / "cutouts" / "paper-lantern.png", plate)
    before = _digest(plate)
    passes = [{"pass": "plate", "source": "picture", "picture": "lantern.png"},
              {"pass": "texture", "surface": "own", "picture": "lantern.png"}]  # fmt: skip
    for k, entry in enumerate(passes):
        script = f.here / f"uses-{k}.json"
        script.write_text(json.dumps({"kyanoscript": 1, "passes": [entry]}))
        f.refused(f"over the picture of a {entry['pass']}", "render", f.photo, "--script", script, "-o", plate)
    if _digest(plate) != before:
        f.report.found("a picture that the print is made from was written over")


def _disks(f: _Faults) -> None:
    """Small disks and devices of its own; left out, and said, where they cannot be made."""
    small = f.here / "small"
    small.mkdir()
    mounted = os.geteuid() == 0 and not subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=1m", "tmpfs", str(small)], capture_output=True
    ).returncode  # fmt: skip
    if not mounted:
        f.report.tally["left out: small disks and devices (no root)"] += 1
        return
    try:
        (small / "fill").write_bytes(bytes(900_000))
        for suffix in ("tif", "png", "jpg"):
            target = small / f"o.{suffix}"
            target.write_bytes(b"old")
            words = ["--longer-side", 3000] if suffix != "jpg" else ["--quality", 100]
            f.refused(f"a full disk, {suffix}", "render", f.photo, "-o", target, *words)
            if target.read_bytes() != b"old":
                f.report.found(f"a full disk: the old {suffix} is gone")
    finally:
        subprocess.run(["umount", str(small)], check=True)
    subprocess.run(["mount", "-t", "tmpfs", "-o", "ro,size=1m", "tmpfs", str(small)], check=True)
    try:
        f.refused("a read-only disk", "render", f.photo, "-o", small / "o.tif")
    finally:
        subprocess.run(["umount", str(small)], check=True)
    for name, minor in (("null", 3), ("full", 7)):
        node, link = f.here / f"{name}.device", f.here / f"{name}.tif"
        os.mknod(node, 0o20666, os.makedev(1, minor))
        link.symlink_to(node)
        f.refused(f"a link to a device like {name}", "render", f.photo, "-o", link, "--longer-side", 64)
        if not node.is_char_device() or not link.is_symlink():
            f.report.found(f"a device like {name} was replaced by a file")
