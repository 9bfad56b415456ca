"""Keys and clicks that KWin takes for a person's, where it lets programs do that."""

import atexit
from typing import Any

from pywayland.client import Display

from jaklet.desktops.wayland.fake_input import FakeInput

# evdev's numbers of the keys of a US keyboard, by what is on them (linux/input-event-codes.h).
KEYS = {
    "escape": 1, "caps_lock": 58, "minus": 12, "tab": 15, "return": 28, "ctrl": 29, "shift": 42, "slash": 53, "alt": 56, "space": 57,
    "kp_1": 79, "altgr": 100, "up": 103, "left": 105, "right": 106, "down": 108, "super": 125,
}  # fmt: skip
for _row, _first in (("qwertyuiop", 16), ("asdfghjkl", 30), ("zxcvbnm", 44), ("1234567890", 2)):
    KEYS |= {letter: _first + n for n, letter in enumerate(_row)}
KEYS |= {f"f{n}": 58 + n for n in range(1, 11)}
LEFT_BUTTON = 0x110


class Hand:
    """A hand on a keyboard and a pointer."""

    def __init__(self, display: str) -> None:
        """Begin. `display`: the path of the compositor's socket."""
        self._display = Display(display)
        self._display.connect()
        OPEN.append(self)
        self._input: Any = None
        registry = self._display.get_registry()
        registry.dispatcher["global"] = self._came
        self._display.roundtrip()
        if self._input is None:
            self.close()
            raise AssertionError("the compositor lets nobody press keys")
        self._input.authenticate("tests", "keys for tests")
        self._display.roundtrip()

    def _came(self, registry: Any, number: int, interface: str, version: int) -> None:
        if interface == FakeInput.name:
            self._input = registry.bind(number, FakeInput, min(version, 4))

    def key(self, name: str, down: bool) -> None:
        """Press a key, or let it go."""
        self._input.keyboard_key(KEYS[name], int(down))
        self._display.flush()

    def chord(self, text: str) -> None:
        """Press a chord, and let it go."""
        names = text.split("+")
        for name in names:
            self._input.keyboard_key(KEYS[name], 1)
        for name in reversed(names):
            self._input.keyboard_key(KEYS[name], 0)
        self._display.flush()

    def click(self, x: int, y: int) -> None:
        """Click somewhere."""
        self._input.pointer_motion_absolute(x, y)
        self._input.button(LEFT_BUTTON, 1)
        self._input.button(LEFT_BUTTON, 0)
        self._display.flush()

    def drag(self, x: int, y: int, to_x: int, to_y: int) -> None:
        """Press the button at one place, and let it go at another."""
        self._input.pointer_motion_absolute(x, y)
        self._input.button(LEFT_BUTTON, 1)
        self._input.pointer_motion_absolute((x + to_x) // 2, (y + to_y) // 2)
        self._input.pointer_motion_absolute(to_x, to_y)
        self._input.button(LEFT_BUTTON, 0)
        self._display.flush()

    def sync(self) -> None:
        """Wait until the compositor has taken in all of it."""
        self._display.roundtrip()

    def close(self) -> None:
        if self in OPEN:
            OPEN.remove(self)
            self._display.disconnect()


# Those that are not closed, as a test has failed: one that is collected as garbage takes the process down with it.
OPEN: list[Hand] = []


@atexit.register
def _close() -> None:
    for one in [*OPEN]:
        one.close()
