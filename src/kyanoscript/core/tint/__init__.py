"""Colouring gray pictures: chroma laid over a lightness that stays as it is."""
