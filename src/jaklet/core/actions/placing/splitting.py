"""A display split into parts, and those again: from a tree of splits to the frames of its windows, and what changes it.

Every split shares its length as `sharing.shared` does: exactly, and what one part cannot take goes to the others.
"""

from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from typing import Final

from jaklet.core.actions.placing.arranging import FramePlan, Learned
from jaklet.core.actions.placing.rows import SharingWindow, fitted_frame, lacking_told, room_of, sharer_of
from jaklet.core.actions.placing.sharing import SharedLength, share_length
from jaklet.core.values.desk import Window
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import Anchor, Rect
from jaklet.core.values.sharings import ONE, Part, Split, windows_of_part

LEAST: Final = 40  # pixels that each of two keeps, where one is made longer by hand


def split_row(parts: Sequence[Part], is_row: bool, weights: Sequence[Fraction] = ()) -> Part:
    """Return parts beside each other, or one above the other; a single one is itself."""
    return parts[0] if len(parts) == 1 else Split(is_row, tuple(parts), tuple(weights) or (ONE,) * len(parts))


def frames_of(tree: Part, windows: Mapping[int, Window], ground: Ground, learned: Learned) -> FramePlan:
    """Return the frames of the windows of a tree, each as large as its cell, or as it can be."""
    sharers = {wid: sharer_of(windows[wid], learned) for wid in windows_of_part(tree)}
    cells, notes = _laid_out(tree, room_of(ground), ground.gap, _Takers(sharers, ground.gap))
    return FramePlan(
        {wid: fitted_frame(cell, sharers[wid], Anchor(), ground.area, learned) for wid, cell in cells.items()},
        tuple(dict.fromkeys(notes)),
    )


def cells_of(tree: Part, ground: Ground) -> dict[int, Rect]:
    """Return the cells of the windows of a tree, as if each could take any size."""
    return _laid_out(tree, room_of(ground), ground.gap, _Takers({}, ground.gap))[0]


class _Takers:
    """What parts take of what they are offered. It is worked out once for each size, as parts are asked repeatedly."""

    def __init__(self, sharers: Mapping[int, SharingWindow], gap: int) -> None:
        self._sharers, self._gap = sharers, gap
        # By the parts themselves, not by what they are equal to: to compare trees would take longer.
        self._shared: dict[tuple[int, int, int], SharedLength] = {}

    def takes(self, part: Part, width: int, height: int) -> tuple[int, int]:
        if isinstance(part, int):
            sharer = self._sharers.get(part)
            return sharer.takes(width, height) if sharer else (width, height)
        sizes = [stretch.size for stretch in self.shared(part, width, height).stretches]
        total = sum(sizes) + self._gap * (len(sizes) - 1)
        if part.is_row:
            both = zip(part.parts, sizes, strict=True)
            return total, max(self.takes(one, size, height)[1] for one, size in both)
        return max(self.takes(one, width, size)[0] for one, size in zip(part.parts, sizes, strict=True)), total

    def shared(self, split: Split, width: int, height: int) -> SharedLength:
        found = self._shared.get((id(split), width, height))
        if found is None:
            length = width if split.is_row else height
            found = share_length(
                length, self._gap, [self._along(split, one, width, height) for one in split.parts], split.weights
            )
            self._shared[id(split), width, height] = found
        return found

    def _along(self, split: Split, part: Part, width: int, height: int) -> Callable[[int], int]:
        if split.is_row:
            return lambda offered: self.takes(part, offered, height)[0]
        return lambda offered: self.takes(part, width, offered)[1]


def _laid_out(part: Part, room: Rect, gap: int, takers: _Takers) -> tuple[dict[int, Rect], list[str]]:
    if isinstance(part, int):
        return {part: room}, []
    along = takers.shared(part, room.width, room.height)
    cells: dict[int, Rect] = {}
    notes = list(lacking_told(along, "wide" if part.is_row else "high"))
    for one, stretch in zip(part.parts, along.stretches, strict=True):
        if part.is_row:
            its = room._replace(x=room.x + stretch.start, width=stretch.size)
        else:
            its = room._replace(y=room.y + stretch.start, height=stretch.size)
        more, told = _laid_out(one, its, gap, takers)
        cells |= more
        notes += told
    return cells, notes


# --- what changes a tree ---


def split_at(tree: Part, wid: int, new: int, is_row: bool) -> Part:
    """Return a tree in which a window gives half of its part to a new one."""
    if tree == wid:
        return split_row((wid, new), is_row)
    if isinstance(tree, int):
        return tree
    return tree._replace(parts=tuple(split_at(part, wid, new, is_row) for part in tree.parts))


def without(tree: Part | None, gone: Callable[[int], bool]) -> Part | None:
    """Return a tree without some windows; those beside them get what they had. None for nothing."""
    if not isinstance(tree, Split):
        return None if tree is None or gone(tree) else tree
    both = zip(tree.parts, tree.weights, strict=True)
    left = [(part, weight) for one, weight in both if (part := without(one, gone)) is not None]
    return split_row([part for part, _ in left], tree.is_row, [weight for _, weight in left]) if left else None


