"""What the listener is doing: the tasks that are under way, one step at a time. It waits for nothing itself."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Final, NamedTuple

from jaklet.core.config import RECALL, Binding, Config
from jaklet.core.desk import Focus, Launch, Move, Reshape
from jaklet.core.errors import JakletError
from jaklet.core.keys.chords import Chord, Keys
from jaklet.core.keys.keymap import ESCAPE, REST, Hearing, Keymap, State, Step
from jaklet.core.macros.macros import REPLACE, WAIT
from jaklet.core.on import On
from jaklet.core.orders import Enter, Order, Pause, Stop, Tell
from jaklet.core.ports import Desktop, Edge, History, KeyEvent, Moment, Notice, Shelf
from jaklet.core.sentences import Action
from jaklet.core.tasks import Ask, Context, Outcome, Task
from jaklet.core.verbs import begin
from jaklet.listener.happening import Cut, Happenings
from jaklet.listener.noticing import Noticing

NEVER: Final = float("inf")
SAVE, RUN = "save", "run"
HOW_TO_STOP: Final = "Escape or its own chord stops it"
EVENT: Final = Action("on", (), "on")
AWAKE: Final = frozenset({"pause", "resume"})  # what can be done in a pause
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
    chain: tuple[On, ...] = ()  # the entries of `on` that led to it
    since: float = 0.0
    then: Callable[[Outcome, float], None] | None = None  # who else wants to know how it ended


class Wanted(NamedTuple):
    """An action that a key or an event asks for. `window`: the one that the event is about."""

    keys: Keys
    action: Action
    time: int = 0
    window: int | None = None
    chain: tuple[On, ...] = ()
    then: Callable[[Outcome, float], None] | None = None


class Held(NamedTuple):
    """What a key that is held was pressed for, and what is to be done when it is let go."""

    binding: Binding | None
    on_release: Binding | None
    passed: bool


class Followed:
    """A history (`core.ports.History`), of which is told when a layout was recalled."""

    def __init__(self, history: History, recalled: Callable[[str], None]) -> None:
        self._recalled = recalled
        self.keep, self.more, self.steps = history.keep, history.more, history.steps
        self.drop, self.layouts, self._stands = history.drop, history.layouts, history.stands

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled or saved."""
        self._stands(layout, saved)
        if not saved:
            self._recalled(layout)


Keymaps = Mapping[bool, Keymap]


def keymaps_of(config: Config) -> Keymaps:
    """Return what the keys of a config mean, and (`True`) what they mean in a pause."""
    asleep = replace(config, bindings=tuple(one for one in config.live if one.action.verb in AWAKE))
    return {False: Keymap(config), True: Keymap(asleep)}


def _unheard(_notice: Notice) -> None:
    pass


