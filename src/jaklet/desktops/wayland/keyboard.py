"""The keyboard of a compositor: what is on its keys, and what they do while all of it is ours."""

import os
from abc import ABC, abstractmethod
from typing import Any, Final, NamedTuple

from pywayland.protocol.wayland import WlSeat

from jaklet.core.keys.strokes import KeyTable
from jaklet.core.values.chords import MODIFIER_KEYS, Modifier
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.xkb import levels_of

NEVER: Final = float("inf")
NO_KEY: Final = -1
LOCK: Final = 2
KEYBOARD: Final = 2  # wl_seat.capability
NUM_LOCK: Final = 16  # Mod2, in all keymaps of xkeyboard-config
_LEVEL_KEYS: Final = range(0xFE01, 0xFE10)  # ISO_Lock to ISO_Last_Group_Lock
# The real modifiers of a keymap as xkeyboard-config uses them: Shift, Lock, Control, Mod1 to Mod5.
MASKS: Final = {Modifier.SHIFT: 1, Modifier.CTRL: 4, Modifier.ALT: 8, Modifier.SUPER: 64, Modifier.ALTGR: 128}


class KeyTransition(NamedTuple):
    """What a key did: evdev's number of it, whether it is down, the modifiers held then, and the compositor's time.

    `again`: it is held, and does the same again. `state`: modifiers and locks as the keymap counts them. A key of
    `NO_KEY` is none: no modifier is held any more.
    """

    code: int
    is_down: bool
    state: int
    time: int
    again: bool = False


def held_of(state: int) -> int:
    """Return which modifiers a state of the keymap's has."""
    return sum(int(one) for one, mask in MASKS.items() if state & mask)


class SeatKeyboard(ABC):
    """The keyboard of the seat. `table`: what is on its keys, by evdev's number of a key; empty while there is none.

    `is_other`: the keymap is another one since somebody asked. `has_focus`: keys come here. `was_lost`: they went
    elsewhere while they were wanted.
    """

    def __init__(self, wayland: Wayland) -> None:
        """Read the keyboard; raises `DeskError` where there is no seat. A keyboard may come later, and go."""
        self._wayland = wayland
        self.table: KeyTable[int] = KeyTable({})
        self.is_other = self.has_focus = self.was_lost = False
        self._keymap = b""
        self._state = 0
        self._strokes: list[KeyTransition] = []
        self._keyboard: Any = None
        self._begin()
        self._seat: Any = wayland.bind_anew(WlSeat, 5)
        self._seat.dispatcher["capabilities"] = self._able
        self.await_keymap()

    def await_keymap(self) -> None:
        """Have the keymap of a keyboard that has come; raises `DeskError`.

        The first answer of the compositor says that there is a keyboard, the second one has its keymap.
        """
        if self._keyboard is None:
            self._wayland.sync()
            self._wayland.sync()

    def _able(self, seat: Any, abilities: int) -> None:
        if abilities & KEYBOARD and self._keyboard is None:
            self._keyboard = seat.get_keyboard()
            self._keyboard.dispatcher["keymap"] = self._mapped
            self._follow()
        elif not abilities & KEYBOARD and self._keyboard is not None:
            self._keyboard.release()
            self._keyboard = None

    @abstractmethod
    def _begin(self) -> None:
        """Begin with nothing heard."""

    @abstractmethod
    def _follow(self) -> None:
        """Hear what else the compositor tells of a keyboard that has come."""

    def _mapped(self, _keyboard: Any, _format: int, descriptor: int, size: int) -> None:
        with open(descriptor, "rb") as file:
            keymap = os.pread(file.fileno(), size, 0).rstrip(b"\0")
        if keymap != self._keymap:
            self._keymap, self.table, self.is_other = keymap, KeyTable(levels_of(keymap)), True

    @property
    @abstractmethod
    def is_taken(self) -> bool:
        """True while all of it is wanted."""

    @abstractmethod
    def take_all(self) -> None:
        """Have all keys from now on; raises `DeskError` where the compositor lets nobody."""

    @abstractmethod
    def give_back(self) -> None:
        """Let the keys go to the program in front again."""

    def take_back(self) -> None:
        """Have all keys again that went elsewhere while they were wanted; raises `DeskError` as `take_all`."""
        self.was_lost = False
        if self.is_taken:
            self.give_back()
            self.take_all()

    @property
    def due(self) -> float:
        """When a key that is held does the same again; infinity for none."""
        return NEVER

    def strokes(self) -> list[KeyTransition]:
        """Return the key transitions since the last call."""
        strokes, self._strokes = self._strokes, []
        return strokes

    def is_modifier(self, code: int) -> bool:
        """Return whether a key is one that is held with others, and means nothing by itself."""
        row = self.table.levels.get(code, (0,))
        return row[0] in MODIFIER_KEYS or row[0] in _LEVEL_KEYS

    @property
    def held(self) -> int:
        """The modifiers that are held, as far as that was told while the keyboard was ours."""
        return held_of(self._state)

    @property
    def has_capitals(self) -> bool:
        """Whether Caps Lock is on, as far as that was told."""
        return bool(self._state & LOCK)
