"""Anything legal: strategies of hypothesis for values, stencils, passes, plates, frames and whole scripts."""

import functools

from hypothesis import strategies as st

from kyanoscript.core.frame import Frame
from kyanoscript.core.params import Number
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script
from kyanoscript.core.stencil import Stencil
from kyanoscript.core.stencil.shapes import SHAPES

PASSES = list(load_all().values())
SIMPLE = [model for model in PASSES if model.kind != "plate"]
place = st.tuples(st.integers(-20, 120).map(float), st.integers(-20, 120).map(float))
ink = st.integers(0, 0xFFFFFF).map("#{:06x}".format)
tone = st.integers(0, 255).map(float)


def curve_points(pairs):
    return tuple(sorted(dict(pairs).items()))


def value_of(spec):
    """Any legal value of a parameter."""
    if isinstance(spec, Number):
        if spec.whole:
            return st.integers(int(spec.low), int(spec.high))
        return st.floats(spec.low, spec.high).map(lambda v: round(v, spec.decimals))
    if spec.kind == "part":
        return declared(spec.model)
    if spec.kind == "list" and spec.entries_of():
        return st.lists(st.one_of([declared(entry) for entry in spec.entries_of()]), max_size=3).map(tuple)
    return {
        "choice": st.sampled_from([value for value, _ in getattr(spec, "choices", ())] or [""]),
        "toggle": st.booleans(),
        "ring": st.lists(st.tuples(st.integers(0, 359).map(float), st.integers(-100, 100).map(float)), max_size=6).map(
            tuple
        ),
        "stops": st.lists(st.tuples(st.integers(0, 100).map(float), ink), min_size=1, max_size=6).map(tuple),
        "curve": st.lists(st.tuples(tone, tone), max_size=6).map(curve_points),
        "colour": ink,
        "text": st.just(""),
        "list": st.lists(place, min_size=3, max_size=6).map(tuple),
        "names": st.lists(st.sampled_from(["", "Cyanotype", "Gum"]), max_size=3).map(tuple),
        "run": st.lists(st.deferred(lambda: simple_pass), max_size=2).map(tuple),
        "stencil": st.one_of(st.none(), st.none(), st.deferred(lambda: stencil)),
    }[spec.kind]


def declared(model, **fixed):
    """Anything declared, with any legal values."""
    values = {name: value_of(spec) for name, spec in model.params().items() if name not in fixed}
    return st.builds(model, **values, **{name: st.just(value) for name, value in fixed.items()})


@functools.cache
def a_pass(model):
    """A pass with any legal values, switched on."""
    return declared(model, on=True)


stencil = st.builds(
    Stencil,
    shapes=st.lists(st.one_of([declared(shape) for shape in SHAPES]), min_size=1, max_size=3).map(tuple),
    grow=st.sampled_from([0.0, 0.0, 4.0, -6.0]),
    feather=st.sampled_from([0.0, 0.0, 5.0, 60.0]),
    invert=st.booleans(),
    strength=st.sampled_from([100.0, 60.0]),
)
simple_pass = st.sampled_from(SIMPLE).flatmap(a_pass)
any_pass = st.sampled_from(PASSES).flatmap(a_pass)
any_frame = st.one_of(st.just(Frame()), declared(Frame))
any_run = st.lists(any_pass, min_size=1, max_size=4).map(tuple)
any_script = st.builds(Script, any_run, any_frame)
unframed = st.builds(Script, any_run)
