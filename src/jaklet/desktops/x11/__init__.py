"""A real X11 desk: ICCCM, EWMH and RandR over xcffib."""
