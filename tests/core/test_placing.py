"""Laws of placing several windows, on simulated desks of any shape: exact, reversible, never lost."""

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from itertools import combinations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jaklet.core.actions.begin import begin
from jaklet.core.actions.placing.lost import GRIP, STRIP, is_lost, lost_windows, stepped_frames
from jaklet.core.actions.placing.rows import laid_out, order_by_rows, row_lengths, side_by_side
from jaklet.core.actions.placing.sharing import share_length
from jaklet.core.actions.placing.shifting import shrunk_frame
from jaklet.core.actions.tasks import TaskContext, TaskOutcome
from jaklet.core.language.actions import parse_action
from jaklet.core.values.assigning import cheapest_columns
from jaklet.core.values.changes import Reshape
from jaklet.core.values.config import Config, Settings
from jaklet.core.values.desk import Desk, Display, Window, WindowShape
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import NO_LIMITS, Insets, Length, Rect, SizeLimits, Strut, work_area
from jaklet.desktops.drive import drive_task
from jaklet.desktops.tabletop.desktop import Tabletop
from jaklet.desktops.tabletop.room import Program, Room
from jaklet.rehearsal.memory import RehearsedHistory
from tests.core.test_recall import Shelf
from tests.strategies import limits

PLAIN = Program(name="plain", cls="Plain", instance="plain", title="Plain")


class World:
    """A tabletop, and a hand on it."""

    def __init__(self, displays: tuple[Display, ...], config: Config | None = None) -> None:
        self.room = Room(displays, {"plain": PLAIN})
        self.config = config or Config()
        self.history = RehearsedHistory()
        self.desktop = Tabletop(self.room)

    def open(self, **seen: object) -> int:
        frame = seen.pop("frame", None)
        assert frame is None or isinstance(frame, Rect)
        return self.room.add(PLAIN, frame, None, **seen)

    def act(self, sentence: str) -> TaskOutcome:
        context = TaskContext(self.config, Shelf(), history=self.history)
        return drive_task(self.desktop, lambda moment: begin(parse_action(sentence), context, moment))

    @property
    def desk(self) -> Desk:
        return self.desktop.look().desk

    def frames(self) -> list[Rect]:
        return [window.frame for window in self.desk.windows]


def _display(index: int, x: int, y: int, width: int, height: int, bar: int) -> Display:
    rect = Rect(x, y, width, height)
    return Display(
        f"D{index}", rect, work_area(rect, [Strut("top", rect._replace(height=bar))] if bar else []), index == 0
    )


@st.composite
def displays(draw: st.DrawFn) -> tuple[Display, ...]:
    """Draw one to three displays of unequal size, from left to right, with negative origins and room between them."""
    x, found = draw(st.integers(-4000, 500)), []
    for i in range(draw(st.integers(1, 3))):
        width, height = draw(st.integers(640, 3000)), draw(st.integers(480, 2000))
        found.append(_display(i, x, draw(st.integers(-1500, 800)), width, height, draw(st.sampled_from([0, 0, 27]))))
        x += width + draw(st.sampled_from([0, 0, 311]))
    return tuple(found)


frames = st.builds(
    Rect, st.integers(-6000, 9000), st.integers(-3000, 4000), st.integers(60, 2500), st.integers(40, 1800)
)
borders = st.sampled_from([Insets(), Insets(1, 1, 24, 3), Insets(-20, -20, -16, -24)])
windows = st.lists(
    st.fixed_dictionaries({
        "frame": frames, "border": borders, "limits": st.just(NO_LIMITS) | limits, "minimised": st.sampled_from([False, False, True]),
        "above": st.sampled_from([False, False, False, True]), "workspace": st.sampled_from([1, 1, 1, 2, None]),
        "shape": st.sampled_from([WindowShape.NORMAL, WindowShape.NORMAL, WindowShape.MAXIMISED, WindowShape.FULLSCREEN]),
    }),
    min_size=1, max_size=7,
)  # fmt: skip
SENTENCES = (
    "place left 2/3", "place right 1/3, right 1/2", "place same place on D0", "place cells B1:C2 of 4x3", "pair left", "pair up 1/3",
    "spread columns", "spread rows", "spread grid", "swap left", "swap last", "nudge right 90px", "stretch down 20%",
    "shrink left 30px", "send to display next", "send to display left", "send to workspace 2", "send to workspace all",
    "gather", "gaps", "maximise", "fullscreen", "minimise", "restore", "keep above",
)  # fmt: skip
GAPPY = Config(Settings(gap=Length(None, 9), rim=Length(Fraction(1, 100)), no_gap_alone=True))


