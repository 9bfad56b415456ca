"""SQLite files that outlive their faults: one that is broken is put aside, and what can be read of it is not lost."""

import contextlib
import time
import weakref
from collections.abc import Callable, Iterable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

if TYPE_CHECKING:
    import sqlite3

MOST_ROWS = 100_000  # of a broken file, which may tell of any number


def is_broken(fault: Exception) -> bool:
    """Return whether a fault of SQLite is one of the file itself, and not of the disk or of somebody at work on it."""
    told = str(fault)
    return "malformed" in told or "not a database" in told or "no such column" in told or "file is encrypted" in told


WAITS: Final = 1.0  # seconds for others who are at work on a file
LASTS: Final = 5.0  # seconds after which a statement is ended: what somebody put into a file may have no end
STEPS: Final = 10_000  # of SQLite's machine between two looks at the clock


def connect(
    path: Path, waits: float = WAITS, ends: Callable[[], float] | None = None, threads: bool = False
) -> "sqlite3.Connection":
    """Return a connection: each statement commits by itself, and none lasts for ever; raises `sqlite3.Error`.

    `ends`: returns when a statement is ended, on the monotonic clock; `threads`: several use it, one at a time.
    """
    import sqlite3  # few commands need it

    connection = sqlite3.connect(path, isolation_level=None, timeout=waits, check_same_thread=not threads)
    end = time.monotonic() + LASTS
    until = ends or (lambda: end)
    connection.set_progress_handler(lambda: time.monotonic() > until(), STEPS)
    return connection


@contextlib.contextmanager
def open_database(path: Path, *tables: str, waits: float = WAITS) -> "Iterator[sqlite3.Connection]":
    """Yield a database that is made where it is not there; raises `sqlite3.Error`, `OSError`.

    Nothing in it is synced to disk: it is for what may be lost with the machine. `tables`: statements that make them.
    """
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    with contextlib.closing(connect(path, waits)) as database:
        _prepare(database, tables)
        yield database


def _prepare(database: "sqlite3.Connection", tables: Iterable[str]) -> None:
    """Let nothing be synced to disk, and make the tables that are not there."""
    for statement in ("PRAGMA synchronous=OFF", *tables):
        database.execute(statement)


class LastingDatabase:
    """A database that stays open from one use to the next, for whoever writes often; one at a time uses it.

    The file may be taken away, or another one be put into its place: then that is opened. `path`: returns the file;
    `tables`: statements that make them.
    """

    def __init__(self, path: Callable[[], Path], *tables: str) -> None:
        self._path, self._tables = path, tables
        self._connection: sqlite3.Connection | None = None
        self._file: tuple[int, int] | None = None  # device and inode of what is open
        self._ends = [0.0]  # when a statement is ended: in a list, so that the connection knows nothing of this object
        self._let_go: Callable[[], object] | None = None

    @contextlib.contextmanager
    def use(self) -> "Iterator[sqlite3.Connection]":
        """Yield the database, in one transaction; raises `sqlite3.Error`, `OSError`.

        After an error it is opened anew.
        """
        path = self._path()
        self._ends[0] = time.monotonic() + LASTS
        if self._connection is None or _file_of(path) != self._file:
            self.close()
            self._open(path)
        assert self._connection is not None
        try:
            self._connection.execute("BEGIN")
            yield self._connection
            self._connection.execute("COMMIT")
        except BaseException:
            self.close()  # what was begun is undone by that
            raise

    def _open(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        ends = self._ends
        self._connection = connect(path, ends=lambda: ends[0], threads=True)
        # A command that has kept a step ends without a word, and so does whoever forgets this object.
        self._let_go = weakref.finalize(self, self._connection.close)
        _prepare(self._connection, self._tables)
        self._file = _file_of(path)

    def close(self) -> None:
        """Let go of the file."""
        let_go, self._let_go, self._connection = self._let_go, None, None
        if let_go:
            let_go()


def _file_of(path: Path) -> tuple[int, int] | None:
    """Return device and inode of a file; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def run_statements(
    path: Path, table: str, *statements: tuple[str, tuple[object, ...]], waits: float = WAITS
) -> list[tuple[Any, ...]]:
    """Do statements, and return the rows of the last; what goes wrong is let be, and a broken file is put aside.

    It is for what is learned again where it is lost. `table`: the statement that makes the table; `waits`: seconds for
    others who are at work on the file.
    """
    import sqlite3  # few commands need it

    rows = list[tuple[Any, ...]]()
    try:
        with open_database(path, table, waits=waits) as database:
            for statement, values in statements:
                rows = database.execute(statement, values).fetchall()
    except (sqlite3.Error, OSError) as fault:
        if isinstance(fault, sqlite3.Error) and is_broken(fault):
            with contextlib.suppress(OSError):
                put_aside(path)
    return rows


def put_aside(path: Path) -> Path:
    """Give a broken file another name, and return that; raises `OSError`."""
    stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    aside = path.with_name(f"{path.name}.broken-{stamp}")
    number = 1
    while aside.exists():
        number += 1
        aside = path.with_name(f"{path.name}.broken-{stamp}-{number}")
    path.rename(aside)
    for more in ("-journal", "-wal", "-shm"):
        with contextlib.suppress(FileNotFoundError):
            path.with_name(path.name + more).rename(aside.with_name(aside.name + more))
    return aside


def readable(path: Path, table: str, columns: tuple[str, ...]) -> list[tuple[Any, ...]]:
    """Return the rows of a table that can still be read, from the front and, behind the fault, from the back."""
    import sqlite3

    wanted = ", ".join(columns)
    found: dict[int, tuple[Any, ...]] = {}
    for order in ("ASC", "DESC"):
        asked = f"SELECT rowid, {wanted} FROM {table} ORDER BY rowid {order}"
        with contextlib.suppress(sqlite3.Error), contextlib.closing(connect(path)) as database:
            database.execute("PRAGMA writable_schema=ON")  # else a file that is cut short is not looked into at all
            for rowid, *row in _rows(database.execute(asked)):
                if rowid in found or len(found) >= MOST_ROWS:
                    break
                found[rowid] = tuple(row)
    return [found[rowid] for rowid in sorted(found)]


def _rows(cursor: "sqlite3.Cursor") -> Iterator[tuple[Any, ...]]:
    """Yield rows up to the first that cannot be read."""
    import sqlite3

    with contextlib.suppress(sqlite3.Error):
        yield from cursor
