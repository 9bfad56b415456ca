"""Putting windows where they belong: the actions that give them places."""
