"""Places: exact edges, whatever the work area; sentences that round-trip; errors at the word at fault."""

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.language.place_grammar import parse_place
from jaklet.core.values.errors import SentenceError
from jaklet.core.values.forms import Grid, Ground, SidePlace, TrackPlace, frame_of
from jaklet.core.values.geometry import (
    NO_LIMITS,
    Insets,
    Length,
    Rect,
    SizeLimits,
    Strut,
    rounded_share,
    settled_frame,
    work_area,
)
from jaklet.core.values.place_recognition import recognise_place
from jaklet.core.values.places import Place
from tests.strategies import areas, forms, gaps, limits, shares

AREA = Rect(0, 40, 2560, 1400)
FRAMES = [  # place, gap, visible frame in AREA, worked out by hand
    ("full", 0, (0, 40, 2560, 1400)),
    ("full", 8, (8, 48, 2544, 1384)),
    ("left 2/3", 0, (0, 40, 1707, 1400)),
    ("right 1/3", 0, (1707, 40, 853, 1400)),
    ("left 1/2", 10, (10, 50, 1265, 1380)),
    ("right 1/2", 10, (1285, 50, 1265, 1380)),
    ("left", 0, (0, 40, 1280, 1400)),
    ("top 25%", 0, (0, 40, 2560, 350)),
    ("up 1/4", 0, (0, 40, 2560, 350)),
    ("left 600px", 8, (8, 48, 600, 1384)),
    ("right 600px", 8, (1952, 48, 600, 1384)),
    ("left 1/3 bottom 1/2", 0, (0, 740, 853, 700)),
    ("centre 60% x 80%", 0, (512, 180, 1536, 1120)),
    ("center 800px x 600px", 0, (880, 440, 800, 600)),
    ("column 2 of 3", 0, (853, 40, 854, 1400)),
    ("columns 1-2 of 3 row 2 of 2", 0, (0, 740, 1707, 700)),
    ("cells B2:D3 of 6x4", 0, (427, 390, 1280, 700)),
    ("cell C2 of 3x2", 10, (1710, 745, 840, 685)),
    ("cells d3:b2 of 6x4", 0, (427, 390, 1280, 700)),
    ("at 100,50 size 800x600", 8, (100, 90, 800, 600)),
    ("left 9999px", 0, (0, 40, 2560, 1400)),
]
FAULTS = [  # sentence, where the caret begins, what is said
    ("left 3/2", 5, "3/2 is not within the work area"),
    ("left 0/3", 5, "0/3 is not within"),
    ("left 1/0", 5, "a share of nothing"),
    ("left 600", 5, "'600' is no size"),
    ("left 1/2 right 1/2", 9, "right and left are on the same axis"),
    ("left 1/2 wide", 9, "'wide' does not belong to a place"),
    ("lft 1/2", 0, "'lft' begins no place"),
    ("column 4 of 3", 7, "there is no column 4 of 3"),
    ("columns 3-2 of 4", 8, "there is no columns 3-2 of 4"),
    ("centre 60%", 10, "the height is missing"),
    ("at 1,2", 3, "no position and size here"),
    ("at 1,2 size 0x5", 3, "nothing would be left"),
    ("full on", 7, "on which display"),
    ("left 0px", 5, "nothing would be left"),
    ("", 0, "'' is no place"),
    ("cells B2:G3 of 6x4", 6, "B2:G3 of 6x4 is not within the grid"),
    ("cell A0 of 3x3", 5, "A0 of 3x3 is not within the grid"),
    ("cells B2", 6, "which cells"),
    ("same place", 10, "the same place on which display"),
    ("left 1/2,", 9, "another place is missing after the comma"),
    ("left 1/2, lft 1/3", 10, "'lft' begins no place"),
]


@pytest.mark.parametrize(("text", "gap", "frame"), FRAMES)
def test_a_place_is_exactly_this_frame(text: str, gap: int, frame: tuple[int, int, int, int]) -> None:
    assert frame_of(parse_place(text).form, Ground(AREA, gap, gap)) == frame


@pytest.mark.parametrize(("text", "start", "message"), FAULTS)
def test_a_fault_names_its_word(text: str, start: int, message: str) -> None:
    with pytest.raises(SentenceError, match=f"^{message}") as fault:
        parse_place(text)
    assert fault.value.start == start


