"""The focus: to an app, in a direction, and through the windows in the order of their last use."""

from jaklet.core.actions.launching import focus_window
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, outcome
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.directions import towards
from jaklet.core.values.sentences import Action


def focus(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Give the focus to an app's last used window, never a launch, or the next in a direction or in order of use."""
    desk = moment.desk
    if app := action.named("APP"):
        window = desk.latest(context.config.claims.windows_of(app.name, desk))
        if window is None:
            return outcome(False, f"{app.name} has no window", f"`go {app.name}` launches it")
        return focus_window(window, context, moment)
    if named := action.named("WINDOW"):
        chosen = desk.by_id.get(named.window)
        return focus_window(chosen, context, moment) if chosen else outcome(False, f"there is no window {named.name}")
    if side := action.named("SIDE"):
        return _towards(side.name, context, moment)
    if step := action.named("STEP"):
        return _step(1 if step.name == "next" else -1, context, moment)
    front = desk.front
    here = desk.family(front).id if front else None
    former = next((w for wid in desk.recent if (w := desk.by_id.get(wid)) and desk.family(w).id != here), None)
    if former is None:
        return outcome(False, "no other window was used before this one")
    return focus_window(desk.family(former), context, moment)


def _towards(side: str, context: TaskContext, moment: Moment) -> Task:
    desk = moment.desk
    if desk.front is None:
        window = desk.latest(tuple(w for w in desk.main_windows if desk.in_view(w)))
        return focus_window(window, context, moment) if window else outcome(False, "no window is in view")
    found = towards(desk.family(desk.front), side, desk)
    if found is None:
        where = {"left": "to the left", "right": "to the right", "up": "above", "down": "below"}[side]
        return outcome(False, f"no window is {where}")
    return focus_window(found, context, moment)


def focus_ring(desk: Desk) -> list[Window]:
    """Return the windows in view in the order of their last use, each with its dialogs as one."""
    order = {desk.family(window).id: None for wid in desk.recent if (window := desk.by_id.get(wid))}
    return [window for wid in order if desk.in_view(window := desk.by_id[wid])]


def _step(step: int, context: TaskContext, moment: Moment) -> Task:
    """Next: to the window used before this one, then the one before that; previous: the other way round."""
    desk = moment.desk
    windows = focus_ring(desk)
    here = desk.family(desk.front).id if desk.front else None
    at = next((i for i, window in enumerate(windows) if window.id == here), None)
    if not windows or (at is not None and len(windows) == 1):
        return outcome(False, "no other window is in view")
    target = windows[0] if at is None else windows[(at + step) % len(windows)]
    return focus_window(target, context, moment, walking=True)
