"""An action as it was written: a verb and what it names, each with its offsets in the sentence."""

from collections.abc import Iterator
from typing import Final, NamedTuple, Optional, Union

from jaklet.core.values.chords import Keys
from jaklet.core.values.geometry import Length
from jaklet.core.values.places import Place
from jaklet.core.values.sharings import Sharing


class Ref(NamedTuple):
    """Something an action names: an app, a place, another action. `start` and `end` are offsets into the sentence.

    `amount`: a number or a time in seconds. `arguments`: what a macro is run with.
    """

    kind: str
    name: str
    start: int
    end: int
    place: Place | None = None
    keys: Keys = ()
    length: Length | None = None
    named: tuple["Name", ...] = ()  # what a place or form in it names
    action: Optional["Action"] = None  # its own refs have offsets into the whole sentence, too
    condition: Optional["Condition"] = None
    amount: float = 0.0
    arguments: tuple[tuple[str, str], ...] = ()
    sharing: Sharing | None = None

    @property
    def window(self) -> int:
        """The id of a window that it is the text of."""
        return int(self.name, 16 if self.name[:2].lower() == "0x" else 10)


class ConditionTest(NamedTuple):
    """One thing that is so or not: which (of `language.conditions.TESTS`), and what it names. `negated`: it is not."""

    kind: str
    refs: tuple[Ref, ...]
    negated: bool
    text: str


class JoinedConditions(NamedTuple):
    """Several conditions, of which all have to hold, or any."""

    every: bool
    parts: tuple["Condition", ...]


Condition = Union[ConditionTest, JoinedConditions]  # noqa: UP007  # the two name each other


NAMED: Final = ("APP", "LAYOUT", "LAYER", "DISPLAY", "MACRO", "WORKSPACE")


class Name(NamedTuple):
    """Something that an action names: an app, layout, layer, macro, place or display; with its offsets."""

    kind: str
    name: str
    start: int
    end: int


class Action(NamedTuple):
    """One thing to do. `refs` in the order of the verb's grammar."""

    verb: str
    refs: tuple[Ref, ...]
    text: str

    def named(self, kind: str) -> Ref | None:
        """Return the ref of this kind in the action, or None."""
        for ref in self.refs:
            if ref.kind == kind:
                return ref
        return None

    def every(self) -> Iterator["Action"]:
        """Yield this action and the ones that it names."""
        yield self
        for ref in self.refs:
            if ref.action:
                yield from ref.action.every()

    def names(self) -> Iterator[Name]:
        """Yield the names in this action and inside it that have to exist elsewhere, as often as they stand there."""
        for ref in self.refs:
            yield from names_in(ref)

    @property
    def seconds(self) -> float | None:
        """The time that it names."""
        ref = self.named("TIME")
        return ref.amount if ref else None

    @property
    def presses(self) -> Keys:
        """The chords that it presses."""
        return next((ref.keys for ref in self.refs if ref.keys), ())

    def __str__(self) -> str:
        return self.text


def names_in(ref: Ref) -> Iterator[Name]:
    """Yield the names in a ref, and in those inside it, that have to exist elsewhere."""
    if ref.action:
        yield from ref.action.names()
    elif ref.condition:
        yield from (name for test in tests_of(ref.condition) for one in test.refs for name in names_in(one))
    elif ref.kind in NAMED:
        yield Name(ref.kind.lower(), ref.name, ref.start, ref.end)
    else:
        yield from ref.named


def tests_of(condition: Condition) -> Iterator[ConditionTest]:
    """Yield every test of a condition."""
    if isinstance(condition, ConditionTest):
        yield condition
    else:
        for part in condition.parts:
            yield from tests_of(part)
