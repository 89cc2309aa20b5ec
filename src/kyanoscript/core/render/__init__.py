"""From a source and a script to pixels."""
