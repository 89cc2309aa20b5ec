"""Kernels: small loops over planes, written in Python, run as machine code.

A function marked ``@kernel("f4* a, f4* out, i8 n")`` is a plain loop over pointers. The first time any kernel is
needed, all of them are compiled by Numba, linked into one shared library and kept in the user's cache folder; from
then on the library is loaded directly and neither Numba nor LLVM is imported: that saves about 90 MB and half a
second in every start. Where no linker is found the same kernels run through Numba inside the process.

Calls release the interpreter lock, so tiles run on several threads. Why it is done so and what was measured:
docs/decisions/0001-kernels-as-a-library.md.
"""

from __future__ import annotations

import contextlib
import ctypes
import hashlib
import importlib
import os
import platform
import re
import shutil
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
import platformdirs

F = TypeVar("F", bound=Callable[..., Any])

_FORMAT = 4  # raised when the way of building changes, so that old libraries are not loaded
_C_TYPES: dict[str, Any] = {"f4": ctypes.c_float, "f8": ctypes.c_double, "i8": ctypes.c_int64}
_DTYPES = {name: np.dtype(name) for name in ("f4", "f8", "i4", "i8", "u1", "u2")}

_kernels: dict[str, Kernel] = {}
_helpers: list[Callable[..., Any]] = []
_lock = threading.Lock()
_ready = False
_backend = "not loaded"


class Kernel:
    """One compiled loop; call it with arrays (contiguous, of the declared type) and numbers."""

    def __init__(self, function: Callable[..., None], signature: str) -> None:
        self.function = function
        self.symbol = f"kyano_{function.__module__.rpartition('.')[2]}_{function.__name__}"
        self.types = [part.split()[0] for part in signature.split(",")]
        self.names = [part.split()[1] for part in signature.split(",")]
        self._checks = [_DTYPES[t[:-1]] if t.endswith("*") else None for t in self.types]
        self._call: Callable[..., None] | None = None
        self._code: Any = None  # keeps code compiled within the process alive

    def __call__(self, *args: Any) -> None:
        call = self._call
        if call is None:
            load()
            call = self._call
            assert call is not None
        call(*[a if d is None else self._pointer(a, d) for a, d in zip(args, self._checks, strict=True)])

    def _pointer(self, array: np.ndarray, dtype: np.dtype) -> int:
        if array.dtype != dtype or not array.flags.c_contiguous:
            raise TypeError(f"{self.symbol} needs contiguous {dtype} arrays, not {array.dtype} {array.strides}")
        address: int = array.__array_interface__["data"][0]
        return address

    def bind(self, address: int, code: Any = None) -> None:
        """Use the machine code at this address, which lives as long as ``code``, from now on."""
        self._code = code
        arguments = [ctypes.c_void_p if t.endswith("*") else _C_TYPES[t] for t in self.types]
        self._call = ctypes.CFUNCTYPE(None, *arguments)(address)


def kernel(signature: str) -> Callable[[Callable[..., None]], Kernel]:
    """Mark a loop as a kernel. Types: f4 f8 i4 i8 u1 u2, with ``*`` for a pointer to the first element."""

    def mark(function: Callable[..., None]) -> Kernel:
        made = Kernel(function, signature)
        _kernels[made.symbol] = made
        return made

    return mark


def helper(function: F) -> F:
    """Mark a function that kernels call; it is compiled into them."""
    _helpers.append(function)
    return function


def kernels() -> list[Kernel]:
    """Every kernel of the program, after importing all modules that declare one."""
    from kyanoscript.core import passes  # the folder of passes imports each of them

    passes.load_all()
    for module in ("blend", "colour", "picture", "smooth", "stencil.raster", "tones", "warp"):
        importlib.import_module(f"kyanoscript.core.{module}")
    return list(_kernels.values())


def backend() -> str:
    """How the kernels run: ``library FILE``, ``in process`` or ``not loaded``."""
    return _backend


