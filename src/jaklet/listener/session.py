"""What the listener is doing: the tasks that are under way, one step at a time. It waits for nothing itself."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final, NamedTuple

from jaklet.core.config import RECALL, Binding, Config
from jaklet.core.desk import Focus, Launch, Move, Reshape
from jaklet.core.errors import JakletError
from jaklet.core.keys.chords import Chord, Keys
from jaklet.core.keys.keymap import ESCAPE, REST, Hearing, Keymap, State
from jaklet.core.ports import Desktop, Edge, History, KeyEvent, Moment, Shelf
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Outcome, Task
from jaklet.core.verbs import begin
from jaklet.listener.noticing import Noticing

NEVER: Final = float("inf")
SAVE: Final = "save"
ASK_AGAIN: Final = 5.0  # seconds in which a key can be pressed again for what it asked about
FOCUSING: Final = frozenset({"go", "launch", "focus"})


@dataclass(slots=True)
class Running:
    """A task under way: what it was pressed for, until when it waits, and the apps it has launched.

    `focusing`: all it still does is to see that a window gets the focus. `moving`: the windows that it has moved.
    """

    keys: Keys
    action: Action
    task: Task
    until: float = NEVER
    launching: set[str] = field(default_factory=set)
    focusing: bool = False
    moving: set[int] = field(default_factory=set)
    waiting: bool = False  # for windows that are still to come


class Held(NamedTuple):
    """What a key that is held was pressed for, and what is to be done when it is let go."""

    binding: Binding | None
    on_release: Binding | None
    passed: bool


class Session:
    """Turns keys into tasks and steps them. `tell` is called with the chords and how their action ended."""

    def __init__(
        self,
        desktop: Desktop,
        config: Config,
        shelf: Shelf,
        tell: Callable[[Keys, Action, Outcome], None],
        history: History | None = None,
    ) -> None:
        self._desktop = desktop
        self._shelf = shelf
        self._tell = tell
        self._history = history
        self._running: list[Running] = []
        self._noticing = Noticing()
        self._asked: tuple[Action, float] | None = None  # what is done if its key is pressed again, and until when
        self._with_escape: tuple[Hearing, Hearing] | None = None  # what is heard, without and with Escape
        self.config = config

    @property
    def config(self) -> Config:
        """The configuration in use."""
        return self._config

    @config.setter
    def config(self, config: Config) -> None:
        self._config, self._keymap = config, Keymap(config)
        self.leave()
        self._held: dict[Chord, Held] = {}

    @property
    def layer(self) -> str:
        """The layer that is on; empty for none."""
        return self._state.layer

    @property
    def hearing(self) -> Hearing:
        """The keys that mean something now. Escape gives up a recall that waits for programs."""
        hearing = self._keymap.hearing(self._state)
        if not self._escape_gives_up():
            return hearing
        if self._with_escape is None or self._with_escape[0] is not hearing:
            self._with_escape = hearing, hearing._replace(chords=hearing.chords | {ESCAPE})
        return self._with_escape[1]

    def _escape_gives_up(self) -> bool:
        """True if Escape means that a recall is not to wait any longer, as nothing else has it."""
        if self._state != REST or ESCAPE in self._keymap.hearing(REST).chords:
            return False
        return any(one.action.verb == RECALL and one.waiting for one in self._running)

    @property
    def chords(self) -> frozenset[Chord]:
        """The chords that begin something outside layers."""
        return self._keymap.starts()

    def leave(self) -> None:
        """Leave all layers and sequences, as after a reload."""
        self._state, self._sequence_until, self._layer_until = REST, NEVER, NEVER

    @property
    def deadline(self) -> float:
        """When something wants to be looked at again at the latest; infinity while nothing waits."""
        until = min(self._sequence_until, self._layer_until)
        return min(until, *(running.until for running in self._running), NEVER)

    def key(self, event: KeyEvent, moment: Moment) -> bool:
        """Take in what happened to a key; True if it belongs to the program in front."""
        if event.edge is Edge.PRESS:
            return self._press(event, moment)
        held = self._held.get(event.chord) if event.chord else None
        if held is None:
            return False
        if event.edge is Edge.REPEAT:
            if held.binding and held.binding.repeat:
                self._do(held.binding, event.time, moment)
            return held.passed
        assert event.chord is not None
        del self._held[event.chord]
        if held.on_release:
            self._turn(self._keymap.release(self._state, held.on_release), moment)
            self._do(held.on_release, event.time, moment)
        return held.passed

    def _press(self, event: KeyEvent, moment: Moment) -> bool:
        """Begin what a chord is bound to, go on with a sequence, or enter or leave a layer."""
        self._give_up(moment.now)
        if event.chord == ESCAPE and self._escape_gives_up():
            self._give_up_recalls("was given up")
            return False
        step = self._keymap.press(self._state, event.chord, lambda: self.config.front_app(moment.desk))
        self._turn(step.state, moment)
        if event.chord:
            self._held[event.chord] = Held(step.binding, step.on_release, step.passed)
        if step.binding is not None:
            self._do(step.binding, event.time, moment)
        return step.passed

    def _turn(self, state: State, moment: Moment) -> None:
        """Be in a state from now on, and wait no longer than it may last."""
        self._state = state
        self._sequence_until = moment.now + self.config.settings.sequence if state.begun else NEVER
        ends_after = self.config.layers[state.layer].ends_after if state.layer else None
        self._layer_until = moment.now + ends_after if ends_after is not None else NEVER

    def _give_up(self, now: float) -> None:
        """Give up a sequence that has not gone on, and leave a layer whose time is over."""
        if now >= self._layer_until:
            self.leave()
        elif now >= self._sequence_until:
            self._state, self._sequence_until = State(self._state.layer), NEVER

    def _do(self, binding: Binding, time: int, moment: Moment) -> None:
        """Begin an action. A new recall takes the place of one that is still waiting."""
        action = binding.action
        if action.verb == RECALL:
            self._give_up_recalls(f"was given up for {action}")
        asked, self._asked = self._asked, None
        context = self._context(asked is not None and asked[0] == action and moment.now < asked[1])
        self._start(Running(binding.keys, action, begin(action, context, moment)), time, moment)
        if self._asked:
            self._asked = action, moment.now + ASK_AGAIN

    def _give_up_recalls(self, why: str) -> None:
        for other in [running for running in self._running if running.action.verb == RECALL]:
            self._end(other, Outcome(False, f"{other.action} {why}"))

    def _context(self, again: bool = False) -> Context:
        launching = frozenset(app for running in self._running for app in running.launching)
        return Context(self.config, self._shelf, launching, history=self._history, by_key=True, again=again)

    def _start(self, running: Running, time: int, moment: Moment) -> None:
        self._running.append(running)
        self._advance(running, None, time)
        if running in self._running and running.until <= moment.now:  # it waits for nothing
            self._advance(running, moment, 0)

    def _notice(self, moment: Moment) -> None:
        """Do what is to be done with windows and displays that have come or gone since the desk was last looked at."""
        recalled = {app for one in self._running if one.action.verb == RECALL for app in one.launching}
        for action, task in self._noticing.notice(moment, self._context(), recalled):
            if action.verb == RECALL:
                self._give_up_recalls("was given up, as the displays changed")
            self._start(Running((), action, task), 0, moment)

    def prepare(self, moment: Moment) -> None:
        """Do beforehand what the next key would have to wait for."""
        self.config.claims.prepare(moment.desk)

    def step(self, moment: Moment) -> None:
        """Resume every task with what is so now; give up a sequence or layer that has not gone on."""
        self._give_up(moment.now)
        self._notice(moment)
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
        running.waiting |= bool(ask.later)
        if ask.changes:
            try:
                self._desktop.apply(ask.changes, time)
            except JakletError as fault:
                self._end(running, Outcome(False, fault.message))
                return
            running.launching |= {change.app for change in ask.changes if isinstance(change, Launch)}
            moved = {change.window for change in ask.changes if isinstance(change, Move | Reshape)}
            if moved:
                running.moving |= moved
                self._leave_to(running)
            if any(isinstance(change, Focus) for change in ask.changes):
                self._give_way(running)
                running.focusing = running.action.verb in FOCUSING

    def _give_way(self, later: Running) -> None:
        """End the tasks that still look after the focus of another window: they would take it back."""
        for running in [other for other in self._running if other.focusing and other is not later]:
            self._end(running, Outcome(True, f"{running.action} gave way to {later.action}"))

    def _leave_to(self, later: Running) -> None:
        """End the tasks that have moved only windows which a later one moves now: they would move them back."""
        for running in [other for other in self._running if other is not later and other.moving]:
            if running.moving <= later.moving and not running.launching:
                self._end(running, Outcome(True, f"{running.action} gave way to {later.action}"))

    def _end(self, running: Running, outcome: Outcome) -> None:
        running.task.close()
        self._running.remove(running)
        if running.action.verb in (RECALL, SAVE):
            self._noticing.forget_layout()
        if outcome.asks_again:
            self._asked = running.action, 0.0
        self._tell(running.keys, running.action, outcome)
