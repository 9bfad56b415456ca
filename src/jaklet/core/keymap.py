"""What the next chord means: a state machine over the bindings and their sequences, without a keyboard or a clock.

A sequence is begun by its first chord. Until it is done, given up, or too much time has passed, the chords that can
come next are heard as well, and Escape, which gives it up. A chord that begins something else gives it up, too, and
does that; keys that are not heard go to the program in front, and change nothing.
"""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.chords import Chord, Keys, parse_chord
from jaklet.core.config import Binding, Config

ESCAPE: Final = parse_chord("escape")


class Step(NamedTuple):
    """What came of a chord: the chords of a sequence so far, and the binding that is to be done."""

    begun: Keys
    binding: Binding | None = None


class Keymap:
    """The bindings of a config, by what has been pressed."""

    def __init__(self, config: Config) -> None:
        self._bound: Mapping[Keys, Binding] = config.by_keys
        self._next: dict[Keys, set[Chord]] = {}
        for keys in self._bound:
            for length in range(len(keys)):
                self._next.setdefault(keys[:length], set()).add(keys[length])
        self._first = frozenset(self._next.get((), ()))

    def heard(self, begun: Keys) -> frozenset[Chord]:
        """Return the chords that are heard after these."""
        return self._first | self._next.get(begun, set()) | {ESCAPE} if begun else self._first

    def press(self, begun: Keys, chord: Chord) -> Step:
        """Return what a chord means after these."""
        for keys in ((*begun, chord), (chord,)):
            if keys in self._bound:
                return Step((), self._bound[keys])
            if keys in self._next:
                return Step(keys)
        return Step(())  # Escape, or a chord of a config that has just been replaced
