"""Lengths as people write them, "30 cm" or "11 3/4 in" or sums of them, and as they read them."""

from __future__ import annotations

import re

from kyanoscript.core.quoting import quoted
from kyanoscript.translation import decimal, tr

_MINUS = "\N{MINUS SIGN}"
INCH = 25.4  # mm, by the international agreement of 1959
UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": INCH, '"': INCH, "inch": INCH, "inches": INCH, "pt": INCH / 72}
_NUMBER = r"(?:\d+(?:[.,]\d+)?|[.,]\d+)"
_TERM = re.compile(
    rf"\s*(?:(?P<whole>\d+)\s+(?P<over>\d+)\s*/\s*(?P<under>\d+)|(?P<top>\d+)\s*/\s*(?P<bottom>\d+)|(?P<plain>{_NUMBER}))"
    r"\s*(?P<unit>mm|cm|m|inches|inch|in|pt|\"|″)?\s*"
)


def millimetres(text: str, unit: str = "mm") -> float:
    """A length in millimetres, of what was typed; numbers without a unit are in ``unit``.

    Raises ValueError with one line for people.
    """
    said = text.strip().replace("\N{MINUS SIGN}", "-").replace("\N{EN DASH}", "-")
    total, at, sign = 0.0, 0, 1.0
    if said[:1] in ("+", "-"):
        sign, at = (-1.0 if said[0] == "-" else 1.0), 1
    while True:
        term = _TERM.match(said, at)
        if term is None:
            raise ValueError(tr("{text} is no length; write it as 30 cm, 11 3/4 in or 210 + 6 mm", text=quoted(text)))
        total += sign * _value(term, text) * UNITS[(term["unit"] or unit).replace("″", '"')]
        at = term.end()
        if at == len(said):
            return total
        if said[at] not in "+-":
            raise ValueError(
                tr(
                    "{text} is no length; after {quoted} comes + or -, or nothing",
                    text=quoted(text),
                    quoted=quoted(said[:at].strip()),
                )
            )
        sign, at = (-1.0 if said[at] == "-" else 1.0), at + 1


def _value(term: re.Match[str], text: str) -> float:
    if term["plain"] is not None:
        return float(term["plain"].replace(",", "."))
    whole, over, under = term["whole"] or "0", term["over"] or term["top"], term["under"] or term["bottom"]
    if int(under) == 0:
        raise ValueError(tr("{text} has a fraction over nothing", text=quoted(text)))
    return int(whole) + int(over) / int(under)


def told(mm: float, unit: str = "mm") -> str:
    """A length for people: to a tenth of a millimetre, or a hundredth of an inch."""
    value, decimals = (mm / INCH, 2) if unit == "in" else (mm, 1)
    said = f"{value:.{decimals}f}".rstrip("0").rstrip(".").replace("-", _MINUS)
    return f"{'0' if said in ('', _MINUS + '0') else decimal(said)} {unit}"
