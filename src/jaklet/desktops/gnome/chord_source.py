"""The chords of GNOME: shortcuts of the shell, and all keys while a layer is on, by the extension."""

from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Final

from jaklet.core.values.chords import Chord
from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.chord_source import AcceleratorEvent, CompositorChords
from jaklet.desktops.gnome.abilities import KEYS
from jaklet.desktops.gnome.extension import GnomeExtension
from jaklet.desktops.gnome.shortcuts import GnomeShortcuts, code_of, lent_file
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.keyboard import NO_KEY, KeyTransition, SeatKeyboard

NOT_GIVEN: Final = "GNOME Shell does not give the keyboard away"


class ShellKeyboard(SeatKeyboard):
    """The keyboard of the seat, by a grab of the shell's."""

    def __init__(self, wayland: Wayland, extension: GnomeExtension) -> None:
        self._extension = extension
        super().__init__(wayland)

    def _begin(self) -> None:
        self._is_taken = False

    def _follow(self) -> None:
        """Hear nothing else: the extension tells of keys."""

    @property
    def is_taken(self) -> bool:
        """True while all of it is wanted."""
        return self._is_taken

    def take_all(self) -> None:
        """Have all keys from now on; raises `DeskError` where the shell does not let us."""
        if not self._is_taken:
            if not self._extension.question("keyboard", on=True):
                raise DeskError(NOT_GIVEN)
            self._is_taken = self.has_focus = True
            self.was_lost = False

    def give_back(self) -> None:
        """Let the keys go to the program in front again."""
        if self._is_taken:
            self._is_taken = self.has_focus = False
            self._extension.question("keyboard", on=False)

    def heard(self, key: int, is_down: bool, again: bool, state: int, time: int) -> None:
        """Take in what a key did; `NO_KEY`: no modifier is held any more."""
        self._state = state
        self._strokes.append(KeyTransition(key, is_down, state, time, again))


class GnomeChords(CompositorChords):
    """Hears keys by the extension."""

    def __init__(self, extension: GnomeExtension, state: Callable[[], Path] | None = None) -> None:
        self._shortcuts = GnomeShortcuts(extension, lambda: self.keyboard.table, lent_file(state) if state else None)
        super().__init__(extension, self._shortcuts, KEYS)
        self._extension = extension

    def _new_keyboard(self, wayland: Wayland) -> ShellKeyboard:
        return ShellKeyboard(wayland, self._extension)

    def _code_of(self, key: int, modifiers: int, keysym: int) -> int:
        return code_of(key, modifiers)

    def _chord_at(self, key: int, held: int) -> Chord | None:
        """Return the chord that a key is. No shortcut is told of while all keys are ours, so that this counts alone."""
        if self._hearing.every:
            return super()._chord_at(key, held)
        return next(iter(self._by_code.get(code_of(key, held), ())), None)

    def _prepare(self) -> None:
        """Do nothing: the extension gives back what a listener leaves behind."""

    def _finish(self) -> None:
        """Do nothing: all is given back."""

    def take(self, reads: bool) -> bool:
        """Take in what has come; true if a key has, or another keyboard. `reads`: by the compositor, too."""
        heard, self._extension.heard = self._extension.heard, []
        for one in heard:
            if "chord" in one:
                self._shortcuts.told.append(AcceleratorEvent(one["chord"], bool(one["down"]), one["time"]))
            elif isinstance(self._keyboard, ShellKeyboard):
                key = NO_KEY if "released" in one else one["key"]
                if key != NO_KEY:
                    with suppress(DeskError):  # of a compositor that has ended, reading tells
                        self._keyboard.await_keymap()  # the extension may be ahead of what tells of a keyboard
                is_down, time = bool(one.get("down")), one.get("time", 0)
                self._keyboard.heard(key, is_down, bool(one.get("again")), one.get("state", 0), time)
                # A shortcut that went down before all keys were ours comes up as a key, and is told of by nothing else.
                ended = [code for code in self._pressed if code >> 8 == key and not is_down]
                self._shortcuts.told += [AcceleratorEvent(code, False, time) for code in ended]
        return super().take(reads)
