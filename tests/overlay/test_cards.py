"""Cards as pixels: what they keep to, whatever is on them."""

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import ImageChops, ImageStat

from jaklet.core.values.cards import ROLES, Card, CardBlock, CardLine, TextRun, plain_cell
from jaklet.core.values.geometry import Rect
from jaklet.core.values.seen import seen_corner
from jaklet.overlay import fonts
from jaklet.overlay.drawing import draw_card
from jaklet.overlay.fonts import Fonts, fonts_of
from jaklet.overlay.key_views import pages_of
from jaklet.overlay.looks import LOOKS, TEXT, Look, contrast, sizes_at

texts = st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), max_size=60)
cells = st.lists(st.builds(TextRun, texts, st.sampled_from(ROLES)), max_size=3).map(tuple)
lines = st.builds(CardLine, st.lists(cells, max_size=4).map(tuple), st.booleans())
blocks = st.builds(CardBlock, st.lists(lines, max_size=12).map(tuple), texts)
cards = st.builds(
    Card, st.lists(blocks, max_size=6).map(tuple), cells, st.none() | texts, cells, st.integers(1, 4), st.booleans()
)
rooms = st.tuples(st.integers(300, 1400), st.integers(200, 900))


@settings(max_examples=40)
@given(cards, rooms, st.sampled_from(sorted(LOOKS)), st.sampled_from((1.0, 1.5, 2.0)))
def test_a_card_stays_within_its_room_and_its_lines_within_it(
    card: Card, room: tuple[int, int], look: str, scale: float
) -> None:
    sizes = sizes_at(scale)
    drawn = draw_card(card, LOOKS[look], sizes, fonts_of(sizes.text), room)
    wide, high = drawn.image.size
    # A title, what is typed, one line and a foot are there, however little room there is.
    assert wide <= room[0]
    assert high <= max(room[1], 5 * sizes.line + 4 * sizes.margin)
    assert all(line.x >= 0 and line.y >= 0 and line.right <= wide and line.bottom <= high for line in drawn.lines)
    assert not any(one.overlap(other) for one, other in combinations(drawn.lines, 2))
    shown = sum(len(block.lines) for block in card.blocks)
    assert len(drawn.lines) <= shown


@pytest.mark.parametrize("look", LOOKS.values(), ids=LOOKS)
def test_all_that_is_written_can_be_read(look: Look) -> None:
    """7:1, the stricter of the two levels (WCAG 2.1, 1.4.6); an edge has to be seen beside its paper."""
    assert set(look.ink) == set(ROLES)
    assert min(contrast(ink, look.paper) for ink in look.ink.values()) >= 7
    assert contrast(*look.chosen) >= 7
    assert contrast(look.edge, look.paper) >= 3
    assert contrast(look.chosen[0], look.paper) >= 3


def test_a_large_card_can_be_read_from_two_metres() -> None:
    """A letter seen under 20 minutes of arc (ISO 9241-303) from 2 m is 11.6 mm high: 31 px of 0.265 mm with its capitals."""
    assert TEXT["large"] * 0.265 * 1.4 >= 11.1


def test_the_chosen_line_has_a_sign_and_colours_of_its_own() -> None:
    sizes = sizes_at(1.0)
    both = [
        draw_card(
            Card((CardBlock(tuple(CardLine((plain_cell(name),), name == chosen) for name in ("radio", "tides"))),)),
            LOOKS["dark"], sizes, fonts_of(sizes.text), (400, 300),
        )
        for chosen in ("radio", "tides")
    ]  # fmt: skip
    for number, drawn in enumerate(both):
        chosen, other = drawn.lines[number], drawn.lines[1 - number]
        assert drawn.image.getpixel((chosen.right - 1, chosen.y + 1)) == LOOKS["dark"].chosen[0]
        assert drawn.image.getpixel((other.right - 1, other.y + 1)) == LOOKS["dark"].paper
        grey = drawn.image.convert("L")  # also without colours
        for line, has_sign in ((chosen, True), (other, False)):
            shades = grey.crop((line.x, line.y + 2, line.x + 10, line.bottom - 2)).histogram()
            assert (sum(1 for count in shades if count) > 1) is has_sign


def test_twice_the_scale_is_the_same_card_drawn_finer() -> None:
    card = Card(
        (
            CardBlock(
                (
                    CardLine((plain_cell("berths"), plain_cell("super+b", "key"))),
                    CardLine((plain_cell("radio log"),), True),
                )
            ),
        ),
        plain_cell("keys"),
    )
    small, large = (
        draw_card(card, LOOKS["light"], sizes_at(scale), fonts_of(sizes_at(scale).text), (900, 600)).image
        for scale in (1.0, 2.0)
    )
    assert abs(large.width - 2 * small.width) <= 12
    assert abs(large.height - 2 * small.height) <= 8
    apart = ImageStat.Stat(ImageChops.difference(large.resize(small.size).convert("L"), small.convert("L")))
    assert apart.mean[0] < 12  # of 255: hinting moves letters by parts of a pixel


def test_without_fontconfig_there_is_a_font_of_our_own(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(fonts, "_match", lambda _pattern: ("", 0))
    own = Fonts(15)
    assert own.width("berths") > 20
    assert own.cut("berths and more", own.width("berths…")) == "berths…"
    assert own.width("港") > 0


rects = st.builds(Rect, st.integers(0, 300), st.integers(0, 300), st.integers(20, 300), st.integers(20, 300))


@given(rects, st.lists(rects, max_size=5))
def test_what_is_put_on_a_window_is_where_it_is_seen(frame: Rect, above: list[Rect]) -> None:
    size, screen = (24, 16), Rect(0, 0, 400, 400)
    found = seen_corner(frame, above, size, [screen])
    room = (
        Rect(x, y, *size)
        for y in range(frame.y, frame.bottom - size[1] + 1)
        for x in range(frame.x, frame.right - size[0] + 1)
    )
    free = next(
        (one for one in room if one.overlap(screen) == 24 * 16 and not any(one.overlap(a) for a in above)), None
    )
    assert (found is None) is (free is None)
    if found and free:
        assert (found.y, found.x) == (free.y, free.x)


def test_pages_of_many_lines_lose_none() -> None:
    many = [
        CardBlock(tuple(CardLine((plain_cell(f"{name} {i}"),)) for i in range(count)), name)
        for name, count in (("a", 120), ("b", 3))
    ]
    pages = pages_of(many, 40)
    assert [line for page in pages for block in page for line in block.lines] == [
        line for one in many for line in one.lines
    ]
    assert all(sum(len(block.lines) + 2 for block in page) <= 40 for page in pages)
