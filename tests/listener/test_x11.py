"""The installed listener on a real X server: real keys in, and the server read independently."""

import contextlib
import os
import random
import re
import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import pytest

from jaklet.core.actions.ports.desktop import Desktop
from tests.conftest import JAKLET, Office
from tests.xserver import LIMIT, STARTED, Seen, XServer, until

# Work areas of the two monitors, and with the demo's gap of 8 the frames that its keys ask for, by hand.
LEFT_TWO_THIRDS = (8, 8, 1267, 1064)
RIGHT_THIRD = (1283, 8, 629, 1064)
QUAY_FULL = (1928, 8, 1264, 1008)


class Listening:
    """A running `jaklet listen` and what it prints."""

    def __init__(self, office: Office, *words: str) -> None:
        self.log = office.folder / "listen.log"
        with self.log.open("w") as log:
            self.process = subprocess.Popen(
                [JAKLET, "listen", *words], cwd=office.folder, env=office.env, stdout=log, stderr=subprocess.STDOUT
            )
        STARTED.append(self.process)  # so that one that a failed test leaves behind ends before the next test
        self.until_says("listening on")

    def says(self) -> str:
        return self.log.read_text()

    def until_says(self, words: str, times: int = 1) -> str:
        until(
            lambda: self.says().count(words) >= times or self.process.poll() is not None, f"{words!r} in the log", LIMIT
        )
        assert self.says().count(words) >= times, self.says()
        return self.says()

    def stop(self, number: int = signal.SIGTERM) -> int:
        if self.process.poll() is None:
            self.process.send_signal(number)
        return self.process.wait(LIMIT)


@pytest.fixture
def listening(x_office: Office) -> Iterator[Listening]:
    one = Listening(x_office)
    yield one
    one.stop(signal.SIGKILL)


def test_a_day_at_the_harbour_office(x: XServer, x_office: Office, listening: Listening) -> None:
    """Launch, focus, visit all, place, save, scramble, recall, reload, stop: by keys alone."""
    x.press("super+b")
    until(lambda: x.active() == "BerthBoard", "the first press to launch")
    x.press("super+r")
    until(lambda: x.active() == "RadioLog", "the radio log to open")
    x.press("super+b")
    until(lambda: x.active() == "BerthBoard", "a press from elsewhere to focus")
    assert len(x.of_class("BerthBoard")) == 1

    x.press("super+left")
    until(lambda: x.frame("BerthBoard") == LEFT_TWO_THIRDS, "left 2/3, to the pixel")
    x.press("super+r")
    until(lambda: x.active() == "RadioLog", "the radio log in front")
    x.press("super+right")
    until(lambda: x.frame("RadioLog") == RIGHT_THIRD, "right 1/3, to the pixel")
    x.press("super+t")
    until(lambda: x.active() == "TideGauge", "the tide gauge to open")
    x.press("super+q")
    until(lambda: x.frame("TideGauge") == QUAY_FULL, "full on the other display, to the pixel")
    x.press("super+b")
    until(lambda: x.active() == "BerthBoard", "the berth board in front")
    frames, order = {cls: x.frame(cls) for cls in x.stacking()}, x.stacking()

    def saved() -> bool:
        """Press the sequence; who asks whether its second key is heard can be in the way of its being so."""
        x.press("super+s")
        with contextlib.suppress(AssertionError):
            until(lambda: not x.can_grab("1"), "the second key of the sequence to be heard", 1)
        x.press("1")
        return "saved layout 1 (number 1): 3 windows on 2 displays" in listening.says()

    until(saved, "the layout to be saved")
    x_office.jaklet("act", "place berths at 50,300 size 700x500")
    x_office.jaklet("act", "maximise radio")
    x_office.jaklet("act", "minimise tides")
    x_office.jaklet("act", "focus radio")
    assert x.active() == "RadioLog"
    assert "focus berths" in x_office.jaklet("fire", "super+b", "--dry-run").stdout  # beside a listener that holds it
    x.press("super+1")
    listening.until_says("recalled layout 1: 3 of 3 windows in place")
    assert ({cls: x.frame(cls) for cls in x.stacking()}, x.stacking(), x.active()) == (frames, order, "BerthBoard")
    x.press("super+1")
    listening.until_says("3 of 3 windows in place, nothing to move")

    x_office.edit("super+b: go berths", "super+b: go birth")
    broken = x_office.jaklet("reload", status=1)
    assert "no app is called 'birth'; did you mean berths?" in broken.stderr
    assert "the old config stays in use" in broken.stderr
    x.press("super+r")
    until(lambda: x.active() == "RadioLog", "the old config to go on working")
    x.press("super+b")
    until(lambda: x.active() == "BerthBoard", "the old binding to go on working")

    text = x_office.config.read_text()
    x_office.config.unlink()
    assert "there is no config at" in x_office.jaklet("reload", status=1).stderr
    x_office.config.write_text(text)

    x_office.edit("super+b: go birth", "super+f5: go radio\n  super+f6: go berths")
    assert "reloaded: 70 bindings" in x_office.jaklet("reload").stdout
    x.press("super+f5")
    until(lambda: x.active() == "RadioLog", "the new binding to work")
    assert x.can_grab("super+b"), "the old chord is free"
    assert not x.can_grab("super+f6")

    x_office.edit("super+f6", "super+b")
    listening.process.send_signal(signal.SIGHUP)
    until(lambda: x.can_grab("super+f6"), "SIGHUP to reload")

    assert listening.stop() == 0
    assert "all chords are free again" in listening.says()
    for chord in ("super+b", "super+f5", "super+s", "super+left"):
        assert x.can_grab(chord)
    assert not list((x_office.folder / "run" / "jaklet").glob("*.sock"))


