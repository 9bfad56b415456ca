"""Which keys to change: the places of blocks that cost the hand least, for how often their keys are pressed.

Docs: docs/development/effort.md.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import partial
from math import inf
from typing import Final, NamedTuple

from jaklet.checks.inputs import CheckInputs
from jaklet.config.reading import ConfigReading
from jaklet.config.rebase import edited_files
from jaklet.core.keys.free_chords import FAMILIES, PLAIN, FreeChords
from jaklet.core.keys.keyboards import CONTORTION, Keyboard
from jaklet.core.values.chords import Chord, Keys
from jaklet.suggesting.assignment import LEAST_PRICE, Problem, RowPlacement, Solution, as_it_is, at_most, curve, solve
from jaklet.suggesting.blocks import (
    CHORD,
    MODIFIERS,
    TANGLED,
    BindingBlock,
    blocks,
    changed_texts,
    chords_sent,
    written_at,
)
from jaklet.suggesting.prices import Efforts, Price, uses_of

CURVE_ENDS: Final = 0.1  # what the last change of the curve gains at least
HABIT: Final = 0.5  # what a change has to gain, in presses of a key that is used as often as most


class SuggestionRequest(NamedTuple):
    """What is asked for. `habit`: what each change has to gain; `most`: how many there may be.

    `heading`: only what is under it may move; `kept`: chords that stay.
    """

    habit: float = HABIT
    most: int | None = None
    heading: str | None = None
    kept: tuple[Chord, ...] = ()


class MovedBlock(NamedTuple):
    """A block at another place. `effort`: a press before and after; `gain`: its share in what all cost, of 1."""

    block: BindingBlock
    to: Chord
    uses: int
    effort: tuple[float, float]
    gain: float

    @property
    def written(self) -> str:
        """Its keys as they would be written."""
        return written_at(self.block, self.to)


class KeySuggestion(NamedTuple):
    """What would be better. `effort`: of all presses together, before and after, for one press on average.

    `points`: numbers of changes, each with what is left of all costs with the best of so many, 1 for as it is.
    `stay`: blocks that were not moved, with the reason. `counted`: presses that it is weighed by. `proven`: nothing
    gains more.
    """

    moves: tuple[MovedBlock, ...]
    effort: tuple[float, float]
    points: tuple[tuple[int, float], ...]
    stay: tuple[BindingBlock, ...]
    counted: int
    proven: bool


def suggest(case: CheckInputs, counts: Mapping[str, int], wanted: SuggestionRequest) -> KeySuggestion:
    """Return the best places for a config's bindings; `counts`: how often each was pressed, by its name there."""
    found = blocks(case.reading, case.live, case.keyboards, wanted.heading, wanted.kept)
    found = _untangled(found, case.keyboards)
    uses = [uses_of(block, counts) for block in found]
    # One press more for each, so that what was never counted is not for nothing; then 1 for what is pressed like most.
    mean = sum(sum(its) + 1 for its in uses) / max(len(found), 1)
    efforts = Efforts(case.keyboards, case.config.settings.hands)
    shares = [[(one + 1 / len(its)) / mean for one in its] for its in uses]
    prices = [Price(block, its, efforts) for block, its in zip(found, shares, strict=True)]
    places = _Places(case, found, prices)
    problem = places.problem()
    now = as_it_is(problem)
    best = at_most(problem, wanted.most) if wanted.most is not None else solve(problem, wanted.habit)
    fixed = sum(price.of(block.first[0]) for block, price in zip(found, prices, strict=True) if block.stays)
    whole = now.cost + fixed
    to = places.of(best)
    moves = []
    before = after = 0.0
    for at, (block, price) in enumerate(zip(found, prices, strict=True)):
        place = to.get(at, block.first[0])
        efforts_of = price.effort(block.first[0]), price.effort(place)
        before, after = before + efforts_of[0], after + efforts_of[1]
        if place != block.first[0]:
            gain = (price.of(block.first[0]) - price.of(place)) / whole
            weight = sum(shares[at])
            moves.append(
                MovedBlock(block, place, sum(uses[at]), (efforts_of[0] / weight, efforts_of[1] / weight), gain)
            )
    presses = sum(sum(its) for its in shares)
    points = [
        (one.changes, (one.cost + fixed) / whole)
        for one in curve(problem, min(wanted.habit, CURVE_ENDS) or LEAST_PRICE)
    ]
    return KeySuggestion(
        tuple(sorted(moves, key=lambda one: -one.gain)),
        (before / presses, after / presses) if presses else (0.0, 0.0),
        tuple(points),
        tuple(block for block in found if block.stays),
        sum(sum(its) for its in uses),
        best.proven,
    )


def moved_files(reading: ConfigReading, told: KeySuggestion) -> dict[str, str]:
    """Return the texts of the files that change, by their names as in `reading.sources`; all else in them stays."""
    changes = [changed_texts(one.block, one.to) for one in told.moves]
    return edited_files(reading, {spot: new for its in changes for spot, new in its.items()})


def _untangled(found: Sequence[BindingBlock], keyboards: Sequence[Keyboard]) -> list[BindingBlock]:
    """Return blocks, those that share a key of some keyboard with another one as such that stay."""
    holders: dict[object, set[int]] = {}
    for at, block in enumerate(found):
        for mark in _marks(block.layer, block.first, keyboards):
            holders.setdefault(mark, set()).add(at)
    tangled = {at for its in holders.values() if len(its) > 1 for at in its}
    return [block._replace(stays=block.stays or TANGLED) if at in tangled else block for at, block in enumerate(found)]


