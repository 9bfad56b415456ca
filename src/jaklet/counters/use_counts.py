"""How often keys have fired and apps were reached otherwise, by day: in SQLite in the state folder.

Only bound chords with their actions, and names of apps: never what was typed.
"""

from collections.abc import Callable, Iterable
from datetime import date, timedelta
from pathlib import Path
from typing import Any, Final

from jaklet.core.values.use_counts import Count
from jaklet.database import run_statements

DATABASE: Final = "use.sqlite"
KEPT: Final = 2 * 366  # days
_TABLE: Final = (
    "CREATE TABLE IF NOT EXISTS counts"
    "(day TEXT, kind TEXT, what TEXT, times INTEGER NOT NULL, PRIMARY KEY(day, kind, what))"
)
_ADD: Final = (
    "INSERT INTO counts VALUES(?,?,?,?) ON CONFLICT(day, kind, what) DO UPDATE SET times = times + excluded.times"
)


class UseCounts:
    """The counts. `state`: returns the folder; `today`: the day that it is."""

    def __init__(self, state: Callable[[], Path], today: Callable[[], date] = date.today) -> None:
        self._state, self._today = state, today

    def add(self, counted: Iterable[tuple[str, str, int]]) -> None:
        """Count more: kinds, things, and how often; forget what is too old."""
        day = self._today().isoformat()
        oldest = (self._today() - timedelta(KEPT)).isoformat()
        rows = [(_ADD, (day, kind, what, times)) for kind, what, times in counted]
        self._do(*rows, ("DELETE FROM counts WHERE day < ?", (oldest,)))

    def since(self, days: int) -> list[Count]:
        """Return the counts of the last days, today included; nothing where they cannot be read."""
        if not self.file.exists():
            return []  # looking makes no files
        first = (self._today() - timedelta(days - 1)).isoformat()
        rows = self._do(("SELECT day, kind, what, times FROM counts WHERE day >= ? ORDER BY day, kind, what", (first,)))
        return [Count(*row) for row in rows if [type(one) for one in row] == [str, str, str, int]]

    def forget(self) -> int:
        """Forget all; return how many counts there were."""
        if not self.file.exists():
            return 0
        found = self._do(("SELECT count(*) FROM counts", ()))
        self._do(("DELETE FROM counts", ()), ("VACUUM", ()))
        return int(found[0][0]) if found else 0

    @property
    def file(self) -> Path:
        """Where they are kept."""
        return self._state() / DATABASE

    def _do(self, *statements: tuple[str, tuple[object, ...]]) -> list[tuple[Any, ...]]:
        return run_statements(self.file, _TABLE, *statements)
