"""The script in KWin, and the bus between it and Jaklet: one connection, read where the desk is waited on.

The script calls this connection by its unique name, which the bus gives to nobody else; calls are taken from KWin
alone. It asks for work (`Next`), and is answered once there is any, or with none after `ANSWER`: a call not answered
within the time of the bus is lost. It tells how things are (`State`) whenever they change.
"""

import contextlib
import json
import os
import time as clock
from collections.abc import Sequence
from importlib.resources import files
from pathlib import Path
from typing import Any, Final

from jeepney import DBusAddress, HeaderFields, Message, MessageType, new_error, new_method_call, new_method_return
from jeepney.io.blocking import DBusConnection, open_dbus_connection
from jeepney.wrappers import DBusErrorResponse, unwrap_msg

from jaklet.core.values.errors import DeskError

KWIN: Final = "org.kde.KWin"
BUS: Final = DBusAddress("/org/freedesktop/DBus", "org.freedesktop.DBus", "org.freedesktop.DBus")
SCRIPTING: Final = DBusAddress("/Scripting", KWIN, "org.kde.kwin.Scripting")
SUPPORT: Final = DBusAddress("/KWin", KWIN, "org.kde.KWin")
ANSWER: Final = 15.0  # seconds; the bus forgets a call after 25
PATIENCE: Final = 5.0  # seconds for an answer of KWin
HOW: Final = "Plasma on Wayland has it: run `jaklet` inside such a session"


