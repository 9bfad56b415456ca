"""Ending: asking windows to close, and killing the programs of those that do not listen."""

from typing import Final

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.placing.windows import target_window
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, outcome
from jaklet.core.values.changes import Change, Close, Kill, Minimise
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import counted

CLOSING: Final = 2.0  # seconds a program may take to close a window before it counts as asking its user


def close(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Ask the window to close, or all of an app's; with `closing: minimise` in the app, minimise it."""
    app = action.named("APP")
    if app and action.named("ALL"):
        own = context.config.claims.windows_of(app.name, moment.desk)
        return _ended(own, context, moment) if own else outcome(False, f"{app.name} has no window")
    window = target_window(action, context, moment.desk)
    return outcome(False, window) if isinstance(window, str) else _ended((window,), context, moment)


def sweep(_action: Action, context: TaskContext, moment: Moment) -> Task:
    """Ask all windows in view that are kept above to close; minimise those of an app that says so."""
    desk = moment.desk
    above = tuple(window for window in desk.main_windows if window.above and desk.in_view(window))
    return _ended(above, context, moment) if above else outcome(True, "no window in view is kept above")


def _ended(windows: tuple[Window, ...], context: TaskContext, moment: Moment) -> Task:
    config, start = context.config, moment.desk
    apps = {window.id: config.apps.get(config.claims.app_of(window, start) or "") for window in windows}
    kept = {wid for wid, app in apps.items() if app and app.stays}
    # A dialog of a kept app is closed as any other: it cannot come back by itself.
    kept -= {window.id for window in windows if start.family(window) is not window}
    changes = tuple(_change(window, kept) for window in windows)

    def left(desk: Desk) -> list[Window]:
        ids = (window.id for window in windows)
        return [now for wid in ids if (now := desk.by_id.get(wid)) and not (wid in kept and now.minimised)]

    until = moment.now + CLOSING
    # Asked once and never again: a second request could answer the question the program puts to its user.
    moment = yield TaskRequest(changes, until)
    while left(moment.desk) and moment.now < until:
        moment = yield TaskRequest((), until)
    names = {window.id: window_name(window, start, config) for window in windows}
    open_still = [names[window.id] for window in left(moment.desk)]
    return _end_told(tuple(names.values()), open_still, bool(kept))


def _end_told(names: tuple[str, ...], open_still: list[str], stays: bool) -> TaskOutcome:
    """Return the outcome for windows that were asked to close. `stays`: some were minimised instead."""
    alone = len(names) == 1
    if open_still:
        what = open_still[0] if alone else f"{len(open_still)} of {counted(len(names), 'window')}"
        verb = "is" if len(open_still) == 1 else "are"
        line = f"{what} {'was' if alone else 'were'} asked to close and {verb} still open"
        return TaskOutcome(False, line, (*(() if alone else open_still), "it may be asking what to save"))
    done = "minimised, as its app says" if stays else "closed"
    if alone:
        return TaskOutcome(True, f"{names[0]} is {done}")
    return TaskOutcome(True, f"{counted(len(names), 'window')} {done}", names)


def _change(window: Window, kept: set[int]) -> Change:
    return Minimise(window.id) if window.id in kept else Close(window.id)


def kill(action: Action, context: TaskContext, moment: Moment) -> Task:
    """End the program that shows the window, without asking it. Only windows can be named, so never the desk itself."""
    window = target_window(action, context, moment.desk)
    return outcome(False, window) if isinstance(window, str) else _killed(window, context, moment)


def _killed(window: Window, context: TaskContext, moment: Moment) -> Task:
    name, until = window_name(window, moment.desk, context.config), moment.now + CLOSING
    moment = yield TaskRequest((Kill(window.id),), until)
    while window.id in moment.desk.by_id and moment.now < until:
        moment = yield TaskRequest((), until)
    if window.id in moment.desk.by_id:
        return TaskOutcome(False, f"{name} was to be killed and is still there")
    return TaskOutcome(True, f"{name} is killed")
