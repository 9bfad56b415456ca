"""The best assignment of columns to rows, where some rows take several columns at once: exactly, by SciPy.

A row that takes one column is a row of a matrix (`scipy.optimize.linear_sum_assignment`). One that takes several is
`wide`: it has a few choices, which are gone through by branch and bound, with the assignment of all other rows as the
bound. The best with at most so many changes is a point of the curve of `price`, or else found as a mixed integer
program (`scipy.optimize.milp`). SciPy is imported on first need.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import inf
from typing import TYPE_CHECKING, Final, NamedTuple

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

ALIKE: Final = 1e-9
MOST_NODES: Final = 400  # of branch and bound; behind that the best so far is taken, and not said to be the best
MOST_POINTS: Final = 40  # solutions that are asked for to draw a curve
LEAST_PRICE: Final = 1e-6  # so that nothing is changed that gains nothing


class Choice(NamedTuple):
    """One way to place a wide row: what it costs, and the columns that it takes."""

    cost: float
    columns: frozenset[int]


@dataclass(frozen=True)
class Problem:
    """`costs`: of each row in each column, infinite where it cannot be; `now`: the column of each row today.

    `wide`: for each wide row its choices, the first of which is today's. Nobody has another's column today.
    """

    costs: "NDArray[np.float64]"
    now: Sequence[int]
    wide: Sequence[Sequence[Choice]] = ()


class Solution(NamedTuple):
    """The column of each row, the choice of each wide row, the whole cost without any price, and how many differ.

    `proven`: nothing is better for the price that was asked.
    """

    columns: tuple[int, ...]
    choices: tuple[int, ...]
    cost: float
    changes: int
    proven: bool = True


def as_it_is(problem: Problem) -> Solution:
    """Return today's assignment."""
    columns = tuple(problem.now)
    cost = sum(float(problem.costs[row, column]) for row, column in enumerate(columns))
    return Solution(columns, (0,) * len(problem.wide), cost + sum(its[0].cost for its in problem.wide), 0)


def solve(problem: Problem, price: float = 0.0) -> Solution:
    """Return the assignment of least cost, where each row that differs from today costs `price` more."""
    import numpy as np

    costs = problem.costs + price
    for row, column in enumerate(problem.now):
        costs[row, column] -= price
    wide = [
        sorted((one.cost + (price if at else 0.0), at, one.columns) for at, one in enumerate(its))
        for its in problem.wide
    ]
    least = [0.0]
    for its in reversed(wide):
        least.append(least[-1] + its[0][0])
    least.reverse()  # of the wide rows from each one on
    best: tuple[float, tuple[int, ...], tuple[int, ...]] = (inf, (), ())
    nodes = 0

    def place(at: int, total: float, taken: frozenset[int], choices: tuple[int, ...]) -> None:
        nonlocal best, nodes
        nodes += 1
        if nodes > MOST_NODES and best[0] < inf:
            return
        columns, cost = _assigned(costs, taken)
        if total + least[at] + cost >= best[0] - ALIKE:
            return
        if at == len(wide):
            best = total + cost, columns, choices
            return
        for its, choice, its_columns in wide[at]:
            if total + its + least[at + 1] + cost >= best[0] - ALIKE:
                break  # the others cost more, and what is left to the rows is less
            if not its_columns & taken:
                place(at + 1, total + its, taken | its_columns, (*choices, choice))

    place(0, 0.0, frozenset(), ())
    _, columns, choices = best
    cost = float(problem.costs[np.arange(len(columns)), list(columns)].sum()) if columns else 0.0
    cost += sum(its[choice].cost for its, choice in zip(problem.wide, choices, strict=True))
    changes = sum(one != other for one, other in zip(columns, problem.now, strict=True)) + sum(map(bool, choices))
    return Solution(columns, choices, cost, changes, nodes <= MOST_NODES)


def _assigned(costs: "NDArray[np.float64]", taken: frozenset[int]) -> tuple[tuple[int, ...], float]:
    """Return the best columns for all rows of a matrix, without those that are taken, and what they cost."""
    from scipy.optimize import linear_sum_assignment

    if not len(costs):
        return (), 0.0
    if taken:
        costs = costs.copy()
        costs[:, list(taken)] = inf
    try:
        rows, columns = linear_sum_assignment(costs)
    except ValueError:  # "cost matrix is infeasible"
        return (), inf
    return tuple(int(one) for one in columns), float(costs[rows, columns].sum())


