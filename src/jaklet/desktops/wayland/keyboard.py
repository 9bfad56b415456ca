"""The keyboard of a compositor: what is on its keys, and all of it for as long as a surface of ours wants that.

The surface is one clear pixel over the windows with exclusive use of the keyboard (layer shell): the compositor sends
all keys there, and gives the focus back when it goes. Who has the focus repeats held keys itself (wl_keyboard).
"""

import os
import time as clock
from typing import Any, Final, NamedTuple

from pywayland.protocol.wayland import WlSeat

from jaklet.core.keys.strokes import KeyTable
from jaklet.core.values.chords import MODIFIER_KEYS, Modifier
from jaklet.core.values.errors import DeskError
from jaklet.desktops.wayland.buffers import CLEAR, picture
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.layer_shell import LEFT, OVERLAY, TOP, KeyboardInteractivity
from jaklet.desktops.wayland.xkb import levels_of

NEVER: Final = float("inf")
NO_KEY: Final = -1
SCOPE: Final = "on-screen-display"  # by which KWin knows that it is no window of a program
PATIENCE: Final = 1.0  # seconds until a surface that wants the keyboard is to have it
LOCK: Final = 2
NUM_LOCK: Final = 16  # Mod2, in all keymaps of xkeyboard-config
_LEVEL_KEYS: Final = range(0xFE01, 0xFE10)  # ISO_Lock to ISO_Last_Group_Lock
# The real modifiers of a keymap as xkeyboard-config uses them: Shift, Lock, Control, Mod1 to Mod5.
_MASKS: Final = {Modifier.SHIFT: 1, Modifier.CTRL: 4, Modifier.ALT: 8, Modifier.SUPER: 64, Modifier.ALTGR: 128}


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
    return sum(int(one) for one, mask in _MASKS.items() if state & mask)


