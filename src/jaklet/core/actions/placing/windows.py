"""The action `place`, and what all placing shares: which window is meant, and the frame that it takes of a place."""

from collections.abc import Mapping
from typing import Final

from jaklet.core.actions.placing.arranging import NOTHING, Frames, Learned, arrange, as_now, kept_in
from jaklet.core.actions.placing.grounds import ground_of, no_display
from jaklet.core.actions.ports.desk import Moment
from jaklet.core.actions.tasks import Context, Goal, Outcome, Task, outcome, reach
from jaklet.core.actions.telling import refusal_told, window_name
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Change, Desk, Display, Move, Reshape, Reveal, Shape, Window
from jaklet.core.values.forms import At, Form, Full, Named, Same, frame_of
from jaklet.core.values.geometry import Rect, settled
from jaklet.core.values.places import Place, resolved
from jaklet.core.values.recognise import recognised
from jaklet.core.values.sentences import Action

FILLING: Final = (Shape.MAXIMISED, Shape.FULLSCREEN)


def target(action: Action, context: Context, desk: Desk) -> Window | str:
    """Return the window an action is about, or why there is none.

    It is the one that the action is done for; else the last used one of the app that it names; else the one in front.
    """
    if context.window is not None:
        return desk.by_id.get(context.window) or "the window closed meanwhile"
    app = action.named("APP")
    if app is None:
        return desk.front or "no window has the focus"
    return desk.latest(context.config.claims.windows_of(app.name, desk)) or f"{app.name} has no window"


def display_for(place: Place, window: Window, desk: Desk, config: Config) -> Display | None:
    """Return the display of a place: the one that it names, else the window's own; None if that is not there."""
    return config.display(place.display, desk) if place.display else desk.display_of(desk.frame_of(window))


def goal_frame(window: Window, place: Place, config: Config, desk: Desk) -> Rect | None:
    """Return the frame that this window takes of a place; None if its display is not there."""
    place = resolved(place, config.places)
    display = display_for(place, window, desk, config)
    if display is None:
        return None
    form = place.form_on(config.role_of(display))
    if isinstance(form, Same):
        form = form_elsewhere(window, display, desk, config)
    frame = frame_of(form, ground_of(window, display, desk, config))
    return settled(frame, window.border, window.limits, form.anchor)


def form_of(window: Window, desk: Desk, config: Config) -> Form:
    """Return the form that a window fills, without the names of the config.

    One that is maximised or fullscreen fills all of the work area as far as others are concerned.
    """
    if window.shape in FILLING:
        return Full()
    display = desk.display_of(desk.frame_of(window))
    ground = ground_of(window, display, desk, config)
    return recognised(desk.frame_of(window), ground, window.border, window.limits, {}, display.name)


def form_elsewhere(window: Window, display: Display, desk: Desk, config: Config) -> Form:
    """Return the form for a window on another display: the same share; of the same size where it fills no share."""
    form = form_of(window, desk, config)
    if not isinstance(form, At):
        return form
    work = display.work
    width, height = min(form.width, work.width), min(form.height, work.height)
    return At(min(max(form.x, 0), work.width - width), min(max(form.y, 0), work.height - height), width, height)


def placing(window: Window, frame: Rect, desk: Desk) -> tuple[Change, ...]:
    """Return what it takes for a window to stand at a frame, in view and in its normal shape.

    One that stands there still, and was asked elsewhere, is asked back.
    """
    changes: tuple[Change, ...] = ()
    if window.minimised:
        changes += (Reveal(window.id),)
    if window.shape is not Shape.NORMAL:
        changes += (Reshape(window.id, Shape.NORMAL),)
    if changes or window.frame != frame or desk.frame_of(window) != frame:
        changes += (Move(window.id, frame),)
    return changes


def chosen(place: Place, window: Window, config: Config, desk: Desk) -> Place:
    """Return the one of a place's alternatives that is meant now: the one after that which the window fills."""
    options = resolved(place, config.places).alternatives
    if len(options) == 1 or window.minimised or window.shape is not Shape.NORMAL:
        return options[0]
    here = desk.frame_of(window)
    at = next((i for i, option in enumerate(options) if goal_frame(window, option, config, desk) == here), -1)
    return options[(at + 1) % len(options)]


def place(action: Action, context: Context, moment: Moment) -> Task:
    """Give a window the place, exactly, within its own size limits."""
    window = target(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)
    where = action.named("PLACE")
    assert where is not None  # the verb's grammar has it in every form
    assert where.place is not None
    return placed(window, where.place, context, moment)


def placed(window: Window, wanted: Place, context: Context, moment: Moment) -> Task:
    """Give a window a place; of several alternatives the next one."""
    config, start = context.config, moment.desk
    walks = bool(wanted.then or (isinstance(wanted.form, Named) and config.places[wanted.form.name].then))
    place = chosen(wanted, window, config, start) if walks else resolved(wanted, config.places)
    display = display_for(place, window, start, config)
    if display is None:
        return outcome(False, *no_display(place.display, start, config))
    if isinstance(place.form, Same):
        place = place._replace(form=form_elsewhere(window, display, start, config))
    form = place.form_on(config.role_of(display)) if place.varied else place.form
    return _placed(window, form, display, place if walks else wanted, context, moment)


def _placed(window: Window, form: Form, display: Display, called: Place, context: Context, moment: Moment) -> Task:
    config, start = context.config, moment.desk
    whole = frame_of(form, ground_of(window, display, start, config))

    def plan(learned: Learned, desk: Desk) -> Frames:
        now = window if desk is start else as_now(window, desk)
        lesson = learned.get(window.id, NOTHING)
        frame = whole
        if lesson.kept_in:
            frame = kept_in(frame, now, display.work)
        return Frames({window.id: settled(frame, now.border, lesson.limits or now.limits, form.anchor)})

    end = yield from arrange(plan, frames_needed, context, moment)
    desk, told = end.moment.desk, str(called)
    name = window_name(desk.by_id.get(window.id, window), desk, config)
    if window.id not in desk.by_id:
        return Outcome(False, f"{name} closed meanwhile")
    if end.notes:
        return Outcome(False, f"{name} is as near to {told} as it goes", end.notes)
    where = told if told.startswith("at ") else f"at {told}"
    return Outcome(True, f"{name} is {where}{'' if end.asked else ' already'}")


def frames_needed(desk: Desk, frames: Mapping[int, Rect], hidden: bool = False) -> tuple[Change, ...]:
    """Return what it still takes for windows to have these frames, in view. `hidden`: who is out of view stays so."""
    known = ((desk.by_id.get(wid), frame) for wid, frame in frames.items())
    return tuple(
        change for now, frame in known if now for change in placing(unseen(now) if hidden else now, frame, desk)
    )


def unseen(window: Window) -> Window:
    """Return a window as if it were in view: what is planned for it then leaves it out of view."""
    return window._replace(minimised=False) if window.minimised else window


def done(goal: Goal, window: Window, context: Context, moment: Moment, state: str) -> Task:
    """Reach a goal about one window, and say how it ended."""
    moment, refused, asked = yield from reach(goal, moment, lasting=True)
    name = window_name(window, moment.desk, context.config)
    if refused:
        told = tuple(refusal_told(change, moment.desk, context.config) for change in refused)
        return Outcome(False, told[0], told[1:])
    if window.id not in moment.desk.by_id:
        return Outcome(False, f"{name} closed meanwhile")
    return Outcome(True, f"{name} is {state}{'' if asked else ' already'}")
