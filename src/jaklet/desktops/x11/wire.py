"""The connection: atoms, pipelined requests, and X errors turned into ours."""

import contextlib
import struct
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from typing import Any, Final, NamedTuple

import xcffib
import xcffib.randr
import xcffib.res
import xcffib.xproto as xp

from jaklet.core.values.errors import DeskError
from jaklet.desktops.procfs import program_date
from jaklet.desktops.window_hints import numbers_of
from jaklet.desktops.x11.event_stream import events_of, server_gone
from jaklet.desktops.x11.fixed_requests import (
    ALLOW_EVENTS,
    GET_GEOMETRY,
    GET_PROPERTY,
    GONE,
    SEND_EVENT,
    TRANSLATE_COORDINATES,
    CoordinatesCookie,
    FixedRequest,
    GeometryCookie,
    PropertyCookie,
    PropertyReply,
)

# Every atom that the mirror and the requests use, fetched in one round trip.
ATOMS: Final = (
    "WM_CHANGE_STATE", "WM_CLASS", "WM_HINTS", "WM_NAME", "WM_NORMAL_HINTS", "WM_PROTOCOLS", "WM_STATE",
    "WM_TAKE_FOCUS", "WM_TRANSIENT_FOR", "WM_WINDOW_ROLE",
    "_GTK_FRAME_EXTENTS", "_JAKLET_APP", "_JAKLET_GAPS", "_JAKLET_SESSION", "_JAKLET_TIME",
    "_NET_ACTIVE_WINDOW", "_NET_CLIENT_LIST", "_NET_CLIENT_LIST_STACKING", "_NET_CLOSE_WINDOW", "_NET_CURRENT_DESKTOP",
    "_NET_FRAME_EXTENTS", "_NET_MOVERESIZE_WINDOW", "_NET_NUMBER_OF_DESKTOPS", "_NET_REQUEST_FRAME_EXTENTS",
    "_NET_RESTACK_WINDOW", "_NET_STARTUP_ID", "_NET_SUPPORTED", "_NET_SUPPORTING_WM_CHECK", "_NET_WM_DESKTOP",
    "_NET_WM_NAME",
    "_NET_WM_STATE", "_NET_WM_STATE_ABOVE", "_NET_WM_STATE_DEMANDS_ATTENTION", "_NET_WM_STATE_FULLSCREEN",
    "_NET_WM_STATE_HIDDEN", "_NET_WM_STATE_MAXIMIZED_HORZ", "_NET_WM_STATE_MAXIMIZED_VERT", "_NET_WM_STATE_STICKY",
    "_NET_WM_STRUT", "_NET_WM_STRUT_PARTIAL",
    "_NET_WM_WINDOW_TYPE", "_NET_WM_WINDOW_TYPE_DIALOG", "_NET_WM_WINDOW_TYPE_NORMAL",
    "_NET_WM_WINDOW_TYPE_NOTIFICATION", "_NET_WM_WINDOW_TYPE_UTILITY",
    "_NET_WORKAREA", "UTF8_STRING",
)  # fmt: skip
ANY: Final = 0  # AnyPropertyType
MAX_WORDS: Final = 1024  # 4 KiB of a property are enough for a title, and a hostile one cannot fill memory


def _connected(display: str | None) -> Any:
    """Return a connection; xcffib is typed in part only, so that it stays `Any` here."""
    return xcffib.connect(display=display)  # type: ignore[no-untyped-call]


BUTTONS: Final = 0x1F00  # X protocol, KEYBUTMASK: Button1 to Button5


class Pointer(NamedTuple):
    """Where the pointer is. `is_down`: one of its buttons is."""

    x: int
    y: int
    is_down: bool


