"""Workspaces that stay arranged: laws of their forms, and how they are written."""

import json
from collections.abc import Iterable, Sequence
from fractions import Fraction
from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.actions.placing.arranging import FramePlan
from jaklet.core.actions.placing.dividing import begin_division, join_windows, left_by, resize_window, swap_windows
from jaklet.core.actions.placing.rows import room_of
from jaklet.core.actions.placing.sharing_out import FORMS, SharingPlan, division_frames
from jaklet.core.actions.placing.splitting import cells_of, moved_edge, split_row
from jaklet.core.language.kept import kept_from, plain_kept
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.language.sharings import parse_sharing
from jaklet.core.values.desk import Window
from jaklet.core.values.directions import SIDES
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.forms import Ground, PlaceForm
from jaklet.core.values.geometry import Length, Rect, SizeLimits
from jaklet.core.values.sharings import (
    GRID,
    HALVES,
    LARGE,
    PLACES,
    PLAIN_FORMS,
    STACK,
    ArrangedSpot,
    Division,
    KeptArrangements,
    Sharing,
)

sharings = st.one_of(
    st.sampled_from([Sharing(form) for form in PLAIN_FORMS]),
    st.builds(
        Sharing, st.just(LARGE), st.integers(1, 3), st.sampled_from(SIDES),
        st.one_of(st.fractions(Fraction(1, 10), Fraction(9, 10), max_denominator=20).map(Length), st.integers(100, 600).map(lambda px: Length(None, px))), st.none(),
    ),
)  # fmt: skip
grounds = st.builds(
    Ground, st.builds(Rect, st.integers(-500, 2000), st.integers(0, 600), st.integers(900, 4000), st.integers(800, 2200)),
    st.integers(0, 24), st.integers(0, 24),
)  # fmt: skip


def shared_out(windows: Sequence[Window], asked: Sharing, on: Ground, forms: tuple[PlaceForm, ...] = ()) -> FramePlan:
    """Return the shares of windows that come in this order."""
    division = join_windows(Division(asked), [one.id for one in windows], {}, None, on)
    return division_frames(division, {one.id: one for one in windows}, SharingPlan(on, forms), {})


def assert_covered(frames: Iterable[Rect], on: Ground) -> None:
    """Each grown by its gap at the far sides, they are tiles: no two overlap, and nothing is left over."""
    tiles = [Rect(one.x, one.y, one.width + on.gap, one.height + on.gap) for one in frames]
    for one, other in combinations(tiles, 2):
        apart = one.x >= other.right or other.x >= one.right or one.y >= other.bottom or other.y >= one.bottom
        assert apart, (one, other)
    room = room_of(on)
    assert sum(one.width * one.height for one in tiles) == (room.width + on.gap) * (room.height + on.gap)


@given(st.integers(1, 9), sharings, grounds)
def test_shares_cover_the_ground_to_the_pixel_and_stand_a_gap_apart(count: int, asked: Sharing, ground: Ground) -> None:
    windows = [Window(wid) for wid in range(1, count + 1)]
    found = shared_out(windows, asked, ground)
    assert sorted(found.frames) == [window.id for window in windows]
    assert found.notes == ()
    room = room_of(ground)
    for frame in found.frames.values():
        assert (frame.x >= room.x, frame.y >= room.y, frame.right <= room.right, frame.bottom <= room.bottom) == (
            True,
        ) * 4
    if asked.form == STACK:
        assert set(found.frames.values()) == {room}
        return
    assert_covered(found.frames.values(), ground)


@given(st.integers(2, 6), sharings, grounds, st.data())
def test_a_window_with_a_limit_keeps_it_and_the_others_make_room(
    count: int, asked: Sharing, ground: Ground, data: st.DataObject
) -> None:
    least = data.draw(st.integers(200, 400))
    windows = [Window(wid) for wid in range(1, count + 1)]
    odd = data.draw(st.integers(0, count - 1))
    windows[odd] = windows[odd]._replace(limits=SizeLimits(least, 100))
    frames = shared_out(windows, asked, ground).frames
    assert frames[windows[odd].id].width >= least
    assert len(frames) == count


@given(st.integers(2, 8), sharings.filter(lambda one: one.form not in (STACK, GRID)), grounds, st.data())
def test_whatever_comes_goes_and_is_changed_by_hand_the_ground_is_covered(
    count: int, asked: Sharing, ground: Ground, data: st.DataObject
) -> None:
    windows = {wid: Window(wid) for wid in range(1, 20)}
    division, on = join_windows(Division(asked), range(1, count + 1), {}, None, ground), SharingPlan(ground)
    new = count
    for _ in range(data.draw(st.integers(1, 6))):
        frames = division_frames(division, windows, on, {}).frames
        wid = data.draw(st.sampled_from(division.order))
        match data.draw(st.sampled_from(["wider", "higher", "swap", "close", "open"])):
            case "open":
                new += 1
                division = join_windows(division, [new], {}, wid, ground)
            case "close" if len(division.order) > 1:
                others = {one: frame for one, frame in frames.items() if one != wid}
                division = left_by(division, set(division.order) - {wid})
                now = division_frames(division, windows, on, {}).frames
                assert all(now[one].width >= frame.width - 1 for one, frame in others.items()) or asked.form == LARGE
            case "swap":
                other = data.draw(st.sampled_from(division.order))
                division = swap_windows(division, wid, other)
                now = division_frames(division, windows, on, {}).frames
                assert (now[wid], now[other]) == (frames[other], frames[wid])
                assert swap_windows(division, other, wid) == swap_windows(division, wid, other)
            case "wider" | "higher" as way:
                stood, by = frames[wid], data.draw(st.integers(-50, 50))
                size = (stood.width + by, stood.height) if way == "wider" else (stood.width, stood.height + by)
                asked_for = Rect(stood.x, stood.y, *size)
                changed = resize_window(division, wid, stood, asked_for, frames, ground) if by else None
                if (
                    changed is not None
                    and min(asked_for[2:]) > 100
                    and all(min(one[2:]) > 100 for one in frames.values())
                ):
                    division = changed
                    now = division_frames(division, windows, on, {}).frames
                    assert now[wid][2:] == asked_for[2:]  # exactly what the hand gave it
        assert_covered(division_frames(division, windows, on, {}).frames.values(), ground)


