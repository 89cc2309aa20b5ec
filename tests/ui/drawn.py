"""What a widget draws, in words: every stroke with its pen and its place, in whole pixels; to be read and compared."""

from __future__ import annotations

import re
from collections.abc import Iterator
from xml.etree import ElementTree

from PySide6.QtCore import QBuffer, QByteArray, QPoint
from PySide6.QtGui import QRegion
from PySide6.QtSvg import QSvgGenerator
from PySide6.QtWidgets import QWidget

_NUMBER = re.compile(r"-?\d+(?:\.\d+)?(?:e-?\d+)?")
MOST = 12  # corners of a line that are told


def drawing(widget: QWidget) -> str:
    """All that a widget draws itself, without what lies in it; a line each."""
    written = QByteArray()
    out = QSvgGenerator()
    out.setOutputDevice(QBuffer(written))
    out.setSize(widget.size())
    out.setViewBox(widget.rect())
    widget.render(out, QPoint(), QRegion(), QWidget.RenderFlag(0))
    root = ElementTree.fromstring(bytes(written.data()))
    return "\n".join([f"{widget.width()} × {widget.height()}", *_lines(root, "", (0.0, 0.0))]) + "\n"


def _lines(node: ElementTree.Element, pen: str, moved: tuple[float, float]) -> Iterator[str]:
    for one in node:
        kind = one.tag.rpartition("}")[2]
        if kind == "g":
            across, down, x, y = _matrix(one.get("transform", ""))
            turned = "" if (across, down) == (1, 1) else f" turned {across:g} {down:g}"
            yield from _lines(one, _pen(one) + turned, (x, y))
        elif kind == "text":
            style = "" if one.get("font-style") == "normal" else f" {one.get('font-style')}"
            letters = f"{one.get('font-family')} {one.get('font-size')} {one.get('font-weight')}{style}"
            yield f"{one.text!r} at {_at(one, 'x', 'y', moved)} in {letters} {_colour(one, 'fill')}"
        elif kind in ("image", "rect"):
            size = f"{float(one.get('width', 0)):.0f} × {float(one.get('height', 0)):.0f}"
            what, with_pen = ("picture", "") if kind == "image" else ("box", f" {pen}")
            yield f"{what} {size} at {_at(one, 'x', 'y', moved)}{with_pen}"
        elif kind in ("circle", "ellipse"):
            radii = " ".join(f"{float(one.get(name, 0)):.1f}" for name in ("r", "rx", "ry") if one.get(name))
            yield f"ring of {radii} at {_at(one, 'cx', 'cy', moved)} {pen}"
        elif kind in ("polyline", "polygon", "path"):
            yield f"{kind} {_points(one.get('points') or one.get('d') or '', moved)} {pen}"


def _at(node: ElementTree.Element, x: str, y: str, moved: tuple[float, float]) -> str:
    return _points(f"{node.get(x)} {node.get(y)}", moved)


def _matrix(text: str) -> tuple[float, float, float, float]:
    """How wide and how high, and how far moved."""
    a, _, _, d, x, y = map(float, _NUMBER.findall(text)) if text else (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    return a, d, x, y


def _colour(node: ElementTree.Element, what: str) -> str:
    name, opaque = node.get(what, "none"), float(node.get(f"{what}-opacity", 1))
    return name if opaque == 1 else f"{name}/{opaque:.2f}"


def _pen(node: ElementTree.Element) -> str:
    """Colour, width and dashes of lines, and what is filled with."""
    words = []
    if node.get("stroke", "none") != "none":
        words.append(f"pen {_colour(node, 'stroke')} {float(node.get('stroke-width', 1)):.3g}")
    if dashes := node.get("stroke-dasharray"):
        words.append(f"dashed {dashes}")
    if node.get("fill", "none") != "none":
        words.append(f"filled {_colour(node, 'fill')}")
    return ", ".join(words) or "of nothing"


def _points(text: str, moved: tuple[float, float]) -> str:
    """The corners of a line, or some of them, and where its middle lies if it has many."""
    numbers = [float(word) for word in _NUMBER.findall(text)]
    places = [(x + moved[0], y + moved[1]) for x, y in zip(numbers[::2], numbers[1::2], strict=False)]
    shown = places if len(places) <= MOST else [places[round(k * (len(places) - 1) / (MOST - 1))] for k in range(MOST)]
    words = " ".join(f"{x:.0f},{y:.0f}" for x, y in shown)
    if len(places) > MOST:
        words = (
            f"{len(places)}: {words}, middle {' '.join(f'{sum(v) / len(v):.0f}' for v in zip(*places, strict=True))}"
        )
    return words.replace("-0,", "0,")


def same(first: str, second: str, apart: float = 1.0) -> str:
    """Whether two drawings are the same, places within a pixel: the first line that is not; empty if all are."""
    one, other = first.splitlines(), second.splitlines()
    for a, b in zip(one, other, strict=False):
        if _NUMBER.sub("", a) != _NUMBER.sub("", b):
            return f"{a}\nkept: {b}"
        pairs = zip(_NUMBER.findall(a), _NUMBER.findall(b), strict=True)
        if any(abs(float(x) - float(y)) > apart for x, y in pairs):
            return f"{a}\nkept: {b}"
    return "" if len(one) == len(other) else f"{len(one)} lines, kept: {len(other)}"
