"""What the listener is doing: the tasks that are under way, one step at a time. It waits for nothing itself."""

from collections.abc import Callable
from typing import Final

from jaklet.core.actions.begin import begin
from jaklet.core.actions.ports import Desktop, Edge, History, KeyEvent, Moment, Notice, Shelf
from jaklet.core.actions.tasks import Ask, Context, Outcome
from jaklet.core.keys.keymap import ESCAPE, Hearing, Meaning, State, Twins
from jaklet.core.language.verbs import RECALL, RUN, SAVE, FocusAfter, traits_of
from jaklet.core.values.chords import Chord, Keys
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk import Focus, Launch, Move, Press, Reshape
from jaklet.core.values.errors import JakletError
from jaklet.core.values.macros import REPLACE, WAIT
from jaklet.core.values.orders import Enter, Expect, Order, Pause, Stop, Tell
from jaklet.core.values.sentences import Action
from jaklet.listener.events import Cut, Happenings
from jaklet.listener.guard import raised
from jaklet.listener.keystate import Keymaps, KeyState, keymaps_of
from jaklet.listener.reactions import Noticing
from jaklet.listener.tasks import NEVER, Followed, Held, Pressed, Running, Then, Wanted

HOW_TO_STOP: Final = "Escape or its own chord stops it"
EVENT: Final = Action("on", (), "on")
ASK_AGAIN: Final = 5.0  # seconds in which a key can be pressed again for what it asked about


MOST_ECHOES: Final = 4  # keys that are pressed by actions of keys, one from the other
ECHO: Final = 2.0  # seconds in which a chord that an action has pressed comes back


def _unheard(_notice: Notice) -> None:
    pass


