"""Chords that cannot be had, in words: those with one reason together.

It loads next to nothing, as `jaklet status` is one of the quickest commands.
"""

from jaklet.core.values.words import counted, listed

TYPE_CHECKING = False
if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

MOST_NAMED = 3


def some_of(chords: "Sequence[str]") -> str:
    """Return the first of some chords by name, and how many more there are."""
    more = [counted(len(chords) - MOST_NAMED, "more chord")] if len(chords) > MOST_NAMED else []
    return listed([*chords[:MOST_NAMED], *more])


def refused_told(refused: "Mapping[str, str]") -> list[str]:
    """Return for each reason which chords it is about, and the reason. `refused`: the reason of each chord."""
    by_reason: dict[str, list[str]] = {}
    for chord, reason in refused.items():
        by_reason.setdefault(reason, []).append(chord)
    return [f"{some_of(chords)} cannot be used: {reason}" for reason, chords in by_reason.items()]