def test_repeated_presses_visit_all_windows(x: XServer, listening: Listening) -> None:
    """Three windows of one app, visited in the order in which they opened, whatever happens in between."""
    x.open("BerthBoard", count=3)
    x.open("RadioLog")
    ids = x.of_class("BerthBoard")
    x.press("super+b")
    until(lambda: x.active() == "BerthBoard", "one of the three in front")
    at = ids.index(x.active_id())
    for step in range(1, 8):
        if step == 4:  # another program comes in between; then the one that was left is the one to go on from
            x.press("super+r")
            until(lambda: x.active() == "RadioLog", "the radio log in front")
            x.press("super+b")
            until(lambda: x.active() == "BerthBoard", "back at the berth board")
            at = ids.index(x.active_id())
        x.press("super+b")
        at = (at + 1) % 3
        until(partial(_is_active, x, ids[at]), f"visit {step}")
    for _ in range(6):  # as fast as keys can come: two whole rounds end where they began
        x.press("super+b")
    listening.until_says("super+b:", times=1)
    until(lambda: x.active_id() == ids[at], "two quick rounds")


def _is_active(x: XServer, wid: str) -> bool:
    return x.active_id() == wid


def test_a_sequence_takes_its_keys_from_programs_only_while_it_is_under_way(x: XServer, x_office: Office) -> None:
    """A real terminal notes what is typed into it."""
    typed = x_office.folder / "typed"
    x_office.edit("  super+z: focus last", "  super+v b: go berths\n  super+v shift+b: go radio\n  super+z: focus last")
    x_office.edit("  gap: 8", "  gap: 8\n  sequence: 1s")
    one = Listening(x_office)
    terminal = subprocess.Popen(["xterm", "-e", "sh", "-c", f"stty -icanon -echo; cat > {typed}"], env=x.env)
    x.processes.append(terminal)
    until(lambda: x.active() == "XTerm" and typed.exists(), "the terminal")
    x.open("BerthBoard")
    x.open("RadioLog")

    def to_terminal() -> None:
        x_office.jaklet("act", f"focus window {x.of_class('XTerm')[0]}")
        until(lambda: x.active() == "XTerm", "the terminal in front")

    def begin() -> None:
        pressed = 0.0

        def is_under_way() -> bool:
            nonlocal pressed
            if x.can_grab("b") and time.monotonic() > pressed + 3:  # it lasts for a second, in which we may not come by
                x.press("super+v")
                pressed = time.monotonic()
            return not x.can_grab("b")

        until(is_under_way, "the next key to be heard")

    to_terminal()
    x.press("b")
    until(lambda: typed.read_text() == "b", "a plain key to reach the program")
    begin()
    x.press("b")
    until(lambda: x.active() == "BerthBoard", "the sequence")
    until(lambda: x.can_grab("b"), "the key to be free again")
    to_terminal()
    begin()
    x.press("caps")
    x.press("shift+b")
    until(lambda: x.active() == "RadioLog", "the other sequence, Caps Lock on")
    x.press("caps")
    to_terminal()
    begin()
    x.press("escape")
    until(lambda: x.can_grab("b"), "Escape to give it up")
    x.press("c")
    until(lambda: typed.read_text() == "bc", "a key to reach the program")
    begin()
    until(lambda: x.can_grab("b"), "time to give it up")
    x.press("b")
    until(lambda: typed.read_text() == "bcb", "the key to be the program's again")
    assert x.active() == "XTerm"
    assert one.stop() == 0


