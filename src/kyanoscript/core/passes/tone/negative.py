"""Negative: light for dark, ``1 − v`` on encoded values."""

from __future__ import annotations

from typing import Any, ClassVar

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place


class Negative(Pass):
    """Light for dark."""

    kind: ClassVar[str] = "negative"
    label: ClassVar[str] = "Negative"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Light for dark"
    use: ClassVar[str] = "For plates and line work, or a print turned round"
    beware: ClassVar[str] = "Passes after it act on turned tones: their darks are its lights"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "the whole print": {"strength": 100.0, "blend": "normal"},
        "lights turned dark, as if solarised": {"strength": 100.0, "blend": "darken"},
        "darks turned light": {"strength": 100.0, "blend": "lighten"},
        "light turned, colours kept": {"strength": 100.0, "blend": "luminosity"},
    }

    def apply(self, planes: Planes, place: Place) -> Planes:
        return 1 - planes
