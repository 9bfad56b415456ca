"""Asking the listener of a desk, for commands. What answers at its socket is believed in nothing.

The one who answers is the same user, or is not talked to; the whole answer comes within a time, is of a size, and has
the form that is expected; and no text of it can steer a terminal.
"""

import json
import os
import select
import socket
import sys
import time

from jaklet.core.values.errors import JakletError, UsageError
from jaklet.core.values.words import printable

TYPE_CHECKING = False
if TYPE_CHECKING:  # this is loaded by the quickest commands
    from collections.abc import Callable
    from typing import Any

LONG = 0.5  # seconds after which something takes long
ALIVE = 5.0  # seconds in which a listener says anything at all; one that does not is stopped, or hangs
WHOLE = 2.0  # seconds for the whole of an answer, once it has begun
LARGEST = 1 << 22  # bytes of an answer
LATEST = 1e11  # seconds since the epoch, or of anything else; a larger number is no time
_TEXTS = [str]
_ENDED = {"done": bool, "line": str, "more": _TEXTS, "told": _TEXTS}
# What the answer to a method has to have, beside what it may have: a type, a list of a form, keys with forms; `*` is
# any key. Methods that are not here answer in any form.
FORMS: "dict[str, Any]" = {
    "reload": {"done": bool, "lines": _TEXTS},
    "act": _ENDED, "recall": _ENDED, "save": _ENDED,
    "fire": {"done": bool, "lines": [{"good": bool, "text": str}], "faults": [{"message": str}]},
}  # fmt: skip
ESCAPED = ("desk",)  # methods whose answers go out as JSON, where nothing can steer a terminal
NO_METHOD = -32601  # JSON-RPC 2.0, section 5.1
ELSEWHERE = -32001  # of those left to servers: it is not done here, but whoever asked may be able to do it
LEFT = (ELSEWHERE, NO_METHOD)  # a listener of another version may have no such method


class ElsewhereError(JakletError):
    """The listener leaves it to whoever asked, who may be able to do it."""


class MuteError(JakletError):
    """A listener is there, and does not answer."""


class NobodyError(JakletError):
    """No listener is there, so that nothing was asked."""


def request(
    path: "str | os.PathLike[str]",
    method: str,
    limit: "float | None" = ALIVE,
    waiting: "Callable[[], None] | None" = None,
    **params: "Any",
) -> "Any":
    """Ask the listener of a desk, and return its result; raises `JakletError` where it refuses, or none answers.

    `limit`: seconds until its answer begins, None for as long as it takes a listener that lives: it is asked for a sign
    of that every few seconds. `waiting` is called when it takes long. Raises `MuteError` where no answer comes.
    """
    asked = line_of({"jsonrpc": "2.0", "id": 1, "method": method, "params": params})
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as client:
        client.settimeout(limit)
        try:
            client.connect(os.fspath(path))
        except (FileNotFoundError, ConnectionError) as fault:
            raise NobodyError("no listener is running on this desk", "start one: jaklet listen") from fault
        except OSError as fault:
            raise mute_error(fault) from fault
        if user_of(client) != os.getuid():
            raise JakletError("the listener of this desk is another user's", "it is not asked for anything")
        try:
            client.sendall(asked)
            if waiting and not select.select([client], [], [], LONG)[0]:
                waiting()
            while limit is None and not select.select([client], [], [], ALIVE)[0]:
                if not _is_alive(path):
                    raise mute_error(TimeoutError(), pid_of(client))
            answer = _line(client, limit)
        except ConnectionError as fault:
            raise gone_error() from fault
        except OSError as fault:
            raise mute_error(fault, pid_of(client)) from fault
    if not answer:
        raise gone_error()
    try:
        told = json.loads(answer)
        if "error" in told:
            raise refused_error(told["error"])
        result = told["result"] if method in ESCAPED else _made_printable(told["result"])
        if not _fits(result, form_of(method)):
            raise ValueError(method)
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as fault:
        raise JakletError("the listener gave no sensible answer", "is it of the same version?") from fault
    return result


