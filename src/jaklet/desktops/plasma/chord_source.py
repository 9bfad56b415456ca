"""The chords of Plasma: global shortcuts of the desktop, and the whole keyboard while a layer is on."""

import os
from collections.abc import Callable
from pathlib import Path

from jaklet.desktops.compositor.chord_source import CompositorChords
from jaklet.desktops.plasma.abilities import KEYS
from jaklet.desktops.plasma.accelerators import Accelerators, lent_file
from jaklet.desktops.plasma.kwin_script import KWinScript
from jaklet.desktops.plasma.leftovers import Guard
from jaklet.desktops.plasma.qt_keys import code_of
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.keyboard import SeatKeyboard
from jaklet.desktops.wayland.whole_keyboard import WholeKeyboard
from jaklet.locations import plasma_listener
from jaklet.locks import listener_lock


class PlasmaChords(CompositorChords):
    """Hears keys by Plasma's shortcuts, and by a surface of ours that wants the whole keyboard."""

    def __init__(self, script: KWinScript, state: Callable[[], Path] | None = None) -> None:
        super().__init__(script, Accelerators(script.bus, lent_file(state) if state else None), KEYS)
        self._script, self._state = script, state
        self._guard: Guard | None = None

    def _new_keyboard(self, wayland: Wayland) -> SeatKeyboard:
        return WholeKeyboard(wayland)

    def _code_of(self, key: int, modifiers: int, keysym: int) -> int:
        return code_of(self.keyboard.table.levels[key], modifiers, keysym)

    def _prepare(self) -> None:
        if self._state and not self._guard:
            name = plasma_listener(os.environ.get("WAYLAND_DISPLAY", "wayland-0"))
            self._guard = Guard(self._state(), listener_lock(self._state(), name))
        self._script.clean_up_after()

    def _finish(self) -> None:
        if self._guard:
            self._guard.end()
