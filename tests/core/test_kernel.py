"""Kernels: one library a module, loaded without the compiler, safe to call."""

import subprocess
import sys
import textwrap
from pathlib import Path

import numpy as np
import pytest

from kyanoscript.core import kernel
from kyanoscript.core.blend import multiply
from kyanoscript.core.colour import SRGB
from kyanoscript.core.kernel import library, mark
from kyanoscript.core.passes.toning.toner_bath import bathe

DOUBLED = """
    import numpy as np
    from kyanoscript.core.kernel import kernel

    @kernel("f4* a, f4* out, i8 n")
    def doubled(a, out, n):
        for k in range(n):
            out[k] = a[k] * np.float32({by})
"""


def run(code, tmp_path=None, **more):
    """A program of its own; raises if it fails. It keeps no bytecode: a module may be written twice within a second."""
    path = f"import sys; sys.path.insert(0, {str(tmp_path)!r})\n" if tmp_path else ""
    words = [sys.executable, "-B", "-W", "error", "-c", path + textwrap.dedent(code)]
    done = subprocess.run(words, capture_output=True, text=True, **more)
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


def test_every_module_runs_from_a_library_where_a_linker_is_there():
    found = kernel.backends()
    assert set(found) >= {"kyanoscript.core.blend", "kyanoscript.core.passes.toning.toner_bath"}
    assert all(Path(file).suffix == ".so" for module, file in found.items() if module.startswith("kyanoscript."))


def test_a_start_with_libraries_imports_no_compiler():
    said = run("""
        import sys
        from kyanoscript.core import kernel, passes
        passes.load_all()
        kernel.load()
        print("numba" in sys.modules, "llvmlite" in sys.modules, "scipy" in sys.modules)
    """)
    assert said == ["False", "False", "False"]


def test_touching_one_kernel_builds_one_library(tmp_path, monkeypatch):
    """And one that no list knows is built when it is called, and sends no other into the process."""
    monkeypatch.setenv("KYANOSCRIPT_KERNELS", str(tmp_path / "cache"))
    # Else a module that is written anew within the same second, as long as before, is taken for the one before.
    monkeypatch.setenv("PYTHONDONTWRITEBYTECODE", "1")
    code = """
        import numpy as np
        from kyanoscript.core import kernel
        import mine
        a, out = np.ones(9, np.float32), np.empty(9, np.float32)
        mine.doubled(a, out, 9)
        print(*out[:1], *kernel.backends())
    """
    (tmp_path / "mine.py").write_text(textwrap.dedent(DOUBLED.format(by=2)))
    (tmp_path / "other.py").write_text(textwrap.dedent(DOUBLED.format(by=5)))
    assert run(code.replace("import mine", "import mine, other"), tmp_path) == ["2.0", "mine"]
    made = {file.name: file.stat().st_mtime_ns for file in (tmp_path / "cache").rglob("*.so")}
    assert sorted(name.split("-")[0] for name in made) == ["mine", "other"]  # what was missing, in one go
    (tmp_path / "mine.py").write_text(textwrap.dedent(DOUBLED.format(by=3)))
    assert run(code.replace("import mine", "import mine, other"), tmp_path) == ["3.0", "mine"]
    after = {file.name: file.stat().st_mtime_ns for file in (tmp_path / "cache").rglob("*.so")}
    assert made.items() <= after.items()
    assert [name.split("-")[0] for name in after.keys() - made.keys()] == ["mine"]


def test_a_library_is_another_one_when_a_helper_or_a_number_that_it_uses_has_changed(tmp_path):
    text = """
        import numpy as np
        from kyanoscript.core.kernel import helper, kernel
        from aside import BY, more

        @kernel("f4* a, f4* out, i8 n")
        def doubled(a, out, n):
            for k in range(n):
                out[k] = more(a[k]) * BY
    """
    aside = "from kyanoscript.core.kernel import helper\nBY = {by}\n@helper\ndef more(v):\n    return v + {plus}\n"
    (tmp_path / "mine.py").write_text(textwrap.dedent(text))
    names = []
    for by, plus in ((2, 1), (3, 1), (3, 2), (3, 2)):
        (tmp_path / "aside.py").write_text(aside.format(by=by, plus=plus))
        names += run("import mine; from kyanoscript.core.kernel.mark import *; print(library_name('mine'))", tmp_path)
    assert len(set(names[:3])) == 3
    assert names[2] == names[3]


def test_where_a_library_cannot_be_built_only_its_own_kernels_run_within_the_process(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_KERNELS", "/proc/nowhere")
    (tmp_path / "mine.py").write_text(textwrap.dedent(DOUBLED.format(by=2)))
    code = """
        import numpy as np
        from kyanoscript.core import kernel
        import mine
        a, out = np.linspace(0, 1, 100, dtype=np.float32), np.empty(100, np.float32)
        mine.doubled(a, out, 100)
        assert np.array_equal(out, a * 2)
        print(kernel.backends()["mine"], len(kernel.backends()))
    """
    assert run(code, tmp_path) == ["in", "process", "1"]


def test_without_library_and_without_compiler_it_is_said_what_to_do(tmp_path, monkeypatch):
    monkeypatch.setenv("KYANOSCRIPT_KERNELS", "/proc/nowhere")
    (tmp_path / "mine.py").write_text(textwrap.dedent(DOUBLED.format(by=2)))
    code = """
        import sys
        sys.modules["numba"] = sys.modules["llvmlite"] = None
        import numpy as np, mine
        try:
            mine.doubled(np.ones(1, np.float32), np.ones(1, np.float32), 1)
        except RuntimeError as error:
            print("pip install numba" in str(error))
    """
    assert run(code, tmp_path) == ["True"]


@pytest.mark.parametrize("processor", library.LEVELS)
def test_the_numbers_are_those_of_every_level(processor, tmp_path, monkeypatch):
    """x86-64-v2 has no fused multiply-add: the last digit may differ, and nothing else."""
    monkeypatch.setenv("KYANOSCRIPT_PROCESSOR", processor)
    monkeypatch.setenv("KYANOSCRIPT_KERNELS", str(tmp_path / "cache"))
    text = """
        from kyanoscript.core.kernel import kernel
        from kyanoscript.core.kernel.fastmath import power

        @kernel("f4* a, f4* out, i8 n, f4 p")
        def raised(a, out, n, p):
            for k in range(n):
                out[k] = a[k] * a[k] * p - power(a[k], p)
    """
    (tmp_path / "mine.py").write_text(textwrap.dedent(text))
    code = """
        import numpy as np
        from kyanoscript.core import kernel
        import mine
        a, out = np.linspace(0.001, 1, 1000, dtype=np.float32), np.empty(1000, np.float32)
        mine.raised(a, out, 1000, 2.2)
        print(kernel.backends()["mine"], *out)
    """
    where, *values = run(code, tmp_path)
    assert f"/{processor}/" in where
    a = np.linspace(0.001, 1, 1000)
    assert np.abs(np.array(values, float) - (a * a * 2.2 - a**2.2)).max() < 3e-6


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
    bathe(gray, far, 1, n, *values, SRGB)
    near = memory[n:].reshape(3, n)
    bathe(memory[:n], near, 1, n, *values, SRGB)
    assert np.array_equal(near, far)


def test_every_symbol_stands_for_one_kernel():
    symbols = [kernel.symbol for module in mark.modules() for kernel in mark.kernels(module)]
    assert len(symbols) == len(set(symbols))
