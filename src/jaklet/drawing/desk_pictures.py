"""A desk as a picture: displays with their work areas, windows over one another, and those that are out of reach.

Pillow draws it, and is loaded when it does.
"""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Final

from jaklet.core.actions.placing.lost import is_lost
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.errors import JakletError
from jaklet.core.values.geometry import Rect
from jaklet.core.values.words import printable
from jaklet.drawing.colours import colour_of, room_for_words
from jaklet.drawing.desks import ScreenLabel, bounds_of, window_names

if TYPE_CHECKING:
    from PIL.Image import Image
    from PIL.ImageDraw import ImageDraw
    from PIL.ImageFont import FreeTypeFont, ImageFont

WIDTH: Final = 1280  # pixels of a picture
TALLEST: Final = 1600
MARGIN: Final = 24  # this and all other lengths: of a picture whose letters have their usual size
TITLE: Final = 20  # above the displays, for their names
PAPER, INK, FAINT, BEZEL, WORK, BAR = "#f7f5f0", "#1f2a30", "#7b868c", "#38464e", "#e3e9ec", "#b9c4c9"
LONGEST: Final = 300  # letters that a line can have room for
FEWEST: Final = 2  # letters of a word that still say something
LOST: Final = "#b3261e"


def draw_picture(
    desk: Desk, config: Config, path: Path, marks: Sequence[ScreenLabel] = (), names: Mapping[int, str] | None = None
) -> None:
    """Write a picture of a desk, in the format that the file's name ends in; raises `JakletError`."""
    image = desk_image(desk, config, window_names(desk, config) if names is None else names, WIDTH, marks)
    try:
        image.save(path)
    except (OSError, ValueError) as fault:
        raise JakletError(f"the picture cannot be written: {fault}", "name a file that ends in .png") from fault


def desk_image(
    desk: Desk,
    config: Config,
    names: Mapping[int, str],
    width: int = WIDTH,
    marks: Sequence[ScreenLabel] = (),
    size: float = 1.0,
) -> "Image":
    """Return a picture of a desk, so many pixels wide.

    `names`: what is written on the windows; `size`: how large letters and lines are, 1 for 96 pixels to the inch.
    """
    from PIL import Image, ImageDraw, ImageFont

    lost = [window for window in desk.windows if desk.in_view(window) and is_lost(window, desk.displays)]
    bounds = bounds_of([*(display.rect for display in desk.displays), *(_near(w.frame, desk) for w in lost)])
    margin, title = round(MARGIN * size), round(TITLE * size)
    scale = min((width - 2 * margin) / bounds.width, (TALLEST * size - 2 * margin) / bounds.height)
    image = Image.new("RGB", (width, round(bounds.height * scale) + 2 * margin + title), PAPER)
    fonts = ImageFont.load_default(14 * size), ImageFont.load_default(11 * size)
    brush = _DeskPainter(ImageDraw.Draw(image), image.size, fonts, bounds, scale, size)
    _draw(brush, desk, config, names, lost, marks)
    return image


def _draw(
    brush: "_DeskPainter",
    desk: Desk,
    config: Config,
    names: Mapping[int, str],
    lost: Sequence[Window],
    marks: Sequence[ScreenLabel],
) -> None:
    for display in desk.displays:
        brush.display(display, config)
    shown = [w for wid in desk.stacking if (w := desk.by_id.get(wid)) and desk.in_view(w)]
    for order, window in enumerate(shown):
        colour = colour_of(config.claims.app_of(window, desk) or window.cls, config)
        above = [other.frame for other in shown[order + 1 :]]
        brush.window(window, names[window.id], colour, window.id == desk.active, window in lost, above)
    for mark in marks:
        brush.mark(mark)


