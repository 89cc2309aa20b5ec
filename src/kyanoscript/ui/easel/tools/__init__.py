"""What a press on the picture does."""
