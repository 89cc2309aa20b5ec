"""Photos in, prints out, script files. Everything read is untrusted; everything written replaces in one step."""
