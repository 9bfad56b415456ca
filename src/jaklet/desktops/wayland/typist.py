"""Pressing keys for the program that has the focus, where the compositor has been told to let us.

Each stroke, from its first modifier down to its last one up, goes out at once, and the next one when the compositor has
done it. Which keys a hand still holds is told to nobody but who has the keyboard: so it is ours for a moment at first,
until no modifier is held.
"""

import time as clock
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

from jaklet.core.keys.strokes import DEAD, Stroke
from jaklet.core.values.chords import Chord, Modifier, keysym_of
from jaklet.core.values.desk import Press
from jaklet.core.values.errors import DeskError
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.fake_input import FakeInput
from jaklet.desktops.wayland.keyboard import WholeKeyboard

BUDGET: Final = 0.004  # seconds of strokes between two looks at everything else
HELD_FOR: Final = 3.0  # seconds that keys may be held before it is given up
LOOK_AGAIN: Final = 0.005  # seconds until held keys are looked at again
FRONT: Final = 1.0  # seconds in which the window has to have the keyboard back
NOT_GRANTED: Final = "the desktop does not let Jaklet press keys: see `jaklet doctor`"
_HOLDERS: Final = {
    Modifier.SHIFT: "shift_l", Modifier.CTRL: "control_l", Modifier.ALT: "alt_l", Modifier.SUPER: "super_l",
    Modifier.ALTGR: "iso_level3_shift",
}  # fmt: skip


@dataclass(slots=True)
class _Text:
    """Chords that are being pressed: how many are done, and since when something is waited for."""

    press: Press
    since: float
    done: int = 0


class WaylandTypist:
    """Presses what it is given, in order, a little at a time.

    `in_front` returns the window with the focus; `after` is called when all is done, as a layer may want the keyboard.
    """

    def __init__(
        self, wayland: Wayland, keyboard: WholeKeyboard, in_front: Callable[[], int | None], after: Callable[[], None]
    ) -> None:
        """Begin; raises `DeskError` where it is not granted."""
        if not wayland.has(FakeInput):
            raise DeskError(NOT_GRANTED)
        self._wayland, self._keyboard, self._in_front, self._after = wayland, keyboard, in_front, after
        self._input: Any = wayland.bind(FakeInput, 4)
        self._input.authenticate("Jaklet", "an action of its user presses keys")
        self._texts: deque[_Text] = deque()
        self._asks = False  # the keyboard is ours, to see what a hand holds
        self.failed: dict[Press, str] = {}  # why the last of them were given up
        self.next_look = 0.0  # when there is something to do again

    @property
    def under_way(self) -> tuple[Press, ...]:
        """What is not done yet."""
        return tuple(text.press for text in self._texts)

    def begin(self, press: Press) -> None:
        """Press these chords when those before them are done; raises `DeskError` where this keyboard lacks a key."""
        for chord in press.chords:
            if not self._strokes(chord):
                raise DeskError(f"{chord} cannot be pressed: this keyboard has no such key", "press another chord")
        self.failed.pop(press, None)
        self._texts.append(_Text(press, clock.monotonic()))
        self.next_look = 0.0
        self._keyboard.take_all()
        self._asks = True

    def go_on(self) -> bool:
        """Do some of the strokes; True if a text has come to its end."""
        until = clock.monotonic() + BUDGET
        ended = False
        while self._texts and (now := clock.monotonic()) < until:
            text = self._texts[0]
            if text.done < len(text.press.chords):
                problem = self._stroke(text, now)
                if problem is None:
                    self.next_look = now + LOOK_AGAIN
                    return ended
                if not problem:
                    text.done += 1
                    continue
                self.failed[text.press] = problem
            self._texts.popleft()
            ended = True
        if not self._texts:
            self._end()
        self.next_look = 0.0
        return ended

    def _stroke(self, text: _Text, now: float) -> str | None:
        """Press one chord. Return why it cannot be; an empty text if it was; None if something is waited for."""
        if self._asks:
            if self._keyboard.held:
                names = " and ".join(
                    name.lower() for one in Modifier if self._keyboard.held & one and (name := one.name)
                )
                return None if now - text.since < HELD_FOR else f"{_so_far(text)}: {names} is still held"
            if self._keyboard.has_capitals:
                return f"{_so_far(text)}, as Caps Lock is on"
            self._give_back()
            text.since = now
        if self._in_front() != text.press.window or self._keyboard.has_focus:
            if not text.done and now - text.since < FRONT:
                return None
            return f"{_so_far(text)}, as another window has the focus"
        for stroke in self._strokes(text.press.chords[text.done]):
            keys = [*self._holders(stroke.modifiers), stroke.key]
            for key in keys:
                self._input.keyboard_key(key, 1)
            for key in reversed(keys):
                self._input.keyboard_key(key, 0)
        self._wayland.sync()
        return ""

    def _strokes(self, chord: Chord) -> list[Stroke[int]]:
        """Return what is pressed for a chord: itself, or its dead key and then the space bar; none if it cannot be."""
        table = self._keyboard.table
        if found := table.strokes(chord)[:1]:
            return found
        dead, space = DEAD.get(chord.keysym), table.strokes(Chord(0, 0x20))[:1]
        first = table.strokes(chord._replace(keysym=dead))[:1] if dead else []
        return [*first, *space] if first and space else []

    def _holders(self, modifiers: int) -> list[int]:
        """Return a key for each of these modifiers."""
        held = [name for one, name in _HOLDERS.items() if modifiers & one]
        rows = self._keyboard.table.levels
        return [next(key for key, row in rows.items() if row[0] == keysym_of(name)) for name in held]

    def _give_back(self) -> None:
        if self._asks:
            self._asks = False
            self._keyboard.give_back()

    def _end(self) -> None:
        self._give_back()
        self._after()

    def give_up(self, press: Press) -> None:
        """Press no more of this."""
        self._texts = deque(text for text in self._texts if text.press != press)
        if not self._texts:
            self._end()


def _so_far(text: _Text) -> str:
    if not text.done:
        return "nothing was pressed"
    return f"only {text.done} of {len(text.press.chords)} keys were pressed"
