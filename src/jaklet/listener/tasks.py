"""What a session has in hand: actions that are wanted, tasks that run, keys that are held."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Final, NamedTuple

from jaklet.core.actions.ports import History
from jaklet.core.actions.tasks import Outcome, Task
from jaklet.core.values.chords import Keys
from jaklet.core.values.config import Binding
from jaklet.core.values.desk import Press
from jaklet.core.values.on import On
from jaklet.core.values.sentences import Action

NEVER: Final = float("inf")
Then = Callable[[Outcome, float], None]  # is called when an action has ended, with the seconds that it took


@dataclass(slots=True)
class Running:
    """A task under way: what it was pressed for, until when it waits, and the apps it has launched.

    `focusing`: all it still does is to see that a window gets the focus. `moving`: the windows that it has moved.
    `looks_after`: the one in front, which it may have to move. `pressing`: the keys that it has asked for.
    `placing`: the apps whose new windows it will place itself. `waiting`: for something that is still to come.
    `chain`: the entries of `on` that led to it. `opening`: the new window that it puts in its place, and `next` what is
    to be done when it has. `depth`: how many actions have pressed the keys that led to it.
    """

    keys: Keys
    action: Action
    task: Task
    until: float = NEVER
    launching: set[str] = field(default_factory=set)
    placing: frozenset[str] = frozenset()
    focusing: bool = False
    moving: set[int] = field(default_factory=set)
    looks_after: set[int] = field(default_factory=set)
    pressing: set[Press] = field(default_factory=set)
    waiting: bool = False
    chain: tuple[On, ...] = ()
    since: float = 0.0
    then: Then | None = None
    opening: int | None = None
    next: "list[Wanted]" = field(default_factory=list)
    depth: int = 0


class Wanted(NamedTuple):
    """An action that a key, an event or a client asks for. `window`: the one that the event is about.

    `depth`: how many actions have pressed the keys that led to it.
    """

    keys: Keys
    action: Action
    time: int = 0
    window: int | None = None
    chain: tuple[On, ...] = ()
    then: Then | None = None
    depth: int = 0


class Pressed(NamedTuple):
    """A chord that an action has pressed: how many actions have led to that, and when it was."""

    depth: int
    at: float


class Held(NamedTuple):
    """What a key that is held was pressed for, and what is to be done when it is let go."""

    binding: Binding | None
    on_release: Binding | None
    passed: bool


class Followed:
    """A history (`core.actions.ports.History`), of which is told when a layout was recalled."""

    def __init__(self, history: History, recalled: Callable[[str], None]) -> None:
        self._recalled = recalled
        self.keep, self.more, self.steps = history.keep, history.more, history.steps
        self.drop, self.layouts, self._stands = history.drop, history.layouts, history.stands

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled or saved."""
        self._stands(layout, saved)
        if not saved:
            self._recalled(layout)
