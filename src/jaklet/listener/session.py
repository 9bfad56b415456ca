"""What keys, events and clients bring about: from what happened to the tasks that it begins. It waits for nothing."""

from collections.abc import Callable
from typing import Final, NamedTuple

from jaklet.core.actions.begin import begin
from jaklet.core.actions.ports.chord_source import KeyEdge, KeyEvent
from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.actions.ports.history import History
from jaklet.core.actions.ports.layout_store import LayoutStore
from jaklet.core.actions.ports.screen import NoScreen, Screen
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome
from jaklet.core.actions.work import Work
from jaklet.core.keys.keymap import ESCAPE, HearableKeys, Keymap, KeymapState, KeyMeaning, Twins
from jaklet.core.language.verbs import RECALL, RUN, SAVE, traits_of
from jaklet.core.values.chords import Chord
from jaklet.core.values.config import Binding, Config
from jaklet.core.values.desk_abilities import Ability
from jaklet.core.values.errors import JakletError
from jaklet.core.values.notices import Notice
from jaklet.core.values.orders import Arrange, Enter, Expect, Float, Order, Pause, Restore, ShowView, Stop, Tell
from jaklet.core.values.sentences import Action
from jaklet.listener.event_follower import EventFollower, LoopedEvent, WatchedHistory
from jaklet.listener.going_back import GoingBack
from jaklet.listener.held_bindings import HeldBinding, HeldHistory
from jaklet.listener.keeper import KEEPS, Keeper
from jaklet.listener.keystate import Keymaps, KeyState, keymaps_of
from jaklet.listener.macro_queue import MacroQueue, MacroTurn
from jaklet.listener.reactions import WindowReactions
from jaklet.listener.reports import Reports
from jaklet.listener.spare_workspaces import SpareWorkspaces
from jaklet.listener.tasks import QueuedAction, RunningTask, TaskRunner, Then, at_once, failure

EVENT: Final = Action("on", (), "on")
ASK_AGAIN: Final = 5.0  # seconds in which a key can be pressed again for what it asked about
TYPING: Final = HearableKeys(every=True, typed=True)  # while something is open over the windows
MOST_ECHOES: Final = 4  # keys that are pressed by actions of keys, one from the other


class WindowReturns(NamedTuple):
    """What is known of windows that go back, by their class: after how many seconds.

    `learn` takes in that one went back after so long, `stays` that one did not.
    """

    after: Callable[[str], float]
    learn: Callable[[str, float], None]
    stays: Callable[[str], None]


NO_RETURNS: Final = WindowReturns(lambda _cls: 0.0, lambda _cls, _after: None, lambda _cls: None)


