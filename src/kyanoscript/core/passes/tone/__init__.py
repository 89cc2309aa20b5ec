"""Passes that shape the tones."""
