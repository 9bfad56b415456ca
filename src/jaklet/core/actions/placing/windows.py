"""The action `place`, and what all placing shares: which window is meant, and what it takes to move it."""

from collections.abc import Callable, Mapping

from jaklet.core.actions.change_words import refusal_told, window_name
from jaklet.core.actions.placing.arranging import NOTHING, STEP, FramePlan, Learned, arrange, as_now, kept_in
from jaklet.core.actions.placing.grounds import no_display
from jaklet.core.actions.placing.window_stands import WindowStand, stand_of
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Goal, Task, TaskContext, TaskOutcome, outcome, reach, wait_for_returns
from jaklet.core.values.changes import Change, Move, Reshape, Reveal
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window, WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.places import Place, resolve_place
from jaklet.core.values.sentences import Action


def target_window(action: Action, context: TaskContext, desk: Desk) -> Window | str:
    """Return the window an action is about, or why there is none.

    It is the one that the action is done for; else the last used one of the app that it names; else the one in front.
    """
    if context.window is not None:
        return desk.by_id.get(context.window) or "the window closed meanwhile"
    app = action.named("APP")
    if app is None:
        return desk.front or "no window has the focus"
    return desk.latest(context.config.claims.windows_of(app.name, desk)) or f"{app.name} has no window"


def placing(window: Window, frame: Rect, desk: Desk) -> tuple[Change, ...]:
    """Return the changes that put a window at a frame, in view and in its normal shape.

    One that stands there still, and was asked elsewhere, is asked back.
    """
    changes: tuple[Change, ...] = ()
    if window.minimised:
        changes += (Reveal(window.id),)
    if window.shape is not WindowShape.NORMAL:
        changes += (Reshape(window.id, WindowShape.NORMAL),)
    if changes or window.frame != frame or desk.frame_of(window) != frame:
        changes += (Move(window.id, frame),)
    return changes


def next_alternative(place: Place, window: Window, config: Config, desk: Desk) -> Place:
    """Return the one of a place's alternatives that is meant now: the one after that which the window fills."""
    options = resolve_place(place, config.places).alternatives
    if len(options) == 1 or window.minimised or window.shape is not WindowShape.NORMAL:
        return options[0]
    here = desk.frame_of(window)
    stands = (stand_of(option, window, desk, config) for option in options)
    at = next((i for i, stand in enumerate(stands) if stand and stand.frame(window) == here), -1)
    return options[(at + 1) % len(options)]


def place(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Give a window the place, exactly, within its own size limits."""
    window = target_window(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)
    where = action.named("PLACE")
    assert where is not None  # the verb's grammar has it in every form
    assert where.place is not None
    return place_window(window, where.place, context, moment)


def place_window(window: Window, wanted: Place, context: TaskContext, moment: Moment) -> Task:
    """Give a window a place; of several alternatives the next one."""
    config, start = context.config, moment.desk
    place = next_alternative(wanted, window, config, start)
    stand = stand_of(place, window, start, config)
    if stand is None:
        return outcome(False, *no_display(place.display, start, config))
    walks = len(resolve_place(wanted, config.places).alternatives) > 1
    return _placed(window, stand, place if walks else wanted, context, moment)


def _placed(window: Window, stand: WindowStand, place: Place, context: TaskContext, moment: Moment) -> Task:
    config, start = context.config, moment.desk

    def plan(learned: Learned, desk: Desk) -> FramePlan:
        now = window if desk is start else as_now(window, desk)
        lesson = learned.get(window.id, NOTHING)
        whole = kept_in(stand.whole, now, stand.display.work) if lesson.kept_in else stand.whole
        return FramePlan({window.id: stand.frame(now, lesson.limits, whole)})

    end = yield from arrange(plan, frames_needed, context, moment)
    desk, told = end.moment.desk, str(place)
    name = window_name(desk.by_id.get(window.id, window), desk, config)
    if window.id not in desk.by_id:
        return TaskOutcome(False, f"{name} closed meanwhile")
    if end.notes:
        return TaskOutcome(False, f"{name} is as near to {told} as it goes", end.notes)
    if own := _own_size(desk.by_id[window.id], stand.whole):
        return TaskOutcome(True, f"{name} is as near to {told} as {own}")
    where = told if told.startswith("at ") else f"at {told}"
    return TaskOutcome(True, f"{name} is {where}{'' if end.asked else ' already'}")


def _own_size(window: Window, whole: Rect) -> str:
    """Return the reason why a window cannot fill a frame, beyond a step of its size; empty where it can."""
    frame, limits = window.frame, window.limits
    steps = max(STEP, limits.step_width), max(STEP, limits.step_height)
    if abs(frame.width - whole.width) < steps[0] and abs(frame.height - whole.height) < steps[1]:
        return ""
    inside = window.border.inside(frame)
    if limits.is_fixed:
        return f"its fixed size of {inside.width}x{inside.height} lets it"
    least = inside.width > window.border.inside(whole).width or inside.height > window.border.inside(whole).height
    return f"its {'least' if least else 'own'} size lets it: {frame.width}x{frame.height}"


def frames_needed(desk: Desk, frames: Mapping[int, Rect], hidden: bool = False) -> tuple[Change, ...]:
    """Return the changes that windows still need to have these frames, in view. `hidden`: those out of view stay so."""
    needed: list[Change] = []
    for wid, frame in frames.items():
        now = desk.by_id.get(wid)
        if now:
            needed += placing(as_in_view(now) if hidden else now, frame, desk)
    return tuple(needed)


def as_in_view(window: Window) -> Window:
    """Return a window as if it were in view: what is planned for it then leaves it out of view."""
    return window._replace(minimised=False) if window.minimised else window


def finish_window_goal(
    goal: Goal,
    window: Window,
    context: TaskContext,
    moment: Moment,
    state: str,
    fault: Callable[[Window, Desk], str] = lambda _window, _desk: "",
    unchanged: str = "",
) -> Task:
    """Reach a goal about one window, and say how it ended.

    `state`: what the window is then, in words; `unchanged`: what it is where nothing was to be done, `state` and
    "already" if empty. `fault`: says what is not so all the same, or nothing.
    """
    moment, refused, asked = yield from reach(goal, moment, lasting=True)
    if not refused:
        moment, refused = yield from wait_for_returns(goal, (window,), context, moment)
    name = window_name(window, moment.desk, context.config)
    if refused:
        told = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
        return TaskOutcome(False, told[0], told[1:])
    if window.id not in moment.desk.by_id:
        return TaskOutcome(False, f"{name} closed meanwhile")
    if said := fault(moment.desk.by_id[window.id], moment.desk):
        return TaskOutcome(False, f"{name} {said}")
    return TaskOutcome(True, f"{name} is {state if asked else unchanged or f'{state} already'}")
