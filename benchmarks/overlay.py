"""What appears over the windows: from the key to the first panel on the server, and a keystroke among 5,000 lines.

A client of its own sees when a panel's window is mapped (SubstructureNotify on the root). The bare floor grabs the same
key, and maps a window of the same size with a picture that was sent to the server beforehand.
"""

import gc
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import xcffib.xproto as xp
import xcffib.xtest
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import KEYSYMS, XServer, until

from benchmarks.measure import Row, percentile
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import Layout
from jaklet.core.values.snapshot import desk_data
from jaklet.overlay.helper import Helper
from jaklet.overlay.picture_surface import PictureSurface
from jaklet.overlay.scenes import Stores

KEYSYMS |= {"return": 0xFF0D, "escape": 0xFF1B}
OPENED, LINES = 60, 5000
CONFIG = """
settings: {overlay: {hints: always}}
apps: {clock: {launch: tide-gauge, window: {class: TideGauge}}}
bindings: {super+p: pick windows, super+w: enter arrange}
layers: {arrange: {stays: true, bindings: {a: go clock, b: focus last, c: spread grid}}}
"""
BARE = """
import xcffib, xcffib.xproto as xp
c = xcffib.connect(); core = c.core; screen = c.setup.roots[0]; root = screen.root
wide, high = 700, 200
pixmap, pen, wid = c.generate_id(), c.generate_id(), c.generate_id()
core.CreatePixmap(screen.root_depth, pixmap, root, wide, high); core.CreateGC(pen, root, 0, [])
core.PutImage(2, pixmap, pen, wide, high, 0, 0, 0, screen.root_depth, wide * high * 4, bytes(wide * high * 4))
core.CreateWindow(screen.root_depth, wid, root, 0, 0, wide, high, 0, 1, screen.root_visual, 513, [pixmap, 1])
core.ChangeProperty(0, wid, 67, 31, 8, 14, b"jaklet\\0Jaklet\\0")
core.GrabKey(False, root, 64, KEY, 1, 1); core.GrabKey(False, root, 0, ESCAPE, 1, 1)
core.GetInputFocus().reply(); print("ready", flush=True)
while True:
    event = c.wait_for_event()
    if isinstance(event, xp.KeyPressEvent):
        core.MapWindow(wid) if event.detail == KEY else core.UnmapWindow(wid)
        c.flush()
"""


class Eye:
    """Sees when a window of ours is mapped, and when it has gone."""

    def __init__(self, x: XServer) -> None:
        self._x, self._c = x, x.connect()
        root = self._c.setup.roots[0].root
        self._c.core.ChangeWindowAttributes(root, xp.CW.EventMask, [xp.EventMask.SubstructureNotify])
        self._c.core.GetInputFocus().reply()
        self._hand = x.connect()
        self._fake: Any = self._hand(xcffib.xtest.key).FakeInput

    def opened(self, chord: str) -> float:
        """Press a chord; return the milliseconds until a panel is mapped, and close it again."""
        codes = [self._x.keycode(KEYSYMS.get(part) or ord(part)) for part in chord.split("+")]
        while self._c.poll_for_event() is not None:
            pass
        for code in codes:
            self._fake(2, code, 0, 0, 0, 0, 0)
        for code in reversed(codes):
            self._fake(3, code, 0, 0, 0, 0, 0)
        start = time.perf_counter()
        self._hand.flush()
        wid = self._mapped()
        took = (time.perf_counter() - start) * 1000
        self._x.press("escape")
        self._gone(wid)
        return took

    def _mapped(self) -> int:
        while True:
            event = self._c.wait_for_event()
            if isinstance(event, xp.MapNotifyEvent) and event.override_redirect:
                return int(event.window)

    def _gone(self, wid: int) -> None:
        while True:
            event = self._c.wait_for_event()
            if isinstance(event, xp.UnmapNotifyEvent | xp.DestroyNotifyEvent) and event.window == wid:
                return


