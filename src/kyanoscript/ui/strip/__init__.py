"""The Strip view: a value in steps across the print, before it is chosen."""
