"""A private X server with two monitors and a stock window manager, real keys, and an independent reading of it.

What the tests judge by is read with `xprop` and `xwininfo`, never through Jaklet.
"""

import contextlib
import os
import re
import struct
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any, NamedTuple, TypeVar

import pytest
import xcffib
import xcffib.xinput
import xcffib.xproto as xp
import xcffib.xtest

T = TypeVar("T")
LIMIT = 20.0  # seconds that anything may take on a loaded machine before a test gives up on it
Monitors = tuple[tuple[str, str, str], ...]  # as `xrandr --setmonitor` takes them: name, geometry, output
MONITORS: Monitors = (("DP-1", "1920/500x1080/300+0+0", "screen"), ("HDMI-1", "1280/300x1024/200+1920+0", "none"))
SCREEN = "3200x1080x24"
MANAGERS = {  # how each stock window manager is started without a session around it
    "metacity": ["metacity"],
    "marco": ["marco", "--no-composite"],
    "xfwm4": ["dbus-run-session", "--", "xfwm4", "--compositor=off"],
}
KEYSYMS = {
    "super": 0xFFEB, "ctrl": 0xFFE3, "alt": 0xFFE9, "shift": 0xFFE1, "left": 0xFF51, "right": 0xFF53, "up": 0xFF52,
    "caps": 0xFFE5, "escape": 0xFF1B, "return": 0xFF0D, "num": 0xFF7F, "scroll": 0xFF14, "f5": 0xFFC2, "f6": 0xFFC3,
    "f7": 0xFFC4, "tab": 0xFF09, "f8": 0xFFC5, "kp_end": 0xFF9C, "ampersand": 0x26,
}  # fmt: skip


def until(ask: Callable[[], T], what: str, limit: float = LIMIT) -> T:
    """Ask until the answer is true, and return it; fail when the limit has passed."""
    end = time.monotonic() + limit
    while True:
        answer = ask()
        if answer:
            return answer
        assert time.monotonic() < end, f"waited {limit:g} s in vain: {what}; last answer {answer!r}"
        time.sleep(0.02)  # the pause between two looks at a condition, not a wait for one


class Seen(NamedTuple):
    """A window as `xprop` and `xwininfo` tell of it. `frame`: x, y, width, height of what is visible."""

    id: str
    cls: str
    title: str
    frame: tuple[int, int, int, int]
    states: frozenset[str]
    workspace: int


STARTED: list[subprocess.Popen[bytes]] = []  # listeners


