"""A managed desk: windows to work on, the program, and what is so by an independent reading."""

import contextlib
import struct
import subprocess
from collections.abc import Callable
from typing import Any, NamedTuple

import xcffib.xproto as xp

from tests.conftest import Office
from tests.managers.reading import Reading
from tests.managers.starting import Manager
from tests.xserver import XServer, until

NAMES = ("Berths", "Radio", "Tides", "Ledger", "Letters")
CONFIG = (
    "displays: {main: {name: DUMMY0}, side: {name: DUMMY1}}\napps:\n"
    + "".join(f"  {name.lower()}: {{launch: {name.lower()}, window: {{class: {name}}}}}\n" for name in NAMES)
    + """bindings:
  super+left: place left 1/2
  ctrl+alt+shift+right: place right 1/2
"""
)


class Managed(NamedTuple):
    """A desk under a window manager, and Jaklet's hand on it."""

    x: XServer
    reading: Reading
    manager: Manager
    processes: list[subprocess.Popen[bytes]]
    office: Office
    begin_again: Callable[[], None]

    @property
    def process(self) -> subprocess.Popen[bytes]:
        """The manager that was started last."""
        return self.processes[-1]

    def jaklet(self, *words: str, status: int | None = 0) -> subprocess.CompletedProcess[str]:
        """Run the program; it has to end with this status."""
        return self.office.jaklet(*words, status=status)

    def act(self, sentence: str, status: int | None = 0) -> str:
        """Do one action, and return what is said of it; no window asks for attention because of it."""
        before = self.reading.marked()
        said = self.jaklet("act", sentence, status=status).stdout
        assert self.reading.marked() <= before, (sentence, said)
        return said

    def recall(self, name: str) -> str:
        """Recall a layout, and return all that is said of it."""
        done = self.jaklet("layout", "recall", name, status=None)
        return done.stdout + done.stderr

    def open(self, *names: str, **options: str) -> None:
        """Open windows, one after another."""
        for name in names:
            words = [word for key, value in options.items() for word in (f"--{key}", value) if word]
            self.x.open(name, *words)

    def activate(self, *names: str) -> None:
        """Click through windows, as a taskbar does it: the last one is in front."""
        for name in names:
            until(lambda name=name: self._is_active(name), f"the focus on {name}")  # type: ignore[misc]

    def _is_active(self, name: str) -> bool:
        """Ask for the focus for a window, and return whether it has it; a manager that begins may not hear at once."""
        self.ask(self.reading.clients()[name], "_NET_ACTIVE_WINDOW", 2, 0, 0)
        with contextlib.suppress(AssertionError):
            return until(lambda: self.reading.focus() == name, "the focus", 2)
        return False

    def ask(self, window: int, kind: str, *data: int) -> None:
        """Send a client message to the manager."""
        reading = self.reading
        words = [value & 0xFFFFFFFF for value in (*data, 0, 0, 0, 0, 0)][:5]
        event = struct.pack("=BBHII5I", 33, 32, 0, window, reading.atom(kind), *words)
        mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
        reading.core.SendEvent(False, reading.root, mask, event)
        reading.core.GetInputFocus().reply()

    def workspaces(self) -> int:
        """Return how many workspaces there are."""
        return self.reading.words(self.reading.root, "_NET_NUMBER_OF_DESKTOPS")[0]

    def until(self, ask: Callable[[], Any], wanted: Any, what: str) -> None:
        """Wait until a reading is as wanted; a manager may take a moment after it has answered."""
        until(lambda: ask() == wanted, f"{what}: {wanted}; it is {ask()}", 15)
