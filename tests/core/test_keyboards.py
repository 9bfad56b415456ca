"""Keyboards: the tables beside a real server, what chords are on them, and cures that cure."""

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaklet.core.keys.free_chords import FAMILIES, FreeChords
from jaklet.core.keys.keyboards import CONTORTION, NAMES, KeyboardName, parse_keyboard
from jaklet.core.keys.shapes import SHAPES, spots_of
from jaklet.core.keys.strokes import TypedKey, typed_key
from jaklet.core.values.chords import Chord, Keys, Modifier, keysym_of, letter_of, parse_chord, parse_keys
from jaklet.core.values.errors import SentenceError
from jaklet.keyboards.shipped import codes, keyboard, rows_of
from tests.xserver import XServer

VARIANTS = {"dvorak": ("us", "dvorak"), "colemak": ("us", "colemak")}
keyboards = st.builds(
    KeyboardName, st.sampled_from(NAMES), st.sampled_from([shape.words for shape in SHAPES]), st.booleans()
)
chords = st.builds(
    Chord, st.integers(0, 31), st.sampled_from([ord(c) for c in "aqz1;!?@"] + [0xFF51, 0xFFBE, 0xFF9C, 0x1008FF12])
)


@given(keyboards)
def test_names_have_one_canonical_form(name: KeyboardName) -> None:
    assert parse_keyboard(str(name)) == name
    assert parse_keyboard(str(name).replace(" ", ", ", 1).upper()) == name


@pytest.mark.parametrize(
    ("text", "start", "message", "remedy"),
    [
        ("fx", 0, "no keyboard is called 'fx'", "cz, de, dk"),
        ("", 0, "no keyboard is called ''", "there are be, br"),
        ("fr huge", 2, "no keyboard has the shape 'huge'", "full size"),
        ("this", 0, "no keyboard is called 'this'", ""),
    ],
)
def test_other_names_are_told_of(text: str, start: int, message: str, remedy: str) -> None:
    with pytest.raises(SentenceError) as fault:
        parse_keyboard(text)
    assert (fault.value.start, fault.value.message) == (start, message)
    assert remedy in fault.value.remedy


@pytest.mark.parametrize(
    ("name", "chord", "keys"),
    [  # from pictures of these keyboards
        ("us", "super+?", "super+shift+AB10"), ("us", "super+shift+slash", "super+shift+AB10"), ("us", "super+1", "super+AE01"),
        ("fr", "super+1", "super+shift+AE01"), ("fr", "super+ampersand", "super+AE01"), ("fr", "super+a", "super+AD01"),
        ("de", "super+@", "super+altgr+AD01"), ("de", "super+z", "super+AD06"), ("de", "super+ß", "super+AE11"),
        ("us", "super+altgr+q", ""), ("us", "super+<", "super+shift+AB08"), ("de", "super+<", "super+LSGT"),
        ("us", "super+kp_1", "super+KP1"), ("us", "super+kp_end", "super+KP1"), ("us small laptop", "super+kp_1", ""),
        ("us no function row", "super+f5", ""), ("us without media keys", "audiomute", ""), ("us", "audiomute", "MUTE"),
        ("dvorak", "super+s", "super+AC10"), ("colemak", "super+s", "super+AC03"), ("se", "super+å", "super+AD11"),
        ("pl", "altgr+a", "altgr+AC01"), ("jp", "super+@", "super+AD11"), ("es", "super+ñ", "super+AC10"),
        ("ch", "super+y", "super+AB01"), ("pt", "super+ç", "super+AC10"), ("gb", "super+£", "super+shift+AE03"),
    ],
)  # fmt: skip
def test_chords_are_keys(name: str, chord: str, keys: str) -> None:
    board = keyboard(parse_keyboard(name))
    found = [
        f"{Chord(one.modifiers, 0x20)}".removesuffix("space") + one.key for one in board.strokes(parse_chord(chord))
    ]
    assert (found or [""])[0] == keys
    assert bool(board.lacks(parse_chord(chord))) is not bool(keys)


NEIGHBOURS = (("AD01", "AD02"), ("KP7", "KP4"), ("KP4", "KP1"), ("UP", "DOWN"), ("AE12", "AE13"), ("AB01", "AB02"))


