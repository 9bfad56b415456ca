"""For how long neither keyboard nor pointer was used: what a compositor tells of it (ext-idle-notify-v1)."""

import time as clock
from typing import Any, Final

from pywayland.protocol.ext_idle_notify_v1 import ExtIdleNotifierV1
from pywayland.protocol.wayland import WlSeat

from jaklet.desktops.wayland.connection import Wayland

AFTER: Final = 5.0  # seconds without use of which it is told; shorter pauses are none


class Idleness:
    """Follows whether the seat is used."""

    def __init__(self, wayland: Wayland) -> None:
        """Begin; raises `DeskError` where the compositor does not tell."""
        notifier: Any = wayland.bind(ExtIdleNotifierV1, 1)
        self._notification: Any = notifier.get_idle_notification(int(AFTER * 1000), wayland.bind(WlSeat, 5))
        self._notification.dispatcher["idled"] = lambda _one: self._since(clock.monotonic() - AFTER)
        self._notification.dispatcher["resumed"] = lambda _one: self._since(None)
        self._unused: float | None = None  # since when
        wayland.sync()

    def _since(self, when: float | None) -> None:
        self._unused = when

    def seconds(self) -> float:
        """Return for how long it was not used; 0 for less than `AFTER`."""
        return 0.0 if self._unused is None else clock.monotonic() - self._unused
