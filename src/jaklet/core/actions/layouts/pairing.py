"""Which live window is which entry of a layout: the pairs that cost least in all.

Only windows of the entry's app (or class) come into question. What tells them apart is, from the most to the least:
the role, the title, the order in which they opened, and how near a window stands to where it belongs. Each counts for
more than all that follow it together, over all entries. Where those that tell name one window for each entry, nothing
has to be weighed; else the pairs of least cost are found (`core.values.assigning`).
"""

from collections.abc import Mapping, Sequence
from typing import Final, NamedTuple

from jaklet.core.actions.placing.window_stands import stand_of
from jaklet.core.values import globs
from jaklet.core.values.assigning import cheapest_pairs
from jaklet.core.values.config import Config
from jaklet.core.values.desk import DIALOG, Desk, Window
from jaklet.core.values.forms import SamePlace
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import Layout, LayoutEntry

Pairs = Mapping[int, int]  # index of an entry -> window id

# A sum of 200 costs is below 2^53, so that floating-point sums are exact.
FAR: Final = 1 << 20  # a way is never counted as longer
NTH: Final = 1 << 21
MOST_NTH: Final = 255
TITLE: Final = 1 << 30
UNLIKE: Final = 31
ROLE: Final = 1 << 36


class OpenWindow(NamedTuple):
    """A window, and which one of its app it is, counted from 1 in the order in which they opened."""

    window: Window
    nth: int


class Pairing(NamedTuple):
    """Entries with their windows. `unclear`: labels of entries that only nearness told apart."""

    pairs: Pairs
    unclear: tuple[str, ...] = ()


def label_of(window: Window, desk: Desk, config: Config) -> tuple[bool, str]:
    """Return the label that a window can have in a layout: its app, or its class where no app claims it."""
    app = config.claims.app_of(window, desk)
    return (True, app) if app else (False, window.cls)


def live_windows(desk: Desk, config: Config) -> dict[tuple[bool, str], list[OpenWindow]]:
    """Return the windows by what they can be entries of. A dialog is none, also one whose window has gone before it."""
    found: dict[tuple[bool, str], list[OpenWindow]] = {}
    for window in desk.main_windows:
        if window.kind == DIALOG:
            continue
        group = found.setdefault(label_of(window, desk, config), [])
        group.append(OpenWindow(window, len(group) + 1))
    return found


def pair_entries(layout: Layout, desk: Desk, config: Config, kept: Pairs | None = None) -> Pairing:
    """Pair entries with live windows. Pairs in `kept` stay while their windows live.

    So a window that was placed once is not taken for another.
    """
    pairs = {i: wid for i, wid in (kept or {}).items() if wid in desk.by_id}
    taken = set(pairs.values())
    groups: dict[tuple[bool, str], list[int]] = {}
    for i, entry in enumerate(layout.entries):
        if i not in pairs:
            groups.setdefault((entry.app is not None, entry.label), []).append(i)
    unclear: list[str] = []
    live = live_windows(desk, config) if groups else {}
    for group, indices in groups.items():
        windows = [one for one in live.get(group, ()) if one.window.id not in taken]
        if not windows:
            continue
        found = _told_apart(layout, indices, windows)
        if found is None:
            found, doubtful = _cheapest(layout, indices, windows, desk, config)
            unclear += [group[1]] if doubtful else []
        pairs.update(found)
    return Pairing(pairs, tuple(unclear))


def _told_apart(layout: Layout, indices: Sequence[int], windows: Sequence[OpenWindow]) -> dict[int, int] | None:
    """Return the pairs where there is one window for each entry that fits it in all that tells; None if not."""
    if len(indices) == len(windows) == 1:
        return {indices[0]: windows[0].window.id}
    by_telling = {(one.window.title, one.nth): one.window for one in windows}
    found = {}
    for i in indices:
        entry = layout.entries[i]
        window = by_telling.get((entry.title or "", entry.nth or 0))
        if entry.title is None or window is None or entry.role not in (None, window.role):
            return None
        found[i] = window.id
    return found if len(set(found.values())) == len(found) else None  # two entries can say the same


def telling(entry: LayoutEntry, one: OpenWindow) -> int:
    """Return how badly a window fits what an entry says of it, its place left out; 0: in all."""
    window, cost = one.window, 0
    if entry.role is not None and entry.role != window.role:
        cost += ROLE
    if entry.title is not None and entry.title != window.title and not globs.matches(entry.title, window.title):
        cost += TITLE * _unlike(entry.title, window.title)
    if entry.nth is not None:
        cost += NTH * min(abs(entry.nth - one.nth), MOST_NTH)
    return cost


def _unlike(one: str, other: str) -> int:
    """Return how little two titles have in common, from 1 to `UNLIKE`: programs put names and counts into them."""
    mine, its = set(one.lower().split()), set(other.lower().split())
    return UNLIKE - (UNLIKE - 1) * len(mine & its) // max(1, len(mine | its))


def _cheapest(
    layout: Layout, indices: Sequence[int], windows: Sequence[OpenWindow], desk: Desk, config: Config
) -> tuple[dict[int, int], bool]:
    """Return the pairs of least cost, and whether only nearness told entries apart that want different things."""
    told, costs = pairing_costs([layout.entries[i] for i in indices], windows, desk, config)
    chosen = cheapest_pairs(costs)
    rows = list(chosen)
    doubtful = any(
        told[a][chosen[a]] + told[b][chosen[b]] == told[a][chosen[b]] + told[b][chosen[a]]
        and _wants(layout.entries[indices[a]]) != _wants(layout.entries[indices[b]])
        for n, a in enumerate(rows)
        for b in rows[n + 1 :]
    )
    return {indices[row]: windows[column].window.id for row, column in chosen.items()}, doubtful


def pairing_costs(
    entries: Sequence[LayoutEntry], windows: Sequence[OpenWindow], desk: Desk, config: Config
) -> tuple[list[list[int]], list[list[int]]]:
    """Return the cost of each window for each entry: without the way between them, and with it."""
    told = [[telling(entry, one) for one in windows] for entry in entries]
    goals = [_whole(entry, desk, config) for entry in entries]
    frames = [one.window.frame for one in windows]
    costs = [
        [tell + (min(goal.distance(frame), FAR) if goal else 0) for tell, frame in zip(row, frames, strict=True)]
        for row, goal in zip(told, goals, strict=True)
    ]
    return told, costs


def _wants(entry: LayoutEntry) -> LayoutEntry:
    return entry._replace(title=None, role=None, nth=None)


def _whole(entry: LayoutEntry, desk: Desk, config: Config) -> Rect | None:
    """Return about where an entry's window belongs; None where it stays where it is."""
    if entry.place is None:
        return None
    stand = stand_of(entry.place, None, desk, config, of_layout=True)
    return None if stand is None or isinstance(stand.form, SamePlace) else stand.whole
