"""The keyboard, drawn in the terminal: a grid of characters in which every key has its place."""

from collections.abc import Sequence
from typing import Final

from jaklet.core.keys.keycaps import BEGINS, BOUND, FREE, HELD, MODIFIER, OWNED, RIGHT_EDGE, Keycap
from jaklet.core.values.words import cell_width, cut_to_cells, printable
from jaklet.drawing.ink import PLAIN, Ink

LEAST, MOST = 5, 11  # characters that a letter key is wide
TALL: Final = 3  # lines from one row to the next
_UP, _DOWN, _LEFT, _RIGHT = 1, 2, 4, 8
_LINES: Final = " ╵╷│╴┘┐┤╶└┌├─┴┬┼"  # by the directions in which a line goes on
SIGNS: Final = {OWNED: "×", HELD: "■", BEGINS: "…"}
HARD_SIGN, CONTORTED_SIGN = "~", "!"
KEY_TO_SIGNS: Final = "× is taken, … begins a sequence, ■ is held, ~ is hard to reach, ! is very hard"
_ROLES: Final = {BOUND: "window", BEGINS: "window", OWNED: "warning", FREE: "", HELD: "active", MODIFIER: "faint"}
_NOT_TELLING: Final = ("a ", "an ", "the ", "go ", "place ", "run ", "enter ", "recall ", "focus ", "show ", "send to ")


def keyboard_text(caps: Sequence[Keycap], columns: int, ink: Ink = PLAIN) -> str:
    """Return the keyboard, no wider than so many columns; without its right-hand blocks where they have no room."""
    for some in (caps, [cap for cap in caps if cap.box.x < RIGHT_EDGE]):
        left = min(cap.box.x for cap in some)
        wide = max(cap.box.x + cap.box.width for cap in some) - left
        unit = min(MOST, int((columns - 1) / wide))
        if unit > LEAST:
            break
    return _Grid(max(LEAST, unit), left).drawn(some, ink)


class _Grid:
    """Lines and texts by column and row of characters."""

    def __init__(self, unit: int, left: float) -> None:
        self._unit, self._left = unit, left
        self._lines: dict[tuple[int, int], int] = {}
        self._texts: dict[int, list[tuple[int, str, str]]] = {}

    def drawn(self, caps: Sequence[Keycap], ink: Ink) -> str:
        tops = self._tops(caps)
        for cap in caps:
            x0, x1 = self._column(cap.box.x), self._column(cap.box.x + cap.box.width)
            y0 = tops[cap.box.y]
            self._frame(x0, y0, x1, y0 + TALL * int(cap.box.height))
            self._fill(cap, x0 + 1, y0 + 1, x1 - x0 - 1)
        rows = []
        for y in range(max(tops.values()) + TALL + 1):
            rows.append(self._row(y, ink))
        return "\n".join(row.rstrip() for row in rows)

    @staticmethod
    def _tops(caps: Sequence[Keycap]) -> dict[float, int]:
        """Return the line on which each row of keys begins; a gap between rows is a line."""
        tops: dict[float, int] = {}
        before, line = None, 0
        for y in sorted({cap.box.y for cap in caps}):
            line += 0 if before is None else TALL + (y - before > 1)
            tops[y], before = line, y
        return tops

    def _column(self, x: float) -> int:
        return int((x - self._left) * self._unit + 0.5)

    def _frame(self, x0: int, y0: int, x1: int, y1: int) -> None:
        for y in (y0, y1):
            for x in range(x0, x1 + 1):
                self._join((x, y), (_RIGHT if x < x1 else 0) | (_LEFT if x > x0 else 0))
        for x in (x0, x1):
            for y in range(y0, y1 + 1):
                self._join((x, y), (_DOWN if y < y1 else 0) | (_UP if y > y0 else 0))

    def _join(self, at: tuple[int, int], ways: int) -> None:
        self._lines[at] = self._lines.get(at, 0) | ways

    def _fill(self, cap: Keycap, x: int, y: int, room: int) -> None:
        sign = SIGNS.get(cap.state, "×" if cap.owner else "")
        if cap.state not in (HELD, MODIFIER):
            sign += CONTORTED_SIGN if cap.is_contortion else HARD_SIGN if cap.is_hard else ""
        label = cut_to_cells(printable(cap.label), room - len(sign))
        role = _ROLES[cap.state]
        self._texts.setdefault(y, []).append((x, label + " " * (room - cell_width(label) - len(sign)) + sign, role))
        text = cut_to_cells(short_label(cap), room)
        self._texts.setdefault(y + 1, []).append((x, text + " " * (room - cell_width(text)), role))

    def _row(self, y: int, ink: Ink) -> str:
        texts = {x: (text, role) for x, text, role in self._texts.get(y, ())}
        wide = max(x for x, _ in self._lines)
        row, x = [], 0
        while x <= wide:
            if x in texts:
                text, role = texts[x]
                row.append(ink(text, role) if role else text)
                x += cell_width(text)
            else:
                row.append(_LINES[self._lines.get((x, y), 0)])
                x += 1
        return "".join(row)


def short_label(cap: Keycap) -> str:
    """Return a key's action in as few letters as tell it; the owner of the key, where it does nothing."""
    text = printable(cap.text or (cap.owner if cap.state == OWNED else ""))
    for word in _NOT_TELLING:
        text = text.removeprefix(word)
    return text
