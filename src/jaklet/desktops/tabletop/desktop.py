"""The tabletop behind the port `core.actions.ports.desktop.Desktop`."""

from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Final

from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.language.event_kinds import DAY
from jaklet.core.values.changes import Change, Press
from jaklet.core.values.desk_abilities import Abilities, Ability
from jaklet.core.values.geometry import Insets
from jaklet.desktops.tabletop.chord_source import TabletopChords
from jaklet.desktops.tabletop.file import read_room, save_room
from jaklet.desktops.tabletop.room import Room

MORNING: Final = 8 * 3600.0  # seconds since midnight, when the clock of a tabletop begins


class Tabletop:
    """A simulated desk. Waiting moves its clock and takes no time; everything asked is done at once."""

    def __init__(self, room: Room, path: Path | None = None) -> None:
        self.room = room
        self._path = path
        self.keyboard = TabletopChords(room)
        self._changed = False  # since the file was read
        self._fresh = False  # since the last wait

    @classmethod
    def open(cls, path: Path) -> "Tabletop":
        """Return the tabletop kept in a file; raises `StoreError`."""
        return cls(read_room(path), path)

    @property
    def abilities(self) -> Abilities:
        """What its file says."""
        return self.room.abilities

    @property
    def chords(self) -> TabletopChords | None:
        """Its keyboard, if it has one."""
        return self.keyboard if Ability.HEAR in self.room.abilities else None

    def look(self) -> Moment:
        """Return the desk as it is now."""
        room = self.room
        return Moment(room.desk(), room.now, True, tuple(room.ended), lambda app: room.says.get(app, ""))

    def apply(self, changes: Iterable[Change], time: int = 0) -> None:
        """Do the changes in order."""
        for change in changes:
            self.room.change(change)
            self._changed = self._fresh = True

    def keep_free(self, edges: Mapping[str, Insets]) -> None:
        """Count these edges of displays as no part of their work areas."""
        self.room.kept_free = edges

    def give_up(self, press: Press) -> None:
        """Do nothing: all was pressed at once."""

    def is_dragging(self) -> bool:
        """True while a button of its pointer is down."""
        return self.room.button_down

    def wait(self, until: float) -> Moment:
        """Return at once if something was just changed; else let the clock run to the next event, or to `until`."""
        if not self._fresh:
            self.room.advance(until)
        self._fresh = False
        return self.look()

    def manager_name(self) -> str:
        """Return the name of what holds the chords that are taken."""
        return "the tabletop"

    def watch(self, descriptors: Iterable[int]) -> None:
        """Do nothing: waiting takes no time here, so that nothing can come meanwhile."""

    def idle(self) -> float:
        """Return for how long no key was struck."""
        return self.room.now - self.keyboard.used if Ability.IDLE in self.room.abilities else 0.0

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
