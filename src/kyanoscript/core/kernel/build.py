"""Building libraries of kernels: in a process of its own (`library.build_apart`), and all of them ahead of time."""

from __future__ import annotations

import ctypes
import gc
import importlib
import os
import pkgutil
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path

import kyanoscript.core
from kyanoscript.core.kernel import library, mark


def main(modules: Sequence[str], folder: str, processors: Sequence[str]) -> None:
    """Build the libraries of some modules into a folder; writes a line to standard output after each module."""
    gc.disable()  # the compiler makes many small things and few circles: looking for these took an eighth of the time
    for module in modules:
        importlib.import_module(module)
    for module in modules:
        make(module, Path(folder), processors)
        print(module, flush=True)


def make(module: str, folder: Path, processors: Iterable[str]) -> None:
    """Build the libraries of an imported module into a folder, for each kind of processor, where they are not there.

    Each is put there in one step, so that a half-written one is never loaded. Raises OSError, CalledProcessError.
    """
    missing = {
        processor: library.place(folder, processor, mark.library_name(module, processor)) for processor in processors
    }
    missing = {processor: path for processor, path in missing.items() if not path.exists()}
    if not missing:
        return
    # What Numba makes is told once for all processors, and made good by us alone: see `compiling.object_code`.
    os.environ |= {"NUMBA_OPT": "0", "NUMBA_DISABLE_INTEL_SVML": "1"}
    from kyanoscript.core.kernel import compiling

    linker = shutil.which("cc") or shutil.which("gcc") or shutil.which("clang") or shutil.which("ld")
    if linker is None:
        raise FileNotFoundError("no linker (cc, gcc, clang or ld) on this machine")
    texts = {
        kernel.symbol: compiling.told(compiling.compiled(kernel.function, kernel.types, mark.helpers()), kernel.symbol)
        for kernel in mark.kernels(module)
    }
    for processor, path in missing.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=path.parent) as work:
            objects = []
            for symbol, text in texts.items():
                file = Path(work) / f"{symbol}.o"
                file.write_bytes(compiling.object_code(text, symbol, processor))
                objects.append(str(file))
            linked = Path(work) / "kernels.so"
            flags = ["-shared", "-o", str(linked), *objects]
            if not linker.endswith("/ld"):
                flags += ["-nostdlib", "-lm"]
            subprocess.run([linker, *flags], check=True, capture_output=True, cwd=work, stdin=subprocess.DEVNULL)
            os.replace(linked, path)


def everything() -> list[str]:
    """Every module of the core that declares kernels, whoever imports it: the package is looked through.

    Raises what importing one of them raises: none is passed over.
    """
    for found in pkgutil.walk_packages(kyanoscript.core.__path__, "kyanoscript.core.", _raised):
        if found.name != f"{__package__}.compiling":  # the compiler itself
            importlib.import_module(found.name)
    return sorted(module for module in mark.modules() if module.startswith("kyanoscript."))


def _raised(_name: str) -> None:
    raise  # what went wrong while this package was imported


def ahead(processors: Sequence[str], progress: Callable[[float], None] = lambda share: None) -> None:
    """Build every library of the package, for each kind of processor, into the package itself.

    What is there and has not changed is left alone, and what nothing asks for any more goes. Raises OSError, and
    RuntimeError with what the compiler said, or where a module is left without its library.
    """
    modules = everything()

    def places(kinds: Iterable[str]) -> dict[Path, str]:
        names = ((kind, module, mark.library_name(module, kind)) for kind in kinds for module in modules)
        return {library.place(library.READY, kind, name): module for kind, module, name in names}

    wanted = places(processors)
    missing = list(dict.fromkeys(module for path, module in wanted.items() if not path.exists()))
    if missing:
        try:
            library.build_apart(missing, progress, folder=library.READY, processors=processors)
        except subprocess.CalledProcessError as error:
            raise RuntimeError(f"the kernels could not be compiled\n{error.stderr}") from error
    for old in set(library.READY.glob("*/*.so")) - places((*library.LEVELS, library.OWN)).keys():
        old.unlink()
    for path, module in wanted.items():
        if lacking := _lacking(path, module):
            raise RuntimeError(f"{module} has no library: {lacking}")


def _lacking(path: Path, module: str) -> str:
    """What a library is without; empty if it has all. Opening does not run it: it may be for another processor."""
    if not path.is_file():
        return f"there is no {path.name} for {path.parent.name}"
    try:
        opened = ctypes.CDLL(str(path))
    except OSError as error:
        return str(error)
    absent = [kernel.symbol for kernel in mark.kernels(module) if not hasattr(opened, kernel.symbol)]
    return f"{path.name} has no {absent[0]}" if absent else ""
