"""Chords where a compositor hears them for us: shortcuts of the desktop, and the whole keyboard while a layer is on.

The same keys reach us by two ways. No shortcut is given back while the whole keyboard is ours: whether a key comes as a
shortcut or as a plain key then, its meaning among the keys that are heard is worked out when it is pressed.
"""

import contextlib
from abc import ABC, abstractmethod
from collections.abc import Container, Iterable
from typing import Final, NamedTuple, Protocol

from jaklet.core.actions.ports.chord_source import HELD, GrabChange, KeyEdge, KeyEvent, RefusedChord
from jaklet.core.keys.keymap import NOTHING, HearableKeys, Twins
from jaklet.core.keys.strokes import RELEASED, typed_key
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk_abilities import Abilities, Ability
from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.agent import Agent
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.keyboard import LOCK, NO_KEY, NUM_LOCK, KeyTransition, SeatKeyboard, held_of

MISSING: Final = "this keyboard has no such key"
UNTOLD: Final = "the desktop does not tell this key from others"
ANEW: Final = "{} has begun anew"
TAKEN: Final = "it was taken away in the system's settings"


class ShortcutRequest(NamedTuple):
    """A shortcut: its number, its name where the desktop lists it, and whether it counts how long it is held."""

    code: int
    title: str
    is_followed: bool = False


class AcceleratorEvent(NamedTuple):
    """A key of ours that was pressed or let go of. `time`: the compositor's, in milliseconds."""

    code: int
    is_down: bool
    time: int


class Shortcuts(Protocol):
    """The desktop's shortcuts that are ours at a time, by number.

    `refused`: those that are not asked for again, and who has each; `told`: what was heard of them; `lost`: those that
    the desktop has taken away.
    """

    refused: dict[int, str]
    told: list[AcceleratorEvent]
    lost: list[int]

    def begin(self) -> object:
        """Hear of presses from now on; raises `DeskError`."""
        ...

    def begin_again(self) -> None:
        """Ask a service that has begun anew for all that was ours; `hear` tells of the result."""
        ...

    def sweep(self) -> object:
        """Give back all that is ours; raises `DeskError`."""
        ...

    def hear(self, wanted: Iterable[ShortcutRequest], over: Container[int] = ()) -> dict[int, str]:
        """Have exactly these; return those that cannot be had, with the owner of each as far as that is told.

        `over`: those that are taken from their owners, until they are wanted no more.
        """
        ...

    def owners(self, codes: Iterable[int]) -> dict[int, str]:
        """Return the owners of these shortcuts, empty for one that has no name; those that nobody has are left out."""
        ...


