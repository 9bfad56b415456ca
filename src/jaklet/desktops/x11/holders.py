"""Who else holds keys: what X tells only to those who try to have them.

There are two kinds of passive grabs, those of the core protocol and those of the X Input extension 2, and neither kind
is refused because of the other. A key that is grabbed in both ways goes to one of them alone. So both are tried.
"""

from collections.abc import Collection, Iterable
from typing import Any, Final

import xcffib.xproto as xp

from jaklet.core.values.chords import Modifier
from jaklet.desktops.x11.keyboard_map import Grab, Levels
from jaklet.desktops.x11.wire import Wire

# The key of each modifier that people press: the left one.
KEYS: Final = {Modifier.SUPER: 0xFFEB, Modifier.CTRL: 0xFFE3, Modifier.ALT: 0xFFE9, Modifier.SHIFT: 0xFFE1}
_ALL_MASTERS: Final = 1  # XInput 2, XIAllMasterDevices
_KEYCODE: Final = 1  # XIGrabtypeKeycode
_ASYNC: Final = 1
_ANY: Final = 1 << 31  # XIAnyModifier
EXTENSION: Final = "XInputExtension"


class KeyHolders:
    """Asks whether others hold keys. Of chords, what is free is remembered until `forget`; of modifiers, all of it.

    To ask is to take a key for a moment: a window manager that grabs its keys anew in that moment would lose it.
    """

    def __init__(self, wire: Wire) -> None:
        self._wire = wire
        self._input: Any = None  # the extension, once it is needed
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
        extension = self._extension()
        if not extension:
            return {}
        root = self._wire.root
        cookies = []
        for grab in grabs:
            code, mask = grab
            asked = extension.XIPassiveGrabDevice(
                0, root, 0, code, _ALL_MASTERS, 1, 0, _KEYCODE, _ASYNC, _ASYNC, True, [], [mask]
            )
            cookies.append((grab, asked))
            extension.XIPassiveUngrabDevice(root, code, _ALL_MASTERS, 1, _KEYCODE, [mask])
        found = {}
        for grab, cookie in cookies:
            try:
                found[grab] = bool(cookie.reply().num_modifiers)  # those that could not be had
            except xp.ValueError:
                found[grab] = False  # no such key
        return found

    def _extension(self) -> Any:
        """Return the extension; None where the server has it not."""
        if self._input is None:
            if not self._wire.has_extension(EXTENSION):
                self._input = False
            else:
                import xcffib.xinput  # nothing but listening needs it

                self._input = self._wire.connection(xcffib.xinput.key)
                self._input.XIQueryVersion(2, 2).reply()
        return self._input or None

    def likely(self) -> str:
        """Return in words who may hold a key: X does not tell."""
        name = self._wire.manager_name()
        return f"another program, most likely the window manager{f' {name}' if name else ''},"