class Session:
    """Turns keys into tasks and steps them.

    `tell` is called with the chords and how their action ended, `post` with what the user is to be told besides,
    `watch` with each step of a macro. `keymaps`: those of the config, where they are known already.
    """

    def __init__(
        self,
        desktop: Desktop,
        config: Config,
        shelf: Shelf,
        tell: Callable[[Keys, Action, Outcome], None],
        history: History | None = None,
        post: Callable[[Notice], None] = _unheard,
        watch: Callable[[Action, Outcome, Moment], None] | None = None,
        keymaps: Keymaps | None = None,
    ) -> None:
        self._watch = watch
        self._desktop = desktop
        self._post = post
        self._queued: list[Wanted] = []  # macros that wait until another one is done
        self._paused = False
        self.took = 0.0  # seconds that the action took of which `tell` is being called
        self._state = REST
        self._shelf = shelf
        self._tell = tell
        self._history: History | None = None
        if history:
            self._history = Followed(history, lambda layout: self._events.recalled(layout))
        self._running: list[Running] = []
        self._noticing = Noticing()
        self._asked: tuple[Action, float] | None = None  # what is done if its key is pressed again, and until when
        self._with_escape: tuple[Hearing, Hearing] | None = None  # what is heard, without and with Escape
        self._events = Happenings(config, desktop)
        self._ready_keymaps = keymaps
        self.config = config

    @property
    def config(self) -> Config:
        """The configuration in use."""
        return self._config

    @config.setter
    def config(self, config: Config) -> None:
        happenings = Happenings(config, self._desktop)
        self._events = happenings.follow(self._events)
        self._config, self._keymaps = config, self._ready_keymaps or keymaps_of(config)
        self._ready_keymaps = None
        self.leave()
        self._held: dict[Chord, Held] = {}

    @property
    def _keymap(self) -> Keymap:
        return self._keymaps[self._paused]

    @property
    def paused(self) -> bool:
        """True while nothing is listened to but what ends the pause."""
        return self._paused

    def pause(self, on: bool) -> None:
        """Begin or end a pause. What is under way goes on; layers and sequences are left."""
        if on != self._paused:
            self._paused = on
            self.leave()
            self._post(Notice("paused: keys and events are let be" if on else "listening again", topic="pause"))

    @property
    def state(self) -> State:
        """The layer, and the sequence that is begun."""
        return self._state

    def meaning(self, chord: Chord, moment: Moment) -> Step:
        """Return what a chord would mean now; nothing is done."""
        return self._keymap.press(self._state, chord, lambda: self.config.front_app(moment.desk))

    @property
    def layout(self) -> str:
        """The layout that was recalled or saved last; empty for none."""
        return self._context().layout()

    @property
    def busy_until(self) -> float:
        """Until when what is under way waits at the latest; infinity if nothing is, or it waits for something else."""
        return min((running.until for running in self._running), default=NEVER)

    @property
    def under_way(self) -> list[str]:
        """What is being done now."""
        return [str(running.action) for running in self._running]

    @property
    def layer(self) -> str:
        """The layer that is on; empty for none."""
        return self._state.layer

    @property
    def hearing(self) -> Hearing:
        """The keys that mean something now. Escape gives up a recall that waits for programs, and stops macros."""
        hearing = self._keymap.hearing(self._state)
        if not self._escape_gives_up():
            return hearing
        if self._with_escape is None or self._with_escape[0] is not hearing:
            self._with_escape = hearing, hearing._replace(chords=hearing.chords | {ESCAPE})
        return self._with_escape[1]

    def _escape_gives_up(self) -> bool:
        """True if Escape means that a recall or a macro is not to wait any longer, as nothing else has it."""
        if self._state != REST or ESCAPE in self._keymap.hearing(REST).chords:
            return False
        return any(one.action.verb in (RECALL, RUN) and one.waiting for one in self._running)

    @property
    def chords(self) -> frozenset[Chord]:
        """The chords that begin something outside layers."""
        return self._keymap.starts()

    def leave(self) -> None:
        """Leave all layers and sequences, as after a reload."""
        self._be(REST)
        self._sequence_until = self._layer_until = NEVER

    def _be(self, state: State) -> None:
        """Be in a state from now on, and say so where it is another layer."""
        if state.layer != self._state.layer:
            self._post(Notice(f"layer {state.layer} is on" if state.layer else "no layer is on", topic="layer"))
        self._state = state

    @property
    def deadline(self) -> float:
        """When something wants to be looked at again at the latest; infinity while nothing waits."""
        until = min(self._sequence_until, self._layer_until, self._events.deadline)
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
            self.stop_macros("was stopped")
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
        self._be(state)
        self._sequence_until = moment.now + self.config.settings.sequence if state.begun else NEVER
        ends_after = self.config.layers[state.layer].ends_after if state.layer else None
        self._layer_until = moment.now + ends_after if ends_after is not None else NEVER

    def _give_up(self, now: float) -> None:
        """Give up a sequence that has not gone on, and leave a layer whose time is over."""
        if now >= self._layer_until:
            self.leave()
        elif now >= self._sequence_until:
            self._be(State(self._state.layer))
            self._sequence_until = NEVER

    def _do(self, binding: Binding, time: int, moment: Moment) -> None:
        """Begin an action. A new recall takes the place of one that is still waiting."""
        self._begin(Wanted(binding.keys, binding.action, time), moment)

    def _begin(self, wanted: Wanted, moment: Moment) -> None:
        keys, action, time = wanted[:3]
        if action.verb == RUN and not self._may_run(wanted):
            return
        if action.verb == RECALL:
            self._give_up_recalls(f"was given up for {action}")
        asked, self._asked = self._asked, None
        context = self._context(asked is not None and asked[0] == action and moment.now < asked[1])
        context = context._replace(window=wanted.window)
        task = begin(action, context, moment)
        self._start(Running(keys, action, task, chain=wanted.chain, then=wanted.then), time, moment)
        if self._asked:
            self._asked = action, moment.now + ASK_AGAIN

    def _may_run(self, wanted: Wanted) -> bool:
        """Return whether a macro is begun now: its chord stops it while it runs, and another one may be in the way."""
        keys, action = wanted.keys, wanted.action
        running = [one for one in self._running if one.action.verb == RUN]
        same = [one for one in running if keys and one.keys == keys and one.action == action]
        queued = [one for one in self._queued if keys and one.keys == keys and one.action == action]
        if same or queued:
            self._queued = [one for one in self._queued if one not in queued]
            for one in same:
                self._end(one, Outcome(False, f"{action} was stopped by its own chord"))
            if not same:
                self._tell(keys, action, Outcome(False, f"{action} does not wait any longer"))
            return False
        if not running:
            return True
        macro, other = self.config.macros.get(action.refs[0].name), running[0].action
        rule = macro.meanwhile if macro and macro.meanwhile else self.config.settings.meanwhile
        if rule == REPLACE:
            self.stop_macros(f"gave way to {action}")
            return True
        if rule == WAIT:
            self._queued.append(wanted)
            self._tell(keys, action, Outcome(True, f"{action} waits for the end of: {other}"))
        else:
            outcome = Outcome(False, f"{other} is under way, and {action} was not begun", (HOW_TO_STOP,))
            self._tell(keys, action, outcome)
            if wanted.then:
                wanted.then(outcome, 0.0)
        return False

    def stop_macros(self, why: str, name: str = "", but: Running | None = None) -> None:
        """End the macros that are under way, or the one of this name; those that wait for them are not begun."""
        queued, self._queued = self._queued, []
        for waiting in queued:
            if waiting.then:
                waiting.then(Outcome(False, f"{waiting.action} was not begun"), 0.0)
        for one in [running for running in self._running if running.action.verb == RUN and running is not but]:
            if not name or one.action.refs[0].name == name:
                self._end(one, Outcome(False, f"{one.action} {why}"))

    def _obey(self, order: Order, running: Running, moment: Moment) -> None:
        """Do what an action asks of the listener itself."""
        match order:
            case Tell(text):
                self._post(Notice(text))
            case Enter(layer):
                if not layer:
                    self.leave()
                elif layer in self.config.layers:
                    self._turn(State(layer), moment)
            case Pause(on):
                self.pause(not self._paused if on is None else on)
            case Stop(macro):
                self.stop_macros("was stopped", macro, running)

    def _give_up_recalls(self, why: str) -> None:
        for other in [running for running in self._running if running.action.verb == RECALL]:
            self._end(other, Outcome(False, f"{other.action} {why}"))

    def _context(self, again: bool = False) -> Context:
        launching = frozenset(app for running in self._running for app in running.launching)
        return Context(
            self.config,
            self._shelf,
            launching,
            history=self._history,
            by_key=True,
            again=again,
            layer=lambda: self._state.layer,
            watch=self._watch,
        )

    def act(self, action: Action, moment: Moment, then: Callable[[Outcome, float], None]) -> None:
        """Begin an action that no key asks for; `then` is called when it has ended, with the seconds that it took."""
        self._begin(Wanted((), action, then=then), moment)

    def _start(self, running: Running, time: int, moment: Moment) -> None:
        running.since = moment.now
        self._running.append(running)
        self._advance(running, None, time)
        if running in self._running and running.until <= moment.now:  # it waits for nothing
            self._advance(running, moment, 0)

    def _notice(self, moment: Moment) -> None:
        """Do what is to be done with windows and displays that have come or gone since the desk was last looked at."""
        recalled = {app for one in self._running if one.action.verb == RECALL for app in one.launching}
        for action, task in self._noticing.notice(moment, self._context(), recalled):
            if self._paused:
                task.close()
                continue
            if action.verb == RECALL:
                self._give_up_recalls("was given up, as the displays changed")
            self._start(Running((), action, task), 0, moment)

    def _answer_events(self, moment: Moment) -> None:
        """Do what is to be done about what has happened; one that leads back to itself is cut."""
        for one in self._events.due(moment, [running.chain for running in self._running if running.chain]):
            if self._paused:
                continue
            if isinstance(one, Cut):
                way = " -> ".join(on.text for on in one.chain)
                on = one.chain[-1]
                line = f"{on.text}: {on.action} is not done, as it leads back to itself: {way}"
                self._tell((), EVENT, Outcome(False, line))
            else:
                self._begin(Wanted((), one.on.action, 0, one.window, one.chain), moment)

    def prepare(self, moment: Moment) -> None:
        """Do beforehand what the next key would have to wait for."""
        self.config.claims.prepare(moment.desk)

    def step(self, moment: Moment) -> None:
        """Resume every task with what is so now; give up a sequence or layer that has not gone on."""
        self._give_up(moment.now)
        self._notice(moment)
        self._answer_events(moment)
        for running in tuple(self._running):
            if running in self._running:
                self._advance(running, moment, 0)

    def _advance(self, running: Running, moment: Moment | None, time: int) -> None:
        try:
            ask: Ask = running.task.send(moment) if moment else next(running.task)
        except StopIteration as end:
            self._finish(running, end.value)
            return
        except JakletError as fault:
            self._finish(running, Outcome(False, fault.message, (fault.remedy,) if fault.remedy else ()))
            return
        now = moment or self._desktop.look()
        for order in ask.orders:
            self._obey(order, running, now)
        running.until = ask.until
        running.waiting |= bool(ask.later)
        if ask.changes:
            try:
                self._desktop.apply(ask.changes, time)
            except JakletError as fault:
                self._finish(running, Outcome(False, fault.message))
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
            if running.moving <= later.moving and not running.launching and running.action.verb != RUN:
                self._end(running, Outcome(True, f"{running.action} gave way to {later.action}"))

    def _finish(self, running: Running, outcome: Outcome) -> None:
        """Take in how a task ended by itself; a macro's failure reaches its user, who may look elsewhere by now."""
        if running.action.verb == RUN and not outcome.done:
            self._post(Notice(outcome.line, failed=True))
        self._end(running, outcome)

    def _end(self, running: Running, outcome: Outcome) -> None:
        running.task.close()
        self._running.remove(running)
        if running.action.verb in (RECALL, SAVE):
            self._noticing.forget_layout()
        if running.chain:
            self._events.ended(running.chain, self._desktop.look().now)
        if outcome.asks_again:
            self._asked = running.action, 0.0
        self.took = self._desktop.look().now - running.since
        self._tell(running.keys, running.action, outcome)
        if running.then:
            running.then(outcome, self.took)
        if running.action.verb == RUN and self._queued and not any(one.action.verb == RUN for one in self._running):
            self._begin(self._queued.pop(0), self._desktop.look())