def curve(problem: Problem) -> list[Solution]:
    """Return the best assignments for a number of changes that some price leads to, from none to the best of all.

    Each of them is the best with at most so many changes: they are the lower convex hull of the curve.
    """
    first, last = as_it_is(problem), solve(problem, LEAST_PRICE)
    found = {one.changes: one for one in (first, last)}
    ahead = [(first, last)]
    for _ in range(MOST_POINTS):
        if not ahead:
            break
        few, many = ahead.pop(0)  # the widest stretches first
        between = _between(problem, few, many)
        if between:
            found[between.changes] = between
            ahead += [(few, between), (between, many)]
    return [found[changes] for changes in sorted(found)]


def _between(problem: Problem, few: Solution, many: Solution) -> Solution | None:
    """Return a solution below the line from one to another, if there is any."""
    if many.changes - few.changes < 2 or few.cost - many.cost < ALIKE:
        return None
    price = (few.cost - many.cost) / (many.changes - few.changes)
    one = solve(problem, price)
    below = one.cost + price * one.changes < few.cost + price * few.changes - ALIKE
    return one if below and few.changes < one.changes < many.changes else None


def at_most(problem: Problem, changes: int) -> Solution:
    """Return the assignment of least cost with at most so many changes."""
    few, many = as_it_is(problem), solve(problem, LEAST_PRICE)
    while few.changes < changes < many.changes:
        between = _between(problem, few, many)
        if between is None:
            return _as_program(problem, changes)
        few, many = (between, many) if between.changes <= changes else (few, between)
    return many if many.changes <= changes else few


def _as_program(problem: Problem, changes: int) -> Solution:
    """Return the same where no price leads to it, as a mixed integer program."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array

    rows = len(problem.now)
    edges = list(_edges(problem, changes))
    cost = [one.cost for one in edges]
    once = csr_array(([1.0] * len(edges), ([one.row for one in edges], range(len(edges)))))
    pairs = [(column, at) for at, one in enumerate(edges) for column in one.columns]
    shape = (problem.costs.shape[1], len(edges))
    columns = csr_array(([1.0] * len(pairs), tuple(zip(*pairs, strict=True))), shape=shape)
    changed = np.array([[float(one.is_changed) for one in edges]])
    found = milp(
        cost,
        integrality=np.ones(len(edges)),
        bounds=Bounds(0, 1),
        constraints=[
            LinearConstraint(once, 1, 1),
            LinearConstraint(columns, -inf, 1),
            LinearConstraint(changed, -inf, changes),
        ],
    )
    taken = sorted((one for one, is_in in zip(edges, found.x, strict=True) if is_in > 0.5), key=lambda one: one.row)
    return Solution(
        tuple(next(iter(one.columns)) for one in taken[:rows]),
        tuple(one.choice for one in taken[rows:]),
        sum(one.cost for one in taken),
        sum(one.is_changed for one in taken),
    )


class _Edge(NamedTuple):
    row: int  # wide rows come behind the others
    choice: int
    columns: frozenset[int]
    cost: float
    is_changed: bool


def _edges(problem: Problem, changes: int) -> Iterator[_Edge]:
    """Yield what rows may take: of the columns that nobody has today, each needs no more than the best few."""
    import numpy as np

    held = {*problem.now, *(column for its in problem.wide for one in its for column in one.columns)}
    free = np.array([column for column in range(problem.costs.shape[1]) if column not in held], dtype=int)
    for row, now in enumerate(problem.now):
        costs = problem.costs[row]
        best = free[np.argsort(costs[free], kind="stable")[:changes]] if len(free) else free
        for column in (*sorted(held), *best.tolist()):
            if costs[column] < inf:
                yield _Edge(row, column, frozenset((column,)), float(costs[column]), column != now)
    for number, its in enumerate(problem.wide, len(problem.now)):
        for at, one in enumerate(its):
            yield _Edge(number, at, one.columns, one.cost, at != 0)
