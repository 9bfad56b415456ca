"""Keeps workspaces and displays arranged: what comes takes its share, what goes gives it back.

All of it is done once the desk is calm, and nothing while a button of the pointer is down. A window that was placed by
a key floats from then on, as does one that was moved by hand in its first second; two that changed places keep each
other's; one that was dragged onto another's share takes it, or what the settings say; one that was made larger or
smaller beside others keeps that; what was moved in another way goes back. Whoever fights back is given in to, and that
is said. Each change by a key or hand can be undone.
"""

from collections.abc import Callable, Mapping, Set
from typing import Final

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.placing import dividing
from jaklet.core.actions.placing.arranging import ArrangingResult, FramePlan, Learned, arrange, as_now
from jaklet.core.actions.placing.sharing_out import division_frames
from jaklet.core.actions.placing.windows import frames_needed
from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.actions.ports.history import UndoStep
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome
from jaklet.core.language.verbs import RUN, traits_of
from jaklet.core.values.changes import Change, Move, Reshape
from jaklet.core.values.config import Config
from jaklet.core.values.desk import NORMAL, Desk, Display, Window, WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.orders import Arrange, Float, Restore
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import FLOATS, NO, SWAPS, YES, ArrangedSpot, Division, KeptArrangements, Sharing
from jaklet.core.values.words import counted, listed
from jaklet.listener.spots import FIGHT, KeptSpot, stage_of
from jaklet.listener.tasks import NEVER, RunningTask, TaskRunner

CALM: Final = 0.1  # seconds without a change that matters, after which windows get their shares
FIRST_SECOND: Final = 1.0  # of a window, in which a hand may put it where it is to float
KEEPS: Final = Action("arranged", (), "arranged")
PLACED: Final = Action("layout", (), "layout")  # a window that a layout has a place for came after its recall


