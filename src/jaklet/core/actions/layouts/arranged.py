"""What a layout remembers of workspaces that stay arranged, and how a recall restores it."""

from collections.abc import Iterator, Sequence
from fractions import Fraction

from jaklet.core.actions.layouts.pairing import Pairs
from jaklet.core.actions.placing.splitting import ONE
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.layouts import Layout, SharedDisplay
from jaklet.core.values.orders import Restore
from jaklet.core.values.sharings import NO_WEIGHTS, Division, Kept, Spot

NOTHING_KEPT = Kept({}, {})


def remembered(kept: Kept, windows: Sequence[int], desk: Desk, config: Config) -> tuple[SharedDisplay, ...]:
    """Return how windows share displays, as a layout keeps it. `windows`: those of its entries, in their order."""
    found = []
    for spot, division in kept.divisions.items():
        display = desk.display_named(spot.display)
        order = [wid for wid in division.order if wid in windows]
        if display is None or not order:
            continue
        weights = tuple(division.weights.get(wid, ONE) for wid in order) if division.weights else ()
        total = sum(weights, Fraction(0))
        shares = tuple(weight / total for weight in weights)
        index = tuple(windows.index(wid) for wid in order)
        where = config.workspace_written(spot.workspace)
        found.append(SharedDisplay(config.role_of(display), division.form, index, shares, where))
    return tuple(sorted(found, key=lambda one: (str(one.workspace), one.display)))


def restored(layout: Layout, pairs: Pairs, kept: Kept, desk: Desk, config: Config) -> Restore:
    """Return what it takes for displays to be shared as a layout remembers it, once its entries have their windows.

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
    return Restore(Kept(asked, divisions, kept.floats - sharing), placed)


def joins_late(layout: Layout, entry: int, wid: int, kept: Kept, desk: Desk, config: Config) -> Restore:
    """Return what it takes for a window that came after the recall to share as the layout says, or else to float."""
    if any(entry in one.order for one, _ in _spots(layout, desk, config)):
        return Restore(kept._replace(floats=kept.floats - {wid}))
    return Restore(kept, frozenset({wid}))


def _spots(layout: Layout, desk: Desk, config: Config) -> Iterator[tuple[SharedDisplay, Spot]]:
    """Yield how displays that are there are shared; what a display stays as is not carried over to another one."""
    for one in layout.arranged:
        display = config.display(one.display, desk)
        number = config.workspace_number(one.workspace)
        if display is not None and number:
            yield one, Spot(min(number, desk.workspaces), display.name)
