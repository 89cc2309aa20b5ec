"""The print on its mat, and the tools that work on it there."""
