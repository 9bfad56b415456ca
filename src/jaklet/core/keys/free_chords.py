"""Free chords in place of one that is taken, ranked by likeness and by how easy they are to press.

A chord is free in a layer if no binding there begins with it or is begun by it, and nobody else owns it. Every keyboard
in question has to have it.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.keys.keyboards import CONTORTION, DEAD_KEYS, Keyboard, is_character
from jaklet.core.keys.strokes import Stroke, small_letter
from jaklet.core.values.chords import Chord, Keys, Modifier

MOST_CURES: Final = 3
# Families of modifiers that programs leave to the desktop.
FAMILIES: Final = tuple(
    int(family)
    for family in (
        Modifier.SUPER,
        Modifier.SUPER | Modifier.SHIFT,
        Modifier.SUPER | Modifier.CTRL,
        Modifier.SUPER | Modifier.ALT,
        Modifier.CTRL | Modifier.ALT,
        Modifier.CTRL | Modifier.ALT | Modifier.SHIFT,
        Modifier.SUPER | Modifier.CTRL | Modifier.SHIFT,
    )
)
PLAIN: Final = (0, int(Modifier.SHIFT))  # in a layer, whose keys nobody types with
_KEYS: Final = frozenset(  # keys that do not type, and can be bound all the same
    (0xFF51, 0xFF52, 0xFF53, 0xFF54, 0xFF50, 0xFF55, 0xFF56, 0xFF57, 0xFF63, 0xFFFF, *range(0xFFBE, 0xFFCA))
)
_SPACE: Final = 0x20
_DEAD: Final = range(0xFE50, 0xFE94)


class ChordCandidate(NamedTuple):
    """A chord that could be bound: where it is on the first keyboard, and how hard it is on the hardest."""

    chord: Chord
    stroke: Stroke[str]
    hand: str
    strain: float


class UnheardChords(NamedTuple):
    """What a running desk does not let us hear: chords that are others', and all with these modifiers."""

    chords: frozenset[Chord] = frozenset()
    modifiers: int = 0

    def has(self, chord: Chord) -> bool:
        """Return whether a chord is one of them."""
        return chord in self.chords or bool(chord.modifiers & self.modifiers)


ALL_HEARD: Final = UnheardChords()


