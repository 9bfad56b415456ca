"""Plasma on Wayland: KWin by a script of ours and D-Bus. `connect` is the way in."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from jaklet.desktops.plasma.desktop import PlasmaDesktop


def connect(state: Callable[[], Path] | None = None) -> "PlasmaDesktop":
    """Return the desk of the KWin that is on this session's bus; raises `DeskError`.

    `state`: returns the folder for what is to last.
    """
    from jaklet.desktops.plasma.desktop import PlasmaDesktop

    return PlasmaDesktop.connect(state)
