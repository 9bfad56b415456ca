"""The rules about layouts: what cannot stand as it is written, and what a recall would leave behind."""

from collections.abc import Iterator
from itertools import combinations
from typing import Final

from jaklet.checks.inputs import CheckInputs
from jaklet.config.reading import BoundKeys, StoredLayout
from jaklet.core.actions.layouts.displays import display_sizes
from jaklet.core.actions.layouts.trust import REMEDY, is_terminal, refusal
from jaklet.core.keys.keyboards import writes
from jaklet.core.values.desk import Window
from jaklet.core.values.directions import uncovered_parts
from jaklet.core.values.findings import Finding, finding
from jaklet.core.values.forms import Ground, NamedPlace, SamePlace, frame_of
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import FOCUS, PLACE, SKIP, Arrangement, Layout, LayoutEntry, Where
from jaklet.core.values.spans import Spot
from jaklet.core.values.words import either

Sized = tuple[int, int]
GRIP: Final = 48  # pixels of a window that a pointer can take hold of


def _each(case: CheckInputs) -> Iterator[tuple[StoredLayout, Arrangement, tuple[Spot, ...]]]:
    """Yield the arrangements of all layouts, each with where its entries stand."""
    for laid in case.reading.laid:
        for one, spots in zip(laid.layout.arrangements, laid.entry_spots, strict=True):
            yield laid, one, spots


def _frames(
    case: CheckInputs, one: Arrangement, spots: tuple[Spot, ...]
) -> Iterator[tuple[int, LayoutEntry, Rect, Sized, Spot]]:
    """Yield the entries with a known frame: index, entry, frame on its display, the display's size, where it stands."""
    known = display_sizes(one.displays)
    for i, (entry, spot) in enumerate(zip(one.entries, spots, strict=True)):
        wide, _, high = known.get(entry.display or "", "").partition("x")
        if entry.place is None or not (wide.isdigit() and high.isdigit()):
            continue
        form = entry.place.form_on(entry.display or "")
        if isinstance(form, NamedPlace):
            named = case.config.places.get(form.name)
            if named is None:
                continue
            form = named.form_on(entry.display or "")
        if not isinstance(form, NamedPlace | SamePlace) and int(wide) and int(high):
            size = int(wide), int(high)
            yield i, entry, frame_of(form, Ground(Rect(0, 0, *size))), size, spot


def out_of_sight(case: CheckInputs) -> Iterator[Finding]:
    """JK505 and JK506: a window that no pointer reaches, or that is smaller than it is of use."""
    for laid, one, spots in _each(case):
        if PLACE not in laid.layout.holds:
            continue
        for _, entry, frame, (wide, high), spot in _frames(case, one, spots):
            across = min(frame.right, wide) - max(frame.x, 0)
            down = min(frame.bottom, high) - max(frame.y, 0)
            app = case.config.apps.get(entry.app or "")
            if across < min(GRIP, frame.width) or down < min(GRIP, frame.height) or frame.y < -GRIP // 2:
                yield finding("JK505", spot, app=entry.label, frame=str(frame), display=entry.display)
            elif app and app.least and (frame.width < app.least[0] or frame.height < app.least[1]):
                least = f"{app.least[0]}x{app.least[1]}"
                yield finding(
                    "JK506", spot, app=entry.label, size=f"{frame.width}x{frame.height}", least=least,
                    display=f"{entry.display} ({wide}x{high})",
                )  # fmt: skip


def covered(case: CheckInputs) -> Iterator[Finding]:
    """JK507: a window of which nothing is seen, as others stand before it."""
    for laid, one, spots in _each(case):
        if PLACE not in laid.layout.holds:
            continue
        before: dict[tuple[str | None, Where | None], list[tuple[Rect, str]]] = {}
        for _, entry, frame, (wide, high), spot in _frames(case, one, spots):
            if entry.minimised:
                continue
            frame = Rect(0, 0, wide, high) if entry.shape.value in ("maximised", "fullscreen") else frame
            others = before.setdefault((entry.display, entry.workspace), [])
            if not entry.above and not uncovered_parts(frame, (rect for rect, _ in others)):
                over = [label for rect, label in others if rect.overlap(frame)]
                yield finding("JK507", spot, app=entry.label, others=either(list(dict.fromkeys(over))))
            others.append((frame, entry.label))