def _near(frame: Rect, desk: Desk) -> Rect:
    """Return the part of a lost window's frame that is near enough to the displays to be drawn."""
    screen = bounds_of([display.rect for display in desk.displays])
    wide, high = screen.width // 6, screen.height // 6
    x = min(max(frame.x, screen.x - wide), screen.right + wide // 2)
    y = min(max(frame.y, screen.y - high), screen.bottom + high // 2)
    return Rect(x, y, max(1, min(frame.width, wide // 2)), max(1, min(frame.height, high // 2)))


class _DeskPainter:
    """Draws in pixels of the screen."""

    def __init__(
        self,
        draw: "ImageDraw",
        size: tuple[int, int],
        fonts: "tuple[FreeTypeFont | ImageFont, FreeTypeFont | ImageFont]",
        bounds: Rect,
        scale: float,
        unit: float,
    ) -> None:
        self._draw, self._size, self._bounds, self._scale, self._unit = draw, size, bounds, scale, unit
        self._font, self._small = fonts

    def _of(self, length: int) -> int:
        """Return a length for letters of this size."""
        return max(1, round(length * self._unit))

    def _box(self, rect: Rect) -> tuple[float, float, float, float]:
        """Return the corners of a rectangle on the picture, the last pixel included."""
        left = self._of(MARGIN) + (rect.x - self._bounds.x) * self._scale
        top = self._of(MARGIN) + self._of(TITLE) + (rect.y - self._bounds.y) * self._scale
        return left, top, left + max(2, rect.width * self._scale) - 1, top + max(2, rect.height * self._scale) - 1

    def display(self, display: Display, config: Config) -> None:
        """Draw a display, its bars darker than its work area."""
        left, top, right, bottom = self._box(display.rect)
        thick = self._of(3)
        self._draw.rectangle((left - thick, top - thick, right + thick, bottom + thick), fill=BEZEL)
        self._draw.rectangle((left, top, right, bottom), fill=BAR)
        self._draw.rectangle(self._box(display.work), fill=WORK)
        role = config.role_of(display)
        text = f"{role}  {display.rect.width}x{display.rect.height}"
        self._draw.text((left, top - self._of(TITLE)), text, fill=INK, font=self._font)

    def window(
        self, window: Window, name: str, colour: str, active: bool, lost: bool, above: Sequence[Rect] = ()
    ) -> None:
        """Draw a window: title, size, and whether it has the focus or is lost. `above`: what stands before it."""
        left, top, right, bottom = self._box(window.frame)
        wide, high = self._size
        if lost and not (0 <= left < wide and right > 0 and bottom > 0 and top < high):
            left, top = min(max(left, 4), wide - 90), min(max(top, 4), high - 50)  # all of a small one can be seen
            right, bottom = left + 84, top + 44
        edge = LOST if lost else INK if active else "white"
        self._draw.rectangle(
            (left, top, right, bottom), fill=colour, outline=edge, width=self._of(3 if active or lost else 1)
        )
        lines = [(name, self._font), (printable(window.title), self._small)]
        lines.append((f"{window.frame.width}x{window.frame.height} at {window.frame.x},{window.frame.y}", self._small))
        if window.above:
            lines.append(("kept above", self._small))
        if lost:
            lines.insert(1, ("out of reach", self._small))
        line = self._of(19)
        y, room = top + self._of(6), (left, right)
        if not lost:
            seen = self._box(room_for_words(window.frame, above, (self._of(6) + line * len(lines)) / self._scale))
            room = seen[0], seen[2]
        for text, font in lines:
            text = self._cut(text, font, room[1] - room[0] - self._of(14))
            if len(text) > FEWEST and y + self._of(16) < bottom:
                self._draw.text((room[0] + self._of(8), y), text, fill="white", font=font)
                y += line

    def mark(self, mark: ScreenLabel) -> None:
        """Draw the outline of a cell and its address."""
        left, top, right, bottom = self._box(mark.frame)
        self._draw.rectangle((left, top, right, bottom), outline=FAINT)
        wide = self._draw.textlength(mark.text, font=self._small)
        self._draw.rectangle((right - wide - 8, bottom - 17, right - 1, bottom - 1), fill=PAPER)
        self._draw.text((right - wide - 4, bottom - 16), mark.text, fill=INK, font=self._small)

    def _cut(self, text: str, font: "FreeTypeFont | ImageFont", room: float) -> str:
        text = text if len(text) <= LONGEST else f"{text[:LONGEST]}…"  # each measure takes as long as the text
        while text and self._draw.textlength(text, font=font) > room:
            text = text[:-2] + "…" if len(text) > 2 else ""
        return text
