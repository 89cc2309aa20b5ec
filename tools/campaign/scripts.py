"""Mutants of every recipe and demo script, as JSON and archives, through what the command line and the window do."""

from __future__ import annotations

import copy
import io
import json
import random
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import kyanoscript
from common import MEMORY, Report, Worker, room

WEIRD: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 2, 1e308, -1e308, 1e-320, 10**400, 2**63, float("nan"), float("inf"), "", "x",
    "x" * 100_000, "\0", "\ud800", "../../etc/passwd", "/dev/zero", "#12345", "#GGGGGG", [], {}, [[]], [None] * 1000,
    {"pass": "levels"}, [[0, "#000000"]] * 65, [[0]], [[1, 2, 3]], "normal", "print", {"shape": "oval"}, [{}] * 50, 0.3,
)  # fmt: skip


def leaves(data: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    yield path
    for key, value in data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ():
        yield from leaves(value, (*path, key))


def at(data: Any, path: tuple[Any, ...]) -> Any:
    for key in path:
        data = data[key]
    return data


def change(r: random.Random, data: Any) -> Any:
    """One thing in the tree: another value, gone, doubled, under another name, or something from another place."""
    data = copy.deepcopy(data)
    for _ in range(r.choice((1, 1, 1, 2, 5))):
        paths = [p for p in leaves(data) if p]
        if not paths:
            break
        path = r.choice(paths)
        inside, key, kind = at(data, path[:-1]), path[-1], r.randrange(6)
        if kind <= 2:
            inside[key] = copy.deepcopy(r.choice(WEIRD))
        elif kind == 3:
            del inside[key]
        elif kind == 4 and isinstance(inside, dict):
            inside[r.choice(("kyanoscript", "pass", "stencil", "run", "x", "", "__class__", str(key) + "s"))] = (
                inside.pop(key)
            )
        else:
            inside[key] = (
                copy.deepcopy(at(data, r.choice(paths))) if r.random() < 0.7 else [inside[key]] * r.choice((2, 100))
            )
    return data


def deep(r: random.Random, data: Any) -> bytes:
    n = r.choice((7, 8, 9, 20, 100, 1000, 5000))
    kind = r.randrange(4)
    if kind == 0:
        text = '{"kyanoscript": 1, "passes": [' + '{"pass": "plate", "run": [' * n + "]}" * n + "]}"
    elif kind == 1:
        text = '{"kyanoscript": 1, "passes": ' + "[" * n * 10 + "]" * n * 10 + "}"
    elif kind == 2:
        text = '{"kyanoscript": 1, "passes": [{"pass": "levels", "gamma": ' + '{"a": ' * n + "1" + "}" * n + "}]}"
    else:
        text = '{"kyanoscript": 1, "passes": [{"pass": "levels", "stencil": {"shapes": ' + "[" * n + "]" * n + "}}]}"
    return text.encode()


def many(r: random.Random, data: Any) -> bytes:
    step = r.choice(data.get("passes") or [{"pass": "levels"}])
    n = r.choice((1000, 10_000, 100_000)) if r.random() < 0.3 else 300
    text = '{"kyanoscript": 1, "passes": [' + ",".join([json.dumps(step)] * n) + "]}"
    return text.encode()[: 17 << 20]


def huge(r: random.Random, data: Any) -> bytes:
    kind = r.randrange(5)
    if kind == 0:
        return (
            b'{"kyanoscript": 1, "passes": [{"pass": "levels", "name": "'
            + b"x" * r.choice((10**5, 10**6, 16 << 20))
            + b'"}]}'
        )
    if kind == 1:
        return b'{"kyanoscript": ' + b"9" * r.choice((20, 5000, 10**6)) + b"}"
    if kind == 2:
        return b'{"kyanoscript": 1, "passes": [{"pass": "levels", "gamma": 1e' + b"9" * r.choice((3, 5000)) + b"}]}"
    if kind == 3:
        many_ = ",".join(f"[{k % 360},{k % 100}]" for k in range(100_000))
        return f'{{"kyanoscript": 1, "passes": [{{"pass": "gray-weights", "ring": [{many_}]}}]}}'.encode()
    dots = ",".join(
        '{"shape": "brush", "points": [' + ",".join("[1,2,3]" for _ in range(1000)) + "]}" for _ in range(200)
    )
    return f'{{"kyanoscript": 1, "passes": [{{"pass": "levels", "stencil": {{"shapes": [{dots}]}}}}]}}'.encode()


def twice(r: random.Random, data: Any) -> bytes:
    """Duplicate keys."""
    text = json.dumps(data)
    return text.replace(
        '"kyanoscript": 1', '"kyanoscript": 1, "kyanoscript": ' + r.choice(("2", '"x"', "1", "null")), 1
    ).encode()


def bytes_(r: random.Random, data: Any) -> bytes:
    text = bytearray(
        json.dumps(data, ensure_ascii=False).encode(r.choice(("utf-8", "utf-16", "utf-8-sig", "latin-1")), "replace")
    )
    for _ in range(r.choice((1, 3, 20))):
        text[r.randrange(len(text))] = r.choice((0, 255, 0x22, 0x7B, 0x5C, r.randrange(256)))
    return bytes(text[: r.randrange(len(text))] if r.random() < 0.3 else text)


def values(r: random.Random, data: Any) -> bytes:
    return json.dumps(change(r, data)).encode()


def archive(r: random.Random, data: Any, mimetype: str = "application/x-kyanoscript+zip") -> bytes:
    """A ZIP with something wrong with it."""
    out = io.BytesIO()
    photo = {"path": "p.jpg", "sha256": "0" * 64, "width": 1, "height": 1}
    text = json.dumps(change(r, data)) if r.random() < 0.3 else json.dumps(data)
    kind = r.randrange(9)
    if kind == 0:
        photo = change(r, photo)
    elif kind == 1:
        photo["path"] = r.choice(
            ("/dev/zero", "/proc/kcore", "/etc/shadow", "../" * 50 + "etc/passwd", "\0", "x" * 5000, "~root", "")
        )
    elif kind == 2:
        mimetype = r.choice(("", "text/plain", "application/x-kyanoscript+zip\n", "x" * 10_000_000))
    elif kind == 3:
        text = " " * r.choice((17 << 20, 15 << 20)) + text
    with zipfile.ZipFile(
        out, "w", r.choice((zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA))
    ) as made:
        if kind != 4:
            made.writestr("mimetype", mimetype)
        for name in ["script.json"] * r.choice((1, 1, 1, 2)):
            made.writestr(name, text)
        made.writestr(
            "photo.json", json.dumps(photo) if r.random() < 0.8 else r.choice(("[]", "{", "1", '{"path": 3}', "null"))
        )
        if kind == 5:
            for k in range(r.choice((10, 3000))):
                made.writestr(f"../../../{k}/x", "x")
        if kind == 6:
            link = zipfile.ZipInfo("script.json" if r.random() < 0.5 else "photo.json")
            link.external_attr = 0o120777 << 16
            made.writestr(link, "/etc/passwd")
    body = bytearray(out.getvalue())
    if kind >= 7 or r.random() < 0.3:
        for _ in range(r.choice((1, 2, 8))):
            body[r.randrange(len(body))] ^= 1 << r.randrange(8)
        if r.random() < 0.4:
            body = body[: r.randrange(4, len(body))]
    return bytes(body)


MOST = ((values, 10), (archive, 7), (bytes_, 3), (twice, 1), (deep, 1), (many, 0.3), (huge, 0.6))


def prepare() -> None:
    """Once in each worker."""
    from kyanoscript.core import passes

    passes.load_all()


def work(_: None, path: Path) -> tuple[str, str]:
    """What `check` does; then what the window would do with an accepted one: settle, compare, write and read again."""
    from kyanoscript.core.script import dumps, loads
    from kyanoscript.files.base.errors import FileError
    from kyanoscript.files.kept.scriptfile import read_script
    from kyanoscript.files.kept.trust import outside
    from kyanoscript.files.photos.pictures import Pictures

    try:
        found = read_script(path)
    except FileError as error:
        line = str(error)
        return ("BAD MESSAGE" if "\n" in line or len(line) > 1400 else "OK", line[:300])
    text = dumps(found.script)
    if loads(text) != found.script:
        return ("NOT THE SAME", "after writing and reading")
    json.loads(text, parse_constant=lambda c: 1 / 0)  # no value may be one that is no number
    found.script.settled()
    outside(path, found.script, found.photo.path if found.photo else None)
    Pictures(path, path).files(found.script)
    return ("OK", "accepted")


def run(count: int, seed: int, keep: Path | None = None) -> Report:
    """So many mutants; files that did what must not be go into the folder ``keep``."""
    report, r, here = Report("scripts"), random.Random(seed), room()
    home = Path(kyanoscript.__file__).parent
    bodies = [
        json.loads(p.read_text()) for p in sorted((*home.glob("recipes/*.json"), *home.glob("demo/scripts/*.json")))
    ]
    for step in bodies:
        step.pop("recipe", None)
    worker, slowest, most = Worker(prepare, work), 0.0, 0
    while report.tally["mutants"] < count:
        make = r.choices([m for m, _ in MOST], [w for _, w in MOST])[0]
        try:
            body = make(r, r.choice(bodies))
        except (UnicodeEncodeError, ValueError, RecursionError):
            continue
        path = here / ("mutant.kyano" if body[:2] == b"PK" else "mutant.json")
        path.write_bytes(body)
        verdict, seconds, peak = worker.run(path)
        slowest, most = max(slowest, seconds), max(most, peak)
        wrong = verdict[0] if verdict[0] != "OK" else "MEMORY" if peak > MEMORY else ""
        report.tally["mutants"] += 1
        report.tally["accepted" if verdict[1:] == ("accepted",) else "refused"] += not wrong
        if wrong:
            report.found(f"{wrong}: {make.__name__} seed {seed}: {str(verdict[1:])[-300:]}")
            if keep is not None:
                keep.mkdir(parents=True, exist_ok=True)
                name = (
                    f"{wrong.lower().replace(' ', '-')}-{seed}-{report.tally['mutants']}-{make.__name__}{path.suffix}"
                )
                (keep / name).write_bytes(body)
        elif verdict[1] != "accepted":
            report.said(verdict[1], make.__name__)
    worker.stop()
    report.figures = {"slowest s": round(slowest, 2), "most MB": most >> 20}
    return report
