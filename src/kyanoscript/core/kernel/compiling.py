"""Loops made into machine code by Numba and LLVM. Imported only where something has to be compiled."""

from __future__ import annotations

import functools
import re
from collections.abc import Callable, Iterable
from typing import Any

import llvmlite.binding as llvm
import numba as typed
from numba.extending import register_jitable

from kyanoscript.core.kernel.library import OWN

numba: Any = typed  # its stubs lack much of what is used here
_known: set[Callable[..., Any]] = set()


def compiled(function: Callable[..., None], types: list[str], helpers: Iterable[Callable[..., Any]]) -> Any:
    """Compile one loop with Numba; returns its ``CFunc``. Types as in `mark.kernel`."""
    for helper in helpers:
        if helper not in _known:
            _known.add(helper)
            register_jitable(fastmath=True, error_model="numpy")(helper)
    scalar = {"f4": numba.float32, "f8": numba.float64, "i4": numba.int32, "i8": numba.int64, "u1": numba.uint8}
    scalar["u2"] = numba.uint16
    arguments = [numba.types.CPointer(scalar[t[:-1]]) if t.endswith("*") else scalar[t] for t in types]
    signature = numba.types.void(*arguments)
    return numba.cfunc(signature, nopython=True, fastmath=True, error_model="numpy")(function)


@functools.cache
def target(processor: str) -> Any:
    """LLVM's machine for a kind of processor: one of `library.LEVELS`, or `library.OWN`."""
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    cpu, features = processor, ""
    if cpu == OWN:
        cpu, features = llvm.get_host_cpu_name(), llvm.get_host_cpu_features().flatten()
    return llvm.Target.from_default_triple().create_target_machine(
        cpu=cpu, features=features, opt=3, reloc="pic", codemodel="default"
    )


def told(made: Any, symbol: str) -> str:
    """What a compiled loop does, in LLVM's language and for any processor, with one symbol to be found by."""
    return _DEFINITION.sub(_told, made.inspect_llvm().replace(made.native_name, symbol))


def object_code(text: str, symbol: str, processor: str) -> bytes:
    """The object file of what `told` says, for a kind of processor."""
    machine = target(processor)
    module = llvm.parse_assembly(text)
    _keep_only(module, symbol, machine)
    code: bytes = machine.emit_object(module)
    return code


_DEFINITION = re.compile(r"^(define .*?@[^(]*\()(.*)( \{)$", re.MULTILINE)


def _told(found: re.Match[str]) -> str:
    """The head of a function with what the compiler cannot know of kernels.

    They never write where they read by another index: else it would choose between two loops by where the planes happen
    to lie in memory. And a division is exact, in vectors as for single values: estimates differ in the last digits, and
    so did the two loops. Together they made a print differ from run to run.
    """
    arguments = re.sub(r"\bptr (?!noalias)", "ptr noalias ", found[2])
    return f'{found[1]}{arguments} "reciprocal-estimates"="none"{found[3]}'


_PYTHON = ("Py", "_Py", "numba_", "NRT_")


def _keep_only(module: Any, symbol: str, machine: Any) -> None:
    """Make everything but the kernel private and optimise: the calls into Python that Numba wraps around a function for
    raising errors are then seen to be out of reach and go, so that the library stands alone.

    Once is mostly enough. Where it shows only after loops are unrolled that nothing is raised, another time is needed.
    """
    for function in module.functions:
        if not function.is_declaration and function.name != symbol:
            function.linkage = "internal"
    options = llvm.create_pipeline_tuning_options(speed_level=3)
    options.loop_vectorization = True
    options.slp_vectorization = True
    for _ in range(2):
        builder = llvm.create_pass_builder(machine, options)
        builder.getModulePassManager().run(module, builder)
        if not any(function.name.startswith(_PYTHON) for function in module.functions):
            return
