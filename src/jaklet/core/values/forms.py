"""The forms of a place: each names a part of a work area, and resolves to an exact visible frame in it.

Gaps. The work area less its rim is made one gap longer and shared out; each window then gives up one gap at its far
side. So neighbours stand exactly one gap apart, and equal shares stay equal whether or not they touch the rim. With no
gap, each edge is one rounding of an exact fraction (half up), so that tiles that name the same edge share it to the
pixel.
"""

from fractions import Fraction
from functools import lru_cache
from typing import Final, NamedTuple, Protocol

from jaklet.core.values.geometry import Anchor, Length, Rect

ZERO: Final = Length(Fraction(0))
WHOLE: Final = Length(Fraction(1))
HALF: Final = Length(Fraction(1, 2))


class Ground(NamedTuple):
    """A work area, with the pixels that are left free between windows and at its rim."""

    area: Rect
    gap: int = 0
    rim: int = 0


class PlaceForm(Protocol):
    """One way to name a part of a work area."""

    @property
    def anchor(self) -> Anchor:
        """The edge at which a window stays that cannot take the whole frame."""
        ...

    def __hash__(self) -> int: ...

    def frame(self, ground: Ground) -> Rect:
        """Return the visible frame on this ground, in root coordinates."""
        ...

    def __str__(self) -> str: ...


def _tile(start: int, length: int, ground: Ground, low: Length, high: Length) -> tuple[int, int]:
    """Return position and size along one axis of the tile between two edges.

    An edge in pixels counts from the near side; a negative one from the far side.
    """
    gap = ground.gap
    inner = length - 2 * ground.rim + gap
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
    return start + ground.rim + near, size


class FullPlace(NamedTuple):
    """full := "full" """

    @property
    def anchor(self) -> Anchor:
        """Stays at the upper left."""
        return Anchor()

    def frame(self, ground: Ground) -> Rect:
        """The whole work area, less the rim."""
        return _box(ground, (ZERO, WHOLE), (ZERO, WHOLE))

    def __str__(self) -> str:
        return "full"


def _box(ground: Ground, across: tuple[Length, Length], down: tuple[Length, Length]) -> Rect:
    area = ground.area
    x, width = _tile(area.x, area.width, ground, *across)
    y, height = _tile(area.y, area.height, ground, *down)
    return Rect(x, y, width, height)


_FAR: Final = ("right", "bottom")


class SidePlace(NamedTuple):
    """sides := side [length] [side [length]], one of each axis at the most."""

    across: tuple[str, Length] | None = None
    down: tuple[str, Length] | None = None

    @property
    def anchor(self) -> Anchor:
        """The named edges."""
        return Anchor(
            2 if self.across and self.across[0] in _FAR else 0, 2 if self.down and self.down[0] in _FAR else 0
        )

    def frame(self, ground: Ground) -> Rect:
        """That share at the named side, the other axis whole."""
        return _box(ground, self._edges(self.across), self._edges(self.down))

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


class TrackPlace(NamedTuple):
    """Tracks `first` to `last` of `total` equal ones, counted from 1."""

    first: int
    last: int
    total: int

    def edges(self) -> tuple[Length, Length]:
        """Return both edges as shares."""
        return Length(Fraction(self.first - 1, self.total)), Length(Fraction(self.last, self.total))

    def side(self) -> int:
        """Return the anchor: the side of the area it touches, else the middle."""
        return 0 if self.first == 1 else 2 if self.last == self.total else 1

    def __str__(self) -> str:
        span = f"{self.first}-{self.last}" if self.last > self.first else f"{self.first}"
        return f"{span} of {self.total}"


class Grid(NamedTuple):
    """grid := ("column" | "columns") tracks [("row" | "rows") tracks], or the other way about."""

    columns: TrackPlace | None = None
    rows: TrackPlace | None = None

    @property
    def anchor(self) -> Anchor:
        """The edges it touches."""
        return Anchor(self.columns.side() if self.columns else 0, self.rows.side() if self.rows else 0)

    def frame(self, ground: Ground) -> Rect:
        """The named columns and rows; an axis not named is whole."""
        across = self.columns.edges() if self.columns else (ZERO, WHOLE)
        down = self.rows.edges() if self.rows else (ZERO, WHOLE)
        return _box(ground, across, down)

    def __str__(self) -> str:
        named = (("column", self.columns), ("row", self.rows))
        return " ".join(f"{n}{'s' if t.last > t.first else ''} {t}" for n, t in named if t)


