"""The control socket: JSON-RPC 2.0, one request a line, for the same user only.

The server never blocks: a request is read as its bytes come, a client that does not read its answers is dropped, and
whatever is not a request gets an error or is dropped.
"""

import contextlib
import fcntl
import json
import os
import re
import socket
import struct
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import IO, Any, Final

from jaklet.core.errors import JakletError

Method = Callable[[], Any]
MAX_REQUEST: Final = 65_536
MAX_CLIENTS: Final = 32
PARSE_ERROR, INVALID_REQUEST, NO_METHOD = -32700, -32600, -32601  # JSON-RPC 2.0, section 5.1


def socket_path(desk: str) -> Path | None:
    """Return where the control socket of a desk is; None where there is no folder for it (XDG base directories)."""
    runtime = os.environ.get("XDG_RUNTIME_DIR")
    if not runtime or not os.path.isdir(runtime):
        return None
    return Path(runtime) / "jaklet" / (re.sub(r"[^\w.-]", "_", desk) + ".sock")


class ControlServer:
    """Answers requests. One per desk: a lock that the process holds for life tells a second one."""

    def __init__(self, path: Path, methods: Mapping[str, Method]) -> None:
        path.parent.mkdir(mode=0o700, exist_ok=True)
        self._path = path
        self._methods = methods
        self._clients: dict[int, tuple[socket.socket, bytearray]] = {}
        self._lock = self._only_one(path)
        with contextlib.suppress(FileNotFoundError):
            path.unlink()  # left by a process that was killed; the lock proves that it is gone
        self._server = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM | socket.SOCK_NONBLOCK | socket.SOCK_CLOEXEC)
        before = os.umask(0o177)
        try:
            self._server.bind(str(path))
        finally:
            os.umask(before)
        self._server.listen(MAX_CLIENTS)

    @staticmethod
    def _only_one(path: Path) -> IO[str]:
        lock = open(path.with_suffix(".lock"), "a+", encoding="utf-8")  # noqa: SIM115  # held until the process ends
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as fault:
            lock.seek(0)
            pid = lock.read().strip() or "unknown"
            lock.close()
            raise JakletError(
                f"a listener is running on this desk already (process {pid})",
                "`jaklet reload` makes it read the config again",
            ) from fault
        lock.truncate(0)
        lock.write(str(os.getpid()))
        lock.flush()
        return lock

    def descriptors(self) -> list[int]:
        """Return what to watch: the server and its clients."""
        return [self._server.fileno(), *self._clients]

    def serve(self) -> None:
        """Do all that can be done without waiting."""
        while len(self._clients) < MAX_CLIENTS:
            try:
                client, _ = self._server.accept()
            except OSError:
                break
            if _user_of(client) != os.getuid():
                client.close()
                continue
            client.setblocking(False)
            self._clients[client.fileno()] = (client, bytearray())
        for descriptor, (client, buffer) in list(self._clients.items()):
            if not self._read(client, buffer):
                del self._clients[descriptor]
                client.close()

    def _read(self, client: socket.socket, buffer: bytearray) -> bool:
        """Take in what a client sent and answer whole lines; False if it is done with."""
        try:
            data = client.recv(MAX_REQUEST)
        except BlockingIOError:
            return True
        except OSError:
            return False
        buffer += data
        while (end := buffer.find(b"\n")) >= 0:
            line = bytes(buffer[:end])
            del buffer[: end + 1]
            reply = self._answer(line)
            if reply is not None:
                try:
                    client.sendall(reply)
                except OSError:
                    return False  # it does not read: its socket buffer is full, or it has gone
        return bool(data) and len(buffer) <= MAX_REQUEST

    def _answer(self, line: bytes) -> bytes | None:
        try:
            request = json.loads(line)
        except (ValueError, RecursionError):
            return _reply(None, error=(PARSE_ERROR, "this is not JSON"))
        if (
            not isinstance(request, dict)
            or request.get("jsonrpc") != "2.0"
            or not isinstance(request.get("method"), str)
        ):
            return _reply(None, error=(INVALID_REQUEST, "this is not a JSON-RPC 2.0 request"))
        number = request.get("id")
        method = self._methods.get(request["method"])
        if method is None:
            return _reply(number, error=(NO_METHOD, f"there is no method {request['method']!r}"))
        result = method()
        return _reply(number, result=result) if "id" in request else None

    def close(self) -> None:
        """Take the socket away."""
        for client, _ in self._clients.values():
            client.close()
        self._server.close()
        with contextlib.suppress(OSError):
            self._path.unlink()
        self._lock.close()


def _user_of(client: socket.socket) -> int:
    """Return the user at the other end (unix(7), SO_PEERCRED)."""
    packed = client.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, struct.calcsize("3i"))
    _, user, _ = struct.unpack("3i", packed)
    return int(user)


def _reply(number: Any, *, result: Any = None, error: tuple[int, str] | None = None) -> bytes:
    body: dict[str, Any] = {"jsonrpc": "2.0", "id": number}
    if error:
        body["error"] = {"code": error[0], "message": error[1]}
    else:
        body["result"] = result
    return json.dumps(body).encode() + b"\n"


def request(path: Path, method: str, limit: float = 10.0) -> Any:
    """Ask the listener of a desk, and return its result; raises `JakletError` where none answers."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as client:
        client.settimeout(limit)
        try:
            client.connect(str(path))
            client.sendall(json.dumps({"jsonrpc": "2.0", "id": 1, "method": method}).encode() + b"\n")
            answer = client.makefile("rb").readline(MAX_REQUEST * 16)
        except (FileNotFoundError, ConnectionError) as fault:
            raise JakletError("no listener is running on this desk", "start one: jaklet listen") from fault
        except OSError as fault:
            raise JakletError(f"the listener does not answer: {fault}", "see what `jaklet listen` printed") from fault
    try:
        return json.loads(answer)["result"]
    except (ValueError, KeyError) as fault:
        raise JakletError("the listener gave no sensible answer", "is it of the same version?") from fault
