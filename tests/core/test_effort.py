"""What it costs a hand to press keys: each thing that makes it harder, alone, and laws over all chords."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaklet.core.keys.effort import effort_parts, of_sequence, ways_between
from jaklet.core.keys.keyboards import Keyboard, KeyboardName
from jaklet.core.keys.strokes import Stroke
from jaklet.core.values.chords import Chord, Modifier, parse_chord, parse_keys
from jaklet.core.values.hands import BOTH_FREE, FINGERS, HAND_SIDES, Finger, Hands, parse_finger
from jaklet.keyboards.shipped import keyboard

US = keyboard(KeyboardName("us"))
SMALL = keyboard(KeyboardName("us", "small laptop"))
RIGHT_HAND = Hands("right")


def cost(keys: str, hands: Hands = BOTH_FREE, board: Keyboard = US) -> float:
    strokes = [stroke for chord in parse_keys(keys) if (stroke := board.stroke(chord))]
    assert len(strokes) == len(parse_keys(keys))
    return of_sequence(board.spots, board.has_altgr, strokes, hands)


@pytest.mark.parametrize(
    ("easier", "harder", "by"),
    [
        ("f", "d", 0.0),  # both under a finger that is strong
        ("f", "a", 0.5),  # the little finger
        ("f", "s", 0.2),
        ("f", "super+f", 1.0),
        ("super+f", "super+ctrl+f", 2.0),  # the modifier, and that there are two
        ("super+ctrl+f", "super+ctrl+shift+f", 3.5),
        ("f k", "f f", 1.0),  # the same finger again, where the other hand takes its turn
        ("f k", "f d", 0.3),
    ],
)  # fmt: skip
def test_each_thing_costs_what_the_page_says(easier: str, harder: str, by: float) -> None:
    assert cost(harder) - cost(easier) == pytest.approx(by)


def test_hands_that_do_something_else_and_fingers_to_be_spared() -> None:
    assert cost("super+k", RIGHT_HAND) - cost("super+k") == pytest.approx(2.9)
    assert cost("super+k k", RIGHT_HAND) - cost("super+k k") == pytest.approx(2.9)  # it leaves the mouse once
    assert cost("super+d", RIGHT_HAND) - cost("super+d") == pytest.approx(0.5)  # the left hand does both
    assert cost("super+d", Hands("left")) > cost("super+k", Hands("left"))
    spared = Hands(spare=frozenset({Finger("left", "little")}))
    assert cost("super+a", spared) - cost("super+a") == pytest.approx(3.0)
    assert cost("ctrl+k", spared) - cost("ctrl+k") == pytest.approx(0.5)  # the right Ctrl, with the hand of the key
    assert cost("shift+a") < cost("shift+a", Hands("right"))  # one finger for both, or the hand leaves the mouse
    assert cost("super+d", board=SMALL) - cost("super+d") == pytest.approx(0.5)  # it has no right Super
    words = [
        part.why
        for part in effort_parts(
            US.spots, US.has_altgr, US.strokes(parse_chord("super+q"))[0], Hands("right", spared.spare)
        )
    ]
    assert "the left little finger is to be spared" in words
    assert "one hand for both" in words
    german = keyboard(KeyboardName("de"))
    assert cost("altgr+j", board=german) - cost("altgr+f", board=german) == pytest.approx(2.0)  # a thumb under the palm
    assert ways_between(US.spots, []) == 0


@given(
    st.sampled_from(sorted(US.spots)), st.integers(0, 31), st.sampled_from(["", *HAND_SIDES]),
    st.frozensets(st.builds(Finger, st.sampled_from(HAND_SIDES), st.sampled_from(FINGERS)), max_size=4),
)  # fmt: skip
def test_what_is_minded_and_what_is_held_only_add(
    key: str, modifiers: int, mouse: str, spare: frozenset[Finger]
) -> None:
    for stroke in US.strokes(Chord(modifiers, next((one for one in US.keys[key] if one), 0))):
        plain = of_sequence(US.spots, US.has_altgr, [stroke])
        minded = of_sequence(US.spots, US.has_altgr, [stroke], Hands(mouse, spare))
        assert plain <= minded + 1e-9
        assert plain == pytest.approx(1 + US.strain_of(stroke))
        for modifier in Modifier:
            more = stroke._replace(modifiers=stroke.modifiers | modifier)
            assert of_sequence(US.spots, US.has_altgr, [more], Hands(mouse, spare)) >= minded - 1e-9


def test_fingers_by_their_names() -> None:
    assert parse_finger("left little") == parse_finger("Left little finger") == Finger("left", "little")
    assert [parse_finger(text) for text in ("", "left", "little left", "left toe", "left little toe")] == [None] * 5
    assert [str(Finger("right", "thumb")), str(Finger("left", "ring"))] == ["right thumb", "left ring finger"]


@pytest.mark.parametrize("name", ["us", "de", "fr"])
def test_the_lowest_row_of_letters_is_the_one_that_xkb_calls_b(name: str) -> None:
    """XKB names a key by its row: AB is the one above the space bar (The X Keyboard Extension, key names)."""
    spots = keyboard(KeyboardName(name)).spots
    letters = {key for key in spots if key[:2] in ("AB", "AC", "AD", "AE")}
    lowest = {
        key
        for key in letters
        if "the lowest row of letters" in [one.why for one in effort_parts(spots, True, Stroke(key, 0))]
    }
    assert lowest == {key for key in letters if key[:2] == "AB"}
