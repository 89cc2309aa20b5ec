"""Paper and image tone: the tint of the paper, how deep its black is, and whether the silver is cold or warm.

In linear light a print reflects ``paper · (b + (1 − b)·v)``, where b is the light that its deepest black still gives
back. Papers are told by their reflection density, measured from the perfect white: 10 to the power of −Dmax is all
light that comes back from the black, and b is that over the paper's own luminance. (In the first form it is b itself,
so that the black of a tinted paper is deeper than it says.) Image tone moves mid-tones along blue and yellow in Oklab
(Ottosson 2020) and leaves black and white where they are.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour import encoded_of, in_spaces, light_of, oklab_of, rgb_of
from kyanoscript.core.params import Colour, ink, number
from kyanoscript.core.passes.base import Pass, form
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.translation import tr

f = np.float32


class PaperTone(Pass):
    """What the print is on, and what its silver is like."""

    kind: ClassVar[str] = "paper-tone"
    label: ClassVar[str] = "Paper and tone"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Tint and black of the paper, cold or warm silver"
    use: ClassVar[str] = "Last of the tones: what the print is on"
    beware: ClassVar[str] = "A strong paper tint takes the sparkle from lights"
    # Densities as usual for such papers (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "glossy white, neutral": {"paper": "#fdfdfb", "dmax": 2.2, "tone": 0.0},
        "warm fibre": {"paper": "#f7f0e1", "dmax": 2.1, "tone": 35.0},
        "cold fibre": {"paper": "#f7f8f7", "dmax": 2.1, "tone": -30.0},
        "matte cotton": {"paper": "#f6f1e6", "dmax": 1.6, "tone": 15.0},
        "platinum on rag": {"paper": "#f4eee0", "dmax": 1.45, "tone": 30.0},
        "gelatin, ivory": {"paper": "#f3e9d2", "dmax": 2.0, "tone": 40.0},
        "salted, dull": {"paper": "#f1e6d0", "dmax": 1.3, "tone": 55.0},
        "newsprint": {"paper": "#e6dfcf", "dmax": 1.1, "tone": 5.0},
    }

    of: Literal[1, 2] = form("black measured above the paper", "black measured from the perfect white")
    paper: Colour = ink("#f7f0e1", "Paper", "Colour of the bare paper")
    dmax: float = number(
        2.1, 1, 3, "", "Deepest black", "Reflection density: 2.2 glossy, 1.6 matte", step=0.05, decimals=2
    )
    tone: float = number(25, -100, 100, "", "Image tone", "Below 0 cold, above 0 warm")

    def apply(self, planes: Planes, place: Place) -> Planes:
        out = np.empty((3, *planes.shape[1:]), np.float32)
        r, g, b = (float(v) for v in colour.to_light(np.array(colour.ink_of(self.paper, place.space))))
        black = 10**-self.dmax
        if self.of > 1:
            black = min(black / self._white(place.space), 1.0)
        onto(planes, out, len(planes), out[0].size, r, g, b, black, self.tone / 100, place.space)
        return out

    def _white(self, space: colour.Space) -> float:
        """The paper's luminance."""
        return max(float(np.dot(space.luminance, colour.to_light(np.array(colour.ink_of(self.paper, space))))), 1e-3)

    def lies_on(self) -> str:
        return self.paper

    def remarks(self) -> str:
        own = -math.log10(self._white(colour.SRGB))
        if self.of == 1:
            return tr(
                "Black {dmax:.2f} from the perfect white, {dmax2:.2f} above the paper",
                dmax=self.dmax + own,
                dmax2=self.dmax,
            )
        return tr(
            "The paper's own white is {own:.2f}; black is {max:.2f} above it", own=own, max=max(self.dmax - own, 0)
        )

    def colours(self) -> bool:
        return True


@in_spaces("f4* rgb, f4* out, i8 c, i8 n, f4 pr, f4 pg, f4 pb, f4 black, f4 tone, f4* space")
def onto(numbers):
    def onto(rgb, out, c, n, pr, pg, pb, black, tone, space):
        m = numbers(space)
        for k in range(n):
            r = rgb[k]
            g = rgb[k + n] if c == 3 else r
            b = rgb[k + n + n] if c == 3 else r
            if tone != f(0.0):
                light, u, v = oklab_of(r, g, b, m)
                bump = f(4.0) * light * (f(1.0) - light)
                r, g, b = rgb_of(light, u + f(0.005) * tone * bump, v + f(0.022) * tone * bump, m)
            out[k] = encoded_of(pr * (black + (f(1.0) - black) * light_of(r)))
            out[k + n] = encoded_of(pg * (black + (f(1.0) - black) * light_of(g)))
            out[k + n + n] = encoded_of(pb * (black + (f(1.0) - black) * light_of(b)))

    return onto
