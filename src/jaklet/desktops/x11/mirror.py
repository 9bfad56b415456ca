"""A mirror of the desk, kept by events: what has changed is asked again, all of it in one pipelined round.

A command begins with everything unknown, so that its first look reads the whole desk; the listener's mirror is always
up to date when a key comes. Both are this one way.

A window is looked at only after its events have been asked for, so that no change can fall between the two.
"""

import time as clock
from collections.abc import Callable, Iterable, Mapping
from typing import Any, Final

import xcffib.randr as rr
import xcffib.xproto as xp

from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.desk_abilities import Abilities
from jaklet.core.values.geometry import Insets, Rect, Strut, edge_struts, work_area
from jaklet.core.values.recency import Recency
from jaklet.desktops import procfs
from jaklet.desktops.window_hints import frame_around, gravity_of, insets_of
from jaklet.desktops.x11.facts import EXTENTS, HIDDEN, MEASURED, FactReader, extents, took_geometry, took_properties
from jaklet.desktops.x11.fixed_requests import GONE
from jaklet.desktops.x11.pending import AT_REST, PendingRequests
from jaklet.desktops.x11.tree import Tree
from jaklet.desktops.x11.unlisted import UnlistedWindows
from jaklet.desktops.x11.wire import Wire, pid_of, words_of
from jaklet.desktops.x11.workareas import on_displays, struts_of, unexplained_strips, whole_of

GEOMETRY: Final = "geometry"
TOP: Final = "top"  # the child of the root that shows a window: its manager's frame, or the window itself
_PROPERTIES: Final = (
    "WM_CLASS", "_NET_WM_NAME", "WM_NAME", "WM_WINDOW_ROLE", "_NET_WM_DESKTOP", "_NET_WM_STATE",
    "_NET_FRAME_EXTENTS", "_GTK_FRAME_EXTENTS", "WM_NORMAL_HINTS", "_NET_WM_WINDOW_TYPE",
    "_NET_WM_STRUT_PARTIAL", "_NET_WM_STRUT", "WM_TRANSIENT_FOR", "_NET_STARTUP_ID", "_JAKLET_APP", "WM_STATE",
    "WM_HINTS", "WM_PROTOCOLS",
)  # fmt: skip
_ROOT: Final = (
    "_NET_CLIENT_LIST", "_NET_CLIENT_LIST_STACKING", "_NET_ACTIVE_WINDOW", "_NET_CURRENT_DESKTOP",
    "_NET_NUMBER_OF_DESKTOPS", "_NET_WORKAREA", "_JAKLET_GAPS",
)  # fmt: skip
_MANAGER: Final = frozenset({"_NET_SUPPORTING_WM_CHECK", "_NET_SUPPORTED"})
TAKING_OVER: Final = 1.0  # seconds in which a new manager looks through the windows
_ASKED_ANEW: Final = frozenset({*_PROPERTIES, GEOMETRY, TOP})


