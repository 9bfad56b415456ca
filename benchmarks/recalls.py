"""Recall of 10, 50 and 200 windows, beside sending the same requests and waiting for the window manager alone.

Every window is at a wrong place before. Jaklet's time runs from the key to the report, its check that all windows
stand where they should included; its mirror is up to date, as the listener's is. The floor sends the very client
messages that Jaklet sends, made beforehand, and counts the window manager's own notifications until the last window
has its size, the focus is there, and a request sent after all others is dealt with.
"""

import statistics
import struct
import time
from collections.abc import Callable
from typing import Any

import xcffib.xproto as xp
from tests.xserver import XServer

from benchmarks.measure import Row
from jaklet.core.actions.layouts.capturing import capture_layout
from jaklet.core.actions.layouts.recall import recall_layout
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext
from jaklet.core.values.changes import Change, Focus, Move, Stack
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Rect
from jaklet.desktops.drive import drive_task
from jaklet.desktops.x11 import connect
from jaklet.desktops.x11.desktop import X11Desktop
from jaklet.desktops.x11.requests import ask_for

SIZES = (10, 50, 200)
STANDING = 50
REST = 0.7  # seconds until the manager, the server and the programs have nothing left to draw, which no event tells
PROBED = 3  # the width that the floor's last request asks for
ROUNDS = {10: 25, 50: 9, 200: 7}


class NoShelf:
    """Nothing is looked up in a recall of a layout that is at hand."""

    def find(self, word: str) -> None:
        """Return nothing."""

    def names(self) -> list[str]:
        """Return nothing."""
        return []

    def keep(self, layout: Any, *, take_number: bool = False) -> Any:
        """Never called."""


Request = Callable[[Any], Any]  # sends itself by the core of a connection


class Recorder:
    """Takes the requests in place of the wire and its core, so that the floor can send them as they are."""

    def __init__(self, wire: Any) -> None:
        self.root, self.atoms = wire.root, wire.atoms
        self.core = self
        self.requests: list[Request] = []

    def tell_manager(self, window: int, atom: str, data: Any) -> None:
        """Keep a message."""
        words = [value & 0xFFFFFFFF for value in data]
        message = struct.pack("=BBHII5I", 33, 32, 0, window, self.atoms[atom], *words, *[0] * (5 - len(words)))
        mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
        root = self.root
        self.requests.append(lambda core: core.SendEvent(False, root, mask, message))

    def ConfigureWindow(self, wid: int, mask: int, values: list[int]) -> None:  # noqa: N802  # as the library names it
        """Keep a configure request."""
        self.requests.append(lambda core: core.ConfigureWindow(wid, mask, values))


def scatter(desk: X11Desktop, ids: list[int], turn: int) -> Desk:
    """Put every window somewhere else, in the opposite order; return the desk once all is quiet."""
    desk.apply([Move(wid, Rect(100 + 3 * i, 60 + 2 * i + turn % 2, 300, 200)) for i, wid in enumerate(ids)])
    desk.apply([Stack(tuple(reversed(ids))), Focus(ids[0])])
    return quiet(desk)


def quiet(desk: X11Desktop) -> Desk:
    """Wait until the desk has settled, and for a while after that; return it."""
    moment = desk.look()
    while not moment.settled:
        moment = desk.wait(moment.now + 5)
    time.sleep(REST)
    return desk.wait(time.monotonic()).desk


def asked_for(wanted: Desk) -> list[Change]:
    """Return what Jaklet asks for to get a desk, in its order, which is most of the window manager's time."""
    front, *others = (Move(wid, wanted.by_id[wid].frame) for wid in reversed(wanted.stacking))
    return [front, Focus(wanted.active or 0), *others, Stack(wanted.stacking)]


