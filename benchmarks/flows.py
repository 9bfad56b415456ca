"""Keys beside much else: a large config, tasks that wait, a thousand clients; and what trials and proofs cost."""

import contextlib
import json
import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

from tests.xserver import KEYSYMS, XServer, until

from benchmarks.checking import config
from benchmarks.keys import BARE, press_all
from benchmarks.measure import Row, percentile
from benchmarks.proxy import Proxy
from jaklet.checks.run import check_config, shelf_of
from jaklet.config.paths import locate_config
from jaklet.demo.harbour import write_files
from jaklet.desktops.tabletop.file import read_room
from jaklet.installed.programs import InstalledPrograms
from jaklet.rehearsal.proving import prove
from jaklet.rehearsal.stage import RehearsalInputs
from jaklet.rehearsal.tabletops import room_for
from jaklet.rehearsal.trials import run_trial

WAITING, CLIENTS = 20, 1000
PRESSES = 100
MOVES = "  super+left: place left 2/3\n  super+right: place right 1/3\n"
SIZES = ((5, 100), (20, 300), (50, 1000))  # layouts, bindings
REQUEST = '{"jsonrpc": "2.0", "id": 1, "method": "layouts"}'


def rows(x: XServer) -> list[Row]:
    """Measure the keys on a real server, and trials and proofs without one."""
    return [*_keys(x), *_trials(), *_proofs()]


def _keys(x: XServer) -> list[Row]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        waits = "".join(f"  wait{i}: [wait for windows of app{i % 20} > 5 up to 3000s]\n" for i in range(WAITING))
        text = config(1000).replace("bindings:\n", f"bindings:\n{MOVES}", 1)
        (folder / "jaklet.yaml").write_text(f"{text}\nmacros:\n{waits}")
        proxy = Proxy(int(x.display[1:]) + 1000, int(x.display[1:]))
        x.open("BerthBoard")
        window = int(x.of_class("BerthBoard")[0], 16)
        env = {
            **x.env,
            "DISPLAY": proxy.display,
            "JAKLET_CONFIG": name,
            "XDG_RUNTIME_DIR": name,
            "XDG_STATE_HOME": name,
        }
        jaklet = str(Path(sys.executable).with_name("jaklet"))
        with _process([jaklet, "listen"], "listening", env):
            plain = press_all(x, proxy, presses=PRESSES)
            path = str(next((folder / "jaklet").glob("*.sock")))
            with _client(path) as asking:
                for i in range(WAITING):
                    asking.sendall(_ask(f"wait for windows of app{i % 20} > 5 up to 3000s"))
                asking.sendall(_ask("run wait0"))
                until(lambda: _under_way(path) >= WAITING + 1, "all to wait")
                waiting = press_all(x, proxy, presses=PRESSES)
                with _crowd(path):
                    crowded = press_all(x, proxy, presses=PRESSES)
        codes = ",".join(str(x.keycode(KEYSYMS[key])) for key in ("left", "right"))
        with _process([sys.executable, "-c", BARE, codes, str(window)], "ready", env):
            bare = press_all(x, proxy, presses=PRESSES)
            other = subprocess.Popen([sys.executable, "-c", CROWD, name], env=env)  # as busy a machine, nobody asked
            loaded = press_all(x, proxy, presses=PRESSES)
            other.kill()
            other.wait()
        proxy.close()
    found = []
    runs = (
        ("1,000 bindings", plain, bare), (f"1,000 bindings, {WAITING} waiting tasks and a macro", waiting, bare),
        (f"the same, {CLIENTS} clients of the control socket", crowded, loaded),
    )  # fmt: skip
    for words, ours, floor in runs:
        for share, which, aim in ((0.5, "p50", "≤ 1.5"), (0.99, "p99", "Jaklet under 5 ms")):
            a, b = percentile(ours, share), percentile(floor, share)
            found.append(
                Row(
                    f"(k) key event to first request, {words}, {which}",
                    f"{a:.3f} ms",
                    f"{b:.3f} ms",
                    f"{a / b:.2f}",
                    aim,
                )
            )
    return found


# What the clients cost the machine, without a listener that answers them: sockets to itself.
CROWD = """
import socket, sys, time
server = socket.socket(socket.AF_UNIX); server.bind(sys.argv[1] + "/crowd"); server.listen(1024)
while True:
    client = socket.socket(socket.AF_UNIX); client.connect(sys.argv[1] + "/crowd"); other, _ = server.accept()
    client.send(b"x" * 50); other.recv(100); client.close(); other.close(); time.sleep(0.002)
"""


