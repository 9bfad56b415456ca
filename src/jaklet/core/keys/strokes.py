"""From chords to keys: which key of a keyboard, with which modifiers, a chord is.

A key has up to four levels (XKB protocol, Key Types): plain, Shift, AltGr, AltGr and Shift. A chord names a key by what
is on it; a character that is not had plain adds the modifiers of its level to the chord, so that on a US keyboard
`super+?` is `super+shift+slash`.
"""

from collections.abc import Hashable, Mapping, Sequence
from typing import Final, Generic, NamedTuple, TypeVar

from jaklet.core.values.chords import Chord, Modifier, keysym_of_letter, letter_of

K = TypeVar("K", bound=Hashable)
LEVELS: Final = (0, int(Modifier.SHIFT), int(Modifier.ALTGR), int(Modifier.ALTGR | Modifier.SHIFT))
DEAD: Final = {0x60: 0xFE50, 0x5E: 0xFE52, 0x7E: 0xFE53}  # ` ^ ~: some keyboards have them as dead keys alone
KEYPAD: Final = range(0xFF80, 0xFFBE)  # KP_Space to KP_9 and KP_Equal; Num Lock turns its levels about


class Stroke(NamedTuple, Generic[K]):
    """A key and the modifiers that are held with it."""

    key: K
    modifiers: int


class TypedKey(NamedTuple):
    """What a key types: its name with the modifiers that are held, and the letter, empty for a key that types none."""

    key: str
    text: str = ""


RELEASED: Final = TypedKey("released")  # what is told when the last modifier is let go of


class KeyTable(Generic[K]):
    """What is on the keys of a keyboard: keysyms by key and level, 0 for none."""

    def __init__(self, levels: Mapping[K, Sequence[int]]) -> None:
        self.levels = levels
        self._found: dict[int, list[Stroke[K]]] = {}
        ranks: dict[int, int] = {}
        for rank, held in enumerate(LEVELS):
            for key, row in levels.items():
                if rank >= len(row) or not row[rank]:
                    continue
                # Both names of a key of the number pad mean the key, whatever Num Lock says.
                keysym, level = small_letter(row[rank]), 0 if row[rank] in KEYPAD else rank
                if ranks.setdefault(keysym, level) != level:
                    continue
                stroke, strokes = Stroke(key, 0 if level == 0 else held), self._found.setdefault(keysym, [])
                if stroke not in strokes:
                    strokes.append(stroke)

    def strokes(self, chord: Chord) -> list[Stroke[K]]:
        """Return the keys that a chord can be, with all modifiers to be held; none if what it names is on no key."""
        return [Stroke(key, held | chord.modifiers) for key, held in self._found.get(small_letter(chord.keysym), ())]


def small_letter(keysym: int) -> int:
    """Return the small letter of a Latin-1 capital: chords name keys, and capitals are no keys of their own."""
    capital = 0x41 <= keysym <= 0x5A or (0xC0 <= keysym <= 0xDE and keysym != 0xD7)
    return keysym + 0x20 if capital else keysym


def keysym_at(row: Sequence[int], modifiers: int, capitals: bool = False, numbers: bool = False) -> int:
    """Return the keysym that a key gives with some modifiers; 0 for none. `row`: its levels.

    `capitals`, `numbers`: Caps Lock and Num Lock are on.
    """
    shift, other = bool(modifiers & Modifier.SHIFT), bool(modifiers & Modifier.ALTGR)
    if len(row) > 1 and row[1] in KEYPAD:
        shift ^= numbers
    level = next((at for at in (2 * other + shift, 2 * other, int(shift), 0) if at < len(row) and row[at]), 0)
    keysym = row[level] if row else 0
    letter = letter_of(keysym)
    if capitals and not shift and letter != letter.upper() and len(letter.upper()) == 1:
        return keysym_of_letter(letter.upper())
    return keysym


def typed_key(row: Sequence[int], modifiers: int, capitals: bool = False, numbers: bool = False) -> TypedKey:
    """Return the key that is typed: its name and letter. The arguments are those of `keysym_at`.

    A key that types a letter is named by it; any other, and one that is no letter with what is held, by what is on it
    plain, with all modifiers that are held.
    """
    keysym = keysym_at(row, modifiers, capitals, numbers)
    letter = letter_of(_PAD.get(keysym, keysym))
    if not letter or modifiers & ~(Modifier.SHIFT | Modifier.ALTGR):
        return TypedKey(str(Chord(modifiers, small_letter(row[0]) if row else 0)))
    return TypedKey(str(Chord(0, small_letter(keysym))), letter)


def typed_as(chord: Chord) -> TypedKey:
    """Return the typed key of a chord by itself, whatever keyboard there is."""
    letter = "" if chord.modifiers & ~Modifier.SHIFT else letter_of(chord.keysym)
    return TypedKey(str(chord), letter.upper() if chord.modifiers else letter)


# The signs and digits of the number pad: KP_Multiply to KP_9.
_PAD: Final = {0xFFAA + i: ord(sign) for i, sign in enumerate("*+,-./0123456789")}
