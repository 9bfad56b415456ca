"""Layouts and steps to undo, kept in memory for as long as a rehearsal lasts."""

from itertools import count

from jaklet.core.actions.ports.history import UndoStep
from jaklet.core.actions.ports.layout_store import LayoutStore, SavedVersion
from jaklet.core.values.errors import StoreError
from jaklet.core.values.layouts import HOME, Layout


class CachedLayouts:
    """Layouts (`LayoutStore`) of which each file is read once, however many stages ask for it."""

    def __init__(self, shelf: LayoutStore) -> None:
        self._shelf = shelf
        self._read: dict[str, Layout | None] = {}
        self._names: list[str] | None = None

    def find(self, word: str) -> Layout | None:
        """Return the layout with this name or number, or the one marked `home`."""
        if word not in self._read:
            self._read[word] = self._shelf.find(word)
        return self._read[word]

    def names(self) -> list[str]:
        """Return the names of all layouts."""
        if self._names is None:
            self._names = self._shelf.names()
        return self._names

    def keep(self, layout: Layout, *, take_number: bool = False) -> SavedVersion:
        """Refuse: nothing is written here."""
        raise StoreError("layouts cannot be saved here")


class DraftLayouts:
    """Layouts (`LayoutStore`): those of a real shelf, and before them what was saved in the rehearsal."""

    def __init__(self, shelf: LayoutStore) -> None:
        self._shelf = shelf
        self._saved: dict[str, Layout] = {}

    def find(self, word: str) -> Layout | None:
        """Return the layout with this name or number, or the one marked `home`."""
        for layout in self._saved.values():
            if word in (layout.name, str(layout.number)) or (word == HOME and layout.home):
                return layout
        return self._shelf.find(word)

    def names(self) -> list[str]:
        """Return the names of all layouts."""
        return sorted({*self._shelf.names(), *self._saved})

    def keep(self, layout: Layout, *, take_number: bool = False) -> SavedVersion:
        """Save a layout for the rest of the rehearsal; nothing is written."""
        former = self.find(layout.name)
        self._saved[layout.name] = layout
        return SavedVersion(None if former is None else 1)


class RehearsedHistory:
    """Steps that can be undone, and the layouts that stood (`core.actions.ports.History`)."""

    def __init__(self, stood: tuple[str, ...] = ()) -> None:
        self._steps: dict[int, UndoStep] = {}
        self._numbers = count(1)
        self._stood = [*stood]

    def keep(self, step: UndoStep) -> int:
        """Add a step."""
        return self.more(next(self._numbers), step)

    def more(self, number: int, step: UndoStep) -> int:
        """Put a step in the place of an earlier state of it."""
        self._steps[number] = step
        return number

    def steps(self) -> list[tuple[int, UndoStep]]:
        """Return the steps, the last one first."""
        return sorted(self._steps.items(), reverse=True)

    def drop(self, number: int) -> None:
        """Take a step away."""
        del self._steps[number]

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled or saved."""
        self._stood = [layout, *(name for name in self._stood if name != layout)]

    def layouts(self) -> list[str]:
        """Return the layouts that stood, the last one first."""
        return self._stood
