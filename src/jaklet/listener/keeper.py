"""Keeps workspaces and displays arranged: what comes takes its share, what goes gives it back.

All of it is done once the desk is calm, and nothing while a button of the pointer is down. A window that was placed by
a key floats from then on; two that changed places keep each other's; one that was dragged onto another's share takes
it; one that was made longer or shorter beside others keeps that; what was moved in another way goes back. Whoever
fights back is given in to, and that is said.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Final, NamedTuple

from jaklet.core.actions.placing.arranging import Frames, Learned, arrange, as_now
from jaklet.core.actions.placing.grounds import ground
from jaklet.core.actions.placing.sharing_out import rows_of, shares
from jaklet.core.actions.placing.windows import frames_needed
from jaklet.core.actions.ports.desk import Desktop, Moment
from jaklet.core.actions.tasks import Context, Outcome, Task
from jaklet.core.language.sharings import parse_sharing
from jaklet.core.language.verbs import RUN, traits_of
from jaklet.core.values.config import Config
from jaklet.core.values.desk import NORMAL, Change, Desk, Display, Shape, Window
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import Rect
from jaklet.core.values.orders import Arrange, Float
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import COLUMNS, FIRST, LAST, NO, YES, Sharing
from jaklet.core.values.words import counted
from jaklet.listener.tasks import NEVER, Running, Tasks

CALM: Final = 0.1  # seconds without a change that matters, after which windows get their shares
FIGHT: Final = 1.0  # seconds in which what moves again was moved by somebody who fights back
MOST_TRIES: Final = 2
LEAST: Final = 40  # pixels that each of two keeps, where one is made longer by hand
KEEPS: Final = Action("arranged", (), "arranged")
_RANK: Final = {FIRST: 0, YES: 1, LAST: 2}


class Spot(NamedTuple):
    """A workspace on a display."""

    workspace: int
    display: str


@dataclass
class _Kept:
    """What is known of a spot: its windows in order, their shares, where they came to stand, and tries in a row.

    `weights`: of windows whose sizes were changed by hand, beside the others.
    """

    order: list[int] = field(default_factory=list)
    stood: dict[int, Rect] = field(default_factory=dict)
    shares: dict[int, Rect] = field(default_factory=dict)
    weights: dict[int, Fraction] = field(default_factory=dict)
    ground: Ground | None = None
    form: Sharing | None = None
    tries: int = 0
    tried: float = 0.0


class Keeper:
    """Follows the desk, and starts the tasks that give windows their shares. `context`: what those may know."""

    def __init__(
        self, desktop: Desktop, tasks: Tasks, config: Callable[[], Config], context: Callable[[], Context]
    ) -> None:
        self._desktop, self._tasks, self._config, self._context = desktop, tasks, config, context
        self._asked: dict[Spot, Sharing | None] = {}  # by keys; None for no more
        self._floats: set[int] = set()
        self._spots: dict[Spot, _Kept] = {}
        self._seen: Desk | None = None
        self._stand: tuple[object, ...] = ()  # who took part when that was looked at last, and how they stood
        self.deadline = NEVER

    # --- what is asked ---

    def obey(self, order: Arrange | Float, moment: Moment) -> None:
        """Keep the spot in view arranged, or no more; let a window float, or take part again."""
        if isinstance(order, Float):
            (self._floats.add if order.on else self._floats.discard)(order.window)
        else:
            desk = moment.desk
            display = desk.display_of(desk.frame_of(desk.front)) if desk.front else desk.primary
            spot = Spot(desk.workspace, display.name)
            self._asked[spot] = parse_sharing(order.form) if order.form else None
            self._spots.pop(spot, None)
        self._soon(moment.now)

    def floats(self, wid: int) -> bool:
        """True if a window floats."""
        return wid in self._floats

    def told(self, desk: Desk) -> list[str]:
        """Return in words what stays arranged here: `workspace mail on main: columns`."""
        told = self._config().where_told
        return [f"{told(spot.workspace, display)}: {asked}" for spot, display, asked in self._here(desk)]

    def ended(self, running: Running) -> None:
        """Take in what an action has moved."""
        if running.action == KEEPS or not self.is_used:
            return
        moment, floats = self._desktop.look(), traits_of(running.action).floats
        about = running.moving | (running.looks_after if floats else set())
        moved = {moment.desk.family(one).id for wid in about if (one := moment.desk.by_id.get(wid))}
        if floats or running.opening in moved:
            here = self._here(moment.desk)
            self._floats |= moved & {
                one.id for _, display, _ in here for one in self._taking_part(display, moment.desk)
            }
        elif running.action.verb == "swap" and len(moved) == 2:
            self._swapped(*moved)
        if moved:
            for kept in self._spots.values():
                kept.tried = float("-inf")  # by a key, and nobody fights
            self._soon(moment.now)

    def _swapped(self, one: int, other: int) -> None:
        for kept in self._spots.values():
            if one in kept.order and other in kept.order:
                first, second = kept.order.index(one), kept.order.index(other)
                kept.order[first], kept.order[second] = other, one
                weights = kept.weights  # of the places, not of the windows
                if one in weights and other in weights:
                    weights[one], weights[other] = weights[other], weights[one]

    # --- what happens ---

    def step(self) -> None:
        """Look whether anything has to get its share, and give it once all is calm."""
        if not self.is_used:
            return
        moment = self._desktop.look()
        desk = moment.desk
        if desk is not self._seen:
            self._seen = desk
            before, self._stand = self._stand, self._standing(desk)
            needed = any(self._is_needed(spot, display, asked, desk) for spot, display, asked in self._here(desk))
            if not needed:
                self.deadline = NEVER
            elif before != self._stand or self.deadline == NEVER:
                self._soon(moment.now)  # anew with each change, so that all of a burst is dealt with at once
        if moment.now < self.deadline:
            return
        if not moment.settled or self._others_move() or self._desktop.is_dragging():
            self._soon(moment.now)
            return
        self.deadline = NEVER
        for spot, display, asked in self._here(desk):
            if self._is_needed(spot, display, asked, desk):
                self._begin(spot, display, asked, moment)

    def _others_move(self) -> bool:
        """True while something else moves windows; a macro may only wait by now."""
        return any(one.moving or one.opening for one in self._tasks if one.action.verb != RUN)

    def _soon(self, now: float) -> None:
        self.deadline = now + CALM

    @property
    def is_used(self) -> bool:
        """True if anything stays arranged, in view or not."""
        config = self._config()
        return bool(self._asked or config.arranged or config.arranged_displays)

    def _form(self, spot: Spot, display: Display) -> Sharing | None:
        """Return how a spot stays arranged: as a key asked, else as the config says of the display, or workspace."""
        if spot in self._asked:
            return self._asked[spot]
        config = self._config()
        return config.arranged_displays.get(config.role_of(display)) or config.arranged.get(spot.workspace)

    def _here(self, desk: Desk) -> list[tuple[Spot, Display, Sharing]]:
        """Return the spots in view that stay arranged."""
        spots = [(Spot(desk.workspace, display.name), display) for display in desk.displays]
        return [(spot, display, asked) for spot, display in spots if (asked := self._form(spot, display))]

    def _standing(self, desk: Desk) -> tuple[object, ...]:
        """Return all that a share depends on."""
        return tuple(
            (spot, display.work, [(one.id, one.frame, one.shape) for one in self._taking_part(display, desk)])
            for spot, display, _ in self._here(desk)
        )

    def _taking_part(self, display: Display, desk: Desk) -> list[Window]:
        """Return the windows that share a display: ordinary ones in view that can take a size."""
        config = self._config()
        return [
            window
            for window in desk.main_windows
            if desk.in_view(window)
            and not window.above
            and window.kind == NORMAL
            and window.id not in self._floats
            and not window.limits.is_fixed
            and desk.display_of(desk.frame_of(window)) == display
            and _part_of(window, desk, config) != NO
        ]

    def _is_needed(self, spot: Spot, display: Display, asked: Sharing, desk: Desk) -> bool:
        """True if a spot is otherwise than it came to stand, and whoever fights back was not given in to."""
        windows = self._taking_part(display, desk)
        kept = self._spots.get(spot)
        if kept is None:
            return bool(windows)
        there = {window.id for window in windows}
        if there != set(kept.order) or kept.form != asked or kept.ground != self._ground(windows, display, desk):
            return True
        return any(
            window.shape is Shape.NORMAL and window.frame != kept.stood.get(window.id)
            and not (kept.tries >= MOST_TRIES and window.frame != kept.shares.get(window.id))
            for window in windows
        )  # fmt: skip

    def _ground(self, windows: Sequence[Window], display: Display, desk: Desk) -> Ground:
        return ground(display, desk, self._config(), alone=len(windows) == 1)

    def _begin(self, spot: Spot, display: Display, asked: Sharing, moment: Moment) -> None:
        desk, config = moment.desk, self._config()
        windows = {window.id: window for window in self._taking_part(display, desk)}
        kept = self._spots.get(spot)
        if kept is None:
            kept = self._spots[spot] = _Kept()
            new = [window.id for window in _by_place([*windows.values()], asked)]
        else:
            new = [wid for wid in windows if wid not in kept.order]
        same = set(kept.order) == set(windows) and kept.form == asked
        kept.tries = kept.tries + 1 if same and moment.now - kept.tried < FIGHT else 0
        ranks = {wid: _RANK.get(_part_of(window, desk, config), 1) for wid, window in windows.items()}
        kept.order = [wid for wid in kept.order if wid in windows]
        for wid in new:  # behind all of its rank; those that are there stay in their order
            at = next((at for at, one in enumerate(kept.order) if ranks[one] > ranks[wid]), len(kept.order))
            kept.order.insert(at, wid)
        if kept.weights:  # who comes gets as much as the others have on average
            kept.weights = {wid: one for wid, one in kept.weights.items() if wid in windows}
            mean = sum(kept.weights.values(), Fraction(0)) / max(1, len(kept.weights)) or Fraction(1)
            kept.weights |= dict.fromkeys((wid for wid in kept.order if wid not in kept.weights), mean)
        if same:
            self._take_drops(kept, windows)
            self._take_sizes(kept, asked, windows)
        kept.form, kept.ground = asked, self._ground([*windows.values()], display, desk)
        where = config.where_told(spot.workspace, display)
        self._tasks.start(Running((), KEEPS, self._give(where, kept, windows, moment)), 0, moment)

    def _take_drops(self, kept: _Kept, windows: Mapping[int, Window]) -> None:
        """Let a window that was dragged onto another's share change places with it."""
        for wid, window in windows.items():
            stood = kept.stood.get(wid)
            if stood is None or window.frame == stood or window.frame[2:] != stood[2:]:
                continue
            middle = window.frame.x + window.frame.width // 2, window.frame.y + window.frame.height // 2
            other = next((one for one, share in kept.shares.items() if share.has(*middle)), wid)
            if other != wid and other in windows:
                self._swapped(wid, other)
                return

    def _take_sizes(self, kept: _Kept, asked: Sharing, windows: Mapping[int, Window]) -> None:
        """Let a window that was made longer or shorter beside others keep that; the next one gives or takes it."""
        for is_row, row in rows_of(kept.order, asked):
            for at, wid in enumerate(row):
                stood, now = kept.stood.get(wid), windows[wid].frame
                if stood is None or len(row) < 2 or not all(one in kept.shares for one in row):
                    continue
                (start, size), (started, was) = _along(now, is_row), _along(stood, is_row)
                first, last = start == started, start + size == started + was  # edges that stayed where they were
                if size == was or not (first or last) or now in kept.shares.values():
                    continue
                other = at - 1 if (last and at) or at == len(row) - 1 else at + 1
                gap = kept.ground.gap if kept.ground else 0
                sizes = [_along(kept.shares[one], is_row)[1] for one in row]
                both = sizes[at] + sizes[other]
                sizes[at] = min(max(sizes[at] + size - was, LEAST), both - LEAST)
                sizes[other] = both - sizes[at]
                # A share is a part of the length with a gap more, so that these weights are these sizes again.
                kept.weights |= {one: Fraction(size + gap) for one, size in zip(row, sizes, strict=True)}
                return

    def _give(self, where: str, kept: _Kept, windows: Mapping[int, Window], moment: Moment) -> Task:
        """Give the windows of a spot their shares, and remember where they came to stand. `where`: it, in words."""
        context, asked, on = self._context(), kept.form, kept.ground
        assert asked is not None
        assert on is not None
        order = [windows[wid] for wid in kept.order]

        def plan(learned: Learned, desk: Desk) -> Frames:
            return shares(
                [as_now(window, desk) for window in order if window.id in desk.by_id], asked, on, learned, kept.weights
            )

        def needed(desk: Desk, frames: Mapping[int, Rect]) -> tuple[Change, ...]:
            return frames_needed(desk, {wid: frame for wid, frame in frames.items() if _can_move(wid, desk)})

        done = yield from arrange(plan, needed, context, moment)
        desk = done.moment.desk
        kept.shares = dict(plan({}, desk).frames)
        kept.stood = {wid: desk.by_id[wid].frame for wid in kept.order if wid in desk.by_id}
        kept.tried = done.moment.now
        if kept.tries >= MOST_TRIES:
            return Outcome(False, f"{where}: somebody moves its windows again, and was given in to", done.notes)
        return Outcome(True, f"{where}: {counted(len(order), 'window')} arranged as {asked}", done.notes)


def _along(rect: Rect, is_row: bool) -> tuple[int, int]:
    """Return where a frame begins, and its size, along a row or column."""
    return (rect.x, rect.width) if is_row else (rect.y, rect.height)


def _can_move(wid: int, desk: Desk) -> bool:
    """True if a window is there still, in view, and neither maximised nor fullscreen."""
    window = desk.by_id.get(wid)
    return window is not None and window.shape is Shape.NORMAL and desk.in_view(window)


def _part_of(window: Window, desk: Desk, config: Config) -> str:
    app = config.apps.get(config.claims.app_of(window, desk) or "")
    return app.arranged if app else YES


def _by_place(windows: Sequence[Window], asked: Sharing) -> list[Window]:
    """Return windows in the order in which they stand already."""
    if asked.form == COLUMNS:
        return sorted(windows, key=lambda one: (one.frame.x, one.frame.y))
    return sorted(windows, key=lambda one: (one.frame.y, one.frame.x))
