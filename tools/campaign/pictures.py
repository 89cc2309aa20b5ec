"""Mutants of every kind of picture, opened held and in pieces, and rendered small."""

from __future__ import annotations

import contextlib
import hashlib
import random
import struct
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from corpus import chunk, corpus

from common import MEMORY, Report, Worker, room

ODD = (
    0, 1, 2, 3, 4, 7, 8, 9, 15, 16, 17, 0x7F, 0x80, 0xFF, 0x100, 0x7FFF, 0x8000, 0xFFFF, 0x10000, 0x7FFFFFFF,
    0x80000000,
    0xFFFFFFFE, 0xFFFFFFFF, 0x7FFFFFFFFFFFFFFF, 0xFFFFFFFFFFFFFFFF, 40_000, 1_000_000,
)  # fmt: skip


def flip(r: random.Random, b: bytearray) -> bytearray:
    for _ in range(r.choice((1, 1, 2, 4, 16))):
        b[r.randrange(len(b))] ^= 1 << r.randrange(8)
    return b


def flip_head(r: random.Random, b: bytearray) -> bytearray:
    for _ in range(r.choice((1, 2, 3))):
        b[r.randrange(min(len(b), 400))] = r.choice((0, 1, 2, 127, 128, 255, r.randrange(256)))
    return b


def cut(r: random.Random, b: bytearray) -> bytearray:
    return b[: r.randrange(1, len(b))]


def cut_tail(r: random.Random, b: bytearray) -> bytearray:
    return b[: -r.randrange(1, min(64, len(b)))]


def odd_number(r: random.Random, b: bytearray) -> bytearray:
    size = r.choice((2, 4, 4, 8))
    at = r.randrange(max(1, len(b) - size))
    b[at : at + size] = (r.choice(ODD) & (1 << 8 * size) - 1).to_bytes(size, r.choice(("little", "big")))
    return b


def drop(r: random.Random, b: bytearray) -> bytearray:
    at = r.randrange(len(b))
    del b[at : at + r.randrange(1, 200)]
    return b


def double(r: random.Random, b: bytearray) -> bytearray:
    at, n = r.randrange(len(b)), r.randrange(1, 200)
    b[at:at] = b[at : at + n]
    return b


def noise(r: random.Random, b: bytearray) -> bytearray:
    at, n = r.randrange(len(b)), r.randrange(1, 100)
    b[at : at + n] = r.randbytes(len(b[at : at + n]))
    return b


def png_chunks(b: bytearray) -> list[tuple[bytes, bytes]]:
    at, found = 8, []
    while at + 8 <= len(b):
        n = struct.unpack(">I", b[at : at + 4])[0]
        found.append((bytes(b[at + 4 : at + 8]), bytes(b[at + 8 : at + 8 + n])))
        at += 12 + n
    return found


def png_inside(r: random.Random, b: bytearray) -> bytearray:
    """A chunk's content changed, with its check sum put right: the decoders behind it are reached."""
    parts = png_chunks(b)
    k = r.randrange(len(parts))
    name, data = parts[k]
    if data:
        data = bytes(r.choice((flip, noise, odd_number, cut))(r, bytearray(data)))
    parts[k] = (name, data)
    if r.random() < 0.2:
        parts.insert(r.randrange(len(parts)), r.choice(parts))
    return bytearray(bytes(b[:8]) + b"".join(chunk(*p) for p in parts))


def png_header(r: random.Random, b: bytearray) -> bytearray:
    w, h, bits, kind, c, f, i = struct.unpack(">IIBBBBB", b[16:29])
    values = [w, h, bits, kind, c, f, i]
    k = r.randrange(7)
    values[k] = (
        r.choice((0, 1, 2, 3, 4, 6, 8, 16)) if k > 1 else r.choice((0, 1, 71, 73, 5000, 40_000, 2**31 - 1, 2**32 - 1))
    )
    return bytearray(bytes(b[:8]) + chunk(b"IHDR", struct.pack(">IIBBBBB", *values)) + bytes(b[33:]))


