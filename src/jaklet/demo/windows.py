"""A small real window with a given class and title, for the demo and the tests: plain X11, no toolkit.

Run: python -m jaklet.demo.windows --class BerthBoard --title "Berth board"
"""

import argparse
import os
import select
import struct
import time
from typing import Any

import xcffib
import xcffib.xproto as xp

_MIN, _MAX, _STEP, _GRAVITY = 1 << 4, 1 << 5, 1 << 6, 1 << 9  # ICCCM 4.1.2.3
BACK_AT = (50, 60)
DEFAULT_COLOUR = "24506b"


def main() -> None:
    """Show windows until the last one is closed."""
    parser = argparse.ArgumentParser(description="A window with a class and a title, and nothing in it.")
    parser.add_argument("--class", dest="cls", default="Demo")
    parser.add_argument("--instance", default="")
    parser.add_argument("--title", default="Demo")
    parser.add_argument("--size", default="800x600")
    parser.add_argument("--least", default="")
    parser.add_argument("--most", default="")
    parser.add_argument("--step", default="")
    parser.add_argument("--stubborn", action="store_true", help="take no other size, and say so in no hint")
    parser.add_argument("--shadow", type=int, default=0, help="draw an invisible shadow this wide around itself")
    parser.add_argument("--no-frame", action="store_true", help="want no frame around itself")
    parser.add_argument("--bar", default="", help="be a bar: SIDE DEPTH START END, in pixels of the whole screen")
    parser.add_argument("--no-input", action="store_true", help="take no focus")
    parser.add_argument("--shy", action="store_true", help="ask for no focus when it opens, but take it afterwards")
    parser.add_argument("--maximised", action="store_true", help="ask to be maximised as it opens")
    parser.add_argument("--static", action="store_true", help="count places from what is inside the frame")
    parser.add_argument("--goes-back", type=int, default=0, help="go to 50,60 so many milliseconds after each move")
    parser.add_argument("--role", default="")
    parser.add_argument(
        "--dialog", default="", help="show a dialog with this title as well, which belongs to the first"
    )
    parser.add_argument("--colour", default=DEFAULT_COLOUR)
    parser.add_argument("--count", type=int, default=1)
    arguments, _ = parser.parse_known_args()
    connection: Any = xcffib.connect()  # type: ignore[no-untyped-call]  # typed in part only
    windows = [show(connection, arguments, i) for i in range(arguments.count)]
    if arguments.dialog:
        connection.flush()
        windows.append(show(connection, arguments, arguments.count, windows[0]))
    shown = set(windows)
    connection.flush()
    due: dict[int, float] = {}  # windows that go back, and when
    protocols, delete = _atom(connection, "WM_PROTOCOLS"), _atom(connection, "WM_DELETE_WINDOW")
    while shown:
        try:
            event = _next_event(connection, due)
        except (xp.WindowError, xp.DrawableError):
            continue  # it was destroyed under our hands
        except xcffib.ConnectionException:
            return  # the server has ended, or has ended us
        if isinstance(event, xp.ClientMessageEvent) and event.type == protocols and event.data.data32[0] == delete:
            connection.core.DestroyWindow(event.window)
            connection.flush()
        elif isinstance(event, xp.ConfigureNotifyEvent) and arguments.stubborn:
            _refuse(connection, event, *_pair(arguments.size))
        elif isinstance(event, xp.ConfigureNotifyEvent) and arguments.goes_back:
            if event.response_type & 0x80 and (event.x, event.y) != BACK_AT:  # the window manager tells of its place
                due.setdefault(event.window, time.monotonic() + arguments.goes_back / 1000)
        elif isinstance(event, xp.DestroyNotifyEvent):
            shown.discard(event.window)
        elif isinstance(event, xp.ExposeEvent) and event.count == 0 and event.window in shown:
            _draw(connection, event.window, arguments.title, int(arguments.colour, 16))


