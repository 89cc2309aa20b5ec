"""What an annotation asks of a value: a number is a number and no word or switch, and nothing is cut or rounded.

Checks are closures, made once for a class (see `model`). They tell all that is wrong, each with its place.
"""

from __future__ import annotations

import math
import types
import typing
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import chain
from typing import Any, Literal

Place = tuple[int | str, ...]
Check = Callable[[Any, bool], Any]  # of a value, and whether it is plain data (lists, names with values): it, or Failed


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


class Failed(Exception):
    """A value that a check does not take."""

    def __init__(self, wrongs: list[Wrong]) -> None:
        self.wrongs = wrongs

    def within(self, part: int | str) -> list[Wrong]:
        """The same, seen from outside what has the value under a name or as an entry."""
        return [Wrong((part, *wrong.place), wrong.kind) for wrong in self.wrongs]


def _fail() -> typing.NoReturn:
    raise Failed([Wrong((), "value")])


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


@dataclass(frozen=True)
class Told:
    """Several models are told apart by the value that they have under a name."""

    name: str


# How each kind of annotation is checked


def check_of(hint: Any) -> Check:
    """What checks the values of an annotation."""
    if hint in _SIMPLE:
        return _SIMPLE[hint]
    origin, parts = typing.get_origin(hint), typing.get_args(hint)
    if origin is typing.Annotated:
        return _annotated(parts[0], parts[1:])
    if origin is Literal:
        return _one_of(parts)
    if origin is tuple:
        return _many(parts[0]) if parts[1:] == (...,) else _Row([check_of(part) for part in parts])
    if origin in (typing.Union, types.UnionType):
        return _Either([check_of(part) for part in parts])
    if hasattr(hint, "read_plain"):
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
    check = check_of(hint)
    for part in more:
        if isinstance(part, Limits):
            check = limited(check, part)
        elif isinstance(part, After):
            check = _made(check, part.make)
        elif isinstance(part, Told):
            check = _told(typing.get_args(hint), part.name)
    return check


def limited(check: Check, limits: Limits) -> Check:
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
        except Failed as wrong:
            wrongs += wrong.within(k)
    if wrongs:
        raise Failed(wrongs)
    return tuple(made)


def _many(hint: Any) -> Check:
    entry = check_of(hint)
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
            except Failed as wrong:
                wrongs += wrong.wrongs
        raise Failed(wrongs)


def _model(model: type[Any]) -> Check:
    def check(value: Any, plain: bool) -> Any:
        if isinstance(value, model):
            return value
        if not plain or not isinstance(value, dict):
            _fail()
        try:
            return model.read_plain(value)
        except Invalid as wrong:
            raise Failed(wrong.wrongs) from None

    return check


def _told(models: tuple[type[Any], ...], name: str) -> Check:
    checks = {model.model_fields[name].default: _model(model) for model in models}

    def check(value: Any, plain: bool) -> Any:
        if isinstance(value, models):
            return value
        if not plain or not isinstance(value, dict):
            _fail()
        word = value.get(name)
        found = checks.get(word) if isinstance(word, str) else None
        if found is None or not isinstance(word, str):
            raise Failed([Wrong((), "shape")])
        try:
            return found(value, plain)
        except Failed as wrong:
            raise Failed(wrong.within(word)) from None

    return check
