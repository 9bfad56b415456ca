"""The actions `swap` and `send to display`: windows take the places of others, or the same place elsewhere."""

from jaklet.core.actions.change_words import refusal_told, window_name
from jaklet.core.actions.placing.afar import changes_to_bring
from jaklet.core.actions.placing.grounds import no_display, on_display
from jaklet.core.actions.placing.window_stands import filling, form_of
from jaklet.core.actions.placing.windows import finish_window_goal, placing, target_window
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, outcome, reach
from jaklet.core.values.changes import Change, Reshape, Reveal
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.directions import distance, towards
from jaklet.core.values.forms import PixelPlace
from jaklet.core.values.geometry import Rect
from jaklet.core.values.sentences import Action


def swap(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Exchange the places of the window in front and its neighbour, the window used before, or a named one."""
    desk = moment.desk
    if desk.front is None:
        return outcome(False, "no window has the focus")
    first = desk.family(desk.front)
    side = action.named("SIDE")
    if side:
        second = towards(first, side.name, desk)
        if second is None:
            return outcome(False, f"no window is {_BESIDE[side.name]}")
    elif action.named("LARGEST") or action.named("STEP"):
        second = _other(first, action, context, desk)
        if second is None:
            return outcome(False, "no other window is in view on this display")
    elif named := action.named("WINDOW"):
        chosen = desk.by_id.get(named.window)
        if chosen is None or desk.family(chosen).id == first.id:
            return outcome(False, f"there is no other window {named.name}")
        second = desk.family(chosen)
    else:
        mains = (desk.family(w) for wid in desk.recent if (w := desk.by_id.get(wid)))
        second = next((w for w in mains if w.id != first.id and desk.in_view(w)), None)
        if second is None:
            return outcome(False, "no other window in view was used before this one")
    return _swapped(first, second, context, moment)


def _other(first: Window, action: Action, context: TaskContext, desk: Desk) -> Window | None:
    """Return the largest of the other windows on a display, or the next or previous one.

    In the order in which windows share the display; where they do not, from the top, and from the left.
    """
    here = on_display(desk.display_of(desk.frame_of(first)), desk)
    others = [window for window in here if window.id != first.id]
    step = action.named("STEP")
    if step is None:
        return max(others, key=lambda one: desk.frame_of(one).width * desk.frame_of(one).height, default=None)
    kept = context.kept()
    divisions = kept.divisions.values() if kept else ()
    order = next((list(one.order) for one in divisions if first.id in one.order), [])
    order = [wid for wid in order if wid in desk.by_id]
    if len(order) < 2:
        order = [one.id for one in sorted(here, key=lambda one: (desk.frame_of(one)[1::-1], one.id))]
    at = order.index(first.id) + (1 if step.name == "next" else -1)
    return desk.by_id[order[at % len(order)]] if len(order) > 1 else None


_BESIDE = {"left": "to the left", "right": "to the right", "up": "above", "down": "below"}


def _swapped(first: Window, second: Window, context: TaskContext, moment: Moment) -> Task:
    desk, config = moment.desk, context.config
    wanted = {
        first.id: (taking_place(first, second, desk, config), second.shape),
        second.id: (taking_place(second, first, desk, config), first.shape),
    }

    def goal(now: Desk) -> tuple[Change, ...]:
        return tuple(
            change
            for wid, (frame, shape) in wanted.items()
            if wid in now.by_id
            for change in shaped_at(now.by_id[wid], frame, shape, now)
        )

    moment, refused, _ = yield from reach(goal, moment)
    names = [window_name(moment.desk.by_id.get(one.id), moment.desk, config) for one in (first, second)]
    told = tuple(refusal_told(change, moment.desk, config) for change in refused)
    return TaskOutcome(not refused, f"{names[0]} and {names[1]} have changed places", told)


def taking_place(window: Window, other: Window, desk: Desk, config: Config) -> Rect:
    """Return the frame that a window has at the place of another: the share that it fills, else its frame."""
    form, display = form_of(other, desk, config), desk.display_of(desk.frame_of(other))
    stand = filling(form, other, display, desk, config)
    return stand.frame(window, whole=desk.frame_of(other) if isinstance(form, PixelPlace) else None)


def shaped_at(window: Window, frame: Rect, shape: WindowShape, desk: Desk) -> tuple[Change, ...]:
    """Return the changes that give a window a shape on the display of a frame; that frame, if it is normal."""
    if shape in (WindowShape.NORMAL, WindowShape.TILED):
        return placing(window, frame, desk)
    if desk.display_of(window.frame) != desk.display_of(frame):
        return (*placing(window, frame, desk), Reshape(window.id, shape))
    revealed: tuple[Change, ...] = (Reveal(window.id),) if window.minimised else ()
    return revealed if window.shape is shape else (*revealed, Reshape(window.id, shape))


def send_to_display(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Put the window on another display, where it takes the same share, in the shape that it has."""
    desk, config = moment.desk, context.config
    window = target_window(action, context, desk)
    if isinstance(window, str):
        return outcome(False, window)
    window = desk.family(window)
    here = desk.display_of(desk.frame_of(window))
    there = display_meant(action, here, desk, config)
    if isinstance(there, TaskOutcome):
        return outcome(there.done, there.line, *there.more)
    shape, minimised = window.shape, window.minimised

    def goal(now: Desk) -> tuple[Change, ...]:
        sent = now.by_id.get(window.id)
        return changes_to_bring(sent, shape, there, now, config) if sent else ()

    def fault(sent: Window, now: Desk) -> str:
        stands = now.display_of(sent.frame)
        known = now.display_named(there.name) is not None
        return f"is on {config.role_of(stands)} still" if known and stands.name != there.name else ""

    state = f"on {config.role_of(there)}{', minimised' if minimised else ''}"
    return finish_window_goal(goal, window, context, moment, state, fault)


def display_meant(action: Action, here: Display, desk: Desk, config: Config) -> Display | TaskOutcome:
    """Return the display that an action names, or that there is none: by name, in a direction, or the next in a row."""
    if named := action.named("DISPLAY"):
        line, more = no_display(named.name, desk, config)
        return config.display(named.name, desk) or TaskOutcome(False, line, (more,))
    if side := action.named("SIDE"):
        near = [
            (far, display.name, display)
            for display in desk.displays
            if display != here and (far := distance(here.rect, display.rect, side.name))
        ]
        return min(near)[2] if near else TaskOutcome(False, f"no display is {_BESIDE[side.name]}")
    step = action.named("STEP")
    assert step is not None  # the verb's grammar has one of the three in every form
    if len(desk.displays) == 1:
        return TaskOutcome(False, "there is no other display")
    row = sorted(desk.displays, key=lambda display: (display.rect.x, display.rect.y))
    return row[(row.index(here) + (1 if step.name == "next" else -1)) % len(row)]
