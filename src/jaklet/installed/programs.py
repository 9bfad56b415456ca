"""Programs on PATH, desktop entries, and what a simulated desk has of its own."""

import os
from collections.abc import Iterable, Iterator, Mapping
from typing import Final

from jaklet.core.values.desktop_entries import DesktopEntry
from jaklet.installed.desktop_entries import DesktopEntries

LARGEST: Final = 64_000_000  # bytes of a program that are looked at
# What a program that can show windows on X, itself or by its toolkit, has the name of in its file.
_OF_X: Final = (b"libX11", b"libxcb", b"libgtk", b"libgdk", b"libQt", b"libSDL", b"libglfw", b"libwx", b"libfltk")


class InstalledPrograms:
    """What can be launched here. `programs` and `entries` are those that a tabletop has of its own."""

    def __init__(self, programs: Iterable[str] = (), entries: Mapping[str, DesktopEntry] | None = None) -> None:
        self._programs = frozenset(programs)
        self._own = entries or {}
        self._entries = DesktopEntries()
        self._names: set[str] | None = None

    def has(self, program: str) -> bool:
        """True if this can be run: by name on PATH, or by its path."""
        if program in self._programs:
            return True
        return self.path_of(program) is not None

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

    def path_of(self, program: str) -> str | None:
        """Return the file of a program; None where it has none."""
        folders = [""] if "/" in program else os.get_exec_path()
        paths = (os.path.join(folder, os.path.expanduser(program)) for folder in folders)
        return next((path for path in paths if os.path.isfile(path) and os.access(path, os.X_OK)), None)

    def needs_wayland(self, program: str) -> bool:
        """True if a program cannot show a window on an X server: it is linked with Wayland's library and none of X.

        Read from the names of the libraries in its file (ELF, DT_NEEDED); a script, or what loads them later, can be of
        any kind.
        """
        if program in self._programs or (path := self.path_of(program)) is None:
            return False
        try:
            with open(path, "rb") as file:
                data = file.read(LARGEST)
        except OSError:
            return False
        return data[:4] == b"\x7fELF" and b"libwayland-client.so" in data and not any(name in data for name in _OF_X)

    def works(self, entry: DesktopEntry) -> bool:
        """True if the program of an entry is there, and can run on an X server."""
        needed = [program for program in (entry.try_exec, *entry.command[:1]) if program]
        return all(self.has(program) and not self.needs_wayland(program) for program in needed)

    def entries(self) -> Iterator[DesktopEntry]:
        """Yield all desktop entries that can be read."""
        yield from self._own.values()
        yield from self._entries.every()

    def entry_ids(self) -> Iterable[str]:
        """Return the ids of all entries."""
        return [*self._own, *self._entries.paths()]
