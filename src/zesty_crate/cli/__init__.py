"""The command line: the only place that reads arguments, prints, asks or exits."""
