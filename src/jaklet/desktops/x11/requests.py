"""From changes to requests: one case per kind of change. Nothing here waits."""

from typing import Final, assert_never

import xcffib.xproto as xp

from jaklet.core.values.changes import (
    Change,
    Close,
    Focus,
    Gaps,
    Kill,
    Launch,
    Minimise,
    Move,
    Press,
    Provide,
    Raise,
    Reshape,
    Reveal,
    Send,
    Shell,
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
    match change:
        case ShowWorkspace() | Provide() | Gaps():
            _ask_for_desk(change, wire, time)
        case Move(wid, frame):
            window = desk.by_id.get(wid)
            if window:
                move_by_message(wid, window.border.inside(frame), STATIC, wire)
        case Focus(wid, _):
            wire.tell_manager(wid, "_NET_ACTIVE_WINDOW", (PAGER, time, desk.active or 0))
        case Reshape(wid, shape):
            _reshape(wid, shape, wire)
        case Minimise(wid):
            wire.tell_manager(wid, "WM_CHANGE_STATE", (ICONIC,))
        case Reveal(wid):
            wire.core.MapWindow(wid)  # ICCCM 4.1.4: from iconic to normal is by mapping
        case Close(wid):
            wire.tell_manager(wid, "_NET_CLOSE_WINDOW", (time, PAGER))
        case Kill(wid):
            wire.core.KillClient(wid)
        case Send(wid, workspace):
            _send(wid, workspace, wire)
        case Raise(wid, above):
            _keep_above(wid, above, wire)
        case Stack(windows):
            _stack(windows, wire, desk)
        case Launch() | Press() | Shell():
            raise AssertionError("the desk itself runs programs and presses keys")
        case _:
            assert_never(change)


def _ask_for_desk(change: ShowWorkspace | Provide | Gaps, wire: Wire, time: int) -> None:
    """Send the requests for a change that is not of one window."""
    match change:
        case ShowWorkspace(workspace):
            wire.tell_manager(wire.root, "_NET_CURRENT_DESKTOP", (workspace - 1, time))
        case Provide(workspaces):
            wire.tell_manager(wire.root, "_NET_NUMBER_OF_DESKTOPS", (workspaces,))
        case Gaps(on):
            kind = xp.Atom.CARDINAL
            wire.core.ChangeProperty(xp.PropMode.Replace, wire.root, wire.atoms["_JAKLET_GAPS"], kind, 32, 1, [on])


def calm(wid: int, wire: Wire) -> None:
    """Let a window ask for attention no longer."""
    wire.tell_manager(wid, "_NET_WM_STATE", (REMOVE, wire.atoms["_NET_WM_STATE_DEMANDS_ATTENTION"], 0, PAGER))


def _send(wid: int, workspace: int | None, wire: Wire) -> None:
    number = ALL_WORKSPACES if workspace is None else workspace - 1
    wire.tell_manager(wid, "_NET_WM_DESKTOP", (number, PAGER))


def _keep_above(wid: int, above: bool, wire: Wire) -> None:
    state = wire.atoms["_NET_WM_STATE_ABOVE"]
    wire.tell_manager(wid, "_NET_WM_STATE", (ADD if above else REMOVE, state, 0, PAGER))


def _reshape(wid: int, shape: WindowShape, wire: Wire) -> None:
    full = wire.atoms["_NET_WM_STATE_FULLSCREEN"]
    across, down = wire.atoms["_NET_WM_STATE_MAXIMIZED_HORZ"], wire.atoms["_NET_WM_STATE_MAXIMIZED_VERT"]
    if shape is WindowShape.FULLSCREEN:
        wire.tell_manager(wid, "_NET_WM_STATE", (ADD, full, 0, PAGER))
        return
    wire.tell_manager(wid, "_NET_WM_STATE", (REMOVE, full, 0, PAGER))
    wire.tell_manager(wid, "_NET_WM_STATE", (ADD if shape is WindowShape.MAXIMISED else REMOVE, across, down, PAGER))


def windows_to_raise(windows: tuple[int, ...], desk: Desk) -> list[int]:
    """Return which windows to raise, in turn, so that these stand on top: as few as it takes, as managers can be slow.

    Windows kept above are in a layer apart.
    """
    return to_raise([wid for wid in desk.stacking if not desk.by_id[wid].above or wid in windows], windows)


def _stack(windows: tuple[int, ...], wire: Wire, desk: Desk) -> None:
    for wid in windows_to_raise(windows, desk):
        wire.tell_manager(wid, "_NET_RESTACK_WINDOW", (PAGER, 0, xp.StackMode.Above))