def _set(world: World, seen: list[dict[str, object]]) -> None:
    for one in seen:
        wid = world.open(**one | {"shape": WindowShape.NORMAL})
        world.room.change(Reshape(wid, WindowShape(str(one["shape"]))))


def _state(desk: Desk) -> object:
    return [w._replace(title="") for w in desk.windows], desk.gaps


@given(displays(), windows, st.lists(st.sampled_from(SENTENCES), min_size=1, max_size=4), st.booleans())
def test_undo_brings_every_window_back(
    where: tuple[Display, ...], seen: list[dict[str, object]], sentences: list[str], gaps: bool
) -> None:
    """Plan, then undo, is the identity: frames, shapes, states and workspaces, step by step."""
    world = World(where, GAPPY if gaps else None)
    _set(world, seen)
    states = [_state(world.desk)]
    for sentence in sentences:
        before = len(world.history.steps())
        world.act(sentence)
        if len(world.history.steps()) > before:
            states.append(_state(world.desk))
    assert _state(world.desk) == states.pop()
    while states:
        assert world.act("undo").done
        assert _state(world.desk) == states.pop()
    assert world.act("undo").line == "there is nothing to undo"


@given(
    displays(),
    windows,
    st.sampled_from([s for s in SENTENCES if s.split()[0] in ("place", "pair", "spread", "send", "gather", "nudge")]),
)
def test_no_action_puts_a_window_out_of_reach(
    where: tuple[Display, ...], seen: list[dict[str, object]], sentence: str
) -> None:
    world = World(where, GAPPY)
    _set(world, seen)
    before = {window.id: window for window in world.desk.windows}
    world.act(sentence)
    for window in lost_windows(world.desk):
        moved = window.frame != before[window.id].frame
        assert not moved or is_lost(before[window.id], where), (before[window.id], window)
    if sentence == "gather":
        assert not lost_windows(world.desk)
        assert all(window.minimised is before[window.id].minimised for window in world.desk.windows)


@given(displays(), windows)
def test_gathered_windows_keep_their_size_where_it_fits_and_hide_none(
    where: tuple[Display, ...], seen: list[dict[str, object]]
) -> None:
    world = World(where)
    _set(world, [one | {"shape": WindowShape.NORMAL, "limits": NO_LIMITS} for one in seen])
    lost = lost_windows(world.desk)
    frames = stepped_frames(lost, world.desk)
    for window in lost:
        work = world.desk.display_of(window.frame).work
        frame = frames[window.id]
        if window.frame.width <= work.width - 300 and window.frame.height <= work.height - 300:
            assert frame[2:] == window.frame[2:]
    for behind, front in combinations([frames[window.id] for window in lost], 2):
        assert behind.overlap(front) < behind.width * behind.height
    assert not any(is_lost(window._replace(frame=frames[window.id]), where) for window in lost)


@given(
    st.lists(st.tuples(st.integers(-2000, 4000), st.integers(-2000, 3000)), min_size=1, max_size=12), st.integers(0, 60)
)
def test_gathered_windows_cover_no_title(where: list[tuple[int, int]], bar: int) -> None:
    world = World((_display(0, 0, 0, 2560, 1440, 0),))
    border = Insets(2, 2, bar, 2)
    for x, y in where:
        world.open(frame=Rect(x, y, 700, 500), border=border)
    reachable = [one for one in world.desk.windows if not is_lost(one, world.desk.displays)]
    for one in reachable:  # so that what is in reach covers nothing itself
        for other in reachable:
            assume(one == other or not one.frame.overlap(other.frame))
    world.act("gather")
    desk = world.desk
    rank = {wid: i for i, wid in enumerate(desk.stacking)}
    for one in desk.windows:
        over = [other.frame for other in desk.windows if rank[other.id] > rank[one.id]]
        strip = one.frame._replace(height=bar or STRIP)
        seen = {
            x
            for x in range(strip.x, strip.right)
            if not any(
                f.x <= x < f.right and f.y < strip.y + strip.height // 2 and f.bottom > strip.y + strip.height // 2
                for f in over
            )
        }
        assert len(seen) >= GRIP, one


