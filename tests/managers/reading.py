"""An independent reading of a server: its tree, geometry and properties, by bare requests. Jaklet has no part in it."""

import struct
from typing import Final

import xcffib.xproto as xp

from tests.xserver import XServer

Frame = tuple[int, int, int, int]
ICONIC: Final = 3  # ICCCM 4.1.3.1, WM_STATE
GONE: Final = (xp.WindowError, xp.DrawableError)
ALL: Final = 0xFFFFFFFF


class Reading:
    """What a server says, asked anew each time."""

    def __init__(self, x: XServer) -> None:
        self.connection = x.connect()
        self.core = self.connection.core
        self.root: int = self.connection.setup.roots[0].root
        self._atoms: dict[str, int] = {}

    def close(self) -> None:
        """End the connection."""
        self.connection.disconnect()

    def atom(self, name: str) -> int:
        """Return an atom."""
        if name not in self._atoms:
            self._atoms[name] = int(self.core.InternAtom(False, len(name), name).reply().atom)
        return self._atoms[name]

    def words(self, window: int, name: str) -> tuple[int, ...]:
        """Return a property of 32-bit numbers; empty where there is none."""
        try:
            reply = self.core.GetProperty(False, window, self.atom(name), 0, 0, 4096).reply()
        except GONE:
            return ()
        raw = reply.value.buf()
        return struct.unpack(f"={len(raw) // 4}I", raw) if reply.format == 32 else ()

    def cls(self, window: int) -> str:
        """Return a window's class."""
        try:
            reply = self.core.GetProperty(False, window, self.atom("WM_CLASS"), 0, 0, 256).reply()
        except GONE:
            return ""
        return reply.value.buf().split(b"\0")[1].decode() if reply.format == 8 and b"\0" in reply.value.buf() else ""

    def title(self, window: int) -> str:
        """Return a window's title."""
        kind = self.atom("UTF8_STRING")
        return str(
            self.core.GetProperty(False, window, self.atom("_NET_WM_NAME"), kind, 0, 256).reply().value.to_utf8()
        )

    def size(self, window: int) -> tuple[int, int]:
        """Return the size of a window's client area."""
        place = self.core.GetGeometry(window).reply()
        return place.width, place.height

    def has_border(self, cls: str) -> bool:
        """Return whether a window has a border of the server's, which no frame counts."""
        found = next(one for one in self._below(self.root) if self.cls(one) == cls)
        return bool(self.core.GetGeometry(found).reply().border_width)

    def tops(self) -> list[int]:
        """Return all windows of programs from bottom to top, by the tree."""
        listed = set(self.words(self.root, "_NET_CLIENT_LIST"))
        return [one for top in self._children(self.root) for one in (*self._below(top),) if one in listed]

    def _below(self, top: int) -> list[int]:
        """Return a window and what is in it, down to the third level."""
        level, found = [top], [top]
        for _ in range(3):
            level = [child for one in level for child in self._children(one)]
            found += level
        return found

    def top_of(self, window: int) -> int:
        """Return the child of the root that shows a window; 0 once it is gone."""
        try:
            while (tree := self.core.QueryTree(window).reply()).parent not in (tree.root, 0):
                window = tree.parent
        except GONE:
            return 0
        return window

    def clients(self) -> dict[str, int]:
        """Return the windows by class, the first of each."""
        found: dict[str, int] = {}
        for window in self.words(self.root, "_NET_CLIENT_LIST"):
            found.setdefault(self.cls(window), window)
        return found

    def order(self, *classes: str) -> list[str]:
        """Return the classes of windows from bottom to top, by the tree. `classes`: these alone."""
        names = {window: cls for cls, window in self.clients().items() if not classes or cls in classes}
        found: list[str] = []
        level = list(self.core.QueryTree(self.root).reply().children)
        for top in level:
            below = [top]
            for _ in range(4):
                found += [names[one] for one in below if one in names]
                below = [child for one in below if one not in names for child in self._children(one)]
        return found

    def _children(self, window: int) -> list[int]:
        try:
            return list(self.core.QueryTree(window).reply().children)
        except GONE:
            return []

    def bars(self) -> list[Frame]:
        """Return where the manager's own bars are: mapped windows at an edge of something that show no client."""
        found = []
        for top in self.core.QueryTree(self.root).reply().children:
            try:
                place, state = self.core.GetGeometry(top).reply(), self.core.GetWindowAttributes(top).reply()
            except GONE:
                continue
            width, height = place.width + 2 * place.border_width, place.height + 2 * place.border_width
            deep, long = sorted((width, height))
            if state.map_state == xp.MapState.Viewable and 5 < deep < 100 and long > 200 and not self._clients_in(top):
                found.append((place.x, place.y, width, height))
        return found

    def _clients_in(self, top: int) -> bool:
        clients, level = set(self.words(self.root, "_NET_CLIENT_LIST")), [top]
        for _ in range(4):
            if clients & set(level):
                return True
            level = [child for one in level for child in self._children(one)]
        return False

    def frame(self, cls: str) -> Frame:
        """Return what is seen of a window: its client area with the manager's frame, without a shadow of its own."""
        return self.frame_of(self.clients()[cls])

    def frame_of(self, window: int) -> Frame:
        """Return the same of a window by its id."""
        size = self.core.GetGeometry(window).reply()
        corner = self.core.TranslateCoordinates(window, self.root, 0, 0).reply()
        nothing = (0, 0, 0, 0)
        if not self.words(window, "_NET_FRAME_EXTENTS"):  # the manager does not tell: what shows it is its frame
            shown = next(one for one in self._children(self.root) if window in self._below(one))
            place = self.core.GetGeometry(shown).reply()
            around = 2 * place.border_width
            left, right, top, bottom = self.words(window, "_GTK_FRAME_EXTENTS")[:4] or nothing
            wide, high = place.width + around - left - right, place.height + around - top - bottom
            return place.x + left, place.y + top, wide, high
        outer, inner = self.words(window, "_NET_FRAME_EXTENTS"), self.words(window, "_GTK_FRAME_EXTENTS")
        left, right, top, bottom = (a - b for a, b in zip(outer[:4] or nothing, inner[:4] or nothing, strict=True))
        return corner.dst_x - left, corner.dst_y - top, size.width + left + right, size.height + top + bottom

    def states(self, cls: str) -> frozenset[str]:
        """Return a window's states, without the words that all have in common."""
        window = self.clients()[cls]
        names = {self.atom(f"_NET_WM_STATE_{name}"): name for name in STATES}
        return frozenset(names[one] for one in self.words(window, "_NET_WM_STATE") if one in names)

    def is_minimised(self, cls: str) -> bool:
        """Return whether a window is iconic, by its state and by the map state of what shows it."""
        return self.words(self.clients()[cls], "WM_STATE")[:1] == (ICONIC,)

    def is_seen(self, cls: str) -> bool:
        """Return whether a window and all that it is in is mapped."""
        return int(self.core.GetWindowAttributes(self.clients()[cls]).reply().map_state) == xp.MapState.Viewable

    def workspace(self, cls: str) -> int | None:
        """Return a window's workspace, from 1; None for all, by its number or its state."""
        found = self.words(self.clients()[cls], "_NET_WM_DESKTOP")
        sticks = "STICKY" in self.states(cls) and self.is_seen(cls)  # one that is left behind means nothing
        return None if not found or found[0] == ALL or sticks else found[0] + 1

    def focus(self) -> str:
        """Return the class of the window that has the input focus, by the server itself (GetInputFocus)."""
        holder = int(self.core.GetInputFocus().reply().focus)
        names = {window: self.cls(window) for window in self.words(self.root, "_NET_CLIENT_LIST")}
        while holder not in names and holder not in (0, 1, self.root):
            holder = int(self.core.QueryTree(holder).reply().parent)
        return names.get(holder, "")

    def marked(self) -> set[str]:
        """Return the windows that ask for attention."""
        return {cls for cls in self.clients() if "DEMANDS_ATTENTION" in self.states(cls)}


STATES: Final = (
    "HIDDEN", "MAXIMIZED_HORZ", "MAXIMIZED_VERT", "FULLSCREEN", "ABOVE", "DEMANDS_ATTENTION", "STICKY",
)  # fmt: skip
