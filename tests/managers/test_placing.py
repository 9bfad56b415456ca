"""Placing: on one to three unequal displays, beside and above one another, and windows of every temper.

The expected frames are worked out here, with whole numbers and fractions, and what is seen is read with `xwininfo`.
"""

import contextlib
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple

import pytest

from jaklet.core.actions.begin import begin
from jaklet.core.actions.tasks import TaskContext, TaskOutcome
from jaklet.core.language.actions import parse_action
from jaklet.core.values.config import Config, Settings
from jaklet.core.values.geometry import Length
from jaklet.desktops.drive import drive_task
from jaklet.desktops.undo_history import UndoHistory
from jaklet.desktops.x11 import connect
from jaklet.desktops.x11.desktop import X11Desktop
from tests.core.test_recall import Shelf
from tests.managers.reading import Frame, Reading
from tests.managers.starting import NAMED, arrange, chosen, managing, needed
from tests.xserver import NEEDS_OUTPUTS, Head, XServer, until, with_heads

THREE = (Head(0, 0, 1920, 1080), Head(1920, 300, 1280, 1024), Head(3200, 0, 1080, 1700))
ARRANGED = {
    "one": THREE[:1],
    "beside": THREE[:2],
    "above": (Head(0, 0, 1280, 1024), Head(200, 1024, 1920, 1080)),
    "three": THREE,
}
GAP = 6
BARS = ("top 30 0 1919", "bottom 416 2000 2700")  # on the first, from edge to edge; on the second, a part of its edge
TOP, BOTTOM = 30, 40  # what that leaves: a strut counts from the edge of the whole screen, here 1700 high
IN_SHORT = {("metacity", "three"), ("icewm", "above"), ("jwm", "one")}  # what `make test` looks at
CASES = [
    pytest.param(
        (manager, heads), marks=() if NAMED or (name, heads) in IN_SHORT else pytest.mark.slow, id=f"{name}-{heads}"
    )
    for name, manager in chosen().items()
    for heads in ARRANGED
]

pytestmark = NEEDS_OUTPUTS


class Desk(NamedTuple):
    """A server with windows on it, and Jaklet's hand on them."""

    manager: str
    x: XServer
    arranged: str
    desktop: X11Desktop
    history: UndoHistory
    bars: list[Frame]  # of the manager itself

    def act(self, sentence: str, gap: int = 0, goes_back: float = 0.0) -> TaskOutcome:
        """Do one action. `goes_back`: the seconds after which windows have gone back before, as a listener learns them."""
        config = Config(Settings(gap=Length(None, gap)))
        context = TaskContext(config, Shelf(), history=self.history, goes_back=lambda _cls: goes_back)
        self.desktop.wait(0)
        return drive_task(self.desktop, lambda moment: begin(parse_action(sentence), context, moment))

    def focus(self, cls: str) -> None:
        """Go to a window of a class."""
        assert self.act(f"focus window {self.x.of_class(cls)[0]}").done

    @property
    def heads(self) -> int:
        """How many displays there are."""
        return len(ARRANGED[self.arranged])

    def work(self, head: int) -> tuple[int, int, int, int]:
        """Return left, top, right and bottom of a work area: the display, less docks and the bar of the manager itself."""
        x, y, width, height = ARRANGED[self.arranged][head]
        lower = BOTTOM if head == 1 and self.x.of_class("Shelf") else 0
        own = [bar for bar in self.bars if bar[0] < x + width and x < bar[0] + bar[2] and y < bar[1] < y + height]
        lower = max([lower, *(y + height - bar[1] for bar in own if bar[1] + bar[3] == y + height)])
        return x, y + (TOP if head == 0 else 0), x + width, y + height - lower


def can_have(x: XServer, cls: str, frame: tuple[int, ...]) -> bool:
    """Return whether a bare request can give a window this frame."""
    reading = Reading(x)
    window = reading.clients()[cls]
    nothing = (0, 0, 0, 0)
    outer, inner = (reading.words(window, name)[:4] or nothing for name in ("_NET_FRAME_EXTENTS", "_GTK_FRAME_EXTENTS"))
    left, right, top, bottom = (a - b for a, b in zip(outer, inner, strict=True))
    at, down, width, height = frame
    client = (at + left, down + top, width - left - right, height - top - bottom)
    corner = (client[0] - outer[0], client[1] - outer[2], *client[2:])
    try:
        for values in (client, corner):
            for _ in range(2):  # the second time with what it missed by taken off
                reading.core.ConfigureWindow(window, 15, list(values))
                with contextlib.suppress(AssertionError):
                    until(lambda: reading.frame(cls) == frame, "the frame", 1)
                    return True
                x_off, y_off = (is_so - asked for is_so, asked in zip(reading.frame(cls)[:2], frame[:2], strict=True))
                values = values[0] - x_off, values[1] - y_off, *values[2:]
        return False
    finally:
        reading.close()


