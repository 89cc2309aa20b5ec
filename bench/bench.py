"""Speed as ratios, both sides measured in the same run on the same machine; nothing here is a test.

Usage: bench.py [--json FILE] [--only a,b,c,d,e,f,g,h,i,j,k,l,m,n,o,p,q,r,s,t,u]
"""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any

import dots
import edition
import interface
import large
import measure
import paper
import recipes
import states
import three_passes
import tint
import true_colour
import twelve_passes
import waits
import window
import work


def a(folder: Path) -> Any:
    """Three passes against pyvips."""
    row = three_passes.against_pyvips(folder)
    print("(a) 24 MP, 16-bit TIFF to 16-bit TIFF: gray weights, levels, gradient map in soft light at 85 %")
    _both(row, f"({row['pyvips_chain']})", "aim: at most 0.30 ×, 0.30 × and 1.00 ×")
    print(f"mean difference of the two prints: {row['mean_difference_of_255']:.3f} of 255")
    return row


def b(folder: Path) -> Any:
    """A slider of the last of three passes."""
    print("(b) a slider of the last of three passes, 24 MP photograph, whole view, moved sixty times a second")
    move = (2, "strength", 20.0, 90.0)
    rows = [window.drags(folder, three_passes.SCRIPT, [move], easel)[0] for easel in (None, (1280, 800))]
    for row in rows:
        print(window.line(row, "aim: at least 60 and at most 150"))
    return rows


def c(folder: Path) -> Any:
    """Twelve passes against pyvips."""
    row = twelve_passes.against_pyvips(folder)
    print("(c) 24 MP, 16-bit TIFF to 16-bit TIFF: the twelve-pass script")
    _both(row, "(wide Gaussians for local exposure and contrast)", "aim: at most 0.25 ×, 0.25 × and 0.60 ×")
    return row


def d(folder: Path) -> Any:
    """Dragging in the twelve-pass script."""
    print("(d) dragging in the twelve-pass script, 24 MP photograph, sixty moves a second")
    moves = [(0, "exposure", -0.5, 0.5), (6, "fine", -40.0, 60.0), (11, "amount", 20.0, 150.0)]
    aims = ("aim: at least 30 and at most 300", "aim: at least 30 and at most 300", "aim: at least 60 and at most 150")
    rows = []
    for words, actual in (("whole", False), ("actual", True)):
        for easel in (None, (1280, 800), (1920, 1080)):
            for row, aim in zip(window.drags(folder, twelve_passes.script(), moves, easel, actual), aims, strict=True):
                print(f"{words:<7}" + window.line(row, aim), flush=True)
                rows.append({"view": words, **row})
    return rows


def e(folder: Path) -> Any:
    """Memory and time from 6 to 400 MP."""
    rows = twelve_passes.sizes(folder)
    print("(e) the twelve-pass script from 6 to 400 MP, tiled TIFF to tiled TIFF")
    for row in rows:
        per = row["seconds"] / row["megapixels"]
        print(
            f"{row['megapixels']:>5} MP {row['seconds']:7.1f} s {per * 1e3:6.0f} ms per MP {row['megabytes']:6.0f} MB"
        )
    pers, bare = ([(row["seconds"] - s * row["start"]) / row["megapixels"] for row in rows] for s in (0, 1))
    memory = rows[-1]["megabytes"] / rows[1]["megabytes"]
    print(f"memory at 400 MP: {memory:.2f} × that at 24 MP (aim: at most 1.5 ×)")
    print(f"slowest megapixel {max(pers) / min(pers):.2f} × the quickest (aim: at most 1.3 ×), ", end="")
    print(f"{max(bare) / min(bare):.2f} × without the start of the process ({rows[0]['start']:.2f} s)")
    return rows


def f(folder: Path) -> Any:
    """Wide blurs."""
    row = twelve_passes.wide_blurs(folder)
    print("(f) one soften at 24 MP: " + ", ".join(f"radius {k} px {v:.2f} s" for k, v in row.items()), end="")
    print(f"; 300 px takes {row['300'] / row['10']:.2f} × as long as 10 px (aim: under 1.5 ×)")
    return row


