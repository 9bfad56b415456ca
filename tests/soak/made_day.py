"""A made-up working day of eight hours: what somebody does at the keyboard, and what happens around them, in order."""

import random
from collections.abc import Iterator
from typing import Final, NamedTuple

HOURS: Final = 8
KEYS: Final = 4000
RECALLS: Final = 300
WINDOWS: Final = 200
LAYOUTS: Final = 2  # those that are recalled
VISITOR: Final = "Visitor"
MOST_OPEN: Final = 6  # windows beside those of the office
# What is struck in one go, how often of a hundred, and with which words the log tells of its last key.
STRIKES: Final = (
    (("super+b",), 12), (("super+r",), 12), (("super+t",), 8), (("super+g",), 6), (("super+z",), 8), (("super+n",), 5),
    (("super+h",), 4), (("super+l",), 4), (("super+m",), 3), (("super+alt+a",), 8), (("super+alt+d",), 6),
    (("super+q",), 4), (("super+alt+h",), 8), (("super+alt+u",), 4), (("super+alt+y",), 4), (("super+alt+s",), 1),
    (("super+alt+c",), 1), (("super+o",), 2), (("super+w", "left", "escape"), 3), (("super+w", "k", "k", "escape"), 2),
    (("super+w", "p", "escape"), 2), (("super+w", "m", "r", "escape"), 2),
)  # fmt: skip
TELLS: Final = "high water at noon"
TOLD: Final = {"super+w": "layer arrange is on", "escape": "no layer is on", "super+alt+y": TELLS}  # else the key
BINDINGS: Final = """\
    super+alt+a: place left 2/3
    super+alt+d: place right 1/3
    super+alt+u: undo
    super+alt+y: tell "high water at noon"
    super+alt+s: save 3
    super+alt+c: spread grid
    super+alt+h: {do: nudge right 20px, repeat: true}
"""


class Deed(NamedTuple):
    """Something that happens at an hour of the day. `what`: key, recall, open, close, display, reload, sleep, manager."""

    hour: float
    what: str
    keys: tuple[str, ...] = ()


def made_day(seed: int, keys: int = KEYS, managers: int = 2) -> list[Deed]:
    """Return the deeds of a day. `keys`: how many keys are pressed; `managers`: how often a manager takes over."""
    chance = random.Random(seed)
    share = keys / KEYS
    deeds = [*_keys(chance, keys - round(RECALLS * share))]
    deeds += [Deed(0, "recall", (f"super+{chance.randint(1, LAYOUTS)}",)) for _ in range(round(RECALLS * share))]
    for what, count in (("open", WINDOWS), ("close", WINDOWS), ("display", 12), ("reload", 24), ("sleep", 6)):
        deeds += [Deed(0, what)] * max(2, round(count * share))
    deeds += [Deed(0, "manager")] * managers
    return sorted(deed._replace(hour=HOURS * chance.random()) for deed in deeds)


def _keys(chance: random.Random, count: int) -> Iterator[Deed]:
    strikes, weights = zip(*STRIKES, strict=True)
    while count > 0:
        (keys,) = chance.choices(strikes, weights)
        yield Deed(0, "key", keys)
        count -= len(keys)
