"""From a `go` key to the first request written, on desks of few and of many windows, beside a bare loop.

The app has all windows of the desk, so that each press goes on to the next. The bare loop has the list of windows
beforehand and sends the same two client messages.
"""

import subprocess
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path

from tests.xserver import XServer

from benchmarks.keys import press_all
from benchmarks.measure import Row, percentile
from benchmarks.proxy import Proxy
from jaklet.demo.harbour import write_files

DESKS = (10, 200)
PRESSES = 120

BARE = """
import sys, struct, xcffib, xcffib.xproto as xp
code, windows = int(sys.argv[1]), [int(w, 16) for w in sys.argv[2].split(",")]
c = xcffib.connect()
root = c.setup.roots[0].root
def atom(name): return c.core.InternAtom(False, len(name), name).reply().atom
activate, ask = atom("_NET_ACTIVE_WINDOW"), atom("_NET_REQUEST_FRAME_EXTENTS")
c.core.GrabKey(False, root, 64, code, 1, 1)
c.flush(); print("ready", flush=True)
at, mask = 0, xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
while True:
    event = c.wait_for_event()
    if isinstance(event, xp.KeyPressEvent):
        at = (at + 1) % len(windows)
        data = (2, event.time, windows[at - 1], 0, 0)
        c.core.SendEvent(False, root, mask, struct.pack("=BBHII5I", 33, 32, 0, windows[at], activate, *data))
        c.core.SendEvent(False, root, mask, struct.pack("=BBHII5I", 33, 32, 0, windows[at], ask, 0, 0, 0, 0, 0))
        c.flush()
"""


def rows(x: XServer) -> list[Row]:
    """Measure both on each desk."""
    medians: dict[int, float] = {}
    result = []
    for count in DESKS:
        x.clear()
        x.open("BerthBoard", "--size", "400x300", count=count)
        ours, bare = _measured(x)
        medians[count] = percentile(ours, 0.5)
        for share, words, aim in ((0.5, "p50", "≤ 1.5"), (0.99, "p99", "")):
            a, b = percentile(ours, share), percentile(bare, share)
            name = f"(e) `go` key to first request, {count} windows, {words}"
            result.append(Row(name, f"{a:.3f} ms", f"{b:.3f} ms", f"{a / b:.2f}", aim))
    few, many = (medians[count] for count in DESKS)
    name = f"(e) the same, {DESKS[1]} windows beside {DESKS[0]}"
    result.append(Row(name, f"{many:.3f} ms", f"{few:.3f} ms", f"{many / few:.2f}", "not growing"))
    x.clear()
    return result


def _measured(x: XServer) -> tuple[Sequence[float], Sequence[float]]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "office"
        write_files(folder)
        proxy = Proxy(int(x.display[1:]) + 1000, int(x.display[1:]))
        env = {
            **x.env,
            "DISPLAY": proxy.display,
            "JAKLET_CONFIG": str(folder),
            "XDG_RUNTIME_DIR": name,
            "XDG_STATE_HOME": name,
        }
        env["PATH"] = f"{folder}/bin:{x.env['PATH']}"
        jaklet = str(Path(sys.executable).with_name("jaklet"))
        code = str(x.keycode(ord("b")))
        commands = (([jaklet, "listen"], "listening"), ([sys.executable, "-c", BARE, code, ",".join(x.ids())], "ready"))
        times = []
        for command, ready in commands:
            process = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True)
            assert process.stdout
            while ready not in process.stdout.readline():
                assert process.poll() is None, command
            try:
                times.append(press_all(x, proxy, [ord("b")], PRESSES))
            finally:
                process.terminate()
                process.wait()
        proxy.close()
    assert min(map(len, times)) > 0.9 * PRESSES, [len(some) for some in times]
    return times[0], times[1]
