"""Programs that mind nothing: each does one thing on an X server until it is killed.

Run: python -m tests.neighbours.programs NAME
"""

import contextlib
import itertools
import struct
import sys
import time
from argparse import Namespace
from collections.abc import Callable, Mapping
from typing import Any, Final

import xcffib
import xcffib.xproto as xp

from jaklet.demo.windows import show

CLASS: Final = "Neighbour"
_SPOTS: Final = ((700, 500), (720, 560), (640, 520), (760, 480), (680, 540))


def _window(connection: Any, **options: object) -> int:
    usual = {
        "size": "200x150", "cls": CLASS, "instance": "", "title": CLASS, "bar": "", "count": 1, "role": "", "shadow": 0,
        "colour": "884422", "least": "", "most": "", "step": "",
    }  # fmt: skip
    window = show(connection, Namespace(**{**usual, **options}), 0)
    connection.flush()
    return window


def _root(connection: Any) -> int:
    return int(connection.setup.roots[0].root)


def _atom(connection: Any, name: str) -> int:
    return int(connection.core.InternAtom(False, len(name), name).reply().atom)


def jump(connection: Any) -> None:
    """Move a window about, 25 times a second."""
    window = _window(connection, shy=True)
    for spot in itertools.cycle(_SPOTS):
        connection.core.ConfigureWindow(window, xp.ConfigWindow.X | xp.ConfigWindow.Y, [*spot])
        connection.flush()
        time.sleep(0.04)


def steal(connection: Any) -> None:
    """Take the focus five times a second, as a pager asks for it and by bare force."""
    window = _window(connection)
    kind = _atom(connection, "_NET_ACTIVE_WINDOW")
    mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
    for turn in itertools.count():
        if turn % 2:
            event = struct.pack("=BBHII5I", 33, 32, 0, window, kind, 2, 0, 0, 0, 0)
            connection.core.SendEvent(False, _root(connection), mask, event)
        else:
            connection.core.SetInputFocus(xp.InputFocus.PointerRoot, window, 0)
        connection.flush()
        time.sleep(0.2)


def grab(connection: Any) -> None:
    """Hold keyboard and pointer for 60 ms, twice a second."""
    core, root = connection.core, _root(connection)
    while True:
        core.GrabKeyboard(False, root, 0, xp.GrabMode.Async, xp.GrabMode.Async).reply()
        core.GrabPointer(False, root, 0, xp.GrabMode.Async, xp.GrabMode.Async, 0, 0, 0).reply()
        time.sleep(0.06)
        core.UngrabKeyboard(0)
        core.UngrabPointer(0)
        connection.flush()
        time.sleep(0.44)


def vanish(connection: Any) -> None:
    """Open a window and destroy it again, fifty times a second."""
    _come_and_go(connection, 0.01, shy=True)


def fill(connection: Any) -> None:
    """Open a window that is maximised, and close it a moment later."""
    _come_and_go(connection, 0.4, maximised=True)


def _come_and_go(connection: Any, seconds: float, **options: object) -> None:
    while True:
        window = _window(connection, **options)
        time.sleep(seconds)
        connection.core.DestroyWindow(window)
        connection.flush()
        time.sleep(seconds)


def ramble(connection: Any) -> None:
    """Have a title of 5,000 letters, another one ten times a second."""
    window = _window(connection, shy=True)
    names = [_atom(connection, "_NET_WM_NAME"), _atom(connection, "UTF8_STRING")]
    for turn in itertools.count():
        text = f"{turn} " + "\u200e\u202eledger\x1b[31m " * 400
        raw = text.encode()[:5000]
        connection.core.ChangeProperty(xp.PropMode.Replace, window, *names, 8, len(raw), raw)
        connection.flush()
        time.sleep(0.1)


PROGRAMS: Final[Mapping[str, Callable[[Any], None]]] = {
    one.__name__: one for one in (jump, steal, grab, vanish, fill, ramble)
}


def main() -> None:
    """Do what the first argument says."""
    connection: Any = xcffib.connect()  # type: ignore[no-untyped-call]
    with contextlib.suppress(xcffib.ConnectionException):
        PROGRAMS[sys.argv[1]](connection)


if __name__ == "__main__":
    main()
