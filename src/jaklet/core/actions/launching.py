"""Launching programs and going to their windows."""

from typing import Final

from jaklet.core.actions.change_words import refusal_told, window_name
from jaklet.core.actions.placing.afar import brought
from jaklet.core.actions.ports.desktop import Moment, ProgramExit
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, outcome, reach
from jaklet.core.values.changes import Change, Focus, Reveal, ShowWorkspace, Stack, launching
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.desk_abilities import Ability
from jaklet.core.values.sentences import Action
from jaklet.core.values.stacking import covering_windows, stands_on_top
from jaklet.core.values.words import listed

HANDING_OVER: Final = 1.0  # seconds in which a program that has handed over to a running one shows a new window


def go(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Not running: launch. Running: focus its last used window. In front already: its next window, in opening order.

    `backwards`: its previous window.
    """
    app = action.refs[0].name
    own = context.config.claims.windows_of(app, moment.desk)
    if not own and app in context.launching:
        return outcome(True, f"{app} is being launched already")
    if not own:
        return launch_app(app, context, moment)
    front = moment.desk.front
    here = moment.desk.family(front).id if front else None
    places = [window.id for window in own]
    if here not in places:
        return focus_window(moment.desk.latest(own) or own[0], context, moment)
    if len(own) == 1:
        return focus_window(own[0], context, moment, "in front already")
    step = -1 if action.named("BACKWARDS") else 1
    return focus_window(own[(places.index(here) + step) % len(own)], context, moment)


def rests(action: Action, context: TaskContext, moment: Moment) -> bool:
    """True if `go` has nowhere to go: the app has one window, and it is in front."""
    own, front = context.config.claims.windows_of(action.refs[0].name, moment.desk), moment.desk.front
    return len(own) == 1 and front is not None and moment.desk.family(front).id == own[0].id


def launch(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Launch an app, always a new one."""
    return launch_app(action.refs[0].name, context, moment)


def focus_window(
    window: Window, context: TaskContext, moment: Moment, already: str = "", walking: bool = False
) -> Task:
    """Show a window's workspace, or bring the window here; bring it to the front, and read back that it has the focus.

    A dialog of the window that gets the focus in its stead is as good: that is where typing has to go.
    """
    wid, config, start, shape = window.id, context.config, moment.desk, window.shape
    app = config.apps.get(config.claims.app_of(window, start) or "")
    here: Display | None = None  # where it is to be brought, if it is
    if app and app.bring_here:
        front = start.by_id.get(start.active) if start.active is not None else None
        if front is None or start.family(front).id != wid:
            here = start.display_of(front.frame) if front else start.primary

    def goal(desk: Desk) -> tuple[Change, ...]:
        now = desk.by_id.get(wid)
        if now is None:
            return ()
        changes: tuple[Change, ...] = brought(now, shape, here, desk, config) if here else ()
        active = desk.by_id.get(desk.active) if desk.active is not None else None
        # One that has the focus still, while another is on its way to the front, is asked for as well.
        leaving = desk.aimed not in (None, wid)
        if active is None or leaving or desk.family(active).id != wid or active.minimised:
            # Not every window manager changes the workspace by itself when a window of another one is to be active.
            if here is None and now.workspace is not None and now.workspace != desk.workspace:
                changes += (ShowWorkspace(now.workspace),)
            changes += (Focus(wid, walking),)
        return changes

    # Some managers give the focus to a window that takes none, and take it back.
    moment, refused, _ = yield from reach(goal, moment, lasting=not window.takes_focus)
    now = moment.desk.by_id.get(wid)
    takes = now is None or now.takes_focus or not refused
    if not takes:  # some managers give it the focus all the same; where they do not, it is to be seen at least
        moment, refused, _ = yield from reach(lambda desk: _before_all(wid, desk), moment)
    elif not refused and _raised(wid, moment.desk):
        # What has the focus is not the front one with every manager, and a click elsewhere can raise.
        moment, _, _ = yield from reach(lambda desk: _raised(wid, desk), moment)
    if refused:
        return TaskOutcome(False, refusal_told(refused[-1], moment.desk, config))
    if wid not in moment.desk.by_id:
        return TaskOutcome(False, f"{window_name(window, start, config)} closed meanwhile")
    now = moment.desk.by_id[wid]
    stands = _standing(now, moment.desk, context, already) if takes else "in front, and takes no focus"
    return TaskOutcome(True, f"{window_name(now, moment.desk, config)} is {stands}", _rivals(now, moment.desk, context))


def _before_all(wid: int, desk: Desk) -> tuple[Change, ...]:
    """Return the changes that bring a window before all others, without the focus."""
    window = desk.by_id.get(wid)
    if window is None:
        return ()
    hidden: tuple[Change, ...] = (Reveal(wid),) if window.minimised else ()
    return hidden if hidden or stands_on_top((wid,), desk) else (Stack((wid,)),)


def _raised(wid: int, desk: Desk) -> tuple[Change, ...]:
    """Return the changes that raise a window which has the focus, and which others cover."""
    window, focused = desk.by_id.get(wid), desk.focused
    if window is None or focused is None or desk.family(window).id != focused.id or Ability.STACK not in desk.abilities:
        return ()
    return (Stack((wid,)),) if covering_windows(window, desk) else ()


def _standing(window: Window, desk: Desk, context: TaskContext, already: str) -> str:
    """Return how a window stands that has the focus."""
    others = covering_windows(window, desk)
    if not others:
        return already or "in front"
    return f"active, but {window_name(others[-1], desk, context.config)} stands before it"


def _rivals(window: Window, desk: Desk, context: TaskContext) -> tuple[str, ...]:
    """Return a warning where another app claims the window just as much."""
    rivals = context.config.claims.rivals(window, desk)
    if not rivals:
        return ()
    own = context.config.claims.app_of(window, desk)
    return (f"{listed(rivals)} claims this window just as much; {own} has it, as it stands first in the config",)


def launch_app(app_name: str, context: TaskContext, moment: Moment) -> Task:
    """Launch an app, wait for its window, and see that it has the focus, unless another was used meanwhile."""
    app, settings = context.config.apps[app_name], context.config.settings
    if not app.command:
        return TaskOutcome(
            False, f"{app_name} is not running and has no `launch`", (f"add launch: to apps: {app_name}:",)
        )
    limit, front = context.config.wait_of(app_name), moment.desk.front
    before, until = frozenset(window.id for window in moment.desk.windows), moment.now + limit
    later = (f"wait for its window, {limit:g} s at most; focus it",)
    moment = yield TaskRequest((launching(app, settings.terminal),), until, later)
    return (yield from _shown(app_name, before, front, until, context, moment))


def _shown(
    app_name: str, before: frozenset[int], front: Window | None, until: float, context: TaskContext, moment: Moment
) -> Task:
    """Wait for the window of an app that was launched. `before`: the windows that were there."""
    claims, handed_over = context.config.claims, 0.0
    while True:
        new = [window for window in claims.windows_of(app_name, moment.desk) if window.id not in before]
        if new:
            return (yield from _arrived(new[-1], front, context, moment))
        ended = _ended(app_name, moment)
        if ended and ended.status:
            return TaskOutcome(False, *failure_told(ended, moment.said(app_name)))
        open_still = claims.windows_of(app_name, moment.desk)
        if ended and open_still:
            handed_over = handed_over or moment.now + HANDING_OVER
        if open_still and 0 < handed_over <= moment.now:
            return (yield from _handed_over(open_still, context, moment))
        if moment.now >= until:
            more = (*_words(moment.said(app_name)), *_strangers(app_name, moment.desk, before))
            return TaskOutcome(False, _no_window(app_name, context.config.wait_of(app_name), ended is not None), more)
        moment = yield TaskRequest((), min(until, handed_over or until))


def _ended(app_name: str, moment: Moment) -> ProgramExit | None:
    return next((one for one in moment.ended if one.app == app_name), None)


def _handed_over(windows: tuple[Window, ...], context: TaskContext, moment: Moment) -> Task:
    """Go to the window that an app had before: the program that was launched has left it all to the one that runs."""
    latest = moment.desk.latest(windows) or windows[0]
    return focus_window(latest, context, moment, "in front: it was running, and no new window came")


def _no_window(app_name: str, limit: float, ended: bool) -> str:
    how = ", and has ended: it may have handed over to a program that runs already" if ended else ""
    return f"{app_name} was launched but showed no window within {limit:g} s{how}"


def _arrived(window: Window, former: Window | None, context: TaskContext, moment: Moment) -> Task:
    """Go to a launched window. It takes the focus from the window that had it at the launch, and from no other."""
    if context.opens:
        moment = yield from context.opens(window, context, moment)
        if window.id not in moment.desk.by_id:
            return TaskOutcome(False, f"{window_name(window, moment.desk, context.config)} closed meanwhile")
    desk, config = moment.desk, context.config
    name, front = window_name(window, desk, config), desk.front
    if front and desk.family(front).id == window.id and desk.active == front.id:
        return TaskOutcome(True, f"{name} is launched and in front", _rivals(window, desk, context))
    if front and (former is None or front.id != former.id) and front.id != window.id:
        return TaskOutcome(True, f"{name} is launched; {window_name(front, desk, config)} was gone to meanwhile")
    return (yield from focus_window(window, context, moment, "launched and in front"))


def failure_told(ended: ProgramExit, said: str) -> tuple[str, tuple[str, ...]]:
    """Return in words why an app shows no window, and the program's own last words."""
    if ended.reason:
        return f"{ended.app} could not be launched: {ended.reason}", ()
    return f"{ended.app} ended with status {ended.status} before it showed a window", _words(said)


def _words(said: str) -> tuple[str, ...]:
    return (f"it said: {said}",) if said else ()


def _strangers(app: str, desk: Desk, before: frozenset[int]) -> tuple[str, ...]:
    """Return a hint for windows that came meanwhile: the app's rule may not be right."""
    strange = [window for window in desk.windows if window.id not in before]
    return tuple(
        f"a window of class {window.cls!r}, instance {window.instance!r} opened: is it {app}'s?"
        for window in strange[:3]
    )