def rename_windows(tree: Part, names: Mapping[int, int]) -> Part:
    """Return a tree with other windows in the places of some."""
    if isinstance(tree, int):
        return names.get(tree, tree)
    return tree._replace(parts=tuple(rename_windows(part, names) for part in tree.parts))


def tree_from(frames: Mapping[int, Rect]) -> Part | None:
    """Return how frames split their ground: a tree whose cells they fill; None where no line parts them all."""
    if len(frames) < 2:
        return next(iter(frames), None)
    for is_row in (True, False):
        ordered = sorted(frames, key=lambda wid: (_along(frames[wid], is_row), wid))
        groups: list[list[int]] = []
        end = None
        for wid in ordered:
            start, size = _along(frames[wid], is_row)
            if end is None or start >= end:
                groups.append([])
            groups[-1].append(wid)
            end = start + size if end is None else max(end, start + size)
        if len(groups) > 1:
            parts = [tree_from({wid: frames[wid] for wid in group}) for group in groups]
            sizes = [_extent(frames, group, is_row) for group in groups]
            gap = _along(frames[groups[1][0]], is_row)[0] - sum(_span(frames, groups[0], is_row))
            found = [part for part in parts if part is not None]
            return (
                split_row(found, is_row, [Fraction(size + gap) for size in sizes]) if len(found) == len(parts) else None
            )
    return None


def moved_edge(tree: Part, wid: int, stood: Rect, now: Rect, cells: Mapping[int, Rect], gap: int) -> Part | None:
    """Return a tree in which a window keeps the size that it was given by hand, and its neighbour gives or takes it.

    `stood`: its frame before; `cells`: of all windows as they were. None where no edge was moved that it shares.
    """
    for is_row in (True, False):
        (start, size), (started, was) = _along(now, is_row), _along(stood, is_row)
        first, last = start == started, start + size == started + was  # edges that stayed where they were
        if size == was or not (first or last):
            continue
        for far in (first, not first):  # at the edge that was moved; where that is the display's, at the other one
            changed = _grown(tree, wid, is_row, far, size - was, cells, gap)
            if changed is not None:
                return changed
    return None


def _grown(tree: Part, wid: int, is_row: bool, far: bool, by: int, cells: Mapping[int, Rect], gap: int) -> Part | None:
    """Return a tree whose nearest split at an edge of a window is moved; None if there is none at that edge."""
    if isinstance(tree, int):
        return None
    at = next(i for i, part in enumerate(tree.parts) if wid in windows_of_part(part))
    deeper = _grown(tree.parts[at], wid, is_row, far, by, cells, gap)
    if deeper is not None:
        return tree._replace(parts=(*tree.parts[:at], deeper, *tree.parts[at + 1 :]))
    other = at + 1 if far else at - 1
    if tree.is_row is not is_row or not 0 <= other < len(tree.parts):
        return None
    parts = [*tree.parts]
    room = _room_to_give(parts[other], is_row, not far, cells), _room_to_give(parts[at], is_row, far, cells)
    by = max(-room[1], min(by, room[0]))
    sizes = [_extent(cells, [*windows_of_part(part)], is_row) for part in parts]
    for i, edge, more in ((at, far, by), (other, not far, -by)):
        parts[i] = _pushed(parts[i], is_row, edge, more, cells, gap)
        sizes[i] += more
    # A share is a part of the length with a gap more, so that these weights are these sizes again.
    return Split(is_row, tuple(parts), tuple(Fraction(size + gap) for size in sizes))


def _pushed(part: Part, is_row: bool, far: bool, by: int, cells: Mapping[int, Rect], gap: int) -> Part:
    """Return a part whose edge was moved: only what stands at that edge gets or gives anything."""
    if isinstance(part, int):
        return part
    if part.is_row is not is_row:
        return part._replace(parts=tuple(_pushed(one, is_row, far, by, cells, gap) for one in part.parts))
    at = len(part.parts) - 1 if far else 0
    sizes = [
        _extent(cells, [*windows_of_part(one)], is_row) + (by if i == at else 0) for i, one in enumerate(part.parts)
    ]
    parts = tuple(_pushed(one, is_row, far, by, cells, gap) if i == at else one for i, one in enumerate(part.parts))
    return Split(is_row, parts, tuple(Fraction(size + gap) for size in sizes))


def _room_to_give(part: Part, is_row: bool, far: bool, cells: Mapping[int, Rect]) -> int:
    """Return how many pixels what stands at an edge can give."""
    if isinstance(part, int):
        return max(0, _along(cells[part], is_row)[1] - LEAST)
    if part.is_row is is_row:
        return _room_to_give(part.parts[-1 if far else 0], is_row, far, cells)
    return min(_room_to_give(one, is_row, far, cells) for one in part.parts)


def _along(rect: Rect, is_row: bool) -> tuple[int, int]:
    """Return where a frame begins, and its size, along a row or column."""
    return (rect.x, rect.width) if is_row else (rect.y, rect.height)


def _span(rects: Mapping[int, Rect], group: Sequence[int], is_row: bool) -> tuple[int, int]:
    every = [_along(rects[wid], is_row) for wid in group]
    start = min(one for one, _ in every)
    return start, max(one + size for one, size in every) - start


def _extent(rects: Mapping[int, Rect], group: Sequence[int], is_row: bool) -> int:
    return _span(rects, group, is_row)[1]
