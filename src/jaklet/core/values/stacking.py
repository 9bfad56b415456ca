"""Which windows to raise, so that some stand in a given order on top of the others.

Raising to the top is the one restacking request that all window managers agree about; "right below that one" is off by
one in some, when a window is moved up. So windows are raised in turn from the back to the front, leaving out those at
the back that stand right already.
"""

from collections.abc import Sequence

from jaklet.core.values.desk import Desk, Window


def to_raise(current: Sequence[int], on_top: Sequence[int]) -> list[int]:
    """Return the windows to raise, in turn, to get `on_top` (bottom to top) above all others of `current`."""
    rank = {wid: i for i, wid in enumerate(current)}
    wanted = [wid for wid in on_top if wid in rank]
    others = rank.keys() - set(wanted)
    height = max((rank[wid] for wid in others), default=-1)
    for standing, wid in enumerate(wanted):
        if rank[wid] < height:
            return wanted[standing:]
        height = rank[wid]
    return []


def to_activate(desk: Desk, on_top: Sequence[int], front: int | None) -> list[int]:
    """Return the windows to make active, in turn, to get `on_top` above all others; `front` has the focus in the end.

    For managers that restack in no other way. Windows out of view stay there: to make one active would show it.
    """
    seen = [wid for wid in desk.stacking if desk.in_view(desk.by_id[wid])]
    turn = to_raise(seen, [wid for wid in on_top if wid in seen])
    if turn and front is not None and turn[-1] != front and desk.by_id[turn[-1]].takes_focus:
        return [wid for wid in turn if wid != front] + [front]
    return turn


def stands_on_top(order: Sequence[int], desk: Desk) -> bool:
    """True if these stand in this order above all other windows in view, as far as those kept above let them.

    Windows that are out of view have no order that anybody sees.
    """
    for above in (False, True):
        mine = [wid for wid in order if (w := desk.by_id.get(wid)) is not None and w.above is above and desk.in_view(w)]
        standing = [
            wid
            for wid in desk.stacking
            if (w := desk.by_id.get(wid)) is not None and w.above is above and desk.in_view(w)
        ]
        if mine and standing[len(standing) - len(mine) :] != mine:
            return False
    return True


def windows_above(window: Window, desk: Desk) -> list[Window]:
    """Return the windows in view that stand before this one, from bottom to top."""
    if window.id not in desk.stacking:
        return []
    found = (desk.by_id.get(wid) for wid in desk.stacking[desk.stacking.index(window.id) + 1 :])
    return [other for other in found if other is not None and desk.in_view(other)]


def covering_windows(window: Window, desk: Desk) -> list[Window]:
    """Return the windows that cover a part of this one, from bottom to top; not its dialogs, and none kept above it."""
    family = desk.family(window).id
    return [
        other
        for other in windows_above(window, desk)
        if (window.above or not other.above) and desk.family(other).id != family and other.frame.overlap(window.frame)
    ]