@pytest.fixture(scope="module", params=CASES)
def server(
    request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[tuple[str, str, XServer, list[Frame]]]:
    manager, arranged = request.param
    needed(manager)
    folder = tmp_path_factory.mktemp("xorg")
    with with_heads("", ARRANGED[arranged], folder) as x, managing(x, manager, folder / "home"):
        arrange(x, ARRANGED[arranged])
        x.open("Bar", "--bar", BARS[0])
        if arranged == "three":
            # A dock between two displays: where windows of the other one are held back by it, it has to go.
            shelf, _ = x.open("Shelf", "--bar", BARS[1]), x.open("Probe")
            if not can_have(x, "Probe", (1200, 540, 600, 500)):
                shelf.kill()
                until(lambda: not x.of_class("Shelf"), "the dock to go")
            x.kill(x.of_class("Probe")[0])
        until(lambda: {x.cls(wid) for wid in x.ids()} <= {"Bar", "Shelf"}, "an empty desk")
        reading = Reading(x)  # while nothing moves: what a manager draws for a moment is no bar
        bars = reading.bars()
        reading.close()
        yield manager.name, arranged, x, bars


@pytest.fixture
def desk(server: tuple[str, str, XServer, list[Frame]], tmp_path: Path) -> Iterator[Desk]:
    manager, arranged, x, bars = server
    desktop = connect(x.display)
    assert isinstance(desktop, X11Desktop)
    yield Desk(manager, x, arranged, desktop, UndoHistory(lambda: tmp_path, desktop.identity()), bars)
    desktop.close()
    for wid in x.ids():
        if x.cls(wid) not in ("Bar", "Shelf"):
            x.kill(wid)
    until(lambda: {x.cls(wid) for wid in x.ids()} <= {"Bar", "Shelf"}, "an empty desk")


SHADOW = (
    "A window with an invisible shadow of its own stands further in at some edges; the answer: the window manager keeps "
    "the invisible shadow on the display, so that it stands further in."
)
HELD_BACK = "Some frames are not to be had by any request; the answer says how the window stands."
FILLS = (
    "A window without a frame that fills a display counts as fullscreen, and is seen where it should be; the answer: "
    "could not make it normal."
)
DOCK = (
    "A dock on an edge between two displays holds windows back on the others; the answer: was asked to be 640x512 at "
    "1280,542 and is 640x512 at 1280,157."
)


def edge(low: int, high: int, share: Fraction) -> int:
    """Return where a share of a stretch ends, rounded half up."""
    return low + (2 * share.numerator * (high - low) + share.denominator) // (2 * share.denominator)


def box(
    area: tuple[int, int, int, int], left: Fraction, top: Fraction, right: Fraction, bottom: Fraction, gap: int = 0
) -> tuple[int, ...]:
    """Return the frame between shares of an area: x, y, width, height. The gap comes off as the manual says."""
    x, y, far, low = area
    inner = (x + gap, y + gap, far, low)
    a, b = edge(inner[0], inner[2], left), edge(inner[1], inner[3], top)
    return a, b, edge(inner[0], inner[2], right) - a - gap, edge(inner[1], inner[3], bottom) - b - gap


ZERO, ONE, HALF, THIRD = Fraction(0), Fraction(1), Fraction(1, 2), Fraction(1, 3)
PLACES = {
    "full": (ZERO, ZERO, ONE, ONE),
    "left 2/3": (ZERO, ZERO, 2 * THIRD, ONE),
    "right 1/3": (2 * THIRD, ZERO, ONE, ONE),
    "left 1/3 bottom 1/2": (ZERO, HALF, THIRD, ONE),
    "cells B2:D3 of 6x4": (Fraction(1, 6), Fraction(1, 4), Fraction(4, 6), Fraction(3, 4)),
}


def stands(x: XServer, wid: str, wanted: tuple[int, ...], told: str) -> None:
    """Wait until a window is where it should be; what else is known of it is told where it does not come there."""
    try:
        until(lambda: x.see(wid).frame == wanted, told, 5)
    except AssertionError as fault:
        raise AssertionError(f"{fault}; it is {x.see(wid)}") from fault


def test_places_are_exact_on_every_display(desk: Desk, limit: Callable[[str], None]) -> None:
    """With a frame, with none, with a shadow or a gravity of its own, from maximised, fullscreen and minimised; with a gap or not."""
    x = desk.x
    x.open("Plain")
    x.open("Shade", "--shadow", "17")
    x.open("Bare", "--no-frame")
    x.open("Static", "--static")
    before = ("maximise", "fullscreen", "minimise", "place left 1/2")
    for i, cls in enumerate(("Plain", "Shade", "Bare", "Static")):
        wid = x.of_class(cls)[0]
        for head in range(desk.heads):
            for k, (place, shares) in enumerate(PLACES.items()):
                gap = GAP if (k + head) % 2 else 0
                desk.focus(cls)
                desk.act(before[(i + head + k) % len(before)])
                if (i + head + k) % len(before) == 2:
                    desk.focus(cls)
                outcome = desk.act(f"place {place} on DUMMY{head}", gap)
                wanted = box(desk.work(head), *shares, gap)
                seen = x.see(wid).frame
                if outcome.done:
                    told = (cls, place, head, gap, before[(i + head + k) % len(before)], wanted, seen)
                    stands(x, wid, wanted, f"{told}: {outcome}")
                    continue
                if seen == wanted and any("could not make" in line for line in outcome.more):
                    limit(FILLS)
                    continue
                # What no request can do is the manager's own limit, and the report has to say how the window stands.
                size, corner = f"{seen[2]}x{seen[3]}", f"{seen[0]},{seen[1]}"
                shadow = any("invisible shadow" in line for line in outcome.more)
                assert shadow or any(f"is {size} at {corner}" in line for line in outcome.more), outcome
                assert not can_have(x, cls, wanted), (outcome, seen, wanted)
                limit(SHADOW if shadow else HELD_BACK)
    if desk.arranged == "three" and not x.of_class("Shelf"):
        limit(DOCK)


def test_a_window_tiled_by_its_manager_is_taken_out_of_that_first(desk: Desk) -> None:
    x = desk.x
    x.open("Plain")
    desk.focus("Plain")
    assert desk.act("place left 1/2 top 1/2 on DUMMY0").done
    x.tile(x.of_class("Plain")[0])
    tiled = x.frame("Plain")
    assert desk.act("place right 1/3 bottom 1/2").done
    assert x.frame("Plain") == box(desk.work(0), 2 * THIRD, HALF, ONE, ONE)
    assert x.see(x.of_class("Plain")[0]).states == set()
    assert desk.act("undo").done
    assert x.frame("Plain") == tiled  # as a window of its own, which no manager holds in place


def test_windows_with_limits_stand_at_the_named_edge(desk: Desk) -> None:
    x = desk.x
    x.open("Steps", "--step", "9x17", "--least", "90x51", "--size", "720x408")
    x.open("Fixed", "--size", "640x480", "--least", "640x480", "--most", "640x480")
    for head in range(desk.heads):
        left, top, right, bottom = desk.work(head)
        assert desk.act(f"focus window {x.of_class('Steps')[0]}").done
        assert desk.act(f"place right 1/3 bottom 1/2 on DUMMY{head}").done
        frame = x.frame("Steps")
        wanted = box((left, top, right, bottom), 2 * THIRD, HALF, ONE, ONE)
        assert (frame[0] + frame[2], frame[1] + frame[3]) == (right, bottom)
        assert 0 <= wanted[2] - frame[2] < 9
        assert 0 <= wanted[3] - frame[3] < 17
        desk.focus("Fixed")
        assert desk.act(f"place right 1/3 on DUMMY{head}").done
        frame = x.frame("Fixed")
        assert (frame[0] + frame[2], frame[1]) == (right, top)


def test_a_window_that_refuses_is_read_back_and_reported(desk: Desk) -> None:
    x = desk.x
    x.open("Mule", "--stubborn", "--size", "500x400")
    x.open("Plain")
    until(lambda: x.active() == "Plain", "the newest window in front")  # some managers see to that a moment later
    desk.focus("Mule")
    told: list[TaskOutcome] = []

    def refuses(action: str) -> bool:
        """Under a slow manager a program gives its size back after the desk has come to rest; then that is known."""
        told.append(desk.act(action, goes_back=0.5 if told else 0.0))
        return any("took no other size" in line for line in told[-1].more)

    def stands_right() -> bool:
        """Its edge is at the display's; where it gave its size back late, the next press sees to that."""
        return refuses("place right 1/2 on DUMMY0") and sum(x.frame("Mule")[::2]) == desk.work(0)[2]

    until(stands_right, "a refusal to be seen")
    outcome = told[-1]
    _, top, right, _ = desk.work(0)
    frame = x.frame("Mule")
    assert not outcome.done
    assert f"Mule (Mule) took no other size than {frame[2]}x{frame[3]}" in outcome.more
    assert (frame[0] + frame[2], frame[1]) == (right, top)
    desk.focus("Plain")
    desk.act("place full on DUMMY0")
    desk.focus("Mule")
    until(lambda: refuses("pair left"), "a refusal to be seen")
    mule, plain = x.frame("Mule"), x.frame("Plain")
    assert mule[0] == desk.work(0)[0]
    assert (mule[0] + mule[2], right) == (plain[0], plain[0] + plain[2])  # what it does not take, the other has


def test_pair_and_spread_cover_a_display_exactly(desk: Desk) -> None:
    x = desk.x
    names = ("One", "Two", "Three", "Four", "Five")
    for name in names:
        x.open(name)
    for head in range(desk.heads):
        area = desk.work(head)
        for name in names:
            desk.focus(name)
            assert desk.act(f"place centre 40% x 40% on DUMMY{head}").done
        assert desk.act("pair left 2/3", GAP).done
        assert x.frame("Five") == box(area, ZERO, ZERO, 2 * THIRD, ONE, GAP)
        assert x.frame("Four") == box(area, 2 * THIRD, ZERO, ONE, ONE, GAP)
        for way, gap in (("columns", 0), ("rows", GAP), ("grid", GAP)):
            assert desk.act(f"spread {way} on DUMMY{head}", gap).done
            frames = sorted(x.frame(name) for name in names)
            if way == "columns":
                wanted = [box(area, Fraction(i, 5), ZERO, Fraction(i + 1, 5), ONE, gap) for i in range(5)]
            elif way == "rows":
                wanted = [box(area, ZERO, Fraction(i, 5), ONE, Fraction(i + 1, 5), gap) for i in range(5)]
            else:
                assert desk.act(f"spread grid on DUMMY{head}", gap).line.endswith("already")
                free = (area[2] - area[0]) * (area[3] - area[1]) - sum((w + gap) * (h + gap) for _, _, w, h in frames)
                edges = 2 * gap * (area[2] - area[0] + area[3] - area[1])
                assert 0 <= free <= edges  # no hole: what is left is the rim
                continue
            assert frames == sorted(wanted)


def test_swap_send_and_undo(desk: Desk) -> None:
    x = desk.x
    x.open("East")
    x.open("West")
    desk.focus("East")
    desk.act("place left 1/3 on DUMMY0")
    desk.focus("West")
    desk.act("place right 2/3 on DUMMY0")
    first, second = x.frame("East"), x.frame("West")
    assert desk.act("swap left").done
    assert (x.frame("East"), x.frame("West")) == (second, first)
    desk.focus("West")  # with some managers the focus follows the pointer, under which a window has gone
    last = desk.heads - 1
    assert desk.act(f"send to display DUMMY{last}").done
    assert x.frame("West") == box(desk.work(last), ZERO, ZERO, THIRD, ONE)
    assert desk.act("maximise").done
    states = x.see(x.of_class("West")[0]).states
    assert states == {"MAXIMIZED_HORZ", "MAXIMIZED_VERT"}
    for _ in range(2 if desk.heads == 1 else 3):  # with one display, sending changed nothing
        assert desk.act("undo").done
    assert (x.frame("East"), x.frame("West")) == (first, second)


def test_alternatives_are_walked_through(desk: Desk) -> None:
    x = desk.x
    x.open("Plain")
    desk.focus("Plain")
    desk.act("place full on DUMMY0")
    shares = [(ZERO, ZERO, HALF, ONE), (ZERO, ZERO, THIRD, ONE), (ZERO, ZERO, 2 * THIRD, ONE)]
    for wanted in (*shares, shares[0]):
        assert desk.act("place left 1/2, left 1/3, left 2/3").done
        assert x.frame("Plain") == box(desk.work(0), *wanted)


def test_a_lost_window_is_gathered_at_its_size(desk: Desk) -> None:
    x = desk.x
    x.open("Plain", "--size", "600x400")
    x.open("Other", "--size", "500x300")
    names = ("Plain", "Other")
    least = {"Plain": (600, 400), "Other": (500, 300)}
    until(lambda: all(x.frame(name)[2:] >= least[name] for name in names), "windows of their sizes")
    sizes = {name: x.frame(name)[2:] for name in names}
    for name in names:
        x.shove(x.of_class(name)[0], -5000, -5000)
    assert not any(_reachable(desk, x.frame(name)) for name in names)
    fresh = connect(x.display)  # no manager tells of a window that was moved behind its back
    outcome = desk._replace(desktop=fresh).act("gather")
    fresh.close()
    assert outcome.done, outcome
    frames = {name: x.frame(name) for name in names}
    assert {name: frame[2:] for name, frame in frames.items()} == sizes
    assert all(_reachable(desk, frame) for frame in frames.values())
    assert len({frame[:2] for frame in frames.values()}) == 2


def _reachable(desk: Desk, frame: tuple[int, ...]) -> bool:
    x, y, width, _ = frame
    for head in range(desk.heads):
        left, top, right, bottom = desk.work(head)
        if min(x + width, right) - max(x, left) >= 48 and top <= y <= bottom - 12:
            return True
    return False
