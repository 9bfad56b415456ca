"""Layouts on disk: one file each, replaced whole, every overwritten version kept in SQLite.

Order of a save, under a lock: the former text goes into the history and is committed; the new text is written beside
the file and synced; a rename puts it in place; the folder is synced. Whatever stops the process, and whenever, the file
holds the old layout or the new one, and the old one is in the history before it can go.
"""

import contextlib
import fcntl
import os
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Final

from jaklet.config.layoutfile import LayoutReading, layout_text, read_layout
from jaklet.config.paths import state_folder
from jaklet.config.reader import Source, read_source
from jaklet.core.errors import StoreError, UsageError
from jaklet.core.findings import Finding
from jaklet.core.layouts import Layout, name_fault
from jaklet.core.ports import Kept
from jaklet.files import write_whole

if TYPE_CHECKING:
    import sqlite3

_DATABASE: Final = "layouts.sqlite"
_TABLE: Final = """CREATE TABLE IF NOT EXISTS versions(
    folder TEXT NOT NULL, name TEXT NOT NULL, version INTEGER NOT NULL, saved TEXT NOT NULL, text TEXT NOT NULL,
    PRIMARY KEY (folder, name, version))"""


class LayoutShelf:
    """The layouts in one folder, and their history in the state folder (by default the user's)."""

    def __init__(self, folder: Path, state: Path | None = None, shown: str = "") -> None:
        self.folder = folder
        self._given_state = state
        self._shown = shown or str(folder)

    @cached_property
    def _state(self) -> Path:
        """The state folder, looked up only where something is kept: reading layouts needs none."""
        return self._given_state or state_folder()

    def files(self) -> list[Path]:
        """Return the layout files in the order of their names."""
        return sorted(path for path in self.folder.glob("*.yaml") if not path.name.startswith("."))

    def names(self) -> list[str]:
        """Return the names of all layouts, by their files."""
        return [path.stem for path in self.files()]

    def shown(self, path: Path) -> str:
        """Return a layout file's path as the user would write it."""
        return os.path.join(self._shown, path.name)

    def read(self, path: Path, found: list[Finding]) -> tuple[Source | None, LayoutReading | None]:
        """Read one layout file, reporting every fault."""
        source = read_source(path, self.shown(path), found)
        return source, read_layout(source, found) if source else None

    def find(self, word: str) -> Layout | None:
        """Return the layout with this name, number, or former version `NAME@N`; None if there is none.

        Raises `StoreError` where its file has faults.
        """
        name, at, version = word.partition("@")
        if at:
            return self._former(name, version)
        if not word.isdigit():
            path = self._file(word)
            return self._whole(path) if path.exists() else None
        for path in self.files():
            _, reading = self.read(path, [])
            layout = reading.layout if reading else None
            if layout and layout.number == int(word):
                return layout
        return None

    def _file(self, name: str) -> Path:
        fault = name_fault(name)
        if fault:
            raise StoreError(f"{name!r} cannot be a layout's name: {fault}", "use a name such as departures")
        return self.folder / f"{name}.yaml"

    def _whole(self, path: Path) -> Layout:
        found: list[Finding] = []
        _, reading = self.read(path, found)
        if reading is None or reading.layout is None:
            first = found[0]
            raise StoreError(f"{first.spot}: {first.cause}", f"{first.remedy}; `jaklet check` shows all of it")
        return reading.layout

    def keep(self, layout: Layout) -> Kept:
        """Save a layout, keeping the former version; raises `StoreError`, and then nothing has changed."""
        path = self._file(layout.name)
        text = layout_text(layout)
        try:
            with self._locked():
                self._number_is_free(layout, path)
                former = path.read_bytes().decode("utf-8", "replace") if path.exists() else None
                if former == text:
                    return Kept(None)
                number = None if former is None else self._remember(layout.name, former)
                self.folder.mkdir(parents=True, exist_ok=True)
                write_whole(path, text)
        except OSError as fault:
            raise StoreError(
                f"{layout.name} was not saved, and is as it was before: {fault.strerror or fault}",
                f"see to {fault.filename or self._shown}, then save again",
            ) from fault
        return Kept(number)

    def _number_is_free(self, layout: Layout, own: Path) -> None:
        if layout.number is None:
            return
        holder = self.find(str(layout.number))
        if holder and self._file(holder.name) != own:
            raise StoreError(f"number {layout.number} is {holder.name}'s", "choose another number")

    @contextlib.contextmanager
    def _locked(self) -> Iterator[None]:
        """Let one process save at a time."""
        self._state.mkdir(parents=True, exist_ok=True, mode=0o700)
        with open(self._state / "layouts.lock", "w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            yield

    @contextlib.contextmanager
    def _history(self) -> Iterator["sqlite3.Connection"]:
        """Open the history; each statement commits by itself, and lasts."""
        import sqlite3  # only saves over a layout, and looks into the past, need it

        with contextlib.closing(sqlite3.connect(self._state / _DATABASE, isolation_level=None)) as connection:
            connection.execute("PRAGMA synchronous=FULL")
            connection.execute(_TABLE)
            yield connection

    def _remember(self, name: str, text: str) -> int:
        """Add a version to the history, and return its number; one that is there already as the last is not added."""
        import sqlite3
        from datetime import UTC, datetime

        folder = str(self.folder.resolve())
        try:
            with self._history() as history:
                last = history.execute(
                    "SELECT version, text FROM versions WHERE folder=? AND name=? ORDER BY version DESC LIMIT 1",
                    (folder, name),
                ).fetchone()
                if last and last[1] == text:
                    return int(last[0])
                version = int(last[0]) + 1 if last else 1
                saved = datetime.now(UTC).isoformat(timespec="seconds")
                history.execute("INSERT INTO versions VALUES(?,?,?,?,?)", (folder, name, version, saved, text))
                return version
        except sqlite3.Error as fault:
            raise StoreError(
                f"{name} was not saved, as its former version could not be kept: {fault}",
                f"see to {self._state / _DATABASE}, then save again",
            ) from fault

    def _former(self, name: str, version: str) -> Layout:
        import sqlite3

        if not version.isdigit():
            raise UsageError(f"{name}@{version} names no version", f"write a version's number: {name}@1")
        row = None
        try:
            if (self._state / _DATABASE).exists():  # looking makes no files
                with self._history() as history:
                    row = history.execute(
                        "SELECT text FROM versions WHERE folder=? AND name=? AND version=?",
                        (str(self.folder.resolve()), name, int(version)),
                    ).fetchone()
        except (sqlite3.Error, OSError) as fault:
            raise StoreError(f"the history cannot be read: {fault}", f"see to {self._state}") from fault
        if row is None:
            raise StoreError(f"there is no version {version} of {name}")
        found: list[Finding] = []
        layout = read_layout(Source(f"{name}@{version}", row[0]), found).layout
        if layout is None:
            raise StoreError(f"{found[0].spot}: {found[0].cause}", found[0].remedy)
        return layout
