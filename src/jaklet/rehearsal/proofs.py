"""What a proof says, and what it is made of: states, situations of the desk, what actions bring about."""

from dataclasses import dataclass, field
from typing import NamedTuple

from jaklet.core.keys.keymap import REST, KeymapState
from jaklet.core.values.chords import Chord, Keys
from jaklet.core.values.config import Binding
from jaklet.desktops.tabletop.room import Room


class Counterexample(NamedTuple):
    """Keys that lead to where something does not work, the last of them included, and what is wrong there."""

    keys: Keys
    problem: str
    binding: Binding | None = None
    layer: str = ""


@dataclass
class Proof:
    """What was tried and what was found. `states`: those that keys can reach; `presses`: of keys on the tabletop.

    `asked`: states in which the user has asked for other keys, in words, with the keys that lead out. `cut`: there were
    so many states that not all were looked at, so that nothing is proved.
    """

    layouts: int = 0
    foci: int = 0
    layers: int = 0
    chords: int = 0
    states: int = 0
    presses: int = 0
    found: list[Counterexample] = field(default_factory=list)
    unreached: list[str] = field(default_factory=list)  # layouts that no key recalls
    asked: list[str] = field(default_factory=list)
    cut: bool = False

    @property
    def holds(self) -> bool:
        """True if the claim was proved."""
        return not self.found and not self.cut


class ProofState(NamedTuple):
    """What the next key's meaning, and its result, depend on. `waits`: the macros under way.

    `held`: a key is still down, and letting it go leads there. `holds`: which of the conditions that macros ask for
    hold, in the order in which they stand there; where there are events, also which apps have windows.
    """

    keys: KeymapState = REST
    paused: bool = False
    front: str | None = None
    waits: tuple[str, ...] = ()
    held: KeymapState | None = None
    holds: tuple[bool, ...] = ()

    @property
    def is_plain(self) -> bool:
        """True where nothing was asked for: no layer, no sequence, no pause."""
        return self.keys == REST and not self.paused


class Situation(NamedTuple):
    """A situation of the desk, to be set up again: a room, the layouts that stood, and what was begun and waits.

    `from_start`: the listener's own start has begun what waits, so that it has to start anew on this room.
    """

    number: int
    room: Room
    stood: tuple[str, ...]
    begun: tuple[Binding, ...] = ()
    from_start: bool = False


class ActionEffect(NamedTuple):
    """What an action brings about: the app in front, what waits, the layer, a pause; and why a recall failed.

    `holds`: which conditions hold then.
    """

    front: str | None
    waits: tuple[str, ...]
    keys: KeymapState
    paused: bool
    desk: Situation
    problem: str
    holds: tuple[bool, ...] = ()


@dataclass
class ProofNode:
    """A state, the keys that lead to it, a desk as it is then, and the states that keys lead to from there."""

    state: ProofState
    path: Keys
    desk: Situation
    next: dict[ProofState, Chord | None] = field(default_factory=dict)
