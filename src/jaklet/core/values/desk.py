"""One immutable picture of everything on the screen, and the changes that can be asked of it."""

from collections.abc import Mapping
from enum import StrEnum
from functools import cached_property
from types import MappingProxyType
from typing import Final, NamedTuple

from jaklet.core.values.desk_abilities import EVERY, Abilities
from jaklet.core.values.geometry import NO_LIMITS, Insets, Rect, SizeLimits, edge_struts, work_area


class WindowShape(StrEnum):
    """How a window that is not minimised fills its display."""

    NORMAL = "normal"
    TILED = "tiled"  # by the window manager: along one axis as if maximised
    MAXIMISED = "maximised"
    FULLSCREEN = "fullscreen"


NORMAL: Final = "normal"
DIALOG: Final = "dialog"


class Display(NamedTuple):
    """One monitor: its whole rectangle and its work area, in root coordinates."""

    name: str
    rect: Rect
    work: Rect
    primary: bool = False

    def less(self, edges: Insets) -> "Display":
        """Return this display with these edges kept free beside what its work area leaves out already."""
        free, work = work_area(self.rect, edge_struts(self.rect, edges)), self.work
        left, top = max(free.x, work.x), max(free.y, work.y)
        right, bottom = min(free.right, work.right), min(free.bottom, work.bottom)
        return self._replace(work=Rect(left, top, max(1, right - left), max(1, bottom - top)))


class Window(NamedTuple):
    """One window that the user can move. `frame` is what is seen: frame added, shadows taken off."""

    id: int
    instance: str = ""
    cls: str = ""
    title: str = ""
    role: str = ""
    frame: Rect = Rect(0, 0, 1, 1)
    border: Insets = Insets()
    limits: SizeLimits = NO_LIMITS
    workspace: int | None = 1  # counted from 1; None: on all of them
    shape: WindowShape = WindowShape.NORMAL
    minimised: bool = False
    above: bool = False  # kept above the others
    kind: str = NORMAL  # or `DIALOG`
    parent: int | None = None  # the window that a dialog belongs to (ICCCM WM_TRANSIENT_FOR)
    process: str = ""  # the name of the process that shows it
    launched_for: str = ""  # the `Launch.tie` of the launch that it is the first window of; or an app's name alone
    takes_focus: bool = True  # False: nothing can be typed into it, and no request gives it the focus


NOTHING_MOVING: Final[Mapping[int, Rect]] = MappingProxyType({})


class _DeskFields(NamedTuple):
    """What is seen of a desk: see `Desk`."""

    displays: tuple[Display, ...]
    windows: tuple[Window, ...] = ()
    stacking: tuple[int, ...] = ()
    recent: tuple[int, ...] = ()
    active: int | None = None
    aimed: int | None = None
    workspace: int = 1
    workspaces: int = 1
    gaps: bool = True
    moving: Mapping[int, Rect] = NOTHING_MOVING
    turns: int = 0
    abilities: Abilities = EVERY


_SEEN: Final = _DeskFields._fields.index("turns")  # by the fields before that, two desks look the same


class Desk(_DeskFields):
    """Displays, windows, their order and the active one.

    `windows` in the order in which they opened; `stacking` from bottom to top; `recent` latest first, by use.
    `aimed` is the window that was asked to the front and is not there yet, `moving` the frames that were asked for and
    may not be there yet. `gaps`: whether windows are placed with gaps. `turns`: how often the focus has gone to another
    window, as far as the desk has told: by it, one that was never given is known from one that was taken away since.
    `abilities`: what can be asked of the desk, and of its keys.
    """

    def __eq__(self, other: object) -> bool:
        """Return whether another desk looks the same, however often the focus has moved, and whatever can be asked."""
        return self is other or (isinstance(other, Desk) and self[:_SEEN] == other[:_SEEN])

    __hash__ = None  # type: ignore[assignment]  # of what moves, there is a mapping

    @cached_property
    def by_id(self) -> Mapping[int, Window]:
        """Windows by their id."""
        return {window.id: window for window in self.windows}

    @cached_property
    def main_windows(self) -> tuple[Window, ...]:
        """All windows but the dialogs that belong to another."""
        known = self.by_id
        return tuple(w for w in self.windows if w.parent not in known or self.family(w) is w)

    @property
    def front(self) -> Window | None:
        """The window that has the focus or is about to get it."""
        found = self.by_id.get(self.aimed) if self.aimed is not None else None
        return found or (self.by_id.get(self.active) if self.active is not None else None)

    @property
    def focused(self) -> Window | None:
        """The window that has the focus, or to which the dialog belongs that has it."""
        active = self.by_id.get(self.active) if self.active is not None else None
        return self.family(active) if active else None

    def family(self, window: Window) -> Window:
        """Return the window that a dialog belongs to in the end; any other window itself."""
        seen = [window]
        while (parent := self.by_id.get(seen[-1].parent or 0)) is not None:
            if parent in seen:
                return min(seen)  # they name each other: one of them has to stand for all
            seen.append(parent)
        return seen[-1]

    def latest(self, windows: tuple[Window, ...]) -> Window | None:
        """Return the one of these that was used last, itself or one of its dialogs."""
        wanted = {window.id: window for window in windows}
        for wid in self.recent:
            window = wanted.get(wid) or (wanted.get(self.family(self.by_id[wid]).id) if wid in self.by_id else None)
            if window:
                return window
        return windows[0] if windows else None

    def with_gaps(self, on: bool) -> "Desk":
        """Return this desk with gaps on or off."""
        return self._replace(gaps=on)

    def frame_of(self, window: Window) -> Rect:
        """Return the frame that a window has or was asked to have last."""
        return self.moving.get(window.id, window.frame)

    def in_view(self, window: Window) -> bool:
        """True if a window is on the workspace that is shown, and not minimised."""
        return not window.minimised and window.workspace in (None, self.workspace)

    def display_named(self, name: str) -> Display | None:
        """Return the display with this connector name."""
        for display in self.displays:
            if display.name == name:
                return display
        return None

    @property
    def primary(self) -> Display:
        """The primary display, or the first where none is marked."""
        return next((display for display in self.displays if display.primary), self.displays[0])

    def display_of(self, frame: Rect) -> Display:
        """Return the display that shows most of a frame; the nearest where none shows any."""
        x, y, width, height = frame
        for display in self.displays:  # most frames are wholly on one, and every key asks
            left, top, across, down = display.rect
            if left <= x and top <= y and x + width <= left + across and y + height <= top + down:
                return display
        best, most = self.displays[0], 0
        for display in self.displays:
            shown = display.rect.overlap(frame)
            if shown > most:
                best, most = display, shown
        return best if most else min(self.displays, key=lambda display: display.rect.distance(frame))
