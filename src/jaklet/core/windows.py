"""Actions on one window: place, minimise, maximise, restore."""

from collections.abc import Callable

from jaklet.core.config import Config
from jaklet.core.desk import Change, Desk, Focus, Minimise, Move, Reshape, Reveal, Shape, Window
from jaklet.core.forms import frame_of
from jaklet.core.geometry import Rect, settled
from jaklet.core.places import Place, resolved
from jaklet.core.ports import Moment
from jaklet.core.sentences import Action
from jaklet.core.tasks import Context, Goal, Outcome, Task, outcome, reach
from jaklet.core.telling import refusal_told, window_name


def target(action: Action, context: Context, desk: Desk) -> Window | str:
    """Return the window an action is about: its app's last used one, else the one in front; or why there is none."""
    app = action.named("APP")
    if app is None:
        return desk.front or "no window has the focus"
    return desk.latest(context.config.claims.windows_of(app.name, desk)) or f"{app.name} has no window"


def goal_frame(window: Window, place: Place, config: Config, desk: Desk) -> Rect | None:
    """Return the frame that this window takes of a place; None if its display is not there."""
    place = resolved(place, config.places) or place
    display = config.display(place.display, desk) if place.display else desk.display_of(window.frame)
    if display is None:
        return None
    frame = frame_of(place.form, display.work, config.settings.gap)
    return settled(frame, window.border, window.limits, place.form.anchor)


def placing(window: Window, frame: Rect) -> tuple[Change, ...]:
    """Return what it takes for a window to stand at a frame, in view and in its normal shape."""
    changes: tuple[Change, ...] = ()
    if window.minimised:
        changes += (Reveal(window.id),)
    if window.shape is not Shape.NORMAL:
        changes += (Reshape(window.id, Shape.NORMAL),)
    if changes or window.frame != frame:
        changes += (Move(window.id, frame),)
    return changes


def place(action: Action, context: Context, moment: Moment) -> Task:
    """Give a window the place, exactly, within its own size limits."""
    window = target(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)
    where = action.named("PLACE")
    assert where is not None  # the verb's grammar has it in every form
    assert where.place is not None
    wanted, config, start = where.place, context.config, moment.desk
    first = goal_frame(window, wanted, config, start)
    if first is None:
        there = ", ".join(config.role_of(display) for display in start.displays)
        missing = (resolved(wanted, config.places) or wanted).display
        return outcome(False, f"display {missing} is not there", f"displays: {there}")

    def goal(desk: Desk) -> tuple[Change, ...]:
        now = desk.by_id.get(window.id)
        frame = first if desk is start or now is None else goal_frame(now, wanted, config, desk)
        return placing(now, frame) if now and frame else ()

    return _done(goal, window, context, moment, where.name if where.name.startswith("at ") else f"at {where.name}")


def minimise(action: Action, context: Context, moment: Moment) -> Task:
    """Put the window out of view."""
    window = target(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)
    return _done(
        _state(window, lambda now: () if now.minimised else (Minimise(now.id),)), window, context, moment, "minimised"
    )


def maximise(action: Action, context: Context, moment: Moment) -> Task:
    """Fill the work area, as the window manager does it."""
    window = target(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)

    def needed(now: Window) -> tuple[Change, ...]:
        revealed: tuple[Change, ...] = (Reveal(now.id),) if now.minimised else ()
        return revealed + (() if now.shape is Shape.MAXIMISED else (Reshape(now.id, Shape.MAXIMISED),))

    return _done(_state(window, needed), window, context, moment, "maximised")


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

    return _done(_state(window, needed), window, context, moment, "restored")


def _state(window: Window, needed: Callable[[Window], tuple[Change, ...]]) -> Goal:
    def goal(desk: Desk) -> tuple[Change, ...]:
        now = desk.by_id.get(window.id)
        return needed(now) if now else ()

    return goal


def _done(goal: Goal, window: Window, context: Context, moment: Moment, state: str) -> Task:
    moment, refused, asked = yield from reach(goal, moment)
    name = window_name(window, moment.desk, context.config)
    if refused:
        told = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
        return Outcome(False, told[0], told[1:])
    if window.id not in moment.desk.by_id:
        return Outcome(False, f"{name} closed meanwhile")
    return Outcome(True, f"{name} is {state}{'' if asked else ' already'}")
