"""Frozen values that check themselves: strict as JSON Schema 2020-12 is, and more."""

import copy
import pickle
from typing import Annotated, ClassVar, Literal

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kyanoscript.core.params.checks import After, Invalid, Limits, Told, Wrong
from kyanoscript.core.params.model import Field, Model

Corner = Annotated[float, Limits(low=0, high=100)]
Spot = tuple[Corner, Corner] | tuple[Corner, Corner, Annotated[float, Limits(low=0, high=1)]]


def small(word):
    if word == "bad":
        raise ValueError(word)
    return word.lower()


class Dot(Model):
    shape: Literal["dot"] = "dot"
    spots: tuple[Spot, ...] = Field(shortest=1, longest=4)


class Ring(Model):
    shape: Literal["ring"] = "ring"
    size: float = Field(5, low=1, high=9)


class Stone(Model):
    notes: ClassVar[str] = "no value"
    depth: float = Field(3, low=-5, high=5)
    count: int = Field(1, low=0, high=9)
    on: bool = True
    word: Annotated[str, After(small)] = "x"
    side: Literal["a", 1, None] = "a"
    inner: Ring = Field(factory=Ring)
    shapes: tuple[Annotated[Dot | Ring, Told("shape")], ...] = ()
    maybe: Ring | str | None = None


class Named(Stone):
    name: str = Field(longest=5)
    depth: float = Field(0, low=-1, high=1)


def wrongs(model, values, plain=False):
    with pytest.raises(Invalid) as caught:
        model.read_plain(values) if plain else model(**values)
    return [(wrong.place, wrong.kind) for wrong in caught.value.wrongs]


RIGHT = [
    ("depth", 2, 2.0), ("depth", 2.5, 2.5), ("depth", np.float32(2.5), 2.5), ("count", 9, 9), ("on", False, False),
    ("word", "Y", "y"), ("side", 1, 1), ("side", None, None), ("maybe", "some", "some"), ("maybe", None, None),
    ("maybe", Ring(size=2.0), Ring(size=2.0)), ("inner", Ring(size=7.0), Ring(size=7.0)),
    ("shapes", (Ring(), Dot(spots=((1.0, 2.0),))), (Ring(), Dot(spots=((1.0, 2.0),)))),
]  # fmt: skip
WRONG = [
    ("depth", True), ("depth", "2"), ("depth", 5.1), ("depth", float("nan")), ("depth", None), ("depth", 10**400),
    ("count", 1.0), ("count", True), ("count", 10), ("count", "1"), ("on", 1), ("on", "yes"), ("on", None),
    ("word", 3), ("word", b"x"), ("word", "bad"), ("word", "\ud800"), ("side", True), ("side", 1.0), ("side", "b"),
    ("inner", {"size": 2.0}), ("shapes", [Ring()]), ("shapes", ({"shape": "ring"},)), ("maybe", 3),
]  # fmt: skip


@pytest.mark.parametrize(("name", "value", "has"), RIGHT)
def test_what_is_right_is_taken_as_it_is(name, value, has):
    made = getattr(Stone(**{name: value}), name)
    assert made == has
    assert type(made) is type(has)


@pytest.mark.parametrize(("name", "value"), WRONG)
def test_what_is_wrong_is_refused_with_its_place(name, value):
    ((place, *_), kind), *_ = wrongs(Stone, {name: value})
    assert (place, kind) == (name, "value")
    with pytest.raises(Invalid):
        Stone.checked(name, value)


def test_plain_data_has_lists_and_names_with_values():
    plain = {
        "inner": {"size": 2}, "maybe": {"size": 3.5},
        "shapes": [{"shape": "ring"}, {"shape": "dot", "spots": [[1, 2], [3, 4, 0.5]]}],
    }  # fmt: skip
    made = Stone.read_plain(plain)
    assert made.inner == Ring(size=2.0)
    assert made.shapes == (Ring(), Dot(spots=((1.0, 2.0), (3.0, 4.0, 0.5))))
    assert type(made.shapes[1].spots[0][0]) is float
    assert Stone.read_plain(made.plain()).plain() == made.plain()
    assert made.plain(unusual=True)["inner"] == {"size": 2.0}
    assert Stone().plain(unusual=True) == {}
    assert Stone().plain(include=("depth",)) == {"depth": 3.0}
    assert type(Stone().plain()["depth"]) is float  # as it is read again, though its default is written without a point


def test_all_that_is_wrong_is_told_however_deep_it_lies():
    assert wrongs(Named, {}) == [(("name",), "missing")]
    assert wrongs(Named, {"name": "stone", "dept": 1}) == [(("dept",), "unknown")]
    assert wrongs(Named, {"name": "a stone"}) == [(("name",), "value")]
    plain = {
        "name": "x", "depth": 1.5, "inner": {"sise": 1.0},
        "shapes": [{"shape": "square"}, {"shape": "ring", "size": 0}, {"shape": "dot", "spots": [[1, 2], [3, 400]]}],
    }  # fmt: skip
    found = wrongs(Named, plain, plain=True)
    assert (("depth",), "value") in found
    assert (("inner", "sise"), "unknown") in found
    assert (("shapes", 0), "shape") in found
    assert (("shapes", 1, "ring", "size"), "value") in found
    assert (("shapes", 2, "dot", "spots", 1, 1), "value") in found
    assert len(found) == 6  # the spot has a second reason: it could have been one of three numbers
    assert "dept" in str(Invalid(Named, [Wrong(("dept",), "unknown")]))


@pytest.mark.parametrize(
    "spots",
    [
        [],
        [[1, 2]] * 5,
        [[1]],
        [[1, 2, 3]],
        [[1, "2"]],
        [[1, True]],
        [1, 2],
        "ab",
        [[1, float("inf")]],
        [[1, float("nan")], [1, 2]],
        [[1, 2], [1, float("nan")]],
    ],
)
def test_rows_of_numbers_are_as_long_and_as_large_as_they_may_be(spots):
    assert wrongs(Dot, {"spots": spots}, plain=True)


@given(st.lists(st.tuples(st.integers(0, 100) | st.floats(0, 100), st.floats(0, 100)), min_size=1, max_size=4))
def test_rows_taken_at_once_are_those_taken_one_by_one(rows):
    made = Dot.read_plain({"spots": [list(row) for row in rows]}).spots
    assert made == tuple((float(a), float(b)) for a, b in rows)
    assert all(type(value) is float for row in made for value in row)
    assert Dot(spots=made).spots == made


def test_classes_below_have_the_fields_of_those_above_in_their_order():
    assert [*Named.model_fields] == [*Stone.model_fields, "name"]
    assert Named(name="x").depth == 0
    assert Stone().depth == 3
    assert not hasattr(Stone, "depth")
    assert Stone.notes == "no value"


def test_it_is_frozen_and_can_be_copied_kept_and_compared():
    one = Named(name="x", shapes=(Ring(),))
    with pytest.raises(Invalid):
        one.depth = 1.0
    with pytest.raises(Invalid):
        del one.depth
    for other in (pickle.loads(pickle.dumps(one)), copy.copy(one), copy.deepcopy(one), Named(**dict(one))):
        assert other == one
        assert hash(other) == hash(one)
    assert one.model_copy(update={"count": 2}).count == 2
    assert one.model_copy(update={"count": 2}) != one
    assert one != Stone(shapes=(Ring(),))
    assert Named.model_construct(name="far too long").name == "far too long"
    assert "Ring(shape='ring', size=5)" in repr(one)
