"""Recalls under each window manager that is here, beside the same requests sent bare: python -m benchmarks.managers

The floor sends what Jaklet has found to work with this manager (`desktops/x11/ladders.py`), made beforehand, and counts
the manager's notifications until all windows have their size and the focus is there. An activation is a change of
_NET_ACTIVE_WINDOW, counted by another client.
"""

import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import xcffib.xproto as xp
from tests.managers.starting import Manager, chosen, managing
from tests.xserver import Head, XServer, with_heads

from benchmarks.measure import Row, report
from benchmarks.recalls import NoShelf, Recorder, asked_for, floor, quiet, scatter
from jaklet.core.actions.layouts.capturing import capture_layout
from jaklet.core.actions.layouts.recall import recall_layout
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext, TaskOutcome
from jaklet.core.values.changes import Focus, Move, Stack
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Rect
from jaklet.core.values.layouts import Layout
from jaklet.desktops.drive import drive_task
from jaklet.desktops.x11 import connect
from jaklet.desktops.x11.desktop import X11Desktop

WINDOWS, ROUNDS = 50, 5
FLIPPED, FLIPS = 10, 10
MARK = "<!-- managers -->"


class Taken(NamedTuple):
    """How long a recall took, in milliseconds: until the last window was seen as it stands, and until it was told."""

    stands: float
    told: float


class Flip(NamedTuple):
    """How long a flip took, and how often another window was active during it."""

    taken: Taken
    activations: int


def rows(manager: Manager, x: XServer, folder: Path) -> list[Row]:
    """Measure one manager on its server."""
    ours, bare = _recalls(x, folder)
    row = _row(f"{manager.name}: recall of {WINDOWS} windows", ours, bare, "≤ 1.3")
    flips, bare = _flips(x, folder)
    most = max(flip.activations for flip in flips)
    name = f"{manager.name}: flip between two layouts of {FLIPPED} windows, {most} activations at most"
    return [row, _row(name, [flip.taken for flip in flips], bare, "≤ 1.5")]


def _row(name: str, ours: list[Taken], bare: list[float], aim: str) -> Row:
    a, b = statistics.median(one.stands for one in ours), statistics.median(bare)
    told = statistics.median(one.told for one in ours)
    return Row(name, f"{a:.0f} ms; told after {told:.0f} ms", f"{b:.0f} ms", f"{a / b:.2f}", aim)


def _recalls(x: XServer, folder: Path) -> tuple[list[Taken], list[float]]:
    """Recall many windows, all of them at a wrong place and in the opposite order."""
    x.clear()
    x.open("BerthBoard", count=WINDOWS)
    desk = connect(x.display, lambda: folder)
    ids = [window.id for window in desk.look().desk.windows]
    layout = _made(desk, ids, Rect(20, 40, 640, 400))
    scatter(desk, ids, 0)
    _timed(desk, layout)  # the ways are learned
    ours, bare = [], []
    for turn in range(ROUNDS):
        scatter(desk, ids, turn)
        ours.append(_timed(desk, layout))
        wanted = desk.look().desk
        scatter(desk, ids, turn + 1)
        bare.append(_bare(x, desk, wanted))
    desk.close()
    return ours, bare


def _flips(x: XServer, folder: Path) -> tuple[list[Flip], list[float]]:
    """Flip between two layouts: other frames, the opposite order, another window with the focus."""
    x.clear()
    x.open("TideGauge", count=FLIPPED)
    desk = connect(x.display, lambda: folder)
    ids = [window.id for window in desk.look().desk.windows]
    layouts = [_made(desk, ids, Rect(20, 40, 640, 400)), _made(desk, ids[::-1], Rect(60, 90, 500, 300))]
    for layout in layouts:
        _timed(desk, layout)
    watcher, flips, bare = Watcher(x), [], []
    for turn in range(FLIPS):
        there, back = layouts[turn % 2], layouts[1 - turn % 2]
        quiet(desk)
        watcher.count()
        took = _timed(desk, there)
        flips.append(Flip(took, watcher.count()))
        wanted = quiet(desk)
        _timed(desk, back)
        quiet(desk)
        bare.append(_bare(x, desk, wanted))
    watcher.close()
    desk.close()
    return flips, bare


