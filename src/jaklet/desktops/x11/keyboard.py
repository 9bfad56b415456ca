"""The server's keyboard: from chords to keycodes and modifier masks, and what is grabbed of it.

Keys are looked up in group 1 of the core keyboard mapping. Chords are grabbed passively, so that all other keys go
where they always go. A chord that may turn out to be the program's is grabbed frozen: the server waits until it is told
to let it go on or to us (X protocol, AllowEvents). For a layer the whole keyboard is taken, frozen from key to key.
"""

from collections.abc import Iterable
from itertools import chain, combinations
from typing import Any, Final, NamedTuple

import xcffib.xkb
import xcffib.xproto as xp
import xcffib.xtest

from jaklet.core.errors import DeskError
from jaklet.core.keys.chords import MODIFIER_KEYS, Chord, Modifier
from jaklet.core.keys.keymap import NOTHING, Hearing
from jaklet.core.keys.keytables import KeyTable
from jaklet.core.ports import HELD, Edge, KeyEvent, Refusal
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
_USE_CORE_KEYBOARD: Final = 0x100  # XKB protocol, XkbUseCoreKbd
_DETECTABLE_REPEAT: Final = 1  # XKB protocol, PerClientFlags
_MAP_EVENTS: Final = 3  # XKB protocol, NewKeyboardNotify and MapNotify
_ALL_PARTS: Final = 0xFF  # of a map
MAP_EVENT: Final = xcffib.xkb.NewKeyboardNotifyEvent  # the library knows all events of this extension as its first one
PRESS, RELEASE = 2, 3  # event codes of the core protocol
SLOWEST_REPEAT: Final = 3000  # milliseconds; a key that was silent for longer was let go where nobody saw it

Grab = tuple[int, int]  # keycode, modifier mask


def server_levels(wire: Wire) -> dict[int, tuple[int, ...]]:
    """Return what is on the keys of the server's keyboard: keysyms of up to four levels by keycode."""
    count = wire.max_keycode - wire.min_keycode + 1
    reply = wire.core.GetKeyboardMapping(wire.min_keycode, count).reply()
    wide, keysyms = reply.keysyms_per_keycode, list(reply.keysyms)
    rows = {wire.min_keycode + i: keysyms[i * wide : (i + 1) * wide] for i in range(count)}
    # Columns of a core mapping that XKB makes: two levels of group 1, two of group 2, two more of group 1.
    return {code: (*row[:2], *row[4:6]) for code, row in rows.items()}


class Down(NamedTuple):
    """A key that is held: the chord as which it was pressed, and when it was last heard of."""

    chord: Chord | None
    time: int


