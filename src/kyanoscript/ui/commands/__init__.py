"""What can be done: the list of commands, their keys, and who does them."""
