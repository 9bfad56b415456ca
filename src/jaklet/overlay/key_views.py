"""Keys over the windows: the sheet of what is live, and the hints of what comes next."""

from collections.abc import Iterable, Sequence
from typing import Final

from jaklet.core.actions.ports.surface import Click, Panel
from jaklet.core.keys.sheet import SheetLine, filter_lines, sheet_lines
from jaklet.core.keys.strokes import TypedKey
from jaklet.core.values.cards import FAINT, KEY, STRONG, Card, CardBlock, CardLine, plain_cell
from jaklet.core.values.chords import keys_written
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.words import counted
from jaklet.overlay.scenes import CLOSES, STAYS, Scene, ViewAnswer

COLUMNS: Final = 4
MORE: Final = ("space", "pagedown", "down")
BACK: Final = ("backspace", "pageup", "up")
ESCAPE_LINE: Final = CardLine((plain_cell("escape", KEY), plain_cell("leave", FAINT)))


class SheetView:
    """The keys that are live, in columns. Space and the arrows turn pages; any other key closes it."""

    def __init__(self, words: str, scene: Scene) -> None:
        self._words = words
        self._blocks = sheet_blocks(scene.config, words, scene.config.front_app(scene.desk))
        self._page, self._pages = 0, 1

    def panels(self, scene: Scene) -> list[Panel]:
        """Return the card."""
        room = scene.rows(4, 0.86) * COLUMNS
        pages = pages_of(self._blocks, max(8, room - 2 * COLUMNS))
        self._pages = len(pages)
        blocks = pages[min(self._page, len(pages) - 1)] if pages else ()
        number = counted(sum(len(block.lines) for block in self._blocks), "line")
        what = f"keys: {self._words}" if self._words else "keys that are live"
        turn = f"page {self._page + 1} of {self._pages}, Space turns it · " if self._pages > 1 else ""
        foot = plain_cell(f"{number}   {turn}any other key closes this", FAINT)
        if not blocks:
            blocks = (CardBlock((CardLine((plain_cell("no key has that", FAINT),)),)),)
        return [
            scene.panel(
                "keys",
                scene.drawn(Card(tuple(blocks), plain_cell(what, STRONG), None, foot, COLUMNS)).image,
                "centre",
                True,
            )
        ]

    def key(self, typed: TypedKey, scene: Scene) -> ViewAnswer:
        """Turn a page, or close."""
        step = 1 if typed.key in MORE else -1 if typed.key in BACK else 0
        if not step or not 0 <= self._page + step < self._pages:
            return CLOSES
        self._page += step
        return STAYS

    def click(self, click: Click, scene: Scene) -> ViewAnswer:
        """Close."""
        return CLOSES


def sheet_blocks(config: Config, words: str = "", front: str | None = None) -> list[CardBlock]:
    """Return the sheet as blocks by heading. `words`: an app, a layer, or words that a line has to have.

    What is live in the app in front alone comes first.
    """
    lines = [line for line in sheet_lines(config) if not line.dead]
    if words in config.apps:
        lines = filter_lines(lines, (), app=words)
    elif words in config.layers:
        lines = filter_lines(lines, (), layer=words)
    else:
        lines = filter_lines(lines, words.split())
    live = [line for line in lines if line.within.holds(front)]
    blocks: dict[str, list[SheetLine]] = {f"in {front}": [line for line in live if line.within.only]}
    for line in live:
        if not line.within.only:
            blocks.setdefault(line.heading or "keys", []).append(line)
    return [CardBlock(tuple(map(_line, some)), heading) for heading, some in blocks.items() if some]


def _line(line: SheetLine) -> CardLine:
    return CardLine((plain_cell(line.keys, KEY), plain_cell(line.note or line.action)))


def pages_of(blocks: Sequence[CardBlock], rows: int) -> list[tuple[CardBlock, ...]]:
    """Return blocks on pages of so many lines, headings and what parts them included; long ones are parted."""
    pages: list[list[CardBlock]] = [[]]
    left = rows
    for block in blocks:
        lines = block.lines
        while lines:
            room = left - 2
            if room < min(3, len(lines)):
                pages.append([])
                left, room = rows, rows - 2
            pages[-1].append(CardBlock(lines[:room], block.heading))
            left -= len(lines[:room]) + 2
            lines = lines[room:]
    return [tuple(page) for page in pages if page]


def hints(config: Config, layer: str, begun: Sequence[str], front: str | None) -> Card | None:
    """Return the card of the keys that come next in a layer, or after the chords of a sequence; None for no key."""
    bindings = [
        one for one in config.live
        if one.layer == layer and len(one.keys) > len(begun)
        and [str(chord) for chord in one.keys[: len(begun)]] == list(begun)
        and (not one.scope.apps or one.scope.holds(front))
    ]  # fmt: skip
    lines = tuple(_hint_lines(bindings, len(begun)))
    if not lines:
        return None
    named = config.layers.get(layer)
    title = " ".join(begun) if begun else f"{layer}: {named.note}" if named and named.note else layer
    return Card((CardBlock((*lines, ESCAPE_LINE)),), plain_cell(title, STRONG))


def _hint_lines(bindings: Iterable[Binding], done: int) -> Iterable[CardLine]:
    """Yield a line for each key that comes next; a family, and what goes on from the same key, is one."""
    found: dict[object, list[Binding]] = {}
    for one in bindings:
        goes_on = len(one.keys) > done + 1
        key = (one.spot, one.on_release) if one.family else (str(one.keys[done]), goes_on)
        found.setdefault(key, []).append(one)
    for group in found.values():
        first = group[0]
        if first.family and len(group) > 1:
            keys = " ".join(first.family[0].split()[done:])
            yield CardLine((plain_cell(keys, KEY), plain_cell(first.note or first.family[1])))
        elif len(first.keys) > done + 1 and len(group) > 1:
            yield CardLine((plain_cell(f"{first.keys[done]} …", KEY), plain_cell(f"{len(group)} keys follow", FAINT)))
        else:
            yield CardLine(
                (plain_cell(keys_written(first.keys[done:]), KEY), plain_cell(first.note or first.action.text))
            )