def floor(x: XServer, requests: list[Request], wanted: dict[int, Rect], front: int | None = None) -> float:
    """Send requests and wait for what they ask; return milliseconds. `front`: who gets the focus, if anybody."""
    c = x.connect()
    root = c.setup.roots[0].root

    def atom(name: str) -> int:
        return int(c.core.InternAtom(False, len(name), name).reply().atom)

    active = atom("_NET_ACTIVE_WINDOW")
    c.core.ChangeWindowAttributes(root, xp.CW.EventMask, [xp.EventMask.PropertyChange])
    for wid in wanted:
        c.core.ChangeWindowAttributes(wid, xp.CW.EventMask, [xp.EventMask.StructureNotify])
    c.core.GetInputFocus().reply()
    probe = c.generate_id()
    c.core.CreateWindow(
        0, probe, root, -1, -1, 1, 1, 0, xp.WindowClass.InputOutput, 0, xp.CW.EventMask, [xp.EventMask.StructureNotify]
    )
    # A request of its own, dealt with after the others: the order of windows has no notification of its own.
    missing, focused = {**wanted, probe: Rect(0, 0, PROBED, 1)}, front is None
    start = time.perf_counter()
    for request in requests:
        request(c.core)
    c.core.ConfigureWindow(probe, xp.ConfigWindow.Width, [PROBED])
    c.flush()
    while missing or not focused:
        event = c.wait_for_event()
        if isinstance(event, xp.ConfigureNotifyEvent):
            # Positions are the parent's in a real notification and the root's in a synthetic one (ICCCM 4.1.5), so that
            # the floor goes by size alone: each window is moved and resized in one request.
            if event.window in missing and missing[event.window][2:] == (event.width, event.height):
                del missing[event.window]
        elif isinstance(event, xp.PropertyNotifyEvent) and event.atom == active:
            reply = c.core.GetProperty(False, root, active, 0, 0, 1).reply()
            focused = struct.unpack("=I", reply.value.buf())[0] == front
    took = (time.perf_counter() - start) * 1000
    c.disconnect()
    return took


def rows(x: XServer) -> list[Row]:
    """Measure every size, Jaklet and the floor in turn."""
    result = []
    for count in SIZES:
        x.clear()
        x.open("BerthBoard", count=count)
        desk = connect(x.display)
        ids = [window.id for window in desk.look().desk.windows]
        layout = _layout(desk, ids)
        ours, bare = [], []
        for turn in range(ROUNDS[count]):
            before = scatter(desk, ids, turn)
            outcome_at: list[float] = []

            def begin(moment: Moment, layout: Any = layout) -> Task:
                return recall_layout(layout, TaskContext(Config(), NoShelf()), moment)

            start = time.perf_counter()
            outcome = drive_task(desk, begin)
            outcome_at.append((time.perf_counter() - start) * 1000)
            assert outcome.done, outcome
            ours.append(outcome_at[0])
            wanted = desk.look().desk
            before = scatter(desk, ids, turn + 1)
            recorder = Recorder(desk._wire)
            for change in asked_for(wanted):
                ask_for(change, recorder, before, desk._server_time())  # type: ignore[arg-type]  # stands in for the wire
            frames = {w.id: w.border.inside(w.frame) for w in wanted.windows}
            bare.append(floor(x, recorder.requests, frames, wanted.active or 0))
        if count == STANDING:
            result += _standing(x, desk, layout)
        desk.close()
        a, b = statistics.median(ours), statistics.median(bare)
        per = f"{a / count:.2f} ms a window"
        result.append(
            Row(f"(b) recall of {count} windows", f"{a:.1f} ms ({per})", f"{b:.1f} ms", f"{a / b:.2f}", "≤ 1.3, linear")
        )
    return result


def _standing(x: XServer, desk: X11Desktop, layout: Any) -> list[Row]:
    """Measure a recall that finds all as it should be: with the mirror of a listener, and by a command, which reads."""

    def begin(moment: Moment) -> Task:
        return recall_layout(layout, TaskContext(Config(), NoShelf()), moment)

    assert drive_task(desk, begin).done
    mirrored, reading, whole = [], [], []
    for _ in range(41):
        start = time.perf_counter()
        outcome = drive_task(desk, begin)
        mirrored.append((time.perf_counter() - start) * 1000)
        assert "nothing to move" in outcome.line
    for _ in range(15):
        start = time.perf_counter()
        fresh = connect(x.display)
        fresh.look()
        reading.append((time.perf_counter() - start) * 1000)
        outcome = drive_task(fresh, begin)
        whole.append((time.perf_counter() - start) * 1000)
        assert "nothing to move" in outcome.line
        fresh.close()
    name = f"(b) recall of {STANDING} windows that stand already"
    a, b, c = (statistics.median(times) for times in (mirrored, reading, whole))
    return [
        Row(f"{name}, with the listener's mirror", f"{a:.2f} ms", "", "", "under 1 ms"),
        Row(f"{name}, reading the desk included", f"{c:.2f} ms", f"{b:.2f} ms", f"+{c - b:.2f} ms", "+2 ms"),
    ]


def _layout(desk: X11Desktop, ids: list[int]) -> Any:
    """Save the windows in a row of steps, the last one in focus."""
    desk.apply([Move(wid, Rect(20 + 5 * i, 40 + 3 * i, 640, 400)) for i, wid in enumerate(ids)])
    desk.apply([Stack(tuple(ids)), Focus(ids[-1])])
    return capture_layout(quiet(desk), Config(), name="bench", number=None, note="")
