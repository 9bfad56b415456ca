"""How often, and how lately, each thing was chosen in the finder: in SQLite in the state folder.

A use counts 1, and half of that a week later: what is chosen now and then is outweighed by what is chosen these days.
"""

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, Final

from jaklet.database import run_statements

DATABASE: Final = "choices.sqlite"
HALF: Final = 7 * 24 * 3600.0  # seconds after which a use counts half
LEAST: Final = 0.01  # what weighs less is forgotten
_TABLE: Final = "CREATE TABLE IF NOT EXISTS choices(what TEXT PRIMARY KEY, weight REAL NOT NULL, at REAL NOT NULL)"


def decayed_weight(weight: float, seconds: float) -> float:
    """Return the rest of a weight after a time."""
    return float(weight * 0.5 ** (max(0.0, seconds) / HALF))


class ChoiceCounts:
    """What was chosen. `state`: returns the folder; `now`: the seconds since the epoch."""

    def __init__(self, state: Callable[[], Path], now: Callable[[], float] = time.time) -> None:
        self._state, self._now = state, now

    def weights(self) -> dict[str, float]:
        """Return how much each thing weighs now; nothing where that cannot be read."""
        if not (self._state() / DATABASE).exists():
            return {}  # looking makes no files
        now = self._now()
        rows = self._do(("SELECT what, weight, at FROM choices", ()))
        return {
            what: left
            for what, weight, at in rows
            if isinstance(what, str) and isinstance(weight, float) and isinstance(at, float)
            if (left := decayed_weight(weight, now - at)) >= LEAST
        }

    def chose(self, what: str) -> None:
        """Note that something was chosen."""
        now, before = self._now(), self.weights()
        self._do(
            ("INSERT OR REPLACE INTO choices VALUES(?,?,?)", (what, before.get(what, 0.0) + 1.0, now)),
            ("DELETE FROM choices WHERE at < ?", (now - 7 * HALF,)),
        )

    def _do(self, *statements: tuple[str, tuple[object, ...]]) -> list[tuple[Any, ...]]:
        return run_statements(self._state() / DATABASE, _TABLE, *statements)
