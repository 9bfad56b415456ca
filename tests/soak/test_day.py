"""A working day of eight hours, pressed in its order as fast as the desk follows, on three desks: `make soak`.

What long use shows and a short test does not: memory, files and times that grow, a recall that was right in the
morning, a key that stays down. The figures are printed.
"""

import signal
import statistics
import subprocess
import sys
import time
from collections import Counter
from functools import partial
from pathlib import Path
from typing import NamedTuple

import pytest

from jaklet.listener.control_client import request
from tests.listener.test_x11 import Listening
from tests.soak.desks import GrowingText, SoakDesk, office_on, opened
from tests.soak.made_day import BINDINGS, KEYS, LAYOUTS, MOST_OPEN, TELLS, TOLD, VISITOR, Deed, made_day
from tests.xserver import Seen, until

pytestmark = [pytest.mark.slow, pytest.mark.timeout(3600)]
OFFICE = ("BerthBoard", "RadioLog", "TideGauge", "Ledger")
GROWTH = 2.0  # MB that the listener may grow by once it has seen everything
SLOWER = 1.3  # times the processor time of a key in the morning that one may take in the evening
LOG = "listener.log"  # is begun anew when it is large
LARGEST_LOG = 1_000_000
OFTEN = 10  # deeds after which the machine's pace is looked at again
PACE = 200_000  # additions by which the machine's pace is known


class Tenth(NamedTuple):
    """How a listener stands after a tenth of the day: processor time a key in ms, memory in MB, files with their sizes.

    `pace`: the machine's own in that time, as the ms that a fixed piece of work took.
    """

    a_key: float
    pace: float
    memory: float
    helper: float
    files: dict[str, int]

    def __str__(self) -> str:
        sizes = f"files {sum(self.files.values()):,} bytes"
        return f"{self.a_key:.2f} ms a key, {self.memory:.1f} MB, helper {self.helper:.1f} MB, {sizes}"


class Day:
    """A listener, a hand, and what was seen so far."""

    def __init__(self, desk: SoakDesk, folder: Path) -> None:
        self.desk, self.office = desk, office_on(desk, folder, BINDINGS)
        self.visitors: list[subprocess.Popen[bytes]] = []
        self.saved: dict[str, tuple[dict[str, tuple[int, int, int, int]], str]] = {}
        self.has_two = True
        self.edits = 0
        self.counts: Counter[str] = Counter()

    def begin(self) -> None:
        """Start the listener and the office, and save the two layouts."""
        self.listening = Listening(self.office)
        self.log = GrowingText(self.listening.log, lambda: self.listening.process.poll() is None)
        (self.socket,) = (Path(self.office.env["XDG_RUNTIME_DIR"]) / "jaklet").glob("*.sock")
        for key in ("super+b", "super+r", "super+t", "super+g"):
            self.strike(key)
        for number in range(1, LAYOUTS + 1):
            first, *others = OFFICE if number == 1 else OFFICE[::-1]
            names = {"BerthBoard": "berths", "RadioLog": "radio", "TideGauge": "tides", "Ledger": "ledger"}
            for cls, place in zip(
                (*others, first), ("right 1/3", "full on quay", "top left 1/4", "left 2/3"), strict=True
            ):
                self.office.jaklet("act", f"place {names[cls]} {place}")
            self.office.jaklet("act", f"focus {names[first]}")
            until(partial(self.is_in_front, first), f"{first} in front")
            self.office.jaklet("act", f"save {number}")
            self.saved[f"super+{number}"] = {cls: self.desk.x.frame(cls) for cls in OFFICE}, first

    def is_in_front(self, cls: str) -> bool:
        """Return whether a window of a class has the focus."""
        return self.desk.x.active() == cls

    def strike(self, *keys: str) -> str:
        """Press keys, each when the one before has been told of; return the line of the last one."""
        line = ""
        for key in keys:
            self.desk.tap(key)
            line = self.log.until(TOLD.get(key, f"{key}: "))
        return line

    def do(self, deed: Deed) -> None:
        """Do a deed, and see that it was done."""
        self.counts[deed.what] += 1
        self.counts["keys"] += len(deed.keys)
        getattr(self, f"_{deed.what}")(deed)

    def _key(self, deed: Deed) -> None:
        self.strike(*deed.keys)

    def _recall(self, deed: Deed) -> None:
        line = self.strike(*deed.keys)
        assert ": recalled " in line, line
        if not self.has_two:
            return
        assert f"{len(OFFICE)} of {len(OFFICE)} windows" in line, line
        frames, front = self.saved[deed.keys[0]]
        x = self.desk.x

        def stands() -> bool:
            seen: dict[str, Seen] = {cls: x.see(x.of_class(cls)[0]) for cls in OFFICE}
            return {cls: one.frame for cls, one in seen.items()} == frames and x.active() == front

        until(stands, f"{line}: {frames}, {front} in front; there are {[x.frame(cls) for cls in OFFICE]}, {x.active()}")

    def _open(self, deed: Deed) -> None:
        if len(self.visitors) >= MOST_OPEN:
            self._close(deed)
        before = len(self.desk.x.of_class(VISITOR))
        command = [
            sys.executable,
            "-m",
            "jaklet.demo.windows",
            "--class",
            VISITOR,
            "--title",
            f"visitor {self.counts[deed.what]}",
        ]
        self.visitors.append(subprocess.Popen([*command, "--size", "500x300"], env=self.desk.env))
        until(lambda: len(self.desk.x.of_class(VISITOR)) > before, "a window more")

    def _close(self, _: Deed) -> None:
        if self.visitors:
            before = len(self.desk.x.of_class(VISITOR))
            one = self.visitors.pop(0)
            one.kill()
            one.wait()
            until(lambda: len(self.desk.x.of_class(VISITOR)) < before, "a window less")

    def _display(self, _: Deed) -> None:
        self.has_two = not self.has_two
        self.desk.second_display(self.has_two)
        count = 2 if self.has_two else 1
        until(lambda: len(request(self.socket, "desk")["displays"]) == count, f"{count} displays")
        if self.has_two:
            self.log.until("run: start of day is done")  # by an event of the office's config

    def _reload(self, _: Deed) -> None:
        """Edit a note, and the same key's text, and have it read."""
        before, self.edits = self.edits, self.edits + 1
        at = TELLS + "." * before
        self.office.edit(f'"{at}"', f'"{at}."')
        assert self.office.jaklet("reload").returncode == 0
        assert at + "." in self.strike("super+alt+y")

    def _sleep(self, _: Deed) -> None:
        """Let the machine sleep: the listener stands still while the world goes on."""
        self.listening.process.send_signal(signal.SIGSTOP)
        self.desk.tap("super+b")
        self.listening.process.send_signal(signal.SIGCONT)
        self.log.until("super+b: ")

    def _manager(self, _: Deed) -> None:
        self.desk.replace_manager()
        self.strike("super+alt+y")
        until(lambda: all(self.desk.x.of_class(cls) for cls in OFFICE), "the office's windows")

    # --- what is measured ---

    def used(self) -> float:
        """Return the processor time of the listener's threads, in seconds (proc(5), schedstat)."""
        tasks = Path(f"/proc/{self.listening.process.pid}/task").glob("*/schedstat")
        return sum(int(one.read_text().split()[0]) for one in tasks) / 1e9

    def rests(self) -> None:
        """Wait until nothing is under way."""
        until(lambda: not request(self.socket, "status")["under_way"], "the end of all tasks")

    def tenth(self, a_key: float, paces: float) -> Tenth:
        """Return how the listener stands now."""
        state = Path(self.office.env["XDG_STATE_HOME"])
        files = {str(one.relative_to(state)): one.stat().st_size for one in state.rglob("*") if one.is_file()}
        return Tenth(a_key, paces, _memory(self.listening.process.pid), _memory(self._helper()), files)

    def _helper(self) -> int:
        listener = self.listening.process.pid
        found = Path(f"/proc/{listener}/task/{listener}/children").read_text().split()
        return next((int(pid) for pid in found if b"overlay" in Path(f"/proc/{pid}/cmdline").read_bytes()), 0)


