"""Which windows to raise, so that some stand in a given order on top of the others.

Raising to the top is the one restacking request that all window managers agree about; "right below that one" is off by
one in some, when a window is moved up. So windows are raised in turn from the back to the front, leaving out those at
the back that stand right already.
"""

from collections.abc import Sequence


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
