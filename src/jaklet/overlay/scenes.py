"""What a view is drawn for: the desk, the config, and the display on which it is to be seen."""

from collections.abc import Callable, Container, Mapping
from functools import lru_cache
from typing import Final, NamedTuple, Protocol

from PIL import Image

from jaklet.core.actions.ports.surface import Click, Panel, PixelGrid
from jaklet.core.keys.strokes import TypedKey
from jaklet.core.values.cards import Card, CardBlock, CardLine, plain_cell
from jaklet.core.values.config import DARK, LIGHT, LIKE_DESKTOP, Config
from jaklet.core.values.desk import Desk, Display
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import Layout
from jaklet.overlay.drawing import CardPicture, draw_card
from jaklet.overlay.fonts import fonts_of
from jaklet.overlay.looks import LOOKS, Look, Sizes, sizes_at

MOST: Final = 0.92  # of a display that a card may take


class Stores(NamedTuple):
    """What is looked up when it is needed: the layouts, the hosts that SSH knows, how much was chosen before.

    `chose` is told of what is chosen now; `name` writes a place into the config under a name, and returns in which
    file; it raises `JakletError`. `places`: the names of the places that the config on disk has.
    """

    layouts: Callable[[], tuple[Layout, ...]]
    hosts: Callable[[], tuple[str, ...]]
    weights: Callable[[], Mapping[str, float]] = dict
    chose: Callable[[str], None] = lambda _what: None
    name: Callable[[str, str], str] = lambda _name, _place: ""
    places: Callable[[], Container[str]] = tuple


class ViewAction(NamedTuple):
    """An action that a view wants to be done. `window`: the one for which, 0 for the one in front."""

    text: str
    window: int = 0


class ViewAnswer(NamedTuple):
    """What a view makes of a key or a click: whether it closes, what is to be done then, and as what that counts.

    `opens`: another view that takes its place. `names`: a name and a place, which go into the config first.
    """

    closes: bool = False
    acts: tuple[ViewAction, ...] = ()
    chose: str = ""
    opens: "View | None" = None
    names: tuple[str, str] | None = None


STAYS = ViewAnswer()
CLOSES = ViewAnswer(True)


class Scene(NamedTuple):
    """The desk as it is, and how large things are on the display that is meant.

    `scale`: how large letters are, 1 for 96 pixels of the desk to the inch; `density`: how many pixels of a picture
    there are to one of the desk's. Windows are where they are on the desk; what is drawn is in pixels of the picture.
    """

    desk: Desk
    config: Config
    stores: Stores
    display: Display
    scale: float
    dark: bool = True  # the desktop
    density: float = 1.0

    @property
    def grid(self) -> PixelGrid:
        """The pixels in which all is drawn."""
        return PixelGrid(self.display.rect.x, self.display.rect.y, self.density)

    @property
    def work(self) -> Rect:
        """The work area of the display, in pixels of the picture."""
        return self.grid.drawn(self.display.work)

    @property
    def magnified(self) -> float:
        """How large letters are in pixels of the picture."""
        return self.scale * self.density

    @property
    def sizes(self) -> Sizes:
        """The lengths of cards."""
        return sizes_at(self.magnified, self.config.settings.overlay.size)

    @property
    def look(self) -> Look:
        """The colours of cards."""
        look = self.config.settings.overlay.look
        return LOOKS[(DARK if self.dark else LIGHT) if look == LIKE_DESKTOP else look]

    def drawn(self, card: Card, least: tuple[int, int] = (0, 0), most: tuple[int, int] | None = None) -> CardPicture:
        """Draw a card for this display. `least`, `most`: width and height that it has at least, and at most."""
        work = self.work
        room = most or (int(work.width * MOST), int(work.height * MOST))
        return draw_card(card, self.look, self.sizes, fonts_of(self.sizes.text), room, least)

    def panel(self, name: str, image: Image.Image, at: str = "", clicked: bool = False) -> Panel:
        """Put a picture on the display: at the top, in the centre, or at the bottom, as the config says by default."""
        work, (wide, high) = self.work, image.size
        where = at or self.config.settings.overlay.at
        edge = self.sizes.margin
        downs = {
            "top": work.y + edge, "centre": work.y + (work.height - high) // 2, "bottom": work.bottom - high - edge,
        }  # fmt: skip
        place = Rect(work.x + (work.width - wide) // 2, max(work.y, downs[where]), wide, high)
        return self.put(name, place, pixels_of(image), clicked)

    def put(self, name: str, at: Rect, pixels: bytes, clicked: bool = False) -> Panel:
        """Return a panel that is somewhere, in pixels of the picture."""
        return Panel(name, at, pixels, clicked, self.grid)

    def message(self, name: str, text: str) -> list[Panel]:
        """Return a card with a line alone, in the place of what there is not."""
        return [
            self.panel(name, self.drawn(Card((CardBlock((CardLine((plain_cell(text),)),)),))).image, "centre", True)
        ]

    def rows(self, beside: int, share: float = 0.6) -> int:
        """Return how many lines a list may have that takes so much of the display, `beside` other lines."""
        return max(3, int(self.work.height * share) // self.sizes.line - beside)


class View(Protocol):
    """Something that is shown, and has the keys while it is open."""

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the panels to show."""
        ...

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Take a key."""
        ...

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Take a click on one of the panels."""
        ...


def pixels_of(image: Image.Image) -> bytes:
    """Return a picture as the pixels of a panel."""
    return image.tobytes("raw", "BGRX")


def outline(name: str, rect: Rect, scene: Scene) -> list[Panel]:
    """Return the outline of a rectangle of the desk as four strips: what is within is seen, and can be clicked."""
    rect = scene.grid.drawn(rect)
    thick = 3 * scene.sizes.edge
    inner, outer = scene.look.paper, scene.look.chosen[0]
    strips = {
        "top": Rect(rect.x, rect.y, rect.width, thick),
        "bottom": Rect(rect.x, rect.bottom - thick, rect.width, thick),
        "left": Rect(rect.x, rect.y + thick, thick, max(1, rect.height - 2 * thick)),
        "right": Rect(rect.right - thick, rect.y + thick, thick, max(1, rect.height - 2 * thick)),
    }
    return [
        scene.put(f"{name} {side}", strip, _striped(strip.width, strip.height, outer, inner))
        for side, strip in strips.items()
    ]


@lru_cache(64)
def _striped(width: int, height: int, outer: tuple[int, int, int], inner: tuple[int, int, int]) -> bytes:
    """Return a strip of two colours side by side, so that it is seen on light and dark."""
    image = Image.new("RGB", (width, height), outer)
    third = max(1, min(width, height) // 3)
    box = (0, third, width, height - third) if width > height else (third, 0, width - third, height)
    image.paste(inner, box)
    return pixels_of(image)
