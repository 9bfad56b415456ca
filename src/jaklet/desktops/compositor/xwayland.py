"""Frames around windows of X11 and the sizes that these take, of which Xwayland alone tells."""

import os
from typing import Any, Final, NamedTuple

from jaklet.core.values.geometry import Insets, SizeLimits
from jaklet.desktops.window_hints import border_of, size_limits, words_of

_PROPERTIES: Final = ("WM_NORMAL_HINTS", "_NET_FRAME_EXTENTS", "_GTK_FRAME_EXTENTS")
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
        import xcffib  # who has no window of X11 does without
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
        return words_of(cookie.reply())
    except xp.WindowError:
        return ()
