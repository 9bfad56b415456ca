"""Which macro may run: one at a time, as half a macro may be half a text in a program."""

from collections.abc import Callable
from enum import Enum
from typing import Final

from jaklet.core.actions.tasks import TaskOutcome
from jaklet.core.language.verbs import RUN
from jaklet.core.values.config import Config
from jaklet.core.values.macros import REPLACE, WAIT
from jaklet.listener.tasks import QueuedAction, RunningTask, TaskRunner

HOW_TO_STOP: Final = "Escape or its own chord stops it"


class MacroTurn(Enum):
    """What becomes of a macro that is asked for."""

    NOW = 0
    LATER = 1
    NEVER = 2


class MacroQueue:
    """The macros that wait until another one is done. `tell` is called with each of which something is to be said."""

    def __init__(self, tasks: TaskRunner, tell: Callable[[QueuedAction, TaskOutcome], None]) -> None:
        self._tasks, self._tell = tasks, tell
        self._waiting: list[QueuedAction] = []

    def turn_of(self, wanted: QueuedAction, config: Config) -> tuple[MacroTurn, TaskOutcome | None]:
        """Return whether a macro is begun now, and why it is refused: another one may be in its way.

        Its own chord stops it while it runs.
        """
        action, running = wanted.action, self._tasks.of(RUN)
        if self._stopped_by_own_chord(wanted, running):
            return MacroTurn.NEVER, None
        if not running:
            return MacroTurn.NOW, None
        macro = config.macros.get(action.refs[0].name)
        rule = macro.meanwhile if macro and macro.meanwhile else config.settings.meanwhile
        other = running[0].action
        if rule == REPLACE:
            self.stop(f"gave way to {action}")
            return MacroTurn.NOW, None
        if rule == WAIT:
            self._waiting.append(wanted)
            self._tell(wanted, TaskOutcome(True, f"{action} waits for the end of: {other}"))
            return MacroTurn.LATER, None
        line = f"{other} is under way, and {action} was not begun"
        return MacroTurn.NEVER, TaskOutcome(False, line, (HOW_TO_STOP,))

    def _stopped_by_own_chord(self, wanted: QueuedAction, running: list[RunningTask]) -> bool:
        """Stop what the same chord has begun; True if there was anything."""
        keys, action = wanted.keys, wanted.action
        same = [one for one in running if keys and one.keys == keys and one.action == action]
        waiting = [one for one in self._waiting if keys and one.keys == keys and one.action == action]
        self._waiting = [one for one in self._waiting if one not in waiting]
        for one in same:
            self._tasks.end(one, TaskOutcome(False, f"{action} was stopped by its own chord"))
        if waiting and not same:
            self._tell(wanted, TaskOutcome(False, f"{action} does not wait any longer"))
        return bool(same or waiting)

    def stop(self, why: str, name: str = "", but: RunningTask | None = None) -> None:
        """End the macros that are under way, or the one of this name; those that wait for them are not begun."""
        waiting, self._waiting = self._waiting, []
        for wanted in waiting:
            if wanted.then:
                wanted.then(TaskOutcome(False, f"{wanted.action} was not begun"), 0.0, ())
        for one in [running for running in self._tasks.of(RUN) if running is not but]:
            if not name or one.action.refs[0].name == name:
                self._tasks.end(one, TaskOutcome(False, f"{one.action} {why}"))

    def next(self) -> QueuedAction | None:
        """Return the macro whose turn it is, if none runs any more, and take it out of the queue."""
        return self._waiting.pop(0) if self._waiting and not self._tasks.of(RUN) else None
