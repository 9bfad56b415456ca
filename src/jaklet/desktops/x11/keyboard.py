"""The server's keyboard: from chords to keycodes and modifier masks, and passive grabs.

A chord is a key by what it types without Shift, plus modifiers. Where a keysym is only had with Shift (`question` on
a US keyboard), Shift is added to the chord. Keys are looked up in group 1 of the core keyboard mapping.
"""

from collections.abc import Iterable
from itertools import chain, combinations
from typing import Final

import xcffib.xproto as xp

from jaklet.core.chords import Chord, Modifier
from jaklet.core.ports import Refusal
from jaklet.desktops.x11.wire import Wire

SHIFT, LOCK, CONTROL = 1, 2, 4
_EIGHT: Final = 0xFF  # the modifier bits of an event's state; above them are buttons and the XKB group
# Which keysyms mark the modifier bits that a server may hand out as it likes (X protocol, Mod1 to Mod5).
_MARKS: Final = {
    Modifier.SUPER: (0xFFEB, 0xFFEC),
    Modifier.ALT: (0xFFE9, 0xFFEA),
    Modifier.ALTGR: (0xFE03, 0xFF7E),  # ISO_Level3_Shift, Mode_switch
}
_LOCKS: Final = (0xFF7F, 0xFF14)  # Num_Lock, Scroll_Lock

Grab = tuple[int, int]  # keycode, modifier mask


class Keyboard:
    """What the keyboard has now, and which chords are grabbed on it."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._chords: dict[Grab, Chord] = {}
        self._held: set[Grab] = set()
        self._wanted: tuple[Chord, ...] = ()
        self.read()

    def read(self) -> None:
        """Read the keyboard and modifier mapping."""
        wire = self._wire
        count = wire.max_keycode - wire.min_keycode + 1
        mapping, modifiers = wire.core.GetKeyboardMapping(wire.min_keycode, count), wire.core.GetModifierMapping()
        reply = mapping.reply()
        per_code, keysyms = reply.keysyms_per_keycode, list(reply.keysyms)
        self._plain: dict[int, list[int]] = {}
        self._shifted: dict[int, list[int]] = {}
        meaning: dict[int, set[int]] = {}
        for i in range(count):
            code, row = wire.min_keycode + i, keysyms[i * per_code : (i + 1) * per_code]
            meaning[code] = set(row)
            if row and row[0]:
                self._plain.setdefault(_small(row[0]), []).append(code)
            if len(row) > 1 and row[1]:
                self._shifted.setdefault(row[1], []).append(code)
        keys = modifiers.reply()
        rows = [
            list(keys.keycodes[i * keys.keycodes_per_modifier : (i + 1) * keys.keycodes_per_modifier]) for i in range(8)
        ]

        def mask_of(marks: Iterable[int]) -> int:
            wanted = set(marks)
            return sum(
                1 << bit for bit, codes in enumerate(rows) if any(meaning.get(c, set()) & wanted for c in codes if c)
            )

        self._masks = {modifier: mask_of(marks) for modifier, marks in _MARKS.items()}
        self._masks |= {Modifier.SHIFT: SHIFT, Modifier.CTRL: CONTROL}
        locks = [LOCK, *(mask for mark in _LOCKS if (mask := mask_of([mark])))]
        self._ignored = sum(set(locks))
        every = chain.from_iterable(combinations(sorted(set(locks)), n) for n in range(len(set(locks)) + 1))
        self._variants = [sum(some) for some in every]

    def grabs_of(self, chord: Chord) -> list[Grab] | str:
        """Return keycodes and masks of a chord, without locks; or why this keyboard cannot have it."""
        mask = 0
        for modifier in Modifier:
            if chord.modifiers & modifier:
                if not self._masks[modifier]:
                    return f"this keyboard has no {modifier.name.lower() if modifier.name else ''} modifier"
                mask |= self._masks[modifier]
        codes = self._plain.get(_small(chord.keysym))
        if not codes:
            codes, mask = self._shifted.get(chord.keysym, []), mask | SHIFT
        return [(code, mask) for code in codes] or "this keyboard has no such key"

    def grab(self, chords: Iterable[Chord]) -> list[Refusal]:
        """Make these the chords that are heard: grab what is new, let go of what is not wanted any more."""
        self._wanted = tuple(chords)
        self._chords = {}
        refusals = []
        for chord in self._wanted:
            grabs = self.grabs_of(chord)
            if isinstance(grabs, str):
                refusals.append(Refusal(chord, grabs))
            else:
                self._chords |= dict.fromkeys(grabs, chord)
        wanted = {(code, mask | locks) for code, mask in self._chords for locks in self._variants}
        for code, mask in self._held - wanted:
            self._wire.core.UngrabKey(code, self._wire.root, mask)
        mode = xp.GrabMode.Async
        root = self._wire.root
        asked = [
            (grab, self._wire.core.GrabKeyChecked(False, root, grab[1], grab[0], mode, mode))
            for grab in sorted(wanted - self._held)
        ]
        self._held &= wanted
        taken: set[Grab] = set()
        for grab, cookie in asked:
            try:
                cookie.check()
                self._held.add(grab)
            except (xp.AccessError, xp.ValueError):
                taken.add((grab[0], grab[1] & ~self._ignored))
        for lost in {self._chords[grab] for grab in taken}:
            refusals.append(Refusal(lost, "another program holds it"))
        self._wire.flush()
        return sorted(refusals)

    def follow(self) -> list[Refusal]:
        """Read the keyboard again after it changed, and grab the same chords on it."""
        self.read()
        return self.grab(self._wanted)

    def chord(self, keycode: int, state: int) -> Chord | None:
        """Return the grabbed chord of a key event, locks left out."""
        return self._chords.get((keycode, state & _EIGHT & ~self._ignored))


def _small(keysym: int) -> int:
    """Return the small letter of a Latin-1 capital: chords name keys, and capitals are no keys of their own."""
    capital = 0x41 <= keysym <= 0x5A or (0xC0 <= keysym <= 0xDE and keysym != 0xD7)
    return keysym + 0x20 if capital else keysym
