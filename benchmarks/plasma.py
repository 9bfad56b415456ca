"""Plasma on Wayland, beside bare requests over the same bus: python -m benchmarks.plasma [--write]

The floor of the chord is a program without logic: it answers the signal of its shortcut with a request made beforehand.
Both are timed by a third connection that the bus tells of everything (BecomeMonitor). The floor of a recall hands the
script the very requests that Jaklet makes, at once, and waits until the state has what was asked for.
"""

import os
import re
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Final

from jeepney import DBusAddress, HeaderFields, Message, MessageType, new_method_call
from jeepney.io.blocking import DBusConnection, open_dbus_connection
from tests.fake_input import Hand
from tests.plasma import Plasma, session

from benchmarks.measure import Row, percentile, report
from benchmarks.recalls import NoShelf
from jaklet.core.actions.layouts.capturing import capture_layout
from jaklet.core.actions.layouts.recall import recall_layout
from jaklet.core.actions.ports.desktop import Moment
from jaklet.core.actions.tasks import Task, TaskContext
from jaklet.core.values.changes import Focus, Move, Stack
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk
from jaklet.core.values.geometry import Rect
from jaklet.desktops.compositor.bus import Bus
from jaklet.desktops.compositor.chord_source import ShortcutRequest
from jaklet.desktops.drive import drive_task
from jaklet.desktops.plasma.accelerators import Accelerators
from jaklet.desktops.plasma.desktop import PlasmaDesktop
from jaklet.desktops.plasma.kwin_script import KWinScript
from jaklet.desktops.wayland.connection import Wayland
from jaklet.desktops.wayland.whole_keyboard import WholeKeyboard

BUS: Final = DBusAddress("/org/freedesktop/DBus", "org.freedesktop.DBus", "org.freedesktop.DBus")
WATCH: Final = DBusAddress("/org/freedesktop/DBus", "org.freedesktop.DBus", "org.freedesktop.DBus.Monitoring")
CONFIG: Final = """
apps: {board: {launch: berth-board, window: {class: BerthBoard}}}
bindings:
  super+f8: place left 2/3
  super+f9: place right 1/3
"""
SUPER: Final = 0x10000000
TIMES = 60
PRESSES, ROUNDS = 100, {10: 15, 50: 7}
MARK = "<!-- plasma -->"
REST = 0.5  # seconds until programs have nothing left to draw
IDLE = 60.0  # seconds


def rows() -> list[Row]:
    """Measure all of it in a session of its own."""
    with tempfile.TemporaryDirectory() as folder, session(Path(folder)) as plasma:
        result = [*_chords(plasma, Path(folder)), *_late(plasma)]
        for count, rounds in ROUNDS.items():
            with _windows(plasma, count):
                result.append(_recalls(plasma, count, rounds))
        return result


@contextmanager
def _windows(plasma: Plasma, count: int) -> Iterator[None]:
    command = [sys.executable, "-m", "jaklet.demo.wayland_windows", "--class", "BerthBoard", "--count", str(count)]
    process = subprocess.Popen(command, env=plasma.env)
    try:
        time.sleep(1 + count / 20)
        yield
    finally:
        process.kill()
        process.wait()


class Watch:
    """The third connection."""

    def __init__(self, plasma: Plasma) -> None:
        self.connection: DBusConnection = open_dbus_connection(plasma.env["DBUS_SESSION_BUS_ADDRESS"])
        rules = ["type='signal',member='globalShortcutPressed'", "type='method_return'"]
        self.connection.send_and_get_reply(new_method_call(WATCH, "BecomeMonitor", "asu", (rules, 0)))

    def latency(self) -> float:
        """Return milliseconds from the next press to the next request that moves a window."""
        pressed = 0.0
        while True:
            message = self.connection.receive(timeout=10)
            now = time.perf_counter()
            if message.header.fields.get(HeaderFields.member) == "globalShortcutPressed":
                pressed = now
            elif pressed and message.header.message_type is MessageType.method_return and _moves(message):
                return (now - pressed) * 1000


def _moves(message: Message) -> bool:
    return bool(message.body) and isinstance(message.body[0], str) and '"move"' in message.body[0]