class Keeper:
    """Follows the desk, and starts the tasks that give windows their shares. `context`: what those may know."""

    def __init__(
        self, desktop: Desktop, tasks: TaskRunner, config: Callable[[], Config], context: Callable[[], TaskContext]
    ) -> None:
        self._desktop, self._tasks, self._config, self._context = desktop, tasks, config, context
        self._asked: dict[ArrangedSpot, Sharing | None] = {}  # by keys; None for no more
        self._floats: set[int] = set()
        self._spots: dict[ArrangedSpot, KeptSpot] = {}
        self._seen: Desk | None = None
        self._stand: tuple[object, ...] = ()  # who took part when that was looked at last, and how they stood
        self._young: dict[int, float] = {}  # windows in their first second, and until when
        self._unasked: set[int] = (
            set()
        )  # windows that are maximised, tiled or fullscreen, and no hand or key has made so
        self._gave = False  # shares, since the desk was looked at last
        self._by_key = False  # what has changed since windows got their shares, and can be undone already
        self.deadline = NEVER

    # --- what is asked ---

    def obey(self, order: Arrange | Float | Restore, moment: Moment) -> None:
        """Keep a spot arranged, or no more; let a window float, or take part again; or all as it was."""
        match order:
            case Float(window, on):
                (self._floats.add if on else self._floats.discard)(window)
            case Arrange(spot, form):
                self._asked[spot] = form
                self._spots.pop(spot, None)
            case Restore(kept, placed):
                self._asked, self._floats = {**kept.asked}, {*kept.floats}
                known = {spot: one.sizes for spot, one in self._spots.items()}
                self._spots = {
                    spot: KeptSpot(division, sized=division.sized, sizes=known.get(spot, {}))
                    for spot, division in kept.divisions.items()
                }
                if self.is_used:
                    self._floats |= placed & self._taking_part_here(moment.desk)
        self._soon(moment.now)

    def kept(self) -> KeptArrangements:
        """Return how everything stays arranged."""
        divisions = {spot: one.division for spot, one in self._spots.items()}
        return KeptArrangements({**self._asked}, divisions, frozenset(self._floats))

    def arranged(self, desk: Desk) -> dict[ArrangedSpot, Sharing]:
        """Return the spots that stay arranged, with their forms; those in view only if their windows stand so."""
        found = {}
        for workspace in range(1, desk.workspaces + 1):
            for display in desk.displays:
                spot = ArrangedSpot(workspace, display.name)
                asked = self._form(spot, display)
                if asked and not (workspace == desk.workspace and self._is_needed(spot, display, asked, desk)):
                    found[spot] = asked
        return found

    def told(self, desk: Desk) -> list[str]:
        """Return in words what stays arranged here: `workspace mail on main: columns`."""
        told = self._config().where_told
        lines = [f"{told(spot.workspace, display)}: {asked}" for spot, display, asked in self._here(desk)]
        floating = [desk.by_id[wid] for wid in sorted(self._floats) if wid in desk.by_id]
        names = [window_name(one, desk, self._config()) for one in floating if desk.in_view(one)]
        return [*lines, f"floats: {listed(names)}"] if lines and names else lines

    def ended(self, running: RunningTask) -> None:
        """Take in what an action has moved."""
        self._gave |= running.action == KEEPS
        self._unasked -= running.shaping
        if running.action == KEEPS or not self.is_used:
            return
        moment, floats = self._desktop.look(), traits_of(running.action).floats
        about = running.moving | (running.looks_after if floats else set())
        moved = {moment.desk.family(one).id for wid in about if (one := moment.desk.by_id.get(wid))}
        if floats or (running.opening in moved and running.action != PLACED):
            self._floats |= moved & self._taking_part_here(moment.desk)
        elif running.action.verb == "swap" and len(moved) == 2:
            self._swapped(*moved)
        if moved:
            self._by_key = True
            for kept in self._spots.values():
                kept.tried = float("-inf")  # by a key, and nobody fights
            self._soon(moment.now)

    def _swapped(self, one: int, other: int) -> None:
        for kept in self._spots.values():
            kept.swap(one, other)

    # --- what happens ---

    def step(self) -> None:
        """Look whether anything has to get its share, and give it once all is calm."""
        if not self.is_used:
            self.deadline = NEVER
            return
        moment = self._desktop.look()
        desk = moment.desk
        if self._tasks.of(KEEPS.verb):
            return  # what is so then is looked at once it has ended
        if not desk.windows and any(len(one.division.order) > 1 for one in self._spots.values()):
            return  # a window manager that is replaced has no windows for a moment, and then the same again
        if desk is not self._seen or self._gave:
            self._let_float(moment)
            self._seen, self._gave = desk, False
            self._floats &= desk.by_id.keys()  # ids are used again
            for spot, display, _ in self._here(desk):
                if spot in self._spots and self._spots[spot].has_given_in:
                    self._spots[spot].leave(self._taking_part(display, desk), moment.now)
            before, self._stand = self._stand, self._standing(desk)
            needed = any(self._is_needed(spot, display, asked, desk) for spot, display, asked in self._here(desk))
            if not needed:
                self.deadline, self._by_key = NEVER, False
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
        self._by_key = False

    def _let_float(self, moment: Moment) -> None:
        """Let windows float that a hand moves in their first second."""
        before, now, desk = self._seen, moment.now, moment.desk
        if before is None:
            return
        self._young = {wid: until for wid, until in self._young.items() if now < until}
        new = [one.id for one in desk.windows if one.id not in before.by_id]
        moved = [
            wid for wid in self._young
            if wid in desk.by_id and wid in before.by_id and desk.by_id[wid].frame != before.by_id[wid].frame
        ]  # fmt: skip
        if moved and not self._others_move() and not self._tasks.of(KEEPS.verb) and self._desktop.is_dragging():
            self._floats.update(moved)
        self._young |= dict.fromkeys(new, now + FIRST_SECOND)
        # Programs remember that they filled the screen, and some ask for it a moment after they have opened.
        self._unasked &= desk.by_id.keys()
        self._unasked |= {wid for wid in self._young if wid in desk.by_id and self._opens_so(desk.by_id[wid])}

    def _opens_so(self, window: Window) -> bool:
        """True if a window in its first second fills more than its share, and not because of a key."""
        shaped = any(window.id in one.shaping for one in self._tasks.running)
        return window.shape is not WindowShape.NORMAL and not shaped

    def _others_move(self) -> bool:
        """True while something else moves windows; a macro may only wait by now."""
        return any(one.moving or one.opening for one in self._tasks.running if one.action.verb != RUN)

    def _soon(self, now: float) -> None:
        self.deadline = now + CALM

    @property
    def is_used(self) -> bool:
        """True if anything stays arranged, in view or not."""
        config = self._config()
        return bool(self._asked or config.arranged or config.arranged_displays)

    def _form(self, spot: ArrangedSpot, display: Display) -> Sharing | None:
        """Return how a spot stays arranged: as a key asked, else as the config says of the display, or workspace."""
        if spot in self._asked:
            return self._asked[spot]
        return self._config().sharing_of(spot.workspace, display)

    def _here(self, desk: Desk) -> list[tuple[ArrangedSpot, Display, Sharing]]:
        """Return the spots in view that stay arranged."""
        spots = [(ArrangedSpot(desk.workspace, display.name), display) for display in desk.displays]
        return [(spot, display, asked) for spot, display in spots if (asked := self._form(spot, display))]

    def _standing(self, desk: Desk) -> tuple[object, ...]:
        """Return all that a share depends on."""
        return tuple(
            (spot, display.work, [(one.id, one.frame, one.shape) for one in self._taking_part(display, desk)])
            for spot, display, _ in self._here(desk)
        )

    def _taking_part_here(self, desk: Desk) -> set[int]:
        """Return the windows that share a display in view."""
        return {one.id for _, display, _ in self._here(desk) for one in self._taking_part(display, desk)}

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

    def _is_needed(self, spot: ArrangedSpot, display: Display, asked: Sharing, desk: Desk) -> bool:
        windows = self._taking_part(display, desk)
        kept = self._spots.get(spot)
        if kept is None:
            return bool(windows)
        return kept.is_needed(windows, asked, stage_of(windows, asked, display, desk, self._config()), self._unasked)

    # --- giving shares ---

    def _begin(self, spot: ArrangedSpot, display: Display, asked: Sharing, moment: Moment) -> None:
        """Take in what has changed on a spot, and give its windows their shares."""
        desk, config, before = moment.desk, self._config(), self.kept()
        taking_part = self._taking_part(display, desk)
        kept = self._spots.setdefault(spot, KeptSpot(Division(asked)))
        if config.settings.dragged == FLOATS:
            floating = {*kept.moved({one.id: one for one in taking_part})} if not self._by_key else set()
            self._floats |= floating
            taking_part = [window for window in taking_part if window.id not in floating]
        windows = {window.id: window for window in taking_part}
        ranks = {wid: _part_of(window, desk, config) for wid, window in windows.items()}
        on = stage_of(taking_part, asked, display, desk, config)
        # Where gaps or the work area are others now, what stands otherwise is no hand's doing.
        same = kept.on == on
        same &= kept.take_in(windows, asked, on, ranks, self._host(kept.division, desk))
        kept.tries = kept.tries + 1 if same and moment.now - kept.tried < FIGHT else 0
        if same:
            if config.settings.dragged == SWAPS and not self._by_key:
                kept.take_drop(windows)
            kept.take_size(windows)
        where = config.where_told(spot.workspace, display)
        if (same or self._floats != before.floats) and not self._by_key:
            self._remember(f"what was changed by hand, {where}", before)
        self._tasks.start(RunningTask((), KEEPS, self._give(where, kept, windows, moment)), 0, moment)

    @staticmethod
    def _host(division: Division, desk: Desk) -> int | None:
        """Return the window that was in front last, of those that shared before."""
        return next((wid for wid in desk.recent if wid in division.order), None)

    def _remember(self, what: str, before: KeptArrangements) -> None:
        """Keep how everything stayed arranged before a hand has changed it, so that `undo` can go back to that."""
        history, now = self._context().history, self.kept()
        if history and (now.divisions != before.divisions or now.floats != before.floats):
            history.keep(UndoStep(what, (), kept=before))

    def _give(self, where: str, kept: KeptSpot, windows: Mapping[int, Window], moment: Moment) -> Task:
        """Give the windows of a spot their shares, and remember where they came to stand. `where`: it, in words."""
        context, division, on = self._context(), kept.division, kept.on
        assert on is not None

        def plan(learned: Learned, desk: Desk) -> FramePlan:
            there = [wid for wid in division.order if wid in desk.by_id]
            left = dividing.left_by(division, there)
            return division_frames(left, {wid: as_now(windows[wid], desk) for wid in there}, on, learned)

        def needed(desk: Desk, frames: Mapping[int, Rect]) -> tuple[Change, ...]:
            may = {wid: frame for wid, frame in frames.items() if _can_move(wid, desk, self._unasked)}
            # One that its share lets fill the work area is called maximised by some managers, and stands right.
            filling = {
                wid for wid, frame in may.items() if desk.by_id[wid].frame == frame == desk.frame_of(desk.by_id[wid])
            }
            return frames_needed(desk, {wid: frame for wid, frame in may.items() if wid not in filling})

        covering = {wid for wid, one in windows.items() if one.shape is not WindowShape.NORMAL} - self._unasked
        done = yield from arrange(plan, needed, context, moment)
        desk = done.moment.desk
        self._unasked |= {
            wid
            for wid in division.order
            if wid in desk.by_id and desk.by_id[wid].shape is not WindowShape.NORMAL and wid not in covering
        }
        self._unasked -= {
            wid for wid in division.order if wid in desk.by_id and desk.by_id[wid].shape is WindowShape.NORMAL
        }
        kept.shares = dict(plan({}, desk).frames)
        kept.stood = {one.id: one.frame for wid in division.order if (one := desk.by_id.get(wid)) and self._shares(one)}
        kept.tried = done.moment.now
        if kept.has_given_in:
            return TaskOutcome(False, f"{where}: somebody moves its windows again, and was given in to", done.notes)
        return self._told(where, division, desk, done)

    def _shares(self, window: Window) -> bool:
        """True if a window stands at its share, and is not made to fill the display."""
        return window.shape is WindowShape.NORMAL or window.id in self._unasked

    def _told(self, where: str, division: Division, desk: Desk, done: ArrangingResult) -> TaskOutcome:
        """Return the line on an arrangement, as the desk was read back. `where`: the spot, in words."""
        there = [desk.by_id[wid] for wid in division.order if wid in desk.by_id]
        covering = [one for one in there if not _can_move(one.id, desk, self._unasked)]
        refused = {change.window for change in done.refused if isinstance(change, Move | Reshape)}
        stand = [one for one in there if one not in covering and one.id not in refused]
        line = f"{where}: {counted(len(stand), 'window')} arranged as {division.form}"
        if covering:
            names = listed([f"{window_name(one, desk, self._config())}, {one.shape.value}" for one in covering])
            line += f", beside what was made to fill the display: {names}"
        return TaskOutcome(not refused, line, done.notes)


def _stands_at(frame: Rect, window: Window, desk: Desk) -> bool:
    return window.frame == frame == desk.frame_of(window)


def _can_move(wid: int, desk: Desk, unasked: Set[int]) -> bool:
    """True if a window is there still, in view, and not made to fill the display by a hand or key.

    `unasked`: those that fill it though no hand or key has made them.
    """
    window = desk.by_id.get(wid)
    return window is not None and (window.shape is WindowShape.NORMAL or wid in unasked) and desk.in_view(window)


def _part_of(window: Window, desk: Desk, config: Config) -> str:
    app = config.apps.get(config.claims.app_of(window, desk) or "")
    return app.arranged if app else YES
