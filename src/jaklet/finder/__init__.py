"""The full-screen finder of `jaklet pick`."""
