"""What every room of files stands on: errors in words, places, the log, opening and replacing."""
