"""The tasks that are under way: begun, resumed with each moment, ended. Of two about the same the later one counts."""

from collections.abc import Callable, Sequence
from typing import Final, NamedTuple

from jaklet.core.actions.ports.desktop import Desktop, Moment
from jaklet.core.actions.tasks import Task, TaskOutcome, TaskRequest
from jaklet.core.actions.work import Work
from jaklet.core.language.verbs import RUN, FocusAfter, traits_of
from jaklet.core.values.changes import Change, Focus, Launch, Move, Press, Reshape
from jaklet.core.values.chords import Chord, Keys
from jaklet.core.values.errors import JakletError
from jaklet.core.values.event_bindings import EventBinding
from jaklet.core.values.orders import Order
from jaklet.core.values.sentences import Action
from jaklet.listener.held_bindings import HeldBinding

NEVER: Final = float("inf")
ECHO: Final = 2.0  # seconds in which a chord that an action has pressed comes back
# Is called when an action has ended, with the seconds that it took and what it has told the user meanwhile.
Then = Callable[[TaskOutcome, float, Sequence[str]], None]


NO_APPS: Final[frozenset[str]] = frozenset()


class QueuedAction(NamedTuple):
    """An action that a key, an event or a client asks for. `window`: the one that the event is about.

    `depth`: how many actions have pressed the keys that led to it. `held`: the key that is down for it; `repeats`: it
    has been down for a while, and this is one of its repeats.
    """

    keys: Keys
    action: Action
    time: int = 0
    window: int | None = None
    chain: tuple[EventBinding, ...] = ()
    then: Then | None = None
    depth: int = 0
    held: HeldBinding | None = None
    repeats: bool = False


class RunningTask:
    """A task under way: what it was pressed for, until when it waits, and the apps it has launched.

    `focusing`: all it still does is to see that a window gets the focus. `focused`: the one it has asked that for.
    `moving`: the windows that it has moved; `shaping`: those that it has maximised, made fullscreen, or normal.
    `looks_after`: the one in front, which it may have to move. `pressing`: the keys that it has asked for.
    `placing`: the apps whose new windows it will place itself. `waiting`: for something that is still to come.
    `chain`: the events of the config that led to it. `opening`: the new window that it puts in its place, and `next`
    what is to be done when it has. `depth`: how many actions have pressed the keys that led to it. `told`: what it has
    said. `repeats`: the key of which it is a repeat, as that is held.
    """

    def __init__(
        self,
        keys: Keys,
        action: Action,
        task: Task,
        until: float = NEVER,
        chain: tuple[EventBinding, ...] = (),
        since: float = 0.0,
        then: Then | None = None,
        opening: int | None = None,
        depth: int = 0,
        repeats: HeldBinding | None = None,
    ) -> None:
        self.keys = keys
        self.action = action
        self.task = task
        self.until = until
        self.launching: set[str] = set()
        self.placing: frozenset[str] = frozenset()
        self.focusing = False
        self.focused: int | None = None
        self.moving: set[int] = set()
        self.shaping: set[int] = set()
        self.looks_after: set[int] = set()
        self.pressing: set[Press] = set()
        self.waiting = False
        self.chain = chain
        self.since = since
        self.then = then
        self.opening = opening
        self.next: list[QueuedAction] = []
        self.depth = depth
        self.told: list[str] = []
        self.repeats = repeats


class SentChord(NamedTuple):
    """A chord that an action has pressed: how many actions have led to that, and when it was."""

    depth: int
    at: float


def at_once(work: Work) -> bool:
    """Do work here and now."""
    work.run()
    return True


