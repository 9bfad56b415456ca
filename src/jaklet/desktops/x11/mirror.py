"""A mirror of the desk, kept by events: what has changed is asked again, all of it in one pipelined round.

A command begins with everything unknown, so that its first look reads the whole desk; the listener's mirror is always
up to date when a key comes. Both are this one way.

A window is looked at only after its events have been asked for, so that no change can fall between the two.
"""

import time as clock
from collections.abc import Callable, Iterable
from fractions import Fraction
from typing import Any, Final

import xcffib.randr as rr
import xcffib.xproto as xp

from jaklet.core.values.abilities import Abilities
from jaklet.core.values.desk import DIALOG, NORMAL, Desk, Display, Shape, Window
from jaklet.core.values.geometry import MAX_SIDE, NO_LIMITS, Insets, Rect, SizeLimits, Strut, work_area
from jaklet.core.values.recency import Recency
from jaklet.desktops import procfs
from jaklet.desktops.x11.pending import Pending
from jaklet.desktops.x11.wire import GONE, Wire, pid_of, text_of, words_of

ALL_WORKSPACES: Final = 0xFFFFFFFF
GEOMETRY: Final = "geometry"
_PROPERTIES: Final = (
    "WM_CLASS", "_NET_WM_NAME", "WM_NAME", "WM_WINDOW_ROLE", "_NET_WM_DESKTOP", "_NET_WM_STATE",
    "_NET_FRAME_EXTENTS", "_GTK_FRAME_EXTENTS", "WM_NORMAL_HINTS", "_NET_WM_WINDOW_TYPE",
    "_NET_WM_STRUT_PARTIAL", "_NET_WM_STRUT", "WM_TRANSIENT_FOR", "_NET_STARTUP_ID", "_JAKLET_APP",
)  # fmt: skip
_ROOT: Final = (
    "_NET_CLIENT_LIST", "_NET_CLIENT_LIST_STACKING", "_NET_ACTIVE_WINDOW", "_NET_CURRENT_DESKTOP",
    "_NET_NUMBER_OF_DESKTOPS", "_NET_WORKAREA", "_JAKLET_GAPS",
)  # fmt: skip
_TEXTS: Final = frozenset({"WM_CLASS", "_NET_WM_NAME", "WM_NAME", "WM_WINDOW_ROLE", "_NET_STARTUP_ID", "_JAKLET_APP"})
_DIALOG: Final = "_NET_WM_WINDOW_TYPE_DIALOG"
_MOVABLE: Final = frozenset({"_NET_WM_WINDOW_TYPE_NORMAL", _DIALOG, "_NET_WM_WINDOW_TYPE_UTILITY"})


