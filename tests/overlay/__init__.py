"""Tests of what appears over the windows."""