AREA = Display("D0", Rect(0, 0, 1920, 1080), Rect(0, 30, 1920, 1050))
LOST = [  # frame, border, whether it is lost
    (Rect(100, 100, 400, 300), Insets(), False),
    (Rect(1920 - GRIP, 100, 400, 300), Insets(), False),
    (Rect(1920 - GRIP + 1, 100, 400, 300), Insets(), True),
    (Rect(-400 + GRIP, 100, 400, 300), Insets(), False),
    (Rect(-399 + GRIP - 2, 100, 400, 300), Insets(), True),
    (Rect(100, 1080 - 12, 400, 300), Insets(), False),
    (Rect(100, 1080 - 11, 400, 300), Insets(), True),
    (Rect(100, 30 - 12, 400, 300), Insets(), False),
    (Rect(100, 30 - 13, 400, 300), Insets(), True),
    (Rect(100, 1080 - 18, 400, 300), Insets(1, 1, 36, 1), False),
    (Rect(100, 1080 - 17, 400, 300), Insets(1, 1, 36, 1), True),
    (Rect(100, -250, 400, 300), Insets(), True),  # only its foot is to be seen
    (Rect(1900, 100, 20, 300), Insets(), False),  # it is narrower than a grip
]


@pytest.mark.parametrize(("frame", "border", "lost"), LOST)
def test_lost_is_who_shows_no_grip_of_the_title(frame: Rect, border: Insets, lost: bool) -> None:
    assert is_lost(Window(1, frame=frame, border=border), [AREA]) is lost


# --- sharing ---

sizes = st.integers(0, 3000)
grounds = st.builds(
    Ground, st.builds(Rect, st.integers(-900, 900), st.integers(-900, 900), st.integers(300, 4000), st.integers(300, 3000)),
    st.integers(0, 12), st.integers(0, 20),
)  # fmt: skip
BARE = Insets()
ways = st.sampled_from(["columns", "rows", "grid"])


def _windows(number: int, limit: SizeLimits = NO_LIMITS, border: Insets = BARE) -> list[Window]:
    return [
        Window(i, frame=Rect(37 * i, 53 * i % 700, 300, 200), limits=limit, border=border) for i in range(1, number + 1)
    ]


