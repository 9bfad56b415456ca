"""Killing a program that does not answer, but never the window manager or Jaklet itself."""

import contextlib
import os
import signal

from jaklet.desktops.x11.wire import Wire, pid_of


def kill_process(pid: int, wire: Wire) -> bool:
    """Kill the process that shows a window; False if that must not be. 0: one of another machine.

    The server can still let go of what is shown from another machine.
    """
    owner = wire.words(wire.root, "_NET_SUPPORTING_WM_CHECK")
    spared = {0, os.getpid(), *(pid_of(wire.ask_pid(wid).reply()) for wid in owner)}
    if pid in spared:
        return pid == 0
    with contextlib.suppress(OSError):
        os.kill(pid, signal.SIGKILL)
    return True
