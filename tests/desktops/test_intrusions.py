"""Others who give the focus away, move windows and fight for them, in the midst of what our keys ask for."""

import random
import signal
import struct
import time
from collections import deque
from collections.abc import Iterator
from typing import Any

import pytest
import xcffib.xproto as xp
import xcffib.xtest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.values.changes import Focus
from jaklet.core.values.geometry import Rect
from jaklet.desktops.x11.pending import PendingRequests
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import KEYSYMS, XServer, until

WINDOWS = st.integers(1, 3)
deeds = st.lists(st.tuples(st.sampled_from(["ours", "theirs", "manager", "event"]), WINDOWS), max_size=40)


@given(deeds)
def test_the_window_in_front_is_what_was_asked_or_done_last(todo: list[tuple[str, int]]) -> None:
    """A window manager deals with requests in order; what it tells arrives later, and keys come at any moment."""
    pending, answered, sent = PendingRequests(), 0, 0
    queue: deque[tuple[str, int, int]] = deque()  # requests on their way to the manager
    events: deque[tuple[str, int]] = deque()  # what it tells, on its way to us
    active = shown = 0
    for deed, window in [*todo, *[("manager", 0)] * 40, *[("event", 0)] * 80]:
        if deed == "ours":
            sent += 1
            pending.ask_focus(Focus(window), sent)
            queue.append(("ours", window, sent))
        elif deed == "theirs":
            queue.append(("theirs", window, 0))
        elif deed == "manager" and queue:
            who, window, number = queue.popleft()
            if window != active:
                active = window
                events.append(("active", window))
            if who == "ours":
                events.append(("answer", number))
        elif deed == "event" and events:
            kind, value = events.popleft()
            if kind == "answer":
                answered = value
            else:
                pending.told_of_focus(answered)
                shown = value
                pending.is_active(shown)
        front = pending.aimed or shown
        unserved = [window for who, window, _ in queue if who == "ours"]
        if unserved:
            assert front == unserved[-1]  # quick keys go on from what was asked last
        elif not queue and not events and sent == answered and pending.aimed is not None:
            assert front == active  # as it would be said once the desk is at rest
    assert not queue
    assert (pending.aimed or shown) == active


@given(st.lists(st.tuples(st.booleans(), st.integers(0, 5)), max_size=20))
def test_a_frame_that_others_changed_after_ours_is_theirs(todo: list[tuple[bool, int]]) -> None:
    pending, sent = PendingRequests(), 0
    for ours, x in todo:
        if ours:
            sent += 1
            pending.ask_frame(1, Rect(x, 0, 10, 10), sent)
            pending.told_of_frame(1, sent - 1)  # the manager is at it
            assert pending.in_flight.moving == {1: Rect(x, 0, 10, 10)}
        else:
            pending.told_of_frame(1, sent)
            assert pending.in_flight.moving == {}


class Others:
    """A connection of another program, and the fastest reading of the active window that there is."""

    def __init__(self, x: XServer) -> None:
        self.connection = x.connect()
        self.core, self.root = self.connection.core, self.connection.setup.roots[0].root
        self.atom = int(self.core.InternAtom(False, 18, "_NET_ACTIVE_WINDOW").reply().atom)
        self.fake: Any = self.connection(xcffib.xtest.key).FakeInput
        self.codes = {name: x.keycode(KEYSYMS.get(name) or ord(name)) for name in ("super", "b", "left")}

    def active(self) -> int:
        reply = self.core.GetProperty(False, self.root, self.atom, 0, 0, 1).reply()
        return int(struct.unpack("=I", reply.value.buf())[0]) if reply.value_len else 0

    def activate(self, wid: int) -> None:
        event = struct.pack("=BBHII5I", 33, 32, 0, wid, self.atom, 2, 0, 0, 0, 0)
        mask = xp.EventMask.SubstructureRedirect | xp.EventMask.SubstructureNotify
        self.core.SendEvent(False, self.root, mask, event)
        self.connection.flush()

    def tap(self, *names: str) -> None:
        for kind, order in ((2, names), (3, names[::-1])):
            for name in order:
                self.fake(kind, self.codes[name], 0, 0, 0, 0, 0)
        self.connection.flush()


