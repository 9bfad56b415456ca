"""The server's keyboard: what is grabbed of it, and what its events mean.

Chords are grabbed passively, so that all other keys go where they always go. A chord that may be the program's is
grabbed frozen: the server holds the key until AllowEvents says who gets it (X protocol). A chord that leads into a
layer is grabbed frozen, too, so that keys typed right after it do not reach the program. For a layer the whole keyboard
is taken, frozen from key to key.

A keyboard that stays frozen is dead for everybody. So every key that may have been frozen is answered, whatever has
become of its grab: an answer to a key that is not frozen does nothing. For a passive grab the answer carries the time
of the key, so that it cannot thaw a later one.
"""

import time as clock
from collections import deque
from typing import Any, Final, NamedTuple

import xcffib.xkb
import xcffib.xproto as xp

from jaklet.core.actions.ports.chord_source import HELD, KeyEdge, KeyEvent, RefusedChord, unheard
from jaklet.core.keys.keymap import NOTHING, HearableKeys
from jaklet.core.keys.strokes import RELEASED
from jaklet.core.values.chords import Chord, Modifier
from jaklet.desktops.x11.holders import KeyHolders
from jaklet.desktops.x11.keyboard_map import ALL_BITS, Grab, server_map
from jaklet.desktops.x11.wire import Wire

USE_CORE_KEYBOARD: Final = 0x100  # XKB protocol, XkbUseCoreKbd
_DETECTABLE_REPEAT: Final = 1  # XKB protocol, PerClientFlags
_MAP_EVENTS: Final = 3  # XKB protocol, NewKeyboardNotify and MapNotify
_ALL_PARTS: Final = 0xFF  # of a map
_STATE_EVENT, _BASE = 4, 2  # XKB protocol, StateNotify, of the modifiers that are held and not latched or locked
STATE_NOTIFY: Final = 2
XKB_EVENT: Final = xcffib.xkb.NewKeyboardNotifyEvent  # the library knows all events of this extension as its first one
PRESS, RELEASE = 2, 3  # event codes of the core protocol
LONGEST_WAIT: Final = 0.2  # seconds that a key may wait for its answer
CALM: Final = 1.5  # seconds after which window managers have taken the keys that they want
BEGUN: Final = 3.0  # the same after a login
LATE: Final = "it waited too long to be judged, and went to the program in front"
SLOWEST_REPEAT: Final = 3000  # milliseconds; a key that was silent for longer was let go where nobody saw it


class HeldKey(NamedTuple):
    """A key that is held: the chord as which it was pressed, and when it was last heard of."""

    chord: Chord | None
    time: int


class UnansweredKey(NamedTuple):
    """A key that waits for an answer: its keycode, the server's time of it, and since when it is known here."""

    code: int
    chord: Chord | None
    time: int
    since: float


