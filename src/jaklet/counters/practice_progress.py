"""How well each line of keys is known: in SQLite in the state folder."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, Final

from jaklet.database import run_statements
from jaklet.practice.schedule import LearnedState

DATABASE: Final = "practice.sqlite"
_TABLE: Final = (
    "CREATE TABLE IF NOT EXISTS progress"
    "(what TEXT PRIMARY KEY, times INTEGER NOT NULL, ease REAL NOT NULL, days INTEGER NOT NULL, due TEXT NOT NULL)"
)


class Progress:
    """What was learned. `state`: returns the folder."""

    def __init__(self, state: Callable[[], Path]) -> None:
        self._state = state

    @property
    def file(self) -> Path:
        """Where it is kept."""
        return self._state() / DATABASE

    def all(self) -> dict[str, LearnedState]:
        """Return it, by the names of lessons; nothing where that cannot be read."""
        if not self.file.exists():
            return {}  # looking makes no files
        rows = self._do("SELECT what, times, ease, days, due FROM progress")
        return {
            row[0]: LearnedState(*row[1:]) for row in rows if [type(one) for one in row] == [str, int, float, int, str]
        }

    def keep(self, name: str, learned: LearnedState) -> None:
        """Write how well a lesson is known now."""
        self._do("INSERT OR REPLACE INTO progress VALUES(?,?,?,?,?)", name, *learned)

    def forget(self) -> int:
        """Forget all; return how much there was."""
        known = len(self.all())
        if known:
            self._do("DELETE FROM progress")
        return known

    def _do(self, statement: str, *values: object) -> list[tuple[Any, ...]]:
        return run_statements(self.file, _TABLE, (statement, values))
