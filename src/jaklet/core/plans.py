"""From a layout and a desk to the changes that are still needed: which window is which, and where each belongs."""

from collections.abc import Mapping
from typing import Final, NamedTuple

from jaklet.core.config import Config
from jaklet.core.desk import Change, Desk, Focus, Minimise, Move, Reshape, Reveal, Send, Shape, Show, Stack, Window
from jaklet.core.geometry import Rect
from jaklet.core.layouts import Entry, Layout
from jaklet.core.places.places import Place, resolved
from jaklet.core.placing.windows import goal_frame, placing

Pairs = Mapping[int, int]  # index of an entry -> window id
OF_ONE_WINDOW: Final = Move | Reshape | Minimise | Reveal | Send


def paired(layout: Layout, desk: Desk, config: Config, kept: Pairs | None = None) -> Pairs:
    """Pair entries with live windows: same app (or class), then same title, then least way to go.

    Pairs in `kept` stay while their windows live, so that a window once placed is not taken for another.
    """
    pairs = {i: wid for i, wid in (kept or {}).items() if wid in desk.by_id}
    taken = set(pairs.values())
    live: dict[tuple[bool, str], list[Window]] = {}
    for window in desk.main_windows:
        if window.id not in taken:
            app = config.claims.app_of(window, desk)
            live.setdefault((True, app) if app else (False, window.cls), []).append(window)
    offers: list[tuple[bool, int, int, int, int]] = []
    for i, entry in enumerate(layout.entries):
        if i in pairs:
            continue
        for order, window in enumerate(live.get((entry.app is not None, entry.label), ())):
            frame = goal_frame(window, entry.place, config, desk)
            way = frame.distance(window.frame) if frame else 0
            offers.append((entry.title is not None and entry.title != window.title, way, i, order, window.id))
    for _, _, i, _, wid in sorted(offers):
        if i not in pairs and wid not in taken:
            pairs[i] = wid
            taken.add(wid)
    return pairs


class Plan(NamedTuple):
    """What a layout still needs of a desk, once its entries have their windows."""

    layout: Layout
    config: Config
    pairs: Pairs

    def needed(self, desk: Desk) -> tuple[Change, ...]:
        """Return every change that is left, in the order in which to make them."""
        return (*self.frames(desk), *self._front(desk))

    def frames(self, desk: Desk) -> tuple[Change, ...]:
        """Return what each window needs for itself: workspace, shape, frame."""
        changes: list[Change] = []
        for i in self._back_to_front():
            window = desk.by_id.get(self.pairs[i])
            if window:
                changes += self._of_one(self.layout.entries[i], window, desk)
        return tuple(changes)

    def _back_to_front(self) -> list[int]:
        return [i for i in reversed(range(len(self.layout.entries))) if i in self.pairs]

    def _of_one(self, entry: Entry, window: Window, desk: Desk) -> tuple[Change, ...]:
        changes: tuple[Change, ...] = ()
        workspace = None if entry.workspace is None else min(entry.workspace, desk.workspaces)
        if window.workspace != workspace:
            changes += (Send(window.id, workspace),)
        # A hidden window is given its place too, without being shown: it is there when it comes back into view.
        window = window._replace(minimised=window.minimised and not entry.minimised)
        frame = self._frame(entry, window, desk)
        if entry.shape is Shape.NORMAL:
            changes += placing(window, frame)
        else:
            elsewhere = desk.display_of(window.frame) != desk.display_of(frame)
            if window.minimised:
                changes += (Reveal(window.id),)
            if elsewhere:
                changes += placing(window._replace(minimised=False), frame)
            if window.shape is not entry.shape or elsewhere:
                changes += (Reshape(window.id, entry.shape),)
        if entry.minimised and not desk.by_id[window.id].minimised:
            changes += (Minimise(window.id),)
        return changes

    def _frame(self, entry: Entry, window: Window, desk: Desk) -> Rect:
        place = resolved(entry.place, self.config.places)
        frame = goal_frame(window, place, self.config, desk)
        if frame is None:  # its display is not there: the same share of the primary one, never off screen
            home = Place(place.form, desk.primary.name)
            frame = goal_frame(window, home, self.config, desk)
        assert frame is not None  # the primary display is always there
        return frame

    def _front(self, desk: Desk) -> tuple[Change, ...]:
        """Return what is needed for workspace, focus and order."""
        changes: list[Change] = []
        workspace = min(self.layout.workspace, desk.workspaces)
        if desk.workspace != workspace:
            changes.append(Show(workspace))
        focus = self.focus
        if focus is not None and focus in desk.by_id and desk.active != focus:
            changes.append(Focus(focus))
        order = self._order(desk)
        if order and (changes or not _on_top(order, desk)):
            changes.append(Stack(order))
        return tuple(changes)

    @property
    def focus(self) -> int | None:
        """The window that the layout wants in focus."""
        return None if self.layout.focus is None else self.pairs.get(self.layout.focus)

    def _order(self, desk: Desk) -> tuple[int, ...]:
        """Return the layout's windows from bottom to top; hidden ones too, for when they come back into view."""
        return tuple(self.pairs[i] for i in self._back_to_front() if self.pairs[i] in desk.by_id)


def _on_top(order: tuple[int, ...], desk: Desk) -> bool:
    """True if these stand in this order above all other windows in view that are not kept above."""
    wanted = set(order)
    plain = [
        wid
        for wid in desk.stacking
        if wid in wanted or ((w := desk.by_id.get(wid)) is not None and not w.above and not w.minimised)
    ]
    return tuple(plain[len(plain) - len(order) :]) == order
