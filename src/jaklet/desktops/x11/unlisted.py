"""Windows that the manager does not list any more, and that are there all the same.

A manager that ends or is replaced leaves windows as normal or iconic (ICCCM 4.1.3.1), and the next one lists them
again, one by one. They are the same windows, and not new ones.
"""

import time as clock
from typing import Final

from jaklet.desktops.x11.wire import Wire, replies, words_of

PATIENCE: Final = 5.0  # seconds for which a window counts that no manager lists, and nobody has withdrawn
NORMAL, ICONIC = 1, 3  # WM_STATE


class UnlistedWindows:
    """Which windows are waited for, and since when."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self.since: dict[int, float] = {}
        self.due = float("inf")  # when to look again

    def waited_for(self, missing: set[int]) -> set[int]:
        """Return which of the windows that are not listed count, for a while."""
        now = clock.monotonic()
        asked = [(wid, self._wire.ask(wid, "WM_STATE")) for wid in missing]
        there = {
            wid
            for wid, cookie in asked
            for state in replies((cookie,))
            if state is not None and words_of(state)[:1] in ((NORMAL,), (ICONIC,))
        }
        self.since = {wid: self.since.get(wid, now) for wid in there}
        if there and not self._wire.has_manager():
            self.since = dict.fromkeys(there, now)  # nobody is there to list them
        self.due = min(self.since.values(), default=float("inf")) + PATIENCE
        return {wid for wid, since in self.since.items() if now - since < PATIENCE}
