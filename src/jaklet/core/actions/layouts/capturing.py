"""Taking a layout from a desk, and what is said of what was caught."""

from collections.abc import Sequence
from typing import Final, NamedTuple

from jaklet.core.actions.layouts.arrangements import remember_sharings
from jaklet.core.actions.layouts.displays import display_set
from jaklet.core.actions.layouts.pairing import OpenWindow, live_windows
from jaklet.core.actions.placing.window_stands import form_filled
from jaklet.core.values.config import Config
from jaklet.core.values.desk import DIALOG, Desk, Window, WindowShape
from jaklet.core.values.forms import FullPlace, PixelPlace
from jaklet.core.values.globs import shortened_pattern
from jaklet.core.values.layout_fields import state_of
from jaklet.core.values.layouts import (
    ALL_PARTS,
    FOCUS,
    LEAVE,
    ORDER,
    PARTS,
    PLACE,
    STATE,
    WORKSPACE,
    Layout,
    LayoutEntry,
    names_of,
)
from jaklet.core.values.places import Place
from jaklet.core.values.sharings import KeptArrangements
from jaklet.core.values.words import counted, listed

PLAIN: Final = (WindowShape.NORMAL, WindowShape.TILED)  # a tiled window is kept as the place that it fills


class Selection(NamedTuple):
    """What of a desk is to be kept: which parts, and of which windows; where nothing is named, of all.

    `parts` None: those that the layout held before, all in a new one. `without`: windows that are left out.
    """

    parts: frozenset[str] | None = None
    apps: tuple[str, ...] = ()
    displays: tuple[str, ...] = ()
    active: bool = False
    without: frozenset[int] = frozenset()

    @property
    def narrows(self) -> bool:
        """True if it names some windows only."""
        return bool(self.apps or self.displays or self.active)


EVERYTHING: Final = Selection()


def capture_layout(
    desk: Desk,
    config: Config,
    *,
    name: str,
    number: int | None,
    note: str,
    selection: Selection = EVERYTHING,
    kept: KeptArrangements | None = None,
) -> Layout:
    """Return the desk as a layout. Places are recognised; exact pixels stand only where no simple place fits.

    `kept`: how everything stays arranged, so that it remembers that.
    """
    parts = ALL_PARTS if selection.parts is None else selection.parts
    front = desk.focused
    live = live_windows(desk, config)
    groups = {one.window.id: (label, one) for label, group in live.items() for one in group}
    meant = [
        window
        for window in _from_the_front(desk)
        if _meant(window, front, groups[window.id][0], selection, desk, config)
    ]
    if parts and not parts - {FOCUS, ORDER}:  # no more than it needs
        meant = [window for window in meant if (desk.in_view(window) if ORDER in parts else window is front)]
    found = (groups[window.id] for window in meant)
    entries = [_entry(one, label, live[label], desk, config) for label, one in found]
    wanted = selection.displays
    displays = {role: rect for role, rect in display_set(desk, config).items() if not wanted or role in wanted}
    return Layout(
        name=name,
        number=number,
        note=note,
        workspace=config.workspace_written(desk.workspace) if WORKSPACE in parts else 1,
        focus=meant.index(front) if front in meant and FOCUS in parts else None,
        displays=displays,
        entries=tuple(_only(entry, parts) for entry in entries),
        holds=parts,
        only_on=selection.displays,
        arranged=remember_sharings(kept, [one.id for one in meant], desk, config) if kept and PLACE in parts else (),
    )


def _meant(
    window: Window, front: Window | None, label: tuple[bool, str], selection: Selection, desk: Desk, config: Config
) -> bool:
    """True if the selection names a window."""
    if window.id in selection.without:
        return False
    if selection.active:
        return window is front
    if selection.apps and label not in {(True, app) for app in selection.apps}:
        return False
    return not selection.displays or config.role_of(desk.display_of(window.frame)) in selection.displays


