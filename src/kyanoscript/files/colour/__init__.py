"""Profiles: of photographs, monitors, and of printers for proofs."""
