"""What the server tells of a window: facts by the name of each property, and the `Window` that they amount to."""

from collections.abc import Iterable
from typing import Any, Final

import xcffib.xproto as xp

from jaklet.core.values.desk import DIALOG, NORMAL, Window
from jaklet.core.values.geometry import Insets, Rect
from jaklet.desktops.window_hints import border_of, shape_of, size_limits, takes_focus
from jaklet.desktops.x11.fixed_requests import GONE, CoordinatesCookie, GeometryCookie
from jaklet.desktops.x11.unlisted import ICONIC
from jaklet.desktops.x11.wire import Wire, replies, text_of, words_of

Facts = dict[str, Any]
ALL_WORKSPACES: Final = 0xFFFFFFFF
EXTENTS: Final = "_NET_FRAME_EXTENTS"
MEASURED: Final = "measured"  # how wide its frame is, where nothing but the server tells
_TEXTS: Final = frozenset({"WM_CLASS", "_NET_WM_NAME", "WM_NAME", "WM_WINDOW_ROLE", "_NET_STARTUP_ID", "_JAKLET_APP"})
HIDDEN: Final = "_NET_WM_STATE_HIDDEN"
NORMAL_STATE: Final = 1  # of WM_STATE (ICCCM 4.1.3.1)
_STICKY: Final = "_NET_WM_STATE_STICKY"
_DIALOG: Final = "_NET_WM_WINDOW_TYPE_DIALOG"
_MOVABLE: Final = frozenset({"_NET_WM_WINDOW_TYPE_NORMAL", _DIALOG, "_NET_WM_WINDOW_TYPE_UTILITY"})


class FactReader:
    """Makes windows of facts. `says_hidden`: the manager marks what is minimised; `shown`: the workspace, from 0."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self.says_hidden = True
        self.shown = 0

    def _names(self, atoms: Iterable[int]) -> set[str]:
        return {self._wire.names.get(atom, "") for atom in atoms}

    def window(self, wid: int, facts: Facts, process: str) -> Window | None:
        """Return the window that facts are of; None if it is not one that the user moves. `process`: its name."""
        types = self._types(facts)
        if not types & _MOVABLE:
            return None
        parent = next(iter(facts.get("WM_TRANSIENT_FOR", ())), 0)
        instance, _, cls = facts.get("WM_CLASS", "").rstrip("\0").partition("\0")
        state = self._names(facts.get("_NET_WM_STATE", ()))
        border = border_of(extents(facts), facts.get("_GTK_FRAME_EXTENTS", ()))
        workspace = next(iter(facts.get("_NET_WM_DESKTOP", ())), 0)
        here = workspace in (ALL_WORKSPACES, self.shown)
        return Window(
            id=wid,
            instance=instance,
            cls=_one_text(cls),
            title=_one_text(facts.get("_NET_WM_NAME") or facts.get("WM_NAME") or ""),
            role=_one_text(facts.get("WM_WINDOW_ROLE", "")),
            frame=border.around(Rect(*facts.get("corner", (0, 0)), *facts.get("size", (1, 1)))),
            border=border,
            limits=size_limits(facts.get("WM_NORMAL_HINTS", ())),
            workspace=None if self._is_everywhere(wid, workspace, state) else workspace + 1,
            shape=shape_of(state),
            minimised=self._is_minimised(wid, here, state, facts.get("WM_STATE", ())[:1]),
            above="_NET_WM_STATE_ABOVE" in state,
            kind=DIALOG if _DIALOG in types else NORMAL,
            parent=parent if parent not in (0, wid, self._wire.root) else None,
            process=process,
            launched_for=facts.get("_JAKLET_APP", "").rstrip("\0"),
            takes_focus=takes_focus(
                facts.get("WM_HINTS", ()), self._wire.atoms["WM_TAKE_FOCUS"] in facts.get("WM_PROTOCOLS", ())
            ),
        )

    def _is_minimised(self, wid: int, here: bool, state: set[str], wm_state: tuple[int, ...]) -> bool:
        """Return whether a window is minimised. `here`: it is on the workspace that is shown.

        A manager that marks what is minimised (EWMH _NET_WM_STATE_HIDDEN) can leave the mark behind: one that is normal
        (ICCCM 4.1.3.1) and viewable is in view. One that marks nothing makes it iconic, as it may make windows of other
        workspaces.
        """
        if HIDDEN not in state:
            return here and wm_state == (ICONIC,) and not self.says_hidden
        return not (here and wm_state == (NORMAL_STATE,) and self._is_viewable(wid))

    def _is_viewable(self, wid: int) -> bool:
        attributes = next(iter(replies((self._wire.core.GetWindowAttributes(wid),))))
        return attributes is not None and attributes.map_state == xp.MapState.Viewable

    def _is_everywhere(self, wid: int, workspace: int, state: set[str]) -> bool:
        """Return whether a window is on all workspaces.

        Some managers say so by its state alone, and keep a number beside it; others leave the state behind when they
        send the window to one, where it is not seen.
        """
        if workspace == ALL_WORKSPACES or _STICKY not in state:
            return workspace == ALL_WORKSPACES
        if workspace == self.shown:
            return True
        return self._is_viewable(wid)

    def is_movable(self, facts: Facts) -> bool:
        """Return whether facts are of a window that the user moves, and of nothing besides."""
        return self._types(facts) <= _MOVABLE

    def _types(self, facts: Facts) -> set[str]:
        """Return a window's types; one that names none is a dialog if it is transient (EWMH _NET_WM_WINDOW_TYPE)."""
        known = self._names(facts.get("_NET_WM_WINDOW_TYPE", ()))
        if known:
            return known
        return {_DIALOG if facts.get("WM_TRANSIENT_FOR") else "_NET_WM_WINDOW_TYPE_NORMAL"}


def extents(facts: Facts) -> tuple[int, ...]:
    """Return how wide a window's frame is: left, right, top, bottom; empty where it has none."""
    told: tuple[int, ...] = facts.get(EXTENTS, ())
    return told if len(told) >= len(Insets._fields) else facts.get(MEASURED, ())


def _one_text(text: str) -> str:
    """Return a text up to its end: what a program has put behind a NUL no file and no other program takes."""
    return text.partition("\0")[0]


def took_properties(cookies: list[tuple[str, Any]], facts: Facts) -> bool:
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


def took_geometry(asked: tuple[GeometryCookie, CoordinatesCookie] | None, facts: Facts) -> bool:
    """Read where a window is, and its size; False if it has gone."""
    place, corner = replies(asked) if asked else ((), ())
    if place:
        facts["size"] = place[2:4]
    if corner:
        facts["corner"] = corner
    return place is not None and corner is not None