def load(progress: Callable[[float], None] = lambda share: None) -> None:
    """Bind every kernel, compiling first when there is no library for these sources on this processor.

    Compiling takes ten seconds and more; ``progress`` is told then how far it is, 0…1, and may raise to give it up.
    """
    global _ready, _backend
    with _lock:
        if _ready:
            return
        every = kernels()
        path = _library_path(every)
        if not path.exists():
            try:
                # In a process of its own: compiling takes seconds and memory that a window should not give. Isolated:
                # no file of the folder that one happens to stand in is taken for one of its modules.
                _build_apart(progress)
            except (OSError, subprocess.CalledProcessError):
                path = Path()
            if not path.is_file():
                _bind_in_process(every)
                _ready, _backend = True, "in process"
                return
        _keep_freed_memory()
        library = ctypes.CDLL(str(path))
        for k in every:
            address = ctypes.cast(getattr(library, k.symbol), ctypes.c_void_p).value
            assert address is not None
            k.bind(address)
        _ready, _backend = True, f"library {path}"


_HERE = Path(__file__).resolve().parents[3]


def _build_apart(progress: Callable[[float], None]) -> None:
    """Build the library in another process, which writes how far it is, a share in each line."""
    progress(0.0)
    quiet = subprocess.DEVNULL
    with subprocess.Popen(
        _isolated(), stdin=quiet, stdout=subprocess.PIPE, stderr=quiet, cwd=_HERE, text=True
    ) as child:
        assert child.stdout is not None
        try:
            for line in child.stdout:
                progress(float(line))
        except BaseException:
            child.kill()
            raise
    if child.returncode:
        raise subprocess.CalledProcessError(child.returncode, "building the kernels")
    progress(1.0)


def _isolated() -> list[str]:
    """The command that builds the library, with the modules of this process and none of the present folder."""
    here = os.path.realpath(os.curdir)
    paths = [str(_HERE), *(p for p in sys.path if p and os.path.realpath(p) != here)]
    start = (
        f"import sys; sys.path[:] = {list(dict.fromkeys(paths))!r}; import kyanoscript.core.kernel.mark as n; n.build()"
    )
    return [sys.executable, "-I", "-c", start]


def _keep_freed_memory() -> None:
    """Let the C library reuse freed tiles instead of giving every one back: mapping fresh pages for each tile took
    three times as long as the arithmetic in it. Where the call does not exist nothing is lost but time."""
    try:
        mallopt = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return
    mallopt(-3, 32 << 20)  # M_MMAP_THRESHOLD
    mallopt(-1, 64 << 20)  # M_TRIM_THRESHOLD
    mallopt(-8, 4)  # M_ARENA_MAX: every further one keeps what was freed in it to itself


def build() -> Path:
    """Compile the library if it is not there; returns where it lies. Writes how far it is to standard output."""
    every = kernels()
    path = _library_path(every)
    if not path.exists():
        _build(every, path, lambda share: print(f"{share:.3f}", flush=True))
    return path


