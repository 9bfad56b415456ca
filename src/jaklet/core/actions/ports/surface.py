"""Where pixels appear: over the windows of a desktop, or on a picture of a tabletop."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple, Protocol

from jaklet.core.values.desk import Display
from jaklet.core.values.geometry import Rect


class Panel(NamedTuple):
    """A rectangle of pixels. `name`: by which it is the same one from one picture to the next.

    `pixels`: four bytes each (blue, green, red, one that is not used), row by row; none at all for a pane of glass,
    which is not seen and takes clicks. `clicked`: clicks go to it; else they go to what is under it.
    """

    name: str
    at: Rect
    pixels: bytes
    clicked: bool = False


class Click(NamedTuple):
    """A press of a button of the pointer on a panel, in pixels from its corner."""

    panel: str
    x: int
    y: int
    button: int


class Surface(Protocol):
    """Shows panels above all windows, and takes no focus."""

    def scale_of(self, display: Display) -> float:
        """Return how large things are to be drawn: 1 for 96 pixels to the inch."""
        ...

    def pointer(self) -> tuple[int, int, bool]:
        """Return where the pointer is, and whether one of its buttons is down."""
        ...

    def prefers_dark(self) -> bool:
        """Return whether the desktop is dark."""
        ...

    def show(self, panels: Sequence[Panel]) -> None:
        """Show exactly these."""
        ...

    def clicks(self) -> list[Click]:
        """Return the clicks since the last call; never waits."""
        ...

    def descriptors(self) -> Iterable[int]:
        """Return the file descriptors to watch for clicks."""
        ...

    def close(self) -> None:
        """Take all panels away."""
        ...
