"""What a desk and a source of chords can do: each says its abilities, and what it lacks is said before it is needed.

A new ability is one entry in `Ability`, and a mark on whatever needs it: a verb, an event, a condition, a change, or a
kind of binding (`core.language.ability_needs`).
"""

from collections.abc import Iterable
from enum import Enum
from typing import Final


class Ability(Enum):
    """One thing that not every desktop can do. The value goes on from "this desktop cannot"."""

    __hash__ = object.__hash__  # sets of them are compared at every key, and a name takes longer to hash

    # Of the desk.
    SEE = "tell which windows there are"
    MOVE = "move windows"
    SHAPE = "maximise windows, or let them fill the display"
    MINIMISE = "minimise windows"
    FOCUS = "give the focus to a window"
    STACK = "raise windows without giving them the focus"
    ORDER = "bring windows into an order"
    ABOVE = "keep windows above others"
    CLOSE = "close windows"
    KILL = "end the programs of windows"
    WORKSPACES = "change workspaces"
    MAKE_WORKSPACES = "make workspaces"
    TYPE = "press keys for programs"
    IDLE = "tell for how long nothing was used"
    PLACE_UNSEEN = "place a new window before it is seen"
    ROLE = "tell the roles of all windows"
    # Of the source of chords.
    HEAR = "let programs hear chords"
    PASS_ON = "hold a key back and give it to the program after all"
    WHOLE_KEYBOARD = "give the whole keyboard to a layer"
    AT_ONCE = "let other chords be heard from one moment to the next"
    REPEAT = "tell that a key is held down"
    RELEASE = "tell that a key was let go"
    HOLD = "tell which modifiers are held"
    UNASKED = "let chords be heard without asking the user"
    OWNER = "name the program that holds a chord"
    HAND_OVER = "hand its own chords over"

    @property
    def word(self) -> str:
        """Its name in files and lists."""
        return self.name.lower().replace("_", " ")

    @property
    def lacking(self) -> str:
        """What is to be said where it is needed and is not there."""
        return f"this desktop cannot {self.value}"


Abilities = frozenset[Ability]
EVERY: Final[Abilities] = frozenset(Ability)
OF_KEYS: Final[Abilities] = frozenset(
    {
        Ability.HEAR, Ability.PASS_ON, Ability.WHOLE_KEYBOARD, Ability.AT_ONCE, Ability.REPEAT, Ability.RELEASE,
        Ability.HOLD, Ability.UNASKED, Ability.OWNER, Ability.HAND_OVER,
    }
)  # fmt: skip
OF_DESKS: Final[Abilities] = EVERY - OF_KEYS
# What does as well. A chord that cannot be given back to a program is heard only while it is meant; windows that cannot
# be raised without the focus are brought into an order by giving it to one after another.
AS_WELL: Final = {Ability.PASS_ON: Ability.AT_ONCE, Ability.STACK: Ability.ORDER}


def is_lacking(ability: Ability, abilities: Abilities) -> bool:
    """Return whether a desktop can neither do something nor what does as well."""
    return ability not in abilities and AS_WELL.get(ability) not in abilities


def in_order(abilities: Iterable[Ability]) -> list[Ability]:
    """Return abilities in the order in which they are always told."""
    wanted = frozenset(abilities)
    return [one for one in Ability if one in wanted]


def ability_called(word: str) -> Ability | None:
    """Return the ability with this name, as it is written in a file."""
    plain = " ".join(word.lower().split())
    return next((one for one in Ability if one.word == plain), None)
