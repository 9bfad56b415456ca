"""Spreading: the plan alone for up to 1,000 windows, and the action for 100 beside the same requests sent bare."""

import statistics
import time

from tests.xserver import XServer

from benchmarks.measure import Row
from benchmarks.recalls import NoShelf, Recorder, floor, scatter
from jaklet.core.actions.begin import begin
from jaklet.core.actions.placing.grounds import ground
from jaklet.core.actions.placing.rows import laid_out, order_by_rows
from jaklet.core.actions.placing.windows import frames_needed
from jaklet.core.actions.tasks import TaskContext
from jaklet.core.language.actions import parse_action
from jaklet.core.values.changes import Focus, Move
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.geometry import Insets, Rect, SizeLimits
from jaklet.desktops.drive import drive_task
from jaklet.desktops.x11 import connect
from jaklet.desktops.x11.requests import ask_for

PLANNED = (100, 300, 1000)
SPREAD = 100
ROUNDS = 9
DISPLAY = Display("DP-1", Rect(0, 0, 7680, 4320), Rect(0, 30, 7680, 4290))


def made_up(count: int) -> tuple[Window, ...]:
    """Return windows of which every third is a terminal, and every tenth has a least size."""
    return tuple(
        Window(
            i,
            frame=Rect(61 * i % 7000, 37 * i % 4000, 640, 400),
            border=Insets(1, 1, 24, 1),
            limits=SizeLimits(step_width=9, step_height=17)
            if i % 3 == 0
            else SizeLimits(min_width=120)
            if i % 10 == 0
            else SizeLimits(),
        )
        for i in range(1, count + 1)
    )


def planning() -> list[Row]:
    """Measure the plan of a grid."""
    result = []
    for count in PLANNED:
        windows = made_up(count)
        desk = Desk((DISPLAY,), windows, tuple(w.id for w in windows))
        times = []
        for _ in range(ROUNDS):
            start = time.perf_counter()
            ground_ = ground(DISPLAY, desk, Config())
            frames = laid_out(order_by_rows(windows, "grid", ground_), ground_, {}).frames
            frames_needed(desk, frames)
            times.append((time.perf_counter() - start) * 1000)
        took = min(times)
        name = f"(j) plan of `spread grid`, {count} windows"
        result.append(Row(name, f"{took:.2f} ms", "", f"{took / count * 100:.2f} ms per 100", "under 10 per 100"))
    return result


def rows(x: XServer) -> list[Row]:
    """Measure the action on a real desk."""
    x.clear()
    x.open("BerthBoard", "--size", "400x300", count=SPREAD)
    desk = connect(x.display)
    ids = [window.id for window in desk.look().desk.windows]
    action, context = parse_action("spread grid"), TaskContext(Config(), NoShelf())
    ours, bare = [], []
    for turn in range(ROUNDS):
        scatter(desk, ids, turn)
        start = time.perf_counter()
        outcome = drive_task(desk, lambda moment: begin(action, context, moment))
        ours.append((time.perf_counter() - start) * 1000)
        assert outcome.done, outcome
        wanted = desk.look().desk
        before = scatter(desk, ids, turn)
        recorder = Recorder(desk._wire)
        for change in (*(Move(window.id, window.frame) for window in wanted.windows), Focus(ids[-1])):
            ask_for(change, recorder, before, desk._server_time())  # type: ignore[arg-type]  # stands in for the wire
        bare.append(floor(x, recorder.requests, {w.id: w.border.inside(w.frame) for w in wanted.windows}, ids[-1]))
    desk.close()
    a, b = statistics.median(ours), statistics.median(bare)
    name = f"(i) `spread grid` of {SPREAD} windows, read back and settled"
    return [Row(name, f"{a:.1f} ms ({a / SPREAD:.2f} ms a window)", f"{b:.1f} ms", f"{a / b:.2f}", "")]
