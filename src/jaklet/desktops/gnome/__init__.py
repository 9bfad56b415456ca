"""GNOME on Wayland: GNOME Shell by an extension of ours. `connect` is the way in."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jaklet.desktops.gnome.desktop import GnomeDesktop


def connect(state: Callable[[], Path] | None = None) -> "GnomeDesktop":
    """Return the desk of the GNOME Shell that is on this session's bus; raises `DeskError`.

    `state`: returns the folder for what is to last.
    """
    from jaklet.desktops.gnome.desktop import GnomeDesktop

    return GnomeDesktop.connect(state)
