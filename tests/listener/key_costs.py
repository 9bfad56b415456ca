"""What a press of the commonest keys costs, counted: calls of Python, requests and replies of X, files, bytes.

Counts do not depend on the machine. `test_key_costs.py` holds them to limits, `benchmarks/budget.py` tells them.
"""

import os
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, Final, NamedTuple
from unittest import mock

import xcffib
import xcffib.xtest

from jaklet.checks.run import check_config, shelf_of
from jaklet.config.paths import locate_config
from jaklet.counters.use_counts import UseCounts
from jaklet.desktops.undo_history import UndoHistory
from jaklet.desktops.x11.desktop import X11Desktop
from jaklet.desktops.x11.fixed_requests import Cookie
from jaklet.installed.programs import InstalledPrograms
from jaklet.listener.loop import ListenerLoop, ListenerPorts, Workplace
from jaklet.listener.reload import ConfigSource, LoadedConfig
from tests.xserver import KEYSYMS, XServer

CONFIG: Final = """
settings: {gap: 8, overlay: {hints: off}}
displays: {main: {name: screen}}
apps:
  berths: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
bindings:
  super+left: place left 2/3
  super+right: place right 1/2, right 1/3
  super+n: {do: nudge right 3px, repeat: true}
  super+b: go berths
  super+r: go radio
  super+z: focus last
  super+p: pair left 1/2
  super+w: recall watch
  super+y: enter arrange
  super+t: {do: tell "here", only in: radio}
layers:
  arrange: {bindings: {x: undo}}
"""
LAYOUT: Final = """
layout: watch
number: 1
displays: {main: 1280x800+0+0}
focus: radio
windows:
- {app: berths, display: main, place: left 2/3}
- {app: radio, display: main, place: right 1/3}
"""
REST: Final = 0.12  # seconds without anything to do after which a press is over: the desk itself rests after 0.05
ROUNDS: Final = 2  # of each press the least counts: in how many pieces events come is chance


class Cost(NamedTuple):
    """The cost of a press: calls of Python until the first byte, and until rest; the others are counted until rest."""

    first: int
    calls: int
    requests: int
    replies: int
    files: int
    written: int


# The calls that wait for a reply of the server: ours, and the library's.
WAITS: Final = (Cookie.bytes.__code__, xcffib.Connection.wait_for_reply.__wrapped__.__code__)


class Press(NamedTuple):
    """A row of the table, in words: the keys that are pressed before, and the one that counts.

    Each is pressed with Super, but for those that begin with a dash. `says`: what the listener says of it. `held`: it is
    down already, and this is a repeat of it.
    """

    name: str
    before: tuple[str, ...]
    key: str
    says: str
    held: bool = False


PRESSES: Final = (
    Press("`place`", ("r", "right"), "left", "is at left 2/3"),
    Press("`place` with alternatives", ("r", "left"), "right", "is at right 1/2"),
    Press("`nudge`", ("r", "left", "n"), "n", "is nudged right"),
    Press("`nudge` held, a repeat", ("r", "left"), "n", "is nudged right", held=True),
    Press("`go` to another app", ("r",), "b", "is in front"),
    Press("`go` where it is already", ("b", "b"), "b", "is in front already"),
    Press("`go` back", ("b",), "r", "is in front"),
    Press("`focus last`", ("r",), "z", "is in front"),
    Press("`pair`", ("r", "left"), "p", "is at the left"),
    Press("`recall` with nothing to do", ("w", "w"), "w", "nothing to move"),
    Press("a layer, on", ("-escape",), "y", "layer arrange is on"),
    Press("a layer, off", ("y",), "-escape", "no layer is on"),
    Press("a key with a scope", ("r",), "t", "here"),
)


class Counter:
    """Counts while it is on; `first` is what was counted when the first byte went out."""

    def __init__(self, desktop: X11Desktop) -> None:
        self.calls = self.requests = self.replies = self.files = 0
        self.first: int | None = None
        self.is_on = False
        self._core = desktop._wire.core
        flush = desktop._wire.flush

        def flushed() -> None:
            if self.is_on and self.first is None:
                self.first = self.calls
            flush()

        desktop._wire.flush = flushed  # type: ignore[method-assign]
        sys.addaudithook(self._audited)

    def numbered(self) -> int:
        """Return the number of a request that asks for nothing: the server counts them all (X protocol, section 1)."""
        return int(self._core.NoOperation().sequence)

    def _audited(self, event: str, _words: Any) -> None:
        self.files += self.is_on and event in ("open", "sqlite3.connect")

    def profile(self, frame: Any, event: str, _value: Any) -> None:
        """Count a call of Python, and whether a reply is waited for in it (`sys.setprofile`)."""
        if self.is_on and event == "call":
            self.calls += 1
            self.replies += frame.f_code in WAITS

    def begin(self) -> None:
        """Begin at nothing."""
        self.calls = self.requests = self.replies = self.files = 0
        self.first, self._number = None, self.numbered()

    def end(self) -> None:
        """Count the requests since the beginning."""
        self.requests = self.numbered() - self._number - 1

    @contextmanager
    def counting(self) -> Iterator[None]:
        """Count in here, and what is done beside it."""
        self.is_on = True
        sys.setprofile(self.profile)
        try:
            yield
        finally:
            sys.setprofile(None)
            self.is_on = False


