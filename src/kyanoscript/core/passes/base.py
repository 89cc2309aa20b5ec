"""What every pass is: a frozen model of its parameters and one function on planes."""

from __future__ import annotations

import operator
from typing import Any, ClassVar, Literal, Self

import numpy as np

from kyanoscript.core.blend import MODES, BlendMode
from kyanoscript.core.colour import Space
from kyanoscript.core.geometry import Framing
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import Declared, choice, declared, number, text, toggle
from kyanoscript.core.params.kinds import Where
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.core.watching import Watch, unwatched

STAGES = ("colour", "gray", "tone", "toning", "surface", "edge", "plate")
COMMON = ("on", "strength", "blend", "stencil", "name", "note")  # parameters that every pass has

Rim = Literal["edge", "symmetric"]

_registered: dict[str, type[Pass]] = {}


def _stencil() -> Any:
    spec = Where(label="Stencil", help="Where the pass acts; none: everywhere", shown=False, model=Stencil)
    return declared(spec, None)


def laid_over(mode: BlendMode) -> Any:
    """The declaration of `Pass.blend`, for passes that are meant to be laid over in another mode than normal."""
    modes = tuple((m, m.replace("-", " ")) for m in MODES)
    return choice(mode, modes, "Blend", "How the pass is laid over what came in")


def by_strength(default: float) -> Any:
    """The declaration of `Pass.strength`, for passes that are meant to act in part."""
    return number(
        default, 0, 100, "%", "Strength", "How far the pass acts: 0 leaves the print as it came in", decimals=1
    )


def form(*labels: str) -> Any:
    """The declaration of ``of``, for passes whose look has changed: a new pass is of the last form, and a script that
    says nothing is of the first, so that it prints as it always did. ``labels`` tell each form, the first first.
    """
    return choice(len(labels), tuple(enumerate(labels, 1)), "Form", "Scripts that do not tell have 1", shown=False)


