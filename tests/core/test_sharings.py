"""Workspaces that stay arranged: laws of their forms, and how they are written."""

from fractions import Fraction
from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.actions.placing.rows import room_of
from jaklet.core.actions.placing.sharing_out import FORMS, shares
from jaklet.core.language.sharings import parse_sharing
from jaklet.core.values.desk import Window
from jaklet.core.values.directions import SIDES
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.forms import Ground
from jaklet.core.values.geometry import Length, Rect, SizeLimits
from jaklet.core.values.sharings import LARGE, PLAIN_FORMS, STACK, Sharing

sharings = st.one_of(
    st.sampled_from([Sharing(form) for form in PLAIN_FORMS]),
    st.builds(
        Sharing, st.just(LARGE), st.integers(1, 3), st.sampled_from(SIDES),
        st.one_of(st.fractions(Fraction(1, 10), Fraction(9, 10), max_denominator=20).map(Length), st.integers(100, 600).map(lambda px: Length(None, px))),
    ),
)  # fmt: skip
grounds = st.builds(
    Ground, st.builds(Rect, st.integers(-500, 2000), st.integers(0, 600), st.integers(900, 4000), st.integers(800, 2200)),
    st.integers(0, 24), st.integers(0, 24),
)  # fmt: skip


@given(st.integers(1, 9), sharings, grounds)
def test_shares_cover_the_ground_to_the_pixel_and_stand_a_gap_apart(count: int, asked: Sharing, ground: Ground) -> None:
    windows = [Window(wid) for wid in range(1, count + 1)]
    found = shares(windows, asked, ground, {})
    assert list(found.frames) == [window.id for window in windows]
    assert found.notes == ()
    room = room_of(ground)
    for frame in found.frames.values():
        assert (frame.x >= room.x, frame.y >= room.y, frame.right <= room.right, frame.bottom <= room.bottom) == (
            True,
        ) * 4
    if asked.form == STACK:
        assert set(found.frames.values()) == {room}
        return
    # Each grown by its gap at the far sides, they are tiles: no two overlap, and nothing is left over.
    tiles = [Rect(one.x, one.y, one.width + ground.gap, one.height + ground.gap) for one in found.frames.values()]
    for one, other in combinations(tiles, 2):
        assert one.x >= other.right or other.x >= one.right or one.y >= other.bottom or other.y >= one.bottom
    whole = (room.width + ground.gap) * (room.height + ground.gap)
    assert sum(one.width * one.height for one in tiles) == whole


@given(st.integers(2, 6), sharings, grounds, st.data())
def test_a_window_with_a_limit_keeps_it_and_the_others_make_room(
    count: int, asked: Sharing, ground: Ground, data: st.DataObject
) -> None:
    least = data.draw(st.integers(200, 400))
    windows = [Window(wid) for wid in range(1, count + 1)]
    odd = data.draw(st.integers(0, count - 1))
    windows[odd] = windows[odd]._replace(limits=SizeLimits(least, 100))
    frames = shares(windows, asked, ground, {}).frames
    assert frames[windows[odd].id].width >= least
    assert len(frames) == count


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("columns", Sharing("columns")),
        ("stack", Sharing("stack")),
        ("one large", Sharing(LARGE)),
        ("2 large right", Sharing(LARGE, 2, "right")),
        ("one large up 60%", Sharing(LARGE, 1, "up", Length(Fraction(3, 5)))),
    ],
)
def test_it_is_read_as_it_is_written(text: str, meant: Sharing) -> None:
    assert parse_sharing(text) == meant
    assert parse_sharing(str(meant)) == meant
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
        ("rows please", "'please' is too much here"),
        ("one large left 1/2 wide", "'wide' is too much here"),
    ],
)
def test_slips_are_told(text: str, said: str) -> None:
    with pytest.raises(SentenceError, match=said):
        parse_sharing(text)
