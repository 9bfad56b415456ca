"""Sharing a length among windows: exact shares, and what one cannot take goes to the others."""

from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import accumulate, pairwise
from math import lcm
from typing import NamedTuple

Takes = Callable[[int], int]  # from the pixels that are offered to the pixels that are taken


class Stretch(NamedTuple):
    """A part of a length: where it begins, and its size in pixels."""

    start: int
    size: int


class SharedLength(NamedTuple):
    """How a length was shared. `lacking`: the pixels that were missing, so that neighbours overlap."""

    stretches: tuple[Stretch, ...]
    lacking: int


def share_length(length: int, gap: int, takes: Sequence[Takes], weights: Sequence[Fraction] = ()) -> SharedLength:
    """Share a length in pixels among windows that stand one gap apart, in proportion to their weights (equal without).

    Where all take what they are offered, the edges are those of the places with these shares. A window that takes less
    or more keeps that, and the rest is shared anew among the others. Those that need more come first, if they lack more
    than others leave. Where all need more than there is, each gets what it needs: the first and last stand at the ends,
    and neighbours overlap equally. What no window can take is left free at the far end.
    """
    parts = _whole(weights) if weights else [1] * len(takes)
    fixed: dict[int, int] = {}
    while True:
        free = [i for i in range(len(takes)) if i not in fixed]
        offered = _offered(length + gap - sum(fixed.values()) - gap * len(fixed), gap, [parts[i] for i in free])
        taken = [takes[i](size) for i, size in zip(free, offered, strict=True)]
        if not fixed and taken == offered and sum(offered) + gap * (len(offered) - 1) <= length:
            starts = accumulate((size + gap for size in offered[:-1]), initial=0)  # nobody has a limit that matters
            return SharedLength(tuple(map(Stretch, starts, offered)), 0)
        settled = _settled(free, offered, taken)
        if not settled:
            fixed |= zip(free, taken, strict=True)
            break
        fixed |= settled
    sizes = [fixed[i] for i in range(len(takes))]
    return _in_a_row(_topped_up(sizes, length + gap - sum(sizes) - gap * len(sizes), takes), length, gap)


def _settled(free: Sequence[int], offered: Sequence[int], taken: Sequence[int]) -> list[tuple[int, int]]:
    """Return who keeps what they took, as it differs from what was offered: first those that need more, or less."""
    excess = [got - size for got, size in zip(taken, offered, strict=True)]
    total = sum(excess)
    every = zip(free, taken, excess, strict=True)
    return [(i, got) for i, got, over in every if over and (total == 0 or (over > 0) == (total > 0))]


def _topped_up(sizes: Sequence[int], left: int, takes: Sequence[Takes]) -> list[int]:
    """Return sizes with a few pixels more that steps have left over: whoever can take them has them."""
    found = list(sizes)
    for i, size in enumerate(sizes):
        more = takes[i](size + left) if left > 0 else size
        if size < more <= size + left:
            left -= more - size
            found[i] = more
    return found


def _whole(weights: Sequence[Fraction]) -> list[int]:
    """Return weights as whole numbers, in the same proportion: they are summed up and multiplied very often."""
    if all(weight is weights[0] for weight in weights):
        return [1] * len(weights)
    scale = lcm(*(weight.denominator for weight in weights))
    return [weight.numerator * (scale // weight.denominator) for weight in weights]


def _offered(length: int, gap: int, weights: Sequence[int]) -> list[int]:
    """Return the sizes of exact shares of a length that is one gap longer than what they fill."""
    whole, length = sum(weights), max(0, length)
    # Rounded half up, as `geometry.rounded` does it.
    edges = [0, *((2 * sum_ * length + whole) // (2 * whole) for sum_ in accumulate(weights))] if weights else [0]
    return [max(1, far - near - gap) for near, far in pairwise(edges)]


def _in_a_row(sizes: Sequence[int], length: int, gap: int) -> SharedLength:
    lacking = max(0, sum(sizes) + gap * (len(sizes) - 1) - length)
    between = len(sizes) - 1
    starts = accumulate((size + gap for size in sizes[:-1]), initial=0)
    back = (lacking * i // between if between else 0 for i in range(len(sizes)))
    return SharedLength(
        tuple(Stretch(max(0, start - less), size) for start, less, size in zip(starts, back, sizes, strict=True)),
        lacking,
    )