@given(st.integers(2, 8), sharings.filter(lambda one: one.form != STACK), grounds)
def test_windows_that_are_split_already_stay_where_they_are_by_halves(
    count: int, asked: Sharing, ground: Ground
) -> None:
    windows = [Window(wid) for wid in range(1, count + 1)]
    frames = shared_out(windows, asked, ground).frames
    division = begin_division(Division(Sharing(HALVES)), frames)
    assert division_frames(division, {one.id: one for one in windows}, SharingPlan(ground), {}).frames == frames


def test_a_new_window_takes_half_of_the_one_in_front_along_its_longer_side() -> None:
    ground = Ground(Rect(0, 0, 1600, 900))
    division = join_windows(Division(Sharing(HALVES)), [1, 2, 3], {}, None, ground)
    division = join_windows(division, [4], {}, 1, ground)
    frames = division_frames(division, {wid: Window(wid) for wid in range(1, 5)}, SharingPlan(ground), {}).frames
    assert frames == {
        1: Rect(0, 0, 800, 450), 4: Rect(0, 450, 800, 450), 2: Rect(800, 0, 800, 450), 3: Rect(800, 450, 800, 450)
    }  # fmt: skip


def test_a_list_of_places_is_filled_in_order_and_the_rest_stand_in_the_last_one() -> None:
    ground = Ground(Rect(0, 0, 1600, 900), 10, 10)
    sharing = parse_sharing("in left 2/3, right 1/3").sharing
    assert sharing is not None
    assert sharing.places is not None
    forms = tuple(one.form for one in sharing.places.alternatives)
    division = join_windows(Division(sharing), [1, 2, 3], {3: 0, 1: 1, 2: 1}, None, ground)
    frames = division_frames(division, {wid: Window(wid) for wid in range(1, 4)}, SharingPlan(ground, forms), {}).frames
    assert frames == {3: forms[0].frame(ground), 1: forms[1].frame(ground), 2: forms[1].frame(ground)}


@given(st.integers(1, 6), sharings, grounds, st.booleans(), st.sets(st.integers(1, 9)))
def test_how_everything_stays_arranged_is_read_back_as_it_was_kept(
    count: int, asked: Sharing, ground: Ground, weighed: bool, floats: set[int]
) -> None:
    division = join_windows(Division(asked), range(1, count + 1), {}, None, ground)
    if weighed:
        division = division._replace(weights={wid: Fraction(wid, 7) for wid in division.order})
    kept = KeptArrangements(
        {ArrangedSpot(1, "DP-1"): asked, ArrangedSpot(2, "DP-1"): None},
        {ArrangedSpot(1, "DP-1"): division},
        frozenset(floats),
    )
    assert kept_from(json.loads(json.dumps(plain_kept(kept)))) == kept


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("columns", Sharing("columns")),
        ("stack", Sharing("stack")),
        ("halves", Sharing(HALVES)),
        ("one large", Sharing(LARGE)),
        ("in desk, right 1/3", Sharing(PLACES, places=parse_place("desk, right 1/3"))),
        ("2 large right", Sharing(LARGE, 2, "right")),
        ("one large up 60%", Sharing(LARGE, 1, "up", Length(Fraction(3, 5)))),
    ],
)
def test_it_is_read_as_it_is_written(text: str, meant: Sharing) -> None:
    assert parse_sharing(text).sharing == meant
    assert parse_sharing(str(meant)).sharing == meant
    assert meant.form in FORMS


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "which form?"),
        ("colums", "'colums' means nothing here"),
        ("one", "'large' is missing here"),
        ("0 large", "'0' is no form"),
        ("one large middle", "'middle' is too much here"),
        ("one large left 1/1", "nothing would be left"),
        ("in left on quay, right", "is about another display"),
        ("in", "which place?"),
        ("rows please", "'please' is too much here"),
        ("one large left 1/2 wide", "'wide' is too much here"),
    ],
)
def test_slips_are_told(text: str, said: str) -> None:
    with pytest.raises(SentenceError, match=said):
        parse_sharing(text)


@pytest.mark.parametrize(("by", "wide"), [(200, 600), (260, 660), (261, 660), (900, 660), (-360, 40), (-900, 40)])
def test_a_neighbour_gives_no_more_than_the_narrowest_window_at_the_edge_can(by: int, wide: int) -> None:
    """Beside a window of 400 pixels stand 300 and 400 above 700; each keeps 40 pixels, so that 260 can be given."""
    tree = split_row([1, split_row([split_row([2, 3], True), 4], False)], True)
    cells = {
        1: Rect(0, 0, 400, 600), 2: Rect(400, 0, 300, 300), 3: Rect(700, 0, 400, 300), 4: Rect(400, 300, 700, 300),
    }  # fmt: skip
    changed = moved_edge(tree, 1, cells[1], Rect(0, 0, 400 + by, 600), cells, 0)
    assert changed is not None
    assert cells_of(changed, Ground(Rect(0, 0, 1100, 600), 0, 0))[1].width == wide
