"""The drawing of a desk: true to scale, front windows over those behind, within its columns whatever the titles are."""

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image, ImageColor

from jaklet.core.values.apps import App, exactly
from jaklet.core.values.config import Config
from jaklet.core.values.desk import Desk, Display, Window
from jaklet.core.values.geometry import Rect
from jaklet.drawing.colours import colour_of, room_for_words
from jaklet.drawing.desk_pictures import LOST, draw_picture
from jaklet.drawing.desks import desk_data, desk_text, draw_desk
from jaklet.drawing.ink import Ink
from jaklet.drawing.plain import plain_text
from jaklet.drawing.tables import table_text

MAIN = Display("DP-1", Rect(0, 0, 1600, 800), Rect(0, 100, 1600, 700), primary=True)
QUAY = Display("HDMI-1", Rect(1600, 0, 800, 600), Rect(1600, 0, 800, 600))
CONFIG = Config(displays={"main": "DP-1"})


def window(wid: int, frame: tuple[int, int, int, int], **more: object) -> Window:
    return Window(wid, cls=f"W{wid}", title=f"title {wid}", frame=Rect(*frame))._replace(**more)  # type: ignore[arg-type]


def desk(*windows: Window, displays: tuple[Display, ...] = (MAIN, QUAY)) -> Desk:
    ids = tuple(one.id for one in windows)
    return Desk(displays, windows, ids, ids[::-1], ids[-1] if ids else None)


DRAWN = """\
┏━ main DP-1 1600x800 ━━━━━━━━━━━━━━━━━━┓┏━ HDMI-1 800x600 ━━┓
┃░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░░┃┃                   ┃
┃┌ 3 W1 ────────────┐                   ┃┃                   ┃
┃│ title 1          │                   ┃┃     ┏ 1 W2 ━┓     ┃
┃│ 800x700          │                   ┃┃     ┃       ┃     ┃
┃│    ┌ 2 W3 ───────────┐               ┃┃     ┗━━━━━━━┛     ┃
┃│    │ title 3         │               ┃┃                   ┃
┃│    │                 │               ┃┃                   ┃
┃│    └─────────────────┘               ┃┗━━━━━━━━━━━━━━━━━━━┛
┃│                  │                   ┃
┃└──────────────────┘                   ┃
┗━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━━┛"""


def test_a_desk_is_drawn_like_this() -> None:
    one = desk(
        window(1, (0, 100, 800, 700)),
        window(3, (200, 300, 800, 300)),
        window(4, (0, 0, 1600, 800), minimised=True),
        window(5, (0, 0, 1600, 800), workspace=2),
        window(2, (1800, 150, 400, 300)),
    )
    assert draw_desk(one, CONFIG, 62) == DRAWN


@given(
    st.lists(
        st.builds(
            window,
            st.integers(1, 9),
            st.tuples(st.integers(-3000, 5000), st.integers(-3000, 5000), st.integers(1, 6000), st.integers(1, 6000)),
            title=st.text(max_size=30),
            cls=st.text(max_size=9),
        ),
        unique_by=lambda one: one.id,
        max_size=6,
    ),
    st.integers(1, 200),
    st.sampled_from([(MAIN,), (MAIN, QUAY), (QUAY._replace(rect=Rect(-800, -600, 800, 600)), MAIN)]),
)
def test_any_desk_is_drawn_within_its_columns_and_safe(
    windows: list[Window], columns: int, displays: tuple[Display, ...]
) -> None:
    one = desk(*windows, displays=displays)
    for row in draw_desk(one, CONFIG, columns).splitlines():
        assert len(row) <= max(columns, 40)
    text = desk_text(one, CONFIG, columns)
    assert all(character.isprintable() or character == "\n" for character in text)
    assert len(desk_data(one, CONFIG)["windows"]) == len(windows)


@pytest.mark.timeout(20)
def test_a_picture_of_a_title_of_5000_letters_takes_no_longer_than_any(tmp_path: Path) -> None:
    """Laying out all of it took 35 s; what a window has no room for is left out before."""
    files = [tmp_path / name for name in ("short.png", "long.png")]
    for file, title in zip(files, ("W" * 60, "W" * 5000), strict=True):
        draw_picture(desk(window(1, (0, 100, 800, 700), title=title)), CONFIG, file)
    assert files[0].read_bytes() == files[1].read_bytes()  # both are cut at the same letter


@pytest.mark.parametrize("at", [(-9000, -9000), (300, -9000), (-9000, 200), (9000, 9000), (300, 9000)])
def test_a_lost_window_is_within_its_picture(at: tuple[int, int], tmp_path: Path) -> None:
    """With its own edge and colour, however far it is."""
    draw_picture(desk(window(1, (*at, 800, 700))), CONFIG, tmp_path / "desk.png")
    with Image.open(tmp_path / "desk.png") as image:
        colours = {colour: count for count, colour in image.convert("RGB").getcolors(1 << 22) or ()}
    assert colours.get(ImageColor.getrgb(LOST), 0) > 100
    assert colours.get(ImageColor.getrgb(colour_of("W1", CONFIG)), 0) > 100


def test_ink_paints_and_plain_ink_does_not() -> None:
    one = desk(window(1, (0, 100, 800, 700)))
    assert "\033[" in desk_text(one, CONFIG, 80, Ink(True))
    assert "\033[" not in desk_text(one, CONFIG, 80)


@pytest.mark.parametrize(("width", "cut"), [(None, False), (30, True)])
def test_tables_are_cut_for_terminals_only_and_leave_empty_columns_out(width: int | None, cut: bool) -> None:
    text = table_text(("name", "note", "what"), [("a", "", "x" * 50), ("b", "", "[bold]y[/bold]")], width)
    assert "note" not in text
    assert ("…" in text) == cut
    assert cut or "[bold]y[/bold]" in text
    assert "twelve chars" in table_text(("a", "b"), [("x" * 50, "twelve chars")], 30)  # a short column is never cut


def test_the_words_of_a_window_stand_where_nothing_covers_them() -> None:
    frame = Rect(100, 100, 400, 300)
    assert room_for_words(frame, [], 40) == Rect(100, 100, 400, 40)
    assert room_for_words(frame, [Rect(300, 90, 400, 100)], 40) == Rect(100, 100, 200, 40)
    assert room_for_words(frame, [Rect(0, 0, 150, 500)], 40) == Rect(150, 100, 350, 40)
    assert room_for_words(frame, [Rect(0, 0, 900, 900)], 40).width == 0
    assert room_for_words(frame, [Rect(100, 300, 400, 100)], 40).width == 400  # it is below the words


def test_an_app_has_one_colour_in_all_pictures_of_a_config() -> None:
    config = Config(apps={name: App(name, (), (exactly(cls=name),)) for name in ("berths", "radio", "tides")})
    assert len({colour_of(name, config) for name in config.apps}) == 3
    assert colour_of("Stranger", config) == colour_of("Stranger", Config())


def test_a_terminal_of_plain_ascii_gets_a_drawing_that_stays_in_line() -> None:
    drawn = "┌──┐ ┏━┓ ü … · 港\n└──┘"
    assert plain_text(drawn, "ascii") == "+--+ +-+ u . . ?\n+--+"
    assert plain_text("ü ┌", "latin-1") == "ü +"
