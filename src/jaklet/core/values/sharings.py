"""Forms of sharing, and how the windows of a workspace on a display share it by one, as they come and go."""

from collections.abc import Iterator, Mapping
from fractions import Fraction
from types import MappingProxyType
from typing import Final, NamedTuple

from jaklet.core.values.directions import SIDES
from jaklet.core.values.forms import HALF
from jaklet.core.values.geometry import Length
from jaklet.core.values.places import Place

COLUMNS, ROWS, GRID, STACK, HALVES, LARGE, PLACES = "columns", "rows", "grid", "stack", "halves", "large", "in"
WAYS: Final = (COLUMNS, ROWS, GRID)  # in which windows can share a display once, too
PLAIN_FORMS: Final = (*WAYS, STACK, HALVES)  # those that need no more than their name
NO, YES, FIRST, LAST = "no", "yes", "first", "last"  # how an app takes part
SWAPS, RETURNS, FLOATS = "swaps", "returns", "floats"  # what becomes of a window that is dragged
DRAGGED: Final = (SWAPS, RETURNS, FLOATS)


class Sharing(NamedTuple):
    """A form by its name. `large`: how many large windows; `side` and `share`: where they are, and what they have.

    `places`: those that are filled in order, the first with its alternatives.
    """

    form: str
    large: int = 1
    side: str = SIDES[0]
    share: Length = HALF
    places: Place | None = None

    def __str__(self) -> str:
        if self.form == PLACES:
            return f"{PLACES} {self.places}"
        if self.form != LARGE:
            return self.form
        return f"{self.large if self.large > 1 else 'one'} large {self.side} {self.share}"


class Split(NamedTuple):
    """Parts beside each other (`is_row`) or one above the other, in proportion to their weights."""

    is_row: bool
    parts: "tuple[Part, ...]"
    weights: tuple[Fraction, ...]

    def leaves(self) -> Iterator[int]:
        """Yield the windows in it, in order."""
        for part in self.parts:
            yield from windows_of_part(part)


Part = int | Split  # a window by its id, or parts of a part


def windows_of_part(part: Part) -> Iterator[int]:
    """Yield the windows of a part, in order."""
    if isinstance(part, Split):
        yield from part.leaves()
    else:
        yield part


ONE: Final = Fraction(1)
NO_WEIGHTS: Final[Mapping[int, Fraction]] = MappingProxyType({})


class Division(NamedTuple):
    """How windows share a display: by which form, in which order, and what was changed by hand.

    `order`: their ids. `weights`: in rows and columns, 1 for one that is not among them. `tree`: of `halves` alone.
    """

    form: Sharing
    order: tuple[int, ...] = ()
    weights: Mapping[int, Fraction] = NO_WEIGHTS
    tree: Part | None = None

    @property
    def sized(self) -> tuple[Fraction, ...]:
        """What each place in the order has beside the others; empty where hands have changed nothing."""
        return tuple(self.weights.get(wid, ONE) for wid in self.order) if self.weights else ()


class ArrangedSpot(NamedTuple):
    """A workspace on a display, by its connector's name."""

    workspace: int
    display: str


class KeptArrangements(NamedTuple):
    """How everything stays arranged: where a key asked for it (None: for no more), the divisions, and what floats."""

    asked: Mapping[ArrangedSpot, Sharing | None]
    divisions: Mapping[ArrangedSpot, Division]
    floats: frozenset[int] = frozenset()


NOTHING_KEPT: Final = KeptArrangements({}, {})
