"""Passes that work the edges of the print."""
