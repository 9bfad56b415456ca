"""How well windows use their displays: what is seen of each, what overlaps, what is left empty.

Areas are exact: the edges of all rectangles cut the plane into cells, and each cell is counted once.
"""

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from fractions import Fraction
from typing import NamedTuple

from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Rect


class Quality(NamedTuple):
    """`seen`: of each window in view, the share of it that is seen, by its id.

    `overlap` and `wasted`: shares of the work areas, one on which two or more windows stand, one on which none does.
    """

    seen: dict[int, Fraction]
    overlap: Fraction
    wasted: Fraction


def quality(desk: Desk) -> Quality:
    """Return the figures of a desk, of the windows in view."""
    rank = {wid: place for place, wid in enumerate(desk.stacking)}
    windows = sorted((w for w in desk.windows if desk.in_view(w)), key=lambda w: rank.get(w.id, -1))
    works = [display.work for display in desk.displays]
    xs = _edges([*(w.frame for w in windows), *works], 0)
    ys = _edges([*(w.frame for w in windows), *works], 1)
    seen = dict.fromkeys((window.id for window in windows), 0)
    room = twice = empty = 0
    for size, here in _cells(xs, ys, [window.frame for window in windows], works):
        room += size
        empty += 0 if here else size
        twice += size if len(here) > 1 else 0
        if here:
            seen[windows[here[-1]].id] += size
    areas_of = {window.id: max(1, window.frame.width * window.frame.height) for window in windows}
    return Quality(
        {wid: Fraction(area, areas_of[wid]) for wid, area in seen.items()},
        Fraction(twice, max(1, room)),
        Fraction(empty, max(1, room)),
    )


def _cells(
    xs: list[int], ys: list[int], frames: Sequence[Rect], works: Sequence[Rect]
) -> Iterator[tuple[int, list[int]]]:
    """Yield the cells that lie within a work area: the size of each, and the frames that cover it, by their indices."""
    columns = [_span(xs, frame.x, frame.right) for frame in frames]
    rows = [_span(ys, frame.y, frame.bottom) for frame in frames]
    spans = [(_span(xs, work.x, work.right), _span(ys, work.y, work.bottom)) for work in works]
    for i in range(len(xs) - 1):
        inside = [n for n, (low, high) in enumerate(columns) if low <= i < high]
        areas = [rows_ for (low, high), rows_ in spans if low <= i < high]
        for j in range(len(ys) - 1):
            if any(low <= j < high for low, high in areas):
                size = (xs[i + 1] - xs[i]) * (ys[j + 1] - ys[j])
                yield size, [n for n in inside if rows[n][0] <= j < rows[n][1]]


def _edges(rects: Sequence[Rect], axis: int) -> list[int]:
    return sorted({rect[axis] for rect in rects} | {rect[axis] + rect[axis + 2] for rect in rects})


def _span(edges: list[int], low: int, high: int) -> tuple[int, int]:
    return bisect_left(edges, low), bisect_left(edges, high)
