"""Displays that stay arranged, under a storm of windows that come and go in bursts; read independently.

Who counts the requests: a message to the root window is seen by all who ask for SubstructureNotify there (EWMH).
"""

import contextlib
import random
import time
from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path
from typing import Final

import pytest
import xcffib.xproto as xp

from tests.listener.test_x11 import Listening
from tests.managers.desk import CONFIG, Managed
from tests.managers.reading import GONE, Frame
from tests.xserver import until

GAP: Final = 6
STEP: Final = 17  # pixels, of windows that take no other heights
MOST: Final = 10  # windows at once
ARRANGED: Final = """settings: {gap: 6}
workspaces: {1: {name: bay, arranged: columns}}
"""
SIDE: Final = "side: {name: DUMMY1, arranged: rows}"
QUIET: Final = 0.5  # seconds in which nothing is asked for, after which it is at rest


class Storm:
    """What happens on a desk, and how it stands."""

    def __init__(self, desk: Managed, seed: int) -> None:
        self.desk, self.reading, self.random = desk, desk.reading, random.Random(seed)
        self.number = self.asked = self.opened = 0
        self.connection = desk.x.connect()
        root = self.connection.setup.roots[0].root
        self.connection.core.ChangeWindowAttributes(root, xp.CW.EventMask, [xp.EventMask.SubstructureNotify])
        self.connection.flush()
        self.kind = self.reading.atom("_NET_MOVERESIZE_WINDOW")

    def open(self, count: int) -> None:
        self.number, self.opened = self.number + 1, self.opened + count
        options = self.random.choice([(), (), ("--least", "80x60"), ("--step", f"1x{STEP}")])
        at = self.random.choice(["300x200", "500x400"])
        self.desk.x.open(f"Tally{self.number}", "--size", at, *options, count=count)

    def close(self, count: int) -> None:
        windows = list(self.windows())
        for window in self.random.sample(windows, min(count, len(windows))):
            self.desk.ask(window, "_NET_CLOSE_WINDOW", 0, 2)

    def windows(self) -> Sequence[int]:
        return self.reading.words(self.reading.root, "_NET_CLIENT_LIST")

    def requests(self) -> int:
        """Return how often windows were asked to move since this was asked last."""
        self.connection.core.GetInputFocus().reply()
        found = 0
        while event := self.connection.poll_for_event():
            if isinstance(event, xp.ClientMessageEvent) and event.type == self.kind:
                found += 1
        self.asked += found
        return found

    def frames(self) -> dict[int, Frame]:
        found = {}
        for window in self.windows():
            with contextlib.suppress(*GONE, StopIteration):
                found[window] = self.reading.frame_of(window)
        return found

    def rest(self, main: Frame, side: Frame) -> dict[int, Frame]:
        """Wait until windows share their displays exactly, and nothing more is asked; return how they stand."""
        try:
            until(lambda: self._are_shared(main, side), "an arrangement", 30)
        except AssertionError as fault:
            raise AssertionError(self._told()) from fault
        end = time.monotonic() + QUIET
        until(lambda: time.monotonic() > end, "quiet")
        self.requests()
        end = time.monotonic() + QUIET
        until(lambda: time.monotonic() > end, "quiet")
        assert self.requests() == 0, "windows are moved without end"
        assert self._are_shared(main, side), self._told()
        return self.frames()

    def _told(self) -> str:
        return str(sorted(self.frames().values()))

    def _are_shared(self, main: Frame, side: Frame) -> bool:
        frames = list(self.frames().values())
        left = [one for one in frames if one[0] + one[2] // 2 < side[0]]
        here = [(x - main[0], y - main[1], wide, high) for x, y, wide, high in left]
        there = [(y - side[1], x - side[0], high, wide) for x, y, wide, high in frames if x + wide // 2 >= side[0]]
        return in_a_row(here, main[2], main[3], 0, STEP) and in_a_row(there, side[3], side[2], STEP, 0)


def woken(pid: int) -> int:
    """Return how often a process has begun to wait (proc(5), voluntary_ctxt_switches)."""
    told = Path(f"/proc/{pid}/status").read_text()
    return int(told.partition("\nvoluntary_ctxt_switches:")[2].split()[0])


def less_bars(head: Frame, bars: Sequence[Frame]) -> Frame:
    """Return what the manager's own bars leave of a display: they are at its top or bottom."""
    x, y, width, height = head
    for left, top, _, high in bars:
        if x <= left < x + width:
            y, height = (top + high, height - high) if top <= y else (y, height - high)
    return x, y, width, height


def in_a_row(frames: Sequence[Frame], length: int, across: int, loose: int, loose_across: int) -> bool:
    """True if frames stand beside each other a gap apart, from edge to edge; `loose`: the steps of their sizes."""
    ordered = sorted(frames)
    if not ordered:
        return True
    first, last = ordered[0], ordered[-1]
    return (
        first[0] == GAP
        and all(one[0] + one[2] + GAP == other[0] for one, other in pairwise(ordered))
        and length - GAP - max(0, loose - 1) <= last[0] + last[2] <= length - GAP
        and all(
            one[1] == GAP and across - 2 * GAP - max(0, loose_across - 1) <= one[3] <= across - 2 * GAP
            for one in ordered
        )
    )


@pytest.mark.parametrize(
    "windows",
    [
        12,
        pytest.param(30, marks=pytest.mark.slow),
        pytest.param(1000, marks=[pytest.mark.slow, pytest.mark.timeout(2400)]),
    ],
)
def test_what_comes_and_goes_in_bursts_is_arranged_exactly(desk: Managed, windows: int) -> None:
    config = CONFIG.replace("displays:", ARRANGED + "displays:").replace("side: {name: DUMMY1}", SIDE)
    desk.office.config.write_text(config + "  ctrl+alt+shift+n: send to display next\n")
    listening = Listening(desk.office)
    storm = Storm(desk, windows)
    main, side = (less_bars(one, desk.reading.bars()) for one in ((0, 0, 1280, 1024), (1280, 0, 1024, 768)))
    stood: dict[int, Frame] = {}
    changed = 0
    while storm.opened < windows:
        here = len(storm.windows())
        storm.open(storm.random.randint(1, max(1, MOST - here)) if windows < 1000 else max(1, MOST - here))
        if storm.random.random() < 0.3:
            desk.x.press("ctrl+alt+shift+n")
        stands = storm.rest(main, side)
        changed += sum(stands[one] != stood.get(one) for one in stands)
        storm.close(storm.random.randint(len(stands) // 2, len(stands)))
        stood = storm.rest(main, side)
        changed += sum(stood[one] != stands.get(one) for one in stood)
    # At rest nothing wakes it.
    switches = woken(listening.process.pid)
    end = time.monotonic() + 4 * QUIET
    until(lambda: time.monotonic() > end, "a while at rest")
    assert woken(listening.process.pid) == switches
    # Nearly each request was for a change that was needed; a window that opened wrong is asked once more.
    assert storm.asked <= 1.2 * changed + 12, (storm.asked, changed)
    assert "given in to" not in listening.says()
    assert "Traceback" not in listening.says()
    assert listening.stop() == 0
    storm.connection.disconnect()
