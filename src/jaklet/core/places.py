"""Places: parts of a work area, as sentences, as exact frames, and recognised from a frame.

    place := form ["on" DISPLAY]

A form is one class and one entry in `FORMS`. Every form resolves to a visible frame in a work area.

Gaps. A tile is a share of the work area drawn in by half a gap at the rim; each window then gives up half a gap
on every side (the odd pixel always on the right and the bottom). So the rim is one gap wide, neighbours stand
exactly one gap apart, and equal shares stay equal whether or not they touch the rim. With no gap, each edge is
one rounding of an exact fraction (half up), so that tiles that name the same edge share it to the pixel.
"""

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cache, lru_cache
from typing import Final, Protocol

from jaklet.core.cursor import NAME, Cursor
from jaklet.core.errors import SentenceError
from jaklet.core.geometry import Anchor, Insets, Length, Rect, SizeLimits, settled
from jaklet.core.words import did_you_mean, either

ZERO: Final = Length(Fraction(0))
WHOLE: Final = Length(Fraction(1))
HALF: Final = Length(Fraction(1, 2))


class Form(Protocol):
    """One way to name a part of a work area."""

    @property
    def anchor(self) -> Anchor:
        """The edge at which a window stays that cannot take the whole frame."""
        ...

    def frame(self, area: Rect, gap: int) -> Rect:
        """Return the visible frame in this work area, in root coordinates."""
        ...

    def __str__(self) -> str: ...


@dataclass(frozen=True, slots=True)
class Place:
    """A form, and the display it is meant for (None: the display the window is on)."""

    form: Form
    display: str | None = None

    def __str__(self) -> str:
        return f"{self.form} on {self.display}" if self.display else str(self.form)


def _tile(start: int, length: int, gap: int, low: Length, high: Length) -> tuple[int, int]:
    """Return position and size along one axis of the tile between two edges.

    An edge in pixels counts from the near side; a negative one from the far side.
    """
    inner = length - gap
    edges = []
    for edge in (low, high):
        if edge.share is not None:
            at = edge.of(inner)
        elif edge.pixels >= 0:
            at = min(inner, edge.pixels + gap)
        else:
            at = max(0, inner + edge.pixels - gap)
        edges.append(at)
    near, far = edges
    size = max(1, far - near - gap)
    return start + gap + near, size


@dataclass(frozen=True, slots=True)
class Full:
    """full := "full" """

    anchor = Anchor()

    def frame(self, area: Rect, gap: int) -> Rect:
        """The whole work area, less the rim."""
        return _box(area, gap, (ZERO, WHOLE), (ZERO, WHOLE))

    def __str__(self) -> str:
        return "full"


def _box(area: Rect, gap: int, across: tuple[Length, Length], down: tuple[Length, Length]) -> Rect:
    x, width = _tile(area.x, area.width, gap, *across)
    y, height = _tile(area.y, area.height, gap, *down)
    return Rect(x, y, width, height)


_FAR: Final = ("right", "bottom")


@dataclass(frozen=True, slots=True)
class Sides:
    """sides := side [length] [side [length]], one of each axis at the most."""

    across: tuple[str, Length] | None = None
    down: tuple[str, Length] | None = None

    @property
    def anchor(self) -> Anchor:
        """The named edges."""
        return Anchor(
            2 if self.across and self.across[0] in _FAR else 0,
            2 if self.down and self.down[0] in _FAR else 0,
        )

    def frame(self, area: Rect, gap: int) -> Rect:
        """That share at the named side, the other axis whole."""
        return _box(area, gap, self._edges(self.across), self._edges(self.down))

    @staticmethod
    def _edges(axis: tuple[str, Length] | None) -> tuple[Length, Length]:
        if axis is None:
            return ZERO, WHOLE
        side, length = axis
        if side not in _FAR:
            return ZERO, length
        if length.share is None:
            return Length(None, -length.pixels), WHOLE
        return Length(1 - length.share), WHOLE

    def __str__(self) -> str:
        return " ".join(f"{side} {length}" for side, length in filter(None, (self.across, self.down)))


@dataclass(frozen=True, slots=True)
class Tracks:
    """Tracks `first` to `last` of `count` equal ones, counted from 1."""

    first: int
    last: int
    count: int

    def edges(self) -> tuple[Length, Length]:
        """Return both edges as shares."""
        return Length(Fraction(self.first - 1, self.count)), Length(Fraction(self.last, self.count))

    def side(self) -> int:
        """Return the anchor: the side of the area it touches, else the middle."""
        return 0 if self.first == 1 else 2 if self.last == self.count else 1

    def __str__(self) -> str:
        span = f"{self.first}-{self.last}" if self.last > self.first else f"{self.first}"
        return f"{span} of {self.count}"


