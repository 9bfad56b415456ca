"""The former versions of layouts, in SQLite in the state folder; each folder of layouts has its own."""

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Final, NamedTuple

from jaklet.core.errors import StoreError

if TYPE_CHECKING:
    import sqlite3

DATABASE: Final = "layouts.sqlite"
_TABLE: Final = """CREATE TABLE IF NOT EXISTS versions(
    folder TEXT NOT NULL, name TEXT NOT NULL, version INTEGER NOT NULL, saved TEXT NOT NULL, text TEXT NOT NULL,
    PRIMARY KEY (folder, name, version))"""


class Version(NamedTuple):
    """A text that was a layout once. `saved`: when something else took its place, in UTC (ISO 8601)."""

    number: int
    saved: str
    text: str


class Versions:
    """The history of the layouts in one folder. Every method raises `StoreError`."""

    def __init__(self, state: Path, folder: Path) -> None:
        self._path = state / DATABASE
        self._folder = str(folder.resolve())

    @contextlib.contextmanager
    def _open(self) -> Iterator["sqlite3.Connection"]:
        """Open the history; each statement commits by itself, and lasts."""
        import sqlite3  # only saves over a layout, and looks into the past, need it

        try:
            with contextlib.closing(sqlite3.connect(self._path, isolation_level=None)) as connection:
                connection.execute("PRAGMA synchronous=FULL")
                connection.execute(_TABLE)
                yield connection
        except sqlite3.Error as fault:
            raise StoreError(f"the history of layouts cannot be used: {fault}", f"see to {self._path}") from fault

    def remember(self, name: str, text: str) -> int:
        """Add a version, and return its number; one that is there already as the last is not added."""
        from datetime import UTC, datetime

        with self._open() as history:
            last = history.execute(
                "SELECT version, text FROM versions WHERE folder=? AND name=? ORDER BY version DESC LIMIT 1",
                (self._folder, name),
            ).fetchone()
            if last and last[1] == text:
                return int(last[0])
            version = int(last[0]) + 1 if last else 1
            saved = datetime.now(UTC).isoformat(timespec="seconds")
            history.execute("INSERT INTO versions VALUES(?,?,?,?,?)", (self._folder, name, version, saved, text))
            return version

    def of(self, name: str) -> list[Version]:
        """Return the versions of a layout, the first one first."""
        if not self._path.exists():  # looking makes no files
            return []
        with self._open() as history:
            rows = history.execute(
                "SELECT version, saved, text FROM versions WHERE folder=? AND name=? ORDER BY version",
                (self._folder, name),
            )
            return [Version(*row) for row in rows]

    def names(self) -> list[str]:
        """Return the names of all layouts that have a history."""
        if not self._path.exists():
            return []
        with self._open() as history:
            rows = history.execute("SELECT DISTINCT name FROM versions WHERE folder=? ORDER BY name", (self._folder,))
            return [name for (name,) in rows]

    def renamed(self, name: str, to: str) -> None:
        """Follow a layout to its new name, behind the versions that have that name already."""
        with self._open() as history:
            history.execute(
                "UPDATE versions SET name=?, version = version + (SELECT coalesce(max(version), 0) FROM versions"
                " WHERE folder=? AND name=?) WHERE folder=? AND name=?",
                (to, self._folder, to, self._folder, name),
            )
