"""The best assignment, beside all that there are."""

from itertools import product
from math import inf

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaklet.suggesting.assignment import Problem, RowPlacement, Solution, as_it_is, at_most, curve, solve

COSTS = st.one_of(st.integers(0, 9), st.sampled_from([0.25, inf]))


@st.composite
def problems(draw: st.DrawFn) -> Problem:
    """Return small problems with up to four rows and two wide rows, in any of which today's place is possible."""
    rows, wide, free = draw(st.integers(0, 4)), draw(st.integers(0, 2)), draw(st.integers(0, 2))
    width = rows + 2 * wide + free
    costs = np.array([[float(draw(COSTS)) for _ in range(width)] for _ in range(rows)]).reshape(rows, width)
    for row in range(rows):
        costs[row, row] = draw(st.integers(0, 9))
    choices = []
    for number in range(wide):
        own = frozenset((rows + 2 * number, rows + 2 * number + 1))
        others = draw(st.lists(st.frozensets(st.integers(0, width - 1), min_size=1, max_size=2), max_size=2))
        choices.append([RowPlacement(float(draw(st.integers(0, 9))), columns) for columns in (own, *others)])
    return Problem(costs, range(rows), choices)


def every(problem: Problem) -> list[Solution]:
    """Return all assignments that there are."""
    found = []
    width = problem.costs.shape[1]
    for columns in product(range(width), repeat=len(problem.now)):
        cost = sum(problem.costs[row, column] for row, column in enumerate(columns))
        if cost == inf or len(set(columns)) < len(columns):
            continue
        for choices in product(*(range(len(its)) for its in problem.wide)):
            taken = [column for its, at in zip(problem.wide, choices, strict=True) for column in its[at].columns]
            if len({*taken, *columns}) == len(taken) + len(columns):
                total = cost + sum(its[at].cost for its, at in zip(problem.wide, choices, strict=True))
                changes = sum(map(int.__ne__, columns, problem.now)) + sum(map(bool, choices))
                found.append(Solution(columns, choices, total, changes))
    return found


@given(problems(), st.sampled_from([0.0, 0.5, 2.0, 50.0]), st.integers(0, 6))
def test_it_is_the_best_there_is(problem: Problem, price: float, most: int) -> None:
    all_of_them = {(one.columns, one.choices): one for one in every(problem)}

    def is_one(found: Solution) -> Solution:
        known = all_of_them[found.columns, found.choices]
        assert (round(found.cost, 6), found.changes) == (round(known.cost, 6), known.changes)
        return found

    best = is_one(solve(problem, price))
    least = min(one.cost + price * one.changes for one in all_of_them.values())
    assert abs(best.cost + price * best.changes - least) < 1e-6
    few = is_one(at_most(problem, most))
    assert few.changes <= most
    assert abs(few.cost - min(one.cost for one in all_of_them.values() if one.changes <= most)) < 1e-5
    points = [is_one(one) for one in curve(problem)]
    assert points[0] == as_it_is(problem)
    for one in points:
        assert abs(one.cost - min(other.cost for other in all_of_them.values() if other.changes <= one.changes)) < 1e-5
