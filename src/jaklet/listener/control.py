"""The control socket: JSON-RPC 2.0, one message a line, for the same user only.

The server never blocks, and does little at a time, so that keys come first. A client that does not read its answers is
dropped, and when there are too many of them, the one that has been silent longest.
"""

import contextlib
import errno
import os
import resource
import select
import socket
import stat
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Final

from jaklet.core.values.errors import JakletError
from jaklet.listener.control_client import user_of
from jaklet.listener.guard import reraise
from jaklet.listener.rpc import Broken, Method, handle_line, wants_answer
from jaklet.locks import holder_of, opened_lock, take_lock

MAX_REQUEST: Final = 65_536  # bytes of a line
MAX_UNREAD: Final = 1 << 20  # bytes of answers that a client has not read
MAX_CLIENTS: Final = 128
SERVED: Final = 8  # clients that are looked after before the keys are looked at again
LINES: Final = 4  # requests of one client before that
SHARE: Final = 2  # clients get one descriptor of so many that this process may have
AGAIN: Final = 0.5  # seconds until it is tried again to let someone in, when there was no descriptor left
NEVER: Final = float("inf")
BUDGET: Final = 0.001  # seconds after which the keys come first, whatever is left to do


class ControlClient:
    """Someone who is connected: what has come and is not a whole line yet, and what is still to be sent."""

    def __init__(self, socket: socket.socket, heard: float) -> None:
        self.socket = socket
        self.heard = heard
        self.inbox = bytearray()
        self.outbox = bytearray()
        self.told = False  # of what happens
        self.kept = False  # never dropped for being silent
        self.owed = 0  # answers that are still to come, as of actions under way
        self.over = False  # it has sent all that it will
        self.left = False  # nobody is there to read an answer any more
        self.gone = False
        self.asked_for = select.EPOLLIN  # what the kernel is asked to tell of it


def only_listener(path: Path, needed: bool = True) -> int | None:
    """Return the descriptor of the lock that a listener holds until its end; raises `JakletError` if another has it.

    `needed`: it is refused where there can be no such lock, as in a folder that cannot be written; else None.
    """
    lock: int | None = None
    try:
        lock = opened_lock(path)
        if take_lock(lock):
            return lock
    except OSError as fault:
        if lock is not None:
            os.close(lock)
        if not needed:
            return None
        remedy = "take it away, or set XDG_RUNTIME_DIR to a folder that is yours alone"
        raise JakletError(f"{path} cannot be used: {fault.strerror}", remedy) from fault
    holder = holder_of(lock)
    os.close(lock)
    process = f" (process {holder})" if holder else ""
    raise JakletError(
        f"a listener is running on this desk already{process}",
        "`jaklet reload` makes it read the config again, `jaklet stop` ends it",
    )


def _own_folder(folder: Path) -> None:
    """Make the folder of the socket; raises `JakletError` where another user could put something into it."""
    folder.mkdir(mode=0o700, exist_ok=True)
    state = folder.lstat()
    if not stat.S_ISDIR(state.st_mode) or state.st_uid != os.getuid() or state.st_mode & (stat.S_IWGRP | stat.S_IWOTH):
        remedy = "set XDG_RUNTIME_DIR to a folder that is yours alone (XDG base directories)"
        raise JakletError(f"{folder} is not this user's alone", remedy)


