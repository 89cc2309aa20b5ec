"""Passes that print something of their own over the print."""
