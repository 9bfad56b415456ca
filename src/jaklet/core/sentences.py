"""An action as it was written: a verb and what it names, each with its offsets in the sentence."""

from collections.abc import Iterator
from typing import Final, NamedTuple, Optional

from jaklet.core.geometry import Length
from jaklet.core.keys.chords import Keys
from jaklet.core.places.places import Place


class Ref(NamedTuple):
    """Something an action names: an app, a place, another action. `start` and `end` are offsets into the sentence."""

    kind: str
    name: str
    start: int
    end: int
    place: Place | None = None
    keys: Keys = ()
    length: Length | None = None
    named: tuple["Name", ...] = ()  # what a place in it names
    action: Optional["Action"] = None  # its own refs have offsets into the whole sentence, too


NAMED: Final = ("APP", "LAYOUT", "LAYER", "DISPLAY")


class Name(NamedTuple):
    """Something that an action names: an app, layout, layer, place or display; with its offsets in the sentence."""

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
        """Return what the action names of this kind, if anything."""
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
        """Yield what this action and those in it name that has to exist elsewhere, as often as it is named."""
        for ref in self.refs:
            if ref.action:
                yield from ref.action.names()
            elif ref.kind in NAMED:
                yield Name(ref.kind.lower(), ref.name, ref.start, ref.end)
            else:
                yield from ref.named

    @property
    def presses(self) -> Keys:
        """The chords that it presses."""
        return next((ref.keys for ref in self.refs if ref.keys), ())

    def __str__(self) -> str:
        return self.text
