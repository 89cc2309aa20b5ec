"""Passes that turn colours into grays."""
