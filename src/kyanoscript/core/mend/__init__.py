"""Mending scans: damage found, lines followed, places filled, stains, silvering and fading evened out."""
