"""Building libraries of kernels: in a process of its own (`library.build_apart`), and when the package is made."""

from __future__ import annotations

import importlib
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterable
from pathlib import Path

from kyanoscript.core.kernel import library, mark


def main(modules: Iterable[str]) -> None:
    """Build the libraries of some modules into the cache; writes a line to standard output after each."""
    for module in modules:
        importlib.import_module(module)
    for module in modules:
        make(module, library.cache())
        print(module, flush=True)


def make(module: str, folder: Path) -> Path:
    """Build the library of an imported module into a folder, if it is not there; returns where it lies.

    It is put there in one step, so that a half-written one is never loaded. Raises OSError, CalledProcessError.
    """
    path = folder / f"{mark.library_name(module)}.so"
    if path.exists():
        return path
    if library.level() != library.OWN:  # else Numba would have thought of this very processor already
        os.environ |= {"NUMBA_CPU_NAME": library.level(), "NUMBA_CPU_FEATURES": ""}
    from kyanoscript.core.kernel import compiling

    linker = shutil.which("cc") or shutil.which("gcc") or shutil.which("clang") or shutil.which("ld")
    if linker is None:
        raise FileNotFoundError("no linker (cc, gcc, clang or ld) on this machine")
    folder.mkdir(parents=True, exist_ok=True)
    machine = compiling.target()
    with tempfile.TemporaryDirectory(dir=folder) as work:
        objects = []
        for kernel in mark.kernels(module):
            file = Path(work) / f"{kernel.symbol}.o"
            made = compiling.compiled(kernel.function, kernel.types, mark.helpers())
            file.write_bytes(compiling.object_code(made, kernel.symbol, machine))
            objects.append(str(file))
        linked = Path(work) / "kernels.so"
        flags = ["-shared", "-o", str(linked), *objects]
        if not linker.endswith("/ld"):
            flags += ["-nostdlib", "-lm"]
        subprocess.run([linker, *flags], check=True, capture_output=True, cwd=work, stdin=subprocess.DEVNULL)
        os.replace(linked, path)
    return path
