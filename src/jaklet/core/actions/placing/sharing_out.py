"""Forms of sharing: from windows in an order to their frames, exactly, within their limits.

A form is one entry in `FORMS`.
"""

from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from types import MappingProxyType
from typing import Final

from jaklet.core.actions.placing.arranging import Frames, Learned
from jaklet.core.actions.placing.rows import UPRIGHT, laid_out, room_of, row_lengths
from jaklet.core.values.desk import Window
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import Rect
from jaklet.core.values.sharings import COLUMNS, GRID, LARGE, ROWS, STACK, Sharing

Weights = Mapping[int, Fraction]  # of windows by their ids; 1 for one that is not among them
Form = Callable[[Sequence[Window], Sharing, Ground, Learned, Weights], Frames]


def _columns(windows: Sequence[Window], _asked: Sharing, ground: Ground, learned: Learned, weights: Weights) -> Frames:
    return _beside(windows, True, ground, learned, weights)


def _rows(windows: Sequence[Window], _asked: Sharing, ground: Ground, learned: Learned, weights: Weights) -> Frames:
    return _beside(windows, False, ground, learned, weights)


def _grid(windows: Sequence[Window], _asked: Sharing, ground: Ground, learned: Learned, _: Weights) -> Frames:
    rows: list[Sequence[Window]] = []
    start = 0
    for length in row_lengths(len(windows), GRID, room_of(ground)):
        rows.append(windows[start : start + length])
        start += length
    return laid_out(rows, ground, learned)


def _stack(windows: Sequence[Window], _asked: Sharing, ground: Ground, learned: Learned, _: Weights) -> Frames:
    """Give each of them the whole ground; the one in front is seen."""
    frames: dict[int, Rect] = {}
    for window in windows:
        frames |= laid_out([[window]], ground, learned).frames
    return Frames(frames)


def _large(windows: Sequence[Window], asked: Sharing, ground: Ground, learned: Learned, weights: Weights) -> Frames:
    """Give the first ones a part of the ground, and the others what is left, in a column or row beside."""
    large, others = windows[: asked.large], windows[asked.large :]
    upright = asked.side in UPRIGHT
    if not others:
        return _beside(large, not upright, ground, learned, weights)
    part, rest = _parted(asked, ground)
    first = _beside(large, upright, part, learned, weights)
    second = _beside(others, upright, rest, learned, weights)
    return Frames({**first.frames, **second.frames}, tuple(dict.fromkeys((*first.notes, *second.notes))))


def _beside(windows: Sequence[Window], in_a_row: bool, ground: Ground, learned: Learned, weights: Weights) -> Frames:
    own = [weights.get(window.id, Fraction(1)) for window in windows]
    return laid_out([windows] if in_a_row else [[window] for window in windows], ground, learned, own)


def rows_of(windows: Sequence[int], asked: Sharing) -> list[tuple[bool, Sequence[int]]]:
    """Return which windows stand in one row (true) or column, where their sizes along it can be chosen."""
    if asked.form in (COLUMNS, ROWS):
        return [(asked.form == COLUMNS, windows)]
    if asked.form != LARGE:
        return []
    upright = asked.side in UPRIGHT
    large, others = windows[: asked.large], windows[asked.large :]
    return [(upright, large), (upright, others)] if others else [(not upright, large)]


def _parted(asked: Sharing, ground: Ground) -> tuple[Ground, Ground]:
    """Return the ground of the large ones and that of the others, one gap apart."""
    room, gap = room_of(ground), ground.gap
    upright = asked.side in UPRIGHT
    along = (room.height if upright else room.width) + gap
    size = min(max(asked.share.of(along) if asked.share.share is not None else asked.share.pixels + gap, 1), along - 1)
    near = asked.side in ("left", "up")
    first = size if near else along - size  # up to the edge between the two, its gap included
    if upright:
        parts = (
            room._replace(height=max(1, first - gap)),
            room._replace(y=room.y + first, height=max(1, along - first - gap)),
        )
    else:
        parts = (
            room._replace(width=max(1, first - gap)),
            room._replace(x=room.x + first, width=max(1, along - first - gap)),
        )
    large, others = parts if near else parts[::-1]
    return Ground(large, gap), Ground(others, gap)


NO_WEIGHTS: Final[Weights] = MappingProxyType({})
FORMS: Final[Mapping[str, Form]] = {COLUMNS: _columns, ROWS: _rows, GRID: _grid, STACK: _stack, LARGE: _large}


def shares(
    windows: Sequence[Window], asked: Sharing, ground: Ground, learned: Learned, weights: Weights = NO_WEIGHTS
) -> Frames:
    """Return the frame of each window, in this order."""
    return FORMS[asked.form](windows, asked, ground, learned, weights) if windows else Frames({})
