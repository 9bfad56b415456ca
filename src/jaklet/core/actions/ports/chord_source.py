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
    """A chord that cannot be had, or None for the whole keyboard, and the reason in words for the user.

    `owner`: the program that holds the chord, empty where the source cannot tell. `modifier`: another program holds
    this modifier's key by itself. A chord with the modifier could then be grabbed, and would never be heard.
    """

    chord: Chord | None
    reason: str
    owner: str = ""
    modifier: str = ""


def unheard(chord: Chord, modifier: str, holder: str, owner: str = "") -> RefusedChord:
    """Return the refusal of a chord whose modifier's key is held by itself. `holder`: who holds the key, in words."""
    reason = f"{holder} holds the {modifier.capitalize()} key by itself, so that no chord with {modifier} is heard"
    return RefusedChord(chord, reason, owner, modifier)


class KeyEdge(Enum):
    """What happened: a key went down, repeated or went up, or the held modifiers changed."""

    PRESS = "press"
    REPEAT = "repeat"
    RELEASE = "release"
    HOLD = "hold"


class KeyEvent(NamedTuple):
    """A key that was heard.

    `chord`: the key as it was pressed, None for one without a binding. `time`: server time in milliseconds.
    `waits`: the source holds the key back until `answer` is called. `typed`: the key as text, where
    `HearableKeys.typed` asks for that. `held`: the bits of the modifiers that are held now, of those asked for.
    """

    edge: KeyEdge
    chord: Chord | None
    time: int
    waits: bool = False
    typed: TypedKey | None = None
    held: int = 0


class GrabChange(NamedTuple):
    """A change in what can be had: all refusals now, and the reason in words where the user should know it."""

    refusals: list[RefusedChord]
    why: str = ""


class ChordSource(Protocol):
    """Where chords come from. The source may belong to the desk, or be a service with descriptors of its own.

    No method waits for a user or for another program. Times are in seconds on the desk's clock.
    """

    @property
    def abilities(self) -> Abilities:
        """The abilities of the source, a part of `OF_KEYS`. `grab` refuses what needs any other."""
        ...

    def grab(self, hearing: HearableKeys) -> list[RefusedChord]:
        """Hear exactly these keys from now on, and return the chords that cannot be had.

        `hearing`: all chords to hear; those of former calls are let go. A refusal without a chord is about the whole
        keyboard. Where the desktop asks the user first, chords are refused until the answer, which `changed` returns.
        """
        ...

    def ask_again(self) -> None:
        """Forget all refusals: the next `grab` asks for refused chords once more."""
        ...

    def probe(self, chords: Iterable[Chord]) -> list[RefusedChord]:
        """Return the refusals of chords without keeping any. Call it only while the source hears nothing."""
        ...

    def key_events(self) -> list[KeyEvent]:
        """Return the key events since the last call; never waits."""
        ...

    def answer(self, passed: bool) -> None:
        """Decide on the key that waits: `passed` gives the key to the program in front, else the key is ours."""
        ...

    def lost(self) -> list[RefusedChord]:
        """Return the keys that waited too long since the last call, and went to the program in front."""
        ...

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return for each chord the others that are the same key with the same modifiers on this keyboard."""
        ...

    def changed(self) -> GrabChange | None:
        """Return all refusals if these have changed since the last call; None otherwise."""
        ...

    def holding(self) -> str:
        """Return the reason, in words, why programs get no keys now; empty if they get them."""
        ...

    def descriptors(self) -> Iterable[int]:
        """Return the file descriptors on which keys come; none where `Desktop.wait` sees them anyway."""
        ...

    @property
    def due(self) -> float:
        """The time at which `key_events` has to be called at the latest; infinity for never."""
        ...
