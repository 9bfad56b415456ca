"""The finder over the windows: the same state, ranking and labels as on a terminal, drawn as a card."""

from collections.abc import Callable, Mapping
from functools import partial
from itertools import groupby
from typing import Final

from jaklet.core.actions.candidates import CandidateSources, candidates
from jaklet.core.actions.pick_candidate import Candidate
from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.keys.strokes import RELEASED, TypedKey
from jaklet.core.values.cards import (
    FAINT,
    KEY,
    MARK,
    PLAIN,
    STRONG,
    Card,
    CardBlock,
    CardLine,
    Cell,
    TextRun,
    plain_cell,
)
from jaklet.core.values.geometry import Rect
from jaklet.core.values.kinds import ALL
from jaklet.core.values.matching import Query
from jaklet.core.values.orders import USUAL_GRID
from jaklet.finder.state import NO_WEIGHTS, TABS, Finder, FinderRow, key_of
from jaklet.overlay.pointing import GridView
from jaklet.overlay.scenes import CLOSES, STAYS, Scene, ViewAction, ViewAnswer

PAGE: Final = 8  # lines that Page Up and Page Down go on by
FOOT: Final = "Enter do · ↑ ↓ choose · Tab kind · Ctrl+L labels · Escape leave"
OF_WINDOWS: Final = "Ctrl+Enter brings it here · Ctrl+P places it · Ctrl+Backspace closes it"
WINDOW: Final = "focus window 0x"
LEFT_BUTTON, WHEEL_UP, WHEEL_DOWN = 1, 4, 5


class FinderView:
    """The finder, until something is chosen or it is left."""

    def __init__(self, kind: str, scene: Scene) -> None:
        stores = scene.stores
        layouts = stores.layouts() if kind in (ALL, "layouts") else ()
        hosts = stores.hosts() if kind in (ALL, "hosts") else ()
        self.finder = Finder(kind)
        settings = scene.config.settings
        weights = stores.weights() if settings.counts else NO_WEIGHTS
        stock = CandidateSources(scene.config, scene.desk, layouts, hosts)
        self.finder.load(candidates(stock), settings.at_once, weights)
        self._least = (0, 0)  # it does not shrink while it is typed into
        self._lines: tuple[Rect, ...] = ()
        steps = {"down": 1, "up": -1, "pagedown": PAGE, "pageup": -PAGE, "ctrl+n": 1}
        self._keys: Mapping[str, Callable[[], object]] = {
            **{key: partial(self.finder.move, step) for key, step in steps.items()},
            "tab": partial(self.finder.turn, 1),
            "shift+tab": partial(self.finder.turn, -1),
            "ctrl+l": partial(setattr, self.finder, "jumping", ""),
            "backspace": lambda: self.finder.type(self.finder.typed[:-1]),
            "ctrl+u": lambda: self.finder.type(""),
        }

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the card."""
        return self.shown(scene, self.card(scene.rows(5)))

    def shown(self, scene: Scene, card: Card) -> list[Panel]:
        """Return a card of the finder's lines, and remember where they are."""
        drawn = scene.drawn(card, self._least)
        self._least, self._lines = drawn.image.size, drawn.lines
        return [scene.panel("finder", drawn.image, clicked=True)]

    def card(self, rows: int) -> Card:
        """Return the panels to show, with so many lines at most."""
        finder = self.finder
        query, shown = Query.of(finder.typed), finder.window(rows)
        kinds = finder.kind == ALL
        lines = tuple(_line(label, row, query, chosen, kinds) for label, row, chosen in shown)
        if not lines:
            lines = (
                CardLine((plain_cell("nothing fits" if finder.typed.strip() else "there is nothing here", FAINT),)),
            )
        title = tuple(
            TextRun(f"[{tab}] " if tab == finder.kind else f"{tab} ", STRONG if tab == finder.kind else FAINT)
            for tab in TABS
        )
        return Card((CardBlock(lines),), title, finder.typed, plain_cell(self._foot(), FAINT))

    def _foot(self) -> str:
        if self.finder.jumping is not None:
            return f"label: {self.finder.jumping}_   two letters do it, Escape leaves"
        choice = self.finder.choice
        more = f" · {OF_WINDOWS}" if choice and choice.kind == "windows" else ""
        return f"{self.finder.counted}   {FOOT}{more}"

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Take a key: a letter to look for, or one that chooses."""
        finder, key = self.finder, typed.key
        if finder.jumping is not None:
            return self._jump(typed, scene)
        if key in ("escape", "ctrl+c", "ctrl+g"):
            return CLOSES
        if key in ("return", "kp_enter"):
            return _does(finder.choice, scene)
        if key in ("ctrl+return", "ctrl+backspace", "ctrl+p"):
            return _with_window(finder.choice, key, scene)
        if key in self._keys:
            self._keys[key]()
        elif typed.text:
            finder.type(finder.typed + typed.text)
            if word := finder.word_stands:
                return _does(word, scene)
        return STAYS

    def _jump(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        if typed.key == "escape" or not typed.text:
            self.finder.jumping = None
            return STAYS
        found = self.finder.jump(typed.text)
        return _does(found, scene)

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Do what was clicked; the wheel goes on."""
        if click.button in (WHEEL_UP, WHEEL_DOWN):
            self.finder.move(1 if click.button == WHEEL_DOWN else -1)
            return STAYS
        at = next((i for i, line in enumerate(self._lines) if line.y <= click.y < line.bottom), None)
        shown = self.finder.window(len(self._lines))
        if at is None or at >= len(shown) or click.button != LEFT_BUTTON:
            return STAYS
        return _does(shown[at][1].candidate, scene)