class Mirror:
    """All facts of the desk as the server last told them, and which of them are out of date."""

    def __init__(self, wire: Wire, launched: Callable[[str, int], str], abilities: Abilities) -> None:
        """Begin with everything unknown. `launched`: the tie of a launch, by startup id and process.

        `abilities`: what the desk can do, which its pictures tell.
        """
        self._abilities = abilities
        self._wire = wire
        self._launched = launched
        self._facts: dict[int, dict[str, Any]] = {}
        self._windows: dict[int, Window | None] = {}  # None: not a window the user moves
        self._pids: dict[int, int] = {}
        self._processes: dict[int, str] = {}  # their names, read once: a window does not change hands
        self._stale: dict[int, set[str]] = {}
        self._root: dict[str, tuple[int, ...]] = {}
        self._stale_root: set[str] = set(_ROOT)
        self._monitors: tuple[tuple[str, Rect, bool], ...] = ()
        self._stale_monitors = True
        self._recent = Recency()
        self._turns = 0  # how often another window has become active
        self._desk: Desk | None = None
        self._desk_asked: tuple[int | None, tuple[int, ...], dict[int, Rect]] | None = None  # what it goes by
        self.pending = Pending()

    def listen(self) -> None:
        """Ask for the events that keep the mirror true."""
        mask = xp.EventMask.PropertyChange | xp.EventMask.StructureNotify
        self._wire.core.ChangeWindowAttributes(self._wire.root, xp.CW.EventMask, [mask])
        changes = rr.NotifyMask.ScreenChange | rr.NotifyMask.CrtcChange | rr.NotifyMask.OutputChange
        self._wire.randr.SelectInput(self._wire.root, changes)

    # --- events ---

    def take(self, event: Any, answered: int) -> bool:
        """Note what an event makes out of date; True if that is anything.

        `answered`: how many barriers the window manager had answered before it.
        """
        if isinstance(event, xp.PropertyNotifyEvent):
            name = self._wire.names.get(event.atom)
            if name == "_NET_ACTIVE_WINDOW":
                self.pending.told_of_focus(answered)
                self._turns += 1
            return self._property(event.window, name)
        if isinstance(event, xp.ConfigureNotifyEvent):
            if event.window == self._wire.root:
                self._stale_monitors = True
                return True
            if event.window in self._facts:
                self.pending.told_of_frame(event.window, answered)
                self._stale.setdefault(event.window, set()).add(GEOMETRY)
                return True
            return False
        if isinstance(event, rr.ScreenChangeNotifyEvent | rr.NotifyEvent):
            self._stale_monitors = True
            return True
        return False

    def _property(self, window: int, name: str | None) -> bool:
        if window == self._wire.root:
            if name in _ROOT:
                self._stale_root.add(name)
                # RandR tells nothing of monitors made by hand; the window manager's new work area does.
                self._stale_monitors |= name == "_NET_WORKAREA"
                return True
        elif name in _PROPERTIES and window in self._facts:
            self._stale.setdefault(window, set()).add(name)
            return True
        return False

    # --- asking again ---

    def refresh(self) -> None:
        """Ask again for all that is out of date."""
        if not (self._stale or self._stale_root or self._stale_monitors):
            return
        self._desk = None
        if self._stale_root:
            self._refresh_root()
        if self._stale_monitors:
            self._refresh_monitors()
        stale, self._stale = self._stale, {}
        self._refresh_windows(stale)

    def _refresh_root(self) -> None:
        stale, self._stale_root = self._stale_root, set()
        cookies = [(name, self._wire.ask(self._wire.root, name)) for name in sorted(stale)]
        for name, cookie in cookies:
            self._root[name] = words_of(cookie.reply())
        live = self._root.get("_NET_CLIENT_LIST", ())
        for gone in self._facts.keys() - set(live):
            self._forget(gone)
        mask = xp.EventMask.PropertyChange | xp.EventMask.StructureNotify
        for wid in live:
            if wid not in self._facts:
                self._facts[wid] = {}
                self._stale[wid] = {*_PROPERTIES, GEOMETRY}
                self._wire.core.ChangeWindowAttributes(wid, xp.CW.EventMask, [mask])
        active = self._active()
        stacking = self._root.get("_NET_CLIENT_LIST_STACKING", ())
        self._recent.keep(wid for wid in reversed(stacking) if wid in self._facts)
        if active is not None:
            self._used(self.pending.is_active(active))

    def _used(self, passed: list[tuple[int, bool]]) -> None:
        for wid, walking in passed:
            if wid in self._facts:
                self._recent.used(wid, clock.monotonic(), walking)

    def come_to_rest(self) -> None:
        """Take the desk as the server tells it: all that was asked for has been dealt with."""
        passed, active = self.pending.clear(), self._active()
        if passed and active is not None:
            self._used([*passed, *([] if passed[-1][0] == active else [(active, False)])])

    def _forget(self, wid: int) -> None:
        self._facts.pop(wid, None)
        self._windows.pop(wid, None)
        self._pids.pop(wid, None)
        self._processes.pop(wid, None)
        self._stale.pop(wid, None)
        self.pending.forget(wid)

    def _active(self) -> int | None:
        return next(iter(self._root.get("_NET_ACTIVE_WINDOW", ())), 0) or None

    def _refresh_monitors(self) -> None:
        self._stale_monitors = False
        monitors = self._wire.randr.GetMonitors(self._wire.root, True).reply().monitors
        names = [self._wire.core.GetAtomName(monitor.name) for monitor in monitors]
        self._monitors = tuple(
            (name.reply().name.to_string(), Rect(m.x, m.y, m.width, m.height), bool(m.primary))
            for name, m in zip(names, monitors, strict=True)
        )
        if not self._monitors:  # a server without RandR outputs: the whole screen is one display
            size = self._wire.core.GetGeometry(self._wire.root).reply()
            self._monitors = (("screen", Rect(0, 0, size.width, size.height), True),)

    def _refresh_windows(self, stale: dict[int, set[str]]) -> None:
        wire = self._wire
        asked, pids = [], []
        for wid, names in stale.items():
            cookies: list[tuple[str, Any]] = [(name, wire.ask(wid, name)) for name in names if name != GEOMETRY]
            place = None
            if wid not in self._pids:
                pids.append((wid, wire.ask_pid(wid)))
            if GEOMETRY in names:
                place = wire.core.GetGeometry(wid), wire.core.TranslateCoordinates(wid, wire.root, 0, 0)
            asked.append((wid, cookies, place))
        for wid, cookie in pids:
            self._pids[wid] = _pid(cookie)
            self._processes[wid] = procfs.name_of(self._pids[wid])
        for wid, cookies, place in asked:
            facts = self._facts.get(wid, {})
            is_there = _took_properties(cookies, facts) & _took_geometry(place, facts)
            if not is_there or wid not in self._facts:
                self._forget(wid)
                continue
            if wid not in self._windows:
                self._adopt(wid, facts)
            self._windows[wid] = self._window(wid, facts)

    def _adopt(self, wid: int, facts: dict[str, Any]) -> None:
        """Note on a new window, for as long as it lives, which launch of which app it is of."""
        tie = self._launched(facts.get("_NET_STARTUP_ID", "").rstrip("\0"), self._pids.get(wid, 0))
        if tie and self._types(facts) <= _MOVABLE:
            facts["_JAKLET_APP"] = tie
            raw, wire = tie.encode(), self._wire
            wire.core.ChangeProperty(
                xp.PropMode.Replace, wid, wire.atoms["_JAKLET_APP"], wire.atoms["UTF8_STRING"], 8, len(raw), raw
            )

    def pid(self, wid: int) -> int:
        """Return the process that shows a window; 0 where it is not known."""
        return self._pids.get(wid, 0)

    # --- from facts to values ---

    def desk(self) -> Desk:
        """Return the desk as it was last told; the same object while nothing changes."""
        walked = self._recent.settle(clock.monotonic())
        asked = aimed, going, moving = self.pending.aimed, self.pending.going, self.pending.moving
        if self._desk is None or self._desk_asked != asked or walked:
            self._desk_asked = asked
            recent = dict.fromkeys((*reversed(going), *self._recent.order))
            windows = {wid: window for wid in self._root["_NET_CLIENT_LIST"] if (window := self._windows.get(wid))}
            struts = [strut for facts in self._facts.values() for strut in self._struts(facts)]
            self._desk = Desk(
                displays=tuple(
                    Display(name, rect, work_area(rect, struts), main) for name, rect, main in self._monitors
                ),
                windows=tuple(windows.values()),
                stacking=tuple(wid for wid in self._root["_NET_CLIENT_LIST_STACKING"] if wid in windows),
                recent=tuple(wid for wid in recent if wid in windows),
                active=self._active(),
                aimed=aimed,
                workspace=1 + next(iter(self._root["_NET_CURRENT_DESKTOP"]), 0),
                workspaces=max(1, next(iter(self._root["_NET_NUMBER_OF_DESKTOPS"]), 1)),
                gaps=bool(next(iter(self._root["_JAKLET_GAPS"]), 1)),
                moving=moving,
                abilities=self._abilities,
                turns=self._turns,
            )
        return self._desk

    def _names(self, atoms: Iterable[int]) -> set[str]:
        return {self._wire.names.get(atom, "") for atom in atoms}

    def _window(self, wid: int, facts: dict[str, Any]) -> Window | None:
        types = self._types(facts)
        if not types & _MOVABLE:
            return None
        parent = next(iter(facts.get("WM_TRANSIENT_FOR", ())), 0)
        instance, _, cls = facts.get("WM_CLASS", "").rstrip("\0").partition("\0")
        state = self._names(facts.get("_NET_WM_STATE", ()))
        border = _border(facts.get("_NET_FRAME_EXTENTS", ()), facts.get("_GTK_FRAME_EXTENTS", ()))
        workspace = next(iter(facts.get("_NET_WM_DESKTOP", ())), 0)
        return Window(
            id=wid,
            instance=instance,
            cls=_one_text(cls),
            title=_one_text(facts.get("_NET_WM_NAME") or facts.get("WM_NAME") or ""),
            role=_one_text(facts.get("WM_WINDOW_ROLE", "")),
            frame=border.around(Rect(*facts.get("corner", (0, 0)), *facts.get("size", (1, 1)))),
            border=border,
            limits=size_limits(facts.get("WM_NORMAL_HINTS", ())),
            workspace=None if workspace == ALL_WORKSPACES else workspace + 1,
            shape=_shape(state),
            minimised="_NET_WM_STATE_HIDDEN" in state,
            above="_NET_WM_STATE_ABOVE" in state,
            kind=DIALOG if _DIALOG in types else NORMAL,
            parent=parent if parent not in (0, wid, self._wire.root) else None,
            process=self._processes.get(wid, ""),
            launched_for=facts.get("_JAKLET_APP", "").rstrip("\0"),
        )

    def _types(self, facts: dict[str, Any]) -> set[str]:
        """Return a window's types; one that names none is a dialog if it is transient (EWMH _NET_WM_WINDOW_TYPE)."""
        known = self._names(facts.get("_NET_WM_WINDOW_TYPE", ()))
        if known:
            return known
        return {_DIALOG if facts.get("WM_TRANSIENT_FOR") else "_NET_WM_WINDOW_TYPE_NORMAL"}

    def _struts(self, facts: dict[str, Any]) -> Iterable[Strut]:
        """Yield the strips that a window keeps free (EWMH _NET_WM_STRUT_PARTIAL, and the older _NET_WM_STRUT)."""
        partial: tuple[int, ...] = facts.get("_NET_WM_STRUT_PARTIAL") or facts.get("_NET_WM_STRUT") or ()
        if len(partial) < 4:
            return
        width = max(rect.right for _, rect, _ in self._monitors)
        height = max(rect.bottom for _, rect, _ in self._monitors)
        left, right, top, bottom = partial[:4]
        spans = partial[4:12] if len(partial) >= 12 else (0, height - 1, 0, height - 1, 0, width - 1, 0, width - 1)
        if left:
            yield Strut("left", Rect(0, spans[0], left, spans[1] - spans[0] + 1))
        if right:
            yield Strut("right", Rect(width - right, spans[2], right, spans[3] - spans[2] + 1))
        if top:
            yield Strut("top", Rect(spans[4], 0, spans[5] - spans[4] + 1, top))
        if bottom:
            yield Strut("bottom", Rect(spans[6], height - bottom, spans[7] - spans[6] + 1, bottom))


