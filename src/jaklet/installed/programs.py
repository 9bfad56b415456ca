"""Programs on PATH, desktop entries, and what a simulated desk has of its own."""

import os
from collections.abc import Iterable, Iterator, Mapping

from jaklet.core.entries import DesktopEntry
from jaklet.installed.entries import Entries


class Installed:
    """What can be launched here. `programs` and `entries` are those that a tabletop has of its own."""

    def __init__(self, programs: Iterable[str] = (), entries: Mapping[str, DesktopEntry] | None = None) -> None:
        self._programs = frozenset(programs)
        self._own = entries or {}
        self._entries = Entries()
        self._names: set[str] | None = None

    def has(self, program: str) -> bool:
        """True if this can be run: by name on PATH, or by its path."""
        if program in self._programs:
            return True
        folders = [""] if "/" in program else os.get_exec_path()
        paths = (os.path.join(folder, os.path.expanduser(program)) for folder in folders)
        return any(os.path.isfile(path) and os.access(path, os.X_OK) for path in paths)

    def names(self) -> Iterable[str]:
        """Return the names of all programs on PATH."""
        if self._names is None:
            self._names = set(self._programs)
            for folder in os.get_exec_path():
                try:
                    self._names.update(os.listdir(folder))
                except OSError:
                    continue  # a folder on PATH that is not there is no fault of the config
        return self._names

    def entry(self, entry_id: str) -> DesktopEntry | None:
        """Return the desktop entry with this id; raises `EntryError` where it cannot be read as one."""
        return self._own.get(entry_id.removesuffix(".desktop")) or self._entries.find(entry_id)

    def works(self, entry: DesktopEntry) -> bool:
        """True if the program of an entry is there."""
        needed = (entry.try_exec, *entry.command[:1])
        return all(self.has(program) for program in needed if program)

    def entries(self) -> Iterator[DesktopEntry]:
        """Yield all desktop entries that can be read."""
        yield from self._own.values()
        yield from self._entries.every()

    def entry_ids(self) -> Iterable[str]:
        """Return the ids of all entries."""
        return [*self._own, *self._entries.paths()]
