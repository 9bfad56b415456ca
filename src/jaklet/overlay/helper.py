"""The helper: what it is told by the listener becomes panels on a surface; keys and clicks become answers.

It knows no sockets and no clock: whoever runs it hands it messages and the time, and sends what it says.
"""

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any, Final, NamedTuple

from jaklet.core.actions.ports.surface import Panel, Surface
from jaklet.core.keys.strokes import TypedKey
from jaklet.core.values.cards import FAILED, STRONG, Card, CardBlock, CardLine, TextRun, plain_cell
from jaklet.core.values.config import LIKE_DESKTOP, NEVER, Config
from jaklet.core.values.desk import Desk, Display
from jaklet.core.values.errors import JakletError
from jaklet.core.values.geometry import Rect
from jaklet.core.values.orders import FINDER, GRID, KEYS, LAYOUT, LETTERS, PLACE, WALK
from jaklet.core.values.snapshot import desk_from_data
from jaklet.core.values.words import printable
from jaklet.overlay.finding import FinderView, WalkView
from jaklet.overlay.key_views import SheetView, hints
from jaklet.overlay.pointing import GridView, LettersView
from jaklet.overlay.previews import LayoutView, PlaceView, numbered_layouts, walked
from jaklet.overlay.scenes import Scene, Stores, View, ViewAnswer

# Each view, by what the listener calls it. A new one is an entry here, and a class with three methods.
VIEWS: Final[Mapping[str, Callable[[str, Scene], View]]] = {
    FINDER: FinderView, GRID: GridView, KEYS: SheetView, LAYOUT: LayoutView, LETTERS: LettersView, PLACE: PlaceView,
    WALK: WalkView,
}  # fmt: skip
ESCAPE: Final = "escape"
STAYS: Final = 4.0  # seconds that a line stays
FAILURE_STAYS: Final = 7.0
WALK_STAYS: Final = 1.2
MOST_LINES: Final = 5
ASK_AGAIN: Final = 20.0  # seconds after which a desktop may have turned dark
Send = Callable[..., None]  # a method of the listener, and its parameters


class ShownLine(NamedTuple):
    """A line that is shown for a while."""

    text: str
    failed: bool
    topic: str
    until: float


class TimedDrawing:
    """Something without keys of its own that is drawn when it is due, and seen until another time."""

    def __init__(self, draw: Callable[[Scene], list[Panel]], since: float, until: float = NEVER) -> None:
        self._draw, self._since, self.until = draw, since, until
        self.panels: list[Panel] | None = None  # once they are drawn

    @property
    def due(self) -> float:
        """When something is to be seen of it, or no more."""
        return self._since if self.panels is None else self.until

    def drawn(self, scene: Scene, now: float) -> list[Panel]:
        """Return the panels to show now."""
        if self.panels is None and now >= self._since:
            self.panels = self._draw(scene)
        return (self.panels or []) if now < self.until else []


