"""Passes on the colour photograph."""
