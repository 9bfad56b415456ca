"""What is measured alike on each compositor in which our code runs, beside bare requests over the same bus.

The floor of the chord is a program without logic: it answers a chord with a request made beforehand. Both are timed by
a third connection that the bus tells of everything (BecomeMonitor). The floor of a recall hands our code in the
compositor the very requests that Jaklet makes, at once, and waits until the state has what was asked for.
"""

import os
import re
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Final

from jeepney import DBusAddress, Message, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection

from benchmarks.measure import Row, percentile
from benchmarks.recalls import NoShelf
from jaklet.core.actions.layouts.capturing import capture_layout
from jaklet.core.actions.layouts.recall import recall_layout
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext
from jaklet.core.values.changes import Focus, Move, Stack
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Rect
from jaklet.desktops.compositor.agent import Agent
from jaklet.desktops.compositor.desktop import CompositorDesktop
from jaklet.desktops.drive import drive_task

WATCH: Final = DBusAddress("/org/freedesktop/DBus", "org.freedesktop.DBus", "org.freedesktop.DBus.Monitoring")
CONFIG: Final = """
apps: {board: {launch: berth-board, window: {class: BerthBoard}}}
bindings:
  super+f8: place left 2/3
  super+f9: place right 1/3
"""
PRESSES, ROUNDS = 100, {10: 15, 50: 7}
REST = 0.5  # seconds until programs have nothing left to draw
IDLE = 60.0  # seconds


@contextmanager
def windows(env: dict[str, str], count: int) -> Iterator[None]:
    """Have so many windows of Wayland."""
    command = [sys.executable, "-m", "jaklet.demo.wayland_windows", "--class", "BerthBoard", "--count", str(count)]
    process = subprocess.Popen(command, env=env)
    try:
        time.sleep(1 + count / 20)
        yield
    finally:
        process.kill()
        process.wait()


class Watch:
    """The third connection. `rules`: what it is told of; `pressed` and `moves`: the messages that count."""

    def __init__(
        self,
        env: dict[str, str],
        rules: Sequence[str],
        pressed: Callable[[Message], bool],
        moves: Callable[[Message], bool],
    ) -> None:
        self._pressed, self._moves = pressed, moves
        self.connection: DBusConnection = open_dbus_connection(env["DBUS_SESSION_BUS_ADDRESS"])
        self.connection.send_and_get_reply(new_method_call(WATCH, "BecomeMonitor", "asu", (list(rules), 0)))

    def latency(self) -> float:
        """Return milliseconds from the next press to the next request that moves a window."""
        pressed = 0.0
        while True:
            message = self.connection.receive(timeout=10)
            now = time.perf_counter()
            if self._pressed(message):
                pressed = now
            elif pressed and self._moves(message):
                return (now - pressed) * 1000


def chords(
    env: dict[str, str],
    chord: Callable[[str], None],
    watched: Callable[[], Watch],
    floor: str,
    folder: Path,
    rests: str,
) -> list[Row]:
    """Measure a chord, the listener's memory, and how often it wakes up. `floor`: the module of the bare program."""
    config = folder / "jaklet.yaml"
    config.write_text(CONFIG)
    env = {**env, "JAKLET_CONFIG": str(config)}
    ours: list[float] = []
    bare: list[float] = []
    memory, switches = 0.0, 0
    with windows(env, 10):
        for mine, command in ((ours, ["-m", "jaklet", "listen"]), (bare, ["-m", floor])):
            with subprocess.Popen([sys.executable, *command], env=env, stdout=subprocess.PIPE, text=True) as process:
                assert process.stdout
                for line in process.stdout:
                    if "listening" in line:
                        break
                watch = watched()
                for turn in range(PRESSES):
                    time.sleep(0.15)
                    chord(("super+f8", "super+f9")[turn % 2])
                    mine.append(watch.latency())
                watch.connection.close()
                if mine is ours:
                    time.sleep(REST)
                    status = Path(f"/proc/{process.pid}/status")
                    memory = int(re.search(r"RssAnon:\s+(\d+)", status.read_text())[1]) / 1024  # type: ignore[index]
                    before = _switches(status)
                    time.sleep(IDLE)
                    switches = _switches(status) - before
                process.terminate()
                process.stdout.close()
    result = []
    for share, aim in ((0.5, "≤ 1.5"), (0.99, "")):
        a, b = percentile(ours, share), percentile(bare, share)
        name = f"chord to first request, 10 windows, p{share * 100:.0f}"
        result.append(Row(name, f"{a:.2f} ms", f"{b:.2f} ms", f"{a / b:.2f}", aim))
    result.append(Row("listener's memory at rest", f"{memory:.1f} MB", "", "", "under 60 MB"))
    name = f"wake-ups in {IDLE:.0f} idle seconds"
    return [*result, Row(name, str(switches), "", "", rests)]