@dataclass(frozen=True, slots=True)
class Grid:
    """grid := ("column" | "columns") tracks [("row" | "rows") tracks], or the other way about."""

    columns: Tracks | None = None
    rows: Tracks | None = None

    @property
    def anchor(self) -> Anchor:
        """The edges it touches."""
        return Anchor(self.columns.side() if self.columns else 0, self.rows.side() if self.rows else 0)

    def frame(self, area: Rect, gap: int) -> Rect:
        """The named columns and rows; an axis not named is whole."""
        across = self.columns.edges() if self.columns else (ZERO, WHOLE)
        down = self.rows.edges() if self.rows else (ZERO, WHOLE)
        return _box(area, gap, across, down)

    def __str__(self) -> str:
        named = (("column", self.columns), ("row", self.rows))
        return " ".join(f"{n}{'s' if t.last > t.first else ''} {t}" for n, t in named if t)


@dataclass(frozen=True, slots=True)
class Centre:
    """centre := "centre" length "x" length"""

    width: Length
    height: Length
    anchor = Anchor(1, 1)

    def frame(self, area: Rect, gap: int) -> Rect:
        """A frame of that size in the middle, within the rim; the odd pixel is right and below."""
        x, width = self._middle(area.x, area.width, gap, self.width)
        y, height = self._middle(area.y, area.height, gap, self.height)
        return Rect(x, y, width, height)

    @staticmethod
    def _middle(start: int, length: int, gap: int, size: Length) -> tuple[int, int]:
        room = max(1, length - 2 * gap)
        taken = size.pixels if size.share is None else size.of(length - gap) - gap
        taken = max(1, min(room, taken))
        return start + gap + (room - taken) // 2, taken

    def __str__(self) -> str:
        return f"centre {self.width.percent()} x {self.height.percent()}"


@dataclass(frozen=True, slots=True)
class At:
    """at := "at" X "," Y "size" W "x" H, in pixels from the work area's upper left corner. No gap comes off."""

    x: int
    y: int
    width: int
    height: int
    anchor = Anchor()

    def frame(self, area: Rect, gap: int) -> Rect:
        """Exactly those pixels."""
        return Rect(area.x + self.x, area.y + self.y, self.width, self.height)

    def __str__(self) -> str:
        return f"at {self.x},{self.y} size {self.width}x{self.height}"


@dataclass(frozen=True, slots=True)
class Named:
    """A name from the section `places`; replaced by `resolved` before it is used."""

    name: str
    anchor = Anchor()

    def frame(self, area: Rect, gap: int) -> Rect:
        """Never called: a name has no frame of its own."""
        raise AssertionError(f"place {self.name!r} was not resolved")

    def __str__(self) -> str:
        return self.name


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
            raise SentenceError(f"there is no {word} {found[0].strip()}", at, found.end(), "count from 1 up to the last")
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
    return did_you_mean(name, [*names, *FORMS], f"define it under `places`, or use {either(sorted(names))}" if names
                        else f"places look like {PLACE_EXAMPLES}")


@lru_cache(maxsize=2048)
def frame_of(form: Form, area: Rect, gap: int) -> Rect:
    """Return the visible frame of a form, kept for the next press of the same key."""
    return form.frame(area, gap)


@cache
def _simple_forms() -> tuple[Form, ...]:
    """Return the forms that a saved window is compared with, simplest first."""
    shares = [Length(Fraction(n, d)) for n, d in ((1, 2), (1, 3), (2, 3), (1, 4), (3, 4), (1, 5), (2, 5), (3, 5), (4, 5))]

    def one_axis(words: tuple[str, str]) -> list[tuple[str, Length]]:
        return [(word, share) for share in shares for word in words]

    def tracks() -> Iterator[Tracks]:
        for count in range(3, 7):
            yield from (Tracks(i, i, count) for i in range(1, count + 1))
            yield from (Tracks(i, j, count) for i in range(1, count) for j in range(i + 1, count + 1))

    across, down = one_axis(("left", "right")), one_axis(("top", "bottom"))
    return (
        Full(),
        *(Sides(across=axis) for axis in across),
        *(Sides(down=axis) for axis in down),
        *(Grid(columns=track) for track in tracks()),
        *(Grid(rows=track) for track in tracks()),
        *(Sides(a, d) for a in across for d in down),
    )


def recognised(
    frame: Rect, area: Rect, gap: int, border: Insets, limits: SizeLimits, names: Mapping[str, Place], display: str
) -> Form:
    """Return the form that a window fills exactly; pixels where no simple one fits.

    A window that takes only some sizes (a terminal in whole characters) fills a form when it is less than one step
    smaller. One that is kept from a form by its minimum or maximum does not: which form was meant cannot be known.
    """

    def fills(form: Form) -> bool:
        whole = frame_of(form, area, gap)
        if whole == frame:
            return True
        near = 0 <= whole.width - frame.width < limits.step_width and 0 <= whole.height - frame.height < limits.step_height
        return near and settled(whole, border, limits, form.anchor) == frame

    for name, place in names.items():
        if place.display in (None, display) and fills(place.form):
            return Named(name)
    for form in _simple_forms():
        if fills(form):
            return form
    return At(frame.x - area.x, frame.y - area.y, frame.width, frame.height)
