"""Prints out."""