def _switches(status: Path) -> int:
    return int(re.search(r"^voluntary_ctxt_switches:\s+(\d+)", status.read_text(), re.MULTILINE)[1])  # type: ignore[index]


def _quiet(desk: CompositorDesktop) -> Desk:
    moment = desk.look()
    while not moment.settled:
        moment = desk.wait(moment.now + 5)
    time.sleep(REST)
    return desk.wait(time.monotonic()).desk


def _scatter(desk: CompositorDesktop, ids: list[int], turn: int) -> Desk:
    desk.apply([Move(wid, Rect(100 + 3 * i, 60 + 2 * i + turn % 2, 300, 200)) for i, wid in enumerate(ids)])
    _quiet(desk)
    desk.apply([Stack(tuple(reversed(ids))), Focus(ids[0])])
    return _quiet(desk)


def recalls(
    env: dict[str, str], connect: Callable[[], CompositorDesktop], start: Callable[[], Agent], count: int, rounds: int
) -> Row:
    """Measure a recall of so many windows. The environment is set, as a desk connects by it."""
    os.environ.update(env)
    desk = connect()
    ids = [window.id for window in desk.look().desk.windows]
    assert len(ids) == count
    desk.apply([Move(wid, Rect(20 + 5 * i, 40 + 3 * i, 640, 400)) for i, wid in enumerate(ids)])
    _quiet(desk)
    desk.apply([Stack(tuple(ids)), Focus(ids[-1])])
    layout = capture_layout(_quiet(desk), Config(), name="bench", number=None, note="")
    ours, bare = [], []
    asked: list[dict[str, Any]] = []
    ask = desk._agent.ask

    def recorded(requests: Any) -> int:
        asked.extend(requests)
        return ask(requests)

    def begin(moment: Moment) -> Task:
        return recall_layout(layout, TaskContext(Config(), NoShelf()), moment)

    for turn in range(rounds):
        _scatter(desk, ids, turn)
        asked.clear()
        desk._agent.ask = recorded  # type: ignore[method-assign]
        began = time.perf_counter()
        outcome = drive_task(desk, begin)
        ours.append((time.perf_counter() - began) * 1000)
        desk._agent.ask = ask  # type: ignore[method-assign]
        assert outcome.done, outcome
        wanted = _quiet(desk)
        frames = {desk._told[wid].uuid: [*window.frame] for wid, window in wanted.by_id.items()}
        _scatter(desk, ids, turn + 1)
        bare.append(_floor(start(), asked, frames, desk._told[wanted.active or 0].uuid))
        desk.wait(time.monotonic() + REST)
    desk.close()
    a, b = statistics.median(ours), statistics.median(bare)
    name = f"recall of {count} windows"
    return Row(name, f"{a:.1f} ms ({a / count:.2f} ms a window)", f"{b:.1f} ms", f"{a / b:.2f}", "≤ 1.3")


def _floor(agent: Agent, requests: list[dict[str, Any]], frames: dict[str, list[int]], active: str) -> float:
    agent.take(0.2)
    start = time.perf_counter()
    number = agent.ask(requests)
    while True:
        agent.take(1)
        state = agent.state
        stand = {uuid: one["frame"] for uuid, one in agent.windows.items()}
        if state["serial"] == number and stand == frames and state["active"] == active:
            break
    took = (time.perf_counter() - start) * 1000
    agent.close()
    return took
