"""Walks: a print made in five steps with somebody who has just come, told at the place where it happens."""
