"""Starting, and the window that everything stands in."""
