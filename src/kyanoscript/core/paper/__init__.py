"""Numbers of print and paper, without any window."""
