"""What is on the server's keyboard: from chords to keycodes and modifier masks, and from keys to what they type.

Keys are looked up in group 1 of the core keyboard mapping. A map is a value: another keyboard is another map.
"""

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from itertools import chain, combinations
from typing import Final

from jaklet.core.keys.keymap import Twins
from jaklet.core.keys.strokes import DEAD, KeyTable, TypedKey, typed_key
from jaklet.core.values.chords import MODIFIER_KEYS, Chord, Modifier, key_name
from jaklet.desktops.x11.wire import Wire

Grab = tuple[int, int]  # keycode, modifier mask
Levels = Mapping[int, tuple[int, ...]]
SHIFT, LOCK, CONTROL = 1, 2, 4
ALL_BITS: Final = 0xFF  # the modifier bits of an event's state; above them are buttons and the XKB group
# Which keysyms mark the modifier bits that a server may hand out as it likes (X protocol, Mod1 to Mod5).
_MARKS: Final = {
    Modifier.SUPER: (0xFFEB, 0xFFEC),
    Modifier.ALT: (0xFFE9, 0xFFEA),
    Modifier.ALTGR: (0xFE03, 0xFF7E),  # ISO_Level3_Shift, Mode_switch
}
_NUM_LOCK, _SCROLL_LOCK = 0xFF7F, 0xFF14
_LEVEL_KEYS: Final = range(0xFE01, 0xFE10)  # ISO_Lock to ISO_Last_Group_Lock
_SPACE: Final = 0x20


def server_levels(wire: Wire) -> dict[int, tuple[int, ...]]:
    """Return the keysyms of the server's keyboard: up to four levels by keycode."""
    count = wire.max_keycode - wire.min_keycode + 1
    reply = wire.core.GetKeyboardMapping(wire.min_keycode, count).reply()
    wide, keysyms = reply.keysyms_per_keycode, list(reply.keysyms)
    rows = {wire.min_keycode + i: keysyms[i * wide : (i + 1) * wide] for i in range(count)}
    # Columns of a core mapping that XKB makes: two levels of group 1, two of group 2, two more of group 1.
    return {code: (*row[:2], *row[4:6]) for code, row in rows.items()}


def server_map(wire: Wire) -> "KeyboardMap":
    """Return the map that the server has now."""
    modifiers = wire.core.GetModifierMapping()
    levels = server_levels(wire)
    keys = modifiers.reply()
    wide = keys.keycodes_per_modifier
    return KeyboardMap(levels, [list(keys.keycodes[i * wide : (i + 1) * wide]) for i in range(8)])


