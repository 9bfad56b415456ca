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
    """The end of a program that was launched for an app.

    `status`: its exit status as a shell counts it. `reason`: why the program could not start; empty if it did.
    """

    app: str
    status: int
    reason: str = ""


NONE_FAILED: Final[Mapping[Press, str]] = MappingProxyType({})


def _nothing_said(_app: str) -> str:
    return ""


class Moment(NamedTuple):
    """The desk and the time, in seconds on a clock that only goes forward.

    `settled`: every request was handled, and what does not hold by now was refused.
    `ended`: the last end of each app's program. `said`: returns the most telling line of an app's error output since
    its launch. `pressing`: keys for programs that are still to be pressed. `unpressed`: the reasons why some were not.
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

    A desk says by its abilities what it cannot do (also in `Desk.abilities`). No caller asks for a change that needs
    an ability which is not there. Every method raises `DeskError` when the desk has ended.
    """

    @property
    def abilities(self) -> Abilities:
        """The abilities of the desk and of its source of chords; constant while the desk is open."""
        ...

    @property
    def chords(self) -> ChordSource | None:
        """The source of chords; None where no keys can be heard."""
        ...

    def look(self) -> Moment:
        """Return the desk as it is now, without waiting for requests under way."""
        ...

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        """Request changes, in order, and return without waiting.

        `time`: server time in milliseconds of the key that asked, 0 for none. A refusal is seen in `wait`: the desk is
        settled, and the change is not made.
        """
        ...

    def give_up(self, press: Press) -> None:
        """Press no more of these keys, as the action that asked for them has ended."""
        ...

    def wait(self, until: float) -> Moment:
        """Return the desk once it changes or settles, a watched descriptor can be read, or `until` has come.

        `until`: a time on the desk's clock, in seconds; infinity for no limit. A key ends the wait, too, where keys and
        changes come by the same connection.
        """
        ...

    def keep_free(self, edges: Mapping[str, Insets]) -> None:
        """Leave these edges out of work areas, in pixels by connector. They replace those of a former call."""
        ...

    def is_dragging(self) -> bool:
        """True while a button of the pointer is down: nothing is to move by itself then."""
        ...

    def watch(self, descriptors: Iterable[int]) -> None:
        """Let `wait` return when one of these file descriptors can be read. They replace those of a former call."""
        ...

    def idle(self) -> float:
        """Return the seconds since keyboard or pointer was used last; 0 without the ability `idle`."""
        ...

    def time_of_day(self) -> float:
        """Return the seconds since midnight, as the user's clock shows it."""
        ...

    def identity(self) -> str:
        """Return a text that differs from desk to desk, and after each restart of this one."""
        ...

    def manager_name(self) -> str:
        """Return the name of the window manager; empty where there is none."""
        ...

    def close(self) -> None:
        """Close the connection to the desk. A tabletop writes its file."""
        ...
