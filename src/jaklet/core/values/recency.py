"""The order in which windows were used, and walks through it.

A walk is a run of steps to the next or the previous window. While it lasts the order stays as it was, so that the
steps visit every window; when it is over, the window where it ended counts as the one used last. It is over when
another window is used in any other way, or no step has come for `PAUSE` seconds.
"""

from collections.abc import Iterable
from typing import Final

PAUSE: Final = 2.0


class Recency:
    """Window ids, latest used first."""

    def __init__(self, order: Iterable[int] = ()) -> None:
        self.order = [*order]
        self.step: tuple[int, float] | None = None  # where the walk is, and since when; None while there is none

    def used(self, wid: int, now: float, walking: bool = False) -> None:
        """Note that a window has the focus; `now` in seconds."""
        if walking:
            self.step = wid, now
        elif self.step is None or self.step[0] != wid:
            self._end()
            self._first(wid)

    def settle(self, now: float) -> bool:
        """End a walk that has not gone on; True if that has changed the order."""
        over = self.step is not None and now - self.step[1] > PAUSE
        if over:
            self._end()
        return over

    def keep(self, live: Iterable[int]) -> None:
        """Keep these windows and no others; those not known yet come last, in this order."""
        live = tuple(live)
        there, known = set(live), set(self.order)
        self.order = [wid for wid in self.order if wid in there] + [wid for wid in live if wid not in known]

    def _end(self) -> None:
        if self.step:
            if self.step[0] in self.order:
                self._first(self.step[0])
            self.step = None

    def _first(self, wid: int) -> None:
        self.order = [wid, *(other for other in self.order if other != wid)]
