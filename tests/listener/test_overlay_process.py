"""The listener's side of what appears over the windows, with helpers that are no processes."""

from collections.abc import Iterator
from pathlib import Path

import pytest

from jaklet.core.keys.strokes import RELEASED, TypedKey
from jaklet.core.values.desk import Desk, Display
from jaklet.core.values.errors import JakletError
from jaklet.core.values.geometry import Rect
from jaklet.core.values.notices import Notice
from jaklet.core.values.orders import FINDER, WALK, ShowView
from jaklet.listener.control import ControlServer
from jaklet.listener.overlay_process import HelpedScreen

RECT = Rect(0, 0, 800, 600)
DESK = Desk((Display("A", RECT, RECT),))


class FakeHelper:
    """A process that lives until it is killed, or ends by itself with a status."""

    def __init__(self, status: int | None = None) -> None:
        self.status = status

    def poll(self) -> int | None:
        return self.status

    def kill(self) -> None:
        self.status = -9

    def is_stopped(self) -> bool:
        return False

    def wait(self, timeout: float | None = None) -> int:
        return self.status or 0


class Bench:
    def __init__(self, folder: Path) -> None:
        self.started: list[FakeHelper] = []
        self.status: int | None = None
        self.said: list[str] = []
        self.control = ControlServer(folder / "run" / "x.sock", {})
        self.screen = HelpedScreen(self._start, self.said.append)
        self.screen.control = self.control

    def _start(self) -> FakeHelper:
        self.started.append(FakeHelper(self.status))
        return self.started[-1]


@pytest.fixture
def bench(tmp_path: Path) -> Iterator[Bench]:
    one = Bench(tmp_path)
    yield one
    one.control.close()


def test_a_helper_that_cannot_begin_is_told_of_once_and_not_tried_for_every_line(bench: Bench) -> None:
    bench.status = 1
    assert bench.screen.say(Notice("one"), DESK)
    for _ in range(3):
        bench.screen.look()
        assert not bench.screen.works
        assert not bench.screen.say(Notice("two"), DESK)  # it is shown elsewhere
    assert len(bench.started) == len(bench.said) == 1
    bench.status = None  # but a key that asks for it tries again
    assert bench.screen.open(ShowView(FINDER), DESK) == ""
    assert bench.screen.is_open
    assert len(bench.started) == 2


def test_a_helper_begins_beforehand_where_there_is_memory_for_it(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    pages = {"SC_PAGE_SIZE": 4096, "SC_PHYS_PAGES": 500_000}
    monkeypatch.setattr("jaklet.listener.overlay_process.os.sysconf", pages.__getitem__)
    bench.screen.warm()
    assert bench.screen.deadline == float("inf")
    pages["SC_PHYS_PAGES"] = 550_000
    bench.screen.warm()
    late = bench.screen.deadline
    monkeypatch.setattr("jaklet.listener.overlay_process.time.monotonic", lambda: late)
    bench.screen.look()
    assert len(bench.started) == 1


def test_what_is_open_is_lost_with_a_helper_that_does_not_answer(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    bench.screen.open(ShowView(FINDER), DESK)
    assert bench.screen.deadline > 0
    late = bench.screen.deadline
    monkeypatch.setattr("jaklet.listener.overlay_process.time.monotonic", lambda: late)
    bench.screen.look()
    assert (bench.screen.is_open, bench.started[0].status) == (False, -9)
    assert "does not begin" in bench.said[0]
    bench.screen.key(TypedKey("a", "a"))


def test_keys_are_owed_until_the_last_of_them_is_dealt_with(bench: Bench) -> None:
    done: list[str] = []
    screen = bench.screen
    screen.open(ShowView(FINDER), DESK)
    screen.key(TypedKey("a", "a"))
    screen.settled(lambda: done.append("a"))
    screen.answered(1)
    assert (screen.busy, done) == (True, [])
    screen.key(RELEASED)  # nothing waits for that, but a walk
    screen.answered(9)
    assert (screen.busy, done, screen.deadline < float("inf")) == (False, ["a"], True)
    screen.key(TypedKey("escape"))
    screen.settled(lambda: done.append("escape"))
    screen.closed(1)
    assert (screen.is_open, screen.busy, done) == (False, False, ["a", "escape"])  # whatever it does besides
    screen.answered(3)
    screen.open(ShowView(WALK, "windows"), DESK)
    screen.key(RELEASED)
    screen.settled(lambda: done.append("lost"))
    screen.answered(4)
    assert screen.busy
    bench.started[0].status = -9
    screen.look()
    assert (screen.is_open, screen.busy, done[-1]) == (False, False, "lost")


def test_modifiers_are_told_of_once_they_are_held_for_a_while(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    now = [100.0]
    monkeypatch.setattr("jaklet.listener.overlay_process.time.monotonic", lambda: now[0])
    told: list[int] = []
    monkeypatch.setattr(bench.screen, "_tell", lambda **more: told.append(more["modifiers"]))
    bench.screen.hold(4, DESK, 0.8)
    bench.screen.hold(0, DESK)  # a key came: it was held for that
    assert bench.screen.deadline == float("inf")
    bench.screen.hold(4, DESK, 0.8)
    assert bench.screen.deadline == pytest.approx(100.8)
    bench.screen.look()
    assert told == []
    now[0] = 100.8
    bench.screen.look()
    bench.screen.hold(4, DESK, 0.8)
    bench.screen.look()
    bench.screen.hold(0, DESK)
    bench.screen.hold(0, DESK)
    assert told == [4, 0]


def test_nobody_becomes_the_helper_who_was_not_started(bench: Bench) -> None:
    with pytest.raises(JakletError, match="no helper is waited for"):
        bench.screen.came()
    assert HelpedScreen(None, bench.said.append).open(ShowView(FINDER), DESK) == (
        "nothing can be shown over the windows here"
    )
