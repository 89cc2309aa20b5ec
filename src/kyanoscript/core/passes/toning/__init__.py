"""Passes that turn grays into colours."""