def show(connection: Any, arguments: argparse.Namespace, order: int, parent: int = 0) -> int:
    """Make and map one window, a dialog if it has a parent; return its id."""
    core, screen = connection.core, connection.setup.roots[connection.pref_screen]
    width, height = _pair(arguments.size)
    window: int = connection.generate_id()
    mask = xp.EventMask.StructureNotify | xp.EventMask.Exposure
    x, y, kind = 40 + 30 * order, 60 + 30 * order, "_NET_WM_WINDOW_TYPE_NORMAL"
    if arguments.bar:
        side, depth, start, end = arguments.bar.split()
        x, y, width, height = _bar_frame(side, int(depth), int(start), int(end), screen)
        kind = "_NET_WM_WINDOW_TYPE_DOCK"
    core.CreateWindow(
        screen.root_depth, window, screen.root, x, y, width, height, 0, xp.WindowClass.InputOutput,
        screen.root_visual, xp.CW.BackPixel | xp.CW.EventMask, [int(arguments.colour, 16), mask],
    )  # fmt: skip
    title = arguments.title if arguments.count == 1 else f"{arguments.title} {order + 1}"
    if parent:
        title, kind = arguments.dialog, "_NET_WM_WINDOW_TYPE_DIALOG"
        _numbers(connection, window, "WM_TRANSIENT_FOR", xp.Atom.WINDOW, [parent])
    instance = arguments.instance or arguments.cls.lower()
    _text(connection, window, "WM_CLASS", f"{instance}\0{arguments.cls}\0")
    _text(connection, window, "_NET_WM_NAME", title)
    _numbers(connection, window, "_NET_WM_PID", xp.Atom.CARDINAL, [os.getpid()])
    if arguments.role:
        _text(connection, window, "WM_WINDOW_ROLE", arguments.role)
    _numbers(connection, window, "_NET_WM_WINDOW_TYPE", xp.Atom.ATOM, [_atom(connection, kind)])
    _numbers(connection, window, "WM_PROTOCOLS", xp.Atom.ATOM, [_atom(connection, "WM_DELETE_WINDOW")])
    if getattr(arguments, "no_input", False):
        _numbers(connection, window, "WM_HINTS", _atom(connection, "WM_HINTS"), [1, 0, 0, 0, 0, 0, 0, 0, 0])
    if arguments.shadow:
        _numbers(connection, window, "_GTK_FRAME_EXTENTS", xp.Atom.CARDINAL, [arguments.shadow] * 4)
    if arguments.shadow or getattr(arguments, "no_frame", False):
        _numbers(connection, window, "_MOTIF_WM_HINTS", _atom(connection, "_MOTIF_WM_HINTS"), [2, 0, 0, 0, 0])
    if getattr(arguments, "maximised", False):
        states = [_atom(connection, f"_NET_WM_STATE_MAXIMIZED_{axis}") for axis in ("HORZ", "VERT")]
        _numbers(connection, window, "_NET_WM_STATE", xp.Atom.ATOM, states)
    if getattr(arguments, "shy", False):  # EWMH _NET_WM_USER_TIME: nobody has done anything that asked for it
        _numbers(connection, window, "_NET_WM_USER_TIME", xp.Atom.CARDINAL, [0])
    if arguments.bar:
        _strut(connection, window, arguments.bar)
    hints = [0] * 18
    for flag, text, at in ((_MIN, arguments.least, 5), (_MAX, arguments.most, 7), (_STEP, arguments.step, 9)):
        if text:
            hints[0] |= flag
            hints[at : at + 2] = _pair(text)
    if getattr(arguments, "static", False):
        hints[0] |= _GRAVITY
        hints[17] = xp.Gravity.Static
    _numbers(connection, window, "WM_NORMAL_HINTS", _atom(connection, "WM_SIZE_HINTS"), hints)
    core.MapWindow(window)
    return window


def _next_event(connection: Any, due: dict[int, float]) -> Any:
    """Return the next event; ask meanwhile for windows to be where they go back to, once that is due."""
    while True:
        event = connection.poll_for_event()
        if event is not None or not due:
            return event or connection.wait_for_event()
        for window in [one for one, at in due.items() if at <= time.monotonic()]:
            del due[window]
            connection.core.ConfigureWindow(window, xp.ConfigWindow.X | xp.ConfigWindow.Y, [*BACK_AT])
        connection.flush()
        if due:
            select.select([connection.get_file_descriptor()], [], [], max(0.0, min(due.values()) - time.monotonic()))


def _refuse(connection: Any, event: xp.ConfigureNotifyEvent, width: int, height: int) -> None:
    """Ask for the old size again."""
    if (event.width, event.height) != (width, height):
        mask = xp.ConfigWindow.Width | xp.ConfigWindow.Height
        connection.core.ConfigureWindow(event.window, mask, [width, height])
        connection.flush()


def _bar_frame(side: str, depth: int, start: int, end: int, screen: Any) -> tuple[int, int, int, int]:
    long = end - start + 1
    across, down = screen.width_in_pixels, screen.height_in_pixels
    frames = {
        "left": (0, start, depth, long),
        "right": (across - depth, start, depth, long),
        "top": (start, 0, long, depth),
        "bottom": (start, down - depth, long, depth),
    }
    return frames[side]


def _strut(connection: Any, window: int, bar: str) -> None:
    side, depth, start, end = bar.split()
    at = ("left", "right", "top", "bottom").index(side)
    values = [0] * 12
    values[at] = int(depth)
    values[4 + 2 * at : 6 + 2 * at] = [int(start), int(end)]
    _numbers(connection, window, "_NET_WM_STRUT_PARTIAL", xp.Atom.CARDINAL, values)


def _draw(connection: Any, window: int, title: str, colour: int) -> None:
    core = connection.core
    font, pen = connection.generate_id(), connection.generate_id()
    try:
        core.OpenFontChecked(font, 5, "fixed").check()
    except (xp.NameError, xcffib.ConnectionException):
        return  # a server without fonts, where the title bar says it all; or one that has ended
    core.CreateGC(pen, window, xp.GC.Foreground | xp.GC.Background | xp.GC.Font, [0xFFFFFF, colour, font])
    plain = title.encode("latin-1", "replace")[:255].decode("latin-1")
    core.ImageText8(len(plain), window, pen, 20, 34, plain)
    core.FreeGC(pen)
    core.CloseFont(font)
    connection.flush()


def _pair(text: str) -> tuple[int, int]:
    width, _, height = text.partition("x")
    return int(width), int(height)


def _atom(connection: Any, name: str) -> int:
    return int(connection.core.InternAtom(False, len(name), name).reply().atom)


def _text(connection: Any, window: int, name: str, text: str) -> None:
    raw = text.encode()
    kind = xp.Atom.STRING if name == "WM_CLASS" else _atom(connection, "UTF8_STRING")
    connection.core.ChangeProperty(xp.PropMode.Replace, window, _atom(connection, name), kind, 8, len(raw), raw)


def _numbers(connection: Any, window: int, name: str, kind: int, values: list[int]) -> None:
    packed = struct.pack(f"={len(values)}I", *values)
    connection.core.ChangeProperty(xp.PropMode.Replace, window, _atom(connection, name), kind, 32, len(values), packed)


if __name__ == "__main__":
    main()
