"""The control socket: what JSON-RPC asks for, any bytes, clients that stall, and a thousand of them."""

import contextlib
import json
import os
import resource
import select
import socket
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.values.errors import JakletError
from jaklet.listener.control import MAX_CLIENTS, MAX_REQUEST, MAX_UNREAD, ControlServer
from jaklet.listener.control_client import request
from jaklet.listener.guard import report_fault
from jaklet.listener.methods import methods_of
from jaklet.listener.rpc import Answer, notification
from jaklet.locations import socket_path
from tests.xserver import LIMIT


class Served:
    """A server that is served by hand."""

    def __init__(self, path: Path) -> None:
        self.path, self.later = path, list[Answer]()
        self.server = ControlServer(
            path,
            {
                "reload": lambda _params, answer: answer({"done": True}),
                "long": lambda _params, answer: answer("x" * 200_000),
                "later": lambda _params, answer: self.later.append(answer),
                "refuse": self._refuse,
                "follow": self._follow,
            },
        )

    def _refuse(self, _params: object, _answer: Answer) -> None:
        raise JakletError("not today", "ask tomorrow")

    def _follow(self, _params: object, answer: Answer) -> None:
        self.server.follow()
        answer(True)

    def connect(self) -> socket.socket:
        client = socket.socket(socket.AF_UNIX)
        client.connect(str(self.path))
        client.setblocking(False)
        return client

    def until(self, done: Callable[[], bool]) -> None:
        """Serve until something is so; it never blocks, so that the limit holds."""
        end = time.monotonic() + LIMIT
        while not done():
            assert time.monotonic() < end
            began = time.monotonic()
            self.server.serve()
            assert time.monotonic() - began < 1

    def quiet(self) -> bool:
        return not self.server.waiting and not select.select(self.server.descriptors(), [], [], 0)[0]

    def exchange(self, sent: bytes) -> bytes:
        """Send bytes, and return all that comes back until the server has nothing more to do."""
        came = b""
        with self.connect() as client:
            for _ in range(5_000):
                sending = bool(sent)
                try:
                    sent = sent[client.send(sent[:4096]) :]
                except BlockingIOError:
                    pass
                except OSError:
                    return came
                self.server.serve()
                try:
                    data = client.recv(1 << 20)
                    came += data
                    if not data:
                        return came  # dropped
                except BlockingIOError:
                    if not sending and self.quiet():
                        return came
                except OSError:
                    return came
        raise AssertionError("it does not come to an end")


@pytest.fixture
def served(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Served]:
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(tmp_path))
    path = tmp_path / "jaklet" / "x11_7.sock"
    assert socket_path("x11:7") == str(path)
    one = Served(path)
    yield one
    one.server.close()
    assert not path.exists()


RELOAD = b'{"jsonrpc": "2.0", "id": 7, "method": "reload"}\n'
DONE = {"jsonrpc": "2.0", "id": 7, "result": {"done": True}}
REQUESTS = [
    (RELOAD, [DONE]),
    (RELOAD * 50, [DONE] * 50),
    (b'{"jsonrpc": "2.0", "method": "reload"}\n', []),
    (b'{"jsonrpc": "2.0", "method": "fly"}\n', []),
    (b'{"jsonrpc": "2.0", "id": 1, "method": "fly"}\n', [-32601]),
    (b'{"jsonrpc": "2.0", "id": 1, "method": "reload", "params": [1]}\n', [-32602]),
    (b'{"jsonrpc": "2.0", "id": 1, "method": "refuse"}\n', [-32000]),
    (b'{"id": 1, "method": "reload"}\n', [-32600]),
    (b'{"jsonrpc": "2.0", "id": [1], "method": "reload"}\n', [-32600]),
    (b'{"jsonrpc": "2.0", "id": 1, "method": "reload", "params": {"config": "\\ud800"}}\n', [-32602]),
    (b'{"jsonrpc": "2.0", "id": 1, "method": "reload", "params": {"a\\u0000": [{"b": "c\\u0000"}]}}\n', [-32602]),
    (b"[]\nnull\n", [-32600, -32600]),
    (b"[" + b",".join([b"1"] * 51) + b"]\n", [-32600]),
    (b"not json\n\xff\xfe\n", [-32700, -32700]),
    (b"[" * 5000 + b"\n", [-32700]),
    (b'{"jsonrpc": "2.0"', []),
    (b"x" * (MAX_REQUEST * 3), []),
]


@pytest.mark.parametrize(("sent", "answers"), REQUESTS)
def test_requests_are_answered_or_dropped(sent: bytes, answers: list[Any], served: Served) -> None:
    came = [json.loads(line) for line in served.exchange(sent).splitlines()]
    assert [answer if "result" in answer else answer["error"]["code"] for answer in came] == answers