@pytest.fixture
def listening(x_office: Office) -> Iterator[Listening]:
    one = Listening(x_office)
    yield one
    one.stop(signal.SIGKILL)


def test_a_place_key_moves_the_window_that_somebody_else_brought_to_the_front(
    x: XServer, x_office: Office, listening: Listening
) -> None:
    """As soon as the server says that it is active, and at random times after our own keys."""
    x.open("BerthBoard", count=3)
    x.open("RadioLog")
    others, dice = Others(x), random.Random(5)
    radio = int(x.of_class("RadioLog")[0], 16)
    boards = x.of_class("BerthBoard")
    for turn in range(12):
        x_office.jaklet("act", f"place radio at {40 + turn},200 size 500x400")
        frames = [x.see(wid).frame for wid in boards]
        for _ in range(3):
            others.tap("super", "b")
        # Each key is at the window manager; what it has made of them may still be on its way.
        until(lambda: listening.says().count("super+b:") >= 3 * turn + 3, "our keys")  # noqa: B023
        time.sleep(dice.choice([0.0, 0.001, 0.01, 0.03, 0.1]))  # as a hand does, with or without a pause
        others.activate(radio)
        while others.active() != radio:
            pass
        others.tap("super", "left")
        until(lambda: x.see(hex(radio)).frame == (8, 8, 1267, 1064), f"the window that is active, turn {turn}")
        assert [x.see(wid).frame for wid in boards] == frames
    assert listening.stop() == 0


FIGHTER = """
import sys, time, xcffib, xcffib.xproto as xp
connection = xcffib.connect()
wid, at = int(sys.argv[1], 16), 0
print("fighting", flush=True)
while True:
    at = 1 - at
    mask = xp.ConfigWindow.X | xp.ConfigWindow.Y | xp.ConfigWindow.Width | xp.ConfigWindow.Height
    connection.core.ConfigureWindow(wid, mask, [300 + at, 200, 400 + at, 300])
    connection.flush()
    time.sleep(0.015)
"""


@pytest.mark.parametrize("action", ["place left 1/2", "spread columns", "undo", "recall one"])
def test_no_action_takes_long_where_a_window_never_comes_to_rest(action: str, x: XServer, x_office: Office) -> None:
    import subprocess
    import sys

    x.open("BerthBoard")
    x.open("RadioLog")
    x_office.jaklet("layout", "save", "one")
    x_office.jaklet("act", "place right 1/2")
    command = [sys.executable, "-c", FIGHTER, x.of_class("RadioLog")[0]]
    fighter = subprocess.Popen(command, env=x.env, stdout=subprocess.PIPE)
    assert fighter.stdout is not None
    fighter.stdout.readline()
    x_office.jaklet("act", "focus radio", status=None)
    began = time.monotonic()
    floor = time.monotonic()
    x_office.jaklet("desk")
    floor = time.monotonic() - floor  # a command of this machine, on this day
    began = time.monotonic()
    x_office.jaklet("act", action, status=None)
    assert time.monotonic() - began < 3.0 + 2 * floor
    fighter.kill()
    fighter.wait()
    fighter.stdout.close()


def test_a_window_that_comes_to_the_front_before_the_barrier_is_no_answer_to_ours() -> None:
    """It may be one of before; once the barrier is answered, it was put there after ours."""
    pending = PendingRequests()
    pending.ask_focus(Focus(1), 1)
    pending.told_of_focus(0)
    assert pending.is_active(9) == [(9, False)]
    assert [pending.aimed] == [1]
    pending.told_of_focus(1)
    assert [pending.aimed] == [1]
    assert pending.is_active(9) == [(1, False), (9, False)]
    assert [pending.aimed] == [None]
