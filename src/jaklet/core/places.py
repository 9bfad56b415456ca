"""Places: parts of a work area, as sentences.

    place := form ["on" DISPLAY]

A form is one class in `core.forms` and one entry in `FORMS`.
"""

import re
from collections.abc import Callable, Mapping
from fractions import Fraction
from typing import Final, NamedTuple

from jaklet.core.cursor import NAME, Cursor
from jaklet.core.errors import SentenceError
from jaklet.core.forms import HALF, At, Centre, Form, Full, Grid, Named, Sides, Tracks
from jaklet.core.geometry import Length
from jaklet.core.words import did_you_mean, either


class Place(NamedTuple):
    """A form, and the display it is meant for (None: the display the window is on)."""

    form: Form
    display: str | None = None

    def __str__(self) -> str:
        return f"{self.form} on {self.display}" if self.display else str(self.form)


SIDES: Final = {
    "left": ("across", "left"),
    "right": ("across", "right"),
    "top": ("down", "top"),
    "bottom": ("down", "bottom"),
    "up": ("down", "top"),
    "down": ("down", "bottom"),
}
_FRACTION: Final = re.compile(r"(\d{1,4})/(\d{1,4})(?=[\sx]|$)")
_PERCENT: Final = re.compile(r"(\d{1,3}(?:\.\d{1,4})?)\s?%(?=[\sx]|$)")
_PIXELS: Final = re.compile(r"(\d{1,5})\s?px(?=[\sx]|$)")
_TIMES: Final = re.compile(r"x\s*")
_TRACKS: Final = re.compile(r"(\d{1,3})(?:\s*-\s*(\d{1,3}))?\s+of\s+(\d{1,3})(?=\s|$)", re.IGNORECASE)
_AT: Final = re.compile(r"(-?\d{1,5})\s*,\s*(-?\d{1,5})\s+size\s+(\d{1,5})\s*x\s*(\d{1,5})(?=\s|$)", re.IGNORECASE)
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


def _parse_full(cursor: Cursor) -> Form:
    cursor.word()
    return Full()


def _parse_sides(cursor: Cursor) -> Form:
    parts: dict[str, tuple[str, Length]] = {}
    while cursor.peek() in SIDES:
        word, start, end = cursor.word()
        axis, side = SIDES[word]
        if axis in parts:
            message = f"{word} and {parts[axis][0]} are on the same axis"
            raise SentenceError(message, start, end, "join one of left or right with one of top or bottom")
        bare = cursor.done or cursor.peek() in SIDES or cursor.peek() == "on"
        parts[axis] = (side, HALF if bare else parse_length(cursor))
    return Sides(parts.get("across"), parts.get("down"))


def _parse_grid(cursor: Cursor) -> Form:
    parts: dict[str, Tracks] = {}
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
        parts[axis] = Tracks(first, last, count)
    return Grid(parts.get("columns"), parts.get("rows"))


def _parse_centre(cursor: Cursor) -> Form:
    cursor.word()
    width = parse_length(cursor)
    if not cursor.take(_TIMES):
        raise cursor.fault("the height is missing", "write both, such as centre 60% x 80%")
    return Centre(width, parse_length(cursor))


def _parse_at(cursor: Cursor) -> Form:
    cursor.word()
    start = cursor.at
    found = cursor.take(_AT)
    if not found:
        raise cursor.fault("no position and size here", "write at 100,50 size 800x600, in pixels")
    x, y, width, height = (int(group) for group in found.groups())
    if not (width and height):
        raise SentenceError("nothing would be left of the window", start, found.end(), "give a size above 0")
    return At(x, y, width, height)


_GRID_WORDS: Final = ("column", "columns", "row", "rows")

# The first word of a sentence decides its form. A new form is one entry here.
FORMS: Final[Mapping[str, Callable[[Cursor], Form]]] = {
    "full": _parse_full,
    **dict.fromkeys(SIDES, _parse_sides),
    **dict.fromkeys(_GRID_WORDS, _parse_grid),
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


def read_place(cursor: Cursor) -> Place:
    """place := form ["on" DISPLAY] | NAME ["on" DISPLAY]"""
    first = cursor.peek()
    reader = FORMS.get(first)
    if reader:
        form = reader(cursor)
    else:
        at = cursor.at
        found = cursor.take(NAME)
        if not found or found.end() != at + len(first):
            raise SentenceError(f"{first!r} is no place", at, at + len(first), f"places look like {PLACE_EXAMPLES}")
        if not cursor.done and cursor.peek() != "on":
            remedy = did_you_mean(first, FORMS, f"places look like {PLACE_EXAMPLES}")
            raise SentenceError(f"{first!r} begins no place", at, found.end(), remedy, unknown=first)
        form = Named(found.group())
    display = None
    if cursor.keyword("on"):
        name = cursor.take(NAME)
        if not name:
            raise cursor.fault("on which display?", "end with the display's name: left 1/2 on main")
        display = name.group()
    return Place(form, display)


def resolved(place: Place, names: Mapping[str, Place]) -> Place | None:
    """Return the place with its name looked up; None if the name is unknown. A display named here wins."""
    if not isinstance(place.form, Named):
        return place
    found = names.get(place.form.name)
    return Place(found.form, place.display or found.display) if found else None


def unknown_place(name: str, names: Mapping[str, Place]) -> str:
    """Return the remedy for a place name that is not known."""
    return did_you_mean(
        name,
        [*names, *FORMS],
        f"define it under `places`, or use {either(sorted(names))}" if names else f"places look like {PLACE_EXAMPLES}",
    )