def _marks(layer: str, chords: Iterable[Chord], keyboards: Sequence[Keyboard]) -> Iterator[object]:
    """Yield the keys that some chords are, on every keyboard; two that have one in common cannot both be bound."""
    for chord in chords:
        yield layer, chord
        for number, board in enumerate(keyboards):
            for stroke in board.strokes(chord):
                yield layer, number, stroke


class _Places:
    """The blocks that may move as rows, chords of layers as columns."""

    def __init__(self, case: CheckInputs, found: Sequence[BindingBlock], prices: Sequence[Price]) -> None:
        self._found, self._prices, self._boards = found, prices, case.keyboards
        self._rows = [at for at, block in enumerate(found) if not block.stays and block.changes == CHORD]
        self._wide = [at for at, block in enumerate(found) if not block.stays and block.changes != CHORD]
        self._free = _free_beside(case, [block for block in found if block.stays])
        self._columns: list[tuple[str, Chord]] = []
        self._at: dict[tuple[str, Chord], int] = {}
        self._sharing: dict[object, set[int]] = {}
        self._candidates = {layer: self._all(layer) for layer in dict.fromkeys(block.layer for block in found)}
        for at in self._rows:
            self._add(found[at].layer, found[at].first[0])
        for layer, chords in self._candidates.items():
            for chord in chords:
                marks = list(_marks(layer, (chord,), self._boards))
                if not any(self._sharing.get(mark) for mark in marks):  # it is no key that is in use already
                    self._add(layer, chord)
        self._choices = {at: self._placements(found[at]) for at in self._wide}

    def _add(self, layer: str, chord: Chord) -> None:
        number = len(self._columns)
        self._columns.append((layer, chord))
        self._at[layer, chord] = number
        for mark in _marks(layer, (chord,), self._boards):
            self._sharing.setdefault(mark, set()).add(number)

    def _families(self, layer: str) -> tuple[int, ...]:
        """Return the sets of modifiers to choose from: those that the config uses already."""
        used = {chord.modifiers for block in self._found if block.layer == layer for chord in block.first}
        return tuple(one for one in (PLAIN if layer else FAMILIES) if one in used)

    def _all(self, layer: str) -> dict[Chord, None]:
        """Return the chords to choose from, in the order of the keys."""
        every = self._free.candidates(self._families(layer))
        return dict.fromkeys(one.chord for one in every if self._free.is_free(layer, (one.chord,)))

    def _placements(self, block: BindingBlock) -> list[tuple[Chord, frozenset[int]]]:
        """Return the places of a block of several chords with the columns that each takes, today's first."""
        first = block.first[0]
        fits: Callable[[Chord], bool]
        if block.changes == MODIFIERS:
            others = [first._replace(modifiers=one) for one in self._families(block.layer)]
            fits = partial(self._fits, block.layer)
        else:
            others = [one for one in self._candidates[block.layer] if one.modifiers == first.modifiers]
            fits = self._candidates[block.layer].__contains__
        found: dict[Chord, frozenset[int]] = {}
        for place in (first, *others):
            moved = block.moved(place)
            if place == first or all(fits(chord) and _serves(block, chord) for chord in moved):
                marks = _marks(block.layer, moved, self._boards)
                found[place] = frozenset(number for mark in marks for number in self._numbers(mark))
        return list(found.items())

    def _numbers(self, mark: object) -> set[int]:
        """Return the columns of a key; one that no row can take is a column for blocks of several chords alone."""
        if mark not in self._sharing:
            self._sharing[mark] = {len(self._columns)}
            self._columns.append(("", Chord(0, 0)))
        return self._sharing[mark]

    def _fits(self, layer: str, chord: Chord) -> bool:
        return (
            self._free.is_free(layer, (chord,))
            and all(board.strokes(chord) for board in self._boards)
            and max(board.strain(chord) for board in self._boards) < CONTORTION
        )

    def problem(self) -> Problem:
        """Return the problem to be solved."""
        import numpy as np

        costs = np.full((len(self._rows), len(self._columns)), inf)
        for row, at in enumerate(self._rows):
            block, price = self._found[at], self._prices[at]
            for chord in dict.fromkeys((block.first[0], *self._candidates[block.layer])):
                number = self._at.get((block.layer, chord))
                if number is not None and (chord == block.first[0] or _serves(block, chord)):
                    costs[row, number] = price.of(chord)
        now = [self._at[self._found[at].layer, self._found[at].first[0]] for at in self._rows]
        wide = [
            [RowPlacement(self._prices[at].of(place), taken) for place, taken in its]
            for at, its in self._choices.items()
        ]
        return Problem(costs, now, wide)

    def of(self, solution: Solution) -> dict[int, Chord]:
        """Return where each block that may move is then, by its number."""
        found = {at: self._columns[column][1] for at, column in zip(self._rows, solution.columns, strict=True)}
        for at, choice in zip(self._wide, solution.choices, strict=True):
            found[at] = self._choices[at][choice][0]
        return found


def _serves(block: BindingBlock, chord: Chord) -> bool:
    return bool(chord.modifiers) or not block.is_held


def _free_beside(case: CheckInputs, staying: Iterable[BindingBlock]) -> FreeChords:
    """Return the chords that are free beside fixed blocks. Chords of others, off, or sent to programs are not free."""
    taken: dict[str, list[Keys]] = {}
    for bound in (bound for block in staying for bound in block.bounds):
        taken.setdefault(bound.layer, []).append(bound.keys)
    for bound in (bound for bound in case.reading.every_bound() if bound.off):
        taken.setdefault(bound.layer, []).append(bound.keys)
    owned: list[Keys] = [one.keys for one in case.reserved]
    owned += [(chord,) for chord in chords_sent(case.reading)]
    return FreeChords(case.keyboards, taken, owned)
