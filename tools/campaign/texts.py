"""Photographs with any texts in their notes, written as every format: the print is always written."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

from corpus import colourful
from PIL import ExifTags, Image

from common import Report, Worker, room

KINDS = (".tif", ".png", ".jpg", ".webp", ".jxl", ".avif")
FIELDS = (
    0x010E,
    0x010F,
    0x0110,
    0x0131,
    0x0132,
    0x013B,
    0x8298,
    0x9C9B,
    0x9003,
    0x9286,
    0xA434,
    0x0112,
    0x011A,
    0x5152,
)


def _text(r: random.Random) -> Any:
    """Something that a field may hold: in any coding, broken, long, markup, or no text at all."""
    plain = "".join(
        chr(r.choice((r.randrange(32, 127), r.randrange(0xA0, 0x250), 0x4EAC, 0x202E))) for _ in range(r.randrange(40))
    )
    return r.choice((
        plain, plain.encode("utf-8"), plain.encode("utf-16"), plain.encode("latin-1", "replace"),
        r.randbytes(r.randrange(30)), "<img src='/dev/zero'>", "2026-13-45", "2026:11:29", "x" * 9000,
        r.randrange(1 << 16), b"UNICODE\0" + r.randbytes(9),
    ))  # fmt: skip


def prepare() -> None:
    """Once in each worker."""
    import warnings

    from kyanoscript.core.render.prepare import prepare

    warnings.simplefilter("ignore")
    prepare()


def work(_: None, task: tuple[Path, Path]) -> tuple[Any, ...]:
    """One photograph rendered into a file, and what is said of it."""
    from kyanoscript.core.script import Script
    from kyanoscript.files.base.errors import FileError
    from kyanoscript.files.photos.photo import open_photo
    from kyanoscript.files.photos.pictures import Pictures
    from kyanoscript.files.prints.out import Out, write
    from kyanoscript.files.prints.settings import Settings
    from kyanoscript.files.prints.whole import WholePrint

    path, out = task
    out.unlink(missing_ok=True)
    try:
        photo = open_photo(path)
        done = write(Out(photo, Script(), Pictures(path.parent), out, WholePrint(), Settings(notes="all")))
        words = [*(str(value) for value in vars(photo.facts).values()), *done.remarks]
        open_photo(out)
    except FileError as error:
        return ("OK", [str(error)], False)
    return ("OK", words, out.exists())


def run(count: int, seed: int) -> Report:
    """So many photographs, each into one format."""
    report, r, here = Report("texts"), random.Random(seed), room()
    worker, slowest = Worker(prepare, work), 0.0
    image = Image.fromarray(colourful(24, 36))
    for k in range(count):
        exif = Image.Exif()
        for field in r.sample(FIELDS, r.randrange(1, 6)):
            (exif if field < 0x9000 or r.random() < 0.2 else exif.get_ifd(ExifTags.IFD.Exif))[field] = _text(r)
        path, out = here / f"photo{r.choice(('.jpg', '.png', '.webp'))}", here / f"print{r.choice(KINDS)}"
        try:
            image.save(path, exif=exif)
        except Exception:  # what cannot be written by a library cannot come from it
            report.tally["no such photograph"] += 1
            continue
        verdict, seconds, _ = worker.run((path, out))
        slowest = max(slowest, seconds)
        report.tally["photographs"] += 1
        if verdict[0] != "OK" or not verdict[2]:
            report.found(
                f"{verdict[0]}: {path.suffix} to {out.suffix} seed {seed} number {k}: {str(verdict[1:])[-300:]}"
            )
    worker.stop()
    report.figures = {"slowest s": round(slowest, 2)}
    return report
