"""Stencils: where a pass acts. Stored as shapes and strokes, made into a mask for any region at any scale."""

from kyanoscript.core.stencil.shapes import Hues, Outline, Oval, Ramp, Shape, Stencil, Stroke, Tones

__all__ = ["Hues", "Outline", "Oval", "Ramp", "Shape", "Stencil", "Stroke", "Tones"]