def form_of(method: str) -> "Any":
    """Return the form that the answer to a method has to have; `object` for any."""
    if method == "status":  # the quickest commands do not load the table
        from jaklet.core.keys.listener_status import FORMS as STATUS_FORMS

        return STATUS_FORMS
    return FORMS.get(method, object)


def line_of(data: "Any") -> bytes:
    """Return data as a line of JSON."""
    return json.dumps(data).encode() + b"\n"


def user_of(client: socket.socket) -> int:
    """Return the user at the other end (unix(7), SO_PEERCRED)."""
    return _peer(client)[1]


def pid_of(client: socket.socket) -> int:
    """Return the process that listens at the other end (unix(7), SO_PEERCRED)."""
    return _peer(client)[0]


def _peer(client: socket.socket) -> "tuple[int, ...]":
    """Return process, user and group at the other end, an `int` each."""
    packed = client.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, 12)
    return tuple(int.from_bytes(packed[at : at + 4], sys.byteorder) for at in (0, 4, 8))


def _is_alive(path: "str | os.PathLike[str]") -> bool:
    """Return whether a listener answers something else meanwhile."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as client:
        client.settimeout(ALIVE)
        try:
            client.connect(os.fspath(path))
            client.sendall(line_of({"jsonrpc": "2.0", "id": 1, "method": "layouts"}))
            return bool(client.recv(1))
        except OSError:
            return False


def gone_error() -> JakletError:
    """Return the error for a listener that ended before it answered, as when its desktop ends."""
    return JakletError("the listener went away meanwhile", "its desktop may have ended; see its log")


def mute_error(fault: OSError, pid: int = 0) -> MuteError:
    """Return the error for a listener that does not answer. `pid`: its process, where that is known."""
    if not isinstance(fault, TimeoutError):
        return MuteError(f"the listener does not answer: {fault}", "see what `jaklet listen` printed")
    process = f" (process {pid})" if pid else ""
    remedy = f"if it is stopped, `kill -CONT {pid}` lets it go on; `kill -9 {pid}` ends it" if pid else ""
    return MuteError(f"the listener{process} does not answer", remedy or "see what `jaklet listen` printed")


def refused_error(error: "dict[str, Any]") -> JakletError:
    """Return the error for a listener's refusal, in the words of the command itself."""
    data = error.get("data")
    data = data if isinstance(data, dict) else {}
    message = printable(str(error["message"]))
    remedy = "\n".join(printable(line) for line in str(data.get("remedy", "")).split("\n"))
    if error.get("code") in LEFT:
        return ElsewhereError(message, remedy)
    return (UsageError if data.get("status") == UsageError.exit_status else JakletError)(message, remedy)


def _line(client: socket.socket, limit: "float | None") -> bytes:
    """Return the first line that comes, within the time; raises `OSError`."""
    line = bytearray()
    until = float("inf") if limit is None else time.monotonic() + limit
    while b"\n" not in line:
        left = until - time.monotonic()
        if left <= 0:
            raise TimeoutError
        client.settimeout(None if left == float("inf") else left)
        data = client.recv(65_536)
        if not data:
            break
        if not line:
            until = time.monotonic() + WHOLE
        line += data
        if len(line) > LARGEST:
            raise OSError("the answer is too long")
    return bytes(line).partition(b"\n")[0]


def _made_printable(data: "Any") -> "Any":
    """Return data in which no text can steer a terminal."""
    if isinstance(data, str):
        return printable(data)
    if isinstance(data, list):
        return [_made_printable(one) for one in data]
    if isinstance(data, dict):
        return {printable(key): _made_printable(value) for key, value in data.items()}
    return data


def _fits(data: "Any", form: "Any") -> bool:
    """Return whether data has a form: see `FORMS`."""
    if isinstance(form, list):
        return isinstance(data, list) and all(_fits(one, form[0]) for one in data)
    if isinstance(form, dict):
        if not isinstance(data, dict):
            return False
        if "*" in form:
            return all(_fits(value, form["*"]) for value in data.values())
        return all(key in data and _fits(data[key], wanted) for key, wanted in form.items())
    if form is float:
        return isinstance(data, int | float) and not isinstance(data, bool) and 0 <= data < LATEST
    return isinstance(data, form)