class WholeKeyboard:
    """The keyboard of the seat. `table`: what is on its keys, by evdev's number of a key."""

    def __init__(self, wayland: Wayland) -> None:
        """Read the keyboard; raises `DeskError` where there is none."""
        self._wayland = wayland
        self.table: KeyTable[int] = KeyTable({})
        self.is_other = False  # the keymap, since somebody asked
        self._keymap = b""
        self._state = 0
        self._delay, self._rate = 0.6, 25.0  # seconds, and repeats in a second
        self._again_at, self._last = NEVER, KeyTransition(0, False, 0, 0)
        self._surface: Any = None
        self._layer: Any = None
        self._retired: list[tuple[Any, Any]] = []  # surfaces that are to go once they have left the keyboard
        self.has_focus = False
        self.was_lost = False  # while it was wanted, as by a click on something else
        self._has_begun = False  # and the modifiers that are held are still to be told
        self._strokes: list[KeyTransition] = []
        seat = wayland.bind(WlSeat, 5)
        wayland.sync()
        self._keyboard: Any = seat.get_keyboard()
        for event, heard in (
            ("keymap", self._mapped), ("enter", self._entered), ("leave", self._left), ("key", self._key),
            ("modifiers", self._modified), ("repeat_info", self._repeats),
        ):  # fmt: skip
            self._keyboard.dispatcher[event] = heard
        wayland.sync()
        if not self._keymap:
            raise DeskError("the compositor tells of no keyboard")

    # --- what the compositor tells ---

    def _mapped(self, _keyboard: Any, _format: int, descriptor: int, size: int) -> None:
        with open(descriptor, "rb") as file:
            keymap = os.pread(file.fileno(), size, 0).rstrip(b"\0")
        if keymap != self._keymap:
            self._keymap, self.table, self.is_other = keymap, KeyTable(levels_of(keymap)), True

    def _entered(self, _keyboard: Any, _serial: int, _surface: Any, _keys: Any) -> None:
        self.has_focus, self._has_begun = True, True

    def _left(self, _keyboard: Any, _serial: int, _surface: Any) -> None:
        self.has_focus, self._again_at = False, NEVER
        self._destroy_retired()
        self.was_lost = self._surface is not None

    def _destroy_retired(self) -> None:
        for layer, surface in self._retired:
            layer.destroy()
            surface.destroy()
        self._retired = []

    def _modified(self, _keyboard: Any, _serial: int, held: int, latched: int, locked: int, _group: int) -> None:
        before, self._state = held_of(self._state), held | latched | locked
        if not self.held and (before or self._has_begun) and self.has_focus:
            self._strokes.append(KeyTransition(NO_KEY, False, self._state, 0))
        self._has_begun = False

    def _repeats(self, _keyboard: Any, rate: int, delay: int) -> None:
        self._delay, self._rate = delay / 1000, float(rate)

    def _key(self, _keyboard: Any, _serial: int, time: int, code: int, state: int) -> None:
        stroke = KeyTransition(code, bool(state), self._state, time)
        self._strokes.append(stroke)
        if stroke.is_down and not self.is_modifier(code) and self._rate:
            self._last, self._again_at = stroke, clock.monotonic() + self._delay
        elif code == self._last.code:
            self._again_at = NEVER

    # --- what can be asked ---

    def is_modifier(self, code: int) -> bool:
        """Return whether a key is one that is held with others, and means nothing by itself."""
        row = self.table.levels.get(code, (0,))
        return row[0] in MODIFIER_KEYS or row[0] in _LEVEL_KEYS

    @property
    def due(self) -> float:
        """When a key that is held does the same again; infinity for none."""
        return self._again_at

    @property
    def held(self) -> int:
        """The modifiers that are held, as far as that was told while the keyboard was ours."""
        return held_of(self._state)

    @property
    def has_capitals(self) -> bool:
        """Whether Caps Lock is on, as far as that was told."""
        return bool(self._state & LOCK)

    @property
    def is_taken(self) -> bool:
        """True while all of it is wanted."""
        return self._surface is not None

    def strokes(self) -> list[KeyTransition]:
        """Return the key transitions since the last call. A repeat that is due or was missed comes once."""
        if self._again_at <= clock.monotonic():
            self._strokes.append(self._last._replace(again=True))
            self._again_at = clock.monotonic() + 1 / self._rate
        strokes, self._strokes = self._strokes, []
        return strokes

    def take_all(self) -> None:
        """Have all keys from now on; raises `DeskError` where the compositor lets nobody."""
        if self._surface is not None:
            return
        wayland = self._wayland
        surface = wayland.compositor.create_surface()
        layer = wayland.layers.get_layer_surface(surface, None, OVERLAY, SCOPE)
        layer.set_size(1, 1)
        layer.set_anchor(TOP | LEFT)
        layer.set_exclusive_zone(-1)
        layer.set_keyboard_interactivity(KeyboardInteractivity.EXCLUSIVE)

        def configured(_layer: Any, serial: int, _wide: int, _high: int) -> None:
            layer.ack_configure(serial)
            surface.attach(picture(wayland.memory, bytes(4), 1, 1, CLEAR), 0, 0)
            surface.commit()

        layer.dispatcher["configure"] = configured
        self._surface, self._layer = surface, layer
        surface.commit()
        end = clock.monotonic() + PATIENCE
        while not self.has_focus or self._retired:
            wayland.sync()
            if clock.monotonic() > end:
                self.give_back()
                raise DeskError("the compositor does not give the keyboard away")
        self.was_lost = False

    def take_back(self) -> None:
        """Have all keys again that went elsewhere while they were wanted; raises `DeskError` as `take_all`."""
        self.was_lost = False
        if self._surface is not None:
            self.give_back()
            self.take_all()

    def give_back(self) -> None:
        """Let the keys go to the program in front again."""
        if self._surface is not None:
            self._surface.attach(None, 0, 0)  # it is destroyed once it has left: an event about nothing is an error
            self._surface.commit()
            self._retired.append((self._layer, self._surface))
            self._surface = self._layer = None
            self._again_at = NEVER
            if not self.has_focus:  # it has left already, and is told of nothing more
                self._wayland.sync()
                self._destroy_retired()
            self._wayland.flush()
