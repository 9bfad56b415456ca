"""A source of chords: a keyboard that can be listened to, or a service that tells of keys."""

from collections.abc import Iterable
from enum import Enum
from typing import Final, NamedTuple, Protocol

from jaklet.core.keys.keymap import HearableKeys, Twins
from jaklet.core.keys.strokes import TypedKey
from jaklet.core.values.chords import Chord
from jaklet.core.values.desk_abilities import Abilities

HELD: Final = "another program holds it"  # why most chords are refused


class RefusedChord(NamedTuple):
    """A chord that cannot be had, or None for the whole keyboard, and why, in words for the user.

    `owner`: the program that holds it, where the source can tell. `modifier`: somebody holds the key of this one by
    itself, so that no chord with it is heard; the chord could be had, and would be silent.
    """

    chord: Chord | None
    reason: str
    owner: str = ""
    modifier: str = ""


def unheard(chord: Chord, modifier: str, holder: str, owner: str = "") -> RefusedChord:
    """Return why a chord is not heard whose modifier's key somebody holds by itself. `holder`: who, in words."""
    reason = f"{holder} holds the {modifier.capitalize()} key by itself, so that no chord with {modifier} is heard"
    return RefusedChord(chord, reason, owner, modifier)


class KeyEdge(Enum):
    """What happened to a key: it went down, it was held long enough to repeat, it went up; modifiers came or went."""

    PRESS = "press"
    REPEAT = "repeat"
    RELEASE = "release"
    HOLD = "hold"


class KeyEvent(NamedTuple):
    """A key that was heard. `chord`: as it was pressed, None for one that is bound to nothing; `time`: the server's.

    `waits`: the key is held back until `answer` says whose it is. `typed`: where the hearing asks for that. `held`: the
    modifiers that are held now, 0 for none that the hearing asks for.
    """

    edge: KeyEdge
    chord: Chord | None
    time: int
    waits: bool = False
    typed: TypedKey | None = None
    held: int = 0


class GrabChange(NamedTuple):
    """What can be had otherwise than was told: all that cannot, and in words why, where the user is to know."""

    refusals: list[RefusedChord]
    why: str = ""


class ChordSource(Protocol):
    """Where chords come from. It may belong to the desk, or be a service of its own with descriptors and a clock."""

    @property
    def abilities(self) -> Abilities:
        """What it can do, of `OF_KEYS`. What it cannot is refused by `grab`, and never done by halves."""
        ...

    def grab(self, hearing: HearableKeys) -> list[RefusedChord]:
        """Hear exactly these keys, and return the chords that cannot be had; with None, that the keyboard cannot be.

        Where the answer comes later, as the user is asked, they are refused until then, and `changed` tells of it.
        """
        ...

    def ask_again(self) -> None:
        """Take no chord for refused any more because it was: the next `grab` asks for all that it wants."""
        ...

    def probe(self, chords: Iterable[Chord]) -> list[RefusedChord]:
        """Return which of these chords others have; only for a source that hears nothing yet, and goes on so."""
        ...

    def key_events(self) -> list[KeyEvent]:
        """Return the key events since the last call; never waits."""
        ...

    def answer(self, passed: bool) -> None:
        """Say whose a key is that waits: the program's in front if it is `passed` on, else ours."""
        ...

    def lost(self) -> list[RefusedChord]:
        """Return the keys that waited too long to be judged since last asked, and went to the program in front."""
        ...

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return which of these chords are one key on this keyboard, for each the others."""
        ...

    def changed(self) -> GrabChange | None:
        """Return the chords that cannot be had, if these have changed; None otherwise."""
        ...

    def holding(self) -> str:
        """Return in words why keys are kept from programs now; empty if they are not."""
        ...

    def descriptors(self) -> Iterable[int]:
        """Return the descriptors on which keys come; none where the desk's own waiting sees them."""
        ...

    @property
    def due(self) -> float:
        """When it wants to be asked again at the latest, on the desk's clock; infinity for never."""
        ...
