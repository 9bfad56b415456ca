"""The best assignment of columns to rows, where some rows take several columns at once: exactly, by SciPy.

A row that takes one column is a row of a matrix (`scipy.optimize.linear_sum_assignment`). A row that takes several is
`wide`. Its columns are taken for rows of their own first, which gives a bound of the cost. Where they do not agree,
branch and bound goes on.

The best assignment with a limited number of changes is a point of the curve of prices for a change, or else a mixed
integer program (`scipy.optimize.milp`). The bound makes that small: a choice that would cost more than a known
assignment is left out. SciPy is imported on first need.
"""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from heapq import heappop, heappush
from math import inf
from types import MappingProxyType
from typing import TYPE_CHECKING, Final, NamedTuple

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Numbers = NDArray[np.float64]

ALIKE: Final = 1e-9
NEAR: Final = 1e-4  # of today's cost: what is worth no more search
FIRST: Final = 0.75  # the part of a wide row's cost that is its first column's, in a bound
MOST_NODES: Final = 100  # of branch and bound; behind that the best so far is taken, and not said to be the best
LEAST_PRICE: Final = 1e-6  # so that nothing is changed that gains nothing
MOST_POINTS, MOST_NODES_OF_CURVE = 40, 150  # solutions that are asked for to draw a curve, and all their nodes
MOST_TRIES: Final = 60  # to find an assignment to compare with
LOW: Final = -1e6  # the price of a column from which nothing is known yet


class RowPlacement(NamedTuple):
    """One way to place a wide row: what it costs, and the columns that it takes."""

    cost: float
    columns: frozenset[int]


@dataclass(frozen=True)
class Problem:
    """`costs`: of each row in each column, infinite where it cannot be; `now`: the column of each row today.

    `wide`: for each wide row its choices, the first of which is today's. Nobody has another's column today.
    """

    costs: "Numbers"
    now: Sequence[int]
    wide: Sequence[Sequence[RowPlacement]] = ()


class Solution(NamedTuple):
    """The column of each row, the choice of each wide row, the whole cost without any price, and how many differ.

    `proven`: nothing costs less than this, with the price that was asked. `nodes`: of the search.
    """

    columns: tuple[int, ...]
    choices: tuple[int, ...]
    cost: float
    changes: int
    proven: bool = True
    nodes: int = 0


def as_it_is(problem: Problem) -> Solution:
    """Return today's assignment."""
    return _solution(problem, problem.now, (0,) * len(problem.wide))


def solve(problem: Problem, price: float = 0.0) -> Solution:
    """Return the assignment of least cost, where each row that differs from today costs `price` more.

    Branch and bound: the bound that costs least is gone on with, with a choice of a wide row, and without it.
    """
    today = as_it_is(problem)
    best, least = today, today.cost
    near = max(NEAR * abs(today.cost), ALIKE)
    first = _bound(problem, price)
    ahead = [first] if first else []
    nodes = 0
    while ahead and ahead[0].cost < least - near and nodes < MOST_NODES:
        one = heappop(ahead)
        nodes += 1
        wide = one.split
        if wide is None:
            found = _solution(problem, one.taken, one.choices)
            best, least = found, found.cost + price * found.changes
            continue
        if nodes == 1:
            known = _some(problem, price, one)
            best, least = known, known.cost + price * known.changes
        choice = one.choices[wide]
        for following in (
            _bound(problem, price, {**one.fixed, wide: choice}, one.excluded),
            _bound(problem, price, one.fixed, one.excluded | {(wide, choice)}),
        ):
            if following and following.cost < least - near:
                heappush(ahead, following)
    return best._replace(proven=not ahead or ahead[0].cost >= least - near, nodes=nodes)


NONE_FIXED: Final[Mapping[int, int]] = MappingProxyType({})


class _Part(NamedTuple):
    """One column of a wide row that has no choice yet: which choice each column stands for, and what it costs there."""

    wide: int
    choices: Mapping[int, int]
    costs: Mapping[int, float]


@dataclass(frozen=True, order=True)
class _LowerBound:
    """A part of all assignments, and what they cost at least.

    That is the best in which each column of a wide row is a row of its own with a part of the cost, and those need not
    agree. `taken`: its columns, those of the rows first; `choices`: what most columns of each wide row take.
    `fixed`: wide rows with their choices; `excluded`: choices that some may not take. `split`: a wide row whose columns
    do not agree, or are taken; None if all is well.
    """

    cost: float
    taken: tuple[int, ...] = field(compare=False)
    choices: tuple[int, ...] = field(compare=False)
    fixed: Mapping[int, int] = field(compare=False)
    excluded: frozenset[tuple[int, int]] = field(compare=False)
    split: int | None = field(compare=False)


