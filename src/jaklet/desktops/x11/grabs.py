"""The server's keyboard: from chords to keycodes and modifier masks, and what is grabbed of it.

Keys are looked up in group 1 of the core keyboard mapping. Chords are grabbed passively, so that all other keys go
where they always go. A chord that may turn out to be the program's is grabbed frozen: the server waits until it is told
to let it go on or to us (X protocol, AllowEvents). So is one that leads into a layer, so that what is typed right
behind it is not the program's. For a layer the whole keyboard is taken, frozen from key to key.

A keyboard that stays frozen is dead for everybody, so every key that may have been frozen is answered, whatever has
become of its grab by the time it is read: an answer to a key that is not frozen does nothing. For a key that was
grabbed by itself the answer carries the time of the key, so that it cannot thaw a later one.
"""

import time as clock
from collections import deque
from collections.abc import Iterable
from itertools import chain, combinations
from typing import Any, Final, NamedTuple

import xcffib.xkb
import xcffib.xproto as xp

from jaklet.core.actions.ports.chords import HELD, Edge, KeyEvent, Refusal, Typed, unheard
from jaklet.core.keys.keymap import NOTHING, Hearing, Twins
from jaklet.core.keys.strokes import KeyTable, keysym_at, letter_of, small
from jaklet.core.values.chords import MODIFIER_KEYS, Chord, Modifier, key_name
from jaklet.desktops.x11.holders import Grab, Holders
from jaklet.desktops.x11.wire import Wire

SHIFT, LOCK, CONTROL = 1, 2, 4
_EIGHT: Final = 0xFF  # the modifier bits of an event's state; above them are buttons and the XKB group
# Which keysyms mark the modifier bits that a server may hand out as it likes (X protocol, Mod1 to Mod5).
_MARKS: Final = {
    Modifier.SUPER: (0xFFEB, 0xFFEC),
    Modifier.ALT: (0xFFE9, 0xFFEA),
    Modifier.ALTGR: (0xFE03, 0xFF7E),  # ISO_Level3_Shift, Mode_switch
}
_LOCKS: Final = (0xFF7F, 0xFF14)  # Num_Lock, Scroll_Lock
_LEVEL_KEYS: Final = range(0xFE01, 0xFE10)  # ISO_Lock to ISO_Last_Group_Lock
USE_CORE_KEYBOARD: Final = 0x100  # XKB protocol, XkbUseCoreKbd
_DETECTABLE_REPEAT: Final = 1  # XKB protocol, PerClientFlags
_MAP_EVENTS: Final = 3  # XKB protocol, NewKeyboardNotify and MapNotify
_ALL_PARTS: Final = 0xFF  # of a map
MAP_EVENT: Final = xcffib.xkb.NewKeyboardNotifyEvent  # the library knows all events of this extension as its first one
PRESS, RELEASE = 2, 3  # event codes of the core protocol
LONGEST_WAIT: Final = 0.2  # seconds that a key may wait for its answer
CALM: Final = 1.5  # seconds after which window managers have taken the keys that they want
BEGUN: Final = 3.0  # the same after a login
LATE: Final = "it waited too long to be judged, and went to the program in front"
_SPACE: Final = 0x20
_DEAD: Final = {0x60: 0xFE50, 0x5E: 0xFE52, 0x7E: 0xFE53}  # ` ^ ~: some keyboards have them as dead keys alone
SLOWEST_REPEAT: Final = 3000  # milliseconds; a key that was silent for longer was let go where nobody saw it


def server_levels(wire: Wire) -> dict[int, tuple[int, ...]]:
    """Return what is on the keys of the server's keyboard: keysyms of up to four levels by keycode."""
    count = wire.max_keycode - wire.min_keycode + 1
    reply = wire.core.GetKeyboardMapping(wire.min_keycode, count).reply()
    wide, keysyms = reply.keysyms_per_keycode, list(reply.keysyms)
    rows = {wire.min_keycode + i: keysyms[i * wide : (i + 1) * wide] for i in range(count)}
    # Columns of a core mapping that XKB makes: two levels of group 1, two of group 2, two more of group 1.
    return {code: (*row[:2], *row[4:6]) for code, row in rows.items()}


def _mask_of(marks: Iterable[int], rows: list[list[int]], levels: dict[int, tuple[int, ...]]) -> int:
    """Return the modifier bits on whose keys one of these keysyms is. `rows`: the keycodes of each bit."""
    wanted = set(marks)
    return sum(1 << bit for bit, codes in enumerate(rows) if any(wanted & set(levels.get(c, ())) for c in codes))


