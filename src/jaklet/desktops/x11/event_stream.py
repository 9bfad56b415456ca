"""The events of a connection, one by one.

The kinds that come with every key are taken apart here, by one call of C for each: the library needs twenty of Python.
"""

from collections.abc import Iterator, Mapping
from struct import Struct
from typing import Any, Final, NamedTuple

import xcffib
import xcffib.xproto as xp

from jaklet.core.values.errors import DeskError
from jaklet.desktops.x11.fixed_requests import GONE, XCB

SIZE: Final = 32  # bytes of an event (X protocol, section 10)
SENT: Final = 0x80  # the bit of an event's code that says that a client has sent it


class EventForm(NamedTuple):
    """How the bytes of an event become what the library makes of them."""

    kind: Any
    layout: Struct
    fields: tuple[str, ...]


_KEY: Final = Struct("=xB2xIIIIhhhhHB")
_KEY_FIELDS: Final = (
    "detail", "time", "root", "event", "child", "root_x", "root_y", "event_x", "event_y", "state", "same_screen",
)  # fmt: skip
# By the code of the event (X protocol, appendix B, "Events").
FREQUENT: Final[Mapping[int, EventForm]] = {
    2: EventForm(xp.KeyPressEvent, _KEY, _KEY_FIELDS),
    3: EventForm(xp.KeyReleaseEvent, _KEY, _KEY_FIELDS),
    18: EventForm(xp.UnmapNotifyEvent, Struct("=4xIIB"), ("event", "window", "from_configure")),
    19: EventForm(xp.MapNotifyEvent, Struct("=4xIIB"), ("event", "window", "override_redirect")),
    21: EventForm(
        xp.ReparentNotifyEvent, Struct("=4xIIIhhB"), ("event", "window", "parent", "x", "y", "override_redirect")
    ),
    22: EventForm(
        xp.ConfigureNotifyEvent,
        Struct("=4xIIIhhHHHB"),
        ("event", "window", "above_sibling", "x", "y", "width", "height", "border_width", "override_redirect"),
    ),
    # Ours among them: who asks for the events of the root's children gets what is sent to the window manager.
    33: EventForm(xp.ClientMessageEvent, Struct("=4xII"), ("window", "type")),
    28: EventForm(xp.PropertyNotifyEvent, Struct("=4xIIIB"), ("window", "atom", "time", "state")),
}


def events_of(connection: Any) -> Iterator[Any]:
    """Yield the events that have come so far; raises `DeskError` where the server is gone.

    Errors of requests about windows that have gone are dropped.
    """
    poll, free, buffer = XCB.lib.xcb_poll_for_event, XCB.c_free, XCB.ffi.buffer
    while event := poll(connection._conn):
        form = FREQUENT.get(event.response_type & ~SENT)
        if form is None:
            try:
                yield connection.hoist_event(XCB.ffi.gc(event, free))
            except GONE:
                continue
            except xcffib.ConnectionException as fault:
                raise server_gone() from fault
        else:
            one = form.kind.__new__(form.kind)
            one.__dict__.update(zip(form.fields, form.layout.unpack_from(buffer(event, SIZE)), strict=True))
            free(event)
            yield one
    if XCB.lib.xcb_connection_has_error(connection._conn):
        raise server_gone()


def server_gone() -> DeskError:
    """Return the error that the server has ended."""
    return DeskError("the X server has gone away", "start Jaklet again when it is back")
