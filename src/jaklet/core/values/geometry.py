"""Whole-pixel geometry: rectangles, insets, exact lengths, work areas, size limits.

Coordinates are X root coordinates: pixels, x to the right, y downwards; `right` and `bottom` are exclusive.
"""

from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import Final, NamedTuple


class Rect(NamedTuple):
    """A rectangle in pixels."""

    x: int
    y: int
    width: int
    height: int

    @property
    def right(self) -> int:
        """The first column to the right of it."""
        return self.x + self.width

    @property
    def bottom(self) -> int:
        """The first row below it."""
        return self.y + self.height

    def has(self, x: int, y: int) -> bool:
        """True if a point is in it."""
        return self.x <= x < self.right and self.y <= y < self.bottom

    def overlap(self, other: "Rect") -> int:
        """Return the shared area in square pixels."""
        across = min(self.right, other.right) - max(self.x, other.x)
        down = min(self.bottom, other.bottom) - max(self.y, other.y)
        return across * down if across > 0 and down > 0 else 0

    def distance(self, other: "Rect") -> int:
        """Return how far apart the four edges are, summed: 0 means the same rectangle."""
        return (
            abs(self.x - other.x)
            + abs(self.y - other.y)
            + abs(self.right - other.right)
            + abs(self.bottom - other.bottom)
        )

    def __str__(self) -> str:
        return f"{self.width}x{self.height} at {self.x},{self.y}"


class Insets(NamedTuple):
    """What a frame adds around the client area, in pixels. Negative: an invisible shadow inside the client."""

    left: int = 0
    right: int = 0
    top: int = 0
    bottom: int = 0

    def around(self, client: Rect) -> Rect:
        """Return the visible frame of a client rectangle."""
        return Rect(
            client.x - self.left,
            client.y - self.top,
            client.width + self.left + self.right,
            client.height + self.top + self.bottom,
        )

    def inside(self, frame: Rect) -> Rect:
        """Return the client rectangle of a visible frame; never smaller than one pixel."""
        return Rect(
            frame.x + self.left,
            frame.y + self.top,
            max(1, frame.width - self.left - self.right),
            max(1, frame.height - self.top - self.bottom),
        )


class Length(NamedTuple):
    """A share of a work area, or pixels where `share` is None."""

    share: Fraction | None
    pixels: int = 0

    def of(self, whole: int) -> int:
        """Return the length in pixels of this share of `whole`, rounded half up."""
        if self.share is None:
            return self.pixels
        return rounded_share(self.share, whole)

    def __str__(self) -> str:
        if self.share is None:
            return f"{self.pixels}px"
        small = 1 < self.share.denominator <= 12
        return str(self.share) if small or 100 % self.share.denominator else self.percent()

    def percent(self) -> str:
        """Return the length with a share as a percentage where that is a whole number."""
        whole = self.share is not None and 100 % self.share.denominator == 0
        return f"{self.share * 100}%" if self.share is not None and whole else str(self)


def rounded_share(share: Fraction, whole: int) -> int:
    """Return `share` of `whole`, rounded half up, in integer arithmetic."""
    top, low = share.numerator, share.denominator
    return (2 * top * whole + low) // (2 * low)


class Strut(NamedTuple):
    """Screen space that a bar keeps free (EWMH _NET_WM_STRUT_PARTIAL): the side it clings to and the strip."""

    side: str
    strip: Rect


def work_area(display: Rect, struts: Iterable[Strut]) -> Rect:
    """Return the display less its bars.

    A strut is measured from the edge of the whole screen, so one for a bar on an inner display edge runs
    right across the displays before it. A strip that would take the whole depth of a display is therefore
    not a bar of that display, and is passed over.
    """
    left, top, right, bottom = display.x, display.y, display.right, display.bottom
    for side, strip in struts:
        if not display.overlap(strip):
            continue
        if side == "left" and strip.right < display.right:
            left = max(left, strip.right)
        elif side == "right" and strip.x > display.x:
            right = min(right, strip.x)
        elif side == "top" and strip.bottom < display.bottom:
            top = max(top, strip.bottom)
        elif side == "bottom" and strip.y > display.y:
            bottom = min(bottom, strip.y)
    if right <= left or bottom <= top:
        return display
    return Rect(left, top, right - left, bottom - top)


def edge_struts(display: Rect, edges: Insets) -> Iterator[Strut]:
    """Yield the strips at the edges of a display that are to be kept free."""
    x, y, width, height = display
    strips = {
        "left": Rect(x, y, edges.left, height),
        "right": Rect(x + width - edges.right, y, edges.right, height),
        "top": Rect(x, y, width, edges.top),
        "bottom": Rect(x, y + height - edges.bottom, width, edges.bottom),
    }
    yield from (Strut(side, strip) for side, strip in strips.items() if strip.width and strip.height)


MAX_SIDE: Final = 32767  # the largest window side of the X protocol


class SizeLimits(NamedTuple):
    """The sizes a client area can take (ICCCM 4.1.2.3, WM_NORMAL_HINTS). 0 steps: any size."""

    min_width: int = 1
    min_height: int = 1
    max_width: int = MAX_SIDE
    max_height: int = MAX_SIDE
    base_width: int = 0
    base_height: int = 0
    step_width: int = 1
    step_height: int = 1
    min_aspect: Fraction | None = None
    max_aspect: Fraction | None = None

    @property
    def is_fixed(self) -> bool:
        """True if there is only one size."""
        return self.min_width == self.max_width and self.min_height == self.max_height

    def fit(self, width: int, height: int) -> tuple[int, int]:
        """Return the largest size within the limits that is no larger than asked, minima excepted."""
        if self == NO_LIMITS:
            return max(1, width), max(1, height)
        for _ in range(_ROUNDS):
            before = width, height
            width, height = self._stepped(*self._in_aspect(width, height))
            if (width, height) == before:
                break
        return width, height

    def _in_aspect(self, width: int, height: int) -> tuple[int, int]:
        if self.min_aspect and width < self.min_aspect * height:
            height = int(width / self.min_aspect)
        if self.max_aspect and width > self.max_aspect * height:
            width = int(height * self.max_aspect)
        return width, height

    def _stepped(self, width: int, height: int) -> tuple[int, int]:
        """Return the size in whole steps, within minimum and maximum; the minimum counts for more."""
        width = min(width, self.max_width)
        height = min(height, self.max_height)
        width -= max(0, width - self.base_width) % max(1, self.step_width)
        height -= max(0, height - self.base_height) % max(1, self.step_height)
        return max(self.min_width, width, 1), max(self.min_height, height, 1)


_ROUNDS: Final = 4000  # a step can break the aspect and the other way about, so that each round takes off one step more
NO_LIMITS: Final = SizeLimits()


class Anchor(NamedTuple):
    """Where a window that cannot take its share stays: 0 at the left or top, 1 in the middle, 2 right or bottom."""

    across: int = 0
    down: int = 0


def settled_frame(frame: Rect, border: Insets, limits: SizeLimits, anchor: Anchor) -> Rect:
    """Return the visible frame that a window with these limits takes of `frame`, kept at the anchored edge."""
    if limits is NO_LIMITS and frame[2] > border[0] + border[1] and frame[3] > border[2] + border[3]:
        return frame
    wanted = border.inside(frame)
    width, height = limits.fit(wanted.width, wanted.height)
    width += border.left + border.right
    height += border.top + border.bottom
    return Rect(
        frame.x + (frame.width - width) * anchor.across // 2,
        frame.y + (frame.height - height) * anchor.down // 2,
        width,
        height,
    )