class CompositorChords(ABC):
    """Hears keys. Nothing is asked of the desktop before something is first asked of this."""

    def __init__(self, agent: Agent, shortcuts: Shortcuts, abilities: Abilities) -> None:
        self._agent, self._accelerators, self.abilities = agent, shortcuts, abilities
        self._wayland: Wayland | None = None
        self._keyboard: SeatKeyboard | None = None
        self._hears = False
        self._hearing = NOTHING
        self._codes: dict[Chord, list[int]] = {}  # of all chords that were asked about
        self._by_code: dict[int, list[Chord]] = {}  # those that are heard
        self._by_stroke: dict[tuple[int, int], Chord] = {}  # those of the whole keyboard, by key and modifiers
        self._down: dict[int, Chord | None] = {}  # held keys of the whole keyboard, and as what they were heard
        self._pressed: dict[int, Chord | None] = {}  # shortcuts that are held
        self._leaving = False  # the keyboard is given back once its keys are up
        self._heard: list[KeyEvent] = []
        self._change: GrabChange | None = None
        self._refused: list[RefusedChord] = []  # of what was asked for last
        self._twins: Twins = {}  # of the chords that were asked about last
        agent.begun_again.append(self._begin_again)

    # --- what each compositor has of its own ---

    @abstractmethod
    def _new_keyboard(self, wayland: Wayland) -> SeatKeyboard:
        """Return the keyboard of the seat; raises `DeskError`."""

    @abstractmethod
    def _code_of(self, key: int, modifiers: int, keysym: int) -> int:
        """Return the number of a chord that is on a key; 0 where the desktop cannot tell the chord from others."""

    @abstractmethod
    def _prepare(self) -> None:
        """Do what is needed before the first shortcut is asked for."""

    @abstractmethod
    def _finish(self) -> None:
        """Do what is needed after the last one was given back."""

    @property
    def keyboard(self) -> SeatKeyboard:
        """The compositor's keyboard; raises `DeskError`."""
        if self._keyboard is None:
            self._keyboard = self._new_keyboard(self.wayland)
        return self._keyboard

    @property
    def wayland(self) -> Wayland:
        """The connection to the compositor; raises `DeskError`."""
        if self._wayland is None:
            self._wayland = Wayland()
        return self._wayland

    # --- what is heard ---

    def grab(self, hearing: HearableKeys) -> list[RefusedChord]:
        """Hear these keys and no others; raises `DeskError` for the first ones.

        Where the compositor ends meanwhile, the answer is the last one: the next compositor is asked for the same.
        """
        self._hearing = hearing
        try:
            self._refused = self._ask(hearing)
        except DeskError:
            if not self._hears:
                raise
            self._agent.is_to_begin_again()
        return self._refused

    def _ask(self, hearing: HearableKeys) -> list[RefusedChord]:
        if hearing.every:
            return self._take_all()
        self._give_back()
        if not (hearing.chords or self._hears):
            return []
        if not self._hears:  # who wants no more than the whole keyboard leaves the shortcuts of a listener alone
            self._prepare()
            self._accelerators.begin()
            self._hears = True
        return self._ask_for(hearing)

    def _ask_for(self, hearing: HearableKeys) -> list[RefusedChord]:
        """Ask for shortcuts: what is new, and no more what is not wanted."""
        refused, self._by_code = {}, {}
        for chord in sorted(hearing.chords):
            codes = self._codes_of(chord)
            if chord in hearing.scoped:
                refused[chord] = RefusedChord(chord, Ability.PASS_ON.lacking)
            elif not codes:
                refused[chord] = self._untold(chord)
            for code in codes if chord not in refused else ():
                self._by_code.setdefault(code, []).append(chord)
        wanted = [
            ShortcutRequest(code, hearing.title(chords[0]), not hearing.followed.isdisjoint(chords))
            for code, chords in self._by_code.items()
        ]
        over = {code for chord in hearing.over for code in self._codes_of(chord)}
        for code, owner in self._accelerators.hear(wanted, over).items():
            for chord in self._by_code[code]:
                refused[chord] = RefusedChord(chord, f"{owner} holds it" if owner else HELD, owner)
        return [refused[chord] for chord in sorted(refused)]

    def _take_all(self) -> list[RefusedChord]:
        """Have the whole keyboard; the shortcuts stay what they are."""
        self._leaving = False
        try:
            self._by_stroke = self._strokes(self.keyboard)
            self.keyboard.take_all()
        except DeskError as fault:
            return [RefusedChord(None, fault.message)]
        return []

    def _strokes(self, keyboard: SeatKeyboard) -> dict[tuple[int, int], Chord]:
        """Return the chords that are heard, by key and modifiers of a keyboard as it is now."""
        table = keyboard.table
        return {(one.key, one.modifiers): chord for chord in self._hearing.chords for one in table.strokes(chord)}

    def hear_again(self) -> None:
        """Have the whole keyboard again where it was given to a program for a while, as a layer is on."""
        if self._hearing.every and self._keyboard:
            self._keyboard.take_all()

    def _give_back(self) -> None:
        """Let programs have the keyboard, once the keys are up that went down here: their ends are nobody else's."""
        if self._keyboard and self._keyboard.is_taken:
            self._leaving = bool(self._down)
            if not self._leaving:
                self._keyboard.give_back()

    def ask_again(self) -> None:
        """Ask for chords anew that were refused: they may have been let go of."""
        self._accelerators.refused = {}

    def probe(self, chords: Iterable[Chord]) -> list[RefusedChord]:
        """Return which of these others have: the desktop names them, and nothing has to be tried."""
        by_code: dict[int, list[Chord]] = {}
        for chord in sorted(chords):
            for code in self._codes_of(chord):
                by_code.setdefault(code, []).append(chord)
        owners = self._accelerators.owners(by_code)
        return [
            RefusedChord(chord, f"{owner} holds it" if owner else HELD, owner)
            for code, owner in owners.items()
            for chord in by_code[code]
        ]

    def _codes_of(self, chord: Chord) -> list[int]:
        if chord not in self._codes:
            table = self.keyboard.table
            codes = (self._code_of(one.key, one.modifiers, chord.keysym) for one in table.strokes(chord))
            self._codes[chord] = list(dict.fromkeys(code for code in codes if code))
        return self._codes[chord]

    def _untold(self, chord: Chord) -> RefusedChord:
        return RefusedChord(chord, UNTOLD if self.keyboard.table.strokes(chord) else MISSING)

    # --- what has happened ---

    def take(self, reads: bool) -> bool:
        """Take in what has come; true if a key has, or another keyboard. `reads`: by the compositor, too."""
        if self._wayland is None:
            return False
        try:
            if reads:
                self._wayland.take()
            return self._keyboard is not None and self._take_keys(self._keyboard)
        except DeskError:  # the compositor has ended; with the next one, all begins again
            self._let_go()
            return False

    def _take_keys(self, keyboard: SeatKeyboard) -> bool:
        if keyboard.is_other:
            keyboard.is_other = False
            self._codes = {}
            if self._hearing.every:
                self._by_stroke = self._strokes(keyboard)
            elif self._hears:
                self._is_to_tell(self._ask_for(self._hearing))
        for stroke in keyboard.strokes():
            self._take_stroke(stroke)
        if keyboard.was_lost:
            self._take_back(keyboard)
        for told in self._accelerators.told:
            self._take_shortcut(told.code, told.is_down, told.time)
        self._accelerators.told.clear()
        if self._accelerators.lost:
            self._take_losses()
        return bool(self._heard) or self._change is not None

    def _take_back(self, keyboard: SeatKeyboard) -> None:
        """Have the whole keyboard again: a click on a card makes the compositor give it to what was clicked."""
        self._down = {}  # where they are let go of is not told here
        if self._leaving:
            self._leaving = False
            keyboard.give_back()
            return
        try:
            keyboard.take_back()
        except DeskError as fault:
            self._is_to_tell([RefusedChord(None, fault.message)])

    def _take_shortcut(self, code: int, is_down: bool, time: int) -> None:
        if not is_down:
            if code in self._pressed:
                self._heard.append(KeyEvent(KeyEdge.RELEASE, self._pressed.pop(code), time))
            return
        if code in self._pressed:
            self._heard.append(KeyEvent(KeyEdge.REPEAT, self._pressed[code], time))
            return
        chord = self._chord_of(code)
        self._pressed[code] = chord
        self._heard.append(KeyEvent(KeyEdge.PRESS, chord, time))

    def _chord_of(self, code: int) -> Chord | None:
        """Return the chord that a shortcut is among those that are heard now."""
        if not self._hearing.every:
            return next(iter(self._by_code.get(code, ())), None)
        return next((chord for chord in sorted(self._hearing.chords) if code in self._codes_of(chord)), None)

    def _take_stroke(self, stroke: KeyTransition) -> None:
        assert self._keyboard is not None
        held, is_typed = held_of(stroke.state), self._hearing.typed
        if stroke.code == NO_KEY and is_typed:
            self._heard.append(KeyEvent(KeyEdge.RELEASE, None, stroke.time, typed=RELEASED))
        if stroke.code == NO_KEY or self._keyboard.is_modifier(stroke.code):
            return
        if not stroke.is_down:
            if stroke.code in self._down:
                self._heard.append(KeyEvent(KeyEdge.RELEASE, self._down.pop(stroke.code), stroke.time))
            if self._leaving and not self._down:
                self._leaving = False
                self._keyboard.give_back()
            return
        row = self._keyboard.table.levels.get(stroke.code, ())
        told = typed_key(row, held, bool(stroke.state & LOCK), bool(stroke.state & NUM_LOCK)) if is_typed else None
        if stroke.again and stroke.code in self._down:
            self._heard.append(KeyEvent(KeyEdge.REPEAT, self._down[stroke.code], stroke.time, typed=told))
        elif not stroke.again:
            chord = self._chord_at(stroke.code, held)
            self._down[stroke.code] = chord
            self._heard.append(KeyEvent(KeyEdge.PRESS, chord, stroke.time, typed=told))

    def _chord_at(self, key: int, held: int) -> Chord | None:
        """Return the chord that a key of the whole keyboard is; None for one without a meaning.

        A key that comes when the keyboard is about to be given back means nothing, as its shortcut is told of as well.
        """
        return self._by_stroke.get((key, held)) if self._hearing.every else None

    def _take_losses(self) -> None:
        lost, self._accelerators.lost = self._accelerators.lost, []
        chords = [chord for code in lost for chord in self._by_code.get(code, ())]
        known = self._change.refusals if self._change else []
        self._is_to_tell([*known, *(RefusedChord(chord, TAKEN) for chord in sorted(chords))])

    def _is_to_tell(self, refusals: list[RefusedChord], why: str = "") -> None:
        """Have it told what cannot be had; why something else is still to be told of stays."""
        self._change = GrabChange(refusals, why or (self._change.why if self._change else ""))

    def key_events(self) -> list[KeyEvent]:
        """Return the key events since the last call."""
        heard, self._heard = self._heard, []
        return heard

    def answer(self, passed: bool) -> None:  # noqa: B027  # the port has it
        """Never called: no key waits here."""

    def lost(self) -> list[RefusedChord]:
        """Return none: no key waits here."""
        return []

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return which of these chords are one shortcut, for each the others."""
        by_code: dict[int, set[Chord]] = {}
        try:
            for chord in chords:
                for code in self._codes_of(chord):
                    by_code.setdefault(code, set()).add(chord)
        except DeskError:  # the compositor has ended: of the next one, another change is told
            return self._twins
        found: dict[Chord, set[Chord]] = {}
        for group in by_code.values():
            for chord in group if len(group) > 1 else ():
                found.setdefault(chord, set()).update(group - {chord})
        self._twins = {chord: tuple(sorted(others)) for chord, others in found.items()}
        return self._twins

    def changed(self) -> GrabChange | None:
        """Return the chords that cannot be had, if that is otherwise than was told."""
        change, self._change = self._change, None
        return change

    def holding(self) -> str:
        """Return why keys are kept from programs now."""
        return "a layer is on" if self._keyboard and self._keyboard.is_taken else ""

    def descriptors(self) -> Iterable[int]:
        """Return none: the desk waits for the compositor as well."""
        return ()

    @property
    def sources(self) -> list[int]:
        """The descriptors for which the desk waits."""
        return [self._wayland.fileno] if self._wayland else []

    @property
    def has_keys(self) -> bool:
        """True if keys have been heard that were not asked for yet."""
        return bool(self._heard)

    @property
    def due(self) -> float:
        """When a key that is held does the same again."""
        return self._keyboard.due if self._keyboard else float("inf")

    def _begin_again(self) -> None:
        """Hear the same with a compositor that has begun anew."""
        self._let_go()
        self._codes, self._down, self._pressed, self._leaving = {}, {}, {}, False
        if self._hears:
            self._accelerators.begin_again()
            self._refused = self._ask(self._hearing)
            self._is_to_tell(self._refused, ANEW.format(self._agent.name))

    def _let_go(self) -> None:
        """End the connection to the compositor."""
        if self._wayland is not None:
            self._wayland.close()
        self._wayland = self._keyboard = None

    def close(self) -> None:
        """Give all back."""
        if self._hears:
            with contextlib.suppress(DeskError):  # where there is no compositor, there is nothing of ours
                self._accelerators.sweep()
                self._finish()
        self._let_go()
