"""The command line: parse, call, print, exit."""
