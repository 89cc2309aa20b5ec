"""What is kept of work: scripts, the journal, recipes, processes, sheets, readings, what is remembered."""
