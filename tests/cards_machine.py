"""A person at cards: opens, clicks, drags, types and escapes in any order, on whichever desk."""

import random
from collections.abc import Callable, Sequence
from typing import NamedTuple


class Person(NamedTuple):
    """What a person can do there. `opens`: chords that open cards; `is_well`: fails unless chords and typing work."""

    chord: Callable[[str], None]
    click: Callable[[int, int], None]
    drag: Callable[[int, int, int, int], None]
    opens: Sequence[str]
    escapes: Sequence[str]
    letters: str
    is_well: Callable[[str], None]


def play(person: Person, seed: int, rounds: int, size: tuple[int, int] = (1800, 900)) -> None:
    """Do anything; after a few things leave what is open, and see whether the keyboard is the programs' again."""
    dice = random.Random(seed)

    def anywhere() -> tuple[int, int]:
        return dice.randint(5, size[0]), dice.randint(5, size[1])

    for number in range(rounds):
        done = []
        for _ in range(dice.randint(1, 6)):
            what = dice.choice(("open", "open", "click", "click", "drag", "type", "escape"))
            if what == "open":
                chord = dice.choice(person.opens)
                person.chord(chord)
                done.append(chord)
            elif what == "click":
                place = anywhere()
                person.click(*place)
                done.append(f"click {place}")
            elif what == "drag":
                way = (*anywhere(), *anywhere())
                person.drag(*way)
                done.append(f"drag {way}")
            else:
                key = dice.choice(person.letters) if what == "type" else dice.choice(person.escapes)
                person.chord(key)
                done.append(key)
        for _ in range(2):  # one for a prompt on top of a card
            person.chord("escape")
        person.is_well(f"seed {seed}, round {number}: {', '.join(done)}")
