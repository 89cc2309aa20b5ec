"""Work with files, off the interface thread."""
