"""A workspace that stays arranged on a real server, with real windows, keys and a hand that drags; read independently."""

import time
from collections.abc import Sequence
from functools import partial
from itertools import pairwise
from typing import Any

import xcffib.xtest

from jaklet.listener.keeper import CALM
from tests.conftest import Office
from tests.listener.test_x11 import Listening
from tests.xserver import XServer, until

CLASSES = ("BerthBoard", "RadioLog", "TideGauge")
GAP = 8


def in_columns(frames: Sequence[tuple[int, int, int, int]]) -> bool:
    """True if frames are equal columns beside each other, a gap apart, all of one height."""
    ordered = sorted(frames)
    widths = [frame[2] for frame in ordered]
    return (
        max(widths) - min(widths) <= 1
        and len({(frame[1], frame[3]) for frame in ordered}) == 1
        and all(one[0] + one[2] + GAP == other[0] for one, other in pairwise(ordered))
        and sum(widths) + GAP * (len(widths) + 1) == 1920
    )


def frames(x: XServer, *classes: str) -> list[tuple[int, int, int, int]]:
    return [x.frame(cls) for cls in classes]


def arranged(x: XServer, *classes: str) -> None:
    until(lambda: all(x.of_class(cls) for cls in classes) and in_columns(frames(x, *classes)), f"columns of {classes}")


def test_real_windows_share_a_display_as_they_come_go_and_are_dragged(x: XServer, x_office: Office) -> None:
    x_office.edit("\nworkspaces:\n", "\nworkspaces:\n  1: {name: desk, arranged: columns}\n")
    x_office.edit("\nbindings:\n", "\nbindings:\n  super+f: float\n  super+k: keep arranged off\n")
    listening = Listening(x_office)
    try:
        for chord, count in (("super+b", 1), ("super+r", 2), ("super+t", 3)):
            x.press(chord)
            arranged(x, *CLASSES[:count])
        order = sorted(CLASSES, key=lambda cls: x.frame(cls))
        assert order == [*CLASSES]  # what comes takes its share behind the others
        x.press("super+g")
        until(lambda: x.of_class("Ledger"), "the ledger")
        arranged(x, *CLASSES, "Ledger")
        x.kill(x.of_class("Ledger")[0])
        arranged(x, *CLASSES)
        # While it is dragged nothing moves; let go over another's share, it takes that.
        connection: Any = x.connect()
        fake = connection(xcffib.xtest.key).FakeInput
        root = connection.setup.roots[0].root

        def pointer(kind: int, detail: int, at: tuple[int, int]) -> None:
            fake(kind, detail, 0, root, *at, 0)
            connection.flush()
            connection.core.GetInputFocus().reply()

        left, _, right = frames(x, *CLASSES)
        grip = (left[0] + left[2] // 2, left[1] + 8)
        pointer(6, 0, grip)  # MotionNotify
        pointer(4, 1, grip)  # ButtonPress
        for step in range(1, 21):
            pointer(6, 0, (grip[0] + (right[0] - left[0]) * step // 20, grip[1] + 40 * step // 20))
        until(lambda: x.frame("BerthBoard")[0] > left[0] + 200, "the window to follow the pointer")
        held = x.frame("BerthBoard")
        later = time.monotonic() + 5 * CALM
        until(lambda: time.monotonic() > later, "more than the time after which it would be put back")
        assert frames(x, *CLASSES[1:]) == [x.frame("RadioLog"), right]
        assert x.frame("BerthBoard")[0] >= held[0] - 5
        pointer(5, 1, (grip[0] + right[0] - left[0], grip[1] + 40))  # ButtonRelease
        until(lambda: x.frame("BerthBoard")[:2] == right[:2], "the share of the other one")
        arranged(x, *CLASSES)
        assert x.frame("TideGauge")[:2] == left[:2]
        # One that floats stands where a key puts it, and the others share what there is.
        x.press("super+b")
        until(lambda: x.active() == "BerthBoard", "the berth board in front")
        x.press("super+right")
        arranged(x, "RadioLog", "TideGauge")
        assert "workspace desk on main: columns" in x_office.jaklet("status").stdout
        x.press("super+f")
        arranged(x, *CLASSES)
        # A layout remembers it, whichever way it is saved; a recall brings it back.
        assert (
            "stays arranged: columns on main, 3 windows"
            in x_office.jaklet("layout", "save", "tide day", "--note", "All three").stdout
        )
        stood = frames(x, *CLASSES)
        x.press("super+h")
        x_office.jaklet("act", "keep arranged rows")
        until(lambda: len({frame[0] for frame in frames(x, *CLASSES)}) == 1, "rows")
        x_office.jaklet("layout", "recall", "tide day")
        assert frames(x, *CLASSES) == stood
        arranged(x, *CLASSES)
        assert "workspace desk on main: columns" in x_office.jaklet("status").stdout
        x.press("super+k")
        until(lambda: "workspace desk on main: columns" not in x_office.jaklet("status").stdout, "an end of it")
        assert "Traceback" not in listening.says()
    finally:
        listening.stop()
        print(listening.says())
        if "connection" in locals():
            connection.disconnect()


def test_programs_that_open_maximised_share_like_any_other(x: XServer, x_office: Office) -> None:
    """Without gaps a manager calls the only window maximised, and the program opens its next one so."""
    x_office.edit("\nworkspaces:\n", "\nworkspaces:\n  1: {name: desk, arranged: columns}\n")
    x_office.edit("gap: 8", "gap: 0")
    listening = Listening(x_office)
    try:
        for count, cls in enumerate(CLASSES, 1):
            x.open(cls, "--maximised")
            shares = [(1920 * i // count, 0, 1920 // count, 1080) for i in range(count)]
            stand = partial(frames, x, *CLASSES[:count])
            until(lambda: stand() == shares, f"{count} columns: {stand()}")  # noqa: B023
            listening.until_says(
                f"workspace desk on main: {count} window{'s' if count > 1 else ''} arranged as columns"
            )
    finally:
        listening.stop()
