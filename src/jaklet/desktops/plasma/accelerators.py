"""Plasma's global shortcuts over D-Bus: which are ours, who has those that we cannot have, and when one is pressed.

The service (org.kde.KGlobalAccel) lives in KWin. It keeps what it is told in its settings, also when we are gone: what
is not wanted any more is always given back, and what a former listener has left is when a new one begins.
"""

from collections.abc import Callable, Container, Iterable
from pathlib import Path
from typing import Any, Final, NamedTuple

from jeepney import DBusAddress, Message

from jaklet.core.values.errors import DeskError
from jaklet.desktops.compositor.bus import Bus, Call, is_signal, member_of, owner_of, sender_of
from jaklet.desktops.compositor.chord_source import AcceleratorEvent, ShortcutRequest
from jaklet.desktops.compositor.ledger import LentFile
from jaklet.desktops.plasma.qt_keys import signed_number

SERVICE: Final = "org.kde.kglobalaccel"
ACCEL: Final = DBusAddress("/kglobalaccel", SERVICE, "org.kde.KGlobalAccel")
OURS: Final = "jaklet"  # the component as it is stored
SHOWN: Final = "Jaklet"  # as the system's settings show it
COMPONENT: Final = DBusAddress(f"/component/{OURS}", SERVICE, "org.kde.kglobalaccel.Component")
PRESENT: Final = 2  # flags of setShortcut: in use now
AS_GIVEN: Final = 4  # not what the settings have of former times
PRESSED: Final = "globalShortcutPressed"
RELEASED: Final = "globalShortcutReleased"
CHANGED: Final = "yourShortcutsChanged"


class LentShortcut(NamedTuple):
    """A shortcut of another program's that is ours for a while: that program's action, and all keys of it before."""

    code: int
    action: list[str]
    keys: list[int]


def lent_shortcut(code: Any, action: Any, keys: Any) -> LentShortcut:
    """Return a shortcut as it was written; raises `TypeError` or `ValueError`."""
    return LentShortcut(int(code), [str(word) for word in action], [int(key) for key in keys])


def lent_file(state: Callable[[], Path]) -> LentFile[LentShortcut]:
    """Return the file of what is lent, which outlives a violent end. `state`: returns the folder for such files."""
    return LentFile(state, "plasma", lent_shortcut)


