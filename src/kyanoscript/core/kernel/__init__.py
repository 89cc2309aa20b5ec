"""How plain loops over planes become machine code. Imports nothing above it."""
