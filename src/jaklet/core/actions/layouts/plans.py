"""From a layout and a desk to the changes that are still needed: where each window belongs, and what is in the way.

The window that is to have the focus comes first, so that it is seen first; then the others from front to back; then
what is left over; the order last.
"""

from collections.abc import Iterator
from typing import Final, NamedTuple

from jaklet.core.actions.layouts.displays import brought_within, size_of
from jaklet.core.actions.layouts.pairing import Pairs
from jaklet.core.actions.placing.window_stands import stand_of
from jaklet.core.actions.placing.windows import as_in_view, placing
from jaklet.core.values.changes import (
    Change,
    Close,
    Focus,
    Minimise,
    Move,
    Raise,
    Reshape,
    Reveal,
    Send,
    ShowWorkspace,
    Stack,
    lacking_for,
)
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Window, WindowShape
from jaklet.core.values.forms import NamedPlace, SamePlace
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import (
    CLOSE,
    FOCUS,
    LEAVE,
    MINIMISE,
    ORDER,
    PLACE,
    SEND,
    STATE,
    WORKSPACE,
    Arrangement,
    Layout,
    LayoutEntry,
    Where,
)
from jaklet.core.values.stacking import stands_on_top

OF_ONE_WINDOW: Final = Move | Reshape | Minimise | Reveal | Send | Raise