class KeyboardGrabs:
    """What the keyboard has now, and what of it is grabbed."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._hearing = NOTHING
        self._chords: dict[Grab, Chord] = {}  # all that are heard
        self._frozen: dict[Grab, bool] = {}  # which of them may turn out to be the program's
        self._held: dict[Grab, bool] = {}  # what is grabbed, and whether frozen
        self._taken = False  # the whole keyboard is ours
        self._freezes = False  # something was grabbed frozen, some time
        self._waiting: deque[UnansweredKey] = deque()
        self._ask_at = float("inf")  # when to look whether others hold keys that they did not, or the other way round
        self._look_again = float("inf")  # when to look whether the keys are up for which the keyboard is still held
        self._down: dict[int, HeldKey] = {}  # keys that are held, by keycode
        self._told_held = 0  # the modifiers that are held, as it was told of them last
        self.holders = KeyHolders(wire)
        # A held key then repeats as presses without releases between them, so that a release is one.
        extension = wire.connection(xcffib.xkb.key)
        extension.UseExtension(1, 0).reply()
        extension.PerClientFlags(USE_CORE_KEYBOARD, _DETECTABLE_REPEAT, _DETECTABLE_REPEAT, 0, 0, 0).reply()
        # Who uses the extension is told of other maps by it, and no more by the core protocol.
        extension.SelectEvents(USE_CORE_KEYBOARD, _MAP_EVENTS, 0, _MAP_EVENTS, _ALL_PARTS, _ALL_PARTS, [])
        self.map = server_map(wire)

    def grab(self, hearing: HearableKeys) -> list[RefusedChord]:
        """Hear these keys: grab what is new, let go of what is not wanted any more."""
        if self._hearing == NOTHING:  # at the login, a window manager may take its keys after us
            self._ask_at = clock.monotonic() + BEGUN
        if bool(hearing.held) != bool(self._hearing.held):
            self._hear_modifiers(bool(hearing.held))
        self._hearing = hearing
        refusals = self._look_up()
        if hearing.every:
            refusals = self._take_all()
        else:
            refusals += self._grab_chords()
            refusals += self._unheard({refusal.chord for refusal in refusals})
            self._let_go()
        self._wire.flush()
        return sorted(refusals, key=lambda refusal: refusal.chord or ())

    def _hear_modifiers(self, on: bool) -> None:
        """Be told when a modifier goes down or up, or no more: no key is grabbed for that."""
        details = [_BASE, _BASE if on else 0]
        extension = self._wire.connection(xcffib.xkb.key)
        extension.SelectEvents(USE_CORE_KEYBOARD, _STATE_EVENT, 0, 0, 0, 0, details)

    def _look_up(self) -> list[RefusedChord]:
        """Find the keys of the chords; return those that this keyboard does not have."""
        self._chords, self._frozen, missing = {}, {}, []
        for chord in sorted(self._hearing.chords):
            grabs = self.map.grabs_of(chord)
            if isinstance(grabs, str):
                missing.append(RefusedChord(chord, grabs))
            else:
                self._chords |= dict.fromkeys(grabs, chord)
                # A key of several chords can be the program's only if each of them can.
                scoped = chord in self._hearing.scoped
                self._frozen |= {grab: scoped and self._frozen.get(grab, True) for grab in grabs}
        leading = {grab for grab, chord in self._chords.items() if chord in self._hearing.lead}
        self._frozen |= dict.fromkeys(leading, True)
        return missing

    def _grab_chords(self) -> list[RefusedChord]:
        core, root = self._wire.core, self._wire.root
        wanted = {
            (code, mask | locks): frozen for (code, mask), frozen in self._frozen.items() for locks in self.map.variants
        }
        kept = {grab: frozen for grab, frozen in self._held.items() if wanted.get(grab) is frozen}
        new = sorted(wanted.keys() - kept.keys())
        # Asked before anything is let go of, so that no time passes between the old keys and the new ones.
        others = self.holders.held({(code, mask & ~self.map.locks) for code, mask in new})
        for code, mask in self._held.keys() - kept.keys():
            core.UngrabKey(code, root, mask)
        self._held = kept
        asked = []
        for grab in (one for one in new if (one[0], one[1] & ~self.map.locks) not in others):
            mode = xp.GrabMode.Sync if wanted[grab] else xp.GrabMode.Async
            self._freezes |= wanted[grab]
            asked.append((grab, core.GrabKeyChecked(False, root, grab[1], grab[0], xp.GrabMode.Async, mode)))
        taken: set[Grab] = others
        for grab, cookie in asked:
            try:
                cookie.check()
                self._held[grab] = wanted[grab]
            except (xp.AccessError, xp.ValueError):
                taken.add((grab[0], grab[1] & ~self.map.locks))
        return [RefusedChord(lost, HELD) for lost in {self._chords[grab] for grab in taken}]

    def _unheard(self, refused: set[Chord | None]) -> list[RefusedChord]:
        """Return the chords of which a modifier's key is held by itself by somebody.

        Their grabs succeed, and never fire: the server gives all keys to whoever holds the first, until it is up.
        """
        chords = [chord for chord in sorted(self._hearing.chords) if chord not in refused]
        used = [one for one in Modifier if any(chord.modifiers & one for chord in chords)]
        taken = self.holders.of_modifiers(used, self.map.levels)
        if not taken:
            return []
        holder = self.holders.likely()
        found = ((chord, next((one for one in taken if chord.modifiers & one), None)) for chord in chords)
        return [unheard(chord, (one.name or "").lower(), holder) for chord, one in found if one]

    def _take_all(self) -> list[RefusedChord]:
        """Take the whole keyboard. The chords that are grabbed stay so: they mean nothing meanwhile."""
        if self._taken:
            return []
        frozen = xp.GrabMode.Sync
        reply = self._wire.core.GrabKeyboard(False, self._wire.root, 0, xp.GrabMode.Async, frozen).reply()
        if reply.status != xp.GrabStatus.Success:
            return [RefusedChord(None, "another program holds the keyboard")]
        self._taken = self._freezes = True
        if not self._waiting:  # else the answer to the key that led here lets the next one go on
            self._allow(xp.Allow.SyncKeyboard)
        return []

    def _let_go(self) -> None:
        """Give the keyboard back, but not while a key is held that was ours: its repeats are nobody else's."""
        if self._taken and self._down:
            down = self._wire.core.QueryKeymap().reply().keys
            self._down = {code: one for code, one in self._down.items() if down[code // 8] >> code % 8 & 1}
        if self._taken and not self._down:
            self.release()
        self._look_again = clock.monotonic() + LONGEST_WAIT if self._taken else float("inf")

    def release(self) -> None:
        """Give back what is held of the keyboard: all of it, or the chord whose key is down. It is frozen no more."""
        self._taken = False
        self._wire.core.UngrabKeyboard(0)
        self._wire.flush()

    def _allow(self, how: int, time: int = 0) -> None:
        self._wire.allow_events.send(how, time)
        self._wire.flush()

    def answer(self, passed: bool) -> None:
        """Let the key that waits go on to the program, or keep it."""
        if not self._waiting:
            return
        key = self._waiting.popleft()
        if not passed:
            self._thaw(key.time)
        elif self._taken:
            self._allow(xp.Allow.ReplayKeyboard)
            self._down.clear()
            self.release()
        else:
            self._allow(xp.Allow.ReplayKeyboard, key.time)
            self._down.pop(key.code, None)

    def _thaw(self, time: int) -> None:
        """Keep a key: the whole keyboard, if that is ours, up to the next one."""
        if self._taken:
            self._allow(xp.Allow.SyncKeyboard)
        else:
            self._allow(xp.Allow.AsyncKeyboard, time)

    @property
    def due(self) -> float:
        """When to `tend` to it at the latest."""
        return min(self._ask_at, self._look_again, self._late_at() if self._waiting else float("inf"))

    def _late_at(self) -> float:
        """Return when the key that waits has waited too long; what is typed into has a limit of its own."""
        patient = not self._waiting or self._hearing.typed
        return float("inf") if patient else self._waiting[0].since + LONGEST_WAIT

    def tend(self) -> list[RefusedChord]:
        """Give back what there is no reason to hold any more; return the keys that waited too long for an answer."""
        if not self._hearing.every:
            self._let_go()
        late = []
        while clock.monotonic() > self._late_at():
            late.append(RefusedChord(self._waiting[0].chord, LATE))
            self.answer(passed=True)
        return late

    @property
    def held_for(self) -> str:
        """Why the keyboard, or a key, is kept from programs now; empty if it is not."""
        if self._waiting:
            return f"{self._waiting[0].chord or 'a key'} waits to be judged"
        if self._taken:
            if self._hearing.typed:
                return "something is open over the windows"
            return "a layer is on" if self._hearing.every else "a key of a layer that is over is still down"
        return ""

    # --- for the typist ---

    def release_grabs(self) -> None:
        """Let the keys that are pressed next reach programs, though a key of ours is held."""
        if self._taken or self._down:
            self._down.clear()
            self.release()

    def hear_again(self) -> None:
        """Take the whole keyboard again, if it is to be heard."""
        if self._hearing.every:
            self._take_all()

    def follow(self) -> list[RefusedChord] | None:
        """Read the keyboard again after it changed, and grab the same keys on it; None if it is the same after all."""
        read = server_map(self._wire)
        if read == self.map:
            return None  # the server tells of a new map whenever another keyboard with the same one is used
        self.map = read
        self.ask_again()
        return self.grab(self._hearing)

    def ask_again(self) -> None:
        """Look anew at what others hold, in a while: by then they have taken their keys on another keyboard."""
        self._ask_at = clock.monotonic() + CALM

    def asked_again(self) -> list[RefusedChord] | None:
        """Return the chords that cannot be had, if it is time to look at that anew."""
        if clock.monotonic() < self._ask_at:
            return None
        self._ask_at = float("inf")
        self.holders.forget()
        return self.grab(self._hearing)

    def take_modifiers(self, event: Any) -> KeyEvent | None:
        """Return that modifiers are held now, or are no more; None for those that nobody asks for.

        Of an XKB StateNotify the library knows only the bytes: of two masks of modifiers the second is of keys held.
        """
        now = self.map.held(event.minKeyCode)
        now = now if now in self._hearing.held else 0
        before, self._told_held = self._told_held, now
        return KeyEvent(KeyEdge.HOLD, None, event.time, held=now) if now != before else None

    def take(self, event: Any) -> KeyEvent | None:
        """Return the key event for an event of the server, or None."""
        code = event.detail
        if isinstance(event, xp.KeyReleaseEvent):
            down = self._down.pop(code, None)
            if self._taken and not self._hearing.every:
                self._let_go()  # first, as the next key is the program's
            if self._taken and self._hearing.typed and self.map.is_last_modifier(code, event.state):
                self._waiting.append(UnansweredKey(code, None, event.time, clock.monotonic()))
                return KeyEvent(KeyEdge.RELEASE, None, event.time, True, RELEASED)
            if self._taken:
                self._allow(xp.Allow.SyncKeyboard)
            return KeyEvent(KeyEdge.RELEASE, down.chord, event.time) if down else None
        if code in self.map.modifier_codes:
            if self._taken:
                self._allow(xp.Allow.SyncKeyboard)
            return None
        down = self._down.get(code)
        repeated = down is not None and event.time - down.time < SLOWEST_REPEAT
        chord = down.chord if down and repeated else self._chords.get((code, event.state & ALL_BITS & ~self.map.locks))
        if chord is None and not self._taken:
            # Pressed while another key of ours is held, or grabbed before it meant nothing any more.
            if self._freezes:
                self._allow(xp.Allow.ReplayKeyboard, event.time)
            return None
        self._down[code] = HeldKey(chord, event.time)
        if self._freezes:
            self._waiting.append(UnansweredKey(code, chord, event.time, clock.monotonic()))
        typed = self.map.typed(code, event.state) if self._hearing.typed else None
        return KeyEvent(KeyEdge.REPEAT if repeated else KeyEdge.PRESS, chord, event.time, self._freezes, typed)