class Wire:
    """One connection to an X server."""

    def __init__(self, display: str | None) -> None:
        try:
            self.connection = _connected(display)
            self.randr: Any = self.connection(xcffib.randr.key)
            self.res: Any = self.connection(xcffib.res.key)
        except (xcffib.ConnectionException, xcffib.XcffibException) as fault:
            raise DeskError(
                f"no X server answers at {display or 'DISPLAY'}", "is it running, and may you use it?"
            ) from fault
        self.core = self.connection.core
        setup = self.connection.setup
        self.screen = setup.roots[self.connection.pref_screen]
        self.root: int = self.screen.root
        self.min_keycode: int = setup.min_keycode
        self.max_keycode: int = setup.max_keycode
        self.fileno: int = self.connection.get_file_descriptor()
        self._send_event = FixedRequest(self.connection, SEND_EVENT)
        self._get_property = FixedRequest(self.connection, GET_PROPERTY)
        self._get_geometry = FixedRequest(self.connection, GET_GEOMETRY)
        self._translate = FixedRequest(self.connection, TRANSLATE_COORDINATES)
        self.allow_events = FixedRequest(self.connection, ALLOW_EVENTS)
        self.events: Callable[[], Iterator[Any]] = partial(events_of, self.connection)  # those that have come so far
        cookies = [self.core.InternAtom(False, len(name), name) for name in ATOMS]
        self.atoms: dict[str, int] = {name: cookie.reply().atom for name, cookie in zip(ATOMS, cookies, strict=True)}
        self.names = {atom: name for name, atom in self.atoms.items()}

    def ask(self, window: int, atom: str) -> PropertyCookie:
        """Ask for a property; the cookie's reply goes to one of the readers below."""
        return self.property(window, self.atoms[atom])

    def property(self, window: int, atom: int, most: int = MAX_WORDS) -> PropertyCookie:
        """Ask for a property by the number of its name. `most`: the units of four bytes that are read of it."""
        return PropertyCookie(self.connection, self._get_property.send(False, window, atom, ANY, 0, most))

    def geometry(self, window: int) -> GeometryCookie:
        """Ask where a window is in its parent, and for its size."""
        return GeometryCookie(self.connection, self._get_geometry.send(window))

    def coordinates(self, window: int) -> CoordinatesCookie:
        """Ask where the corner of a window is on the screen."""
        return CoordinatesCookie(self.connection, self._translate.send(window, self.root, 0, 0))

    def ask_pid(self, window: int) -> Any:
        """Ask which local process owns a window (X-Resource 1.2); the cookie's reply goes to `pid_of`."""
        kind = xcffib.res.ClientIdMask.LocalClientPID
        spec = xcffib.res.ClientIdSpec.synthetic(window, kind)  # type: ignore[no-untyped-call]  # typed in part only
        return self.res.QueryClientIds(1, [spec])

    def words(self, window: int, atom: str) -> tuple[int, ...]:
        """Ask for a property of 32-bit values, and wait for it."""
        return words_of(self.ask(window, atom).reply())

    def pointer(self) -> Pointer:
        """Return where the pointer is (X protocol, QueryPointer)."""
        reply = self.core.QueryPointer(self.root).reply()
        return Pointer(reply.root_x, reply.root_y, bool(reply.mask & BUTTONS))

    def has_manager(self) -> bool:
        """Return whether a window manager is alive: its own window names itself (EWMH _NET_SUPPORTING_WM_CHECK)."""
        named = self.words(self.root, "_NET_SUPPORTING_WM_CHECK")
        try:
            return bool(named) and self.words(named[0], "_NET_SUPPORTING_WM_CHECK") == named
        except GONE:
            return False  # the property outlives a manager that was killed

    def same_client(self, window: int, other: int) -> bool:
        """Return whether two windows were made by one client (X protocol, connection set-up: resource-id-base)."""
        return bool((window ^ other) & ~self.connection.setup.resource_id_mask == 0)

    def has_extension(self, name: str) -> bool:
        """Return whether the server has an extension (X protocol, QueryExtension)."""
        return bool(self.extension_code(name))

    def extension_code(self, name: str) -> int:
        """Return the code of an extension's requests; 0 where the server has it not (X protocol, QueryExtension)."""
        reply = self.core.QueryExtension(len(name), name).reply()
        return int(reply.major_opcode) if reply.present else 0

    def manager_name(self) -> str:
        """Return the name of the window manager; empty if it does not say it."""
        owner = self.words(self.root, "_NET_SUPPORTING_WM_CHECK")
        try:
            return text_of(self.ask(owner[0], "_NET_WM_NAME").reply()) if owner else ""
        except GONE:
            return ""

    def manager_version(self) -> str:
        """Return the window manager's name and version: the texts on its own window whose names end in VERSION.

        EWMH has no place for a version; where there is none, it is the date of the manager's program.
        """
        owner = next(iter(self.words(self.root, "_NET_SUPPORTING_WM_CHECK")), 0)
        told = [self.manager_name()]
        try:
            atoms = list(self.core.ListProperties(owner).reply().atoms)
            names = [self.core.GetAtomName(atom) for atom in atoms]
            versions = [
                self.property(owner, atom)
                for atom, name in zip(atoms, names, strict=True)
                if name.reply().name.to_string().endswith("VERSION")
            ]
            told += [text_of(cookie.reply()).rstrip("\0") for cookie in versions]
            if len(told) == 1:
                told.append(program_date(pid_of(self.ask_pid(owner).reply())))
        except GONE:
            pass  # it is being replaced
        return " ".join(one for one in told if one)

    def tell_manager(self, window: int, atom: str, data: Sequence[int]) -> None:
        """Send a client message to the window manager by way of the root window (EWMH, "Root Window Properties")."""
        self._send_event.send(False, self.root, _TO_MANAGER, client_message(window, self.atoms[atom], data))

    def flush(self) -> None:
        """Write what has been asked so far; raises `DeskError` if the server is gone."""
        try:
            self.connection.flush()
        except xcffib.ConnectionException as fault:
            raise server_gone() from fault

    def sync(self) -> None:
        """Return when the server has dealt with all that was asked."""
        self.core.GetInputFocus().reply()

    def close(self) -> None:
        """End the connection; the server drops all grabs.

        What has been asked is done before: a server that finds a client gone while it has something to tell it leaves
        the rest of its requests unread.
        """
        with contextlib.suppress(xcffib.ConnectionException):
            self.sync()
        self.connection.disconnect()


