"""Colour: transfer curve, luminance, L*, Oklab and hue, by published formulas only.

Sources: IEC 61966-2-1 (sRGB curve and primaries), ITU-R BT.709 and BT.601 (weights), CIE 15 (L*),
B. Ottosson, "A perceptual color space for image processing" (2020) (Oklab).
Arrays are planar: channels first. Encoded values run 0…1.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.kernel.fastmath import arctan2, power

BT601 = (0.299, 0.587, 0.114)
BT709 = (0.2126, 0.7152, 0.0722)

# Linear sRGB -> CIE XYZ (IEC 61966-2-1)
_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])

# Oklab, Ottosson 2020: linear sRGB -> LMS, then LMS' -> Lab
_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_OKLAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)

f = np.float32


def to_light(encoded: ArrayLike) -> NDArray[np.float64]:
    """Linear light 0…1 from encoded sRGB values 0…1 (IEC 61966-2-1). Any shape; negative values pass through the
    straight part of the curve."""
    v = np.asarray(encoded, np.float64)
    return np.where(v <= 0.04045, v / 12.92, ((np.maximum(v, 0.04045) + 0.055) / 1.055) ** 2.4)


def to_encoded(light: ArrayLike) -> NDArray[np.float64]:
    """Encoded sRGB values from linear light (IEC 61966-2-1). Any shape."""
    v = np.asarray(light, np.float64)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.maximum(v, 0.0031308) ** (1 / 2.4) - 0.055)


def luminance(planes: ArrayLike) -> NDArray[np.float64]:
    """Relative luminance Y (0…1, BT.709 weights on linear light) of encoded planes ``(1 or 3, …)``."""
    light = to_light(planes)
    return light[0] if len(light) == 1 else np.tensordot(BT709, light, 1)


def lightness(planes: ArrayLike) -> NDArray[np.float64]:
    """CIE L* (0…100, CIE 15) of encoded planes ``(1 or 3, …)`` against the display's white."""
    y = luminance(planes)
    return np.where(y > (6 / 29) ** 3, 116 * np.cbrt(y) - 16, y * (29 / 3) ** 3)


def to_lab(planes: ArrayLike) -> NDArray[np.float64]:
    """CIE L*, a*, b* (CIE 15) of encoded sRGB planes ``(3, …)``, against the display's white (D65)."""
    xyz = np.tensordot(_TO_XYZ, to_light(planes), 1) / _TO_XYZ.sum(1).reshape(3, *[1] * (np.ndim(planes) - 1))
    t = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * t[1] - 16, 500 * (t[0] - t[1]), 200 * (t[1] - t[2])])


def to_oklab(planes: ArrayLike) -> NDArray[np.float64]:
    """Oklab (L 0…1, a, b) of encoded sRGB planes ``(3, …)`` (Ottosson 2020)."""
    lms = np.cbrt(np.tensordot(_TO_LMS, to_light(planes), 1))
    return np.tensordot(_TO_OKLAB, lms, 1)


def from_oklab(lab: ArrayLike) -> NDArray[np.float64]:
    """Encoded sRGB planes of Oklab ``(3, …)``; colours outside sRGB come out below 0 or above 1."""
    lms = np.tensordot(np.linalg.inv(_TO_OKLAB), np.asarray(lab, np.float64), 1)
    return to_encoded(np.tensordot(np.linalg.inv(_TO_LMS), lms**3, 1))


def to_oklch(planes: ArrayLike) -> NDArray[np.float64]:
    """Oklab lightness 0…1, chroma, and hue in degrees 0…360 of encoded planes ``(3, …)``."""
    lightness_, a, b = to_oklab(planes)
    return np.stack([lightness_, np.hypot(a, b), np.degrees(np.arctan2(b, a)) % 360])


def from_oklch(lightness_: float, chroma: float, hue: float) -> tuple[float, float, float]:
    """Encoded sRGB 0…1 of one Oklch colour. Out of gamut, chroma is lowered until it fits: hue and lightness stay."""

    def encoded(c: float) -> NDArray[np.float64]:
        h = np.radians(hue)
        return from_oklab([lightness_, c * np.cos(h), c * np.sin(h)])

    low, high = 0.0, chroma
    if not _inside(encoded(high)):
        for _ in range(24):
            middle = (low + high) / 2
            low, high = (middle, high) if _inside(encoded(middle)) else (low, middle)
        high = low
    r, g, b = np.clip(encoded(high), 0, 1)
    return float(r), float(g), float(b)


def _inside(rgb: NDArray[np.float64]) -> bool:
    return bool(np.all(rgb >= -1e-4) and np.all(rgb <= 1 + 1e-4))


def parse_hex(text: str) -> tuple[float, float, float]:
    """Encoded RGB 0…1 of ``#rgb`` or ``#rrggbb``. Raises ValueError for anything else."""
    digits = text[1:] if text.startswith("#") else ""
    if len(digits) == 3:
        digits = "".join(d * 2 for d in digits)
    if len(digits) != 6 or any(d not in "0123456789abcdefABCDEF" for d in digits):
        raise ValueError(f"{text!r} is not a colour; write it as #rrggbb, for example #f7efe0")
    r, g, b = (int(digits[k : k + 2], 16) / 255 for k in (0, 2, 4))
    return r, g, b