class Agent:
    """The script at work. `state`: what it told last."""

    def __init__(self, connection: DBusConnection) -> None:
        self._connection = connection
        self._name = f"jaklet-{connection.unique_name.strip(':').replace('.', '-')}"
        self._asks: Message | None = None  # the call that waits for work
        self._answer_by = float("inf")
        self._work: list[dict[str, Any]] = []
        self._serial = 0
        self.sent = 0  # the number of the last work that was handed over, or waits to be
        self.state: dict[str, Any] = {}
        self._kwin = self._call(BUS, "GetNameOwner", "s", KWIN)
        self._load()

    @classmethod
    def start(cls) -> "Agent":
        """Begin; raises `DeskError` where there is no KWin, or it does not answer."""
        address = os.environ.get("DBUS_SESSION_BUS_ADDRESS", "")
        try:
            connection = open_dbus_connection(address or "SESSION")
        except (OSError, KeyError, ValueError) as fault:
            raise DeskError(f"the session bus cannot be reached: {fault}", HOW) from fault
        try:
            return cls(connection)
        except BaseException:
            connection.close()
            raise

    def _call(self, address: DBusAddress, method: str, signature: str = "", *body: object) -> Any:
        """Return what a method answers; raises `DeskError`."""
        call, serial = new_method_call(address, method, signature or None, body), next(self._connection.outgoing_serial)
        until = clock.monotonic() + PATIENCE
        try:
            self._connection.send(call, serial=serial)
            while True:  # what the script says meanwhile is taken in, too
                message = self._connection.receive(timeout=max(0.0, until - clock.monotonic()))
                if message.header.fields.get(HeaderFields.reply_serial) == serial:
                    break
                self._taken(message)
            answer = unwrap_msg(message)
        except DBusErrorResponse as fault:
            raise DeskError(f"KWin refuses {method}: {fault.name}", HOW) from fault
        except (OSError, TimeoutError) as fault:
            raise DeskError(f"KWin does not answer: {fault or 'it took too long'}", HOW) from fault
        return answer[0] if answer else None

    def _load(self) -> None:
        """Let KWin run the script; the file is of no use once it does."""
        runtime = Path(os.environ.get("XDG_RUNTIME_DIR", "")) / "jaklet"
        if not runtime.is_absolute():
            raise DeskError("XDG_RUNTIME_DIR is not set", HOW)
        text = files("jaklet.desktops.plasma").joinpath("agent.js").read_text()
        text = text.replace("@SERVICE@", self._connection.unique_name).replace("@NAME@", self._name)
        path = runtime / f"{self._name}.js"
        try:
            runtime.mkdir(mode=0o700, exist_ok=True)
            path.write_text(text)
            number = self._call(SCRIPTING, "loadScript", "ss", str(path), self._name)
            if not isinstance(number, int) or number < 0:
                raise DeskError("KWin does not load the script of Jaklet", "see what it prints: journalctl --user")
            self._run(number)
        except OSError as fault:
            raise DeskError(f"{path} cannot be written: {fault.strerror}", "see to that folder") from fault
        finally:
            with contextlib.suppress(OSError):
                path.unlink()
        until = clock.monotonic() + PATIENCE
        while not self.state:
            if clock.monotonic() > until:
                raise DeskError("the script of Jaklet does not answer in KWin", "see what it prints: journalctl --user")
            self.take(0.1)

    def _run(self, number: int) -> None:
        """Run the script: `/N` in 5.27, `/Scripting/ScriptN` in 6, as its documentation says."""
        for path in (f"/{number}", f"/Scripting/Script{number}"):
            with contextlib.suppress(DeskError):
                self._call(DBusAddress(path, KWIN, "org.kde.kwin.Script"), "run")
                return
        raise DeskError("KWin does not run the script of Jaklet", "see what it prints: journalctl --user")

    @property
    def fileno(self) -> int:
        """The descriptor that can be read when something has come."""
        return int(self._connection.sock.fileno())

    @property
    def due(self) -> float:
        """When the script is to be answered at the latest; infinity while it asks for nothing."""
        return self._answer_by

    def ask(self, requests: Sequence[dict[str, Any]]) -> int:
        """Hand over work, as soon as the script asks for it; return its number, which `state` has once it is done."""
        self.sent += 1
        self._work += requests
        self._hand_over()
        return self.sent

    def _hand_over(self) -> None:
        if self._asks is None:
            return
        work = {"requests": self._work, "serial": self.sent}
        self._connection.send(new_method_return(self._asks, "s", (json.dumps(work),)))
        self._asks, self._work, self._answer_by = None, [], float("inf")

    def take(self, seconds: float = 0.0) -> bool:
        """Take in what has come, and wait for it for so long at most; true if things are otherwise now."""
        news, until = False, clock.monotonic() + seconds
        while True:
            try:
                message = self._connection.receive(timeout=max(0.0, until - clock.monotonic()))
            except TimeoutError:
                break
            except OSError as fault:
                raise DeskError("the session bus has gone away", "start Jaklet again when it is back") from fault
            news |= self._taken(message)
            until = clock.monotonic()  # what has come by now, and no more
        if clock.monotonic() >= self._answer_by:
            self._hand_over()
        return news

    def _taken(self, message: Message) -> bool:
        header = message.header
        if header.message_type is not MessageType.method_call:
            return False
        if header.fields.get(HeaderFields.sender) != self._kwin:  # nobody else is answered
            self._connection.send(new_error(message, "org.freedesktop.DBus.Error.AccessDenied"))
            return False
        match header.fields.get(HeaderFields.member):
            case "Next":
                self._asks, self._answer_by = message, clock.monotonic() + ANSWER
                if self._work:
                    self._hand_over()
            case "State":
                self._connection.send(new_method_return(message))
                self.state = json.loads(message.body[0])
                return True
            case _:
                self._connection.send(new_error(message, "org.freedesktop.DBus.Error.UnknownMethod"))
        return False

    def support(self) -> str:
        """Return what KWin says of itself: names, places and scales of its outputs are in it."""
        return str(self._call(SUPPORT, "supportInformation"))

    def close(self) -> None:
        """Take the script away."""
        with contextlib.suppress(DeskError, OSError):
            self._call(SCRIPTING, "unloadScript", "s", self._name)
        self._connection.close()
