"""The Sheet view: the print on its paper."""
