"""The desktop entries of this machine, found by their ids (Desktop Entry Specification 1.5, "Desktop File ID")."""

import os
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Final

from jaklet.core.values.desktop_entries import DesktopEntry, EntryError, parse_entry
from jaklet.files import read_ordinary

SUFFIX: Final = ".desktop"
LONGEST: Final = 200  # characters of an id; a file system takes some more for the whole name
LARGEST: Final = 1_000_000  # bytes; no entry is so long


def data_folders(environ: Mapping[str, str] = os.environ) -> list[Path]:
    """Return the data folders, the most important first (XDG Base Directory Specification)."""
    home = environ.get("XDG_DATA_HOME") or os.path.expanduser("~/.local/share")
    others = environ.get("XDG_DATA_DIRS") or "/usr/local/share:/usr/share"
    return [Path(folder) for folder in (home, *others.split(":")) if os.path.isabs(folder)]


def locale_of(environ: Mapping[str, str] = os.environ) -> str:
    """Return the locale of messages (locale(7))."""
    return environ.get("LC_ALL") or environ.get("LC_MESSAGES") or environ.get("LANG") or "C"


class DesktopEntries:
    """All entries of some data folders. One in an earlier folder hides those of the same id in later ones."""

    def __init__(self, folders: Iterable[Path] | None = None, locale: str | None = None) -> None:
        self._roots = [folder / "applications" for folder in (data_folders() if folders is None else folders)]
        self._locale = locale_of() if locale is None else locale
        self._paths: dict[str, Path] | None = None

    def paths(self) -> Mapping[str, Path]:
        """Return the files by id: the path below `applications`, with `-` for each `/`."""
        if self._paths is None:
            self._paths = {}
            for root in self._roots:
                for path in sorted(_files(root)):
                    name = str(path.relative_to(root)).removesuffix(SUFFIX).replace("/", "-")
                    self._paths.setdefault(name, path)
        return self._paths

    def find(self, entry_id: str) -> DesktopEntry | None:
        """Return the entry with this id, with or without `.desktop`; None if there is none.

        Raises `EntryError` where it cannot be read as one.
        """
        entry_id = entry_id.removesuffix(SUFFIX)
        if len(entry_id) > LONGEST:
            return None
        # Nearly always the file is where its name says; else all have to be looked through.
        quick = next((file for root in self._roots if (file := root / (entry_id + SUFFIX)).is_file()), None)
        sure = quick and "/" not in entry_id and "-" not in entry_id
        path = quick if sure else self.paths().get(entry_id)
        return None if path is None else read_entry(entry_id, path, self._locale)

    def every(self) -> Iterator[DesktopEntry]:
        """Yield all entries that can be read, by id."""
        for entry_id, path in sorted(self.paths().items()):
            try:
                yield read_entry(entry_id, path, self._locale)
            except EntryError:
                continue


def _files(root: Path) -> Iterator[Path]:
    for folder, _, names in os.walk(root, followlinks=True):
        yield from (Path(folder) / name for name in names if name.endswith(SUFFIX))


def read_entry(entry_id: str, path: Path, locale: str) -> DesktopEntry:
    """Read one file; raises `EntryError`."""
    try:
        raw = read_ordinary(path, LARGEST)
    except OSError as fault:
        raise EntryError(f"its file cannot be read: {fault.strerror or fault}") from fault
    return parse_entry(entry_id, raw.decode("utf-8", "replace"), str(path), locale)
