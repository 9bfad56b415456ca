"""The forms of a place: each names a part of a work area, and resolves to an exact visible frame in it.

Gaps. A tile is a share of the work area drawn in by half a gap at the rim; each window then gives up half a gap
on every side (the odd pixel always on the right and the bottom). So the rim is one gap wide, neighbours stand
exactly one gap apart, and equal shares stay equal whether or not they touch the rim. With no gap, each edge is
one rounding of an exact fraction (half up), so that tiles that name the same edge share it to the pixel.
"""

from fractions import Fraction
from functools import lru_cache
from typing import Final, NamedTuple, Protocol

from jaklet.core.geometry import Anchor, Length, Rect

ZERO: Final = Length(Fraction(0))
WHOLE: Final = Length(Fraction(1))
HALF: Final = Length(Fraction(1, 2))


class Form(Protocol):
    """One way to name a part of a work area."""

    @property
    def anchor(self) -> Anchor:
        """The edge at which a window stays that cannot take the whole frame."""
        ...

    def __hash__(self) -> int: ...

    def frame(self, area: Rect, gap: int) -> Rect:
        """Return the visible frame in this work area, in root coordinates."""
        ...

    def __str__(self) -> str: ...


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


class Full(NamedTuple):
    """full := "full" """

    @property
    def anchor(self) -> Anchor:
        """Stays at the upper left."""
        return Anchor()

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


class Sides(NamedTuple):
    """sides := side [length] [side [length]], one of each axis at the most."""

    across: tuple[str, Length] | None = None
    down: tuple[str, Length] | None = None

    @property
    def anchor(self) -> Anchor:
        """The named edges."""
        return Anchor(
            2 if self.across and self.across[0] in _FAR else 0, 2 if self.down and self.down[0] in _FAR else 0
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


class Tracks(NamedTuple):
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


class Centre(NamedTuple):
    """centre := "centre" length "x" length"""

    width: Length
    height: Length

    @property
    def anchor(self) -> Anchor:
        """Stays in the middle."""
        return Anchor(1, 1)

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


class At(NamedTuple):
    """at := "at" X "," Y "size" W "x" H, in pixels from the work area's upper left corner. No gap comes off."""

    x: int
    y: int
    width: int
    height: int

    @property
    def anchor(self) -> Anchor:
        """Stays at the upper left."""
        return Anchor()

    def frame(self, area: Rect, gap: int) -> Rect:
        """Exactly those pixels."""
        return Rect(area.x + self.x, area.y + self.y, self.width, self.height)

    def __str__(self) -> str:
        return f"at {self.x},{self.y} size {self.width}x{self.height}"


class Named(NamedTuple):
    """A name from the section `places`; replaced by `resolved` before it is used."""

    name: str

    @property
    def anchor(self) -> Anchor:
        """Stays at the upper left."""
        return Anchor()

    def frame(self, area: Rect, gap: int) -> Rect:
        """Never called: a name has no frame of its own."""
        raise AssertionError(f"place {self.name!r} was not resolved")

    def __str__(self) -> str:
        return self.name


@lru_cache(maxsize=2048)
def frame_of(form: Form, area: Rect, gap: int) -> Rect:
    """Return the visible frame of a form, kept for the next press of the same key."""
    return form.frame(area, gap)
