"""The States view: kept versions of the print, side by side."""
