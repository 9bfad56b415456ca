"""What a block costs at a place: how often it is pressed, how hard its keys are, and whether they recall the word."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Final

from jaklet.core.keys.effort import of_sequence
from jaklet.core.keys.keyboards import Keyboard
from jaklet.core.values.chords import Chord, Keys, key_name, letter_of
from jaklet.core.values.hands import Hands
from jaklet.core.values.use_counts import name_of
from jaklet.suggesting.blocks import MODIFIERS, BindingBlock

# A third of the time that one thinks before a press (1.35 s: Card, Moran and Newell, 1980: M), in presses of a key.
RECALLED: Final = 1.6
BEGINS_NAME, BEGINS_WORD, IN_NAME = 1.0, 0.5, 0.2  # how much of that a letter saves


class Efforts:
    """What keys cost on the hardest of those keyboards that have them; nothing where none has."""

    def __init__(self, keyboards: Sequence[Keyboard], hands: Hands) -> None:
        self._keyboards, self._hands = keyboards, hands
        self._known: dict[Keys, float] = {}

    def of(self, keys: Keys) -> float:
        """Return the cost of a chord, or of a sequence."""
        found = self._known.get(keys)
        if found is None:
            found = self._known[keys] = max((self._on(board, keys) for board in self._keyboards), default=0.0)
        return found

    def _on(self, board: Keyboard, keys: Keys) -> float:
        strokes = [stroke for stroke in map(board.stroke, keys) if stroke]
        return of_sequence(board.spots, board.has_altgr, strokes, self._hands) if len(strokes) == len(keys) else 0.0


def uses_of(block: BindingBlock, counts: Mapping[str, int]) -> list[int]:
    """Return how often each binding of a block was pressed. `counts`: by what they are counted as."""
    return [counts.get(name_of(bound.binding), 0) if bound.binding else 0 for bound in block.bounds]


class Price:
    """What a block costs at any place. `weights`: of its bindings, 1 for one that is used as often as most."""

    def __init__(self, block: BindingBlock, weights: Sequence[float], efforts: Efforts) -> None:
        self._block, self._weights, self._efforts = block, weights, efforts
        self._names, self._words = _words_of(block)
        self._single = all(len(bound.keys) == 1 for bound in block.bounds) and len(block.first) == 1
        self._whole = sum(weights)

    def effort(self, to: Chord) -> float:
        """Return the cost of pressing its keys at a place, weighted by their use."""
        if self._single:
            return self._whole * self._efforts.of((to,))
        pairs = zip(self._block.bounds, self._weights, strict=True)
        return sum(
            weight * self._efforts.of((self._block.at(bound.keys[0], to), *bound.keys[1:])) for bound, weight in pairs
        )

    def of(self, to: Chord) -> float:
        """Return the effort, less what it is worth that the key recalls the word."""
        worth = 0.0 if self._block.changes == MODIFIERS else RECALLED * self._whole * self.recall(to)
        return self.effort(to) - worth

    def recall(self, chord: Chord) -> float:
        """Return how well a key recalls what is done: 0 not at all, 1 as the first letter of a name."""
        letter, name = letter_of(chord.keysym).strip().lower(), key_name(chord.keysym)
        if not letter or letter.isdigit():
            return BEGINS_NAME if name in self._names or name in self._words else 0.0
        if any(word.startswith(letter) for word in self._names):
            return BEGINS_NAME
        if any(word.startswith(letter) for word in self._words):
            return BEGINS_WORD
        return IN_NAME if any(letter in word for word in self._names) else 0.0


def _words_of(block: BindingBlock) -> tuple[list[str], list[str]]:
    """Return the words of what a block's bindings name, and their other words."""
    names: list[str] = []
    others: list[str] = []
    for bound in block.bounds:
        if bound.binding:
            names += (word for name in bound.binding.action.names() for word in _parted(name.name))
            others += _parted(f"{bound.binding.note} {bound.binding.action.text}")
    return names, others


def _parted(text: str) -> Iterable[str]:
    return "".join(letter if letter.isalnum() else " " for letter in text.lower()).split()
