"""The drawn keyboard: every key has a place of its own and what it does, on all keyboards, in the terminal and as a picture."""

import re
import unicodedata
from itertools import combinations
from pathlib import Path

import pytest

from jaklet.core.keys.keyboards import NAMES, KeyboardName, parse_keyboard
from jaklet.core.keys.keycaps import BEGINS, BOUND, FREE, HELD, MODIFIER, OWNED, Keycap, keycaps, sets_in_use
from jaklet.core.keys.reserved import BROWSERS, ReservedChord
from jaklet.core.keys.shapes import SHAPES, shape_called
from jaklet.core.language.actions import parse_action
from jaklet.core.values.chords import Modifier, parse_keys
from jaklet.core.values.config import Binding
from jaklet.core.values.spans import Spot
from jaklet.drawing.keycap_figures import _lines, draw_keyboards
from jaklet.drawing.keycaps import keyboard_text
from jaklet.drawing.pages import sheet_page
from jaklet.keyboards.shipped import keyboard

SUPER, CTRL = int(Modifier.SUPER), int(Modifier.CTRL)


def bound(keys: str, action: str, layer: str = "", note: str = "") -> Binding:
    return Binding(parse_keys(keys), parse_action(action), Spot("", 1, 1, 2), layer=layer, note=note)


BINDINGS = (
    bound("super+b", "go berths"), bound("super+1", "recall 1"), bound("super+s 1", "save 1"), bound("super+s 2", "save 2"),
    bound("super+shift+b", "go berths backwards"), bound("b", "spread grid", "arrange"), bound("super+left", "place left 2/3"),
    bound("super+question", "show keys", note="all keys"),
)  # fmt: skip
RESERVED = (
    ReservedChord(parse_keys("super+l"), "locks the screen", "the desktop", "everywhere"),
    ReservedChord(parse_keys("super+b"), "shows the bar", "a browser", BROWSERS),
)


def caps_of(name: str = "us", held: int = SUPER, layer: str = "") -> dict[str, Keycap]:
    return {cap.name: cap for cap in keycaps(keyboard(parse_keyboard(name)), BINDINGS, RESERVED, held, layer)}


FEW = ("us", "fr", "jp")  # one of each build: ANSI, ISO, JIS
EVERY = [name if name in FEW else pytest.param(name, marks=pytest.mark.slow) for name in NAMES]


@pytest.mark.parametrize("name", EVERY)
def test_no_key_is_on_another_and_all_are_in_the_grid(name: str) -> None:
    for shape in SHAPES:
        board = keyboard(KeyboardName(name, shape.words))
        caps = keycaps(board, BINDINGS, RESERVED, SUPER)
        assert len({cap.name for cap in caps}) == len(caps) > 55
        for a, b in combinations((cap.box for cap in caps), 2):
            across = min(a.x + a.width, b.x + b.width) - max(a.x, b.x)
            down = min(a.y + a.height, b.y + b.height) - max(a.y, b.y)
            assert across < 0.001 or down < 0.001, (name, shape.words, a, b)
        # What is bound and can be pressed here is on some key, whatever has to be held for what stands on it.
        on = {one for held in range(32) for cap in keycaps(board, BINDINGS, (), held) for one in cap.bindings}
        assert on == {one for one in BINDINGS if not one.layer and board.strokes(one.keys[0])}
        for columns in (80, 120, 240):
            lines = keyboard_text(caps, columns).splitlines()
            assert max(map(_wide, lines)) <= max(columns, 76)
            assert sum(line.count("│ber") for line in lines) == 1


def _wide(line: str) -> int:
    return sum(2 if unicodedata.east_asian_width(letter) in "WF" else 1 for letter in line)


@pytest.mark.parametrize(
    ("key", "state", "text", "owner"),
    [
        ("AB05", BOUND, "go berths", "a browser"),
        ("AE01", BOUND, "recall 1", ""),
        ("AC02", BEGINS, "2 follow", ""),
        ("AC09", OWNED, "", "the desktop"),
        ("AC01", FREE, "", ""),
        ("LWIN", HELD, "", ""),
        ("LCTL", MODIFIER, "", ""),
        ("LEFT", BOUND, "place left 2/3", ""),
        ("AB10", FREE, "", ""),  # the question mark is on it with Shift
    ],
)
def test_what_a_key_does(key: str, state: str, text: str, owner: str) -> None:
    cap = caps_of()[key]
    assert (cap.state, cap.text, cap.owner) == (state, text, owner)


