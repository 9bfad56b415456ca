"""What the core and the listener need from outside, and nothing more."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from enum import Enum
from types import MappingProxyType
from typing import Final, NamedTuple, Protocol

from jaklet.core.keys.keymap import Hearing, Twins
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk import Change, Desk, Press, Shape
from jaklet.core.values.entries import DesktopEntry
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import Layout

NOT_FOUND: Final = 127  # the status of a program that is not there, as a shell has it
NOT_ALLOWED: Final = 126  # the same of one that may not be run


HELD: Final = "another program holds it"  # why most chords are refused


class Refusal(NamedTuple):
    """A chord that could not be grabbed, or None for the whole keyboard, and why, in words for the user."""

    chord: Chord | None
    reason: str


class Edge(Enum):
    """What happened to a key: it went down, it was held long enough to repeat, it went up."""

    PRESS = "press"
    REPEAT = "repeat"
    RELEASE = "release"


class KeyEvent(NamedTuple):
    """A key that was heard. `chord`: as it was pressed, None for one that is bound to nothing; `time`: the server's.

    `waits`: the key is held back until `answer` says whose it is.
    """

    edge: Edge
    chord: Chord | None
    time: int
    waits: bool = False


class Ended(NamedTuple):
    """A program launched for an app that has ended. `reason`: why it could not even begin."""

    app: str
    status: int
    reason: str = ""


NONE_FAILED: Final[Mapping[Press, str]] = MappingProxyType({})


def _nothing_said(_app: str) -> str:
    return ""


class Moment(NamedTuple):
    """The desk and the time in seconds, on a clock that only goes forward.

    `settled`: all that was asked has been dealt with, and what is not so by now has been refused.
    `ended`: the programs launched for apps that have ended, the latest of each app.
    `said`: the line that says most of what an app's program wrote as errors since it was launched.
    `pressing`: keys for programs that are still to be pressed; `unpressed`: why some were not.
    """

    desk: Desk
    now: float
    settled: bool = True
    ended: Sequence[Ended] = ()
    said: Callable[[str], str] = _nothing_said
    pressing: Sequence[Press] = ()
    unpressed: Mapping[Press, str] = NONE_FAILED


class Notice(NamedTuple):
    """Something that the user is told. `failed`: of a failure. `topic`: a later one on the same replaces it."""

    text: str
    failed: bool = False
    topic: str = ""


class Desktop(Protocol):
    """A desk that can be read, changed and waited on. Times are in seconds on its own clock."""

    def look(self) -> Moment:
        """Return the desk as it is now."""
        ...

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        """Ask for changes, in order, and return without waiting. `time`: server time of the key that asked."""
        ...

    def give_up(self, press: Press) -> None:
        """Press no more of these keys, as whoever asked for them has been ended."""
        ...

    def wait(self, until: float) -> Moment:
        """Wait until the desk changes, settles, or the time has come; return the desk as it is then."""
        ...

    def idle(self) -> float:
        """Return for how many seconds neither keyboard nor pointer was used."""
        ...

    def time_of_day(self) -> float:
        """Return the seconds since midnight, as the user's clock shows it."""
        ...

    def identity(self) -> str:
        """Return what tells this desk from every other one, and from what it will be after a new start."""
        ...

    def close(self) -> None:
        """Let go of the desk; what a saved desk should remember is kept."""
        ...


class ChordDesktop(Desktop, Protocol):
    """A desk whose keyboard can be listened to."""

    def grab(self, hearing: Hearing) -> list[Refusal]:
        """Hear exactly these keys, and report the chords that cannot be; with none, that the keyboard cannot be had."""
        ...

    def key_events(self) -> list[KeyEvent]:
        """Return what has been heard since last asked; never waits."""
        ...

    def answer(self, passed: bool) -> None:
        """Say whose a key is that waits: the program's in front if it is `passed` on, else ours."""
        ...

    def lost(self) -> list[Refusal]:
        """Return the keys that waited too long to be judged since last asked, and went to the program in front."""
        ...

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return which of these chords are one key on this keyboard, for each the others."""
        ...

    def remapped(self) -> list[Refusal] | None:
        """Return the chords that cannot be had any more, all of them, if the keyboard has changed; else None."""
        ...

    def holding(self) -> str:
        """Return in words why keys are kept from programs now; empty if they are not."""
        ...

    def manager_name(self) -> str:
        """Return the name of the window manager, if it has one."""
        ...

    def watch(self, descriptors: Iterable[int]) -> None:
        """Let `wait` return when one of these file descriptors can be read."""
        ...


class Programs(Protocol):
    """What can be launched."""

    def has(self, program: str) -> bool:
        """True if there is a program of this name or path."""
        ...

    def names(self) -> Iterable[str]:
        """Return the names of all programs."""
        ...

    def entry(self, entry_id: str) -> DesktopEntry | None:
        """Return the desktop entry with this id, if there is one; raises `EntryError` if it cannot be read."""
        ...

    def entry_ids(self) -> Iterable[str]:
        """Return the ids of all desktop entries."""
        ...


class Was(NamedTuple):
    """How a window was before a step: what it takes to put it back, and what it was called."""

    id: int
    name: str
    frame: Rect
    shape: Shape
    minimised: bool
    above: bool
    workspace: int | None


class UndoStep(NamedTuple):
    """Changes made together, as they can be undone: the windows as they were, and the desk around them.

    Of the desk it has what was changed: `stacking` from bottom to top, the `active` window, the `workspace` that was
    shown, whether there were `gaps`. `at`: seconds since the epoch.
    """

    action: str
    windows: tuple[Was, ...]
    stacking: tuple[int, ...] = ()
    active: int | None = None
    workspace: int | None = None
    gaps: bool | None = None
    at: float = 0.0


class History(Protocol):
    """The steps that can be undone, of one desk, the last one first."""

    def keep(self, step: UndoStep) -> int:
        """Add a step, and return its number."""
        ...

    def more(self, number: int, step: UndoStep) -> int:
        """Put a step in the place of the one with this number, as it went on; return the number."""
        ...

    def steps(self) -> "list[tuple[int, UndoStep]]":
        """Return the steps with their numbers, the last one first."""
        ...

    def drop(self, number: int) -> None:
        """Take a step away."""
        ...

    def stands(self, layout: str, saved: bool = False) -> None:
        """Remember that a layout was recalled, or saved."""
        ...

    def layouts(self) -> list[str]:
        """Return the layouts that were recalled or saved on this desk, the last one first."""
        ...


class Kept(NamedTuple):
    """A layout that was saved: the number of the former version that is kept, if there was one.

    `lost_number`: the layout whose number it took. `aside`: where the history was put, which could not be read.
    """

    former: int | None
    lost_number: str = ""
    aside: str = ""


class Shelf(Protocol):
    """Where layouts are kept."""

    def find(self, word: str) -> Layout | None:
        """Return the layout with this name or number, or the one marked `home`, freshly read.

        Raises `StoreError` if it cannot be read.
        """
        ...

    def names(self) -> list[str]:
        """Return the names of all layouts."""
        ...

    def keep(self, layout: Layout, *, take_number: bool = False) -> Kept:
        """Save a layout whole or not at all, keeping the former version; raises `StoreError`.

        `take_number`: another layout that has its number loses it.
        """
        ...
