"""What the listener is doing: the tasks that are under way, one step at a time. It waits for nothing itself."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final

from jaklet.core.chords import Chord, Keys
from jaklet.core.config import Binding, Config
from jaklet.core.desk import Focus, Launch
from jaklet.core.errors import JakletError
from jaklet.core.keymap import Keymap
from jaklet.core.ports import Desktop, Moment, Shelf
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Outcome, Task
from jaklet.core.verbs import begin

NEVER: Final = float("inf")
RECALL: Final = "recall"
FOCUSING: Final = frozenset({"go", "launch", "focus"})


@dataclass(slots=True)
class Running:
    """A task under way: what it was pressed for, until when it waits, and the apps it has launched.

    `focusing`: all it still does is to see that a window gets the focus.
    """

    keys: Keys
    action: Action
    task: Task
    until: float = NEVER
    launching: set[str] = field(default_factory=set)
    focusing: bool = False


class Session:
    """Turns chords into tasks and steps them. `tell` is called with the chords and how their action ended."""

    def __init__(
        self, desktop: Desktop, config: Config, shelf: Shelf, tell: Callable[[Keys, Action, Outcome], None]
    ) -> None:
        self._config = config
        self._desktop = desktop
        self._shelf = shelf
        self._tell = tell
        self._running: list[Running] = []
        self._keymap = Keymap(config)
        self._begun: Keys = ()  # the chords of a sequence so far
        self._begun_until = NEVER

    @property
    def config(self) -> Config:
        """The configuration in use."""
        return self._config

    @config.setter
    def config(self, config: Config) -> None:
        self._config, self._keymap = config, Keymap(config)
        self._begun, self._begun_until = (), NEVER

    @property
    def heard(self) -> frozenset[Chord]:
        """The chords that mean something now."""
        return self._keymap.heard(self._begun)

    @property
    def deadline(self) -> float:
        """When something wants to be looked at again at the latest; infinity while nothing waits."""
        return min(self._begun_until, *(running.until for running in self._running), NEVER)

    def press(self, chord: Chord, time: int, moment: Moment) -> None:
        """Begin what a chord is bound to, or go on with a sequence."""
        if moment.now > self._begun_until:
            self._begun = ()
        self._begun, binding = self._keymap.press(self._begun, chord)
        self._begun_until = moment.now + self.config.settings.sequence if self._begun else NEVER
        if binding is not None:
            self._do(binding, time, moment)

    def _do(self, binding: Binding, time: int, moment: Moment) -> None:
        """Begin an action. A new recall takes the place of one that is still waiting."""
        action = binding.action
        if action.verb == RECALL:
            for other in [running for running in self._running if running.action.verb == RECALL]:
                self._end(other, Outcome(False, f"{other.action} was given up for {action}"))
        launching = frozenset(app for running in self._running for app in running.launching)
        running = Running(binding.keys, action, begin(action, Context(self.config, self._shelf, launching), moment))
        self._running.append(running)
        self._advance(running, None, time)
        if running in self._running and running.until <= moment.now:  # it waits for nothing
            self._advance(running, moment, 0)

    def prepare(self, moment: Moment) -> None:
        """Do beforehand what the next key would have to wait for."""
        self.config.claims.prepare(moment.desk)

    def step(self, moment: Moment) -> None:
        """Resume every task with what is so now; give up a sequence that has not gone on."""
        if moment.now >= self._begun_until:
            self._begun, self._begun_until = (), NEVER
        for running in tuple(self._running):
            if running in self._running:
                self._advance(running, moment, 0)

    def _advance(self, running: Running, moment: Moment | None, time: int) -> None:
        try:
            ask: Ask = running.task.send(moment) if moment else next(running.task)
        except StopIteration as end:
            self._end(running, end.value)
            return
        except JakletError as fault:
            self._end(running, Outcome(False, fault.message, (fault.remedy,) if fault.remedy else ()))
            return
        running.until = ask.until
        if ask.changes:
            self._desktop.apply(ask.changes, time)
            running.launching |= {change.app for change in ask.changes if isinstance(change, Launch)}
            if any(isinstance(change, Focus) for change in ask.changes):
                self._give_way(running)
                running.focusing = running.action.verb in FOCUSING

    def _give_way(self, later: Running) -> None:
        """End the tasks that still look after the focus of another window: they would take it back."""
        for running in [other for other in self._running if other.focusing and other is not later]:
            self._end(running, Outcome(True, f"{running.action} gave way to {later.action}"))

    def _end(self, running: Running, outcome: Outcome) -> None:
        running.task.close()
        self._running.remove(running)
        self._tell(running.keys, running.action, outcome)