class TaskRunner:
    """Resumes tasks and does what they ask for.

    `obey` gets the orders of tasks to the listener. `ended` gets each task that has ended, and whether it did so by
    itself. `broken` gets a fault of Jaklet's own, and returns it in words. `do` does work that may have to wait for
    others, and returns whether the work is done by now.
    """

    def __init__(
        self,
        desktop: Desktop,
        obey: Callable[[Order, RunningTask, Moment], None],
        ended: Callable[[RunningTask, TaskOutcome, bool], None],
        broken: Callable[[str, Exception], str],
        do: Callable[[Work], bool] = at_once,
    ) -> None:
        self._do = do
        self._desktop, self._obey, self._ended, self._broken = desktop, obey, ended, broken
        self.running: tuple[RunningTask, ...] = ()  # those that are under way, the one begun first first
        self._pressed: dict[Chord, SentChord] = {}  # chords that actions have pressed, which may be bound themselves

    def of(self, verb: str) -> list[RunningTask]:
        """Return those of one verb."""
        return [running for running in self.running if running.action.verb == verb]

    @property
    def until(self) -> float:
        """Until when they wait at the latest; infinity if none does, or they wait for something else."""
        return min([running.until for running in self.running]) if self.running else NEVER

    @property
    def launching(self) -> frozenset[str]:
        """The apps that they have launched."""
        if not self.running:
            return NO_APPS
        return frozenset([app for running in self.running for app in running.launching])

    def start(self, running: RunningTask, time: int, moment: Moment) -> None:
        """Begin a task. `time`: the server's, of the key that asked for it."""
        running.since = moment.now
        front, traits = moment.desk.front, traits_of(running.action)
        if front and traits.moves and not traits.begins_others and not running.action.named("APP"):
            running.looks_after = {front.id}
        self.running = (*self.running, running)
        self._advance(running, None, time)
        if running in self.running and running.until <= moment.now:  # it waits for nothing
            self._advance(running, moment, 0)

    def step(self, moment: Moment) -> None:
        """Resume every task with what is so now."""
        for running in self.running:
            if running in self.running:  # none that another one has ended
                self._advance(running, moment, 0)

    def end(self, running: RunningTask, outcome: TaskOutcome, by_itself: bool = False) -> None:
        """End a task, wherever it is."""
        running.task.close()
        self.running = tuple([one for one in self.running if one is not running])
        for press in running.pressing:
            self._desktop.give_up(press)
        self._ended(running, outcome, by_itself)

    def depth_of(self, chord: Chord | None, now: float) -> int:
        """Return how many actions have pressed the keys that led to a chord; 0 for a key of the user's own."""
        pressed = self._pressed.get(chord) if chord else None
        return pressed.depth if pressed and now - pressed.at < ECHO else 0

    def forget_pressed(self) -> None:
        """Take the next chord as the user's own."""
        self._pressed.clear()

    def _advance(
        self, running: RunningTask, moment: Moment | None, time: int, fault: JakletError | None = None
    ) -> None:
        """Resume a task: with a moment, or with the fault of what it asked for; without either, begin it."""
        try:
            if fault:
                ask: TaskRequest = running.task.throw(fault)
            else:
                ask = running.task.send(moment) if moment else next(running.task)
            while ask.work and self._do(ask.work):
                ask = running.task.send(moment or self._desktop.look())
        except StopIteration as end:
            self.end(running, end.value, by_itself=True)
            return
        except JakletError as failed:
            self.end(running, failure(failed), by_itself=True)
            return
        except Exception as failed:
            self.end(running, TaskOutcome(False, self._broken(str(running.action), failed)), by_itself=True)
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
        self._take_note(running, ask.changes)

    def _take_note(self, running: RunningTask, changes: tuple[Change, ...]) -> None:
        """Remember what a task has asked for, and let earlier ones about the same give way."""
        running.launching |= {change.app for change in changes if isinstance(change, Launch)}
        presses = {change for change in changes if isinstance(change, Press)}
        if presses:
            running.pressing |= presses
            now = self._desktop.look().now
            self._pressed |= {chord: SentChord(running.depth + 1, now) for one in presses for chord in one.chords}
        moved = {change.window for change in changes if isinstance(change, Move | Reshape)}
        running.shaping |= {change.window for change in changes if isinstance(change, Reshape)}
        if moved:
            running.moving |= moved
            self._leave_to(running)
        running.focused = next((one.window for one in changes if isinstance(one, Focus)), running.focused)
        if any(isinstance(change, Focus) for change in changes):
            self._give_way(running)
            running.focusing = traits_of(running.action).focus is FocusAfter.GOES

    def _give_way(self, later: RunningTask) -> None:
        """End the earlier tasks that still look after the focus of another window: they would take it back.

        One whose window seemed to be in front already is among them, though it has asked for nothing yet.
        """
        self._end_earlier(
            later, lambda one: one.focusing or (traits_of(one.action).focus is FocusAfter.GOES and not one.launching)
        )

    def _leave_to(self, later: RunningTask) -> None:
        """End the earlier tasks that look only after windows which a later one moves now: they would move them back.

        One whose window seemed to stand there already has moved none, but would do so now.
        """

        def is_over(one: RunningTask) -> bool:
            windows = one.moving or one.looks_after
            return bool(windows) and windows <= later.moving and not one.launching and one.action.verb != RUN

        self._end_earlier(later, is_over)

    def _end_earlier(self, later: RunningTask, is_over: Callable[[RunningTask], bool]) -> None:
        for running in self.running[: self.running.index(later)]:
            if is_over(running):
                self.end(running, TaskOutcome(True, f"{running.action} gave way to {later.action}"))


def failure(fault: JakletError) -> TaskOutcome:
    """Return how an action ends by a fault."""
    return TaskOutcome(False, fault.message, (fault.remedy,) if fault.remedy else ())
