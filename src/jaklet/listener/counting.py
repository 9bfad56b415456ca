"""Counts which keys fire, and which apps come to the front by no key: a moment in memory, and written a while after.

A key costs a look into a dictionary. What was counted is written by a thread of its own: no key waits for a disk.
"""

import threading
import time
from collections.abc import Callable, Iterable
from typing import Final

from jaklet.core.values.config import Binding
from jaklet.core.values.use import FIRED, REACHED, name_of

WAITS: Final = 60.0  # seconds from the first count to its writing
OURS: Final = 1.0  # seconds after an action in which what comes to the front comes by it

Save = Callable[[Iterable[tuple[str, str, int]]], None]


class Counting:
    """Counts until it is time to `save`. Nothing is counted where there is none, or while it is not `on`."""

    def __init__(self, save: Save | None) -> None:
        self._save = save
        self._counts: dict[tuple[str, str], int] = {}
        self._front: str | None = None
        self._looked = False
        self._acted = float("-inf")
        self._writer: threading.Thread | None = None
        self.on = save is not None
        self.deadline = float("inf")

    def fired(self, binding: Binding) -> None:
        """Count a key."""
        if self.on:
            self._acted = time.monotonic()
            self._count(FIRED, name_of(binding))

    def looks(self, front: str | None, busy: bool) -> None:
        """Take in which app is in front. `busy`: an action is under way."""
        now = time.monotonic()
        if busy:
            self._acted = now
        if front == self._front and self._looked:
            return
        first, self._looked, self._front = not self._looked, True, front
        if self.on and front and not first and now - self._acted > OURS:
            self._count(REACHED, front)

    def _count(self, kind: str, what: str) -> None:
        key = kind, what
        self._counts[key] = self._counts.get(key, 0) + 1
        if self.deadline == float("inf"):
            self.deadline = time.monotonic() + WAITS

    def look(self) -> None:
        """Write what was counted, if it is time for that."""
        if time.monotonic() >= self.deadline:
            self._write()

    def _write(self) -> None:
        counted = [(kind, what, times) for (kind, what), times in self._counts.items()]
        self._counts, self.deadline = {}, float("inf")
        if counted and self._save:
            self._writer = threading.Thread(target=self._save, args=(counted,), name="counts", daemon=True)
            self._writer.start()

    def end(self, patience: float = 2.0) -> None:
        """Write what is left."""
        if self._writer:
            self._writer.join(patience)
        self._write()
        if self._writer:
            self._writer.join(patience)