@given(areas, st.integers(1, 12), st.integers(1, 12), gaps)
def test_a_grid_covers_any_work_area_with_one_gap_between(area: Rect, columns: int, rows: int, gap: int) -> None:
    """No hole and no overlap: every pixel is a cell's or a gap's, and neighbours stand exactly one gap apart."""
    cells = [
        [
            frame_of(Grid(TrackPlace(c, c, columns), TrackPlace(r, r, rows)), Ground(area, gap, gap))
            for c in range(1, columns + 1)
        ]
        for r in range(1, rows + 1)
    ]
    for row in cells:
        assert (row[0].x, row[-1].right) == (area.x + gap, area.right - gap) or _too_small(area, gap, columns, rows)
        for left, right in pairwise(row):
            assert right.x - left.right == gap or _too_small(area, gap, columns, rows)
    for above, below in pairwise(cells):
        assert below[0].y - above[0].bottom == gap or _too_small(area, gap, columns, rows)
    if gap == 0:
        assert sum(cell.width * cell.height for row in cells for cell in row) == area.width * area.height


def _too_small(area: Rect, gap: int, columns: int, rows: int) -> bool:
    """Whether a cell would have no pixel left, so that it is widened to one."""
    return (area.width - gap) // columns <= gap or (area.height - gap) // rows <= gap


@given(areas, shares, gaps, st.sampled_from([("left", "right"), ("top", "bottom")]))
def test_two_sides_that_make_a_whole_meet(area: Rect, share: Fraction, gap: int, sides: tuple[str, str]) -> None:
    """`left 66 %` and `right 34 %` leave no sliver, for any share, area and gap."""
    near, far = sides
    if near == "left":
        first = frame_of(SidePlace(across=(near, Length(share))), Ground(area, gap, gap))
        second = frame_of(SidePlace(across=(far, Length(1 - share))), Ground(area, gap, gap))
        room, apart = area.width, second.x - first.right
    else:
        first = frame_of(SidePlace(down=(near, Length(share))), Ground(area, gap, gap))
        second = frame_of(SidePlace(down=(far, Length(1 - share))), Ground(area, gap, gap))
        room, apart = area.height, second.y - first.bottom
    cramped = min(share, 1 - share) * (room - gap) <= gap + 1
    assert apart == gap or cramped


places = st.tuples(forms, st.none() | st.sampled_from(["main", "quay"])).map(lambda parts: Place(*parts))


def test_a_display_may_be_called_one() -> None:
    assert parse_place("same place on display quay, left on main") == parse_place(
        "same place on quay, left 1/2 on main"
    )


@given(places, st.lists(places, max_size=3))
def test_printing_and_parsing_a_place_is_the_identity(place: Place, then: list[Place]) -> None:
    place = place._replace(then=tuple(then))
    assert parse_place(str(place)) == place
    assert str(parse_place(str(place))) == str(place)


@given(areas, forms, gaps, gaps, limits, st.builds(Insets, *[st.integers(-30, 40)] * 4))
def test_what_a_window_fills_is_recognised(
    area: Rect, form: object, gap: int, rim: int, limit: SizeLimits, border: Insets
) -> None:
    """The recognised place gives back the very frame, under the window's own limits and borders."""
    anchor = form.anchor  # type: ignore[attr-defined]
    ground = Ground(area, gap, rim)
    frame = settled_frame(frame_of(form, ground), border, limit, anchor)
    found = recognise_place(frame, ground, border, limit, {}, "main")
    assert settled_frame(frame_of(found, ground), border, limit, found.anchor) == frame


def test_a_size_comes_down_step_by_step_until_its_aspect_holds_too() -> None:
    odd = SizeLimits(
        base_height=12, step_width=14, step_height=19, min_aspect=Fraction(199, 200), max_aspect=Fraction(1)
    )
    assert odd.fit(316, 316) == odd.fit(140, 126) == (126, 126)


@given(limits, st.integers(1, 4000), st.integers(1, 4000))
def test_limits_are_kept_and_keeping_them_twice_changes_nothing(limit: SizeLimits, width: int, height: int) -> None:
    fitted = limit.fit(width, height)
    assert limit.min_width <= fitted[0] <= max(limit.max_width, limit.min_width)
    assert limit.min_height <= fitted[1] <= max(limit.max_height, limit.min_height)
    assert limit.fit(*fitted) == fitted
    assert NO_LIMITS.fit(width, height) == (width, height)