class Mirror:
    """All facts of the desk as the server last told them, and which of them are out of date."""

    def __init__(self, wire: Wire, launched: Callable[[str, int], str]) -> None:
        """Begin with everything unknown. `launched`: the tie of a launch, by startup id and process."""
        self._abilities: Abilities = frozenset()
        self._manager, self._quiet_until = 0, 0.0
        self._reader = FactReader(wire)
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
        self._tree = Tree(wire)
        self._order: tuple[int, ...] = ()  # the windows from bottom to top
        self._bars: list[Strut] = []
        self._kept: Mapping[str, Insets] = {}
        self._stale_bars = True
        self.has_new_manager = False  # since `managed` was told
        self._unlisted = UnlistedWindows(wire)
        self._recent = Recency()
        self._turns = 0  # how often another window has become active
        self._desk: Desk | None = None
        self._desk_flight = AT_REST  # what was on its way when it was made
        self._displays: tuple[Display, ...] = ()
        self._displays_from: tuple[object, ...] = ()  # what they were made from
        self.pending = PendingRequests()

    def managed(self, manager: int, abilities: Abilities, says_hidden: bool) -> None:
        """Take in what the window manager is like. `manager`: a window of its own (EWMH _NET_SUPPORTING_WM_CHECK).

        `abilities`: what the desk can do, which its pictures tell. `says_hidden`: it marks what is minimised.
        """
        if self._manager:  # one that takes over can make each window active in turn, which is nobody's use of them
            self._quiet_until = clock.monotonic() + TAKING_OVER
        self._manager, self._abilities, self._reader.says_hidden = manager, abilities, says_hidden
        self.has_new_manager, self._desk = False, None
        self._stale_bars = True

    def keep_free(self, edges: Mapping[str, Insets]) -> None:
        """Count these edges of displays as no part of their work areas."""
        self._kept, self._desk = edges, None

    def listen(self) -> None:
        """Ask for the events that keep the mirror true."""
        mask = xp.EventMask.PropertyChange | xp.EventMask.StructureNotify | xp.EventMask.SubstructureNotify
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
            return self._configured(event, answered)
        if isinstance(event, xp.ReparentNotifyEvent):
            return self._reparented(event.window)
        if isinstance(event, xp.MapNotifyEvent | xp.UnmapNotifyEvent | xp.DestroyNotifyEvent):
            return self._came_or_went(event.window)
        if isinstance(event, rr.ScreenChangeNotifyEvent | rr.NotifyEvent):
            self._stale_monitors = True
            return True
        return False

    def _configured(self, event: Any, answered: int) -> bool:
        if event.window == self._wire.root:
            self._stale_monitors = True
            return True
        restacked = self._tree.take(event)
        if event.window in self._facts:
            self.pending.told_of_frame(event.window, answered)
            self._stale.setdefault(event.window, set()).add(GEOMETRY)
            return True
        # Some managers move a frame and do not tell the window in it, against ICCCM 4.1.5: the frame itself tells.
        inside = [wid for wid, facts in self._facts.items() if facts.get(TOP) == event.window]
        if inside and self._tree.moved(event):
            for wid in inside:
                self._stale.setdefault(wid, set()).add(GEOMETRY)
            return True
        return restacked

    def _came_or_went(self, window: int) -> bool:
        if window in self._unlisted.since:
            self._stale_root.add("_NET_CLIENT_LIST")
        elif self._wire.atoms[HIDDEN] in self._facts.get(window, {}).get("_NET_WM_STATE", ()):
            self._stale.setdefault(window, set()).add("_NET_WM_STATE")  # whether it is in view goes by both
        else:
            return False
        return True

    def _reparented(self, window: int) -> bool:
        if window not in self._facts:
            return False
        self._stale.setdefault(window, set()).add(TOP)
        self._tree.is_stale = True
        return True

    def _property(self, window: int, name: str | None) -> bool:
        if window == self._wire.root:
            if name in _MANAGER:
                self.has_new_manager = True
                return True
            if name in _ROOT:
                self._stale_root.add(name)
                # RandR tells nothing of monitors made by hand; the window manager's new work area does.
                self._stale_monitors |= name == "_NET_WORKAREA"
                self._stale_bars |= name == "_NET_WORKAREA"
                self._tree.is_stale |= name == "_NET_CLIENT_LIST_STACKING"
                return True
        elif name in _PROPERTIES and window in self._facts:
            if name == "WM_STATE" and window in self._unlisted.since:
                self._stale_root.add("_NET_CLIENT_LIST")
            self._stale.setdefault(window, set()).add(name)
            return True
        return False

    # --- asking again ---

    def refresh(self) -> None:
        """Ask again for all that is out of date."""
        if not (self._stale or self._stale_root or self._stale_monitors or self._tree.is_stale):
            return
        self._desk = None
        is_root_stale = bool(self._stale_root)
        if self._stale_root:
            self._refresh_root()
        if self._stale_monitors:
            self._refresh_monitors()
        stale, self._stale = self._stale, {}
        self._refresh_windows(stale)
        self._tree.refresh()
        self._order = self._stacking()
        if self._stale_bars:
            self._refresh_bars()
        if is_root_stale:
            self._note_use()

    def _refresh_root(self) -> None:
        stale, self._stale_root = self._stale_root, set()
        cookies = [(name, self._wire.ask(self._wire.root, name)) for name in sorted(stale)]
        for name, cookie in cookies:
            self._root[name] = words_of(cookie.reply())
        self._reader.shown = next(iter(self._root["_NET_CURRENT_DESKTOP"]), 0)
        live = self._root.get("_NET_CLIENT_LIST", ())
        missing = self._facts.keys() - set(live)
        for gone in missing - self._unlisted.waited_for(missing):
            self._forget(gone)
        mask = xp.EventMask.PropertyChange | xp.EventMask.StructureNotify
        for wid in live:
            if wid not in self._facts:
                self._facts[wid] = {}
                self._stale[wid] = set(_ASKED_ANEW)
                self._tree.is_stale = True
                self._wire.core.ChangeWindowAttributes(wid, xp.CW.EventMask, [mask])

    @property
    def due(self) -> float:
        """When to look again at windows that no manager lists; infinity for never."""
        return self._unlisted.due

    def look_again(self) -> None:
        """Ask again whether windows are listed."""
        self._stale_root.add("_NET_CLIENT_LIST")

    def _note_use(self) -> None:
        """Note which window was used last; those that nobody has used yet, in the order in which they stand."""
        self._recent.keep(wid for wid in reversed(self._order) if wid in self._facts)
        active = self._active()
        is_quiet = self.has_new_manager or clock.monotonic() < self._quiet_until
        if active is not None and not self._unlisted.since and not is_quiet:
            self._used(self.pending.is_active(active))

    def _stacking(self) -> tuple[int, ...]:
        """Return the windows from bottom to top: by the tree, and where that does not tell, as the manager has it."""
        known = [wid for wid in self._facts if self._windows.get(wid)]
        ordered = self._tree.ordered({wid: self._facts[wid].get(TOP, 0) for wid in known})
        told = self._root.get("_NET_CLIENT_LIST_STACKING", ())
        return tuple(dict.fromkeys((*told, *known))) if ordered is None else ordered

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
        self._stale_monitors, self._stale_bars = False, True
        monitors = self._wire.randr.GetMonitors(self._wire.root, True).reply().monitors
        names = [self._wire.core.GetAtomName(monitor.name) for monitor in monitors]
        self._monitors = tuple(
            (name.reply().name.to_string(), Rect(m.x, m.y, m.width, m.height), bool(m.primary))
            for name, m in zip(names, monitors, strict=True)
        )
        if not self._monitors:  # a server without RandR outputs: the whole screen is one display
            _, _, width, height, _ = self._wire.geometry(self._wire.root).reply()
            self._monitors = (("screen", Rect(0, 0, width, height), True),)

    def _refresh_windows(self, stale: dict[int, set[str]]) -> None:
        wire = self._wire
        asked, pids = [], []
        for wid, names in stale.items():
            cookies: list[tuple[str, Any]] = [(name, wire.ask(wid, name)) for name in names if name in _PROPERTIES]
            place = None
            if wid not in self._pids:
                pids.append((wid, wire.ask_pid(wid)))
            if GEOMETRY in names:
                place = wire.geometry(wid), wire.coordinates(wid)
            asked.append((wid, cookies, place))
        for wid, cookie in pids:
            self._pids[wid] = _pid(cookie)
            self._processes[wid] = procfs.name_of(self._pids[wid])
        for wid, cookies, place in asked:
            facts = self._facts.get(wid, {})
            is_there = took_properties(cookies, facts) & took_geometry(place, facts)
            if not is_there or wid not in self._facts:
                self._forget(wid)
                continue
            if wid not in self._windows:
                self._adopt(wid, facts)
        there = {wid: names for wid, names in stale.items() if wid in self._facts}
        for wid, top in self._tree.tops(wid for wid, names in there.items() if TOP in names).items():
            self._facts[wid][TOP] = top
        self._measure(wid for wid, names in there.items() if names & {TOP, GEOMETRY})
        for wid in there:
            self._windows[wid] = self._reader.window(wid, self._facts[wid], self._processes.get(wid, ""))

    def _measure(self, windows: Iterable[int]) -> None:
        """Find out how wide frames are of which the manager tells nothing: by what shows each window."""
        if any(facts.get(EXTENTS) for facts in self._facts.values()):
            return  # it tells, and of a window that is new it will
        for wid in windows:
            facts = self._facts[wid]
            facts.pop(MEASURED, None)
            place = self._tree.place_of(facts[TOP]) if facts.get(TOP, wid) != wid else None
            if place and "corner" in facts and "size" in facts:
                facts[MEASURED] = tuple(frame_around(place, Rect(*facts["corner"], *facts["size"])))

    def _adopt(self, wid: int, facts: dict[str, Any]) -> None:
        """Note on a new window, for as long as it lives, which launch of which app it is of."""
        tie = self._launched(facts.get("_NET_STARTUP_ID", "").rstrip("\0"), self._pids.get(wid, 0))
        if tie and self._reader.is_movable(facts):
            facts["_JAKLET_APP"] = tie
            raw, wire = tie.encode(), self._wire
            wire.core.ChangeProperty(
                xp.PropMode.Replace, wid, wire.atoms["_JAKLET_APP"], wire.atoms["UTF8_STRING"], 8, len(raw), raw
            )

    def edges(self, wid: int) -> Insets:
        """Return how wide the frame is that the manager has put around a window, seen or not."""
        return insets_of(extents(self._facts.get(wid, {})))

    def gravity(self, wid: int) -> int:
        """Return the gravity that a window asks for (ICCCM 4.1.2.3); north west where it asks for none."""
        return gravity_of(self._facts.get(wid, {}).get("WM_NORMAL_HINTS", ()))

    def marked(self) -> set[int]:
        """Return the windows that ask for attention."""
        mark = self._wire.atoms["_NET_WM_STATE_DEMANDS_ATTENTION"]
        return {wid for wid, facts in self._facts.items() if mark in facts.get("_NET_WM_STATE", ())}

    def pid(self, wid: int) -> int:
        """Return the process that shows a window; 0 where it is not known."""
        return self._pids.get(wid, 0)

    # --- from facts to values ---

    def desk(self) -> Desk:
        """Return the desk as it was last told; the same object while nothing changes."""
        walked = self._recent.step is not None and self._recent.settle(clock.monotonic())
        flight = self.pending.in_flight if self.pending.is_other else self._desk_flight
        if self._desk is None or walked or flight is not self._desk_flight:
            self._desk_flight = flight
            recent = dict.fromkeys((*reversed(flight.going), *self._recent.order))
            windows = {wid: window for wid in self._facts if (window := self._windows.get(wid))}
            self._desk = Desk(
                displays=self._shown_displays(),
                windows=tuple(windows.values()),
                stacking=tuple([wid for wid in self._order if wid in windows]),
                recent=tuple([wid for wid in recent if wid in windows]),
                active=self._active(),
                aimed=flight.aimed,
                workspace=1 + self._reader.shown,
                workspaces=max(1, next(iter(self._root["_NET_NUMBER_OF_DESKTOPS"]), 1)),
                gaps=bool(next(iter(self._root["_JAKLET_GAPS"]), 1)),
                moving=flight.moving,
                abilities=self._abilities,
                turns=self._turns,
            )
        return self._desk

    def _shown_displays(self) -> tuple[Display, ...]:
        """Return the displays with their work areas; the same object as long as nothing that they go by changes."""
        made_from = self._monitors, self._told_struts(), tuple(self._bars), self._kept
        if made_from != self._displays_from:
            self._displays_from = made_from
            wished = ((rect, self._kept.get(name, Insets())) for name, rect, _ in self._monitors)
            kept = [strut for rect, edges in wished for strut in edge_struts(rect, edges)]
            struts = [*self._struts(), *self._bars, *kept]
            self._displays = tuple(
                Display(name, rect, work_area(rect, struts), main) for name, rect, main in self._monitors
            )
        return self._displays

    def _told_struts(self) -> tuple[tuple[int, ...], ...]:
        """Return the strips that windows keep free, as their properties tell of them."""
        told = [facts.get("_NET_WM_STRUT_PARTIAL") or facts.get("_NET_WM_STRUT") for facts in self._facts.values()]
        return tuple([words for words in told if words])

    def _struts(self) -> list[Strut]:
        """Return the strips that windows keep free (EWMH _NET_WM_STRUT_PARTIAL, and the older _NET_WM_STRUT)."""
        whole = whole_of(rect for _, rect, _ in self._monitors)
        return [strut for words in self._told_struts() for strut in struts_of(words, whole)]

    def _refresh_bars(self) -> None:
        """Find the bars that the manager keeps free for itself, and of which no strut tells."""
        self._stale_bars = False
        displays = [rect for _, rect, _ in self._monitors]
        whole, area = whole_of(displays), self._root.get("_NET_WORKAREA", ())[:4]
        tops = {facts.get(TOP, 0) for facts in self._facts.values()}
        strips = unexplained_strips(Rect(*area), whole, self._struts()) if len(area) == 4 else []
        self._bars = on_displays(strips, displays, self._tree.shown_by(self._manager, tops))


def _pid(cookie: Any) -> int:
    try:
        return pid_of(cookie.reply())
    except GONE:
        return 0
