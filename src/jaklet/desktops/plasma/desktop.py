"""The Plasma desk behind the port `core.actions.ports.desktop.Desktop`."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from jaklet.core.values.changes import Stack
from jaklet.core.values.stacking import to_activate
from jaklet.desktops.compositor.desktop import CompositorDesktop
from jaklet.desktops.plasma.abilities import abilities_here
from jaklet.desktops.plasma.chord_source import PlasmaChords
from jaklet.desktops.plasma.kwin_script import KWinScript
from jaklet.desktops.pressing import Pressing
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.idleness import Idleness
from jaklet.desktops.wayland.typist import WaylandTypist


class PlasmaDesktop(CompositorDesktop):
    """The desk of KWin."""

    kind = "plasma"

    def __init__(self, script: KWinScript, state: Callable[[], Path] | None = None) -> None:
        super().__init__(script, PlasmaChords(script, state), abilities_here(), state)
        self._idleness: tuple[Wayland, Idleness] | None = None

    @classmethod
    def connect(cls, state: Callable[[], Path] | None = None) -> "PlasmaDesktop":
        """Return the desk of the KWin of this session; raises `DeskError`."""
        return cls(KWinScript.start(), state)

    def _stack(self, change: Stack) -> list[dict[str, Any]]:
        """Return the requests for an order: a window is raised by making it active, the one with the focus last."""
        front = self._aimed if self._aimed is not None else self._active
        turn = to_activate(self._desk, change.windows, front)
        return [{"op": "stack", "ids": [self._told[wid].uuid for wid in turn]}]

    def _new_typist(self) -> Pressing:
        chords = self.chords
        return WaylandTypist(chords.wayland, chords.keyboard, lambda: self._active, chords.hear_again)

    def idle(self) -> float:
        """Return for how long keyboard and pointer were not used, as the compositor tells; 0 for a few seconds."""
        if self._idleness is None or self._idleness[0] is not self.chords.wayland:
            self._idleness = self.chords.wayland, Idleness(self.chords.wayland)
        return self._idleness[1].seconds()