class RecallPlan(NamedTuple):
    """What a layout still needs of a desk, once its entries have their windows.

    `before`: the windows that were there when the recall began. What opens meanwhile is left alone.
    """

    layout: Layout
    config: Config
    pairs: Pairs
    before: frozenset[int] = frozenset()

    def needed(self, desk: Desk) -> tuple[Change, ...]:
        """Return every change that is left, in the order in which to make them."""
        first, order = self._first(desk), self._order(desk)
        front = self._front(first, desk)
        changes = (*front, *self.frames(desk, but=first), *self.tidied(desk))
        # What is brought to the front hides others.
        goes_first = any(not lacking_for(change, desk.abilities) for change in front)
        comes = any(not desk.in_view(desk.by_id[wid]) for wid in order)  # into view, on top of the others
        if order and (goes_first or comes or not stands_on_top(order, desk)):
            changes += (Stack(order),)
        return changes

    def _first(self, desk: Desk) -> int | None:
        """Return the entry whose window is to have the focus and has not; None if there is none."""
        focus = self.focus
        return self.layout.focus if focus in desk.by_id and desk.active != focus else None

    def _front(self, first: int | None, desk: Desk) -> tuple[Change, ...]:
        """Return the changes that bring a window into view first, at its place, on the workspace to be shown."""
        changes: tuple[Change, ...] = ()
        scene = self.scene(desk)
        if desk.workspace != scene:
            changes += (ShowWorkspace(scene),)
        if first is not None:
            changes += (*self._of_entry(first, desk), Focus(self.pairs[first]))
        return changes

    def frames(self, desk: Desk, but: int | None = None) -> tuple[Change, ...]:
        """Return the changes for each window alone: workspace, shape, frame. `but`: an entry that is done already."""
        return tuple(change for i in sorted(self.pairs) if i != but for change in self._of_entry(i, desk))

    def scene(self, desk: Desk) -> int:
        """Return the workspace that is shown when the layout stands."""
        return (
            min(self._number(self.layout.workspace), desk.workspaces)
            if WORKSPACE in self.layout.holds
            else desk.workspace
        )

    def _number(self, where: Where) -> int:
        return self.config.workspace_number(where) or 1

    def _of_entry(self, i: int, desk: Desk) -> tuple[Change, ...]:
        window = desk.by_id.get(self.pairs[i])
        return self._of_one(self.layout.entries[i], window, desk) if window else ()

    def _of_one(self, entry: LayoutEntry, window: Window, desk: Desk) -> tuple[Change, ...]:
        holds = self.layout.holds
        changes: tuple[Change, ...] = ()
        if WORKSPACE in holds:
            workspace = None if entry.workspace is None else min(self._number(entry.workspace), desk.workspaces)
            if window.workspace != workspace:
                changes += (Send(window.id, workspace),)
        frame = self.frame(entry, window, desk) if PLACE in holds and entry.place else None
        if STATE not in holds:
            return changes + (placing(as_in_view(window), frame, desk) if frame else ())
        if window.above is not entry.above:
            changes += (Raise(window.id, entry.above),)
        return changes + self._shaped(entry, window, frame or window.frame, desk)

    @staticmethod
    def _shaped(entry: LayoutEntry, window: Window, frame: Rect, desk: Desk) -> tuple[Change, ...]:
        """Return the changes that give a window its state, at a frame."""
        changes: tuple[Change, ...] = ()
        # A hidden window is given its place too, without being shown: it is there when it comes back into view.
        shown = window._replace(minimised=not entry.minimised) if window.minimised else window
        if entry.shape is WindowShape.NORMAL:
            changes += placing(shown, frame, desk)
        else:
            elsewhere = desk.display_of(window.frame) != desk.display_of(frame)
            if shown.minimised:
                changes += (Reveal(window.id),)
            if elsewhere:
                changes += placing(shown._replace(minimised=False), frame, desk)
            if window.shape is not entry.shape or elsewhere:
                changes += (Reshape(window.id, entry.shape),)
        if entry.minimised and not window.minimised:
            changes += (Minimise(window.id),)
        return changes

    def frame(self, entry: LayoutEntry, window: Window, desk: Desk) -> Rect:
        """Return where a window belongs whose entry has a place."""
        assert entry.place is not None
        config, stand = self.config, stand_of(entry.place, window, desk, self.config, of_layout=True)
        assert stand is not None  # another display stands in for one that is not there
        if isinstance(stand.form, SamePlace):
            return window.frame
        display, whole = stand.display, stand.whole
        saved = self.layout.displays.get(stand.place.display or config.role_of(display))
        if not saved or size_of(saved) == f"{display.rect.width}x{display.rect.height}":
            return stand.frame(window)
        # Not the display that it was saved on: nothing off screen, nothing smaller than it can be used.
        app, edges = config.apps.get(entry.app or ""), window.border
        if app and app.least:
            wide, high = app.least[0] + edges.left + edges.right, app.least[1] + edges.top + edges.bottom
            whole = whole._replace(width=max(whole.width, wide), height=max(whole.height, high))
        return brought_within(stand.frame(window, whole=whole), display.work, window.limits, edges)

    @property
    def focus(self) -> int | None:
        """The window that the layout wants in focus."""
        wanted = self.layout.focus if FOCUS in self.layout.holds else None
        return None if wanted is None else self.pairs.get(wanted)

    def _order(self, desk: Desk) -> tuple[int, ...]:
        """Return the layout's windows that will be in view, from bottom to top.

        Some managers bring a window into view, and to this workspace, that is asked to the top.
        """
        if ORDER not in self.layout.holds:
            return ()
        entries, pairs = self.layout.entries, self.pairs
        return tuple(pairs[i] for i in sorted(pairs, reverse=True) if self._will_be_seen(entries[i], pairs[i], desk))

    def _will_be_seen(self, entry: LayoutEntry, wid: int, desk: Desk) -> bool:
        window, holds = desk.by_id.get(wid), self.layout.holds
        if window is None or (entry.minimised if STATE in holds else window.minimised):
            return False
        if WORKSPACE not in holds:
            return window.workspace in (None, desk.workspace)
        return entry.workspace is None or min(self._number(entry.workspace), desk.workspaces) == self.scene(desk)

    def left_over(self, desk: Desk) -> tuple[Window, ...]:
        """Return the windows in view that are not the layout's, and are its business."""
        own, scene, only_on = set(self.pairs.values()), self.scene(desk), self.layout.only_on
        return tuple(
            window
            for window in desk.main_windows
            if window.id in self.before
            and window.id not in own
            and not window.minimised
            and window.workspace in (None, scene)
            and not (only_on and self.config.role_of(desk.display_of(window.frame)) not in only_on)
        )

    def tidied(self, desk: Desk) -> tuple[Change, ...]:
        """Return the changes for the windows left over, without those that are to close."""
        layout = self.layout
        changes: list[Change] = []
        rule = layout.rule
        if rule.what == LEAVE and not layout.absent:
            return ()
        for window in self.left_over(desk):
            name = self.config.claims.app_of(window, desk)
            app = self.config.apps.get(name or "")
            if name in layout.absent or rule.what == MINIMISE or (rule.what == CLOSE and app and app.stays):
                changes.append(Minimise(window.id))
            elif rule.what == SEND and (to := min(self._number(rule.workspace), desk.workspaces)) != self.scene(desk):
                changes.append(Send(window.id, to))
        return tuple(changes)

    def closed(self, desk: Desk) -> tuple[Close, ...]:
        """Return which windows are to be asked to close, once: a second time could answer what a program asks."""
        if self.layout.rule.what != CLOSE:
            return ()
        minimised = {change.window for change in self.tidied(desk) if isinstance(change, Minimise)}
        return tuple(Close(window.id) for window in self.left_over(desk) if window.id not in minimised)


def unknown(layout: Layout, config: Config) -> str | None:
    """Return a place or workspace that a layout names and the config does not have; it cannot be used then."""
    arrangements = layout.arrangements
    places = [entry.place for one in arrangements for entry in one.entries if entry.place]
    places += [
        place
        for one in arrangements
        for its in one.arranged
        if its.form.places
        for place in its.form.places.alternatives
    ]
    for place in places:
        if isinstance(place.form, NamedPlace) and place.form.name not in config.places:
            return f"place {place.form.name}"
    where = [one for arrangement in arrangements for one in _workspaces(arrangement)]
    where += [layout.rule.workspace] if layout.rule.what == SEND else []
    return next((f"workspace {one}" for one in where if not config.workspace_number(one)), None)


def _workspaces(one: Arrangement) -> Iterator[Where]:
    yield one.workspace
    yield from (entry.workspace for entry in one.entries if entry.workspace is not None)
    yield from (its.workspace for its in one.arranged)