def _bound(
    problem: Problem,
    price: float,
    fixed: Mapping[int, int] = NONE_FIXED,
    excluded: frozenset[tuple[int, int]] = frozenset(),
) -> _LowerBound | None:
    """Return a bound; None where there is no assignment."""
    import numpy as np
    from scipy.optimize import linear_sum_assignment

    closed = [column for wide, choice in fixed.items() for column in problem.wide[wide][choice].columns]
    if len(set(closed)) < len(closed):
        return None
    loose = [wide for wide in range(len(problem.wide)) if wide not in fixed]
    parts = [part for wide in loose for part in _parts(problem, price, wide, excluded)]
    costs = _matrix(problem, price, parts)
    costs[:, closed] = inf
    try:
        _, found = linear_sum_assignment(costs) if len(costs) else ((), np.array([], dtype=int))
    except ValueError:  # "cost matrix is infeasible"
        return None
    taken, rows = tuple(found.tolist()), len(problem.now)
    cost = float(costs[range(len(taken)), list(taken)].sum()) if taken else 0.0
    cost += sum(problem.wide[wide][choice].cost + (price if choice else 0.0) for wide, choice in fixed.items())
    votes: dict[int, Counter[int]] = {}
    for part, column in zip(parts, taken[rows:], strict=True):
        votes.setdefault(part.wide, Counter())[part.choices[column]] += 1
    choices = tuple(
        fixed[wide] if wide in fixed else votes[wide].most_common(1)[0][0] for wide in range(len(problem.wide))
    )
    used = Counter(taken[:rows])
    for its, choice in zip(problem.wide, choices, strict=True):
        used.update(its[choice].columns)
    split = (
        wide
        for wide in loose
        if len(votes[wide]) > 1 or any(used[column] > 1 for column in problem.wide[wide][choices[wide]].columns)
    )
    return _LowerBound(cost, taken, choices, fixed, excluded, next(split, None))


def _matrix(problem: Problem, price: float, parts: Sequence[_Part]) -> "Numbers":
    """Return the costs of rows in each column, with the price of a change; below them those of wide rows."""
    import numpy as np

    rows, width = problem.costs.shape
    costs = np.full((rows + len(parts), width), inf)
    costs[:rows] = problem.costs + price
    costs[range(rows), list(problem.now)] -= price
    for row, part in enumerate(parts, rows):
        costs[row, list(part.costs)] = list(part.costs.values())
    return costs


def _parts(problem: Problem, price: float, wide: int, excluded: frozenset[tuple[int, int]]) -> Iterator[_Part]:
    """Yield the columns of a wide row: most of the cost is the first one's, for which there is most demand."""
    its = problem.wide[wide]
    count = min(len(one.columns) for one in its)
    ordered = [sorted(one.columns) for one in its]
    for number in range(count):
        share = 1.0 if count == 1 else FIRST if number == 0 else (1 - FIRST) / (count - 1)
        best: dict[int, tuple[float, int]] = {}
        for at, one in enumerate(its):
            if (wide, at) not in excluded:
                column = ordered[at][number]
                best[column] = min(best.get(column, (inf, at)), ((one.cost + (price if at else 0.0)) * share, at))
        yield _Part(
            wide, {column: at for column, (_, at) in best.items()}, {column: cost for column, (cost, _) in best.items()}
        )


def _some(problem: Problem, price: float, bound: _LowerBound) -> Solution:
    """Return a good assignment, to compare with: wide rows get their choices one after another."""
    for _ in range(MOST_TRIES):
        wide = bound.split
        if wide is None:
            found, today = _solution(problem, bound.taken, bound.choices), as_it_is(problem)
            return min(found, today, key=lambda one: one.cost + price * one.changes)
        choice = bound.choices[wide]
        following = _bound(problem, price, {**bound.fixed, wide: choice}, bound.excluded) or _bound(
            problem, price, bound.fixed, bound.excluded | {(wide, choice)}
        )
        if following is None:
            break
        bound = following
    return as_it_is(problem)


def _program(problem: Problem, price: float, bound: _LowerBound, ceiling: float, most: int) -> Solution | None:
    """Return the best assignment with at most so many changes, as a mixed integer program.

    None if nothing costs less than `ceiling`, price and all. `bound`: that of all assignments with this price.
    """
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array

    rows, width = problem.costs.shape
    edges = list(_edges(problem, price, bound, ceiling - bound.cost + ALIKE))
    once = csr_array(([1.0] * len(edges), ([one.row for one in edges], range(len(edges)))))
    pairs = [(column, at) for at, one in enumerate(edges) for column in one.columns]
    columns = csr_array(([1.0] * len(pairs), tuple(zip(*pairs, strict=True))), shape=(width, len(edges)))
    changed = np.array([[float(one.is_changed) for one in edges]])
    found = milp(
        [one.cost for one in edges],
        integrality=np.ones(len(edges)),
        bounds=Bounds(0, 1),
        constraints=[
            LinearConstraint(once, 1, 1),
            LinearConstraint(columns, -inf, 1),
            LinearConstraint(changed, -inf, most),
        ],
        options={"mip_rel_gap": LEAST_PRICE},
    )
    if found.x is None:
        return None
    best = sorted((one for one, is_in in zip(edges, found.x, strict=True) if is_in > 0.5), key=lambda one: one.row)
    return _solution(
        problem, tuple(next(iter(one.columns)) for one in best[:rows]), tuple(one.choice for one in best[rows:])
    )


