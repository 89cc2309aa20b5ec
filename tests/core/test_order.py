"""Quantiles and medians are NumPy's own, to the last bit."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as some
from hypothesis.extra.numpy import arrays

from kyanoscript.core.order import Order

VALUES = arrays(np.float32, some.integers(1, 60), elements=some.floats(-2, 3, width=32))
SHARES = (0.0, 1e-6, 0.001, 0.1, 0.25, 1 / 3, 0.499, 0.5, 0.75, 0.999, 1.0)


def agree(values):
    order = Order(values)
    assert order.quantiles(SHARES) == tuple(float(v) for v in np.quantile(values, SHARES))
    assert order.median == float(np.median(values))


@given(VALUES)
def test_of_a_few_values(values):
    agree(values)


@pytest.mark.parametrize("shape", [(1, 301, 200), (3, 64, 77), (5,), (1, 2, 2)])
def test_of_pictures(shape):
    rng = np.random.default_rng(5)
    for values in (
        rng.random(shape),
        rng.random(shape) ** 4 - 0.2,
        np.round(rng.random(shape), 1),
        np.full(shape, 0.3),
    ):
        agree(values.astype(np.float32))
