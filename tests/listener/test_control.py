"""The control socket: what JSON-RPC asks for, any bytes, clients that stall, and a thousand of them."""

import json
import os
import select
import socket
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.errors import JakletError
from jaklet.listener.control import MAX_CLIENTS, MAX_REQUEST, MAX_UNREAD, ControlServer, request, socket_path
from jaklet.listener.rpc import Answer, notification

LIMIT = 5.0


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
    path = socket_path("x11:7")
    assert path == tmp_path / "jaklet" / "x11_7.sock"
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


def dropped(client: socket.socket) -> bool:
    """True if the server has closed its end."""
    try:
        client.send(RELOAD)
    except BlockingIOError:
        return False
    except OSError:
        return True
    return False


def test_slow_and_half_open_clients_hold_up_nobody(served: Served) -> None:
    """One that never reads is dropped once too much waits for it; one that sends half a request is left alone."""
    slow, half = served.connect(), served.connect()
    half.send(RELOAD[:10])
    for _ in range(2 * MAX_UNREAD // 200_000):
        served.until(lambda: not served.server.waiting)
        try:
            slow.send(b'{"jsonrpc": "2.0", "id": 1, "method": "long"}\n' * 2)
        except OSError:
            break  # it was dropped
        served.until(served.quiet)
        assert [json.loads(served.exchange(RELOAD))] == [DONE]
    assert MAX_UNREAD < 2 * 200_000 * (2 * MAX_UNREAD // 200_000)
    served.until(lambda: dropped(slow))
    half.send(RELOAD[10:])
    served.until(lambda: bool(select.select([half], [], [], 0)[0]))
    assert json.loads(half.recv(1 << 16)) == DONE
    slow.close()
    half.close()


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


def test_only_one_server_at_a_path_and_a_clear_word_where_there_is_none(served: Served, tmp_path: Path) -> None:
    with pytest.raises(JakletError, match=f"process {os.getpid()}"):
        ControlServer(served.path, {})
    with pytest.raises(JakletError, match="no listener is running"):
        request(tmp_path / "none.sock", "reload")
