"""Watches the files of a config for changes (inotify(7)), if that is asked for."""

from collections.abc import Iterable
from pathlib import Path
from typing import Final

from inotify_simple import INotify, flags

_CHANGES: Final = flags.CLOSE_WRITE | flags.MOVED_TO | flags.DELETE | flags.MOVED_FROM | flags.CREATE


class FileWatch:
    """Watches the folders in which files are: editors put a new file in the place of the old one."""

    def __init__(self) -> None:
        self._inotify = INotify(nonblocking=True)
        self._folders: dict[Path, int] = {}
        self._names: dict[int, set[str]] = {}  # of the files in each folder; none for all of them

    @property
    def descriptor(self) -> int:
        """What to watch."""
        return int(self._inotify.fileno())

    def follow(self, files: Iterable[Path], folders: Iterable[Path] = ()) -> None:
        """Watch these files, and every file of these folders, from now on."""
        wanted: dict[Path, set[str]] = {}
        for file in files:
            wanted.setdefault(file.resolve().parent, set()).add(file.name)
        wanted |= {folder: set() for folder in folders if folder.is_dir()}
        for folder in self._folders.keys() - wanted.keys():
            self._inotify.rm_watch(self._folders.pop(folder))
        for folder in wanted.keys() - self._folders.keys():
            self._folders[folder] = self._inotify.add_watch(folder, _CHANGES)
        self._names = {self._folders[folder]: names for folder, names in wanted.items()}

    def changed(self) -> bool:
        """Return whether one of the files has changed since this was asked last."""
        news = False
        for event in self._inotify.read(timeout=0):
            names = self._names.get(event.wd)
            news |= names is not None and (not names or event.name in names)
        return news

    def close(self) -> None:
        """Watch nothing any more."""
        self._inotify.close()
