"""Gray weights: how bright each colour becomes.

Gray is a weighted sum of the encoded channels (or of linear light); ITU-R BT.601 and BT.709 give the weights of the
eye. The ring then lifts or sinks single hues. It is our own design: a handle at a hue acts fully on that hue and
fades, as a raised cosine, to nothing 60° away or at the next handle if that is nearer. A lift moves the gray towards
white (or black) by the lift times how colourful the spot is, ``1 − (1 − (max − min))²`` of its encoded channels, so
that neutral grays stay where they are and nothing clips. Hue is that of Oklab, in degrees: red 29, orange 55, yellow
110, green 142, cyan 195, blue 264, magenta 328 for the display's own colours.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import Space, encoded_of, hue_of, light_of
from kyanoscript.core.geometry import Framing
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import Ring, choice, number, ring, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.tones import table
from kyanoscript.core.watching import Watch, unwatched
from kyanoscript.translation import tr

f = np.float32
REACH = 60.0  # degrees over which a handle of the ring fades
_STEPS = 720  # entries of the ring's table
_LEAST_SUM = 10.0  # per cent: weights that nearly cancel cannot be brought to a sum of 100


def _glass(red: float, green: float, blue: float, **more: Any) -> dict[str, Any]:
    return {
        "red": red,
        "green": green,
        "blue": blue,
        "ring": (),
        "basis": "encoded",
        "hold": True,
        "auto": False,
        **more,
    }


class GrayWeights(Pass):
    """Weighted sum of the channels, and a ring of hues."""

    kind: ClassVar[str] = "gray-weights"
    label: ClassVar[str] = "Gray weights"
    stage: ClassVar[str] = "gray"
    about: ClassVar[str] = "How bright each colour becomes"
    use: ClassVar[str] = "Where colour becomes gray: it decides what stands out"
    beware: ClassVar[str] = "Extreme shares bring out noise, mostly that of blue, and rims round skies"
    touches: ClassVar[str] = "ring"
    suggests: ClassVar[tuple[str, ...]] = ("red", "green", "blue")

    # BT.601, BT.709 and thirds are exact. Glasses and emulsions are reckoned from spectra, for the display's own
    # primaries (tests/core/glasses.py has the curves and where they are from; docs/decisions/0031 what is left). The
    # gentle ones are our own values, judged by eye on the demo photographs in the direction that is common practice (no
    # source): a glass lightens its own colour and darkens the opposite one; early emulsions saw blue only,
    # orthochromatic ones blue and green, panchromatic ones everything with too much blue.
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "automatic: neighbouring colours apart": {"auto": True, "basis": "encoded", "hold": True},
        "as the eye sees": {"auto": True, "aim": "eye", "basis": "light", "hold": True},
        "as the eye sees (BT.601)": _glass(29.9, 58.7, 11.4),
        "as the eye sees (BT.709)": _glass(21.26, 71.52, 7.22),
        "even thirds": _glass(100 / 3, 100 / 3, 100 / 3),
        "yellow glass": _glass(40.3, 54.1, 5.6, basis="light"),
        "orange glass": _glass(59.2, 39.0, 1.8, basis="light"),
        "red glass": _glass(89.1, 8.8, 2.1, basis="light"),
        "green glass": _glass(5.6, 80.9, 13.5, basis="light"),
        "blue glass": _glass(3.9, 11.4, 84.7, basis="light"),
        "blue-sensitive emulsion": _glass(7.6, 13.8, 78.6, basis="light"),
        "orthochromatic emulsion": _glass(4.9, 41.1, 54.0, basis="light"),
        "panchromatic emulsion": _glass(23.9, 34.8, 41.3, basis="light"),
        "yellow glass, gentle": _glass(42, 56, 2),
        "orange glass, gentle": _glass(62, 44, -6),
        "red glass, gentle": _glass(105, 10, -15),
        "green glass, gentle": _glass(12, 85, 3),
        "blue glass, gentle": _glass(-5, 20, 85),
        "blue-sensitive emulsion, gentle": _glass(0, 8, 92),
        "orthochromatic emulsion, gentle": _glass(2, 58, 40),
        "panchromatic emulsion, gentle": _glass(32, 42, 26),
        "infrared look": _glass(70, 70, -40, ring=((125.0, 70.0), (250.0, -60.0))),
    }

    auto: bool = toggle(
        False, "Shares from the picture", "Those that keep its neighbouring colours apart best", shown=False
    )
    aim: Literal["apart", "eye"] = choice(
        "apart",
        (("apart", "neighbouring colours apart"), ("eye", "as bright as the eye sees them")),
        "Taken so that",
        "What shares from the picture are for: colours apart, or the luminance of the photograph's own primaries",
        shown=False,
    )
    red: float = number(29.9, -200, 300, "%", "Red", "Share of the red channel", decimals=1)
    green: float = number(58.7, -200, 300, "%", "Green", "Share of the green channel", decimals=1)
    blue: float = number(11.4, -200, 300, "%", "Blue", "Share of the blue channel", decimals=1)
    hold: bool = toggle(True, "Hold brightness", "Brings the three shares to a sum of 100 %, so neutral grays stay")
    basis: Literal["encoded", "light"] = choice(
        "encoded",
        (("encoded", "encoded values"), ("light", "light")),
        "Weighed in",
        "Encoded values, as the trade's numbers are meant, or linear light, as a glass on the lens works",
    )
    ring: Ring = ring("Gray ring", "Pull a hue out to lighten it, in to darken it")
    ring_amount: float = number(100, 0, 200, "%", "Ring amount", "How far all lifts of the ring act")

    def apply(self, planes: Planes, place: Place) -> Planes:
        shares = self.shares()
        if len(planes) == 1:
            # A gray has no colours to weigh: only the sum of the shares can change it.
            if abs(sum(shares) - 1) < 1e-9:
                return planes
            planes = colour.in_colour(planes)
        gray = np.empty((1, *planes.shape[1:]), np.float32)
        (weights_in_light if self.basis == "light" else weights)(planes, gray, gray.size, *shares)
        if not self.ring_amount or not any(lift for _, lift in self.ring):
            return gray
        out = np.empty_like(gray)
        lift_hues(
            planes, gray, out, gray.size, lift_table(self.ring, self.ring_amount / 100), _STEPS, place.space.numbers
        )
        return out

    def grays(self) -> bool:
        return True

    def suggest(self, proxy: Planes, framing: Framing, space: Space, watch: Watch = unwatched) -> dict[str, Any]:
        if len(proxy) == 1:
            return {"auto": False}
        if self.aim == "eye":
            red, green, blue = (100 * share for share in space.luminance)
        else:
            red, green, blue = contrast_preserving(proxy, space)
        return {"red": red, "green": green, "blue": blue, "auto": False}

    def shares(self) -> tuple[float, float, float]:
        """Weights in use, as fractions: brought to a sum of 1 if brightness is held."""
        total = self.red + self.green + self.blue
        divisor = max(total, _LEAST_SUM) if self.hold else 100.0
        return self.red / divisor, self.green / divisor, self.blue / divisor

    def remarks(self) -> str:
        if self.auto:
            return "Shares are those of the eye" if self.aim == "eye" else "Shares are taken from the picture"
        total = self.red + self.green + self.blue
        text = tr("Sum {total:.0f} %", total=total).replace("-", "\N{MINUS SIGN}")
        if not self.hold:
            return text if abs(total - 100) < 0.5 else text + (tr(", brighter") if total > 100 else tr(", darker"))
        return text + (tr(", too low to hold brightness") if total < _LEAST_SUM else tr(", brightness held"))


def contrast_preserving(planes: Planes, space: Space) -> tuple[float, float, float]:
    """Shares in per cent whose grays keep the colours' differences best: Lu, Xu and Jia, "Real-time contrast preserving
    decolorization" (SIGGRAPH Asia 2012 technical briefs).

    Of all shares in tenths that sum to 1, those that make it likeliest that a pair of pixels differs in gray by as much
    as in CIE Lab, either way round; pairs are taken on a small version, some far apart, some neighbours.
    """
    step = max(1, max(planes.shape[1:]) // 64)
    small = np.ascontiguousarray(planes[:, ::step, ::step], np.float64)
    lab = colour.to_lab(small, space).reshape(3, -1)
    rgb = small.reshape(3, -1)
    order = np.random.default_rng(7).permutation(rgb.shape[1])
    width = small.shape[2]
    first = np.concatenate([np.arange(rgb.shape[1]), np.arange(rgb.shape[1] - width)])
    second = np.concatenate([order, np.arange(width, rgb.shape[1])])
    apart = np.sqrt(np.sum((lab[:, first] - lab[:, second]) ** 2, axis=0)) / 100
    seen = apart > 0.05
    if not seen.any():
        return 29.9, 58.7, 11.4
    rgb_apart, apart = rgb[:, first[seen]] - rgb[:, second[seen]], apart[seen]
    best, found = -np.inf, (29.9, 58.7, 11.4)
    for red in range(11):
        for green in range(11 - red):
            shares = np.array([red, green, 10 - red - green]) / 10
            gray = shares @ rgb_apart
            spread = 2 * 0.05**2
            likely = np.log(np.exp(-((gray - apart) ** 2) / spread) + np.exp(-((gray + apart) ** 2) / spread) + 1e-12)
            # Of two that are as good, the one nearer to the eye's.
            score = float(np.mean(likely)) - 1e-3 * float(np.abs(shares - colour.BT601).sum())
            if score > best:
                best, found = score, (float(shares[0] * 100), float(shares[1] * 100), float(shares[2] * 100))
    return found


@functools.lru_cache(maxsize=64)
def lift_table(handles: Ring, amount: float = 1.0) -> NDArray[np.float32]:
    """Lift, ±1 for a handle at ±100, at `_STEPS` + 1 hues evenly from 0° to 360°; handles are (degrees, ±100)."""
    hues = np.arange(_STEPS + 1) * (360 / _STEPS)
    lifts = np.zeros(len(hues))
    ordered = sorted({h % 360: lift for h, lift in handles}.items())
    for k, (hue, lift) in enumerate(ordered):
        away = (hues - hue + 180) % 360 - 180
        after = (ordered[(k + 1) % len(ordered)][0] - hue) % 360 or 360.0
        before = (hue - ordered[k - 1][0]) % 360 or 360.0
        reach = np.where(away >= 0, min(REACH, after), min(REACH, before))
        lifts += lift / 100 * np.where(np.abs(away) < reach, 0.5 + 0.5 * np.cos(np.pi * away / reach), 0)
    return table(lifts * amount)


@kernel("f4* rgb, f4* out, i8 n, f4 wr, f4 wg, f4 wb")
def weights(rgb, out, n, wr, wg, wb):
    for k in range(n):
        out[k] = min(max(wr * rgb[k] + wg * rgb[n + k] + wb * rgb[n + n + k], f(0.0)), f(1.0))


@kernel("f4* rgb, f4* out, i8 n, f4 wr, f4 wg, f4 wb")
def weights_in_light(rgb, out, n, wr, wg, wb):
    for k in range(n):
        y = wr * light_of(rgb[k]) + wg * light_of(rgb[n + k]) + wb * light_of(rgb[n + n + k])
        out[k] = encoded_of(min(max(y, f(0.0)), f(1.0)))


@kernel("f4* rgb, f4* gray, f4* out, i8 n, f4* lifts, i8 steps, f4* m")
def lift_hues(rgb, gray, out, n, lifts, steps, m):
    # Two loops: the first has no table and becomes vector code.
    for k in range(n):
        out[k] = hue_of(rgb[k], rgb[n + k], rgb[n + n + k], m)
    last = np.int32(steps - 1)
    for k in range(n):
        r, g, b = rgb[k], rgb[n + k], rgb[n + n + k]
        at = out[k] * f(steps)
        low = min(max(np.int32(at), np.int32(0)), last)
        lift = lifts[low] + (at - f(low)) * (lifts[low + 1] - lifts[low])
        dull = f(1.0) - (max(r, max(g, b)) - min(r, min(g, b)))
        lift = min(max(lift * (f(1.0) - dull * dull), f(-1.0)), f(1.0))
        v = gray[k]
        out[k] = v + max(lift, f(0.0)) * (f(1.0) - v) + min(lift, f(0.0)) * v
