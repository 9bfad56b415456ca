"""The actions `keep arranged` and `float`: a listener keeps what they say."""

from jaklet.core.actions.change_words import window_name
from jaklet.core.actions.placing.windows import target_window
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome, TaskRequest, outcome
from jaklet.core.values.orders import Arrange, Float
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import ArrangedSpot

LISTENER = "only a listener can do it, as it is kept from then on"


def keep_arranged(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Keep the workspace in view arranged, on the display of the window in front; or no more."""
    if not context.by_key:
        return outcome(False, LISTENER, "start one: jaklet listen")
    asked = action.named("FORM")
    desk = moment.desk
    display = desk.display_of(desk.frame_of(desk.front)) if desk.front else desk.primary
    where = context.config.where_told(desk.workspace, display)
    line = f"{where} stays arranged: {asked.name}" if asked else f"{where} is no longer kept arranged"
    return _asked(Arrange(ArrangedSpot(desk.workspace, display.name), asked.sharing if asked else None), line, moment)


def float_(action: Action, context: TaskContext, moment: Moment) -> Task:
    """Let the window in front float, or give it its share again."""
    if not context.by_key:
        return outcome(False, LISTENER, "start one: jaklet listen")
    window = target_window(action, context, moment.desk)
    if isinstance(window, str):
        return outcome(False, window)
    window = moment.desk.family(window)
    switch = action.named("SWITCH")
    kept = context.kept()
    on = switch.name == "on" if switch else not (kept and window.id in kept.floats)
    name = window_name(window, moment.desk, context.config)
    return _asked(Float(window.id, on), f"{name} {'floats' if on else 'takes part again'}", moment)


def _asked(order: Arrange | Float, line: str, moment: Moment) -> Task:
    yield TaskRequest((), moment.now, (), (order,))
    return TaskOutcome(True, line)