class Pass(Declared):
    """One step of a script. Subclasses declare `kind`, `label`, `stage`, `about`, their parameters and `apply`."""

    wrong: ClassVar[dict[str, str]] = {
        "on": "A pass that is off is easily forgotten: its tray is pale",
        "strength": "Full is rarely best: go past it, then back",
        "blend": "Most modes change tones as well as colours",
        "stencil": "Used by several passes, it changes for all of them",
    }

    kind: ClassVar[str] = ""
    label: ClassVar[str] = ""
    stage: ClassVar[str] = ""
    about: ClassVar[str] = ""  # one line: what it does
    use: ClassVar[str] = ""  # one line: when to use it
    beware: ClassVar[str] = ""  # and what goes wrong with it
    starts: ClassVar[dict[str, dict[str, Any]]] = {}  # named start points: label -> values of some parameters
    pointwise: ClassVar[bool] = True  # each pixel by itself, whatever lies around it
    on_gray: ClassVar[dict[str, Any]] = {}  # values that it begins with on a gray photograph
    suggests: ClassVar[tuple[str, ...]] = ()  # the parameters that ``auto`` takes from the picture
    touches: ClassVar[str] = ""  # the parameter that pressing on the picture and dragging moves
    draws: ClassVar[str] = ""  # the list of strokes that pressing on the picture and dragging draws
    samples: ClassVar[dict[str, Any]] = {}  # values that show what it does, where its own leave the print as it is
    waits: ClassVar[str] = ""  # said when the pass is added, if its first picture takes seconds
    rim: ClassVar[Rim] = "edge"  # what it sees beyond the print: its rim repeated, or the print mirrored at it
    spreads: ClassVar[bool] = False  # moves what is there, so that a placed picture's outline goes with it

    bare: ClassVar[tuple[str, ...]] = ("id", "auto", "run")
    _values: ClassVar[operator.itemgetter[Any]]  # all of a pass but its identity
    id: str = ""  # tells it from every other pass of the script, for life: see `kyanoscript.core.script.identity`
    auto: bool = False  # some passes take values from the picture; they declare it, as plates do their run
    run: tuple[Pass, ...] = ()
    on: bool = toggle(True, "On", "Off: the print goes past this pass unchanged")
    strength: float = by_strength(100)
    blend: BlendMode = laid_over("normal")
    stencil: Stencil | str | None = _stencil()
    name: str = text("", "Name", "What this pass is for, in your own words", shown=False)
    note: str = text("", "Note", "Anything worth remembering about it", shown=False)

    def __init_subclass__(cls, **kwargs: Any) -> None:
        super().__init_subclass__(**kwargs)
        cls._values = operator.itemgetter(*(name for name in cls.model_fields if name != "id"))
        if cls.__module__.startswith("kyanoscript.core.passes."):
            register(cls)

    def __eq__(self, other: object) -> bool:
        """Whether it is the same kind of pass with the same values, whatever its identity."""
        if self is other:
            return True
        return type(self) is type(other) and bool(self._values(self.__dict__) == self._values(other.__dict__))

    def __hash__(self) -> int:
        return hash((type(self), self._values(self.__dict__)))

    def apply(self, planes: Planes, place: Place) -> Planes:
        """The pass at full strength: planes ``(1 or 3, h, w)`` in and out, encoded 0…1.

        The input is never written to. With a margin it is larger than the region by ``place.margin`` on every side; the
        result never is.
        """
        raise TypeError(f"{self.kind} has no apply")

    def colours(self) -> bool:
        """Whether a gray picture may come out in colour."""
        return False

    def grays(self) -> bool:
        """Whether a colour picture comes out gray, at full strength."""
        return False

    def margin(self, longer: float) -> int:
        """Pixels needed around a region, for a photograph whose longer side is ``longer`` pixels."""
        return 0

    def measure(self, proxy: Planes) -> Any:
        """What has to be known of the whole picture, from a small version of this pass's input; None: nothing."""
        return None

    def suggest(self, proxy: Planes, framing: Framing, space: Space, watch: Watch = unwatched) -> dict[str, Any]:
        """Values that suit the picture, from a small version of this pass's input: what ``auto`` puts in place.

        ``framing`` is the print's: for values that are places on the photograph; ``space`` is the photograph's.
        """
        return {}

    def suggested(self) -> tuple[str, ...]:
        """The parameters that ``auto`` takes from the picture, with the present values of the others."""
        return self.suggests

    def suited(self, shape: float) -> Self:
        """The same for a print of a shape, width over height: its sizes are told for one of 3 to 2 that lies."""
        return self

    @classmethod
    def start(cls, name: str, shape: float) -> dict[str, Any]:
        """The values of one of its starts, suited to a print of a shape, width over height."""
        values = cls.starts[name]
        suited = cls(**values).suited(shape)
        return {parameter: getattr(suited, parameter) for parameter in values}

    def remarks(self) -> str:
        """A short line for the slip about the present values, if there is something worth saying."""
        return ""

    def placed(self) -> str:
        """How it lies on the picture and can be taken hold of there: see `kyanoscript.core.stencil.grips`; or ""."""
        return ""

    def lies_on(self) -> str:
        """The colour #rrggbb of the paper that it puts the print on, if it does; otherwise empty."""
        return ""

    def ink_at(self, tone: float) -> str:
        """The colour #rrggbb that it gives a gray 0…1, if its stops lie on the scale of tones; otherwise empty."""
        return ""

    def pictures(self) -> list[str]:
        """Files of other pictures that it needs."""
        return []

    @property
    def title(self) -> str:
        """Its own name if it was given one, else what kind of pass it is."""
        return self.name or self.label

    @property
    def which_form(self) -> int:
        """Which of its forms it is of: see `form`."""
        return int(getattr(self, "of", 1))

    @classmethod
    def newest(cls) -> int:
        """The last of its forms."""
        return int(cls.model_fields["of"].default) if "of" in cls.model_fields else 1

    def renewed(self) -> str:
        """What its newest form does, if it is of an older one; or ""."""
        return self.params()["of"].says(self.newest()) if self.which_form < self.newest() else ""

    @property
    def acts(self) -> bool:
        """Whether it can change anything."""
        return self.on and self.strength > 0

    @property
    def ends(self) -> bool:
        """Whether what it gives is shown as it is, and what comes after it does not act."""
        return False

    @property
    def where(self) -> Stencil | None:
        """The stencil, if there is one that keeps anything back."""
        return self.stencil if isinstance(self.stencil, Stencil) and self.stencil.limits else None


def scaled(planes: Planes, before: Planes, after: Planes) -> Planes:
    """Planes as much lighter or darker as their gray became, hue kept: ``before`` and ``after`` are ``(1, h, w)``.

    Near black, where a ratio means nothing, the difference is added instead. Held within black and white.
    """
    if len(planes) == 1:
        return after
    out = np.empty_like(planes)
    relit(planes, before, after, out, after.size)
    return out


@kernel("f4* planes, f4* before, f4* after, f4* out, i8 n")
def relit(planes, before, after, out, n):  # type: ignore[no-untyped-def]  # a kernel: its signature tells the types
    floor = np.float32(1 / 64)
    for k in range(n):
        per = np.float32(1.0) / (before[k] + floor)
        by, plus = (after[k] + floor) * per, (after[k] - before[k]) * floor * per
        for c in range(3):
            v = planes[c * n + k] * by + plus
            out[c * n + k] = min(max(v, np.float32(0.0)), np.float32(1.0))


def register(model: type[Pass]) -> None:
    """From now on it is one of the passes that there are."""
    _registered[model.kind] = model


def registered() -> dict[str, type[Pass]]:
    """Passes imported so far, by name, in the order of the stages and of their labels."""
    return dict(sorted(_registered.items(), key=lambda item: (STAGES.index(item[1].stage), item[1].label)))


def find(kind: str) -> type[Pass] | None:
    """The pass of that name, or None."""
    return _registered.get(kind)
