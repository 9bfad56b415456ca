"""Putting windows where they belong: places, and the actions that use them."""
