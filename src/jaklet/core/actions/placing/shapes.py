"""The shapes and states of one window: minimised, maximised, fullscreen, restored, kept above."""

from collections.abc import Callable

from jaklet.core.actions.placing.windows import done, target
from jaklet.core.actions.ports.desk import Moment
from jaklet.core.actions.tasks import Context, Goal, Task, outcome
from jaklet.core.values.desk import Change, Desk, Focus, Minimise, Raise, Reshape, Reveal, Shape, Window
from jaklet.core.values.sentences import Action


def minimise(action: Action, context: Context, moment: Moment) -> Task:
    """Put the window out of view."""
    desk, app = moment.desk, action.named("APP")
    window = target(action, context, desk)
    if app and context.window is None:  # the last used of those that there is something to do with
        own = context.config.claims.windows_of(app.name, desk)
        window = desk.latest(tuple(one for one in own if desk.in_view(one))) or window
    if isinstance(window, str):
        return outcome(False, window)
    goal = _state(window, lambda now: () if now.minimised else (Minimise(now.id),))
    return done(goal, window, context, moment, "minimised")


def maximise(action: Action, context: Context, moment: Moment) -> Task:
    """Fill the work area, as the window manager does it."""
    return _shaped(Shape.MAXIMISED, action, context, moment)


def fullscreen(action: Action, context: Context, moment: Moment) -> Task:
    """Fill the whole display, bars and all; what is fullscreen already goes back to what it was."""
    window = target(action, context, moment.desk)
    if not isinstance(window, str) and window.shape is Shape.FULLSCREEN and context.window is None:
        return restore(action, context, moment)
    return _shaped(Shape.FULLSCREEN, action, context, moment)


def _shaped(shape: Shape, action: Action, context: Context, moment: Moment) -> Task:
    window = target(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)

    def needed(now: Window) -> tuple[Change, ...]:
        revealed: tuple[Change, ...] = (Reveal(now.id),) if now.minimised else ()
        return revealed + (() if now.shape is shape else (Reshape(now.id, shape),))

    return done(_state(window, needed), window, context, moment, shape.value)


def restore(action: Action, context: Context, moment: Moment) -> Task:
    """Back to the normal shape; a minimised window comes back into view and to the front.

    Of an app's windows, and of all where none has the focus, it is the last used one that is not as it should be.
    """
    desk, app = moment.desk, action.named("APP")
    window = target(action, context, desk)
    if app or isinstance(window, str):
        own = context.config.claims.windows_of(app.name, desk) if app else desk.main_windows
        window = desk.latest(tuple(w for w in own if w.minimised or w.shape is not Shape.NORMAL)) or window
    if isinstance(window, str):
        return outcome(False, window)
    hidden = window.minimised

    def needed(now: Window) -> tuple[Change, ...]:
        if now.minimised:
            return (Reveal(now.id), Focus(now.id))
        if now.shape is not Shape.NORMAL and not hidden:
            return (Reshape(now.id, Shape.NORMAL),)
        return ()

    return done(_state(window, needed), window, context, moment, "restored")


def keep_above(action: Action, context: Context, moment: Moment) -> Task:
    """Keep the window above the others, or no longer; with neither said, the other of the two."""
    window = target(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)
    switch = action.named("SWITCH")
    above = switch.name == "on" if switch else not window.above
    goal = _state(window, lambda now: () if now.above is above else (Raise(now.id, above),))
    return done(goal, window, context, moment, "kept above" if above else "no longer kept above")


def _state(window: Window, needed: Callable[[Window], tuple[Change, ...]]) -> Goal:
    def goal(desk: Desk) -> tuple[Change, ...]:
        now = desk.by_id.get(window.id)
        return needed(now) if now else ()

    return goal
