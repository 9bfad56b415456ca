"""Giving back what a listener has left behind that was killed: the desktop keeps shortcuts, whoever asked for them.

Run: python -m jaklet.desktops.plasma.leftovers STATE LOCK, once the listener has gone (`guard`).
"""

import contextlib
import os
import shlex
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Final

from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.bus import Bus
from jaklet.desktops.plasma.accelerators import Accelerators, LentShortcut, lent_file
from jaklet.locks import opened_lock, take_lock

LASTS: Final = 600.0  # seconds in which a compositor that has gone with the listener may come back
LOOKS: Final = 1.0


class Guard:
    """A process that waits for the listener's end, however that comes, and gives back then what it has left behind.

    Until then it is a shell that reads a pipe, which is open for as long as the listener lives.
    """

    def __init__(self, state: Path, lock: Path) -> None:
        command = shlex.join([sys.executable, "-m", "jaklet.desktops.plasma.leftovers", str(state), str(lock)])
        self._process = subprocess.Popen(
            ["/bin/sh", "-c", f"cat > /dev/null; exec {command}"],
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )

    def end(self) -> None:
        """End it, as all is given back."""
        self._process.kill()
        assert self._process.stdin is not None
        self._process.stdin.close()
        self._process.wait()


def give_back(state: Path, lock: Path) -> None:
    """Give back what is left behind, unless another listener runs by now; wait for a compositor that has gone, too."""
    until = time.monotonic() + LASTS
    while time.monotonic() < until:
        with contextlib.suppress(OSError, DeskError):
            held = opened_lock(lock)
            try:
                if not take_lock(held):
                    return  # it gives back what it does not want itself
                bus = Bus.open("Plasma")
                try:
                    Accelerators(bus, lent_file(lambda: state)).begin()
                finally:
                    bus.close()
                return
            finally:
                os.close(held)
        time.sleep(LOOKS)


def left_behind(state: Callable[[], Path]) -> Iterator[str]:
    """Yield a line for each shortcut of another program's that is still lent."""
    for one in lent_file(state).read():
        yield f"{_program(one)} lacks its shortcut for {one.action[3]}, which a listener had that was killed"


def _program(lent: LentShortcut) -> str:
    return lent.action[2]


def given_back(state: Callable[[], Path]) -> Iterator[str]:
    """Give all back, and yield a line for each program that has something again."""
    try:
        bus = Bus.open("Plasma")
    except DeskError:
        return
    try:
        accelerators = Accelerators(bus, lent_file(state))
        names, lent = accelerators.begin()
        if names:
            yield f"{len(names)} chords that a listener had left behind are free again"
        for one in lent:
            yield f"given back to {one.action[2]}: {one.action[3]}"
    except DeskError:
        return  # there is no such service, and so nothing of ours in it
    finally:
        bus.close()


if __name__ == "__main__":
    give_back(Path(sys.argv[1]), Path(sys.argv[2]))
