"""What was learned of window managers: in which way each kind of request works, in SQLite in the state folder.

It is known by the manager's own name and version. What cannot be kept is learned again.
"""

import time
from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import Any, Final

from jaklet.database import run_statements

DATABASE: Final = "managers.sqlite"
LASTING: Final = 365 * 24 * 3600  # seconds after which what nobody has used is thrown away
WAITS: Final = 0.03  # seconds for others who are at work on the file: a key may wait meanwhile
_TABLE: Final = """CREATE TABLE IF NOT EXISTS ways(
    manager TEXT NOT NULL, kind TEXT NOT NULL, way TEXT NOT NULL, at REAL NOT NULL, PRIMARY KEY (manager, kind))"""


class LearnedWays:
    """The ways that work with one window manager. `state`: returns the folder; `manager`: its name and version."""

    def __init__(self, state: Callable[[], Path], manager: Callable[[], str]) -> None:
        self._state, self._named = state, manager

    @cached_property
    def _manager(self) -> str:
        return self._named()

    def all(self) -> dict[str, str]:
        """Return the way for each kind of request; nothing where that cannot be read."""
        if not (self._state() / DATABASE).exists():
            return {}  # looking makes no files
        rows = self._do(("SELECT kind, way FROM ways WHERE manager = ?", (self._manager,)))
        return {kind: way for kind, way in rows if isinstance(kind, str) and isinstance(way, str)}

    def keep(self, kind: str, way: str) -> None:
        """Note a way that has worked."""
        now = time.time()
        self._do(
            ("INSERT OR REPLACE INTO ways VALUES(?,?,?,?)", (self._manager, kind, way, now)),
            ("DELETE FROM ways WHERE at < ?", (now - LASTING,)),
        )

    def _do(self, *statements: tuple[str, tuple[object, ...]]) -> list[tuple[Any, ...]]:
        return run_statements(self._state() / DATABASE, _TABLE, *statements, waits=WAITS)
