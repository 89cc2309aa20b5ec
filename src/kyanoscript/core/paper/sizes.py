"""Sizes of paper, in millimetres, upright: standards, the trade's inches, rolls by their width."""

from __future__ import annotations

from kyanoscript.core.paper.measure import INCH


def _halved(long: int, short: int, count: int) -> list[tuple[float, float]]:
    """Each the former cut in two across its longer side, whole millimetres (ISO 216)."""
    sizes = []
    for _ in range(count):
        sizes.append((float(short), float(long)))
        long, short = short, long // 2
    return sizes


# ISO 216:2007, A and B. ISO 217:2013, SRA. ASME Y14.1, whose A is Letter. Inches: common practice, no source.
SIZES: dict[str, tuple[float, float]] = {
    **{f"A{k}": size for k, size in enumerate(_halved(1189, 841, 9))},
    **{f"B{k}": size for k, size in enumerate(_halved(1414, 1000, 7))},
    "SRA0": (900.0, 1280.0), "SRA1": (640.0, 900.0), "SRA2": (450.0, 640.0), "SRA3": (320.0, 450.0),
    "SRA4": (225.0, 320.0),
    **{
        name: (across * INCH, down * INCH)
        for name, across, down in (("Letter", 8.5, 11), ("Legal", 8.5, 14))
    },
    **{
        f"ANSI {name}": (across * INCH, down * INCH)
        for name, across, down in (("B", 11, 17), ("C", 17, 22), ("D", 22, 34), ("E", 34, 44))
    },
    **{
        f"{across} × {down} in": (across * INCH, down * INCH)
        for across, down in ((4, 6), (5, 7), (8, 10), (11, 14), (13, 19), (16, 20), (20, 24), (24, 30), (30, 40))
    },
}  # fmt: skip
ROLLS = {f"{inches} in roll": inches * INCH for inches in (13, 17, 24, 36, 44, 60)}
_SAME = 0.6  # mm: so near, a sheet is of that size


def name_of(width: float, height: float) -> str:
    """The size that a sheet is of and how it lies, as "A3, lying"; its measures where it is of none."""
    short, long = sorted((width, height))
    for name, (across, down) in SIZES.items():
        if abs(across - short) < _SAME and abs(down - long) < _SAME:
            return f"{name}, {'lying' if width > height else 'upright'}"
    return ""
