"""A simulated desk: displays, programs, windows, keyboard and a clock that never waits."""