@given(grounds, st.integers(1, 24), ways)
def test_a_spread_covers_its_ground_exactly(ground: Ground, number: int, way: str) -> None:
    """No hole and no overlap: with its gap at its right and bottom, each window's cell is a tile of the whole."""
    area, gap, rim = ground
    frames = list(laid_out(order_by_rows(_windows(number), way, ground), ground, {}).frames.values())
    room = Rect(area.x + rim, area.y + rim, area.width - 2 * rim, area.height - 2 * rim)
    lengths = row_lengths(number, way, room)
    if min((room.width + gap) // max(lengths), (room.height + gap) // len(lengths)) <= gap + 1:
        return  # there are not so many pixels
    tiles = [Rect(f.x, f.y, f.width + gap, f.height + gap) for f in frames]
    assert all(not one.overlap(other) for one, other in combinations(tiles, 2))
    assert sum(tile.width * tile.height for tile in tiles) == (room.width + gap) * (room.height + gap)
    assert (min(f.x for f in frames), min(f.y for f in frames)) == room[:2]
    assert (max(f.right for f in frames), max(f.bottom for f in frames)) == (room.right, room.bottom)


@given(grounds, st.lists(limits, min_size=1, max_size=9), ways)
def test_with_limits_it_overlaps_only_where_it_says_so(ground: Ground, limits: list[SizeLimits], way: str) -> None:
    windows = [window._replace(limits=limit) for window, limit in zip(_windows(len(limits)), limits, strict=True)]
    planned = laid_out(order_by_rows(windows, way, ground), ground, {})
    tiles = [Rect(f.x, f.y, f.width + ground.gap, f.height + ground.gap) for f in planned.frames.values()]
    overlaps = any(one.overlap(other) for one, other in combinations(tiles, 2))
    assert not overlaps or any("overlap" in note for note in planned.notes)
    for window in windows:
        frame = planned.frames[window.id]
        assert window.limits.fit(frame.width, frame.height) == frame[2:]
    again = [window._replace(frame=planned.frames[window.id]) for window in windows]
    if not overlaps:  # what stands so already stays: the same frames, if not the same order of equal windows
        assert sorted(laid_out(order_by_rows(again, way, ground), ground, {}).frames.values()) == sorted(
            planned.frames.values()
        )


takers = st.lists(st.tuples(st.integers(1, 700), st.integers(0, 900), st.integers(1, 40)), min_size=1, max_size=8)


@given(st.integers(1, 4000), st.integers(0, 20), takers)
def test_what_one_cannot_take_goes_to_the_others(length: int, gap: int, takers: list[tuple[int, int, int]]) -> None:
    """Each has a least and a most size, and some a step. A hole is left only where all who could have are full."""

    def take(least: int, more: int, step: int, offered: int) -> int:
        size = min(least + more, offered)
        return max(least, size - max(0, size - least) % step)

    takes = [partial(take, *one) for one in takers]
    got = share_length(length, gap, takes)
    used = sum(one.size for one in got.stretches) + gap * (len(takers) - 1)
    needed = sum(least for least, _, _ in takers) + gap * (len(takers) - 1)
    assert (got.lacking > 0) == (needed > length)
    assert got.stretches[0].start == 0
    for (least, more, step), one in zip(takers, got.stretches, strict=True):
        assert take(least, more, step, one.size) == one.size
    if needed <= length:
        hole = length - used
        assert hole >= 0
        steppers = [
            step
            for (least, more, step), one in zip(takers, got.stretches, strict=True)
            if one.size + step <= least + more
        ]
        assert all(step > 1 for step in steppers) or hole == 0
        starts = [one.start for one in got.stretches]
        assert starts == [sum(one.size + gap for one in got.stretches[:i]) for i in range(len(starts))]


@given(
    grounds,
    limits | st.just(NO_LIMITS),
    limits | st.just(NO_LIMITS),
    st.sampled_from(["left", "right", "up", "down"]),
    st.fractions(Fraction(1, 8), Fraction(7, 8), max_denominator=9),
)
def test_a_pair_stands_at_both_edges(
    ground: Ground, one: SizeLimits, other: SizeLimits, side: str, share: Fraction
) -> None:
    first, second = Window(1, limits=one), Window(2, limits=other)
    planned = side_by_side(first, second, side, share, ground, {})
    near, far = planned.frames[1], planned.frames[2]
    area, gap, rim = ground
    if side in ("right", "down"):
        near, far = far, near
    if side in ("up", "down"):
        ends = (near.y, far.bottom, far.y - near.bottom)
        room, limited = (area.y + rim, area.bottom - rim), one != NO_LIMITS or other != NO_LIMITS
    else:
        ends = (near.x, far.right, far.x - near.right)
        room, limited = (area.x + rim, area.right - rim), one != NO_LIMITS or other != NO_LIMITS
    if not planned.notes:
        assert ends[:2] == room
        assert ends[2] >= gap
        assert limited or ends[2] == gap


def test_grids_are_as_near_to_squares_as_can_be() -> None:
    wide, tall = Rect(0, 0, 1920, 1080), Rect(0, 0, 1080, 1920)
    assert [row_lengths(n, "grid", wide) for n in range(1, 8)] == [[1], [2], [3], [2, 2], [3, 2], [3, 3], [4, 3]]
    assert [row_lengths(n, "grid", tall) for n in range(1, 5)] == [[1], [1, 1], [1, 1, 1], [2, 2]]


def test_windows_keep_their_order_in_rows_and_columns() -> None:
    """By their middles in a row, and from top to bottom in a column, in whatever order they were opened."""
    world = World((Display("DP-1", Rect(0, 0, 1200, 900), Rect(0, 0, 1200, 900), True),), Config())
    for title, frame in (
        ("wide", Rect(0, 10, 1000, 200)),
        ("left", Rect(90, 500, 200, 300)),
        ("right", Rect(800, 5, 390, 300)),
    ):
        world.open(frame=frame, title=title)

    def order(way: str, edge: Callable[[Rect], int]) -> list[str]:
        assert world.act(f"spread {way}").done
        return [window.title for window in sorted(world.desk.windows, key=lambda window: edge(window.frame))]

    assert order("columns", lambda frame: frame.x) == ["left", "wide", "right"]
    assert order("rows", lambda frame: frame.y) == ["left", "wide", "right"]
    assert [window.frame.height for window in world.desk.windows] == [300] * 3


@given(
    st.integers(1, 6).flatmap(
        lambda n: st.lists(st.lists(st.integers(0, 99), min_size=n, max_size=n), min_size=1, max_size=n)
    )
)
def test_the_assignment_costs_least(costs: list[list[int]]) -> None:
    from itertools import permutations

    found = cheapest_columns(costs)
    assert len(set(found)) == len(costs)
    best = min(
        sum(row[i] for row, i in zip(costs, chosen, strict=True))
        for chosen in permutations(range(len(costs[0])), len(costs))
    )
    assert sum(row[i] for row, i in zip(costs, found, strict=True)) == best


@given(displays(), windows)
def test_swapping_twice_changes_nothing(where: tuple[Display, ...], seen: list[dict[str, object]]) -> None:
    world = World(where)
    for i, one in enumerate(seen):  # without limits, within reach
        frame = one["frame"]
        assert isinstance(frame, Rect)
        area = where[i % len(where)].work
        wide, high = min(frame.width, area.width), min(frame.height, area.height)
        world.open(frame=Rect(area.x + (i * 97) % (area.width - wide + 1), area.y, wide, high))
    before = world.frames()
    first = world.act("swap last")
    if first.done:
        assert world.act("swap last").done
    assert world.frames() == before


@pytest.mark.parametrize(("by", "width"), [(100, 200), (299, 1), (300, 1), (9999, 1)])
def test_what_is_shrunk_keeps_a_pixel(by: int, width: int) -> None:
    ground = Ground(Rect(0, 0, 1000, 800), 0, 0)
    assert shrunk_frame(Window(1), Rect(10, 10, 300, 200), "right", by, ground) == Rect(10, 10, width, 200)


def test_an_edge_that_a_config_keeps_free_is_no_part_of_the_work_area() -> None:
    """One that a bar keeps free as well is not kept free twice."""
    display = Display("DP-1", Rect(0, 0, 1920, 1080), Rect(0, 40, 1920, 1040), True)
    config = Config(displays={"main": "DP-1"}, reserved={"main": Insets(0, 100, 32, 20)})
    world = World((display,), config)
    world.desktop.keep_free(config.kept_free)
    world.open(frame=Rect(0, 0, 300, 300))
    assert world.act("place full").done
    assert world.frames() == [Rect(0, 40, 1820, 1020)]
    world.desktop.keep_free({})
    assert world.act("place full").done
    assert world.frames() == [Rect(0, 40, 1920, 1040)]


def test_a_window_that_keeps_its_size_is_told_of_when_gaps_go() -> None:
    world = World((AREA,), Config(Settings(gap=Length(None, 10))))
    world.open()
    assert world.act("place left 1/2").done
    world.room.programs = {"plain": PLAIN._replace(stubborn=True)}
    end = world.act("gaps off")
    assert not end.done
    assert end.more == ("Plain (Plain) was asked to be 960x1050 at 0,30 and is 945x1030 at 0,30",)
