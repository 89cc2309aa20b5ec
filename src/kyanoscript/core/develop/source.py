"""A camera's raw as a source of pixels: its channels, demosaiced and linear, developed part by part as they are wanted.

Interpolation is done once, with the camera's own white; what people change afterwards is a matrix for each pixel, so
that a hand on a slider sees every value at once.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import BT2020, Space, encoded_of
from kyanoscript.core.develop.values import AS_SHOT, Develop
from kyanoscript.core.develop.white import Camera, White, seen_white, white_of
from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture import Rect, Source

f = np.float32
_FULL = 0.985  # of the level at which a channel is full: there it does not tell any more


class CameraSource:
    """A raw: ``pixels`` ``(h, w, 3)`` uint16, linear, with the camera's gains as shot; 65535 is what the channel with
    the greatest gain holds when it is full. Developed as shot until `develop` says otherwise.
    """

    channels = 3
    space: Space = BT2020

    def __init__(self, pixels: NDArray[np.uint16], camera: Camera, develop: Develop = Develop()) -> None:  # noqa: B008
        self.pixels, self.camera, self.how = pixels, camera, develop
        self.height, self.width = pixels.shape[:2]
        shot = np.array(camera.shot, np.float64)
        gains = np.array(white_of(camera, develop.white != AS_SHOT, White(develop.kelvin, develop.tint)))
        full = gains / gains.min()  # where each channel is full, the first of them at 1
        # Stored: value · shot / the greatest gain. Wanted: value · gains / the least gain.
        self._gains = np.ascontiguousarray(full / (shot / shot.max()) / 65535, np.float32)
        self._full = np.ascontiguousarray(full * _FULL, np.float32)
        self._matrix = np.ascontiguousarray(camera.to_working * 2.0**develop.exposure, np.float32)

    @property
    def as_shot(self) -> White:
        """The light that the camera took for white."""
        return seen_white(self.camera, self.camera.shot)

    def develop(self, how: Develop) -> CameraSource:
        """The same raw, developed otherwise."""
        return self if how == self.how else CameraSource(self.pixels, self.camera, how)

    def window(self, rect: Rect) -> NDArray[np.generic]:
        """The part ``rect`` as ``(h, w, 3)`` float32, encoded; what is lighter than white lies above 1."""
        part = np.ascontiguousarray(self.pixels[rect.y : rect.bottom, rect.x : rect.right])
        out = np.empty(part.shape, np.float32)
        n = out.size // 3
        if self.how.highlights == "clip":
            cut_off(part, out, n, self._gains)
        elif self.how.highlights == "blend":
            blended(part, out, n, self._gains)
        else:
            rebuilt(part, out, n, self._gains, self._full)
        to_working(out, n, self._matrix)
        encode(out, out.size)
        return out

    def seen(self, rect: Rect) -> tuple[float, float, float]:
        """The mean of a part in the camera's channels without any gains: what a gray there has to be multiplied by."""
        part = self.pixels[rect.y : rect.bottom, rect.x : rect.right].reshape(-1, 3).mean(axis=0)
        r, g, b = (float(v) for v in part / np.array(self.camera.shot))
        return r, g, b


def developed(source: Source, how: Develop) -> Source:
    """A source as a script wants it developed; photographs that are no raw are what they are."""
    return source.develop(how) if isinstance(source, CameraSource) else source


# Each of these loops is short, so that the processor takes several pixels at once: one after another they take a third
# of the time of a loop that does it all.


@kernel("u2* part, f4* out, i8 n, f4* gains")
def cut_off(part, out, n, gains):
    for k in range(n):
        for c in range(3):
            out[3 * k + c] = min(f(part[3 * k + c]) * gains[c], f(1.0))


@kernel("u2* part, f4* out, i8 n, f4* gains")
def blended(part, out, n, gains):
    """What lies above the first full channel brightens all of them alike: detail without a tint."""
    for k in range(n):
        r, g, b = f(part[3 * k]) * gains[0], f(part[3 * k + 1]) * gains[1], f(part[3 * k + 2]) * gains[2]
        cr, cg, cb = min(r, f(1.0)), min(g, f(1.0)), min(b, f(1.0))
        over = ((r - cr) + (g - cg) + (b - cb)) * f(0.3333333333)
        out[3 * k], out[3 * k + 1], out[3 * k + 2] = cr + over, cg + over, cb + over


@kernel("u2* part, f4* out, i8 n, f4* gains, f4* full")
def rebuilt(part, out, n, gains, full):
    """A full channel is as bright as those that still tell, as white would be."""
    for k in range(n):
        r, g, b = f(part[3 * k]) * gains[0], f(part[3 * k + 1]) * gains[1], f(part[3 * k + 2]) * gains[2]
        fr, fg, fb = r >= full[0], g >= full[1], b >= full[2]
        told = (f(0.0) if fr else f(1.0)) + (f(0.0) if fg else f(1.0)) + (f(0.0) if fb else f(1.0))
        total = (f(0.0) if fr else r) + (f(0.0) if fg else g) + (f(0.0) if fb else b)
        most = max(r, max(g, b))
        white = total / max(told, f(1.0)) if told > f(0.0) else most
        out[3 * k] = max(r, white) if fr else r
        out[3 * k + 1] = max(g, white) if fg else g
        out[3 * k + 2] = max(b, white) if fb else b


@kernel("f4* out, i8 n, f4* matrix")
def to_working(out, n, matrix):
    for k in range(n):
        r, g, b = out[3 * k], out[3 * k + 1], out[3 * k + 2]
        out[3 * k] = matrix[0] * r + matrix[1] * g + matrix[2] * b
        out[3 * k + 1] = matrix[3] * r + matrix[4] * g + matrix[5] * b
        out[3 * k + 2] = matrix[6] * r + matrix[7] * g + matrix[8] * b


@kernel("f4* out, i8 n")
def encode(out, n):
    for k in range(n):
        out[k] = encoded_of(out[k])
