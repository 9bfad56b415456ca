"""What differs between two layouts, or between a desk and a layout: what a recall would change."""

from typing import Any, Final, NamedTuple

from jaklet.core.actions.layouts.capturing import place_of
from jaklet.core.actions.layouts.displays import ANY, EXACT, arrangement_fit, display_set, present_for
from jaklet.core.actions.layouts.imagining import frames_of
from jaklet.core.actions.layouts.pairing import pair_entries
from jaklet.core.actions.layouts.plans import RecallPlan
from jaklet.core.values.assigning import cheapest_pairs
from jaklet.core.values.changes import Change
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window, WindowShape
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layout_fields import ARRANGEMENT_FIELDS, LAYOUT_FIELDS
from jaklet.core.values.layouts import FOCUS, ORDER, PLACE, STATE, WORKSPACE, Layout, LayoutEntry, Where

# The focus is compared by the window that has it, not by its index.
HEADS: Final = (
    *(one.attribute for one in LAYOUT_FIELDS if one.attribute),
    *(one.attribute for one in ARRANGEMENT_FIELDS if one.key != FOCUS),
)
ADDED, UNLIKE, ELSEWHERE = 1 << 20, 1 << 10, 1


class HeadDifference(NamedTuple):
    """Something about a layout as a whole that differs."""

    name: str
    was: Any
    now: Any


class WindowDifference(NamedTuple):
    """A window of the later layout. `was`: which one of the earlier it is, None where it is new."""

    was: int | None
    entry: LayoutEntry


class Difference(NamedTuple):
    """What makes a later layout of an earlier one: `rows` in its order; `gone` are indices of the earlier one."""

    earlier: Layout
    later: Layout
    heads: tuple[HeadDifference, ...]
    rows: tuple[WindowDifference, ...]
    gone: tuple[int, ...]

    @property
    def appear(self) -> tuple[LayoutEntry, ...]:
        """The windows that come."""
        return tuple(row.entry for row in self.rows if row.was is None)

    @property
    def changed(self) -> tuple[tuple[LayoutEntry, LayoutEntry], ...]:
        """The windows that stay and differ: as they were, and as they are to be."""
        both = ((self.earlier.entries[row.was], row.entry) for row in self.rows if row.was is not None)
        return tuple((was, now) for was, now in both if was != now)

    @property
    def restacked(self) -> bool:
        """True if the windows that stay stand in another order."""
        stay = [row.was for row in self.rows if row.was is not None]
        return ORDER in self.later.holds and stay != sorted(stay)

    @property
    def refocused(self) -> bool:
        """True if another window has the focus, or none has it any more."""
        if FOCUS not in self.later.holds:
            return False
        if self.later.focus is None:
            return self.earlier.focus is not None
        return self.earlier.focus is None or self.rows[self.later.focus].was != self.earlier.focus

    def __bool__(self) -> bool:
        return bool(self.heads or self.gone or self.appear or self.changed or self.restacked or self.refocused)


def compare_layouts(earlier: Layout, later: Layout) -> Difference:
    """Return the differences between two layouts. Windows of one app are paired at the least difference."""
    groups: dict[str, tuple[list[int], list[int]]] = {}
    for side, layout in enumerate((earlier, later)):
        for i, entry in enumerate(layout.entries):
            groups.setdefault(entry.label, ([], []))[side].append(i)
    was: dict[int, int] = {}
    for mine, its in groups.values():
        costs = [[_unlike(earlier.entries[i], i, later.entries[j], j) for i in mine] for j in its]
        was |= {its[row]: mine[column] for row, column in cheapest_pairs(costs).items()}
    return _difference(earlier, later, was)


def _unlike(one: LayoutEntry, i: int, other: LayoutEntry, j: int) -> int:
    cost = ADDED * (one.title != other.title) + ADDED * (one.nth != other.nth) + UNLIKE * (one.place != other.place)
    return cost + min(abs(i - j), UNLIKE - 1) * ELSEWHERE


