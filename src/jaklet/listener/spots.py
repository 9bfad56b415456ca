"""What is known of a workspace on a display that stays arranged, and what hands have changed on it."""

from collections.abc import Mapping, Sequence, Set
from fractions import Fraction
from typing import Final

from jaklet.core.actions.placing import dividing
from jaklet.core.actions.placing.grounds import ground
from jaklet.core.actions.placing.sharing_out import SharingPlan
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.places import resolve_place
from jaklet.core.values.sharings import COLUMNS, FIRST, HALVES, LAST, STACK, YES, Division, Sharing

FIGHT: Final = 1.0  # seconds in which what moves again was moved by somebody who fights back
MOST_TRIES: Final = 2
_RANK: Final = {FIRST: 0, YES: 1, LAST: 2}


class KeptSpot:
    """A spot's division, as it was asked for, and how it came to stand.

    `asked` None: as the division says. `stood`, `shares`: where its windows came to stand, and what they were to get.
    `sized`: what hands have given to the places, in order, `sizes`: the same by form and number of windows, for when
    there are as many again. `tries`: in a row, to give the same windows their shares; `tried`: when the last one was.
    """

    def __init__(
        self,
        division: Division,
        sized: tuple[Fraction, ...] = (),
        sizes: dict[tuple[str, int], tuple[Fraction, ...]] | None = None,
    ) -> None:
        self.division = division
        self.asked: Sharing | None = None
        self.stood: dict[int, Rect] = {}
        self.shares: dict[int, Rect] = {}
        self.on: SharingPlan | None = None
        self.sized = sized
        self.sizes: dict[tuple[str, int], tuple[Fraction, ...]] = {} if sizes is None else sizes
        self.tries = 0
        self.tried = 0.0

    @property
    def has_given_in(self) -> bool:
        """True once somebody has moved its windows back so often that they are left to whoever that is."""
        return self.tries >= MOST_TRIES

    def leave(self, windows: Sequence[Window], now: float) -> None:
        """Leave windows where whoever fights back puts them; what moves a while after the last of it is a hand's."""
        frames = {window.id: window.frame for window in windows}
        if frames == self.stood:
            return
        if now - self.tried >= FIGHT:
            self.tries = 0
        else:
            self.stood, self.tried = frames, now

    def is_needed(self, windows: Sequence[Window], asked: Sharing, on: SharingPlan, unasked: Set[int]) -> bool:
        """True if it is otherwise than it came to stand, or was left.

        `unasked`: windows that are maximised or the like, and no hand or key has made so.
        """
        there = {window.id for window in windows}
        if there != set(self.division.order) or self.on != on or not self._is_asked(asked):
            return True
        own = (one for one in windows if one.shape is WindowShape.NORMAL or one.id in unasked)
        return any(window.frame != self.stood.get(window.id) for window in own)

    def _is_asked(self, asked: Sharing) -> bool:
        return self.asked == asked if self.asked else self.division.form.form == asked.form

    def take_in(
        self,
        windows: Mapping[int, Window],
        asked: Sharing,
        on: SharingPlan,
        ranks: Mapping[int, str],
        front: int | None,
    ) -> bool:
        """Take in which windows are there; true if they are the same as before, in the same form."""
        form, listed = self.division.form if self._is_asked(asked) else asked, self.division.order
        same_form = form is self.division.form
        if not same_form or not listed or (form.form == HALVES and self.division.tree is None):
            # Windows that are there already keep the order in which they stand.
            frames = {wid: window.frame for wid, window in windows.items()}
            self.division = dividing.begin_division(Division(form), frames)
            every = [*listed, *by_place([*windows.values()], form)]
        else:
            self.division, every = dividing.left_by(self.division, windows), [*windows]
        new = [wid for wid in dict.fromkeys(every) if wid in windows and wid not in self.division.order]
        order = {wid: _RANK.get(rank, 1) for wid, rank in ranks.items()}
        self.division = dividing.join_windows(self.division, new, order, front, on.ground)
        if same_form:
            self._sized_as_before(len(listed))
        else:
            self.sized = ()
        self.asked, self.on = asked, on
        return same_form and set(listed) == set(windows)

    def _sized_as_before(self, count: int) -> None:
        """Give places the sizes that hands gave them when there were as many windows. `count`: how many till now."""
        division = self.division
        form = division.form.form
        if count == len(division.order):
            return
        if self.sized:
            self.sizes[form, count] = self.sized
        self.sized = self.sizes.get((form, len(division.order)), ())
        if self.sized:
            self.division = division._replace(weights=dict(zip(division.order, self.sized, strict=True)))

    def swap(self, one: int, other: int) -> None:
        """Take in that two windows have changed places already: each stands as the other one did."""
        self.division = dividing.swap_windows(self.division, one, other)
        for known in (self.stood, self.shares):
            if one in known and other in known:
                known[one], known[other] = known[other], known[one]

    def moved(self, windows: Mapping[int, Window]) -> list[int]:
        """Return the windows that were moved, and have kept their size."""
        stood = self.stood
        return [
            wid
            for wid, window in windows.items()
            if wid in stood and window.frame != stood[wid] and window.frame[2:] == stood[wid][2:]
        ]

    def take_drop(self, windows: Mapping[int, Window]) -> None:
        """Let a window that was dragged onto another's share change places with it."""
        if self.division.form.form == STACK:
            return
        for wid in self.moved(windows):
            frame = windows[wid].frame
            middle = frame.x + frame.width // 2, frame.y + frame.height // 2
            other = next((one for one, share in self.shares.items() if share.has(*middle)), wid)
            if other != wid and other in windows:
                self.division = dividing.swap_windows(self.division, wid, other)
                return

    def take_size(self, windows: Mapping[int, Window]) -> None:
        """Let a window that was made larger or smaller keep that; the next one gives or takes it."""
        if self.on is None or any(wid not in self.shares for wid in self.division.order):
            return
        for wid in self.division.order:
            stood, now = self.stood.get(wid), windows[wid].frame
            if stood is None or now[2:] == stood[2:] or now in self.shares.values():
                continue
            changed = dividing.resize_window(self.division, wid, stood, now, self.shares, self.on.ground)
            if changed is not None:
                self.division = changed
                self.sized = changed.sized
                return


def stage_of(windows: Sequence[Window], asked: Sharing, display: Display, desk: Desk, config: Config) -> SharingPlan:
    """Return the sharing plan of windows on a display."""
    on = ground(display, desk, config, alone=len(windows) == 1)
    if asked.places is None:
        return SharingPlan(on)
    role = config.role_of(display)
    return SharingPlan(on, tuple(one.form_on(role) for one in resolve_place(asked.places, config.places).alternatives))


def by_place(windows: Sequence[Window], asked: Sharing) -> list[int]:
    """Return windows in the order in which they stand already."""
    first, second = (0, 1) if asked.form == COLUMNS else (1, 0)
    return [one.id for one in sorted(windows, key=lambda one: (one.frame[first], one.frame[second]))]
