"""The actions `workspace` and `send to workspace`, and what happens with a number that does not exist."""

from jaklet.core.actions.placing.windows import done, target
from jaklet.core.actions.ports.desk import Moment
from jaklet.core.actions.tasks import Context, Outcome, Task, outcome, reach
from jaklet.core.actions.telling import refusal_told
from jaklet.core.language.slots import MOST_WORKSPACES
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Change, Desk, Provide, Send, Show
from jaklet.core.values.sentences import Action


def workspace(action: Action, context: Context, moment: Moment) -> Task:
    """Show a workspace."""
    number = _meant(action, moment.desk, context.config)
    return outcome(False, *number) if isinstance(number, tuple) else _shown(number, context, moment)


def _shown(number: int, context: Context, moment: Moment) -> Task:
    def goal(desk: Desk) -> tuple[Change, ...]:
        return provided(number, desk) + (() if desk.workspace == number else (Show(number),))

    moment, refused, asked = yield from reach(goal, moment)
    if refused:
        return Outcome(False, refusal_told(refused[-1], moment.desk, context.config))
    return Outcome(True, f"workspace {number} is shown{'' if asked else ' already'}")


def send_to_workspace(action: Action, context: Context, moment: Moment) -> Task:
    """Put the window on another workspace, or on all; the view stays."""
    desk = moment.desk
    window = target(action, context, desk)
    if isinstance(window, str):
        return outcome(False, window)
    window = desk.family(window)
    number = None if action.named("ALL") else _meant(action, desk, context.config)
    if isinstance(number, tuple):
        return outcome(False, *number)

    def goal(now: Desk) -> tuple[Change, ...]:
        sent = now.by_id.get(window.id)
        if sent is None:
            return ()
        return provided(number or 1, now) + (() if sent.workspace == number else (Send(window.id, number),))

    where = "all workspaces" if number is None else f"workspace {number}"
    return done(goal, window, context, moment, f"on {where}")


def provided(number: int, desk: Desk) -> tuple[Change, ...]:
    """Return what it takes to have a workspace of this number."""
    return (Provide(number),) if number > desk.workspaces else ()


def _meant(action: Action, desk: Desk, config: Config) -> int | tuple[str, str]:
    """Return the workspace that an action names, or why there is none, and a remedy."""
    if step := action.named("STEP"):
        return 1 + (desk.workspace - 1 + (1 if step.name == "next" else -1)) % desk.workspaces
    number = int(action.refs[-1].name)
    if number <= desk.workspaces:
        return number
    if config.settings.make_workspaces and number <= MOST_WORKSPACES:
        return number
    remedy = "write `missing workspaces: create` under `settings` to have it made"
    return f"there is no workspace {number}: there are {desk.workspaces}", remedy
