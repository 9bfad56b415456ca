"""Asking the listener of a desk, for commands. What answers at its socket is believed in nothing.

The one who answers is the same user, or is not talked to; the whole answer comes within a time, is of a size, and has
the form that is expected; and no text of it can steer a terminal.
"""

import json
import os
import socket
import time
from pathlib import Path
from typing import Any, Final

from jaklet.core.values.errors import JakletError
from jaklet.core.values.words import printable
from jaklet.listener.control import user_of
from jaklet.listener.rpc import line_of

WHOLE: Final = 2.0  # seconds for the whole of an answer, once it has begun
LARGEST: Final = 1 << 22  # bytes of an answer
LATEST: Final = 1e11  # seconds since the epoch, or of anything else; a larger number is no time
_TEXTS: Final = [str]
_DONE: Final = {"at": float, "keys": str, "action": str, "done": bool, "line": str, "seconds": float}
# What the answer to a method has to have, beside what it may have: a type, a list of a form, keys with forms; `*` is
# any key. Methods that are not here answer in any form.
FORMS: Final[dict[str, Any]] = {
    "status": {
        "pid": float, "desk": str, "config": str, "layer": str, "chords": _TEXTS, "refused": {"*": str},
        "bindings": _TEXTS, "since": float, "paused": bool, "layout": str, "under way": _TEXTS, "actions": [_DONE],
        "warnings": _TEXTS, "watching": bool, "keyboard": str,
    },
    "reload": {"done": bool, "lines": _TEXTS},
}  # fmt: skip


def request(path: Path, method: str, limit: float = 10.0, **params: Any) -> Any:
    """Ask the listener of a desk, and return its result; raises `JakletError` where it refuses, or none answers.

    `limit`: seconds until its answer begins.
    """
    asked = line_of({"jsonrpc": "2.0", "id": 1, "method": method, "params": params})
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as client:
        client.settimeout(limit)
        try:
            client.connect(str(path))
            if user_of(client) != os.getuid():
                raise JakletError("the listener of this desk is another user's", "it is not asked for anything")
            client.sendall(asked)
            answer = _line(client, limit)
        except (FileNotFoundError, ConnectionError) as fault:
            raise JakletError("no listener is running on this desk", "start one: jaklet listen") from fault
        except TimeoutError as fault:
            raise JakletError("the listener does not answer in time", "see what `jaklet listen` printed") from fault
        except OSError as fault:
            raise JakletError(f"the listener does not answer: {fault}", "see what `jaklet listen` printed") from fault
    try:
        told = _made_printable(json.loads(answer))
        if "error" in told:
            data = told["error"].get("data")
            raise JakletError(str(told["error"]["message"]), str(data.get("remedy", "")) if data else "")
        result = told["result"]
        if not _fits(result, FORMS.get(method, object)):
            raise ValueError(method)
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as fault:
        raise JakletError("the listener gave no sensible answer", "is it of the same version?") from fault
    return result


def _line(client: socket.socket, limit: float) -> bytes:
    """Return the first line that comes, within the time; raises `OSError`."""
    line = bytearray()
    until = time.monotonic() + limit
    while b"\n" not in line:
        left = until - time.monotonic()
        if left <= 0:
            raise TimeoutError
        client.settimeout(left)
        data = client.recv(65_536)
        if not data:
            break
        if not line:
            until = time.monotonic() + WHOLE
        line += data
        if len(line) > LARGEST:
            raise OSError("the answer is too long")
    return bytes(line).partition(b"\n")[0]


def _made_printable(data: Any) -> Any:
    """Return data in which no text can steer a terminal."""
    if isinstance(data, str):
        return printable(data)
    if isinstance(data, list):
        return [_made_printable(one) for one in data]
    if isinstance(data, dict):
        return {printable(key): _made_printable(value) for key, value in data.items()}
    return data


def _fits(data: Any, form: Any) -> bool:
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
