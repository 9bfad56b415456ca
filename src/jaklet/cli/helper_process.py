"""The process of the overlay's helper."""

import os
import subprocess
from collections.abc import Sequence


class HelperProcess(subprocess.Popen[bytes]):
    """The helper that shows things over the windows."""

    def is_stopped(self) -> bool:
        """Return whether a signal has stopped it (waitid(2), WSTOPPED)."""
        options = os.WSTOPPED | os.WNOHANG | os.WNOWAIT
        try:
            return os.waitid(os.P_PID, self.pid, options) is not None
        except ChildProcessError:
            return False


def start_helper(command: Sequence[str]) -> HelperProcess:
    """Start the helper by its command line, and return it."""
    return HelperProcess(command, stdin=subprocess.DEVNULL)
