"""One module a command: its arguments, what it runs, and how the result is shown."""
