"""Neighbours: processes that act beside Jaklet and mind nothing. One row of a table each, in `table.py` and `holders.py`."""
