"""A real X11 desk: ICCCM, EWMH and RandR over xcffib. `connect` is the way in."""

from typing import TYPE_CHECKING

from jaklet.core.errors import DeskError

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from jaklet.desktops.x11.desktop import X11Desktop


def connect(display: str | None = None, logs: "Callable[[], Path] | None" = None) -> "X11Desktop":
    """Return the desk of an X server, by default that of $DISPLAY; raises `DeskError`.

    `logs`: returns the folder where the errors that launched programs write are kept.

    The X library is loaded here and not before, so that all that needs no X works without it.
    """
    try:
        from jaklet.desktops.x11.desktop import X11Desktop
    except (ImportError, OSError) as fault:
        raise DeskError(
            f"the X library libxcb cannot be loaded: {fault}", "install it; on Debian: sudo apt install libxcb1"
        ) from fault
    return X11Desktop.connect(display, logs)