def _entry(
    one: OpenWindow, label: tuple[bool, str], twins: Sequence[OpenWindow], desk: Desk, config: Config
) -> LayoutEntry:
    window, has_app = one.window, label[0]
    several = len(twins) > 1
    roles = {twin.window.role for twin in twins}
    return LayoutEntry(
        app=label[1] if has_app else None,
        cls=None if has_app else window.cls,
        title=shortened_pattern(window.title) if several or not has_app else None,
        place=place_of(window, desk, config),
        workspace=None if window.workspace is None else config.workspace_written(window.workspace),
        shape=WindowShape.NORMAL if window.shape in PLAIN else window.shape,
        minimised=window.minimised,
        above=window.above,
        role=window.role if len(roles) > 1 and window.role else None,
        nth=one.nth if several else None,
    )


def _only(entry: LayoutEntry, parts: frozenset[str]) -> LayoutEntry:
    """Return an entry without what is not to be kept."""
    if PLACE not in parts:
        entry = entry._replace(place=None)
    if WORKSPACE not in parts:
        entry = entry._replace(workspace=1)
    if STATE not in parts:
        entry = entry._replace(shape=WindowShape.NORMAL, minimised=False, above=False)
    return entry


def place_of(window: Window, desk: Desk, config: Config) -> Place:
    """Return the place that a window fills, with its display."""
    role = config.role_of(desk.display_of(window.frame))
    if window.shape not in PLAIN:
        return Place(FullPlace(), role)  # where it would stand otherwise is the window manager's own memory
    return Place(form_filled(window, window.frame, desk, config), role)


def layout_summary(layout: Layout) -> str:
    """Return in a few words what a layout holds."""
    if not layout.entries:
        return "no window; recalling it clears the desk" if layout.rule.what != LEAVE else "no window"
    displays = {entry.display for entry in layout.entries if entry.display}
    where = f" on {counted(len(displays), 'display')}" if displays else ""
    return f"{counted(len(layout.entries), 'window')}{where}"


def _from_the_front(desk: Desk) -> list[Window]:
    """Return the windows that a layout can be of: dialogs come and go with those they belong to."""
    rank = {wid: place for place, wid in enumerate(desk.stacking)}
    ordinary = [window for window in desk.main_windows if window.kind != DIALOG]
    return sorted(ordinary, key=lambda w: -rank.get(w.id, -1))


def caught_in_parts(layout: Layout) -> tuple[str, ...]:
    """Return the contents of a layout in lines, part by part, and the parts that are not kept."""
    entries, names = layout.entries, names_of(layout.entries)
    if not entries:
        return ()
    lines = []
    for part in PARTS:
        lines.append(f"{part}: {_part_told(part, layout, names) if part in layout.holds else 'not kept'}")
    if not layout.launches:
        lines.append("it holds no places and no states, so that recalling it launches nothing")
    lines += [f"stays arranged: {one}, {counted(len(one.order), 'window')}" for one in layout.arranged]
    unclaimed = [entry.label for entry in entries if entry.app is None]
    if unclaimed:
        lines.append(f"of no app, so that they cannot be launched: {listed(unclaimed)}")
    return tuple(lines)


def _part_told(part: str, layout: Layout, names: Sequence[str]) -> str:
    entries = layout.entries
    if part == PLACE:
        return _places_told(entries, names)
    if part == WORKSPACE:
        return listed(sorted({str(layout.workspace), *(str(e.workspace) for e in entries if e.workspace)}))
    if part == ORDER:
        return f"{', '.join(names[:6])}{' …' if len(names) > 6 else ''}" if len(names) > 1 else "one window has none"
    if part == FOCUS:
        return "nothing has it" if layout.focus is None else names[layout.focus]
    odd = [f"{name} {state}" for name, entry in zip(names, entries, strict=True) if (state := state_of(entry))]
    return ", ".join(odd) or "all normal"


def _places_told(entries: Sequence[LayoutEntry], names: Sequence[str]) -> str:
    pixels = sum(isinstance(entry.place.form, PixelPlace) for entry in entries if entry.place)
    told = ", ".join(f"{name} {entry.place}" for name, entry in zip(names, entries, strict=True))
    return told if len(told) <= 100 else f"{len(entries) - pixels} by name, {pixels} in pixels"