def _chords(plasma: Plasma, folder: Path) -> list[Row]:
    config = folder / "jaklet.yaml"
    config.write_text(CONFIG)
    hand = Hand(f"{plasma.env['XDG_RUNTIME_DIR']}/{plasma.env['WAYLAND_DISPLAY']}")
    env = plasma.jaklet_env(JAKLET_CONFIG=str(config))
    ours: list[float] = []
    bare: list[float] = []
    memory, switches = 0.0, 0
    with _windows(plasma, 10):
        for mine, command in ((ours, ["-m", "jaklet", "listen"]), (bare, ["-m", "benchmarks.plasma_floor"])):
            with subprocess.Popen([sys.executable, *command], env=env, stdout=subprocess.PIPE, text=True) as process:
                assert process.stdout
                for line in process.stdout:
                    if "listening" in line:
                        break
                watch = Watch(plasma)
                for turn in range(PRESSES):
                    time.sleep(0.15)
                    hand.chord(("super+f8", "super+f9")[turn % 2])
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
    hand.close()
    result = []
    for share, aim in ((0.5, "≤ 1.5"), (0.99, "")):
        a, b = percentile(ours, share), percentile(bare, share)
        name = f"chord to first request, 10 windows, p{share * 100:.0f}"
        result.append(Row(name, f"{a:.2f} ms", f"{b:.2f} ms", f"{a / b:.2f}", aim))
    result.append(Row("listener's memory at rest", f"{memory:.1f} MB", "", "", "under 60 MB"))
    name = f"wake-ups in {IDLE:.0f} idle seconds"
    return [*result, Row(name, str(switches), "", "", "one in 15 s")]


def _late(plasma: Plasma) -> list[Row]:
    """Measure how long keys still go elsewhere: until a layer has all of them, until a chord of a scope is heard."""
    os.environ.update(plasma.env)
    wayland = Wayland()
    keyboard = WholeKeyboard(wayland)
    taken, heard = [], []
    for _ in range(TIMES):
        start = time.perf_counter()
        keyboard.take_all()
        taken.append((time.perf_counter() - start) * 1000)
        keyboard.give_back()
        time.sleep(0.1)
        wayland.sync()
    wayland.close()
    bus = Bus.open("KWin")
    accelerators = Accelerators(bus)
    accelerators.begin()
    for _ in range(TIMES):
        start = time.perf_counter()
        accelerators.hear([ShortcutRequest(SUPER | ord("J"), "a"), ShortcutRequest(SUPER | ord("K"), "b")])
        heard.append((time.perf_counter() - start) * 1000)
        accelerators.hear([])
    bus.close()
    names = ("until a layer has the whole keyboard", "until two chords of a scope are heard")
    return [
        Row(f"{name}, p50, p99", f"{percentile(one, 0.5):.1f} ms, {percentile(one, 0.99):.1f} ms", "", "", "")
        for name, one in zip(names, (taken, heard), strict=True)
    ]


def _switches(status: Path) -> int:
    return int(re.search(r"^voluntary_ctxt_switches:\s+(\d+)", status.read_text(), re.MULTILINE)[1])  # type: ignore[index]


def _quiet(desk: PlasmaDesktop) -> Desk:
    moment = desk.look()
    while not moment.settled:
        moment = desk.wait(moment.now + 5)
    time.sleep(REST)
    return desk.wait(time.monotonic()).desk


def _scatter(desk: PlasmaDesktop, ids: list[int], turn: int) -> Desk:
    desk.apply([Move(wid, Rect(100 + 3 * i, 60 + 2 * i + turn % 2, 300, 200)) for i, wid in enumerate(ids)])
    _quiet(desk)
    desk.apply([Stack(tuple(reversed(ids))), Focus(ids[0])])
    return _quiet(desk)


def _recalls(plasma: Plasma, count: int, rounds: int) -> Row:
    """Measure one size. The environment is set, as a desk connects by it."""
    os.environ.update(plasma.env)
    desk = PlasmaDesktop.connect()
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
        start = time.perf_counter()
        outcome = drive_task(desk, begin)
        ours.append((time.perf_counter() - start) * 1000)
        desk._agent.ask = ask  # type: ignore[method-assign]
        assert outcome.done, outcome
        wanted = _quiet(desk)
        frames = {desk._told[wid].uuid: [*window.frame] for wid, window in wanted.by_id.items()}
        _scatter(desk, ids, turn + 1)
        bare.append(_floor(asked, frames, desk._told[wanted.active or 0].uuid))
        desk.wait(time.monotonic() + REST)
    desk.close()
    a, b = statistics.median(ours), statistics.median(bare)
    name = f"recall of {count} windows"
    return Row(name, f"{a:.1f} ms ({a / count:.2f} ms a window)", f"{b:.1f} ms", f"{a / b:.2f}", "≤ 1.3")


def _floor(requests: list[dict[str, Any]], frames: dict[str, list[int]], active: str) -> float:
    agent = KWinScript.start()
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


if __name__ == "__main__":
    report(rows(), MARK)
