"""A working day in minutes: what only long use shows."""