def column_name(number: int) -> str:
    """Return a column's letters, as in a spreadsheet: 1 is A, 27 is AA."""
    name = ""
    while number:
        number, rest = divmod(number - 1, 26)
        name = chr(ord("A") + rest) + name
    return name


class CellPlace(NamedTuple):
    """cells := ("cell" | "cells") address [":" address] "of" COLUMNS "x" ROWS; A1 is the upper left cell."""

    columns: TrackPlace
    rows: TrackPlace

    @property
    def anchor(self) -> Anchor:
        """The edges it touches."""
        return Anchor(self.columns.side(), self.rows.side())

    def frame(self, ground: Ground) -> Rect:
        """The block of cells between both corners."""
        return _box(ground, self.columns.edges(), self.rows.edges())

    def __str__(self) -> str:
        first = f"{column_name(self.columns.first)}{self.rows.first}"
        last = f"{column_name(self.columns.last)}{self.rows.last}"
        block = f"cell {first}" if first == last else f"cells {first}:{last}"
        return f"{block} of {self.columns.total}x{self.rows.total}"


class CentrePlace(NamedTuple):
    """centre := "centre" length "x" length"""

    width: Length
    height: Length

    @property
    def anchor(self) -> Anchor:
        """Stays in the middle."""
        return Anchor(1, 1)

    def frame(self, ground: Ground) -> Rect:
        """A frame of that size in the middle, within the rim; the odd pixel is right and below."""
        area = ground.area
        x, width = self._middle(area.x, area.width, ground, self.width)
        y, height = self._middle(area.y, area.height, ground, self.height)
        return Rect(x, y, width, height)

    @staticmethod
    def _middle(start: int, length: int, ground: Ground, size: Length) -> tuple[int, int]:
        room = max(1, length - 2 * ground.rim)
        taken = size.pixels if size.share is None else size.of(room + ground.gap) - ground.gap
        taken = max(1, min(room, taken))
        return start + ground.rim + (room - taken) // 2, taken

    def __str__(self) -> str:
        return f"centre {self.width.percent()} x {self.height.percent()}"


class PixelPlace(NamedTuple):
    """at := "at" X "," Y "size" W "x" H, in pixels from the work area's upper left corner. No gap comes off."""

    x: int
    y: int
    width: int
    height: int

    @property
    def anchor(self) -> Anchor:
        """Stays at the upper left."""
        return Anchor()

    def frame(self, ground: Ground) -> Rect:
        """Exactly those pixels."""
        return Rect(ground.area.x + self.x, ground.area.y + self.y, self.width, self.height)

    def __str__(self) -> str:
        return f"at {self.x},{self.y} size {self.width}x{self.height}"


class _UnresolvedPlace:
    """What a form is that has no frame of its own, until it is known what it stands for."""

    __slots__ = ()

    @property
    def anchor(self) -> Anchor:
        """Stays at the upper left."""
        return Anchor()

    def frame(self, ground: Ground) -> Rect:
        """Never called."""
        raise AssertionError(f"place {self!s} was not resolved")


class _Name(NamedTuple):
    name: str


class NamedPlace(_UnresolvedPlace, _Name):
    """A name from the section `places`; replaced by `resolved` before it is used."""

    __slots__ = ()

    def __str__(self) -> str:
        return self.name


class _Same(NamedTuple):
    word: str = "same place"  # an empty tuple would be equal to `FullPlace()`


class SamePlace(_UnresolvedPlace, _Same):
    """same := "same place"; the form that the window fills where it is, for another display."""

    __slots__ = ()

    def __str__(self) -> str:
        return self.word


@lru_cache(maxsize=4096)
def frame_of(form: PlaceForm, ground: Ground) -> Rect:
    """Return the visible frame of a form, kept for the next press of the same key."""
    return form.frame(ground)
