"""Requests whose bytes have always the same form, and their replies: the ones that come with every key.

Each is one call of Python, where the library, which builds requests of any form, needs forty. Forms are those of the X
protocol, appendix B; xcb fills in the code of a request and its length.
"""

from struct import Struct
from typing import Any, Final, NamedTuple

import xcffib
import xcffib.xproto as xp

XCB: Final[Any] = xcffib  # which is typed in part only
# Errors of requests about windows that have gone, and of what a window manager did first.
GONE: Final = (xp.WindowError, xp.DrawableError, xp.MatchError, xp.ValueError, xp.AccessError, xp.AtomError)
REPLY: Final = 32  # bytes of every reply, before those that its length tells of
_LENGTH: Final = Struct("=4xI")
_PROPERTY: Final = Struct("=xB6xIII")
_GEOMETRY: Final = Struct("=12xhhHHH")
_COORDINATES: Final = Struct("=12xhh")


class RequestForm(NamedTuple):
    """The form of a request: its code, and all its bytes with places for the values of each one."""

    code: int
    layout: str
    has_reply: bool = False


GET_GEOMETRY: Final = RequestForm(14, "=4xI", has_reply=True)
GET_PROPERTY: Final = RequestForm(20, "=xB2xIIIII", has_reply=True)
SEND_EVENT: Final = RequestForm(25, "=xB2xII32s")
ALLOW_EVENTS: Final = RequestForm(35, "=xB2xI")
TRANSLATE_COORDINATES: Final = RequestForm(40, "=4xIIhh", has_reply=True)


class FixedRequest:
    """A request of one form, on one connection."""

    def __init__(self, connection: Any, form: RequestForm) -> None:
        self._connection, self._layout = connection, Struct(form.layout)
        ffi = XCB.ffi
        self._bytes = ffi.new("char[]", self._layout.size)
        self._buffer = ffi.buffer(self._bytes)
        # What xcb sends stands in the last two of four parts. It may use those before them, and takes parts as sent.
        self._parts = ffi.new("struct iovec[4]")
        self._whole = (self._bytes, self._layout.size), (ffi.NULL, -self._layout.size & 3)
        self._part = self._parts + 2
        self._request = ffi.new("xcb_protocol_request_t *")
        self._request.count, self._request.opcode, self._request.isvoid = 2, form.code, not form.has_reply
        self._flags = XCB.lib.XCB_REQUEST_CHECKED if form.has_reply else 0  # errors come where the reply is waited for

    def send(self, *values: Any) -> int:
        """Ask; return the number of the request, by which its reply is known."""
        self._layout.pack_into(self._buffer, 0, *values)
        self._part[0], self._part[1] = self._whole
        return int(XCB.lib.xcb_send_request(self._connection._conn, self._flags, self._part, self._request))


class PropertyReply(NamedTuple):
    """A property. `form`: the bits of its units, 0 where it is not there. `left`: the bytes that were not asked for."""

    form: int
    left: int
    raw: bytes


class Cookie:
    """A reply that is still to come. It has to be taken in, once."""

    __slots__ = ("_connection", "_number")

    def __init__(self, connection: Any, number: int) -> None:
        self._connection, self._number = connection, number

    def bytes(self) -> bytes:
        """Wait for the reply, and return its bytes; raises the library's error where the server tells of one."""
        connection, error = self._connection, XCB.ffi.new("xcb_generic_error_t **")
        data = XCB.lib.xcb_wait_for_reply(connection._conn, self._number, error)
        if not data:
            if error[0]:
                try:
                    connection._process_error(error[0])
                finally:
                    XCB.c_free(error[0])
            connection.invalid()  # raises where the server is gone
            raise xcffib.XcffibException(f"no reply to request {self._number}")
        more = _LENGTH.unpack_from(XCB.ffi.buffer(data, REPLY))[0] * 4
        raw = bytes(XCB.ffi.buffer(data, REPLY + more))
        XCB.c_free(data)
        return raw


class PropertyCookie(Cookie):
    """A property that was asked for (GetProperty)."""

    def reply(self) -> PropertyReply:
        """Wait for the property; raises the library's error where its window has gone."""
        raw = self.bytes()
        form, _, left, units = _PROPERTY.unpack_from(raw)
        return PropertyReply(form, left, raw[REPLY : REPLY + units * (form // 8)])


class GeometryCookie(Cookie):
    """Where a window was asked to be told to be, in its parent (GetGeometry)."""

    def reply(self) -> tuple[int, int, int, int, int]:
        """Wait for x, y, width, height and the border's width, in pixels; raises the library's error as above."""
        x, y, width, height, border = _GEOMETRY.unpack_from(self.bytes())
        return x, y, width, height, border


class CoordinatesCookie(Cookie):
    """Where a point of a window is in another one (TranslateCoordinates)."""

    def reply(self) -> tuple[int, int]:
        """Wait for x and y, in pixels; raises the library's error as above."""
        x, y = _COORDINATES.unpack_from(self.bytes())
        return x, y
