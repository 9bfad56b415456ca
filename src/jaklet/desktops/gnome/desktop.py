"""The GNOME desk behind the port `core.actions.ports.desktop.Desktop`."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from jaklet.core.values.changes import Stack
from jaklet.core.values.stacking import to_raise
from jaklet.desktops.compositor.desktop import CompositorDesktop
from jaklet.desktops.gnome.abilities import KEYS, MOST_OF_GNOME
from jaklet.desktops.gnome.chord_source import GnomeChords
from jaklet.desktops.gnome.extension import GnomeExtension
from jaklet.desktops.gnome.typist import GnomeTypist
from jaklet.desktops.pressing import Pressing


class GnomeDesktop(CompositorDesktop):
    """The desk of GNOME Shell."""

    kind = "gnome"

    def __init__(self, extension: GnomeExtension, state: Callable[[], Path] | None = None) -> None:
        self._extension = extension
        super().__init__(extension, GnomeChords(extension, state), MOST_OF_GNOME | KEYS, state)

    @classmethod
    def connect(cls, state: Callable[[], Path] | None = None) -> "GnomeDesktop":
        """Return the desk of the GNOME Shell of this session; raises `DeskError`."""
        return cls(GnomeExtension.start(), state)

    def _stack(self, change: Stack) -> list[dict[str, Any]]:
        """Return the requests for an order: windows are raised in turn, and the focus stays."""
        turn = to_raise(self._stacking, change.windows)
        return [{"op": "stack", "ids": [self._told[wid].uuid for wid in turn]}]

    def _new_typist(self) -> Pressing:
        return GnomeTypist(self._extension, self.chords, self._xwayland, self._told.get)

    def is_dragging(self) -> bool:
        """Return whether a button of the pointer is down, as the shell tells when it is asked."""
        return self._extension.pointer()[2]

    def idle(self) -> float:
        """Return for how long keyboard and pointer were not used, in seconds."""
        return self._extension.idle()
