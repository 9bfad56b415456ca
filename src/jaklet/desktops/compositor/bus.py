"""One connection to the session bus, without threads: calls one after another, and all that others send meanwhile."""

import contextlib
import os
import time as clock
from collections.abc import Callable, Iterable
from typing import Any, Final, NamedTuple

from jeepney import DBusAddress, HeaderFields, MatchRule, Message, MessageFlag, MessageType, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection
from jeepney.wrappers import DBusErrorResponse, unwrap_msg

from jaklet.core.values.errors import DeskError

BUS: Final = DBusAddress("/org/freedesktop/DBus", "org.freedesktop.DBus", "org.freedesktop.DBus")
PATIENCE: Final = 5.0  # seconds for an answer
HOW: Final = "run `jaklet` inside a session of the desktop that is meant"


class Call(NamedTuple):
    """A method that is to be called, with the signature and the values of what it is given."""

    address: DBusAddress
    method: str
    signature: str = ""
    body: tuple[Any, ...] = ()


class Bus:
    """Calls methods of others, and hands over what comes besides answers: to `others`, whenever it is read.

    `whom`: who is called, in words.
    """

    def __init__(self, connection: DBusConnection, whom: str) -> None:
        self._connection, self._whom = connection, whom
        self.others: list[Callable[[Message], bool]] = []  # each returns whether things are otherwise now
        self.is_urgent = False  # what was handed over is to be dealt with before anything else is; more may have come

    @classmethod
    def open(cls, whom: str) -> "Bus":
        """Return a connection to the bus of this session; raises `DeskError` where there is none."""
        address = os.environ.get("DBUS_SESSION_BUS_ADDRESS", "")
        try:
            return cls(open_dbus_connection(address or "SESSION"), whom)
        except (OSError, KeyError, ValueError) as fault:
            raise DeskError(f"the session bus cannot be reached: {fault}", HOW) from fault

    @property
    def name(self) -> str:
        """The unique name of this connection, which the bus gives to nobody else."""
        return str(self._connection.unique_name)

    @property
    def fileno(self) -> int:
        """The descriptor that can be read when something has come."""
        return int(self._connection.sock.fileno())

    def call(self, address: DBusAddress, method: str, signature: str = "", *body: object) -> Any:
        """Return the answer of a method; raises `DeskError`."""
        answer = self.call_all([Call(address, method, signature, body)])[0]
        if isinstance(answer, DeskError):
            raise answer
        return answer

    def call_all(self, calls: Iterable[Call]) -> list[Any]:
        """Send all calls, then return what each answers, or why it does not; raises `DeskError` if the bus is gone."""
        waiting: dict[int, str] = {}
        for one in calls:
            serial = next(self._connection.outgoing_serial)
            waiting[serial] = one.method
            message = new_method_call(one.address, one.method, one.signature or None, one.body)
            message.header.flags |= MessageFlag.no_auto_start  # who is there is asked, and nobody in their place
            self.send(message, serial)
        order, answers = list(waiting), {}
        until = clock.monotonic() + PATIENCE
        while waiting:
            try:
                message = self._connection.receive(timeout=max(0.0, until - clock.monotonic()))
            except (OSError, TimeoutError) as fault:
                raise DeskError(f"{self._whom} does not answer: {fault or 'it took too long'}", HOW) from fault
            method = waiting.pop(message.header.fields.get(HeaderFields.reply_serial), None)
            if method is None:
                self._hand_over(message)
                continue
            until = clock.monotonic() + PATIENCE
            try:
                answer = unwrap_msg(message)
                told = answer[0] if len(answer) == 1 else answer or None  # one value, or all of them
            except DBusErrorResponse as fault:
                told = DeskError(f"{self._whom} refuses {method}: {fault.name}", HOW)
            answers[message.header.fields[HeaderFields.reply_serial]] = told
        return [answers[serial] for serial in order]

    def send(self, message: Message, serial: int | None = None) -> None:
        """Send a message; raises `DeskError` if the bus is gone."""
        try:
            self._connection.send(message, serial=serial)
        except OSError as fault:
            raise DeskError("the session bus has gone away", "start Jaklet again when it is back") from fault

    def follow(self, **rule: str) -> None:
        """Ask the bus for the signals that a rule names (D-Bus specification, Match Rules)."""
        self.call(BUS, "AddMatch", "s", MatchRule(type="signal", **rule).serialise())

    def follow_owner(self, name: str) -> None:
        """Ask the bus to tell when a name gets another owner, or none (`NameOwnerChanged`)."""
        rule = MatchRule(type="signal", sender=BUS.bus_name, interface=BUS.interface, member="NameOwnerChanged")
        rule.add_arg_condition(0, name)
        self.call(BUS, "AddMatch", "s", rule.serialise())

    def take(self, seconds: float = 0.0) -> bool:
        """Hand over what has come, and wait for it for so long at most; true if things are otherwise now."""
        news, until = False, clock.monotonic() + seconds
        self.is_urgent = False
        while not self.is_urgent:
            try:
                message = self._connection.receive(timeout=max(0.0, until - clock.monotonic()))
            except TimeoutError:
                return news
            except OSError as fault:
                raise DeskError("the session bus has gone away", "start Jaklet again when it is back") from fault
            news |= self._hand_over(message)
            until = clock.monotonic()  # what has come by now, and no more
        return news

    def _hand_over(self, message: Message) -> bool:
        news = False
        for other in self.others:
            news |= other(message)
        return news

    def close(self) -> None:
        """End the connection."""
        with contextlib.suppress(OSError):
            self._connection.close()


def member_of(message: Message) -> str:
    """Return the name of the method or signal that a message is about."""
    return str(message.header.fields.get(HeaderFields.member, ""))


def sender_of(message: Message) -> str:
    """Return the unique name of who has sent a message; the bus fills it in."""
    return str(message.header.fields.get(HeaderFields.sender, ""))


def is_signal(message: Message) -> bool:
    """Return whether a message is a signal."""
    return message.header.message_type is MessageType.signal


def is_call(message: Message) -> bool:
    """Return whether a message is the call of a method."""
    return message.header.message_type is MessageType.method_call


def owner_of(bus: Bus, name: str) -> str:
    """Return the unique name of who has a name on the bus; raises `DeskError` where nobody has."""
    return str(bus.call(BUS, "GetNameOwner", "s", name))
