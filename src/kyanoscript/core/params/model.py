"""Frozen data whose values are checked when it is made: strictly, by what its annotations say.

A number is a number and no word or switch, nothing is cut or rounded, no name is unknown, and all that is wrong is told
with its place. What is checked comes from the annotations: numbers, words, switches, ``Literal``, tuples, ``|``, other
models, and ``Annotated`` with `Limits` and `After`. A class costs nothing but its declarations; what checks it is made
when it is first used. Why it is so: docs/decisions/0032-quick-on-any-machine.md.
"""

from __future__ import annotations

import inspect
import math
import sys
import types
import typing
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import chain
from typing import Any, ClassVar, Literal, Self, dataclass_transform

MISSING: Any = type("Missing", (), {"__repr__": lambda _: "missing"})()  # the default of what has to be given
Place = tuple[int | str, ...]
Check = Callable[[Any, bool], Any]  # of a value, and whether it is plain data (lists, names with values): it, or _Wrong


@dataclass(frozen=True)
class Wrong:
    """One thing that is wrong: where (names and entries), and what kind of thing."""

    place: Place
    kind: Literal["missing", "unknown", "shape", "value", "frozen"]


class Invalid(ValueError):
    """Values that cannot be; `wrongs` tells all of them."""

    def __init__(self, model: type, wrongs: list[Wrong]) -> None:
        places = "; ".join(f"{'.'.join(map(str, wrong.place)) or 'it'}: {wrong.kind}" for wrong in wrongs[:5])
        super().__init__(f"{model.__name__} cannot have these values ({places})")
        self.wrongs = wrongs


class _Wrong(Exception):
    def __init__(self, wrongs: list[Wrong]) -> None:
        self.wrongs = wrongs

    def within(self, part: int | str) -> list[Wrong]:
        return [Wrong((part, *wrong.place), wrong.kind) for wrong in self.wrongs]


def _fail() -> typing.NoReturn:
    raise _Wrong([Wrong((), "value")])


@dataclass(frozen=True, kw_only=True)
class Limits:
    """What a number lies within, both ends counted, or how long words and lists may be."""

    low: float = -math.inf
    high: float = math.inf
    shortest: int = 0
    longest: int | None = None


@dataclass(frozen=True)
class After:
    """What is made of a checked value; a ValueError says that it cannot be."""

    make: Callable[[Any], Any]


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
        except _Wrong as wrong:
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
            except _Wrong as wrong:
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
        found = {name: _limited(_check(field.hint), field.limits) for name, field in model.model_fields.items()}
        model._checks = found
    return found


# How each kind of annotation is checked


def _check(hint: Any) -> Check:
    """What checks the values of an annotation."""
    if hint in _SIMPLE:
        return _SIMPLE[hint]
    origin, parts = typing.get_origin(hint), typing.get_args(hint)
    if origin is typing.Annotated:
        return _annotated(parts[0], parts[1:])
    if origin is Literal:
        return _one_of(parts)
    if origin is tuple:
        return _many(parts[0]) if parts[1:] == (...,) else _Row([_check(part) for part in parts])
    if origin in (typing.Union, types.UnionType):
        return _Either([_check(part) for part in parts])
    if isinstance(hint, type) and issubclass(hint, Model):
        return _model(hint)
    raise TypeError(f"there is no check for {hint}")


def _number(value: Any, plain: bool) -> float:
    kind = type(value)
    if kind is float:
        return float(value)
    if kind is bool or not (kind is int if plain else hasattr(kind, "__float__")):
        _fail()
    try:
        return float(value)
    except (OverflowError, TypeError):
        _fail()


def _whole(value: Any, plain: bool) -> int:
    if not isinstance(value, int) or isinstance(value, bool):
        _fail()
    return int(value)


def _switch(value: Any, plain: bool) -> bool:
    if value is not True and value is not False:
        _fail()
    return bool(value)


def _words(value: Any, plain: bool) -> str:
    if not isinstance(value, str):
        _fail()
    if not value.isascii():
        try:
            value.encode()
        except UnicodeEncodeError:  # half a letter, which no file can hold
            _fail()
    return value


def _nothing(value: Any, plain: bool) -> None:
    if value is not None:
        _fail()


_SIMPLE: dict[Any, Check] = {
    float: _number, int: _whole, bool: _switch, str: _words, type(None): _nothing, None: _nothing
}  # fmt: skip


def _one_of(choices: tuple[Any, ...]) -> Check:
    def check(value: Any, plain: bool) -> Any:
        for choice in choices:
            kind = type(choice)
            if value == choice and isinstance(value, kind) and (kind is bool or not isinstance(value, bool)):
                return choice
        _fail()

    return check


def _annotated(hint: Any, more: tuple[Any, ...]) -> Check:
    check = _check(hint)
    for part in more:
        if isinstance(part, Limits):
            check = _limited(check, part)
        elif isinstance(part, After):
            check = _made(check, part.make)
        elif isinstance(part, Told):
            check = _told(typing.get_args(hint), part.name)
    return check


