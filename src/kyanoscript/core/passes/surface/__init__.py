"""Passes that work the surface of the print."""