class Keyboard:
    """What the keyboard has now, and what of it is grabbed."""

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._hearing = NOTHING
        self._chords: dict[Grab, Chord] = {}  # all that are heard
        self._held: dict[Grab, bool] = {}  # what is grabbed, and whether frozen
        self._taken = False  # the whole keyboard is ours
        self._down: dict[int, Down] = {}  # keys that are held, by keycode
        self._known: tuple[dict[int, tuple[int, ...]], list[list[int]]] | None = None
        # A held key then repeats as presses without releases between them, so that a release is one.
        extension = wire.connection(xcffib.xkb.key)
        extension.UseExtension(1, 0).reply()
        extension.PerClientFlags(_USE_CORE_KEYBOARD, _DETECTABLE_REPEAT, _DETECTABLE_REPEAT, 0, 0, 0).reply()
        # Who uses the extension is told of other maps by it, and no more by the core protocol.
        extension.SelectEvents(_USE_CORE_KEYBOARD, _MAP_EVENTS, 0, _MAP_EVENTS, _ALL_PARTS, _ALL_PARTS, [])
        self.read()

    def read(self) -> None:
        """Read the keyboard and modifier mapping."""
        modifiers = self._wire.core.GetModifierMapping()
        levels = server_levels(self._wire)
        keys = modifiers.reply()
        wide = keys.keycodes_per_modifier
        rows = [list(keys.keycodes[i * wide : (i + 1) * wide]) for i in range(8)]
        if (levels, rows) == self._known:
            return  # the server tells of a new map whenever another keyboard with the same one is used
        self._known = levels, rows

        def mask_of(marks: Iterable[int]) -> int:
            wanted = set(marks)
            return sum(
                1 << bit for bit, codes in enumerate(rows) if any(wanted & set(levels.get(c, ())) for c in codes)
            )

        self._masks = {modifier: mask_of(marks) for modifier, marks in _MARKS.items()}
        self._masks |= {Modifier.SHIFT: SHIFT, Modifier.CTRL: CONTROL}
        locks = [LOCK, *(mask for mark in _LOCKS if (mask := mask_of([mark])))]
        self._ignored = sum(set(locks))
        every = chain.from_iterable(combinations(sorted(set(locks)), n) for n in range(len(set(locks)) + 1))
        self._variants = [sum(some) for some in every]
        self._table = KeyTable(levels)
        self._holders = [[code for code in codes if code] for codes in rows]
        self._silent = {  # modifier keys, which mean nothing by themselves
            code for code, row in levels.items() if row and (row[0] in MODIFIER_KEYS or row[0] in _LEVEL_KEYS)
        } | {code for codes in rows for code in codes if code}
        self._grabs: dict[Chord, list[Grab] | str] = {}

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

    def grab(self, hearing: Hearing) -> list[Refusal]:
        """Hear these keys: grab what is new, let go of what is not wanted any more."""
        self._hearing = hearing
        refusals = self._look_up()
        if hearing.every:
            refusals = self._take_all()
        else:
            refusals += self._grab_chords()
            self._let_go()
        self._wire.flush()
        return sorted(refusals, key=lambda refusal: refusal.chord or ())

    def _look_up(self) -> list[Refusal]:
        """Find the keys of the chords; return those that this keyboard does not have."""
        self._chords, missing = {}, []
        for chord in sorted(self._hearing.chords):
            grabs = self.grabs_of(chord)
            if isinstance(grabs, str):
                missing.append(Refusal(chord, grabs))
            else:
                self._chords |= dict.fromkeys(grabs, chord)
        return missing

    def _grab_chords(self) -> list[Refusal]:
        core, root = self._wire.core, self._wire.root
        wanted = {
            (code, mask | locks): chord in self._hearing.scoped
            for (code, mask), chord in self._chords.items()
            for locks in self._variants
        }
        for (code, mask), frozen in self._held.items():
            if wanted.get((code, mask)) is not frozen:
                core.UngrabKey(code, root, mask)
        self._held = {grab: frozen for grab, frozen in self._held.items() if wanted.get(grab) is frozen}
        asked = []
        for grab in sorted(wanted.keys() - self._held.keys()):
            mode = xp.GrabMode.Sync if wanted[grab] else xp.GrabMode.Async
            asked.append((grab, core.GrabKeyChecked(False, root, grab[1], grab[0], xp.GrabMode.Async, mode)))
        taken: set[Grab] = set()
        for grab, cookie in asked:
            try:
                cookie.check()
                self._held[grab] = wanted[grab]
            except (xp.AccessError, xp.ValueError):
                taken.add((grab[0], grab[1] & ~self._ignored))
        return [Refusal(lost, HELD) for lost in {self._chords[grab] for grab in taken}]

    def _take_all(self) -> list[Refusal]:
        """Take the whole keyboard. The chords that are grabbed stay so: they mean nothing meanwhile."""
        if self._taken:
            return []
        frozen = xp.GrabMode.Sync
        reply = self._wire.core.GrabKeyboard(False, self._wire.root, 0, xp.GrabMode.Async, frozen).reply()
        if reply.status != xp.GrabStatus.Success:
            return [Refusal(None, "another program holds the keyboard")]
        self._taken = True
        self._allow(xp.Allow.SyncKeyboard)
        return []

    def _let_go(self) -> None:
        """Give the keyboard back, but not while a key is held that was ours: its repeats are nobody else's."""
        if self._taken and not self._down:
            self._taken = False
            self._wire.core.UngrabKeyboard(0)

    def _allow(self, how: int) -> None:
        self._wire.core.AllowEvents(how, 0)
        self._wire.flush()

    def answer(self, passed: bool) -> None:
        """Let the key that waits go on to the program, or keep it."""
        if passed:
            self._allow(xp.Allow.ReplayKeyboard)
            self._taken = False
            self._down.clear()
        else:
            self._allow(xp.Allow.SyncKeyboard if self._taken else xp.Allow.AsyncKeyboard)

    def send(self, chords: Iterable[Chord]) -> None:
        """Press chords as if by hand (XTEST protocol); raises `DeskError` where this keyboard has no such key.

        Keys that are still held, of the chord that asked for this, are let go of first, and stay so: they would mix
        with what is pressed; and a modifier put down again for a hand that has left it would stay down for good.
        """
        strokes = []
        for chord in chords:
            grabs = self.grabs_of(chord)
            if isinstance(grabs, str):
                raise DeskError(f"{chord} cannot be pressed: {grabs}", "press another chord")
            strokes.append(grabs[0])
        core, root = self._wire.core, self._wire.root
        down = core.QueryKeymap().reply().keys
        held = [code for code in range(256) if down[code // 8] >> code % 8 & 1]
        core.UngrabKeyboard(0)
        self._taken = False
        self._down.clear()
        fake = self._wire.connection(xcffib.xtest.key).FakeInput
        for code in held:
            fake(RELEASE, code, 0, root, 0, 0, 0)
        for code, mask in strokes:
            holding = [codes[0] for bit, codes in enumerate(self._holders) if mask >> bit & 1 and codes]
            for one in (*holding, code):
                fake(PRESS, one, 0, root, 0, 0, 0)
            for one in (code, *reversed(holding)):
                fake(RELEASE, one, 0, root, 0, 0, 0)
        self._wire.flush()

    def follow(self) -> list[Refusal]:
        """Read the keyboard again after it changed, and grab the same keys on it."""
        self.read()
        return self.grab(self._hearing)

    def take(self, event: Any) -> KeyEvent | None:
        """Return what a key event of the server means, if it means anything."""
        code = event.detail
        if isinstance(event, xp.KeyReleaseEvent):
            down = self._down.pop(code, None)
            if self._taken:
                self._allow(xp.Allow.SyncKeyboard)
                if not self._hearing.every:
                    self._let_go()
                    self._wire.flush()
            return KeyEvent(Edge.RELEASE, down.chord, event.time) if down else None
        if code in self._silent:
            if self._taken:
                self._allow(xp.Allow.SyncKeyboard)
            return None
        down = self._down.get(code)
        repeated = down is not None and event.time - down.time < SLOWEST_REPEAT
        chord = down.chord if down and repeated else self._chords.get((code, event.state & _EIGHT & ~self._ignored))
        if chord is None and not self._taken:
            return None  # pressed while another key of ours is held
        self._down[code] = Down(chord, event.time)
        waits = self._taken or chord in self._hearing.scoped
        return KeyEvent(Edge.REPEAT if repeated else Edge.PRESS, chord, event.time, waits)