def focus_lost(case: CheckInputs) -> Iterator[Finding]:
    """JK508 and JK510: a focus that may find no window, and one that takes typing while plain keys are bound."""
    plain = [bound for bound in case.live if writes(bound.keys[0])] if case.reading.laid else []
    for laid, one, spots in _each(case):
        told_by_base = laid.layout.base and "focus" not in laid.spots  # it is told where the base says so
        if one.focus is None or FOCUS not in laid.layout.holds or told_by_base:
            continue
        entry, spot = one.entries[one.focus], laid.spots.get("focus", spots[one.focus])
        if entry.minimised or entry.missing == SKIP:
            problem = "it is minimised" if entry.minimised else "it is left out where it is not open"
            yield finding("JK508", spot, app=entry.label, problem=problem)
        app = case.config.apps.get(entry.app or "")
        if app and app.types:
            yield from _trap(plain, laid.layout.as_on(one), entry.label, spot, case)


def _trap(plain: list[BoundKeys], layout: Layout, label: str, spot: Spot, case: CheckInputs) -> Iterator[Finding]:
    """Yield the first plain key that is typed as text once the layout is recalled."""
    trap = next((bound for bound in plain if _ends(bound, layout, case)), None)
    if trap:
        where = f"in layer {trap.layer}, which the recall ends" if trap.layer else str(trap.scope)
        yield finding("JK510", spot, ((trap.spot, "bound here"),), app=label, chord=str(trap.keys[0]), where=where)


def _ends(bound: BoundKeys, layout: Layout, case: CheckInputs) -> bool:
    """True if a plain key means something before a recall of the layout, and is typed as text after it."""
    focus = layout.entries[layout.focus].app if layout.focus is not None else None
    if not bound.layer:
        return not bound.scope.holds(focus)
    layer = case.config.layers.get(bound.layer)
    ref = bound.binding.action.named("LAYOUT") if bound.binding else None
    return bool(layer and not layer.stays and ref and ref.name in (layout.name, str(layout.number)))


def alike(case: CheckInputs) -> Iterator[Finding]:
    """JK509: two windows of an app that are to stand differently, and nothing tells which is which."""
    for _, one, spots in _each(case):
        groups: dict[str, list[int]] = {}
        for i, entry in enumerate(one.entries):
            groups.setdefault(entry.label, []).append(i)
        for label, group in groups.items():
            for a, b in combinations(group[:20], 2):
                mine, its = one.entries[a], one.entries[b]
                same = (mine.title, mine.role, mine.nth) == (its.title, its.role, its.nth)
                if same and mine != its:
                    also = ((spots[a], "the other one"),)
                    yield finding("JK509", spots[b], also, app=label)
                    break


def no_such_display(case: CheckInputs) -> Iterator[Finding]:
    """JK511: a place on a display that none of the layout's display sets has."""
    for laid in case.reading.laid:
        known = {name for one in laid.layout.arrangements for name in one.displays}
        for _, one, spots in (each for each in _each(case) if each[0] is laid) if known else ():
            for entry, spot in zip(one.entries, spots, strict=True):
                own = one.displays or known
                if entry.display and entry.display not in own and entry.display in case.config.displays:
                    yield finding("JK511", spot, display=entry.display, known=either(list(own)))


def contrary(case: CheckInputs) -> Iterator[Finding]:
    """JK512: an app that a layout wants, and wants to be out of view."""
    for laid, one, spots in _each(case):
        for entry, spot in zip(one.entries, spots, strict=True):
            if entry.app in laid.layout.absent:
                yield finding("JK512", spot, app=entry.app)


def presses_too_much(case: CheckInputs) -> Iterator[Finding]:
    """JK515: a layout that presses what could be text or a command, or anything at all in a terminal."""
    for _, one, spots in _each(case):
        for entry, spot in zip(one.entries, spots, strict=True):
            app = case.config.apps.get(entry.app or "")
            stands_for = None if entry.app else Window(0, cls=entry.cls or "")
            for action in entry.after:
                if reason := refusal(action.presses, app, stands_for):
                    remedy = "take it out" if is_terminal(app, stands_for) else REMEDY
                    yield finding("JK515", spot, app=entry.label, action=action, problem=reason, remedy=remedy)


def twice(case: CheckInputs) -> Iterator[Finding]:
    """JK513 and JK514: two layouts to return to, and two with one name."""
    homes = [laid for laid in case.reading.laid if laid.layout.home]
    for laid in homes[1:]:
        also = ((homes[0].spots["home"], "the other one"),)
        yield finding("JK513", laid.spots["home"], also, other=homes[0].layout.name)
    first: dict[str, StoredLayout] = {}
    for laid in case.reading.laid:
        other = first.setdefault(laid.layout.name, laid)
        if other is not laid:
            also = ((other.spots["layout"], "the other one"),)
            yield finding("JK514", laid.spots["layout"], also, name=laid.layout.name)