@contextlib.contextmanager
def _process(command: list[str], ready: str, env: dict[str, str]) -> Iterator[None]:
    process = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True)
    assert process.stdout
    while ready not in process.stdout.readline():
        assert process.poll() is None, command
    threading.Thread(target=process.stdout.read, daemon=True).start()
    try:
        yield
    finally:
        process.terminate()
        process.wait()


def _client(path: str) -> socket.socket:
    client = socket.socket(socket.AF_UNIX)
    client.connect(path)
    return client


def _ask(action: str) -> bytes:
    return json.dumps({"jsonrpc": "2.0", "id": 1, "method": "act", "params": {"action": action}}).encode() + b"\n"


def _under_way(path: str) -> int:
    with _client(path) as client:
        client.sendall(b'{"jsonrpc": "2.0", "id": 1, "method": "status"}\n')
        return len(json.loads(client.makefile().readline())["result"]["under_way"])


# In a process of its own: the proxy that measures is one of Python, too.
ASKING = """
import random, socket, sys, time
dice, there = random.Random(7), []
request = sys.argv[2].encode() + bytes([10])
while True:
    try:
        client = socket.socket(socket.AF_UNIX)
        client.connect(sys.argv[1])
        client.setblocking(False)
        client.send(dice.choice((request, request[:20], dice.randbytes(50), request * 20)))
        there.append(client)
    except OSError:
        pass
    while len(there) > int(sys.argv[3]):
        there.pop(dice.randrange(len(there))).close()
    time.sleep(0.002)
"""


@contextlib.contextmanager
def _crowd(path: str) -> Iterator[None]:
    """Let clients come and go: some ask, some send half a request or any bytes, some ask much and never read."""
    crowd = subprocess.Popen([sys.executable, "-c", ASKING, path, REQUEST, str(CLIENTS)])
    try:
        yield
    finally:
        crowd.kill()
        crowd.wait()


def _trials() -> list[Row]:
    """The demo's trials again and again, beside a tabletop to which the same changes are made."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_files(folder)
        room = read_room(folder / "tabletop.yaml")
        places = locate_config(name)
        before = dict(os.environ)
        result = check_config(places, InstalledPrograms(room.programs, room.entries()))
        os.environ.update(before)
        trials, basis = result.reading.trials, RehearsalInputs(result.config, shelf_of(places))
        times, floors = [], []
        for _ in range(60):
            for trial in trials:
                began = time.perf_counter()
                done = run_trial(trial, basis, room)
                times.append(time.perf_counter() - began)
                assert done.passed, done.failures
                began = time.perf_counter()
                bare = room.copy()
                for act in done.acts:
                    for window in act.after.windows:
                        if window.id not in bare.standing:
                            bare.add(next(p for p in bare.programs.values() if p.cls == window.cls), window.frame)
                floors.append(time.perf_counter() - began)
        mine, floor = len(times) / sum(times), len(floors) / sum(floors)
        return [
            Row(
                "(l) trials of the demo a second",
                f"{mine:.0f}",
                f"{floor:.0f}",
                f"{floor / mine:.0f} times as long",
                "",
            )
        ]


def _proofs() -> list[Row]:
    found = []
    for layouts, chords in SIZES:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "layouts").mkdir()
            for i in range(layouts):
                windows = "".join(f"- {{app: app{(i + j) % 20}, place: column {j + 1} of 3}}\n" for j in range(3))
                text = f"layout: l{i}\nnumber: {i + 1}\nfocus: app{i % 20}\nwindows:\n{windows}"
                (folder / "layouts" / f"l{i}.yaml").write_text(text)
            ways = (f"super+f8 {chr(97 + i // 26)} {chr(97 + i % 26)}" for i in range(layouts))
            keys = "".join(f"  {way}: recall {i + 1}\n" for i, way in enumerate(ways))
            (folder / "jaklet.yaml").write_text(config(chords).replace("bindings:\n", f"bindings:\n{keys}", 1))
            places = locate_config(name)
            known = check_config(places, InstalledPrograms()).config
            began = time.perf_counter()
            proof = prove(RehearsalInputs(known, shelf_of(places)), room_for(known))
            seconds = time.perf_counter() - began
            assert not proof.found, proof.found[:3]
            size = f"{layouts} layouts, {proof.layers} layers, {proof.chords} chords, {len(known.live)} bindings"
            words = f"(m) proof: {size}: {proof.states} states, {proof.presses} presses"
            each = f"{seconds / proof.presses * 1000:.1f} ms a press"
            aim = "under 5 s" if (layouts, chords) == SIZES[-1] else ""
            found.append(Row(words, f"{seconds:.2f} s ({each})", "", "", aim))
    return found
