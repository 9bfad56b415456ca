"""The actions `spread` and `pair`: several windows share a display exactly."""

from collections.abc import Sequence
from fractions import Fraction
from typing import Final, NamedTuple

from jaklet.core.assigning import assigned
from jaklet.core.desk import Desk, Display, Window
from jaklet.core.geometry import Anchor, Length, Rect, SizeLimits, settled
from jaklet.core.placing.arranging import NOTHING, Frames, Learned, arrange, as_now, kept_in
from jaklet.core.placing.forms import HALF, Ground
from jaklet.core.placing.grounds import ground, no_display, on_display
from jaklet.core.placing.sharing import Shared, Takes, shared
from jaklet.core.placing.windows import frames_needed
from jaklet.core.ports import Moment
from jaklet.core.sentences import Action
from jaklet.core.tasks import Context, Outcome, Task, outcome
from jaklet.core.telling import window_name
from jaklet.core.words import counted

COLUMNS, ROWS, GRID = "columns", "rows", "grid"
UNEVEN: Final = 1.25
UPRIGHT: Final = ("up", "down")
EXACT: Final = 16  # windows up to which the order that moves them least is worked out and not only approached
Rows = tuple[tuple[Window, ...], ...]


class Sharer(NamedTuple):
    """A window that shares a ground, with the limits it is known to have."""

    window: Window
    limits: SizeLimits

    def takes(self, width: int, height: int) -> tuple[int, int]:
        """Return the visible size that it takes of what is offered."""
        frame = settled(Rect(0, 0, width, height), self.window.border, self.limits, Anchor())
        return frame.width, frame.height


def spread(action: Action, context: Context, moment: Moment) -> Task:
    """Let all windows in view on a display share it. Those kept above, and dialogs, stay as they are."""
    desk, config = moment.desk, context.config
    way, named = action.refs[0].name, action.named("DISPLAY")
    display = desk.display_of(desk.frame_of(desk.front)) if desk.front else desk.primary
    if named:
        found = config.display(named.name, desk)
        if found is None:
            return outcome(False, *no_display(named.name, desk, config))
        display = found
    windows = tuple(window for window in on_display(display, desk) if not window.above)
    role = config.role_of(display)
    if not windows:
        return outcome(False, f"no window is in view on {role}")
    return _spread(windows, way, display, context, moment)


def _spread(windows: tuple[Window, ...], way: str, display: Display, context: Context, moment: Moment) -> Task:
    ground_ = ground(display, moment.desk, context.config, alone=len(windows) == 1)
    rows = ordered(windows, way, ground_)

    def plan(learned: Learned, desk: Desk) -> Frames:
        return laid_out([[as_now(window, desk) for window in row] for row in rows], ground_, learned)

    done = yield from arrange(plan, frames_needed, context, moment)
    role = context.config.role_of(display)
    shape = f"{counted(len(rows[0]), 'column')} and {counted(len(rows), 'row')}" if way == GRID else way
    line = f"{len(windows)} windows share {role} in {shape}"
    if len(windows) == 1:
        line = f"{window_name(windows[0], moment.desk, context.config)} has {role} to itself"
    return Outcome(not done.refused, f"{line}{'' if done.asked else ' already'}", done.notes)


def pair(action: Action, context: Context, moment: Moment) -> Task:
    """Put the window in front to a side, and the one used before it to the other; alone, it leaves the rest free."""
    desk, config = moment.desk, context.config
    side, length = action.refs[0].name, action.named("LENGTH")
    if desk.front is None:
        return outcome(False, "no window has the focus")
    first = desk.family(desk.front)
    display = desk.display_of(desk.frame_of(first))
    others = (desk.family(w) for wid in desk.recent if (w := desk.by_id.get(wid)) and desk.in_view(desk.family(w)))
    second = next((window for window in others if window.id != first.id and not window.above), None)
    ground_ = ground(display, desk, config)
    share = _share(length.length if length and length.length else HALF, side, ground_)
    return _paired(first, second, side, share, ground_, context, moment)


def _share(length: Length, side: str, ground_: Ground) -> Fraction:
    """Return a length as a share, less than the whole."""
    if length.share is not None:
        return length.share
    room = _room(ground_)
    along = (room.height if side in UPRIGHT else room.width) + ground_.gap
    return min(Fraction(length.pixels + ground_.gap, along), Fraction(99, 100))


def _paired(
    first: Window, second: Window | None, side: str, share: Fraction, ground_: Ground, context: Context, moment: Moment
) -> Task:
    def plan(learned: Learned, desk: Desk) -> Frames:
        both = as_now(first, desk), second and as_now(second, desk)
        return side_by_side(*both, side, share, ground_, learned)

    done = yield from arrange(plan, frames_needed, context, moment)
    desk, config = done.moment.desk, context.config
    line = f"{window_name(first, desk, config)} is {_AT[side]}"
    line += f", {window_name(second, desk, config)} {_AT[_OPPOSITE[side]]}" if second else ", and the rest is free"
    return Outcome(not done.refused, f"{line}{'' if done.asked else ' already'}", done.notes)


_AT: Final = {"left": "at the left", "right": "at the right", "up": "at the top", "down": "at the bottom"}
_OPPOSITE: Final = {"left": "right", "right": "left", "up": "down", "down": "up"}


