"""The installed program on a terminal of its own."""

import contextlib
import fcntl
import os
import pty
import re
import select
import signal
import struct
import subprocess
import termios
from collections.abc import Callable, Iterator

from tests.conftest import JAKLET, Office
from tests.xserver import LIMIT, until


class Screen:
    """The installed program on a terminal, what it prints, and keys for it."""

    def __init__(self, office: Office, *words: str, **env: str) -> None:
        self.master, slave = pty.openpty()
        fcntl.ioctl(slave, termios.TIOCSWINSZ, struct.pack("HHHH", 24, 100, 0, 0))
        self.process = subprocess.Popen(
            [JAKLET, *words], cwd=office.folder, env=office.env | {"TERM": "xterm-256color"} | env,
            stdin=slave, stdout=slave, stderr=slave, start_new_session=True,
        )  # fmt: skip
        os.close(slave)
        self.printed = ""

    def read(self) -> str:
        while select.select([self.master], [], [], 0)[0]:
            try:
                data = os.read(self.master, 65536)
            except OSError:
                break
            if not data:
                break
            self.printed += data.decode("utf-8", "replace")
            if "\x1b[6n" in data.decode("utf-8", "replace"):
                os.write(self.master, b"\x1b[1;1R")  # the cursor's position, which a terminal tells when asked
        return re.sub(r"\x1b\[[0-9;?]*[a-zA-Z]", "", self.printed)

    def until_shows(self, words: str) -> None:
        until(lambda: words in self.read(), f"{words!r} on the screen")

    def type(self, keys: str) -> None:
        os.write(self.master, keys.encode())

    def end(self) -> tuple[int, str]:
        until(lambda: (self.read() or True) and self.process.poll() is not None, "an end")
        shown = self.read()
        assert "Traceback" not in shown
        return self.process.returncode, shown


@contextlib.contextmanager
def screens(office: Office) -> Iterator[Callable[..., Screen]]:
    """Yield what runs the program on a terminal; whatever still runs then is killed."""
    shown: list[Screen] = []

    def show(*words: str, **env: str) -> Screen:
        shown.append(Screen(office, *words, **env))
        return shown[-1]

    try:
        yield show
    finally:
        for one in shown:
            if one.process.poll() is None:
                os.killpg(one.process.pid, signal.SIGKILL)
            one.process.wait(LIMIT)
            os.close(one.master)
