"""The keyboard of a tabletop, behind the port `ChordSource`: chords are struck on it."""

from collections.abc import Iterable
from typing import Final

from jaklet.core.actions.ports.chord_source import HELD, GrabChange, KeyEdge, KeyEvent, RefusedChord, unheard
from jaklet.core.keys.keymap import NO_TWINS, NOTHING, HearableKeys, Twins
from jaklet.core.keys.strokes import RELEASED
from jaklet.core.keys.strokes import typed_key as typed_by
from jaklet.core.values.chords import MODIFIERS, Chord
from jaklet.core.values.desk_abilities import OF_KEYS, Abilities, Ability
from jaklet.desktops.tabletop.room import Room


class TabletopChords:
    """A simulated keyboard with any set of abilities: what it lacks it refuses, as a desktop would that is so."""

    due: Final = float("inf")

    def __init__(self, room: Room) -> None:
        self._room = room
        self._struck: list[KeyEvent] = []
        self._hearing = NOTHING
        self._down: dict[Chord, Chord | None] = {}  # keys that are held, and as what they were heard
        self._waiting: Chord | None = None
        self._first: frozenset[Chord] | None = None  # the chords that were asked for first: all, for some services
        self._agreed = False  # the user has been asked, and has agreed
        self._lost: list[RefusedChord] = []
        self._refusals: list[RefusedChord] | None = None
        self.used = 0.0  # when a key was struck last
        self.passed: list[Chord | None] = []  # keys that went to the program in front

    @property
    def abilities(self) -> Abilities:
        """What it can do."""
        return self._room.abilities & OF_KEYS

    def grab(self, hearing: HearableKeys) -> list[RefusedChord]:
        """Hear these keys from now on, as far as it can."""
        self._hearing = hearing
        if self._first is None and hearing.chords:
            self._first = hearing.chords
        if hearing.every:
            lacks = Ability.WHOLE_KEYBOARD not in self.abilities
            return [RefusedChord(None, Ability.WHOLE_KEYBOARD.lacking)] if lacks else []
        refusals = {chord: self._refusal(chord) for chord in sorted(hearing.chords)}
        return [refusal for refusal in refusals.values() if refusal]

    def _refusal(self, chord: Chord) -> RefusedChord | None:
        if chord in self._room.taken:
            owner = self._room.taken[chord] if Ability.OWNER in self.abilities else ""
            return RefusedChord(chord, f"{owner} holds it" if owner else HELD, owner)
        for modifier, its in self._room.taken_modifiers.items():
            if chord.modifiers & MODIFIERS[modifier]:
                name = its if Ability.OWNER in self.abilities else ""
                return unheard(chord, modifier, name or "another program", name)
        if not (self._agreed or Ability.UNASKED in self.abilities):
            return RefusedChord(chord, "the user is asked for it still")
        if chord in self._hearing.scoped and Ability.PASS_ON not in self.abilities:
            return RefusedChord(chord, Ability.PASS_ON.lacking)
        if self._first and chord not in self._first and Ability.AT_ONCE not in self.abilities:
            return RefusedChord(chord, Ability.AT_ONCE.lacking)
        return None

    def ask_again(self) -> None:
        """Do nothing: nothing is remembered."""

    def probe(self, chords: Iterable[Chord]) -> list[RefusedChord]:
        """Return which of these others hold."""
        refusals = (self._refusal(chord) for chord in sorted(chords))
        return [one for one in refusals if one and (one.chord in self._room.taken or one.modifier)]

    def _hears(self, chord: Chord) -> bool:
        every = self._hearing.every and Ability.WHOLE_KEYBOARD in self.abilities
        return every or (chord in self._hearing.chords and self._refusal(chord) is None)

    def strike(self, chord: Chord, edge: KeyEdge = KeyEdge.PRESS) -> None:
        """Press a chord on the simulated keyboard, hold it or let it go; what is not heard is the program's."""
        self.used = self._room.now
        if edge is KeyEdge.PRESS:
            if not self._hears(chord):
                self.passed.append(chord)
                return
            self._down[chord] = chord if chord in self._hearing.chords else None
        elif chord not in self._down:
            return
        # A key that is held goes on as what it was pressed for, whatever is heard by now.
        told = self._down.pop(chord) if edge is KeyEdge.RELEASE else self._down[chord]
        needed = {KeyEdge.REPEAT: Ability.REPEAT, KeyEdge.RELEASE: Ability.RELEASE}.get(edge)
        if needed is None or needed in self.abilities:
            waits = edge is KeyEdge.PRESS and (self._hearing.every or chord in self._hearing.scoped)
            is_typed = self._hearing.typed and edge is not KeyEdge.RELEASE
            typed = typed_by((chord.keysym,), chord.modifiers) if is_typed else None
            self._struck.append(KeyEvent(edge, told, int(self._room.now * 1000), waits, typed))
        if edge is KeyEdge.RELEASE and chord.modifiers and self._hearing.typed:  # its modifiers are let go of with it
            self._struck.append(KeyEvent(edge, None, int(self._room.now * 1000), True, RELEASED))

    def key_events(self) -> list[KeyEvent]:
        """Return the key events since the last call."""
        heard, self._struck = self._struck, []
        self._waiting = next((event.chord for event in heard if event.waits), None)
        return heard

    def answer(self, passed: bool) -> None:
        """Say whose a key is that waits."""
        if passed:
            self.passed.append(self._waiting)

    def lose(self, chord: Chord, reason: str) -> None:
        """Let a key go to the program in front, as if it had waited too long."""
        self.passed.append(chord)
        self._lost.append(RefusedChord(chord, reason))

    def lost(self) -> list[RefusedChord]:
        """Return the keys that were lost."""
        lost, self._lost = self._lost, []
        return lost

    def take_modifier(self, modifier: str, owner: str) -> None:
        """Let another program hold the key of a modifier by itself; without an owner, let nobody."""
        others = {one: its for one, its in self._room.taken_modifiers.items() if one != modifier}
        self._room.taken_modifiers = {**others, modifier: owner} if owner else others
        self._refusals = self.grab(self._hearing)

    def take(self, chord: Chord, owner: str) -> None:
        """Let another program hold a chord from now on; without an owner, let nobody."""
        self._room.taken = {one: its for one, its in self._room.taken.items() if one != chord}
        if owner:
            self._room.taken = {**self._room.taken, chord: owner}
        self._refusals = self.grab(self._hearing)

    def agree(self) -> None:
        """Let the user agree to what is asked."""
        self._agreed = True
        self._refusals = self.grab(self._hearing)

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return nothing: chords are struck here, and no keys."""
        return NO_TWINS

    def changed(self) -> GrabChange | None:
        """Return the chords that cannot be had, if these have changed; None otherwise."""
        refusals, self._refusals = self._refusals, None
        return None if refusals is None else GrabChange(refusals)

    def holding(self) -> str:
        """Return why keys are kept from programs now."""
        return "a layer is on" if self._hearing.every else ""

    def descriptors(self) -> Iterable[int]:
        """Return none."""
        return ()
