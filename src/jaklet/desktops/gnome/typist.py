"""Pressing keys for the program that has the focus: the extension presses them on a keyboard of its own."""

from collections.abc import Callable
from typing import Final

from jaklet.core.keys.strokes import DEAD, Stroke
from jaklet.core.values.changes import Press
from jaklet.core.values.chords import MODIFIERS, Chord, Modifier, keysym_of
from jaklet.core.values.words import listed
from jaklet.desktops.compositor.chord_source import CompositorChords
from jaklet.desktops.gnome.extension import GnomeExtension
from jaklet.desktops.pressing import HELD_FOR, ChordRun, Pressing
from jaklet.desktops.wayland.keyboard import LOCK, held_of

FRONT: Final = 1.0  # seconds in which the window has to have the keyboard
_NAMES: Final = {name: one for name, one in MODIFIERS.items() if name != "control"}
_HOLDERS: Final = {
    Modifier.SHIFT: "shift_l", Modifier.CTRL: "control_l", Modifier.ALT: "alt_l", Modifier.SUPER: "super_l",
    Modifier.ALTGR: "iso_level3_shift",
}  # fmt: skip


class GnomeTypist(Pressing):
    """Presses keys by the extension. `id_of`: returns the shell's id of a window, empty for one that has gone."""

    def __init__(self, extension: GnomeExtension, chords: CompositorChords, id_of: Callable[[int], str]) -> None:
        super().__init__()
        self._extension, self._chords, self._id_of = extension, chords, id_of
        self._asks = False

    def begin(self, press: Press) -> None:
        """Press these chords when those before them are done; raises `DeskError` where this keyboard lacks a key."""
        super().begin(press)
        self._chords.keyboard.give_back()

    def _problem(self, chord: Chord) -> str:
        strokes = self._strokes(chord)
        if not strokes:
            return "this keyboard has no such key"
        missing = [name for name, one in _NAMES.items() if strokes[0].modifiers & one and not self._holders(one)]
        return f"this keyboard has no {listed(missing)} modifier" if missing else ""

    def _stroke(self, text: ChordRun, now: float) -> str | None:
        text.held_since = text.held_since or now
        for stroke in self._strokes(text.press.chords[text.done]):
            keys = [*self._holders(stroke.modifiers), stroke.key]
            told = self._extension.question("press", keys=keys, window=self._id_of(text.press.window))
            if told.get("isDone"):
                continue
            if held := held_of(told["held"]):
                names = listed([name for name, one in _NAMES.items() if held & one])
                return None if now - text.held_since < HELD_FOR else f"{text.so_far}: {names} is still held"
            if told["held"] & LOCK:
                return f"{text.so_far}, as Caps Lock is on"
            if not text.done and now - text.held_since < FRONT:
                return None
            return f"{text.so_far}, as another window has the focus"
        return ""

    def _strokes(self, chord: Chord) -> list[Stroke[int]]:
        """Return the strokes for a chord: itself, or its dead key and then the space bar; none if it has none."""
        table = self._chords.keyboard.table
        if found := table.strokes(chord)[:1]:
            return found
        dead, space = DEAD.get(chord.keysym), table.strokes(Chord(0, 0x20))[:1]
        first = table.strokes(chord._replace(keysym=dead))[:1] if dead else []
        return [*first, *space] if first and space else []

    def _holders(self, modifiers: int) -> list[int]:
        """Return a key for each of these modifiers."""
        held = [name for one, name in _HOLDERS.items() if modifiers & one]
        rows = self._chords.keyboard.table.levels
        return [key for name in held for key in [k for k, row in rows.items() if row[0] == keysym_of(name)][:1]]

    def _restore(self) -> None:
        self._chords.hear_again()