def _difference(earlier: Layout, later: Layout, was: dict[int, int]) -> Difference:
    heads = [HeadDifference(name, getattr(earlier, name), getattr(later, name)) for name in HEADS]
    rows = tuple(WindowDifference(was.get(j), entry) for j, entry in enumerate(later.entries))
    kept = set(was.values())
    gone = tuple(i for i in range(len(earlier.entries)) if i not in kept)
    return Difference(earlier, later, tuple(head for head in heads if head.was != head.now), rows, gone)


class Drift(NamedTuple):
    """How a desk differs from a layout, which is `plan.layout`, as it is for these displays.

    `changes`: what a recall would change, launches left out. `unclear`: labels of windows that cannot be told apart.
    """

    difference: Difference
    plan: RecallPlan
    changes: tuple[Change, ...]
    unclear: tuple[str, ...]

    def __bool__(self) -> bool:
        return bool(self.difference or self.changes)


def layout_drift(layout: Layout, desk: Desk, config: Config) -> Drift:
    """Return the differences between a layout and a desk."""
    layout = present_for(layout, desk, config)
    pairs, unclear = pair_entries(layout, desk, config)
    plan = RecallPlan(layout, config, pairs, frozenset(desk.by_id))
    now, was = _standing(layout, plan, desk, config)
    return Drift(_difference(now, layout, was), plan, (*plan.needed(desk), *plan.closed(desk)), unclear)


def _standing(layout: Layout, plan: RecallPlan, desk: Desk, config: Config) -> tuple[Layout, dict[int, int]]:
    """Return the layout as its windows stand on the desk, and which entry there is which of the layout."""
    rank = {wid: place for place, wid in enumerate(desk.stacking)}
    order = sorted(plan.pairs, key=lambda i: -rank.get(plan.pairs[i], -1))
    entries = tuple(_stands(layout.entries[i], desk.by_id[plan.pairs[i]], plan, desk, config) for i in order)
    front = desk.focused
    focus = next((n for n, i in enumerate(order) if front and plan.pairs[i] == front.id), None)
    there = display_set(desk, config)
    same = arrangement_fit(layout.arrangement, there) in (EXACT, ANY) or layout.only_on
    now = layout._replace(
        entries=entries,
        focus=focus if FOCUS in layout.holds and layout.focus is not None else layout.focus,
        workspace=_written(desk.workspace, layout.workspace, config) if WORKSPACE in layout.holds else layout.workspace,
        displays=layout.displays if same else there,
    )
    return now, {i: n for n, i in enumerate(order)}


def _stands(entry: LayoutEntry, window: Window, plan: RecallPlan, desk: Desk, config: Config) -> LayoutEntry:
    """Return an entry as its window stands, in all that the layout holds."""
    holds = plan.layout.holds
    if PLACE in holds and entry.place:
        frame = plan.frame(entry, window, desk)
        # Where a maximised window would stand otherwise is not seen: it is on its display, and no more.
        filling = STATE in holds and window.shape is entry.shape is not WindowShape.NORMAL
        there = desk.display_of(frame) == desk.display_of(window.frame) if filling else frame == window.frame
        entry = entry if there else entry._replace(place=place_of(window, desk, config))
    if WORKSPACE in holds:
        on = window.workspace
        entry = entry._replace(workspace=None if on is None else _written(on, entry.workspace, config))
    if STATE in holds:
        entry = entry._replace(shape=window.shape, minimised=window.minimised, above=window.above)
    return entry


def _written(number: int, where: Where | None, config: Config) -> Where:
    """Return a workspace as the layout writes it, if it is that one."""
    same = where is not None and config.workspace_number(where) == number
    return where if same and where is not None else config.workspace_written(number)


def how_it_moves(was: LayoutEntry, now: LayoutEntry, earlier: Layout, later: Layout, config: Config) -> str:
    """Return in a word how a window gets from one place to another: moves, resizes, or both."""
    before, after = _frame(was, earlier, config), _frame(now, later, config)
    if before is None or after is None or (before[:2] != after[:2] and before[2:] != after[2:]):
        return "moves and resizes" if before and after else "moves"
    return "resizes" if before[:2] == after[:2] else "moves"


def _frame(entry: LayoutEntry, layout: Layout, config: Config) -> Rect | None:
    found = frames_of(layout._replace(entries=(entry,), focus=None), config)
    return found[0] if found else None
