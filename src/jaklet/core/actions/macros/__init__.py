"""Macros: named lists of steps, the conditions that they ask, and the task that does them."""
