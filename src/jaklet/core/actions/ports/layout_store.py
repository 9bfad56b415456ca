"""Where layouts are kept."""

from typing import NamedTuple, Protocol

from jaklet.core.values.layouts import Layout


class SavedVersion(NamedTuple):
    """A layout that was saved: the number of the former version that is kept, if there was one.

    `lost_number`: the layout whose number it took. `aside`: where the history was put, which could not be read.
    """

    former: int | None
    lost_number: str = ""
    aside: str = ""


class LayoutStore(Protocol):
    """Where layouts are kept."""

    def find(self, word: str) -> Layout | None:
        """Return the layout with this name or number, or the one marked `home`, freshly read.

        Raises `StoreError` if it cannot be read.
        """
        ...

    def names(self) -> list[str]:
        """Return the names of all layouts."""
        ...

    def keep(self, layout: Layout, *, take_number: bool = False) -> SavedVersion:
        """Save a layout whole or not at all, keeping the former version; raises `StoreError`.

        `take_number`: another layout that has its number loses it.
        """
        ...