def test_keys_are_where_fingers_find_them() -> None:
    """Neighbours are one key apart; a key is pressed by one finger of one hand, the same in each block."""
    spots = spots_of("full size", media=False)
    for one, other in NEIGHBOURS:
        assert (spots[other].x - spots[one].x, spots[other].y - spots[one].y) in ((1, 0), (0, 1)), (one, other)
    assert (spots["AD01"].hand, spots["AD01"].finger) == ("left", "little")
    assert [spots[f"AC{n:02}"].finger for n in (4, 5, 6, 7)] == ["index"] * 4
    assert [spots[f"AC{n:02}"].hand for n in (5, 6)] == ["left", "right"]
    assert {spots[name].finger for name in ("KP7", "KP4", "KP1")} == {"index"}


@pytest.mark.parametrize("name", NAMES)
def test_every_keyboard_has_what_all_have(name: str) -> None:
    board = keyboard(KeyboardName(name))
    for key in "abcdefghijklmnopqrstuvwxyz0123456789":
        assert board.strokes(parse_chord(f"super+{key}")), key
    for key in ("left", "return", "space", "f12", "escape", "delete", "kp_5"):
        assert board.strokes(parse_chord(f"super+{key}")), key
    assert board.spots.keys() <= rows_of(name).keys()


@settings(max_examples=300)
@given(keyboards, chords)
def test_a_chord_that_types_is_there_and_modifiers_only_add(name: KeyboardName, chord: Chord) -> None:
    board = keyboard(name)
    for stroke in board.strokes(chord):
        assert stroke.modifiers & chord.modifiers == chord.modifiers
        assert stroke.key in board.spots
    assert (board.strain(chord) == float("inf")) is not bool(board.strokes(chord))
    assert bool(board.hand(chord)) is bool(board.strokes(chord))
    more = chord._replace(modifiers=chord.modifiers | Modifier.SUPER)
    assert board.strain(more) >= board.strain(chord)
    assert not board.typed(more)


def test_keys_that_type_nothing_can_be_bound_with_super() -> None:
    """Of a whole keyboard, as a person would name them; Escape, Tab and Return are for other things."""
    wanted = {"left", "right", "up", "down", "home", "end", "prior", "next", "insert", "delete"}
    wanted |= {f"f{number}" for number in range(1, 13)}
    offered = FreeChords([keyboard(KeyboardName("us"))], {}, []).chords("", (), (int(Modifier.SUPER),))
    named = {str(one.chord).removeprefix("super+") for one in offered}
    assert {str(parse_chord(f"super+{name}")).removeprefix("super+") for name in wanted} <= named
    assert not named & {"escape", "tab", "return", "enter"}


@settings(max_examples=60, deadline=None)
@given(
    st.lists(keyboards, min_size=1, max_size=3, unique=True),
    st.lists(st.lists(chords, min_size=1, max_size=2).map(tuple), min_size=1, max_size=6),
    st.sampled_from(["", "arrange"]),
    st.data(),
)
def test_cures_are_free_on_every_keyboard_and_no_contortion(
    names: list[KeyboardName], bound: list[Keys], layer: str, data: st.DataObject
) -> None:
    boards = [keyboard(name) for name in names]
    owned = [parse_keys("super+b"), parse_keys("ctrl+alt+f2")]
    free = FreeChords(boards, {layer: bound}, owned)
    keys = data.draw(st.sampled_from(bound))
    at = data.draw(st.integers(0, len(keys) - 1))
    cures = free.instead(layer, keys, at)
    # Nothing can be pressed after a chord that is bound by itself: the cure is in another place then.
    blocked = any(
        not set(board.strokes(a)).isdisjoint(board.strokes(b[0]))
        for board in boards
        for b in bound
        for a in keys[:at]
        if len(b) == 1
    )
    assert len(set(cures)) == len(cures)
    assert len(cures) == 3 or blocked or (at > 0 and any(board.lacks(keys[0]) for board in boards))
    for cure in cures:
        assert (*cure[:at], *cure[at + 1 :]) == (*keys[:at], *keys[at + 1 :])
        new = cure[at]
        assert (not layer and at == 0 and new.modifiers in FAMILIES) or layer or at > 0
        for board in boards:
            strokes = set(board.strokes(new))
            assert strokes
            assert board.strain(new) < CONTORTION
            for other in bound:
                # Nothing that is bound begins with it, or is begun by it, in the keys of any keyboard.
                shared = [set(board.strokes(a)).isdisjoint(board.strokes(b)) for a, b in zip(cure, other, strict=False)]
                assert any(shared), (cure, other)
            if not layer:
                assert all(strokes.isdisjoint(board.strokes(one[0])) for one in owned) or at > 0


