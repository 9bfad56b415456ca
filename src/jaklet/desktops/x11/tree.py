"""The tree of the server's windows: which child of the root shows each window, and in which order they stand.

It is what is seen; the manager's own list of the order can lag behind.
"""

from collections.abc import Iterable, Mapping, Set
from typing import Any, Final

import xcffib.xproto as xp

from jaklet.core.values.geometry import Rect
from jaklet.desktops.x11.wire import Wire, replies

MOST_DEEP: Final = 8  # frames within frames


class Tree:
    """The children of the root, as the server last told them."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self.children: tuple[int, ...] = ()  # from bottom to top
        self._below: dict[int, int] = {}  # which of them is right below each
        self._places: dict[int, tuple[int, int, int, int]] = {}  # where each was, by its last event
        self.is_stale = True

    def moved(self, event: Any) -> bool:
        """Return whether a ConfigureNotify of a child of the root tells of another place than the one before it."""
        place = event.x, event.y, event.width, event.height
        before, self._places[event.window] = self._places.get(event.window), place
        return before != place

    def take(self, event: Any) -> bool:
        """Take in a ConfigureNotify of a child of the root; True if the order is another one now."""
        known = self._below.get(event.window, event.above_sibling)
        self.is_stale |= event.event == self._wire.root and known != event.above_sibling
        return self.is_stale

    def refresh(self) -> None:
        """Ask for the order, if it is out of date."""
        if self.is_stale:
            self.is_stale = False
            self.children = tuple(self._wire.core.QueryTree(self._wire.root).reply().children)
            self._below = dict(zip(self.children, (0, *self.children), strict=False))
            self._places = {child: place for child, place in self._places.items() if child in self._below}

    def tops(self, windows: Iterable[int]) -> dict[int, int]:
        """Ask for the child of the root that each window is in, a level at a time; not for those that have gone."""
        found: dict[int, int] = {}
        reached = {wid: wid for wid in windows}
        for _ in range(MOST_DEEP):
            if not reached:
                break
            asked = [(wid, at, self._wire.core.QueryTree(at)) for wid, at in reached.items()]
            reached = {}
            for wid, at, cookie in asked:
                for reply in replies((cookie,)):
                    if reply is None:
                        continue  # it has gone, or has another frame by now, which an event tells of
                    if reply.parent == reply.root:
                        found[wid] = at
                    else:
                        reached[wid] = reply.parent
        return found

    def shown_by(self, client: int, tops: Set[int]) -> list[Rect]:
        """Return where windows are that a client shows itself: the bars and panels of a manager, which are no frames.

        `client`: one of its windows; `tops`: the children of the root that are frames.
        """
        core = self._wire.core
        others = [wid for wid in self.children if wid not in tops and self._wire.same_client(wid, client)]
        found = []
        for cookies in [(core.GetWindowAttributes(wid), self._wire.geometry(wid)) for wid in others]:
            state, place = replies(cookies)
            is_seen = state and state.map_state == xp.MapState.Viewable and state._class == xp.WindowClass.InputOutput
            if is_seen and place:
                found.append(_whole(place))
        return found

    def place_of(self, wid: int) -> Rect | None:
        """Return where a child of the root is; None if it has gone."""
        reply = next(iter(replies((self._wire.geometry(wid),))))
        return _whole(reply) if reply else None

    def ordered(self, tops: Mapping[int, int]) -> tuple[int, ...] | None:
        """Return windows from bottom to top; None where the tree does not tell. `tops`: the child that shows each.

        It does not where a manager keeps several windows in one frame, and as long as one has none.
        """
        rank = {top: i for i, top in enumerate(self.children)}
        if len(set(tops.values())) < len(tops) or not all(top in rank for top in tops.values()):
            return None
        return tuple(sorted(tops, key=lambda wid: rank[tops[wid]]))


def _whole(place: tuple[int, int, int, int, int]) -> Rect:
    """Return a window's place with its border, which its size leaves out (X protocol, GetGeometry)."""
    x, y, width, height, border = place
    return Rect(x, y, width + 2 * border, height + 2 * border)