class _Edge(NamedTuple):
    row: int  # wide rows come behind the others
    choice: int
    columns: frozenset[int]
    cost: float
    is_changed: bool


def _edges(problem: Problem, price: float, bound: _LowerBound, room: float) -> Iterator[_Edge]:
    """Yield the columns that rows may take: those that cost at most `room` more than the bound in any assignment."""
    import numpy as np

    parts = [part for wide in range(len(problem.wide)) for part in _parts(problem, price, wide, bound.excluded)]
    more = _more(_matrix(problem, price, parts), list(bound.taken))
    rows = len(problem.now)
    for row, column in np.argwhere(more[:rows] <= room).tolist():
        is_changed = column != problem.now[row]
        yield _Edge(row, column, frozenset((column,)), float(problem.costs[row, column]), is_changed)
    for number, its in enumerate(problem.wide, rows):
        for at, one in enumerate(its):
            yield _Edge(number, at, one.columns, one.cost, at != 0)


def _more(costs: "Numbers", taken: list[int]) -> "Numbers":
    """Return for each row and column how much more at least an assignment costs that has this pair.

    These are the reduced costs: prices of columns are raised until no row would rather have another one.
    """
    import numpy as np

    own = costs[range(len(taken)), taken]
    prices = np.zeros(costs.shape[1])  # what it is worth to have a column free
    prices[taken] = LOW
    for _ in taken:  # no way from column to column is longer
        better = own + (prices - costs).max(axis=1, initial=-inf)
        if (better <= prices[taken] + ALIKE).all():
            break
        prices[taken] = np.maximum(prices[taken], better)
    rows = own - prices[taken]
    return np.asarray(costs - rows[:, None] - prices[None, :])


def _solution(problem: Problem, taken: Sequence[int], choices: tuple[int, ...]) -> Solution:
    columns = tuple(taken[: len(problem.now)])
    cost = sum(float(problem.costs[row, column]) for row, column in enumerate(columns))
    cost += sum(its[choice].cost for its, choice in zip(problem.wide, choices, strict=True))
    changes = sum(one != other for one, other in zip(columns, problem.now, strict=True)) + sum(map(bool, choices))
    return Solution(columns, choices, cost, changes)


def curve(problem: Problem, least: float = LEAST_PRICE) -> list[Solution]:
    """Return the best assignments for a number of changes that some price leads to, from none to that of the least.

    Each of them is the best with at most so many changes: they are the lower convex hull of the curve.
    """
    first, last = as_it_is(problem), solve(problem, least)
    found = {one.changes: one for one in (last, first)}
    ahead, nodes = [(first, last)], last.nodes
    for _ in range(MOST_POINTS):
        if not ahead or nodes > MOST_NODES_OF_CURVE:
            break
        few, many = ahead.pop(0)  # the widest stretches first
        between = _between(problem, few, many)
        nodes += between.nodes if between else 1
        if between:
            found[between.changes] = between
            ahead += [(few, between), (between, many)]
    return [found[changes] for changes in sorted(found)]


def _between(problem: Problem, few: Solution, many: Solution) -> Solution | None:
    """Return a solution below the line from one to another, if there is any."""
    if many.changes - few.changes < 2 or few.cost - many.cost < ALIKE:
        return None
    price = _slope(few, many)
    one = solve(problem, price)
    below = one.cost + price * one.changes < few.cost + price * few.changes - ALIKE
    return one if below and few.changes < one.changes < many.changes else None


def _slope(few: Solution, many: Solution) -> float:
    return (few.cost - many.cost) / (many.changes - few.changes)


def at_most(problem: Problem, changes: int) -> Solution:
    """Return the assignment of least cost with at most so many changes."""
    few, many = as_it_is(problem), solve(problem, LEAST_PRICE)
    while few.changes < changes < many.changes:
        between = _between(problem, few, many)
        if between is None:
            price = _slope(few, many)
            bound = _bound(problem, price)
            return (bound and _program(problem, price, bound, few.cost + price * changes, changes)) or few
        few, many = (between, many) if between.changes <= changes else (few, between)
    return many if many.changes <= changes else few
