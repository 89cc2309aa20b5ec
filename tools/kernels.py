"""Compiles the inner loops of a checkout ahead of time: for this machine, or for the levels of x86-64 named."""

import sys

from kyanoscript.core.kernel import build, library
from kyanoscript.terminal import Told

if __name__ == "__main__":
    processors = sys.argv[1:] or [library.level()]
    build.ahead(processors, Told(f"compiling the inner loops for {', '.join(processors)}, once"))