def side_by_side(
    first: Window, second: Window | None, side: str, share: Fraction, ground_: Ground, learned: Learned
) -> Frames:
    """Return the frames of a pair; each stays at its own edge of the work area."""
    room = _room(ground_)
    upright = side in UPRIGHT
    sharers = [_sharer(first, learned), *([_sharer(second, learned)] if second else [])]
    weights = [share, 1 - share]
    near = side in ("left", "up")
    if not near:
        sharers, weights = sharers[::-1], weights[::-1]
    if second is None:
        # The rest is kept free by one who takes all that is left.
        free = Sharer(first._replace(id=0), SizeLimits())
        sharers = [*sharers, free] if near else [free, *sharers]
    along, across = (room.height, room.width) if upright else (room.width, room.height)
    row = shared(along, ground_.gap, [_taking(one, across, upright) for one in sharers], weights)
    frames = {}
    for i, (sharer, stretch) in enumerate(zip(sharers, row.stretches, strict=True)):
        far = 2 * i  # the second one keeps the far edge
        cell = Rect(room.x + stretch.start, room.y, stretch.size, across)
        anchor = Anchor(far, 0)
        if upright:
            cell = Rect(room.x, room.y + stretch.start, across, stretch.size)
            anchor = Anchor(0, far)
        frames[sharer.window.id] = _fitted(cell, sharer, anchor, ground_.area, learned)
    if second and row.stretches[1].start + row.stretches[1].size < along and not row.lacking:
        frames[sharers[1].window.id] = _at_far_edge(frames[sharers[1].window.id], room, upright)
    frames.pop(0, None)
    return Frames(frames, _lacking(row, "high" if upright else "wide"))


def _at_far_edge(frame: Rect, room: Rect, upright: bool) -> Rect:
    """Return a frame moved to the far end: what neither of a pair can take is left free between them."""
    if upright:
        return frame._replace(y=room.bottom - frame.height)
    return frame._replace(x=room.right - frame.width)


def _taking(sharer: Sharer, across: int, upright: bool) -> Takes:
    """Return what a window takes along one axis, where the other is given."""
    if upright:
        return lambda offered: sharer.takes(across, offered)[1]
    return lambda offered: sharer.takes(offered, across)[0]


def _sharer(window: Window, learned: Learned) -> Sharer:
    return Sharer(window, learned.get(window.id, NOTHING).limits or window.limits)


def _fitted(cell: Rect, sharer: Sharer, anchor: Anchor, area: Rect, learned: Learned) -> Rect:
    """Return the frame that a window takes of its cell."""
    if learned.get(sharer.window.id, NOTHING).kept_in:
        cell = kept_in(cell, sharer.window, area)
    return settled(cell, sharer.window.border, sharer.limits, anchor)


def _room(ground_: Ground) -> Rect:
    """Return the work area less its rim."""
    area, rim = ground_.area, ground_.rim
    return Rect(area.x + rim, area.y + rim, max(1, area.width - 2 * rim), max(1, area.height - 2 * rim))


def _lacking(row: Shared, word: str) -> tuple[str, ...]:
    if not row.lacking:
        return ()
    return (f"together they are {row.lacking} px too {word}, so that neighbours overlap",)


# --- spreading ---


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


def ordered(windows: Sequence[Window], way: str, ground_: Ground) -> Rows:
    """Return the windows row by row, in an order that moves them little.

    In one row or column that is their order by place, and exactly the least. In a grid of up to `EXACT` windows it is
    the least sum of the ways of their edges; in a larger one, and where nothing is gained, it is the order by place.
    """
    room = _room(ground_)
    lengths = row_lengths(len(windows), way, room)
    in_place = _by_place(windows, lengths)
    if way != GRID or len(windows) > EXACT or len(lengths) in (1, len(windows)):
        return in_place
    cells = [cell for row in _cells(lengths, room, ground_.gap) for cell in row]
    to_cell = assigned([[cell.distance(window.frame) for cell in cells] for window in windows])
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
    rows, start = [], 0
    for length in lengths:
        rows.append(tuple(windows[start : start + length]))
        start += length
    return tuple(rows)


def _cells(lengths: Sequence[int], room: Rect, gap: int) -> list[list[Rect]]:
    """Return the equal cells of rows with so many columns each."""
    down = shared(room.height, gap, [_all] * len(lengths)).stretches
    return [
        [
            Rect(room.x + across.start, room.y + row.start, across.size, row.size)
            for across in shared(room.width, gap, [_all] * length).stretches
        ]
        for length, row in zip(lengths, down, strict=True)
    ]


def _all(offered: int) -> int:
    return offered


def laid_out(rows: Sequence[Sequence[Window]], ground_: Ground, learned: Learned) -> Frames:
    """Return the frames of windows that share a ground in rows; a row is as high as the highest window in it."""
    room, gap = _room(ground_), ground_.gap
    sharers = [[_sharer(window, learned) for window in row] for row in rows]

    down = shared(room.height, gap, [_row_taking(row, room, gap) for row in sharers])
    frames: dict[int, Rect] = {}
    notes = list(_lacking(down, "high"))
    for row, stretch in zip(sharers, down.stretches, strict=True):
        across = shared(room.width, gap, [_taking(one, stretch.size, False) for one in row])
        notes += _lacking(across, "wide")
        for one, its in zip(row, across.stretches, strict=True):
            cell = Rect(room.x + its.start, room.y + stretch.start, its.size, stretch.size)
            frames[one.window.id] = _fitted(cell, one, Anchor(), ground_.area, learned)
    return Frames(frames, tuple(dict.fromkeys(notes)))


def _row_taking(row: Sequence[Sharer], room: Rect, gap: int) -> Takes:
    """Return what a row of windows takes of a height: as much as the highest of them."""
    widths = [cell.size for cell in shared(room.width, gap, [_all] * len(row)).stretches]
    return lambda offered: max(one.takes(width, offered)[1] for one, width in zip(row, widths, strict=True))
