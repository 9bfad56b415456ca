"""Jaklet: hotkeys, window places and named layouts, checked before use."""

__version__ = "0.1.0"
