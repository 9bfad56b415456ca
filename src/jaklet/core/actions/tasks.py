"""Tasks: what an action does over time, as a pure state machine.

A task is a generator. It begins with the desk as it is, yields a `TaskRequest` (changes to make, and until when to wait
for their effect) and is resumed with the next `Moment`. It ends with a `TaskOutcome`. It never reads a clock, sleeps or
touches a desk, so the same task runs under the listener, in a command, in a test and in a dry run.

Nearly all tasks are one idea: a *goal* is a function from a desk to the changes that are still needed. `reach` asks
for them until none is left. A goal that holds already needs no change, which makes every action idempotent, and what
the goal still asks for after the desk has settled is what was refused.
"""

from collections.abc import Callable, Generator, Iterable, Mapping, Sized
from typing import Final, NamedTuple, TypeVar

from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.ports.history import History
from jaklet.core.actions.ports.layout_store import LayoutStore
from jaklet.core.actions.work import Work
from jaklet.core.values.changes import KINDS, Change, Focus, Move, Stack, lacking_for
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.errors import JakletError, StoreError
from jaklet.core.values.orders import Order
from jaklet.core.values.sentences import Action
from jaklet.core.values.sharings import ArrangedSpot, KeptArrangements, Sharing
from jaklet.core.values.stacking import stands_on_top

SETTLE: Final = 2.5  # seconds a desk may take to say that it has dealt with what was asked; a hung one takes longer
EACH: Final = 0.02  # seconds more for each change: hundreds of windows are more than one
ATTEMPTS: Final = 3  # leaving a maximised state changes the frame, so that a second round can be needed
LONGEST_WORK: Final = 10.0  # seconds after which work that is not done yet is given up
TRYING: Final = 1.7  # seconds after which nothing is asked for again: what does not come to rest is told of as it is


CHANGING: Final = frozenset(
    kind.needed for kind in KINDS.values() if kind.needed
)  # the abilities of a desk that can make all changes


def patience(changes: Sized) -> float:
    """Return the seconds that a desk may take for changes before it counts as hung."""
    return SETTLE + EACH * len(changes)


class TaskRequest(NamedTuple):
    """What a task wants: changes now, and to be resumed when the desk changes, or at `until` at the latest.

    `later` says in words what is planned for afterwards, for a dry run. `orders`: what whoever runs it is to do.
    `work`: what is to be done for it that may have to wait for others.
    """

    changes: tuple[Change, ...]
    until: float
    later: tuple[str, ...] = ()
    orders: tuple[Order, ...] = ()
    work: Work | None = None


class TaskOutcome(NamedTuple):
    """How a task ended: one line for the user, and more lines where something was refused."""

    done: bool
    line: str
    more: tuple[str, ...] = ()
    asks_again: bool = False  # it was a key, and is done when that is pressed again


Task = Generator[TaskRequest, Moment, TaskOutcome]
Result = TypeVar("Result")
Goal = Callable[[Desk], tuple[Change, ...]]


def _not_kept() -> None:
    return None


def _at_once(_cls: str) -> float:
    return 0.0


def none_arranged(_desk: Desk) -> Mapping[ArrangedSpot, Sharing]:
    """Return nothing: it stays arranged where a listener sees to it, and nowhere else."""
    return {}


class TaskContext(NamedTuple):
    """What a task may know beside the desk.

    `launching`: apps that are being launched at this moment. `window`: the one that an action is done for, where it is
    not the one in front. `history`: where the steps are kept that can be undone. `opens`: does what is to be done
    with an app's new window, where nobody but the task that launches it sees the window come. `begin`: returns the task
    of an action that is part of another. `by_key`: a key asked for it, which can be pressed `again`, and was.
    `layer`: tells which layer is on; `kept`: how everything stays arranged, None where nothing does; `arranged`: what
    does so, and stands so.
    `macros`: those that this is a part of, the outermost first.
    `part`: it is undone with what it is a part of. `watch`: is told of every step of a macro, when it is done.
    `goes_back`: returns after how many seconds windows of a class have gone back before; 0 for those that do not.
    """

    config: Config
    shelf: LayoutStore
    launching: frozenset[str] = frozenset()
    window: int | None = None
    history: History | None = None
    opens: "Callable[[Window, TaskContext, Moment], Generator[TaskRequest, Moment, Moment]] | None" = None
    begin: "Callable[[Action, TaskContext, Moment], Task] | None" = None
    by_key: bool = False
    again: bool = False
    layer: Callable[[], str] = str
    kept: Callable[[], KeptArrangements | None] = _not_kept
    arranged: Callable[[Desk], Mapping[ArrangedSpot, Sharing]] = none_arranged
    macros: tuple[str, ...] = ()
    part: bool = False
    watch: "Callable[[Action, TaskOutcome, Moment], None] | None" = None
    goes_back: Callable[[str], float] = _at_once

    def layout(self) -> str:
        """Return the name of the layout that was recalled or saved last on this desk; empty for none."""
        try:
            return next(iter(self.history.layouts()), "") if self.history else ""
        except StoreError:
            return ""


def outcome(done: bool, line: str, *more: str) -> Task:
    """Return a task that has nothing to do."""
    return TaskOutcome(done, line, more)
    yield  # makes it a generator


