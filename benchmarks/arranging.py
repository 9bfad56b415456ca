"""Windows that stay arranged: the plan alone, and from a window's map to everything at rest, beside the same requests.

The floor sends the very messages that Jaklet sends, and waits for the window manager's own notifications; the ratio is
of that time, from the first request until the last window has its frame. The whole time has the tenth of a second in it
for which a burst is waited for, and the twentieth in which what has come to rest is watched before that is believed.
"""

import statistics
import time
from collections.abc import Iterable
from time import perf_counter
from typing import Any, Final

import xcffib.xproto as xp
from tests.xserver import XServer

from benchmarks.measure import Row
from benchmarks.placing import made_up
from benchmarks.recalls import NoShelf, Recorder, floor, quiet
from jaklet.core.actions.placing.dividing import join_windows
from jaklet.core.actions.placing.sharing_out import SharingPlan, division_frames
from jaklet.core.language.sharings import parse_sharing
from jaklet.core.values.changes import Change, Move
from jaklet.core.values.config import Config
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import Rect
from jaklet.core.values.sharings import Division, Sharing
from jaklet.desktops.x11 import connect
from jaklet.desktops.x11.desktop import X11Desktop
from jaklet.desktops.x11.requests import ask_for
from jaklet.listener.keeper import KEEPS
from jaklet.listener.reports import Reports
from jaklet.listener.session import ListenerSession

FORMS: Final = ("columns", "grid", "halves", "one large left 2/3")
PLANNED, TIMES = 20, 50
COUNTS: Final = {5: 15, 20: 9, 50: 7}  # windows, and how often one more opens among them


def _sharing(text: str) -> Sharing:
    found = parse_sharing(text).sharing
    assert found is not None
    return found


def planning() -> list[Row]:
    """Measure the plan of each form."""
    windows = {window.id: window for window in made_up(PLANNED)}
    ground = Ground(Rect(0, 30, 7680, 4290), 8, 8)
    result = []
    for form in FORMS:
        division = Division(_sharing(form))
        for wid in windows:  # each opens while one is in front that is there for long, so that halves stay of some use
            division = join_windows(division, [wid], {}, wid // 2, ground)
        times = []
        for _ in range(TIMES):
            start = time.process_time()
            division_frames(division, windows, SharingPlan(ground), {})
            times.append((time.process_time() - start) * 1000)
        name = f"(r) plan of `{form}`, {PLANNED} windows, processor time"
        result.append(Row(name, f"{statistics.median(times):.2f} ms", "", "", "under 1 ms"))
    return result


class _Timed:
    """A session on a real desk that notes when it first asks for something, and what."""

    def __init__(self, x: XServer) -> None:
        self.desktop: X11Desktop = connect(x.display)
        self.asked: list[Change] = []
        self.first = self.last = self.stood = 0.0  # first request; end; when the last window had its frame
        self._apply = self.desktop.apply
        self.desktop.apply = self._noting  # type: ignore[method-assign]
        config = Config(arranged={1: _sharing("grid")})
        self.session = ListenerSession(self.desktop, config, NoShelf(), Reports(self._ended))

    def _noting(self, changes: Iterable[Change], time: int = 0) -> None:
        wanted = [*changes]
        self.first = self.first if self.asked else perf_counter()
        self.asked += wanted
        self._apply(wanted, time)

    def _ended(self, _keys: Any, action: Any, _outcome: Any, _took: float) -> None:
        if action == KEEPS:
            self.last = time.perf_counter()

    def rest(self) -> None:
        """Let it go on until windows have got their shares."""
        self.asked, self.last = [], 0.0
        self.session.step(self.desktop.look())
        frames: list[Rect] = []
        while not self.last:
            moment = self.desktop.wait(min(self.session.deadline, time.monotonic() + 1))
            before, frames = frames, [one.frame for one in moment.desk.windows]
            self.stood = self.stood if before == frames else time.perf_counter()
            self.session.step(moment)


def rows(x: XServer) -> list[Row]:
    """Measure one window more among some that stay arranged, on a real desk."""
    result = []
    for count, rounds in COUNTS.items():
        x.clear()
        x.open("Tally", "--size", "300x200", count=count)
        timed = _Timed(x)
        timed.rest()
        connection = x.connect()
        whole, ours, bare = [], [], []
        for _ in range(rounds):
            before = quiet(timed.desktop)
            start, wid = time.perf_counter(), _mapped(connection)
            timed.rest()
            whole.append((timed.last - start) * 1000)
            ours.append((timed.stood - timed.first) * 1000)
            moves = [one for one in timed.asked if isinstance(one, Move)]
            wanted = timed.desktop.look().desk
            timed.desktop.apply([Move(one.id, one.frame) for one in before.windows])
            timed.desktop.apply([Move(wid, Rect(40, 40, 300, 200))])
            now = quiet(timed.desktop)
            recorder = Recorder(timed.desktop._wire)
            for move in moves:
                ask_for(move, recorder, now, timed.desktop._server_time())  # type: ignore[arg-type]  # stands in for it
            inside = {w.id: w.border.inside(w.frame) for w in wanted.windows if now.by_id[w.id].frame != w.frame}
            bare.append(floor(x, recorder.requests, inside))
            connection.core.DestroyWindow(wid)
            connection.flush()
            timed.rest()
        connection.disconnect()
        timed.desktop.close()
        a, b, all_ = statistics.median(ours), statistics.median(bare), statistics.median(whole)
        name = f"(r) a window more among {count} that stay arranged"
        result += [
            Row(
                f"{name}, from the first request to the last frame",
                f"{a:.1f} ms",
                f"{b:.1f} ms",
                f"{a / b:.2f}",
                "≤ 1.3",
            ),
            Row(f"{name}, from its map until it is read back", f"{all_:.1f} ms", "", "", ""),
        ]
    return result


def _mapped(connection: Any) -> int:
    wid = int(connection.generate_id())
    root = connection.setup.roots[0].root
    connection.core.CreateWindow(0, wid, root, 40, 40, 300, 200, 0, xp.WindowClass.InputOutput, 0, 0, [])
    connection.core.MapWindow(wid)
    connection.flush()
    return wid
