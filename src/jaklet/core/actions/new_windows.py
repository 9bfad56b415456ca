"""What is done once with each new window of an app (`opens`)."""

from collections.abc import Generator

from jaklet.core.actions.begin import begin
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, run_within
from jaklet.core.values.config import Config
from jaklet.core.values.desk import NORMAL, Desk, Window
from jaklet.core.values.sentences import Action


def to_open(window: Window, desk: Desk, config: Config) -> tuple[Action, ...]:
    """Return the actions for a new window. Dialogs stay with the windows that they belong to."""
    if window.kind != NORMAL or desk.family(window) is not window:
        return ()
    app = config.apps.get(config.claims.app_of(window, desk) or "")
    return app.opens if app else ()


def act_on_new_window(window: Window, actions: tuple[Action, ...], context: TaskContext, moment: Moment) -> Task:
    """Do the actions with a window, one after another. What was refused is reported, and the next one done still.

    None of it can be undone: the window had no other place before.
    """
    _, outcomes = yield from _each(window, actions, context, moment)
    failed = [outcome for outcome in outcomes if not outcome.done]
    more = tuple(line for outcome in outcomes for line in outcome.more)
    return (failed or outcomes)[-1]._replace(more=more)


def opening(window: Window, context: TaskContext, moment: Moment) -> Generator[TaskRequest, Moment, Moment]:
    """Do what the window's app says of new windows, as a part of another task; return the desk as it then is."""
    moment, _ = yield from _each(window, to_open(window, moment.desk, context.config), context, moment)
    return moment


def _each(
    window: Window, actions: tuple[Action, ...], context: TaskContext, moment: Moment
) -> Generator[TaskRequest, Moment, tuple[Moment, list[TaskOutcome]]]:
    own = context._replace(window=window.id, history=None)
    outcomes = []
    for action in actions:
        moment, outcome = yield from run_within(begin(action, own, moment), moment)
        outcomes.append(outcome)
    return moment, outcomes
