"""What is to be done when windows and displays come and go, and no key says it."""

from collections.abc import Callable, Mapping, Set
from typing import Final, NamedTuple

from jaklet.core.actions.begin import begin
from jaklet.core.actions.layouts.arriving import came_late, placed_late
from jaklet.core.actions.layouts.displays import EXACT, arrangement_fit, best_arrangement, display_set
from jaklet.core.actions.new_windows import act_on_new_window, to_open
from jaklet.core.actions.placing.returning import DisplacedWindow, bring_back, bring_in, brought_in, unmoved_windows
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, outcome
from jaklet.core.language.actions import parse_action
from jaklet.core.values.config import LEAVE, RECALL
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.errors import JakletError
from jaklet.core.values.layouts import Layout
from jaklet.core.values.sentences import Action
from jaklet.listener.keeper import PLACED

OPENS: Final = Action("opens", (), "opens")
DISPLAYS: Final = Action("displays", (), "displays")
LOOKED_UP: Final = 1.0  # seconds for which it is known which layout stands


Bring = Callable[[Mapping[int, DisplacedWindow], TaskContext, Moment], Task]


class Reaction(NamedTuple):
    """Something to be done, and what it is called in the log. `window`: a new one that it puts in its place."""

    action: Action
    task: Task
    window: int | None = None


class WindowReactions:
    """Compares the desk with how it was before."""

    def __init__(self) -> None:
        self._seen: Desk | None = None  # the desk as it was looked at last
        self._away: dict[int, DisplacedWindow] = {}  # windows of displays that are gone
        self._stood: tuple[Layout | None, float] | None = None  # the layout that stands, and until when that is known

    def forget_layout(self) -> None:
        """Look up anew which layout stands, as another may."""
        self._stood = None

    def notice(self, moment: Moment, context: TaskContext, recalled: Set[str]) -> list[Reaction]:
        """Return the reactions that are due.

        `recalled`: apps that a recall launches, and whose windows it places itself.
        """
        before, now = self._seen, moment.desk
        if now is before or (before and len(before.windows) > 1 and not now.windows):
            return []  # a window manager that is replaced has no windows for a moment, and then the same again
        self._seen = now
        if before is None:
            return []
        noticed = self._displays(before, moment, context) if before.displays != now.displays else []
        for window in now.windows:
            if window.id not in before.by_id and context.config.claims.app_of(window, now) not in recalled:
                noticed += self._opened(window, moment, context)
        return noticed

    def _opened(self, window: Window, moment: Moment, context: TaskContext) -> list[Reaction]:
        """Put a new window where the layout that stands has a place for it; else do what its app says."""
        layout = self._standing(moment.now, context)
        plan = came_late(window, layout, moment.desk, context.config) if layout else None
        if plan:
            return [Reaction(PLACED, placed_late(window, plan, context, moment), window.id)]
        actions = to_open(window, moment.desk, context.config)
        return [Reaction(OPENS, act_on_new_window(window, actions, context, moment), window.id)] if actions else []

    def _displays(self, before: Desk, moment: Moment, context: TaskContext) -> list[Reaction]:
        """Bring in the windows of displays that are gone, bring back those of displays that are there again.

        The layout that stands is recalled or offered where the settings say so; its windows are then left to it.
        """
        now, config = moment.desk, context.config
        came = {display.name for display in now.displays} - {display.name for display in before.displays}
        layout = self._wanted(bool(came), moment, context)
        recalls = layout is not None and config.settings.on_displays == RECALL
        own = {entry.app for entry in layout.entries} if layout and recalls else set[str | None]()

        def bring(task: Bring, away: Mapping[int, DisplacedWindow]) -> list[Reaction]:
            left = {wid: one for wid, one in away.items() if config.claims.app_of(now.by_id[wid], now) not in own}
            return [Reaction(DISPLAYS, task(left, context, moment))] if left else []

        away = brought_in(before, now, config)
        self._away |= away
        back = unmoved_windows(self._away, now, came) if config.settings.windows_return else {}
        self._away = {wid: one for wid, one in self._away.items() if one.display.name not in came}
        noticed = bring(bring_in, away) + bring(bring_back, back)
        if layout and recalls:
            action = parse_action(f"{RECALL} {layout.name}")
            noticed.append(Reaction(action, begin(action, context, moment)))
        elif layout:
            key = next((f" ({one.written})" for one in config.live if _recalls(one.action, layout)), "")
            line = f"the displays are others now: recall {layout.name}{key} sets it up for them"
            noticed.append(Reaction(DISPLAYS, outcome(True, line)))
        return noticed

    def _wanted(self, came: bool, moment: Moment, context: TaskContext) -> Layout | None:
        """Return the layout that stands, if it is worth recalling: a display came, or it has an arrangement for these.

        None where the settings say that nothing is to be done.
        """
        self.forget_layout()
        follows = context.config.settings.on_displays != LEAVE
        layout = self._standing(moment.now, context) if follows else None
        if layout is None:
            return None
        there = display_set(moment.desk, context.config)
        return layout if came or arrangement_fit(best_arrangement(layout, there), there) == EXACT else None

    def _standing(self, now: float, context: TaskContext) -> Layout | None:
        """Return the layout that was recalled or saved last on this desk.

        Commands may have done so, but many windows can open at once, so that it is not looked up for each of them.
        """
        if self._stood is None or now >= self._stood[1]:
            try:
                names = context.history.layouts() if context.history else []
                layout = context.shelf.find(names[0]) if names else None
            except JakletError:
                layout = None
            self._stood = layout, now + LOOKED_UP
        return self._stood[0]


def _recalls(action: Action, layout: Layout) -> bool:
    ref = action.named("LAYOUT")
    return action.verb == RECALL and ref is not None and ref.name in (layout.name, str(layout.number))
