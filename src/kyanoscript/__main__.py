"""``python -m kyanoscript``."""

import os
import signal
import sys

signal.signal(signal.SIGINT, signal.SIG_DFL)  # while it loads an interrupt just ends it; what it does has its own way
# The folder that one stands in is on the path now: a file in it, beside photographs from anybody, is no module of ours.
_here = os.path.realpath(os.curdir)
sys.path[:] = [path for path in sys.path if path and os.path.realpath(path) != _here]

from kyanoscript.cli import main  # noqa: E402

sys.exit(main())
