"""Where pixels appear: over the windows of a desktop, or on a picture of a tabletop."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple, Protocol

from jaklet.core.values.desk import Display
from jaklet.core.values.geometry import Rect


class PixelGrid(NamedTuple):
    """The pixels in which what is shown on a display is drawn: finer ones than the desk's where that enlarges them.

    `x`, `y`: the corner that both have in common; `density`: how many of these are one of the desk's.
    """

    x: int = 0
    y: int = 0
    density: float = 1.0

    def drawn(self, rect: Rect) -> Rect:
        """Return a rectangle of the desk in these pixels. Neighbours stay neighbours."""
        left, top, right, bottom = (
            round(corner + (at - corner) * self.density)
            for at, corner in zip((rect.x, rect.y, rect.right, rect.bottom), (self.x, self.y) * 2, strict=True)
        )
        return Rect(left, top, right - left, bottom - top)

    def on_desk(self, rect: Rect) -> tuple[float, float, float, float]:
        """Return where a rectangle of these pixels is on the desk: its corner and size, which may be in fractions."""
        left, top = (
            corner + (at - corner) / self.density for at, corner in zip((rect.x, rect.y), (self.x, self.y), strict=True)
        )
        return left, top, rect.width / self.density, rect.height / self.density


class Panel(NamedTuple):
    """A rectangle of pixels. `name`: by which it is the same one from one picture to the next.

    `at`: in the pixels of `grid`; `pixels`: four bytes each (blue, green, red, one that is not used), row by row; none
    at all for a pane of glass, which is not seen and takes clicks. `clicked`: clicks go to it; else they go to what is
    under it.
    """

    name: str
    at: Rect
    pixels: bytes
    clicked: bool = False
    grid: PixelGrid = PixelGrid()


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

    def density_of(self, display: Display) -> float:
        """Return how many pixels of a panel there are to one of the desk's: over 1 where the desk enlarges windows."""
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
