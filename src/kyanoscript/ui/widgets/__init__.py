"""Controls that every part of the window uses."""
