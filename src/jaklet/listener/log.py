"""What a listener says: lines of its log, notices on the desktop, the last actions, and news for those who follow."""

import time
from collections import deque
from collections.abc import Callable
from typing import Final, NamedTuple

from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.language.verbs import traits_of
from jaklet.core.values.chords import Keys, keys_written
from jaklet.core.values.notices import Notice
from jaklet.core.values.sentences import Action
from jaklet.core.values.words import printable
from jaklet.listener.followers import Followers
from jaklet.listener.guard import report_fault

MOST_DONE: Final = 20  # actions that `status` tells of
LAYER: Final = "layer"  # the topic of notices


class LoggedAction(NamedTuple):
    """An action that has ended: when (seconds since the epoch), its chord, what it was, and how it went."""

    at: float
    keys: str
    action: str
    done: bool
    line: str
    seconds: float


class Log:
    """Writes lines by `say`, and shows notices by `show`, where there is one."""

    def __init__(self, say: Callable[[str], None], show: Callable[[Notice], None], followers: Followers) -> None:
        self.say, self._show_on_desktop, self._followers = say, show, followers
        self._layers: list[Notice] = []  # of layers, until their keys are heard
        self.done: deque[LoggedAction] = deque(maxlen=MOST_DONE)

    def broken(self, what: str, fault: Exception) -> str:
        """Tell of a fault of Jaklet's own; return it in a few words."""
        return report_fault(what, fault, self.say)

    def ended(self, keys: Keys, action: Action, outcome: TaskOutcome, took: float) -> None:
        """Tell how an action has ended, and how many seconds it took."""
        written = keys_written(keys) or action.verb
        plain = outcome.done or not keys
        line = printable(f"{written}: {outcome.line}" if plain else f"{written}: {action}: {outcome.line}")
        if not (outcome.done and traits_of(action).noticed):  # else it stands in the log already, as what it said
            self.say(line)
        for more in outcome.more:
            self.say(f"  {printable(more)}")
        chord = keys_written(keys) if keys else ""
        done = LoggedAction(
            time.time(), chord, printable(str(action)), outcome.done, printable(outcome.line), round(took, 4)
        )
        self.done.append(done)
        self._followers.tell("action", **done._asdict())

    def post(self, notice: Notice) -> None:
        """Tell the user of something; of a layer once its keys are heard, as someone may press them at the word."""
        if notice.topic == LAYER:
            self._layers.append(notice)
        else:
            self._show(notice)

    def tell_of_layers(self) -> None:
        """Tell of the layers that were entered and left: their keys are heard now."""
        while self._layers:
            self._show(self._layers.pop(0))

    def _show(self, notice: Notice) -> None:
        """Show a notice where that can be, and keep it in the log; of a failure the log tells where the action ends."""
        if notice.topic == LAYER:
            self._followers.tell("layer", layer=notice.about)
        else:
            self._followers.tell("notice", text=notice.text, failed=notice.failed)
        if not notice.failed:
            self.say(printable(notice.text))
        self._show_on_desktop(notice._replace(text=printable(notice.text)))
