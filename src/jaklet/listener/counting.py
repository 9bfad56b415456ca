"""Counts which keys fire, and what is done by hand: a moment in memory, and written a while after.

A key costs a look into a dictionary. What was counted is written by a thread of its own: no key waits for a disk.
"""

import threading
import time
from collections.abc import Callable, Iterable, Mapping
from typing import Final

from jaklet.core.values.chords import Keys, keys_written
from jaklet.core.values.config import Binding
from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Rect
from jaklet.core.values.use_counts import FIRED, GIVEN_UP, PUT_RIGHT, REACHED, counted_as

WAITS: Final = 60.0  # seconds from the first count to its writing
OURS: Final = 1.0  # seconds after an action in which what comes to the front comes by it
SOON: Final = 120.0  # seconds after a recall in which a window that is moved by hand is put right

NO_DESK: Final = Desk(())

Save = Callable[[Iterable[tuple[str, str, int]]], None]


class Counting:
    """Counts until it is time to `save`. Nothing is counted where there is none, or while it is not `on`."""

    def __init__(self, save: Save | None) -> None:
        self._save = save
        self._keys: dict[tuple[Keys, str, str], int] = {}  # by chords, layer and action
        self._reached: dict[str, int] = {}  # by app
        self._given_up: dict[Keys, int] = {}
        self._put_right: dict[str, int] = {}  # by what was recalled
        self._recalled: tuple[str, float] | None = None  # the last recall, as long as nothing has followed it
        self._frames: Mapping[int, Rect] | None = None  # of the windows, once they had come to rest after it
        self._front: str | None = None
        self._looked = False
        self._acted = float("-inf")
        self._writer: threading.Thread | None = None
        self.on = save is not None
        self.deadline = float("inf")

    def fired(self, binding: Binding) -> None:
        """Count a key."""
        if self.on:
            self._acted, self._recalled = time.monotonic(), None
            key = binding.keys, binding.layer, binding.action.text
            self._keys[key] = self._keys.get(key, 0) + 1
            self._wait()

    def gave_up(self, begun: Keys) -> None:
        """Count a sequence that has not gone on."""
        if self.on:
            self._given_up[begun] = self._given_up.get(begun, 0) + 1
            self._wait()

    def recalled(self, what: str) -> None:
        """Watch whether windows are put right after a recall; `what`: the action."""
        self._recalled, self._frames = (what, time.monotonic()), None

    def looks(self, front: str | None, busy: bool, desk: Desk = NO_DESK) -> None:
        """Take in which app is in front, and where windows are. `busy`: an action is under way."""
        now = time.monotonic()
        if busy:
            self._acted, self._frames = now, None  # what moves now is not moved by hand
        if self._recalled and now - self._acted > OURS:
            self._watch(now - self._recalled[1], self._recalled[0], desk)
        if front == self._front and self._looked:
            return
        first, self._looked, self._front = not self._looked, True, front
        if self.on and front and not first and now - self._acted > OURS:
            self._reached[front] = self._reached.get(front, 0) + 1
            self._wait()

    def _watch(self, since: float, what: str, desk: Desk) -> None:
        """Count a recall as put right, once, if a window that stood still has been moved since."""
        frames = {window.id: window.frame for window in desk.windows if not window.minimised}
        if since > SOON:
            self._recalled = None
        elif self._frames is None:
            self._frames = frames if since > OURS else None
        elif any(frame != frames.get(wid, frame) for wid, frame in self._frames.items()):
            self._recalled = None
            if self.on:
                self._put_right[what] = self._put_right.get(what, 0) + 1
                self._wait()

    def _wait(self) -> None:
        if self.deadline == float("inf"):
            self.deadline = time.monotonic() + WAITS

    def look(self) -> None:
        """Write what was counted, if it is time for that."""
        if time.monotonic() >= self.deadline:
            self._write()

    def _write(self) -> None:
        counted = [(FIRED, counted_as(*key), times) for key, times in self._keys.items()]
        counted += [(REACHED, app, times) for app, times in self._reached.items()]
        counted += [(GIVEN_UP, keys_written(keys), times) for keys, times in self._given_up.items()]
        counted += [(PUT_RIGHT, what, times) for what, times in self._put_right.items()]
        self._keys, self._reached, self._given_up, self._put_right = {}, {}, {}, {}
        self.deadline = float("inf")
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
