"""How several windows share a ground: rows of them, or two side by side, each within its limits."""

from collections.abc import Sequence
from fractions import Fraction
from typing import Final, NamedTuple

from jaklet.core.actions.placing.arranging import NOTHING, FramePlan, Learned, kept_in
from jaklet.core.actions.placing.sharing import SharedLength, Takes, share_length
from jaklet.core.values.assigning import cheapest_columns
from jaklet.core.values.desk import Window
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import NO_LIMITS, Anchor, Length, Rect, SizeLimits, settled_frame
from jaklet.core.values.sharings import COLUMNS, GRID, ROWS

UNEVEN: Final = 1.25
UPRIGHT: Final = ("up", "down")
EXACT: Final = 16  # windows up to which the order that moves them least is worked out and not only approached
Rows = tuple[tuple[Window, ...], ...]


class SharingWindow(NamedTuple):
    """A window that shares a ground, with the limits it is known to have."""

    window: Window
    limits: SizeLimits

    def takes(self, width: int, height: int) -> tuple[int, int]:
        """Return the visible size that it takes of what is offered."""
        border = self.window.border
        if self.limits == NO_LIMITS and width > border.left + border.right and height > border.top + border.bottom:
            return width, height
        frame = settled_frame(Rect(0, 0, width, height), border, self.limits, Anchor())
        return frame.width, frame.height


def side_by_side(
    first: Window, second: Window | None, side: str, share: Fraction, ground_: Ground, learned: Learned
) -> FramePlan:
    """Return the frames of a pair; each stays at its own edge of the work area."""
    room = room_of(ground_)
    upright = side in UPRIGHT
    sharers = [sharer_of(first, learned), *([sharer_of(second, learned)] if second else [])]
    weights = [share, 1 - share]
    near = side in ("left", "up")
    if not near:
        sharers, weights = sharers[::-1], weights[::-1]
    if second is None:
        # The rest is kept free by one who takes all that is left.
        free = SharingWindow(first._replace(id=0), SizeLimits())
        sharers = [*sharers, free] if near else [free, *sharers]
    along, across = (room.height, room.width) if upright else (room.width, room.height)
    row = share_length(along, ground_.gap, [_taking(one, across, upright) for one in sharers], weights)
    frames = {}
    for i, (sharer, stretch) in enumerate(zip(sharers, row.stretches, strict=True)):
        far = 2 * i  # the second one keeps the far edge
        cell = Rect(room.x + stretch.start, room.y, stretch.size, across)
        anchor = Anchor(far, 0)
        if upright:
            cell = Rect(room.x, room.y + stretch.start, across, stretch.size)
            anchor = Anchor(0, far)
        frames[sharer.window.id] = fitted_frame(cell, sharer, anchor, ground_.area, learned)
    if second and row.stretches[1].start + row.stretches[1].size < along and not row.lacking:
        frames[sharers[1].window.id] = _at_far_edge(frames[sharers[1].window.id], room, upright)
    frames.pop(0, None)
    return FramePlan(frames, lacking_told(row, "high" if upright else "wide"))


def share_of(length: Length, side: str, ground_: Ground) -> Fraction:
    """Return a length as a share, less than the whole."""
    if length.share is not None:
        return length.share
    room = room_of(ground_)
    along = (room.height if side in UPRIGHT else room.width) + ground_.gap
    return min(Fraction(length.pixels + ground_.gap, along), Fraction(99, 100))


def _at_far_edge(frame: Rect, room: Rect, upright: bool) -> Rect:
    """Return a frame moved to the far end: what neither of a pair can take is left free between them."""
    if upright:
        return frame._replace(y=room.bottom - frame.height)
    return frame._replace(x=room.right - frame.width)


def _taking(sharer: SharingWindow, across: int, upright: bool) -> Takes:
    """Return the size that a window takes along one axis, where the other is given."""
    if upright:
        return lambda offered: sharer.takes(across, offered)[1]
    return lambda offered: sharer.takes(offered, across)[0]


def sharer_of(window: Window, learned: Learned) -> SharingWindow:
    """Return a window with the limits that it is known to have."""
    return SharingWindow(window, learned.get(window.id, NOTHING).limits or window.limits)


def fitted_frame(cell: Rect, sharer: SharingWindow, anchor: Anchor, area: Rect, learned: Learned) -> Rect:
    """Return the frame that a window takes of its cell."""
    if learned.get(sharer.window.id, NOTHING).kept_in:
        cell = kept_in(cell, sharer.window, area)
    return settled_frame(cell, sharer.window.border, sharer.limits, anchor)


def room_of(ground_: Ground) -> Rect:
    """Return the work area less its rim."""
    area, rim = ground_.area, ground_.rim
    return Rect(area.x + rim, area.y + rim, max(1, area.width - 2 * rim), max(1, area.height - 2 * rim))


