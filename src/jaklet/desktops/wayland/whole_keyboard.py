"""The whole keyboard for as long as a surface of ours wants it.

The surface is one clear pixel over the windows with exclusive use of the keyboard (layer shell): the compositor sends
all keys there, and gives the focus back when it goes. Who has the focus repeats held keys itself (wl_keyboard).
"""

import time as clock
from typing import Any, Final

from jaklet.core.values.errors import DeskError
from jaklet.desktops.wayland.buffers import CLEAR, picture
from jaklet.desktops.wayland.keyboard import NEVER, NO_KEY, KeyTransition, SeatKeyboard, held_of
from jaklet.desktops.wayland.layer_shell import LEFT, OVERLAY, TOP, KeyboardInteractivity

SCOPE: Final = "on-screen-display"  # by which KWin knows that it is no window of a program
PATIENCE: Final = 1.0  # seconds until a surface that wants the keyboard is to have it


class WholeKeyboard(SeatKeyboard):
    """The keyboard of the seat, by a surface."""

    def _begin(self) -> None:
        self._delay, self._rate = 0.6, 25.0  # seconds, and repeats in a second
        self._again_at, self._last = NEVER, KeyTransition(0, False, 0, 0)
        self._surface: Any = None
        self._layer: Any = None
        self._retired: list[tuple[Any, Any]] = []  # surfaces that are to go once they have left the keyboard
        self._has_begun = False  # and the modifiers that are held are still to be told

    def _follow(self) -> None:
        for event, heard in (
            ("enter", self._entered), ("leave", self._left), ("key", self._key),
            ("modifiers", self._modified), ("repeat_info", self._repeats),
        ):  # fmt: skip
            self._keyboard.dispatcher[event] = heard

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

    @property
    def due(self) -> float:
        """When a key that is held does the same again; infinity for none."""
        return self._again_at

    @property
    def is_taken(self) -> bool:
        """True while all of it is wanted."""
        return self._surface is not None

    def strokes(self) -> list[KeyTransition]:
        """Return the key transitions since the last call. A repeat that is due or was missed comes once."""
        if self._again_at <= clock.monotonic():
            self._strokes.append(self._last._replace(again=True))
            self._again_at = clock.monotonic() + 1 / self._rate
        return super().strokes()

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
