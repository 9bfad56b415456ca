"""Which bindings get in each other's way, whatever keyboard it is.

Two do if some run of keys would mean both, or if one's keys begin the other's, which then can never be gone on with; in
one layer, on one edge of the key, with some app in front for which both are live. See `keymap` for what keys mean.
"""

from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from itertools import product
from typing import Final, Generic, NamedTuple, Protocol, TypeVar

from jaklet.core.values.chords import Chord, Keys
from jaklet.core.values.scopes import Scope


class LiveKeys(Protocol):
    """What a binding has to tell."""

    @property
    def keys(self) -> Keys:
        """Its chords."""
        ...

    @property
    def layer(self) -> str:
        """Its layer."""
        ...

    @property
    def scope(self) -> Scope:
        """Where it is live."""
        ...

    @property
    def on_release(self) -> bool:
        """On which edge of its last key it is done."""
        ...


L = TypeVar("L", bound=LiveKeys)
Tokens = Callable[[Chord], Iterable[Hashable]]


MOST_COMPARED: Final = 64  # bindings of one chord; the scopes that do not overlap run out long before


class Conflict(NamedTuple, Generic[L]):
    """One binding that cannot be had because of another: the same keys, or, for `begins`, the start of them.

    `length`: how many of its chords the other one takes.
    """

    binding: L
    other: L
    begins: bool
    length: int


def conflicts(bindings: Iterable[L], tokens: Tokens | None = None) -> Iterator[Conflict[L]]:
    """Yield the conflicts of every binding with earlier ones, of those that conflict with each other the first.

    `tokens`: what chords are told apart by, such as the keys they are on some keyboard; if not given, by themselves.
    """
    bound: dict[Hashable, list[L]] = {}
    longer: list[tuple[L, Sequence[tuple[Hashable, ...]]]] = []
    for binding in bindings:
        ways: Sequence[tuple[Hashable, ...]]
        if tokens:
            ways = list(product(*map(tokens, binding.keys)))
        else:
            ways = (binding.keys,)
            if (binding.layer, binding.keys) not in bound:  # as it is with nearly all
                bound[binding.layer, binding.keys] = [binding]
                if len(binding.keys) > 1:
                    longer.append((binding, ways))
                continue
        for rival in _rivals(binding, ways, bound):
            yield Conflict(binding, rival, False, len(binding.keys))
        if len(binding.keys) > 1:
            longer.append((binding, ways))
    for binding, ways in longer:
        for length in range(1, len(binding.keys)):
            found = (one for way in ways for one in bound.get((binding.layer, way[:length]), ()))
            other = next((one for one in found if one.scope.overlaps(binding.scope)), None)
            if other:
                yield Conflict(binding, other, True, length)


def _rivals(binding: L, ways: Iterable[tuple[Hashable, ...]], bound: dict[Hashable, list[L]]) -> list[L]:
    """Return the earlier bindings of the same keys that a binding meets, and put it among those that are bound."""
    rivals: list[L] = []
    for way in ways:
        group = bound.get((binding.layer, way))
        if group is None:  # as it is with nearly all
            bound[binding.layer, way] = [binding]
            continue
        for one in group[:MOST_COMPARED]:
            # Rivals that meet each other are told of there; what is told here is all that has to be looked at.
            if one is not binding and can_meet(one, binding) and not any(can_meet(one, rival) for rival in rivals):
                rivals.append(one)
        group.append(binding)
    return rivals


def reachable(doors: Mapping[str, Iterable[str]]) -> set[str]:
    """Return the layers that keys can lead to. `doors`: which layers each one leads to; empty for none."""
    reached, ahead = {""}, [""]
    while ahead:
        for layer in doors.get(ahead.pop(), ()):
            if layer not in reached:
                reached.add(layer)
                ahead.append(layer)
    return reached


def can_meet(one: LiveKeys, other: LiveKeys) -> bool:
    """Return whether two bindings of the same keys can both be meant: on one edge of the key, for some app in front."""
    return one.on_release is other.on_release and one.scope.overlaps(other.scope)