def test_a_batch_is_answered_as_one_when_its_last_answer_is_there(served: Served) -> None:
    batch = (
        b"["
        + RELOAD.strip()
        + b', {"jsonrpc": "2.0", "method": "reload"}, 5, '
        + RELOAD.replace(b"reload", b"later").strip()
        + b"]\n"
    )
    with served.connect() as client:
        client.send(batch)
        served.until(lambda: bool(served.later))
        served.later[0]("at last")
        answers = json.loads(client.recv(1 << 16))
    assert [one.get("result", one.get("error", {}).get("code")) for one in answers] == [
        {"done": True},
        -32600,
        "at last",
    ]


def test_any_bytes_leave_the_server_well(served: Served) -> None:
    @given(
        st.binary(max_size=200)
        | st.lists(st.sampled_from([RELOAD[:20], RELOAD, b"[", b"{", b'"', b"\n", b"\x00"])).map(b"".join)
    )
    def law(sent: bytes) -> None:
        served.exchange(sent)
        served.exchange(sent + b"\n")

    law()
    assert [json.loads(served.exchange(RELOAD))] == [DONE]


def test_slow_and_half_open_clients_hold_up_nobody(served: Served) -> None:
    """One that never reads is asked for nothing more until it does; one that sends half a request is left alone."""
    slow, half = served.connect(), served.connect()
    half.send(RELOAD[:10])
    sent = 0
    for _ in range(50):  # far more than the kernel keeps
        served.until(lambda: not served.server.waiting)
        with contextlib.suppress(BlockingIOError):
            sent += slow.send(b'{"jsonrpc": "2.0", "id": 1, "method": "long"}\n' * 20) // 46
        served.until(served.quiet)
        assert [json.loads(served.exchange(RELOAD))] == [DONE]
    assert sum(len(client.outbox) for client in served.server._clients.values()) < MAX_UNREAD
    half.send(RELOAD[10:])
    served.until(lambda: bool(select.select([half], [], [], 0)[0]))
    assert json.loads(half.recv(1 << 16)) == DONE
    came = 0
    while came < sent:  # it reads at last, and gets all that it has asked for
        served.server.serve()
        with contextlib.suppress(BlockingIOError):
            came += slow.recv(1 << 20).count(b"\n")
    slow.close()
    half.close()


def test_where_descriptors_are_few_nobody_is_waited_for_in_vain(served: Served) -> None:
    """300 clients at a limit of 64: some are let in, others later, and nothing spins."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    clients = [socket.socket(socket.AF_UNIX) for _ in range(300)]
    try:
        used = len(os.listdir("/proc/self/fd"))
        resource.setrlimit(resource.RLIMIT_NOFILE, (used + 5, hard))
        for client in clients:
            client.setblocking(False)
            client.connect(str(served.path))
        looks = 0
        for _ in range(200):
            looks += not served.quiet()
            served.server.serve()
        assert looks < 20
        assert served.server.deadline < float("inf")
    finally:
        resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))
    served.until(lambda: served.server.deadline == float("inf"))
    for client in clients:
        client.close()
    served.until(lambda: served.quiet() and not served.server._clients)
    assert [json.loads(served.exchange(RELOAD))] == [DONE]


def test_a_thousand_clients_are_served_or_dropped_and_the_one_who_follows_stays(served: Served) -> None:
    follower = served.connect()
    follower.send(RELOAD.replace(b"reload", b"follow"))
    served.until(lambda: served.server.is_followed)
    clients = []
    for _ in range(1000):
        client = served.connect()
        client.send(RELOAD)
        clients.append(client)
        served.server.serve()
    served.until(served.quiet)
    ends = {}
    for client in clients:
        try:
            ends[client] = client.recv(1 << 16)
        except OSError:
            ends[client] = b""
    assert len([1 for came in ends.values() if came and json.loads(came) == DONE]) > MAX_CLIENTS // 2
    served.server.tell(notification("event", {"what": "notice"}))
    told = b""
    served.until(lambda: bool(select.select([follower], [], [], 0)[0]))
    told = follower.recv(1 << 16)
    assert json.loads(told.splitlines()[-1])["params"] == {"what": "notice"}
    for client in (*clients, follower):
        client.close()


def test_a_client_that_sends_no_more_gets_its_answer_and_one_that_is_gone_wakes_nobody(served: Served) -> None:
    """As `printf … | socat` does, which shuts its sending side at once; and a follower that was killed."""
    with served.connect() as client:
        client.send(RELOAD.replace(b"reload", b"later"))
        client.shutdown(socket.SHUT_WR)
        served.until(lambda: bool(served.later) and served.quiet())
        served.later[0]("at last")
        assert json.loads(client.recv(1 << 16))["result"] == "at last"
    with served.connect() as follower:
        follower.send(RELOAD.replace(b"reload", b"follow"))
        served.until(lambda: served.server.is_followed)
    served.until(lambda: not served.server.is_followed and served.quiet())


class Forger:
    """Something at a listener's socket that answers as it likes: each client gets these bytes, with pauses between."""

    def __init__(self, path: Path, *pieces: bytes, pause: float = 0.0) -> None:
        self.path, self.pieces, self.pause = path, pieces, pause
        self.socket = socket.socket(socket.AF_UNIX)
        path.unlink(missing_ok=True)
        self.socket.bind(str(path))
        self.socket.listen(4)
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                client, _ = self.socket.accept()
                with client, contextlib.suppress(OSError):
                    client.recv(1 << 16)
                    for piece in self.pieces:
                        client.sendall(piece)
                        time.sleep(self.pause)


