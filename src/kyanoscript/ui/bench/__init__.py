"""The Bench: one print with its run, ladder and slip."""
