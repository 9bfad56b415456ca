"""The former versions of layouts, in SQLite in the state folder; each folder of layouts has its own."""

import contextlib
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from jaklet.core.values.errors import StoreError
from jaklet.database import connect, is_broken, put_aside, readable

if TYPE_CHECKING:
    import sqlite3

DATABASE: Final = "layouts.sqlite"
_TABLE: Final = """CREATE TABLE IF NOT EXISTS versions(
    folder TEXT NOT NULL, name TEXT NOT NULL, version INTEGER NOT NULL, saved TEXT NOT NULL, text TEXT NOT NULL,
    PRIMARY KEY (folder, name, version))"""


_COLUMNS: Final = ("folder", "name", "version", "saved", "text")


class _BrokenError(StoreError):
    """The file is no database any more."""


class Version(NamedTuple):
    """A text that was a layout once. `saved`: when something else took its place, in UTC (ISO 8601)."""

    number: int
    saved: str
    text: str


class VersionHistory:
    """The history of the layouts in one folder. Every method raises `StoreError`."""

    def __init__(self, state: Path, folder: Path) -> None:
        self._path = state / DATABASE
        self.aside: Path | None = None  # where a history was put that was broken
        self._folder = str(folder.resolve())

    @contextlib.contextmanager
    def _open(self) -> Iterator["sqlite3.Connection"]:
        """Open the history; each statement commits by itself, and lasts."""
        import sqlite3  # only saves over a layout, and looks into the past, need it

        try:
            with contextlib.closing(connect(self._path)) as connection:
                connection.execute("PRAGMA synchronous=FULL")
                connection.execute(_TABLE)
                yield connection
        except sqlite3.Error as fault:
            if is_broken(fault):
                raise _BrokenError(str(fault)) from fault
            raise StoreError(f"the history of layouts cannot be used: {fault}", f"see to {self._path}") from fault

    def _renew(self) -> None:
        """Put a broken history aside, and begin a new one with all that can be read of it."""
        rows = readable(self._path, "versions", _COLUMNS)
        try:
            self.aside = put_aside(self._path)
        except OSError as fault:
            raise StoreError(f"the history of layouts is broken: {fault.strerror}", f"see to {self._path}") from fault
        with self._open() as history:
            kept = [row for row in rows if _sound(row[2:]) and isinstance(row[0], str) and isinstance(row[1], str)]
            history.executemany("INSERT OR IGNORE INTO versions VALUES(?,?,?,?,?)", kept)

    def remember(self, name: str, text: str) -> int:
        """Add a version, and return its number; one that is there already as the last is not added.

        A history that is broken is put `aside`, and a new one begun.
        """
        try:
            return self._remember(name, text)
        except _BrokenError:
            self._renew()
            return self._remember(name, text)

    def _remember(self, name: str, text: str) -> int:
        from datetime import UTC, datetime

        with self._open() as history:
            if history.execute("PRAGMA quick_check(1)").fetchone() != ("ok",):
                raise _BrokenError("a part of it is missing or overwritten")
            last = history.execute(
                "SELECT version, text FROM versions WHERE folder=? AND name=? AND typeof(version)='integer'"
                " ORDER BY version DESC LIMIT 1",
                (self._folder, name),
            ).fetchone()
            if last and last[1] == text:
                return int(last[0])
            version = int(last[0]) + 1 if last else 1
            saved = datetime.now(UTC).isoformat(timespec="seconds")
            history.execute("INSERT INTO versions VALUES(?,?,?,?,?)", (self._folder, name, version, saved, text))
            return version

    def of(self, name: str) -> list[Version]:
        """Return the versions of a layout that can be read, the first one first."""
        rows = (row for row in self._rows() if row[0] == self._folder and row[1] == name and _sound(row[2:]))
        return sorted(Version(*row[2:]) for row in rows)

    def names(self) -> list[str]:
        """Return the names of all layouts that have a history."""
        return sorted({row[1] for row in self._rows() if row[0] == self._folder and isinstance(row[1], str)})

    def _rows(self) -> list[tuple[Any, ...]]:
        """Return the versions in the history, of a broken one all that can be read. Reading changes no files."""
        if not self._path.exists():
            return []
        try:
            with self._open() as history:
                return history.execute(f"SELECT {', '.join(_COLUMNS)} FROM versions").fetchall()
        except _BrokenError:
            return readable(self._path, "versions", _COLUMNS)

    @contextlib.contextmanager
    def renaming(self, name: str, to: str, text: str) -> Iterator[None]:
        """Add a version, and move all to a new name, behind the versions that have that name already.

        It is so once what is done within has gone well, and as before where it has not.
        """
        self.remember(name, text)  # puts a broken history aside
        with self._open() as history:
            history.execute("BEGIN IMMEDIATE")
            try:
                history.execute(
                    "UPDATE versions SET name=?, version = version + (SELECT coalesce(max(version), 0) FROM versions"
                    " WHERE folder=? AND name=?) WHERE folder=? AND name=?",
                    (to, self._folder, to, self._folder, name),
                )
                yield
            except BaseException:
                history.execute("ROLLBACK")
                raise
            history.execute("COMMIT")


def _sound(row: tuple[Any, ...]) -> bool:
    """Return whether a number, a time and a text are what they should be: others may have written into the file."""
    number, saved, text = row
    return isinstance(number, int) and isinstance(saved, str) and isinstance(text, str)
