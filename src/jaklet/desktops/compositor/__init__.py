"""Compositors in which code of ours runs: the conversation with that code, and the desk that it tells of."""
