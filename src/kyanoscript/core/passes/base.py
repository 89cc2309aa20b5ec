"""What every pass is: a frozen model of its parameters and one function on planes."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from kyanoscript.core.blend import MODES, BlendMode
from kyanoscript.core.params import Param, choice, number, toggle
from kyanoscript.core.picture import Planes, Rect

STAGES = ("gray", "tone", "toning")
COMMON = ("on", "strength", "blend")  # parameters that every pass has

_registered: dict[str, type[Pass]] = {}


@dataclass(frozen=True)
class Place:
    """Where in the picture the planes handed to a pass lie, and at what size."""

    rect: Rect  # in pixels of the whole picture at this scale; may reach outside it by the pass's margin
    scale: float  # 1: the photograph's own pixels
    longer: float  # longer side of the whole picture at this scale, in pixels: what lengths are a share of
    measured: Any = None  # what the pass's `measure` found on the proxy


class Pass(BaseModel):
    """One step of a script. Subclasses declare `kind`, `label`, `stage`, `about`, their parameters and `apply`."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)

    kind: ClassVar[str] = ""
    label: ClassVar[str] = ""
    stage: ClassVar[str] = ""
    about: ClassVar[str] = ""  # one line: what it does
    starts: ClassVar[dict[str, dict[str, Any]]] = {}  # named start points: label -> values of some parameters

    on: bool = toggle(True, "On", "Off: the print goes past this pass unchanged")
    strength: float = number(100, 0, 100, "%", "Strength", "How far the pass acts: 0 leaves the print as it came in")
    blend: BlendMode = choice(
        "normal", tuple((m, m.replace("-", " ")) for m in MODES), "Blend", "How the pass is laid over what came in"
    )

    @classmethod
    def __pydantic_init_subclass__(cls, **kwargs: Any) -> None:
        super().__pydantic_init_subclass__(**kwargs)
        if cls.__module__.startswith("kyanoscript.core.passes."):
            _registered[cls.kind] = cls

    def apply(self, planes: Planes, place: Place) -> Planes:
        """The pass at full strength: planes ``(1 or 3, h, w)`` in and out, encoded 0…1, h and w unchanged.

        The input is never written to. With a margin, ``place.rect`` and the planes include it, and so does the result.
        """
        raise TypeError(f"{self.kind} has no apply")

    def colours(self) -> bool:
        """Whether a gray picture may come out in colour."""
        return False

    def margin(self, longer: float) -> int:
        """Pixels needed around a region, for a picture whose longer side is ``longer`` pixels."""
        return 0

    def measure(self, proxy: Planes) -> Any:
        """What has to be known of the whole picture, from a small version of this pass's input; None: nothing."""
        return None

    def remarks(self) -> str:
        """A short line for the slip about the present values, if there is something worth saying."""
        return ""

    @classmethod
    def params(cls) -> dict[str, Param]:
        """The declarations by parameter name, common ones first."""
        found = {}
        for name, field in cls.model_fields.items():
            extra = field.json_schema_extra
            assert isinstance(extra, dict), f"{cls.__name__}.{name} is not declared with kyanoscript.core.params"
            found[name] = extra["kyano"]
        return found  # type: ignore[return-value]

    @property
    def acts(self) -> bool:
        """Whether it can change anything."""
        return self.on and self.strength > 0


def registered() -> dict[str, type[Pass]]:
    """Passes imported so far, by name, in the order of the stages."""
    return dict(sorted(_registered.items(), key=lambda item: STAGES.index(item[1].stage)))


def find(kind: str) -> type[Pass] | None:
    """The pass of that name, or None."""
    return _registered.get(kind)


def table(values: NDArray[np.floating]) -> NDArray[np.float32]:
    """A lookup table as kernels want it; not a number becomes an error rather than a black hole in the print."""
    if not math.isfinite(float(np.sum(values))):
        raise ValueError("a table of tones holds a value that is not a number")
    return np.ascontiguousarray(values, np.float32)