_TO_MANAGER: Final = int(xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify)
_MESSAGE: Final = struct.Struct("=BBHII5I")
CLIENT_MESSAGE: Final = 33


def client_message(window: int, kind: int, data: Sequence[int]) -> bytes:
    """Return the 32 bytes of a ClientMessage event in format 32 (X protocol, section 10)."""
    words = [value & 0xFFFFFFFF for value in data]
    return _MESSAGE.pack(CLIENT_MESSAGE, 32, 0, window, kind, *words, *[0] * (5 - len(words)))


def replies(cookies: Iterable[Any]) -> Iterator[Any]:
    """Yield each reply, or None for one about a window that has gone."""
    for cookie in cookies:
        try:
            yield cookie.reply()
        except GONE:
            yield None


def pid_of(reply: Any) -> int:
    """Return the process id; 0 where the client is on another machine."""
    return next((int(pid) for found in reply.ids for pid in found.value), 0)


def words_of(reply: PropertyReply) -> tuple[int, ...]:
    """Return a property of 32 bits a unit as unsigned numbers; empty for one of another form."""
    return numbers_of(reply.form, reply.raw)


def text_of(reply: PropertyReply) -> str:
    """Return a text property: UTF-8, or Latin-1 where it is not. One that is too long may end within a character."""
    return decode_text(reply.raw, cut=reply.left > 0) if reply.form == 8 else ""


def decode_text(raw: bytes, cut: bool = False) -> str:
    """Return bytes as text. `cut`: there were more of them."""
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError as fault:
        if cut and fault.start > len(raw) - 4:  # the longest character has four bytes
            return raw[: fault.start].decode("utf-8")
        return raw.decode("latin-1")
