"""A small client of a listener, for programs in Python: nothing beside the standard library is loaded.

    from jaklet.client import Listener

    listener = Listener()                  # of the desk that is here
    print(listener.act("go berths").line)
    for event in listener.events():
        print(event["what"])

Whatever a listener refuses, or that none is there, is a `JakletError` with a `message` and a `remedy`.
"""

import json
import os
import socket
from collections.abc import Iterator, Mapping
from typing import Any, NamedTuple

from jaklet.core.values.errors import JakletError
from jaklet.listener.control_client import LARGEST, NobodyError, line_of, refused_error, request, user_of
from jaklet.locations import listener_here, socket_path

__all__ = ["ActionResult", "JakletError", "Listener", "NobodyError"]


class ActionResult(NamedTuple):
    """How an action has ended. `more`: lines that say more; `told`: what it said meanwhile; `seconds`: how long."""

    done: bool
    line: str
    more: tuple[str, ...] = ()
    told: tuple[str, ...] = ()
    seconds: float = 0.0


Ended = ActionResult  # its name before 1.0


class Listener:
    """The listener of a desk."""

    def __init__(self, path: "str | os.PathLike[str] | None" = None) -> None:
        """Find it. `path`: of its socket; that of the desk that is here, if none is given. Raises `JakletError`."""
        found = path or socket_path(listener_here(os.environ.get("JAKLET_DESK"), os.environ))
        if not found:
            raise JakletError("there is no place for the socket of a listener", "set XDG_RUNTIME_DIR")
        self.path = os.fspath(found)

    def ask(self, method: str, limit: float | None = None, **params: Any) -> Any:
        """Ask for anything: a method of the control socket, with its parameters. `limit`: seconds to wait for it."""
        return request(self.path, method, limit, **params)

    def act(self, sentence: str, *, sure: bool = False) -> ActionResult:
        """Do an action, or what a word of the config stands for. `sure`: also what can lose work."""
        return _ended(self.ask("act", action=sentence, **({"sure": True} if sure else {})))

    def recall(self, layout: "str | int") -> ActionResult:
        """Set the desk up as a layout says."""
        return _ended(self.ask("recall", layout=str(layout)))

    def save(self, layout: "str | int") -> ActionResult:
        """Keep the desk as it is under a name."""
        return _ended(self.ask("save", layout=str(layout)))

    def fire(self, *chords: str) -> Mapping[str, Any]:
        """Do what chords are bound to, one after another; return `done`, `lines` and `faults`."""
        told: Mapping[str, Any] = self.ask("fire", chords=list(chords))
        return told

    def status(self) -> Mapping[str, Any]:
        """Return the listener's status, with the keys of `jaklet status --format json`."""
        told: Mapping[str, Any] = self.ask("status", 10.0)
        return told

    def desk(self) -> Mapping[str, Any]:
        """Return the desk: displays, windows from front to back, the focus."""
        told: Mapping[str, Any] = self.ask("desk", 10.0)
        return told

    def layouts(self) -> list[str]:
        """Return the names of the layouts."""
        return [str(name) for name in self.ask("layouts", 10.0)["layouts"]]

    def events(self) -> Iterator[Mapping[str, Any]]:
        """Yield events until the listener ends: actions, notices, layers, windows, displays.

        All that happens after the return is told, also what happens before the first one is taken.
        """
        stream = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        try:
            try:
                stream.connect(self.path)
            except OSError as fault:
                raise NobodyError("no listener is running on this desk", "start one: jaklet listen") from fault
            if user_of(stream) != os.getuid():
                raise JakletError("the listener of this desk is another user's", "it is not asked for anything")
            stream.sendall(line_of({"jsonrpc": "2.0", "id": 1, "method": "follow", "params": {}}))
            messages = _messages(stream)
            answer = next((one for one in messages if "id" in one), None)
            if answer is None:
                raise NobodyError("the listener of this desk has ended", "start one: jaklet listen")
            if "error" in answer:
                raise refused_error(answer["error"])
        except BaseException:
            stream.close()
            raise
        return _events(stream, messages)


def _events(stream: socket.socket, messages: Iterator[dict[str, Any]]) -> Iterator[Mapping[str, Any]]:
    with stream:
        for message in messages:
            if message.get("method") == "event":
                yield message["params"]


def _messages(stream: socket.socket) -> Iterator[dict[str, Any]]:
    rest = b""
    while data := stream.recv(65_536):
        *lines, rest = (rest + data).split(b"\n")
        if len(rest) > LARGEST:
            raise JakletError("the listener gave no sensible answer", "is it of the same version?")
        for line in lines:
            yield json.loads(line)


def _ended(told: Mapping[str, Any]) -> ActionResult:
    return ActionResult(told["done"], told["line"], tuple(told["more"]), tuple(told["told"]), float(told["seconds"]))