class ControlServer:
    """Answers requests. One per desk: a lock that the process holds for life tells a second one."""

    def __init__(self, path: Path, methods: Mapping[str, Method], broken: Broken = reraise) -> None:
        """Listen at a path; raises `JakletError` if another one does. `broken`: is told of faults in methods."""
        _own_folder(path.parent)
        self._broken = broken
        self._most = max(1, min(MAX_CLIENTS, resource.getrlimit(resource.RLIMIT_NOFILE)[0] // SHARE))
        self._deaf_until = NEVER  # nobody is let in before this, as there was no descriptor for it
        self._path = path
        self._methods = dict(methods)
        self._clients: dict[int, ControlClient] = {}
        self._unfinished: dict[int, None] = {}  # clients with whole lines that wait for their turn
        self._now: ControlClient | None = None  # whose request is being done
        self._until = 0.0  # when the keys are to be looked at again
        self._lock = only_listener(path.with_suffix(".lock"))
        with contextlib.suppress(FileNotFoundError):
            path.unlink()  # left by a process that was killed; the lock proves that it is gone
        self._server = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM | socket.SOCK_NONBLOCK | socket.SOCK_CLOEXEC)
        before = os.umask(0o177)
        try:
            self._server.bind(str(path))
        finally:
            os.umask(before)
        self._server.listen(1024)
        # One descriptor for all clients: `select` cannot take a thousand, and the desk has to watch but one.
        self._epoll = select.epoll()
        self._epoll.register(self._server.fileno(), select.EPOLLIN)

    def descriptors(self) -> list[int]:
        """Return the file descriptors to watch."""
        return [self._epoll.fileno()]

    @property
    def waiting(self) -> bool:
        """True while there is more to do, of which nothing is seen on the descriptor."""
        return bool(self._unfinished)

    @property
    def deadline(self) -> float:
        """When to `serve` at the latest, on the monotonic clock; infinity where a descriptor will tell."""
        return self._deaf_until

    @property
    def is_followed(self) -> bool:
        """True if someone wants to be told of what happens."""
        return any(client.told for client in self._clients.values())

    @property
    def now(self) -> ControlClient | None:
        """The client whose request is being done."""
        return self._now

    def send(self, client: ControlClient, message: bytes) -> None:
        """Tell one client something."""
        self._send(client, message)

    def follow(self) -> None:
        """Tell the client whose request this is of what happens from now on."""
        if self._now:
            self._now.told = True

    def serve(self) -> bool:
        """Do some of what can be done without waiting; return whether there was anything."""
        served = False
        self._until = time.monotonic() + BUDGET
        if time.monotonic() >= self._deaf_until:
            self._deaf_until = NEVER
            self._epoll.register(self._server.fileno(), select.EPOLLIN)
        for number, mask in self._epoll.poll(0, SERVED):
            if time.monotonic() > self._until:
                break  # what is left is there still when this is called again
            served = True
            if number == self._server.fileno():
                self._accept()
            elif client := self._clients.get(number):
                if mask & (select.EPOLLHUP | select.EPOLLERR):  # nobody is there to read any more
                    client.told, client.owed, client.left = False, 0, True
                if mask & (select.EPOLLIN | select.EPOLLHUP | select.EPOLLERR):
                    self._read(client)
                if mask & select.EPOLLOUT:
                    self._flush(client)
        for number in [*self._unfinished][:SERVED]:
            if time.monotonic() > self._until:
                break
            served = True
            del self._unfinished[number]
            if client := self._clients.get(number):
                self._do(client)
        return served

    def _accept(self) -> None:
        for _ in range(SERVED):
            try:
                accepted, _ = self._server.accept()
            except OSError as fault:
                if fault.errno in (errno.EMFILE, errno.ENFILE, errno.ENOBUFS, errno.ENOMEM):
                    self._epoll.unregister(self._server.fileno())  # it would be told of all the time
                    self._deaf_until = time.monotonic() + AGAIN
                return
            if user_of(accepted) != os.getuid():
                accepted.close()
                continue
            accepted.setblocking(False)
            if len(self._clients) >= self._most:
                quiet = [client for client in self._clients.values() if not (client.told or client.kept)]
                quiet = quiet or [*self._clients.values()]
                self._drop(min(quiet, key=lambda client: client.heard))
            self._clients[accepted.fileno()] = ControlClient(accepted, time.monotonic())
            self._epoll.register(accepted.fileno(), select.EPOLLIN)

    def _read(self, client: ControlClient) -> None:
        try:
            data = client.socket.recv(MAX_REQUEST)
        except BlockingIOError:
            return
        except OSError:
            self._drop(client)
            return
        client.heard = time.monotonic()
        client.inbox += data
        client.over = not data
        self._do(client)

    def _do(self, client: ControlClient) -> None:
        """Do some of the requests of a client whose lines are whole, and none of one that does not read its answers."""
        for _ in range(LINES):
            if client.outbox:
                break
            end = client.inbox.find(b"\n")
            if end < 0:
                break
            line = bytes(client.inbox[:end])
            del client.inbox[: end + 1]
            if client.left and wants_answer(line):
                continue  # who asked has given up, and said so: it is not done behind their back
            self._now = client
            client.owed += 1
            if not handle_line(line, self._methods, lambda answer: self._answer(client, answer), self._broken):
                client.owed -= 1
            self._now = None
            if client.gone:
                return
            if time.monotonic() > self._until:
                break
        if b"\n" in client.inbox:
            if not client.outbox:  # else it goes on when the client has read
                self._unfinished[client.socket.fileno()] = None
        elif len(client.inbox) > MAX_REQUEST or self._is_done_with(client):
            self._drop(client)
            return
        self._ask_kernel(client)

    def _ask_kernel(self, client: ControlClient) -> None:
        """Be told of what can be done with a client next: read its requests, or send what it has not taken yet."""
        wanted = select.EPOLLOUT if client.outbox else 0 if client.over else select.EPOLLIN
        if wanted != client.asked_for:
            client.asked_for = wanted
            self._epoll.modify(client.socket.fileno(), wanted)

    @staticmethod
    def _is_done_with(client: ControlClient) -> bool:
        """True if a client has sent all that it will, and has got all that it wants."""
        return client.over and not (client.outbox or client.told or client.owed or b"\n" in client.inbox)

    def _answer(self, client: ControlClient, data: bytes) -> None:
        client.owed = max(0, client.owed - 1)
        self._send(client, data)

    def _send(self, client: ControlClient, data: bytes) -> None:
        if client.gone:
            return
        waits = bool(client.outbox)
        client.outbox += data
        if not waits:  # else the kernel will say when there is room
            self._flush(client)
        if len(client.outbox) > MAX_UNREAD:
            self._drop(client)

    def _flush(self, client: ControlClient) -> None:
        """Send what the socket takes; the rest goes when it can."""
        try:
            while client.outbox:
                del client.outbox[: client.socket.send(client.outbox)]
        except BlockingIOError:
            pass
        except OSError:
            self._drop(client)
            return
        self._ask_kernel(client)
        if client.outbox:
            return
        if b"\n" in client.inbox and self._now is not client:
            self._unfinished[client.socket.fileno()] = None
        elif self._is_done_with(client) and self._now is not client:
            self._drop(client)

    def _drop(self, client: ControlClient) -> None:
        if client.gone:
            return
        client.gone = True
        number = client.socket.fileno()
        self._clients.pop(number, None)
        self._unfinished.pop(number, None)
        with contextlib.suppress(OSError):
            self._epoll.unregister(number)
        client.socket.close()

    def tell(self, message: bytes) -> None:
        """Tell something to all who want to know what happens."""
        for client in [client for client in self._clients.values() if client.told]:
            self._send(client, message)

    def close(self) -> None:
        """Take the socket away."""
        for client in [*self._clients.values()]:
            self._drop(client)
        self._epoll.close()
        self._server.close()
        with contextlib.suppress(OSError):
            self._path.unlink()
        if self._lock is not None:
            os.close(self._lock)
