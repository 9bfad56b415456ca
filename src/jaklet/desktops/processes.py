"""Programs that were launched: started without a shell, and noticed when they end in failure."""

import contextlib
import os
import subprocess
from collections.abc import Sequence
from pathlib import Path
from typing import Final

from jaklet.core.ports import NOT_FOUND

NOT_ALLOWED: Final = 126  # the status of a program that may not be run, as a shell has it


class Processes:
    """Launched programs. Each has a file descriptor that becomes readable when it ends (pidfd_open(2))."""

    def __init__(self) -> None:
        self._running: dict[int, tuple[str, subprocess.Popen[bytes]]] = {}
        self.ended: list[tuple[str, int]] = []

    def launch(self, app: str, command: Sequence[str]) -> None:
        """Start a program in the user's home folder, in a session of its own, so that it outlives Jaklet."""
        words = [os.path.expanduser(command[0]), *command[1:]]
        self.ended = [(name, status) for name, status in self.ended if name != app]
        try:
            process = subprocess.Popen(
                words,
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                cwd=Path.home(),
                start_new_session=True,
            )
        except OSError as fault:
            self.ended.append((app, NOT_FOUND if isinstance(fault, FileNotFoundError) else NOT_ALLOWED))
            return
        self._running[os.pidfd_open(process.pid)] = (app, process)

    def descriptors(self) -> list[int]:
        """Return a descriptor per running program."""
        return list(self._running)

    def reap(self) -> bool:
        """Take note of programs that have ended; True if one of them failed."""
        failed = False
        for descriptor, (app, process) in list(self._running.items()):
            status = process.poll()
            if status is None:
                continue
            del self._running[descriptor]
            os.close(descriptor)
            if status:
                self.ended.append((app, status if status > 0 else 128 - status))
                failed = True
        return failed

    def close(self) -> None:
        """Let the programs run on by themselves."""
        for descriptor, (_, process) in self._running.items():
            with contextlib.suppress(OSError):
                os.close(descriptor)
            process.returncode = 0  # not ours to wait for any more: no warning about a process left running
        self._running.clear()