@pytest.mark.parametrize(
    ("side", "x", "y"), [("right 1/3", 2560 - 900, 40), ("left 1/3", 0, 40), ("bottom 1/9", 0, 1440 - 400)]
)
def test_a_window_under_its_minimum_keeps_the_named_edge(side: str, x: int, y: int) -> None:
    form = parse_place(side).form
    frame = settled_frame(
        frame_of(form, Ground(AREA)), Insets(), SizeLimits(min_width=900, min_height=400), form.anchor
    )
    assert (frame.x, frame.y) == (x, y)


LEFT, RIGHT = Rect(0, 0, 1920, 1080), Rect(1920, 0, 1280, 1024)
BARS = [  # struts as a bar sets them, measured from the edge of the whole screen, and both work areas
    ([], LEFT, RIGHT),
    ([Strut("top", Rect(0, 0, 1920, 30))], Rect(0, 30, 1920, 1050), RIGHT),
    ([Strut("bottom", Rect(1920, 1000, 1280, 80))], LEFT, Rect(1920, 0, 1280, 1000)),
    ([Strut("left", Rect(0, 0, 1960, 1024))], LEFT, Rect(1960, 0, 1240, 1024)),
    ([Strut("right", Rect(1870, 0, 1330, 1080))], Rect(0, 0, 1870, 1080), RIGHT),
    (
        [Strut("top", Rect(0, 0, 3200, 24)), Strut("left", Rect(0, 0, 60, 1080))],
        Rect(60, 24, 1860, 1056),
        Rect(1920, 24, 1280, 1000),
    ),
]


@pytest.mark.parametrize(("struts", "left", "right"), BARS)
def test_bars_come_off_the_display_they_are_on(struts: list[Strut], left: Rect, right: Rect) -> None:
    assert (work_area(LEFT, struts), work_area(RIGHT, struts)) == (left, right)


UPPER, LOWER = Rect(0, 0, 1920, 1080), Rect(0, 1080, 1920, 1024)
BOTH_BARS = [  # two bars at one side, or one between displays above one another; and both work areas
    ("top", (Rect(0, 0, 1920, 30), Rect(0, 0, 1920, 20)), Rect(0, 30, 1920, 1050), LOWER),
    ("bottom", (Rect(0, 2074, 1920, 30), Rect(0, 2084, 1920, 20)), UPPER, Rect(0, 1080, 1920, 994)),
    ("left", (Rect(0, 0, 30, 1080), Rect(0, 0, 20, 1080)), Rect(30, 0, 1890, 1080), LOWER),
    ("right", (Rect(1890, 0, 30, 1080), Rect(1900, 0, 20, 1080)), Rect(0, 0, 1890, 1080), LOWER),
    ("top", (Rect(0, 0, 1920, 1120), Rect(0, 0, 1920, 1100)), UPPER, Rect(0, 1120, 1920, 984)),
    ("bottom", (Rect(0, 1040, 1920, 1064), Rect(0, 1050, 1920, 1054)), Rect(0, 0, 1920, 1040), LOWER),
    ("top", (Rect(0, 0, 1920, 30), Rect(0, 0, 1920, 1120)), Rect(0, 30, 1920, 1050), Rect(0, 1120, 1920, 984)),
    ("bottom", (Rect(0, 2074, 1920, 30), Rect(0, 1040, 1920, 1064)), Rect(0, 0, 1920, 1040), Rect(0, 1080, 1920, 994)),
]


@pytest.mark.parametrize(("side", "strips", "upper", "lower"), BOTH_BARS)
def test_the_deeper_of_two_bars_counts_and_displays_above_one_another_keep_theirs_apart(
    side: str, strips: tuple[Rect, Rect], upper: Rect, lower: Rect
) -> None:
    for order in (strips, strips[::-1]):
        struts = [Strut(side, strip) for strip in order]
        assert (work_area(UPPER, struts), work_area(LOWER, struts)) == (upper, lower)


@given(st.fractions(0, 1), st.integers(0, 40000))
def test_rounding_is_half_up(share: Fraction, whole: int) -> None:
    exact = share * whole
    assert rounded_share(share, whole) == (exact + Fraction(1, 2)).__floor__()
