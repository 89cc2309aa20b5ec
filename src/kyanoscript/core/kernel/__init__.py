"""How plain loops over planes become machine code. Imports nothing above it."""

from kyanoscript.core.kernel.library import give_back
from kyanoscript.core.kernel.mark import Kernel, backends, helper, kernel, load, watch

__all__ = ["Kernel", "backends", "give_back", "helper", "kernel", "load", "watch"]
