"""What the rules of a check may look at."""

from collections import Counter
from collections.abc import Iterable, Sequence
from functools import cached_property

from jaklet.config.reading import BoundKeys, ConfigReading
from jaklet.core.actions.ports.programs import Programs
from jaklet.core.keys.free_chords import ALL_HEARD, FreeChords, UnheardChords
from jaklet.core.keys.keyboards import Keyboard
from jaklet.core.keys.reserved import ReservedChord
from jaklet.core.values.chords import Chord, Keys, keys_written
from jaklet.core.values.config import Config
from jaklet.core.values.sentences import Action
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import nearest

MOST_CURED = 100  # findings with cures; behind so many nobody reads them one by one
MOST_SUGGESTED = 50  # findings with names that are alike, of which each takes some milliseconds


class CheckInputs:
    """A reading, what there is to launch, the keyboards it is checked for, and what others own.

    `unheard`: the chords that a running desk does not let us hear.
    """

    def __init__(
        self,
        reading: ConfigReading,
        programs: Programs,
        keyboards: Sequence[Keyboard],
        reserved: Iterable[ReservedChord] = (),
        unheard: UnheardChords = ALL_HEARD,
    ) -> None:
        self.reading = reading
        self.programs = programs
        self.keyboards = keyboards
        self.reserved = (*reserved, *reading.reserved)
        self._unheard = unheard
        self._cured = self._suggested = 0

    @property
    def config(self) -> Config:
        """The config, as far as it could be read."""
        return self.reading.config

    @cached_property
    def live(self) -> list[BoundKeys]:
        """All chords that are not off, also those whose action is at fault, in the order of the files."""
        return [bound for bound in self.reading.every_bound() if not bound.off]

    @cached_property
    def actions(self) -> list[Action]:
        """What keys and words do that are not off: each action once, however many keys do it."""
        return list({id(deed.action): deed.action for deed in self.reading.deeds if not deed.off}.values())

    @cached_property
    def _written(self) -> Counter[Spot]:
        """How many bindings stand at a place: the members of a family, or those of a list."""
        return Counter(bound.spot for bound in self.reading.every_bound())

    @cached_property
    def by_chord(self) -> dict[Chord, list[BoundKeys]]:
        """The live bindings that a chord is part of."""
        found: dict[Chord, list[BoundKeys]] = {}
        for bound in self.live:
            for chord in bound.keys if len(bound.keys) == 1 else dict.fromkeys(bound.keys):
                found.setdefault(chord, []).append(bound)
        return found

    @cached_property
    def first_chords(self) -> dict[Chord, list[BoundKeys]]:
        """The live bindings outside layers, by the chord that begins them."""
        found: dict[Chord, list[BoundKeys]] = {}
        for bound in self.live:
            if not bound.layer:
                found.setdefault(bound.keys[0], []).append(bound)
        return found

    @cached_property
    def free(self) -> FreeChords:
        """What chords are free."""
        taken: dict[str, list[Keys]] = {}
        for bound in self.live:
            taken.setdefault(bound.layer, []).append(bound.keys)
        return FreeChords(self.keyboards, taken, (one.keys for one in self.reserved), self._unheard)

    def cures(self, bound: BoundKeys, at: int) -> tuple[str, ...]:
        """Return the keys that could stand there instead, with one chord changed.

        None where several bindings stand there.
        """
        if self._cured >= MOST_CURED or self._written[bound.spot] > 1:
            return ()
        self._cured += 1
        return tuple(keys_written(keys) for keys in self.free.instead(bound.layer, bound.keys, at))

    def nearest(self, word: str, choices: Iterable[str], likeness: float = 0.6) -> list[str]:
        """Return the choices most like a word; none once that was asked often."""
        self._suggested += 1
        return nearest(word, choices, likeness=likeness) if self._suggested <= MOST_SUGGESTED else []
