"""The window. Edits scripts and shows pixels; computes none."""