def _silent_keys(rows: list[list[int]], levels: dict[int, tuple[int, ...]]) -> set[int]:
    """Return the keycodes of the modifier keys, which mean nothing by themselves."""
    named = {code for code, row in levels.items() if row and (row[0] in MODIFIER_KEYS or row[0] in _LEVEL_KEYS)}
    return named | {code for codes in rows for code in codes if code}


class Down(NamedTuple):
    """A key that is held: the chord as which it was pressed, and when it was last heard of."""

    chord: Chord | None
    time: int


class Asked(NamedTuple):
    """A key that waits for an answer: its keycode, the server's time of it, and since when it is known here."""

    code: int
    chord: Chord | None
    time: int
    since: float


class Keyboard:
    """What the keyboard has now, and what of it is grabbed."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._hearing = NOTHING
        self._chords: dict[Grab, Chord] = {}  # all that are heard
        self._frozen: dict[Grab, bool] = {}  # which of them may turn out to be the program's
        self._held: dict[Grab, bool] = {}  # what is grabbed, and whether frozen
        self._taken = False  # the whole keyboard is ours
        self._freezes = False  # something was grabbed frozen, some time
        self._waiting: deque[Asked] = deque()
        self._ask_at = float("inf")  # when to look whether others hold keys that they did not, or the other way round
        self._look_again = float("inf")  # when to look whether the keys are up for which the keyboard is still held
        self._down: dict[int, Down] = {}  # keys that are held, by keycode
        self.holders = Holders(wire)
        self._known: tuple[dict[int, tuple[int, ...]], list[list[int]]] | None = None
        # A held key then repeats as presses without releases between them, so that a release is one.
        extension = wire.connection(xcffib.xkb.key)
        extension.UseExtension(1, 0).reply()
        extension.PerClientFlags(USE_CORE_KEYBOARD, _DETECTABLE_REPEAT, _DETECTABLE_REPEAT, 0, 0, 0).reply()
        # Who uses the extension is told of other maps by it, and no more by the core protocol.
        extension.SelectEvents(USE_CORE_KEYBOARD, _MAP_EVENTS, 0, _MAP_EVENTS, _ALL_PARTS, _ALL_PARTS, [])
        self.read()

    def read(self) -> bool:
        """Read the keyboard and modifier mapping; False if they are as they were."""
        modifiers = self._wire.core.GetModifierMapping()
        levels = server_levels(self._wire)
        keys = modifiers.reply()
        wide = keys.keycodes_per_modifier
        rows = [list(keys.keycodes[i * wide : (i + 1) * wide]) for i in range(8)]
        if (levels, rows) == self._known:
            return False  # the server tells of a new map whenever another keyboard with the same one is used
        self._known = levels, rows

        self._masks = {modifier: _mask_of(marks, rows, levels) for modifier, marks in _MARKS.items()}
        self._masks |= {Modifier.SHIFT: SHIFT, Modifier.CTRL: CONTROL}
        locks = sorted({LOCK, *(mask for mark in _LOCKS if (mask := _mask_of([mark], rows, levels)))})
        self._ignored = sum(locks)
        self._num_lock = _mask_of(_LOCKS[:1], rows, levels)
        every = chain.from_iterable(combinations(locks, n) for n in range(len(locks) + 1))
        self._variants = [sum(some) for some in every]
        self._table = KeyTable(levels)
        self._holders = [[code for code in codes if code] for codes in rows]
        self._silent = _silent_keys(rows, levels)
        self._grabs: dict[Chord, list[Grab] | str] = {}
        return True

    def grabs_of(self, chord: Chord) -> list[Grab] | str:
        """Return keycodes and masks of a chord, without locks; or why this keyboard cannot have it."""
        if chord not in self._grabs:
            self._grabs[chord] = self._find(chord)
        return self._grabs[chord]

    def _find(self, chord: Chord) -> list[Grab] | str:
        grabs = []
        for code, modifiers in self._table.strokes(chord):
            mask = 0
            for modifier in Modifier:
                if modifiers & modifier:
                    if not self._masks[modifier]:
                        return f"this keyboard has no {modifier.name.lower() if modifier.name else ''} modifier"
                    mask |= self._masks[modifier]
            grabs.append((code, mask))
        return grabs or "this keyboard has no such key"

    def twins(self, chords: Iterable[Chord]) -> Twins:
        """Return which of these chords are one key on this keyboard, for each the others."""
        by_grab: dict[Grab, list[Chord]] = {}
        for chord in set(chords):
            grabs = self.grabs_of(chord)
            for grab in () if isinstance(grabs, str) else grabs:
                by_grab.setdefault(grab, []).append(chord)
        found: dict[Chord, set[Chord]] = {}
        for group in by_grab.values():
            for chord in group if len(group) > 1 else ():
                found.setdefault(chord, set()).update(other for other in group if other != chord)
        return {chord: tuple(sorted(others)) for chord, others in found.items()}

    def grab(self, hearing: Hearing) -> list[Refusal]:
        """Hear these keys: grab what is new, let go of what is not wanted any more."""
        if self._hearing == NOTHING:  # at the login, a window manager may take its keys after us
            self._ask_at = clock.monotonic() + BEGUN
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

    def _look_up(self) -> list[Refusal]:
        """Find the keys of the chords; return those that this keyboard does not have."""
        self._chords, self._frozen, missing = {}, {}, []
        for chord in sorted(self._hearing.chords):
            grabs = self.grabs_of(chord)
            if isinstance(grabs, str):
                missing.append(Refusal(chord, grabs))
            else:
                self._chords |= dict.fromkeys(grabs, chord)
                # A key of several chords can be the program's only if each of them can.
                scoped = chord in self._hearing.scoped
                self._frozen |= {grab: scoped and self._frozen.get(grab, True) for grab in grabs}
        leading = {grab for grab, chord in self._chords.items() if chord in self._hearing.lead}
        self._frozen |= dict.fromkeys(leading, True)
        return missing

    def _grab_chords(self) -> list[Refusal]:
        core, root = self._wire.core, self._wire.root
        wanted = {
            (code, mask | locks): frozen for (code, mask), frozen in self._frozen.items() for locks in self._variants
        }
        kept = {grab: frozen for grab, frozen in self._held.items() if wanted.get(grab) is frozen}
        new = sorted(wanted.keys() - kept.keys())
        # Asked before anything is let go of, so that no time passes between the old keys and the new ones.
        others = self.holders.held({(code, mask & ~self._ignored) for code, mask in new})
        for code, mask in self._held.keys() - kept.keys():
            core.UngrabKey(code, root, mask)
        self._held = kept
        asked = []
        for grab in (one for one in new if (one[0], one[1] & ~self._ignored) not in others):
            mode = xp.GrabMode.Sync if wanted[grab] else xp.GrabMode.Async
            self._freezes |= wanted[grab]
            asked.append((grab, core.GrabKeyChecked(False, root, grab[1], grab[0], xp.GrabMode.Async, mode)))
        taken: set[Grab] = others
        for grab, cookie in asked:
            try:
                cookie.check()
                self._held[grab] = wanted[grab]
            except (xp.AccessError, xp.ValueError):
                taken.add((grab[0], grab[1] & ~self._ignored))
        return [Refusal(lost, HELD) for lost in {self._chords[grab] for grab in taken}]

    def _unheard(self, refused: set[Chord | None]) -> list[Refusal]:
        """Return the chords of which a modifier's key is held by itself by somebody.

        Their grabs succeed, and never fire: the server gives all keys to whoever holds the first, until it is up.
        """
        chords = [chord for chord in sorted(self._hearing.chords) if chord not in refused]
        used = [one for one in Modifier if any(chord.modifiers & one for chord in chords)]
        taken = self.holders.of_modifiers(used, self._table.levels)
        if not taken:
            return []
        holder = self.holders.likely()
        found = ((chord, next((one for one in taken if chord.modifiers & one), None)) for chord in chords)
        return [unheard(chord, (one.name or "").lower(), holder) for chord, one in found if one]

    def _take_all(self) -> list[Refusal]:
        """Take the whole keyboard. The chords that are grabbed stay so: they mean nothing meanwhile."""
        if self._taken:
            return []
        frozen = xp.GrabMode.Sync
        reply = self._wire.core.GrabKeyboard(False, self._wire.root, 0, xp.GrabMode.Async, frozen).reply()
        if reply.status != xp.GrabStatus.Success:
            return [Refusal(None, "another program holds the keyboard")]
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
        self._wire.core.AllowEvents(how, time)
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
        return min(
            self._ask_at, self._look_again, self._waiting[0].since + LONGEST_WAIT if self._waiting else float("inf")
        )

    def tend(self) -> list[Refusal]:
        """Give back what there is no reason to hold any more; return the keys that waited too long for an answer."""
        if not self._hearing.every:
            self._let_go()
        late = []
        while self._waiting and clock.monotonic() - self._waiting[0].since > LONGEST_WAIT:
            late.append(Refusal(self._waiting[0].chord, LATE))
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

    @property
    def modifier_codes(self) -> set[int]:
        """The keycodes of all modifier keys."""
        return self._silent

    @property
    def harmless_locks(self) -> int:
        """The modifier bits of the locks that change no text: Num Lock and Scroll Lock."""
        return self._ignored & ~LOCK

    def strokes_of(self, chord: Chord) -> list[Grab] | str:
        """Return what is pressed for a chord: itself, or its dead key and then the space bar; or why it cannot be."""
        grabs = self.grabs_of(chord)
        dead = _DEAD.get(chord.keysym)
        if dead is None or not isinstance(grabs, str):
            return grabs if isinstance(grabs, str) else grabs[:1]
        first, space = self.grabs_of(chord._replace(keysym=dead)), self.grabs_of(Chord(0, _SPACE))
        return grabs if isinstance(first, str) or isinstance(space, str) else [first[0], space[0]]

    def holders_of(self, mask: int) -> list[int]:
        """Return a key for each of these modifier bits."""
        return [codes[0] for bit, codes in enumerate(self._holders) if mask >> bit & 1 and codes]

    def name_of(self, code: int) -> str:
        """Return what a key is called by its user; a modifier as in chords."""
        keysym = next(iter(self._table.levels.get(code, ())), 0)
        name = key_name(keysym)
        word = name.partition("_")[0] if code in self._silent else name
        return {"control": "ctrl", "iso": "altgr"}.get(word, word)

    def follow(self) -> list[Refusal] | None:
        """Read the keyboard again after it changed, and grab the same keys on it; None if it is the same after all."""
        if not self.read():
            return None
        self.ask_again()
        return self.grab(self._hearing)

    def ask_again(self) -> None:
        """Look anew at what others hold, in a while: by then they have taken their keys on another keyboard."""
        self._ask_at = clock.monotonic() + CALM

    def asked_again(self) -> list[Refusal] | None:
        """Return the chords that cannot be had, if it is time to look at that anew."""
        if clock.monotonic() < self._ask_at:
            return None
        self._ask_at = float("inf")
        self.holders.forget()
        return self.grab(self._hearing)

    def take(self, event: Any) -> KeyEvent | None:
        """Return what a key event of the server means, if it means anything."""
        code = event.detail
        if isinstance(event, xp.KeyReleaseEvent):
            down = self._down.pop(code, None)
            if self._taken and not self._hearing.every:
                self._let_go()  # first, as the next key is the program's
            if self._taken:
                self._allow(xp.Allow.SyncKeyboard)
            return KeyEvent(Edge.RELEASE, down.chord, event.time) if down else None
        if code in self._silent:
            if self._taken:
                self._allow(xp.Allow.SyncKeyboard)
            return None
        down = self._down.get(code)
        repeated = down is not None and event.time - down.time < SLOWEST_REPEAT
        chord = down.chord if down and repeated else self._chords.get((code, event.state & _EIGHT & ~self._ignored))
        if chord is None and not self._taken:
            # Pressed while another key of ours is held, or grabbed before it meant nothing any more.
            if self._freezes:
                self._allow(xp.Allow.ReplayKeyboard, event.time)
            return None
        self._down[code] = Down(chord, event.time)
        if self._freezes:
            self._waiting.append(Asked(code, chord, event.time, clock.monotonic()))
        edge = Edge.REPEAT if repeated else Edge.PRESS
        return KeyEvent(
            edge, chord, event.time, self._freezes, self.typed(code, event.state) if self._hearing.typed else None
        )

    def typed(self, code: int, state: int) -> Typed:
        """Return what a key types with what is held and locked."""
        held = sum(int(one) for one, mask in self._masks.items() if mask and state & mask)
        locks = bool(state & LOCK), bool(state & self._num_lock)
        keysym = keysym_at(self._table.levels.get(code, ()), held, *locks)
        text = letter_of(keysym)
        bare = held & ~(Modifier.SHIFT | Modifier.ALTGR) if text else held
        return Typed(str(Chord(bare, small(keysym))), "" if bare else text)
