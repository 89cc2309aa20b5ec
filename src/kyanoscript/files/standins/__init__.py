"""Devices that ship with the program, in the place of real ones."""
