"""The actions `workspace` and `send to workspace`, and what happens with a number that does not exist."""

from jaklet.core.actions.change_words import refusal_told
from jaklet.core.actions.placing.windows import finish_window_goal, target_window
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, outcome, reach
from jaklet.core.language.slots import MOST_WORKSPACES
from jaklet.core.values.changes import Change, Provide, Send, ShowWorkspace
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import counted, did_you_mean


def workspace(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Show a workspace, by number or name; `or back`: from there, the one on which a window was used before."""
    number = _meant(action, moment.desk, context.config)
    return outcome(False, *number) if isinstance(number, tuple) else _shown(number, context, moment)


def _shown(number: int, context: TaskContext, moment: Moment) -> Task:
    def goal(desk: Desk) -> tuple[Change, ...]:
        return provide_workspace(number, desk) + (() if desk.workspace == number else (ShowWorkspace(number),))

    moment, refused, asked = yield from reach(goal, moment)
    if refused:
        return TaskOutcome(False, refusal_told(refused[-1], moment.desk, context.config))
    return TaskOutcome(True, f"{context.config.workspace_told(number)} is shown{'' if asked else ' already'}")


def send_to_workspace(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Put the window on another workspace, or on all; the view stays."""
    desk = moment.desk
    window = target_window(action, context, desk)
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
        return provide_workspace(number or 1, now) + (() if sent.workspace == number else (Send(window.id, number),))

    where = "all workspaces" if number is None else context.config.workspace_told(number)
    return finish_window_goal(goal, window, context, moment, f"on {where}")


def _used_before(desk: Desk) -> int | tuple[str, str]:
    """Return the workspace on which a window was used last, the one in view aside."""
    used = (desk.by_id[wid].workspace for wid in desk.recent if wid in desk.by_id)
    other = next((number for number in used if number not in (None, desk.workspace)), None)
    return other or ("no window on another workspace was used before", "name the workspace")


def provide_workspace(number: int, desk: Desk) -> tuple[Change, ...]:
    """Return the changes that make workspaces up to this number."""
    return (Provide(number),) if number > desk.workspaces else ()


def needed_workspaces(desk: Desk, least: int) -> int:
    """Return how many workspaces it takes for all that are shown or have windows; at least so many."""
    return max(least, desk.workspace, *(one.workspace or 1 for one in desk.windows), 1)


def given_back(wanted: int, moment: Moment) -> Task:
    """Have fewer workspaces, as the last ones are empty; one that is used meanwhile stays."""

    def goal(desk: Desk) -> tuple[Change, ...]:
        number = needed_workspaces(desk, wanted)
        return (Provide(number),) if number < desk.workspaces else ()

    there = moment.desk.workspaces
    moment, refused, _ = yield from reach(goal, moment)
    gone = there - moment.desk.workspaces
    if refused:
        return TaskOutcome(False, f"empty workspaces could not be given back: there are {moment.desk.workspaces}")
    return TaskOutcome(True, f"{counted(gone, 'empty workspace')} given back")


def _meant(action: Action, desk: Desk, config: Config) -> int | tuple[str, str]:
    """Return the workspace that an action names, or why there is none, and a remedy."""
    if step := action.named("STEP"):
        if desk.workspaces == 1:
            return "there is only one workspace", "this desktop has no other, or its settings say how many it has"
        return 1 + (desk.workspace - 1 + (1 if step.name == "next" else -1)) % desk.workspaces
    if action.named("LAST"):
        return _used_before(desk)
    ref = action.named("N") or action.named("WORKSPACE")
    assert ref is not None  # the grammar has no other form
    number = config.workspace_of(ref)
    if not number:
        return f"no workspace is called {ref.name!r}", did_you_mean(
            ref.name, config.workspaces, "add it to `workspaces`"
        )
    if action.named("BACK") and number == desk.workspace:
        return _used_before(desk)
    if number <= desk.workspaces:
        return number
    if config.settings.make_workspaces and number <= MOST_WORKSPACES:
        return number
    remedy = "write `missing workspaces: create` under `settings` to have it made"
    there = "there is only one" if desk.workspaces == 1 else f"there are {desk.workspaces}"
    return f"there is no workspace {number}: {there}", remedy
