"""``python -m kyanoscript``."""

import sys

from kyanoscript.cli import main

sys.exit(main())
