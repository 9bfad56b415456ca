"""Forms of sharing: from windows in an order to their frames, exactly, within their limits.

A form is one entry in `FORMS`.
"""

from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from typing import Final, NamedTuple

from jaklet.core.actions.placing.arranging import FramePlan, Learned
from jaklet.core.actions.placing.rows import UPRIGHT, fitted_frame, room_of, row_lengths, share_of, sharer_of
from jaklet.core.actions.placing.splitting import frames_of, split_row
from jaklet.core.values.desk import Window
from jaklet.core.values.forms import Ground, PlaceForm, frame_of
from jaklet.core.values.geometry import Anchor, Length, Rect
from jaklet.core.values.sharings import (
    COLUMNS,
    GRID,
    HALVES,
    LARGE,
    ONE,
    PLACES,
    ROWS,
    STACK,
    Division,
    Part,
    Split,
    windows_of_part,
)


class SharingPlan(NamedTuple):
    """What windows share: the ground, and the forms that are filled in order, where the form of sharing is a list."""

    ground: Ground
    forms: tuple[PlaceForm, ...] = ()


class Splitting(NamedTuple):
    """A form of sharing: how it splits a ground, and what it keeps of splits that were changed by hand.

    Without `tree`, each window has a whole cell of its own: `cell` of its place in the order.
    """

    tree: Callable[[Division, Ground], Part] | None
    keeps: Callable[[Division, Part], Division] = lambda division, _tree: division
    cell: Callable[[int, SharingPlan], Rect] | None = None


def _columns(division: Division, _ground: Ground) -> Part:
    return _group(division.order, True, division)


def _rows(division: Division, _ground: Ground) -> Part:
    return _group(division.order, False, division)


def _group(wids: Sequence[int], is_row: bool, division: Division) -> Part:
    return split_row(wids, is_row, [division.weights.get(wid, ONE) for wid in wids])


def _large(division: Division, ground: Ground) -> Part:
    """Let the large ones have one side, one beside the other along it, and the others the rest."""
    form = division.form
    upright = form.side in UPRIGHT
    large, others = division.order[: form.large], division.order[form.large :]
    if not others:
        return _group(large, not upright, division)
    share = share_of(form.share, form.side, ground)
    parts = [_group(large, upright, division), _group(others, upright, division)]
    weights = [share, 1 - share]
    if form.side in ("right", "down"):
        parts, weights = parts[::-1], weights[::-1]
    return split_row(parts, not upright, weights)


def _grid(division: Division, ground: Ground) -> Part:
    rows, start = list[Part](), 0
    for length in row_lengths(len(division.order), GRID, room_of(ground)):
        rows.append(split_row(division.order[start : start + length], True))
        start += length
    return split_row(rows, False)


def _halves(division: Division, _ground: Ground) -> Part:
    assert division.tree is not None  # whoever joins splits it
    return division.tree


def _keep_weights(division: Division, tree: Part) -> Division:
    """Keep what each window has beside the others of its row or column."""
    return division._replace(weights={**division.weights, **_weights(tree)})


def _weights(tree: Part) -> Mapping[int, Fraction]:
    """Return the weights of windows in another row, 1 on average, so that their proportions stay."""
    if isinstance(tree, int):
        return {}
    mean = sum(tree.weights, Fraction(0)) / len(tree.weights)
    found: dict[int, Fraction] = {}
    for part, weight in zip(tree.parts, tree.weights, strict=True):
        found |= {part: weight / mean} if isinstance(part, int) else _weights(part)
    return found


def _keep_share(division: Division, tree: Part) -> Division:
    """Keep what the large ones have beside the others, too."""
    form = division.form
    if not isinstance(tree, Split) or len(division.order) <= form.large:
        return _keep_weights(division, tree)
    at = next(i for i, part in enumerate(tree.parts) if division.order[0] in windows_of_part(part))
    share = Length(tree.weights[at] / sum(tree.weights))
    kept = _keep_weights(division, tree)
    # The two sides' own weights are not those of a window that is alone there.
    alone = {part for part in tree.parts if isinstance(part, int)}
    weights = {wid: division.weights.get(wid, ONE) if wid in alone else one for wid, one in kept.weights.items()}
    return kept._replace(form=form._replace(share=share), weights=weights)


def _keep_tree(division: Division, tree: Part) -> Division:
    return division._replace(tree=tree)


def _whole(_at: int, on: SharingPlan) -> Rect:
    return room_of(on.ground)


def _place(at: int, on: SharingPlan) -> Rect:
    return frame_of(on.forms[min(at, len(on.forms) - 1)], on.ground)


FORMS: Final[Mapping[str, Splitting]] = {
    COLUMNS: Splitting(_columns, _keep_weights),
    ROWS: Splitting(_rows, _keep_weights),
    GRID: Splitting(_grid),
    STACK: Splitting(None, cell=_whole),
    HALVES: Splitting(_halves, _keep_tree),
    LARGE: Splitting(_large, _keep_share),
    PLACES: Splitting(None, cell=_place),
}


def tree_of(division: Division, ground: Ground) -> Part | None:
    """Return how a division splits a ground; None where it does not, as windows may have the same cell."""
    tree = FORMS[division.form.form].tree
    return tree(division, ground) if tree and division.order else None


def division_frames(division: Division, windows: Mapping[int, Window], on: SharingPlan, learned: Learned) -> FramePlan:
    """Return the frame of each window of a division."""
    if not division.order:
        return FramePlan({})
    tree = tree_of(division, on.ground)
    if tree is not None:
        return frames_of(tree, windows, on.ground, learned)
    cell = FORMS[division.form.form].cell
    assert cell is not None  # a form has either
    frames = {}
    for at, wid in enumerate(division.order):
        sharer = sharer_of(windows[wid], learned)
        anchor = on.forms[min(at, len(on.forms) - 1)].anchor if on.forms else Anchor()
        frames[wid] = fitted_frame(cell(at, on), sharer, anchor, on.ground.area, learned)
    return FramePlan(frames)
