"""Rendering off the interface thread."""
