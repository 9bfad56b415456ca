"""Pressing keys for the program that has the focus, stroke by stroke (XTEST protocol).

Each stroke, from its first modifier down to its last one up, goes out in one write, after the server has answered that
the one before is done: so nothing is lost, and no key stays down, at whatever moment this process may end. Before each
stroke the server is asked what would spoil it: keys that a hand still holds, which are waited for; locks and another
group of the keyboard, which are taken back for the while; a focus that has gone elsewhere, which ends it.
"""

from typing import Any, Final

import xcffib.xkb
import xcffib.xproto as xp
import xcffib.xtest

from jaklet.core.values.chords import Chord
from jaklet.desktops.pressing import HELD_FOR, ChordRun, Pressing
from jaklet.desktops.x11.fixed_requests import GONE
from jaklet.desktops.x11.grabs import PRESS, RELEASE, USE_CORE_KEYBOARD, KeyboardGrabs
from jaklet.desktops.x11.wire import Wire, words_of

DEEPEST: Final = 32  # windows within each other, from one with the focus to the one that the manager knows
_ALL_MODIFIERS: Final = 0xFF


class Typist(Pressing):
    """Presses keys by XTEST."""

    def __init__(self, wire: Wire, keyboard: KeyboardGrabs) -> None:
        super().__init__()
        self._wire, self._keyboard = wire, keyboard
        self._fake: Any = wire.connection(xcffib.xtest.key).FakeInput
        self._xkb: Any = wire.connection(xcffib.xkb.key)
        self._locked: tuple[int, int] | None = None  # modifiers and group that were locked, and are to be so again

    def _problem(self, chord: Chord) -> str:
        strokes = self._keyboard.map.strokes_of(chord)
        return strokes if isinstance(strokes, str) else ""

    def _stroke(self, text: ChordRun, now: float) -> str | None:
        core, wire, keyboard = self._wire.core, self._wire, self._keyboard
        keyboard.release_grabs()  # while a key of ours is held, the server would give us the strokes
        asked = (
            self._xkb.GetState(USE_CORE_KEYBOARD), core.QueryKeymap(), core.GetInputFocus(),
            wire.ask(wire.root, "_NET_ACTIVE_WINDOW"),
        )  # fmt: skip
        state, keys, focus = (cookie.reply() for cookie in asked[:3])
        active = next(iter(words_of(asked[3].reply())), 0)
        if problem := self._elsewhere(text, int(focus.focus), active):
            return problem
        chord = text.press.chords[text.done]
        strokes = keyboard.map.strokes_of(chord)
        if isinstance(strokes, str):  # the keyboard is another one since this was begun
            return f"{text.so_far}: {chord} cannot be pressed: {strokes}"
        in_the_way = {*keyboard.map.modifier_codes, *(code for code, _ in strokes)}
        held = [one for one in in_the_way if keys.keys[one // 8] >> one % 8 & 1]
        if held:
            for one in held:
                self._fake(RELEASE, one, 0, wire.root, 0, 0, 0)
            wire.flush()
            text.held_since = text.held_since or now
            if now - text.held_since > HELD_FOR:
                names = sorted({keyboard.map.name_of(one) for one in held})
                return f"{text.so_far}: {', '.join(names)} is still held"
            return None
        text.held_since = None
        self._unlock(state)
        for code, mask in strokes:
            keys_down = (*keyboard.map.holders_of(mask), code)
            for one in keys_down:
                self._fake(PRESS, one, 0, wire.root, 0, 0, 0)
            for one in reversed(keys_down):
                self._fake(RELEASE, one, 0, wire.root, 0, 0, 0)
        self._lock_again()  # in the same write: whenever this process ends, the locks are as they were
        wire.flush()
        return ""

    def _elsewhere(self, text: ChordRun, focus: int, active: int) -> str:
        """Return in words that the focus is not where it was when this was asked for; empty if it is."""
        wanted = text.press.window
        if text.focus is None:
            text.focus = focus
        if active == wanted and (focus == text.focus or self._is_within(focus, wanted)):
            return ""
        return f"{text.so_far}, as another window has the focus"

    def _is_within(self, window: int, outer: int) -> bool:
        for _ in range(DEEPEST):
            if window == outer:
                return True
            if window <= xp.InputFocus.PointerRoot or window == self._wire.root:
                return False
            try:
                window = int(self._wire.core.QueryTree(window).reply().parent)
            except GONE:
                return False
        return False

    def _unlock(self, state: Any) -> None:
        """Take back Caps Lock, other locks and another group; they are put back behind the stroke."""
        locked = state.lockedMods & ~self._keyboard.map.harmless_locks
        if not (locked or state.latchedMods or state.group):
            return
        before = self._locked or (0, 0)
        self._locked = before[0] | locked, before[1] or state.lockedGroup
        self._lock(_ALL_MODIFIERS & ~self._keyboard.map.harmless_locks, 0, 0)

    def _lock(self, affected: int, modifiers: int, group: int) -> None:
        """Lock modifiers and a group, and end all latches (XKB protocol, XkbLatchLockState)."""
        self._xkb.LatchLockState(USE_CORE_KEYBOARD, affected, modifiers, True, group, _ALL_MODIFIERS, True, 0)

    def _lock_again(self) -> None:
        if self._locked:
            modifiers, group = self._locked
            self._locked = None
            self._lock(modifiers, modifiers, group)

    def _restore(self) -> None:
        """Lock again what was, and hear again what is to be heard; the server has done all when this returns."""
        self._lock_again()
        self._wire.sync()
        self._keyboard.hear_again()

    def close(self) -> None:
        """Press nothing more."""
        self._texts.clear()
        self._restore()
