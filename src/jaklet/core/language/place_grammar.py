"""Places as sentences: parts of a work area.

    place := one {"," one}
    one := (form | NAME) ["on" ["display"] DISPLAY]

A form is one class in `core.values.forms` and one entry in `FORMS`.
"""

import re
from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Final

from jaklet.core.language.cursor import NAME, Cursor
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.forms import (
    HALF,
    CellPlace,
    CentrePlace,
    FullPlace,
    Grid,
    NamedPlace,
    PixelPlace,
    PlaceForm,
    SamePlace,
    SidePlace,
    TrackPlace,
    column_name,
)
from jaklet.core.values.geometry import Length
from jaklet.core.values.places import Place
from jaklet.core.values.regexes import regex
from jaklet.core.values.words import did_you_mean, either

PLACE_SIDES: Final = {
    "left": ("across", "left"),
    "right": ("across", "right"),
    "top": ("down", "top"),
    "bottom": ("down", "bottom"),
    "up": ("down", "top"),
    "down": ("down", "bottom"),
}
_FRACTION: Final = regex(r"(\d{1,4})/(\d{1,4})(?=[\sx,]|$)")
_PERCENT: Final = regex(r"(\d{1,3}(?:\.\d{1,4})?)\s?%(?=[\sx,]|$)")
_PIXELS: Final = regex(r"(\d{1,5})\s?px(?=[\sx,]|$)")
_TIMES: Final = regex(r"x\s*")
_TRACKS: Final = regex(r"(\d{1,3})(?:\s*-\s*(\d{1,3}))?\s+of\s+(\d{1,3})(?=[\s,]|$)", re.IGNORECASE)
_ADDRESS: Final = r"([A-Z]{1,2})(\d{1,2})"
_CELLS: Final = regex(
    rf"{_ADDRESS}(?:\s*:\s*{_ADDRESS})?\s+of\s+(\d{{1,2}})\s*x\s*(\d{{1,2}})(?=[\s,]|$)", re.IGNORECASE
)
_COMMA: Final = regex(",")
_AT: Final = regex(r"(-?\d{1,5})\s*,\s*(-?\d{1,5})\s+size\s+(\d{1,5})\s*x\s*(\d{1,5})(?=[\s,]|$)", re.IGNORECASE)
_LENGTH_REMEDY: Final = "write a share such as 1/2 or 60%, or pixels such as 600px"


def parse_length(cursor: Cursor) -> Length:
    """length := N "/" M | P "%" | N "px" """
    start = cursor.at
    share = None
    if found := cursor.take(_FRACTION):
        top, low = int(found[1]), int(found[2])
        if low == 0:
            raise SentenceError("a share of nothing: the fraction ends in /0", start, found.end(), _LENGTH_REMEDY)
        share = Fraction(top, low)
    elif found := cursor.take(_PERCENT):
        share = Fraction(found[1]) / 100
    elif found := cursor.take(_PIXELS):
        if int(found[1]) == 0:
            raise SentenceError("nothing would be left of the window", start, found.end(), _LENGTH_REMEDY)
        return Length(None, int(found[1]))
    if found is None or share is None:
        word = cursor.peek()
        raise cursor.fault(f"{word!r} is no size" if word else "a size is missing here", _LENGTH_REMEDY)
    if not 0 < share <= 1:
        text = found.group().strip()
        raise SentenceError(f"{text} is not within the work area", start, found.end(), "use more than 0, at most 1/1")
    return Length(share)


def _parse_full(cursor: Cursor) -> PlaceForm:
    cursor.word()
    return FullPlace()


def _parse_sides(cursor: Cursor) -> PlaceForm:
    parts: dict[str, tuple[str, Length]] = {}
    while cursor.peek() in PLACE_SIDES:
        word, start, end = cursor.word()
        axis, side = PLACE_SIDES[word]
        if axis in parts:
            message = f"{word} and {parts[axis][0]} are on the same axis"
            remedy = "join one of left or right with one of top or bottom; alternatives have commas between them"
            raise SentenceError(message, start, end, remedy)
        bare = cursor.done or cursor.peek() in PLACE_SIDES or cursor.peek() == "on" or cursor.sees(_COMMA)
        parts[axis] = (side, HALF if bare else parse_length(cursor))
    return SidePlace(parts.get("across"), parts.get("down"))


def _parse_grid(cursor: Cursor) -> PlaceForm:
    parts: dict[str, TrackPlace] = {}
    while cursor.peek() in _GRID_WORDS:
        word, start, end = cursor.word()
        axis = word.rstrip("s") + "s"
        if axis in parts:
            raise SentenceError(f"{axis} are named twice", start, end, "leave one of them out")
        at = cursor.at
        found = cursor.take(_TRACKS)
        if not found:
            raise cursor.fault(f"which {word}?", f"write {word} 1 of 3, or {axis} 1-2 of 3")
        first, last, count = int(found[1]), int(found[2] or found[1]), int(found[3])
        if not 1 <= first <= last <= count:
            raise SentenceError(
                f"there is no {word} {found[0].strip()}", at, found.end(), "count from 1 up to the last"
            )
        parts[axis] = TrackPlace(first, last, count)
    return Grid(parts.get("columns"), parts.get("rows"))


