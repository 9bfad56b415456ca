"""What was learned of windows that go back after they were placed: by their class, in SQLite in the state folder.

What cannot be kept is learned again.
"""

import time
from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import Any, Final

from jaklet.database import run_statements

DATABASE: Final = "returns.sqlite"
LASTING: Final = 90 * 24 * 3600  # seconds after which a class is given another chance
CALM: Final = 5  # times in a row that windows of a class have to stay, until nobody waits for them any more
WAITS: Final = 0.03  # seconds for others who are at work on the file: a key may wait meanwhile
_TABLE: Final = "CREATE TABLE IF NOT EXISTS returns(class TEXT PRIMARY KEY, after REAL NOT NULL, at REAL NOT NULL)"


class LearnedReturns:
    """After how many seconds windows of a class have gone back. `state`: returns the folder."""

    def __init__(self, state: Callable[[], Path]) -> None:
        self._state = state
        self._stayed: dict[str, int] = {}  # times in a row

    @cached_property
    def _known(self) -> dict[str, float]:
        if not (self._state() / DATABASE).exists():
            return {}  # looking makes no files
        rows = self._do(("SELECT class, after FROM returns WHERE at > ?", (time.time() - LASTING,)))
        return {cls: after for cls, after in rows if isinstance(cls, str) and isinstance(after, float)}

    def after(self, cls: str) -> float:
        """Return after how many seconds windows of a class go back, as far as was seen; 0 for those that do not."""
        return self._known.get(cls, 0.0)

    def learn(self, cls: str, after: float) -> float:
        """Take in that a window of a class has gone back; return the longest time that one has taken, for `keep`."""
        self._stayed.pop(cls, None)
        self._known[cls] = max(after, self._known.get(cls, 0.0))
        return self._known[cls]

    def stays(self, cls: str) -> None:
        """Take in that a window of a class has stayed; after a few of them in a row the class is one that does."""
        if cls in self._known:
            self._stayed[cls] = self._stayed.get(cls, 0) + 1
            if self._stayed[cls] >= CALM:
                del self._known[cls]
                self._do(("DELETE FROM returns WHERE class = ?", (cls,)))

    def keep(self, cls: str, after: float) -> None:
        """Write what was learned."""
        self._do(("INSERT OR REPLACE INTO returns VALUES(?,?,?)", (cls, after, time.time())))

    def _do(self, *statements: tuple[str, tuple[object, ...]]) -> list[tuple[Any, ...]]:
        return run_statements(self._state() / DATABASE, _TABLE, *statements, waits=WAITS)
