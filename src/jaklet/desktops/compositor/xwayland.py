"""Frames around windows of X11 and the sizes that these take, of which Xwayland alone tells."""

import os
from collections.abc import Container
from typing import Any, Final, NamedTuple

from jaklet.core.values.geometry import Insets, SizeLimits
from jaklet.desktops.window_hints import border_of, numbers_of, size_limits
from jaklet.desktops.xcb_library import loading_xcb

_PROPERTIES: Final = ("WM_NORMAL_HINTS", "_NET_FRAME_EXTENTS", "_GTK_FRAME_EXTENTS")
EVDEV: Final = 8  # by which keycodes of X are more than evdev's numbers
_MOST_WORDS: Final = 32  # more than any of them has


class Hints(NamedTuple):
    """What a window of X11 says of its sizes (ICCCM 4.1.2.3), and how wide its frame is (EWMH _NET_FRAME_EXTENTS)."""

    border: Insets
    limits: SizeLimits


class Xwayland:
    """A connection to the X server of this session, made when the first window of X11 is there."""

    def __init__(self) -> None:
        self._connection: Any = None  # xcffib is typed in part only
        self._atoms: dict[str, int] = {}
        self._has_server = "DISPLAY" in os.environ

    def hints(self, window: int) -> Hints | None:
        """Return the hints of a window; None where it has gone, has no frame yet, or no server answers."""
        if not self._has_server:
            return None
        with loading_xcb():  # who has no window of X11 does without
            import xcffib
            import xcffib.xproto as xp

        try:
            core = self._connected(xcffib).core
            cookies = [
                core.GetProperty(False, window, self._atoms[name], xp.GetPropertyType.Any, 0, _MOST_WORDS)
                for name in _PROPERTIES
            ]
            normal, extents, shadow = [_words(cookie) for cookie in cookies]
        except xcffib.ConnectionException:
            self.close()  # it goes with the compositor, and may be there again
            return None
        return Hints(border_of(extents, shadow), size_limits(normal)) if extents else None

    def key_for(self, keysym: int, used: Container[int]) -> int | None:
        """Return a spare key, by evdev's number, that gives this keysym from now on; None where there is none.

        Each keysym gets a key of its own and keeps it (X protocol, ChangeKeyboardMapping): a program looks a key up
        when it comes to it, which may be later. `used`: the keys of the keyboard, by evdev's numbers.
        """
        if not self._has_server:
            return None
        with loading_xcb():
            import xcffib

        try:
            core = self._connected(xcffib).core
            setup = self._connection.get_setup()
            least, most = setup.min_keycode, setup.max_keycode
            told = core.GetKeyboardMapping(least, most - least + 1).reply()
            width, keysyms = told.keysyms_per_keycode, [*told.keysyms]
            rows = {least + at // width: keysyms[at : at + width] for at in range(0, len(keysyms), width)}
            spare = {code: row for code, row in rows.items() if code - EVDEV not in used}
            has = next((code for code, row in spare.items() if keysym in row), None)
            if has is None and spare:
                free = [code for code, row in spare.items() if not any(row)]
                has = free[-1] if free else [*spare][keysym % len(spare)]
                core.ChangeKeyboardMapping(1, has, 4, [keysym] * 4)
                core.GetInputFocus().reply()
        except xcffib.ConnectionException:
            self.close()
            return None
        return has - EVDEV if has is not None else None

    def _connected(self, xcffib: Any) -> Any:
        if self._connection is None:
            self._connection = xcffib.connect()
            cookies = [self._connection.core.InternAtom(False, len(name), name) for name in _PROPERTIES]
            self._atoms = {name: cookie.reply().atom for name, cookie in zip(_PROPERTIES, cookies, strict=True)}
        return self._connection

    def close(self) -> None:
        """End the connection."""
        if self._connection is not None:
            self._connection.disconnect()
            self._connection = None


def _words(cookie: Any) -> tuple[int, ...]:
    """Return a property; empty where there is none, or its window has gone."""
    import xcffib.xproto as xp

    try:
        reply = cookie.reply()
        return numbers_of(reply.format, reply.value.buf())
    except xp.WindowError:
        return ()
