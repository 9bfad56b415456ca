"""Who goes where, at the least cost in all."""

from collections.abc import Sequence

INFINITE = float("inf")


def cheapest_pairs(costs: Sequence[Sequence[int]]) -> dict[int, int]:
    """Return pairs of row and column, as many as there can be, so that the sum of costs is least."""
    if not costs or len(costs) <= len(costs[0]):
        return dict(enumerate(cheapest_columns(costs)))
    turned = cheapest_columns([list(column) for column in zip(*costs, strict=True)])
    return {row: column for column, row in enumerate(turned)}


def cheapest_columns(costs: Sequence[Sequence[int]]) -> list[int]:
    """Return for each row its own column, so that the sum of costs is least.

    No more rows than columns. Shortest augmenting paths (Kuhn 1955, Munkres 1957, in the form of Jonker and Volgenant
    1987), cubic in the number of columns.
    """
    rows, columns = len(costs), len(costs[0]) if costs else 0
    row_price, column_price = [0.0] * (rows + 1), [0.0] * (columns + 1)
    holder = [0] * (columns + 1)  # the row that has a column, counted from 1; column 0 stands for none
    for row in range(1, rows + 1):
        holder[0], at = row, 0
        least, came_from = [INFINITE] * (columns + 1), [0] * (columns + 1)
        used = [False] * (columns + 1)
        while holder[at]:
            used[at] = True
            here, step, nearest = holder[at], INFINITE, 0
            for column in range(1, columns + 1):
                if used[column]:
                    continue
                way = costs[here - 1][column - 1] - row_price[here] - column_price[column]
                if way < least[column]:
                    least[column], came_from[column] = way, at
                if least[column] < step:
                    step, nearest = least[column], column
            for column in range(columns + 1):
                if used[column]:
                    row_price[holder[column]] += step
                    column_price[column] -= step
                else:
                    least[column] -= step
            at = nearest
        while at:
            holder[at] = holder[came_from[at]]
            at = came_from[at]
    found = [0] * rows
    for column in range(1, columns + 1):
        if holder[column]:
            found[holder[column] - 1] = column - 1
    return found
