"""From key event to first request written: the listener, beside a bare loop that sends the same requests.

Both sit behind the same proxy, are woken by the same kernel and use the same X library; the bare loop knows beforehand
what to send. Also: the listener's memory at rest, and how often it wakes while idle.
"""

import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

import xcffib
import xcffib.xtest
from tests.xserver import KEYSYMS, XServer, until

from benchmarks.measure import Row, compared, percentile
from benchmarks.proxy import Proxy
from jaklet.demo.harbour import write_files

PRESSES = 250
IDLE_SECONDS = 10
STARTS = 9
PAUSE = 0.2  # longer than the window manager takes to draw, so that it does not compete for the processor

BARE = """
import sys, struct, xcffib, xcffib.xproto as xp
codes, window = {int(c): i for i, c in enumerate(sys.argv[1].split(","))}, int(sys.argv[2])
c = xcffib.connect()
root = c.setup.roots[0].root
def atom(name): return c.core.InternAtom(False, len(name), name).reply().atom
move, ask = atom("_NET_MOVERESIZE_WINDOW"), atom("_NET_REQUEST_FRAME_EXTENTS")
for code in codes: c.core.GrabKey(False, root, 64, code, 1, 1)
c.flush(); print("ready", flush=True)
frames = [(8, 45, 1267, 1027), (1283, 45, 629, 1027)]
mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
while True:
    event = c.wait_for_event()
    if isinstance(event, xp.KeyPressEvent):
        frame = frames[codes[event.detail]]
        c.core.SendEvent(False, root, mask, struct.pack("=BBHII5I", 33, 32, 0, window, move, 12042, *frame))
        c.core.SendEvent(False, root, mask, struct.pack("=BBHII5I", 33, 32, 0, window, ask, 0, 0, 0, 0, 0))
        c.flush()
"""


def press_all(
    x: XServer, proxy: Proxy, keysyms: Sequence[int] = (KEYSYMS["left"], KEYSYMS["right"]), presses: int = PRESSES
) -> list[float]:
    """Press keys in turn, each with super; return the times in milliseconds."""
    connection = x.connect()
    xtest = connection(xcffib.xtest.key)
    hold = x.keycode(KEYSYMS["super"])
    keys = [x.keycode(keysym) for keysym in keysyms]
    proxy.times.clear()
    for i in range(presses):
        key = keys[i % len(keys)]
        for kind, code in ((2, hold), (2, key), (3, key), (3, hold)):
            xtest.FakeInput(kind, code, 0, 0, 0, 0, 0)
        connection.flush()
        connection.core.GetInputFocus().reply()
        time.sleep(PAUSE)
    connection.disconnect()
    return [seconds * 1000 for seconds in proxy.times]


def rows(x: XServer) -> list[Row]:
    """Measure both, one after the other, on the same window."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "office"
        write_files(folder)
        proxy = Proxy(int(x.display[1:]) + 1000, int(x.display[1:]))
        x.open("BerthBoard")
        window = int(x.of_class("BerthBoard")[0], 16)
        env = {
            **x.env,
            "DISPLAY": proxy.display,
            "JAKLET_CONFIG": str(folder),
            "XDG_RUNTIME_DIR": name,
            "XDG_STATE_HOME": name,
            "PATH": f"{folder}/bin:{x.env['PATH']}",
        }

        begins: dict[str, list[float]] = {"listening": [], "ready": []}  # until each could hear a key

        def with_process(command: list[str], ready: str, do: Callable[[int], list[float]]) -> list[float]:
            begun = time.perf_counter()
            process = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True)
            assert process.stdout
            while ready not in process.stdout.readline():
                assert process.poll() is None, command
            begins[ready].append((time.perf_counter() - begun) * 1000)
            try:
                return do(process.pid)
            finally:
                process.terminate()
                process.wait()

        jaklet = str(Path(sys.executable).with_name("jaklet"))
        codes = ",".join(str(x.keycode(KEYSYMS[key])) for key in ("left", "right"))
        bare_command = [sys.executable, "-c", BARE, codes, str(window)]
        memory: list[Row] = []

        def listened(pid: int) -> list[float]:
            times = press_all(x, proxy)
            until((Path(name) / "jaklet" / "use.sqlite").exists, "what was counted to be written, once", 120)
            memory.extend(at_rest(pid))
            return times

        ours = with_process([jaklet, "listen"], "listening", listened)
        bare = with_process(bare_command, "ready", lambda _: press_all(x, proxy))
        for _ in range(STARTS):
            for command, ready in (([jaklet, "listen"], "listening"), (bare_command, "ready")):
                with_process(command, ready, lambda _: [])
        # An event that comes in one piece with another is not seen by the proxy; there are few.
        assert min(len(ours), len(bare)) > 0.95 * PRESSES, (len(ours), len(bare))
        proxy.close()
    result = []
    for share, words, aim in ((0.5, "p50", "≤ 1.5"), (0.99, "p99", "Jaklet under 5 ms")):
        a, b = percentile(ours, share), percentile(bare, share)
        result.append(
            Row(f"(a) key event to first request, {words}", f"{a:.3f} ms", f"{b:.3f} ms", f"{a / b:.2f}", aim)
        )
    first = compared(
        "(d) from the process to the first live key, beside the bare loop",
        begins["listening"],
        begins["ready"],
        "300 ms",
    )
    return [*result, first, *memory]


def at_rest(pid: int) -> list[Row]:
    """Return the listener's memory, and its wake-ups while nothing happens."""
    status = Path(f"/proc/{pid}/status")

    def number(key: str) -> int:
        found = re.search(rf"^{key}:\s+(\d+)", status.read_text(), re.MULTILINE)
        assert found
        return int(found[1])

    def still() -> bool:
        before = number("voluntary_ctxt_switches")
        time.sleep(0.5)
        return number("voluntary_ctxt_switches") == before

    until(still, "the listener at rest")
    before = number("voluntary_ctxt_switches")
    time.sleep(IDLE_SECONDS)
    woken = number("voluntary_ctxt_switches") - before
    return [
        Row("(d) listener's memory at rest", f"{number('VmRSS') / 1024:.1f} MB", "", "", "≤ 30 MB"),
        Row(f"(d) wake-ups in {IDLE_SECONDS} idle seconds", str(woken), "", "", "0"),
    ]
