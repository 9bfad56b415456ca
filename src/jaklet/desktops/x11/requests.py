"""From changes to requests: one row per kind of change. Nothing here waits."""

from collections.abc import Callable, Mapping
from typing import Any, Final, NamedTuple

import xcffib.xproto as xp

from jaklet.core.values.changes import (
    Change,
    Close,
    Focus,
    Gaps,
    Kill,
    Minimise,
    Move,
    Provide,
    Raise,
    Reshape,
    Reveal,
    Send,
    ShowWorkspace,
    Stack,
)
from jaklet.core.values.desk import Desk, WindowShape
from jaklet.core.values.stacking import to_raise
from jaklet.desktops.window_hints import STATIC
from jaklet.desktops.x11.facts import ALL_WORKSPACES
from jaklet.desktops.x11.wire import Wire

PAGER: Final = 2  # EWMH source indication: a program through which the user acts, which window managers obey
REMOVE, ADD = 0, 1  # _NET_WM_STATE
ICONIC: Final = 3  # ICCCM 4.1.4
# Flags of _NET_MOVERESIZE_WINDOW, beside the gravity: x, y, width and height are given, then the source.
_MOVERESIZE: Final = 0xF << 8 | PAGER << 12


def move_by_message(wid: int, client: tuple[int, int, int, int], gravity: int, wire: Wire) -> None:
    """Ask for a frame (EWMH _NET_MOVERESIZE_WINDOW). `client`: x, y as the gravity says, and the client area's size."""
    wire.tell_manager(wid, "_NET_MOVERESIZE_WINDOW", (gravity | _MOVERESIZE, *client))


def ask_for(change: Change, wire: Wire, desk: Desk, time: int) -> None:
    """Send the requests for a change. `time`: server time of what the user did."""
    REQUESTS[type(change)](change, X11Request(wire, desk, time))


class X11Request(NamedTuple):
    """What requests are sent with. `time`: the server's, of what the user did."""

    wire: Wire
    desk: Desk
    time: int

    def tell(self, wid: int, message: str, *words: int) -> None:
        """Tell the window manager something about a window."""
        self.wire.tell_manager(wid, message, words)


def _move(change: Move, by: X11Request) -> None:
    window = by.desk.by_id.get(change.window)
    if window:
        move_by_message(change.window, window.border.inside(change.frame), STATIC, by.wire)


def _switch_gaps(change: Gaps, by: X11Request) -> None:
    wire, kind = by.wire, xp.Atom.CARDINAL
    wire.core.ChangeProperty(xp.PropMode.Replace, wire.root, wire.atoms["_JAKLET_GAPS"], kind, 32, 1, [change.on])


def calm(wid: int, wire: Wire) -> None:
    """Let a window ask for attention no longer."""
    wire.tell_manager(wid, "_NET_WM_STATE", (REMOVE, wire.atoms["_NET_WM_STATE_DEMANDS_ATTENTION"], 0, PAGER))


def _send(change: Send, by: X11Request) -> None:
    number = ALL_WORKSPACES if change.workspace is None else change.workspace - 1
    by.tell(change.window, "_NET_WM_DESKTOP", number, PAGER)


def _keep_above(change: Raise, by: X11Request) -> None:
    state = by.wire.atoms["_NET_WM_STATE_ABOVE"]
    by.tell(change.window, "_NET_WM_STATE", ADD if change.above else REMOVE, state, 0, PAGER)


def _reshape(change: Reshape, by: X11Request) -> None:
    wid, shape, atoms = change.window, change.shape, by.wire.atoms
    full = atoms["_NET_WM_STATE_FULLSCREEN"]
    across, down = atoms["_NET_WM_STATE_MAXIMIZED_HORZ"], atoms["_NET_WM_STATE_MAXIMIZED_VERT"]
    if shape is WindowShape.FULLSCREEN:
        by.tell(wid, "_NET_WM_STATE", ADD, full, 0, PAGER)
        return
    by.tell(wid, "_NET_WM_STATE", REMOVE, full, 0, PAGER)
    by.tell(wid, "_NET_WM_STATE", ADD if shape is WindowShape.MAXIMISED else REMOVE, across, down, PAGER)


def windows_to_raise(windows: tuple[int, ...], desk: Desk) -> list[int]:
    """Return which windows to raise, in turn, so that these stand on top: as few as it takes, as managers can be slow.

    Windows kept above are in a layer apart.
    """
    return to_raise([wid for wid in desk.stacking if not desk.by_id[wid].above or wid in windows], windows)


def _stack(change: Stack, by: X11Request) -> None:
    for wid in windows_to_raise(change.windows, by.desk):
        by.tell(wid, "_NET_RESTACK_WINDOW", PAGER, 0, xp.StackMode.Above)


# The requests for each kind of change, but for those that the desk itself makes: it runs programs and presses keys.
REQUESTS: Final[Mapping[type[Change], Callable[[Any, X11Request], None]]] = {
    Move: _move,
    Reshape: _reshape,
    Minimise: lambda change, by: by.tell(change.window, "WM_CHANGE_STATE", ICONIC),
    Reveal: lambda change, by: by.wire.core.MapWindow(change.window),  # ICCCM 4.1.4: from iconic to normal
    Focus: lambda change, by: by.tell(change.window, "_NET_ACTIVE_WINDOW", PAGER, by.time, by.desk.active or 0),
    Close: lambda change, by: by.tell(change.window, "_NET_CLOSE_WINDOW", by.time, PAGER),
    Kill: lambda change, by: by.wire.core.KillClient(change.window),
    Send: _send,
    Raise: _keep_above,
    ShowWorkspace: lambda change, by: by.tell(by.wire.root, "_NET_CURRENT_DESKTOP", change.workspace - 1, by.time),
    Stack: _stack,
    Provide: lambda change, by: by.tell(by.wire.root, "_NET_NUMBER_OF_DESKTOPS", change.workspaces),
    Gaps: _switch_gaps,
}
