"""Letters on the windows and on the cells of a grid: what is meant is pointed at with a key or two."""

from typing import Final

from PIL import Image

from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.keys.strokes import TypedKey
from jaklet.core.language.slots import name_problem
from jaklet.core.values.cards import FAILED, FAINT, KEY, STRONG, Card, CardBlock, CardLine, TextRun, plain_cell
from jaklet.core.values.desk import Display, Window
from jaklet.core.values.geometry import Rect
from jaklet.core.values.seen import seen_corner
from jaklet.core.values.stacking import windows_above
from jaklet.core.values.words import cut_to_cells, printable
from jaklet.finder.state import LETTERS
from jaklet.overlay.scenes import CLOSES, STAYS, Scene, ViewAction, ViewAnswer, outline, pixels_of

LEFT_HAND: Final = "asdfgqwertzxcvb"
CELLS: Final = f"{LEFT_HAND}hjklyuiopnm1234567890"  # the left hand's letters first
TITLE: Final = 28  # letters of a title on a tag
STEPS: Final = {"left": (-1, 0), "right": (1, 0), "up": (0, -1), "down": (0, 1)}


class LettersView:
    """A letter on each window in view: to go there (with Shift it comes to this display), or to change places."""

    def __init__(self, verb: str, scene: Scene) -> None:
        self._verb = verb
        desk, front = scene.desk, scene.desk.focused
        order = sorted(desk.main_windows, key=lambda one: (one.frame.y // 50, one.frame.x))
        shown = [w for w in order if desk.in_view(w) and not (verb != "focus" and front and w.id == front.id)]
        self._windows = dict(zip(LETTERS, shown, strict=False))

    def panels(self, scene: Scene) -> list[Panel]:
        """Return a tag for each window: at what is seen of it, and of those that are covered, in a row at the side."""
        if not self._windows:
            return scene.message("letters", "no window is in view")
        desk, found, hidden = scene.desk, [], scene.work.y + scene.sizes.margin
        drawn = scene.grid.drawn
        for letter, window in self._windows.items():
            image = self._tag(letter, window, scene)
            frames = [drawn(one.frame) for one in windows_above(window, desk)]
            displays = [drawn(display.rect) for display in desk.displays]
            room = seen_corner(drawn(window.frame), frames, image.size, displays)
            if room is None:
                room = Rect(scene.work.x + scene.sizes.margin, hidden, *image.size)
                hidden = room.bottom + scene.sizes.edge * 4
            found.append(scene.put(f"letter {letter}", room, pixels_of(image), True))
        return found

    @staticmethod
    def _tag(letter: str, window: Window, scene: Scene) -> Image.Image:
        app = scene.config.claims.app_of(window, scene.desk) or window.cls
        title = cut_to_cells(printable(window.title or app), TITLE)
        line = CardLine((plain_cell(letter.upper(), STRONG), plain_cell(title, FAINT)))
        return scene.drawn(Card((CardBlock((line,)),))).image

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Take the letter of a window; any other key closes."""
        window = self._windows.get(typed.text.lower())
        return self._chosen(window, typed.text.isupper(), scene) if window else CLOSES

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Take the window whose tag was clicked."""
        window = self._windows.get(click.panel.removeprefix("letter "))
        return self._chosen(window, False, scene) if window else CLOSES

    def _chosen(self, window: Window, comes: bool, scene: Scene) -> ViewAnswer:
        does = f"{self._verb} window 0x{window.id:x}"
        there = scene.desk.display_of(window.frame)
        if comes and self._verb == "focus" and there != scene.display:
            return ViewAnswer(
                True,
                (ViewAction(f"send to display {scene.config.role_of(scene.display)}", window.id), ViewAction(does)),
            )
        return ViewAnswer(True, (ViewAction(does),))


GLASS: Final = "glass "  # and the index of a display


class GridView:
    """Cells with letters over a display. Two letters are two corners; arrows move the choice, or stretch it.

    `window`: the one that is placed, 0 for that in front.
    """

    def __init__(self, cells: str, scene: Scene, window: int = 0) -> None:
        self._named = False
        across, _, down = cells.partition("x")
        self._columns, self._rows = int(across), int(down)
        self._first: tuple[int, int] | None = None
        self._choice: tuple[int, int, int, int] | None = None  # first and last column and row
        displays = scene.desk.displays
        placed = scene.desk.by_id.get(window) or scene.desk.focused
        self._window = placed.id if placed else 0  # whatever takes the focus meanwhile
        display = scene.desk.display_of(placed.frame) if placed else scene.display
        self._display = displays.index(display) if display in displays else 0

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the cells' letters and lines, and the outline of the choice."""
        display = scene.desk.displays[self._display]
        scene = scene._replace(display=display)
        # A click anywhere is one on a cell, and none on a window: that would take the focus.
        found = [
            scene.put(f"{GLASS}{at}", scene.grid.drawn(one.rect), b"", True)
            for at, one in enumerate(scene.desk.displays)
        ]
        for at, letter in enumerate(CELLS[: self._columns * self._rows]):
            column, row = at % self._columns, at // self._columns
            cell = self._rect((column, row, column, row), display)
            room = scene.grid.drawn(cell)
            image = scene.drawn(Card((CardBlock((CardLine((plain_cell(letter.upper(), STRONG),)),)),))).image
            wide, high = image.size
            place = Rect(room.x + (room.width - wide) // 2, room.y + (room.height - high) // 2, wide, high)
            found.append(scene.put(f"cell {letter}", place, pixels_of(image)))
            found += outline(f"cell {letter}", cell, scene) if self._is_corner(column, row) else []
        found += self._lines(scene)
        chosen = self._choice or ((*self._first, *self._first) if self._first else None)
        if chosen:
            found += outline("choice", self._rect(chosen, display), scene)
        said = (
            "Enter takes it" if self._choice else "the other corner" if self._first else "two letters are two corners"
        )
        keys = "arrows move it, with Shift they stretch it · Tab: next display · Space: with a name · Escape leaves"
        said += " and is asked for a name" if self._named else ""
        card = Card((CardBlock((CardLine((plain_cell(said, KEY), plain_cell(keys, FAINT))),)),))
        found.append(scene.panel("grid", scene.drawn(card).image, "bottom", True))
        return found

    def _is_corner(self, column: int, row: int) -> bool:
        return self._choice is None and self._first == (column, row)

    def _lines(self, scene: Scene) -> list[Panel]:
        """Return the lines between the cells."""
        work, thick = scene.work, scene.sizes.edge
        found = []
        for name, count in (("column", self._columns), ("row", self._rows)):
            for at in range(1, count):
                place = (
                    Rect(work.x + work.width * at // count, work.y, thick, work.height) if name == "column"
                    else Rect(work.x, work.y + work.height * at // count, work.width, thick)
                )  # fmt: skip
                image = Image.new("RGB", place[2:], scene.look.edge)
                found.append(scene.put(f"{name} {at}", place, pixels_of(image)))
        return found

    def _rect(self, cells: tuple[int, int, int, int], display: Display) -> Rect:
        """Return where cells are: from the first column and row to the last ones."""
        work = display.work
        left, right = work.width * cells[0] // self._columns, work.width * (cells[2] + 1) // self._columns
        top, bottom = work.height * cells[1] // self._rows, work.height * (cells[3] + 1) // self._rows
        return Rect(work.x + left, work.y + top, right - left, bottom - top)

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Take a corner, move or stretch the choice, or go to the next display."""
        key = typed.key
        if key == "tab":
            self._display = (self._display + 1) % len(scene.desk.displays)
        elif key == "space":
            self._named = not self._named
            return self._taken(scene) if self._choice else STAYS
        elif key == "return" and self._choice:
            return self._taken(scene)
        elif key.removeprefix("shift+") in STEPS:
            self._step(STEPS[key.removeprefix("shift+")], key.startswith("shift+"))
        elif typed.text.lower() in CELLS[: self._columns * self._rows] and typed.text:
            return self._corner(CELLS.index(typed.text.lower()), scene)
        else:
            return CLOSES
        return STAYS

    def _corner(self, at: int, scene: Scene) -> ViewAnswer:
        cell = at % self._columns, at // self._columns
        if self._first is None or self._choice:
            self._first, self._choice = cell, None
            return STAYS
        (a, b), (c, d) = self._first, cell
        self._choice = min(a, c), min(b, d), max(a, c), max(b, d)
        return self._taken(scene)

    def _step(self, step: tuple[int, int], stretches: bool) -> None:
        left, top, right, bottom = self._choice or ((*self._first, *self._first) if self._first else (0, 0, 0, 0))
        across, down = step
        if stretches:
            right, bottom = right + across, bottom + down
        else:
            left, top, right, bottom = left + across, top + down, right + across, bottom + down
        if 0 <= left <= right < self._columns and 0 <= top <= bottom < self._rows:
            self._choice = left, top, right, bottom

    def _taken(self, scene: Scene) -> ViewAnswer:
        assert self._choice
        left, top, right, bottom = self._choice
        display = scene.config.role_of(scene.desk.displays[self._display])
        cells = f"{_name(left, top)}:{_name(right, bottom)}" if (left, top) != (right, bottom) else _name(left, top)
        place = f"cells {cells} of {self._columns}x{self._rows}"
        if self._named:
            return ViewAnswer(opens=NameView(place, display, self._window))
        return ViewAnswer(True, (ViewAction(f"place {place} on {display}", self._window),))

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Take the cell that was clicked for a corner, on whichever display it is."""
        if not click.panel.startswith(GLASS):
            return STAYS
        at = int(click.panel.removeprefix(GLASS))
        if at >= len(scene.desk.displays):
            return STAYS  # it has gone
        if at != self._display:
            self._display, self._first, self._choice = at, None, None
        rect, work = scene.desk.displays[at].rect, scene.desk.displays[at].work
        x, y = (int(one / scene.density) for one in (click.x, click.y))
        column = (rect.x + x - work.x) * self._columns // work.width
        row = (rect.y + y - work.y) * self._rows // work.height
        column, row = min(max(column, 0), self._columns - 1), min(max(row, 0), self._rows - 1)
        return self._corner(row * self._columns + column, scene)


class NameView:
    """Asks for the name of a place, which goes into the config under it; the window goes there, too."""

    def __init__(self, place: str, display: str, window: int) -> None:
        self._place, self._act = place, ViewAction(f"place {place} on {display}", window)
        self._typed, self._fault = "", ""
        self._least = (0, 0)

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the card."""
        lines = (CardLine((plain_cell(self._fault, FAILED),)),) if self._fault else ()
        foot = plain_cell("Enter keeps it in the config, and puts the window there · Escape leaves", FAINT)
        title = (TextRun("a name for ", FAINT), TextRun(self._place, STRONG))
        drawn = scene.drawn(Card((CardBlock(lines),), title, self._typed, foot), self._least)
        self._least = drawn.image.size
        return [scene.panel("name", drawn.image)]

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Take a letter, or the name as it stands."""
        if typed.key == "escape":
            return CLOSES
        if typed.key in ("return", "kp_enter") and self._typed:
            return self._kept(scene)
        self._fault = ""
        self._typed = self._typed[:-1] if typed.key == "backspace" else self._typed + typed.text.strip()
        return STAYS

    def _kept(self, scene: Scene) -> ViewAnswer:
        self._fault = name_problem(self._typed)
        if not self._fault and (self._typed in scene.config.places or self._typed in scene.stores.places()):
            self._fault = f"{self._typed} is a place already"
        return STAYS if self._fault else ViewAnswer(True, (self._act,), names=(self._typed, self._place))

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Nothing is to be clicked."""
        return STAYS


def _name(column: int, row: int) -> str:
    """Return a cell's name, as in a place: A1 is at the top left."""
    letters = chr(ord("A") + column) if column < 26 else f"A{chr(ord('A') + column - 26)}"
    return f"{letters}{row + 1}"