def _parse_cells(cursor: Cursor) -> PlaceForm:
    cursor.word()
    start = cursor.at
    found = cursor.take(_CELLS)
    if not found:
        raise cursor.fault("which cells?", "write cells B2:D3 of 6x4, or cell A1 of 3x2: 6 columns by 4 rows")
    totals = int(found[5]), int(found[6])
    corners = (_column(found[1]), int(found[2])), (_column(found[3] or found[1]), int(found[4] or found[2]))
    columns, rows = (sorted(axis) for axis in zip(*corners, strict=True))
    if not (columns[0] and rows[0] and columns[1] <= totals[0] and rows[1] <= totals[1]):
        message = f"{found[0].strip()} is not within the grid"
        remedy = f"its last cell is {column_name(totals[0])}{totals[1]}" if all(totals) else "it needs a cell"
        raise SentenceError(message, start, start + len(found[0].rstrip()), remedy)
    return CellPlace(TrackPlace(columns[0], columns[1], totals[0]), TrackPlace(rows[0], rows[1], totals[1]))


def _column(letters: str) -> int:
    number = 0
    for letter in letters.upper():
        number = number * 26 + ord(letter) - ord("A") + 1
    return number


def _parse_same(cursor: Cursor) -> PlaceForm:
    cursor.word()
    if not cursor.keyword("place"):
        raise cursor.fault("the same what?", "write same place on quay")
    if cursor.peek() != "on":
        raise cursor.fault("the same place on which display?", "write same place on quay")
    return SamePlace()


def _parse_centre(cursor: Cursor) -> PlaceForm:
    cursor.word()
    width = parse_length(cursor)
    if not cursor.take(_TIMES):
        raise cursor.fault("the height is missing", "write both, such as centre 60% x 80%")
    return CentrePlace(width, parse_length(cursor))


def _parse_at(cursor: Cursor) -> PlaceForm:
    cursor.word()
    start = cursor.at
    found = cursor.take(_AT)
    if not found:
        raise cursor.fault("no position and size here", "write at 100,50 size 800x600, in pixels")
    x, y, width, height = (int(group) for group in found.groups())
    if not (width and height):
        raise SentenceError("nothing would be left of the window", start, found.end(), "give a size above 0")
    return PixelPlace(x, y, width, height)


_GRID_WORDS: Final = ("column", "columns", "row", "rows")

# The first word of a sentence decides its form. A new form is one entry here.
FORMS: Final[Mapping[str, Callable[[Cursor], PlaceForm]]] = {
    "full": _parse_full,
    **dict.fromkeys(PLACE_SIDES, _parse_sides),
    **dict.fromkeys(_GRID_WORDS, _parse_grid),
    "cell": _parse_cells,
    "cells": _parse_cells,
    "same": _parse_same,
    "centre": _parse_centre,
    "center": _parse_centre,
    "at": _parse_at,
}
PLACE_EXAMPLES: Final = "left 2/3, column 2 of 3, centre 60% x 80%, full"


def parse_place(text: str) -> Place:
    """Parse a whole sentence as a place; raises `SentenceError`."""
    cursor = Cursor(text)
    place = read_place(cursor)
    if not cursor.done:
        raise cursor.fault(f"{cursor.peek()!r} does not belong to a place", f"places look like {PLACE_EXAMPLES}")
    return place


def named_in(text: str) -> list[tuple[str, str, int, int]]:
    """Return the names in the sentence of a place: kind, name, and offsets; raises `SentenceError`."""
    cursor = Cursor(text)
    read_place(cursor)
    return cursor.named


def read_place(cursor: Cursor) -> Place:
    """place := one {"," one}"""
    first = _read_one(cursor)
    then = []
    while cursor.take(_COMMA):
        if cursor.done:
            raise cursor.fault("another place is missing after the comma", "leave the comma out")
        then.append(_read_one(cursor))
    return first._replace(then=tuple(then)) if then else first


def _read_one(cursor: Cursor) -> Place:
    """one := (form | NAME) ["on" ["display"] DISPLAY]"""
    first = cursor.peek()
    if cursor.done and cursor.at:
        raise cursor.fault("which place?", f"places look like {PLACE_EXAMPLES}")
    reader = FORMS.get(first)
    if reader:
        form = reader(cursor)
    else:
        at = cursor.at
        found = cursor.take(NAME)
        if not found or found.end() != at + len(first):
            raise SentenceError(f"{first!r} is no place", at, at + len(first), f"places look like {PLACE_EXAMPLES}")
        if not cursor.done and cursor.peek() != "on" and not cursor.sees(_COMMA):
            raise SentenceError(
                f"{first!r} begins no place", at, found.end(),
                lambda: did_you_mean(first, FORMS, f"places look like {PLACE_EXAMPLES}"), unknown=first,
            )  # fmt: skip
        form = NamedPlace(found.group())
        cursor.named.append(("place", found.group(), found.start(), found.end()))
    display = None
    if cursor.keyword("on"):
        cursor.keyword("display")
        name = cursor.take(NAME)
        if not name:
            raise cursor.fault("on which display?", "end with the display's name: left 1/2 on main")
        display = name.group()
        cursor.named.append(("display", display, name.start(), name.end()))
    return Place(form, display)


def unknown_place(name: str, names: Mapping[str, Place]) -> str:
    """Return the remedy for a place name that is not known."""
    return did_you_mean(
        name,
        [*names, *FORMS],
        f"define it under `places`, or use {either(sorted(names))}" if names else f"places look like {PLACE_EXAMPLES}",
    )
