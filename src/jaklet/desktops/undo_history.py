"""The steps that can be undone, in SQLite in the state folder: each desk has its own, and they outlive the listener.

A step names windows by their ids, so that it is worth nothing once the X server has ended; nothing is synced to disk.
"""

import contextlib
import json
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from jaklet.core.actions.ports.history import FormerWindow, UndoStep
from jaklet.core.language.kept import kept_from, plain_kept
from jaklet.core.values.desk import WindowShape
from jaklet.core.values.errors import JakletError, StoreError
from jaklet.core.values.geometry import Rect
from jaklet.database import LastingDatabase, is_broken, put_aside

if TYPE_CHECKING:
    import sqlite3

DATABASE: Final = "undo.sqlite"
MOST: Final = 50  # steps of one desk that are kept
LASTING: Final = 30 * 24 * 3600  # seconds after which the steps of a desk that is gone are thrown away
_USES: Final = """CREATE TABLE IF NOT EXISTS uses(
    desk TEXT NOT NULL, layout TEXT NOT NULL, at REAL NOT NULL, PRIMARY KEY (desk, layout))"""
_TABLE: Final = """CREATE TABLE IF NOT EXISTS steps(
    number INTEGER PRIMARY KEY AUTOINCREMENT, desk TEXT NOT NULL, at REAL NOT NULL, step TEXT NOT NULL)"""


class UndoHistory:
    """The history of one desk (`ports.History`). What cannot be kept is not, and no action fails for it."""

    def __init__(self, state: Callable[[], Path], desk: str) -> None:
        self._state = state
        self._desk = desk
        self._database = LastingDatabase(lambda: state() / DATABASE, _TABLE, _USES)

    @contextlib.contextmanager
    def _open(self) -> "Iterator[sqlite3.Connection]":
        """Yield the database; raises `StoreError`."""
        import sqlite3  # nothing but placing needs it

        path = self._state() / DATABASE
        try:
            with self._database.use() as database:
                yield database
        except (sqlite3.Error, OSError) as fault:
            remedy = f"see to {path}"
            if isinstance(fault, sqlite3.Error) and is_broken(fault):
                with contextlib.suppress(OSError):  # of windows that come and go nothing is worth being read again
                    remedy = f"it is kept as {put_aside(path)}, and a new one is begun"
            raise StoreError(f"what can be undone cannot be read: {fault}", remedy) from fault

    def keep(self, step: UndoStep) -> int:
        """Add a step, and return its number; 0 where it could not be kept."""
        with contextlib.suppress(StoreError), self._open() as database:
            now = time.time()
            added = database.execute(
                "INSERT INTO steps(desk, at, step) VALUES(?,?,?)", (self._desk, now, json.dumps(_plain(step)))
            )
            database.execute(
                "DELETE FROM steps WHERE at < ? OR (desk = ? AND number <= (SELECT number FROM steps WHERE desk = ?"
                " ORDER BY number DESC LIMIT 1 OFFSET ?))",
                (now - LASTING, self._desk, self._desk, MOST),
            )
            return added.lastrowid or 0
        return 0

    def more(self, number: int, step: UndoStep) -> int:
        """Put a step in the place of an earlier state of it."""
        with contextlib.suppress(StoreError), self._open() as database:
            database.execute("UPDATE steps SET step = ? WHERE number = ?", (json.dumps(_plain(step)), number))
        return number

    def steps(self) -> list[tuple[int, UndoStep]]:
        """Return the steps with their numbers, the last one first; raises `StoreError`."""
        if not (self._state() / DATABASE).exists():
            return []  # looking makes no files
        with self._open() as database:
            rows = database.execute(
                "SELECT number, at, step FROM steps WHERE desk = ? ORDER BY number DESC", (self._desk,)
            ).fetchall()
        found = ((number, _step_of(text, at)) for number, at, text in rows)
        return [(number, step) for number, step in found if step]

    def drop(self, number: int) -> None:
        """Take a step away; raises `StoreError`."""
        with self._open() as database:
            database.execute("DELETE FROM steps WHERE number = ?", (number,))

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled or saved; where that cannot be kept, it is not."""
        with contextlib.suppress(StoreError), self._open() as database:
            database.execute("INSERT OR REPLACE INTO uses VALUES(?,?,?)", (self._desk, layout, time.time()))

    def layouts(self) -> list[str]:
        """Return the layouts that were recalled or saved on this desk, the last one first; raises `StoreError`."""
        if not (self._state() / DATABASE).exists():
            return []
        with self._open() as database:
            rows = database.execute("SELECT layout FROM uses WHERE desk = ? ORDER BY at DESC", (self._desk,))
            return [layout for (layout,) in rows if isinstance(layout, str)]

    def last_uses(self) -> dict[str, float]:
        """Return when each layout was used last on any desk, in seconds since the epoch; raises `StoreError`."""
        if not (self._state() / DATABASE).exists():
            return {}
        with self._open() as database:
            rows = database.execute("SELECT layout, max(at) FROM uses GROUP BY layout").fetchall()
        return {layout: at for layout, at in rows if isinstance(layout, str) and isinstance(at, float)}

    def renamed(self, layout: str, name: str) -> None:
        """Follow a layout to its new name."""
        with contextlib.suppress(StoreError), self._open() as database:
            database.execute("UPDATE OR REPLACE uses SET layout = ? WHERE layout = ?", (name, layout))


def _plain(step: UndoStep) -> dict[str, Any]:
    kept = None if step.kept is None else plain_kept(step.kept)
    return step._asdict() | {"windows": [was._asdict() for was in step.windows], "kept": kept}


def _step(plain: dict[str, Any], at: float) -> UndoStep:
    windows = tuple(
        FormerWindow(**(one | {"frame": Rect(*one["frame"]), "shape": WindowShape(one["shape"])}))
        for one in plain["windows"]
    )
    kept = plain.get("kept")
    read = {"windows": windows, "stacking": tuple(plain["stacking"]), "kept": kept and kept_from(kept), "at": at}
    return UndoStep(**(plain | read))


def _step_of(text: Any, at: Any) -> UndoStep | None:
    """Return a step as it was kept; None for what is none, whoever wrote it there."""
    try:
        return _step(json.loads(text), float(at))
    except (TypeError, ValueError, KeyError, AttributeError, RecursionError, JakletError):
        return None
