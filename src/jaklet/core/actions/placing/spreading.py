"""The actions `spread` and `pair`: several windows share a display exactly."""

from fractions import Fraction
from typing import Final

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.placing.arranging import FramePlan, Learned, arrange, as_now
from jaklet.core.actions.placing.grounds import ground, no_display, on_display
from jaklet.core.actions.placing.rows import laid_out, order_by_rows, share_of, side_by_side
from jaklet.core.actions.placing.windows import frames_needed
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, outcome
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.forms import HALF, Ground
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import GRID
from jaklet.core.values.words import counted


def spread(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Let all windows in view share a display, without dialogs and those kept above."""
    desk, config = moment.desk, context.config
    way, named = action.refs[0].name, action.named("DISPLAY")
    display = desk.display_of(desk.frame_of(desk.front)) if desk.front else desk.primary
    if named:
        found = config.display(named.name, desk)
        if found is None:
            return outcome(False, *no_display(named.name, desk, config))
        display = found
    windows = tuple(window for window in on_display(display, desk) if not window.above)
    role = config.role_of(display)
    if not windows:
        return outcome(False, f"no window is in view on {role}")
    return _spread(windows, way, display, context, moment)


def _spread(windows: tuple[Window, ...], way: str, display: Display, context: TaskContext, moment: Moment) -> Task:
    ground_ = ground(display, moment.desk, context.config, alone=len(windows) == 1)
    rows = order_by_rows(windows, way, ground_)

    def plan(learned: Learned, desk: Desk) -> FramePlan:
        return laid_out([[as_now(window, desk) for window in row] for row in rows], ground_, learned)

    done = yield from arrange(plan, frames_needed, context, moment)
    role = context.config.role_of(display)
    shape = f"{counted(len(rows[0]), 'column')} and {counted(len(rows), 'row')}" if way == GRID else way
    line = f"{len(windows)} windows share {role} in {shape}"
    if len(windows) == 1:
        line = f"{window_name(windows[0], moment.desk, context.config)} has {role} to itself"
    return TaskOutcome(not done.refused, f"{line}{'' if done.asked else ' already'}", done.notes)


def pair(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Put the window in front to a side, and the one used before, or a named one, to the other."""
    desk, config = moment.desk, context.config
    side, length = action.refs[0].name, action.named("LENGTH")
    if desk.front is None:
        return outcome(False, "no window has the focus")
    first = desk.family(desk.front)
    display = desk.display_of(desk.frame_of(first))
    if named := action.named("WINDOW"):
        window = desk.by_id.get(named.window)
        second = desk.family(window) if window else None
        if second is None or second.id == first.id:
            return outcome(False, f"window {named.name} is gone" if second is None else "a window is no pair by itself")
    else:
        others = (desk.family(w) for wid in desk.recent if (w := desk.by_id.get(wid)) and desk.in_view(desk.family(w)))
        second = next((window for window in others if window.id != first.id and not window.above), None)
    ground_ = ground(display, desk, config)
    share = share_of(length.length if length and length.length else HALF, side, ground_)
    return _paired(first, second, side, share, ground_, context, moment)


def _paired(
    first: Window,
    second: Window | None,
    side: str,
    share: Fraction,
    ground_: Ground,
    context: TaskContext,
    moment: Moment,
) -> Task:
    def plan(learned: Learned, desk: Desk) -> FramePlan:
        both = as_now(first, desk), second and as_now(second, desk)
        return side_by_side(*both, side, share, ground_, learned)

    done = yield from arrange(plan, frames_needed, context, moment)
    desk, config = done.moment.desk, context.config
    line = f"{window_name(first, desk, config)} is {_AT[side]}"
    line += f", {window_name(second, desk, config)} {_AT[_OPPOSITE[side]]}" if second else ", and the rest is free"
    return TaskOutcome(not done.refused, f"{line}{'' if done.asked else ' already'}", done.notes)


_AT: Final = {"left": "at the left", "right": "at the right", "up": "at the top", "down": "at the bottom"}
_OPPOSITE: Final = {"left": "right", "right": "left", "up": "down", "down": "up"}
