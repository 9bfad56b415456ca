"""Pressing keys for the program in front."""

from jaklet.core.desk import Press
from jaklet.core.keys.chords import keys_written
from jaklet.core.ports import Moment
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Outcome, Task, outcome
from jaklet.core.telling import window_name


def press(action: Action, context: Context, moment: Moment) -> Task:
    """Press chords for the window in front, as if on the keyboard; what it makes of them cannot be seen from here."""
    front = moment.desk.front
    if front is None:
        return outcome(False, "no window has the focus")
    name = window_name(front, moment.desk, context.config)
    return _pressed(action, name, moment)


def _pressed(action: Action, name: str, moment: Moment) -> Task:
    yield Ask((Press(action.presses),), moment.now)
    return Outcome(True, f"{keys_written(action.presses)} is pressed for {name}")
