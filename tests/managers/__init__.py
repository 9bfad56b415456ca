"""What holds on every window manager: one suite, judged by an independent reading of the server."""