def written() -> int:
    """Return how many bytes this process has written into files and sockets (proc(5), io)."""
    lines = Path("/proc/self/io").read_text().splitlines()
    return int(next(line.split()[1] for line in lines if line.startswith("wchar")))


class Bench:
    """A listener in this process, on an X server with a window manager."""

    def __init__(self, x: XServer, folder: Path) -> None:
        (folder / "jaklet.yaml").write_text(CONFIG)
        (folder / "layouts").mkdir()
        (folder / "layouts/watch.yaml").write_text(LAYOUT)
        path = str(folder / "jaklet.yaml")
        self.x, self.said = x, list[str]()
        self.desktop = X11Desktop.connect(x.display, lambda: folder / "state")
        self.counter = Counter(self.desktop)
        threading.setprofile(self.counter.profile)
        history = UndoHistory(lambda: folder / "state", "x11")
        place = Workplace(self.desktop, self.desktop.chords, "budget", shelf_of(locate_config(path)), history)
        outside = ListenerPorts(self.said.append, use=UseCounts(lambda: folder / "state").add)

        def load() -> LoadedConfig:
            result = check_config(locate_config(path), InstalledPrograms(("berth-board", "radio-log")))
            assert result.usable, result.findings
            return LoadedConfig(result.config, (), (Path(path),))

        self.listener = ListenerLoop(place, ConfigSource(Path(path), load), load(), outside)
        self.listener.begin([])
        self._hand = x.connect()
        self._keys = self._hand(xcffib.xtest.key)

    def rest(self, counts: bool = False) -> None:
        """Go round until there is nothing to do."""
        while True:
            end = self.desktop.look().now + REST
            self._once(end, counts)
            after = self.desktop.look()
            if after.now >= end and after.settled and not self.listener.session.is_busy:
                return

    def _once(self, end: float, counts: bool) -> None:
        """Go round once, and wait no longer than to this time."""
        wait = self.desktop.wait
        self.desktop.wait = lambda until: wait(min(until, end))  # type: ignore[method-assign]
        try:
            if counts:
                with self.counter.counting():
                    self.listener.round()
            else:
                self.listener.round()
        finally:
            self.desktop.wait = wait  # type: ignore[method-assign]

    def strike(self, *edges: tuple[str, bool]) -> None:
        """Press keys, and let them go."""
        for key, down in edges:
            self._keys.FakeInput(2 if down else 3, self.x.keycode(KEYSYMS.get(key) or ord(key)), 0, 0, 0, 0, 0)
        self._hand.flush()
        self._hand.core.GetInputFocus().reply()

    def press(self, key: str, repeated: bool = False) -> Cost:
        """Press a key, and return what that costs until all is at rest again; `repeated`: what its repeat costs."""
        held = [] if key.startswith("-") else ["super"]
        plain = key.removeprefix("-")
        self.rest()
        self.said.clear()
        down = [(one, True) for one in (*held, plain)]
        if repeated:
            self.strike(*down)
            self.rest()
            down = []  # the server repeats the key by itself
        self.counter.begin()
        before = written()
        self.strike(*down)  # they wait until they are read
        while repeated and self.counter.first is None:
            self._once(self.desktop.look().now + REST, counts=True)
        self.rest(counts=True)
        counter = self.counter
        counter.end()
        cost = Cost(
            counter.calls if counter.first is None else counter.first, counter.calls, counter.requests, counter.replies,
            counter.files, written() - before,
        )  # fmt: skip
        self.strike(*((one, False) for one in (plain, *held)))
        self.rest()
        return cost

    def cost(self, press: Press) -> Cost:
        """Return the least cost of a press, in some rounds."""
        found = []
        for _ in range(ROUNDS):
            for key in press.before:
                self.press(key)
            found.append(self.press(press.key, press.held))
            assert any(press.says in line for line in self.said), (press, self.said)
        if self.listener.session.layer:
            self.press("-escape")
        return Cost(*(min(column) for column in zip(*found, strict=True)))

    def close(self) -> None:
        """End it."""
        threading.setprofile(None)
        self.listener.end()
        self.listener.close()
        self._hand.disconnect()
        self.desktop.close()


def costs(x: XServer, folder: Path) -> dict[str, Cost]:
    """Return the cost of each press, by its name."""
    x.clear()
    x.run("xset", "r", "rate", "400", "1")  # late and seldom: between two repeats, the desk has to come to rest
    for cls in ("BerthBoard", "RadioLog"):
        x.open(cls, "--size", "500x400")
    with mock.patch.dict(os.environ, XDG_RUNTIME_DIR=str(folder)):  # where the control socket is
        bench = Bench(x, folder)
    try:
        return {press.name: bench.cost(press) for press in PRESSES}
    finally:
        bench.close()
        x.run("xset", "r", "rate")
