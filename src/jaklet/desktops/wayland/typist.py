"""Pressing keys for the program that has the focus, where the compositor has been told to let us.

Each stroke, from its first modifier down to its last one up, goes out at once, and the next one when the compositor has
done it. Which keys a hand still holds is told to nobody but who has the keyboard: so it is ours for a moment at first,
until no modifier is held.
"""

from collections.abc import Callable
from typing import Any, Final

from jaklet.core.values.changes import Press
from jaklet.core.values.errors import DeskError
from jaklet.desktops.pressing import HELD_FOR, ChordRun
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.fake_input import FakeInput
from jaklet.desktops.wayland.keyboard import SeatKeyboard
from jaklet.desktops.wayland.seat_typist import FRONT, SeatTypist, held_names

NOT_GRANTED: Final = "the desktop does not let Jaklet press keys: see `jaklet doctor`"


class WaylandTypist(SeatTypist):
    """Presses keys by KWin's own protocol for that.

    `in_front` returns the window with the focus; `after` is called when all is done, as a layer may want the keyboard.
    """

    def __init__(
        self, wayland: Wayland, keyboard: SeatKeyboard, in_front: Callable[[], int | None], after: Callable[[], None]
    ) -> None:
        """Begin; raises `DeskError` where it is not granted."""
        if not wayland.has(FakeInput):
            raise DeskError(NOT_GRANTED)
        super().__init__()
        self._wayland, self._keyboard, self._in_front, self._after = wayland, keyboard, in_front, after
        self._input: Any = wayland.bind(FakeInput, 4)
        self._input.authenticate("Jaklet", "an action of its user presses keys")
        self._asks = False  # the keyboard is ours, to see what a hand holds

    def begin(self, press: Press) -> None:
        """Press these chords when those before them are done; raises `DeskError` where this keyboard lacks a key."""
        super().begin(press)
        self._keyboard.take_all()
        self._asks = True

    @property
    def _seat(self) -> SeatKeyboard:
        return self._keyboard

    def _stroke(self, text: ChordRun, now: float) -> str | None:
        text.held_since = text.held_since or now
        if self._asks:
            if self._keyboard.held:
                names = held_names(self._keyboard.held)
                return None if now - text.held_since < HELD_FOR else f"{text.so_far}: {names} is still held"
            if self._keyboard.has_capitals:
                return f"{text.so_far}, as Caps Lock is on"
            self._give_back()
            text.held_since = now
        if self._in_front() != text.press.window or self._keyboard.has_focus:
            if not text.done and now - text.held_since < FRONT:
                return None
            return f"{text.so_far}, as another window has the focus"
        for stroke in self._strokes(text.press.chords[text.done]):
            keys = [*self._holders(stroke.modifiers), stroke.key]
            for key in keys:
                self._input.keyboard_key(key, 1)
            for key in reversed(keys):
                self._input.keyboard_key(key, 0)
        self._wayland.sync()
        return ""

    def _give_back(self) -> None:
        if self._asks:
            self._asks = False
            self._keyboard.give_back()

    def _restore(self) -> None:
        self._give_back()
        self._after()