def _memory(pid: int) -> float:
    """Return the resident memory of a process, in MB; 0 without one."""
    if not pid:
        return 0.0
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return int(next(line for line in lines if line.startswith("VmRSS")).split()[1]) / 1024


def pace() -> float:
    """Return how long a fixed piece of work takes on this machine now, in seconds of processor time."""
    start, total = time.process_time(), 0
    for number in range(PACE):
        total += number
    return time.process_time() - start


@pytest.mark.parametrize("name", ["metacity", "xfwm4", "kwin_wayland"])
def test_a_day_leaves_nothing_behind(name: str, tmp_path: Path, soak_keys: int) -> None:
    with opened(name, tmp_path) as desk:
        day = Day(desk, tmp_path)
        day.begin()
        deeds = made_day(7, soak_keys, managers=0 if name == "kwin_wayland" else 2)
        tenths: list[Tenth] = []
        size = len(deeds) // 10 + 1
        for part in (deeds[start : start + size] for start in range(0, len(deeds), size)):
            before, paces = day.used(), []
            for number, deed in enumerate(part):
                day.do(deed)
                if number % OFTEN == 0:
                    paces.append(pace())
            day.rests()
            keys = sum(len(deed.keys) for deed in part)
            tenths.append(day.tenth((day.used() - before) * 1000 / keys, statistics.mean(paces) * 1000))
            print(f"{name}: {part[-1].hour:.1f} h, {tenths[-1]}")
        morning, evening = (statistics.mean(one.a_key / one.pace for one in some) for some in (tenths[:3], tenths[-3:]))
        print(f"{name}: {dict(day.counts)}; a key in the evening: {evening / morning:.2f} times one in the morning")
        while day.visitors:
            day._close(Deed(0, "close"))
        rest = request(day.socket, "status")
        assert not rest["layer"]
        assert not rest["keyboard"]
        assert desk.holds_nothing()
        assert "Traceback" not in day.listening.says()
        assert day.listening.stop() == 0
        first, noon, last = tenths[0], tenths[len(tenths) // 2], tenths[-1]
        assert last.memory <= first.memory + GROWTH
        assert last.helper <= noon.helper + GROWTH  # which keeps the pictures of what it has shown, each once
        assert evening <= morning * SLOWER
        for file in last.files:
            sizes = [tenth.files.get(file, 0) for tenth in tenths]
            if file.endswith(LOG):
                assert sizes[-1] <= LARGEST_LOG
            elif soak_keys >= KEYS:  # a shorter day ends before anything has to be trimmed
                assert not sizes[2] < sizes[5] < sizes[-1], (file, sizes)