def hex_of(rgb: ArrayLike) -> str:
    """``#rrggbb`` of one encoded colour 0…1."""
    r, g, b = (int(v) for v in np.floor(np.clip(np.asarray(rgb, np.float64), 0, 1) * 255 + 0.5))
    return f"#{r:02x}{g:02x}{b:02x}"


ZONES = ("0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X")


def zone(value: float) -> str:
    """Name of the zone, 0 (black) to X (white), of an encoded gray 0…1: eleven equal steps of the encoded scale."""
    return ZONES[min(10, max(0, int(value * 11)))]


def luma(planes: NDArray[np.float32]) -> NDArray[np.float32]:
    """A gray ``(1, h, w)`` by BT.601 weights on encoded values: quick, for passes that look for edges and regions."""
    if len(planes) == 1:
        return planes
    out = np.empty((1, *planes.shape[1:]), np.float32)
    weighed(planes, out, out.size)
    return out


# In kernels


@kernel("f4* rgb, f4* out, i8 n")
def weighed(rgb, out, n):
    for k in range(n):
        out[k] = f(0.299) * rgb[k] + f(0.587) * rgb[n + k] + f(0.114) * rgb[n + n + k]


@helper
def light_of(v):
    """sRGB curve, single precision, v of 0 or more."""
    return v * f(0.0773993808) if v <= f(0.04045) else power((v + f(0.055)) * f(0.9478672986), f(2.4))


@helper
def encoded_of(v):
    """Inverse sRGB curve, single precision, v of 0 or more."""
    return v * f(12.92) if v <= f(0.0031308) else f(1.055) * power(v, f(0.4166666667)) - f(0.055)


@helper
def oklab_of(r, g, b):
    """Oklab (Ottosson 2020) of an encoded colour, single precision."""
    lr, lg, lb = light_of(r), light_of(g), light_of(b)
    third = f(0.3333333333)
    cl = power(f(0.4122214708) * lr + f(0.5363325363) * lg + f(0.0514459929) * lb, third)
    cm = power(f(0.2119034982) * lr + f(0.6806995451) * lg + f(0.1073969566) * lb, third)
    cs = power(f(0.0883024619) * lr + f(0.2817188376) * lg + f(0.6299787005) * lb, third)
    light = f(0.2104542553) * cl + f(0.7936177850) * cm - f(0.0040720468) * cs
    a = f(1.9779984951) * cl - f(2.4285922050) * cm + f(0.4505937099) * cs
    b_ = f(0.0259040371) * cl + f(0.7827717662) * cm - f(0.8086757660) * cs
    return light, a, b_


@helper
def shown_of(v):
    """Encoded level 0…1 of light that may lie outside what a display can show."""
    return encoded_of(min(max(v, f(0.0)), f(1.0)))


@helper
def rgb_of(light, a, b):
    """Encoded colour 0…1 of Oklab, single precision; outside sRGB each channel is held at its end."""
    r, g, b_ = light_rgb_of(light, a, b)
    return shown_of(r), shown_of(g), shown_of(b_)


@helper
def light_rgb_of(light, a, b):
    """Light of Oklab, single precision; outside sRGB below 0 or above 1."""
    cl = light + f(0.3963377774) * a + f(0.2158037573) * b
    cm = light - f(0.1055613458) * a - f(0.0638541728) * b
    cs = light - f(0.0894841775) * a - f(1.2914855480) * b
    cl, cm, cs = cl * cl * cl, cm * cm * cm, cs * cs * cs
    return (
        f(4.0767416621) * cl - f(3.3077115913) * cm + f(0.2309699292) * cs,
        f(-1.2684380046) * cl + f(2.6097574011) * cm - f(0.3413193965) * cs,
        f(-0.0041960863) * cl - f(0.7034186147) * cm + f(1.7076147010) * cs,
    )


@helper
def hue_of(r, g, b):
    """Oklab hue in turns, 0…1, of an encoded colour."""
    _, a, b_ = oklab_of(r, g, b)
    turn = arctan2(b_, a) * f(0.1591549431)
    return turn + f(1.0) if turn < f(0.0) else turn


@kernel("f4* rgb, f4* out, i8 n")
def encoded_luminance(rgb, out, n):
    """Luminance of three encoded planes, encoded again: the gray that is as bright as the colour."""
    for k in range(n):
        y = f(0.2126) * light_of(rgb[k]) + f(0.7152) * light_of(rgb[n + k]) + f(0.0722) * light_of(rgb[n + n + k])
        out[k] = encoded_of(y)


def gray_of(planes: NDArray[np.float32]) -> NDArray[np.float32]:
    """One encoded plane ``(1, h, w)`` as bright as the given planes: BT.709 luminance taken in light."""
    if len(planes) == 1:
        return planes
    out = np.empty((1, *planes.shape[1:]), np.float32)
    encoded_luminance(planes, out, out.size)
    return out
