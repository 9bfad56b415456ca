"""Launching programs and going to their windows."""

from jaklet.core.apps import App
from jaklet.core.desk import Change, Desk, Focus, Launch, Show, Window
from jaklet.core.ports import NOT_FOUND, Moment
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Outcome, Task, outcome, reach
from jaklet.core.telling import refusal_told, window_name


def go(action: Action, context: Context, moment: Moment) -> Task:
    """Not running: launch. Running: its last used window. In front already: its next window, in opening order."""
    app = action.refs[0].name
    own = context.config.claims.windows_of(app, moment.desk)
    if not own and app in context.launching:
        return outcome(True, f"{app} is being launched already")
    if not own:
        return launched(app, context, moment)
    front = moment.desk.front
    places = [window.id for window in own]
    if front is None or front.id not in places:
        return focused(moment.desk.latest(own) or own[0], context, moment)
    if len(own) == 1:
        return focused(own[0], context, moment, "in front already")
    return focused(own[(places.index(front.id) + 1) % len(own)], context, moment)


def launch(action: Action, context: Context, moment: Moment) -> Task:
    """Always a new one."""
    return launched(action.refs[0].name, context, moment)


def focus(action: Action, context: Context, moment: Moment) -> Task:
    """focus last: the window used before this one. focus APP: its last used window, never a launch."""
    desk = moment.desk
    if app := action.named("APP"):
        own = context.config.claims.windows_of(app.name, desk)
        window = desk.latest(own)
        if window is None:
            return outcome(False, f"{app.name} has no window", f"`go {app.name}` launches it")
        return focused(window, context, moment)
    front = desk.front.id if desk.front else None
    former = next((wid for wid in desk.recent if wid != front and wid in desk.by_id), None)
    if former is None:
        return outcome(False, "no other window was used before this one")
    return focused(desk.by_id[former], context, moment)


def focused(window: Window, context: Context, moment: Moment, already: str = "") -> Task:
    """Show a window's workspace, bring it to the front, and read back that it got the focus."""
    wid = window.id

    def goal(desk: Desk) -> tuple[Change, ...]:
        now = desk.by_id.get(wid)
        if now is None or desk.active == wid:
            return ()
        # Not every window manager changes the workspace by itself when a window of another one is to be active.
        if now.workspace is None or now.workspace == desk.workspace:
            return (Focus(wid),)
        return (Show(now.workspace), Focus(wid))

    moment, refused, _ = yield from reach(goal, moment)
    if refused:
        return Outcome(False, refusal_told(refused[-1], moment.desk, context.config))
    if wid not in moment.desk.by_id:
        return Outcome(False, f"{window_name(window, context.config)} closed meanwhile")
    name = window_name(moment.desk.by_id[wid], context.config)
    return Outcome(True, f"{name} is {already or 'in front'}")


def launched(app_name: str, context: Context, moment: Moment) -> Task:
    """Launch an app, wait for its window, and see that it has the focus."""
    app = context.config.apps[app_name]
    if not app.command:
        return Outcome(False, f"{app_name} is not running and has no `launch`", (f"add launch: to apps: {app_name}:",))
    claims, limit = context.config.claims, context.config.settings.wait
    before = {window.id for window in moment.desk.windows}
    until = moment.now + limit
    moment = yield Ask(
        (Launch(app_name, app.command),), until, (f"wait for its window, {limit:g} s at most; focus it",)
    )
    while True:
        new = [window for window in claims.windows_of(app_name, moment.desk) if window.id not in before]
        if new:
            return (yield from focused(new[-1], context, moment, "launched and in front"))
        for name, status in moment.ended:
            if name == app_name:
                return Outcome(False, failure_told(app, status))
        if moment.now >= until:
            strange = [window for window in moment.desk.windows if window.id not in before]
            hint = tuple(
                f"a window of class {window.cls!r}, instance {window.instance!r} opened: is it {app_name}'s?"
                for window in strange[:3]
            )
            return Outcome(False, f"{app_name} was launched but showed no window within {limit:g} s", hint)
        moment = yield Ask((), until)


def failure_told(app: App, status: int) -> str:
    """Return in words why an app shows no window."""
    if status == NOT_FOUND:
        return f"{app.name} could not be launched: there is no program {app.command[0]!r}"
    return f"{app.name} ended with status {status} before it showed a window"
