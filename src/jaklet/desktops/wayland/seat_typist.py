"""Pressing keys by their numbers on the seat's keyboard: which keys a chord is, and which hold its modifiers."""

from abc import abstractmethod
from typing import Final

from jaklet.core.keys.strokes import DEAD, Stroke
from jaklet.core.values.chords import MODIFIERS, Chord, Modifier, keysym_of
from jaklet.core.values.words import listed
from jaklet.desktops.pressing import Pressing
from jaklet.desktops.wayland.keyboard import SeatKeyboard

FRONT: Final = 1.0  # seconds in which the window has to have the keyboard
NAMES: Final = {name: one for name, one in MODIFIERS.items() if name != "control"}
_HOLDERS: Final = {
    Modifier.SHIFT: "shift_l", Modifier.CTRL: "control_l", Modifier.ALT: "alt_l", Modifier.SUPER: "super_l",
    Modifier.ALTGR: "iso_level3_shift",
}  # fmt: skip


def held_names(held: int) -> str:
    """Return the names of modifiers in words. `held`: their bits."""
    return listed([name for name, one in NAMES.items() if held & one])


class SeatTypist(Pressing):
    """Knows the keys for chords."""

    @property
    @abstractmethod
    def _seat(self) -> SeatKeyboard:
        """The keyboard of the seat."""

    def _problem(self, chord: Chord) -> str:
        strokes = self._strokes(chord)
        if not strokes:
            return "this keyboard has no such key"
        missing = [name for name, one in NAMES.items() if strokes[0].modifiers & one and not self._holders(one)]
        return f"this keyboard has no {listed(missing)} modifier" if missing else ""

    def _strokes(self, chord: Chord) -> list[Stroke[int]]:
        """Return the strokes for a chord: itself, or its dead key and then the space bar.

        None if it cannot be pressed.
        """
        table = self._seat.table
        if found := table.strokes(chord)[:1]:
            return found
        dead, space = DEAD.get(chord.keysym), table.strokes(Chord(0, 0x20))[:1]
        first = table.strokes(chord._replace(keysym=dead))[:1] if dead else []
        return [*first, *space] if first and space else []

    def _holders(self, modifiers: int) -> list[int]:
        """Return a key for each of these modifiers."""
        held = [name for one, name in _HOLDERS.items() if modifiers & one]
        return [key for name in held for key in self._keys_of(name)[:1]]

    def _keys_of(self, name: str) -> list[int]:
        """Return the keys that have this keysym by themselves."""
        return [key for key, row in self._seat.table.levels.items() if row[0] == keysym_of(name)]
