"""Kyanoscript: monochrome, toned and hand-tinted prints from photographs, worked by eye."""

__version__ = "0.1.0"
