"""Where the control socket of a desk is, and who is at its other end. Small: the quickest commands load it."""

import os
import re
import socket
import sys


def socket_path(desk: str) -> str | None:
    """Return where the control socket of a desk is; None where there is no folder for it (XDG base directories)."""
    runtime = os.environ.get("XDG_RUNTIME_DIR")
    if not runtime or not os.path.isdir(runtime):
        return None
    return os.path.join(runtime, "jaklet", re.sub(r"[^\w.-]", "_", desk) + ".sock")


def user_of(client: socket.socket) -> int:
    """Return the user at the other end (unix(7), SO_PEERCRED): process, user and group, an `int` each."""
    packed = client.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, 12)
    return int.from_bytes(packed[4:8], sys.byteorder)
