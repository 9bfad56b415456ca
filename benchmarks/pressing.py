"""Processor time of a press until all is at rest again: the listener, beside a bare loop that does the same requests.

The bare loop is told of the same events, and asks where the window is once it has moved.
"""

import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Final, NamedTuple

from tests.listener.key_costs import CONFIG
from tests.listener.witness import PRESS, RELEASE, Keyboard
from tests.xserver import XServer

from benchmarks.measure import Row

PRESSES: Final = 60
PAUSE: Final = 0.15  # until all is at rest
HELD: Final = 4.0  # seconds for which a key is held
DELAY: Final = 0.2  # seconds until a held key repeats
RATE: Final = 30  # repeats a second

BARE = """
import sys, struct, xcffib, xcffib.xproto as xp
keys = dict((int(code), key) for code, key in (pair.split("=") for pair in sys.argv[1].split(",")))
windows = [int(window) for window in sys.argv[2:]]
c = xcffib.connect()
core, root = c.core, c.setup.roots[0].root
def atom(name): return core.InternAtom(False, len(name), name).reply().atom
move, ask, active = atom("_NET_MOVERESIZE_WINDOW"), atom("_NET_REQUEST_FRAME_EXTENTS"), atom("_NET_ACTIVE_WINDOW")
stacking = atom("_NET_CLIENT_LIST_STACKING")
for code in keys: core.GrabKey(False, root, 64, code, 1, 1)
told = xp.EventMask.PropertyChange | xp.EventMask.StructureNotify
core.ChangeWindowAttributes(root, xp.CW.EventMask, [told | xp.EventMask.SubstructureNotify])
for window in windows: core.ChangeWindowAttributes(window, xp.CW.EventMask, [told])
probe = c.generate_id()
core.CreateWindow(0, probe, root, -1, -1, 1, 1, 0, 1, 0, xp.CW.EventMask, [told])
c.flush(); print("ready", flush=True)
frames = [(8, 45, 843, 727), (643, 45, 629, 727)]
mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
def say(window, kind, *words):
    words = (*words, 0, 0, 0, 0, 0)[:5]
    core.SendEvent(False, root, mask, struct.pack("=BBHII5I", 33, 32, 0, window, kind, *words))
presses = 0
while True:
    event = c.wait_for_event()
    if isinstance(event, xp.KeyPressEvent):
        presses += 1
        key = keys[event.detail]
        if key == "place":
            say(windows[0], move, 12042, *frames[presses % 2])
        elif key == "nudge":
            say(windows[0], move, 12042, 8 + 3 * (presses % 140), 45, 629, 727)
        else:
            say(windows[presses % 2], active, 2, event.time, 0)
        say(probe, ask)
        c.flush()
    elif isinstance(event, xp.ConfigureNotifyEvent) and event.window in windows:
        size, corner = core.GetGeometry(event.window), core.TranslateCoordinates(event.window, root, 0, 0)
        size.reply(), corner.reply()
    elif isinstance(event, xp.PropertyNotifyEvent) and event.window == root and event.atom in (active, stacking):
        core.GetProperty(False, root, event.atom, 0, 0, 1024).reply()
"""


class Timed(NamedTuple):
    """A row: the keys that are pressed in turn, the aim, and what the bare loop takes them for."""

    name: str
    keys: tuple[str, ...]
    bare: str


TIMED: Final = (
    Timed("`place`", ("left", "right"), "place"),
    Timed("`go`", ("b", "r"), "go"),
    Timed("`focus last`", ("z",), "go"),
    Timed("`nudge`, held", ("n",), "nudge"),
)


def spent(pid: int) -> float:
    """Return the processor time that all threads of a process have taken, in seconds (proc(5), schedstat)."""
    tasks = Path(f"/proc/{pid}/task").glob("*/schedstat")
    return sum(int(one.read_text().split()[0]) for one in tasks) / 1e9


class Hand(Keyboard):
    """Presses keys with Super, one after another or held."""

    def __init__(self, x: XServer) -> None:
        super().__init__(x, {"super", *(key for one in TIMED for key in one.keys)})

    def press(self, keys: Sequence[str], times: int) -> None:
        """Press keys in turn, this often in all."""
        for i in range(times):
            self.tap("super", keys[i % len(keys)])
            time.sleep(PAUSE)

    def hold(self, key: str, seconds: float) -> None:
        """Hold a key, which repeats."""
        for kind, name in ((PRESS, "super"), (PRESS, key)):
            self.send(kind, name)
        self.connection.flush()
        time.sleep(seconds)
        for kind, name in ((RELEASE, key), (RELEASE, "super")):
            self.send(kind, name)
        self.connection.flush()


def rows(x: XServer) -> list[Row]:
    """Measure both, one after the other, on the same two windows."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "jaklet.yaml").write_text(CONFIG)
        x.clear()
        for cls in ("BerthBoard", "RadioLog"):
            x.open(cls, "--size", "500x400")
        windows = [int(x.of_class(cls)[0], 16) for cls in ("RadioLog", "BerthBoard")]
        x.run("xset", "r", "rate", str(int(1000 * DELAY)), str(RATE))
        hand = Hand(x)
        env = {**x.env, "XDG_RUNTIME_DIR": name, "XDG_STATE_HOME": name, "JAKLET_CONFIG": name}

        def measured(command: list[str], ready: str) -> dict[str, float]:
            process = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, text=True)
            assert process.stdout
            while ready not in process.stdout.readline():
                assert process.poll() is None, command
            try:
                return {one.name: _milliseconds(hand, one, process.pid) for one in TIMED}
            finally:
                process.terminate()
                process.wait()

        bound = [f"{hand.codes[key]}={one.bare}" for one in TIMED for key in one.keys]
        bare = measured([sys.executable, "-c", BARE, ",".join(bound), *map(str, windows)], "ready")
        ours = measured([str(Path(sys.executable).with_name("jaklet")), "listen"], "listening")
        hand.connection.disconnect()
        x.run("xset", "r", "rate")
    return [
        *(
            Row(
                f"(t) {one.name}, until rest: processor time",
                f"{ours[one.name]:.2f} ms", f"{bare[one.name]:.2f} ms", f"{ours[one.name] / bare[one.name]:.1f}", "≤ 6",
            )
            for one in TIMED
        ),
        Row("(t) `nudge` held, share of a core", f"{ours[TIMED[-1].name] * RATE / 10:.1f} %", "", "", "≤ 4 %"),
    ]  # fmt: skip


def _milliseconds(hand: Hand, one: Timed, pid: int) -> float:
    """Return the processor time of a press, or of a repeat of one that is held."""
    is_held = "held" in one.name
    hand.press(("right", "left") if is_held else one.keys, 4)  # at the left, from where there is room to the right
    before = spent(pid)
    if is_held:
        hand.hold(one.keys[0], HELD)
    else:
        hand.press(one.keys, PRESSES)
    time.sleep(PAUSE)
    return 1000 * (spent(pid) - before) / ((HELD - DELAY) * RATE if is_held else PRESSES)