def _limited(check: Check, limits: Limits) -> Check:
    """Within limits; what is not told has none, but a number is always finite where it is limited."""
    low, high, shortest, longest = limits.low, limits.high, limits.shortest, limits.longest
    if low == -math.inf and high == math.inf and not shortest and longest is None:
        return check

    def number(value: Any, plain: bool) -> Any:
        made = check(value, plain)
        if made is not None and not low <= made <= high:  # nor is "no number" within anything
            _fail()
        return made

    def long(value: Any, plain: bool) -> Any:
        if isinstance(value, str | list | tuple) and longest is not None and len(value) > longest:
            _fail()  # before its entries are looked at
        made = check(value, plain)
        if len(made) < shortest:
            _fail()
        return made

    if shortest or longest is not None:
        return long
    if check is _number:
        return _Span(low, high)
    return number


def _made(check: Check, make: Callable[[Any], Any]) -> Check:
    def after(value: Any, plain: bool) -> Any:
        made = check(value, plain)
        try:
            return make(made)
        except ValueError:
            _fail()

    return after


class _Span:
    """A number within limits."""

    def __init__(self, low: float, high: float) -> None:
        self.low, self.high = low, high

    def __call__(self, value: Any, plain: bool) -> float:
        made = _number(value, plain)
        if not self.low <= made <= self.high:
            _fail()
        return made


class _Row:
    """A tuple of so many values, each with a check of its own."""

    def __init__(self, checks: list[Check]) -> None:
        self.checks = checks

    def __call__(self, value: Any, plain: bool) -> tuple[Any, ...]:
        if not isinstance(value, (tuple, list) if plain else tuple) or len(value) != len(self.checks):
            _fail()
        return _each(zip(self.checks, value, strict=True), plain)

    @property
    def spans(self) -> list[_Span] | None:
        """The limits of its numbers, if it has nothing else."""
        found = [check for check in self.checks if isinstance(check, _Span)]
        return found if len(found) == len(self.checks) else None


def _each(pairs: Iterable[tuple[Check, Any]], plain: bool) -> tuple[Any, ...]:
    made, wrongs = [], list[Wrong]()
    for k, (check, value) in enumerate(pairs):
        try:
            made.append(check(value, plain))
        except _Wrong as wrong:
            wrongs += wrong.within(k)
    if wrongs:
        raise _Wrong(wrongs)
    return tuple(made)


def _many(hint: Any) -> Check:
    entry = _check(hint)
    rows = entry.checks if isinstance(entry, _Either) else [entry]
    spans = {len(row.checks): row.spans for row in rows if isinstance(row, _Row) and row.spans}

    def check(value: Any, plain: bool) -> tuple[Any, ...]:
        if not isinstance(value, (tuple, list) if plain else tuple):
            _fail()
        if spans and (known := _places(value, spans, plain)) is not None:
            return known
        return _each(((entry, each) for each in value), plain)

    return check


def _places(value: Any, spans: dict[int, list[_Span]], plain: bool) -> tuple[Any, ...] | None:
    """Rows of numbers at once, as a stroke has thousands of them; None: they have to be looked at one by one."""
    if not set(map(type, value)) <= ({tuple, list} if plain else {tuple}):
        return None
    lengths = set(map(len, value))
    limits = spans.get(lengths.pop()) if len(lengths) == 1 else None
    kinds = set(map(type, chain.from_iterable(value)))
    if limits is None or not kinds <= {float, int}:
        return None
    for span, column in zip(limits, zip(*value, strict=True), strict=True):
        if not (span.low <= min(column) and max(column) <= span.high and not any(map(math.isnan, column))):
            return None
    if int in kinds:
        return tuple(tuple(map(float, row)) for row in value)
    return tuple(map(tuple, value))


class _Either:
    """What one of several checks takes."""

    def __init__(self, checks: list[Check]) -> None:
        self.checks = checks

    def __call__(self, value: Any, plain: bool) -> Any:
        wrongs = list[Wrong]()
        for check in self.checks:
            try:
                return check(value, plain)
            except _Wrong as wrong:
                wrongs += wrong.wrongs
        raise _Wrong(wrongs)


@dataclass(frozen=True)
class Told:
    """Several models are told apart by the value that they have under a name."""

    name: str


def _model(model: type[Model]) -> Check:
    def check(value: Any, plain: bool) -> Any:
        if isinstance(value, model):
            return value
        if not plain or not isinstance(value, dict):
            _fail()
        try:
            return model.read_plain(value)
        except Invalid as wrong:
            raise _Wrong(wrong.wrongs) from None

    return check


def _told(models: tuple[type[Model], ...], name: str) -> Check:
    checks = {model.model_fields[name].default: _model(model) for model in models}

    def check(value: Any, plain: bool) -> Any:
        if isinstance(value, models):
            return value
        if not plain or not isinstance(value, dict):
            _fail()
        word = value.get(name)
        found = checks.get(word) if isinstance(word, str) else None
        if found is None or not isinstance(word, str):
            raise _Wrong([Wrong((), "shape")])
        try:
            return found(value, plain)
        except _Wrong as wrong:
            raise _Wrong(wrong.within(word)) from None

    return check
