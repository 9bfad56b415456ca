"""The tabletop behind the port `core.actions.ports.ChordDesktop`."""

from collections.abc import Iterable
from pathlib import Path
from typing import Final

from jaklet.core.actions.ports import HELD, Edge, KeyEvent, Moment, Refusal
from jaklet.core.keys.keymap import NO_TWINS, NOTHING, Hearing, Twins
from jaklet.core.language.events import DAY
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk import Change, Press
from jaklet.desktops.tabletop.file import read_room, save_room
from jaklet.desktops.tabletop.room import Room

MORNING: Final = 8 * 3600.0  # seconds since midnight, when the clock of a tabletop begins


class Tabletop:
    """A simulated desk. Waiting moves its clock and takes no time; everything asked is done at once."""

    def __init__(self, room: Room, path: Path | None = None) -> None:
        self.room = room
        self._path = path
        self._struck: list[KeyEvent] = []
        self._hearing = NOTHING
        self._down: dict[Chord, Chord | None] = {}  # keys that are held, and as what they were heard
        self._waiting: Chord | None = None
        self._used = 0.0  # when a key was struck last
        self.passed: list[Chord | None] = []  # keys that went to the program in front
        self._changed = False  # since the file was read
        self._fresh = False  # since the last wait

    @classmethod
    def open(cls, path: Path) -> "Tabletop":
        """Return the tabletop kept in a file; raises `StoreError`."""
        return cls(read_room(path), path)

    def look(self) -> Moment:
        """Return the desk as it is now."""
        room = self.room
        return Moment(room.desk(), room.now, True, tuple(room.ended), lambda app: room.says.get(app, ""))

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        """Do the changes in order."""
        for change in changes:
            self.room.change(change)
            self._changed = self._fresh = True

    def give_up(self, press: Press) -> None:
        """Do nothing: all was pressed at once."""

    def wait(self, until: float) -> Moment:
        """Return at once if something was just changed; else let the clock run to the next event, or to `until`."""
        if not self._fresh:
            self.room.advance(until)
        self._fresh = False
        return self.look()

    def grab(self, hearing: Hearing) -> list[Refusal]:
        """Hear these keys from now on."""
        self._hearing = hearing
        taken = [] if hearing.every else sorted(hearing.chords & self.room.taken)
        return [Refusal(chord, HELD) for chord in taken]

    def strike(self, chord: Chord, edge: Edge = Edge.PRESS) -> None:
        """Press a chord on the simulated keyboard, hold it or let it go; what is not heard is the program's."""
        every, self._used = self._hearing.every, self.room.now
        heard = chord in self._hearing.chords and (every or chord not in self.room.taken)
        if edge is Edge.PRESS:
            if not heard and not every:
                self.passed.append(chord)
                return
            self._down[chord] = chord if heard else None
        elif chord not in self._down:
            return
        # A key that is held goes on as what it was pressed for, whatever is heard by now.
        told = self._down.pop(chord) if edge is Edge.RELEASE else self._down[chord]
        waits = edge is Edge.PRESS and (every or chord in self._hearing.scoped)
        self._struck.append(KeyEvent(edge, told, int(self.room.now * 1000), waits))

    def key_events(self) -> list[KeyEvent]:
        """Return what has been heard since last asked."""
        heard, self._struck = self._struck, []
        self._waiting = next((event.chord for event in heard if event.waits), None)
        return heard

    def answer(self, passed: bool) -> None:
        """Say whose a key is that waits."""
        if passed:
            self.passed.append(self._waiting)

    def lost(self) -> list[Refusal]:
        """Return nothing: no time passes while a key waits."""
        return []

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return nothing: chords are struck here, and no keys."""
        return NO_TWINS

    def remapped(self) -> None:
        """Return nothing: this keyboard does not change."""
        return

    def holding(self) -> str:
        """Return why keys are kept from programs now."""
        return "a layer is on" if self._hearing.every else ""

    def manager_name(self) -> str:
        """Return the name of what holds the chords that are taken."""
        return "the tabletop"

    def watch(self, descriptors: Iterable[int]) -> None:
        """Do nothing: waiting takes no time here, so that nothing can come meanwhile."""

    def idle(self) -> float:
        """Return for how long no key was struck."""
        return self.room.now - self._used

    def time_of_day(self) -> float:
        """Return the time on the simulated clock, which begins in the morning."""
        return (MORNING + self.room.now) % DAY

    def identity(self) -> str:
        """Return the name of its file: the windows in it keep their ids."""
        return f"tabletop {self._path.resolve() if self._path else id(self)}"

    def close(self) -> None:
        """Save the tabletop to its file, if it has one and something changed."""
        if self._path and self._changed:
            save_room(self.room, self._path)
            self._changed = False