class Watcher:
    """Another client, which counts how often another window becomes active."""

    def __init__(self, x: XServer) -> None:
        self._c = x.connect()
        root = self._c.setup.roots[0].root
        name = "_NET_ACTIVE_WINDOW"
        self._atom = self._c.core.InternAtom(False, len(name), name).reply().atom
        self._c.core.ChangeWindowAttributes(root, xp.CW.EventMask, [xp.EventMask.PropertyChange])

    def count(self) -> int:
        """Return how many there were since the last time."""
        self._c.core.GetInputFocus().reply()
        found = 0
        while (event := self._c.poll_for_event()) is not None:
            found += isinstance(event, xp.PropertyNotifyEvent) and event.atom == self._atom
        return found

    def close(self) -> None:
        """End the connection."""
        self._c.disconnect()


def _made(desk: X11Desktop, ids: list[int], first: Rect) -> Layout:
    """Put windows in a row of steps, the last one in focus, and save them."""
    x, y, width, height = first
    desk.apply([Move(wid, Rect(x + 5 * i, y + 3 * i, width, height)) for i, wid in enumerate(ids)])
    desk.apply([Stack(tuple(ids)), Focus(ids[-1])])
    return capture_layout(quiet(desk), Config(), name="bench", number=None, note="")


def _timed(desk: X11Desktop, layout: Layout) -> Taken:
    """Recall a layout; return how long it took."""
    wait, changed, seen = desk.wait, [time.perf_counter()], [desk.look().desk]

    def watched(until: float) -> Moment:
        moment = wait(until)
        there, before = moment.desk, seen[-1]
        if there is not before:
            if (there.windows, there.stacking, there.active) != (before.windows, before.stacking, before.active):
                changed.append(time.perf_counter())
            seen.append(there)
        return moment

    def begin(moment: Moment) -> Task:
        return recall_layout(layout, TaskContext(Config(), NoShelf()), moment)

    desk.wait = watched  # type: ignore[method-assign]
    start = time.perf_counter()
    try:
        outcome: TaskOutcome = drive_task(desk, begin)
    finally:
        desk.wait = wait  # type: ignore[method-assign]
    end = time.perf_counter()
    assert outcome.done, outcome
    return Taken((changed[-1] - start) * 1000, (end - start) * 1000)


def _bare(x: XServer, desk: X11Desktop, wanted: Desk) -> float:
    """Send the requests alone that lead to a desk, in the order in which Jaklet sends them; return milliseconds."""
    before = desk.look().desk
    recorder = Recorder(desk._wire)
    asking = desk._asking(before, desk._server_time())._replace(wire=recorder, front=wanted.active)  # type: ignore[arg-type]  # stands in for the wire
    for change in asked_for(wanted):
        desk._ladders.ask(change, asking)
    desk._ladders.read_back(wanted, lambda _: True)
    frames = {window.id: window.border.inside(window.frame) for window in wanted.windows}
    took = floor(x, recorder.requests, frames, wanted.active or 0)
    quiet(desk)
    return took


def main(tell: Callable[[str], Any] = lambda words: print(words, file=sys.stderr)) -> None:
    """Measure all that are here, or the one that MANAGER names; with --write put the table into README.md."""
    result: list[Row] = []
    for manager in chosen().values():
        if not manager.is_here:
            tell(f"{manager.name} is not here")
            continue
        tell(f"{manager.name} …")
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place)
            with with_heads("", (Head(0, 0, 1920, 1080),), folder) as x, managing(x, manager, folder / "home"):
                x.plug(0, Head(0, 0, 1920, 1080))
                result += rows(manager, x, folder)
    report(result, MARK)


if __name__ == "__main__":
    main()
