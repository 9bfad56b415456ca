"""Layouts: saved arrangements of windows; how they are taken, matched, recalled, and compared."""
