"""Kernels: compiled once, loaded without the compiler, safe to call."""

import subprocess
import sys

import numpy as np
import pytest

from kyanoscript.core.blend import multiply
from kyanoscript.core.kernel import mark as native
from kyanoscript.core.passes.toning.toner_bath import bathe


def test_loaded_from_a_library_where_a_linker_is_there():
    assert native.backend().startswith("library")


def test_a_start_with_a_library_imports_no_compiler():
    code = (
        "import sys; from kyanoscript.core import native; native.load(); "
        "print(native.backend().split()[0], 'numba' in sys.modules, 'llvmlite' in sys.modules, 'scipy' in sys.modules)"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["library", "False", "False", "False"]


def test_kernels_run_within_the_process_where_no_linker_is_found():
    """The way out when there is no library: the same kernel, compiled in memory, gives the same numbers."""
    code = """
import numpy as np
from kyanoscript.core import native
from kyanoscript.core.blend import multiply
from kyanoscript.core.passes.toning.toner_bath import bathe
native.kernels()
native._bind_in_process([multiply])
a = np.linspace(0, 1, 100, dtype=np.float32)
out = np.empty_like(a)
multiply(a, a, out, 100, 1.0)
assert np.allclose(out, a * a, atol=1e-7)
"""
    subprocess.run([sys.executable, "-c", code], check=True, capture_output=True)


def test_wrong_arrays_are_refused_before_any_memory_is_touched():
    good = np.zeros((2, 8), np.float32)
    with pytest.raises(TypeError, match="contiguous"):
        multiply(good[:, ::2], good, good, 8, 1.0)
    with pytest.raises(TypeError, match="float32"):
        multiply(good.astype(np.float64), good, good, 8, 1.0)
    with pytest.raises(ValueError, match="argument"):
        multiply(good, good, good, 8)


def test_two_planes_side_by_side_in_memory_give_the_same_as_far_apart():
    """The compiler once chose another loop where it feared that they overlap."""
    n = 4096
    memory = np.linspace(0, 1, 4 * n, dtype=np.float32)
    gray = memory[:n].copy()
    far = np.empty((3, n), np.float32)
    values = (0.02, 0.03, -0.06, 3.2, 0.25, 0.05)
    bathe(gray, far, 1, n, *values)
    near = memory[n:].reshape(3, n)
    bathe(memory[:n], near, 1, n, *values)
    assert np.array_equal(near, far)


def test_every_symbol_stands_for_one_kernel():
    symbols = [k.symbol for k in native.kernels()]
    assert len(symbols) == len(set(symbols))
