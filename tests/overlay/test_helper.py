"""The helper by itself: what it shows, and what it asks for, when it is told things and keys are pressed."""

import json
import tempfile
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.checks.run import check_config
from jaklet.config.paths import locate_config
from jaklet.core.actions.ports.surface import Click
from jaklet.core.language.place_grammar import parse_place
from jaklet.core.values.apps import App, exactly
from jaklet.core.values.chords import Modifier
from jaklet.core.values.config import Config, Overlay, Settings
from jaklet.core.values.desk import DIALOG, Desk, Display, Window, WindowShape
from jaklet.core.values.errors import JakletError
from jaklet.core.values.geometry import Insets, Rect, SizeLimits
from jaklet.core.values.layouts import Layout, LayoutEntry
from jaklet.core.values.snapshot import desk_data, desk_from_data
from jaklet.counters.finder_choices import DATABASE, HALF, ChoiceCounts
from jaklet.installed.programs import InstalledPrograms
from jaklet.overlay.helper import Helper
from jaklet.overlay.key_views import hints, sheet_blocks
from jaklet.overlay.looks import DARK, LIGHT
from jaklet.overlay.picture_surface import PictureSurface
from jaklet.overlay.scenes import Stores

MAIN, QUAY = (
    Display("A", Rect(0, 0, 1280, 800), Rect(0, 0, 1280, 780), True),
    Display("B", Rect(1280, 0, 1024, 768), Rect(1280, 0, 1024, 768)),
)
CONFIG = """
displays: {main: {name: A}, quay: {name: B}}
apps:
  berths: {launch: berth-board, window: {class: BerthBoard}}
  radio: {launch: radio-log, window: {class: RadioLog}}
  tides: {launch: tide-gauge, window: {class: TideGauge}}
bindings:
  super+b: go berths
  super+r: {do: go radio, note: the radio log}
  super+<n>: recall <n>
  super+g b: go tides
  super+g r: {do: go radio, only in: berths}
  super+w: enter arrange
layers:
  arrange: {stays: true, note: windows, bindings: {s: spread grid, <side>: place <side> 1/2, x: {do: swap last, only in: tides}}}
"""