class XServer:
    """A running server."""

    def __init__(self, number: int, processes: list[subprocess.Popen[bytes]]) -> None:
        self.display = f":{number}"
        self.processes = processes
        self.env = {**os.environ, "DISPLAY": self.display}

    def manage(self, manager: str) -> None:
        """Start a window manager, and wait until it has taken over."""
        command = MANAGERS[manager]
        self.processes.append(
            subprocess.Popen(command, env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        )
        until(lambda: self.ids("_NET_SUPPORTING_WM_CHECK"), manager)
        until(lambda: "_NET_NUMBER_OF_DESKTOPS(CARDINAL)" in self.run("xprop", "-root"), f"{manager}'s workspaces")

    def end(self) -> None:
        """End all that was started, the server last."""
        for process in reversed(self.processes):
            process.terminate() if process is not self.processes[0] else process.kill()
            try:
                process.wait(5)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()

    def plug(self, number: int, head: "Head") -> None:
        """Connect a monitor to an output of the dummy driver."""
        name, mode = f"DUMMY{number}", f"{head.width}x{head.height}+{number}"
        wide, high = head.width, head.height
        timing = (wide, wide + 40, wide + 80, wide + 120, high, high + 3, high + 6, high + 20)
        self.run("xrandr", "--newmode", mode, "100", *map(str, timing))
        self.run("xrandr", "--addmode", name, mode)
        self.run("xrandr", "--output", name, "--mode", mode, "--pos", f"{head.x}x{head.y}")
        until(lambda: self.is_plugged(number, head), f"{name} at its place")

    def is_plugged(self, number: int, head: "Head") -> bool:
        """Return whether a monitor is where it should be."""
        line = next((one for one in self.run("xrandr").splitlines() if one.startswith(f"DUMMY{number} ")), "")
        return f" {head.width}x{head.height}+{head.x}+{head.y} " in line

    def unplug(self, number: int) -> None:
        """Take a monitor from its output."""
        self.run("xrandr", "--output", f"DUMMY{number}", "--off")

    def run(self, *command: str) -> str:
        """Run an X tool and return what it prints."""
        done = subprocess.run(command, env=self.env, capture_output=True, text=True, timeout=LIMIT)
        return done.stdout

    def connect(self) -> Any:
        """Return a bare connection."""
        return xcffib.connect(display=self.display)  # type: ignore[no-untyped-call]

    # --- windows ---

    @contextlib.contextmanager
    def watched(self, atom: str) -> Iterator[Callable[[], list[str]]]:
        """Yield a call that returns the values of a property of the root so far, one for each time it was set."""
        with tempfile.TemporaryFile("w+") as file:
            watcher = subprocess.Popen(("xprop", "-spy", "-root", atom), env=self.env, stdout=file)

            def values() -> list[str]:
                file.seek(0)
                return file.read().splitlines()

            until(values, "the first value")
            yield values
            watcher.kill()
            watcher.wait()

    def open(self, cls: str, *options: str, count: int = 1, title: str = "") -> subprocess.Popen[bytes]:
        """Show demo windows of a class and wait until the window manager has them."""
        before = len(self.of_class(cls))
        command = [sys.executable, "-m", "jaklet.demo.windows", "--class", cls, "--instance", cls.lower()]
        command += ["--title", title or cls, "--count", str(count), *options]
        process = subprocess.Popen(command, env=self.env)
        self.processes.append(process)
        until(lambda: len(self.of_class(cls)) >= before + count, f"windows of {cls}")
        return process

    def ids(self, prop: str = "_NET_CLIENT_LIST") -> list[str]:
        """Return the window ids in a property of the root window."""
        return re.findall(r"0x[0-9a-f]+", self.run("xprop", "-root", prop))

    def active(self) -> str:
        """Return the class of the active window; empty if there is none."""
        wid = self.active_id()
        return self.cls(wid) if wid else ""

    def active_id(self) -> str:
        """Return the id of the active window; empty if there is none."""
        found = self.ids("_NET_ACTIVE_WINDOW")
        return found[0] if found and int(found[0], 16) else ""

    def cls(self, wid: str) -> str:
        """Return a window's class."""
        found = re.search(r'WM_CLASS\(\w+\) = ".*", "(.*)"', self.run("xprop", "-id", wid, "WM_CLASS"))
        return found[1] if found else ""

    def of_class(self, cls: str) -> list[str]:
        """Return the ids of all windows of a class, in the order in which they were mapped."""
        return [wid for wid in self.ids() if self.cls(wid) == cls]

    def stacking(self) -> list[str]:
        """Return the windows' classes from bottom to top."""
        return [self.cls(wid) for wid in self.ids("_NET_CLIENT_LIST_STACKING")]

    def see(self, wid: str) -> Seen:
        """Return what the X tools say of a window."""
        told = self.run("xwininfo", "-id", wid)
        numbers = [
            int(found[1])
            for key in ("Absolute upper-left X", "Absolute upper-left Y", "Width", "Height")
            if (found := re.search(rf"{key}:\s+(-?\d+)", told))
        ]
        props = self.run(
            "xprop", "-id", wid, "_NET_FRAME_EXTENTS", "_GTK_FRAME_EXTENTS", "_NET_WM_STATE", "_NET_WM_DESKTOP",
            "WM_CLASS", "_NET_WM_NAME",
        )  # fmt: skip

        def four(name: str) -> list[int]:
            found = re.search(rf"^{name}\(CARDINAL\) = ([\d, ]+)$", props, re.MULTILINE)
            return [int(word) for word in found[1].split(",")] if found else [0, 0, 0, 0]

        left, right, top, bottom = (
            a - b for a, b in zip(four("_NET_FRAME_EXTENTS"), four("_GTK_FRAME_EXTENTS"), strict=True)
        )
        x, y, width, height = numbers
        if "_NET_FRAME_EXTENTS(CARDINAL)" not in props and (frame := self.shown_in(wid)) != wid:
            told = self.run("xwininfo", "-id", frame)
            x, y, width, height, border = [
                int(found[1])
                for key in ("Absolute upper-left X", "Absolute upper-left Y", "Width", "Height", "Border width")
                if (found := re.search(rf"{key}:\s+(-?\d+)", told))
            ]
            x, y, width, height = x - border, y - border, width + 2 * border, height + 2 * border
        workspace = re.search(r"_NET_WM_DESKTOP\(CARDINAL\) = (\d+)", props)
        title = re.search(r'_NET_WM_NAME\(\w+\) = "(.*)"', props)
        return Seen(
            wid,
            self.cls(wid),
            title[1] if title else "",
            (x - left, y - top, width + left + right, height + top + bottom),
            frozenset(re.findall(r"_NET_WM_STATE_(HIDDEN|MAXIMIZED_\w+|FULLSCREEN)", props)),
            int(workspace[1]) if workspace else -1,
        )

    def frame(self, cls: str) -> tuple[int, int, int, int]:
        """Return the visible frame of the first window of a class."""
        return self.see(self.of_class(cls)[0]).frame

    def shown_in(self, wid: str) -> str:
        """Return the id of the child of the root that shows a window."""
        connection = self.connect()
        frame = int(wid, 16)
        while (tree := connection.core.QueryTree(frame).reply()).parent != tree.root:
            frame = tree.parent
        connection.disconnect()
        return hex(frame)

    def kill(self, wid: str) -> None:
        """End the client of a window."""
        connection = self.connect()
        connection.core.KillClient(int(wid, 16))
        connection.core.GetInputFocus().reply()
        connection.disconnect()

    def tile(self, wid: str) -> None:
        """Ask the manager to maximise a window upright alone, as it does when it tiles one by itself."""
        connection = self.connect()
        core, root = connection.core, connection.setup.roots[0].root

        def atom(name: str) -> int:
            return int(core.InternAtom(False, len(name), name).reply().atom)

        data = (1, atom("_NET_WM_STATE_MAXIMIZED_VERT"), 0, 2, 0)  # add it; a pager asks
        event = struct.pack("=BBHII5I", 33, 32, 0, int(wid, 16), atom("_NET_WM_STATE"), *data)
        core.SendEvent(False, root, xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify, event)
        core.GetInputFocus().reply()
        connection.disconnect()
        until(lambda: self.see(wid).states == {"MAXIMIZED_VERT"}, "a tiled window")

    def shove(self, wid: str, x: int, y: int) -> None:
        """Move a window without its manager's knowing."""
        connection = self.connect()
        mask = xp.ConfigWindow.X | xp.ConfigWindow.Y
        frame = int(self.shown_in(wid), 16)
        connection.core.ChangeWindowAttributes(frame, xp.CW.OverrideRedirect, [1])  # what the manager is not asked for
        connection.core.ConfigureWindow(frame, mask, [x, y])
        connection.core.ChangeWindowAttributes(frame, xp.CW.OverrideRedirect, [0])
        connection.core.GetInputFocus().reply()
        connection.disconnect()

    def clear(self) -> None:
        """End listeners that were left behind, destroy all windows, whoever owns them, and show the first workspace."""
        for process in STARTED:
            if process.poll() is None:
                process.kill()
                process.wait()
        STARTED.clear()
        connection = self.connect()
        for wid in self.ids():
            connection.core.KillClient(int(wid, 16))
        connection.flush()
        connection.core.GetInputFocus().reply()
        connection.disconnect()
        until(lambda: not self.ids(), "an empty desk")
        for process in self.processes[2:]:
            process.kill()
            process.wait()
        del self.processes[2:]

    # --- keys ---

    def keycode(self, keysym: int) -> int:
        """Return the key that types a keysym without Shift."""
        connection = self.connect()
        setup = connection.setup
        count = setup.max_keycode - setup.min_keycode + 1
        reply = connection.core.GetKeyboardMapping(setup.min_keycode, count).reply()
        rows = [reply.keysyms[i * reply.keysyms_per_keycode] for i in range(count)]
        connection.disconnect()
        return int(setup.min_keycode + rows.index(keysym))

    def press(self, chord: str, hold: float = 0) -> None:
        """Press and release a chord with real key events (XTEST), its key held for some seconds: the server repeats it."""
        codes = [self.keycode(KEYSYMS.get(part) or ord(part)) for part in chord.split("+")]
        connection = self.connect()
        xtest = connection(xcffib.xtest.key)
        for kind, order in ((2, codes), (3, codes[::-1])):  # KeyPress, KeyRelease
            for code in order:
                xtest.FakeInput(kind, code, 0, 0, 0, 0, 0)
            connection.flush()
            if hold and kind == 2:
                time.sleep(hold)  # for as long as a finger rests on the key
        connection.flush()
        connection.core.GetInputFocus().reply()
        connection.disconnect()

    def key_of(self, chord: str) -> tuple[int, int]:
        """Return the keycode and the modifier mask of a chord."""
        *modifiers, key = chord.split("+")
        masks = {"super": xp.ModMask._4, "shift": xp.ModMask.Shift, "ctrl": xp.ModMask.Control, "alt": xp.ModMask._1}
        return self.keycode(KEYSYMS.get(key) or ord(key)), sum(int(masks[name]) for name in modifiers)

    @contextlib.contextmanager
    def held(self, *chords: str) -> Iterator[None]:
        """Let another client hold chords, each by a grab that excludes all others."""
        connection = self.connect()
        root = connection.setup.roots[0].root
        for code, mask in map(self.key_of, chords):
            connection.core.GrabKey(False, root, mask, code, 1, 1, is_checked=True).check()
        try:
            yield
        finally:
            connection.disconnect()

    def can_grab(self, chord: str) -> bool:
        """Return whether another client could grab a chord now."""
        code, mask = self.key_of(chord)
        connection = self.connect()
        root = connection.setup.roots[0].root
        try:
            connection.core.GrabKey(False, root, mask, code, 1, 1, is_checked=True).check()
            extension = connection(xcffib.xinput.key)
            extension.XIQueryVersion(2, 2).reply()
            # The other kind of grab, of which the first knows nothing: all master devices, a keycode, asynchronous.
            return (
                not extension.XIPassiveGrabDevice(0, root, 0, code, 1, 1, 0, 1, 1, 1, True, [], [mask])
                .reply()
                .modifiers
            )
        except xp.AccessError:
            return False
        finally:
            connection.disconnect()


class Head(NamedTuple):
    """A monitor of the dummy driver: where it is, and its size."""

    x: int
    y: int
    width: int
    height: int


XORG = Path("/usr/lib/xorg/Xorg")  # the server itself: the wrapper in front of it wants a console
_DUMMY = [*Path("/usr/lib/xorg/modules/drivers").glob("dummy_drv.so")]
NEEDS_OUTPUTS = pytest.mark.skipif(
    not (XORG.exists() and _DUMMY), reason="needs Xorg with the dummy driver: xserver-xorg-video-dummy"
)
_CONFIG = """
Section "Device"
    Identifier "dummy"
    Driver "dummy"
    VideoRam 256000
EndSection
Section "Screen"
    Identifier "screen"
    Device "dummy"
    DefaultDepth 24
    SubSection "Display"
        Depth 24
        Virtual 6000 3000
    EndSubSection
EndSection
Section "ServerFlags"
    Option "AutoAddDevices" "false"
    Option "AutoEnableDevices" "false"
    Option "DontVTSwitch" "true"
EndSection
"""


@contextlib.contextmanager
def with_heads(manager: str, heads: Sequence[Head], folder: Path) -> Iterator[XServer]:
    """Start Xorg with the dummy driver: its outputs come and go as real ones do, and toolkits see them.

    `manager`: the window manager to start on it; none if empty.
    """
    (folder / "xorg.conf").write_text(_CONFIG)
    command = [str(XORG), "-config", str(folder / "xorg.conf"), "-logfile", str(folder / "xorg.log")]
    server, number = _start([*command, "-noreset", "-nolisten", "tcp", "-novtswitch", "-sharevts"])
    if number is None:  # as where it may not have a console
        log = folder / "xorg.log"
        told = [line for line in log.read_text().splitlines() if "(EE)" in line] if log.exists() else []
        pytest.skip(f"Xorg with the dummy driver does not start here: {told[-1:]}")
    x = XServer(number, [server])
    try:
        until(lambda: "DUMMY0" in x.run("xrandr"), "outputs of Xorg")
        for i, head in enumerate(heads):
            x.plug(i, head)
        if manager:
            x.manage(manager)
        yield x
    finally:
        x.end()


def _start(command: list[str]) -> tuple[subprocess.Popen[bytes], int | None]:
    """Start a server on a display number of its own choice, so that two workers never fight for one.

    Returns it with its number once it takes clients; with None where it ends at once (Xserver(1), -displayfd).
    """
    reads, writes = os.pipe()
    with open(reads, "rb") as told:
        server = subprocess.Popen(
            [*command, "-displayfd", str(writes)],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            pass_fds=[writes],
        )
        os.close(writes)
        number = told.readline().strip()
    return server, int(number) if number else None


@contextlib.contextmanager
def running(manager: str = "metacity", monitors: Monitors = MONITORS, screen: str = SCREEN) -> Iterator[XServer]:
    """Start a server with some monitors and a window manager; end them afterwards."""
    command = ["Xvfb", "-screen", "0", screen, "-nolisten", "tcp", "-noreset", "-dpi", "96"]
    server, number = _start(command)
    assert number is not None, f"{command} does not start"
    processes = [server]
    x = XServer(number, processes)
    try:
        for name, geometry, output in monitors:
            x.run("xrandr", "--setmonitor", name, geometry, output)
        command = MANAGERS[manager]
        processes.append(subprocess.Popen(command, env=x.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL))
        until(lambda: x.ids("_NET_SUPPORTING_WM_CHECK"), manager)
        until(lambda: "_NET_NUMBER_OF_DESKTOPS(CARDINAL)" in x.run("xprop", "-root"), f"{manager}'s workspaces")
        yield x
    finally:
        for process in reversed(processes):
            process.kill()
            process.wait()