def png_pixels(r: random.Random, b: bytearray) -> bytearray:
    """The packed rows taken apart, changed and packed again."""
    parts = png_chunks(b)
    raw = bytearray(zlib.decompress(b"".join(d for n, d in parts if n == b"IDAT")))
    raw = r.choice((flip, noise, cut, double, drop))(r, raw)
    out = [p for p in parts if p[0] not in (b"IDAT", b"IEND")] + [(b"IDAT", zlib.compress(bytes(raw))), (b"IEND", b"")]
    return bytearray(bytes(b[:8]) + b"".join(chunk(*p) for p in out))


def png_length(r: random.Random, b: bytearray) -> bytearray:
    at = 8
    for _ in range(r.randrange(3)):
        at += 12 + struct.unpack(">I", b[at : at + 4])[0]
        if at + 8 > len(b):
            at = 8
    b[at : at + 4] = struct.pack(">I", r.choice(ODD) & 0xFFFFFFFF)
    return b


def jpeg_segment(r: random.Random, b: bytearray) -> bytearray:
    marks = [
        k
        for k in range(len(b) - 4)
        if b[k] == 0xFF and b[k + 1] in (0xC0, 0xC2, 0xC4, 0xDB, 0xDA, 0xDD, 0xE0, 0xE1, 0xE2)
    ]
    at = r.choice(marks)
    n = struct.unpack(">H", b[at + 2 : at + 4])[0]
    where = at + 2 + r.randrange(max(1, min(n, len(b) - at - 2)))
    b[where] = r.choice((0, 1, 2, 3, 4, 17, 255, r.randrange(256)))
    return b


def jpeg_size(r: random.Random, b: bytearray) -> bytearray:
    at = next(k for k in range(len(b)) if b[k] == 0xFF and b[k + 1] in (0xC0, 0xC2))
    b[at + 5 + 2 * r.randrange(2) :][:2] = b""
    k = at + 5 + 2 * r.randrange(2)
    b[k : k + 2] = struct.pack(">H", r.choice((0, 1, 8, 47, 49, 5000, 30_000, 65_535)))
    return b


def tiff_entry(r: random.Random, b: bytearray) -> bytearray:
    """One field of a tag: its type, its count or its value; or where the next folder lies."""
    order = "<" if b[:2] == b"II" else ">"
    big = struct.unpack(order + "H", b[2:4])[0] == 43
    start = struct.unpack(order + ("Q" if big else "I"), b[8:16] if big else b[4:8])[0]
    word, step = ("Q", 20) if big else ("H", 12)
    head = struct.calcsize(word)
    count = struct.unpack(order + word, b[start : start + head])[0]
    for _ in range(r.choice((1, 1, 2))):
        pick = r.random()
        if pick < 0.1:  # a loop
            at = start + head + count * step
            b[at : at + (8 if big else 4)] = struct.pack(
                order + ("Q" if big else "I"), r.choice((start, 8, start - 1, len(b), 0))
            )
        elif pick < 0.15:
            b[start : start + head] = struct.pack(order + word, r.choice((0, 1, count + 5, 60_000)))
        else:
            at = start + head + r.randrange(count) * step
            field, size = r.choice(((2, 2), (4, 8 if big else 4), (4 + (8 if big else 4), 8 if big else 4), (8, 2)))
            if r.random() < 0.05:
                field, size = 0, 2
            value = r.choice((*ODD, *range(20), start, len(b)))
            b[at + field : at + field + size] = (value & (1 << 8 * size) - 1).to_bytes(
                size, "little" if order == "<" else "big"
            )
    return b


def profile(r: random.Random, b: bytearray) -> bytearray:
    """Garbage inside an embedded colour profile; its signature stays, so that it is looked at."""
    at = b.find(b"acsp")
    if at < 0:
        return flip(r, b)
    for _ in range(r.choice((1, 3, 10, 60))):
        k = at + 4 + r.randrange(500)
        if k < len(b):
            b[k] = r.choice((0, 255, 1, 127, r.randrange(256)))
    return b


Change = Callable[[random.Random, bytearray], bytearray]
GENERAL: tuple[Change, ...] = (flip, flip_head, cut, cut_tail, odd_number, drop, double, noise, profile)
OWN: dict[str, tuple[Change, ...]] = {
    "png": (png_inside, png_header, png_pixels, png_length) * 2,
    "jpg": (jpeg_segment, jpeg_size) * 3,
    "tif": (tiff_entry,) * 8,
}


def prepare() -> None:
    """Once in each worker."""
    import warnings

    from kyanoscript.core.render.prepare import prepare

    warnings.simplefilter("ignore")
    prepare()