@cache
def config_of(text: str) -> Config:
    """Return the config that a text is."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "jaklet.yaml")
        path.write_text(text)
        result = check_config(locate_config(str(path)), InstalledPrograms())
        assert result.usable, result.findings
        return result.config


def window(number: int, cls: str, frame: Rect, **more: Any) -> Window:
    return Window(number, cls.lower(), cls, f"{cls} {number}", frame=frame, **more)


USUAL = Overlay()
DESK = Desk(
    (MAIN, QUAY),
    (
        window(1, "BerthBoard", Rect(0, 0, 640, 780)),
        window(2, "RadioLog", Rect(640, 0, 640, 780)),
        window(3, "TideGauge", Rect(1300, 20, 400, 300)),
        window(4, "TideGauge", Rect(1310, 40, 380, 200)),
    ),
    (1, 2, 4, 3),
    (1, 2, 3, 4),
    1,
)
LAYOUTS = (
    Layout("arrivals", 2, "the morning", entries=(LayoutEntry("berths", None, None, parse_place("left 2/3 on main")),)),
)


class Bench:
    """A helper, what it has asked for, and its surface."""

    def __init__(self, overlay: Overlay = USUAL, scale: float = 1.0, density: float = 1.0) -> None:
        read = config_of(CONFIG)
        self.config = read._replace(settings=read.settings._replace(overlay=overlay))
        self.surface = PictureSurface(scale, density)
        self.asked: list[tuple[str, dict[str, Any]]] = []
        self.named: list[tuple[str, str]] = []
        self.taken: tuple[str, ...] = ()
        stores = Stores(lambda: LAYOUTS, lambda: ("buoy",), name=self.name, places=lambda: self.taken)
        self.helper = Helper(
            self.surface, stores, lambda: self.config, lambda what, **more: self.asked.append((what, more))
        )
        self.now = 100.0

    def name(self, name: str, place: str) -> str:
        if name == "shut":
            raise JakletError("jaklet.yaml cannot be written", "check its permissions")
        self.named.append((name, place))
        return "jaklet.yaml"

    def tell(self, what: str, **more: Any) -> None:
        self.helper.take({"what": what, **more}, self.now)

    def open(self, view: str, of: str = "", desk: Desk = DESK) -> None:
        self.tell("open", number=7, view=view, of=of, desk=desk_data(desk))

    def press(self, *keys: str) -> list[tuple[str, dict[str, Any]]]:
        """Press keys; return what is asked for because of them, beside that they were seen."""
        self.asked.clear()
        for key in keys:
            text = key if len(key) == 1 else ""
            self.tell("key", number=8, key=key.lower(), text=text)
        return [one for one in self.asked if one[0] != "seen"]

    @property
    def names(self) -> list[str]:
        return [panel.name for panel in self.surface.panels]


def acts(*sentences: str, window: int = 0) -> list[tuple[str, dict[str, Any]]]:
    return [("act", {"action": one, **({"window": window} if window else {})}) for one in sentences]


CLOSED = ("closed", {"number": 7})
CASES: dict[str, tuple[tuple[str, str], Sequence[str], list[tuple[str, dict[str, Any]]]]] = {
    "an app by letters": (("finder", "apps"), [*"rad", "return"], [CLOSED, *acts("go radio")]),
    "the former window first": (("finder", "windows"), ["return"], [CLOSED, *acts("focus window 0x2")]),
    "a window by letters": (("finder", "windows"), [*"tide", "return"], [CLOSED, *acts("focus window 0x3")]),
    "a word less, and the next": (
        ("finder", "windows"), [*"xy", "backspace", "ctrl+u", "down", "return"], [CLOSED, *acts("focus window 0x3")],
    ),
    "a label": (("finder", "windows"), ["ctrl+l", "f", "j"], [CLOSED, *acts("focus window 0x3")]),
    "a layout": (("finder", "layouts"), [*"arr", "return"], [CLOSED, *acts("recall arrivals")]),
    "another kind": (("finder", "all"), ["tab", "tab", *"ber", "return"], [CLOSED, *acts("go berths")]),
    "a host": (("finder", "hosts"), ["return"], [CLOSED, *acts('shell "x-terminal-emulator -e ssh buoy"')]),
    "nothing": (("finder", "all"), [*"ber", "escape"], [CLOSED]),
    "a window is closed": (("finder", "windows"), ["ctrl+backspace"], [CLOSED, *acts("close", window=2)]),
    "a window is brought here": (
        ("finder", "windows"), ["down", "ctrl+return"],
        [CLOSED, *acts("send to workspace 1", "send to display main", window=3), *acts("focus window 0x3")],
    ),
    "keys, closed by any": (("keys", ""), ["x"], [CLOSED]),
    "a layout is recalled": (("layout", "arrivals"), ["return"], [CLOSED, *acts("recall arrivals")]),
    "a layout is looked at": (("layout", "arrivals"), ["space"], [CLOSED]),
    "a place is taken": (("place", "left 2/3"), ["return"], [CLOSED, *acts("place left 2/3")]),
    "two corners": (("grid", "6x4"), ["s", "t"], [CLOSED, *acts("place cells B1:D2 of 6x4 on main", window=1)]),
    "two corners the other way": (("grid", "6x4"), ["t", "s"], [CLOSED, *acts("place cells B1:D2 of 6x4 on main", window=1)]),
    "two corners up to the right": (("grid", "6x4"), ["w", "d"], [CLOSED, *acts("place cells A1:C2 of 6x4 on main", window=1)]),
    "one cell of another display": (("grid", "2x2"), ["tab", "f", "f"], [CLOSED, *acts("place cells B2 of 2x2 on quay", window=1)]),
    "arrows": (
        ("grid", "3x3"), ["right", "shift+right", "shift+down", "down", "left", "left", "return"],
        [CLOSED, *acts("place cells A2:B3 of 3x3 on main", window=1)],
    ),
    "a grid is left": (("grid", "6x4"), ["s", "escape"], [CLOSED]),
    "a letter": (("letters", "focus"), ["j"], [CLOSED, *acts("focus window 0x2")]),
    "a letter with Shift": (
        ("letters", "focus"), ["D"], [CLOSED, *acts("send to display main", window=3), *acts("focus window 0x3")],
    ),
    "a letter to swap": (("letters", "swap"), ["f"], [CLOSED, *acts("swap window 0x2")]),
    "a letter for a pair": (
        ("letters", "pair left 2/3 with"), ["f"], [CLOSED, *acts("pair left 2/3 with window 0x2")],
    ),
    "a walk, let go of at once": (("walk", "windows"), ["released"], [CLOSED, *acts("focus window 0x2")]),
    "a walk on, and back": (
        ("walk", "windows"), ["super+tab", "super+tab", "super+shift+tab", "released"],
        [CLOSED, *acts("focus window 0x3")],
    ),
    "a walk back round the end": (
        ("walk", "windows"), ["super+shift+tab", "released"], [CLOSED, *acts("focus window 0x1")],
    ),
    "a walk that is left": (("walk", "windows"), ["super+tab", "super+escape"], [CLOSED]),
    "a place for a window that is found": (
        ("finder", "windows"), [*"tide", "ctrl+p", "a", "s"],
        [CLOSED, *acts("place cells A1:B1 of 6x4 on quay", window=3)],
    ),
    "a place with a name": (
        ("grid", "6x4"), ["s", "space", "t", *"berht", "backspace", "backspace", *"th", "return"],
        [CLOSED, *acts("place cells B1:D2 of 6x4 on main", window=1)],
    ),
    "a name for a choice of arrows, and none after all": (
        ("grid", "3x3"), ["right", "space", "x", "escape"], [CLOSED],
    ),
    "a card is left with its modifiers still held": (("grid", "6x4"), ["s", "super+escape"], [CLOSED]),
    "and a list": (("finder", "all"), [*"ber", "ctrl+shift+escape"], [CLOSED]),
    "and letters": (("letters", "focus"), ["alt+escape"], [CLOSED]),
    "and the keys": (("keys", ""), ["super+escape"], [CLOSED]),
    "and a name": (("grid", "3x3"), ["right", "space", "x", "super+escape"], [CLOSED]),
    "no such letter": (("letters", "focus"), ["m"], [CLOSED]),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES.values(), ids=CASES)
def test_keys_choose(case: tuple[tuple[str, str], Sequence[str], list[tuple[str, dict[str, Any]]]]) -> None:
    (view, of), keys, wanted = case
    bench = Bench()
    bench.open(view, of)
    assert bench.names
    assert bench.press(*keys) == wanted
    assert set(bench.names) <= {"said"}
    assert bench.press("return") == []  # nothing is open any more


def test_a_walk_through_nothing_ends() -> None:
    bench = Bench()
    bench.open("walk", "windows", Desk((MAIN, QUAY), (), (), (), None))
    assert bench.press("super+tab", "released") == [CLOSED]


def test_a_name_that_cannot_be_is_asked_for_again() -> None:
    bench = Bench()
    bench.open("grid", "6x4")
    before = bench.press("a", "space", "a", *"left")
    (card,) = bench.surface.panels
    assert (before, bench.press("return")) == ([], [])
    assert bench.surface.panels[0].pixels != card.pixels  # it says why
    assert bench.press(*(["backspace"] * 4), *"stern", "return")[0] == CLOSED
    assert bench.named == [("stern", "cells A1 of 6x4")]
    assert bench.names == ["said"]
    (line,) = bench.surface.panels
    bench.now += 60
    bench.open("grid", "6x4")
    assert CLOSED in bench.press("a", "space", "a", *"shut", "return")  # the keyboard is free, whatever comes of it
    assert bench.surface.panels[0].pixels != line.pixels


def test_a_name_that_is_taken_is_asked_for_again() -> None:
    """Also one that the config on disk has got meanwhile; and where it cannot be kept, nothing is placed either."""
    for taken in ("stern", "bow", "left"):
        bench = Bench()
        bench.taken = ("stern",)
        bench.config = bench.config._replace(places={"bow": parse_place("left 1/2")})
        bench.tell("config")
        bench.open("grid", "6x4")
        assert bench.press("a", "space", "a", *taken, "return") == [], taken
        assert bench.names == ["name"]
        assert bench.press(*["backspace"] * len(taken), *"hold", "return") == [
            CLOSED, *acts("place cells A1 of 6x4 on main", window=1)
        ]  # fmt: skip
    bench.open("grid", "6x4")
    assert bench.press("a", "space", "a", *"shut", "return") == [CLOSED]


@pytest.mark.parametrize(("clicks", "place"), [
    # By hand: 1280x780 of the first display in 6x4 cells of 213 by 195, from (0, 20) on; the other one's from its corner.
    ([(0, 5, 5), (0, 5, 5)], "A1 of 6x4 on main"),
    ([(0, 1279, 799), (0, 640, 410)], "D3:F4 of 6x4 on main"),
    ([(0, 5, 5), (1, 10, 10), (1, 10, 10)], "A1 of 6x4 on quay"),
])  # fmt: skip
def test_a_click_anywhere_in_a_cell_is_one_on_it(clicks: list[tuple[int, int, int]], place: str) -> None:
    bench = Bench()
    bench.open("grid", "6x4")
    panes = {panel.name: panel.at for panel in bench.surface.panels if panel.clicked and not panel.pixels}
    assert panes == {"glass 0": MAIN.rect, "glass 1": QUAY.rect}
    assert bench.surface.image(DESK, bench.config).size[0] == MAIN.rect.width + QUAY.rect.width  # they are not seen
    assert bench.names[:2] == [*panes]  # below all else, which has no clicks of its own but the card of keys
    bench.asked.clear()
    for display, x, y in clicks:
        bench.surface.clicked.append(Click(f"glass {display}", x, y, 1))
        bench.helper.clicks(bench.now)
    assert bench.asked == [CLOSED, *acts(f"place cells {place}", window=1)]


def test_modifiers_that_are_held_show_the_layouts_with_their_keys() -> None:
    bench = Bench()
    held = int(Modifier.SUPER)
    for pointed, names in (((5, 5, False), ["layout 0"]), ((5, 5, True), [])):
        bench.surface.pointed = pointed  # who drags a window with Super held wants to see that
        bench.tell("hold", modifiers=held, desk=desk_data(DESK))
        assert bench.names == names
        bench.tell("hold", modifiers=0, desk=None)
        assert (bench.names, bench.helper.due) == ([], float("inf"))
    bench.surface.pointed = 5, 5, False
    bench.tell("hold", modifiers=held | int(Modifier.CTRL), desk=desk_data(DESK))
    assert bench.names == []
    bench.tell("hold", modifiers=held, desk=desk_data(DESK))
    bench.open("finder", "windows")
    bench.helper.show(bench.now + 1)
    assert bench.names == ["finder"]


def test_a_walk_through_alternatives_shows_where_it_goes_next() -> None:
    bench = Bench()
    bench.tell("walk", place="left 1/2, left 1/3, left 2/3", window=1, desk=desk_data(DESK))
    panels = {panel.name: panel.at for panel in bench.surface.panels}
    assert panels["next top"].width == round(1280 / 3)
    assert not any(panel.clicked for panel in bench.surface.panels)
    bench.now = bench.helper.due
    bench.helper.show(bench.now)
    assert bench.names == []
    bench.tell("walk", place="left 1/2, left 1/3", window=99, desk=desk_data(DESK))
    assert bench.names == []


def test_it_looks_like_the_desktop_and_goes_where_the_pointer_is() -> None:
    bench = Bench(Overlay(look="desktop", display="pointer"))
    bench.surface.pointed = 1500, 20, False
    colours = []
    for dark in (True, False, True):
        bench.surface.dark = dark
        bench.now += 60
        bench.open("finder", "windows")
        (panel,) = bench.surface.panels
        assert panel.at.overlap(QUAY.rect) == panel.at.width * panel.at.height
        at = (panel.at.width * 4 + 4) * 4
        colours.append(tuple(panel.pixels[at : at + 3][::-1]))
    assert colours == [DARK.paper, LIGHT.paper, DARK.paper]


def test_a_click_chooses_a_line_and_a_tag() -> None:
    bench = Bench()
    bench.open("finder", "windows")
    (panel,) = bench.surface.panels
    line = bench.helper._view._lines[2]  # type: ignore[union-attr]
    for click, wanted in (
        (Click(panel.name, line.x + 3, line.y + 3, 3), []),
        (Click(panel.name, line.x + 3, line.y + 3, 1), [CLOSED, *acts("focus window 0x4")]),
    ):
        bench.asked.clear()
        bench.surface.clicked.append(click)
        bench.helper.clicks(bench.now)
        assert bench.asked == wanted
    bench.open("letters", "focus")
    bench.asked.clear()
    bench.surface.clicked.append(Click("letter j", 1, 1, 1))
    bench.helper.clicks(bench.now)
    assert bench.asked == [CLOSED, *acts("focus window 0x2")]


def test_each_window_has_its_letter_where_it_is_seen() -> None:
    """The fourth is covered by the third: it stands in a row at the side."""
    bench = Bench()
    bench.open("letters", "focus")
    tags = {panel.name: panel.at for panel in bench.surface.panels}
    frames = {one.id: one.frame for one in DESK.windows}
    assert tags["letter f"][:2] == frames[1][:2]
    assert tags["letter d"][:2] == frames[3][:2]
    assert tags["letter k"].overlap(MAIN.work) == tags["letter k"].width * tags["letter k"].height
    assert not any(tags["letter k"].overlap(frame) for frame in (frames[3], frames[4]))


def test_hints_come_when_they_are_due_and_go_with_the_layer() -> None:
    bench = Bench()
    bench.tell("keys", layer="arrange", begun=[], desk=desk_data(DESK))
    assert (bench.names, bench.helper.due) == ([], 100.4)
    bench.now = 100.4
    bench.helper.show(bench.now)
    assert bench.names == ["hints"]
    assert not any(panel.clicked for panel in bench.surface.panels)
    assert bench.helper.due == float("inf")
    bench.tell("keys", layer="", begun=[], desk=None)
    assert bench.names == []
    for after, names in ((float("inf"), list[str]()), (0.0, ["hints"])):
        other = Bench(Overlay(hints=after))
        other.tell("keys", layer="", begun=["super+g"], desk=desk_data(DESK))
        assert other.names == names


def test_nothing_is_due_under_what_is_open() -> None:
    bench = Bench()
    bench.open("finder", "windows")
    bench.tell("keys", layer="arrange", begun=[], desk=desk_data(DESK))
    bench.now += 9
    bench.helper.show(bench.now)
    assert (bench.names, bench.helper.due) == (["finder"], float("inf"))
    bench.press("escape")
    bench.helper.show(bench.now)
    assert bench.names == ["hints"]


def test_what_comes_next_is_said_in_few_lines() -> None:
    config = config_of(CONFIG)

    def lines(layer: str, begun: Sequence[str], front: str) -> list[str]:
        card = hints(config, layer, begun, front)
        return (
            ["  ".join("".join(run.text for run in cell) for cell in line.cells) for line in card.blocks[0].lines]
            if card
            else []
        )

    assert lines("arrange", (), "radio") == ["s  spread grid", "<side>  place <side> 1/2", "escape  leave"]
    assert lines("arrange", (), "tides")[2] == "x  swap last"
    assert lines("", ("super+g",), "radio") == ["b  go tides", "escape  leave"]
    assert lines("", ("super+g",), "berths") == ["b  go tides", "r  go radio", "escape  leave"]
    assert lines("", ("super+y",), "radio") == []


def test_the_sheet_has_what_is_live_and_what_is_of_the_app_in_front_first() -> None:
    text = CONFIG.replace("  super+w: enter", "  super+y: {do: go radio, not in: [berths, radio]}\n  super+w: enter")

    def headings(front: str | None, words: str = "") -> dict[str, list[str]]:
        return {
            block.heading: ["".join(run.text for run in line.cells[0]) for line in block.lines]
            for block in sheet_blocks(config_of(text), words, front)
        }

    keys = ["super+b", "super+r", "super+<n>", "super+g b"]
    assert headings("berths")["in berths"] == ["super+g r"]
    assert headings("berths")["keys"] == [*keys, "super+w"]
    assert headings("tides")["keys"] == headings(None)["keys"] == [*keys, "super+y", "super+w"]
    assert "x" not in str(headings("berths", "arrange").values())
    assert headings("tides", "arrange")["in tides"] == ["x"]
    assert headings("radio", "radio")["keys"] == ["super+r"]  # by an app that it names


def test_what_went_wrong_is_said_for_a_while_and_several_are_one_card() -> None:
    bench = Bench()
    bench.tell("say", text="radio has no window", failed=True, topic="", desk=desk_data(DESK))
    bench.now = 103.0
    bench.tell("say", text="High water", failed=False, topic="tide", desk=desk_data(DESK))
    bench.tell("say", text="Low water", failed=False, topic="tide", desk=desk_data(DESK))
    assert bench.names == ["said"]
    (panel,) = bench.surface.panels
    assert not panel.clicked
    both = panel.at.height
    assert bench.helper.due == 107.0
    bench.now = 107.0
    bench.helper.show(bench.now)
    assert bench.names == []
    bench.tell("say", text="once more", failed=True, topic="", desk=desk_data(DESK))
    assert bench.surface.panels[0].at.height < both


def test_a_card_is_on_the_display_in_use_at_its_scale() -> None:
    there = Bench(scale=2.0)
    desk = DESK._replace(recent=(3, 1), active=3)
    there.open("finder", "windows", desk)
    (panel,) = there.surface.panels
    assert panel.at.overlap(QUAY.rect) == panel.at.width * panel.at.height
    main = Bench(Overlay(display="main", at="top", scale=1.0), scale=2.0)
    main.open("finder", "windows", desk)
    (other,) = main.surface.panels
    assert other.at.overlap(MAIN.work) == other.at.width * other.at.height
    assert other.at.y < 40
    assert other.at.height < panel.at.height


@pytest.mark.parametrize("density", [1.25, 1.5, 2.0])
@pytest.mark.parametrize(
    ("view", "of"),
    [
        ("finder", "windows"), ("grid", "6x4"), ("keys", ""), ("layout", "arrivals"), ("letters", "focus"),
        ("place", "left 1/3 on quay"),
    ],
)  # fmt: skip
def test_where_the_desk_enlarges_things_they_are_as_large_and_drawn_finer(view: str, of: str, density: float) -> None:
    """In the display's own pixels, each panel begins on a whole one; on the desk it is where it is with a density of one.

    Letters have whole sizes, so that a card may be larger by some of a hundred.
    """
    fine, plain = Bench(density=density), Bench()
    for bench in (fine, plain):
        bench.open(view, of)
    assert fine.names == plain.names
    for one, other in zip(fine.surface.panels, plain.surface.panels, strict=True):
        assert len(one.pixels) in (0, 4 * one.at.width * one.at.height)
        x, y, width, height = one.grid.on_desk(one.at)
        assert (width, height) == pytest.approx(other.at[2:], rel=0.06, abs=2), one.name
        centre = other.at.x + other.at.width / 2, other.at.y + other.at.height / 2
        assert (x + width / 2, y + height / 2) == pytest.approx(centre, abs=2 + 0.06 * max(width, height)), one.name
    if view == "grid":
        cell = next(panel.at for panel in fine.surface.panels if panel.name == "cell r")
        middle = int(cell.x + cell.width / 2), int(cell.y + cell.height / 2)
        for _ in range(2):
            fine.surface.clicked.append(Click("glass 0", *middle, 1))
            fine.helper.clicks(fine.now)
        assert fine.asked[-1:] == acts("place cells C2 of 6x4 on main", window=1)


numbers = st.integers(-5000, 5000)
windows = st.builds(
    Window,
    st.integers(1, 1 << 29), st.text(max_size=5), st.text(max_size=5), st.text(max_size=9), st.text(max_size=3),
    st.builds(Rect, numbers, numbers, numbers, numbers), st.builds(Insets, numbers, numbers, numbers, numbers),
    workspace=st.none() | st.integers(1, 9), shape=st.sampled_from(WindowShape), minimised=st.booleans(), above=st.booleans(),
    limits=st.builds(SizeLimits, min_aspect=st.none(), max_aspect=st.none()), kind=st.sampled_from(["normal", DIALOG]), parent=st.none() | st.integers(1, 9), process=st.text(max_size=4),
)  # fmt: skip


@given(st.lists(windows, max_size=5).map(tuple))
def test_a_desk_is_the_same_after_it_was_told(some: tuple[Window, ...]) -> None:
    desk = Desk((MAIN, QUAY), some, tuple(w.id for w in some), (), None, gaps=False)
    assert desk_from_data(json.loads(json.dumps(desk_data(desk)))) == desk


def test_the_picture_of_a_tabletop_has_the_cards_over_it() -> None:
    bench = Bench()
    bench.open("keys")
    image = bench.surface.image(DESK, bench.config)
    assert image.size == (2304, 800)
    (panel,) = bench.surface.panels
    corner = image.getpixel((panel.at.x + 3, panel.at.y + 3))
    assert corner == (24, 33, 39)


def test_what_was_chosen_comes_first_the_next_time() -> None:
    chosen: dict[str, float] = {}
    bench = Bench()
    stores = Stores(lambda: (), lambda: (), lambda: chosen, lambda what: chosen.__setitem__(what, 1.0))
    bench.helper._stores = stores
    bench.open("finder", "apps")
    assert bench.press("down", "down", "return") == [CLOSED, *acts("go tides")]
    assert chosen == {"apps go tides": 1.0}
    bench.open("finder", "apps")
    assert bench.press("return") == [CLOSED, *acts("go tides")]
    bench.open("finder", "apps")
    assert bench.press("r", "return") == [CLOSED, *acts("go radio")]  # but what fits better goes before it
    bench.config = bench.config._replace(settings=bench.config.settings._replace(counts=False))
    bench.tell("config")
    bench.open("finder", "apps")
    assert bench.press("return") == [CLOSED, *acts("go berths")]
    assert set(chosen) == {"apps go tides", "apps go radio"}


def test_uses_are_kept_and_fade(tmp_path: Path) -> None:
    now = 1e9
    uses = ChoiceCounts(lambda: tmp_path / "state", lambda: now)
    assert uses.weights() == {}
    assert not (tmp_path / "state").exists()
    for _ in range(3):
        uses.chose("apps go radio")
    now += HALF
    uses.chose("layouts recall arrivals")
    weights = uses.weights()
    assert weights == {"apps go radio": pytest.approx(1.5), "layouts recall arrivals": pytest.approx(1.0)}
    now += 20 * HALF
    uses.chose("x")
    assert set(uses.weights()) == {"x"}
    (tmp_path / "state" / DATABASE).write_bytes(b"no database at all" * 100)
    assert uses.weights() == {}
    uses.chose("y")
    assert set(uses.weights()) == {"y"}


def test_settings_of_apps_and_config_are_read_anew() -> None:
    bench = Bench()
    bench.config = Config(Settings(), apps={"ledger": App("ledger", ("ledger",), (exactly(cls="Ledger"),))})
    bench.tell("config")
    bench.open("finder", "apps")
    assert bench.press(*"led", "return") == [CLOSED, *acts("go ledger")]