def lacking_told(row: SharedLength, word: str) -> tuple[str, ...]:
    """Return the remark on windows that are too `word` together."""
    if not row.lacking:
        return ()
    return (f"together they are {row.lacking} px too {word}, so that neighbours overlap",)


def row_lengths(count: int, way: str, room: Rect) -> list[int]:
    """Return how many windows stand in each row.

    A grid's cells are as near to squares as can be; rows of unequal length have to be better by `UNEVEN`.
    """
    if way == COLUMNS:
        return [count]
    if way == ROWS:
        return [1] * count

    def out_of_square(rows: int) -> float:
        high, lengths = room.height / rows, {count // rows, -(-count // rows)}
        worst = max(max(room.width / length / high, high * length / room.width) for length in lengths)
        return worst * (UNEVEN if len(lengths) > 1 else 1)

    rows = min(range(1, count + 1), key=out_of_square)
    full, over = divmod(count, rows)
    return [full + (row < over) for row in range(rows)]


def order_by_rows(windows: Sequence[Window], way: str, ground_: Ground) -> Rows:
    """Return the windows row by row, in an order that moves them little.

    In one row or column that is their order by place, and exactly the least. In a grid of up to `EXACT` windows it is
    the least sum of the ways of their edges; in a larger one, and where nothing is gained, it is the order by place.
    """
    room = room_of(ground_)
    lengths = row_lengths(len(windows), way, room)
    in_place = _by_place(windows, lengths)
    if way != GRID or len(windows) > EXACT or len(lengths) in (1, len(windows)):
        return in_place
    cells = [cell for row in _cells(lengths, room, ground_.gap) for cell in row]
    to_cell = cheapest_columns([[cell.distance(window.frame) for cell in cells] for window in windows])
    by_cell = sorted(range(len(windows)), key=lambda i: to_cell[i])
    nearest = _in_rows([windows[i] for i in by_cell], lengths)
    return min((in_place, nearest), key=lambda rows: _way(rows, ground_))


def _way(rows: Rows, ground_: Ground) -> int:
    frames = laid_out(rows, ground_, {}).frames
    return sum(frames[window.id].distance(window.frame) for row in rows for window in row)


def _by_place(windows: Sequence[Window], lengths: Sequence[int]) -> Rows:
    """Return the windows in rows from top to bottom, and each row from left to right, as they stand."""
    down = sorted(windows, key=lambda window: (window.frame.y, window.frame.x))
    rows = _in_rows(down, lengths)
    return tuple(tuple(sorted(row, key=lambda window: 2 * window.frame.x + window.frame.width)) for row in rows)


def _in_rows(windows: Sequence[Window], lengths: Sequence[int]) -> Rows:
    """Return windows in rows of these lengths."""
    rows, start = [], 0
    for length in lengths:
        rows.append(tuple(windows[start : start + length]))
        start += length
    return tuple(rows)


def _cells(lengths: Sequence[int], room: Rect, gap: int) -> list[list[Rect]]:
    """Return the equal cells of rows with so many columns each."""
    down = share_length(room.height, gap, [_all] * len(lengths)).stretches
    return [
        [
            Rect(room.x + across.start, room.y + row.start, across.size, row.size)
            for across in share_length(room.width, gap, [_all] * length).stretches
        ]
        for length, row in zip(lengths, down, strict=True)
    ]


def _all(offered: int) -> int:
    return offered


def laid_out(rows: Sequence[Sequence[Window]], ground_: Ground, learned: Learned) -> FramePlan:
    """Return the frames of windows that share a ground in rows; a row is as high as the highest window in it."""
    room, gap = room_of(ground_), ground_.gap
    sharers = [[sharer_of(window, learned) for window in row] for row in rows]

    down = share_length(room.height, gap, [_row_taking(row, room, gap) for row in sharers])
    frames: dict[int, Rect] = {}
    notes = list(lacking_told(down, "high"))
    for row, stretch in zip(sharers, down.stretches, strict=True):
        across = share_length(room.width, gap, [_taking(one, stretch.size, False) for one in row])
        notes += lacking_told(across, "wide")
        for one, its in zip(row, across.stretches, strict=True):
            cell = Rect(room.x + its.start, room.y + stretch.start, its.size, stretch.size)
            frames[one.window.id] = fitted_frame(cell, one, Anchor(), ground_.area, learned)
    return FramePlan(frames, tuple(dict.fromkeys(notes)))


def _row_taking(row: Sequence[SharingWindow], room: Rect, gap: int) -> Takes:
    """Return the height that a row of windows takes: that of the highest of them."""
    widths = [cell.size for cell in share_length(room.width, gap, [_all] * len(row)).stretches]
    return lambda offered: max(one.takes(width, offered)[1] for one, width in zip(row, widths, strict=True))