class Accelerators:
    """The shortcuts that are ours at a time."""

    def __init__(self, bus: Bus, ledger: LentFile[LentShortcut] | None = None) -> None:
        self._bus, self._ledger = bus, ledger
        self._lent: list[LentShortcut] = []
        self._held: dict[int, ShortcutRequest] = {}
        self.refused: dict[int, str] = {}  # what is not asked for again, and who has it
        self._service = ""
        self._codes: dict[str, int] = {}  # by the names of actions
        self.told: list[AcceleratorEvent] = []
        self.lost: list[int] = []  # taken from us in the system's settings
        bus.others.append(self._taken)

    def begin(self) -> tuple[list[str], list[LentShortcut]]:
        """Hear of presses, and give back what a listener has left behind that could not.

        Return the names of what was left, and what was another's. Raises `DeskError`.
        """
        self._service = owner_of(self._bus, SERVICE)
        self._bus.follow(interface="org.kde.kglobalaccel.Component", path=COMPONENT.object_path, sender=SERVICE)
        self._bus.follow(interface="org.kde.KGlobalAccel", path=ACCEL.object_path, sender=SERVICE)
        self._lent = self._ledger.read() if self._ledger else []
        return self.sweep()

    def begin_again(self) -> None:
        """Ask a service that has begun anew for all that was ours; what comes of it is told by `hear`."""
        self._service = owner_of(self._bus, SERVICE)
        self._held, self._codes, self.refused = {}, {}, {}

    def sweep(self) -> tuple[list[str], list[LentShortcut]]:
        """Give back all that is ours, whoever has asked for it; return its names, and what was another's."""
        try:
            names = self._bus.call(COMPONENT, "shortcutNames")
        except DeskError:  # there is no such component
            names = []
        self._bus.call_all([_let_go(name) for name in names])
        self._held, self._codes = {}, {}
        return names, self._give_back(self._lent)

    def hear(self, wanted: Iterable[ShortcutRequest], over: Container[int] = ()) -> dict[int, str]:
        """Have exactly these; return those that cannot be had, with who has them, as far as that is told.

        `over`: those that are taken from who has them, until they are wanted no more.
        """
        refused = self._hear(wanted, over)
        wanted_over = [code for code in refused if code in over]
        if not (wanted_over and self._borrow(wanted_over)):
            return refused
        for code in wanted_over:
            self.refused.pop(code, None)
        return self._hear(wanted, over)

    def _borrow(self, codes: list[int]) -> bool:
        """Take shortcuts from those who have them; true if any was."""
        actions = self._bus.call_all([Call(ACCEL, "action", "i", (signed_number(code),)) for code in codes])
        found = [
            (code, one) for code, one in zip(codes, actions, strict=True) if not isinstance(one, DeskError) and one
        ]
        keys = self._bus.call_all([Call(ACCEL, "shortcut", "as", (action,)) for _, action in found])
        new = [
            LentShortcut(code, [*action], [*has])
            for (code, action), has in zip(found, keys, strict=True)
            if not isinstance(has, DeskError)
        ]
        if not new:
            return False
        self._lent += new
        if self._ledger:
            self._ledger.write(self._lent)
        self._bus.call_all([_keys_of(one.action, _without(one.keys, one.code)) for one in new])
        return True

    def _give_back(self, lent: list[LentShortcut]) -> list[LentShortcut]:
        """Let those have shortcuts again who had them; what has changed meanwhile stays changed."""
        if not lent:
            return []
        now = self._bus.call_all([Call(ACCEL, "shortcut", "as", (one.action,)) for one in lent])
        back = []
        for one, has in zip(lent, now, strict=True):
            same = isinstance(has, DeskError) or _without(has, 0) == _without(_without(one.keys, one.code), 0)
            back.append(_keys_of(one.action, one.keys if same else [*_without(has, 0), signed_number(one.code)]))
        self._bus.call_all(back)
        self._lent = [one for one in self._lent if one not in lent]
        if self._ledger:
            self._ledger.write(self._lent)
        return lent

    def _hear(self, wanted: Iterable[ShortcutRequest], over: Container[int]) -> dict[int, str]:
        by_code = {one.code: one for one in wanted}
        back = [one for one in self._lent if one.code not in over]
        for lent in back:
            if by_code.pop(lent.code, None):
                self.refused[lent.code] = _owner(lent.action)
        gone = [one for code, one in self._held.items() if by_code.get(code) != one]
        calls = [_let_go(_name(one.code)) for one in gone]
        for one in gone:
            del self._held[one.code], self._codes[_name(one.code)]
        new = [one for code, one in by_code.items() if code not in self._held and code not in self.refused]
        calls += [call for one in new for call in _asked_for(one)]
        self._codes |= {_name(one.code): one.code for one in new}  # a key may be pressed before all are answered
        actions = self._bus.call_all(calls)[len(gone) + 2 :: 3] if calls else []
        self._give_back(back)
        refused = {}
        for one, action in zip(new, actions, strict=True):
            if not isinstance(action, DeskError) and action and action[0] == OURS:
                self._held[one.code] = one
            else:
                refused[one.code] = _owner(action)
                del self._codes[_name(one.code)]
        if refused:
            self._bus.call_all([_let_go(_name(code)) for code in refused])
            self.refused |= refused
        every = [*by_code, *(lent.code for lent in back)]
        return {code: self.refused[code] for code in every if code in self.refused}

    def owners(self, codes: Iterable[int]) -> dict[int, str]:
        """Return who has these shortcuts: the program, and what it does with it; those that nobody has are left out."""
        codes = list(codes)
        told = self._bus.call_all([Call(ACCEL, "action", "i", (signed_number(code),)) for code in codes])
        return {code: owner for code, one in zip(codes, told, strict=True) if (owner := _owner(one))}

    def _taken(self, message: Message) -> bool:
        if not is_signal(message) or sender_of(message) != self._service:
            return False
        member, body = member_of(message), message.body
        if member in (PRESSED, RELEASED) and body[0] == OURS and body[1] in self._codes:
            self.told.append(AcceleratorEvent(self._codes[body[1]], member == PRESSED, int(body[2])))
            self._bus.is_urgent = True
            return True
        if member == CHANGED and body[0][0] == OURS and (code := self._codes.get(body[0][1])):
            numbers = [number for keys in body[1] for number in (keys[0] if isinstance(keys, tuple) else [keys])]
            if signed_number(code) not in numbers:
                self.lost.append(code)
                return True
        return False


def _name(code: int) -> str:
    """Return the name of an action: letters and digits, the same for a shortcut at any time."""
    return f"chord{code:x}"


def _id(name: str, title: str = "") -> list[str]:
    return [OURS, name, SHOWN, title or name]


def _let_go(name: str) -> Call:
    return Call(ACCEL, "unregister", "ss", (OURS, name))


def _asked_for(one: ShortcutRequest) -> tuple[Call, Call, Call]:
    """Return the calls that ask for a shortcut, and then who has it: KWin 6.7 says yes to one that another keeps."""
    own, key = _id(_name(one.code), one.title), signed_number(one.code)
    return (
        Call(ACCEL, "doRegister", "as", (own,)),
        Call(ACCEL, "setShortcut", "asaiu", (own, [key], PRESENT | AS_GIVEN)),
        Call(ACCEL, "action", "i", (key,)),
    )


def _keys_of(action: list[str], keys: list[int]) -> Call:
    return Call(ACCEL, "setForeignShortcut", "asai", (action, keys))


def _without(keys: Iterable[int], code: int) -> list[int]:
    return [key for key in keys if key != signed_number(code)]


def _owner(told: Any) -> str:
    if isinstance(told, DeskError) or not told or len(told) < 4 or told[0] == OURS:
        return ""
    return f"{told[2]} ({told[3]})" if told[3] else str(told[2])
