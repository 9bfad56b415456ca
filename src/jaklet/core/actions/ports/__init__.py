"""What the core and the listener need from outside, and nothing more: a room for each who is asked."""
