"""Panels on a picture of a desk, behind `core.actions.ports.surface.Surface`: for a tabletop, which nobody looks at."""

from collections.abc import Iterable, Sequence

from PIL import Image

from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display
from jaklet.drawing.desk_pictures import MARGIN, TITLE, desk_image
from jaklet.drawing.desks import bounds_of, window_names


class PictureSurface:
    """Keeps what is shown; `clicked` is what a test, or a story, has clicked."""

    def __init__(self, scale: float = 1.0, density: float = 1.0) -> None:
        self._scale, self._density = scale, density
        self.panels: tuple[Panel, ...] = ()
        self.clicked: list[Click] = []
        self.pointed = 0, 0, False
        self.dark = True

    def scale_of(self, display: Display) -> float:
        """Return the scale that it was made with."""
        return self._scale

    def density_of(self, display: Display) -> float:
        """Return the density that it was made with."""
        return self._density

    def pointer(self) -> tuple[int, int, bool]:
        """Return where a test has put it."""
        return self.pointed

    def prefers_dark(self) -> bool:
        """Return the preference that a test has set."""
        return self.dark

    def show(self, panels: Sequence[Panel]) -> None:
        """Keep these."""
        self.panels = tuple(panels)

    def clicks(self) -> list[Click]:
        """Return the clicks since the last call."""
        clicked, self.clicked = self.clicked, []
        return clicked

    def descriptors(self) -> Iterable[int]:
        """Return none."""
        return ()

    def close(self) -> None:
        """Show nothing any more."""
        self.panels = ()

    def image(self, desk: Desk, config: Config) -> Image.Image:
        """Return the desk, a pixel for each of its own, with what is shown over it."""
        bounds = bounds_of([display.rect for display in desk.displays])
        drawn = desk_image(desk, config, window_names(desk, config), bounds.width + 2 * MARGIN)
        image = drawn.crop((MARGIN, MARGIN + TITLE, MARGIN + bounds.width, MARGIN + TITLE + bounds.height))
        for panel in self.panels:
            if not panel.pixels:
                continue  # a pane of glass, which takes clicks and is not seen
            pixels = Image.frombytes("RGB", panel.at[2:], panel.pixels, "raw", "BGRX")
            x, y, width, height = (round(one) for one in panel.grid.on_desk(panel.at))
            image.paste(pixels.resize((width, height)), (x - bounds.x, y - bounds.y))
        return image
