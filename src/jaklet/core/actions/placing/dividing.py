"""How a division changes: windows come and go, change places, and are made larger or smaller by hand."""

from collections.abc import Collection, Mapping, Sequence
from fractions import Fraction

from jaklet.core.actions.placing.sharing_out import FORMS, tree_of
from jaklet.core.actions.placing.splitting import cells_of, moved_edge, rename_windows, split_at, tree_from, without
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import Rect
from jaklet.core.values.sharings import HALVES, Division, Part, windows_of_part


def left_by(division: Division, there: Collection[int]) -> Division:
    """Return a division without the windows that are not there any more; the others keep their order and sizes."""
    if all(wid in there for wid in division.order):
        return division
    return division._replace(
        order=tuple(wid for wid in division.order if wid in there),
        weights={wid: one for wid, one in division.weights.items() if wid in there},
        tree=without(division.tree, lambda wid: wid not in there),
    )


def join_windows(
    division: Division, new: Sequence[int], ranks: Mapping[int, int], front: int | None, ground: Ground
) -> Division:
    """Return a division with new windows behind all of their rank; those that are there stay in their order.

    Each gets as much as the others have on average; by halves, half of what the window in front has, along its longer
    side. `front`: that one, where it shares the ground, else None.
    """
    for wid in new:
        rank = ranks.get(wid, 0)
        at = next((at for at, one in enumerate(division.order) if ranks.get(one, 0) > rank), len(division.order))
        if division.form.form == HALVES:
            division = division._replace(tree=_halved(division, wid, front, ground))
            front = wid
        if division.weights:
            mean = sum(division.weights.values(), Fraction(0)) / len(division.weights)
            division = division._replace(weights={**division.weights, wid: mean})
        division = division._replace(order=(*division.order[:at], wid, *division.order[at:]))
    return division


def _halved(division: Division, new: int, front: int | None, ground: Ground) -> Part:
    tree = division.tree
    if tree is None:
        return new
    cells = cells_of(tree, ground)
    host = front if front in cells else division.order[-1]
    assert host is not None
    return split_at(tree, host, new, cells[host].width >= cells[host].height)


def begin_division(division: Division, frames: Mapping[int, Rect]) -> Division:
    """Return a division by halves in which windows stand as they do already, if a line parts them all."""
    if division.form.form != HALVES or division.tree is not None:
        return division
    tree = tree_from(frames)
    return division if tree is None else division._replace(tree=tree, order=tuple(windows_of_part(tree)))


def swap_windows(division: Division, one: int, other: int) -> Division:
    """Return a division in which two windows have changed places; a place keeps its size."""
    if one not in division.order or other not in division.order:
        return division
    names, weights = {one: other, other: one}, division.weights
    return division._replace(
        order=tuple(names.get(wid, wid) for wid in division.order),
        weights={names.get(wid, wid): weight for wid, weight in weights.items()},
        tree=None if division.tree is None else rename_windows(division.tree, names),
    )


def resize_window(
    division: Division, wid: int, stood: Rect, now: Rect, cells: Mapping[int, Rect], ground: Ground
) -> Division | None:
    """Return a division in which a window keeps the size that it was given by hand; None where that is not kept.

    `stood`: its frame before; `cells`: the frames of all as they were.
    """
    tree = tree_of(division, ground)
    changed = None if tree is None else moved_edge(tree, wid, stood, now, cells, ground.gap)
    return None if changed is None else FORMS[division.form.form].keeps(division, changed)
