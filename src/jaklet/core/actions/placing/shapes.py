"""The shapes and states of one window: minimised, maximised, fullscreen, restored, kept above."""

from collections.abc import Callable, Sequence

from jaklet.core.actions.change_words import refusal_told
from jaklet.core.actions.placing.windows import finish_window_goal, target_window
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Goal, Task, TaskContext, TaskOutcome, outcome, reach
from jaklet.core.values.changes import Change, Focus, Minimise, Raise, Reshape, Reveal
from jaklet.core.values.desk import Desk, Window, WindowShape
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import counted


def minimise(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Put the window out of view; or all in view, or all but the one in front."""
    if action.named("ALL") or action.named("OTHERS"):
        return _minimised(moment.desk, context, moment, but=moment.desk.front if action.named("OTHERS") else None)
    desk, app = moment.desk, action.named("APP")
    window = target_window(action, context, desk)
    if app and context.window is None:  # the last used of those that there is something to do with
        own = context.config.claims.windows_of(app.name, desk)
        window = desk.latest(tuple(one for one in own if desk.in_view(one))) or window
    if isinstance(window, str):
        return outcome(False, window)
    goal = _state(window, lambda now: () if now.minimised else (Minimise(now.id),))
    return finish_window_goal(goal, window, context, moment, "minimised")


def _minimised(desk: Desk, context: TaskContext, moment: Moment, but: Window | None) -> Task:
    """Put all windows in view out of it, but one with its dialogs; who opened first goes first."""
    stays = desk.family(but).id if but else None
    chosen = [one.id for one in desk.main_windows if desk.in_view(one) and one.id != stays]

    def goal(now: Desk) -> tuple[Change, ...]:
        there = (now.by_id.get(wid) for wid in chosen)
        return tuple(Minimise(one.id) for one in there if one and not one.minimised)

    return _of_several(
        goal, chosen, "minimised", "no other window is in view" if but else "no window is in view", context, moment
    )


def _of_several(goal: Goal, chosen: Sequence[int], state: str, none: str, context: TaskContext, moment: Moment) -> Task:
    """Reach a goal about several windows, and say how many there were."""
    if not chosen:
        return TaskOutcome(True, none)
    end, refused, _ = yield from reach(goal, moment, lasting=True)
    told = tuple(refusal_told(change, end.desk, context.config) for change in refused)
    if refused:
        return TaskOutcome(False, told[0], told[1:])
    there = sum(wid in end.desk.by_id for wid in chosen)  # some may have closed meanwhile
    return TaskOutcome(True, f"{counted(there, 'window')} {state}")


def maximise(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Fill the work area, as the window manager does it."""
    return _shaped(WindowShape.MAXIMISED, action, context, moment)


def fullscreen(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Fill the whole display, bars and all; what is fullscreen already goes back to what it was."""
    window = target_window(action, context, moment.desk)
    if not isinstance(window, str) and window.shape is WindowShape.FULLSCREEN and context.window is None:
        return restore(action, context, moment)
    return _shaped(WindowShape.FULLSCREEN, action, context, moment)


def _shaped(shape: WindowShape, action: Action, context: TaskContext, moment: Moment) -> Task:
    window = target_window(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)

    def needed(now: Window) -> tuple[Change, ...]:
        revealed: tuple[Change, ...] = (Reveal(now.id),) if now.minimised else ()
        return revealed + (() if now.shape is shape else (Reshape(now.id, shape),))

    return finish_window_goal(_state(window, needed), window, context, moment, shape.value)


def restore(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Return a window to its normal state, and show a minimised one in front; `all`: all that are minimised here.

    Of an app's windows, or of all where none has the focus, the last used one that is not in its normal state.
    """
    if action.named("ALL"):
        return _shown_again(moment.desk, context, moment)
    desk, app = moment.desk, action.named("APP")
    window = target_window(action, context, desk)
    if app or isinstance(window, str):
        own = context.config.claims.windows_of(app.name, desk) if app else desk.main_windows
        window = desk.latest(tuple(w for w in own if w.minimised or w.shape is not WindowShape.NORMAL)) or window
    if isinstance(window, str):
        return outcome(False, window)
    hidden = window.minimised

    def needed(now: Window) -> tuple[Change, ...]:
        if now.minimised:
            return (Reveal(now.id), Focus(now.id))
        if now.shape is not WindowShape.NORMAL and not hidden:
            return (Reshape(now.id, WindowShape.NORMAL),)
        return ()

    return finish_window_goal(_state(window, needed), window, context, moment, "restored")


def _shown_again(desk: Desk, context: TaskContext, moment: Moment) -> Task:
    """Bring all minimised windows of this workspace back, the one used last to the front."""
    hidden = [one for one in desk.main_windows if one.minimised and desk.in_view(one._replace(minimised=False))]
    last = desk.latest(tuple(hidden))
    chosen = [one.id for one in hidden]

    def goal(now: Desk) -> tuple[Change, ...]:
        there = (now.by_id.get(wid) for wid in chosen)
        hidden = [one.id for one in there if one and one.minimised]
        front = [last.id] if hidden and last and last.id in now.by_id and now.active != last.id else []
        return (*map(Reveal, hidden), *map(Focus, front))

    return _of_several(goal, chosen, "shown again", "no window is minimised here", context, moment)


def keep_above(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Keep the window above the others, or no longer; with neither said, the other of the two."""
    window = target_window(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)
    switch = action.named("SWITCH")
    above = switch.name == "on" if switch else not window.above
    goal = _state(window, lambda now: () if now.above is above else (Raise(now.id, above),))
    if above:
        return finish_window_goal(goal, window, context, moment, "kept above")
    return finish_window_goal(goal, window, context, moment, "no longer kept above", unchanged="not kept above")


def _state(window: Window, needed: Callable[[Window], tuple[Change, ...]]) -> Goal:
    def goal(desk: Desk) -> tuple[Change, ...]:
        now = desk.by_id.get(window.id)
        return needed(now) if now else ()

    return goal