class Helper:
    """All that is shown at a time. `load`: reads the config anew; `send`: asks the listener for something."""

    def __init__(self, surface: Surface, stores: Stores, load: Callable[[], Config], send: Send) -> None:
        self._surface, self._stores, self._load, self._send = surface, stores, load, send
        self._config = load()
        self._desk: Desk | None = None
        self._number = 0
        self._view: View | None = None
        self._said: list[ShownLine] = []
        self._hint: TimedDrawing | None = None  # the keys that come next
        self._glimpse: TimedDrawing | None = None
        self._dark: tuple[bool, float] | None = None  # whether the desktop is, and when that was asked
        self._now = 0.0
        self._scales: dict[Display, tuple[float, float]] = {}  # and densities

    # --- what it is told ---

    def take(self, told: Mapping[str, Any], now: float) -> None:
        """Do what the listener says."""
        what = told.get("what")
        self._now = now
        if told.get("desk"):
            self._desk = desk_from_data(told["desk"])
        if what == "open":
            self._open(told)
        elif what == "key" and self._view:
            scene = self._scene()
            typed = TypedKey(told["key"], told["text"])
            is_escape = (
                typed.key.rpartition("+")[2] == ESCAPE
            )  # the modifiers of the card's own chord may still be held
            self._answer(self._view.key(TypedKey(ESCAPE) if is_escape else typed, scene))
        elif what == "close":
            self._view = None
        elif what == "keys":
            self._follow(told["layer"], tuple(told["begun"]), now)
        elif what == "hold":
            held = told["modifiers"]
            self._glimpse = TimedDrawing(partial(self._numbered, held), now) if held else None
        elif what == "walk":
            self._glimpse = TimedDrawing(partial(walked, told["place"], told["window"]), now, now + WALK_STAYS)
        elif what == "say":
            self._say(told, now)
        elif what == "config":
            self._config, self._scales = self._load(), {}
        self.show(now)
        if what in ("open", "key"):
            self._send("seen", number=told["number"])

    def _open(self, told: Mapping[str, Any]) -> None:
        self._number = told["number"]
        self._hint = self._glimpse = None
        make = VIEWS.get(told["view"])
        self._view = make(told["of"], self._scene()) if make else None
        if self._view is None:
            self._send("closed", number=self._number)

    def _answer(self, answer: ViewAnswer) -> None:
        """Close what is open, and ask for what was chosen; the keyboard is free before that is done."""
        self._view = answer.opens or self._view
        if not answer.closes:
            return
        self._view = None
        self._send("closed", number=self._number)  # first: who sees it go may press the next key
        self._surface.show([])
        if answer.chose and self._config.settings.counts:
            self._stores.chose(answer.chose)
        if answer.names and not self._name(*answer.names):
            return
        for act in answer.acts:
            self._send("act", action=act.text, **({"window": act.window} if act.window else {}))

    def _name(self, name: str, place: str) -> bool:
        """Write a place into the config; return whether it stands there.

        The keyboard is free by now, as checking a large config takes its time.
        """
        try:
            line, failed = f"place {name} stands in {self._stores.name(name, place)}", False
        except JakletError as fault:
            line, failed = f"{fault.message}; {fault.remedy}" if fault.remedy else fault.message, True
        self._say({"text": line, "failed": failed, "topic": ""}, self._now)
        return not failed

    def _follow(self, layer: str, begun: tuple[str, ...], now: float) -> None:
        # What is seen already goes on at once, as from the first chord of a sequence to the second.
        after = 0.0 if self._hint and self._hint.panels else self._config.settings.overlay.hints
        self._hint = TimedDrawing(partial(self._hinted, layer, begun), now + after) if layer or begun else None

    def _numbered(self, modifiers: int, scene: Scene) -> list[Panel]:
        # Who holds a modifier and drags a window wants to see that.
        return [] if self._surface.pointer()[2] else numbered_layouts(modifiers, scene)

    def _say(self, told: Mapping[str, Any], now: float) -> None:
        text, failed, topic = printable(str(told["text"])), bool(told["failed"]), str(told["topic"])
        stays = FAILURE_STAYS if failed else STAYS
        kept = [one for one in self._said if not (topic and one.topic == topic)]
        self._said = [*kept, ShownLine(text, failed, topic, now + stays)][-MOST_LINES:]

    def clicks(self, now: float) -> None:
        """Take what was clicked, and show what is due by now."""
        is_due = now >= self.due
        while (clicks := self._surface.clicks()) or is_due:
            for click in clicks:
                if self._view:
                    self._answer(self._view.click(click, self._scene()))
            is_due = False
            self.show(now)  # while that is done, the next click can come, and is read

    # --- what is seen ---

    @property
    def due(self) -> float:
        """When to `show` again at the latest, on the clock whose time it is handed."""
        passing = () if self._view else self._passing  # what is open is in its place
        return min([NEVER, *(one.due for one in passing), *(one.until for one in self._said)])

    def show(self, now: float) -> None:
        """Show what is to be seen now."""
        self._now = now
        self._said = [one for one in self._said if one.until > now]
        if self._desk is None:
            return
        scene = self._scene()
        panels: list[Panel] = self._view.panels(scene) if self._view else []
        if self._view is None:
            panels += [panel for one in self._passing for panel in one.drawn(scene, now)]
        if self._glimpse and now >= self._glimpse.until:
            self._glimpse = None
        if self._said:
            panels.append(self._lines(scene))
        self._surface.show(panels)

    @property
    def _passing(self) -> list[TimedDrawing]:
        return [one for one in (self._hint, self._glimpse) if one]

    def _hinted(self, layer: str, begun: tuple[str, ...], scene: Scene) -> list[Panel]:
        card = hints(scene.config, layer, begun, scene.config.front_app(scene.desk))
        return [scene.panel("hints", scene.drawn(card._replace(columns=3)).image, "bottom")] if card else []

    def _lines(self, scene: Scene) -> Panel:
        failed = any(one.failed for one in self._said)
        lines = tuple(
            CardLine(((TextRun("! ", FAILED), TextRun(one.text)) if one.failed else plain_cell(one.text, STRONG),))
            for one in self._said
        )
        card = Card((CardBlock(lines),), failed=failed)
        return scene.panel(
            "said", scene.drawn(card).image, "top" if any(one.panels for one in self._passing) else "bottom"
        )

    def _scene(self) -> Scene:
        assert self._desk is not None
        display = self._display(self._desk)
        if display not in self._scales:
            scale = self._config.settings.overlay.scale or self._surface.scale_of(display)
            self._scales[display] = scale, self._surface.density_of(display)
        scale, density = self._scales[display]
        return Scene(self._desk, self._config, self._stores, display, scale, self._is_dark(), density)

    def _is_dark(self) -> bool:
        """Return whether the desktop is dark, where that is to be known; it is asked again after a while."""
        if self._config.settings.overlay.look != LIKE_DESKTOP:
            return True
        if self._dark is None or self._now > self._dark[1] + ASK_AGAIN:
            self._dark = self._surface.prefers_dark(), self._now
        return self._dark[0]

    def _display(self, desk: Desk) -> Display:
        """Return the display in use: that of the window in front, or of the pointer, or the main one."""
        which = self._config.settings.overlay.display
        if which == "pointer":
            return desk.display_of(Rect(*self._surface.pointer()[:2], 1, 1))
        if which == "main" or desk.front is None:
            return self._config.display("main", desk) or desk.primary
        return desk.display_of(desk.front.frame)