def _server_rows(x: XServer) -> dict[int, list[str]]:
    """Return the names of the keysyms on each key, as an X tool prints them."""
    rows = (re.match(r"keycode +(\d+) = ?(.*)", line) for line in x.run("xmodmap", "-pke").splitlines())
    return {int(row[1]): row[2].split() for row in rows if row}


LETTERS = {"permille": "‰"}  # which later releases write by name
MOST_MOVED = 15  # letters with AltGr that a later release of xkb-data may have elsewhere (11 of the Swedish ones)


@pytest.mark.parametrize("name", NAMES)
def test_the_tables_are_what_a_server_has(name: str, x: XServer) -> None:
    """The plain and shifted levels of every key, and AltGr's where there is one; capitals count as their letters."""
    layout, variant = VARIANTS.get(name, (name, ""))
    try:
        x.run("setxkbmap", "-layout", layout, "-variant", variant)
        mine, rows = rows_of(name), _server_rows(x)
        compared = 0
        moved: list[tuple[str, int, list[str]]] = []
        for key, code in codes().items():
            if key not in mine or key in ("PRSC", "PAUS") or key.startswith("FK"):
                continue  # their further levels are the console's
            row = [*rows[code], *["NoSymbol"] * 6]
            theirs = [*row[:2], *row[4:6]]
            for rank, keysym in enumerate(mine[key]):
                is_told = theirs[rank] != "NoSymbol" or rank < 1  # a modifier has one level in later releases
                if keysym and is_told:
                    same = keysym in (keysym_of(theirs[rank]), _unicode(theirs[rank]))
                    if not (same or letter_of(keysym) == LETTERS.get(theirs[rank], "-")):
                        assert rank > 1, (key, rank, theirs)
                        moved.append((key, rank, theirs))
                    compared += 1
        assert len(moved) <= MOST_MOVED, moved
        assert compared > 150
    finally:
        x.run("setxkbmap", "-layout", "us", "-variant", "")


def _unicode(name: str) -> int:
    found = re.fullmatch(r"U([0-9A-F]{4,6})|0x1(00[0-9a-f]{4})", name)
    return 0x01000000 + int(found[1] or found[2], 16) if found else 0


SHIFT, ALTGR, CTRL = int(Modifier.SHIFT), int(Modifier.ALTGR), int(Modifier.CTRL)
KP_4, CYRILLIC = (0xFF96, 0xFFB4), (0x0100044F, 0x0100042F)  # KP_Left and KP_4; small and capital ya
TYPED: dict[str, tuple[tuple[tuple[int, ...], int, bool, bool], TypedKey]] = {
    "a letter": (((0x61, 0x41), 0, False, False), TypedKey("a", "a")),
    "a capital": (((0x61, 0x41), SHIFT, False, False), TypedKey("a", "A")),
    "Caps Lock": (((0x61, 0x41), 0, True, False), TypedKey("a", "A")),
    "Caps Lock, not for digits": (((0x31, 0x21), 0, True, False), TypedKey("1", "1")),
    "a sign by Shift": (((0x31, 0x21), SHIFT, False, False), TypedKey("exclam", "!")),
    "the third level": (((0x65, 0x45, 0x010020AC), ALTGR, False, False), TypedKey("€", "€")),
    "the third level with Shift, where there is no fourth": (
        ((0x65, 0x45, 0x010020AC), ALTGR | SHIFT, False, False), TypedKey("€", "€"),
    ),
    "another script": ((CYRILLIC, SHIFT, False, False), TypedKey("Я", "Я")),
    "a chord types nothing": (((0x70, 0x50), CTRL, False, False), TypedKey("ctrl+p")),
    "an arrow": (((0xFF51,), SHIFT, False, False), TypedKey("shift+left")),
    "Tab, which is another keysym with Shift": (((0xFF09, 0xFE20), SHIFT, False, False), TypedKey("shift+tab")),
    "the number pad": ((KP_4, 0, False, True), TypedKey("kp_4", "4")),
    "the number pad without its lock": ((KP_4, 0, False, False), TypedKey("kp_left")),
    "a key with nothing on it": (((), 0, False, False), TypedKey("0x0")),
}  # fmt: skip


@pytest.mark.parametrize("case", TYPED.values(), ids=TYPED)
def test_what_a_key_types(case: tuple[tuple[tuple[int, ...], int, bool, bool], TypedKey]) -> None:
    given_, wanted = case
    assert typed_key(*given_) == wanted
