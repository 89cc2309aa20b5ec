"""The window, in layers: its parts, files, passes, and what is done by press and key."""

from kyanoscript.ui.window.window import Window

__all__ = ["Window"]
