"""Frozen data whose values are checked when it is made: strictly, by what its annotations say.

Annotations may be numbers, words, switches, ``Literal``, tuples, ``|``, other models, and ``Annotated`` with `Limits`,
`After` and `Told` (see `checks`). A class costs nothing but its declarations; what checks it is made when it is first
used. Why it is so: docs/decisions/0032-quick-on-any-machine.md.
"""

from __future__ import annotations

import inspect
import sys
from collections.abc import Callable, Iterable, Iterator
from typing import Any, ClassVar, Self, dataclass_transform

from kyanoscript.core.params.checks import Check, Failed, Invalid, Limits, Wrong, check_of, limited

MISSING: Any = type("Missing", (), {"__repr__": lambda _: "missing"})()  # the default of what has to be given


class Field:
    """One value of a model: its default, its limits, and what else is known of it (``spec``)."""

    def __init__(
        self, default: Any = MISSING, factory: Callable[[], Any] | None = None, spec: Any = None, **limits: Any
    ) -> None:
        self.default, self.factory, self.spec, self.limits = default, factory, spec, Limits(**limits)
        self.said: Any = None  # its annotation, as a rule in words
        self.module = ""  # where these mean something

    @property
    def hint(self) -> Any:
        """What its annotation means."""
        return eval(self.said, vars(sys.modules[self.module])) if isinstance(self.said, str) else self.said

    @property
    def fraction(self) -> bool:
        """Whether it is a number that need not be whole, though its default may be written so."""
        return self.said in (float, "float", "float | None")

    def is_required(self) -> bool:
        """Whether it has to be given."""
        return self.default is MISSING and self.factory is None

    def usual(self) -> Any:
        """What it is where it is not given."""
        return self.factory() if self.factory is not None else self.default


@dataclass_transform(kw_only_default=True, frozen_default=True)
class Model:
    """Frozen values, by their names. Subclasses annotate them; a `Field` or a plain default may stand beside."""

    model_fields: ClassVar[dict[str, Field]] = {}  # in the order of their declarations, those of classes above first
    _checks: ClassVar[dict[str, Check] | None] = None

    def __init_subclass__(cls, **more: Any) -> None:
        super().__init_subclass__(**more)
        found = dict(cls.model_fields)
        for name, said in inspect.get_annotations(cls).items():
            text = said if isinstance(said, str) else getattr(said, "__name__", str(said))
            if "ClassVar" in text or name.startswith("_"):
                continue
            given = cls.__dict__.get(name, MISSING)
            field = given if isinstance(given, Field) else Field(given)
            field.said, field.module = said, cls.__module__
            found[name] = field
            if given is not MISSING:
                delattr(cls, name)  # an instance has it, the class does not
        cls.model_fields, cls._checks = found, None

    def __init__(self, **values: Any) -> None:
        self.__dict__.update(_checked(type(self), values, False))

    @classmethod
    def read_plain(cls, values: dict[str, Any]) -> Self:
        """From plain data, as JSON has it: lists for tuples, names with values for models. Raises Invalid."""
        made = cls.__new__(cls)
        made.__dict__.update(_checked(cls, values, True))
        return made

    @classmethod
    def checked(cls, name: str, value: Any) -> Any:
        """A value as the model would have it under a name. Raises Invalid."""
        try:
            return _checks_of(cls)[name](value, False)
        except Failed as wrong:
            raise Invalid(cls, wrong.within(name)) from None

    @classmethod
    def model_construct(cls, **values: Any) -> Self:
        """One with values that nobody checks; the others are as usual."""
        made = cls.__new__(cls)
        made.__dict__.update({n: values[n] if n in values else f.usual() for n, f in cls.model_fields.items()})
        return made

    def model_copy(self, update: dict[str, Any] | None = None) -> Self:
        """The same with other values, which nobody checks."""
        made = type(self).__new__(type(self))
        made.__dict__.update(self.__dict__)
        made.__dict__.update(update or {})
        return made

    def plain(
        self, include: Iterable[str] | None = None, exclude: Iterable[str] = (), unusual: bool = False
    ) -> dict[str, Any]:
        """As plain data, as JSON has it; ``unusual``: only what is not as it is where nothing is said."""
        names = [n for n in self.model_fields if (include is None or n in include) and n not in exclude]
        if unusual:
            names = [n for n in names if self.__dict__[n] != self.model_fields[n].usual()]
        return {name: _plain(self.__dict__[name], unusual, self.model_fields[name].fraction) for name in names}

    def __iter__(self) -> Iterator[tuple[str, Any]]:
        return iter(self.__dict__.items())

    def __eq__(self, other: object) -> bool:
        if self is other or type(self) is not type(other):
            return self is other
        mine, others = self.__dict__, other.__dict__
        return mine == others or all(mine[name] == others[name] for name in self.model_fields)

    def __hash__(self) -> int:
        return hash((type(self), *self.__dict__.values()))

    def __repr__(self) -> str:
        return f"{type(self).__name__}({', '.join(f'{name}={value!r}' for name, value in self)})"

    def __setattr__(self, name: str, value: Any) -> None:
        raise Invalid(type(self), [Wrong((name,), "frozen")])

    def __delattr__(self, name: str) -> None:
        raise Invalid(type(self), [Wrong((name,), "frozen")])


def _plain(value: Any, unusual: bool, fraction: bool = False) -> Any:
    if isinstance(value, Model):
        return value.plain(unusual=unusual)
    if isinstance(value, tuple):
        return [_plain(entry, unusual) for entry in value]
    return float(value) if fraction and value is not None else value


def _checked(model: type[Model], values: dict[str, Any], plain: bool) -> dict[str, Any]:
    checks, made, wrongs = _checks_of(model), dict[str, Any](), list[Wrong]()
    for name, field in model.model_fields.items():
        if name in values:
            try:
                made[name] = checks[name](values[name], plain)
            except Failed as wrong:
                wrongs += wrong.within(name)
        elif field.is_required():
            wrongs.append(Wrong((name,), "missing"))
        else:
            made[name] = field.usual()
    wrongs += [Wrong((name,), "unknown") for name in values if name not in checks]
    if wrongs:
        raise Invalid(model, wrongs)
    return made


def _checks_of(model: type[Model]) -> dict[str, Check]:
    """Made once for a class; by several threads at the same time they are the same."""
    found = model.__dict__.get("_checks")
    if found is None:
        found = {name: limited(check_of(field.hint), field.limits) for name, field in model.model_fields.items()}
        model._checks = found
    return found
