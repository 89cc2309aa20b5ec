"""Processes that print by light: charts, their reading, the curve, the aim; and a stand-in for a darkroom."""