def test_other_keyboards_modifiers_and_layers() -> None:
    shift = SUPER | int(Modifier.SHIFT)
    assert caps_of("us", shift)["AB10"].text == "all keys"
    assert caps_of("fr")["AE01"].state == FREE  # digits are on it with Shift
    assert caps_of("fr", shift)["AE01"].text == "recall 1"
    assert caps_of("de", shift)["AE11"].text == "all keys"
    assert caps_of("us", 0, "arrange")["AB05"].text == "spread grid"
    assert caps_of("us", 0)["AB05"].state == FREE
    assert caps_of("us", CTRL)["AC09"].state == FREE
    assert sets_in_use(BINDINGS) == [SUPER, shift]
    hard = caps_of("us", CTRL | int(Modifier.ALT) | int(Modifier.SHIFT))["KP9"]
    assert hard.is_hard
    japanese = caps_of("jp")
    assert [japanese[name].label for name in ("AE13", "MUHE", "HENK")] == ["\\", "Muhen", "Henkan"]
    assert {shape_called(words) for words in ("60%", "Main  block only", "iso-105", "66%")} == {
        "main block only",
        "full size",
        "",
    }


def test_the_grid_to_the_letter() -> None:
    """A piece of it: frames join, signs stand at the right, and what is too long is cut."""
    some = [cap for name, cap in caps_of().items() if name in ("AC08", "AC09", "AB05", "AB06", "AC10", "AC02")]
    assert keyboard_text(some, 60).splitlines() == [
        "┌─────┐                             ┌─────┬─────┬─────┐",
        "│S   …│                             │K    │L   ×│;    │",
        "│2 fo…│                             │     │desk…│     │",
        "└─────┘              ┌─────┬─────┐  └─────┴─────┴─────┘",
        "                     │B   ×│N    │",
        "                     │bert…│     │",
        "                     └─────┴─────┘",
    ]


def test_a_label_gives_way_to_the_sign_of_its_key() -> None:
    assert "│Print~│Scro…~│Pause~│" in keyboard_text([*caps_of().values()], 160)


def test_no_word_on_a_picture_of_a_key_is_broken_in_two() -> None:
    words = "workspace", "kbd", "minimise", "back"
    for wide in (1.0, 1.5, 2.25):
        for line in _lines(" ".join(words), wide):
            assert all(word in words or word.endswith("…") for word in line.split()), line


def test_pictures_and_the_page_have_all_of_it(tmp_path: Path) -> None:
    drawings = [("super", [*caps_of().values()]), ("shift", [*caps_of("de", SUPER | int(Modifier.SHIFT)).values()])]
    draw_keyboards(drawings, str(tmp_path / "keys.svg"))
    draw_keyboards(drawings, str(tmp_path / "keys.pdf"))
    assert len(re.findall(rb"/Type /Page\b", (tmp_path / "keys.pdf").read_bytes())) == 2
    text = sheet_page([], "Keys", lambda _line: "", drawings=drawings)
    assert text.count('class="cap ') == sum(len(caps) for _, caps in drawings)
    assert 'data-find="super+b go berths a browser go berths "' in text


def test_every_key_is_within_its_picture(tmp_path: Path) -> None:
    """Read from the file: the outline of each key, on the sheet, and as wide and high as the box that it is drawn from."""
    caps = [*caps_of().values()]
    draw_keyboards([("super", caps)], str(tmp_path / "keys.svg"))
    text = (tmp_path / "keys.svg").read_text()
    width, height = map(float, re.findall(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', text)[0])
    outlines = re.findall(r'<g id="patch_\d+">\s*<path d="([^"]+)"', text)
    boxes = []
    for outline in outlines[1:]:  # the first is the paper
        xs, ys = zip(*re.findall(r"(-?[\d.]+) (-?[\d.]+)", outline), strict=True)
        boxes.append((min(map(float, xs)), min(map(float, ys)), max(map(float, xs)), max(map(float, ys))))
    assert len(boxes) >= len(caps)
    for left, top, right, bottom in boxes:
        assert 0 <= left < right <= width
        assert 0 <= top < bottom <= height