class FreeChords:
    """What is free.

    `taken`: chord sequences that are bound, by layer; `owned`: chords that are somebody else's; `unheard`: those that a
    running desk does not let us hear.
    """

    def __init__(
        self,
        keyboards: Sequence[Keyboard],
        taken: Mapping[str, Iterable[Keys]],
        owned: Iterable[Keys],
        unheard: UnheardChords = ALL_HEARD,
    ) -> None:
        self._keyboards = keyboards
        self._unheard = unheard
        self._taken = {layer: self._marks(all_keys) for layer, all_keys in taken.items()}
        self._whole = {layer: self._wholes(all_keys) for layer, all_keys in taken.items()}
        self._owned = self._marks(owned)
        self._candidates: dict[tuple[int, ...], list[ChordCandidate]] = {}
        self._free: dict[tuple[str, Keys, tuple[int, ...]], list[ChordCandidate]] = {}  # what was asked for already

    def _marks(self, all_keys: Iterable[Keys]) -> set[tuple[object, ...]]:
        """Return the key sequences, and what they begin with, as chords and on every keyboard."""
        return {
            way
            for keys in all_keys
            for count in range(1, len(keys) + 1)
            for way in self._all_ways(keys[:count])  # a start that can be pressed counts, though the rest cannot
        }

    def _all_ways(self, keys: Keys) -> Iterator[tuple[object, ...]]:
        """Yield a sequence as its chords, and as its keys on every keyboard that has them; what it is comes first."""
        yield ("chords", *keys)
        for number, keyboard in enumerate(self._keyboards):
            for strokes in _ways(keyboard, keys):
                yield (number, *strokes)

    def _wholes(self, all_keys: Iterable[Keys]) -> set[tuple[object, ...]]:
        """Return the key sequences alone: nothing can be pressed after one of them."""
        return {way for keys in all_keys for way in self._all_ways(keys)}

    def candidates(self, families: tuple[int, ...]) -> list[ChordCandidate]:
        """Return all chords with these modifiers that every keyboard has, and which are no contortion on any."""
        if families not in self._candidates:
            self._candidates[families] = list(self._all(families))
        return self._candidates[families]

    def _all(self, families: tuple[int, ...]) -> Iterator[ChordCandidate]:
        first = self._keyboards[0]
        for family in families:
            for row in first.keys.values():
                keysym = small_letter(row[0]) if row else 0
                if keysym not in _KEYS and (not is_character(keysym) or keysym == _SPACE or keysym in DEAD_KEYS):
                    continue
                chord = Chord(family, keysym)
                strain = max(keyboard.strain(chord) for keyboard in self._keyboards)
                stroke = first.stroke(chord)
                # A chord that a keyboard can only have with Shift on top is another one there.
                if stroke and strain < CONTORTION and all(_plain(keyboard, chord) for keyboard in self._keyboards):
                    yield ChordCandidate(chord, stroke, first.hand(chord), strain)

    def is_free(self, layer: str, keys: Keys) -> bool:
        """True if nothing begins with these keys, and they begin with nothing that is bound."""
        if not layer and self._unheard.has(keys[0]):
            return False
        taken, whole = self._taken.get(layer, set()), self._whole.get(layer, set())
        for way in self._all_ways(keys):
            if way in taken or any(way[:length] in whole for length in range(2, len(way))):
                return False
            if not layer and any(way[:length] in self._owned for length in (2, len(way))):
                return False
        return True

    def chords(self, layer: str, before: Keys = (), families: tuple[int, ...] = ()) -> list[ChordCandidate]:
        """Return the free chords of a layer after some others, the easiest first."""
        families = families or ((*PLAIN, *FAMILIES) if layer or before else FAMILIES)
        asked = layer, before, families
        if asked not in self._free:
            free = [one for one in self.candidates(families) if self.is_free(layer, (*before, one.chord))]
            self._free[asked] = sorted(free, key=lambda one: (one.strain, one.chord))
        return self._free[asked]

    def instead(self, layer: str, keys: Keys, at: int) -> tuple[Keys, ...]:
        """Return up to three key sequences to put in the place of one, changed in its chord `at`."""
        like, before, after = keys[at], keys[:at], keys[at + 1 :]
        ranked = sorted(self.chords(layer, before), key=lambda one: self._unlike(one, like))
        return tuple((*before, one.chord, *after) for one in ranked[:MOST_CURES])

    def _unlike(self, one: ChordCandidate, like: Chord) -> float:
        """Return how unlike a chord another is: 0 for itself. The same letter counts most, then hand and modifiers."""
        first = self._keyboards[0]
        stroke = first.stroke(like)
        total = one.strain * 0.3 + 1.5 * (one.chord.modifiers ^ like.modifiers).bit_count()
        if one.chord.keysym == small_letter(like.keysym):
            return total
        total += 3
        if stroke is None:
            return total
        here, there = first.spots[one.stroke.key], first.spots[stroke.key]
        far = ((here.x - there.x) ** 2 + (here.y - there.y) ** 2) ** 0.5
        return total + min(float(far), 6) * 0.3 + 1.5 * (here.hand != there.hand)


def _plain(keyboard: Keyboard, chord: Chord) -> bool:
    return any(stroke.modifiers == chord.modifiers for stroke in keyboard.strokes(chord))


def _ways(keyboard: Keyboard, keys: Keys) -> list[tuple[Stroke[str], ...]]:
    """Return all ways to press some chords on a keyboard; few chords have more than one."""
    ways: list[tuple[Stroke[str], ...]] = [()]
    for chord in keys:
        ways = [(*way, stroke) for way in ways for stroke in keyboard.strokes(chord)]
    return ways
