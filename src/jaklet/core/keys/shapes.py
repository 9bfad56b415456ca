"""The physical shapes of keyboards: where keys are, by XKB key name, what presses them, and how far it goes.

Positions are of a key's middle, in widths of a letter key, from the top left of the main block's digit row.
"""

from collections.abc import Iterable, Mapping
from functools import cache
from typing import Final, NamedTuple

from jaklet.core.values.hands import INDEX, LEFT, LITTLE, MIDDLE, RIGHT, RING, THUMB


class KeySpot(NamedTuple):
    """Where a key is, and what presses it."""

    x: float
    y: float
    hand: str
    finger: str


class KeyboardShape(NamedTuple):
    """The keys that a keyboard of some size has. `words`: how it is written after the keyboard's name."""

    words: str
    blocks: tuple[str, ...]


_FINGERS: Final = (LITTLE, RING, MIDDLE, INDEX, INDEX)
_LETTERS: Final = [(LEFT, finger) for finger in _FINGERS] + [(RIGHT, finger) for finger in reversed(_FINGERS)]


def _row(y: float, x: float, names: Iterable[str]) -> dict[str, KeySpot]:
    """Return the spots of ten or more keys beside each other, the first of them for the left little finger."""
    return {
        name: KeySpot(x + i, y, *(_LETTERS[i] if i < len(_LETTERS) else (RIGHT, LITTLE)))
        for i, name in enumerate(names)
    }


NUMBER_ROW, UPPER_ROW, HOME_ROW, LOWER_ROW = range(4)  # the rows of letters, by their `y`


def _numbered(prefix: str, count: int) -> list[str]:
    return [f"{prefix}{number:02}" for number in range(1, count + 1)]


def _grid(y: float, x: float, rows: Iterable[str]) -> dict[str, KeySpot]:
    fingers = (INDEX, MIDDLE, RING, LITTLE)
    return {
        name: KeySpot(x + i, y + j, RIGHT, fingers[i])
        for j, row in enumerate(rows)
        for i, name in enumerate(row.split())
        if name != "."
    }


