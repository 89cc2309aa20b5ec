"""Photographs in, and what their files say beside the pixels."""