class Session:
    """Turns keys into tasks and steps them.

    `tell` is called with the chords and how their action ended, `post` with what the user is to be told besides,
    `watch` with each step of a macro, `broken` with a fault of Jaklet's own in an action, which it returns in words.
    `keymaps`: those of the config, where they are known already.
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
        broken: Callable[[str, Exception], str] = raised,
    ) -> None:
        self._desktop, self._shelf, self._tell, self._post, self._watch = desktop, shelf, tell, post, watch
        self._broken = broken
        self._pressed: dict[Chord, Pressed] = {}  # chords that actions have pressed, which may be bound themselves
        self._queued: list[Wanted] = []  # macros that wait until another one is done
        self._running: list[Running] = []
        self._noticing = Noticing()
        self._asked: tuple[Action, float] | None = None  # what is done if its key is pressed again, and until when
        self._held: dict[Chord, Held] = {}
        self.took = 0.0  # seconds that the action took of which `tell` is being called
        self._config = config
        self._events = Happenings(config, desktop)
        self._keys = KeyState(config, keymaps or keymaps_of(config), post)
        self._history: History | None = None
        if history:
            self._history = Followed(history, lambda layout: self._events.recalled(layout))

    @property
    def config(self) -> Config:
        """The configuration in use."""
        return self._config

    @config.setter
    def config(self, config: Config) -> None:
        self._config = config
        self._events = Happenings(config, self._desktop).follow(self._events)
        self._keys.load(config, keymaps_of(config))
        self._held = {}

    def spell(self, twins: Twins) -> None:
        """Take in which chords are one key on the keyboard in use."""
        self._keys.spell(twins)

    @property
    def paused(self) -> bool:
        """True while nothing is listened to but what ends the pause."""
        return self._keys.paused

    def pause(self, on: bool) -> None:
        """Begin or end a pause. What is under way goes on; layers and sequences are left."""
        self._keys.pause(on)

    @property
    def state(self) -> State:
        """The layer, and the sequence that is begun."""
        return self._keys.state

    @property
    def layer(self) -> str:
        """The layer that is on; empty for none."""
        return self._keys.state.layer

    @property
    def layout(self) -> str:
        """The layout that was recalled or saved last; empty for none."""
        return self._context().layout()

    def meaning(self, chord: Chord, moment: Moment) -> Meaning:
        """Return what a chord would mean now; nothing is done."""
        return self._keys.meaning(chord, lambda: self.config.front_app(moment.desk))

    @property
    def busy_until(self) -> float:
        """Until when what is under way waits at the latest; infinity if nothing is, or it waits for something else."""
        return min((running.until for running in self._running), default=NEVER)

    @property
    def under_way(self) -> list[str]:
        """What is being done now."""
        return [str(running.action) for running in self._running]

    @property
    def hearing(self) -> Hearing:
        """The keys that mean something now. Escape gives up a recall that waits for programs, and stops macros."""
        return self._keys.hearing(self._escape_gives_up())

    def _escape_gives_up(self) -> bool:
        """True if Escape means that a recall or a macro is not to wait any longer, as nothing else has it."""
        waits = any(traits_of(one.action).begins_others and one.waiting for one in self._running)
        return waits and self._keys.escape_is_free

    @property
    def chords(self) -> frozenset[Chord]:
        """The chords that begin something outside layers."""
        return self._keys.starts

    def enter(self, layer: str) -> None:
        """Let the keys mean what a layer says."""
        self._keys.enter(layer, self._desktop.look().now)

    def go_on(self) -> None:
        """Take no notice of the start: this goes on where another session was."""
        self._events.forget_start()

    def leave(self) -> None:
        """Leave all layers and sequences."""
        self._keys.leave()

    @property
    def deadline(self) -> float:
        """When something wants to be looked at again at the latest; infinity while nothing waits."""
        return min(self._keys.deadline, self._events.deadline, self.busy_until)

    def key(self, event: KeyEvent, moment: Moment) -> bool:
        """Take in what happened to a key; True if it belongs to the program in front."""
        if event.edge is Edge.PRESS:
            return self._press(event, moment)
        held = self._held.get(event.chord) if event.chord else None
        if held is None:
            return False
        if event.edge is Edge.REPEAT:
            if held.binding and held.binding.repeat:
                self.do(held.binding, event.time, moment)
            return held.passed
        assert event.chord is not None
        del self._held[event.chord]
        if held.on_release:
            self._keys.released(held.on_release, moment.now)
            self.do(held.on_release, event.time, moment)
        return held.passed

    def _press(self, event: KeyEvent, moment: Moment) -> bool:
        """Begin what a chord is bound to, go on with a sequence, or enter or leave a layer."""
        self._keys.give_up(moment.now)
        if event.chord == ESCAPE and self._escape_gives_up():
            self._give_up_recalls("was given up")
            self.stop_macros("was stopped")
            return False
        step = self._keys.meaning(event.chord, lambda: self.config.front_app(moment.desk))
        self._keys.turn(step.state, moment.now)
        if event.chord:
            self._held[event.chord] = Held(step.binding, step.on_release, step.passed)
        if step.binding is not None:
            self.do(step.binding, event.time, moment, self._echo(event.chord, moment.now))
        return step.passed

    def _echo(self, chord: Chord | None, now: float) -> int:
        """Return how many actions have pressed the keys that led to this one; 0 for a key of the user's own."""
        pressed = self._pressed.get(chord) if chord and self._pressed else None
        return pressed.depth if pressed and now - pressed.at < ECHO else 0

    def do(self, binding: Binding, time: int, moment: Moment, depth: int = 0) -> None:
        """Begin an action. A new recall takes the place of one that is still waiting."""
        if depth > MOST_ECHOES:
            self._pressed.clear()
            line = f"{binding.action} is not done again, as it presses the keys that lead to it"
            self._refuse(Wanted(binding.keys, binding.action), Outcome(False, line))
            return
        self._begin(Wanted(binding.keys, binding.action, time, depth=depth), moment)

    def _refuse(self, wanted: Wanted, outcome: Outcome) -> None:
        """Tell that an action was not begun."""
        self._tell(wanted.keys, wanted.action, outcome)
        if wanted.then:
            wanted.then(outcome, 0.0)
        else:
            self._post(Notice(outcome.line, failed=True))

    def _begin(self, wanted: Wanted, moment: Moment) -> None:
        keys, action, time = wanted[:3]
        if action.verb == RUN and not self._may_run(wanted):
            return
        if action.verb == RECALL:
            self._give_up_recalls(f"was given up for {action}")
        asked, self._asked = self._asked, None
        context = self._context(asked is not None and asked[0] == action and moment.now < asked[1])
        context = context._replace(window=wanted.window)
        try:
            task = begin(action, context, moment)
        except JakletError as fault:
            self._refuse(wanted, Outcome(False, fault.message, (fault.remedy,) if fault.remedy else ()))
            return
        except Exception as fault:
            self._refuse(wanted, Outcome(False, self._broken(str(action), fault)))
            return
        running = Running(keys, action, task, chain=wanted.chain, then=wanted.then, depth=wanted.depth)
        self._start(running, time, moment)
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
            line = f"{other} is under way, and {action} was not begun"
            self._refuse(wanted, Outcome(False, line, (HOW_TO_STOP,)))
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
                self._keys.enter(layer, moment.now)
            case Expect(apps):
                running.placing = apps
            case Pause(on):
                self.pause(not self.paused if on is None else on)
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
            layer=lambda: self.layer,
            watch=self._watch,
        )

    def act(self, action: Action, moment: Moment, then: Then) -> None:
        """Begin an action that no key asks for; `then` is called when it has ended, with the seconds that it took."""
        self._begin(Wanted((), action, then=then), moment)

    def _start(self, running: Running, time: int, moment: Moment) -> None:
        running.since = moment.now
        front, traits = moment.desk.front, traits_of(running.action)
        if front and traits.moves and not traits.begins_others and not running.action.named("APP"):
            running.looks_after = {front.id}
        self._running.append(running)
        self._advance(running, None, time)
        if running in self._running and running.until <= moment.now:  # it waits for nothing
            self._advance(running, moment, 0)

    def _notice(self, moment: Moment) -> None:
        """Do what is to be done with windows and displays that have come or gone since the desk was last looked at."""
        recalled = {app for one in self._running for app in one.placing}
        for action, task, opening in self._noticing.notice(moment, self._context(), recalled):
            if self.paused:
                task.close()
                continue
            if action.verb == RECALL:
                self._give_up_recalls("was given up, as the displays changed")
            self._start(Running((), action, task, opening=opening), 0, moment)

    def _answer_events(self, moment: Moment) -> None:
        """Do what is to be done about what has happened; one that leads back to itself is cut."""
        for one in self._events.due(moment, [running.chain for running in self._running if running.chain]):
            if self.paused:
                continue
            if isinstance(one, Cut):
                way = " -> ".join(on.text for on in one.chain)
                on = one.chain[-1]
                line = f"{on.text}: {on.action} is not done, as it leads back to itself: {way}"
                self._tell((), EVENT, Outcome(False, line))
            else:
                wanted = Wanted((), one.on.action, 0, one.window, one.chain)
                first = next((other for other in self._running if other.opening and other.opening == one.window), None)
                if first:
                    first.next.append(wanted)
                else:
                    self._begin(wanted, moment)

    def prepare(self, moment: Moment) -> None:
        """Do beforehand what the next key would have to wait for."""
        self.config.claims.prepare(moment.desk)

    def step(self, moment: Moment) -> None:
        """Resume every task with what is so now; give up a sequence or layer that has not gone on."""
        self._keys.give_up(moment.now)
        self._notice(moment)
        self._answer_events(moment)
        for running in tuple(self._running):
            if running in self._running:
                self._advance(running, moment, 0)

    def _advance(self, running: Running, moment: Moment | None, time: int, fault: JakletError | None = None) -> None:
        """Resume a task: with a moment, or with the fault of what it asked for; without either, begin it."""
        try:
            if fault:
                ask: Ask = running.task.throw(fault)
            else:
                ask = running.task.send(moment) if moment else next(running.task)
        except StopIteration as end:
            self._finish(running, end.value)
            return
        except JakletError as failed:
            self._finish(running, Outcome(False, failed.message, (failed.remedy,) if failed.remedy else ()))
            return
        except Exception as failed:
            self._finish(running, Outcome(False, self._broken(str(running.action), failed)))
            return
        for order in ask.orders:
            self._obey(order, running, moment or self._desktop.look())
        running.until = ask.until
        running.waiting |= bool(ask.later)
        if not ask.changes:
            return
        try:
            self._desktop.apply(ask.changes, time)
        except JakletError as failed:
            self._advance(running, None, 0, failed)
            return
        running.launching |= {change.app for change in ask.changes if isinstance(change, Launch)}
        presses = {change for change in ask.changes if isinstance(change, Press)}
        if presses:
            running.pressing |= presses
            now = self._desktop.look().now
            self._pressed |= {chord: Pressed(running.depth + 1, now) for one in presses for chord in one.chords}
        moved = {change.window for change in ask.changes if isinstance(change, Move | Reshape)}
        if moved:
            running.moving |= moved
            self._leave_to(running)
        if any(isinstance(change, Focus) for change in ask.changes):
            self._give_way(running)
            running.focusing = traits_of(running.action).focus is FocusAfter.GOES

    def _give_way(self, later: Running) -> None:
        """End the earlier tasks that still look after the focus of another window: they would take it back.

        One whose window seemed to be in front already is among them, though it has asked for nothing yet.
        """
        self._end_earlier(
            later, lambda one: one.focusing or (traits_of(one.action).focus is FocusAfter.GOES and not one.launching)
        )

    def _leave_to(self, later: Running) -> None:
        """End the earlier tasks that look only after windows which a later one moves now: they would move them back.

        One whose window seemed to stand there already has moved none, but would do so now.
        """

        def is_over(one: Running) -> bool:
            windows = one.moving or one.looks_after
            return bool(windows) and windows <= later.moving and not one.launching and one.action.verb != RUN

        self._end_earlier(later, is_over)

    def _end_earlier(self, later: Running, is_over: Callable[[Running], bool]) -> None:
        for running in self._running[: self._running.index(later)]:
            if is_over(running):
                self._end(running, Outcome(True, f"{running.action} gave way to {later.action}"))

    def _finish(self, running: Running, outcome: Outcome) -> None:
        """Take in how a task ended by itself; a failure reaches its user, who may look elsewhere than at the log."""
        if not outcome.done and not running.then:
            self._post(Notice(outcome.line, failed=True))
        self._end(running, outcome)

    def _end(self, running: Running, outcome: Outcome) -> None:
        running.task.close()
        self._running.remove(running)
        for press in running.pressing:
            self._desktop.give_up(press)
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
        for wanted in running.next:
            self._begin(wanted, self._desktop.look())
        if running.action.verb == RUN and self._queued and not any(one.action.verb == RUN for one in self._running):
            self._begin(self._queued.pop(0), self._desktop.look())