def give_back() -> None:
    """Give freed memory back to the system: after a photograph is let go, most of what it took lies in small pieces."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def _library_path(every: list[Kernel]) -> Path:
    """Where the library for exactly these sources, this processor and these versions lies."""
    digest = hashlib.sha256()
    functions = [k.function for k in every] + list(_helpers)
    files = sorted({sys.modules[f.__module__].__file__ or "" for f in functions} | {str(Path(__file__))})
    for file in files:
        digest.update(Path(file).read_bytes())
    digest.update(f"{_FORMAT} {platform.machine()} {sys.version_info[:2]} {_processor()}".encode())
    folder = os.environ.get("KYANOSCRIPT_KERNELS") or platformdirs.user_cache_dir("kyanoscript")
    return Path(folder) / f"kernels-{digest.hexdigest()[:16]}.so"


def _processor() -> str:
    """What tells processors with different instructions apart."""
    try:
        text = Path("/proc/cpuinfo").read_text()
    except OSError:
        return platform.processor()
    wanted = ("model name", "flags", "Features", "CPU part")
    return "".join(line for line in text.splitlines()[:40] if line.startswith(wanted))


def compile_kernel(k: Kernel) -> Any:
    """Compile one kernel with Numba; returns its ``CFunc``. Helpers must be registered (see `register_helpers`)."""
    import numba as typed

    numba: Any = typed  # its stubs lack much of what is used here

    scalar = {"f4": numba.float32, "f8": numba.float64, "i4": numba.int32, "i8": numba.int64, "u1": numba.uint8}
    scalar["u2"] = numba.uint16
    types = [numba.types.CPointer(scalar[t[:-1]]) if t.endswith("*") else scalar[t] for t in k.types]
    signature = numba.types.void(*types)
    return numba.cfunc(signature, nopython=True, fastmath=True, error_model="numpy")(k.function)


def register_helpers() -> None:
    """Make the marked helper functions callable from kernels while Numba compiles them."""
    from numba.extending import register_jitable

    for function in _helpers:
        register_jitable(fastmath=True, error_model="numpy")(function)


def _bind_in_process(every: list[Kernel]) -> None:
    register_helpers()
    for k in every:
        compiled = compile_kernel(k)
        k.bind(compiled.address, compiled)


def _build(every: list[Kernel], path: Path, tell: Callable[[float], None]) -> None:
    """Compile, link and put the library in its place in one step, so that a half-written one is never loaded."""
    import llvmlite.binding as llvm

    linker = shutil.which("cc") or shutil.which("gcc") or shutil.which("clang") or shutil.which("ld")
    if linker is None:
        raise FileNotFoundError("no linker (cc, gcc, clang or ld) on this machine")
    register_helpers()
    path.parent.mkdir(parents=True, exist_ok=True)
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    with tempfile.TemporaryDirectory(dir=path.parent) as work:
        machine = llvm.Target.from_default_triple().create_target_machine(
            cpu=llvm.get_host_cpu_name(),
            features=llvm.get_host_cpu_features().flatten(),
            opt=3,
            reloc="pic",
            codemodel="default",
        )
        objects = []
        for done, k in enumerate(every):
            tell(done / len(every))
            compiled = compile_kernel(k)
            text = compiled.inspect_llvm().replace(compiled.native_name, k.symbol)
            module = llvm.parse_assembly(_DEFINITION.sub(_told, text))
            _keep_only(module, k.symbol, machine)
            file = Path(work) / f"{k.symbol}.o"
            file.write_bytes(machine.emit_object(module))
            objects.append(str(file))
        made = Path(work) / "kernels.so"
        flags = ["-shared", "-o", str(made), *objects]
        if not linker.endswith("/ld"):
            flags += ["-nostdlib", "-lm"]
        subprocess.run([linker, *flags], check=True, capture_output=True, cwd=work, stdin=subprocess.DEVNULL)
        os.replace(made, path)


_DEFINITION = re.compile(r"^(define .*?@[^(]*\()(.*)( \{)$", re.MULTILINE)


def _told(found: re.Match[str]) -> str:
    """The head of a function with what the compiler cannot know of kernels.

    They never write where they read by another index: else it would choose between two loops by where the planes happen
    to lie in memory. And a division is exact, in vectors as for single values: estimates differ in the last digits, and
    so did the two loops. Together they made a print differ from run to run.
    """
    arguments = re.sub(r"\bptr (?!noalias)", "ptr noalias ", found[2])
    return f'{found[1]}{arguments} "reciprocal-estimates"="none"{found[3]}'


def _keep_only(module: Any, symbol: str, machine: Any) -> None:
    """Make everything but the kernel private and optimise again: the calls into Python that Numba wraps around a
    function for raising errors are then seen to be out of reach and go, so that the library stands alone."""
    import llvmlite.binding as llvm

    for function in module.functions:
        if not function.is_declaration and function.name != symbol:
            function.linkage = "internal"
    options = llvm.create_pipeline_tuning_options(speed_level=3)
    options.loop_vectorization = True
    options.slp_vectorization = True
    builder = llvm.create_pass_builder(machine, options)
    builder.getModulePassManager().run(module, builder)