@pytest.mark.usefixtures("listening")
def test_locks_make_no_difference(x: XServer) -> None:
    x.open("BerthBoard")
    for lock in ("caps", "num", "scroll"):
        x.press(lock)
        x.open("RadioLog")
        until(lambda: x.active() == "RadioLog", "another window in front")
        x.press("super+b")
        until(lambda: x.active() == "BerthBoard", f"the chord with {lock} lock on")
    for lock in ("caps", "num", "scroll"):
        x.press(lock)


def test_chords_that_another_program_holds_are_reported(x: XServer, x_office: Office) -> None:
    other = x.connect()
    code = x.keycode(ord("b"))
    other.core.GrabKey(False, other.setup.roots[0].root, 64, code, 1, 1, is_checked=True).check()
    one = Listening(x_office)
    try:
        assert one.says().count("cannot be used") == 1
        assert "super+b cannot be used: another program holds it" in one.says()
        other.disconnect()
        x_office.jaklet("reload")
        x.press("super+b")
        until(lambda: x.active() == "BerthBoard", "the chord once it is free")
    finally:
        one.stop()


@pytest.mark.usefixtures("listening")
def test_keyboard_mapping_changes_are_followed(x: XServer) -> None:
    """The letter moves to another key; the chord goes with it, and the old key is free."""
    x.open("RadioLog")
    before, after = x.keycode(ord("b")), x.keycode(ord("y"))
    try:
        x.run("xmodmap", "-e", f"keycode {after} = b B", "-e", f"keycode {before} = y Y")
        until(lambda: x.keycode(ord("b")) == after, "the new map")
        until(lambda: x.can_grab("super+y"), "the old key to be free")
        x.press("super+b")
        until(lambda: x.active() == "BerthBoard", "the chord on its new key")
    finally:
        x.run("xmodmap", "-e", f"keycode {before} = b B", "-e", f"keycode {after} = y Y")
        until(lambda: x.keycode(ord("b")) == before, "the old map")


def test_one_listener_per_desk_and_a_private_socket(x_office: Office, listening: Listening) -> None:
    second = x_office.jaklet("listen", status=1)
    assert f"process {listening.process.pid}" in second.stderr
    (socket,) = (x_office.folder / "run" / "jaklet").glob("*.sock")
    assert socket.stat().st_mode & 0o777 == 0o600
    listening.stop(signal.SIGKILL)
    third = Listening(x_office)  # what a killed listener leaves behind is no hindrance
    assert third.stop() == 0
    assert "no listener is running" in x_office.jaklet("reload", status=1).stderr


def test_a_key_held_down_counts_once_and_idling_takes_no_wake_ups(x: XServer, listening: Listening) -> None:
    x.open("BerthBoard", count=3)
    x.press("super+b", hold=1.5)  # the server begins to repeat after 0.66 s, 25 times a second
    listening.until_says("super+b:")
    assert listening.says().count("super+b:") == 1
    status = Path(f"/proc/{listening.process.pid}/status")

    def wakes() -> int:
        return int(re.findall(r"^voluntary_ctxt_switches:\s+(\d+)", status.read_text(), re.MULTILINE)[0])

    until(lambda: _still(wakes), "the listener at rest")


def _still(wakes: Callable[[], int]) -> bool:
    """Whether a second passes without one wake-up."""
    import time

    before = wakes()
    time.sleep(1.0)  # what is measured is that nothing happens in this time
    return bool(before == wakes())


def test_work_areas_frames_limits_and_shadows(x: XServer, x_office: Office) -> None:
    """Bars on both displays, a window with character steps, one with a minimum, one with its own shadow."""
    bars = {"top": "top 40 0 1919", "bottom": "bottom 86 1920 3199"}  # 30 pixels of the lower display
    for bar in bars.values():
        x.open("Bar", "--bar", bar)
    x.open("Ledger", "--step", "9x18")
    x.open("RadioLog", "--least", "900x500")
    x.open("Charts", "--shadow", "24")
    x.open("BerthBoard")
    asked = {
        "place berths left 1/2": ("BerthBoard", (8, 48, 948, 1024)),
        "place berths right 1/2 bottom 1/2 on quay": ("BerthBoard", (2564, 501, 628, 485)),
        "place charts left 1/2": ("Charts", (8, 48, 948, 1024)),
        "place radio right 1/3": ("RadioLog", (1912 - 900, 48, 900, 1024)),
    }
    for sentence, (cls, frame) in asked.items():
        x_office.jaklet("act", sentence)
        assert x.frame(cls) == frame, sentence
    x_office.jaklet("act", "place ledger left 1/2")
    x_, y, width, height = x.frame("Ledger")
    assert (x_, y) == (8, 48)
    assert 0 <= 948 - width < 9
    assert 0 <= 1024 - height < 18
    assert "left 1/2" in re.findall(r"^.*Ledger.*$", x_office.jaklet("desk").stdout, re.MULTILINE)[-1]


