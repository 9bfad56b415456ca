"""Restacking: the raises lead where they should, and there are no more of them than it takes by raising."""

from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.values.stacking import to_raise

orders = st.integers(0, 8).flatmap(
    lambda n: st.tuples(st.permutations(range(n)), st.permutations(range(n)), st.integers(0, n))
)


def raised(current: list[int], windows: list[int]) -> list[int]:
    for window in windows:
        current = [*(wid for wid in current if wid != window), window]
    return current


@given(orders)
def test_raising_leads_to_the_order_and_one_raise_less_does_not(case: tuple[list[int], list[int], int]) -> None:
    current, other, size = case
    on_top = other[:size]
    wanted = [wid for wid in current if wid not in on_top] + on_top
    steps = to_raise(current, on_top)
    assert raised(current, steps) == wanted
    assert not steps or raised(current, steps[1:]) != wanted
    assert to_raise(wanted, on_top) == []
