"""Pressing keys for the program that has the focus: the extension presses them on a keyboard of its own.

A text with letters that no key has goes to a program of Wayland as an input method gives texts (text-input-v3): keys
and letters in turn would overtake each other there. For a program of X11 such a letter is put on a spare key of the X
server, and stays there.
"""

import time as clock
from collections.abc import Callable
from itertools import takewhile
from typing import Any, Final

from jaklet.core.keys.strokes import typed_as
from jaklet.core.values.changes import Press
from jaklet.core.values.chords import Chord, keysym_of_letter
from jaklet.desktops.compositor.chord_source import CompositorChords
from jaklet.desktops.compositor.picture import AgentWindow
from jaklet.desktops.compositor.xwayland import Xwayland
from jaklet.desktops.gnome.extension import GnomeExtension
from jaklet.desktops.pressing import HELD_FOR, ChordRun
from jaklet.desktops.wayland.keyboard import SeatKeyboard, held_of
from jaklet.desktops.wayland.seat_typist import FRONT, SeatTypist, held_names

TOLD: Final = 0.1  # seconds in which a program of X is told what is on spare keys, before the first one is pressed


class GnomeTypist(SeatTypist):
    """Presses keys by the extension. `window_of`: returns a window as the shell tells of it, None for none."""

    def __init__(
        self,
        extension: GnomeExtension,
        chords: CompositorChords,
        xwayland: Xwayland,
        window_of: Callable[[int], AgentWindow | None],
    ) -> None:
        super().__init__()
        self._lacking: dict[Press, bool] = {}
        self._extension, self._chords, self._xwayland, self._window_of = extension, chords, xwayland, window_of

    @property
    def _seat(self) -> SeatKeyboard:
        return self._chords.keyboard

    def begin(self, press: Press) -> None:
        """Press these chords when those before them are done; raises `DeskError` where this keyboard lacks a key."""
        super().begin(press)
        self._seat.give_back()
        window = self._window_of(press.window)
        if window and window.is_x11 and self._lacks_letters(press):
            for chord in {*press.chords}:
                if not self._strokes(chord):
                    self._spare_key(typed_as(chord).text)
            self.next_look = clock.monotonic() + TOLD

    def _problem(self, chord: Chord) -> str:
        return "" if typed_as(chord).text and not self._strokes(chord) else super()._problem(chord)

    def _stroke(self, text: ChordRun, now: float) -> str | None:
        text.held_since = text.held_since or now
        window, chord = self._window_of(text.press.window), text.press.chords[text.done]
        letter = typed_as(chord).text
        strokes = [[*self._holders(one.modifiers), one.key] for one in self._strokes(chord)]
        run = letter
        if window is None:
            return f"{text.so_far}, as the window has gone"
        if letter and not window.is_x11 and self._lacks_letters(text.press):
            run = "".join(takewhile(bool, (typed_as(one).text for one in text.press.chords[text.done :])))
            told = self._ask(window, text=run, late=text.done > 0)
        elif strokes:
            told = self._ask(window, strokes=strokes)
        else:
            key = self._spare_key(letter)
            if key is None:
                return f"{text.so_far}: {letter} is on no key, and no key is spare"
            told = self._ask(window, strokes=[[key]])
        if told.get("isDone"):
            text.done += max(0, len(run) - 1)  # and one more by who asked for this
            text.held_since = None
            return ""
        if told.get("takesNone"):
            return f"{text.so_far}, as some letters are on no key, and the program takes none from an input method"
        if held := held_of(told["held"]):
            return None if now - text.held_since < HELD_FOR else f"{text.so_far}: {held_names(held)} is still held"
        if not text.done and now - text.held_since < FRONT:
            return None
        return f"{text.so_far}, as another window has the focus"

    def _spare_key(self, letter: str) -> int | None:
        return self._xwayland.key_for(keysym_of_letter(letter), self._seat.table.levels)

    def _lacks_letters(self, press: Press) -> bool:
        """Return whether a text has letters that no key has."""
        if press not in self._lacking:
            self._lacking[press] = any(typed_as(one).text and not self._strokes(one) for one in {*press.chords})
        return self._lacking[press]

    def _ask(self, window: AgentWindow, **what: Any) -> Any:
        caps = next(iter(self._keys_of("caps_lock")), 0)
        return self._extension.question("press", window=window.uuid, caps=caps, **what) or {"held": 0}

    def _restore(self) -> None:
        self._lacking.clear()
        self._chords.hear_again()
