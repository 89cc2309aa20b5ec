"""Mending scans: finding dust, hairs and scratches, filling them, evening out fading."""
