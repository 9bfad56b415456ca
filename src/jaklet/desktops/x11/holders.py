"""Who else holds keys: what X tells only to those who try to have them.

There are two kinds of passive grabs, those of the core protocol and those of the X Input extension 2, and neither kind
is refused because of the other. A key that is grabbed in both ways goes to one of them alone. So both are tried.
"""

from collections.abc import Collection, Iterable
from struct import Struct
from typing import Final, NamedTuple

import xcffib.xproto as xp

from jaklet.core.values.chords import Modifier
from jaklet.desktops.x11.fixed_requests import Cookie, FixedRequest, RequestForm
from jaklet.desktops.x11.keyboard_map import Grab, Levels
from jaklet.desktops.x11.wire import Wire

# The key of each modifier that people press: the left one.
KEYS: Final = {Modifier.SUPER: 0xFFEB, Modifier.CTRL: 0xFFE3, Modifier.ALT: 0xFFE9, Modifier.SHIFT: 0xFFE1}
_ALL_MASTERS: Final = 1  # XInput 2, XIAllMasterDevices
_KEYCODE: Final = 1  # XIGrabtypeKeycode
_ASYNC: Final = 1
_ANY: Final = 1 << 31  # XIAnyModifier
EXTENSION: Final = "XInputExtension"
# Its requests (X Input protocol 2.3, chapter 7): their codes, and their forms with one modifier each. The library has
# them too, in a module of its own that takes a thirtieth of the start.
_QUERY_VERSION: Final = 47
_PASSIVE_GRAB: Final = 54
_PASSIVE_UNGRAB: Final = 55
_USED_VERSION: Final = 2, 2
_VERSION: Final = "=xB2xHH", True
_GRAB: Final = "=xB2xIIIIHHHBBBB2xI", True
_UNGRAB: Final = "=xB2xIIHHB3xI", False
_REFUSED: Final = Struct("=8xH")


class _InputRequests(NamedTuple):
    """Taking a key by the extension, and letting go of it."""

    grab: FixedRequest
    ungrab: FixedRequest


class KeyHolders:
    """Asks whether others hold keys. Of chords, what is free is remembered until `forget`; of modifiers, all of it.

    To ask is to take a key for a moment: a window manager that grabs its keys anew in that moment would lose it.
    """

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._input: _InputRequests | None = None  # once they are needed
        self._free: set[Grab] = set()
        self._modifiers: dict[Modifier, bool] = {}  # whether somebody holds the key of each

    def forget(self) -> None:
        """Ask all of it again."""
        self._free.clear()
        self._modifiers.clear()

    def held(self, grabs: Collection[Grab]) -> set[Grab]:
        """Return which of these others have grabbed by the extension."""
        held = {grab for grab, taken in self._ask(sorted(set(grabs) - self._free)).items() if taken}
        self._free |= set(grabs) - held
        return held

    def of_modifiers(self, modifiers: Iterable[Modifier], levels: Levels) -> list[Modifier]:
        """Return the modifiers whose key somebody holds by itself. `levels`: keysyms by keycode."""
        modifiers = list(modifiers)
        new = [one for one in modifiers if one in KEYS and one not in self._modifiers]
        codes = {
            one: code
            for one in new
            if (code := next((code for code, row in sorted(levels.items()) if row and row[0] == KEYS[one]), 0))
        }
        core, root = self._wire.core, self._wire.root
        modes = xp.GrabMode.Async, xp.GrabMode.Async
        cookies = []
        for one, code in codes.items():
            cookies.append((one, core.GrabKeyChecked(False, root, xp.ModMask.Any, code, *modes)))
            core.UngrabKey(code, root, xp.ModMask.Any)  # right behind it, so that no key is pressed between the two
        by_extension = self._ask((code, _ANY) for code in codes.values())
        held = {one for one, code in codes.items() if by_extension.get((code, _ANY))}
        for one, cookie in cookies:
            try:
                cookie.check()
            except (xp.AccessError, xp.ValueError):
                held.add(one)
        self._modifiers |= {one: one in held for one in new}
        return [one for one in modifiers if self._modifiers.get(one)]

    def _ask(self, grabs: Iterable[Grab]) -> dict[Grab, bool]:
        """Try to have keys by the extension, and let them go at once; return whether others have each."""
        requests = self._requests()
        if not requests:
            return {}
        root = self._wire.root
        cookies = []
        for grab in grabs:
            code, mask = grab
            number = requests.grab.send(
                _PASSIVE_GRAB, 0, root, 0, code, _ALL_MASTERS, 1, 0, _KEYCODE, _ASYNC, _ASYNC, True, mask
            )
            cookies.append((grab, Cookie(self._wire.connection, number)))
            requests.ungrab.send(_PASSIVE_UNGRAB, root, code, _ALL_MASTERS, 1, _KEYCODE, mask)
        found = {}
        for grab, cookie in cookies:
            try:
                found[grab] = bool(_REFUSED.unpack_from(cookie.bytes())[0])  # modifiers that could not be had
            except xp.ValueError:
                found[grab] = False  # no such key
        return found

    def _requests(self) -> _InputRequests | None:
        """Return the requests of the extension; None where the server has it not."""
        if self._input is None and (code := self._wire.extension_code(EXTENSION)):
            connection = self._wire.connection
            requests = [FixedRequest(connection, RequestForm(code, *form)) for form in (_VERSION, _GRAB, _UNGRAB)]
            Cookie(connection, requests[0].send(_QUERY_VERSION, *_USED_VERSION)).bytes()
            self._input = _InputRequests(*requests[1:])
        return self._input

    def likely(self) -> str:
        """Return in words who may hold a key: X does not tell."""
        name = self._wire.manager_name()
        return f"another program, most likely the window manager{f' {name}' if name else ''},"
