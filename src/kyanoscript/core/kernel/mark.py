"""Kernels: small loops over planes, written in Python, run as machine code.

A function marked ``@kernel("f4* a, f4* out, i8 n")`` is a plain loop over pointers. All kernels of one module make one
shared library (`library`), which is loaded when the first of them is called: neither Numba nor LLVM is imported then.
Libraries come with the program for usual processors; where one is missing, or its source has been changed, it is built
in a process of its own (`build`), and where that cannot be, its kernels alone are compiled within this process.

Calls release the interpreter lock, so tiles run on several threads. Why it is done so and what was measured:
docs/decisions/0001-kernels-as-a-library.md and 0014-the-house.md.
"""

from __future__ import annotations

import ctypes
import functools
import hashlib
import inspect
import subprocess
import sys
import threading
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from types import CodeType
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import machine
from kyanoscript.core.kernel import library

F = TypeVar("F", bound=Callable[..., Any])

_C_TYPES: dict[str, Any] = {"f4": ctypes.c_float, "f8": ctypes.c_double, "i8": ctypes.c_int64}
_DTYPES = {name: np.dtype(name) for name in ("f4", "f8", "i4", "i8", "u1", "u2")}

_modules: dict[str, dict[str, Kernel]] = {}  # kernels by the module that declares them, and by name
_helpers: set[Callable[..., Any]] = set()
_lock = threading.RLock()
_backends: dict[str, str] = {}  # how the kernels of a module run


class Kernel:
    """One compiled loop; call it with arrays (contiguous, of the declared type) and numbers."""

    def __init__(self, function: Callable[..., None], signature: str, name: str) -> None:
        self.function = function
        self.module = function.__module__
        self.symbol = f"kyano_{function.__module__.rpartition('.')[2]}_{name or function.__name__}"
        self.types = [part.split()[0] for part in signature.split(",")]
        self.names = [part.split()[1] for part in signature.split(",")]
        self._checks = [_DTYPES[t[:-1]] if t.endswith("*") else None for t in self.types]
        self._call: Callable[..., None] | None = None
        self._code: Any = None  # keeps code compiled within the process alive

    def __call__(self, *args: Any) -> None:
        call = self._call
        if call is None:
            _load([self.module], _watching[0])
            call = self._call
            assert call is not None
        call(*[a if d is None else self._pointer(a, d) for a, d in zip(args, self._checks, strict=True)])

    def _pointer(self, array: NDArray[Any], dtype: np.dtype[Any]) -> int:
        if array.dtype != dtype or not array.flags.c_contiguous:
            raise TypeError(f"{self.symbol} needs contiguous {dtype} arrays, not {array.dtype} {array.strides}")
        address: int = array.__array_interface__["data"][0]
        return address

    def bind(self, address: int, code: Any = None) -> None:
        """Use the machine code at this address, which lives as long as ``code``, from now on."""
        self._code = code
        arguments = [ctypes.c_void_p if t.endswith("*") else _C_TYPES[t] for t in self.types]
        self._call = ctypes.CFUNCTYPE(None, *arguments)(address)


def kernel(signature: str, name: str = "") -> Callable[[Callable[..., None]], Kernel]:
    """Mark a loop as a kernel. Types: f4 f8 i4 i8 u1 u2, with ``*`` for a pointer to the first element.

    One loop may be marked several times for several types, each with a ``name``.
    """

    def mark(function: Callable[..., None]) -> Kernel:
        made = Kernel(function, signature, name)
        _modules.setdefault(made.module, {})[made.symbol] = made
        return made

    return mark


def helper(function: F) -> F:
    """Mark a function that kernels call; it is compiled into them."""
    _helpers.add(function)
    return function


def modules() -> list[str]:
    """The modules imported so far that declare kernels."""
    return list(_modules)


def kernels(module: str) -> list[Kernel]:
    """The kernels of a module that has been imported."""
    return list(_modules[module].values())


def helpers() -> set[Callable[..., Any]]:
    """Functions that kernels call, of the modules imported so far."""
    return _helpers


def backends() -> dict[str, str]:
    """How the kernels of each module run: the file of their library, or ``in process``; only of those loaded."""
    return dict(_backends)


def _untold(share: float) -> None:
    """For building that nobody watches."""


_watching: list[Callable[[float], None]] = [_untold]