class KeyboardMap:
    """The keys of a keyboard. `levels`: keysyms by keycode; `rows`: the keycodes of each modifier bit."""

    def __init__(self, levels: Levels, rows: Sequence[Sequence[int]]) -> None:
        self.levels = levels
        self._rows = [[code for code in codes if code] for codes in rows]
        self._masks = {modifier: self._mask_of(marks) for modifier, marks in _MARKS.items()}
        self._masks |= {Modifier.SHIFT: SHIFT, Modifier.CTRL: CONTROL}
        self._num_lock = self._mask_of([_NUM_LOCK])
        self.locks = LOCK | self._num_lock | self._mask_of([_SCROLL_LOCK])
        self._table = KeyTable(levels)
        self._grabs: dict[Chord, list[Grab] | str] = {}

    def __eq__(self, other: object) -> bool:
        return isinstance(other, KeyboardMap) and (self.levels, self._rows) == (other.levels, other._rows)

    __hash__ = None  # type: ignore[assignment]  # it holds mappings

    def _mask_of(self, marks: Iterable[int]) -> int:
        """Return the modifier bits on whose keys one of these keysyms is."""
        wanted = set(marks)
        return sum(1 << bit for bit, codes in enumerate(self._rows) if any(wanted & set(self._on(c)) for c in codes))

    def _on(self, code: int) -> tuple[int, ...]:
        return self.levels.get(code, ())

    @cached_property
    def variants(self) -> list[int]:
        """The modifier bits of each set of locks that can be on beside a chord."""
        bits = [1 << bit for bit in range(8) if self.locks >> bit & 1]
        return [sum(some) for some in chain.from_iterable(combinations(bits, n) for n in range(len(bits) + 1))]

    @cached_property
    def modifier_codes(self) -> set[int]:
        """The keycodes of all modifier keys, which mean nothing by themselves."""
        named = {
            code for code, row in self.levels.items() if row and (row[0] in MODIFIER_KEYS or row[0] in _LEVEL_KEYS)
        }
        return named.union(*self._rows)

    @property
    def harmless_locks(self) -> int:
        """The modifier bits of the locks that change no text: Num Lock and Scroll Lock."""
        return self.locks & ~LOCK

    def grabs_of(self, chord: Chord) -> list[Grab] | str:
        """Return keycodes and masks of a chord, without locks; or why this keyboard cannot have it."""
        if chord not in self._grabs:
            self._grabs[chord] = self._find(chord)
        return self._grabs[chord]

    def _find(self, chord: Chord) -> list[Grab] | str:
        grabs = []
        for code, modifiers in self._table.strokes(chord):
            mask = 0
            for modifier in Modifier:
                if modifiers & modifier:
                    if not self._masks[modifier]:
                        return f"this keyboard has no {modifier.name.lower() if modifier.name else ''} modifier"
                    mask |= self._masks[modifier]
            grabs.append((code, mask))
        return grabs or "this keyboard has no such key"

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return which of these chords are one key on this keyboard, for each the others."""
        by_grab: dict[Grab, list[Chord]] = {}
        for chord in set(chords):
            grabs = self.grabs_of(chord)
            for grab in () if isinstance(grabs, str) else grabs:
                by_grab.setdefault(grab, []).append(chord)
        found: dict[Chord, set[Chord]] = {}
        for group in by_grab.values():
            for chord in group if len(group) > 1 else ():
                found.setdefault(chord, set()).update(other for other in group if other != chord)
        return {chord: tuple(sorted(others)) for chord, others in found.items()}

    def strokes_of(self, chord: Chord) -> list[Grab] | str:
        """Return the strokes for a chord: itself, or its dead key and then the space bar.

        Or the reason why it cannot be pressed.
        """
        grabs = self.grabs_of(chord)
        dead = DEAD.get(chord.keysym)
        if dead is None or not isinstance(grabs, str):
            return grabs if isinstance(grabs, str) else grabs[:1]
        first, space = self.grabs_of(chord._replace(keysym=dead)), self.grabs_of(Chord(0, _SPACE))
        return grabs if isinstance(first, str) or isinstance(space, str) else [first[0], space[0]]

    def holders_of(self, mask: int) -> list[int]:
        """Return a key for each of these modifier bits."""
        return [codes[0] for bit, codes in enumerate(self._rows) if mask >> bit & 1 and codes]

    def name_of(self, code: int) -> str:
        """Return the user's name for a key; a modifier as in chords."""
        name = key_name(next(iter(self._on(code)), 0))
        word = name.partition("_")[0] if code in self.modifier_codes else name
        return {"control": "ctrl", "iso": "altgr"}.get(word, word)

    def is_last_modifier(self, code: int, state: int) -> bool:
        """Return whether no modifier is held once a key is let go of. `state`: that of the event of its release."""
        own = sum(1 << bit for bit, codes in enumerate(self._rows) if code in codes) & ~self.locks
        return bool(state & own) and not state & ALL_BITS & ~self.locks & ~own

    def held(self, state: int) -> int:
        """Return which modifiers a state of the server's has."""
        return sum(int(one) for one, mask in self._masks.items() if mask and state & mask)

    def typed(self, code: int, state: int) -> TypedKey:
        """Return the character that a key types with the modifiers held and locked. `state`: that of its event."""
        return typed_key(self._on(code), self.held(state), bool(state & LOCK), bool(state & self._num_lock))
