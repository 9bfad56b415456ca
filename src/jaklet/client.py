"""A small client of a listener, for programs in Python: nothing beside the standard library is loaded.

    from jaklet.client import Listener

    listener = Listener()                  # of this desk
    print(listener.act("go berths").line)
    for event in listener.events():
        print(event["what"])

Every method raises `NobodyError` where no listener runs on the desk, and `JakletError` where the listener refuses or
its answer makes no sense. Both have a `message` and a `remedy`. An action that fails raises nothing: see `done`.
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
    """How an action has ended.

    `done`: whether it succeeded. `line`: the answer. `more`: further lines, such as what was refused. `told`: what the
    action said while it ran. `seconds`: how long it took.
    """

    done: bool
    line: str
    more: tuple[str, ...] = ()
    told: tuple[str, ...] = ()
    seconds: float = 0.0


Ended = ActionResult  # its name before 1.0


class Listener:
    """The listener of a desk. Each call opens a connection of its own, so that threads can share a `Listener`."""

    def __init__(self, path: "str | os.PathLike[str] | None" = None) -> None:
        """Find the socket; nothing is asked yet.

        `path`: the socket; None for the one of the desk named by `JAKLET_DESK`, else of this session.
        Raises `JakletError` where there is no folder for sockets (`XDG_RUNTIME_DIR`).
        """
        found = path or socket_path(listener_here(os.environ.get("JAKLET_DESK"), os.environ))
        if not found:
            raise JakletError("there is no place for the socket of a listener", "set XDG_RUNTIME_DIR")
        self.path = os.fspath(found)

    def ask(self, method: str, limit: float | None = None, **params: Any) -> Any:
        """Return the result of a method of the control socket (docs/listener.md).

        `params`: the parameters of the method, by name. `limit`: seconds to wait for the result; None for no limit.
        Raises `JakletError` also where the limit passes.
        """
        return request(self.path, method, limit, **params)

    def act(self, sentence: str, *, sure: bool = False) -> ActionResult:
        """Do an action, and return how it ended, once it has.

        `sentence`: an action such as `go berths`, or a word of the config. `sure`: also do what can lose work.
        """
        return _ended(self.ask("act", action=sentence, **({"sure": True} if sure else {})))

    def recall(self, layout: "str | int") -> ActionResult:
        """Recall a layout, by name or number; return how that ended, once all programs have come or failed."""
        return _ended(self.ask("recall", layout=str(layout)))

    def save(self, layout: "str | int") -> ActionResult:
        """Save the desk as a layout, under a name or number; return how that ended."""
        return _ended(self.ask("save", layout=str(layout)))

    def fire(self, *chords: str) -> Mapping[str, Any]:
        """Do the actions of chords such as `super+b`, one after another.

        Return `done`, `lines` (each with `text` and `good`) and `faults`: why it stopped early, at most one reason.
        """
        told: Mapping[str, Any] = self.ask("fire", chords=list(chords))
        return told

    def status(self) -> Mapping[str, Any]:
        """Return the listener's status, with the fields in docs/listener.md. Raises `JakletError` after 10 s."""
        told: Mapping[str, Any] = self.ask("status", 10.0)
        return told

    def desk(self) -> Mapping[str, Any]:
        """Return the desk as `jaklet desk --format json` does: displays, windows from front to back, the focus.

        Frames are in pixels. Raises `JakletError` after 10 s.
        """
        told: Mapping[str, Any] = self.ask("desk", 10.0)
        return told

    def layouts(self) -> list[str]:
        """Return the names of the layouts. Raises `JakletError` after 10 s."""
        return [str(name) for name in self.ask("layouts", 10.0)["layouts"]]

    def events(self) -> Iterator[Mapping[str, Any]]:
        """Return an iterator over events until the listener ends: actions, notices, layers, windows, displays.

        Each event is a mapping with a `what` (docs/listener.md). Events are kept from the return of this call on.
        Closing the iterator closes the connection.
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
