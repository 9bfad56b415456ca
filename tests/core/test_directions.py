"""Focus by direction: the measure's laws, and what a person sees."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.directions import SIDES, SLACK, distance, towards, uncovered_parts
from jaklet.core.values.geometry import Rect

rects = st.builds(Rect, st.integers(-500, 3000), st.integers(-500, 2000), st.integers(1, 1500), st.integers(1, 1200))
sides = st.sampled_from(SIDES)
OPPOSITE = {"left": "right", "right": "left", "up": "down", "down": "up"}
SCREEN = (Display("DP-1", Rect(0, 0, 1920, 1080), Rect(0, 0, 1920, 1080), True),)


def desk(*frames: Rect, recent: tuple[int, ...] = (), stacking: tuple[int, ...] = ()) -> Desk:
    """Return a desk of windows 1, 2, 3 …, the first in front and used last."""
    windows = tuple(Window(i, frame=frame) for i, frame in enumerate(frames, 1))
    ids = tuple(window.id for window in windows)
    return Desk(SCREEN, windows, stacking or ids[::-1], recent or ids, 1)


def go(now: Desk, here: int, *ways: str) -> list[int]:
    """Focus by direction, step by step; return where each step led, 0 for nowhere."""
    went = []
    now = Desk(now.displays, now.windows, now.stacking, (here, *(w for w in now.recent if w != here)), here)
    for way in ways:
        found = towards(now.by_id[here], way, now)
        went.append(found.id if found else 0)
        if found:
            here = found.id
            recent = (here, *(wid for wid in now.recent if wid != here))
            now = Desk(now.displays, now.windows, now.stacking, recent, here)
    return went


@given(rects, rects, sides)
def test_the_measure_is_the_same_there_and_back(here: Rect, there: Rect, side: str) -> None:
    assert distance(here, there, side) == distance(there, here, OPPOSITE[side])


@given(rects, rects, sides)
def test_no_window_is_on_two_opposite_sides(here: Rect, there: Rect, side: str) -> None:
    assert distance(here, there, side) is None or distance(here, there, OPPOSITE[side]) is None


@given(rects, rects, sides, st.integers(-3000, 3000), st.integers(-3000, 3000))
def test_displays_and_their_origins_make_no_difference(here: Rect, there: Rect, side: str, x: int, y: int) -> None:
    moved, other = (rect._replace(x=rect.x + x, y=rect.y + y) for rect in (here, there))
    assert distance(here, there, side) == distance(moved, other, side)


@given(st.lists(rects, min_size=2, max_size=7), sides)
def test_there_and_back_comes_home_where_geometry_allows(frames: list[Rect], side: str) -> None:
    """Home, unless another window is nearer to where one went than home is."""
    now = desk(*frames)
    there = towards(now.by_id[1], side, now)
    assume(there is not None)
    assert there is not None
    used = Desk(
        now.displays, now.windows, now.stacking, (there.id, *(w for w in now.recent if w != there.id)), there.id
    )
    back = towards(there, OPPOSITE[side], used)
    assert back is not None
    if back.id != 1:
        home, found = (distance(there.frame, w.frame, OPPOSITE[side]) for w in (now.by_id[1], back))
        assert home is not None
        assert found is not None
        best = min(d for w in now.windows if w.id != there.id and (d := distance(there.frame, w.frame, OPPOSITE[side])))
        assert found < home
        assert (
            home.out_of_line > best.out_of_line
            or home.pixels > best.pixels + SLACK
            or not uncovered_parts(
                frames[0], (w.frame for w in now.windows if now.stacking.index(w.id) > now.stacking.index(1))
            )
        )


@given(rects, st.lists(rects, max_size=6))
def test_what_covers_leave_is_what_is_outside_of_them(frame: Rect, covers: list[Rect]) -> None:
    left = uncovered_parts(frame, covers)
    assert all(part.overlap(cover) == 0 for part in left for cover in covers)
    assert all(part.overlap(frame) == part.width * part.height > 0 for part in left)
    assert sum(a.overlap(b) for i, a in enumerate(left) for b in left[:i]) == 0
    # One square of an area is in the frame, outside of the covers, exactly if some part has it.
    for x, y in ((frame.x, frame.y), (frame.right - 1, frame.bottom - 1), (frame.x + frame.width // 2, frame.y)):
        dot = Rect(x, y, 1, 1)
        assert bool(sum(part.overlap(dot) for part in left)) == (not any(cover.overlap(dot) for cover in covers))


GAP = 8
MAIN = Rect(0, 0, 1200, 1000)
TOP, BOTTOM = Rect(1200 + GAP, 0, 712, 496), Rect(1200 + GAP, 504, 712, 496)


@pytest.mark.parametrize("stack", [(TOP, BOTTOM), (TOP, BOTTOM._replace(x=BOTTOM.x + 10, width=702))])
def test_beside_a_stack_one_comes_back_to_the_window_one_left(stack: tuple[Rect, Rect]) -> None:
    """Also where its edge is not quite in line, as that of a terminal in whole characters."""
    now = desk(MAIN, *stack)
    assert go(now, 3, "left", "right", "up", "left", "right", "down") == [1, 3, 2, 1, 2, 3]
    assert go(now, 1, "left", "up", "down") == [0, 0, 0]


def test_a_window_in_line_comes_before_a_nearer_one_that_is_not() -> None:
    here, aslant, beyond = Rect(0, 0, 500, 300), Rect(510, 310, 400, 300), Rect(1500, 100, 400, 300)
    assert go(desk(here, aslant, beyond), 1, "right") == [3]
    assert go(desk(here, aslant), 1, "right") == [2]


def test_windows_set_off_from_each_other_are_passed_one_by_one() -> None:
    cascade = [Rect(32 * i, 32 * i, 800, 600) for i in range(4)]
    assert go(desk(*cascade), 1, "right", "right", "right", "right", "left") == [2, 3, 4, 0, 3]
    assert go(desk(*cascade), 1, "down", "down", "up") == [2, 3, 2]


def test_what_cannot_be_seen_is_passed_over() -> None:
    frames = Rect(0, 0, 500, 500), Rect(600, 0, 300, 300), Rect(590, 0, 400, 400), Rect(1100, 0, 300, 300)
    assert go(desk(*frames, stacking=(3, 2, 4, 1)), 1, "right", "right") == [2, 3]
    now = desk(*frames, stacking=(2, 3, 4, 1))
    assert go(now, 1, "right", "right") == [3, 4]
    hidden = now.by_id[4]._replace(minimised=True)
    now = Desk(SCREEN, (*now.windows[:3], hidden), now.stacking, now.recent, 1)
    assert go(now, 3, "right") == [0]