def rows(x: XServer) -> list[Row]:
    """Measure all of it."""
    x.clear()
    x.open("TideGauge", count=10)
    with tempfile.TemporaryDirectory() as place:
        office = Office(Path(place) / "office", x)
        office.config.write_text(CONFIG)
        listening = Listening(office)
        eye = Eye(x)
        eye.opened("super+p")  # the helper is there from now on
        finder = [eye.opened("super+p") for _ in range(OPENED)]
        hints = [eye.opened("super+w") for _ in range(OPENED)]
        helper = _memory(office)
        listener = _status(listening.process.pid, "VmRSS") / 1024
        listening.stop()
        bare = _bare(x, eye)
    result = [
        _row("(o) `super+p` to the finder's first pixel, 10 windows", finder, bare, "p50 under 30 ms, p99 under 80 ms"),
        _row("(o) `super+w` to the hints' first pixel, due at once", hints, bare, "under 20 ms"),
        Row("(o) memory of the helper", f"{helper:.1f} MB", "", "", "≤ 35 MB"),
        Row("(o) memory of its listener", f"{listener:.1f} MB", "", "", "≤ 30 MB"),
    ]
    return [*result, _keystroke()]


def _row(name: str, ours: list[float], bare: list[float], aim: str) -> Row:
    a, b = statistics.median(ours), statistics.median(bare)
    return Row(f"{name}: p50, p99", f"{a:.1f} ms, {percentile(ours, 0.99):.1f} ms", f"{b:.1f} ms", f"{a / b:.1f}", aim)


def _bare(x: XServer, eye: Eye) -> list[float]:
    code = BARE.replace("KEY)", f"{x.keycode(ord('p'))})").replace("KEY,", f"{x.keycode(ord('p'))},")
    code = code.replace("== KEY", f"== {x.keycode(ord('p'))}").replace("ESCAPE", str(x.keycode(KEYSYMS["escape"])))
    process = subprocess.Popen([sys.executable, "-c", code], env=x.env, stdout=subprocess.PIPE, text=True)
    assert process.stdout
    assert process.stdout.readline()
    times = [eye.opened("super+p") for _ in range(OPENED)]
    process.kill()
    process.wait()
    return times


def _memory(office: Office) -> float:
    """Return the resident memory of the helper, in MB."""

    def found() -> int:
        for entry in Path("/proc").iterdir():
            words = (entry / "cmdline").read_bytes().split(b"\0") if entry.name.isdigit() else []
            if b"overlay" in words and any(str(office.folder).encode() in word for word in words):
                return int(entry.name)
        return 0

    return _status(until(found, "the helper"), "VmRSS") / 1024


def _status(pid: int, key: str) -> int:
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return int(next(line for line in lines if line.startswith(key)).split()[1])


def _keystroke() -> Row:
    """Type among many layouts: from the key to the pixels, in one process."""
    screen = Rect(0, 0, 1920, 1080)
    display = Display("A", screen, screen, True)
    layouts = tuple(
        Layout(f"layout {number} of the harbour", note=f"berth {number * 7 % 991}") for number in range(LINES)
    )
    helper = Helper(PictureSurface(), Stores(lambda: layouts, lambda: ()), Config, lambda _method, **_more: None)
    helper.take(
        {"what": "open", "number": 1, "view": "finder", "of": "layouts", "desk": desk_data(Desk((display,)))}, 0.0
    )
    gc.disable()  # as the helper does, while keys come
    times = []
    for word in ("harbour 12", "berth 77", "layout 4999", "of the 3"):
        for key in word:
            times.append(_pressed(helper, "space" if key == " " else key, key))
        times += [_pressed(helper, "backspace", "") for _ in word]
    gc.enable()
    p50, p99 = statistics.median(times), percentile(times, 0.99)
    return Row(
        f"(o) a key in the finder with {LINES:,} lines, drawn, processor time: p50, p99",
        f"{p50:.1f} ms, {p99:.1f} ms",
        "",
        "",
        "p99 under 16 ms",
    )


def _pressed(helper: Helper, key: str, text: str) -> float:
    start = time.process_time()
    helper.take({"what": "key", "number": 2, "key": key, "text": text}, 0.0)
    return (time.process_time() - start) * 1000