def g(folder: Path) -> Any:
    """Every control there is, dragged."""
    rows = interface.every_control(folder, twelve_passes.script())
    worst = sorted(rows[1:], key=lambda row: -row["longest_ms"])
    print(
        f"(g) {len(rows) - 1} controls of the twelve-pass script dragged by hand, 24 MP, 1280 × 800 (aim: under 33 ms)"
    )
    for row in (rows[0], *worst[:5]):
        print(
            f"{row['pass']:<16}{row['control']:<18}longest {row['longest_ms']:5.1f} ms ({row['first_ms']:.1f} at first)"
        )
    held, first = (sum(row[key] > 33 for row in worst) for key in ("longest_ms", "first_ms"))
    median = worst[len(worst) // 2]["longest_ms"]
    print(f"over 33 ms again and again: {held} of {len(worst)}; at the first try: {first}; median {median:.1f} ms")
    return rows


def h(folder: Path) -> Any:
    """A brush at 24 MP."""
    rows = interface.brush(folder, twelve_passes.script())
    print("(h) painting a stencil at 24 MP: from the hand's place to the mark of the stroke, and to the print under it")
    for row in rows:
        under = f"{row['print_ms']:.0f} ms" if row["print_ms"] else "after the stroke"
        mark = f"mark {row['mark_ms'] or 0:5.1f} ms ({row['marks']} of 60)"
        print(f"{row['view']:<7} pass {row['pass'] + 1:>2}: {mark}, print {under} ({row['prints']} came)")
    return rows


def i(folder: Path) -> Any:
    """Starting."""
    row = interface.start()
    print("(i) from the start of the process; median of 7; in brackets cold, before there is any bytecode or glimpse")
    bare = f"{row['empty']:.2f} s ({row['empty_first']:.2f}), processor {row['empty_processor']:.2f} s"
    print(f"empty PySide6 window {bare}")
    for what, aim in (("window", 1.3), ("glimpse", 2), ("picture", 5)):
        took = f"{row[what]:.2f} s ({row[f'{what}_first']:.2f}), processor {row[f'{what}_processor']:.2f} s"
        ratios = f"{row[f'{what}_ratio']:.2f} and {row[f'{what}_processor_ratio']:.2f} × the empty window"
        print(f"{what:<20} {took}, {ratios} (aim: at most {aim} ×)")
    row["commands"] = interface.commands(folder)
    for words, aim in (("--version", 0.15), ("--help", 0.15), ("passes", 0.4), ("render", 0.6)):
        took = row["commands"][words]
        print(f"{words:<20} {took['seconds']:.2f} s, processor {took['processor']:.2f} s (aim: at most {aim} s)")
    return row


def j(folder: Path) -> Any:
    """The contact sheet of recipes."""
    row = recipes.sheet(folder)
    print("(j) the contact sheet of 32 recipes, 24 MP photograph, sizes of a window of 1280 × 800")
    first, every = row["first"] / row["alone"], row["all"] / row["alone"]
    print(f"one small picture alone {row['alone'] * 1e3:.0f} ms; ", end="")
    print(f"first of 32 after {first:.1f} × (aim: at most 3 ×), all after {every:.1f} × (aim: at most 40 ×)")
    print(f"interface held up {row['late'] * 1e3:.0f} ms at most; memory {row['megabytes_more']:+.0f} MB in 3 fillings")
    return row


def k(folder: Path) -> Any:
    """Hand-tint."""
    rows = tint.dabs(folder)
    print(
        "(k) Hand-tint: the picture after one more dab than 100, against one float32 copy of it; best of 5, one thread"
    )
    for row, aim in zip(rows, (60, 40), strict=True):
        times = f"{row['seconds']:.2f} s, {row['ratio']:.0f} × (aim: at most {aim} ×)"
        print(f"{row['megapixels']:.0f} MP: {times}")
    return rows


def suite(folder: Path) -> Any:
    """The suite, and the part of it that one runs at every change."""
    print("(l) the suite on two processes")
    row = {}
    for what, aim in (("quick", 45), ("test", 240)):
        began = time.perf_counter()
        done = subprocess.run(["make", "--silent", what], capture_output=True, text=True, cwd=Path(__file__).parents[1])
        row[what] = time.perf_counter() - began
        said = next((line for line in reversed(done.stdout.splitlines()) if "passed" in line), "did not run")
        print(f"make {what:<6} {row[what]:.0f} s (aim: at most {aim} s): {said.strip('= ')}")
    return row


def _both(row: dict[str, Any], about: str, aim: str) -> None:
    print(f"{'':14}{'time':>10}{'processor':>12}{'memory':>12}")
    for name, word in (("kyanoscript", "ours"), ("pyvips", "pyvips")):
        took = f"{row[f'{word}_seconds']:>8.2f} s{row[f'{word}_processor']:>10.2f} s{row[f'{word}_megabytes']:>9.0f} MB"
        print(f"{name:14}{took}   {about if word == 'pyvips' else ''}".rstrip())
    ratios = f"{row['time_ratio']:>8.2f} ×{row['processor_ratio']:>10.2f} ×{row['memory_ratio']:>9.2f} ×"
    print(f"{'ratio':14}{ratios}    {aim}")


def m(folder: Path) -> Any:
    """True colour."""
    row = {"spaces": true_colour.spaces(folder), "table": true_colour.table(), "raw": true_colour.raw(folder)}
    print("(m) the twelve-pass script at 24 MP by the photograph's space (aim: wide at most 1.2 × sRGB)")
    print(", ".join(f"{n} {row['spaces'][n]:.2f} s" for n in row["spaces"] if "ratio" not in n), end="; ")
    print(", ".join(f"{n.removesuffix(' ratio')} {v:.2f} ×" for n, v in row["spaces"].items() if "ratio" in n))
    print(
        f"1280 × 800 through the screen's table: {row['table']['table']:.1f} ms on two threads (aim: under 4), ", end=""
    )
    print(f"without a table {row['table']['plain']:.1f} ms")
    raw = row["raw"]
    print(
        f"a raw of 45 MP: preview after {raw['first']:.2f} s (aim: 0.5), half size after {raw['developed']:.2f} s ",
        end="",
    )
    print(f"(aim: 3), memory {raw['megabytes']:.0f} MB (aim: under 1200)")
    return row


def n(folder: Path) -> Any:
    """Large photographs, and what is held in memory."""
    row = {"opened": large.opened(folder), "held": large.held(folder)}
    print("(n) large photographs in the window, twelve passes; the other side: the file read by its library")
    for found in row["opened"]:
        for turn in ("new", "again"):
            one = found[turn]
            print(
                f"{found['what']}, {turn:<5}: first picture {one['first']:.2f} s, {one['first'] / found['read']:.2f} × "
                f"reading it (aim: at most 3 s), peak {one['peak']:.0f} MB (aim: at most 1500), first pass dragged "
                f"{one['a_second']:.0f} a second (aim: 30)"
            )
    held = row["held"]
    print(
        f"24 MP, twelve passes: {held['opened']:.0f} MB; with the recipes {held['recipes']:.0f} MB (aim: at most 900)"
    )
    return row


def o(folder: Path) -> Any:
    """Ten minutes of work."""
    row = work.minutes(folder)
    share = f"{row['under_share']:.3%} of {row['turns']} turns of the interface thread under 16 ms (aim: 99.9 %)"
    print(f"(o) ten minutes of work at 24 MP: {share}; longest {row['longest_ms']:.0f} ms")
    for what, found in sorted(row["by"].items(), key=lambda item: -item[1]["over"]):
        print(f"{what:<20} {found['over']} of {found['of']} over, longest {found['longest_ms']:.0f} ms")
    return row


def p(folder: Path) -> Any:
    """States and strips."""
    row = {"wall": states.wall(folder), "strip": states.strip(folder), "seek": states.nine(folder)}
    hung, bands = row["wall"], row["strip"]
    print("(p) states and strips of the twelve-pass script, 24 MP, 1280 × 800; nothing worked out before")
    times = f"four states {hung['four']:.2f} s, the slowest alone {hung['alone']:.2f} s"
    print(f"{times}: {hung['ratio']:.2f} × (aim: at most 1.5 ×)")
    print(f"moved at actual pixels {hung['moved']:.0f} pictures a second (aim: 20)")
    print(
        f"seven bands {bands['seven']:.2f} s, one whole view {bands['whole']:.2f} s: {bands['ratio']:.2f} × (aim: 2 ×)"
    )
    sought = row["seek"]
    print(
        f"seek, {sought['dials']} values: nine prints {sought['nine']:.2f} s, one view of as many pixels "
        f"{sought['whole']:.2f} s: {sought['ratio']:.2f} × (aim: 1.5 ×)"
    )
    print(
        f"the values tried small {sought['learned']:.1f} s; the next nine reckoned in "
        f"{1000 * sought['plane']:.0f} ms at most (aim: 150)"
    )
    return row


def q(folder: Path) -> Any:
    """Looks at an old scan."""
    row = tint.looks(folder)
    print("(q) the first look at a scan of 4 MP")
    said = {"parts": "people, parts and offers", "damage": "damage", "all": "both, one after the other"}
    for name, aim in (("parts", 2), ("damage", 3), ("all", 4)):
        seconds, ratio = row[name]["seconds"], row[name]["ratio"]
        print(f"for {said[name]}: {seconds:.2f} s (aim: {aim} s), {ratio:.0f} × reading its file")
    return row


def r(folder: Path) -> Any:
    """Proof and sheet."""
    row = {"proof": paper.proof(folder), "sheet": paper.sheet(folder)}
    shown, a2 = row["proof"], row["sheet"]
    print(
        f"(r) a view of 1280 × 800, two threads: {shown['none']:.1f} ms as it is, {shown['space']:.1f} ms from BT.2020,"
    )
    print(f"{shown['proof']:.1f} ms proofed (aim: 4 ms)")
    print(
        f"24 MP onto A2 at 360 ppi, {a2['pixels'][0]} × {a2['pixels'][1]}: {a2['seconds']:.1f} s, "
        f"{a2['ratio']:.0f} × reading it, peak {a2['megabytes']:.0f} MB"
    )
    return row


def s(folder: Path) -> Any:
    """Plates as dots."""
    row = {"band": dots.screened(folder), "a3": dots.a3(folder)}
    band, whole = row["band"], row["a3"]
    print(f"(s) a band of 10 million pixels as round dots: {band['dots']:.1f} ms, {band['dots'] / band['copy']:.0f} × "
          f"copying its bits ({band['copy']:.2f} ms)")  # fmt: skip
    print(f"two plates of A3 at 2400 ppi, 39685 × 28063 each: {whole['seconds']:.1f} s, {whole['ratio']:.0f} × writing "
          f"their bits, peak {whole['megabytes']:.0f} MB, a file of {whole['file']:.0f} MB")  # fmt: skip
    return row


def t(folder: Path) -> Any:
    """Waits."""
    row = waits.quarter(folder)
    print("(t) a quarter of an hour over all views, with a portrait, an old scan and 24 MP: what the hand or the eye "
          "waits for lies")  # fmt: skip
    print(f"{row['worst_ms']:.0f} ms at most (aim: 200 ms), {row['over_200_ms']} of {row['requests']} over 200 ms, "
          f"99 of 100 under {row['at_99_ms']:.0f} ms")  # fmt: skip
    for one in row["longest"]:
        print(f"{one['ms']:>6.0f} ms  {one['what']:<10} {one['while']}")
    return row


def u(folder: Path) -> Any:
    """Editions."""
    rows, drags = edition.processes(folder), edition.frames(folder)
    print("(u) six photographs of 24 MP through twelve passes, by one process and by two")
    for row in rows:
        print(f"{row['kind']}: {row['one']:.1f} s and {row['two']:.1f} s, {row['ratio']:.2f} × (aim: 1.7)")
    print("a drag in the twelve-pass script, an edition's processes held still, and at work (aim: 60 a second)")
    for name, row in drags.items():
        print(window.line(row, name))
    return {"processes": rows, "drags": drags}


PARTS = {
    "a": a,
    "b": b,
    "c": c,
    "d": d,
    "e": e,
    "f": f,
    "g": g,
    "h": h,
    "i": i,
    "j": j,
    "k": k,
    "l": suite,
    "m": m,
    "n": n,
    "o": o,
    "p": p,
    "q": q,
    "r": r,
    "s": s,
    "t": t,
    "u": u,
}


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--json", type=Path)
    parser.add_argument("--only", default=",".join(PARTS), help="parts, as a,c")
    options = parser.parse_args()
    found = {}
    with tempfile.TemporaryDirectory() as name:
        for part in options.only.split(","):
            meanwhile, worked = measure.Meanwhile(), sum(os.times()[:4])
            found[part] = PARTS[part](Path(name))
            worked, others = sum(os.times()[:4]) - worked, meanwhile.others()
            said = f"processor time {worked:.1f} s; others took {100 * others:.0f} % of the processors meanwhile"
            print(said, end="\n\n", flush=True)
            found[f"{part} meanwhile"] = {"processor": worked, "others": others}
    if options.json:
        options.json.write_text(json.dumps(found, indent=2) + "\n")


if __name__ == "__main__":
    main()