def work(_: None, task: tuple[Path, bool]) -> tuple[str, Any]:
    """One picture opened both ways, and rendered whole, small, and a part of it."""
    from kyanoscript.core.picture import Rect
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.core.script import from_json
    from kyanoscript.files.base.errors import FileError
    from kyanoscript.files.photos.photo import open_photo
    from kyanoscript.files.photos.pictures import open_cutout

    path, as_plate = task
    script = from_json({"kyanoscript": 1, "passes": [{"pass": "gray-weights"}, {"pass": "soften", "radius": 9}]})
    said = []
    for hold in (True, False):
        try:
            photo = open_photo(path, hold=hold)
            renderer = Renderer(photo.source, script)
            w, h = renderer.size(1.0)
            renderer.region(Rect(0, 0, min(w, 64), min(h, 64)))
            scale = min(1.0, 40 / max(w, h))
            if not np.isfinite(renderer.region(Rect(0, 0, *renderer.size(scale)), scale)).all():
                return ("NOT FINITE", "")
            seen = ""
            if w * h < 1 << 22:
                pixels = photo.source.window(Rect(0, 0, photo.source.width, photo.source.height))
                seen = hashlib.sha1(pixels.tobytes()).hexdigest()
            said.append((f"{w} x {h}", seen, bool(photo.notes)))
        except FileError as error:
            line = str(error)
            if "\n" in line or len(line) > 400:
                return ("BAD MESSAGE", line[:200])
            said.append(("refused", line, True))
    if as_plate:
        with contextlib.suppress(FileError):
            open_cutout(path)
    return ("OK", said)


def mutant(r: random.Random, name: str, body: bytes) -> tuple[bytes, str]:
    """One change to a picture, and what it is called."""
    change = r.choice(GENERAL + OWN.get(name.rpartition(".")[2], ()))
    try:
        return bytes(change(r, bytearray(body))), change.__name__
    except (struct.error, IndexError, ValueError, zlib.error):
        return bytes(flip(r, bytearray(body))), "flip"


def run(count: int, seed: int, keep: Path | None = None) -> Report:
    """So many mutants; files that did what must not be go into the folder ``keep``."""
    report, r, here, bodies = Report("pictures"), random.Random(seed), room(), corpus()
    worker, slowest, most, plain = Worker(prepare, work), 0.0, 0, {}
    for name, body in bodies.items():
        path = here / f"sound.{name.rpartition('.')[2]}"
        path.write_bytes(body)
        verdict, _, _ = worker.run((path, True), 60)
        if verdict[0] != "OK":
            report.found(f"a sound {name}: {verdict}")
        plain[name] = verdict[1]
    for k in range(count):
        name = r.choice(list(bodies))
        body, how = mutant(r, name, bodies[name])
        if not body or body == bodies[name]:
            continue
        path = here / f"mutant.{name.rpartition('.')[2]}"
        path.write_bytes(body)
        verdict, seconds, peak = worker.run((path, k % 5 == 0))
        slowest, most = max(slowest, seconds), max(most, peak)
        wrong = verdict[0] if verdict[0] != "OK" else "MEMORY" if peak > MEMORY else ""
        report.tally["mutants"] += 1
        if not wrong:
            report.tally[_outcome(name, how, verdict[1], plain[name], report)] += 1
            continue
        report.harmed(wrong, name, how, body, seed, k, verdict[1:], keep)
    worker.stop()
    report.figures = {"slowest s": round(slowest, 2), "most MB": most >> 20}
    return report


def _outcome(name: str, how: str, said: Any, plain: Any, report: Report) -> str:
    """What became of a mutant that did no harm."""
    refused = [answer[0] == "refused" for answer in said]
    if all(refused):
        return "refused"
    if any(refused):
        return "opened in one way, refused in the other"
    if [answer[:2] for answer in said] == [answer[:2] for answer in plain]:
        return "same pixels"
    if how in ("cut", "cut_tail") and not any(answer[2] for answer in said):
        report.found(f"cut short, opened without a word: {name}")
    if name.endswith(".png") and how == "flip" and not any(answer[2] for answer in said):
        report.found(f"a flipped bit changed pixels without a word: {name}")
    return "other pixels, said" if any(answer[2] for answer in said) else "other pixels"