class ListenerSession:
    """Turns what happens into tasks. `keymaps`: those of the config, where they are known already.

    `do` does work that may have to wait for others, and returns whether it is done by now.
    """

    def __init__(
        self,
        desktop: Desktop,
        config: Config,
        shelf: LayoutStore,
        reports: Reports,
        history: History | None = None,
        keymaps: Keymaps | None = None,
        screen: Screen | None = None,
        do: Callable[[Work], bool] = at_once,
        returns: WindowReturns = NO_RETURNS,
    ) -> None:
        self._screen = screen or NoScreen()
        self._desktop, self._shelf, self._reports = desktop, shelf, reports
        self._tasks = TaskRunner(desktop, self._obey, self._ended, reports.broken, do)
        self._macros = MacroQueue(self._tasks, lambda wanted, end: reports.ended(wanted.keys, wanted.action, end, 0.0))
        self._noticing = WindowReactions()
        self._raised: tuple[int, int | None] | None = None  # a window without focus that was gone to, and who has it
        self._asked: tuple[Action, float] | None = None  # what is done if its key is pressed again, and until when
        self._held: dict[Chord, HeldBinding] = {}
        self.config = config  # the one in use
        desktop.keep_free(config.kept_free)
        self._events = EventFollower(config, desktop)
        self._keys = KeyState(config, keymaps or keymaps_of(config, desktop.abilities), reports.post, reports.gave_up)
        self._returns = returns
        self._going_back = GoingBack(desktop, lambda: self.config, reports.post, returns.learn, returns.stays)
        self.keeper = Keeper(desktop, self._tasks, lambda: self.config, self.context)
        self._spare = SpareWorkspaces(desktop, self._tasks, lambda: self.config)
        self._history: History | None = None
        if history:
            self._history = WatchedHistory(history, lambda layout: self._events.recalled(layout))

    # --- what it goes by, and what is so now ---

    def use(self, config: Config) -> None:
        """Go by another config; layers and sequences are left."""
        self.config = config
        self._desktop.keep_free(config.kept_free)
        self._events = EventFollower(config, self._desktop).follow(self._events)
        self._keys.load(config, keymaps_of(config, self._desktop.abilities))
        self._held = {}

    @property
    def paused(self) -> bool:
        """True while nothing is listened to but what ends the pause."""
        return self._keys.paused

    @property
    def state(self) -> KeymapState:
        """The layer, and the sequence that is begun."""
        return self._keys.state

    @property
    def layer(self) -> str:
        """The layer that is on; empty for none."""
        return self._keys.state.layer

    @property
    def layout(self) -> str:
        """The layout that was recalled or saved last; empty for none."""
        return self.context().layout()

    @property
    def is_busy(self) -> bool:
        """True while anything is under way."""
        return bool(self._tasks.running)

    @property
    def under_way(self) -> list[str]:
        """What is being done now."""
        return [str(running.action) for running in self._tasks.running]

    @property
    def busy_until(self) -> float:
        """Until when what is under way waits at the latest; infinity if nothing is, or it waits for something else."""
        return min(self._tasks.until, self.keeper.deadline)

    @property
    def deadline(self) -> float:
        """When something wants to be looked at again at the latest; infinity while nothing waits."""
        return min(self._keys.deadline, self._events.deadline, self._tasks.until, self.keeper.deadline)

    @property
    def chords(self) -> frozenset[Chord]:
        """The chords that begin something outside layers."""
        return self._keys.starts

    @property
    def hearing(self) -> HearableKeys:
        """The keys that mean something now. Escape gives up a recall that waits for programs, and stops macros."""
        if self._screen.is_open:
            return TYPING
        return self._keys.hearing(self._escape_gives_up(), None if self._gives_back else self._front)

    @property
    def _gives_back(self) -> bool:
        """True where a key that turns out to be the program's can be given to it."""
        return Ability.PASS_ON in self._desktop.abilities

    def _front(self) -> str | None:
        return self.config.front_app(self._desktop.look().desk)

    def _escape_gives_up(self) -> bool:
        """True if Escape means that a recall or a macro is not to wait any longer, as nothing else has it."""
        waiting = [one for one in self._tasks.running if one.waiting and traits_of(one.action).begins_others]
        return bool(waiting) and self._keys.escape_is_free

    def meaning(self, chord: Chord, moment: Moment) -> KeyMeaning:
        """Return the meaning of a chord now; no action is done."""
        return self._keys.meaning(chord, lambda: self.config.front_app(moment.desk))

    # --- what can be asked of it ---

    def spell(self, twins: Twins) -> None:
        """Take in which chords are one key on the keyboard in use."""
        self._keys.spell(twins)

    def pause(self, on: bool) -> None:
        """Begin or end a pause. What is under way goes on; layers and sequences are left."""
        self._keys.pause(on)

    def enter(self, layer: str) -> None:
        """Turn a layer on."""
        self._keys.enter(layer, self._desktop.look().now)

    def leave(self) -> None:
        """Leave all layers and sequences."""
        self._keys.leave()

    def close_screen(self) -> None:
        """Close what is open over the windows."""
        self._screen.close()

    def go_on(self) -> None:
        """Take no notice of the start: this goes on where another session was."""
        self._events.forget_start()

    def act(self, action: Action, moment: Moment, then: Then, window: int | None = None) -> None:
        """Begin an action that no key asks for; `then` is called when it has ended, with the seconds that it took.

        `window`: the one that it is done for, where that is not the one in front.
        """
        self._begin(QueuedAction((), action, 0, window, then=then), moment)

    def act_by(self, begin: Callable[[TaskContext], Task], action: Action, moment: Moment, then: Then) -> None:
        """Begin a task that stands for an action with options, as `act`."""
        task = begin(self.context(again=True))
        self._tasks.start(RunningTask((), action, task, then=then), 0, moment)

    def fire(self, binding: Binding, moment: Moment, then: Then) -> None:
        """Begin an action of a key that nobody pressed; `then` as for `act`."""
        self._begin(QueuedAction(binding.keys, binding.action, then=then), moment)

    def turn(self, state: KeymapState, now: float) -> None:
        """Let the keys mean what they do in a state, as after a key."""
        self._keys.turn(state, now)

    def released(self, binding: Binding, now: float) -> None:
        """Take in that a binding is done by letting go of its key."""
        self._keys.released(binding, now)

    @property
    def keymap(self) -> Keymap:
        """What keys mean now."""
        return self._keys.keymap

    def do(self, binding: Binding, time: int, moment: Moment, depth: int = 0, held: HeldBinding | None = None) -> None:
        """Begin an action of a key. A new recall takes the place of one that is still waiting."""
        if depth > MOST_ECHOES:
            self._tasks.forget_pressed()
            line = f"{binding.action} is not done again, as it presses the keys that lead to it"
            self._refuse(QueuedAction(binding.keys, binding.action), TaskOutcome(False, line))
            return
        self._begin(QueuedAction(binding.keys, binding.action, time, depth=depth, held=held), moment)

    def forget_layout(self) -> None:
        """Look up anew which layout stands, as another may."""
        self._noticing.forget_layout()

    def prepare(self, moment: Moment) -> None:
        """Do beforehand what the next key would have to wait for."""
        self.config.claims.prepare(moment.desk)

    # --- what happens ---

    def key(self, event: KeyEvent, moment: Moment) -> bool:
        """Take in what happened to a key; True if it belongs to the program in front."""
        if self._screen.is_open and (event.typed or event.edge is not KeyEdge.RELEASE):
            if event.typed:
                self._screen.key(event.typed)
            return False
        if event.edge is KeyEdge.PRESS:
            return self._press(event, moment)
        held = self._held.get(event.chord) if event.chord else None
        if held is None:
            return False
        if event.edge is KeyEdge.REPEAT:
            if held.binding and held.binding.repeat:
                repeat = QueuedAction(held.binding.keys, held.binding.action, event.time, held=held, repeats=True)
                self._begin(repeat, moment)
            return held.passed
        assert event.chord is not None
        del self._held[event.chord]
        if held.on_release:
            self._keys.released(held.on_release, moment.now)
            self._reports.fired(held.on_release)
            self.do(held.on_release, event.time, moment)
        return held.passed

    def _press(self, event: KeyEvent, moment: Moment) -> bool:
        """Begin what a chord is bound to, go on with a sequence, or enter or leave a layer."""
        self._keys.give_up(moment.now)
        if event.chord == ESCAPE and self._escape_gives_up():
            self._give_up_recalls("was given up")
            self._macros.stop("was stopped")
            return False
        step = self._keys.press(event.chord, lambda: self.config.front_app(moment.desk), moment.now)
        held = HeldBinding(step.binding, step.on_release, step.passed)
        if event.chord:
            self._held[event.chord] = held
        if step.binding is not None:
            if step.binding.repeat and self._history:
                held.history = HeldHistory(self._history)
            self._reports.fired(step.binding)
            self.do(step.binding, event.time, moment, self._tasks.depth_of(event.chord, moment.now), held)
        return step.passed

    def step(self, moment: Moment) -> None:
        """Resume every task with what is so now; give up a sequence or layer that has not gone on."""
        self._keys.give_up(moment.now)
        self._notice(moment)
        self._answer_events(moment)
        self._going_back.forget({wid for one in self._tasks.running for wid in one.moving})
        self._going_back.look(moment)
        self._tasks.step(moment)
        self.keeper.step()
        self._spare.step(moment)

    def _notice(self, moment: Moment) -> None:
        """Do what is to be done with windows and displays that have come or gone since the desk was last looked at."""
        recalled = {app for one in self._tasks.running for app in one.placing}
        for action, task, opening in self._noticing.notice(moment, self.context(), recalled):
            if self.paused:
                task.close()
                continue
            if action.verb == RECALL:
                self._give_up_recalls("was given up, as the displays changed")
            self._tasks.start(RunningTask((), action, task, opening=opening), 0, moment)

    def _answer_events(self, moment: Moment) -> None:
        """Do what is to be done about what has happened; one that leads back to itself is cut."""
        for one in self._events.due(moment, [running.chain for running in self._tasks.running if running.chain]):
            if self.paused:
                continue
            if isinstance(one, LoopedEvent):
                way = " -> ".join(on.text for on in one.chain)
                on = one.chain[-1]
                line = f"{on.text}: {on.action} is not done, as it leads back to itself: {way}"
                self._reports.ended((), EVENT, TaskOutcome(False, line), 0.0)
            else:
                wanted = QueuedAction((), one.on.action, 0, one.window, one.chain)
                first = next(
                    (other for other in self._tasks.running if other.opening and other.opening == one.window), None
                )
                if first:
                    first.next.append(wanted)
                else:
                    self._begin(wanted, moment)

    # --- from an action to its end ---

    def _begin(self, wanted: QueuedAction, moment: Moment) -> None:
        action = wanted.action
        if action.verb == RUN:
            turn, refused = self._macros.turn_of(wanted, self.config)
            if refused:
                self._refuse(wanted, refused)
            if turn is not MacroTurn.NOW:
                return
        if action.verb == RECALL:
            if wanted.chain and any(one.action == action for one in self._tasks.running):
                return  # an event joins a recall that is under way: it is said once what comes of it
            self._give_up_recalls(f"was given up for {action}")
        asked, self._asked = self._asked, None
        again = asked is not None and asked[0] == action and moment.now < asked[1]
        window, history = wanted.window, wanted.held.history if wanted.held else None
        if self._raised and window is None and traits_of(action).moves and not action.named("APP"):
            window = self._raised_window(moment)
        again |= wanted.then is not None  # a command means what it says the first time
        try:
            task = begin(action, self.context(again, window, history), moment)
        except JakletError as fault:
            self._refuse(wanted, failure(fault))
            return
        except Exception as fault:
            self._refuse(wanted, TaskOutcome(False, self._reports.broken(str(action), fault)))
            return
        running = RunningTask(
            wanted.keys, action, task, chain=wanted.chain, then=wanted.then, depth=wanted.depth,
            repeats=wanted.held if wanted.repeats else None,
        )  # fmt: skip
        self._tasks.start(running, wanted.time, moment)
        if self._asked:
            self._asked = action, moment.now + ASK_AGAIN

    def _raised_window(self, moment: Moment) -> int | None:
        """Return the window that was gone to last, where it takes no focus and nothing has had the focus since."""
        if self._raised is None or self._raised[1] != moment.desk.active:
            return None
        window = moment.desk.by_id.get(self._raised[0])
        return window.id if window and moment.desk.in_view(window) else None

    def _refuse(self, wanted: QueuedAction, outcome: TaskOutcome) -> None:
        """Tell that an action was not begun."""
        self._reports.ended(wanted.keys, wanted.action, outcome, 0.0)
        if wanted.then:
            wanted.then(outcome, 0.0, ())
        else:
            self._reports.post(Notice(outcome.line, failed=True))

    def _give_up_recalls(self, why: str) -> None:
        for other in self._tasks.of(RECALL):
            self._tasks.end(other, TaskOutcome(False, f"{other.action} {why}"))

    def context(self, again: bool = False, window: int | None = None, history: History | None = None) -> TaskContext:
        """Return the context of actions. `again`: whether the key that asked for one was pressed again.

        `window`: the one that the action is about, where that is not the one in front. `history`: where its steps go,
        where that is another one.
        """
        return TaskContext(
            self.config,
            self._shelf,
            self._tasks.launching,
            window=window,
            history=history or self._history,
            by_key=True,
            again=again,
            layer=lambda: self.layer,
            kept=lambda: self.keeper.kept() if self.keeper.is_used else None,
            arranged=self.keeper.arranged,
            watch=self._reports.watch,
            goes_back=self._returns.after,
        )

    def _obey(self, order: Order, running: RunningTask, moment: Moment) -> None:
        """Do what an action asks of the listener itself."""
        match order:
            case Tell(text):
                running.told.append(text)
                self._reports.post(Notice(text))
            case Enter(layer):
                self._keys.enter(layer, moment.now)
            case ShowView():
                if fault := self._screen.open(order, moment.desk):
                    self._reports.post(Notice(fault, failed=True))
            case Expect(apps):
                running.placing = apps
            case Pause(on):
                self.pause(not self.paused if on is None else on)
            case Arrange() | Float() | Restore():
                self.keeper.obey(order, moment)
            case Stop(macro):
                self._macros.stop("was stopped", macro, running)

    def _ended(self, running: RunningTask, outcome: TaskOutcome, by_itself: bool) -> None:
        """Take in how a task ended; a failure reaches its user, who may look elsewhere than at the log."""
        is_told = not running.repeats or not (outcome.done or running.repeats.has_failed)
        if running.repeats and not outcome.done:
            running.repeats.has_failed = True  # a key that is held says once what is wrong
        if by_itself and not outcome.done and not running.then and is_told:
            self._reports.post(Notice(outcome.line, failed=True))
        moment = self._desktop.look()
        now = moment.now
        if running.focused is not None and running.action.verb in ("go", "focus"):
            gone_to = moment.desk.by_id.get(running.focused)
            takes_none = gone_to is not None and not gone_to.takes_focus and moment.desk.active != gone_to.id
            self._raised = (running.focused, moment.desk.active) if outcome.done and takes_none else None
        if outcome.done and running.action != KEEPS:  # who fights for a share is the keeper's business
            self._going_back.placed(running.moving, moment)
        if running.action.verb in (RECALL, SAVE):
            self._noticing.forget_layout()
        self.keeper.ended(running)
        if running.chain:
            self._events.ended(running.chain, now)
        if outcome.asks_again:
            self._asked = running.action, 0.0
        took = now - running.since
        if is_told:
            self._reports.ended(running.keys, running.action, outcome, took)
        if running.then:
            running.then(outcome, took, running.told)
        for wanted in running.next:
            self._begin(wanted, self._desktop.look())
        following = self._macros.next() if running.action.verb == RUN else None
        if following:
            self._begin(following, self._desktop.look())