def everything(x: XServer) -> dict[tuple[str, str], Seen]:
    return {(seen.cls, seen.title): seen for seen in map(x.see, x.ids())}


def test_saved_and_recalled_by_commands_with_states_and_workspaces(x: XServer, x_office: Office) -> None:
    x.open("BerthBoard", count=2, title="Berths")
    x.open("RadioLog")
    x.open("TideGauge")
    x.open("Stranger")
    for sentence in (
        "place berths left 1/2 top 1/2", "place radio right 1/4 on quay", "maximise tides", "minimise radio",
    ):  # fmt: skip
        x_office.jaklet("act", sentence)
    x_office.jaklet("act", "go berths")

    def order() -> list[str]:
        """Return the order of the windows in view: one that is minimised has none that anybody sees."""
        return [wid for wid in x.ids("_NET_CLIENT_LIST_STACKING") if x.cls(wid) != "RadioLog"]

    wanted, stacked, active = everything(x), order(), x.active_id()
    told = x_office.jaklet("layout", "save", "quiet hour", "--number", "5").stdout
    assert "saved quiet hour (number 5): 5 windows on 2 displays" in told
    for sentence in ("restore tides", "place tides full on quay", "restore radio", "place berths full", "go radio"):
        x_office.jaklet("act", sentence)
    assert everything(x) != wanted
    assert "5 of 5 windows in place" in x_office.jaklet("layout", "recall", "5").stdout
    assert everything(x) == wanted
    assert (order(), x.active_id()) == (stacked, active)
    assert "nothing to move" in x_office.jaklet("layout", "recall", "quiet hour").stdout


@pytest.mark.parametrize("rounds", [12, pytest.param(200, marks=pytest.mark.slow)])
def test_recalls_while_windows_are_destroyed_at_random(x: XServer, x_office: Office, rounds: int) -> None:
    """200 recalls: no crash, no hang, and a report that is true."""
    from jaklet.cli.resources import opened_config
    from jaklet.core.actions.layouts.recall import recall_layout
    from jaklet.core.actions.ports.desktop import Moment
    from jaklet.core.actions.tasks import Task
    from jaklet.desktops.drive import drive_task
    from jaklet.desktops.x11 import connect

    rng = random.Random(4)
    killer = x.connect()
    spare = [x.open(cls, count=2) for cls in ("BerthBoard", "RadioLog", "TideGauge", "Ledger")]
    assert spare
    os.environ |= {"PATH": x_office.env["PATH"]}
    x_office.jaklet("layout", "save", "storm")
    x_office.config.write_text(x_office.config.read_text().replace("gap: 8", "gap: 8\n  wait: 100ms"))
    desk = connect(x.display)
    ready = opened_config(str(x_office.config))
    layout = ready.shelf.find("storm")
    assert layout
    lines = []
    for round_ in range(rounds):
        doomed = [int(wid, 16) for wid in rng.sample(x.ids(), min(len(x.ids()), rng.choice((0, 0, 1, 2))))]
        moves = [change for change in desk.look().desk.windows if rng.random() < 0.5]
        _scatter(desk, [window.id for window in moves], rng)

        def begin(moment: Moment, doomed: list[int] = doomed) -> Task:
            task = recall_layout(layout, ready.context(desk), moment)
            try:
                ask = next(task)
                while True:
                    if doomed:  # in the midst of it
                        killer.core.DestroyWindow(doomed.pop())
                        killer.flush()
                    ask = task.send((yield ask))
            except StopIteration as end:
                return end.value  # type: ignore[no-any-return]

        outcome = drive_task(desk, begin)
        lines.append(outcome.line)
        assert re.match(r"recalled storm: \d of 8 windows in place", outcome.line)
        count = int(outcome.line.split()[2])
        assert count <= len(x.ids()) + 2
        assert outcome.done == (not outcome.more)
        if round_ % 20 == 19:
            x.open("RadioLog")
    desk.close()
    killer.disconnect()
    assert len(set(lines)) > 3


def _scatter(desk: Desktop, ids: list[int], rng: random.Random) -> None:
    from jaklet.core.values.changes import Move
    from jaklet.core.values.geometry import Rect

    desk.apply([Move(wid, Rect(rng.randrange(1500), rng.randrange(500), 500, 400)) for wid in ids])