class WalkView:
    """A walk through what there is, for as long as the modifiers of its key are held; letting go of them does it."""

    def __init__(self, kind: str, scene: Scene) -> None:
        self._inner = FinderView(kind, scene)
        self.finder = self._inner.finder

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the card."""
        return self._inner.shown(scene, self.card(scene.rows(4)))

    def card(self, rows: int) -> Card:
        """Return the panels to show, with so many lines at most."""
        foot = f"{self.finder.counted}   let go to do it · the same key: on · with Shift: back · Escape leave"
        card = self._inner.card(rows)
        blocks = [block._replace(lines=tuple(_unlabelled(line) for line in block.lines)) for block in card.blocks]
        title = plain_cell(self.finder.kind, STRONG)
        return card._replace(blocks=tuple(blocks), title=title, typed=None, foot=plain_cell(foot, FAINT))

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Go on with any key, and back with Shift, round and round; do it when the modifiers are let go of."""
        *held, key = typed.key.split("+")
        if key == "escape":
            return CLOSES
        if typed == RELEASED or key in ("return", "kp_enter"):
            return _does(self.finder.choice, scene) if self.finder.choice else CLOSES
        self.finder.wander(-1 if "shift" in held or key in ("up", "left") else 1)
        return STAYS

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Do what was clicked; the wheel goes on."""
        return self._inner.click(click, scene)


def _unlabelled(line: CardLine) -> CardLine:
    return line._replace(cells=line.cells[1:]) if len(line.cells) > 1 else line


def _does(candidate: Candidate | None, scene: Scene) -> ViewAnswer:
    """Close, and do what a candidate stands for."""
    if candidate is None:
        return STAYS
    if candidate.kind == "hosts":  # no action of its own: a terminal is opened for it
        words = " ".join((*scene.config.settings.terminal, candidate.does))
        return ViewAnswer(True, (ViewAction(f'shell "{words}"'),), key_of(candidate))
    return ViewAnswer(True, (ViewAction(candidate.does),), key_of(candidate))


def _with_window(candidate: Candidate | None, key: str, scene: Scene) -> ViewAnswer:
    """Bring a window here, ask it to close, or choose a place for it."""
    if candidate is None or candidate.kind != "windows":
        return STAYS
    wid = int(candidate.does.removeprefix(WINDOW), 16)
    if key == "ctrl+p":
        return ViewAnswer(opens=GridView(USUAL_GRID, scene, wid))
    if key == "ctrl+backspace":
        return ViewAnswer(True, (ViewAction("close", wid),))
    acts = [ViewAction(f"send to workspace {scene.desk.workspace}", wid)]
    window = scene.desk.by_id.get(wid)
    if window and scene.desk.display_of(window.frame) != scene.display:
        acts.append(ViewAction(f"send to display {scene.config.role_of(scene.display)}", wid))
    return ViewAnswer(True, (*acts, ViewAction(candidate.does)))


def _line(label: str, row: FinderRow, query: Query, chosen: bool, kinds: bool) -> CardLine:
    marks = query.marks(row.text)
    roles = [MARK if at in marks else FAINT if at >= row.split else PLAIN for at in range(len(row.shown))]
    text: Cell = tuple(
        TextRun("".join(letter for _, letter in group), role)
        for role, group in groupby(zip(roles, row.shown, strict=True), lambda pair: pair[0])
    )
    kind = (plain_cell(row.candidate.kind, FAINT),) if kinds else ()
    return CardLine((plain_cell(label, FAINT), *kind, text, plain_cell(", ".join(row.candidate.keys[:2]), KEY)), chosen)
