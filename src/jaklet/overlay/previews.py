"""Layouts and places over the windows, before they are recalled or taken."""

from typing import Final

from PIL import Image

from jaklet.core.actions.layouts.imagining import imagine_desk, saved_displays
from jaklet.core.actions.placing.window_stands import stand_of
from jaklet.core.actions.placing.windows import next_alternative
from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.keys.keymap import number_families
from jaklet.core.keys.strokes import TypedKey
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.language.verbs import RECALL
from jaklet.core.values.cards import FAINT, KEY, STRONG, Card, CardBlock, CardLine, TextRun, plain_cell
from jaklet.core.values.desk import Window
from jaklet.core.values.geometry import Rect
from jaklet.core.values.places import resolve_place
from jaklet.drawing.desk_pictures import desk_image
from jaklet.drawing.panels import DeskPanel, panel_names
from jaklet.overlay.scenes import CLOSES, MOST, Scene, ViewAction, ViewAnswer, outline, pixels_of

SHARE: Final = 0.5  # of the display that a layout's picture takes
MOST_ACROSS: Final = 5  # small pictures side by side


class LayoutView:
    """A layout as a picture: Enter recalls it, any other key closes."""

    def __init__(self, name: str, scene: Scene) -> None:
        self._name = name

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the picture, and a card with its name and key below it."""
        layout = next((one for one in scene.stores.layouts() if one.name == self._name), None)
        if layout is None:
            return scene.message("layout", f"no layout is called {self._name}")
        desk = imagine_desk(layout, saved_displays(layout, scene.config, scene.desk.displays), scene.config)
        names = panel_names(DeskPanel("", desk, layout), scene.config)
        image = desk_image(desk, scene.config, names, int(scene.work.width * SHARE), size=scene.magnified)
        picture = scene.panel("picture", image, "centre", True)
        wanted = (layout.name, str(layout.number))
        recalls = (one for one in scene.config.live if one.action.verb == RECALL and one.action.refs[0].name in wanted)
        keys = " ".join(one.written for one in recalls)
        note = f"  {layout.note}" if layout.note else ""
        title = (TextRun(layout.name, STRONG), TextRun(note, FAINT), TextRun(f"  {keys}", KEY))
        drawn = scene.drawn(Card((), title, None, plain_cell("Enter recalls it · any other key closes this", FAINT)))
        below = scene.panel("layout", drawn.image, "centre", True)
        down = min(picture.at.bottom, scene.work.bottom - below.at.height)
        return [picture, below._replace(at=below.at._replace(y=down))]

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Recall it, or close."""
        return ViewAnswer(True, (ViewAction(f"recall {self._name}"),)) if typed.key == "return" else CLOSES

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Close."""
        return CLOSES


def numbered_layouts(modifiers: int, scene: Scene) -> list[Panel]:
    """Return the layouts whose numbers go with some modifiers: small pictures side by side, each with its key."""
    layouts = {word: one for one in scene.stores.layouts() for word in (one.name, str(one.number))}
    bound = [(one, layouts.get(one.action.refs[0].name)) for one in number_families(scene.config).get(modifiers, ())]
    there = [(one, layout) for one, layout in bound if layout is not None]
    if not there:
        return []
    work, sizes = scene.work, scene.sizes
    across = min(len(there), MOST_ACROSS)
    room = int(work.width * MOST) // across - 2 * sizes.margin
    wide = min(room, work.width // 5)
    cells = []
    for binding, layout in there:
        desk = imagine_desk(layout, saved_displays(layout, scene.config, scene.desk.displays), scene.config)
        names = panel_names(DeskPanel("", desk, layout), scene.config)
        picture = desk_image(desk, scene.config, names, wide, size=scene.magnified)
        title = (TextRun(f"{binding.keys[0]}", KEY), TextRun(f"  {layout.name}", STRONG))
        name = scene.drawn(Card((), title), (picture.width, 0), (picture.width, work.height)).image
        cell = Image.new("RGB", (picture.width, name.height + picture.height), scene.look.paper)
        cell.paste(name, (0, 0))
        cell.paste(picture, (0, name.height))
        cells.append(cell)
    rows = [cells[at : at + across] for at in range(0, len(cells), across)]
    lengths = [sum(one.width + sizes.margin for one in row) - sizes.margin for row in rows]
    heights = [max(one.height for one in row) for row in rows]
    y = work.y + max(0, work.height - sum(heights) - sizes.margin * (len(rows) - 1)) // 2
    found: list[Panel] = []
    for row, length, height in zip(rows, lengths, heights, strict=True):
        x = work.x + (work.width - length) // 2
        for cell in row:
            found.append(scene.put(f"layout {len(found)}", Rect(x, y, *cell.size), pixels_of(cell)))
            x += cell.width + sizes.margin
        y += height + sizes.margin
    return [one for one in found if one.at.bottom <= work.bottom]


def walked(text: str, wid: int, scene: Scene) -> list[Panel]:
    """Return where a window that is walked through the alternatives of a place goes next, and which it fills now."""
    desk, config = scene.desk, scene.config
    window = desk.by_id.get(wid)
    if window is None:
        return []
    place = parse_place(text)
    options, following = resolve_place(place, config.places).alternatives, next_alternative(place, window, config, desk)
    stand = stand_of(following, window, desk, config)
    before = options[options.index(following) - 1]
    here = stand_of(before, window, desk, config)
    now = before if here and here.frame(window) == desk.frame_of(window) else None
    lines = tuple(
        CardLine(
            (plain_cell(str(one)), plain_cell("now" if one == now else "next" if one == following else "", FAINT)),
            one == now,
        )
        for one in options
    )
    card = scene.panel("walk", scene.drawn(Card((CardBlock(lines),))).image, "bottom")
    return [*(outline("next", stand.frame(window), scene) if stand else []), card]


class PlaceView:
    """The outline of a place: Enter puts the window in front there, any other key closes."""

    def __init__(self, text: str, scene: Scene) -> None:
        self._text = text

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the outline, and the place's name in it."""
        desk = scene.desk
        window = desk.focused or Window(0, frame=scene.display.work)
        stand = stand_of(parse_place(self._text), window, desk, scene.config)
        if stand is None:
            return scene.message("place", f"{self._text}: there is no such display")
        frame = stand.frame(window)
        size = f"{frame.width}x{frame.height} at {frame.x},{frame.y}"
        foot = plain_cell("Enter puts the window there · any other key closes this", FAINT)
        card = Card(
            (CardBlock((CardLine((plain_cell(self._text, STRONG), plain_cell(size, FAINT))),)),), (), None, foot
        )
        panel = scene.panel("place", scene.drawn(card).image, "centre", True)
        room = scene.grid.drawn(frame)
        across = room.x + (room.width - panel.at.width) // 2
        down = room.y + (room.height - panel.at.height) // 2
        return [*outline("outline", frame, scene), panel._replace(at=panel.at._replace(x=across, y=down))]

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Take the place, or close."""
        return ViewAnswer(True, (ViewAction(f"place {self._text}"),)) if typed.key == "return" else CLOSES

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Close."""
        return CLOSES
