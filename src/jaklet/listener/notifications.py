"""Notices on the desktop, by the notification standard over D-Bus (Desktop Notifications Specification 1.2).

They are sent from a thread of their own: a bus that hangs holds up no key. What cannot be shown is told of once, and
stands in the log all the same.
"""

import queue
import threading
from collections.abc import Callable
from typing import Final

from jaklet.core.values.notices import Notice

NAME: Final = "Jaklet"
PATIENCE: Final = 2.0  # seconds for an answer of the bus
MOST_WAITING: Final = 20
BRIEF, USUAL = 1500, -1  # milliseconds that a notice stays; -1: as the server likes
NORMAL, CRITICAL = 1, 2  # urgency levels


class Notices:
    """Sends notices in the order in which they come; one with a topic takes the place of the last one on it."""

    def __init__(self, failed: Callable[[str], None]) -> None:
        self._failed = failed
        self._queue: queue.Queue[Notice | None] = queue.Queue(MOST_WAITING)
        self._thread: threading.Thread | None = None

    def post(self, notice: Notice) -> None:
        """Send a notice; where too many wait already, it is left out."""
        if self._thread is None:
            self._thread = threading.Thread(target=self._work, name="notices", daemon=True)
            self._thread.start()
        try:
            self._queue.put_nowait(notice)
        except queue.Full:
            return

    def close(self, patience: float = 0.5) -> None:
        """Send what waits, for a moment at most."""
        if self._thread:
            try:
                self._queue.put_nowait(None)
            except queue.Full:
                return
            self._thread.join(patience)

    def _work(self) -> None:
        told = False
        numbers: dict[str, int] = {}
        connection = None
        while (notice := self._queue.get()) is not None:
            try:
                connection = connection or _connect()
                numbers[notice.topic] = _show(connection, notice, numbers.get(notice.topic, 0) if notice.topic else 0)
            except Exception as fault:  # a bus can fail in many ways, and none of them is a reason to end
                connection = None
                if not told:
                    told = True
                    why = (
                        "there is no session bus"
                        if isinstance(fault, KeyError | ValueError)
                        else str(fault) or type(fault).__name__
                    )
                    self._failed(f"notices stand in this log alone, as none can be shown: {why}")


def _connect() -> "object":
    from jeepney.io.blocking import open_dbus_connection

    return open_dbus_connection(bus="SESSION")


def _show(connection: "object", notice: Notice, replaces: int) -> int:
    """Show a notice, and return its number."""
    from jeepney import DBusAddress, new_method_call
    from jeepney.io.blocking import DBusConnection
    from jeepney.wrappers import unwrap_msg

    assert isinstance(connection, DBusConnection)
    server = DBusAddress(
        "/org/freedesktop/Notifications", "org.freedesktop.Notifications", "org.freedesktop.Notifications"
    )
    hints = {"urgency": ("y", CRITICAL if notice.failed else NORMAL), "transient": ("b", bool(notice.topic))}
    stays = BRIEF if notice.topic else USUAL
    text = notice.text.replace("&", "&amp;").replace("<", "&lt;")  # a body can be markup
    body: tuple[object, ...] = (NAME, replaces, "", NAME, text, [], hints, stays)
    call = new_method_call(server, "Notify", "susssasa{sv}i", body)
    number, *_ = unwrap_msg(connection.send_and_get_reply(call, timeout=PATIENCE))
    return int(number)
