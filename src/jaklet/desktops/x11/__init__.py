"""A real X11 desk: ICCCM, EWMH and RandR over xcffib. `connect` is the way in."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from jaklet.desktops.x11.desktop import X11Desktop


def connect(display: str | None = None, state: "Callable[[], Path] | None" = None) -> "X11Desktop":
    """Return the desk of an X server, by default that of $DISPLAY; raises `DeskError`.

    `state`: returns the folder for what is to last: what launched programs write as errors, and what was learned.

    The X library is loaded here and not before, so that all that needs no X works without it.
    """
    from jaklet.desktops.xcb_library import loading_xcb

    with loading_xcb():
        from jaklet.desktops.x11.desktop import X11Desktop
    return X11Desktop.connect(display, state)


def keyboard_levels() -> dict[int, tuple[int, ...]]:
    """Return what is on the keys of the server's keyboard: keysyms by keycode; raises `DeskError`."""
    from jaklet.desktops.xcb_library import loading_xcb

    with loading_xcb():
        from jaklet.desktops.x11.keyboard_map import server_levels
        from jaklet.desktops.x11.wire import Wire
    wire = Wire(None)
    try:
        return server_levels(wire)
    finally:
        wire.close()
