"""A desk that can be read, changed and waited on."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from types import MappingProxyType
from typing import Final, NamedTuple, Protocol

from jaklet.core.actions.ports.chord_source import ChordSource
from jaklet.core.values.changes import Change, Press
from jaklet.core.values.desk import Desk
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.geometry import Insets

NOT_FOUND: Final = 127  # the status of a program that is not there, as a shell has it
NOT_ALLOWED: Final = 126  # the same of one that may not be run


class ProgramExit(NamedTuple):
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
    ended: Sequence[ProgramExit] = ()
    said: Callable[[str], str] = _nothing_said
    pressing: Sequence[Press] = ()
    unpressed: Mapping[Press, str] = NONE_FAILED


class Desktop(Protocol):
    """A desk that can be read, changed and waited on. Times are in seconds on its own clock.

    What it cannot do it says by its abilities: its pictures have them, too (`Desk.abilities`), so that nobody asks for
    a change that it cannot make.
    """

    @property
    def abilities(self) -> Abilities:
        """What it can do, and its source of chords; the same as long as it is open."""
        ...

    @property
    def chords(self) -> ChordSource | None:
        """Where its chords come from; None where no keys can be listened to."""
        ...

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
        """Wait until the desk changes, settles, a watched descriptor can be read, or the time has come.

        Return the desk as it is then. Where its chords come by the same way as it does, a key ends the waiting, too.
        """
        ...

    def keep_free(self, edges: Mapping[str, Insets]) -> None:
        """Count these edges of displays as no part of their work areas, by connector; in the place of former ones."""
        ...

    def is_dragging(self) -> bool:
        """True while a button of the pointer is down: nothing is to move by itself then."""
        ...

    def watch(self, descriptors: Iterable[int]) -> None:
        """Let `wait` return when one of these file descriptors can be read."""
        ...

    def idle(self) -> float:
        """Return for how many seconds neither keyboard nor pointer was used; 0 where it cannot tell."""
        ...

    def time_of_day(self) -> float:
        """Return the seconds since midnight, as the user's clock shows it."""
        ...

    def identity(self) -> str:
        """Return a text that is this desk's own, and another one after each new start of the desk."""
        ...

    def manager_name(self) -> str:
        """Return the name of the window manager, if it has one."""
        ...

    def close(self) -> None:
        """Let go of the desk; what a saved desk should remember is kept."""
        ...