def watch(progress: Callable[[float], None]) -> None:
    """From now on tell how far the building is that calling a kernel sets off, 0…1: see `load`."""
    _watching[0] = progress


def load(progress: Callable[[float], None] = _untold) -> None:
    """Bind the kernels of every module imported so far, building first the libraries that are not there.

    Building takes a second and more for each; ``progress`` is told then how far it is, 0…1, and may raise to give it
    up. Raises RuntimeError where there is neither a library nor a compiler.
    """
    _load(list(_modules), progress)


def _load(wanted: list[str], progress: Callable[[float], None]) -> None:
    with _lock:
        wanted = [module for module in wanted if module not in _backends]
        if not all(_found(module) for module in wanted):
            # In a process of its own: compiling takes seconds and memory that a window should not give. Whatever else
            # has been imported and is missing is built with it: importing the compiler is the longer part.
            missing = [module for module in _modules if module not in _backends and not _found(module)]
            try:
                library.build_apart(missing, progress)
            except (OSError, subprocess.CalledProcessError) as error:
                _bind_in_process([module for module in wanted if not _found(module)], error)
        machine.keep_freed_memory()
        for module in wanted:
            path = _found(module)
            if path is not None and module not in _backends:
                opened = ctypes.CDLL(str(path))
                for marked in kernels(module):
                    address = ctypes.cast(getattr(opened, marked.symbol), ctypes.c_void_p).value
                    assert address is not None
                    marked.bind(address)
                _backends[module] = str(path)


def _found(module: str) -> Path | None:
    return library.find(library_name(module))


def _bind_in_process(wanted: Iterable[str], error: Exception) -> None:
    """The way out where no library can be built (no linker, a cache that cannot be written)."""
    try:
        from kyanoscript.core.kernel import compiling
    except ImportError as lacking:
        raise RuntimeError(
            f"the kernels for this processor do not come with the program and cannot be compiled: {lacking}; "
            "pip install numba brings the compiler"
        ) from error
    for module in wanted:
        for marked in kernels(module):
            compiled = compiling.compiled(marked.function, marked.types, _helpers)
            marked.bind(compiled.address, compiled)
        _backends[module] = "in process"


def library_name(module: str, processor: str = "") -> str:
    """The name of a module's library for a kind of processor (this one's, if none is named).

    It tells the module, and its source with that of everything it is made from.
    """
    return _library_name(module, processor or library.level())


@functools.cache
def _library_name(module: str, processor: str) -> str:
    digest = hashlib.sha256(library.identity(processor).encode())
    files, constants = {_file(module)}, set[str]()
    for marked in _modules[module].values():
        for file, constant in _made_from(marked.function, set()):
            files.add(file)
            constants.add(constant)
    for file in sorted(files, key=lambda path: path.name):
        digest.update(file.read_bytes())
    digest.update("\n".join(sorted(constants)).encode())
    return f"{module.removeprefix('kyanoscript.core.')}-{digest.hexdigest()[:16]}"


def _file(module: str) -> Path:
    return Path(sys.modules[module].__file__ or "")


def _made_from(function: Callable[..., Any], seen: set[str]) -> Iterator[tuple[Path, str]]:
    """Files of the helpers that a function calls, however deep; and numbers that it finds in its module."""
    globals_ = {**function.__globals__, **inspect.getclosurevars(function).nonlocals}
    for name in sorted(_names(function.__code__)):
        value = globals_.get(name)
        if callable(value) and value in _helpers:
            known = f"{value.__module__}.{value.__name__}"
            if known not in seen:
                seen.add(known)
                yield _file(value.__module__), ""
                yield from _made_from(value, seen)
        elif isinstance(value, int | float | tuple | np.generic):
            yield _file(function.__module__), f"{function.__module__} {name} {_told(value)}"


def _told(value: Any) -> str:
    """A constant in words that do not depend on how arrays happen to be printed."""
    if isinstance(value, tuple):
        return f"({', '.join(_told(part) for part in value)})"
    return f"{value.dtype} {value.item()!r}" if isinstance(value, np.generic) else repr(value)


def _names(code: CodeType) -> set[str]:
    inner = (const for const in code.co_consts if isinstance(const, CodeType))
    return {*code.co_names, *code.co_freevars, *(name for const in inner for name in _names(const))}