def _one_text(text: str) -> str:
    """Return a text up to its end: what a program has put behind a NUL no file and no other program takes."""
    return text.partition("\0")[0]


def _took_properties(cookies: list[tuple[str, Any]], facts: dict[str, Any]) -> bool:
    """Read all replies into what is known of a window, as each has to be read; False if it has gone."""
    is_there = True
    for name, cookie in cookies:
        try:
            reply = cookie.reply()
        except GONE:
            is_there = False
            continue
        facts[name] = text_of(reply) if name in _TEXTS else words_of(reply)
    return is_there


def _took_geometry(place: Any, facts: dict[str, Any]) -> bool:
    """Read where a window is, and its size; False if it has gone."""
    is_there = True
    for reply in _replies(place):
        if reply is None:
            is_there = False
        elif isinstance(reply, xp.GetGeometryReply):
            facts["size"] = (reply.width, reply.height)
        else:
            facts["corner"] = (reply.dst_x, reply.dst_y)
    return is_there


def _replies(cookies: tuple[Any, ...] | None) -> Iterable[Any]:
    """Yield each reply, or None for one about a window that has gone."""
    for cookie in cookies or ():
        try:
            yield cookie.reply()
        except GONE:
            yield None


def _pid(cookie: Any) -> int:
    try:
        return pid_of(cookie.reply())
    except GONE:
        return 0


