"""Local exposure: deep shadows opened and bright areas brought back at once, from a single frame.

Tones are bent by ``B·(1 + c·(1 − B)³)`` in the shadows and by its mirror image in the highlights: both rise everywhere
for c up to 4. What a pixel has over those of its neighbours that are nearly as bright is detail (see
`kyanoscript.core.ranges`), and goes with them (tied), as light would, or is set on its own; beside a brighter or darker
thing a pixel follows the bent tones, so that no edge has a halo. The two curves are our own.

The first form parts the picture by a guided filter into regions (a base that keeps edges) and detail, in the manner of
base-and-detail tone mapping (Durand and Dorsey, SIGGRAPH 2002).
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import ranges
from kyanoscript.core.colour import luma
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import choice, number
from kyanoscript.core.passes.base import Pass, form, scaled
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place, guided_margin
from kyanoscript.core.tones import GRAYS, SIZE, Table, table

f = np.float32
_OPEN, _HOLD = 3.5, 3.0  # c at 100
_EDGE = 0.045  # contrast of what parts two regions
_FLOOR = 1 / 255
_TONES = 49  # of a response


class LocalExposure(Pass):
    """Shadows opened and highlights held, region by region."""

    kind: ClassVar[str] = "local-exposure"
    label: ClassVar[str] = "Local exposure"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Dark regions opened, bright ones brought back"
    use: ClassVar[str] = "When dark parts and bright ones do not fit on one paper"
    beware: ClassVar[str] = "Too far, and everything is equally light: the picture loses its depth"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "shadows opened a little": {"open": 30.0, "hold": 10.0, "regions": 16.0, "tie": "tied"},
        "into the light": {"open": 65.0, "hold": 45.0, "regions": 12.0, "tie": "tied"},
        "a bright sky held": {"open": 0.0, "hold": 60.0, "regions": 10.0, "tie": "tied"},
        "everything shown": {"open": 95.0, "hold": 80.0, "regions": 24.0, "tie": "tied"},
        "opened, grain left alone": {"open": 60.0, "hold": 20.0, "tie": "separate", "detail": 0.0},
    }
    pointwise: ClassVar[bool] = False

    of: Literal[1, 2] = form("dark sides of edges sink", "no halo beside an edge, no slope turned round")
    open: float = number(40, 0, 100, "", "Open shadows", "How far dark regions come up")
    hold: float = number(20, 0, 100, "", "Hold highlights", "How far bright regions come down")
    regions: float = number(16, 1, 64, "across", "Regions", "How finely the picture is divided")
    tie: Literal["tied", "separate"] = choice(
        "tied",
        (("tied", "goes with its region"), ("separate", "on its own")),
        "Detail",
        "Lifted together with its region, or set below",
    )
    detail: float = number(0, -100, 100, "", "Detail on its own", "Used when detail is separate; 0 leaves it as it was")

    def _sigma(self, longer: float) -> float:
        return longer / self.regions / 4

    def margin(self, longer: float) -> int:
        return (guided_margin if self.of == 1 else ranges.margin)(self._sigma(longer))

    def apply(self, planes: Planes, place: Place) -> Planes:
        base = place.inner(planes)
        gray = luma(base)
        if self.of > 1:
            bent, answers = _responses(self.open, self.hold, self.detail if self.tie == "separate" else None)
            gain = ranges.gathered(place, planes, gray, self._sigma(place.longer), answers, luma)
            lifted(gray, gain, gray.size, bent, SIZE)
            return scaled(base, gray, gain)
        parts = place.guided(planes, self._sigma(place.longer), _EDGE, luma)
        after = np.empty_like(gray)
        separate = 1 + self.detail / 100 * (2 if self.detail > 0 else 1) if self.tie == "separate" else -1.0
        relight(gray, parts, after, gray.size, _OPEN * self.open / 100, _HOLD * self.hold / 100, separate)
        return scaled(base, gray, after)


@functools.lru_cache(maxsize=64)
def _responses(open_: float, hold: float, detail: float | None) -> tuple[Table, ranges.Response]:
    """The tone curve, and what a pixel owes to neighbours: where it were as their detail, less its own tone."""
    lift, held = _OPEN * open_ / 100, _HOLD * hold / 100
    at = ranges.tones(_TONES)
    bent = _bent(at, lift, held)
    own, near = at[:, None], at[None, :]
    if detail is None:  # as much lighter or darker as its region became, as light would
        opened = _opened(near, lift)
        up = own * (opened + _FLOOR) / (near + _FLOOR)
        would = 1 - (1 - up) * (1 - _bent(near, lift, held) + _FLOOR) / (1 - opened + _FLOOR)
    else:
        would = _bent(near, lift, held) + (1 + detail / 100 * (2 if detail > 0 else 1)) * (own - near)
    slope = np.gradient(bent, at)
    return table(_bent(GRAYS, lift, held)), ranges.response(would - bent[:, None], slope)


def _opened(tone: NDArray[np.float64], lift: float) -> NDArray[np.float64]:
    return tone * (1 + lift * (1 - tone) ** 3)


def _bent(tone: NDArray[np.float64], lift: float, hold: float) -> NDArray[np.float64]:
    opened = _opened(tone, lift)
    return 1 - (1 - opened) * (1 + hold * opened**3)


@kernel("f4* gray, f4* gain, i8 n, f4* bent, i8 size")
def lifted(gray, gain, n, bent, size):
    """The tone curve and the gain, where the gain was."""
    last, top = f(size - 1), np.int32(size - 2)
    for k in range(n):
        at = min(max(gray[k], f(0.0)), f(1.0)) * last
        low = min(max(np.int32(at), np.int32(0)), top)
        a = bent[low]
        gain[k] = min(max(a + (at - f(low)) * (bent[low + 1] - a) + gain[k], f(0.0)), f(1.0))


@kernel("f4* gray, f4* parts, f4* out, i8 n, f4 lift, f4 hold, f4 separate")
def relight(gray, parts, out, n, lift, hold, separate):
    for k in range(n):
        v = gray[k]
        base = min(max(parts[k] * v + parts[n + k], f(0.0)), f(1.0))
        dark = f(1.0) - base
        opened = base * (f(1.0) + lift * dark * dark * dark)
        up = f(1.0) - opened
        low = f(1.0) - up
        held = up * (f(1.0) + hold * low * low * low)
        if separate >= f(0.0):
            v = f(1.0) - held + separate * (v - base)
        else:
            v = v * (opened + f(_FLOOR)) / (base + f(_FLOOR))
            v = f(1.0) - (f(1.0) - v) * (held + f(_FLOOR)) / (up + f(_FLOOR))
        out[k] = min(max(v, f(0.0)), f(1.0))