def run_within(task: Task, moment: Moment) -> Generator[TaskRequest, Moment, tuple[Moment, TaskOutcome]]:
    """Do a task as a part of another one; return the desk as it then is, and how the task ended."""
    try:
        ask = next(task)
        while True:
            try:
                moment = yield ask
            except JakletError as fault:  # what it asked for cannot be asked of this desk
                ask = task.throw(fault)
            else:
                ask = task.send(moment)
    except StopIteration as end:
        return moment, end.value
    finally:
        task.close()


def waited_for(
    call: Callable[[], Result], moment: Moment, what: str
) -> Generator[TaskRequest, Moment, tuple[Moment, Result]]:
    """Have a call done that may have to wait for others; return the moment then, and its result.

    `what`: the call in words, for the fault. Raises what the call raises, and `StoreError` where it takes too long.
    """
    work, until = Work(call), moment.now + LONGEST_WORK
    moment = yield TaskRequest((), until, work=work)
    while not work.is_done:
        if moment.now >= until:
            raise StoreError(f"{what} takes too long, and was given up", "see which disk or process holds it up")
        moment = yield TaskRequest((), until)
    return moment, work.result()


LONGER: Final = 1.5  # times as long as a window took to go back before, until it is taken to stay
AT_LEAST: Final = 1.0  # seconds of that: it may have been asked for something else meanwhile, and went back the sooner


def wait_for_returns(
    goal: Goal, windows: Iterable[Window], context: "TaskContext", moment: Moment
) -> Generator[TaskRequest, Moment, tuple[Moment, tuple[Change, ...]]]:
    """Wait until windows that are known to go back have had the time for it; return what is needed then.

    Where none of them is known to, nothing is waited for.
    """
    after = max((context.goes_back(one.cls) for one in windows), default=0.0)
    if not after:
        return moment, ()
    until = moment.now + max(AT_LEAST, after * LONGER)
    while moment.now < until:
        moment = yield TaskRequest((), until)
    return moment, goal(moment.desk)


class GoalResult(NamedTuple):
    """How far a goal was reached: the last moment, the changes that were refused, and whether there was any to ask."""

    moment: Moment
    refused: tuple[Change, ...]
    asked: bool


def reach(
    goal: Goal, moment: Moment, *, lasting: bool = False, since: float | None = None
) -> Generator[TaskRequest, Moment, GoalResult]:
    """Ask for what the goal needs until it holds.

    A goal that seems to hold while earlier changes are still on their way is looked at again when they have arrived.
    `lasting`: it has to hold still when the desk has settled, as a window can take a size and give it back.
    `since`: when the action began that this is a part of, if it did before.
    """
    began = moment.now if since is None else since
    wanted, goal = goal, _possible(goal, moment.desk.abilities)
    moment, needed = yield from _until_needed(moment, goal, moment.now + SETTLE)
    asked, turns = False, None
    for _ in range(ATTEMPTS):
        if not needed or moment.now > began + TRYING:
            break
        if not all(isinstance(change, Focus) for change in needed):
            turns = None  # an order is made by giving the focus to one window after the other
        elif turns is None:
            turns = moment.desk.turns
        elif moment.desk.turns >= turns + 2:
            break  # it was given, and somebody else has given it away since: that is to stay
        asked = True
        until = moment.now + patience(needed)
        moment = yield TaskRequest(needed, until)
        moment, needed = yield from (_until_rest if lasting else _until_met)(moment, goal, until)
    if not moment.desk.abilities >= CHANGING:
        needed += tuple(one for one in wanted(moment.desk) if lacking_for(one, moment.desk.abilities))
    return GoalResult(moment, tuple(change for change in needed if not _is_so(change, moment.desk)), asked)


_Waiting = Generator[TaskRequest, Moment, tuple[Moment, tuple[Change, ...]]]


def _until_needed(moment: Moment, goal: Goal, until: float) -> _Waiting:
    """Wait until something is needed, or the desk has settled; return the changes that are needed then."""
    while not (needed := goal(moment.desk)) and not moment.settled and moment.now < until:
        moment = yield TaskRequest((), until)
    return moment, needed


def _until_met(moment: Moment, goal: Goal, until: float) -> _Waiting:
    """Wait until nothing is needed, or the desk has settled; return the changes that are needed then."""
    while (needed := goal(moment.desk)) and not moment.settled and moment.now < until:
        moment = yield TaskRequest((), until)
    return moment, needed


def _until_rest(moment: Moment, goal: Goal, until: float) -> _Waiting:
    """Wait until the desk has settled; return the changes that are needed then."""
    while not moment.settled and moment.now < until:
        moment = yield TaskRequest((), until)
    return moment, goal(moment.desk)


def _possible(goal: Goal, abilities: Abilities) -> Goal:
    """Return a goal without the changes that a desk with these abilities cannot make."""
    if abilities >= CHANGING:
        return goal

    def possible(desk: Desk) -> tuple[Change, ...]:
        return tuple(change for change in goal(desk) if not lacking_for(change, desk.abilities))

    return possible


def _is_so(change: Change, desk: Desk) -> bool:
    """True if a change that was asked for beside another one, which was refused, is so by now, or as far as is seen."""
    if isinstance(change, Stack):
        return stands_on_top(change.windows, desk)
    window = desk.by_id.get(change.window) if isinstance(change, Move) else None
    return isinstance(change, Move) and window is not None and window.frame == change.frame
