"""What a layout remembers of workspaces that stay arranged, and how a recall restores it."""

from collections.abc import Iterator, Sequence
from fractions import Fraction

from jaklet.core.actions.layouts.pairing import Pairs
from jaklet.core.actions.placing.dividing import left_by
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.layouts import Layout, SharedDisplay
from jaklet.core.values.orders import Restore
from jaklet.core.values.sharings import NO_WEIGHTS, ArrangedSpot, Division, KeptArrangements


def remember_sharings(
    kept: KeptArrangements, windows: Sequence[int], desk: Desk, config: Config
) -> tuple[SharedDisplay, ...]:
    """Return how windows share displays, as a layout keeps it. `windows`: those of its entries, in their order."""
    found = []
    for spot, division in kept.divisions.items():
        display = desk.display_named(spot.display)
        own = left_by(division, windows)
        if display is None or not own.order:
            continue
        total = sum(own.sized, Fraction(0))
        shares = tuple(weight / total for weight in own.sized)
        index = tuple(windows.index(wid) for wid in own.order)
        where = config.workspace_written(spot.workspace)
        found.append(SharedDisplay(config.role_of(display), own.form, index, shares, where))
    return tuple(sorted(found, key=lambda one: (str(one.workspace), one.display)))


def restore_sharings(layout: Layout, pairs: Pairs, kept: KeptArrangements, desk: Desk, config: Config) -> Restore:
    """Return the order that restores the sharing of displays in a layout, once its entries have their windows.

    Its other windows float where others stay arranged: they stand where the layout has placed them.
    """
    asked, divisions = {**kept.asked}, {**kept.divisions}
    sharing: set[int] = set()
    for one, spot in _spots(layout, desk, config):
        order = tuple(pairs[i] for i in one.order if i in pairs)
        weights = {
            pairs[i]: share * len(one.order) for i, share in zip(one.order, one.shares, strict=False) if i in pairs
        }
        asked[spot], divisions[spot] = one.form, Division(one.form, order, weights or NO_WEIGHTS)
        sharing.update(order)
    placed = frozenset(wid for i, wid in pairs.items() if layout.entries[i].place and wid not in sharing)
    return Restore(KeptArrangements(asked, divisions, kept.floats - sharing), placed)


def takes_part(entry: int, layout: Layout, desk: Desk, config: Config) -> bool:
    """True if a window of a layout shares a display that is there, as the layout remembers it."""
    return any(entry in one.order for one, _ in _spots(layout, desk, config))


def _spots(layout: Layout, desk: Desk, config: Config) -> Iterator[tuple[SharedDisplay, ArrangedSpot]]:
    """Yield how displays that are there are shared; what a display stays as is not carried over to another one."""
    for one in layout.arranged:
        display = config.display(one.display, desk)
        number = config.workspace_number(one.workspace)
        if display is not None and number:
            yield one, ArrangedSpot(min(number, desk.workspaces), display.name)
