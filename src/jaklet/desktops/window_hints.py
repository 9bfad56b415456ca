"""What a window's properties say, as values: its shape, the frame around it, the sizes that it takes, its gravity."""

import struct
from fractions import Fraction
from typing import Final

from jaklet.core.values.desk import WindowShape
from jaklet.core.values.geometry import MAX_SIDE, NO_LIMITS, Insets, Rect, SizeLimits

# ICCCM 4.1.2.3, table 4-1
_MIN, _MAX, _STEP, _ASPECT, _BASE, _GRAVITY = 1 << 4, 1 << 5, 1 << 6, 1 << 7, 1 << 8, 1 << 9
NORTH_WEST: Final = 1
STATIC: Final = 10
WIDEST: Final = 200  # pixels of a frame's edge


def numbers_of(form: int, raw: bytes) -> tuple[int, ...]:
    """Return a property of 32 bits a unit as unsigned numbers; empty for one of another form."""
    return struct.unpack(f"={len(raw) // 4}I", raw) if form == 32 else ()


def shape_of(state: set[str]) -> WindowShape:
    """Return the shape that the names in _NET_WM_STATE amount to."""
    if "_NET_WM_STATE_FULLSCREEN" in state:
        return WindowShape.FULLSCREEN
    both = {"_NET_WM_STATE_MAXIMIZED_HORZ", "_NET_WM_STATE_MAXIMIZED_VERT"}
    return WindowShape.MAXIMISED if both <= state else WindowShape.TILED if both & state else WindowShape.NORMAL


def border_of(frame: tuple[int, ...], shadow: tuple[int, ...]) -> Insets:
    """Return the widths around the client area that are seen: the manager's frame, less the client's own shadow."""
    return Insets(*(a - b for a, b in zip(insets_of(frame), insets_of(shadow), strict=True)))


def frame_around(frame: Rect, client: Rect) -> Insets:
    """Return how wide a frame is at each edge, by where both are; none where the frame cannot be one of this client."""
    found = Insets(client.x - frame.x, frame.right - client.right, client.y - frame.y, frame.bottom - client.bottom)
    return found if all(0 <= edge <= WIDEST for edge in found) else Insets()


def insets_of(words: tuple[int, ...]) -> Insets:
    """Return four numbers as they stand in _NET_FRAME_EXTENTS: left, right, top, bottom."""
    return Insets(*words[:4]) if len(words) >= 4 else Insets()


def takes_focus(hints: tuple[int, ...], is_told: bool) -> bool:
    """Return whether a window takes the focus, by WM_HINTS (ICCCM 4.1.7). `is_told`: it wants to take it by itself."""
    refuses = len(hints) > 1 and hints[0] & 1 and not hints[1]  # InputHint is given, and says no
    return is_told or not refuses


def gravity_of(hints: tuple[int, ...]) -> int:
    """Return the gravity of WM_NORMAL_HINTS, from 1 to 10; north west where none is given (ICCCM 4.1.2.3)."""
    is_given = len(hints) > 17 and hints[0] & _GRAVITY and NORTH_WEST <= hints[17] <= STATIC
    return hints[17] if is_given else NORTH_WEST


def size_limits(hints: tuple[int, ...]) -> SizeLimits:
    """Return WM_NORMAL_HINTS as limits. A minimum stands in for a missing base size, and the other way about."""
    if len(hints) < 15:
        return NO_LIMITS
    flags = hints[0]
    if not flags & (_MIN | _MAX | _STEP | _ASPECT | _BASE):
        return NO_LIMITS

    def pair(at: int, flag: int, default: tuple[int, int]) -> tuple[int, int]:
        """Return two values, or the default for each that is not given or is no possible size."""
        if not flags & flag or len(hints) < at + 2:
            return default
        first, second = hints[at], hints[at + 1]
        return first if 0 < first <= MAX_SIDE else default[0], second if 0 < second <= MAX_SIDE else default[1]

    base = pair(15, _BASE, (0, 0))
    least = pair(5, _MIN, base)
    most = pair(7, _MAX, (MAX_SIDE, MAX_SIDE))
    step = pair(9, _STEP, (1, 1))
    low = high = None
    if flags & _ASPECT and hints[12] and hints[14]:
        low = Fraction(hints[11], hints[12]) or None
        high = Fraction(hints[13], hints[14]) or None
        if low and high and low > high:
            low = high = None  # no window could be both; what contradicts itself is not obeyed
    start = base if flags & _BASE else least if flags & _MIN else (0, 0)
    return SizeLimits(max(1, least[0]), max(1, least[1]), *most, *start, *step, low, high)