_MEDIA: Final = (
    "MUTE", "VOL-", "VOL+", "I171", "I172", "I173", "I174", "FK20", "I232", "I233", "I148", "I163", "I180", "I225",
    "I152", "I244", "POWR",
)  # fmt: skip
# The blocks that shapes are made of. Every block's table is by key name.
BLOCKS: Final[Mapping[str, Mapping[str, KeySpot]]] = {
    "main": {
        "TLDE": KeySpot(0, 0, LEFT, LITTLE),
        **_row(NUMBER_ROW, 1, _numbered("AE", 13)),
        "BKSP": KeySpot(13.5, 0, RIGHT, LITTLE),
        "TAB": KeySpot(0.25, 1, LEFT, LITTLE),
        **_row(UPPER_ROW, 1.5, _numbered("AD", 12)),
        "BKSL": KeySpot(13.75, 1, RIGHT, LITTLE),
        "CAPS": KeySpot(0.4, 2, LEFT, LITTLE),
        **_row(HOME_ROW, 1.75, _numbered("AC", 12)),
        "RTRN": KeySpot(13.4, 2, RIGHT, LITTLE),
        "LFSH": KeySpot(0.6, 3, LEFT, LITTLE),
        "LSGT": KeySpot(1.25, 3, LEFT, LITTLE),
        **_row(LOWER_ROW, 2.25, _numbered("AB", 11)),
        "RTSH": KeySpot(13.1, 3, RIGHT, LITTLE),
        "LCTL": KeySpot(0.1, 4, LEFT, LITTLE),
        "LWIN": KeySpot(1.4, 4, LEFT, THUMB),
        "LALT": KeySpot(2.6, 4, LEFT, THUMB),
        "SPCE": KeySpot(6.4, 4, LEFT, THUMB),
        "RALT": KeySpot(10.1, 4, RIGHT, THUMB),
        "RCTL": KeySpot(13.9, 4, RIGHT, LITTLE),
        "ESC": KeySpot(0, -1.5, LEFT, LITTLE),
    },
    "japanese": {name: KeySpot(4 + i, 4, RIGHT, THUMB) for i, name in enumerate(("MUHE", "HENK", "HKTG"))},
    "menu": {"RWIN": KeySpot(11.4, 4, RIGHT, THUMB), "COMP": KeySpot(12.6, 4, RIGHT, LITTLE)},
    "functions": {
        f"FK{n:02}": KeySpot(1 + n + (n - 1) // 4 * 0.5, -1.5, *_LETTERS[min(max(n - 1, 0), 9)]) for n in range(1, 13)
    },
    "system": _grid(-1.5, 15.25, ["PRSC SCLK PAUS"]),
    "arrows": _grid(3, 15.25, [". UP .", "LEFT DOWN RGHT"]),
    "delete": {"DELE": KeySpot(15.25, 1, RIGHT, LITTLE)},
    "pages": _grid(0, 15.25, ["INS HOME PGUP", ". END PGDN"]),
    "keypad": {
        **_grid(0, 18.5, ["NMLK KPDV KPMU KPSU", "KP7 KP8 KP9 KPAD", "KP4 KP5 KP6 .", "KP1 KP2 KP3 KPEN"]),
        "KP0": KeySpot(19, 4, RIGHT, THUMB),
        "KPDL": KeySpot(20.5, 4, RIGHT, RING),
    },
    "media": {name: KeySpot(15.25 + i % 8 / 2, -2.5, RIGHT, INDEX) for i, name in enumerate(_MEDIA)},
}
_LESS: Final = ("main", "japanese", "functions", "arrows", "delete")
SHAPES: Final = (
    KeyboardShape("full size", (*_LESS, "menu", "system", "pages", "keypad")),
    KeyboardShape("no number pad", (*_LESS, "menu", "system", "pages")),
    KeyboardShape("no function row", ("main", "japanese", "arrows", "delete", "menu", "pages")),
    KeyboardShape("small laptop", _LESS),
    KeyboardShape("main block only", ("main", "japanese", "menu")),
)
# What shapes are called beside that.
CALLED: Final[Mapping[str, str]] = {
    "iso-105": "full size", "ansi-104": "full size", "iso-88": "no number pad", "ansi-87": "no number pad",
    "60%": "main block only",
}  # fmt: skip
FARTHEST: Final = 5.5
# A finger's way to a key, in key widths, from where it rests.
_REST: Final = {
    (LEFT, LITTLE): (1.75, 2), (LEFT, RING): (2.75, 2), (LEFT, MIDDLE): (3.75, 2), (LEFT, INDEX): (4.75, 2),
    (LEFT, THUMB): (6, 4), (RIGHT, THUMB): (8, 4),
    (RIGHT, INDEX): (7.75, 2), (RIGHT, MIDDLE): (8.75, 2), (RIGHT, RING): (9.75, 2), (RIGHT, LITTLE): (10.75, 2),
}  # fmt: skip


def shape_called(text: str) -> str:
    """Return the words of a shape for any of its names; empty for none."""
    words = " ".join(text.lower().split())
    return CALLED.get(words, words if words in [shape.words for shape in SHAPES] else "")


@cache
def spots_of(words: str, media: bool) -> Mapping[str, KeySpot]:
    """Return the keys of a shape."""
    shape = next(shape for shape in SHAPES if shape.words == words)
    blocks = (*shape.blocks, "media") if media else shape.blocks
    return {name: spot for block in blocks for name, spot in BLOCKS[block].items()}


def finger_way(spot: KeySpot) -> float:
    """Return how far a finger goes from where it rests to a key, in key widths.

    The little finger's way counts half more; further than `FARTHEST` the whole hand goes, and how far matters little.
    """
    x, y = _REST[spot.hand, spot.finger]
    far = ((spot.x - x) ** 2 + (spot.y - y) ** 2) ** 0.5
    return min(float(far) * 1.5 if spot.finger == LITTLE else far, FARTHEST)
