"""Values and decisions: no file, clock, process, X or terminal."""
