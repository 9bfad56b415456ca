"""The chords of an X server: what its keyboard tells, behind the port `core.actions.ports.chord_source.ChordSource`.

Keys come by the connection of the desk, which hands their events over; so it has no descriptor and no clock of its own.
"""

from collections.abc import Iterable
from typing import Any, Final

import xcffib.xproto as xp

from jaklet.core.actions.ports.chord_source import GrabChange, KeyEvent, RefusedChord
from jaklet.core.keys.keymap import NOTHING, HearableKeys, Twins
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk_abilities import Abilities
from jaklet.desktops.x11.abilities import KEYS
from jaklet.desktops.x11.grabs import STATE_NOTIFY, XKB_EVENT, KeyboardGrabs
from jaklet.desktops.x11.wire import Wire


class X11Chords:
    """Hears keys on one connection. The keyboard is read when something is first asked about it."""

    due: Final = float("inf")

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._keyboard: KeyboardGrabs | None = None
        self.heard: list[KeyEvent] = []  # those that were not asked for yet
        self._late: list[RefusedChord] = []  # keys that waited too long
        self._refusals: list[RefusedChord] | None = None  # of the chords on a keyboard that is another one now
        self._is_other = False  # the keyboard, since it was read

    @property
    def abilities(self) -> Abilities:
        """What X can do with keys."""
        return KEYS

    @property
    def keyboard(self) -> KeyboardGrabs:
        """The server's keyboard."""
        self._keyboard = self._keyboard or KeyboardGrabs(self._wire)
        return self._keyboard

    def grab(self, hearing: HearableKeys) -> list[RefusedChord]:
        """Hear these keys and no others."""
        return self.keyboard.grab(hearing)

    def ask_again(self) -> None:
        """Do nothing: a chord that was refused is asked for again by each `grab`."""

    def probe(self, chords: Iterable[Chord]) -> list[RefusedChord]:
        """Return which of these others hold: X tells only those who try to grab them, and they are let go at once."""
        refusals = self.keyboard.grab(HearableKeys(frozenset(chords)))
        self.keyboard.grab(NOTHING)
        return refusals

    def key_events(self) -> list[KeyEvent]:
        """Return the key events since the last call."""
        heard, self.heard = self.heard, []
        return heard

    def answer(self, passed: bool) -> None:
        """Say whose a key is that waits."""
        if self._keyboard:
            self._keyboard.answer(passed)

    def lost(self) -> list[RefusedChord]:
        """Return the keys that could not be judged in time since last asked."""
        late, self._late = self._late, []
        return late

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return which of these chords are one key on this keyboard, for each the others."""
        return self.keyboard.map.twins(chords)

    def changed(self) -> GrabChange | None:
        """Return the chords that cannot be had on the keyboard as it is now; None if it has not changed."""
        refusals, self._refusals = self._refusals, None
        return None if refusals is None else GrabChange(refusals)

    def holding(self) -> str:
        """Return why the keyboard is kept from programs now; empty if it is not."""
        return self._keyboard.held_for if self._keyboard else ""

    def descriptors(self) -> Iterable[int]:
        """Return none: the desk reads the connection."""
        return ()

    # --- for the desk, which reads the connection ---

    def take(self, event: Any) -> bool:
        """Take in an event of the server; False if it has nothing to do with keys."""
        if isinstance(event, (xp.KeyPressEvent, xp.KeyReleaseEvent)):
            key = self._keyboard.take(event) if self._keyboard else None
            self.heard += [key] if key else []
            return True
        if isinstance(event, XKB_EVENT) and event.xkbType == STATE_NOTIFY:
            held = self._keyboard.take_modifiers(event) if self._keyboard else None
            self.heard += [held] if held else []
            return True
        is_map = isinstance(event, XKB_EVENT) or (
            isinstance(event, xp.MappingNotifyEvent) and event.request != xp.Mapping.Pointer
        )
        self._is_other |= is_map
        return is_map

    def look_anew(self) -> None:
        """Look anew at what others hold: there is another window manager."""
        if self._keyboard:
            self._keyboard.ask_again()

    def follow(self) -> bool:
        """Grab the same keys on a keyboard that may have become another one; True if the server was asked for it."""
        if not self._is_other or self._keyboard is None:
            return False
        self._is_other = False
        refusals = self._keyboard.follow()
        self._refusals = self._refusals if refusals is None else refusals
        return True

    @property
    def has_news(self) -> bool:
        """True if there is something to be asked for."""
        return bool(self.heard or self._late) or self._refusals is not None

    @property
    def tend_at(self) -> float:
        """When to `tend` at the latest."""
        return self._keyboard.due if self._keyboard else float("inf")

    def tend(self) -> None:
        """Give back keys that nobody needs any more, and those that have waited too long."""
        if self._keyboard:
            self._late += self._keyboard.tend()
            refusals = self._keyboard.asked_again()
            self._refusals = self._refusals if refusals is None else refusals
