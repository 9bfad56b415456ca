"""What can be launched."""

from collections.abc import Iterable
from typing import Protocol

from jaklet.core.values.desktop_entries import DesktopEntry


class Programs(Protocol):
    """What can be launched."""

    def has(self, program: str) -> bool:
        """True if there is a program of this name or path."""
        ...

    def names(self) -> Iterable[str]:
        """Return the names of all programs."""
        ...

    def entry(self, entry_id: str) -> DesktopEntry | None:
        """Return the desktop entry with this id, if there is one; raises `EntryError` if it cannot be read."""
        ...

    def entry_ids(self) -> Iterable[str]:
        """Return the ids of all desktop entries."""
        ...
