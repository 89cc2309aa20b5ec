"""Passes of other packages, through the entry point group ``kyanoscript.passes``.

A package names each of its passes there by any word, with the class: ``dawn = "marrow_passes:Dawn"``. The class is a
`Pass` like those that ship; its ``kind`` is the package's name, a slash and a word of its own, so that a script tells
by itself which package it needs: ``marrow-passes/dawn``. What cannot be used is left out, and named; nothing else
suffers from it.
"""

from __future__ import annotations

import functools
import re
from typing import Any, NamedTuple

from kyanoscript.core.passes.base import STAGES, Pass, find, register
from kyanoscript.core.quoting import cut
from kyanoscript.translation import tr

GROUP = "kyanoscript.passes"
_WORD = re.compile(r"[a-z][a-z0-9]*(-[a-z0-9]+)*")


class LeftOut(NamedTuple):
    """A pass of another package that cannot be used."""

    package: str
    entry: str  # as the package calls it
    reason: str

    def __str__(self) -> str:
        return tr(
            "{entry} of the package {package}: {reason}", entry=self.entry, package=self.package, reason=self.reason
        )


@functools.cache
def load_others() -> tuple[LeftOut, ...]:
    """Registers the passes of every package that is installed; returns what was left out.

    A package runs code of its own here: it was installed by whoever may.
    """
    from importlib.metadata import entry_points  # loads for a while, and is needed once

    left = []
    for entry in sorted(entry_points(group=GROUP), key=lambda entry: (_package(entry), entry.name)):
        package = _package(entry)
        try:
            model = entry.load()
            wrong = _wrong(model, package)
        except (Exception, SystemExit) as error:  # whatever another package does
            wrong = f"{type(error).__name__}: {error}"
        if wrong:
            left.append(LeftOut(package, entry.name, wrong))
        else:
            register(model)
    return tuple(left)


def missing(kind: str) -> str:
    """Which package a pass that is not there is of, and why it is not there; "" for a name without one."""
    package, slash, _ = kind.partition("/")
    if not slash:
        return ""
    for left in load_others():
        if left.package == package:
            return tr("of a package that is here, but was left out ({left})", left=str(left))
    return tr("of the package {package}, which is not here: install it to use the script", package=cut(package))


def _package(entry: Any) -> str:
    """The name of its distribution, as such names are compared (PEP 503)."""
    return re.sub(r"[-_.]+", "-", entry.dist.name).lower() if entry.dist is not None else ""


def _wrong(model: Any, package: str) -> str:
    """What is wrong with it; "" if nothing is."""
    if not (isinstance(model, type) and issubclass(model, Pass)):
        return tr("{model} is no class of passes", model=repr(model)[:80])
    head, _, word = model.kind.partition("/")
    if head != package or not _WORD.fullmatch(word):
        return tr("its kind is {kind!r}; it must be {package}/ and a word", kind=model.kind, package=package)
    if find(model.kind) is not None:
        return tr("there is a pass {kind} already", kind=model.kind)
    if model.stage not in STAGES:
        return tr("its stage is {stage!r}; there are {stages}", stage=model.stage, stages=", ".join(STAGES))
    for name in ("label", "about", "use", "beware"):
        if not getattr(model, name):
            return tr("it has no {name}", name=name)
    if model.apply is Pass.apply:
        return tr("it has no {name}", name="apply")
    model().plain()  # its values must be there without any being given
    return ""