def result(data: str) -> bytes:
    return b'{"jsonrpc": "2.0", "id": 1, "result": ' + data.encode() + b"}\n"


SOUND = {
    "pid": 1, "desk": "x11:7", "config": "c", "layer": "", "chords": [], "refused": {}, "bindings": [], "since": 1.0,
    "paused": False, "layout": "", "under_way": [], "actions": [], "warnings": [], "watching": False, "keyboard": "",
    "current": True, "unusable": [], "arranged": [], "not_reloaded": [],
}  # fmt: skip
ODD: tuple[bytes, ...] = (
    b"", b"\n", b"null\n", b"[]\n", b"{}\n", b'{"error": 3}\n', b'{"error": {"message": "\\u001b[2J", "data": 7}}\n',
    result("null"), result("[]"), result('{"pid": "x"}'), result("[" * 900 + "]" * 900),
    result(json.dumps(SOUND | {"since": 1e300})), result(json.dumps(SOUND | {"refused": None})),
    result(json.dumps(SOUND | {"actions": [{"at": "noon"}]})), result(json.dumps(SOUND | {"under_way": 7})),
    result(json.dumps(SOUND)).replace(b"1.0", b"NaN"), b"x" * 5_000_000,
)  # fmt: skip


@pytest.mark.parametrize("odd", ODD, ids=lambda odd: odd[:40].decode())
def test_an_odd_answer_is_told_of_in_a_line(odd: bytes, tmp_path: Path) -> None:
    forger = Forger(tmp_path / "odd.sock", odd)
    with pytest.raises(JakletError) as told:
        request(forger.path, "status")
    assert told.value.message.isprintable()
    forger.socket.close()


def test_answers_are_printable_and_come_within_their_time(tmp_path: Path) -> None:
    forger = Forger(tmp_path / "odd.sock", result(json.dumps(SOUND | {"layer": "\x1b[2J\u202e", "layout": "\ud800"})))
    told = request(forger.path, "status")
    assert told["layer"].isprintable()
    assert told["layout"].isprintable()
    forger.socket.close()
    drips = Forger(tmp_path / "drip.sock", *[bytes([one]) for one in result(json.dumps(SOUND)) * 9], pause=0.05)
    began = time.monotonic()
    with pytest.raises(JakletError, match="does not answer"):
        request(drips.path, "status", limit=2.0)
    assert time.monotonic() - began < LIMIT
    drips.socket.close()


def test_a_fault_in_a_method_is_answered_in_short_and_logged_whole(tmp_path: Path) -> None:
    """Whatever comes by the socket, the server goes on."""
    log: list[str] = []

    def broken(_params: object, _answer: Answer) -> None:
        raise ZeroDivisionError("of all things")

    path = tmp_path / "x.sock"
    server = ControlServer(path, {"broken": broken}, lambda what, fault: report_fault(what, fault, log.append))
    served = Served.__new__(Served)
    served.path, served.server = path, server
    told = json.loads(served.exchange(RELOAD.replace(b"reload", b"broken")))
    assert told["error"]["code"] == -32603
    assert "ZeroDivisionError: of all things" in told["error"]["message"]
    assert any("Traceback" in line for line in log)
    server.close()


def test_only_one_server_at_a_path_and_a_clear_word_where_there_is_none(served: Served, tmp_path: Path) -> None:
    with pytest.raises(JakletError, match=f"process {os.getpid()}"):
        ControlServer(served.path, {})
    with pytest.raises(JakletError, match="no listener is running"):
        request(tmp_path / "none.sock", "reload")


@pytest.mark.parametrize("method", ["pause", "resume"])
def test_an_answer_comes_when_the_keys_are_heard_that_it_speaks_of(method: str) -> None:
    """One who presses a key at the word must not be too early."""
    order: list[str] = []
    session = SimpleNamespace(pause=lambda _on: order.append("done"))
    listener = SimpleNamespace(session=session, hear=lambda: order.append("heard"))
    methods_of(listener)[method]({}, lambda _result: order.append("answered"))
    assert order == ["done", "heard", "answered"]