def _shape(state: set[str]) -> Shape:
    if "_NET_WM_STATE_FULLSCREEN" in state:
        return Shape.FULLSCREEN
    both = {"_NET_WM_STATE_MAXIMIZED_HORZ", "_NET_WM_STATE_MAXIMIZED_VERT"}
    return Shape.MAXIMISED if both <= state else Shape.TILED if both & state else Shape.NORMAL


def _border(frame: tuple[int, ...], shadow: tuple[int, ...]) -> Insets:
    """Return what is seen around the client area: the manager's frame, less the client's own shadow."""
    outer = frame[:4] if len(frame) >= 4 else (0, 0, 0, 0)
    inner = shadow[:4] if len(shadow) >= 4 else (0, 0, 0, 0)
    return Insets(*(a - b for a, b in zip(outer, inner, strict=True)))


_MIN, _MAX, _STEP, _ASPECT, _BASE = 1 << 4, 1 << 5, 1 << 6, 1 << 7, 1 << 8  # ICCCM 4.1.2.3, table 4-1


def size_limits(hints: tuple[int, ...]) -> SizeLimits:
    """Return WM_NORMAL_HINTS as limits. A minimum stands in for a missing base size, and the other way about."""
    if len(hints) < 15:
        return NO_LIMITS
    flags = hints[0]
    if not flags & (_MIN | _MAX | _STEP | _ASPECT | _BASE):
        return NO_LIMITS

    def pair(at: int, flag: int, default: tuple[int, int]) -> tuple[int, int]:
        """Return two values, or the default for each that is not given or is no possible size."""
        if not flags & flag or len(hints) < at + 2:
            return default
        first, second = hints[at], hints[at + 1]
        return first if 0 < first <= MAX_SIDE else default[0], second if 0 < second <= MAX_SIDE else default[1]

    base = pair(15, _BASE, (0, 0))
    least = pair(5, _MIN, base)
    most = pair(7, _MAX, (MAX_SIDE, MAX_SIDE))
    step = pair(9, _STEP, (1, 1))
    low = high = None
    if flags & _ASPECT and hints[12] and hints[14]:
        low = Fraction(hints[11], hints[12]) or None
        high = Fraction(hints[13], hints[14]) or None
        if low and high and low > high:
            low = high = None  # no window could be both; what contradicts itself is not obeyed
    start = base if flags & _BASE else least if flags & _MIN else (0, 0)
    return SizeLimits(max(1, least[0]), max(1, least[1]), *most, *start, *step, low, high)
