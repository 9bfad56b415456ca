"""Forms of sharing: from windows in an order to their frames, exactly, within their limits.

A form is one entry in `FORMS`.
"""

from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from types import MappingProxyType
from typing import Final, TypeVar

from jaklet.core.actions.placing.arranging import Frames, Learned
from jaklet.core.actions.placing.rows import UPRIGHT, in_rows, laid_out, parted, room_of, row_lengths
from jaklet.core.values.desk import Window
from jaklet.core.values.forms import Ground
from jaklet.core.values.sharings import COLUMNS, GRID, LARGE, ROWS, STACK, Sharing

Weights = Mapping[int, Fraction]  # of windows by their ids; 1 for one that is not among them
Shares = Callable[[Sequence[Window], Sharing, Ground, Learned, Weights], Frames]
W = TypeVar("W")


def _beside(windows: Sequence[Window], asked: Sharing, ground: Ground, learned: Learned, weights: Weights) -> Frames:
    """Let windows stand in a row or column, or in two of them, the large ones and the others."""
    rows = rows_of(windows, asked)
    grounds = parted(ground, asked.side, asked.share) if len(rows) > 1 else (ground,)
    found = []
    for (is_row, row), part in zip(rows, grounds, strict=True):
        own = [weights.get(window.id, Fraction(1)) for window in row]
        found.append(laid_out([row] if is_row else [[window] for window in row], part, learned, own))
    return _joined(found)


def rows_of(windows: Sequence[W], asked: Sharing) -> list[tuple[bool, Sequence[W]]]:
    """Return which windows stand in one row (true) or column, where their sizes along it can be chosen."""
    if asked.form in (COLUMNS, ROWS):
        return [(asked.form == COLUMNS, windows)]
    if asked.form != LARGE:
        return []
    upright = asked.side in UPRIGHT
    large, others = windows[: asked.large], windows[asked.large :]
    return [(upright, large), (upright, others)] if others else [(not upright, large)]


def _grid(windows: Sequence[Window], _asked: Sharing, ground: Ground, learned: Learned, _: Weights) -> Frames:
    return laid_out(in_rows(windows, row_lengths(len(windows), GRID, room_of(ground))), ground, learned)


def _stack(windows: Sequence[Window], _asked: Sharing, ground: Ground, learned: Learned, _: Weights) -> Frames:
    """Give each of them the whole ground; the one in front is seen."""
    return _joined([laid_out([[window]], ground, learned) for window in windows])


def _joined(parts: Sequence[Frames]) -> Frames:
    frames = {wid: frame for part in parts for wid, frame in part.frames.items()}
    return Frames(frames, tuple(dict.fromkeys(note for part in parts for note in part.notes)))


NO_WEIGHTS: Final[Weights] = MappingProxyType({})
FORMS: Final[Mapping[str, Shares]] = {COLUMNS: _beside, ROWS: _beside, GRID: _grid, STACK: _stack, LARGE: _beside}


def shares(
    windows: Sequence[Window], asked: Sharing, ground: Ground, learned: Learned, weights: Weights = NO_WEIGHTS
) -> Frames:
    """Return the frame of each window, in this order."""
    return FORMS[asked.form](windows, asked, ground, learned, weights) if windows else Frames({})
